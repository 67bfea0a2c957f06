"""A regulator on a board that is fed: its place asks what the rail in front of it gives. Source: as for any other regulator."""

from __future__ import annotations

from collections.abc import Sequence

from ..board.devices import Device
from ..judge.policy import POLICIES, Policy
from ..refusal import BadInput
from ..text.rails_and_chips import Rail
from .regulators_and_fuses import CURRENT_MARGIN, RegulatorNeed

#: K/W of a body that stands in free air without a heatsink.
BARE = 60.0


def fed_by_rail(
    old: Device, rails: Sequence[Rail], *, room: float | None = None, policy: Policy = POLICIES["renew"]
) -> RegulatorNeed:
    """What the place of a regulator asks on a board that is fed: from the rail its line names, else from the next one above it.

    Args:
        old: what stands there.
        rails: that feed the board.
        room: mm of height.
        policy: the policy by which it is decided.

    Returns:
        Volts in and out, amps, room and heat of its place.

    Raises:
        BadInput: its volts or current are not known, or no rail is high enough.
    """
    if not old.volts or not old.current:
        missing = "volts" if not old.volts else "current"
        example = f"{old.ref} regulator 7805 1A from +12V sink 15"
        raise BadInput(old.ref, f"its {missing}", f"Type what is marked: {example}.", field=missing)
    above = sorted(
        (r for r in rails if r.nominal * old.volts > 0 and abs(r.nominal) > abs(old.volts)),
        key=lambda r: abs(r.nominal),
    )
    named = next((r for r in rails if r.name.replace(" ", "").replace("−", "-") == old.fed_from), None)
    if old.fed_from and named is None:
        raise BadInput(
            f"from {old.fed_from}",
            "a rail of this unit",
            ", ".join(r.name for r in rails) or "None is typed.",
            field="from",
        )
    rail = named or next(iter(above), None)
    if rail is None:
        raise BadInput(old.ref, "what feeds it", f"Type its rail: {old.ref} regulator 7805 1A from +12V.", field="from")
    low, high = sorted((abs(rail.low), abs(rail.high)))
    words = (
        f"Fed from {rail.name}"
        if named
        else f"Taken to be fed from {rail.name}, the next rail above: type “from …” if it is another rail"
    )
    sink = old.sink
    if sink is None:
        words += f"; no heatsink is typed (sink 15), so it is calculated without one, {BARE:g} K/W"
    return RegulatorNeed(
        old=old,
        volts=old.volts,
        current=CURRENT_MARGIN * old.current,
        v_in_low=low,
        v_in_high=high,
        v_in_peak=high,
        theta_sa=BARE if sink is None else sink,
        height=room,
        feed=words,
        assumed=named is None or sink is None,
        policy=policy,
    )
