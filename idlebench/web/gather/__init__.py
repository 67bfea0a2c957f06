"""Gather: what the open places need."""
