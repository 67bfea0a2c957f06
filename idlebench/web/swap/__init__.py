"""Swap: one old part out, one new part in, and repairs of the board.

`services.py` asks the door and the interlocks before anything is written; `in_hand.py` says which place is next.
"""
