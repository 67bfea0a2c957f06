"""The simulated bench: what a supply with these parts, true or supposed, does, and what an instrument reads of it.

The simulated bench (`core/simulate/`). Everything is an array over variants: draws for a band (`expected.py`), suppositions for
an explanation (`explain.py`), one row for a reading (`sitting.py`). `Values` holds what differs from the survey, `State` the
setting of the bench, `steady_state.run` gives an `Outcome`. `rectifier.py` settles all variants of a rectifier at once; `make
reference` compares it with a general circuit simulator. A reading of the simulated bench is marked in the record: it counts
only while the job's meter is the simulated one, and no unit is handed over on it.
"""
