"""Two thousand people who do as they like with three machines, two devices and a clock, held against what is truly charged, wet and live.

The model keeps what is so: in which machine each store stands, when it was truly emptied, which board is wet, which machine is open.
The gates see the record and the lists alone. Whatever they let through is held against the model: no hand to a charged thing, no
power onto a wet or an open machine, and nobody marks a machine idle that they did not mean.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from copy import deepcopy
from dataclasses import dataclass, field, replace

import pytest

from idlebench.core.board.parts import Fitted
from idlebench.core.prove import BoardFacts, Event, Proof, Record, Thing, changes, interlocks
from idlebench.core.prove import record as r
from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.core.prove.hazards import Listed, newly_unlisted, stores_here
from idlebench.core.prove.things import PART_FACTS
from idlebench.core.text.rails_and_chips import read_rail

MINUTE, HOUR = 60.0, 3600.0
RAIL = (read_rail("+5 V 2 A"),)
BULK = Fitted(ref="C9", value=220e-6, volts=400.0, role="bulk", rail_volts=325.0)


@dataclass(kw_only=True)
class Machine:
    """A unit as the bench knows it: its lists and its record."""

    name: str
    boards: dict[str, dict[str, Fitted]]
    events: list[Event] = field(default_factory=list)
    live: str = ""
    session: int = 0
    # what its procedures say is wet, by board
    dries: dict[str, float] = field(default_factory=dict)


class Shop:
    """Three machines of one board each, and a person with dice."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)
        self.wall = self.true = 1e6
        self.boot, self.booted = "a", 0.0
        self.units = {
            n: Machine(name=n, boards={f"b{i}": {f"p{i}": replace(BULK, ref=f"C{i}")}}) for i, n in enumerate("ABC", 1)
        }
        self.removed: list[tuple[str, str, dict[str, Fitted]]] = []
        self.backup: tuple[dict[str, Machine], list[tuple[str, str, dict[str, Fitted]]]] | None = None
        self.sessions, self.restored = 0, False
        # the session of power that the page on each device tells of
        self.pages = [0, 0]
        # what is so
        self.stands = {"p1": "A", "p2": "B", "p3": "C"}
        self.emptied: dict[str, float | None] = dict.fromkeys(self.stands)
        self.wet = {"b1": 0.0, "b2": 0.0, "b3": 0.0}
        self.board_in = {"b1": "A", "b2": "B", "b3": "C"}
        self.open = dict.fromkeys("ABC", True)
        self.did: list[str] = []

    # what the gates see

    def facts(self, unit: Machine) -> tuple[BoardFacts, ...]:
        return tuple(
            BoardFacts(
                name=f"PS-{row}", supply="switching", parts=tuple(parts.values()), rails=RAIL, row=row, expected=0,
                rows={part.ref: key for key, part in parts.items()},
            )
            for row, parts in unit.boards.items()
        )  # fmt: skip

    def proof(self, unit: Machine) -> Proof:
        live = next((u.name for u in self.units.values() if u.live and u is not unit), "")
        return Proof(
            boards=self.facts(unit), record=Record(tuple(unit.events)), now=self.wall, way="straight", name=unit.name, live=unit.live,
            live_elsewhere=live, wet=tuple(b for b, until in unit.dries.items() if self.steady() < until),
            boot=self.boot, steady=self.steady(),
        )  # fmt: skip

    def steady(self) -> float:
        return self.true - self.booted

    def event(self, kind: str, **facts: object) -> Event:
        return Event(kind=kind, at=self.wall, boot=self.boot, steady=self.steady(), **facts)

    def listed(self, unit: Machine) -> Listed:
        rows = {row for board, parts in unit.boards.items() for row in (board, *parts)}
        return Listed(rows, stores_here(self.facts(unit)))

    def things(self, unit: Machine) -> dict[str, Thing]:
        found = {board: Thing(row=board, board=board, name=board, facts={}) for board in unit.boards}
        for board, parts in unit.boards.items():
            for row, part in parts.items():
                found[row] = Thing(
                    row=row, board=board, name=part.ref, facts={name: getattr(part, name) for name in PART_FACTS}
                )
        return found

    def change(self, what: Callable[[], object], *units: Machine) -> bool:
        """Change lists as the door does: looked at before and after; what stands under power is not changed."""
        if any(unit.live for unit in units):
            return False
        before = {u.name: (self.things(u), self.listed(u)) for u in units}
        what()
        was, is_ = {name: seen for name, (_, seen) in before.items()}, {u.name: self.listed(u) for u in units}
        gone = newly_unlisted(was, is_, self.wall)
        for unit in units:
            for event in (*changes(before[unit.name][0], self.things(unit), self.wall), *gone.get(unit.name, [])):
                unit.events.append(replace(event, boot=self.boot, steady=self.steady()))
        return True

    # what is so

    def charged(self, row: str) -> bool:
        at = self.emptied[row]
        return at is None or self.true - at > 30 * MINUTE + 1

    def in_reach(self, unit: Machine, board: str = "") -> list[str]:
        """Stores that a hand in a machine may meet: before it ever had power here those of the board, then the whole sheet."""
        return [
            row
            for row, where in self.stands.items()
            if where == unit.name and (not board or self.powered(unit) or row[1:] == board[1:])
        ]

    @staticmethod
    def powered(unit: Machine) -> bool:
        return any(event.kind == r.POWER for event in unit.events)

    def hand(self, unit: Machine, board: str = "") -> None:
        """A hand goes in."""
        assert not unit.live, "a hand in a live machine"
        met = [row for row in self.in_reach(unit, board) if self.charged(row)]
        assert not met, f"a hand beside {met}, charged"
        self.open[unit.name] = True

    def step(self) -> None:
        unit, act = self.dice.choice(list(self.units.values())), self.dice.choice(ACTS)
        self.did.append(f"{act.__name__} {unit.name}")
        self.wall, self.true = self.wall + 1, self.true + 1
        act(self, unit)


