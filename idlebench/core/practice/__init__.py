"""Machines with a fault to practise on, made by seed, and what becomes of what is done to them.

A machine is a function in `KINDS` of `machines.py`; `play.py` keeps what was done and what it came to. Nothing that happens
here counts for the shop.
"""
