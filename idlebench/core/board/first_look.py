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
class FirstLookItem:
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
    "The tube and its anode lead hold a charge that can throw you off the ladder. The neck breaks "
    "easily and the tube can implode. Only for people trained on tubes."
)
FIRST_LOOK: tuple[FirstLookItem, ...] = (
    FirstLookItem(
        "plug",
        "Unplugged, lead in sight",
        "Nobody can plug it in behind your back.",
        "Unplugged is not discharged: reservoir capacitors stay charged for days.",
        hurts=True,
    ),
    FirstLookItem(
        "shake", "Shaken gently, listened for loose metal", "A loose screw can short the mains side.", hurts=True
    ),
    FirstLookItem("opened", "Opened, screws laid out in order", "Screws that look alike differ in length."),
    FirstLookItem(
        "battery",
        "Battery searched for, a leaking battery taken out",
        "Battery fluid eats traces while you plan. The battery comes out before any other part, after "
        "the capacitors in reach were measured as empty.",
        "Stored charge can kill. Measure the capacitors at Cold checks before a hand goes to the "
        "battery. Gloves and goggles: the fluid burns skin and eyes.",
        hurts=True,
    ),
    FirstLookItem("smell", "Scorch marks, stains, rust and fish smell searched for", "They show where the fault is."),
    FirstLookItem("parts", "Swollen, stained or missing parts noted", "These parts are judged first."),
    FirstLookItem("repairs", "Earlier repairs noted", "An earlier owner's change can be the fault."),
    FirstLookItem(
        "fuse",
        "Fuse and plug inspected, the fuse read",
        "A fuse blows for a reason.",
        "Never fit a fuse of a higher rating.",
        only="supply",
        hurts=True,
    ),
    FirstLookItem(
        "chassis",
        "Chassis checked: is one side of the mains joined to it?",
        "No isolating transformer and a two-wire lead mean that all bare metal is live under power. Tick "
        "hot chassis in the job's facts.",
        "Unplugged: measure with the ohmmeter from each pin of the plug to bare metal, switch on and "
        "off. Local codes come first.",
        only="supply",
    ),
    FirstLookItem(
        "supply",
        "Supply inspected without touching",
        "Look for leaking seals, cracked joints and scorched resistors.",
        "Mains side: for trained people; local codes come first. Touch nothing until its capacitors read under 10 V.",
        only="supply",
    ),
    FirstLookItem(
        "tube",
        "Tube inspected from outside",
        "Look for cracks, a milky neck and a burnt line on the screen.",
        TUBE,
        only="tube",
        hurts=True,
    ),
    FirstLookItem(
        "anode",
        "Anode lead, focus and flyback inspected without touching",
        "Look for tracks of burnt dust, cracked plastic and a cracked joint at the yoke.",
        "Discharging the tube is a step of its own: with a proper probe, one hand, by someone trained.",
        only="tube",
        hurts=True,
    ),
    FirstLookItem(
        "adapter",
        "Adapter's label and plug polarity read",
        "The label gives the volts under load. Without load the adapter reads more.",
        only="adapter",
    ),
    FirstLookItem(
        "drive",
        "Drives inspected: no disk left inside, heads not moved",
        "A stuck head scratches the disk.",
        only="drive",
    ),
    FirstLookItem(
        "keyboard",
        "Keyboard inspected: caps counted, plug and lead looked at",
        "A missing cap is easiest to find before the work begins.",
        only="keyboard",
    ),
)


def first_look(traits: Collection[str]) -> tuple[FirstLookItem, ...]:
    """The list for a machine with those traits.

    >>> 'tube' in [look.key for look in first_look(['tube'])], 'tube' in [look.key for look in first_look([])]
    (True, False)
    """
    return tuple(look for look in FIRST_LOOK if not look.only or look.only in traits)


#: How a tube's screen has burnt in, by the key that is kept, with what is seen.
BURNS = {
    "": "not inspected", "none": "none: no shadow, on or off", "off": "visible while it is off, not visible in a picture",
    "on": "a shadow in every picture", "deep": "brown lines in the screen, the picture dim there",
}  # fmt: skip
