"""Gates kept by the server: cold checks, the way up, LIVE, idle, override, hand-over."""

import re

import pytest
import time_machine
from django.urls import reverse
from django.utils import timezone

from idlebench.web.records.models import Entry, PowerSession, Reading, Unit
from idlebench.web.survey.services import add_line
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import unit_state

from .helpers import (
    before_power,
    discharge,
    good_text,
    live_session,
    make_idle,
    pass_step,
    pass_up_to,
    power_at,
    settle,
    wait_out,
)

pytestmark = pytest.mark.django_db


@pytest.fixture
def ready(surveyed):
    """The unit with everything chosen and swapped, and nothing read since."""
    settle(surveyed.unit)
    return surveyed.unit


def post(client, name, unit, **data):
    return client.post(reverse(name, args=[unit.pk]), data)


def read(client, unit, key, text, step="cold"):
    return post(client, "reading", unit, **{f"r:{key}": text, "step": step})


def on(client, unit, step):
    """Power on as the page does it: asked, then answered."""
    return post(client, "power_on", unit, step=step, asked=unit_state(unit.pk).last_event)


def stood(unit, name):
    proof = unit_state(unit.pk).proof
    return proof.status_of(proof.check(name))


def test_discharge_is_logged_before_anything_is_measured(client, surveyed):
    unit = surveyed.unit
    response = read(client, unit, "cold.fuse.ps-1", "0.2")
    assert response.status_code == 409 and "not logged as discharged" in response.content.decode()
    assert read(client, unit, "cold.discharge.ps-1.c1", "14").status_code == 302
    refused = read(client, unit, "cold.fuse.ps-1", "0.2")
    assert refused.status_code == 409 and "14 V was read" in refused.content.decode()
    read(client, unit, "cold.discharge.ps-1.c1", "-0.4")
    assert read(client, unit, "cold.fuse.ps-1", "0.2").status_code == 302
    assert stood(unit, "cold.fuse.ps-1").passed and stood(unit, "cold.discharge.ps-1.c1").value == -0.4
    assert Reading.objects.count() == 3, "the failed one stays on record"


@pytest.mark.parametrize(("text", "said"), [("lots", "it takes a value in V"), ("-5 A", "it takes"), ("", "a reading")])
def test_a_reading_that_cannot_be_read_is_said_at_its_field(client, surveyed, text, said):
    response = read(client, surveyed.unit, "cold.discharge.ps-1.c1", text)
    assert response.status_code == 422 and said in response.content.decode()
    assert not Reading.objects.exists()


def test_a_check_that_is_not_there(client, ready):
    assert read(client, ready, "cold.nothing", "1").status_code in (409, 422)


@pytest.mark.parametrize("step", ["limited", "full", "feed", "life", "cold", "dummy", "nowhere", ""])
def test_power_posted_by_hand_while_shut_is_409_with_reasons(client, ready, step):
    response = on(client, ready, step)
    assert response.status_code == 409
    assert b'class="wrong"' in response.content and not PowerSession.objects.exists()


def test_power_asks_first_and_takes_an_answer_only_to_what_was_asked(client, ready):
    pass_up_to(ready, "limited")
    page = client.get(reverse("power", args=[ready.pk]) + "?step=limited").content.decode()
    assert "ask=limited" in page and "Yes, power on" not in page
    asked = post(client, "power_on", ready, step="limited")
    assert asked.status_code == 302 and "ask=limited" in asked.url and not PowerSession.objects.exists()
    page = client.get(asked.url).content.decode()
    assert "Yes, power on" in page and "hands off the primary side" in page
    answer = unit_state(ready.pk).last_event
    before_power(ready)
    stale = post(client, "power_on", ready, step="limited", asked=answer)
    assert stale.status_code == 409 and "logged since you were asked" in stale.content.decode()
    assert on(client, ready, "limited").status_code == 302
    assert on(client, ready, "limited").status_code == 409, "it has power at this step already"


