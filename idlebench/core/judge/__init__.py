"""An old part's condition: verdicts, ageing, measuring, reforming, triage, and the policies that decide."""
