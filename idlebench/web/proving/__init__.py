"""Cold checks, First power and Suspects.

`services.py` logs readings and power, `metered.py` reads by instrument. `evidence.py` and `clue_keeping.py` hold what a unit
tells of its faults; `suspects.py` puts the page together and `suspect_views.py` serves it.
"""
