"""What stays asked of a store when its row goes, is moved, or is described anew; what voids what hurts."""

from __future__ import annotations

from dataclasses import replace

import pytest

from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, Event, Proof, Record, interlocks
from idlebench.core.prove import record as r
from idlebench.core.prove.hazards import Listed, Unlisted, newly_unlisted, stores_here

BULK = Fitted(ref="C9", value=220e-6, volts=400.0, role="bulk", rail_volts=325.0)


# What the ledger says, case by case


def listed(*parts: Fitted, name: str = "PS") -> Listed:
    rows = {part.ref: f"p{i}" for i, part in enumerate(parts, 1)}
    board = BoardFacts(name=name, supply="switching", parts=parts, row="b1", rows=rows)
    return Listed({*rows.values(), "b1"}, stores_here([board]))


@pytest.mark.parametrize(
    ("after", "asked"),
    [
        (listed(replace(BULK, looks="missing")), True),
        (listed(replace(BULK, rail_volts=5.0)), True),
        (listed(replace(BULK, value=1e-9, role="unknown")), True),
        (Listed({"b1"}, {}), True),
        (Listed(set(), {}), True),
        (listed(replace(BULK, rail_volts=340.0)), False),
        (listed(replace(BULK, looks="burst")), False),
    ],
)
def test_a_store_that_is_typed_away_stays_asked(after, asked):
    found = newly_unlisted({1: listed(BULK)}, {1: after}, 0.0)
    assert bool(found) == asked
    if asked:
        (event,) = found[1]
        assert (event.kind, event.row, event.board) == (r.UNLISTED, "p1", "b1") and "325 V" in event.words
        assert Unlisted.of(event).volts == 325.0


def test_a_survey_that_learns_a_rail_is_not_asked():
    """1000 µF 35 V could hold 0.6 J; on a rail of 12 V it holds 0.07 J, and neither hurts. Taken off the list, it stays asked."""
    big = Fitted(ref="C5", value=1000e-6, volts=35.0)
    assert newly_unlisted({1: listed(big)}, {1: listed(replace(big, rail_volts=12.0))}, 0.0) == {}
    assert newly_unlisted({1: listed(big)}, {1: Listed({"b1"}, {})}, 0.0)


def test_it_is_asked_where_its_part_stands_now():
    here, there = listed(BULK), Listed({"b7"}, {})
    moved = {1: Listed(set(), {}), 2: Listed({"b1", "p1", "b7"}, {})}
    assert list(newly_unlisted({1: here, 2: there}, moved, 0.0)) == [2]
    stands = {1: Listed(set(), {}), 2: here}
    assert newly_unlisted({1: here, 2: there}, stands, 0.0) == {}, "it is on the list there"


def test_asked_until_somebody_says_why_not_and_again_when_it_comes_back():
    left, other = (
        Event(kind=r.UNLISTED, at=0.0, row="p1", board="b1"),
        Event(kind=r.UNLISTED, at=1.0, row="p2", board="b1"),
    )
    closed = Event(kind=r.WRITTEN_OFF, at=2.0, row="p1", board="b1")
    assert [e.row for e in Record((left, other)).unlisted] == ["p1", "p2"]
    assert [e.row for e in Record((left, other, closed)).unlisted] == ["p2"]
    assert [e.row for e in Record((left, other, closed, replace(left, at=3.0))).unlisted] == ["p2", "p1"]


def test_it_is_read_under_the_key_it_always_had():
    store = stores_here([BoardFacts(name="PS", supply="switching", parts=(BULK,), row="b1", rows={"C9": "p1"})])["p1"]
    proof = Proof(
        boards=(BoardFacts(name="PS", supply="switching", row="b1"),), record=Record((store.event(0.0),)), now=1.0
    )
    (check,) = proof.discharges
    assert (check.key, check.point, check.nominal) == ("cold.discharge.p1", "across C9", 325.0)
    assert [reason.rule for reason in interlocks.touch(proof, "b1")] == ["charged"]
    read = Event(kind=r.READ, at=2.0, key=check.key, value=0.4, was=check.evidence)
    proof = replace(proof, record=proof.record.with_(read), now=3.0)
    assert interlocks.touch(proof, "b1") == ()
    power = replace(
        proof, record=proof.record.with_(Event(kind=r.POWER, at=4.0, step="full"), Event(kind=r.IDLE, at=5.0)), now=6.0
    )
    assert interlocks.touch(power, "b1"), "it may be there all the same, and power was on"


