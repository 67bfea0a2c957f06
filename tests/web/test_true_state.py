"""People who do as they like with three machines through the services, held against what is truly charged, wet and live.

The same as tests/core/test_true_state.py, but with all that stands between a page and the gates: doors, rows, clocks, copies of the bench.
IDLEBENCH_SEQUENCES says how many; make torture asks for 200.
"""

from __future__ import annotations

import os
import random
import sqlite3
from contextlib import suppress
from datetime import UTC, datetime, timedelta

import pytest
import time_machine
from django.db import connection

from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.intake import services as intake
from idlebench.web.intake.triage import move_board
from idlebench.web.keep import removing
from idlebench.web.procedures import services as procedures
from idlebench.web.proving import confirmations
from idlebench.web.proving import services as proving
from idlebench.web.records import steady
from idlebench.web.records.models import Board, Event, Part, PowerSession, Removed, Unit
from idlebench.web.survey import services as surveying
from idlebench.web.survey import undoing
from idlebench.web.swap import services as swapping
from idlebench.web.unit import power_note
from idlebench.web.unit.state import unit_state

from .helpers import good_text

pytestmark = pytest.mark.django_db
SEQUENCES, ACTS_EACH = int(os.environ.get("IDLEBENCH_SEQUENCES", "15")), 12
MINUTE, HOUR = 60.0, 3600.0
SHUT = (Blocked, BadInput)


