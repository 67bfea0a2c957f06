"""An old part's condition: verdicts, ageing, measuring, reforming, triage, and the policies that decide.

`evidence.py` says what speaks for or against a part, each piece with its points; `verdict.py` adds them up; `policy.py` decides
what is replaced. A limit stands at the top of the module that uses it, with its source.
"""
