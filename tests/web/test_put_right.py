"""A refused line of the survey, and the one press that puts it right."""

import re
from html import unescape

import pytest
from django.urls import reverse

from idlebench.web.records.models import Part
from idlebench.web.unit.state import unit_state

pytestmark = pytest.mark.django_db


def fixes(page: str) -> list[str]:
    return [unescape(line) for line in re.findall(r'<button class="btn line !px-3" name="line" value="([^"]*)"', page)]


@pytest.mark.parametrize(
    ("line", "first"),
    [
        ("C60 4,725u 16V", "C60 4725u 16V"), ("C62 220u 100V film", "C62 220u 100V film sure"),
        ("C63 137u 16V", "C63 137u 16V sure"),
    ],
)  # fmt: skip
def test_a_refused_line_is_put_right_by_one_press(client, surveyed, line, first):
    url = reverse("survey", args=[surveyed.pk])
    refused = client.post(url, {"line": line})
    offered = fixes(refused.content.decode())
    assert refused.status_code == 422 and offered[0] == first and 'data-key="F2"' in refused.content.decode()
    # the field comes first in the form, the pressed button after it: the last counts
    assert (
        client.post(url, f"line={line}&line={first}", content_type="application/x-www-form-urlencoded").status_code
        == 302
    )
    assert Part.objects.get(board=surveyed, ref=line.split()[0]).value > 0


def test_while_it_is_typed_the_same_is_offered_and_words_that_are_nearly_a_role(client, surveyed):
    url = reverse("survey_read", args=[surveyed.pk])
    assert fixes(client.get(url, {"line": "C60 1,234u 16V"}).content.decode()) == ["C60 1234u 16V", "C60 1.234u 16V"]
    near = fixes(client.get(url, {"line": "C60 100u 16V couplng"}).content.decode())
    assert near[0] == "C60 100u 16V coupling" and len(near) <= 3
    assert fixes(client.get(url, {"line": "C60 100u 16V coupling"}).content.decode()) == []
    assert fixes(client.get(url, {"line": "C60 100u 16V purple"}).content.decode()) == []


def test_a_reference_that_exists_is_corrected_by_the_same_key(client, surveyed):
    refused = client.post(reverse("survey", args=[surveyed.pk]), {"line": "C1 4700u 16V"})
    page = refused.content.decode()
    assert refused.status_code == 422 and 'name="change" value="1" data-key="F2"' in page


def test_a_second_winding_takes_no_first_ones_place(client, surveyed):
    page = reverse("survey", args=[surveyed.pk])
    assert client.post(page, {"line": "T1 winding 9V 1.5A"}).status_code == 302
    refused = client.post(page, {"line": "T1 winding 12V 0.5A"})
    assert refused.status_code == 422 and refused.context["fixes"] == ("T1B winding 12V 0.5A",)
    assert refused.context["exists"] == "T1", "or the first was typed wrong"
    client.post(page, {"line": "T1B winding 12V 0.5A"})
    surveyed.refresh_from_db()
    listed = {line.split()[0]: line for line in surveyed.others.splitlines()}
    assert " 9V" in listed["T1"] and " 12V" in listed["T1B"]
    client.post(page, {"line": "T1 winding 10V", "change": "1"})
    surveyed.refresh_from_db()
    assert any(line.startswith("T1 winding") and "10V" in line for line in surveyed.others.splitlines())


def test_a_part_of_ones_own_and_a_reading_are_put_right_by_one_press(client, surveyed):
    refused = client.post(reverse("shelf_own"), {"line": "4,725u 16V 6.3x11 p2.5"})
    assert refused.status_code == 422 and b'data-key="F2"' in refused.content
    state = unit_state(surveyed.unit_id)
    check = next(c for c in state.proof.step("cold").checks if c.kind == "dc_volts")
    page = client.post(reverse("reading", args=[state.row.pk]), {f"r:{check.key}": "1,234", "step": "cold"})
    assert page.status_code == 422
    assert f'name="r:{check.key}" value="1234"' in page.content.decode()


@pytest.mark.parametrize(
    ("field", "text", "first"),
    [
        (
            "supply_model",
            "bridge 9 25VA reservoir C1 regulator VR1 5V 1A",
            "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A",
        ),
        (
            "supply_model",
            "bridge 9V 25VA reservor C1 regulator VR1 5V 1A",
            "bridge 9V 25VA reservoir C1 regulator VR1 5V 1A",
        ),
        ("supply_model", "brige 9V 25VA reservoir C1 current 1A", "bridge 9V 25VA reservoir C1 current 1A"),
        ("rails", "+12 V 1 A\n+5 V 3.1 A mim 0.5", "+5 V 3.1 A min 0.5"),
        ("zones", "heat 70 40,30 60x20", "heat 70 at 40,30 60x20"),
        ("monitor_model", "monitor 15625 50Hz tube 12kV", "monitor 15625Hz 50Hz tube 12kV"),
    ],
)
def test_a_line_of_a_board_is_put_right_by_one_press(client, surveyed, field, text, first):
    address = reverse("new_board", args=[surveyed.unit_id])
    refused = client.post(address, {"name": "PS-9", field: text})
    page = refused.content.decode()
    offered = re.findall(
        rf'name="{field}" value="([^"]*)" data-key="F2" data-says="Use this line instead">([^<]*)<', page
    )
    assert refused.status_code == 422 and len(offered) == 1 and unescape(offered[0][1]) == first
    whole = unescape(offered[0][0])
    assert whole.splitlines()[-1] == first and len(whole.splitlines()) == len(text.splitlines())
    again = client.post(address, {"name": "PS-9", field: whole})
    assert f"“{text.splitlines()[-1]}”" not in again.content.decode()