class Person:
    """A person with dice, and beside them what is so."""

    def __init__(self, seed: int, clock: time_machine.Coordinates, units: list[Unit]) -> None:
        self.dice, self.clock = random.Random(seed), clock
        self.true = 0.0
        self.pages = [None, None]
        self.copy: tuple[sqlite3.Connection, dict[int, int], dict[int, float | None]] | None = None
        self.names = {unit.pk: unit.name for unit in units}
        self.stands = {part.pk: part.board.unit_id for part in Part.objects.filter(ref="C1").select_related("board")}
        self.home = {part.pk: part.board_id for part in Part.objects.filter(ref="C1")}
        self.emptied: dict[int, float | None] = dict.fromkeys(self.stands)
        self.dry_at: dict[int, float] = {}
        self.board_in = {board: self.stands[part] for part, board in self.home.items()}
        self.open = dict.fromkeys(self.names, True)
        self.powered: set[int] = set()
        self.did: list[str] = []
        self.hands = self.powers = 0

    # what is so

    def charged(self, part: int) -> bool:
        at = self.emptied[part]
        return at is None or self.true - at > 30 * MINUTE + 5

    def hand(self, unit: int, board: int | None = None) -> None:
        """A hand went in."""
        self.hands += 1
        assert not PowerSession.objects.filter(unit=unit, ended=None).exists(), "a hand in a live machine"
        met = [
            part
            for part, where in self.stands.items()
            if where == unit and (board is None or unit in self.powered or self.home[part] == board)
        ]
        assert not [part for part in met if self.charged(part)], "a hand beside a charged store"
        self.open[unit] = True

    def later(self, seconds: float) -> None:
        self.true += seconds
        self.clock.shift(seconds)

    def unit(self) -> int:
        return self.dice.choice(list(self.names))

    def board(self, unit: int) -> Board | None:
        return self.dice.choice(list(Board.objects.filter(unit=unit)) or [None])

    # what a person does

    def mend(self, unit: int) -> None:
        if board := self.board(unit):
            with suppress(*SHUT):
                swapping.mend(board.pk, "a joint made new")
                self.hand(unit, board.pk)

    def procedure(self, unit: int) -> None:
        """One that opens the machine: a new fan, of no board; or a wash, of one."""
        board = self.dice.choice([None, self.board(unit)])
        name = "board-wash-alcohol" if board else "fan"
        with suppress(*SHUT):
            made = procedures.add(unit, name, board.pk if board else None)
            for number in (1, 2) if board else (1,):
                procedures.done(unit, made.pk, number, "yes")
                self.hand(unit)
                if board:
                    self.dry_at[board.pk] = float("inf")

    def read_stores(self, unit: int) -> None:
        for check in unit_state(unit).proof.discharges:
            with suppress(*SHUT):
                proving.take_reading(unit, check.key, "0.4")
                part = int(check.key.rpartition(".p")[2])
                if self.stands.get(part) == unit:
                    self.emptied[part] = self.true
                self.open[unit] = True

    def climb(self, unit: int) -> None:
        """A careful person: the whole sheet in its order, and power."""
        self.read_stores(unit)
        proof = unit_state(unit).proof
        cold = [c for step in proof.steps for c in step.checks if not c.live and c.fact != DISCHARGED]
        for check in [*cold, *(c for c in cold if c.fact == INSIDE)]:
            if proof.done(check) and check.fact != INSIDE:
                continue
            with suppress(*SHUT):
                proving.take_reading(unit, check.key, good_text(check))
                self.open[unit] = check.fact != INSIDE
        self.power(unit)

    def power(self, unit: int) -> None:
        state = unit_state(unit)
        step = next((s for s in state.proof.steps if s.live and not state.proof.step_done(s)), None)
        if step is None:
            return
        live = bool(state.live_step)
        with suppress(*SHUT):
            proving.power_on(unit, step.key, state.last_event)
            self.powers += 1
            wet = [b for b, until in self.dry_at.items() if self.board_in[b] == unit and self.true < until]
            assert not wet, "power on water"
            assert live or not self.open[unit], "power on an open machine"
            assert PowerSession.objects.filter(ended=None).count() == 1
            self.powered.add(unit)
            for part, where in self.stands.items():
                if where == unit:
                    self.emptied[part] = None

    def load_a_page(self, unit: int) -> None:
        live = PowerSession.objects.filter(ended=None).first()
        self.pages[self.dice.randrange(2)] = live.pk if live else None

    def idle(self, unit: int) -> None:
        live = PowerSession.objects.filter(ended=None).first()
        meant = self.dice.choice([*self.pages, live.pk if live else None])
        with suppress(*SHUT):
            done = proving.make_idle(meant)
            assert live is None or (done == live.unit_id and meant == live.pk), "another machine was marked idle"

    def wait(self, unit: int) -> None:
        self.later(self.dice.choice([MINUTE, 20 * MINUTE, 40 * MINUTE, 3 * HOUR]))

    def set_the_clock(self, unit: int) -> None:
        self.clock.shift(self.dice.choice([-5 * HOUR, -HOUR, HOUR, 5 * HOUR]))

    def ahead_while_reading(self, unit: int) -> None:
        hours = self.dice.choice([-HOUR, 5 * HOUR])
        self.clock.shift(hours)
        self.read_stores(unit)
        self.clock.shift(-hours)
        self.later(40 * MINUTE)
        self.mend(unit)

    def type_it_away(self, unit: int) -> None:
        board = self.board(unit)
        if board and board.parts.filter(ref="C1").exists():
            with suppress(*SHUT):
                said = self.dice.choice(["C1 missing", "C1 worst 5 role decoupling", "C1 1n", "C1 looks sound"])
                surveying.add_line(board, said, change=True)

    def undo(self, unit: int) -> None:
        if board := self.board(unit):
            with suppress(*SHUT):
                undoing.undo(board)

    def no_supply(self, unit: int) -> None:
        if board := self.board(unit):
            with suppress(*SHUT):
                intake.change_board(board, {"name": board.name, "supply": ""})

    def remove(self, unit: int) -> None:
        board = self.board(unit)
        part = board.parts.filter(ref="C1").first() if board else None
        with suppress(*SHUT):
            if part and self.dice.random() < 0.6:
                removing.remove("part", part.pk)
            elif board:
                removing.remove("board", board.pk)
                self.hand(unit, board.pk)

    def bring_back(self, unit: int) -> None:
        kept = self.dice.choice(list(Removed.objects.all()) or [None])
        if kept:
            with suppress(*SHUT):
                removing.bring_back(kept.pk)

    def move(self, unit: int) -> None:
        board, to = self.board(unit), self.unit()
        if board and to != unit:
            with suppress(*SHUT):
                move_board(board, Unit.objects.get(pk=to))
                self.hand(unit, board.pk)
                self.open[to] = True
                self.board_in[board.pk] = to
                for part, home in self.home.items():
                    if home == board.pk:
                        self.stands[part] = to

    def say_it_is_gone(self, unit: int) -> None:
        """Of a store that truly stands in this machine no more."""
        for store in unit_state(unit).proof.unlisted:
            if self.stands.get(int(store.row[1:])) != unit:
                with suppress(*SHUT):
                    confirmations.write_off_store(unit, store.row, "it went to another machine")

    def copy_the_bench(self, unit: int) -> None:
        if not PowerSession.objects.filter(ended=None).exists() and not self.dry_at:
            copied = sqlite3.connect(":memory:")
            connection.connection.backup(copied)
            self.copy = (copied, dict(self.stands), dict(self.board_in))

    def bring_the_copy_back(self, unit: int) -> None:
        """And what moved since is moved back by hand, for the bench says so. What was washed since is not known of: nobody does that."""
        if self.copy and not self.dry_at and not PowerSession.objects.filter(ended=None).exists():
            copied, stands, board_in = self.copy
            copied.backup(connection.connection)
            power_note.older_copy("a backup was restored")
            self.stands, self.board_in = dict(stands), dict(board_in)

    def backup_from_before_power(self, unit: int) -> None:
        self.idle(unit)
        self.read_stores(unit)
        self.copy_the_bench(unit)
        self.climb(unit)
        if live := PowerSession.objects.filter(ended=None).first():
            proving.make_idle(live.pk)
        self.bring_the_copy_back(unit)
        self.mend(unit)


