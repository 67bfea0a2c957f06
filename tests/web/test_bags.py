"""A bag a board: filled from what lies here, labelled, checked off at the board."""

import pytest
from django.urls import reverse

from idlebench.web.choose import services as choosing
from idlebench.web.records.models import Bag, CatalogueItem
from idlebench.web.swap import services as swapping
from idlebench.web.unit import fits
from idlebench.web.unit.state import board_state

from .helpers import discharge
from .test_devices import read_back

pytestmark = pytest.mark.django_db


@pytest.fixture
def taken(surveyed):
    for ref in ("C1", "C2"):
        state, found = board_state(surveyed.pk)
        choosing.take(surveyed.pk, ref, fits.ranking_for(state, found.find(ref)).best.part.part)
    CatalogueItem.objects.update(stock=0)
    return surveyed


def lies_here(board, *refs):
    for ref in refs:
        item = board_state(board.pk)[1].find(ref).choice.item
        CatalogueItem.objects.filter(part=item).update(stock=1)


def test_nothing_here_nothing_bagged(taken, client):
    assert client.post(reverse("bag_it", args=[taken.pk])).status_code == 422 and not Bag.objects.exists()
    assert client.get(reverse("bag", args=[taken.pk])).status_code == 200


def test_a_bag_from_the_shelf_to_the_board(taken, client):
    lies_here(taken, "C2")
    assert client.post(reverse("bag_it", args=[taken.pk])).status_code == 302
    page = client.get(reverse("bag", args=[taken.pk]))
    assert page.context["lacking"] == ("C1",) and page.context["left"] == 1
    lies_here(taken, "C1")
    client.post(reverse("bag_it", args=[taken.pk]))
    bag = Bag.objects.get()
    assert [p.refs for p in bag.to_core()] == [("C2",), ("C1",)], "small values first"
    swap = client.get(reverse("swap", args=[taken.pk]) + "?place=C1").content.decode()
    assert "bag, pocket 2" in swap
    discharge(taken.unit)
    swapping.swapped(taken.pk, "C2")
    page = client.get(reverse("bag", args=[taken.pk]))
    assert page.context["left"] == 1 and page.context["done"] == {"C2"}
    choosing.leave_in(taken.pk, "C1")
    assert client.get(reverse("bag", args=[taken.pk])).context["odd"] == ["C1 uses nothing now"]


def test_its_label_opens_it(taken, client):
    lies_here(taken, "C2")
    client.post(reverse("bag_it", args=[taken.pk]))
    page = client.get(reverse("bag", args=[taken.pk]))
    assert read_back(page.context["code"]) == f"http://testserver{reverse('bag', args=[taken.pk])}"
