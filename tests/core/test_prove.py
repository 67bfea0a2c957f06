"""Cold checks from the unit's own parts, the way up, and gates that answer with reasons."""

import math
from dataclasses import replace

import pytest

from idlebench.core import prove
from idlebench.core.board.parts import Fitted
from idlebench.core.faults.ripple import ripple_suspects
from idlebench.core.prove import BoardFacts, Event, Proof, Record, interlocks
from idlebench.core.prove.record import IDLE, POWER, READ
from idlebench.core.refusal import BadInput
from idlebench.core.text.rails_and_chips import read_chip, read_rail

STORE = Fitted(ref="C7", value=220e-6, volts=400, role="bulk", rail_volts=325)
RAILS = tuple(map(read_rail, ["+5 V 3.1 A min 0.5 A", "+12 V 0.5 A", "-12 V 0.1 A"]))
SUPPLY = BoardFacts(
    name="PS-2",
    supply="switching",
    parts=(STORE, Fitted(ref="C9", value=10e-6, volts=50)),
    swapped=frozenset({"C7"}),
    rails=RAILS,
    chips=(),
    fuse="T 1.6 A 250 V",
)
BOARD = BoardFacts(
    name="MB-80",
    supply="",
    parts=(Fitted(ref="C1", value=1e-4, volts=16),),
    swapped=frozenset({"C1"}),
    rails=(),
    chips=(read_chip("U1 processor 46x14 gnd 20 +5V 40 clock 18 moves 33"),),
)
STEPS = prove.power_up([SUPPLY, BOARD])


def passing(check: prove.Check) -> float:
    if check.seen:
        return 1.0
    if check.low is not None and check.high is not None:
        return (check.low + check.high) / 2
    return check.high / 2 if check.high is not None else check.low * 2


def seen(check: prove.Check, value: float | None = None, at: float = 0.0, **also) -> Event:
    """A reading of a check, taken of its kind now."""
    value = passing(check) if value is None else value
    return Event(kind=READ, at=at, key=check.key, value=value, was=check.evidence, **also)


def record(*, but: tuple[str, ...] = (), upto: str = "") -> Record:
    """A record in which everything passed in order, up to a step, but for some checks; what each power asks again is read
    again last."""
    found = []
    for step in STEPS:
        if step.key == upto:
            break
        if step.live:
            found.append(Event(kind=POWER, at=0.0, step=step.key))
        found += [seen(c) for c in sorted(step.checks, key=lambda c: c.live) if c.key not in but]
    found.append(Event(kind=IDLE, at=0.0))
    again = [c for c in STEPS[0].checks if c.fact in ("discharged", "nothing left inside") and c.key not in but]
    return Record((*found, *[seen(c) for c in again]))


def proof(found: Record | None = None, **also) -> Proof:
    return Proof(boards=(SUPPLY, BOARD), record=found or Record(), **also)


def live(found: Record, step: str) -> Proof:
    """The unit with power on at a step."""
    return proof(found.with_(Event(kind=POWER, at=0.0, step=step)), live=step)


def test_checks_are_made_from_the_unit():
    cold = {c.key: c for c in STEPS[0].checks}
    assert (
        "cold.discharge.ps-2.c7" in cold
        and "4.7 kΩ 5 W wire-wound rated 325 V or more" in cold["cold.discharge.ps-2.c7"].ask
    )
    assert "22.5 W at first" in cold["cold.discharge.ps-2.c7"].ask and "11.6 J" in cold["cold.discharge.ps-2.c7"].ask
    assert "trained people" in cold["cold.discharge.ps-2.c7"].caution
    assert {
        "cold.fuse.ps-2",
        "cold.fuse.rating.ps-2",
        "cold.polarity.mb-80.c1",
        "cold.pin.mb-80.u1.20",
        "cold.pin.mb-80.u1.40",
    } <= set(cold)
    assert {"cold.rail.ps-2.+5-v", "cold.rail.mb-80.+12-v", "cold.rail.ps-2.−12-v"} <= set(cold)
    assert "cold.polarity.ps-2.c9" not in cold, "C9 was not changed"
    assert len(cold) == len(STEPS[0].checks), "keys are unique"


