"""How a story ends: what was found before, faults that stay, a job that follows, modifications; on the sheets and in a job's file."""

import pytest
from django.urls import reverse

from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.ledger import known_faults
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Clue, Job, KnownFault, Modification, Unit
from idlebench.web.unit.state import unit_state
from tests.web.helpers import discharge, good_text, make_idle, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db

LINE = "mod added reset button at 40,30 height 6 wire 0.25 tried 10k, 4k7 back unsolder its two wires"


@pytest.fixture
def board(surveyed):
    surveyed.supply_model = "bridge 9V 25VA store C1 regulator VR1 5V 1A"
    surveyed.save()
    return surveyed


def sheet_of(client, unit, name="sheet"):
    return " ".join(client.get(reverse(name, args=[unit.pk])).content.decode().split())


def test_what_was_found_before_weighs_stands_on_the_sheet_and_proves_nothing(client, board):
    unit = board.unit
    before = {c.key for s in unit_state(unit.pk).proof.steps for c in s.checks if unit_state(unit.pk).proof.done(c)}
    told = {"board": board.pk, "sign": ["hum"], "read": "C1 esr 2.4\n+5V dc 4.2", "as_found": "yes"}
    # under power or not, with charged stores or not: nothing is read now
    assert client.post(reverse("suspects_tell", args=[unit.pk]), told).status_code == 302
    assert Clue.objects.filter(unit=unit, as_found=True).count() == 3
    page = client.get(reverse("suspects", args=[unit.pk]))
    assert page.context["found"].suspects[0].ref == "C1" and ", as found" in page.content.decode()
    proof = unit_state(unit.pk).proof
    assert {c.key for s in proof.steps for c in s.checks if proof.done(c)} == before
    assert "As found, before it came here:</b> hum; C1 esr 2.4; +5V dc 4.2" in sheet_of(client, unit)


def failed_life(unit):
    """A clock that stands still: it fails, and hurts nobody."""
    settle(unit)
    pass_up_to(unit, "life")
    power_at(unit, "life")
    check, *others = unit_state(unit.pk).proof.step("life").checks
    proving.take_reading(unit.pk, check.key, "no" if check.seen else "0")
    for other in others:
        proving.take_reading(unit.pk, other.key, good_text(other))
    make_idle()
    return check


def test_a_known_fault_is_accepted_by_the_owner_said_and_in_nobodys_way(client, board):
    unit = board.unit
    check = failed_life(unit)
    assert not unit_state(unit.pk).proof.done(check)
    page = client.get(reverse("handover", args=[unit.pk])).content.decode()
    assert check.point in page and "Known faults" in page
    post = {"fault": "clock stands still", "accepted_by": "Keeper Aldous", "check": check.key}
    assert client.post(reverse("known_fault", args=[unit.pk]), {**post, "accepted_by": ""}).status_code == 422
    assert client.post(reverse("known_fault", args=[unit.pk]), post).status_code == 302
    assert unit_state(unit.pk).proof.done(unit_state(unit.pk).proof.check(check.key))
    for name in ("sheet", "owner_sheet"):
        assert "clock stands still" in sheet_of(client, unit, name) and "Keeper Aldous" in sheet_of(client, unit, name)
    discharge(unit)
    proving.take_reading(unit.pk, "cold.look.loose", "yes")
    assert client.post(reverse("handover", args=[unit.pk]), {"hours": "4"}).status_code == 302
    # once handed over nothing is accepted or taken back
    with pytest.raises(Blocked):
        known_faults.accept_fault(unit.pk, "keys dead", "Keeper Aldous")
    with pytest.raises(Blocked):
        known_faults.take_back(unit.pk, KnownFault.objects.get().pk)


