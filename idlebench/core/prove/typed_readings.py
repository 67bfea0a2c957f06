"""A reading as it is typed for a check.

Source: what meters show; a diode test up to 3 V: workshop practice, because meters drive no more.
"""

from __future__ import annotations

import math
import re
from typing import TYPE_CHECKING

from ..refusal import BadInput
from ..text.quantity import read
from .facts import NO_SHORT

if TYPE_CHECKING:
    pass
from .checks import Check

#: RMS of a plain meter to peak-to-peak, by shape of the ripple.
RMS_TO_PP = {"sine": 2 * math.sqrt(2), "sawtooth": 2 * math.sqrt(3)}


#: What is typed for a continuity that was heard, and for one that was not.
TONE, SILENT = ("beeps", "it beeps", "beep", "tone"), ("silent", "no beep", "no tone")
#: What a meter's diode range drives, A: volts typed from it for a rail's ohms are read as ohms at that current.
DIODE_RANGE = 1e-3


def read_reading(check: Check, text: str) -> float:
    """A reading as typed for a check, SI; yes and no become 1 and 0; OL on a resistance is endless.

    Ripple from a plain meter's AC range is typed with ``rms`` and counts as a sawtooth, the wider of the usual shapes.

    Args:
        check: the check that is made.
        text: as it was typed.

    Returns:
        The value in SI; 1 for yes, 0 for no, infinite for OL.

    Raises:
        BadInput: not a reading of this kind.

    >>> c = Check(key='k', step='s', kind='ripple', point='+5 V', ask='ripple', high=0.05, live=True)
    >>> round(read_reading(c, '10m rms'), 4)
    0.0346
    """
    raw = text.strip()
    low = raw.lower()
    if check.seen:
        if low in ("yes", "y", "ok", "pass", "1"):
            return 1.0
        if low in ("no", "n", "not", "fail", "0"):
            return 0.0
        raise BadInput(raw, "yes or no", field=check.point)
    if check.fact == NO_SHORT and check.rail and (found := re.fullmatch(r"([\d.,]+\s*m?)v", low)):
        return read(raw[: len(found[1])], "V", field=check.point, low=0, high=5) / DIODE_RANGE
    if check.kind in ("resistance", "continuity") and low in ("ol", "open", "inf", "∞"):
        return math.inf
    if low in TONE or low in SILENT:
        return _by_tone(check, raw, beeps=low in TONE)
    if check.kind in ("resistance", "continuity") and (
        found := re.fullmatch(r"(.*[^e\s])\s*(?:-|−|less|leads)\s*([\d.,].*)", low)
    ):
        return _without_leads(check, *(raw[slice(*found.span(i))] for i in (1, 2)))
    if check.kind == "tube_volts":
        return _by_probe(check, raw)
    if check.kind == "tube_ratio":
        return _against_b_plus(check, raw)
    if check.kind == "ripple":
        found = re.fullmatch(r"(.*?)\s*(rms|pp|p-p)", low)
        if found:
            value = read(raw[: len(found[1])], "V", field=check.point, low=0, high=1e3)
            return value * RMS_TO_PP["sawtooth"] if found[2] == "rms" else value
        return read(raw, "V", field=check.point, low=0, high=1e3)
    floor = None if check.kind in ("dc_volts", "temperature") else 0
    return read(raw, check.unit, field=check.point, low=floor if floor is not None else -100e3, high=1e9)


def _by_tone(check: Check, raw: str, *, beeps: bool) -> float:
    """A continuity that was heard: it is at its limit, for the tone tells no more; silent is open.

    Args:
        check: the check that is made.
        raw: as it was typed.
        beeps: whether the meter beeped.

    Returns:
        Ω.

    Raises:
        BadInput: not a continuity, or one whose ohms guard a person.
    """
    if check.kind != "continuity" or check.high is None:
        raise BadInput(raw, f"a reading in {check.unit}", "A tone tells continuity only.", field=check.point)
    if check.safety:
        raise BadInput(
            raw,
            "the ohms in figures",
            "A meter beeps at 30 Ω and more: too much where a person is guarded.",
            field=check.point,
        )
    return check.high if beeps else math.inf


#: Under this nothing is an anode's volts, V; the error that a probe may have, as a share.
LEAST_ANODE, MOST_ERROR = 1000.0, 0.2


def _by_probe(check: Check, text: str) -> float:
    """An anode's volts by a high-voltage probe, its error counted against the unit: ``11.8 kV probe 3 %``.

    Args:
        check: the check that is made.
        text: as it was typed.

    Returns:
        V.

    Raises:
        BadInput: no probe was named, or volts that are none of an anode.
    """
    found = re.fullmatch(r"(.+?)\s*(?:with\s+|by\s+)?probe\s*(?:±\s*)?([\d.,]+)?\s*%?", text.strip(), re.I)
    if found is None or found[2] is None:
        raise BadInput(
            text, "what a high-voltage probe shows and its error, such as 11.8 kV probe 3 %",
            "Never put a plain meter there: it flashes over, through the hand.", field=check.point,
        )  # fmt: skip
    volts = read(found[1], "V", field=check.point, low=0, high=60e3)
    if volts < LEAST_ANODE:
        raise BadInput(
            found[1],
            "the volts of an anode: over 1 kV",
            "Is kV meant, or is it the probe's own output?",
            field=check.point,
        )
    return volts * (1 + read(found[2], "", field="probe", low=0, high=100 * MOST_ERROR) / 100)


def _against_b_plus(check: Check, text: str) -> float:
    """An anode's volts divided by B+, the probe's error counted against the unit: ``4.8 kV probe 3 % at 46 V``.

    Args:
        check: the check that is made.
        text: as it was typed.

    Returns:
        A ratio.

    Raises:
        BadInput: no probe or no B+ was named.
    """
    found = re.fullmatch(r"(.+?)\s*(?:at|on|b\+)\s*(?:b\+\s*)?([\d.,]+\s*m?V?)", text.strip(), re.I)
    if found is None:
        raise BadInput(
            text,
            "what the probe shows, its error, and B+ at the same moment, such as 4.8 kV probe 3 % at 46 V",
            field=check.point,
        )
    return _by_probe(check, found[1]) / read(found[2], "V", field="B+", low=1, high=5000)


def _without_leads(check: Check, whole: str, leads: str) -> float:
    """A reading less that of the leads held together, typed as ``0.42 - 0.15``, Ω."""
    read_whole, read_leads = (read(text, check.unit, field=check.point, low=0, high=1e9) for text in (whole, leads))
    if read_leads > read_whole:
        raise BadInput(
            leads, f"leads of at most {whole}", "Hold the tips together and read the leads again.", field=check.point
        )
    return read_whole - read_leads
