"""The attacks by which a gate was opened while a store was charged, a board wet or a machine live, each as it was done."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from contextlib import suppress
from datetime import timedelta

import pytest
import time_machine
from django.conf import settings as django_settings
from django.urls import reverse
from django.utils import timezone

from idlebench.core.prove import interlocks
from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.intake import services as intake
from idlebench.web.intake.replacing import bring_back
from idlebench.web.intake.triage import move_board
from idlebench.web.keep import leaving, removing
from idlebench.web.keep.bundle import take_in
from idlebench.web.procedures import services as procedures
from idlebench.web.proving import confirmations
from idlebench.web.proving import services as proving
from idlebench.web.records.models import (
    Board,
    CatalogueItem,
    Event,
    ImportedRecord,
    Job,
    Part,
    PowerSession,
    Summary,
    Swap,
    Unit,
    UnitProcedure,
)
from idlebench.web.survey import services as surveying
from idlebench.web.survey import undoing
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits, power_note
from idlebench.web.unit.state import board_state, unit_state
from idlebench.web.unit.summary import summaries

from .helpers import discharge, make_idle, pass_up_to, power_at, settle, waits_are_over

pytestmark = pytest.mark.django_db


@pytest.fixture
def high(surveyed):
    """The supply with a store of 400 V on its list."""
    part = surveyed.parts.get(ref="C1")
    part.value, part.volts, part.rail, part.rail_volts, part.ripple = 100e-6, 400.0, "", 325.0, None
    part.diameter, part.height, part.pitch, part.room_height = 22.0, 35.0, 10.0, 50.0
    part.save()
    return surveyed


@pytest.fixture
def charged(high):
    """The same, after a time under power."""
    surveyed = high
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "full")
    power_at(surveyed.unit, "full")
    make_idle()
    assert stores(surveyed.unit) == {"C1"}
    return surveyed


def stores(unit) -> set[str]:
    """Stores that keep hands out of a unit, by their points."""
    found = [c for c in unit_state(unit.pk).proof.discharges if interlocks.charged(unit_state(unit.pk).proof, [c])]
    return {check.point.removeprefix("across ") for check in found}


# A store out of sight


@pytest.mark.parametrize(
    "attack",
    [
        lambda b: surveying.add_line(b, "C1 missing", change=True),
        lambda b: surveying.add_line(b, "C1 1n", change=True),
        lambda b: surveying.add_line(b, "C1 worst 5", change=True),
        lambda b: removing.remove("part", b.parts.get(ref="C1").pk),
        lambda b: removing.remove("board", b.pk),
        lambda b: move_board(b, Unit.objects.create(job=b.unit.job, name="Z")),
        lambda b: undoing.undo(b),
    ],
)
def test_a_charged_store_is_not_taken_out_of_sight(charged, attack):
    unit = Unit.objects.get(pk=charged.unit_id)
    with suppress(Blocked, BadInput):
        attack(charged)
    assert stores(unit) == {"C1"}
    with pytest.raises(Blocked):
        swapping.mend(charged.pk, "a joint made new")


def test_a_store_that_was_typed_away_is_read_or_closed_with_a_reason(client, high):
    surveyed, unit = high, high.unit
    part = surveyed.parts.get(ref="C1")
    surveying.add_line(surveyed, "C1 missing", change=True)
    page = client.get(reverse("cold", args=[unit.pk])).content.decode()
    assert "no longer listed" in page and stores(unit) == {"C1"}
    address = reverse("store_written_off", args=[unit.pk])
    for typed, status in (
        ({"row": f"p{part.pk}", "reason": ""}, 422),
        ({"row": "p999", "reason": "scrapped long ago"}, 409),
    ):
        assert client.post(address, typed).status_code == status
    assert client.post(address, {"row": f"p{part.pk}", "reason": "scrapped in 2024"}).status_code == 302
    assert stores(unit) == set()
    # its coming back asks for it again
    surveying.add_line(surveyed, "C1 looks bulging", change=True)
    assert stores(unit) == {"C1"}


@pytest.mark.parametrize("what", ["unit", "job"])
def test_a_machine_that_was_away_is_read_anew(high, what):
    """Deleted and brought back: what it went through meanwhile nobody noted."""
    discharge(high.unit)
    kept = removing.remove(what, high.unit_id if what == "unit" else high.unit.job_id)
    removing.bring_back(kept.pk)
    assert stores(high.unit) == {"C1"}


def test_a_board_that_is_removed_takes_its_charge_along_and_brings_it_back(surveyed):
    unit = surveyed.unit
    with pytest.raises(Blocked):
        removing.remove("board", surveyed.pk)
    discharge(unit)
    kept = removing.remove("board", surveyed.pk)
    removing.bring_back(kept.pk)
    assert stores(unit) == {"C1"}, "it came back, and nobody has read it here"


def test_a_tube_stays_asked_when_its_lines_go(surveyed):
    unit = surveyed.unit
    surveyed.monitor_model = "monitor 15.625kHz 50Hz tube 12kV nominal 12in"
    surveyed.save()
    asked = {c.key for c in unit_state(unit.pk).proof.discharges}
    assert f"cold.tube1.b{surveyed.pk}" in asked
    intake.change_board(surveyed, {"name": surveyed.name, "monitor_model": ""})
    assert {c.key for c in unit_state(unit.pk).proof.discharges} == asked
    with pytest.raises(Blocked):
        swapping.mend(surveyed.pk, "a joint made new")


def test_what_is_on_the_supplys_lines_stays_asked_without_them(surveyed):
    """The supply's lines tell C1 its 325 V; without them it is a part of 16 V."""
    unit = surveyed.unit
    surveyed.parts.filter(ref="C1").update(value=220e-6, volts=None, rail="", rail_volts=325.0, role="bulk")
    asked = stores(unit)
    intake.change_board(surveyed, {"name": surveyed.name, "supply": ""})
    surveying.add_line(surveyed, "C1 worst 5 role decoupling", change=True)
    assert stores(unit) == asked == {"C1"}


