"""A check of one's own: added at Cold checks, read like any other, removed again."""

import pytest
from django.urls import reverse
from django.utils import timezone

from idlebench.core.refusal import Blocked
from idlebench.web.proving import own_checks
from idlebench.web.records.models import Board
from idlebench.web.unit.state import unit_state
from tests.web.helpers import discharge


@pytest.fixture
def keys(surveyed):
    """A board without rails and supply."""
    return Board.objects.create(unit=surveyed.unit, name="KB-1", others="SK1 socket")


def own(unit):
    return [c for c in unit_state(unit.pk).proof.steps[0].checks if c.key.startswith("cold.own")]


def test_it_is_added_read_and_removed(client, keys):
    url = reverse("own_check", args=[keys.pk])
    went = client.post(url, {"check": "SK1 4 to row 3 continuity"})
    assert went.status_code == 302
    (check,) = own(keys.unit)
    page = client.get(went.url).content.decode()
    assert "SK1 4 to row 3" in page and "at most 2 Ω" in page
    discharge(keys.unit)
    for typed, good in (("44", False), ("beeps", True), ("silent", False), ("0.4", True)):
        client.post(reverse("reading", args=[keys.unit_id]), {f"r:{check.key}": typed})
        proof = unit_state(keys.unit_id).proof
        assert proof.done(check) is good, typed
        assert typed in client.get(reverse("cold", args=[keys.unit_id]), {"check": check.key}).content.decode()
    assert client.post(url, {"check": "SK1 4 to row 3 continuity", "drop": "1"}).status_code == 302 and not own(
        keys.unit
    )


@pytest.mark.parametrize(
    ("typed", "says"),
    [("", "from, to"), ("SK9 1 to row 3 continuity", "SK9"), ("SK1 4 to row 3", "from, to"), ("x" * 400, "")],
)
def test_what_is_refused_stays_in_its_field(client, keys, typed, says):
    refused = client.post(reverse("own_check", args=[keys.pk]), {"check": typed})
    assert refused.status_code == 422 and says in refused.content.decode() and not own(keys.unit)


def test_one_is_added_once(client, keys):
    url = reverse("own_check", args=[keys.pk])
    client.post(url, {"check": "look SK1 legs bright"})
    assert client.post(url, {"check": "look SK1 legs bright"}).status_code == 422 and len(own(keys.unit)) == 1
    assert client.get(url).status_code == 405


def test_a_handed_over_unit_takes_none(keys):
    keys.unit.handed_over = timezone.now()
    keys.unit.save()
    with pytest.raises(Blocked):
        own_checks.add(keys, "look SK1 legs bright")
    assert not own(keys.unit)
