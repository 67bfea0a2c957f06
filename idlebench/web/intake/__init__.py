"""The Bench and Intake: jobs, units, boards, the first look, dismantling, triage, labels.

`forms.py` holds what its pages ask; `services.py`, `dismantling.py`, `triage.py` and `replacing.py` write it.
"""
