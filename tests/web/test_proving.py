"""Gates kept by the server: cold checks, the way up, LIVE, idle, override, hand-over."""

import pytest
import time_machine
from django.urls import reverse

from idlebench.web.records.models import Entry, PowerSession, Reading
from idlebench.web.unit.state import unit_state

from .helpers import good_text, pass_up_to, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def ready(surveyed):
    """The unit with everything chosen and swapped, nothing checked."""
    settle(surveyed.unit)
    return surveyed.unit


def post(client, name, unit, **data):
    return client.post(reverse(name, args=[unit.pk]), data)


def read(client, unit, key, text, step="cold"):
    return post(client, "reading", unit, **{f"r:{key}": text, "step": step})


def test_discharge_is_logged_before_anything_is_measured(client, ready):
    response = read(client, ready, "cold.fuse.ps-1", "0.2")
    assert response.status_code == 409 and "not logged as discharged" in response.content.decode()
    assert read(client, ready, "cold.discharge.ps-1.c1", "14").status_code == 302
    assert read(client, ready, "cold.fuse.ps-1", "0.2").status_code == 409, "14 V is not empty"
    read(client, ready, "cold.discharge.ps-1.c1", "0.4")
    assert read(client, ready, "cold.fuse.ps-1", "0.2").status_code == 302
    latest = unit_state(ready.pk).latest
    assert latest["cold.fuse.ps-1"].passed and latest["cold.discharge.ps-1.c1"].value == 0.4
    assert Reading.objects.count() == 3, "the failed one stays on record"


@pytest.mark.parametrize(("text", "said"), [("lots", "expected a value in V"), ("-5 A", "expected"), ("", "a reading")])
def test_a_reading_that_cannot_be_read_is_said_at_its_field(client, ready, text, said):
    response = read(client, ready, "cold.discharge.ps-1.c1", text)
    assert response.status_code == 422 and said in response.content.decode()
    assert not Reading.objects.exists()


def test_a_check_that_is_not_there(client, ready):
    assert read(client, ready, "cold.nothing", "1").status_code in (409, 422)


@pytest.mark.parametrize("step", ["limited", "full", "feed", "life", "cold", "dummy", "nowhere", ""])
def test_power_posted_by_hand_while_shut_is_409_with_reasons(client, ready, step):
    response = post(client, "power_on", ready, step=step)
    assert response.status_code == 409
    assert b'class="wrong"' in response.content and not PowerSession.objects.exists()


def test_the_way_up(client, ready):
    pass_up_to(ready, "limited")
    with time_machine.travel("2026-03-01 10:00:00+00:00", tick=False):
        assert post(client, "power_on", ready, step="limited").status_code == 302
    for page in ("/", "/shelf/", reverse("cold", args=[ready.pk])):
        html = client.get(page).content.decode()
        assert "LIVE" in html and "Make idle" in html and "2026-03-01T10:00:00+00:00" in html
    assert read(client, ready, "up.full.+5-v.volts", "5", "full").status_code == 409
    for key in ("up.limited.lamp", "up.limited.look"):
        read(client, ready, key, "yes", "limited")
    assert post(client, "power_on", ready, step="feed").status_code == 409
    assert post(client, "power_on", ready, step="full").status_code == 302, "on to full mains without going idle"
    state = unit_state(ready.pk)
    assert state.live_step == "full" and PowerSession.objects.count() == 1
    data = {f"r:{c.key}": good_text(c) for c in state.proof.step("full").checks}
    post(client, "reading", ready, **data, step="full")
    assert unit_state(ready.pk).proof.current.key == "feed"
    shut = post(client, "power_on", ready, step="feed")
    assert shut.status_code == 409 and "Make idle" in shut.content.decode()
    client.post(reverse("idle"))
    assert "IDLE" in client.get("/").content.decode() and unit_state(ready.pk).session is None
    final = pass_up_to(ready, "")
    assert final.proof.proven
    assert any("Made idle after" in e.text for e in Entry.objects.all())


