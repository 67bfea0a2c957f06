"""Proving a unit: the record of what was read and done, the checks it asks for, the way up, and every gate.

    record.py   events, and what voids what (VOIDS)
    cold.py     the cold checks; changed.py those of parts that were changed and of mends; way_up.py the steps under power
    proof.py    a unit as its gates see it
    gates.py    every gate: why something may not be done now

A check is made from the unit each time it is asked for, never stored, and nothing that was concluded is stored either.
Source: ±5 % of +5 V as the 74xx type family asks (4.75 to 5.25 V); IEC 62368-1:2018, table 4, for stored charge; the order:
workshop practice, because each step is safe only when the one before it passed.
"""

from . import gates, hazards
from .changed import Changed, Mended, changed_from
from .checks import (
    EARTH_MOST,
    RMS_TO_PP,
    BoardFacts,
    Check,
    Step,
    Store,
    Winding,
    read_reading,
    stores_of,
    windings_of,
)
from .cold import CONTINUITY, cold_checks, fed_rails, least_resistance
from .proof import Proof
from .record import Event, Record, Standing, Thing, changes, standing
from .way_up import HOLD, WAYS, lamp_watts, transformer_va, way_up

__all__ = [
    "CONTINUITY",
    "EARTH_MOST",
    "HOLD",
    "RMS_TO_PP",
    "WAYS",
    "BoardFacts",
    "Changed",
    "Check",
    "Event",
    "Mended",
    "Proof",
    "Record",
    "Standing",
    "Step",
    "Store",
    "Thing",
    "Winding",
    "changed_from",
    "changes",
    "cold_checks",
    "fed_rails",
    "gates",
    "hazards",
    "lamp_watts",
    "least_resistance",
    "read_reading",
    "standing",
    "stores_of",
    "transformer_va",
    "way_up",
    "windings_of",
]  # fmt: skip
