"""What is kept so that no page has to judge the whole shop: it says the same as judging the whole shop would."""

from contextlib import contextmanager

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from idlebench.core.choose.plan import count_series
from idlebench.core.judge.verdict import condemned_alone
from idlebench.web.keep import removing
from idlebench.web.records import tally
from idlebench.web.records.models import Job, Judged, Part, SeriesTally, ShopPolicy, Summary, Unit
from idlebench.web.survey import undoing
from idlebench.web.survey.services import paste
from idlebench.web.unit import door
from idlebench.web.unit.series import rejudge, save_part, series_counts
from idlebench.web.unit.state import states_of
from idlebench.web.unit.summary import summaries, summary_of

from .helpers import settle

pytestmark = pytest.mark.django_db


def counted():
    """The tally reckoned the long way: every part of the shop judged alone."""
    year = timezone.localdate().year
    cores = [part.to_core() for part in Part.objects.all()]
    return {k: tuple(v) for k, v in count_series((c, condemned_alone(c, year)) for c in cores).items()}


def kept():
    return {row.series: (row.failed, row.seen) for row in SeriesTally.objects.all() if row.seen}


def both_ways():
    """Each unit by what is kept, and judged anew."""
    units = list(Unit.objects.select_related("job"))
    fresh = {state.row.pk: summary_of(state) for state in states_of([u.pk for u in units])}
    return summaries(units), fresh


def test_the_tally_follows_every_way_a_part_is_written(surveyed):
    paste(
        surveyed,
        "C11 10u 16V 5x11 series QF leaking\nC12 10u 16V 5x11 series QF sound\nC13 1u 50V series RT",
        good_rows=False,
    )
    assert kept() == counted() == {"QF": (1, 2), "RT": (0, 1)}
    part = Part.objects.get(ref="C12")
    part.looks = "burst"
    save_part(part)
    assert kept() == counted() and kept()["QF"] == (2, 2)
    part.series = "RT"
    save_part(part)
    assert kept() == counted() == {"QF": (1, 1), "RT": (1, 2)}
    gone = removing.remove("part", part.pk)
    assert kept() == counted() and kept()["RT"] == (0, 1)
    removing.bring_back(gone.pk)
    assert kept() == counted() and kept()["RT"] == (1, 2)
    gone = removing.remove("job", surveyed.unit.job_id)
    assert kept() == {}
    removing.bring_back(gone.pk)
    assert kept() == counted() and kept()["RT"] == (1, 2)


def test_undo_counts_back(surveyed):
    paste(surveyed, "C11 10u 16V 5x11 series QF leaking", good_rows=False)
    undoing.undo(surveyed)
    assert kept() == counted() == {}


def test_parts_judged_by_other_rules_or_in_another_year_are_judged_again(surveyed):
    paste(surveyed, "C11 10u 16V 5x11 series QF leaking\nC12 10u 16V 5x11 series QF sound", good_rows=False)
    rejudge()
    Part.objects.update(condemned=False)
    assert rejudge() == 0 and kept()["QF"] == (0, 2), "judged by the same rules in the same year they are let be"
    Judged.objects.update(year=2001)
    assert rejudge() == 1 and kept() == counted() == {"QF": (1, 2)}
    Judged.objects.update(rules="others")
    SeriesTally.objects.update(seen=99)
    assert rejudge() == 0 and kept() == counted()


def test_a_change_of_the_parts_table_leaves_the_triggers_where_they_were(surveyed):
    with connection.cursor() as cursor:
        for name in ("tally_part_comes", "tally_part_goes", "tally_part_changes"):
            cursor.execute(f"DROP TRIGGER {name}")
    tally.install()
    tally.install()
    paste(surveyed, "C11 10u 16V 5x11 series QF leaking", good_rows=False)
    assert kept() == counted() == {"QF": (1, 1)}


def test_only_series_that_are_asked_for_are_read(surveyed):
    paste(surveyed, "C11 10u 16V 5x11 series QF leaking\nC13 1u 50V series RT", good_rows=False)
    assert set(series_counts(["RT", "", "none such"])) == {"RT"}


