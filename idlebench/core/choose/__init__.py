"""Choosing a replacement: what the place asks (need), one rule book (rules), many parts ranked (rank)."""
