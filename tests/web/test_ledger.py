"""The ledger searched, and the shop's figures as a page and as tables."""

import csv
import io

import pytest
from django.urls import reverse
from django.utils import timezone

from idlebench.core.faults.trial_record import TRIALS
from idlebench.web.ledger import figures
from idlebench.web.records.models import Cause, Entry, Job, Part, Unit
from idlebench.web.survey.services import add_line

pytestmark = pytest.mark.django_db


def rows(client, **asked):
    return client.get(reverse("ledger"), asked).content.decode()


def test_it_is_searched_by_words_unit_day_and_stage(client, demo):
    entry = Entry.objects.filter(kind="swap").first()
    word = entry.text.split()[0].strip(":,")
    assert word in rows(client, q=word)
    assert "No entry of that kind" in rows(client, q="no such word as this")
    assert "No entry of that kind" in rows(client, q="1971-01-01")
    assert "No entry of that kind" in rows(client, q="2026-99-99")
    today = f"{Entry.objects.first().at:%Y-%m-%d}"
    assert '<td class="whole">' in rows(client, q=today)
    swaps = rows(client, kind="swap")
    assert swaps.count('<span class="tag') == min(100, Entry.objects.filter(kind="swap").count())
    several = rows(client, q="A swap")
    assert 'class="tag' in several


def test_figures_count_what_the_parts_themselves_say(client, demo):
    told = figures.figures()
    series = {r.name: r for r in told.failures["series"]}
    assert series["QF"].failed > 5 and series["QF"].verdict == "fails more often than the rest"
    assert all(r.verdict == "" for r in told.failures["series"] if r.of < 5)
    unit = next(u for u in told.units if u.name == "job 1, unit A")
    assert unit.changed == 40 and 0 < unit.bad < 40 and unit.cost > unit.parts > 0 and unit.closed
    assert told.paid and told.paid[0].changed > 0
    html = client.get(reverse("figures")).content.decode()
    assert f"{series['QF'].failed} of {series['QF'].of}" in html
    before = series["QF"].of
    part = Part.objects.filter(series="QF", board__unit__handed_over=None).first()
    add_line(part.board, f"{part.ref} series KV", change=True)
    assert {r.name: r for r in figures.figures().failures["series"]}["QF"].of == before - 1


def test_each_table_is_a_csv_that_reads_back(client, demo):
    Job.objects.filter(pk=1).update(policy="=cmd()")
    Unit.objects.filter(name="A", job_id=1).update(worth=None)
    for name in figures.FILES:
        response = client.get(reverse("figures_csv", args=[name]))
        found = list(csv.reader(io.StringIO(response.content.decode())))
        assert len({len(row) for row in found}) == 1 and len(found) > 0, name
        assert not any(cell.startswith("=") for row in found for cell in row)
    assert client.get(reverse("figures_csv", args=["no-such"])).status_code == 404
    by_series = list(
        csv.DictReader(io.StringIO(client.get(reverse("figures_csv", args=["failures-by-series"])).content.decode()))
    )
    assert all(0 <= float(r["low"]) <= float(r["share"]) <= float(r["high"]) <= 1 for r in by_series)


def test_suspects_that_were_settled_stand_beside_the_trials(client, demo):
    unit, now = Unit.objects.get(name="B"), timezone.now()
    settled = (
        (0.85, Cause.CONFIRMED, False),
        (0.9, Cause.CONFIRMED, False),
        (0.82, Cause.RULED_OUT, False),
        (0.3, Cause.RULED_OUT, False),
        (0.88, Cause.RULED_OUT, True),
        (0.87, Cause.OPEN, False),
    )
    for i, (share, outcome, simulated) in enumerate(settled):
        Cause.objects.create(
            unit=unit, ref=f"C{i + 1}", failure="dry", share=share, outcome=outcome, simulated=simulated, at=now
        )
    own = {one.low: (one.said, one.right) for one in figures.figures().suspects}
    assert own == {0.0: (0, 0), 0.2: (1, 0), 0.4: (0, 0), 0.6: (0, 0), 0.8: (3, 2)}, (
        "simulated and open ones are none of them"
    )
    page = " ".join(client.get(reverse("figures")).content.decode().split())
    assert "How right suspects are" in page and "2 of 3" in page and TRIALS[4].words in page


def test_an_empty_bench_says_that_nothing_can_be_counted(client, db):
    assert "No part is surveyed yet" in client.get(reverse("figures")).content.decode()
    for name in figures.FILES:
        assert client.get(reverse("figures_csv", args=[name])).status_code == 200