def test_a_bipolar_or_film_part_asks_no_polarity():
    board = BoardFacts(
        name="B",
        supply="",
        parts=(
            Fitted(ref="C1", value=1e-6, volts=50, bipolar=True),
            Fitted(ref="C2", value=1e-7, volts=63, kind="film"),
        ),
        swapped=frozenset({"C1", "C2"}),
    )
    assert not [c for c in prove.cold_checks([board]) if "polarity" in c.key]


@pytest.mark.parametrize(
    ("line", "ohms"), [("+5 V 3.1 A", 2.0), ("+12 V 0.5 A", 12.0), ("-12 V 0.1 A", 60.0), ("+5 V", 2.0)]
)
def test_least_resistance(line, ohms):
    assert prove.least_resistance(read_rail(line)) == pytest.approx(ohms)


def test_the_way_up_in_order():
    assert [s.key for s in STEPS] == ["cold", "dummy", "limited", "full", "feed", "life"]
    # at low volts a variable transformer overloads the switch: a switching supply goes to the lamp all the same
    variable = prove.power_up([SUPPLY, BOARD], "variable")
    assert [s.key for s in variable] == ["cold", "dummy", "limited", "full", "feed", "life"]
    assert "lamp" in variable[2].title and "overloads a switching supply" in variable[2].detail
    rising = prove.power_up([replace(SUPPLY, supply="linear"), BOARD], "variable")
    assert [s.key for s in rising] == [
        "cold",
        "dummy",
        "limited",
        "third",
        "half",
        "most",
        "full",
        "high",
        "feed",
        "life",
    ]
    assert [s.title.split(" V in")[0] for s in rising[2:7]] == ["34", "69", "138", "207", "230"]
    straight = prove.power_up([SUPPLY, BOARD], "straight")
    assert [s.key for s in straight] == ["cold", "dummy", "full", "feed", "life"]
    assert STEPS[1].detail.startswith("10 Ω 5 W")
    assert [s.live for s in STEPS] == [False, False, True, True, True, True]
    linear = BoardFacts(
        name="PS-1",
        supply="linear",
        parts=(),
        swapped=frozenset(),
        rails=RAILS,
        chips=(),
        fuse="",
        source_volts=9.0,
        source_va=10.0,
    )
    source = prove.power_up([linear])[2].checks[0]
    assert (source.low, source.high) == pytest.approx((9 * 1.22 * 0.94, 9 * 1.22 * 1.06))


def test_without_rails_there_is_no_way_up():
    assert [s.key for s in prove.power_up([BOARD])] == ["cold"]
    assert not Proof(boards=(BOARD,)).proven


@pytest.mark.parametrize(
    ("line", "low", "high", "ripple"),
    [("+5 V", 4.75, 5.25, 0.05), ("+12 V", 11.4, 12.6, 0.12), ("-12 V", -13.2, -10.8, 0.12), ("-5 V", -5.5, -4.5, 0.05), ("+3.3 V", 3.135, 3.465, 0.05),
     ("+24 V", 21.6, 26.4, 0.24), ("+12 V tol 10 ripple 200m", 10.8, 13.2, 0.2)],
)  # fmt: skip
def test_rail_limits(line, low, high, ripple):
    rail = read_rail(line)
    assert (rail.low, rail.high, rail.ripple_limit) == pytest.approx((low, high, ripple))


def test_half_mains_allows_a_negative_rail_to_rise():
    facts = BoardFacts(name="P", supply="linear", parts=(), swapped=frozenset(), rails=(read_rail("-12 V 0.2 A"),))
    half = next(s for s in prove.power_up([facts], "variable") if s.key == "half").checks[0]
    assert half.passes(-6.0) and half.passes(-12.5) and not half.passes(-14) and not half.passes(6.0)


def test_lamp_by_supply_power():
    assert prove.lamp_watts([read_rail("+5 V 1 A")]) == 15
    assert prove.lamp_watts([read_rail("+12 V 50 A")]) == 200


def full(key: str) -> prove.Check:
    return proof().check(key)


