"""Every route, with each value that its own links, selects and fields give, in a dozen kept states: an answer, or a refusal in words."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.ledger import services as ledger
from idlebench.web.procedures import services as procedures
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Board, Part, Unit
from idlebench.web.survey.services import add_line
from idlebench.web.survey.typed import add_typed
from idlebench.web.unit import fits
from idlebench.web.unit.state import board_state, unit_state
from tests.conftest import _listed

from .helpers import pass_up_to, power_at, settle
from .walking import NOWHERE, asks, walk

pytestmark = pytest.mark.django_db

MORE = (
    "D5 diode 1A 400V for C1", "VR1 regulator 7805 1A from +12V", "F2 fuse T 2A 250V 5x20", "BT1 battery 3.6V charged leaking", "T1 winding 9V 1.5A",
    "MOV1 varistor 275V~", "R1 discharge 1M", "HS1 heatsink 14x14",
)  # fmt: skip


def supply(unit: Unit) -> Board:
    return unit.boards.get(name="PS-1")


def nothing_listed(unit):
    pass


def listed(unit):
    _listed(supply(unit))


def one_place_left(unit):
    listed(unit)
    board = supply(unit)
    state, found = board_state(board.pk)
    for part in found.places[1:]:
        choosing.take(board.pk, part.ref, fits.ranking_for(state, part).best.part.part)
    Part.objects.filter(board=board, ref="C2").update(x=None, y=None)


def of_every_kind(unit):
    listed(unit)
    for line in MORE:
        add_typed(supply(unit), line)
    add_line(supply(unit), "C9 100n 275V~ X2 film 18x8 p15")
    add_line(supply(unit), "C8 4700u 25V")


def all_in(unit):
    listed(unit)
    settle(unit)


def corrected_since(unit):
    one_place_left(unit)
    add_line(supply(unit), "C1 1000u 35V can", change=True)


def half_proven(unit):
    all_in(unit)
    pass_up_to(unit, unit_state(unit.pk).proof.steps[2].key)


def under_power(unit):
    all_in(unit)
    steps = unit_state(unit.pk).proof.steps
    step = next(s for s in steps if any(c.live and c.high is not None for c in s.checks))
    pass_up_to(unit, step.key)
    power_at(unit, step.key)


def another_under_power(unit):
    under_power(unit)
    other = unit.job.units.create(name="Z", first_look=unit.first_look)
    board = Board.objects.create(
        unit=other, name="PS-1", width=120, height=80, supply="switching", rails="+5 V 2 A min 0.5 A"
    )
    add_line(board, "C1 2200u 16V 16x25 leaking")
    return other


def a_reading_out_of_limits(unit):
    under_power(unit)
    state = unit_state(unit.pk)
    step = next(s for s in state.proof.steps if s.key == state.live_step)
    check = next(c for c in step.checks if c.live and c.high is not None)
    proving.take_reading(unit.pk, check.key, f"{check.high * 1.2:g}!")


def drying(unit):
    all_in(unit)
    procedures.add(unit.pk, "board-wash-alcohol", supply(unit).pk)


def handed_over(unit):
    all_in(unit)
    pass_up_to(unit, "")
    ledger.hand_over(unit.pk)


STATES = (
    nothing_listed, listed, one_place_left, of_every_kind, all_in, corrected_since, half_proven, under_power, another_under_power,
    a_reading_out_of_limits, drying, handed_over,
)  # fmt: skip
#: In these what the pages offer is sent as well; in the others it is looked at.
SENT = (of_every_kind,)


@pytest.mark.parametrize("state", STATES, ids=lambda state: state.__name__)
def test_every_way_that_a_page_offers_leads_somewhere(client, unit, state):
    walked = state(unit) or unit
    boards = "|".join(str(pk) for pk in walked.boards.values_list("pk", flat=True))
    parts = "|".join(str(pk) for pk in Part.objects.filter(board__unit=walked).values_list("pk", flat=True)) or "0"
    ours = re.compile(rf"/(unit/{walked.pk}|board/({boards})|part/({parts})|b/({boards}))/(?!.*\.(pdf|jpg))|/idle/$")
    found, wrong = walk(
        client,
        reverse("intake", args=[walked.pk]),
        lambda ask: bool(ours.match(ask.address)) and (state in SENT or not ask.changes),
    )
    assert not wrong and len(found) > 60
    assert set(found.values()) <= {200, 302, 409, 422}


def test_the_walk_finds_the_page_that_breaks_where_one_place_is_left(client, unit, monkeypatch):
    one_place_left(unit)
    board = supply(unit)

    def breaks(*_: object) -> None:
        raise IndexError

    monkeypatch.setattr("idlebench.web.choose.views._neighbours", breaks)
    choose = reverse("choose", args=[board.pk])
    found, wrong = walk(client, choose, lambda ask: not ask.changes and ask.address.startswith(choose))
    assert wrong and 500 in found.values()


def test_cold_checks_say_which_unit_has_power_and_are_taken_of_the_other_alone(client, unit):
    other = another_under_power(unit)
    page = client.get(reverse("cold", args=[other.pk])).content.decode()
    assert "Unit A has power on this bench. These checks are of unit Z" in page
    check = next(c for c in unit_state(other.pk).proof.steps[0].checks if c.key.startswith("cold.cont"))
    assert proving.take_reading(other.pk, check.key, "yes").passed
    assert (
        "This unit has power. Make it idle before any cold check"
        in client.get(reverse("cold", args=[unit.pk])).content.decode()
    )
    with pytest.raises(Blocked):
        proving.take_reading(unit.pk, unit_state(unit.pk).proof.discharges[0].key, "0.4")


def test_a_drawing_of_what_has_no_place_is_found():
    assert NOWHERE.search('<path class="lead" d="M0 NoneH40"/>'.replace("NoneH", "None H")) and NOWHERE.search(
        '<circle cx="nan" cy="3"/>'
    )
    assert not NOWHERE.search('<path d="M0 3H40"/>') and not NOWHERE.search('<text aria-label="3 finds, info">x</text>')


def test_what_a_page_offers_is_every_link_and_every_value():
    page = """<a href="?place=C2#top">C2</a><a href="https://elsewhere.example/">out</a><div hx-get="/later/"></div>
    <form method="post" action="/send/"><input type="hidden" name="seen" value="7"><input name="words" value="as typed">
    <select name="role"><option value="bulk">b</option><option value="timing">t</option></select>
    <input type="radio" name="way" value="a"><input type="radio" name="way" value="b"><button name="go" value="yes">Go</button></form>
    <form action="/find/"><input name="q" value="C1"></form>"""
    found = list(asks(page, "/board/3/choose/?policy=renew"))
    assert [one.address for one in found if not one.changes] == [
        "/board/3/choose/?place=C2",
        "",
        "/later/",
        "/find/?q=C1",
    ]
    sent = [dict(one.posted) for one in found if one.changes]
    usual = {"seen": "7", "words": "as typed", "role": "bulk", "way": "a", "go": "yes"}
    assert sent == [usual, {**usual, "role": "timing"}, {**usual, "way": "b"}]
