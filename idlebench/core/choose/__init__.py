"""Choosing a replacement: what the place asks (need), one rule book (rules), many parts ranked (rank).

Choosing: `core/choose/rules.py` holds each rule once, over a whole catalogue as arrays; the reasons shown for one part come
from the same statement. A rule is asked about rows of many places at once (`Alike`): every number of the need is an array along
the rows, and what is not asked has a value that every part meets.
"""