def test_what_is_kept_of_a_unit_is_what_judging_it_says_after_each_step_of_a_whole_job(shelf, monkeypatch):
    """The demo is taken in by the services that people's typing goes through; after every few of them both are compared."""
    from idlebench.web.keep.demo import load_demo

    real, seen = door.opened_all, []

    @contextmanager
    def watched(*args, **kwargs):
        with real(*args, **kwargs) as units:
            yield units
        seen.append(args)
        if len(seen) % 3 == 0:
            known, fresh = both_ways()
            assert known == fresh

    monkeypatch.setattr(door, "opened_all", watched)
    load_demo()
    assert len(seen) > 30 and Summary.objects.count() == Unit.objects.count() == 5
    known, fresh = both_ways()
    assert known == fresh


def test_what_is_kept_goes_by_policy_series_and_year(surveyed, monkeypatch):
    unit = surveyed.unit
    paste(surveyed, "C11 10u 16V 5x11 series QF sound", good_rows=False)
    both_ways()
    job = unit.job
    ShopPolicy.objects.create(name="ours", data={"name": "ours", "title": "Ours", "about": "All go.", "start": "mend"})
    other = Job.objects.create(name="Another", machine="Another").units.create(name="Z")
    board = other.boards.create(name="Z-1")
    paste(board, "\n".join(f"C{i} 10u 16V 5x11 series QF leaking" for i in range(1, 5)), good_rows=False)
    known, fresh = both_ways()
    assert known == fresh
    Job.objects.filter(pk=job.pk).update(policy="mend")
    known, fresh = both_ways()
    assert known == fresh
    monkeypatch.setattr("idlebench.web.unit.verdicts.year_now", lambda: 2090)
    monkeypatch.setattr("idlebench.web.unit.summary.year_now", lambda: 2090)
    known, fresh = both_ways()
    assert known == fresh


def test_a_summary_of_another_shape_is_reckoned_anew(surveyed):
    both_ways()
    Summary.objects.update(data={"boards": 3})
    known, fresh = both_ways()
    assert known == fresh


def test_the_bench_asks_no_more_of_the_database_for_more_units(client, surveyed):
    paste(surveyed, "C11 10u 16V 5x11 series QF leaking", good_rows=False)
    page = reverse("bench")
    client.get(page)
    with CaptureQueriesContext(connection) as few:
        client.get(page)
    for n in range(2, 40):
        unit = surveyed.unit.job.units.create(name=f"U{n}")
        paste(unit.boards.create(name="PS-1"), "C1 10u 16V 5x11 series QF", good_rows=False)
    client.get(page)
    with CaptureQueriesContext(connection) as many:
        response = client.get(page)
    assert len(many) == len(few)
    assert len(response.context["units"]) == 24 and "39 open units" in response.content.decode()
    assert len(client.get(page, {"page": "2"}).context["units"]) == 15


def test_finished_jobs_fold_away_and_open_ones_come_first(client, surveyed):
    done = Job.objects.create(name="Done long ago", machine="Clock")
    done.units.create(name="A", handed_over=timezone.now())
    half = Job.objects.create(name="Half done", machine="Clock")
    half.units.create(name="A", handed_over=timezone.now())
    half.units.create(name="B")
    response = client.get(reverse("bench"))
    names = [unit.job.name for unit, _ in response.context["units"]]
    assert "Done long ago" not in names and names.count("Half done") == 2
    assert [job.name for job in response.context["done"]] == ["Done long ago"]
    assert "1 finished job" in response.content.decode()


def test_a_job_of_many_units_is_weighed_in_pages_and_its_boards_move_by_name(client, surveyed):
    unit, job = surveyed.unit, surveyed.unit.job
    for n in range(2, 32):
        job.units.create(name=f"U{n}")
    page = reverse("triage", args=[job.pk])
    settle(unit)
    rows = client.get(page).context["rows"]
    assert len(rows) == 24
    assert len(client.get(page, {"page": "2"}).context["rows"]) == 7
    assert client.post(reverse("move_board", args=[surveyed.pk]), {"named": "nobody"}).status_code == 422
    assert client.post(reverse("move_board", args=[surveyed.pk]), {"named": "U31"}).status_code == 302
    surveyed.refresh_from_db()
    assert surveyed.unit.name == "U31"


def test_a_part_is_found_by_the_beginning_of_its_reference(client, surveyed, django_assert_max_num_queries):
    with django_assert_max_num_queries(8):
        found = client.get(reverse("find"), {"q": "c2"}).context["found"]
    assert [one.words.split()[0] for one in found if one.what == "part"] == ["C2"]
