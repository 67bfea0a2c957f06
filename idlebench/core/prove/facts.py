"""The facts that checks establish, and what a reading can tell beside its number. What voids them stands in record.VOIDS."""

from __future__ import annotations

DISCHARGED, POLARITY, NO_SHORT, JOINED, FUSE_WHOLE, MAINS_SIDE = (
    "discharged", "polarity", "no short", "joined", "fuse", "mains side",
)  # fmt: skip
DUMMY, PLUG, STEP, INSIDE = "dummy loads", "plug", "step under power", "nothing left inside"
MAINS_READ, CLIPPED = "mains read", "anode clipped to the braid"

# What a reading may tell beside its number.
DEAD, PLUGGED, LOADED, HANDS_IN = "nothing came up", "boards plugged", "dummy loads fitted", "hands inside"
