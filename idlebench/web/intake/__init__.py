"""Bench and Intake: jobs, units, boards, the first look, dismantling, triage, labels."""
