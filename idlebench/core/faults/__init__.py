"""From what was seen to what may be wrong.

Faults (`core/faults/`). `hypotheses.py` gives every part of a supply its ways to fail, `suspects.py` simulates all of them for
every reading in one run, `further.py` ranks what to measure next. What no model gives is in two tables, `catalogue/causes.csv`
and `evidence.csv`: a row is a likelihood ratio with its reason. `outcome.py` makes the shop's own figures from confirmed
causes.

A symptom is added by its word in `signs.py` and its rows in `catalogue/evidence.csv`.
"""
