"""Two clocks: one that people set, and one that only counts. Worked by hand."""

import math

import pytest

from idlebench.core.prove import BoardFacts, Check, Event, Proof, Record, interlocks
from idlebench.core.prove.clock import Moment, age, lasted, set_back
from idlebench.core.prove.facts import DISCHARGED, STEP
from idlebench.core.prove.record import IDLE, POWER, READ
from idlebench.core.prove.status import status_of

HOUR = 3600.0
STORE = Check(
    key="cold.discharge.p9",
    step="cold",
    kind="dc_volts",
    point="across C9",
    ask="",
    low=-10.0,
    high=10.0,
    nominal=400.0,
    fact=DISCHARGED,
)


@pytest.mark.parametrize(
    ("since", "now", "least", "most"),
    [
        # both clocks agree
        (Moment(0, "a", 100), Moment(300, "a", 400), 300, 300),
        # the wall clock was set an hour ahead: what must have lasted has not, what grows old has
        (Moment(0, "a", 100), Moment(HOUR + 60, "a", 160), 60, HOUR + 60),
        # it was five hours ahead then and was put right: minus five hours by it, ten minutes in truth
        (Moment(5 * HOUR, "a", 100), Moment(600, "a", 700), 600 - 5 * HOUR, 600),
        # another start of the machine: it has run for 50 s, and nobody knows what was before
        (Moment(0, "a", 100), Moment(HOUR, "b", 50), 50, math.inf),
        # no steady clock: the wall clock alone
        (Moment(0), Moment(300), 300, 300),
        (Moment(0), Moment(300, "a", 7), 300, 300),
    ],
)
def test_what_has_lasted_is_the_least_and_what_is_old_the_most(since, now, least, most):
    assert lasted(since, now) == least and age(since, now) == most


def test_a_clock_may_be_trimmed_by_two_seconds():
    assert set_back(Moment(10.0), Moment(8.5)) == 0 and set_back(Moment(10.0), Moment(7.0)) == 3.0


def stands(read_at: Moment, now: Moment, *after: Event) -> str:
    """Why a discharge does not count, "" where it does."""
    read = Event(
        kind=READ, at=read_at.at, key=STORE.key, value=0.3, was=STORE.evidence, boot=read_at.boot, steady=read_at.steady
    )
    return status_of(STORE, Record((read, *after)), now).void


@pytest.mark.parametrize(
    ("read_at", "now", "words"),
    [
        (Moment(0, "a", 0), Moment(1799, "a", 1799), ""),
        (Moment(0, "a", 0), Moment(1801, "a", 1801), "charge creeps back"),
        (Moment(5 * HOUR, "a", 0), Moment(60, "a", 60), "set back by 299 min"),
        (Moment(0, "a", 0), Moment(-HOUR, "a", 60), "set back by 60 min"),
        (Moment(0, "a", 0), Moment(60, "a", 2000), "33 min ago"),
        (Moment(0, "a", 0), Moment(60, "b", 10), "restarted"),
        (Moment(0, "a", 0), Moment(-1.5, "a", 1), ""),
    ],
)
def test_a_discharge_grows_old_by_the_worse_of_both_clocks(read_at, now, words):
    assert (words in stands(read_at, now)) if words else stands(read_at, now) == ""


def test_a_time_before_the_last_event_is_said():
    later = Event(kind=IDLE, at=4000.0, boot="a", steady=20.0)
    assert "set back" in stands(Moment(0, "a", 0), Moment(30, "a", 30), later)


HELD = Check(key="up.full.soak", step="full", kind="look", point="no smoke", ask="", live=True, hold=5.0, fact=STEP)


@pytest.mark.parametrize(
    ("on", "now", "rule"),
    [
        (Moment(0, "a", 0), Moment(301, "a", 301), None),
        (Moment(0, "a", 0), Moment(299, "a", 299), "hold"),
        # one hour ahead: a hold of five minutes does not pass at once
        (Moment(0, "a", 0), Moment(HOUR, "a", 10), "hold"),
        # set back: nobody knows
        (Moment(0, "a", 0), Moment(-HOUR, "a", 400), "clock"),
        # the machine was started anew a minute ago
        (Moment(0, "a", 0), Moment(HOUR, "b", 60), "hold"),
    ],
)
def test_a_hold_is_measured_by_both_clocks(on, now, rule):
    event = Event(kind=POWER, at=on.at, step="full", boot=on.boot, steady=on.steady)
    proof = Proof(
        boards=(BoardFacts(name="PS", supply="linear"),),
        record=Record((event,)),
        now=now.at,
        live="full",
        boot=now.boot,
        steady=now.steady,
    )
    found = [reason.rule for reason in interlocks.live._under_power(proof, HELD)]
    assert found == ([rule] if rule else [])
