"""Machines with a fault to practise on, made by seed, and what becomes of what is done to them."""
