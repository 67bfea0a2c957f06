"""A meter that is asked again and again while a round is played: what it shows, and the reading that may be logged of it.

What was shown is kept in this process, for a page and a check: a page cannot say of itself what a meter read.
"""

from __future__ import annotations

import math
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass, field

from idlebench.core import prove
from idlebench.core.prove import by_meter, interlocks
from idlebench.core.prove.meter_watch import LEADS, Sample, in_contact, lifted_passes, steady
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.text.quantity import show
from idlebench.instruments import HOUSE

from ..unit.state import UnitState, unit_state
from . import metered

#: Pages that are watched at once, samples of a check, and how long what stood still may be logged, s.
PAGES, SAMPLES, LASTS = 32, 60, 5.0


@dataclass
class _Watch:
    """What one page's meter showed: samples by check, how they are marked, and when both leads were last on one point."""

    samples: dict[str, list[Sample]] = field(default_factory=dict)
    mark: str = ""
    leads: float | None = None


_WATCHES: OrderedDict[tuple[int, str], _Watch] = OrderedDict()
_LOCK = threading.Lock()


def _watch(unit: int, play: str) -> _Watch:
    with _LOCK:
        found = _WATCHES.setdefault((unit, play), _Watch())
        _WATCHES.move_to_end((unit, play))
        while len(_WATCHES) > PAGES:
            _WATCHES.popitem(last=False)
        return found


def look(unit: int, play: str, key: str, *, leads: bool = False) -> dict[str, object]:
    """Ask the meter once.

    Args:
        unit: its key.
        play: the page's own name.
        key: of the check that its leads are on.
        leads: both leads are on one point: their ohms show that they touch.

    Returns:
        What the meter shows, whether it stands still, whether contact is shown, and whether it would pass.

    Raises:
        BadInput: no meter, or one that cannot read this. Blocked: nothing may be read there now.
    """
    state = unit_state(unit)
    check = state.proof.check(key)
    if check is None:
        raise BadInput(key, "a check of this unit", "Load the round again.", field="check")
    if reasons := interlocks.reading(state.proof, check):
        raise Blocked(f"{check.point} cannot be read now", reasons)
    watch = _watch(unit, play)
    if leads:
        return _leads(state, watch)
    value, watch.mark = metered.value_of(state, check)
    now = time.monotonic()
    # what stood still at the point before may still be on its way here; what is older than that counts no more
    fresh = {point: some for point, some in watch.samples.items() if now - some[-1].at <= LASTS}
    watch.samples = {**fresh, key: [*fresh.get(key, ()), Sample(value, now)][-SAMPLES:]}
    still, shown = steady(watch.samples[key]), "OL" if math.isinf(value) else show(value, check.unit)
    return {
        "shown": shown,
        "steady": still is not None,
        "contact": _touches(state, check, watch, now),
        "lifted": lifted_passes(check),
        "passes": still is not None and check.passes(still),
    }


def _touches(state: UnitState, check: prove.Check, watch: _Watch, now: float) -> bool:
    # the simulated bench puts its own probe
    return state.job.meter == HOUSE or in_contact(check, watch.samples.get(check.key, ()), watch.leads, now)


def _leads(state: UnitState, watch: _Watch) -> dict[str, object]:
    """Both leads on one point."""
    if state.live_step:
        raise BadInput("both leads on one point", "a unit without power", "Make idle first.", field="meter")
    ohms = metered.ohms_of_leads(state)
    watch.leads = time.monotonic() if ohms < LEADS else None
    shown = "OL" if math.isinf(ohms) else show(ohms, "Ω")
    return {"shown": shown, "steady": False, "contact": ohms < LEADS, "lifted": False, "passes": False}


def stood_still(state: UnitState, play: str, check: prove.Check) -> tuple[str, str]:
    """The reading that a page's meter stood still at a moment ago, as it would be typed, and how it is marked.

    Raises:
        BadInput: it did not stand still at this check, or no contact was shown.
    """
    watch, now = _watch(state.row.pk, play), time.monotonic()
    samples = watch.samples.get(check.key, [])
    value = steady(samples) if samples and now - samples[-1].at <= LASTS else None
    if value is None:
        raise BadInput("the meter", "three readings that agree", "Hold the leads still.", field="meter")
    if not _touches(state, check, watch, now):
        shown = "OL" if math.isinf(value) else show(value, check.unit)
        raise BadInput(
            f"{shown} by the meter", "a reading that shows contact",
            "Leads in the air read the same. Put both leads on one point first, then to the check.", field="meter",
        )  # fmt: skip
    return by_meter.as_typed(check, value), watch.mark
