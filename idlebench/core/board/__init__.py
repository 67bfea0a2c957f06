"""What a board is: parts, roles, zones, profiles, and the tables and typed lines that list them.

Typed lines come in, frozen values go out; a value is written back as the line that reads the same. A kind of part is added in
`KINDS` and its marking in `devices.py`, its way out and in in `soldering.py`.

Monitors: typed lines (`core/board/monitor_lines.py`) give places their role, and a tuning part its value, whatever was typed
for the place; checks and power-up steps are in `core/prove/monitors.py`. A tube's discharge is a fact like a capacitor's, asked
of every hand in the unit, power or not.
"""