def test_a_donors_board_goes_back_by_the_boards_that_move(high):
    """Unit B lent its board to A; before it goes back, what stands on it is read."""
    a = high.unit
    b = Unit.objects.create(job=a.job, name="B", first_look=a.first_look)
    lent = Board.objects.create(
        unit=a, name="PS-1 of B", supply="switching", stands_for=high, came_from=b, called="PS-1"
    )
    Part.objects.create(board=lent, ref="C1", value=220e-6, volts=400.0, role="bulk")
    Board.objects.filter(pk=high.pk).update(replaced="by PS-1 of unit B")
    with pytest.raises(Blocked) as shut:
        bring_back(high.pk)
    assert "C1" in str(shut.value.reasons)
    discharge(a)
    bring_back(high.pk)
    assert Board.objects.get(pk=lent.pk).unit == b and stores(a) == {"C1"} and stores(b) == {"C1"}


# Clocks


def test_a_clock_that_is_ahead_at_the_discharge_counts_for_nothing(high, one_clock):
    """Five hours ahead when it was read, then put right."""
    unit, now = high.unit, timezone.now()
    with time_machine.travel(now + timedelta(hours=5), tick=False):
        discharge(unit)
        assert stores(unit) == set()
    assert stores(unit) == {"C1"}
    (reason,) = interlocks.touch(unit_state(unit.pk).proof, f"b{high.pk}")
    assert "clock was set back" in reason.text


def test_a_hold_does_not_pass_by_a_clock_set_ahead(surveyed):
    """The steady clock goes on as it does; the wall clock jumps by an hour."""
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "full")
    power_at(unit, "full")
    with time_machine.travel(timezone.now() + timedelta(hours=1)), pytest.raises(Blocked) as shut:
        proving.take_reading(unit.pk, "up.full.hold", "yes")
    assert shut.value.reasons[0].rule == "hold"


def test_a_wash_is_not_dry_by_a_clock_set_ahead(surveyed):
    unit = surveyed.unit
    discharge(unit)
    wash = procedures.add(unit.pk, "board-wash-alcohol", surveyed.pk)
    for number in (1, 2, 3, 4):
        procedures.done(unit.pk, wash.pk, number)
    with time_machine.travel(timezone.now() + timedelta(days=3)):
        assert unit_state(unit.pk).wet
        with pytest.raises(Blocked):
            procedures.done(unit.pk, wash.pk, 5, "yes")
    waits_are_over(wash)
    assert not unit_state(unit.pk).wet


def test_another_start_of_the_machine_voids_what_it_cannot_know(high, monkeypatch):
    unit = high.unit
    discharge(unit)
    assert stores(unit) == set()
    monkeypatch.setattr("idlebench.web.records.steady.boot", lambda: "another")
    assert stores(unit) == {"C1"}