def test_a_part_listed_anew_on_its_board_is_read_there():
    """C9 taken off the list and typed once more is one part, and read once."""
    gone = stores_here([BoardFacts(name="PS", supply="switching", parts=(BULK,), row="b1", rows={"C9": "p1"})])[
        "p1"
    ].event(0.0)
    anew = BoardFacts(name="PS", supply="switching", parts=(BULK,), row="b1", rows={"C9": "p7"})
    assert [c.key for c in Proof(boards=(anew,), record=Record((gone,)), now=1.0).discharges] == ["cold.discharge.p7"]
    other = BoardFacts(name="PS", supply="switching", parts=(replace(BULK, ref="C10"),), row="b1", rows={"C10": "p7"})
    assert len(Proof(boards=(other,), record=Record((gone,)), now=1.0).discharges) == 2


def test_a_tube_stays_asked_without_its_lines():
    tube = Unlisted(row="b1", board="b1", name="picture tube", on="VM", farads=1e-9, volts=12e3, tube=True)
    proof = Proof(boards=(BoardFacts(name="VM", row="b1"),), record=Record((tube.event(0.0),)), now=1.0)
    assert [check.key for check in proof.discharges] == [f"cold.tube{n}.b1" for n in (1, 2, 3)]
    assert len(interlocks.tube(proof)) == 3
    # clipped together while it was listed: whether the clip is on still, nobody can say here
    first = proof.discharges[0]
    clip = Event(kind=r.READ, at=2.0, key="cold.tubeclip.b1", value=1.0, was={})
    read = Event(kind=r.READ, at=2.0, key=first.key, value=1.0, was=first.evidence)
    kept = proof.record.with_(read, clip)
    assert replace(proof, record=kept, now=60.0).done(first)
    assert not replace(proof, record=kept, now=2 * 3600.0).done(first)


@pytest.mark.parametrize(
    ("row", "reason", "rule"), [("p9", "scrapped last week", "no capacitor"), ("p1", "scrapped last week", "")]
)
def test_only_what_is_asked_for_is_closed(row, reason, rule):
    proof = Proof(boards=(BoardFacts(name="PS", row="b1"),), record=Record((stores_here_event(),)), now=1.0)
    assert [found.rule for found in interlocks.write_off_store(proof, row, reason)] == ([rule] if rule else [])


def stores_here_event() -> Event:
    return stores_here([BoardFacts(name="PS", supply="switching", parts=(BULK,), row="b1", rows={"C9": "p1"})])[
        "p1"
    ].event(0.0)


@pytest.mark.parametrize("kind", [r.RESTORED, r.IMPORTED])
def test_what_comes_from_elsewhere_voids_what_hurts(kind):
    proof = Proof(
        boards=(BoardFacts(name="PS", supply="switching", parts=(BULK,), row="b1", rows={"C9": "p1"}),),
        record=Record(),
        now=0.0,
    )
    checks = {c.fact: c for c in proof.steps[0].checks if not c.optional and c.kind in ("look", "dc_volts")}
    reads = [
        Event(kind=r.READ, at=0.0, key=checks[f].key, value=v, was=checks[f].evidence)
        for f, v in (("discharged", 0.1), ("mains side", 1.0), ("nothing left inside", 1.0))
    ]
    after = replace(proof, record=Record((*reads, Event(kind=kind, at=1.0))), now=2.0)
    stood = {fact: after.status_of(checks[fact]).passed for fact in ("discharged", "mains side", "nothing left inside")}
    assert stood == {"discharged": False, "mains side": True, "nothing left inside": False}


@pytest.mark.parametrize("kind", [r.HANDS, r.REFORM, r.MEND, r.SWAP, r.MOVED])
def test_whatever_opens_the_case_asks_for_the_look_inside_again(kind):
    proof = Proof(boards=(BoardFacts(name="MB", row="b1"),), record=Record(), now=0.0)
    (look,) = [c for c in proof.steps[0].checks if c.fact == "nothing left inside"]
    read = Event(kind=r.READ, at=0.0, key=look.key, value=1.0, was=look.evidence)
    assert replace(proof, record=Record((read,))).status_of(look).passed
    assert (
        not replace(proof, record=Record((read, Event(kind=kind, at=1.0, row="p1", board="b1")))).status_of(look).passed
    )


def test_what_another_bench_read_proves_nothing():
    proof = Proof(
        boards=(BoardFacts(name="PS", supply="switching", parts=(BULK,), row="b1", rows={"C9": "p1"}),),
        record=Record(),
        now=0.0,
    )
    plug = next(c for c in proof.steps[0].checks if c.fact == "mains side")
    read = Event(kind=r.READ, at=0.0, key=plug.key, value=1.0, was=plug.evidence, imported=True)
    stood = replace(proof, record=Record((read,))).status_of(plug)
    assert not stood.passed and not stood.failed and "not confirmed" in stood.void
