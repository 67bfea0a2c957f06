"""A number typed for a rail that can hardly be meant: asked about, never guessed.

5021 on +5 V is 5.021 V or a slip; 12.1 V on +5 V may be the lead on the wrong pin, or the supply about to burn the board. It is
asked once; typed again with ``!`` behind it, it stands. What no rail can read is not taken at all.

Source: workshop practice, because slips of a decimal point and of a probe look like this.
"""

from __future__ import annotations

from collections.abc import Iterable

from ..refusal import BadInput
from ..text.quantity import show
from ..text.rails_and_chips import Rail
from .checks import Check

#: What stands behind a number that is meant as it is.
SURE = "!"
#: A number so many times a rail's volts, and above so many volts, cannot be read there at all.
NEVER, NEVER_VOLTS = 40.0, 400.0
#: A reading is another rail's where it is so near to it, as a share, and is not where its own may be.
LIKE = 0.06


def sure(typed: str) -> tuple[str, bool]:
    """What was typed without its mark, and whether it is meant as it is.

    >>> sure('12.1!'), sure('12.1')
    (('12.1', True), ('12.1', False))
    """
    text = typed.strip()
    return (text.removesuffix(SURE).strip(), True) if text.endswith(SURE) else (text, False)


def ask(check: Check, value: float, typed: str, rails: Iterable[Rail]) -> None:
    """Ask about a reading of a rail that can hardly be meant.

    Args:
        check: the check that is made.
        value: V as it was read from what was typed.
        typed: as it was typed.
        rails: of the unit.

    Raises:
        BadInput: it says what it looks like, and how to say that it is so.
    """
    if not check.nominal or check.kind not in ("dc_volts", "ripple"):
        return
    typed, meant = sure(typed)
    size, volts = abs(check.nominal), abs(value)
    if volts > max(NEVER * size, NEVER_VOLTS) and not _as_milli(check, value):
        raise BadInput(
            typed, f"volts that {check.rail} can have", "Check the meter's range and the lead.", field=check.rail
        )
    if meant or check.passes(value):
        return
    if milli := _as_milli(check, value):
        raise BadInput(
            typed, f"volts on {check.rail}", f"Is {milli} meant? Type it so, or {typed}{SURE} if the number is right.",
            field=check.rail,
        )  # fmt: skip
    if check.kind == "dc_volts":
        for rail in rails:
            if rail.name != check.rail and abs(value - rail.nominal) <= LIKE * abs(rail.nominal):
                raise BadInput(
                    typed, f"a reading of {check.rail}",
                    f"This looks like {rail.name}: is the lead on its pin? If {check.rail} really reads that, make idle; "
                    f"{typed}{SURE} logs it.",
                    field=check.rail,
                )  # fmt: skip


def _as_milli(check: Check, value: float) -> str:
    """The reading in thousandths, where only those would be inside the limits; "" where not."""
    if not check.passes(value) and abs(value) >= 100 and check.passes(value / 1000):
        return show(value / 1000, "V", 4)
    return ""
