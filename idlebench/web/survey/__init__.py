"""Survey and Measure: parts listed by typed lines or tables, placed, looked at, measured and reformed.

`services.py` writes a part, `typed.py` the other lines of a board, `measuring.py` a run of readings; `profiles.py` keeps what a
kind of board should carry.
"""