def test_without_a_steady_clock_the_wall_clock_is_believed_and_that_is_said(client, high, monkeypatch):
    monkeypatch.setattr("idlebench.web.records.steady.boot", lambda: "")
    for page in ("cold", "power", "unit_procedures"):
        assert "no clock that counts through sleep" in client.get(reverse(page, args=[high.unit_id])).content.decode()
    discharge(high.unit)
    assert stores(high.unit) == set() and Event.objects.filter(boot="", steady=None).exists()


# Copies of before


def test_a_backup_from_before_power_is_not_believed(high):
    """That a restore says so of every unit is asked of the command, in test_keeping."""
    unit = high.unit
    settle(unit)
    pass_up_to(unit, "full")
    power_note.older_copy("a backup was restored")
    assert stores(unit) == {"C1"}
    case = unit_state(unit.pk).proof.check("cold.look.loose")
    assert "restored from an older copy" in unit_state(unit.pk).proof.status_of(case).void


def test_a_database_that_knows_nothing_of_the_power_that_was_on(high):
    """Its file was put in another's place by hand: the note beside it tells."""
    unit = high.unit
    (django_settings.HOME / "power").unlink(missing_ok=True)
    settle(unit)
    pass_up_to(unit, "full")
    assert not power_note.looked_at()
    power_at(unit, "full")
    Event.objects.filter(unit=unit, kind="power").last().delete()
    PowerSession.objects.filter(unit=unit, ended=None).delete()
    assert "older than" in power_note.looked_at() and stores(unit) == {"C1"}
    assert not power_note.looked_at(), "said once"


def test_a_start_of_the_computer_while_a_machine_has_power_asks_for_all_of_it_again(high, monkeypatch):
    """Nobody noted what was done to it meanwhile. A start of the server alone loses nothing."""
    unit = high.unit
    other = Unit.objects.create(job=unit.job, name="B")
    settle(unit)
    pass_up_to(unit, "full")
    power_at(unit, "full")
    assert power_note.looked_at() == "" and not Event.objects.filter(kind="restored").exists()
    monkeypatch.setattr("idlebench.web.records.steady.boot", lambda: "another")
    assert "while unit A had power" in power_note.looked_at()
    assert set(Event.objects.filter(kind="restored").values_list("unit__name", flat=True)) == {"A", other.name}
    make_idle()
    case = unit_state(unit.pk).proof.check("cold.look.loose")
    assert stores(unit) == {"C1"} and not unit_state(unit.pk).proof.status_of(case).passed
    assert power_note.looked_at() == ""


# Water


def test_nothing_wet_is_handed_over_and_a_board_takes_its_wash_along(surveyed):
    unit = surveyed.unit
    other = Unit.objects.create(job=unit.job, name="B", first_look=unit.first_look)
    discharge(unit)
    wash = procedures.add(unit.pk, "board-wash-alcohol", surveyed.pk)
    procedures.done(unit.pk, wash.pk, 1)
    assert "wet" in {r.rule for r in interlocks.hand_over(unit_state(unit.pk).closing)}
    discharge(unit)
    move_board(surveyed, other)
    assert not unit_state(unit.pk).wet and unit_state(other.pk).wet
    discharge(other)
    procedures.done(other.pk, wash.pk, 2)
    assert UnitProcedure.objects.get().unit == other


# What is kept of a unit for the Bench


def test_a_summary_is_made_anew_when_its_next_conclusion_expires(high, one_clock):
    unit, now = Unit.objects.select_related("job").get(pk=high.unit_id), timezone.now()

    def left() -> int:
        return summaries([Unit.objects.select_related("job").get(pk=unit.pk)])[unit.pk].weighed.checks

    with time_machine.travel(now, tick=False) as clock:
        before = left()
        discharge(unit)
        assert left() == before - 1
        row = Summary.objects.get(unit=unit.pk)
        assert row.until == now + timedelta(minutes=30)
        clock.shift(29 * 60)
        assert left() == before - 1 and Summary.objects.get(unit=unit.pk).made == now
        clock.shift(2 * 60)
        assert left() == before, "the discharge has grown old, and nothing was written meanwhile"
        clock.shift(-40 * 60)
        assert left() == before, "and it is not young again by a clock set back"


def test_idle_goes_through_the_door(surveyed):
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "full")
    power_at(unit, "full")
    turn = Unit.objects.get(pk=unit.pk).turn
    make_idle()
    assert Unit.objects.get(pk=unit.pk).turn > turn


