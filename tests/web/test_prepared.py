"""A query whose SQL is written once gives what the query itself gives, on whatever bench."""

import pytest

from idlebench.web.records.models import Board, Event, Part, Unit
from idlebench.web.records.prepared import Prepared
from idlebench.web.records.scratch import scratch_database
from idlebench.web.unit.looking import look

pytestmark = pytest.mark.django_db


@pytest.mark.parametrize(
    "of",
    [
        lambda pk: (
            Part.objects.filter(board__unit=pk)
            .order_by("id")
            .values_list("pk", "ref", "bipolar", "value", "swap__item")
        ),
        lambda pk: Board.objects.filter(unit=pk, replaced="").order_by("id").values_list("pk", "name", "source_volts"),
        lambda pk: Event.objects.filter(unit=pk).order_by("id").values_list("at", "was", "endless", "value", "steady"),
    ],
)
def test_it_is_the_query(demo, of):
    prepared = Prepared(of)
    seen = 0
    for unit in (*Unit.objects.values_list("pk", flat=True), 999):
        rows = prepared.rows(unit)
        assert rows == list(of(unit)) and all(
            type(a) is type(b) for a, b in zip(rows[:1], list(of(unit))[:1], strict=True)
        )
        seen += len(rows)
    assert seen > 3


def test_it_asks_the_bench_that_is_in_use(demo):
    unit = Unit.objects.first().pk
    assert look(unit).boards
    with scratch_database(), pytest.raises(Unit.DoesNotExist):
        look(unit)
