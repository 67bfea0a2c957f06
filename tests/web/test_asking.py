"""What to ask for: the fewest kinds of a unit, as a page and as text; a part that was found is held against its places and taken."""

import pytest
from django.urls import reverse

from idlebench.web.gather import asking
from idlebench.web.records.models import CatalogueItem, Choice
from idlebench.web.survey.services import add_line
from idlebench.web.unit.state import unit_state

FOUND = "100u 25V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.13@100k low €0.20 name OURS"


def test_the_list_names_every_place_once(client, surveyed):
    add_line(surveyed, "C7 100u 16V 6.3x11 p2.5 decoupling rail +5V at 70,50 esr 6.8")
    page = client.get(reverse("gather_ask", args=[surveyed.unit_id]))
    kinds = page.context["kinds"]
    assert kinds.proved and sorted(ref for k in kinds.kinds for ref in k.places) == ["PS-1 C1", "PS-1 C2", "PS-1 C7"]
    assert len(kinds.kinds) == 2
    text = client.get(reverse("gather_ask_text", args=[surveyed.unit_id]))
    assert text.headers["Content-Type"].startswith("text/plain") and "for PS-1 C2, PS-1 C7" in text.content.decode()
    assert "must be:" in text.content.decode()


def test_what_is_swapped_or_left_in_is_not_asked_for(client, surveyed):
    client.post(reverse("choose_keep", args=[surveyed.pk]), {"place": "C2"})
    assert list(asking.wanted(unit_state(surveyed.unit_id))) == ["PS-1 C1"]


def test_a_part_that_was_found_is_taken_where_it_goes_in(client, surveyed):
    url = reverse("gather_ask", args=[surveyed.unit_id])
    response = client.post(url, {"found": FOUND, "for": "PS-1 C1, PS-1 C2"})
    assert response.status_code == 302
    assert Choice.objects.get(part__ref="C2").item == "OURS" and Choice.objects.get(part__ref="C2").by_hand
    assert not Choice.objects.filter(part__ref="C1").exists(), "100 µF for 2200 µF"
    said = client.get(response.url).content.decode()
    assert "OURS chosen for PS-1 C2" in said and "Not for PS-1 C1" in said


@pytest.mark.parametrize("line", ["", "much", "fuse T 1A 250V 5x20", "1u 6.3V 5x11 p2 name TINY"])
def test_a_part_that_goes_nowhere_is_not_kept(client, surveyed, line):
    response = client.post(reverse("gather_ask", args=[surveyed.unit_id]), {"found": line, "for": "PS-1 C1, PS-1 C2"})
    assert response.status_code == 422 and 'role="alert"' in response.content.decode()
    assert not Choice.objects.exists() and not CatalogueItem.objects.filter(part="TINY").exists()


def test_the_list_follows_the_unit(client, surveyed):
    url = reverse("gather_ask", args=[surveyed.unit_id])
    client.get(url)
    add_line(surveyed, "C8 22u 16V 5x11 p2 decoupling rail +5V at 20,50 leaking")
    kinds = client.get(url).context["kinds"]
    assert "PS-1 C8" in [*(ref for kind in kinds.kinds for ref in kind.places), *kinds.alone]