# What a person does


def swap_or_mend(shop: Shop, unit: Machine) -> None:
    board = shop.dice.choice([*unit.boards, "b9"])
    if not interlocks.mend(shop.proof(unit), board):
        shop.hand(unit, board)
        unit.events.append(shop.event(r.MEND, row=board, board=board))


def wash(shop: Shop, unit: Machine) -> None:
    """A procedure that opens the machine and wets a board; it dries for a day."""
    board = shop.dice.choice([*unit.boards, ""])
    if interlocks.inside(shop.proof(unit)):
        return
    shop.hand(unit)
    unit.events.append(shop.event(r.MEND, row="q1", board=board))
    if board:
        shop.wet[board] = shop.true + 24 * HOUR
        unit.dries[board] = shop.steady() + 24 * HOUR


def read_stores(shop: Shop, unit: Machine) -> None:
    """Every store that is asked for is emptied and read, as far as it stands there."""
    for check in shop.proof(unit).discharges:
        if not interlocks.reading(shop.proof(unit), check):
            row = check.key.rpartition(".")[2]
            if shop.stands.get(row) == unit.name:
                shop.emptied[row] = shop.true
            shop.open[unit.name] = True
            unit.events.append(shop.event(r.READ, key=check.key, value=0.4, was=check.evidence))


def read_the_rest(shop: Shop, unit: Machine) -> None:
    """Every other check without power, in its order, and the look inside once more; whoever looks says what is there."""
    cold = [check for step in shop.proof(unit).steps for check in step.checks if not check.live]
    for check in [*cold, *(check for check in cold if check.fact == INSIDE)]:
        proof = shop.proof(unit)
        if check.fact == DISCHARGED or proof.done(check) or interlocks.reading(proof, check):
            continue
        good = 1.0
        if check.fact == INSIDE:
            # water under the parts is not seen; once the bench knows nothing of it, everybody looks for it
            wet = any(shop.true < shop.wet[board] for board, where in shop.board_in.items() if where == unit.name)
            good, shop.open[unit.name] = float(not (wet and shop.restored)), False
        elif check.fact != "mains read":
            if shop.powered(unit):
                shop.hand(unit)
            shop.open[unit.name] = True
        if not check.seen:
            good = (check.low + check.high) / 2 if None not in (check.low, check.high) else check.low or check.high
        unit.events.append(shop.event(r.READ, key=check.key, value=good, was=check.evidence))


def power(shop: Shop, unit: Machine) -> None:
    step = next((s for s in shop.proof(unit).steps if s.live and not shop.proof(unit).step_done(s)), None)
    if step is None or interlocks.power(shop.proof(unit), step.key):
        return
    assert not any(u.live for u in shop.units.values() if u is not unit), "two live machines"
    assert not any(shop.true < shop.wet[b] for b, where in shop.board_in.items() if where == unit.name), (
        "power on water"
    )
    if not unit.live:
        assert not shop.open[unit.name], "power on an open machine"
        shop.sessions += 1
        unit.session = shop.sessions
    unit.live = step.key
    unit.events.append(shop.event(r.POWER, step=step.key))
    for row in shop.in_reach(unit):
        shop.emptied[row] = None


