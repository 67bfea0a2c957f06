"""What is done to a practice machine, move by move, and what becomes of it.

``look C1`` · ``empty`` · ``read +5V dc`` · ``read C1 esr`` · ``press J2`` · ``picture`` · ``power lamp dummy`` · ``power full board`` ·
``power off`` · ``swap C1 with GP105-4700u-25`` · ``swap VR1`` · ``mend J2`` · ``say C1`` · ``done``
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..board.parts import Capacitor, Fitted
from ..refusal import BadInput, no_longer_than
from ..simulate.monitor import shows
from ..simulate.readings import UNITS, Asked, read_asked
from ..simulate.sitting import Sitting
from ..simulate.state import State
from ..simulate.supply import Bench
from ..simulate.truth import Fault, read_truth
from ..text.quantity import show
from ..wording import many
from .machine_parts import NOTHING, Machine, PracticeStep

#: Minutes of hands: a look, a reading without and under power, emptying the stores, emptying a tube, changing the power and
#: holding it for a minute, a part out and another in, a joint made new.
LOOK, COLD, LIVE, EMPTY, TUBE, POWER, SWAP, MEND = 1, 2, 1, 4, 25, 2, 12, 6
#: What a dead board, a dead meter, a capacitor without a price and any other part cost, money of the shop.
BOARD, METER, CAN, OTHER = 90.0, 45.0, 0.9, 1.8
#: Moves of one machine at most.
MOST = 250
#: V at which a store that stands backwards goes, and times its marked volts at which any does.
TURNS, OVER = 1.5, 1.2

Find = Callable[[str], Capacitor | None]


@dataclass(frozen=True)
class MoveResult:
    """A move with what came of it. kind: "", "read", "event" for what happened, "harm" for what went or would have hurt."""

    move: str
    text: str
    kind: str = ""


@dataclass(kw_only=True)
class Run:
    """A machine with what was done to it so far.

    power: "" for none, "lamp" or "full"; load: of the dummy loads, the boards, or none. charged: whether stores may hold volts.
    fitted: new parts by place. cured: places that were mended or changed. burst: places whose part went. harm: what hurt, burst
    or would have. lamped: whether it was behind a lamp since the last change, and nothing went. claimed: what was said in the end.
    hinted: moves done when a hint was last given. guided: each step is shown with its reason. proven: rails that were read under
    their load since the last change, right each.
    """

    machine: Machine
    find: Find
    said: list[MoveResult] = field(default_factory=list)
    moves: list[str] = field(default_factory=list)
    power: str = ""
    load: str = ""
    charged: bool = True
    fitted: dict[str, Capacitor] = field(default_factory=dict)
    cured: set[str] = field(default_factory=set)
    burst: set[str] = field(default_factory=set)
    blown: bool = False
    harm: list[str] = field(default_factory=list)
    minutes: int = 0
    money: float = 0.0
    measured: int = 0
    claimed: frozenset[str] = frozenset()
    board_dead: bool = False
    lamped: bool = False
    done: bool = False
    hints: int = 0
    hinted: int = -1
    guided: bool = False
    proven: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        # a fuse that is gone when the machine comes
        if not self.moves:
            self.blown = "F1 blown" in self.machine.truth

    # What is kept between moves

    def as_json(self) -> dict[str, object]:
        """The run without its machine, as plain values."""
        return {
            "said": [[s.move, s.text, s.kind] for s in self.said], "moves": list(self.moves), "power": self.power, "load": self.load,
            "charged": self.charged, "fitted": {ref: new.part for ref, new in self.fitted.items()}, "cured": sorted(self.cured),
            "burst": sorted(self.burst), "blown": self.blown, "harm": list(self.harm), "minutes": self.minutes, "money": self.money,
            "measured": self.measured, "claimed": sorted(self.claimed), "board_dead": self.board_dead, "lamped": self.lamped,
            "done": self.done, "hints": self.hints, "hinted": self.hinted, "guided": self.guided, "proven": sorted(self.proven),
        }  # fmt: skip

    @classmethod
    def of(cls, machine: Machine, find: Find, kept: Mapping[str, Any]) -> Run:
        """A run as it was kept. A part that the catalogue has no more is as if the old one stood there."""
        if not kept:
            return cls(machine=machine, find=find)
        fitted = {ref: new for ref, name in kept["fitted"].items() if (new := find(name)) is not None}
        plain = {
            key: _own(kept[key])
            for key in ("moves", "power", "load", "charged", "blown", "harm", "minutes", "money", "measured")
        }
        more = {key: kept[key] for key in ("board_dead", "lamped", "done", "hints")}
        # what was begun before these were noted
        more |= {
            "hinted": kept.get("hinted", -1),
            "guided": kept.get("guided", False),
            "proven": set(kept.get("proven", ())),
        }
        return cls(
            machine=machine, find=find, said=[MoveResult(*one) for one in kept["said"]], fitted=fitted, cured=set(kept["cured"]),
            burst=set(kept["burst"]), claimed=frozenset(kept["claimed"]), **plain, **more,
        )  # fmt: skip

    def advice(self) -> PracticeStep | None:
        """What a careful person would do next: the first step of the way that was not done yet, in its order."""
        left = list(self.moves)
        for step in self.machine.way:
            known = step.move.removesuffix(" best")
            spot = next((i for i, move in enumerate(left) if move == known or move.startswith(f"{known} with ")), None)
            if spot is None:
                return step
            left = left[spot + 1 :]
        return None

    def hint(self) -> PracticeStep | None:
        """What a careful person would do next, told; asked twice of the same state it counts once, and in a guided run not at all."""
        if not self.guided and self.hinted != len(self.moves):
            self.hints += 1
        self.hinted = len(self.moves)
        return self.advice()

    # What is there

    @property
    def faults(self) -> tuple[Fault, ...]:
        """What is still wrong."""
        gone = {ref for ref in self.burst if ref not in self.cured}
        kept = [f for f in read_truth(self.machine.truth) if f.ref not in self.cured and f.ref != "F1"]
        return (*kept, *(Fault(ref, "open") for ref in sorted(gone)))

    @property
    def bench(self) -> Bench:
        machine = self.machine
        parts = [replace(p, volts=self._marked(p)) for p in machine.parts]
        return Bench.of(machine.lines, parts, machine.fuse, listed=machine.rails, new=self.fitted)

    def _marked(self, part: Fitted) -> float | None:
        return part.volts if part.ref in self.cured else self.machine.marked.get(part.ref, part.volts)

    def sitting(self, pressed: tuple[str, ...] = (), stepping: bool = False) -> Sitting:
        """The simulated bench as it is set; each reading has noise of its own, the same one each time."""
        bench = self.bench
        faults = (*self.faults, *((Fault("F1", "blown"),) if self.blown else ()))
        # what belongs to the tube alone is asked by its picture
        faults = tuple(f for f in faults if f.ref in bench.refs) if self.machine.tube else faults
        return Sitting(
            bench=bench,
            faults=faults,
            state=self._state(pressed, stepping),
            seed=len(self.moves) + 1,
            seconds=60.0,
        )

    def _state(self, pressed: tuple[str, ...] = (), stepping: bool = False) -> State:
        if not self.power:
            return State()
        return State(
            volts=230.0, lamp=self.machine.lamp if self.power == "lamp" else 0.0, load=self.load, pressed=pressed,
            step=self.machine.rails[0].name if stepping else "",
        )  # fmt: skip

    @property
    def places(self) -> tuple[str, ...]:
        """Everything that can be looked at."""
        machine = self.machine
        return (*(p.ref for p in machine.parts), *machine.joints, *machine.others)

    # What is done

    def move(self, text: str) -> MoveResult:
        """Do one thing, and tell what came of it.

        Args:
            text: as it was typed.

        Returns:
            What was said and read, and whether harm was done.

        Raises:
            BadInput: a move that cannot be, saying what can; nothing is done.
        """
        words = no_longer_than(text.strip(), 80, "move").split()
        if self.done:
            raise BadInput(text, "a new machine", "This machine is finished.", field="move")
        if len(self.moves) >= MOST:
            raise BadInput(text, f"at most {MOST} moves", "Begin again with the same seed.", field="move")
        acts = {
            "look": self._look, "empty": self._empty, "read": self._read, "press": self._press, "picture": self._picture,
            "power": self._power, "swap": self._swap, "mend": self._mend, "say": self._say, "done": self._done,
        }  # fmt: skip
        act = acts.get(words[0].lower() if words else "")
        if act is None:
            raise BadInput(text, f"one of {', '.join(acts)}", field="move")
        said = act(words[1:])
        plain = " ".join([words[0].lower(), *words[1:]])
        self.moves.append(plain)
        said = replace(said, move=plain)
        self.said.append(said)
        return said

    def _place(self, words: list[str], among: Iterable[str] | None = None) -> str:
        known = tuple(self.places if among is None else among)
        ref = words[0].upper() if len(words) == 1 else ""
        if ref not in known:
            raise BadInput(" ".join(words), f"one of {', '.join(known) or 'none here'}", field="move")
        return ref

    def _look(self, words: list[str]) -> MoveResult:
        ref = self._place(words)
        self.minutes += LOOK
        if ref in self.burst and ref not in self.cured:
            return MoveResult("", f"{ref} has burst: its shell is open, and fluid is all round it.")
        part = self.machine.part(ref)
        if ref in self.fitted:
            return MoveResult("", f"{ref} is the new part, the right way round.")
        if ref not in self.cured and ref in self.machine.seen:
            return MoveResult("", f"{ref}: {self.machine.seen[ref]}")
        if part is not None:
            return MoveResult(
                "",
                f"{ref}: {show(part.value, 'F')} {show(part.volts, 'V')}, flat on top, dry round its foot, the right way round.",
            )
        return MoveResult("", f"{ref}: nothing to see.")

    def _touched(self, what: str) -> MoveResult | None:
        """What happens to a hand or a probe that goes in too early; None where it may."""
        if self.power and self.machine.low:
            return self._hurt(f"{what} with power on: one slip shorts the rail into a chip. Pull the adapter first.")
        if self.power:
            return self._hurt(f"{what} with power on: the current would have gone through you. Make it idle first.")
        if not self.charged:
            return None
        # nothing was done, and the stores are as full as before
        if self.machine.tube:
            return self._hurt(f"{what} with the tube still charged: 12 kV are on its cup. Nothing was done.")
        if not self.machine.switching and what.startswith("A probe"):
            self.money += METER
        bulk = self.machine.parts[0]
        held = 325.0 if self.machine.switching else (bulk.volts or 25.0) * 0.7
        energy = bulk.value * held**2 / 2
        return self._hurt(
            f"{what} with charged reservoirs: {show(held, 'V', 2)} on {bulk.ref}, {show(energy, 'J', 2)}. "
            + ("It kills." if self.machine.switching else "The spark welds the probe on and destroys the meter.")
        )

    def _hurt(self, words: str) -> MoveResult:
        self.harm.append(words)
        return MoveResult("", words, "harm")

    def _empty(self, words: list[str]) -> MoveResult:
        if words:
            raise BadInput(" ".join(words), "nothing after “empty”", field="move")
        if self.power:
            return self._hurt("A resistor across a reservoir under power burns, and so do you. Make it idle first.")
        self.minutes += EMPTY + (TUBE if self.machine.tube else 0)
        self.charged = False
        tube = "The tube three times by the clock. " if self.machine.tube else ""
        return MoveResult("", f"{tube}Every reservoir reads under 10 V.")

    def _read(self, words: list[str]) -> MoveResult:
        bench = self.bench
        (asked,) = read_asked(" ".join(words), bench)
        cold = asked.what in ("ohms", "esr", "cap", "diode")
        if cold and (hurt := self._touched(f"A probe on {asked.point}")):
            return hurt
        if not cold and not self.power:
            raise BadInput(
                " ".join(words),
                "power on, or ohms, esr, cap, diode",
                "Without power there is nothing to read.",
                field="move",
            )
        self.minutes += COLD if cold else LIVE
        self.measured += 1
        reading = self.sitting(stepping=asked.what == "lowest").read(asked)
        self._proves(asked, reading.value)
        shown = "off the scale" if reading.value is None else show(reading.value, UNITS[asked.what], 4)
        return MoveResult("", f"{asked.point} {asked.what}: {shown}", "read")

    def _proves(self, asked: Asked, value: float | None) -> None:
        """A rail read right under its load is proven until something is changed; read wrong, it is not."""
        rail = next((r for r in self.machine.rails if r.name == asked.point), None)
        if rail is None or asked.what != "dc" or (self.power, self.load) != ("full", "board"):
            return
        if value is not None and rail.low <= value <= rail.high:
            self.proven.add(rail.name)
        else:
            self.proven.discard(rail.name)

    def _press(self, words: list[str]) -> MoveResult:
        ref = self._place(words, self.machine.joints)
        if not self.power:
            raise BadInput(ref, "power on", "A bad joint shows in the rail after it.", field="move")
        self.minutes += LIVE
        self.measured += 1
        point = self.machine.rails[0].name.replace(" ", "")
        (asked,) = read_asked(f"{point} dc", self.bench)
        before, after = (self.sitting(pressed).read(asked).value or 0.0 for pressed in ((), (ref,)))
        return MoveResult(
            "",
            f"{point} dc while {ref} is pressed with a plastic rod: {show(before, 'V', 4)}, then {show(after, 'V', 4)}",
            "read",
        )

    def _picture(self, words: list[str]) -> MoveResult:
        monitor = self.machine.monitor
        if monitor is None or words:
            raise BadInput("picture", "a machine with a tube", field="move")
        if self.power != "full" or self.load != "board":
            raise BadInput("picture", "full mains and its boards on", field="move")
        self.measured += 1
        self.minutes += LIVE
        rail = self.machine.rails[0]
        (asked,) = read_asked(f"{rail.name.replace(' ', '')} dc", self.bench)
        volts = self.sitting().read(asked).value or 0.0
        values = {p.ref: p.value for p in self.machine.parts} | {ref: new.value for ref, new in self.fitted.items()}
        seen = shows(monitor, volts, 0.0, values, self.faults)
        told = ", ".join(seen.signs) or "straight and square from top to bottom"
        return MoveResult("", f"The picture: {told}; {seen.height:.0%} of its height.", "read")

    def _power(self, words: list[str]) -> MoveResult:
        text = " ".join(words).lower()
        if text == "off":
            if not self.power:
                raise BadInput("power off", "power on", "It is idle.", field="move")
            self.power = self.load = ""
            self.minutes += 1
            return MoveResult("", "Idle.")
        hit = re.fullmatch(r"(lamp|full) (none|dummy|board)", text)
        if hit is None:
            raise BadInput(
                text, "lamp or full, then none, dummy or board; or off", "Such as power lamp dummy.", field="move"
            )
        if self.machine.low and hit[1] == "lamp":
            raise BadInput(text, "full, then none, dummy or board", "No lamp stands before an adapter.", field="move")
        straight = hit[1] == "full" and not self.lamped
        self.power, self.load = hit[1], hit[2]
        # nothing comes through a fuse that is gone
        self.charged = self.charged or not self.blown
        self.minutes += POWER
        told = self._held(straight)
        if hit[1] == "lamp" and not self.blown and not any(s.kind == "harm" for s in told):
            self.lamped = True
        worst = "harm" if any(s.kind == "harm" for s in told) else "event"
        return MoveResult("", " ".join(s.text for s in told), worst)

    def _held(self, straight: bool) -> list[MoveResult]:
        """A minute under power: what the lamp does, what goes."""
        if self.blown:
            return [MoveResult("", "Nothing happens: the fuse is blown.")]
        sitting = self.sitting()
        events = list(sitting.events)
        told = []
        bench = self.bench
        lamp = sitting.read(read_asked("lamp", bench)[0]).value if self.power == "lamp" else None
        if lamp is not None:
            word = "at full brightness: something is shorted" if lamp > 70 else "glowing" if lamp > 20 else "dark"
            told.append(MoveResult("", f"On, behind the lamp, which is {word} after ten seconds."))
        else:
            told.append(MoveResult("", "On, its adapter in." if self.machine.low else "On, full mains."))
        for words in events:
            if "F1 blew" in words:
                self.blown = True
                told.append(
                    self._hurt(f"{words}." if not straight else f"{words}. Behind a lamp the fuse would have survived.")
                )
            elif "vents" in words and words.split()[0] not in self.burst:
                told.append(self._bursts(words.split()[0], words.partition(": ")[2]))
            elif "ticks" in words or "starts and stops" in words:
                told.append(MoveResult("", "It ticks: it starts and stops.", "event"))
        told += [
            self._bursts(ref, why) for ref, why in self._going(sitting) if ref not in {s.text.split()[0] for s in told}
        ]
        if self.load == "board" and not self.board_dead and (high := self._too_high(sitting)):
            self.board_dead = True
            self.money += BOARD
            told.append(self._hurt(f"{high}: the boards on it would be destroyed, {BOARD:.0f} of money with them."))
        return told

    def _going(self, sitting: Sitting) -> list[tuple[str, str]]:
        """Stores that go within a minute of this, and why: the wrong way round, or on more volts than is marked on them."""
        found, bench = [], self.bench
        for part in self.machine.parts:
            if part.ref in self.burst:
                continue
            # what hangs on a rail has the rail's volts; a store before it has its own
            point = part.ref if part.role in ("bulk", "startup", "boost", "field_store") else part.rail.replace(" ", "")
            volts = abs(sitting.read(read_asked(f"{point} dc", bench)[0]).value or 0.0)
            marked = self.fitted[part.ref].volts if part.ref in self.fitted else self._marked(part)
            if part.ref in self.machine.backwards - self.cured and volts > TURNS:
                found.append((part.ref, f"it is the wrong way round on {show(volts, 'V', 3)}"))
            elif marked and volts > OVER * marked:
                found.append((part.ref, f"marked {show(marked, 'V')}, and {show(volts, 'V', 3)} on it"))
        return found

    def _bursts(self, ref: str, why: str) -> MoveResult:
        if ref in self.burst:
            return MoveResult("", f"{ref} is open and does nothing.")
        self.burst.add(ref)
        self.fitted.pop(ref, None)
        self.cured.discard(ref)
        return self._hurt(f"{ref} bursts: {why}. Its fluid is all over the board, and would have hit your face.")

    def _too_high(self, sitting: Sitting) -> str:
        for rail in self.machine.rails:
            point = rail.name.replace(" ", "")
            value = sitting.read(read_asked(f"{point} dc", self.bench)[0]).value or 0.0
            if abs(value) > 1.12 * abs(rail.nominal):
                return f"{rail.name} at {show(value, 'V', 3)}"
        return ""

    def _swap(self, words: list[str]) -> MoveResult:
        machine = self.machine
        changeable = (*(p.ref for p in machine.parts), *machine.others)
        ref = self._place(words[:1], changeable)
        part = machine.part(ref)
        if part is not None and (len(words) != 3 or words[1].lower() != "with"):
            raise BadInput(
                " ".join(words),
                f"swap {ref} with a part of the catalogue",
                "Choose one of the parts shown.",
                field="move",
            )
        if part is None and len(words) != 1:
            raise BadInput(" ".join(words), f"swap {ref}", field="move")
        new = self.find(words[2]) if part is not None else None
        if part is not None and new is None:
            raise BadInput(words[2], "a part of the catalogue", field="move")
        if hurt := self._touched(f"An iron at {ref}"):
            return hurt
        self.minutes += SWAP
        self.lamped = False
        self.proven.clear()
        self.burst.discard(ref)
        self.cured.add(ref)
        if ref == "F1":
            self.blown = False
            self.cured.discard(ref)
        if new is None:
            self.money += OTHER
            return MoveResult("", f"{ref}: another part with the same marking is in.")
        self.fitted[ref] = new
        self.money += new.price or CAN
        return MoveResult(
            "", f"{ref}: {new.part} is in, {show(new.value, 'F')} {show(new.volts, 'V')}, the right way round."
        )

    def _mend(self, words: list[str]) -> MoveResult:
        ref = self._place(words, (*self.machine.joints, "FB") if "FB" in self.machine.others else self.machine.joints)
        if hurt := self._touched(f"An iron at {ref}"):
            return hurt
        self.minutes += MEND
        self.lamped = False
        self.proven.clear()
        self.cured.add(ref)
        return MoveResult("", f"{ref}: its joints are resoldered.")

    def _say(self, words: list[str]) -> MoveResult:
        refs = frozenset(w.upper().strip(",") for w in words)
        known = {*self.places, NOTHING}
        if not refs or not refs <= known:
            raise BadInput(
                " ".join(words), f"the cause, of {', '.join(self.places)}, or {NOTHING.lower()}", field="move"
            )
        self.claimed = refs
        return MoveResult("", f"You named {' and '.join(sorted(refs)) if NOTHING not in refs else 'no part at all'}.")

    def _done(self, words: list[str]) -> MoveResult:
        if words:
            raise BadInput(" ".join(words), "nothing after “done”", field="move")
        if self.power:
            raise BadInput("done", "an idle machine", "Make it idle first.", field="move")
        if not self.claimed:
            raise BadInput("done", "the cause", "Name the cause first.", field="move")
        self.done = True
        return MoveResult("", "Finished.")

    # What came of it

    @property
    def cured_at_last(self) -> bool:
        """Whether it works: every rail in its limits at full mains with its boards, nothing goes, nothing burst is left in."""
        if self.burst or self.blown:
            return False
        trial = replace(self, power="full", load="board", moves=["trial"], said=[], harm=[])
        sitting, bench = trial.sitting(), trial.bench
        if any("vents" in e or "blew" in e for e in sitting.events) or trial._going(sitting):
            return False
        for rail in self.machine.rails:
            point = rail.name.replace(" ", "")
            volts, ripple = (
                sitting.read(read_asked(f"{point} {what}", bench)[0]).value or 0.0 for what in ("dc", "ripple")
            )
            if not rail.low <= volts <= rail.high or ripple > rail.ripple_limit:
                return False
        return not self.machine.tube or not trial._seen_signs()

    @property
    def unproven(self) -> tuple[str, ...]:
        """Rails that were not read right under their load since the last change."""
        return tuple(rail.name for rail in self.machine.rails if rail.name not in self.proven)

    def _seen_signs(self) -> tuple[str, ...]:
        values = {p.ref: p.value for p in self.machine.parts} | {ref: new.value for ref, new in self.fitted.items()}
        return shows(self.machine.monitor, abs(self.machine.rails[0].nominal), 0.0, values, self.faults).signs

    @property
    def cause_found(self) -> bool:
        return self.claimed == self.machine.cause

    @property
    def best(self) -> int:
        """Measurements of the careful way."""
        return sum(step.move.split()[0] in ("read", "press", "picture") for step in self.machine.way)

    @property
    def passed(self) -> bool:
        """Cured, each rail proven under its load, the cause found, and nobody hurt."""
        return self.done and self.cured_at_last and not self.unproven and self.cause_found and not self.harm

    @property
    def counted(self) -> str:
        """What it took, in words."""
        hints = f", {many(self.hints, 'hint')}" if self.hints else ""
        return f"{many(self.measured, 'measurement')}, {many(len(self.harm), 'unsafe act')}, {self.minutes} min{hints}"


def _own(value: Any) -> Any:
    """A list as one of its own; anything else as it is."""
    return list(value) if isinstance(value, list) else value


def play(machine: Machine, moves: Iterable[str], find: Find) -> Run:
    """A machine with moves done to it, one by one.

    Args:
        machine: the practice machine.
        moves: what is done, one by one.
        find: finds a part of the catalogue by its name.

    Returns:
        The run as it stands.

    Raises:
        BadInput: one of them cannot be.
    """
    run = Run(machine=machine, find=find)
    for move in moves:
        run.move(move)
    return run
