"""A kit with three faults in it, held against a unit's places and counted in once."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.web.records.models import CatalogueItem, Choice, Entry
from idlebench.web.survey.services import add_line

#: One of two 100 µF parts, a store for 10 V where 16 V stand, and a part for no place.
KIT = "1 x 100u 25V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.1@100k low name GOOD\n1 x 2200u 10V 16x25 p7.5 105C name LOW\n3 x 1u 50V 5x11 p2 105C name ONE"


@pytest.fixture
def places(surveyed):
    add_line(surveyed, "C7 100u 16V 6.3x11 p2.5 decoupling rail +5V at 70,50 esr 6.8")
    return surveyed.unit


def test_its_faults_are_told_and_nothing_is_written(client, places):
    page = client.post(reverse("gather_kit", args=[places.pk]), {"kit": KIT})
    kit = page.context["kit"]
    assert [c.words for c in kit.lines] == ["short by 1", "for no place", "for no place"]
    wrong = {held.ref: held.why for held in kit.wrong}
    assert "10 V" in wrong["PS-1 C1"] and len(wrong) == 2 and any("too few GOOD" in why for why in wrong.values())
    assert "1 of 3 places served" in page.content.decode()
    assert not Choice.objects.exists() and not CatalogueItem.objects.filter(part="GOOD").exists()


def test_it_is_counted_in_once(client, places):
    url = reverse("gather_kit", args=[places.pk])
    turn = client.post(url, {"kit": KIT}).context["state"].row.turn
    assert client.post(url, {"kit": KIT, "take": "1", "seen": turn}).status_code == 302
    assert CatalogueItem.objects.get(part="GOOD").stock == 1 and CatalogueItem.objects.get(part="ONE").stock == 3
    assert list(Choice.objects.values_list("item", flat=True)) == ["GOOD"] and Choice.objects.get().by_hand
    assert "kit is counted in" in Entry.objects.first().text
    # the same press again
    assert client.post(url, {"kit": KIT, "take": "1", "seen": turn}).status_code == 409
    assert CatalogueItem.objects.get(part="GOOD").stock == 1


def test_a_table_and_what_cannot_be_read(client, places):
    url = reverse("gather_kit", args=[places.pk])
    file = SimpleUploadedFile("kit.csv", b"part,value,volts,diameter,height,pitch,stock\nK1,100u,25,6.3,11,2.5,2\n")
    assert client.post(url, {"file": file}).context["kit"].lines[0].line.pieces == 2
    for wrong in ("", "10 x much", "0 x 100u 16V 6.3x11"):
        response = client.post(url, {"kit": wrong})
        assert response.status_code == 422 and 'role="alert"' in response.content.decode()
    broken = SimpleUploadedFile("kit.csv", b"\xff\xfe\x00")
    assert client.post(url, {"file": broken}).status_code == 422
    assert client.post(url, {"kit": "x", "take": "1", "seen": places.turn}).status_code in (409, 422)
