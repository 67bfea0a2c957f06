"""The suspects page: from a failed reading with nothing retyped, signs and readings in its address, and what cannot be."""

import pytest
from django.urls import reverse

from idlebench.core.prove import gates
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Reading, Unit
from idlebench.web.unit.state import unit_state

from .helpers import pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def board(surveyed):
    surveyed.supply_model = "bridge 9V 25VA store C1 regulator VR1 5V 1A"
    surveyed.save()
    settle(surveyed.unit)
    return surveyed


def ask(client, unit, **typed):
    return client.get(reverse("suspects", args=[unit.pk]), typed)


def test_a_failed_reading_leads_there_with_nothing_to_retype(client, board):
    unit = board.unit
    pass_up_to(unit, "full")
    power_at(unit, "full")
    checks = {c.aspect: c for c in unit_state(unit.pk).proof.step("full").checks if c.rail == "+5 V"}
    proving.take_reading(unit.pk, checks["volts"].key, "0")
    page = client.get(reverse("power", args=[unit.pk])).content.decode()
    assert reverse("suspects", args=[unit.pk]) in page
    before = Reading.objects.count()
    told = ask(client, unit)
    first = {s.ref for s in told.context["found"].suspects[:4]}
    assert "VR1" in first and "+5 V dc 0 V" in told.content.decode()
    # the volts before the regulator part the two at once
    more = ask(client, unit, read="C1 dc 14.1")
    assert more.context["found"].suspects[0].words == "VR1 dead" and more.context["found"].suspects[0].share > 0.7
    assert Reading.objects.count() == before, "nothing is kept"


def test_readings_from_before_a_swap_are_left_out_and_said(client, board):
    unit = board.unit
    pass_up_to(unit, "feed")
    assert ask(client, unit).context["told"].readings
    board.rails += " tol 6"
    from idlebench.web.intake import services as intake

    facts = {f.name: getattr(board, f.name) for f in board._meta.fields if f.name not in ("id", "unit")}
    intake.change_board(board, facts)
    told = ask(client, unit).context["told"]
    assert not told.readings and told.left_out


def test_a_blown_fuse_opens_the_page_and_the_second_shuts_power_until_its_cause_is_known(client, board):
    unit = board.unit
    board.others = "F1 fuse T 630mA 250V 5x20"
    board.save()
    pass_up_to(unit, "limited")
    went = client.post(reverse("fuse", args=[board.pk]), {"ref": "F1"})
    assert went.url.startswith(reverse("suspects", args=[unit.pk])) and "fuse+gone" in went.url
    page = client.get(went.url)
    assert page.status_code == 200 and {"D1", "C1", "F1"} & {s.ref for s in page.context["found"].suspects[:3]}

    def shut():
        return {r.rule for r in gates.power(unit_state(unit.pk).proof, "limited")}

    assert "blown" not in shut()
    client.post(reverse("fuse", args=[board.pk]), {"ref": "F1"})
    assert "blown" in shut()
    # moved to another unit, it takes what blew along
    other = Unit.objects.create(job=unit.job, name="B")
    assert client.post(reverse("move_board", args=[board.pk]), {"unit": other.pk}).status_code == 302
    assert "blown" in {r.rule for r in gates.power(unit_state(other.pk).proof, "limited")}
    client.post(reverse("move_board", args=[board.pk]), {"unit": unit.pk})
    assert "blown" in shut()
    assert client.post(reverse("fuse", args=[board.pk]), {"ref": "F1", "cause": "?"}).status_code == 422
    client.post(reverse("fuse", args=[board.pk]), {"ref": "F1", "cause": "bridge D1 shorted"})
    assert "blown" not in shut()


def test_signs_from_nothing_and_what_cannot_be(client, board):
    unit = board.unit
    assert "Nothing was read" in ask(client, unit).content.decode()
    dead = ask(client, unit, seen="dead\nfuse whole")
    assert dead.status_code == 200 and dead.context["next"]
    for typed, words in (
        ({"seen": "dead\nripple +5V"}, "dead, and ripple"), ({"seen": "rail low +12V"}, "a rail that the supply makes"),
        ({"read": "C1"}, "line 1"), ({"read": "C1 dc lots"}, "line 1"), ({"read": "C77 dc 3"}, "line 1"), ({"read": "C1 dc 1\n" * 60}, "60 lines"),
    ):  # fmt: skip
        told = ask(client, unit, **typed)
        assert told.status_code == 422 and words in told.content.decode(), typed


def test_without_a_model_it_says_what_to_type(client, surveyed):
    assert "Type them at Intake" in ask(client, surveyed.unit).content.decode()
    surveyed.supply_model = "bridge 9V 25VA store C77 regulator VR1 5V 1A"
    surveyed.save()
    assert ask(client, surveyed.unit).status_code in (200, 422)
