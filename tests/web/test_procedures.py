"""Procedures on a unit: step by step, their waits, what they void, and every way round that was tried."""

from __future__ import annotations

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from idlebench.catalogue import house_procedures
from idlebench.core.prove.facts import MAINS_SIDE, NO_SHORT
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.calendar.services import make
from idlebench.web.keep.coming import take_in
from idlebench.web.keep.leaving import export
from idlebench.web.ledger.sheets import sheet
from idlebench.web.procedures import services
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Event, ProcedureStep, Reading, ShopProcedure, UnitProcedure
from idlebench.web.unit.state import unit_state

from .helpers import discharge, pass_up_to, power_at, settle, waits_are_over

pytestmark = pytest.mark.django_db

WASH, KEYS = "board-wash-alcohol", "keyboard-contacts"


@pytest.fixture
def wash(surveyed):
    discharge(surveyed.unit)
    return services.add(surveyed.unit_id, WASH, surveyed.pk)


def run(row, *numbers):
    for number in numbers:
        services.done(row.unit_id, row.pk, number)


def test_a_wash_from_its_first_step_to_its_last(wash, client):
    run(wash, 1, 2, 3, 4)
    wash.refresh_from_db()
    assert wash.waits_until is not None and wash.dries_until == wash.waits_until
    page = client.get("/").content.decode()
    assert "countdown" in page and "Board wash, by alcohol and brush" in page, "every page shows what waits"
    with pytest.raises(Blocked) as shut:
        services.done(wash.unit_id, wash.pk, 5, "yes")
    assert shut.value.reasons[0].rule == "wait"
    waits_are_over(wash)
    assert "over" in client.get("/shelf/").content.decode()
    services.done(wash.unit_id, wash.pk, 5, "yes")
    wash.refresh_from_db()
    assert wash.ended is not None and wash.waits_until is None
    assert "countdown" not in client.get("/").content.decode()
    assert Reading.objects.filter(step="procedure").get().passed
    assert Event.objects.filter(kind="read", key=f"proc.q{wash.pk}.5").exists()


def test_nothing_wet_takes_power(surveyed):
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "limited")
    board = unit.boards.get(name="MB-80")
    wash = services.add(unit.pk, WASH, board.pk)
    run(wash, 1, 2, 3, 4)
    proving.take_reading(unit.pk, "cold.look.loose", "yes")
    with pytest.raises(Blocked) as shut:
        power_at(unit, "limited")
    assert "wet" in {r.rule for r in shut.value.reasons}
    # another order: taken back, the board moved to another unit: it is wet all the same
    services.back(unit.pk, wash.pk)
    assert any("dries until" in words for words in unit_state(unit.pk).wet)
    with pytest.raises(Blocked):
        services.take_off(unit.pk, wash.pk)
    other = unit.job.units.create(name="B")
    board.unit = other
    board.save()
    assert not unit_state(unit.pk).wet and unit_state(other.pk).wet


def test_the_drying_is_not_skipped_and_a_begun_wash_is_wet(surveyed, wash):
    run(wash, 1)
    assert unit_state(wash.unit_id).wet == ("Board wash, by alcohol and brush has begun, and nothing is drying yet",)
    run(wash, 2, 3)
    with pytest.raises(Blocked) as shut:
        services.skip(wash.unit_id, wash.pk, 4, "it looks dry enough to me")
    assert shut.value.reasons[0].rule == "wet"
    services.failed(wash.unit_id, wash.pk, 4, "the oven is not free today")
    assert unit_state(wash.unit_id).wet
    run(wash, 4)
    waits_are_over(wash)
    assert not unit_state(wash.unit_id).wet
    services.back(wash.unit_id, wash.pk)
    assert unit_state(wash.unit_id).wet, "taken back, it is to be dried again"
    for number in (3, 2, 1):
        assert services.back(wash.unit_id, wash.pk) == number
    assert unit_state(wash.unit_id).wet, "to take a step back makes nothing dry"
    with pytest.raises(Blocked):
        services.take_off(wash.unit_id, wash.pk)
    run(wash, 1, 2, 3, 4)
    waits_are_over(wash)
    assert not unit_state(wash.unit_id).wet


def test_a_wash_asks_its_board_again(surveyed, wash):
    unit = surveyed.unit
    rail = next(c for c in unit_state(unit.pk).proof.steps[0].checks if c.fact == "no short" and c.board == "PS-1")
    proving.take_reading(unit.pk, rail.key, "900")
    assert unit_state(unit.pk).proof.status_of(rail).passed
    run(wash, 1)
    assert not unit_state(unit.pk).proof.status_of(rail).passed


