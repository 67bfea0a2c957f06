"""The first look, before any plug: what is looked at, in order, with its caution where it bites."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

#: What a machine has, that its first look and its cautions depend on.
TRAITS = {
    "supply": "mains inside",
    "tube": "a picture tube",
    "battery": "a battery",
    "drive": "drives",
    "adapter": "an adapter outside",
    "keyboard": "a keyboard",
    "class2": "no earth pin: double insulated",
    "hot": "hot chassis: no isolating transformer, one side of the mains on the chassis",
}


@dataclass(frozen=True)
class Look:
    """One thing to look at.

    Attributes:
        only: the trait of a machine it applies to, a key of TRAITS ("" for all machines).
        hurts: somebody can be hurt where it is left out: it is never skipped, and power waits for it.
    """

    key: str
    text: str
    why: str
    caution: str = ""
    only: str = ""
    hurts: bool = False


TUBE = (
    "The tube and its anode lead hold a charge that throws you off the ladder; the neck breaks and the tube implodes. "
    "Only for people trained on tubes."
)
FIRST_LOOK: tuple[Look, ...] = (
    Look(
        "plug",
        "Unplugged, lead in sight",
        "Nobody can plug it in behind you.",
        "Unplugged is not empty: stores stay charged for days.",
        hurts=True,
    ),
    Look("shake", "Shaken gently, listened for loose metal", "Loose screws find the primary.", hurts=True),
    Look("opened", "Opened, screws laid out in order", "Look-alikes differ in length."),
    Look(
        "battery",
        "Battery looked for, a leaking one taken out",
        "Its fluid eats traces while you plan. It comes out before any other part, once the stores in reach are measured as empty.",
        "Stored charge can kill: measure the stores at Cold checks before a hand goes to the battery. Gloves and goggles: the fluid "
        "burns skin and eyes.",
        hurts=True,
    ),
    Look("smell", "Scorch, stain, rust and fish smell looked for", "They lead you to the part."),
    Look("parts", "Swollen, stained or missing parts noted", "They are judged first."),
    Look("repairs", "Earlier repairs noted", "An earlier owner's change is not a fault, until it is."),
    Look(
        "fuse",
        "Fuse and plug looked at, the fuse read",
        "A blown fuse had a reason.",
        "Never a bigger one.",
        only="supply",
        hurts=True,
    ),
    Look(
        "chassis",
        "Chassis asked about: is one side of the mains joined to it?",
        "No isolating transformer and a two-wire lead: then all metal is live under power. Tick hot chassis in the job's facts.",
        "Unplugged, by the ohmmeter from each pin of the plug to bare metal, switch on and off. Local codes come first.",
        only="supply",
    ),
    Look(
        "supply",
        "Supply looked at without touching",
        "Seals, cracked joints, scorched resistors.",
        "Mains side: for people trained for it; local codes come first. Touch nothing until its stores read under 10 V.",
        only="supply",
    ),
    Look(
        "tube",
        "Tube looked at from outside",
        "Cracks, a milky neck, a burnt line on the screen.",
        TUBE,
        only="tube",
        hurts=True,
    ),
    Look(
        "anode",
        "Anode lead, focus and flyback looked at without touching",
        "Tracks of burnt dust, cracked plastic, a dry joint at the yoke.",
        "Discharge of the tube is its own step, with a proper probe, one hand, by someone trained.",
        only="tube",
        hurts=True,
    ),
    Look(
        "adapter",
        "Adapter's label and plug polarity read",
        "Its label is loaded volts: unloaded it reads more.",
        only="adapter",
    ),
    Look("drive", "Drives: no disk left inside, heads not moved", "A stuck head scores the disk.", only="drive"),
    Look(
        "keyboard",
        "Keyboard: caps counted, plug and lead looked at",
        "Missing caps are found now or never.",
        only="keyboard",
    ),
)


def first_look(traits: Collection[str]) -> tuple[Look, ...]:
    """The list for a machine with those traits.

    >>> 'tube' in [look.key for look in first_look(['tube'])], 'tube' in [look.key for look in first_look([])]
    (True, False)
    """
    return tuple(look for look in FIRST_LOOK if not look.only or look.only in traits)


#: How a tube's screen has burnt in, by the key that is kept, with what is seen.
BURNS = {
    "": "not looked at", "none": "none: no shadow, on or off", "off": "to be seen while it is off, lost in a picture",
    "on": "a shadow in every picture", "deep": "brown lines in the screen, the picture dim there",
}  # fmt: skip