def climb(shop: Shop, unit: Machine) -> None:
    """A careful person: everything in its order, and power."""
    read_stores(shop, unit)
    read_the_rest(shop, unit)
    power(shop, unit)


def load_a_page(shop: Shop, unit: Machine) -> None:
    shop.pages[shop.dice.randrange(2)] = next((u.session for u in shop.units.values() if u.live), 0)


def make_idle(shop: Shop, unit: Machine) -> None:
    """From one of two devices, whose page may be an old one: only the power that it tells of ends."""
    live = next((u for u in shop.units.values() if u.live), None)
    meant = shop.dice.choice([*shop.pages, live.session if live else 0])
    if live is None:
        return
    if meant != live.session:
        assert interlocks.make_idle("another", live.name, False)
        return
    live.live = ""
    live.events.append(shop.event(r.IDLE))


def wait(shop: Shop, unit: Machine) -> None:
    later(shop, shop.dice.choice([MINUTE, 20 * MINUTE, 40 * MINUTE, 25 * HOUR]))


def set_the_clock(shop: Shop, unit: Machine) -> None:
    shop.wall += shop.dice.choice([-5 * HOUR, -HOUR, -MINUTE, MINUTE, HOUR, 5 * HOUR, 25 * HOUR])


def start_anew(shop: Shop, unit: Machine) -> None:
    """The computer is started anew; what dries is known by its wall clock alone then, so nobody sets that here."""
    shop.boot, shop.booted = shop.boot + "a", shop.true
    for one in shop.units.values():
        one.dries = {board: max(shop.wet[board] - shop.booted, 0.0) for board in one.dries}


def retype(shop: Shop, unit: Machine) -> None:
    """A part described as its kind not, or as its kind."""
    rows = [(board, row) for board, parts in unit.boards.items() for row in parts]
    if rows and not interlocks.closed(shop.proof(unit)):
        board, row = shop.dice.choice(rows)
        odd = shop.dice.choice(
            [
                {"looks": "missing"},
                {"rail_volts": 5.0},
                {"value": 1e-9, "role": "unknown"},
                {"looks": "", "rail_volts": 325.0, "value": 220e-6, "role": "bulk"},
            ]
        )
        shop.change(lambda: unit.boards[board].update({row: replace(unit.boards[board][row], **odd)}), unit)


def take_a_part_off(shop: Shop, unit: Machine) -> None:
    """Off the list; it stands in the machine all the same."""
    rows = [(board, row) for board, parts in unit.boards.items() for row in parts]
    if rows:
        board, row = shop.dice.choice(rows)
        if not interlocks.part_off(shop.proof(unit), row):
            part = unit.boards[board][row]
            if shop.change(lambda: unit.boards[board].pop(row), unit):
                shop.removed.append((unit.name, board, {row: part}))


def undo_a_part(shop: Shop, unit: Machine) -> None:
    """Taken back from the list by undo, which asks nothing."""
    rows = [(board, row) for board, parts in unit.boards.items() for row in parts]
    if rows:
        board, row = shop.dice.choice(rows)
        part = unit.boards[board][row]
        if shop.change(lambda: unit.boards[board].pop(row), unit):
            shop.removed.append((unit.name, board, {row: part}))


def take_a_board_off(shop: Shop, unit: Machine) -> None:
    if unit.boards:
        board = shop.dice.choice(list(unit.boards))
        if not interlocks.board_out(shop.proof(unit), board):
            shop.hand(unit, board)
            parts = unit.boards[board]
            if shop.change(lambda: unit.boards.pop(board), unit):
                shop.removed.append((unit.name, board, parts))


def bring_back(shop: Shop, unit: Machine) -> None:
    mine = [one for one in shop.removed if one[0] == unit.name]
    if mine:
        one = shop.dice.choice(mine)
        _, board, parts = one
        if (
            len(parts) == 1
            and board not in unit.boards
            and not any(row in p for u in shop.units.values() for p in u.boards.values() for row in parts)
        ):
            if shop.change(lambda: unit.boards.update({board: parts}), unit):
                shop.removed.remove(one)
        elif board in unit.boards and shop.change(lambda: unit.boards[board].update(parts), unit):
            shop.removed.remove(one)


def move_a_board(shop: Shop, unit: Machine) -> None:
    """By hand, into another machine: what stands on it goes along, whatever its list says of it."""
    to = shop.dice.choice([u for u in shop.units.values() if u is not unit])
    if not unit.boards:
        return
    board = shop.dice.choice(list(unit.boards))
    if interlocks.moving([shop.proof(unit), shop.proof(to)], [board]):
        return
    shop.hand(unit, board)
    if shop.change(lambda: to.boards.update({board: unit.boards.pop(board)}), unit, to):
        shop.open[to.name] = True
        shop.board_in[board] = to.name
        shop.stands[f"p{board[1:]}"] = to.name
        if board in unit.dries:
            to.dries[board] = unit.dries.pop(board)
        # what was taken off its list goes along with it
        shop.removed = [(to.name if b == board else name, b, parts) for name, b, parts in shop.removed]