def test_the_way_up(client, ready):
    pass_up_to(ready, "limited")
    with time_machine.travel("2026-03-01 10:00:00+00:00", tick=False):
        before_power(ready)
        assert on(client, ready, "limited").status_code == 302
        for page in ("/", "/shelf/", reverse("cold", args=[ready.pk])):
            html = client.get(page).content.decode()
            assert "LIVE" in html and "Make idle" in html and "2026-03-01T10:00:00+00:00" in html
        assert read(client, ready, "up.full.+5-v.volts", "5", "full").status_code == 409
        for key in ("up.limited.lamp", "up.limited.look"):
            read(client, ready, key, "yes", "limited")
        assert on(client, ready, "feed").status_code == 409
        assert on(client, ready, "full").status_code == 302, "on to full mains without going idle"
    state = unit_state(ready.pk)
    assert state.live_step == "full" and PowerSession.objects.count() == 1
    wait_out(ready)
    data = {f"r:{c.key}": good_text(c) for c in state.proof.step("full").checks}
    post(client, "reading", ready, **data, step="full")
    assert unit_state(ready.pk).proof.current.key == "feed"
    shut = on(client, ready, "feed")
    assert shut.status_code == 409 and "Make idle" in shut.content.decode()
    client.post(reverse("idle"), live_session())
    assert "IDLE" in client.get("/").content.decode() and unit_state(ready.pk).session is None
    assert "power was on after it" in stood(ready, "cold.discharge.ps-1.c1").void
    for step in unit_state(ready.pk).proof.steps[-2:]:
        if unit_state(ready.pk).live_step and step.rewire:
            make_idle()
        pass_step(ready, step)
    make_idle()
    assert not unit_state(ready.pk).proof.proven, "the stores were not read empty after it"
    before_power(ready)
    assert unit_state(ready.pk).proof.proven
    assert any("Made idle after" in e.text for e in Entry.objects.all())


def test_the_hold_is_measured_by_the_server(client, ready, one_clock):
    pass_up_to(ready, "full")
    with time_machine.travel("2026-03-01 10:00:00+00:00", tick=False) as now:
        before_power(ready)
        on(client, ready, "full")
        refused = read(client, ready, "up.full.hold", "yes", "full")
        assert refused.status_code == 409 and "Power has been on for 0 s of 5 minutes" in refused.content.decode()
        now.shift(299)
        refused = read(client, ready, "up.full.hold", "yes", "full")
        assert refused.status_code == 409 and "Answer it in 1 s" in refused.content.decode()
        client.post(reverse("idle"), live_session())
        before_power(ready)
        on(client, ready, "full")
        now.shift(10)
        assert read(client, ready, "up.full.hold", "yes", "full").status_code == 409, "a break begins it anew"
        now.shift(290)
        assert read(client, ready, "up.full.hold", "yes", "full").status_code == 302


def test_first_power_is_refused_by_ripple_then_passes(client, ready):
    pass_up_to(ready, "full")
    power_at(ready, "full")
    wait_out(ready)
    checks = unit_state(ready.pk).proof.step("full").checks
    data = {f"r:{c.key}": good_text(c) for c in checks} | {"r:up.full.+5-v.ripple": "80m"}
    post(client, "reading", ready, **data, step="full")
    page = client.get(reverse("power", args=[ready.pk]) + "?step=full").content.decode()
    assert "80 mV" in page and 'role="alert" tabindex="-1" autofocus' in page and "then discharge" in page
    client.post(reverse("idle"), live_session())
    refused = on(client, ready, "feed")
    assert refused.status_code == 409 and "80 mV, limit at most 50 mV" in refused.content.decode()
    before_power(ready)
    power_at(ready, "full")
    read(client, ready, "up.full.+5-v.ripple", "10m rms", "full")
    assert unit_state(ready.pk).proof.current.key == "feed"


def test_a_bad_reading_of_several_keeps_all_of_them_back(client, ready):
    pass_up_to(ready, "full")
    power_at(ready, "full")
    response = post(
        client, "reading", ready, **{"r:up.full.+5-v.volts": "5.01", "r:up.full.+5-v.ripple": "lots", "step": "full"}
    )
    assert response.status_code == 422 and "lots" in response.content.decode()
    assert stood(ready, "up.full.+5-v.volts").event is None and 'value="5.01"' in response.content.decode()


def test_one_live_unit_at_a_time(client, ready):
    pass_up_to(ready, "limited")
    other = Unit.objects.create(job=ready.job, name="B")
    PowerSession.objects.create(unit=other, step="full", title="x", began="2026-01-01T00:00Z")
    response = on(client, ready, "limited")
    assert response.status_code == 409 and "Unit B has power" in response.content.decode()


