"""Every page of the demo, asked for once."""

import json
from datetime import UTC, datetime

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from idlebench.core.calculators import REGISTRY
from idlebench.web.records import steady
from idlebench.web.records.models import Board, Job, Unit
from tests.conftest import made_once


@pytest.fixture
def one_clock(monkeypatch):
    """The steady clock goes as the wall clock goes, however a test sets that."""
    monkeypatch.setattr(steady, "now", lambda: steady.START + (timezone.now() - datetime(2020, 1, 1, tzinfo=UTC)))


def all_pages() -> list[str]:
    pages = [
        *(f"/job/{job.pk}/triage/" for job in Job.objects.all()),
        "/",
        "/job/new/",
        "/reckoner/",
        "/shelf/",
        "/gather/",
        "/calendar/",
        "/procedures/",
        "/practice/",
        "/procedures/board-wash-alcohol/",
        "/shelf/?q=100u+16V+LZ&page=2",
        "/ledger/",
        "/ledger/?q=C2+A&kind=swap",
        "/ledger/figures/",
        "/find/?q=C2",
    ]
    pages += [reverse("reckoning", args=[name]) for name in REGISTRY]
    for unit in Unit.objects.all():
        pages += [
            reverse(name, args=[unit.pk])
            for name in ("intake", "gather", "cold", "power", "suspects", "handover", "sheet", "owner_sheet")
        ]
        pages += [f"{reverse('power', args=[unit.pk])}?step={step}" for step in ("dummy", "full", "feed", "life")]
        pages += [reverse("gather_ask", args=[unit.pk]), reverse("unit_procedures", args=[unit.pk])]
    for board in Board.objects.all():
        pages += [reverse(name, args=[board.pk]) for name in ("survey", "choose", "swap", "supply", "bag")]
        pages += [f"{reverse('survey', args=[board.pk])}?part=C1", f"{reverse('choose', args=[board.pk])}?place=C7"]
        pages.append(f"{reverse('stripes', args=[board.pk])}?width=8&offset=12")
    return pages


@pytest.fixture
def demo_pages(demo, client, of_all) -> dict[str, tuple[str, int]]:
    """Every page of the demo by its address, with its number of queries: asked for once for all workers, for the demo is the same each time."""
    with made_once(of_all, "pages.json") as kept:
        if not kept.exists():
            # what is made once for the whole shop is no page's own
            for first in (
                "/shelf/",
                reverse("choose", args=[Board.objects.first().pk]),
                reverse("bench"),
                reverse("figures"),
            ):
                client.get(first)
            kept.write_text(json.dumps({page: _asked(client, page) for page in all_pages()}), encoding="utf-8")
    return json.loads(kept.read_text(encoding="utf-8"))


def _asked(client, page: str) -> tuple[str, int]:
    with CaptureQueriesContext(connection) as queries:
        response = client.get(page)
    assert response.status_code == 200, page
    return response.content.decode(), len(queries)