@pytest.mark.parametrize(
    ("key", "typed", "value", "passes"),
    [
        ("up.full.+5-v.volts", "5.02", 5.02, True), ("up.full.+5-v.volts", "4.74", 4.74, False), ("up.full.−12-v.volts", "-12.3", -12.3, True),
        ("up.full.−12-v.volts", "12.3", 12.3, False), ("up.full.+5-v.ripple", "38m", 0.038, True), ("up.full.+5-v.ripple", "51 mV", 0.051, False),
        ("up.full.+5-v.ripple", "10m rms", 0.010 * 2 * math.sqrt(3), True), ("up.full.+5-v.ripple", "20m rms", 0.0693, False),
        ("cold.rail.ps-2.+12-v", "OL", math.inf, True), ("cold.fuse.ps-2", "OL", math.inf, False), ("cold.fuse.ps-2", "0.3", 0.3, True),
        ("cold.discharge.ps-2.c7", "-3", -3, True), ("cold.discharge.ps-2.c7", "11", 11, False), ("cold.look.loose", "yes", 1, True),
        ("cold.look.loose", "no", 0, False),
    ],
)  # fmt: skip
def test_readings_against_limits(key, typed, value, passes):
    check = full(key)
    got = prove.read_reading(check, typed)
    assert got == pytest.approx(value, rel=1e-3)
    assert check.passes(got) is passes


@pytest.mark.parametrize(
    ("key", "typed"),
    [
        ("up.full.+5-v.volts", "five"),
        ("cold.look.loose", "maybe"),
        ("cold.fuse.ps-2", "-1"),
        ("up.full.+5-v.ripple", "-3m"),
    ],
)
def test_readings_that_cannot_be(key, typed):
    with pytest.raises(BadInput, match="expected"):
        prove.read_reading(full(key), typed)


def test_a_step_opens_only_when_all_before_passed():
    assert interlocks.step(proof(), "cold") == ()
    reasons = interlocks.step(proof(), "feed")
    assert {r.rule for r in reasons} == {"missing"} and len(reasons) == 4
    assert interlocks.step(proof(record(upto="feed")), "feed") == ()
    shut = interlocks.step(proof(record(upto="feed", but=("up.full.+5-v.ripple",))), "feed")
    assert "1 not done (+5 V)" in shut[0].text
    assert interlocks.step(proof(), "nowhere")[0].rule == "unknown"


def test_a_failed_reading_shuts_what_follows_with_its_numbers():
    bad = record(upto="feed").with_(seen(full("up.full.−12-v.ripple"), 0.164))
    (reason,) = interlocks.step(proof(bad), "feed")
    assert reason.rule == "failed" and "164 mV" in reason.text and "120 mV" in reason.text


def test_an_override_counts_only_where_no_one_can_be_hurt():
    over = {"overridden": True}
    pin = record(upto="dummy").with_(seen(full("cold.pin.mb-80.u1.20"), 5.0, **over), seen(full("cold.look.loose")))
    assert interlocks.step(proof(pin), "dummy") == ()
    fuse = record(upto="dummy").with_(seen(full("cold.fuse.ps-2"), 5.0, **over), seen(full("cold.look.loose")))
    assert interlocks.step(proof(fuse), "dummy")[0].rule == "failed"
    assert interlocks.override(proof(), full("cold.fuse.ps-2"))[0].rule == "safety"


def test_everything_but_pins_touches_safety():
    assert {c.key.split(".")[1] for c in STEPS[0].checks if not c.safety} == {"pin"}
    assert all(c.safety for s in STEPS[1:-1] for c in s.checks)


def test_power_gate():
    assert {r.rule for r in interlocks.power(proof(), "limited")} == {"missing"}
    ready = record(upto="limited")
    assert interlocks.power(proof(ready), "limited") == ()
    assert interlocks.power(proof(ready), "cold")[-1].rule == "cold"
    assert interlocks.power(live(ready, "limited"), "limited")[-1].text == "Power is on at this step already."
    before_feed = record(upto="feed")
    rules = {r.rule for r in interlocks.power(live(before_feed, "full"), "feed")}
    assert rules == {"missing", "live"}, "the plug first, and not while live"
    plugged = before_feed.with_(seen(full("up.feed.plug")), seen(full("cold.look.loose")))
    assert interlocks.power(proof(plugged), "feed") == ()
    assert interlocks.power(proof(plugged, live_elsewhere="B"), "feed")[0].rule == "other"
    assert interlocks.power(proof(plugged, handed_over=True), "feed")[0].rule == "closed"
    assert interlocks.power(proof(plugged, reforming=("C7 on PS-2",)), "feed")[0].rule == "reforming"