def test_override_only_where_no_one_can_be_hurt(client, ready):
    before_power(ready)
    pin = "cold.pin.mb-80.u1.20"
    read(client, ready, pin, "7")
    assert post(client, "override", ready, check=pin, reason="no").status_code == 422
    assert post(client, "override", ready, check=pin, reason="socket has a series resistor").status_code == 302
    assert stood(ready, pin).overridden
    read(client, ready, "cold.fuse.ps-1", "OL")
    refused = post(client, "override", ready, check="cold.fuse.ps-1", reason="looks fine to me")
    assert refused.status_code == 409 and "It could hurt someone" in refused.content.decode()
    read(client, ready, pin, "0.2")
    sheet = client.get(reverse("sheet", args=[ready.pk])).content.decode()
    assert "series resistor" in sheet, "it stands on the sheet for ever"


def test_a_changed_part_closes_the_gate_again(client, ready):
    """What is written of a part is no work on it; a hand there is, and what was read of its board is asked again."""
    board = ready.boards.get(name="PS-1")
    pass_up_to(ready, "limited")
    assert not stood(ready, "cold.rail.ps-1.+5-v").void
    add_line(board, "C3 220n", change=True)
    add_line(board, "C8 100n 63V film")
    add_line(board, "C8 note beside the plug")
    assert not stood(ready, "cold.rail.ps-1.+5-v").void, "twelve readings fell when a part was listed"
    discharge(ready)
    swapping.mend(board.pk, "joint C3")
    assert "work on a board of this rail" in stood(ready, "cold.rail.ps-1.+5-v").void
    refused = on(client, ready, "limited")
    assert refused.status_code == 409 and "joint" in refused.content.decode()
    pass_up_to(ready, "limited")
    add_line(board, "C9 220u 400V bulk worst 325")
    refused = on(client, ready, "limited")
    assert refused.status_code == 409 and "across C9" in refused.content.decode(), "a new store asks a new discharge"


def test_hand_over_is_shut_until_proven(client, ready):
    refused = post(client, "handover", ready)
    assert refused.status_code == 409 and "Cold checks" in refused.content.decode()
    assert "Hand over: blocked" in client.get(reverse("handover", args=[ready.pk])).content.decode()
    pass_up_to(ready, "")
    page = client.get(reverse("handover", args=[ready.pk])).content.decode()
    assert "Every rail proven" in page
    assert post(client, "handover", ready).status_code == 302
    ready.refresh_from_db()
    assert ready.handed_over
    closed = on(client, ready, "limited")
    assert closed.status_code == 409 and "handed over" in closed.content.decode()


def test_a_handed_over_unit_takes_nothing_but_a_reopening(client, ready):
    board = ready.boards.get(name="PS-1")
    pass_up_to(ready, "")
    post(client, "handover", ready)
    part = board.parts.get(ref="C3")
    for answer in (
        client.post(reverse("survey", args=[board.pk]), {"line": "C9 10u 16V"}),
        client.post(reverse("survey", args=[board.pk]), {"line": "U7 cpu 40x14 at 60,60 gnd 20"}),
        client.post(reverse("part_look", args=[part.pk]), {"looks": "burst"}),
        client.post(reverse("swap_back", args=[board.pk]), {"place": "C1"}),
        client.post(reverse("mend", args=[board.pk]), {"mend": "J4 reflowed"}),
        client.post(reverse("board_facts", args=[board.pk]), {"name": "PS-1", "width": "120", "height": "80"}),
        client.post(reverse("look", args=[ready.pk]), {"key": "plug"}),
        client.post(reverse("dismantling", args=[ready.pk]), {"step": "lid: 4 screws M3x8"}),
        read(client, ready, "cold.fuse.ps-1", "0.2"),
    ):
        assert answer.status_code == 409 and "handed over" in answer.content.decode()
    assert unit_state(ready.pk).proof.proven, "the cause handed over with stands"
    assert post(client, "reopen", ready, reason="no").status_code == 422
    assert post(client, "reopen", ready, reason="it came back dark").status_code == 302
    assert post(client, "reopen", ready, reason="it came back dark").status_code == 409
    assert "the unit was reopened after it" in stood(ready, "cold.fuse.ps-1").void
    assert on(client, ready, "limited").status_code == 409
    assert "it came back dark" in client.get(reverse("sheet", args=[ready.pk])).content.decode()


def test_an_unsettled_place_shuts_hand_over(client, surveyed):
    response = post(client, "handover", surveyed.unit)
    assert response.status_code == 409 and "C1, C2" in response.content.decode()


def test_the_sheet_as_pdf_says_what_the_page_says(client, ready):
    import io

    from pypdf import PdfReader

    pass_up_to(ready, "")
    response = client.get(reverse("sheet_pdf", args=[ready.pk]))
    assert response.headers["Content-Type"] == "application/pdf"
    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(response.content)).pages)
    for words in ("Hand-over sheet, unit A", "Replaced, 2", "Kept, 1", "Every rail proven", "C1", "mV"):
        assert words in text