# The stand-in


def test_what_is_typed_while_the_stand_in_is_on_proves_no_machine(surveyed):
    unit = surveyed.unit
    Job.objects.update(meter="stand-in")
    settle(unit)
    pass_up_to(unit, "full")
    proof = unit_state(unit.pk).proof
    assert proof.step_done(proof.steps[1]) and proof.of_the_bench
    override = next(c for c in proof.steps[0].checks if not c.safety and c.fact != INSIDE)
    proving.override(unit.pk, override.key, "it cannot be reached here")
    Job.objects.update(meter="")
    proof = unit_state(unit.pk).proof
    counts = [c.key for step in proof.steps for c in step.checks if proof.status_of(c).done]
    assert counts == [], "nothing of it is true of a machine"


# Files of strangers


@pytest.fixture
def worked(surveyed):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "full")
    power_at(surveyed.unit, "full")
    make_idle()
    return surveyed


def sent(board, tmp_path, **changed):
    """Its job's bundle, some of its files changed."""
    path = tmp_path / "job.zip"
    leaving.export(board.unit.job_id, path)
    with zipfile.ZipFile(path) as bundle:
        files = {info.filename: bundle.read(info) for info in bundle.infolist()}
    for name, change in changed.items():
        files[f"{name}.csv"] = change(files[f"{name}.csv"].decode()).encode()
    with zipfile.ZipFile(path, "w") as bundle:
        for name, data in files.items():
            bundle.writestr(name, data)
    return path


def in_column(table: str, column: str, value: str):
    """Set a column of a table's first row."""

    def change(text: str) -> str:
        rows = list(csv.reader(io.StringIO(text)))
        rows[1][rows[0].index(column)] = value
        out = io.StringIO()
        csv.writer(out, lineterminator="\n").writerows(rows)
        return out.getvalue()

    return {table: change}


def without(*kinds: str):
    """The record without events of some kinds, numbered anew."""

    def change(text: str) -> str:
        rows = list(csv.reader(io.StringIO(text)))
        kind = rows[0].index("kind")
        kept = [row for row in rows[1:] if row[kind] not in kinds]
        out = io.StringIO()
        csv.writer(out, lineterminator="\n").writerows(
            [rows[0], *([str(i), *row[1:]] for i, row in enumerate(kept, 1))]
        )
        return out.getvalue()

    return {"record": change}


@pytest.mark.parametrize(
    ("forged", "says"),
    [
        (in_column("readings", "at", "2099-01-01T00:00:00+00:00"), "a time in the past"),
        (in_column("record", "at", "2099-01-01T00:00:00+00:00"), "a time in the past"),
        (in_column("log", "at", "2099-01-01T00:00:00+00:00"), "a time in the past"),
        (in_column("units", "handed_over", "2026-01-01T00:00:00+00:00"), "handed over"),
        (without("power"), "the same power in record.csv"),
        (without("idle"), "a job at rest"),
        (in_column("sessions", "ended", "2001-01-01T00:00:00+00:00"), "the same power in record.csv"),
    ],
)
def test_a_forged_bundle_is_refused_whole(worked, tmp_path, forged, says):
    path = sent(worked, tmp_path, **forged)
    with pytest.raises(BadInput) as refused:
        take_in(path)
    assert says in str(refused.value) and Job.objects.count() == 1 and not ImportedRecord.objects.exists()


def test_readings_of_a_file_prove_nothing_before_somebody_takes_them_over(client, worked, tmp_path):
    unit = take_in(sent(worked, tmp_path)).units.get()
    proof = unit_state(unit.pk).proof
    assert not any(proof.done(c) for step in proof.steps for c in step.checks if not c.optional)
    for page in ("cold", "power", "handover", "sheet"):
        assert "import" in client.get(reverse(page, args=[unit.pk])).content.decode().lower(), page
    address = reverse("imported_confirmed", args=[unit.pk])
    for typed in (
        {},
        {"by": "Ada Holm"},
        {"by": "A", "reason": "I read them myself"},
        {"by": "Ada Holm", "reason": "so"},
    ):
        assert client.post(address, typed).status_code == 422
    good = {"by": "Ada Holm", "reason": "I read them myself at the museum"}
    assert client.post(address, good).status_code == 302
    assert client.post(address, good).status_code == 409, "once"
    proof = unit_state(unit.pk).proof
    open_ = {c.fact for step in proof.steps[:3] for c in step.checks if not proof.done(c) and not c.optional}
    assert open_ == {DISCHARGED, INSIDE}
    assert "confirmed by Ada Holm" in client.get(reverse("sheet", args=[unit.pk])).content.decode()