def test_steps_are_done_in_their_order_and_once(wash, client):
    url = reverse("procedure_act", args=[wash.unit_id, wash.pk, "done"])
    assert client.post(url, {"step": 3}).status_code == 409
    assert client.post(url, {"step": 1}).status_code == 302
    assert client.post(url, {"step": 1}).status_code == 409, "a double click does it once"
    for odd in ("", "0", "-1", "99", "x", "1e3"):
        assert client.post(url, {"step": odd}).status_code == 422, odd
    assert ProcedureStep.objects.count() == 1


def test_a_step_is_skipped_only_with_a_reason_and_a_failed_one_holds_the_rest(wash):
    for reason in ("", "no", "   "):
        with pytest.raises(BadInput):
            services.skip(wash.unit_id, wash.pk, 1, reason)
    services.skip(wash.unit_id, wash.pk, 1, "nothing of that is on it")
    services.failed(wash.unit_id, wash.pk, 2, "the brush broke in two")
    told = sheet(unit_state(wash.unit_id)).procedures
    assert [step.reason for step in told[0][2]] == ["nothing of that is on it", "the brush broke in two"]
    with pytest.raises(Blocked) as shut:
        services.done(wash.unit_id, wash.pk, 3)
    assert shut.value.reasons[0].rule == "after"
    run(wash, 2, 3)
    assert services.back(wash.unit_id, wash.pk) == 3


def test_hands_stay_off_under_power_and_where_stores_are_charged(surveyed):
    unit = surveyed.unit
    wash = services.add(unit.pk, WASH, surveyed.pk)
    with pytest.raises(Blocked) as shut:
        run(wash, 1)
    assert shut.value.reasons[0].rule == "charged"
    settle(unit)
    test = services.add(unit.pk, "function-test")
    for said in ("yes", "no"):
        with pytest.raises(Blocked) as shut:
            services.done(unit.pk, test.pk, 1, said)
        assert [r.rule for r in shut.value.reasons] == ["unpowered"]
    pass_up_to(unit, "limited")
    power_at(unit, "limited")
    with pytest.raises(Blocked) as shut:
        run(wash, 1)
    assert "live" in {r.rule for r in shut.value.reasons}
    services.done(unit.pk, test.pk, 1, "yes")


def test_a_check_with_a_limit_is_a_reading_of_the_record(surveyed, client):
    unit = surveyed.unit
    discharge(unit)
    keys = services.add(unit.pk, KEYS)
    run(keys, 1, 2, 3)
    waits_are_over(keys)
    url = reverse("procedure_act", args=[unit.pk, keys.pk, "done"])
    assert client.post(url, {"step": 4}).status_code == 422, "nothing typed"
    assert client.post(url, {"step": 4, "reading": "warm"}).status_code == 422
    assert client.post(url, {"step": 4, "reading": "140"}).status_code == 302
    assert ProcedureStep.objects.get(number=4).state == "failed" and not Reading.objects.get(step="procedure").passed
    limit = reverse("procedure_act", args=[unit.pk, keys.pk, "limit"])
    assert client.post(limit, {"step": 4, "limit": "volts at most 400"}).status_code == 422
    assert client.post(limit, {"step": 1, "limit": "resistance at most 400"}).status_code == 422
    assert client.post(limit, {"step": 4, "limit": "resistance at most 400"}).status_code == 302
    services.done(unit.pk, keys.pk, 4, "140")
    assert Reading.objects.last().passed and Reading.objects.last().limits == "at most 400 Ω"
    assert house_procedures()[KEYS].steps[3].check.high == 100, "what ships stays as it is"


def test_no_limit_but_a_keyboards_is_typed_anew(surveyed, client):
    lead = services.add(surveyed.unit_id, "plug-and-lead")
    number = next(n for n, step in enumerate(lead.to_core().steps, 1) if step.check and step.check.high == 0.3)
    url = reverse("procedure_act", args=[surveyed.unit_id, lead.pk, "limit"])
    assert client.post(url, {"step": number, "limit": "resistance at most 50"}).status_code == 422
    lead.refresh_from_db()
    assert lead.to_core() == house_procedures()["plug-and-lead"]


#: Procedures of a whole machine that put hands into it.
WHOLE = [name for name, procedure in house_procedures().items() if procedure.of == "unit" and procedure.opens]


def test_there_are_procedures_that_open_the_whole_machine():
    assert {"fan", "plug-and-lead", "least-service", "reversible-video", "socket-conversion"} <= set(WHOLE)


