"""A unit loaded once and judged, the one door through which it is changed, and the log.

The door. Every service changes a unit inside `unit_transaction(...)` (or is `@in_unit_transaction(...)`): one immediate
transaction in which the unit is read, judged and written. The door compares parts and boards before and after and writes what
changed into the record, so no service can forget it. Under power nothing that it rests on can be changed. A unit that was
handed over can only be reopened.

What is kept. `unit_state` judges a unit once: boards, verdicts and the record are kept in the process (`web/unit/kept.py`) by
stamps. Triggers draw a new stamp whenever anything is written to a table in `records/revisions.py`, by whoever. Core values and
columns are kept; each caller gets rows of its own. What time can change is asked each time: power, drying, the age of a
reading. To judge by another table, name it there: one test reads what is asked for while a unit loads, another walks fifty acts
and compares the kept unit with one that is read again.

No page judges the whole shop. Series are counted by triggers in the database (`records/tally.py`), installed after every
migration, because a change of the parts' table removes them. The Bench and Triage read summaries (`unit/summary.py`), each with
a stamp of all that it rests on.
"""
