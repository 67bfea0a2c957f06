"""Intake by request, the rest of it: kinds of machine, date codes, labels, units side by side, the shop's own times."""

import re

import pytest
from django.urls import reverse

from idlebench.instruments import meter_address
from idlebench.web.intake.labels import code_for
from idlebench.web.records.models import ShopTimes
from idlebench.web.unit.state import unit_state

pytestmark = pytest.mark.django_db

JOB = {"name": "Lamp room clock", "machine": "Tide clock", "made": "1984"}


def test_the_first_look_follows_the_kind_of_machine(client, surveyed):
    unit = surveyed.unit
    assert "anode" not in {look.key for look in unit_state(unit.pk).first_look}
    client.post(reverse("job", args=[unit.job_id]), {**JOB, "unit": unit.pk, "has_tube": "on", "has_drive": "on"})
    keys = {look.key for look in unit_state(unit.pk).first_look}
    assert {"tube", "anode", "drive", "supply"} <= keys
    html = client.get(reverse("intake", args=[unit.pk])).content.decode()
    assert "can throw you off the ladder" in html and "Only for people trained on tubes" in html


def test_what_was_found_is_kept_and_date_codes_are_read(client, surveyed):
    unit = surveyed.unit
    typed = {
        "found": "rust",
        "repairs": "taped cap",
        "missing": "one screw",
        "dates": "8423 on U5\n9112 on C1\nblue on U2",
    }
    client.post(reverse("intake", args=[unit.pk]), typed)
    html = client.get(reverse("intake", args=[unit.pk])).content.decode()
    assert "week 23 of 1984" in html and "7 years younger than the machine" in html and "a date code such as" in html
    beside = client.get(reverse("side_by_side", args=[unit.job_id])).content.decode()
    assert "taped cap" in beside and "week 23 of 1984" in beside


def test_labels_name_every_unit_and_board_and_their_codes_lead_there(client, surveyed):
    html = client.get(
        reverse("labels", args=[surveyed.unit.job_id]), headers={"Host": "127.0.0.1:8000"}
    ).content.decode()
    assert html.count('class="stick"') == 3 and "open on this computer only" in html
    assert client.get(reverse("open_board", args=[surveyed.pk])).url == reverse("survey", args=[surveyed.pk])


def test_a_code_is_drawn_in_full_and_scales_to_its_label():
    drawn = code_for("http://192.168.1.20:8000/b/4/")
    assert drawn.count("<path") == 1 and re.search(r"viewBox=\"0 0 \d+ \d+\"", drawn) and "width=" not in drawn


def test_the_shops_own_times_turn_the_estimate(client, surveyed):
    page, job = reverse("triage", args=[surveyed.unit.job_id]), surveyed.unit.job_id
    before = client.get(page).context["rows"][0][1].minutes
    client.post(reverse("times", args=[job]), {"power": "120", "radial": "3"})
    after = client.get(page).context["rows"][0][1].minutes
    assert after > before and ShopTimes.objects.get().minutes == {"power": 120.0, "radial": 3.0}
    response = client.post(reverse("times", args=[job]), {"power": "-3"})
    assert response.status_code == 422 and "at least 0" in response.content.decode()
    assert ShopTimes.objects.get().minutes["power"] == 120.0


@pytest.mark.parametrize(
    ("text", "address"), [("Stand-in", "stand-in"), ("192.168.1.40:5025", "TCPIP::192.168.1.40::5025::SOCKET")]
)
def test_a_meter_is_named(text, address):
    assert meter_address(text) == address


@pytest.mark.parametrize("meter", ["over there", "1.2.3.4:99999", "http://1.2.3.4"])
def test_a_meter_that_is_no_address_is_refused(client, surveyed, meter):
    response = client.post(
        reverse("job", args=[surveyed.unit.job_id]), {**JOB, "unit": surveyed.unit_id, "meter": meter}
    )
    assert (
        response.status_code == 422
        and "a meter&#x27;s address" in response.content.decode()
        and meter in response.content.decode()
    )