@pytest.mark.parametrize("name", [*WHOLE, KEYS, "drive-service"])
def test_a_procedure_puts_no_hands_into_a_charged_machine(surveyed, client, name):
    unit = surveyed.unit
    row = services.add(unit.pk, name)
    for act, more in (
        ("done", {"reading": "yes"}),
        ("skip", {"reason": "not this machine"}),
        ("failed", {"reason": "it would not move"}),
    ):
        refused = client.post(reverse("procedure_act", args=[unit.pk, row.pk, act]), {"step": 1, **more})
        assert refused.status_code == 409 and "C1 on PS-1 is not logged as discharged" in refused.content.decode(), act
    assert not ProcedureStep.objects.exists() and not Event.objects.filter(kind="mend").exists()
    discharge(unit)
    services.skip(unit.pk, row.pk, 1, "not this machine")
    assert not Event.objects.filter(kind="mend").exists(), "nobody had hands in it"


def test_a_procedure_of_one_board_asks_the_stores_of_all(surveyed):
    """The board lies in the same case as the reservoir."""
    board = surveyed.unit.boards.get(name="MB-80")
    wash = services.add(surveyed.unit_id, WASH, board.pk)
    with pytest.raises(Blocked) as shut:
        run(wash, 1)
    assert [r.rule for r in shut.value.reasons] == ["charged"]
    discharge(surveyed.unit)
    run(wash, 1)


def test_work_on_the_whole_machine_is_asked_again(surveyed):
    """A new mains lead: the case was open, and earth, plug and every rail are read again."""
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "limited")
    before = unit_state(unit.pk).proof
    assert not before.open_checks(before.steps[0])
    lead = services.add(unit.pk, "plug-and-lead")
    first = lead.to_core().steps[0]
    services.done(unit.pk, lead.pk, 1, "yes" if first.check else "")
    proof = unit_state(unit.pk).proof
    asked = {c.key for c in proof.open_checks(proof.steps[0])}
    assert "cold.look.loose" in asked, "the case was opened"
    mains = {c.key for c in proof.steps[0].checks if c.fact == MAINS_SIDE}
    assert mains and not [key for key in mains if proof.done(proof.check(key))], "the mains side is read again"
    assert {c.key for c in proof.steps[0].checks if c.fact == NO_SHORT} <= asked
    why = proof.status_of(proof.check("cold.look.loose")).void
    assert why.startswith("the case was opened again after it")


def test_a_handed_over_unit_takes_no_procedure(surveyed):
    unit = surveyed.unit
    keys = services.add(unit.pk, KEYS)
    unit.handed_over = timezone.now()
    unit.save()
    for act in (lambda: services.add(unit.pk, KEYS), lambda: run(keys, 1), lambda: services.back(unit.pk, keys.pk)):
        with pytest.raises(Blocked):
            act()


def test_a_board_of_another_unit_is_refused(surveyed, client):
    other = surveyed.unit.job.units.create(name="B")
    board = other.boards.create(name="XX")
    response = client.post(reverse("procedure_add", args=[surveyed.unit_id]), {"name": WASH, "board": board.pk})
    assert response.status_code == 422 and not UnitProcedure.objects.exists()
    mine = services.add(surveyed.unit_id, KEYS)
    assert client.get(reverse("unit_procedure", args=[other.pk, mine.pk])).status_code == 404
    assert client.post(reverse("procedure_act", args=[other.pk, mine.pk, "done"]), {"step": 1}).status_code == 409


# The list and the editor


def test_a_procedure_is_changed_by_its_form_and_the_one_that_ships_comes_back(client):
    url = reverse("procedure", args=[WASH])
    page = client.get(url)
    assert page.status_code == 200
    typed = {
        "title": "Our wash",
        "about": "ours",
        "text-0": "Brush it",
        "minutes-0": "20",
        "text-1": "Dry",
        "wait-1": "24 h",
        "dries-1": "on",
    }
    assert client.post(url, typed).status_code == 302
    assert services.named(WASH).title == "Our wash" and ShopProcedure.objects.count() == 1
    bad = client.post(url, {**typed, "check-0": "smell"})
    assert bad.status_code == 422 and "smell" in bad.content.decode() and "Brush it" in bad.content.decode()
    assert services.named(WASH).revision == 2
    client.post(reverse("procedure_drop", args=[WASH]))
    assert services.named(WASH) == house_procedures()[WASH]


def test_a_change_leaves_what_is_on_a_unit_as_it_was(wash):
    services.edit(WASH, "Our wash", "", [{"text": "Only this"}])
    wash.refresh_from_db()
    assert len(wash.to_core().steps) == len(house_procedures()[WASH].steps)


def test_its_file_goes_out_and_comes_back(client):
    data = client.get(reverse("procedure_file", args=[WASH])).content
    assert data == house_procedures()[WASH].as_text().encode()
    upload = SimpleUploadedFile("x.json", data.replace(b"board-wash-alcohol", b"our-wash"))
    assert client.post(reverse("procedure_new"), {"file": upload}).status_code == 302
    assert "our-wash" in services.all_procedures()
    for bad in (b"", b"{}", b"\xff\xfe", b"[" * 9999):
        assert client.post(reverse("procedure_new"), {"file": SimpleUploadedFile("x.json", bad)}).status_code == 422
    assert client.post(reverse("procedure_new"), {"title": "New", "step": "abc"}).status_code == 422, (
        "a word of the program"
    )
    assert client.post(reverse("procedure_new"), {"title": "Our wash", "step": "abc"}).status_code == 422, (
        "a name that collides"
    )
    assert client.post(reverse("procedure_new"), {"title": "Lamp glass", "step": "Wipe it"}).status_code == 302


