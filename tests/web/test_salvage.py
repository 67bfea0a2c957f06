"""Parts out of a donor: what may come out, how the shelf lists it, when it is taken, and every way round that was tried."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone

from idlebench.core.board.parts import Fitted
from idlebench.core.choose.salvage import may_be_taken, may_come_out, used
from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.gather import planning
from idlebench.web.ledger.sheets import sheet
from idlebench.web.records.models import CatalogueItem, Choice, Part, Swap
from idlebench.web.survey.services import add_line, paste
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import unit_state

from .helpers import discharge

pytestmark = pytest.mark.django_db

GOOD = Fitted(ref="C7", value=100e-6, volts=16.0, looks="sound")


@pytest.mark.parametrize(
    ("part", "value", "esr", "rules"),
    [
        (GOOD, 98e-6, 0.5, set()),
        (GOOD.with_(safety="X2"), 100e-6, 0.1, {"safety"}),
        (GOOD.with_(role="mains_y"), 100e-6, 0.1, {"safety"}),
        (GOOD.with_(role="retrace_tuning", kind="film"), 100e-6, 0.1, {"safety"}),
        (GOOD.with_(looks="leaking"), 98e-6, 0.5, {"looks"}),
        (GOOD.with_(volts=None), 98e-6, 0.5, {"volts"}),
        (GOOD, 79e-6, 0.5, {"value"}),
        (GOOD, 98e-6, None, {"esr"}),
        # 1.5 × 0.16/(2π·120·100 µF), 3.18 Ω
        (GOOD, 98e-6, 3.1, set()),
        (GOOD, 98e-6, 3.3, {"esr"}),
        (GOOD.with_(kind="film"), 98e-6, None, set()),
    ],
)
def test_what_may_be_used_again(part, value, esr, rules):
    assert {shut.rule for shut in may_come_out(part, value, esr)} == rules


def test_a_used_part_has_half_a_life_and_its_own_value():
    made = used(GOOD, "USED-1", 98e-6, 0.5, "unit C")
    assert (made.value, made.volts, made.esr, made.life, made.stock) == (98e-6, 16.0, 0.5, 1000.0, 1)
    assert not may_be_taken(None) and not may_be_taken(29.9) and may_be_taken(30.5)[0].rule == "used"


@pytest.fixture
def donor(surveyed):
    """A donor beside the unit: one part of it is what C2 asks."""
    unit = surveyed.unit.job.units.create(name="C", first_look=surveyed.unit.first_look)
    board = unit.boards.create(name="MB", width=100, height=80)
    paste(board, "C7 100u 25V 6.3x11 p2.5 105C decoupling sound\nC8 100n X2 18x13.5 p15 sound", good_rows=False)
    discharge(unit)
    return board


def out(board, ref="C7", typed="cap 99u esr 0.4"):
    return swapping.salvage(board.pk, ref, typed)


def test_from_the_donor_to_the_place(surveyed, donor):
    name = out(donor)
    item = CatalogueItem.objects.get(part=name)
    assert item.stock == 1 and item.used_read and "unit C" in item.note and item.life == 1000
    assert Part.objects.get(board=donor, ref="C7").looks == "missing"
    choice = choosing.take(surveyed.pk, "C2", name)
    assert any("counted from half" in reason for reason in choice.reasons)
    discharge(surveyed.unit)
    swapping.swapped(surveyed.pk, "C2")
    assert Swap.objects.get().note.startswith("used, out of unit C")
    assert sheet(unit_state(surveyed.unit_id)).replaced[0].swap.note.startswith("used")


def test_an_old_reading_is_not_enough_by_any_way(surveyed, donor, client):
    name = out(donor)
    old = timezone.now() - timedelta(days=31)
    CatalogueItem.objects.filter(part=name).update(used_read=old)
    for act in (
        lambda: choosing.take(surveyed.pk, "C2", name),
        lambda: choosing.settle_all(surveyed.pk, [("C2", name)]),
    ):
        with pytest.raises(Blocked) as shut:
            act()
        assert shut.value.reasons[0].rule == "used"
    assert not Choice.objects.exists()
    url = reverse("shelf_part", args=[name])
    for typed in ("", "cap 99u", "warm", "cap 99u esr 0.4 leaking"):
        assert client.post(url, {"measured": typed}).status_code == 422
    assert client.post(url, {"measured": "cap 97u esr 0.5"}).status_code == 302
    choosing.take(surveyed.pk, "C2", name)
    assert CatalogueItem.objects.get(part=name).value == pytest.approx(97e-6)


def test_no_plan_and_no_key_takes_a_used_part_by_itself(surveyed, donor):
    name = out(donor)
    CatalogueItem.objects.exclude(part=name).update(stock=0)
    choosing.take_all(surveyed.pk)
    assert name not in set(Choice.objects.values_list("item", flat=True))
    plan = planning.make()
    assert not any(p.part == name for aim in plan.kept.aims.values() for p in aim.places)


def test_what_never_comes_out(surveyed, donor, client):
    for ref, typed in (("C8", "cap 100n"), ("C7", "cap 40u esr 0.4"), ("C7", "cap 99u esr 9")):
        with pytest.raises(Blocked):
            out(donor, ref, typed)
    for typed in ("", "esr 0.4", "99u", "cap 99u esr 0.4 at 3,3", "cap -5u esr 1"):
        with pytest.raises(BadInput):
            out(donor, "C7", typed)
    add_line(donor, "C9 47u 16V 6.3x11 p2.5 decoupling bulging")
    with pytest.raises(Blocked):
        out(donor, "C9", "cap 46u esr 0.4")
    assert not CatalogueItem.objects.filter(used_read__isnull=False).exists()
    out(donor)
    with pytest.raises(Blocked):
        out(donor)
    response = client.post(reverse("salvage", args=[donor.pk]), {"place": "C7", "measured": "nothing"})
    assert response.status_code == 409
