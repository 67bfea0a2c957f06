"""Jobs that are exported and imported, backups, and what was deleted.

A job's bundle (`keep/job_rows.py`) is made from the models' columns: a new column goes along by itself, a new table must be
added to `TABLES`, and a test says so. Keys become numbers in the order of the rows; a check's key names rows only where
`Numbers.in_key` looks for them.
"""
