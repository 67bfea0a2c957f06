"""The ground floor: every table."""