def test_first_power_is_refused_by_ripple_then_passes(client, ready):
    pass_up_to(ready, "full")
    post(client, "power_on", ready, step="full")
    checks = unit_state(ready.pk).proof.step("full").checks
    data = {f"r:{c.key}": good_text(c) for c in checks} | {"r:up.full.+5-v.ripple": "80m"}
    post(client, "reading", ready, **data, step="full")
    page = client.get(reverse("power", args=[ready.pk]) + "?step=full").content.decode()
    assert "80 mV" in page and "Make idle and discharge" in page
    client.post(reverse("idle"))
    refused = post(client, "power_on", ready, step="feed")
    assert refused.status_code == 409 and "80 mV, limit at most 50 mV" in refused.content.decode()
    post(client, "power_on", ready, step="full")
    read(client, ready, "up.full.+5-v.ripple", "10m rms", "full")
    assert unit_state(ready.pk).proof.current.key == "feed"


def test_the_first_bad_reading_of_several_stops_and_the_good_ones_stay(client, ready):
    pass_up_to(ready, "full")
    post(client, "power_on", ready, step="full")
    response = post(
        client, "reading", ready, **{"r:up.full.+5-v.volts": "5.01", "r:up.full.+5-v.ripple": "lots", "step": "full"}
    )
    assert response.status_code == 422 and "lots" in response.content.decode()
    assert unit_state(ready.pk).latest["up.full.+5-v.volts"].passed


def test_one_live_unit_at_a_time(client, ready):
    from idlebench.web.intake import services
    from idlebench.web.records.models import Unit

    pass_up_to(ready, "limited")
    other = Unit.objects.create(job=ready.job, name="B")
    PowerSession.objects.create(unit=other, step="full", title="x", began="2026-01-01T00:00Z")
    response = post(client, "power_on", ready, step="limited")
    assert response.status_code == 409 and "Unit B has power" in response.content.decode()
    assert services  # the job's services are what made the units


def test_override_only_where_no_one_can_be_hurt(client, ready):
    read(client, ready, "cold.discharge.ps-1.c1", "0.4")
    pin = "cold.pin.mb-80.u1.20"
    read(client, ready, pin, "7")
    assert post(client, "override", ready, check=pin, reason="no").status_code == 422
    assert post(client, "override", ready, check=pin, reason="socket has a series resistor").status_code == 302
    assert unit_state(ready.pk).latest[pin].overridden
    read(client, ready, "cold.fuse.ps-1", "OL")
    refused = post(client, "override", ready, check="cold.fuse.ps-1", reason="looks fine to me")
    assert refused.status_code == 409 and "Someone can be hurt" in refused.content.decode()
    read(client, ready, pin, "0.2")
    sheet = client.get(reverse("sheet", args=[ready.pk])).content.decode()
    assert "series resistor" in sheet, "it stands on the sheet for ever"


def test_a_changed_part_closes_the_gate_again(client, ready):
    """Readings belong to checks; a new store asks a new discharge."""
    from idlebench.web.survey.services import add_line

    pass_up_to(ready, "limited")
    add_line(ready.boards.get(name="PS-1"), "C9 220u 400V bulk worst 325")
    assert post(client, "power_on", ready, step="limited").status_code == 409


def test_hand_over_is_shut_until_proven(client, ready):
    refused = post(client, "handover", ready)
    assert refused.status_code == 409 and "Cold checks" in refused.content.decode()
    assert "Hand over: shut" in client.get(reverse("handover", args=[ready.pk])).content.decode()
    pass_up_to(ready, "")
    page = client.get(reverse("handover", args=[ready.pk])).content.decode()
    assert "Every rail proven" in page
    assert post(client, "handover", ready).status_code == 302
    ready.refresh_from_db()
    assert ready.handed_over
    closed = post(client, "power_on", ready, step="limited")
    assert closed.status_code == 409 and "handed over" in closed.content.decode()


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


def test_make_idle_twice_is_no_harm(client, db):
    assert client.post(reverse("idle")).status_code == 302