def say_it_is_gone(shop: Shop, unit: Machine) -> None:
    """Of a store that truly is in this machine no more."""
    for store in shop.proof(unit).unlisted:
        if shop.stands[store.row] != unit.name and not interlocks.write_off_store(
            shop.proof(unit), store.row, "it went elsewhere"
        ):
            unit.events.append(shop.event(r.WRITTEN_OFF, row=store.row, board=store.board))


def make_a_backup(shop: Shop, unit: Machine) -> None:
    if not any(u.live for u in shop.units.values()):
        shop.backup = deepcopy((shop.units, shop.removed))


def bring_the_backup_back(shop: Shop, unit: Machine) -> None:
    """Lists and records as they were; a board that was moved since stands in another machine than the bench says: it is moved back."""
    if shop.backup is None or any(u.live for u in shop.units.values()):
        return
    shop.units, shop.removed = deepcopy(shop.backup)
    shop.restored = True
    for one in shop.units.values():
        one.events.append(shop.event(r.RESTORED))
        for board in one.boards:
            shop.board_in[board], shop.stands[f"p{board[1:]}"] = one.name, one.name


def all_off(shop: Shop) -> None:
    for live in shop.units.values():
        if live.live:
            live.live = ""
            live.events.append(shop.event(r.IDLE))


def clock_ahead_while_reading(shop: Shop, unit: Machine) -> None:
    """Hours ahead at the discharge, put right after it, and a hand in an hour later."""
    all_off(shop)
    ahead = shop.dice.choice([-HOUR, HOUR, 5 * HOUR])
    shop.wall += ahead
    read_stores(shop, unit)
    shop.wall -= ahead
    later(shop, 40 * MINUTE)
    swap_or_mend(shop, unit)


def clock_back_after_reading(shop: Shop, unit: Machine) -> None:
    """Put back by as much as has gone by."""
    all_off(shop)
    read_stores(shop, unit)
    later(shop, 40 * MINUTE)
    shop.wall -= shop.dice.choice([20 * MINUTE, 40 * MINUTE])
    swap_or_mend(shop, unit)


def backup_from_before_power(shop: Shop, unit: Machine) -> None:
    all_off(shop)
    read_stores(shop, unit)
    make_a_backup(shop, unit)
    climb(shop, unit)
    all_off(shop)
    bring_the_backup_back(shop, unit)
    for one in shop.units.values():
        swap_or_mend(shop, one)


def wash_and_climb(shop: Shop, unit: Machine) -> None:
    all_off(shop)
    read_stores(shop, unit)
    wash(shop, unit)
    later(shop, shop.dice.choice([MINUTE, 20 * HOUR]))
    climb(shop, unit)


def later(shop: Shop, seconds: float) -> None:
    shop.wall, shop.true = shop.wall + seconds, shop.true + seconds


ACTS = (
    swap_or_mend, swap_or_mend, wash, read_stores, read_the_rest, power, climb, climb, load_a_page, make_idle, make_idle, wait,
    set_the_clock, start_anew, retype, take_a_part_off, undo_a_part, take_a_board_off, bring_back, move_a_board, say_it_is_gone,
    make_a_backup, bring_the_backup_back, clock_ahead_while_reading, clock_back_after_reading, backup_from_before_power, wash_and_climb,
)  # fmt: skip
#: Sequences, and acts in each; in portions, so that both cores have some.
SEQUENCES, LENGTH, PORTIONS = 2000, 14, 4


@pytest.mark.parametrize("portion", range(PORTIONS))
def test_no_hand_to_what_is_charged_and_no_power_on_what_is_wet_or_open(portion):
    powered = hands = 0
    for seed in range(portion, SEQUENCES, PORTIONS):
        shop = Shop(seed)
        try:
            for _ in range(LENGTH):
                shop.step()
        except AssertionError as wrong:
            raise AssertionError(f"{wrong}. Seed {seed}: {', '.join(shop.did)}") from wrong
        powered += any(shop.powered(unit) for unit in shop.units.values())
        hands += any(event.kind == r.MEND for unit in shop.units.values() for event in unit.events)
    assert powered > SEQUENCES / PORTIONS / 10 and hands > SEQUENCES / PORTIONS / 10, "else it would prove nothing"