def test_make_idle_twice_is_no_harm(client, ready):
    begun = PowerSession.objects.create(unit=ready, step="full", title="230 V in", began=timezone.now())
    session = live_session()
    assert client.post(reverse("idle"), session).status_code == 302
    begun.refresh_from_db()
    ended, events = begun.ended, ready.events.count()
    client.post(reverse("idle"), session)
    begun.refresh_from_db()
    assert ended is not None and begun.ended == ended and ready.events.count() == events, "said once, it stays said"
    assert client.post(reverse("idle"), live_session()).status_code == 302, "nothing has power: nothing to be done"


def test_a_page_left_open_makes_no_other_unit_idle(client, unit):
    """Two devices: unit A's page stays open on one while unit A is made idle and unit B is switched on from the other end."""
    job = unit.job
    other = Unit.objects.create(job=job, name="B")
    begun = lambda of: PowerSession.objects.create(unit=of, step="full", title="230 V in", began=timezone.now())  # noqa: E731
    session = begun(unit)
    page = client.get(reverse("power", args=[unit.pk])).content.decode()
    shown = set(re.findall(r'name="session" value="(\d+)"', page))
    assert shown == {str(session.pk)}, "every Make idle of the page names the session it means"
    stale = {"session": str(session.pk)}
    assert client.post(reverse("idle"), stale).status_code == 302
    assert client.post(reverse("idle"), stale).status_code == 302, "said twice, with nothing live, it is no harm"
    on = begun(other)
    for posted, said in (
        (stale, "Unit B has power, not unit A whose page this is"),
        ({}, "does not say which unit it means"),
        *(
            ({"session": odd}, "does not say which")
            for odd in ("", "0", "-1", "x", "9" * 40, "٣", str(on.pk + 1), "\x00")
        ),
    ):
        refused = client.post(reverse("idle"), posted)
        assert refused.status_code == 409 and said in refused.content.decode(), posted
    on.refresh_from_db()
    assert on.ended is None, "unit B has power still, and says so"
    assert client.post(reverse("idle"), live_session()).status_code == 302
    # the same unit, switched on again since the page was loaded
    again = begun(unit)
    refused = client.post(reverse("idle"), stale)
    assert refused.status_code == 409 and "switched on again since this page was loaded" in refused.content.decode()
    again.refresh_from_db()
    assert again.ended is None


def test_a_local_earth_limit_only_goes_down(client, unit):
    url = reverse("job", args=[unit.job_id])
    facts = {"name": "Clock", "machine": "Tide clock", "earth_limit": "0.1", "unit": unit.pk}
    assert client.post(url, facts).status_code == 302
    unit.job.refresh_from_db()
    assert unit.job.earth_limit == 0.1
    assert next(c for c in unit_state(unit.pk).proof.steps[0].checks if c.key.startswith("cold.earth")).high == 0.1
    refused = client.post(url, facts | {"earth_limit": "0.5"})
    assert refused.status_code == 422 and "at most 0.3 Ω" in refused.content.decode().replace("300 mΩ", "0.3 Ω")


def test_what_was_not_measured_for_want_of_a_meter_stands_on_the_sheet(client, unit):
    html = client.get(reverse("handover", args=[unit.pk])).content.decode()
    assert "insulation, line and neutral to earth, at 500 V DC: not measured" in html


def test_no_board_is_connected_to_a_rail_that_would_rise_over_its_band(client, ready):
    """+5 V reads inside at today's mains; from its own store without a regulator it rises with the mains."""
    from idlebench.core.prove.highest import HIGHEST
    from idlebench.web.unit.expecting import at_highest, power_reasons

    board = ready.boards.get(name="PS-1")
    assert not at_highest(unit_state(ready.pk)), "without a model nothing is foreseen"
    pass_up_to(ready, "feed")
    state = unit_state(ready.pk)
    assert not [r for r in power_reasons(state, "feed") if r.rule in ("over voltage", "clamp")]
    board.rails = "+5 V 3.1 A clamp 8 most 7\n+12 V 0.5 A\n−12 V 0.1 A"
    board.save()
    refused = [r.rule for r in power_reasons(unit_state(ready.pk), "feed")]
    assert "clamp" in refused and HIGHEST == 1.1
    assert client.post(reverse("power_on", args=[ready.pk]), {"step": "feed", "asked": "1"}).status_code == 409
