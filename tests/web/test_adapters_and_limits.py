"""A machine behind an adapter, and a board on a bench supply: the way up by request, and ways round it."""

import pytest
from django.urls import reverse

from idlebench.core.prove.record import POWER
from idlebench.web.intake import services as intake
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Event, Reading
from idlebench.web.unit.state import unit_state

from .helpers import before_power, discharge, make_idle, pass_step, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def behind(surveyed):
    """The surveyed machine, its supply fed by an adapter instead of the mains."""
    surveyed.others = "AD1 adapter 12V DC 1A centre + 5.5x2.1"
    surveyed.source_volts = surveyed.source_va = None
    surveyed.save()
    settle(surveyed.unit)
    return surveyed.unit


def step_keys(unit):
    return [step.key for step in unit_state(unit.pk).proof.steps]


def read(client, unit, key, text):
    return client.post(reverse("reading", args=[unit.pk]), {f"r:{key}": text})


def test_an_adapter_wired_the_other_way_round_never_meets_the_machine(client, behind):
    assert step_keys(behind)[:4] == ["cold", "dummy", "source", "adapter"]
    pass_up_to(behind, "source")
    power_at(behind, "source")
    check = unit_state(behind.pk).proof.step("source").checks[0]
    page = client.get(reverse("power", args=[behind.pk]), {"step": "source"}).content.decode()
    assert "Adapter AD1 alone" in page and "Red lead in the centre" in page
    assert read(client, behind, check.key, "-16.6").status_code == 302
    assert not unit_state(behind.pk).proof.status_of(check).passed
    make_idle()
    before_power(behind)
    for step in ("adapter", "full"):
        assert client.post(reverse("power_on", args=[behind.pk]), {"step": step}).status_code == 409


def test_the_whole_way_behind_an_adapter(client, behind):
    pass_up_to(behind, "feed")
    state = unit_state(behind.pk)
    assert state.proof.current.key == "feed"
    load = state.proof.step("adapter").checks[0]
    assert state.proof.done(load), "dummy loads fitted later do not undo what loaded the adapter"
    board = behind.boards.get(name="PS-1")
    facts = {f.name: getattr(board, f.name) for f in board._meta.fields if f.name not in ("id", "unit")}
    intake.change_board(board, {**facts, "others": "AD1 adapter 9V AC 1A"})
    assert unit_state(behind.pk).proof.current.key == "cold", "another adapter is asked about anew"


def test_a_board_alone_before_its_own_supply_feeds_it(client, surveyed):
    unit = surveyed.unit
    unit.job.way = "limited"
    unit.job.save()
    settle(unit)
    alone = next(key for key in step_keys(unit) if key.startswith("alone."))
    assert step_keys(unit).index(alone) == step_keys(unit).index("feed") - 1
    pass_up_to(unit, alone)
    assert client.post(reverse("power_on", args=[unit.pk]), {"step": "feed"}).status_code == 409
    step = unit_state(unit.pk).proof.step(alone)
    discharge(unit)
    proving.take_reading(unit.pk, step.checks[0].key, "yes")
    before_power(unit)
    power_at(unit, alone)
    amps = next(c for c in step.checks if c.kind == "amps")
    assert read(client, unit, amps.key, "-0.2").status_code == 422
    assert read(client, unit, amps.key, "99").status_code == 302
    assert "failed" in client.get(reverse("power", args=[unit.pk]), {"step": alone}).content.decode()
    make_idle()
    before_power(unit)
    assert client.post(reverse("power_on", args=[unit.pk]), {"step": "feed"}).status_code == 409
    pass_step(unit, step)
    assert unit_state(unit.pk).proof.step_done(step)


def test_the_stand_in_reads_nothing_where_it_has_nothing(client, behind):
    job = behind.job
    job.meter = "stand-in"
    job.save()
    pass_up_to(behind, "source")
    power_at(behind, "source")
    check = unit_state(behind.pk).proof.step("source").checks[0]
    told = client.post(reverse("metered", args=[behind.pk]), {"check": check.key})
    assert told.status_code == 422 and not Reading.objects.filter(key=check.key).exists()
    assert Event.objects.filter(unit=behind, kind=POWER).exists() and unit_state(behind.pk).live_step == "source"