def test_reading_gate():
    ready = record(upto="full")
    volts = full("up.full.+5-v.volts")
    assert interlocks.reading(proof(ready), volts)[0].rule == "idle"
    assert interlocks.reading(live(ready, "limited"), volts)[0].rule == "step"
    assert interlocks.reading(live(ready, "full"), volts) == ()
    fuse = full("cold.fuse.ps-2")
    assert interlocks.reading(proof(), fuse)[0].rule == "charged", "discharge is logged first"
    empty = Record((seen(full("cold.discharge.ps-2.c7"), 2.0),))
    assert interlocks.reading(proof(empty), fuse) == ()
    assert interlocks.reading(live(empty, "full"), fuse)[0].rule == "live"


def test_the_look_inside_is_asked_once_after_the_dummy_loads():
    cold = [c for c in STEPS[0].checks if c.fact != "nothing left inside"]
    looked = Record(tuple(seen(c) for c in cold))
    # everything else cold is done: the loads are next, not the look inside that they would void
    assert proof(looked).current.key == "dummy" and not proof(looked).open_checks(STEPS[0])
    assert interlocks.step(proof(looked), "dummy") == ()
    loads = looked.with_(*(seen(c) for c in STEPS[1].checks))
    (left,) = proof(loads).open_checks(STEPS[0])
    assert left.key == "cold.look.loose" and {r.rule for r in interlocks.power(proof(loads), "limited")} == {"missing"}
    done = loads.with_(seen(left))
    assert interlocks.power(proof(done), "limited") == () and proof(done).current.key == "limited"
    # no way round it: asked for a step under power whatever was done before, and before hand-over
    assert any(
        "Inside the case" in r.text or "inside the case" in r.text for r in interlocks.power(proof(looked), "limited")
    )
    assert any("inside the case" in r.text for r in interlocks.hand_over(proof(loads)))


def test_progress():
    assert proof().current.key == "cold"
    assert proof(record(upto="full")).current.key == "full"
    done = proof(record())
    assert done.current is None and done.proven


def test_ripple_suspects_are_kept_parts_on_that_rail_worst_first():
    parts = [Fitted(ref="C1", value=1e-4, volts=10, rail="+5V", esr=1.0), Fitted(ref="C2", value=1e-4, volts=10, rail="+5V", esr=4.0), Fitted(ref="C3", value=1e-4, volts=10, rail="-5V", esr=9.0),
             Fitted(ref="C4", value=1e-4, volts=10, rail="+5V", esr=9.0)]  # fmt: skip
    assert ripple_suspects(parts, "+5 V", frozenset({"C1", "C2", "C3"})) == ("C2", "C1")
    assert ripple_suspects(parts, "−5 V", frozenset({"C1", "C2", "C3"})) == ("C3",)


@pytest.mark.parametrize("line", ["", "volts", "0 V", "+5 V min", "+5 V min x", "+5 V tol 80", "+99999999 V"])
def test_rails_that_cannot_be_read(line):
    with pytest.raises(BadInput):
        read_rail(line)


def test_a_bare_number_behind_a_rail_is_its_amps():
    assert read_rail("5V 3").current == 3


@pytest.mark.parametrize("line", ["+5 V 3.1 A min 0.5 A", "-12 V 0.1 A ripple 150m", "+3.3 V"])
def test_rails_read_back_the_same(line):
    rail = read_rail(line)
    assert read_rail(rail.as_line()) == rail


@pytest.mark.parametrize(
    "line", ["U1 processor 46x14 at 100,52 gnd 20 +5V 40,41 clock 18 moves 33,34", "J1 power in 17x46 at 17,43", "U2"]
)
def test_chips_read_back_the_same(line):
    from idlebench.core.text.rails_and_chips import chip_line

    chip = read_chip(line)
    assert read_chip(chip_line(chip)) == chip


@pytest.mark.parametrize("line", ["", "12 chip", "U1 gnd", "U1 gnd twenty", "U1 900x2", "U1 at x,y"])
def test_chips_that_cannot_be_read(line):
    with pytest.raises(BadInput):
        read_chip(line)
