"""Choose: the parts that go into a place, in order, with what each would do to the supply.

The ranking comes from `unit/fits.py`; `predicting.py` reckons the needles after the page is there; `devices.py` and
`supplying.py` choose what is no capacitor.
"""
