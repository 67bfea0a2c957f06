"""Proving a unit: the cold checks it asks for, the way up in steps, and the gates between.

A check is made from the unit each time it is asked for, never stored; only its readings are. Gates answer with
reasons (Shut), so that a page shows, a server refuses and a test asserts on the same value.
Source: rail limits of desktop supplies; IEC 61140 practice for stored charge; workshop practice for the order.
"""

from ..refusal import Shut
from .checks import RMS_TO_PP, BoardFacts, Check, Seen, Step, Store, read_reading, stores_of
from .cold import CONTINUITY, cold_checks, least_resistance
from .gates import Progress, done, open_items, power_gate, reading_gate, ripple_suspects, step_done, step_gate
from .way_up import HOLD, WAYS, lamp_watts, way_up

__all__ = [
    "CONTINUITY", "HOLD", "RMS_TO_PP", "WAYS", "BoardFacts", "Check", "Progress", "Seen", "Shut", "Step", "Store",
    "cold_checks", "done", "lamp_watts", "least_resistance", "open_items", "power_gate", "read_reading", "reading_gate",
    "ripple_suspects", "step_done", "step_gate", "stores_of", "way_up",
]  # fmt: skip
