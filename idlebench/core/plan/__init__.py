"""Plans: what to buy for all jobs together, and when to do what.

Plans. A buying plan is a mixed-integer program (`core/plan/buy_model.py`): every sensible quantity is a variable. Postage makes
its bound weak. So the search decides for each parcel whether it is sent and whether its postage is free, the choice with the
lowest bound first. The bound of a choice comes from a relaxation over whole patterns of each part (`column_generation.py`,
columns found as needed by `allocation_patterns.py`). A kept plan carries a stamp of what it rests on: an outdated plan orders
nothing. The core has no clock: `now` is passed in.
"""
