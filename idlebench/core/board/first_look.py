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


@dataclass(frozen=True, kw_only=True)
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
        key="plug",
        text="Unplugged, lead in sight",
        why="Nobody can plug it in behind your back.",
        caution="Unplugged is not discharged: reservoir capacitors stay charged for days.",
        hurts=True,
    ),
    FirstLookItem(
        key="shake",
        text="Shaken gently, listened for loose metal",
        why="A loose screw can short the mains side.",
        hurts=True,
    ),
    FirstLookItem(
        key="opened", text="Opened, screws laid out in order", why="Screws that look alike differ in length."
    ),
    FirstLookItem(
        key="battery",
        text="Battery searched for, a leaking battery taken out",
        why="Battery fluid eats traces while you plan. The battery comes out before any other part, after "
        "the capacitors in reach were measured as empty.",
        caution="Stored charge can kill. Measure the capacitors at Cold checks before a hand goes to the "
        "battery. Gloves and goggles: the fluid burns skin and eyes.",
        hurts=True,
    ),
    FirstLookItem(
        key="smell", text="Scorch marks, stains, rust and fish smell searched for", why="They show where the fault is."
    ),
    FirstLookItem(key="parts", text="Swollen, stained or missing parts noted", why="These parts are judged first."),
    FirstLookItem(key="repairs", text="Earlier repairs noted", why="An earlier owner's change can be the fault."),
    FirstLookItem(
        key="fuse",
        text="Fuse and plug inspected, the fuse read",
        why="A fuse blows for a reason.",
        caution="Never fit a fuse of a higher rating.",
        only="supply",
        hurts=True,
    ),
    FirstLookItem(
        key="chassis",
        text="Chassis checked: is one side of the mains joined to it?",
        why="No isolating transformer and a two-wire lead mean that all bare metal is live under power. Tick "
        "hot chassis in the job's facts.",
        caution="Unplugged: measure with the ohmmeter from each pin of the plug to bare metal, switch on and "
        "off. Local codes come first.",
        only="supply",
    ),
    FirstLookItem(
        key="supply",
        text="Supply inspected without touching",
        why="Look for leaking seals, cracked joints and scorched resistors.",
        caution="Mains side: for trained people; local codes come first. Touch nothing until its capacitors read under 10 V.",
        only="supply",
    ),
    FirstLookItem(
        key="tube",
        text="Tube inspected from outside",
        why="Look for cracks, a milky neck and a burnt line on the screen.",
        caution=TUBE,
        only="tube",
        hurts=True,
    ),
    FirstLookItem(
        key="anode",
        text="Anode lead, focus and flyback inspected without touching",
        why="Look for tracks of burnt dust, cracked plastic and a cracked joint at the yoke.",
        caution="Discharging the tube is a step of its own: with a proper probe, one hand, by someone trained.",
        only="tube",
        hurts=True,
    ),
    FirstLookItem(
        key="adapter",
        text="Adapter's label and plug polarity read",
        why="The label gives the volts under load. Without load the adapter reads more.",
        only="adapter",
    ),
    FirstLookItem(
        key="drive",
        text="Drives inspected: no disk left inside, heads not moved",
        why="A stuck head scratches the disk.",
        only="drive",
    ),
    FirstLookItem(
        key="keyboard",
        text="Keyboard inspected: caps counted, plug and lead looked at",
        why="A missing cap is easiest to find before the work begins.",
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
