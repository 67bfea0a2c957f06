"""Every table, under the name it was first made with.

A model holds columns and `to_core`; it judges nothing. What the database must count by itself is a trigger (`tally.py`,
`revisions.py`), made again after every migration. A plan that is kept as JSON has its reader and writer in `kept_plans.py`.
"""
