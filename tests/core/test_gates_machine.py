"""A machine that does everything to a unit in any order. What it knows of the unit it keeps in plain sets of its own, and
holds against what the gates let through: nothing is touched that may be charged, no power goes on what is not proven."""

from dataclasses import replace

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from idlebench.core.board.devices import read_device
from idlebench.core.board.first_look import first_look
from idlebench.core.board.parts import Fitted, polarity_mark
from idlebench.core.circuit.discharge import DANGEROUS
from idlebench.core.prove import BoardFacts, Check, Event, Proof, Record, Thing, changes, interlocks
from idlebench.core.prove import record as r
from idlebench.core.prove.status import CREEPS_BACK
from idlebench.core.prove.things import PART_FACTS
from idlebench.core.text.rails_and_chips import read_chip, read_rail

SUPPLY, MAIN, SPARE = "b1", "b2", "b3"
#: Reference, row, board, part. C7 and C2 hold a charge; C3 is across the mains.
PARTS = {
    "p1": ("C7", SUPPLY, Fitted(ref="C7", value=220e-6, volts=400, role="bulk", rail_volts=325)),
    "p2": ("C3", SUPPLY, Fitted(ref="C3", value=100e-9, volts=275, kind="film", role="mains_x", safety="X2")),
    "p3": ("C9", SUPPLY, Fitted(ref="C9", value=470e-6, volts=16)),
    "p4": ("C2", MAIN, Fitted(ref="C2", value=2200e-6, volts=25, role="bulk", rail_volts=30)),
    "p5": ("C1", MAIN, Fitted(ref="C1", value=1e-4, volts=16)),
    "p6": ("C1", SPARE, Fitted(ref="C1", value=1e-4, volts=16)),
}
ROWS = st.sampled_from(sorted(PARTS))
BOARDS = st.sampled_from([SUPPLY, MAIN, SPARE])
LOOKS = first_look({"supply"})
HURTS = frozenset(look.key for look in LOOKS if look.hurts)


