"""Gather: what the open places need, what to buy from whom, orders, bags, and what to ask for in a shop.

`planning.py` makes and keeps the buying plan, `ordering.py` orders, counts in and takes back.
"""
