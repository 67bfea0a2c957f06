"""Practice: machines with a hidden fault. Nothing done here counts for the shop."""
