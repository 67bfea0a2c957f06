"""What is kept of a unit is never stale: after anything that anybody writes it equals a unit read and judged anew."""

from __future__ import annotations

import random
import re
import threading
from dataclasses import fields, is_dataclass

import pytest
from django.db import connection, models, transaction
from django.test.utils import CaptureQueriesContext

from idlebench.core.judge.policy import POLICIES
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.choose.devices import blew, take_other
from idlebench.web.procedures import services as procedures
from idlebench.web.proving import services as proving
from idlebench.web.records import revisions
from idlebench.web.records.models import Board, Choice, Event, Job, Part, Revision, SeriesTally, ShopPolicy, Unit
from idlebench.web.records.revisions import TABLES
from idlebench.web.records.scratch import scratch_database
from idlebench.web.survey import services as survey
from idlebench.web.survey.typed import add_typed
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits, kept
from idlebench.web.unit.state import board_state, unit_state

from .helpers import discharge, good_text, make_idle

pytestmark = pytest.mark.django_db


def plain(value: object) -> object:
    """A value down to what it holds, rows by their columns."""
    if isinstance(value, models.Model):
        return type(value).__name__, {f.attname: plain(getattr(value, f.attname)) for f in value._meta.concrete_fields}
    if is_dataclass(value) and not isinstance(value, type):
        return type(value).__name__, {f.name: plain(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, dict):
        return {key: plain(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [plain(one) for one in value]
    return value


def told(pk: int) -> object:
    """All that a unit says of itself."""
    state = unit_state(pk)
    boards, now = plain(state.boards), state.proof
    return boards, plain(state.facts), plain(state.recorded), plain(state.row), plain(state.job), state.counts, [
        (s.key, s.left, s.done) for s in state.stages
    ], [(c.key, now.done(c)) for s in now.steps for c in s.checks], plain(state.replaced)  # fmt: skip


def fresh(pk: int) -> object:
    kept.forget()
    return told(pk)


def assert_not_stale(pk: int, after: str) -> None:
    assert told(pk) == fresh(pk), f"stale after {after}"


LINES = (
    "C{} 10u 16V", "C{} 100u 25V leaking series QF", "C2 esr 9", "C1 role timing", "C1 1000u 35V", "C3 film", "C2 sound", "C1 at 20,20",
    "C2 note by the sink", "C1 series QF",
)  # fmt: skip


class Hands:
    """What a person may do next, by a roll of dice: each act of the bench, and each way of writing past it."""

    def __init__(self, unit: Unit, dice: random.Random) -> None:
        self.unit, self.dice = unit, dice
        self.board = unit.boards.get(name="PS-1")

    def part(self) -> Part:
        return self.dice.choice(list(self.board.parts.all()))

    def ref(self) -> str:
        return self.part().ref

    def type_a_line(self) -> None:
        survey.add_line(
            self.board, self.dice.choice(LINES).format(self.dice.randrange(10, 40)), change=self.dice.random() < 0.7
        )

    def list_a_device(self) -> None:
        add_typed(
            self.board,
            self.dice.choice(
                ["D5 diode 1A 400V", "VR1 regulator 7805 1A from +12V", "F1 fuse T 1A 250V 5x20", "MOV1 varistor 275V~"]
            ),
        )

    def take(self) -> None:
        state, found = board_state(self.board.pk)
        part = self.dice.choice(found.parts)
        if best := fits.ranking_for(state, part).best:
            choosing.take(self.board.pk, part.ref, best.part.part)

    def keep(self) -> None:
        choosing.leave_in(self.board.pk, self.ref())

    def judge_by_hand(self) -> None:
        survey.override(self.part(), self.dice.choice(["sound", "replace"]), "seen under the lens")

    def blow_a_fuse(self) -> None:
        blew(self.board, "F1")

    def take_back_a_choice(self) -> None:
        choosing.undo(self.board)

    def swap(self) -> None:
        discharge(self.unit)
        swapping.swapped(self.board.pk, self.ref())

    def swap_back(self) -> None:
        swapping.take_back(self.board.pk, self.ref())

    def mend(self) -> None:
        swapping.mend(self.board.pk, self.dice.choice(["pad C1 + to C2 - wire", "joint C2", "trace C1 + to C3 1"]))

    def read(self) -> None:
        check = self.dice.choice([c for s in unit_state(self.unit.pk).proof.steps for c in s.checks])
        proving.take_reading(self.unit.pk, check.key, good_text(check) if self.dice.random() < 0.8 else "0")

    def power(self) -> None:
        step = self.dice.choice(unit_state(self.unit.pk).proof.steps)
        proving.power_on(self.unit.pk, step.key, unit_state(self.unit.pk).last_event)

    def wash(self) -> None:
        procedures.add(self.unit.pk, "board-wash-alcohol", self.board.pk)

    def take_a_device(self) -> None:
        take_other(self.board.pk, "F1", "T1A")

    def a_part_goes(self) -> None:
        if self.board.parts.count() > 2:
            self.part().delete()

    def another_policy(self) -> None:
        Job.objects.filter(pk=self.unit.job_id).update(policy=self.dice.choice(["renew", "mend", "cohort", "staged"]))

    def other_mains(self) -> None:
        Job.objects.filter(pk=self.unit.job_id).update(
            mains_volts=self.dice.choice([120.0, 230.0]), made=self.dice.choice([1975, 1990, None])
        )

    def past_the_door(self) -> None:
        Part.objects.filter(pk=self.part().pk).update(
            looks=self.dice.choice(["", "burst", "sound"]), rail_volts=self.dice.choice([None, 40.0])
        )

    def by_sql(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "UPDATE jobs_board SET rails = %s WHERE id = %s",
                [self.dice.choice(["+5 V 2 A", "+5 V 2 A min 0.5 A", "+12 V 1 A"]), self.board.pk],
            )

    def another_unit_counts(self) -> None:
        SeriesTally.objects.update_or_create(
            series="QF", defaults={"seen": self.dice.randrange(3, 40), "failed": self.dice.randrange(3)}
        )

    def choices_go(self) -> None:
        Choice.objects.filter(part__board=self.board).delete()

    def the_record_is_cut(self) -> None:
        last = Event.objects.filter(unit=self.unit).last()
        if last is not None:
            last.delete()


ACTS = [name for name, act in vars(Hands).items() if callable(act) and name not in ("__init__", "part", "ref")]


@pytest.mark.parametrize("seed", range(4))
def test_after_anything_written_the_kept_unit_is_the_one_read_anew(surveyed, seed):
    hands, done = Hands(surveyed.unit, random.Random(seed)), set()
    for _ in range(50):
        act = hands.dice.choice(ACTS)
        try:
            getattr(hands, act)()
            done.add(act)
        except (BadInput, Blocked):
            pass
        assert_not_stale(surveyed.unit_id, act)
        if hands.dice.random() < 0.1:
            make_idle()
    assert len(done) > 12, done


def test_every_table_that_a_unit_is_judged_from_moves_a_stamp(surveyed):
    kept.forget()
    with CaptureQueriesContext(connection) as asked:
        state = unit_state(surveyed.unit_id)
        assert state.facts and state.recorded is not None
    read = {table for query in asked for table in re.findall(r'(?:FROM|JOIN) "?(\w+)"?', query["sql"])}
    # read each time anew, or a part of the key
    now = {
        "jobs_unit",
        "jobs_job",
        "records_revision",
        "records_seriestally",
        "proving_powersession",
        "survey_reformrun",
        "records_unitprocedure",
    }
    assert read - now - set(TABLES) == set() and set(TABLES) - {"jobs_board", "survey_part"} <= read | {
        "choose_choice",
        "swap_swap",
    }
    triggers = set()
    with connection.cursor() as cursor:
        cursor.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")
        triggers = {name for (name,) in cursor.fetchall()}
    assert {f"revision_{table}_{act}" for table in TABLES for act in ("insert", "update", "delete")} <= triggers


def test_nothing_is_read_twice_that_did_not_change(surveyed):
    unit_state(surveyed.unit_id).recorded  # noqa: B018
    with CaptureQueriesContext(connection) as asked:
        assert unit_state(surveyed.unit_id).recorded is not None
    assert len(asked) <= 5 and not any('"survey_part"."esr"' in query["sql"] for query in asked)


def test_rows_that_are_given_out_are_of_whoever_asked(surveyed):
    mine, other = unit_state(surveyed.unit_id), unit_state(surveyed.unit_id)
    mine.boards[0].row.name, mine.boards[0].parts[0].row.ref = "changed", "X1"
    for state in (other, unit_state(surveyed.unit_id)):
        assert (state.boards[0].row.name, state.boards[0].parts[0].row.ref) == ("PS-1", "C1")
    assert (
        mine.boards[0].parts[0].row is mine.boards[0].parts[0].row
        and mine.boards[0].parts[0].row.board.name == "changed"
    )


def test_another_connection_is_seen_at_once(surveyed):
    assert unit_state(surveyed.unit_id).parts[0].core.looks == "leaking"

    def elsewhere() -> None:
        Part.objects.filter(board=surveyed, ref="C1").update(looks="sound")
        connection.close()

    thread = threading.Thread(target=elsewhere)
    thread.start()
    thread.join()
    assert unit_state(surveyed.unit_id).parts[0].core.looks == "sound"
    assert_not_stale(surveyed.unit_id, "another connection")


def test_a_bench_without_its_triggers_keeps_nothing(surveyed):
    revisions.take_away()
    Revision.objects.all().delete()
    assert unit_state(surveyed.unit_id).parts[0].core.looks == "leaking"
    Part.objects.filter(board=surveyed, ref="C1").update(looks="sound")
    assert unit_state(surveyed.unit_id).parts[0].core.looks == "sound"
    revisions.install()


def test_a_trial_is_a_bench_of_its_own(surveyed):
    before = told(surveyed.unit_id)
    with scratch_database():
        with pytest.raises(Unit.DoesNotExist):
            unit_state(surveyed.unit_id)
        job = Job.objects.create(name="On trial", machine="Tide clock")
        unit = Unit.objects.create(pk=surveyed.unit_id, job=job, name="T")
        board = Board.objects.create(unit=unit, name="PS-1")
        Part.objects.create(board=board, ref="C1", value=1e-5, looks="burst")
        state = unit_state(unit.pk)
        assert [p.core.looks for p in state.parts] == ["burst"] and state.parts[0].row.board.unit.name == "T"
        assert state.parts[0].row._state.db != "default"
    assert told(surveyed.unit_id) == before


def test_what_is_taken_back_leaves_nothing_behind(surveyed):
    before = told(surveyed.unit_id)
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        Part.objects.filter(board=surveyed, ref="C1").update(looks="burst")
        assert unit_state(surveyed.unit_id).parts[0].core.looks == "burst"
        raise ZeroDivisionError
    assert told(surveyed.unit_id) == before == fresh(surveyed.unit_id)


def test_a_policy_of_the_shop_that_is_changed_is_seen(surveyed):
    for name in ("renew", "mend"):
        ShopPolicy.objects.update_or_create(name="own", defaults={"data": {**POLICIES[name].as_json(), "name": "own"}})
        Job.objects.filter(pk=surveyed.unit.job_id).update(policy="own")
        assert unit_state(surveyed.unit_id).policy.what == POLICIES[name].what
        assert_not_stale(surveyed.unit_id, "a policy of the shop's own")
