"""The first look, before any plug: what is looked at, in order, with its caution where it bites."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Look:
    """One thing to look at. only: boards it applies to, by supply kind ("" for all units)."""

    key: str
    text: str
    why: str
    caution: str = ""
    only: str = ""


FIRST_LOOK: tuple[Look, ...] = (
    Look(
        "plug",
        "Unplugged, lead in sight",
        "Nobody can plug it in behind you.",
        "Unplugged is not empty: stores stay charged for days.",
    ),
    Look("shake", "Shaken gently, listened", "Loose screws find the primary."),
    Look(
        "battery",
        "Battery looked for, a leaking one taken out",
        "Its fluid eats traces while you plan.",
        "Gloves and goggles: the fluid burns skin and eyes.",
    ),
    Look("opened", "Opened, screws laid out in order", "Look-alikes differ in length."),
    Look("smell", "Scorch, stain, rust and fish smell looked for", "They lead you to the part."),
    Look("parts", "Swollen, stained or missing parts noted", "They are judged first."),
    Look("repairs", "Earlier repairs noted", "An earlier owner's change is not a fault, until it is."),
    Look("fuse", "Fuse read and looked at", "A blown fuse had a reason.", "Never a bigger one.", only="supply"),
    Look(
        "supply",
        "Supply looked at without touching",
        "Seals, cracked joints, scorched resistors.",
        "Mains side: for people trained for it; local codes come first. Touch nothing until its stores read under 10 V.",
        only="supply",
    ),
)


def first_look(has_supply: bool) -> tuple[Look, ...]:
    """The list for a unit."""
    return tuple(look for look in FIRST_LOOK if not look.only or has_supply)
