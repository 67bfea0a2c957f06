"""The readings of one page are logged together: all of them, or none and the form comes back as it was typed."""

import pytest
from django.urls import reverse

from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Event, Reading
from idlebench.web.unit.state import unit_state

from .helpers import good_text, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def live(surveyed):
    unit = surveyed.unit
    settle(unit)
    steps = unit_state(unit.pk).proof.steps
    step = next(s for s in steps if sum(c.live and c.high is not None for c in s.checks) > 1)
    pass_up_to(unit, step.key)
    power_at(unit, step.key)
    return unit


def rails(unit):
    """Two checks of the step that has power."""
    state = unit_state(unit.pk)
    step = state.proof.step(state.live_step)
    return [c for c in step.checks if c.live and c.high is not None][:2]


def test_all_are_logged_at_once(client, live):
    first, second = rails(live)
    sent = {f"r:{c.key}": good_text(c) for c in (first, second)}
    assert client.post(reverse("reading", args=[live.pk]), {**sent, "step": first.step}).status_code == 302
    assert set(Reading.objects.filter(unit=live, at=Reading.objects.last().at).values_list("key", flat=True)) == {
        first.key,
        second.key,
    }


@pytest.mark.parametrize("wrong", ["soon", "1e9", "-", "5 apples"])
def test_one_that_cannot_be_read_keeps_all_back_and_the_form_comes_back_filled(client, live, wrong):
    first, second = rails(live)
    before = Reading.objects.count(), Event.objects.count()
    sent = {f"r:{first.key}": good_text(first), f"r:{second.key}": wrong, "step": first.step}
    answer = client.post(reverse("reading", args=[live.pk]), sent)
    assert answer.status_code == 422 and (Reading.objects.count(), Event.objects.count()) == before
    page = answer.content.decode()
    assert f'value="{good_text(first)}"' in page and f'value="{wrong}"' in page


def test_one_that_may_not_be_taken_now_keeps_all_back(live):
    first, _ = rails(live)
    cold = unit_state(live.pk).proof.discharges[0]
    before = Reading.objects.count()
    for typed in ({first.key: good_text(first), cold.key: "0.4"}, {cold.key: "0.4", first.key: good_text(first)}):
        with pytest.raises(Blocked):
            proving.take_readings(live.pk, typed)
    with pytest.raises(BadInput):
        proving.take_readings(live.pk, {first.key: good_text(first), "no.such.check": "1"})
    assert Reading.objects.count() == before


def test_a_reading_out_of_limits_is_logged_with_those_beside_it(live):
    first, second = rails(live)
    taken = proving.take_readings(live.pk, {first.key: f"{first.high * 1.3:g}!", second.key: good_text(second)})
    assert [one.key for one in taken] == [first.key, second.key]
    state = unit_state(live.pk)
    assert state.proof.status_of(first).failed and state.proof.done(second)
