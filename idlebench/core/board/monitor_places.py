"""What a monitor's lines tell the places of its boards.

Source: workshop practice, because a retrace part sets the anode: each per cent of its value is half a per cent of the anode's volts.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from ..circuit.monitor import field_store
from ..text.quantity import show
from .monitor_lines import Monitor
from .parts import Fitted

#: A retrace part may stray by this share of what the sheet says, as its role allows.
RETRACE_STRAY = 0.02


@dataclass(frozen=True, kw_only=True)
class MonitorPlace:
    """What a monitor tells one of its places. value: F it must have, None where any may be asked. volts: that it sees. ripple: A at
    frequency, Hz. said: in words.
    """

    role: str
    said: tuple[str, ...]
    volts: float | None = None
    value: float | None = None
    ripple: float | None = None
    frequency: float | None = None


def places_of_monitor(monitor: Monitor) -> dict[str, MonitorPlace]:
    """What the places of a monitor get from it: role, volts, ripple, and the value that must stand there."""
    found: dict[str, MonitorPlace] = {}
    s, out = monitor.stage, monitor.output
    if s is not None:
        smaller = monitor.rise_with(0.9 * s.value)
        found[s.retrace] = MonitorPlace(
            role="retrace_tuning",
            said=(
                f"by the sheet {show(s.value, 'F')}; it sees {show(monitor.pulse, 'V')} {show(monitor.line, 'Hz')} pulses",
                f"10 % less of it would raise the pulse and the tube's volts by {100 * smaller:.3g} %",
            ),
            volts=monitor.pulse,
            value=s.value,
        )
        if s.deflection:
            found[s.deflection] = MonitorPlace(
                role="deflection_coupling",
                said=(f"in series with the line coil, at {show(monitor.line, 'Hz')}",),
                volts=None,
                value=None,
                ripple=None,
                frequency=monitor.line,
            )
        if s.boost:
            found[s.boost] = MonitorPlace(
                role="boost",
                said=("boost of the line stage",),
                volts=None,
                value=None,
                ripple=None,
                frequency=monitor.line,
            )
    if out is not None and out.store:
        told = field_store(out.value, out.ohms, monitor.field, out.current) if out.value else None
        said = [f"in series with the field coil of {out.ohms:g} Ω"]
        if told is not None:
            said += [f"its corner is {show(told.values['corner'], 'Hz')}", *told.cautions]
        ripple = told.values["ripple"] if told is not None and out.current else None
        found[out.store] = MonitorPlace(
            role="field_store", said=tuple(said), volts=None, value=None, ripple=ripple, frequency=monitor.field
        )
    if monitor.video_store:
        found[monitor.video_store] = MonitorPlace(
            role="video", said=(f"on the video rail of {show(monitor.video, 'V')}",), volts=monitor.video
        )
    return found


def stages_told(
    monitors: Mapping[int, Monitor | None], refs: Mapping[int, Collection[str]]
) -> dict[int, dict[str, MonitorPlace]]:
    """What each board's places are told by the monitors of a unit, by board. A stage that is not on the board of the lines, such as
    the neck board's, is told where it is.

    Args:
        monitors: of each board, None where it has none.
        refs: what stands on each board.

    Returns:
        By board, then by reference, what its place is told.
    """
    told: dict[int, dict[str, MonitorPlace]] = {pk: {} for pk in monitors}
    for pk, monitor in monitors.items():
        for ref, place in places_of_monitor(monitor).items() if monitor else ():
            where = [pk] if ref in refs[pk] else [other for other, there in refs.items() if ref in there]
            for other in where[:1]:
                told[other][ref] = place
    return told


def tell_monitor(part: Fitted, told: Mapping[str, MonitorPlace]) -> tuple[Fitted, tuple[str, ...], str]:
    """A part with what its monitor tells of its place; what was told, and what is wrong with what stands there, "" for nothing.

    Role and value of a tube tuning part are the sheet's, whatever was typed for the place.
    """
    place = told.get(part.ref)
    if place is None:
        return part, (), ""
    changes: dict[str, object] = {}
    wrong = ""
    if place.value is not None:
        changes["role"] = place.role
        if abs(part.value / place.value - 1) > RETRACE_STRAY:
            wrong = (
                f"{show(part.value, 'F')} is fitted where the sheet says {show(place.value, 'F')}: somebody "
                "changed it. Pulse and tube volts are not what the monitor was made for"
            )
            changes["value"] = place.value
    elif part.role in ("", "unknown"):
        changes["role"] = place.role
    if part.rail_volts is None and place.volts:
        changes["rail_volts"] = place.volts
    if part.ripple is None and place.ripple:
        changes["ripple"] = place.ripple
    if part.frequency is None and place.frequency and "ripple" in changes:
        changes["frequency"] = place.frequency
    return (part.with_(**changes) if changes else part), place.said, wrong