def test_a_procedure_is_planned_and_what_dries_is_waited_for(wash):
    run(wash, 1, 2, 3, 4)
    plan = make()
    rows = {t.task: t for t in plan.kept.tasks}
    look = next(t for name, t in rows.items() if name.endswith(".5"))
    cold = next(t for name, t in rows.items() if name.endswith(" cold"))
    assert look.title.startswith("Board wash") and not look.now and cold.start >= look.end


def test_procedures_travel_with_their_job(wash, tmp_path):
    run(wash, 1, 2, 3, 4)
    one, two = tmp_path / "one.zip", tmp_path / "two.zip"
    export(wash.unit.job_id, one)
    came = take_in(one)
    export(came.pk, two)
    assert one.read_bytes() == two.read_bytes()
    assert unit_state(came.units.get().pk).wet


def test_a_side_is_typed_done_and_done_again(surveyed, client):
    unit = surveyed.unit
    refused = client.post(reverse("procedure_add", args=[unit.pk]), {"name": "brightening", "sides": "lid, lid"})
    assert refused.status_code == 422 and not unit.procedures.exists()
    client.post(reverse("procedure_add", args=[unit.pk]), {"name": "brightening", "sides": "lid, front"})
    row = unit.procedures.get()
    assert [step.side for step in row.to_core().steps] == ["", "", "lid", "lid", "front", "front", "", ""]
    with pytest.raises(Blocked):
        services.once_more(unit.pk, row.pk, 3)
    for number in (1, 2, 3):
        services.done(unit.pk, row.pk, number)
    waits_are_over(row)
    services.done(unit.pk, row.pk, 4, "yes")
    page = client.get(reverse("unit_procedure", args=[unit.pk, row.pk])).content.decode()
    assert "Again: lid" in page and "or go on with the next: front" in page
    assert client.post(reverse("procedure_act", args=[unit.pk, row.pk, "again"]), {"step": 4}).status_code == 302
    row.refresh_from_db()
    assert [step.side for step in row.to_core().steps] == ["", "", "lid", "lid", "lid", "lid", "front", "front", "", ""]
    services.done(unit.pk, row.pk, 5)
    # a round that is begun is not begun twice
    with pytest.raises(Blocked):
        services.once_more(unit.pk, row.pk, 4)


def test_a_function_that_failed_opens_suspects_and_stays_to_be_done(surveyed, client):
    unit = surveyed.unit
    settle(unit)
    test = services.add(unit.pk, "reset-circuit")
    services.failed(unit.pk, test.pk, 1, "no sound and it hums")
    page = client.get(reverse("unit_procedure", args=[unit.pk, test.pk])).content.decode()
    assert "Which parts explain it" in page and "no%20sound" in page and "hum" in page
    assert not test.steps.filter(number=1, state=ProcedureStep.DONE).exists()
    assert services.status_of(test).here == 1


def test_several_steps_are_told_done_in_one_go_all_or_none(wash, client):
    stands = services.status_of(wash)
    together = services.in_one_go(stands)
    assert together[0] == 1 and len(together) > 1
    url = reverse("procedure_act", args=[wash.unit_id, wash.pk, "several"])
    for wrong in ("", "0", "99", "5", "-1"):
        assert client.post(url, {"upto": wrong}).status_code == 422
    assert not ProcedureStep.objects.exists()
    page = client.get(reverse("unit_procedure", args=[wash.unit_id, wash.pk])).content.decode()
    assert "Mark steps as done" in page
    assert client.post(url, {"upto": str(together[-1])}).status_code == 302
    assert services.status_of(wash).settled == set(together)
    # what comes behind a wait or takes a reading is done by itself
    assert services.in_one_go(services.status_of(wash)) == ()
    assert client.post(url, {"upto": str(together[-1] + 1)}).status_code == 422


def test_several_steps_pass_no_gate(surveyed, client):
    row = services.add(surveyed.unit_id, WASH, surveyed.pk)
    with pytest.raises(Blocked):
        services.done_upto(surveyed.unit_id, row.pk, 2)
    assert not ProcedureStep.objects.exists()
    html = " ".join(client.get(reverse("unit_procedure", args=[surveyed.unit_id, row.pk])).content.decode().split())
    assert f'href="{reverse("cold", args=[surveyed.unit_id])}">Log the discharge at Cold checks' in html
