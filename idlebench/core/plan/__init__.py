"""Plans: what to buy for all jobs together, and when to do what."""
