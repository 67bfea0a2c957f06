"""Taking whole jobs in."""
