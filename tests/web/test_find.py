"""Found by name: everything on the bench and every page, by an index that triggers keep; one wrong letter; open and near first."""

import sqlite3
from contextlib import closing

import pytest
from django.db import connection
from django.urls import reverse
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st

from idlebench.web.intake import services as intake
from idlebench.web.records import search_index
from idlebench.web.records.models import Board, Entry, Job, Part, Supplier, Unit
from idlebench.web.survey.services import paste
from idlebench.web.ui.finding import find

pytestmark = pytest.mark.django_db


def whats(text):
    found, _ = find(text)
    return {(one.what, one.words) for one in found}


@pytest.fixture
def bench(surveyed):
    job = surveyed.unit.job
    Job.objects.filter(pk=job.pk).update(machine="Tidewriter 80", owner="Skerry Point museum")
    Unit.objects.filter(pk=surveyed.unit_id).update(serial="TW80-0117")
    Supplier.objects.create(name="Lampwright")
    return surveyed


@pytest.mark.parametrize(
    ("text", "what", "words"),
    [
        ("PS-1", "board", "PS-1"), ("Tidewriter", "job", "Tidewriter 80"), ("TW80-0117", "unit", "TW80-0117"), ("0117", "unit", "TW80-0117"),
        ("Lampwright", "supplier", "Lampwright"), ("wash", "procedure", "wash"), ("skerry", "job", "Skerry Point museum"),
        ("ESR", "term", "ESR"), ("calendar", "page", "Calendar"), ("C1", "part", "C1"), ("MB-80", "board", "MB-80"),
    ],
)  # fmt: skip
def test_what_is_on_the_bench_and_what_ships_is_found(bench, text, what, words):
    assert any(one == what and words.lower() in said.lower() for one, said in whats(text)), whats(text)


@pytest.mark.parametrize("text", ["470uF 25V", "0.47m 25V", "470u", "470uf 25v", "C91 470u"])
def test_values_are_found_in_whatever_form_they_are_typed(bench, text):
    paste(bench, "C91 470u 25V 10x16 at 20,20", good_rows=False)
    paste(bench, "C92 470n 63V film at 30,20", good_rows=False)
    found = {said for what, said in whats(text) if what == "part"}
    assert any(said.startswith("C91 470 µF 25 V") for said in found) and not any("C92" in said for said in found), found


def test_one_wrong_letter_finds_it_and_says_so(bench, client):
    for text, meant in (("Lampwrigt", "lampwright"), ("Tidewirter", "tidewriter"), ("procedrues", "procedures")):
        found, instead = find(text)
        assert found and instead == meant
    page = client.get(reverse("find"), {"q": "Lampwrigt"}).content.decode()
    assert "Found for “lampwright”" in page
    assert find("xyzzyq") == ([], "") and find("") == ([], "") and find("-- *") == ([], "")


def test_the_index_follows_every_write(bench):
    paste(bench, "C95 33u 35V 6.3x11 at 20,20", good_rows=False)
    assert any("C95" in said for what, said in whats("C95") if what == "part")
    Part.objects.filter(ref="C95").update(ref="C96")
    assert not any(what == "part" for what, _ in whats("C95")) and any("C96" in said for _, said in whats("C96"))
    Part.objects.filter(ref="C96").delete()
    assert not any(what == "part" for what, _ in whats("C96"))


def test_the_index_made_anew_is_the_one_that_triggers_kept(bench):
    def rows():
        with connection.cursor() as cursor:
            return [
                cursor.execute(f"SELECT rowid, says FROM {index} ORDER BY rowid").fetchall()
                for index in search_index.INDEXES
            ]

    kept = rows()
    search_index.rebuild()
    assert rows() == kept and sum(map(len, kept)) > 2800
    # of another form it is made anew, and otherwise left as it is
    with connection.cursor() as cursor:
        cursor.execute("UPDATE find_index SET says = 'form 0' WHERE rowid = 0")
        cursor.execute("DELETE FROM find_index WHERE rowid > 0")
    search_index.install()
    assert rows() == kept


def test_what_is_open_comes_before_what_was_handed_over(bench):
    old = Unit.objects.create(job=bench.unit.job, name="Old", handed_over=timezone.now())
    there = Board.objects.create(unit=old, name="ZZ-9")
    here = Board.objects.create(unit=bench.unit, name="ZZ-9")
    found = [one.url for one in find("ZZ-9")[0] if one.what == "board"]
    assert found == [reverse("survey", args=[here.pk]), reverse("survey", args=[there.pk])]


def test_whatever_is_typed_is_no_query_of_its_own(bench, client):
    for text in (
        '"',
        "a OR b",
        "NEAR(a b)",
        "kind:k4",
        "*",
        "a*b",
        "'; DROP TABLE jobs_job",
        "(",
        "^a",
        "c1 AND",
        "\x00",
        "a" * 500,
        "é ü",
    ):
        assert client.get(reverse("find"), {"q": text}).status_code == 200, text
    assert Job.objects.exists()


@given(st.text(max_size=40))
def test_words_of_any_text_are_a_query(text):
    for word in search_index.words_of(text):
        with closing(sqlite3.connect(":memory:")) as db:
            db.execute("CREATE VIRTUAL TABLE t USING fts5(says)")
            db.execute("SELECT * FROM t WHERE t MATCH ?", [f"a AND {word}"]).fetchall()


def test_the_ledger_is_found_by_its_words(bench):
    intake.describe_unit(bench.unit, {"symptoms": "gurgles at night"})
    Entry.objects.create(unit=bench.unit, at=timezone.now(), kind="note", text="Rubber foot glued with contact cement.")
    assert any(what == "ledger" and "contact cement" in said for what, said in whats("contact cement"))
    assert any(what == "unit" for what, _ in whats("gurgles"))


def test_what_is_a_line_of_its_board_leads_to_its_panel(bench, client):
    """A fuse or a chip has no row of its own; its reference and what is marked on it find it all the same."""
    board = bench
    board.others, board.chips = "F7 fuse T 1.6A 250V 5x20\nR41 2R2 fusible", "U9 4096 bytes"
    board.save()
    for text, ref in (("F7", "F7"), ("fuse 1.6A", "F7"), ("r41", "R41"), ("U9", "U9")):
        found = [one for one in find(text)[0] if one.what == "part"]
        assert [one.url for one in found] == [f"/board/{board.pk}/survey/?part={ref}"], text
