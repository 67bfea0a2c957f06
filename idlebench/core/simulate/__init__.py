"""The simulated bench: what a supply with these parts, true or supposed, does, and what an instrument reads of it."""
