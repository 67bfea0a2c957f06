"""What a board is: parts, roles, zones, profiles, and the tables and typed lines that list them."""
