"""What ran out of a battery and what takes it off, by its chemistry.

Source: potassium hydroxide of nickel and alkaline cells against sulphuric acid of lead: Linden's Handbook of Batteries, 4th edition,
chapters 11, 16, 21 and 22; lithium reacts with water: the same, chapter 14.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from .devices import Device


@dataclass(frozen=True)
class Spill:
    """A kind of fluid: its title, what takes it off, and the procedure that does it, "" for none."""

    title: str
    says: str
    procedure: str = ""


ALKALINE = (
    "Neutralise with a mild acid (vinegar or lemon juice in water) until nothing foams, then rinse. No bicarbonate."
)
SPILLS = {
    "nicd": Spill("nickel-cadmium", f"Its fluid is a strong alkali, and cadmium is poisonous. {ALKALINE}", "battery-spill"),
    "nimh": Spill("nickel-metal hydride", f"Its fluid is a strong alkali. {ALKALINE}", "battery-spill"),
    "alkaline": Spill("alkaline", f"Its fluid is a strong alkali. {ALKALINE}", "battery-spill"),
    "lead": Spill(
        "sealed lead",
        "Its fluid is sulphuric acid. Neutralise with bicarbonate of soda in water until nothing foams, then rinse. No acid.",
        "battery-spill-lead",
    ),
    "lithium": Spill(
        "lithium",
        "No acid, no bicarbonate, and no water while the cell is there. Take the cell outside in sand, "
        "wipe dry, then use alcohol.",
        "battery-spill-lithium",
    ),
}  # fmt: skip
UNKNOWN = Spill(
    "of unknown chemistry",
    "Its chemistry is not known: type it (nicd, nimh, alkaline, lead or lithium) before any liquid "
    "goes on. Until then brush it off dry.",
)
_WORDS = (
    (r"ni-?mh|hydride", "nimh"), (r"ni-?cd|nicad|cadmium|accumulator", "nicd"), (r"alkaline|manganese", "alkaline"),
    (r"lead|sla|gel", "lead"), (r"lithium|li-?ion|coin|cr\d{4}", "lithium"),
)  # fmt: skip


def spill_of(battery: Device) -> Spill:
    """What ran out of a battery, by the words of its line.

    >>> from .devices import read_device
    >>> [spill_of(read_device(f'BT1 battery {words} leaking')).title for words in ('3.6V nicd', 'sealed lead 6V', 'lithium 3V', '4.5V')]
    ['nickel-cadmium', 'sealed lead', 'lithium', 'of unknown chemistry']
    """
    words = battery.note.lower()
    return next((SPILLS[kind] for pattern, kind in _WORDS if re.search(rf"\b(?:{pattern})\b", words)), UNKNOWN)
