"""The calendar: when to do what, from what every open unit has left.

`services.py` makes and keeps the plan; `ics.py` writes it for a calendar program.
"""
