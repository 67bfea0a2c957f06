"""Procedures on a unit: their steps, their waits, and the shop's own.

What a procedure is stands in `core/prove/procedures.py`; supplied ones are JSON files in `catalogue/procedures/`.
"""
