"""Proving a unit: the record of what was read and done, the checks it asks for, the way up, and every gate.

    record.py   events, and what voids what (VOIDS)
    cold.py     the cold checks; changed.py those of parts that were changed and of mends; power_up.py the steps under power
    proof.py    a unit as its gates see it
    interlocks/  what blocks: why something may not be done now, by what it guards

A check is made from the unit each time it is asked for, never stored, and nothing that was concluded is stored either.
Source: ±5 % of +5 V as the 74xx type family asks (4.75 to 5.25 V); IEC 62368-1:2018, table 4, for stored charge; the order:
workshop practice, because each step is safe only when the one before it passed.
"""

from . import hazards, interlocks
from .changed_facts import Changed, Mended, changed_from
from .checks import EARTH_MOST, BoardFacts, Check, PowerStep, Store, Winding, stores_of, windings_of
from .cold import cold_checks
from .cold_rails import CONTINUITY, fed_rails, least_resistance
from .power_methods import HOLD, WAYS, lamp_watts, transformer_va
from .power_up import power_up
from .proof import Proof
from .record import Event, Record
from .status import CheckStatus, status_of
from .things import Thing, changes
from .typed_readings import RMS_TO_PP, read_reading

__all__ = [
    "CONTINUITY",
    "EARTH_MOST",
    "HOLD",
    "RMS_TO_PP",
    "WAYS",
    "BoardFacts",
    "Changed",
    "Check",
    "CheckStatus",
    "Event",
    "Mended",
    "PowerStep",
    "Proof",
    "Record",
    "Store",
    "Thing",
    "Winding",
    "changed_from",
    "changes",
    "cold_checks",
    "fed_rails",
    "hazards",
    "interlocks",
    "lamp_watts",
    "least_resistance",
    "power_up",
    "read_reading",
    "status_of",
    "stores_of",
    "transformer_va",
    "windings_of",
]  # fmt: skip
