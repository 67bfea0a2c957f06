"""Circuits round a part, a module per phenomenon."""
