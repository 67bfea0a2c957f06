"""What people type or print, to values and back.

Typed lines (rails, chips, zones, devices, supplies) are stored in one spelling, and only if that reads back
(`core/text/stored.py`). A line that a later version cannot read is shown in its place, hides no other, and blocks power. Words
of earlier versions (`store C1`) are read for ever.

A refusal is a value. `BadInput` says what was read, what was expected and what to do; `Block` says why something is blocked and
what opens it, and `Blocked` carries them. Services raise them, `RefusalMiddleware` turns them into 422 and 409.
"""
