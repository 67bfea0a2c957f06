"""Proving a unit: the record of what was read and done, the checks it asks for, its power-up, and everything that blocks.

The record. A unit's proof is its events in order (`records.Event`): what was read, of which row, and the state of the thing at
that moment; power, swaps, edits, repairs, moves. No conclusion is stored. `status_of(check, record, now)` says which readings
count now and why an older one does not. A word of evidence that is a row (`b3`, `#12`) must be known to `Numbers.in_evidence`;
a test asks.

Charge stays until it is measured. The door works out the charged capacitors before and after each change. One that is on no
list any more becomes an `unlisted` event, and is asked for after each power, until it is `written off` with a reason. A service
that asked whether a part was empty before it left reports that by `door.out(...)`. `tests/core/test_true_state.py` plays 2 000
sequences of everything a person does against a model of what is truly charged, wet, live and open;
`tests/web/test_true_state.py` does the same through the services. A new service that touches a machine gets an act in both.

A check is added as a function in `cold.py`, or `power_steps.py` under power, with its `fact`, rows and boards; write what voids
it into `VOIDS`. `interlocks/` holds what blocks, by what it guards.
"""

from . import hazards, interlocks
from .changed_facts import Changed, Mended, Modified, changed_from
from .checks import EARTH_MOST, BoardFacts, Check, PowerStep, Store, stores_of
from .cold import cold_checks
from .cold_rails import CONTINUITY, fed_rails, least_resistance
from .outside import feeding_rails, with_source
from .power_methods import HOLD, WAYS, lamp_watts, transformer_va
from .power_up import power_up
from .proof import Proof
from .record import Event, Record
from .smoke import SmokeTest, read_smoke
from .status import CheckStatus, status_of
from .things import Thing, changes
from .typed_readings import RMS_TO_PP, read_reading
from .windings import Winding, windings_of

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
    "Modified",
    "PowerStep",
    "Proof",
    "Record",
    "SmokeTest",
    "Store",
    "Thing",
    "Winding",
    "changed_from",
    "changes",
    "cold_checks",
    "fed_rails",
    "feeding_rails",
    "hazards",
    "interlocks",
    "lamp_watts",
    "least_resistance",
    "power_up",
    "read_reading",
    "read_smoke",
    "status_of",
    "stores_of",
    "transformer_va",
    "windings_of",
    "with_source",
]  # fmt: skip
