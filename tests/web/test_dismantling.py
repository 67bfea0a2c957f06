"""The dismantling log by request: order kept, hand-over asks for it, struck only at the end."""

import pytest
from django.urls import reverse

from idlebench.web.records.models import DismantleStep

from .helpers import pass_up_to, settle

pytestmark = pytest.mark.django_db


@pytest.fixture
def apart(client, unit):
    for text in (
        "lid: 4 screws M4x10",
        "keyboard: 2 screws M3x8, plug J6 to mainboard",
        "supply: plug J1 to mainboard",
    ):
        assert client.post(reverse("dismantling", args=[unit.pk]), {"step": text}).status_code == 302
    return unit


def step(what: str) -> DismantleStep:
    return DismantleStep.objects.get(text__startswith=what)


def back(client, what: str):
    return client.post(reverse("put_back", args=[step(what).pk]))


def test_the_way_back_is_the_way_there_reversed(client, apart):
    page = client.get(reverse("dismantling", args=[apart.pk]))
    assert [line.step.what for line in page.context["backwards"]] == ["supply", "keyboard", "lid"]
    assert page.context["next_back"].step.what == "supply"
    assert "2 plugs not back" in page.content.decode()
    for what in ("supply", "keyboard", "lid"):
        assert back(client, what).status_code == 302
    page = client.get(reverse("dismantling", args=[apart.pk]))
    assert page.context["open"] == () and "all of it is back" in page.content.decode()


def test_nothing_goes_back_under_something_that_waits(client, apart):
    refused = back(client, "lid")
    assert refused.status_code == 409 and "supply, keyboard" in refused.content.decode()
    assert step("lid").back is None
    back(client, "supply")
    back(client, "keyboard")
    covered = back(client, "supply")
    assert covered.status_code == 409 and "Back on top of it: keyboard" in covered.content.decode()
    assert back(client, "keyboard").status_code == 302 and step("keyboard").back is None


def test_a_step_that_cannot_be_read_stays_in_its_field(client, unit):
    response = client.post(reverse("dismantling", args=[unit.pk]), {"step": "lid: 900 screws M3x8"})
    assert response.status_code == 422 and "lid: 900 screws M3x8" in response.content.decode()
    assert not DismantleStep.objects.exists()


def test_only_the_last_step_is_struck(client, apart):
    assert client.post(reverse("strike", args=[step("lid").pk])).status_code == 422
    assert client.post(reverse("strike", args=[step("supply").pk])).status_code == 302
    assert DismantleStep.objects.count() == 2


def test_hand_over_waits_for_the_last_plug(client, surveyed, apart):
    settle(apart)
    pass_up_to(apart, "")
    refused = client.post(reverse("handover", args=[apart.pk]))
    assert refused.status_code == 409 and "2 plugs not back" in refused.content.decode()
    for what in ("supply", "keyboard", "lid"):
        back(client, what)
    assert client.post(reverse("handover", args=[apart.pk])).status_code == 302