def test_no_hand_goes_in_on_the_word_of_a_file(worked, tmp_path):
    discharge(worked.unit)
    unit = take_in(sent(worked, tmp_path)).units.get()
    confirmations.confirm_imported(unit.pk, "Ada Holm", "I read them myself at the museum")
    assert stores(unit) == {"C1"}


def test_a_machine_that_lies_here_twice_is_charged_in_both(high, tmp_path):
    """Its job was exported and imported again: power through one record, hands through the other end."""
    settle(high.unit)
    pass_up_to(high.unit, "full")
    leaving.export(high.unit.job_id, tmp_path / "job.zip")
    twin = take_in(tmp_path / "job.zip").units.get()
    discharge(twin)
    assert stores(twin) == set()
    power_at(high.unit, "full")
    make_idle()
    assert stores(twin) == {"C1"}
    (reason,) = interlocks.charged(unit_state(twin.pk).proof, unit_state(twin.pk).proof.discharges)
    assert "the same machine had power in another job" in reason.text


@pytest.mark.parametrize("how", ["typed away", "taken off the list"])
def test_a_store_that_is_not_listed_goes_along_with_its_job(high, tmp_path, how):
    """Where the part is gone, its row is only spoken of any more; on the other end bench it has a number of its own."""
    if how == "typed away":
        surveying.add_line(high, "C1 missing", change=True)
    else:
        discharge(high.unit)
        removing.remove("part", high.parts.get(ref="C1").pk)
    assert stores(high.unit) == {"C1"}
    first, second = tmp_path / "one.zip", tmp_path / "two.zip"
    leaving.export(high.unit.job_id, first)
    came = take_in(first)
    leaving.export(came.pk, second)
    assert first.read_bytes() == second.read_bytes()
    unit = came.units.get()
    assert stores(unit) == {"C1"}
    (store,) = unit_state(unit.pk).unlisted
    confirmations.write_off_store(unit.pk, store.row, "it was scrapped in 2024")
    assert stores(unit) == set() and stores(high.unit) == {"C1"}


def test_every_word_for_a_row_is_renumbered(demo):
    """A word such as p12 or b3 in what a reading was taken of, or a number behind #, is a row of this bench and of no other."""
    from idlebench.web.keep.job_rows import Numbers

    probe = Numbers({}, lambda model, number: number + 1000)
    row = re.compile(r"(?<![\w.])[pbdmq]\d+(?![\w.])|#\d+")
    rows = {
        f"{letter}{pk}"
        for letter, model in (("p", Part), ("b", Board))
        for pk in model.objects.values_list("pk", flat=True)
    }
    seen = 0
    for unit in Unit.objects.all():
        for step in unit_state(unit.pk).proof.steps:
            for check in step.checks:
                for name, text in check.evidence.items():
                    words = [w for w in row.findall(text) if w.startswith("#") or w in rows]
                    moved = probe.in_evidence({name: text})[name]
                    seen += len(words)
                    assert not any(re.search(rf"{re.escape(w)}(?!\d)", moved) for w in words), (check.key, name, text)
    assert seen > 20


# Pieces


@pytest.mark.parametrize(("stock", "noted", "then"), [(0, True, 0), (3, True, 3), (3, False, 2)])
def test_a_swap_taken_back_puts_back_what_it_took(client, surveyed, stock, noted, then):
    choose_all(surveyed)
    part = next(p for b in unit_state(surveyed.unit_id).boards for p in b.parts if p.taken)
    CatalogueItem.objects.filter(part=part.choice.item).update(stock=stock)
    swapping.swapped(surveyed.pk, part.ref)
    if not noted:
        Swap.objects.update(took=None)
    told = client.post(reverse("swap_back", args=[surveyed.pk]), {"place": part.ref}, follow=True)
    assert CatalogueItem.objects.get(part=part.choice.item).stock == then
    assert ("count the Shelf" in told.content.decode()) is not noted


def choose_all(board: Board) -> None:
    """Choose for every place, with the stores read."""
    state, found = board_state(board.pk)
    for part in found.places:
        choosing.take(board.pk, part.ref, fits.ranking_for(state, part).best.part.part)
    discharge(board.unit)