ACTS = (
    Person.mend, Person.mend, Person.procedure, Person.read_stores, Person.read_stores, Person.climb, Person.power, Person.load_a_page,
    Person.idle, Person.idle, Person.wait, Person.set_the_clock, Person.ahead_while_reading, Person.type_it_away, Person.type_it_away,
    Person.undo, Person.no_supply, Person.remove, Person.remove, Person.bring_back, Person.move, Person.say_it_is_gone,
    Person.backup_from_before_power,
)  # fmt: skip


@pytest.fixture
def three(surveyed):
    """Three machines, each with a supply that holds 325 V in C1 and nothing else listed."""
    first = surveyed.unit
    surveyed.parts.exclude(ref="C1").delete()
    surveyed.chips, surveyed.expected = "", 1
    surveyed.save()
    surveyed.parts.update(value=100e-6, volts=400.0, rail="", rail_volts=325.0, role="bulk", looks="sound")
    units = [first]
    for name in "BC":
        unit = Unit.objects.create(job=first.job, name=name, first_look=first.first_look)
        board, part = Board.objects.get(pk=surveyed.pk), surveyed.parts.get()
        board.pk, board.unit, board.name = None, unit, f"PS-{name}"
        board.save(force_insert=True)
        part.pk, part.board = None, board
        part.save(force_insert=True)
        units.append(unit)
    return units


@pytest.mark.parametrize("seed", range(SEQUENCES))
def test_no_hand_to_what_is_charged_and_no_power_on_what_is_wet_or_open(three, seed, monkeypatch):
    began = datetime.now(tz=UTC)
    with time_machine.travel(began, tick=False) as clock:
        person = Person(seed, clock, three)
        # the steady clock counts what truly goes by
        monkeypatch.setattr(steady, "now", lambda: steady.START + timedelta(days=9, seconds=person.true))
        try:
            for _ in range(ACTS_EACH):
                person.later(2)
                act, unit = person.dice.choice(ACTS), person.unit()
                person.did.append(f"{act.__name__} {person.names[unit]}")
                act(person, unit)
        except AssertionError as wrong:
            raise AssertionError(f"{wrong}. Seed {seed}: {', '.join(person.did)}") from wrong
    assert Event.objects.exists()
