"""From what was seen to what may be wrong."""