class Bench(RuleBasedStateMachine):
    """A person who does as they like; only what the gates allow happens."""

    def __init__(self) -> None:
        super().__init__()
        self.parts = {row: part for row, (_, _, part) in PARTS.items()}
        self.here = {SUPPLY, MAIN}
        self.names = {SUPPLY: "PS", MAIN: "MB", SPARE: "MB"}
        self.fitted: dict[str, str] = {}
        self.rails, self.fuse, self.chips = "+5 V 2 A", "T 1 A", "U1 cpu gnd 1 +5V 2 clock 3"
        self.battery, self.mains, self.way = "", 230.0, "lamp"
        self.looked: set[str] = set(HURTS)
        self.live = self.elsewhere = ""
        self.handed = self.reforming = False
        self.now = 0.0
        self.events: list[Event] = []
        self.pieces = 0
        # what the machine itself knows
        self.charged: dict[str, float | None] = dict.fromkeys(("p1", "p4"))
        self.last_power: float | None = None
        self.seen_polar: set[str] = set()
        self.fuse_read = ""
        self.rails_read: set[str] = set()
        self.looked_inside = False
        self.passed: dict[str, tuple] = {}

    # the unit as the core sees it

    def boards(self) -> tuple[BoardFacts, ...]:
        found = []
        for board in sorted(self.here):
            mine = {row: part for row, part in self.parts.items() if PARTS[row][1] == board}
            refs = {PARTS[row][0]: row for row in mine}
            supply = board == SUPPLY
            found.append(
                BoardFacts(
                    name=self.names[board], supply="switching" if supply else "", parts=tuple(mine.values()),
                    swapped=frozenset(PARTS[row][0] for row in mine if row in self.fitted),
                    rails=(read_rail(self.rails),) if supply else (), chips=(read_chip(self.chips),) if board == MAIN else (),
                    fuse=self.fuse if supply else "", row=board, rows=refs,
                    devices=(read_device(self.battery),) if self.battery and board == MAIN else (),
                    fitted={PARTS[row][0]: piece for row, piece in self.fitted.items() if row in mine},
                )
            )  # fmt: skip
        return tuple(found)

    def proof(self) -> Proof:
        return Proof(
            boards=self.boards(), record=Record(tuple(self.events)), now=self.now, way=self.way, mains=self.mains, name="A", looks=LOOKS, looked=frozenset(self.looked),
            live=self.live, live_elsewhere=self.elsewhere, handed_over=self.handed,
            reforming=("C7 on PS",) if self.reforming else (),
        )  # fmt: skip

    def things(self) -> dict[str, Thing]:
        found = {}
        for board in self.here:
            facts = {"rails": self.rails, "fuse": self.fuse} if board == SUPPLY else {}
            facts |= {"chips": self.chips, "devices": self.battery} if board == MAIN else {}
            found[board] = Thing(row=board, board=board, name=self.names[board], facts=facts)
        for row, part in self.parts.items():
            board = PARTS[row][1]
            if board in self.here:
                facts = {name: getattr(part, name) for name in PART_FACTS}
                found[row] = Thing(
                    row=row,
                    board=board,
                    name=PARTS[row][0],
                    facts=facts,
                    fitted=self.fitted.get(row, ""),
                    mains=bool(part.safety),
                )
        return found

    def change(self, **fields: object) -> bool:
        """Change something as a service does: inside the door, seen by looking before and after."""
        if interlocks.closed(self.proof()):
            return False
        before = self.things()
        kept = {name: getattr(self, name) for name in fields}
        settings_before = (self.mains, self.way)
        proof = self.proof()
        for name, value in fields.items():
            setattr(self, name, value)
        events = list(changes(before, self.things(), self.now))
        if (self.mains, self.way) != settings_before:
            events.append(Event(kind=r.MAINS, at=self.now))
        if interlocks.change(proof, events):
            for name, value in kept.items():
                setattr(self, name, value)
            return False
        assert not (self.live and events), "something was changed under power"
        self.events += events
        return bool(events)

    def tick(self, seconds: float = 1.0) -> None:
        self.now += seconds

    def empty(self, row: str) -> bool:
        """Whether the machine knows a store to be empty: read under 10 V after the last power, and not long ago."""
        at = self.charged.get(row)
        fresh = at is not None and (self.last_power is None or at > self.last_power)
        # what creeps back into a store that never held over 60 V hurts nobody
        creeps = row == "p1" and (self.parts["p1"].rail_volts or 0) > DANGEROUS
        return fresh and (not creeps or self.now - at <= CREEPS_BACK)

    def stores_here(self) -> set[str]:
        return {row for row in ("p1", "p4") if PARTS[row][1] in self.here and self.parts[row].looks != "missing"}

    def worked(self, board: str = SUPPLY) -> None:
        """Something on a board was changed: what the machine had seen of it counts no more. On dummy loads the supply stood
        alone, so that a fed board's change leaves those steps as they are."""
        alone = ("up.limited.", "up.third.", "up.half.", "up.most.", "up.full.") if board != SUPPLY else ()
        self.passed = {key: what for key, what in self.passed.items() if key.startswith(alone)} if alone else {}
        self.rails_read.clear()

    # twenty and more things to do

    @rule(row=ROWS, value=st.sampled_from([1e-6, 1e-4, 220e-6, 470e-6]))
    def edit_value(self, row: str, value: float) -> None:
        self.tick()
        if PARTS[row][1] in self.here and self.change(parts={**self.parts, row: replace(self.parts[row], value=value)}):
            # written down, not worked on: nothing else on the board was touched
            self.seen_polar.discard(row)
            self.charged.update({row: None} if row in self.charged else {})

    @rule(row=ROWS, looks=st.sampled_from(["", "burst", "leaking", "missing"]))
    def edit_looks(self, row: str, looks: str) -> None:
        self.tick()
        if PARTS[row][1] in self.here and self.change(parts={**self.parts, row: replace(self.parts[row], looks=looks)}):
            # written down, not worked on: nothing else on the board was touched
            self.seen_polar.discard(row)
            self.charged.update({row: None} if row in self.charged else {})

    @rule(volts=st.sampled_from([325.0, 450.0, 40.0]))
    def list_the_store_anew(self, volts: float) -> None:
        self.tick()
        if SUPPLY in self.here and self.change(parts={**self.parts, "p1": replace(self.parts["p1"], rail_volts=volts)}):
            self.charged["p1"] = None
            self.seen_polar.discard("p1")

    @rule(row=ROWS)
    def swap(self, row: str) -> None:
        self.tick()
        ref, board, _ = PARTS[row]
        proof = self.proof()
        if board not in self.here or interlocks.swap(proof, board, ref, chosen=True, swapped=row in self.fitted):
            return
        near = {s for s in self.stores_here() if PARTS[s][1] == board or self.last_power is not None}
        new_piece = {s for s in near if s in self.fitted}
        assert not self.live, "a hand on a live unit"
        assert all(self.empty(s) for s in near - new_piece), "a hand beside a charged store"
        self.pieces += 1
        part = self.parts[row].after_swap(self.parts[row].value, self.parts[row].kind, "radial", False)
        fitted = {**self.fitted, row: f"NEW #{self.pieces}"}
        assert self.change(fitted=fitted, parts={**self.parts, row: part})
        self.worked(board)
        self.seen_polar.discard(row)
        self.looked_inside = False
        self.charged.update({row: None} if row in self.charged else {})

    @rule(row=ROWS)
    def take_a_swap_back(self, row: str) -> None:
        self.tick()
        fitted = {k: v for k, v in self.fitted.items() if k != row}
        if PARTS[row][1] in self.here and row in self.fitted and self.change(fitted=fitted):
            self.worked(PARTS[row][1])
            self.seen_polar.discard(row)
            self.looked_inside = False
            self.charged.update({row: None} if row in self.charged else {})

    @rule(board=BOARDS)
    def mend(self, board: str) -> None:
        self.tick()
        if board in self.here and not interlocks.mend(self.proof(), board):
            assert not self.live
            self.events.append(Event(kind=r.MEND, at=self.now, row=board, board=board))
            self.worked(board)
            self.looked_inside = False

    @rule(board=BOARDS)
    def move_a_board(self, board: str) -> None:
        self.tick()
        if not interlocks.moving([self.proof()], [board]) and self.change(here=self.here ^ {board}):
            self.worked()
            if board == SUPPLY:
                self.fuse_read = ""
            for row in (row for row in PARTS if PARTS[row][1] == board):
                self.seen_polar.discard(row)
                if row in self.charged:
                    self.charged[row] = None

    @rule(board=BOARDS, name=st.sampled_from(["PS", "MB", "PS-1"]))
    def rename_a_board(self, board: str, name: str) -> None:
        self.names[board] = name

    @rule(line=st.sampled_from(["+5 V 2 A", "+5 V 2 A tol 50", "+5 V 3 A"]))
    def retype_the_rail(self, line: str) -> None:
        self.tick()
        if SUPPLY in self.here and self.change(rails=line):
            self.worked()

    @rule()
    def retype_the_rail_and_back(self) -> None:
        line = self.rails
        self.tick()
        if SUPPLY in self.here and self.change(rails="+5 V 2 A tol 49") and self.change(rails=line):
            self.worked()

    @rule(marking=st.sampled_from(["T 1 A", "T 16 A"]))
    def retype_the_fuse(self, marking: str) -> None:
        self.tick()
        if SUPPLY in self.here and self.change(fuse=marking):
            self.fuse_read = ""
            self.passed.clear()
            self.rails_read.clear()

    @rule()
    def the_fuse_blows(self) -> None:
        self.tick()
        if SUPPLY in self.here and not self.handed:
            self.events.append(Event(kind=r.FUSE, at=self.now, row=SUPPLY, board=SUPPLY, mains=True))
            self.fuse_read = ""
            self.passed.clear()

    @rule(chips=st.sampled_from(["U1 cpu gnd 1 +5V 2 clock 3", "U1 cpu gnd 1 +5V 4 clock 3"]))
    def retype_the_chip(self, chips: str) -> None:
        self.tick()
        if MAIN in self.here and self.change(chips=chips):
            self.worked(MAIN)

    @rule(battery=st.sampled_from(["", "BT1 battery 3.6V", "BT1 battery 3.6V leaking"]))
    def list_a_battery(self, battery: str) -> None:
        self.tick()
        if MAIN in self.here and self.change(battery=battery):
            self.worked(MAIN)

    @rule(mains=st.sampled_from([230.0, 240.0]))
    def change_the_mains(self, mains: float) -> None:
        self.tick()
        if self.change(mains=mains):
            self.passed.clear()

    @rule(way=st.sampled_from(["lamp", "variable", "straight"]))
    def change_the_way(self, way: str) -> None:
        self.tick()
        if self.change(way=way):
            self.passed.clear()

    @rule(key=st.sampled_from(sorted(HURTS)))
    def take_a_tick_back(self, key: str) -> None:
        if not interlocks.closed(self.proof()) and not interlocks.idle(self.proof()):
            self.looked ^= {key}
            self.try_every_step(False)

    @rule()
    def tick_all(self) -> None:
        if not interlocks.closed(self.proof()):
            self.looked |= HURTS

    @rule(which=st.integers(0, 400), good=st.integers(0, 5))
    def read_one(self, which: int, good: int) -> None:
        checks = [c for step in self.proof().steps for c in step.checks]
        self.read(checks[which % len(checks)], good > 0)

    @rule()
    def read_empty(self) -> None:
        for check in self.proof().discharges:
            self.read(check, True)

    @rule()
    @precondition(lambda self: not self.live)
    def read_all_that_is_cold(self) -> None:
        for check in [c for step in self.proof().steps for c in step.checks if not c.live]:
            self.read(check, True)
        self.read_empty()
        self.read(self.proof().check("cold.look.loose"), True)

    @rule()
    def read_all_that_is_live(self) -> None:
        if step := self.proof().step(self.live):
            self.tick(step.checks[-1].hold * 60)
            for check in step.checks:
                self.read(check, True)

    @rule()
    def find_a_rail_dead(self) -> None:
        if not self.live:
            self.read_empty()
            self.read(self.proof().check("cold.look.loose"), True)
            self.power_at_the_next_step()
        step = self.proof().step(self.live)
        check = next((c for c in (step.checks if step else ()) if c.dead_below is not None), None)
        if check and self.read(check, False, 0.0):
            self.idle()
            self.try_every_step(False)

    @rule(which=st.integers(0, 400))
    def override_one(self, which: int) -> None:
        proof = self.proof()
        checks = [c for step in proof.steps for c in step.checks]
        check = checks[which % len(checks)]
        if not interlocks.override(proof, check):
            assert not check.safety, "what can hurt somebody was overridden"
            self.events.append(Event(kind=r.READ, at=self.now, key=check.key, overridden=True, was=check.evidence))

    @rule(which=st.integers(0, 6))
    def power_on(self, which: int) -> None:
        steps = self.proof().steps
        self.power(steps[which % len(steps)].key)

    @rule()
    def power_at_the_next_step(self) -> None:
        if current := self.proof().current:
            self.power(current.key)

    @rule()
    def climb(self) -> None:
        """Everything in its order, as a careful person does it: so that the machine comes to the upper steps at all."""
        self.tick_all()
        for _ in range(2):
            if not self.live:
                self.read_all_that_is_cold()
            self.power_at_the_next_step()
            self.read_all_that_is_live()

    @initialize(height=st.integers(0, 4))
    def begin_somewhere(self, height: int) -> None:
        for _ in range(height):
            self.climb()
            self.idle()

    @rule()
    def set_right(self) -> None:
        """Mend what keeps a unit from power, as a person does who wants to go on."""
        self.elsewhere, self.reforming = "", False
        if self.handed:
            self.reopen()
        self.idle()
        self.change(battery="", parts={row: replace(part, looks="") for row, part in self.parts.items()})
        if SUPPLY not in self.here:
            self.move_a_board(SUPPLY)
        self.climb()
        self.idle()

    @rule(lazy=st.booleans())
    def try_every_step(self, lazy: bool) -> None:
        """Power at each step, straight away or after the least that might do."""
        for step in self.proof().steps:
            if not self.live:
                if not lazy:
                    self.read_empty()
                    self.read(self.proof().check("cold.look.loose"), True)
                self.power(step.key)
                self.idle()

    @rule(row=ROWS, lazy=st.booleans())
    def swap_and_try(self, row: str, lazy: bool) -> None:
        if row not in self.fitted:
            self.swap(row)
        else:
            self.take_a_swap_back(row)
        self.try_every_step(lazy)

    @rule()
    def two_at_once(self) -> None:
        """A failing reading and power on, sent together: whichever comes second is judged on what the first one wrote."""
        proof = self.proof()
        step = proof.step(self.live)
        if step is None:
            return
        check = next(c for c in step.checks if not c.seen or c.safety)
        self.read(check, False)
        following = proof.steps[min(proof.steps.index(step) + 1, len(proof.steps) - 1)]
        was = self.live
        self.power(following.key)
        assert self.live == was, "went on beside a reading that failed"

    @rule()
    def idle(self) -> None:
        self.tick()
        if self.live:
            self.events.append(Event(kind=r.IDLE, at=self.now))
            self.live = ""

    @rule(other=st.sampled_from(["", "", "B"]))
    def another_unit_goes_live(self, other: str) -> None:
        if not self.live:
            self.elsewhere = other

    @rule(on=st.booleans())
    def reform(self, on: bool) -> None:
        self.tick()
        if on and not interlocks.reform(self.proof(), self.parts["p1"], self.reforming) and SUPPLY in self.here:
            assert not self.live
            self.events.append(Event(kind=r.REFORM, at=self.now, row="p1", board=SUPPLY))
            self.reforming, self.charged["p1"] = True, None
        elif not on:
            self.reforming = False
        self.try_every_step(True)

    @rule(minutes=st.sampled_from([1, 29, 31]))
    def time_passes(self, minutes: int) -> None:
        self.read_empty()
        self.read(self.proof().check("cold.look.loose"), True)
        self.tick(60 * minutes)
        self.try_every_step(True)

    @rule()
    def hand_over(self) -> None:
        self.tick()
        if not interlocks.hand_over(replace(self.proof(), skipped={look.key: "not now" for look in LOOKS})):
            assert not self.live and all(self.empty(s) for s in self.stores_here()) and self.looked_inside
            self.events.append(Event(kind=r.HANDED, at=self.now))
            self.handed = True

    @rule()
    @precondition(lambda self: self.handed)
    def reopen(self) -> None:
        self.tick()
        assert not interlocks.reopening(self.proof(), "it came back dark")
        self.events.append(Event(kind=r.REOPENED, at=self.now))
        self.handed = False
        self.charged = dict.fromkeys(self.charged)
        self.seen_polar.clear()
        self.passed.clear()
        self.rails_read.clear()
        self.fuse_read, self.looked_inside = "", False

    # what they come down to

    def read(self, check: Check, good: bool, value: float | None = None) -> bool:
        self.tick()
        proof = self.proof()
        check = proof.check(check.key)
        if check is None or interlocks.reading(proof, check):
            return False
        if value is None:
            value = self.inside(check) if good else 1e6 if not check.seen else 0.0
        row = check.key.removeprefix("cold.discharge.")
        if check.fact not in ("discharged", "mains read") and not check.live and self.last_power is not None:
            new = {s for s in self.stores_here() if s in self.fitted}
            assert all(self.empty(s) for s in self.stores_here() - new), "a probe beside a charged store"
        assert check.live == bool(self.live)
        if check.hold and good:
            power = next(e for e in reversed(self.events) if e.kind == r.POWER)
            assert self.now - power.at >= check.hold * 60, "held too short"
        self.events.append(Event(kind=r.READ, at=self.now, key=check.key, value=value, was=check.evidence))
        ok = check.passes(value)
        if check.fact == "discharged":
            self.charged[row] = self.now if ok else None
        elif check.fact == "polarity":
            row = check.key.removeprefix("cold.polarity.")
            (self.seen_polar.add if ok else self.seen_polar.discard)(row)
        elif check.key == f"cold.fuse.{SUPPLY}":
            self.fuse_read = self.fuse if ok else ""
        elif check.fact == "no short":
            (self.rails_read.add if ok else self.rails_read.discard)(check.key)
        if check.dead_below is not None and abs(value) < check.dead_below:
            self.fuse_read = ""
            self.rails_read.clear()
        if check.fact == "nothing left inside":
            self.looked_inside = ok
        elif not check.live:
            self.looked_inside = False
        if check.live:
            self.passed[check.key] = (ok, self.rails, self.mains, self.way)
        return True

    @staticmethod
    def inside(check: Check) -> float:
        if check.seen:
            return 1.0
        low, high = check.low, check.high
        return (low + high) / 2 if low is not None and high is not None else high / 2 if high is not None else low * 2

    def power(self, key: str) -> None:
        self.tick()
        proof = self.proof()
        if interlocks.power(proof, key):
            return
        assert not self.handed and not self.elsewhere and not self.reforming and self.looked >= HURTS
        assert "leaking" not in self.battery or MAIN not in self.here
        assert SUPPLY in self.here and self.parts["p2"].looks == "", "power on a bad mains part"
        if not self.live:
            assert all(self.empty(s) for s in self.stores_here()), "power with a charged or unseen store behind it"
            assert self.looked_inside, "power on a case that was opened since somebody looked"
        for row in self.fitted:
            part = self.parts[row]
            if PARTS[row][1] in self.here and part.polar and polarity_mark(part.kind, part.mounting).side != "none":
                assert row in self.seen_polar, "power on a part whose polarity nobody saw"
        assert self.fuse_read == self.fuse, "power on a fuse that nobody read"
        wanted = {c.key for c in proof.steps[0].checks if c.fact == "no short"}
        assert wanted <= self.rails_read, "power on a rail that may be short"
        before = proof.steps[: [s.key for s in proof.steps].index(key)]
        for check in (c for s in before for c in s.checks if c.live and c.safety):
            assert self.passed.get(check.key) == (True, self.rails, self.mains, self.way), (
                "an earlier step does not stand"
            )
        self.events.append(Event(kind=r.POWER, at=self.now, step=key))
        self.live, self.last_power = key, self.now

    @invariant()
    def a_live_step_is_a_live_step(self) -> None:
        assert not self.live or self.proof().step(self.live).live

    @invariant()
    def what_is_live_is_on_record(self) -> None:
        power = self.proof().power
        assert (power.step if power else "") == self.live


def test_the_machine_can_climb_to_a_proven_unit():
    """Else it would prove nothing: the gates let a careful person through, and hand-over closes what they did."""
    bench = Bench()
    for _ in range(8):
        bench.climb()
        bench.idle()
    bench.read_all_that_is_cold()
    assert {e.step for e in bench.events if e.kind == r.POWER} == {"limited", "full", "feed", "life"}
    assert bench.proof().proven
    bench.hand_over()
    assert bench.handed and not bench.change(rails="+5 V 3 A")


Bench.TestCase.settings = settings(max_examples=20, stateful_step_count=25, deadline=None)
TestBench = Bench.TestCase