def test_a_known_fault_that_is_taken_back_leaves_its_check_failed(board):
    unit, check = board.unit, failed_life(board.unit)
    fault = known_faults.accept_fault(unit.pk, "clock stands still", "Keeper Aldous", check.key)
    assert unit_state(unit.pk).proof.done(check)
    known_faults.take_back(unit.pk, fault.pk)
    state = unit_state(unit.pk)
    assert state.proof.status_of(check).failed and not state.proof.done(check)
    assert (
        not state.reading_of(check).overridden
        and "no longer accepted" in state.row.entries.filter(kind="reading").first().text
    )
    # what was accepted for another reason stays so
    known_faults.accept_fault(unit.pk, "clock stands still", "Keeper Aldous", check.key)
    fault = KnownFault.objects.create(unit=unit, text="x", owner="Keeper", key=check.key, at=state.now)
    known_faults.take_back(unit.pk, fault.pk)
    assert unit_state(unit.pk).reading_of(check).overridden


def test_what_guards_a_person_is_accepted_by_nobody(board):
    unit = board.unit
    discharge(unit)
    for check in unit_state(unit.pk).proof.steps[0].checks:
        if check.safety and check.kind == "look":
            proving.take_reading(unit.pk, check.key, "no")
            break
    with pytest.raises(Blocked) as error:
        known_faults.accept_fault(unit.pk, "looks fine to me", "Keeper Aldous", check.key)
    assert "could hurt" in error.value.reasons[0].text
    passing = next(c for c in unit_state(unit.pk).proof.steps[0].checks if not c.safety)
    with pytest.raises(Blocked) as error:
        known_faults.accept_fault(unit.pk, "not read at all", "Keeper Aldous", passing.key)
    assert "did not fail" in error.value.reasons[0].text
    for text, owner in (("", "Aldous"), ("keys dead", " "), ("x" * 301, "Aldous")):
        with pytest.raises(BadInput):
            known_faults.accept_fault(unit.pk, text, owner)
    assert not KnownFault.objects.exists()


def test_a_job_follows_from_a_fault_once(client, board):
    unit = board.unit
    unit.serial = "TW80-0117"
    unit.save()
    fault = known_faults.accept_fault(unit.pk, "F7 key dead", "Keeper Aldous")
    made = client.post(reverse("known_fault_follow", args=[unit.pk]), {"fault": fault.pk})
    new = Unit.objects.latest("pk")
    assert made.url == reverse("intake", args=[new.pk]) and new.symptoms == "F7 key dead" and new.serial == "TW80-0117"
    assert (
        new.job.machine == unit.job.machine
        and new.job.owner == unit.job.owner
        and f"Job {unit.job.number}" in new.repairs
    )
    with pytest.raises(Blocked):
        known_faults.follow_up(unit.pk, fault.pk)
    assert f"job {new.job.number} follows" in sheet_of(client, unit)
    Job.objects.get(pk=new.job.pk).delete()
    fault.refresh_from_db()
    assert fault.follow_up is None


def test_a_modification_is_logged_asked_for_told_and_put_back(client, board):
    unit = board.unit
    discharge(unit)
    board.zones = "lid 5 at 50,40 200x200"
    board.save()
    swap = client.post(reverse("mend", args=[board.pk]), {"mend": LINE}, follow=True).content.decode()
    assert "2 mm too high" in swap and "added reset button" in swap
    row = Modification.objects.get()
    assert unit_state(unit.pk).proof.check(f"cold.mod.n{row.pk}") is not None
    for name in ("sheet", "owner_sheet"):
        assert "added reset button" in sheet_of(client, unit, name)
    full = sheet_of(client, unit)
    assert "tried: 10k, 4k7" in full and "unsolder its two wires" in full.split("What can be undone")[1]
    assert client.post(reverse("mend", args=[board.pk]), {"mend": "mod added button"}).status_code == 422
    discharge(unit)
    client.post(reverse("modification_back", args=[board.pk]), {"mod": row.pk})
    assert not Modification.objects.exists() and unit_state(unit.pk).proof.check(f"cold.mod.n{row.pk}") is None
    assert client.post(reverse("modification_back", args=[board.pk]), {"mod": row.pk}).status_code == 409
