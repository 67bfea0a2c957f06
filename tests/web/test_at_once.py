"""Two requests at once: one wins, the other end is told, none breaks, and nothing that was answered with yes is lost."""

from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse

from idlebench.core.prove import interlocks
from idlebench.core.refusal import Blocked
from idlebench.web.choose import services as choosing
from idlebench.web.gather import planning
from idlebench.web.procedures import services as procedures
from idlebench.web.records.models import (
    Board,
    BuyingPlan,
    CatalogueItem,
    Choice,
    DeviceSwap,
    Event,
    Job,
    Order,
    OrderLine,
    Part,
    PowerSession,
    ProcedureStep,
    Reading,
    Swap,
    Unit,
)
from idlebench.web.survey.services import add_line, paste
from idlebench.web.survey.typed import add_typed
from idlebench.web.unit.door import unit_transaction
from idlebench.web.unit.state import board_state, unit_state
from tests import typed
from tests.conftest import LINES, LOOKED, RAILS

from .helpers import before_power, discharge, live_session, pass_up_to, power_at, settle

#: What two of the three places of LINES take.
PARTS = (("BIG", 2200e-6, 25, 16, 25, 7.5), ("SMALL", 100e-6, 25, 6.3, 11, 2.5))


@pytest.fixture
def unit(db):
    """A unit of a supply alone, surveyed, with the parts it takes on the shelf."""
    for part, value, volts, diameter, height, pitch in PARTS:
        CatalogueItem.objects.create(
            part=part, kind="wet", value=value, volts=volts, mounting="radial", diameter=diameter, height=height, pitch=pitch,
            temperature=105, life=5000, ripple=2.0, esr=0.05, stock=9,
        )  # fmt: skip
    job = typed.take_in_job({"name": "Lamp room clock", "machine": "Tide clock", "units": "A, B", "has_supply": "on"})
    for unit in job.units.all():
        unit.first_look = list(LOOKED)
        unit.save()
    unit = job.units.get(name="A")
    board = typed.add_board(
        unit, {"name": "PS-1", "supply": "switching", "width": "120", "height": "80", "rails": RAILS}
    )
    paste(board, LINES, good_rows=False)
    return unit


def at_once(*sends) -> list[int]:
    """Send requests at the same moment, each from a thread of its own; their status codes in order."""
    gate = Barrier(len(sends))

    def run(send) -> int:
        try:
            gate.wait()
            return send(Client()).status_code
        finally:
            connection.close()

    with ThreadPoolExecutor(len(sends)) as pool:
        return list(pool.map(run, sends))


def post(name, pk, **data):
    return lambda client: client.post(reverse(name, args=[pk]), data)


def on(unit, step):
    return post("power_on", unit.pk, step=step, asked=unit_state(unit.pk).last_event)


def key(unit, name) -> str:
    return unit_state(unit.pk).proof.check(name).key


def test_a_failing_reading_and_going_on(unit):
    settle(unit)
    pass_up_to(unit, "limited")
    for _ in range(6):
        before_power(unit)
        power_at(unit, "limited")
        for name in ("up.limited.lamp", "up.limited.look"):
            at_once(post("reading", unit.pk, **{f"r:{name}": "yes", "step": "limited"}))
        read, power = at_once(
            post("reading", unit.pk, **{"r:up.limited.look": "no", "step": "limited"}), on(unit, "full")
        )
        proof = unit_state(unit.pk).proof
        assert 500 not in (read, power) and 302 in (read, power)
        if power == 302:
            assert read == 409, "a reading of a step that is left"
            assert not interlocks.step(proof, "full")
        else:
            assert power == 409 and proof.live == "limited" and proof.status_of(proof.check("up.limited.look")).failed
        at_once(lambda client: client.post(reverse("idle"), live_session()))


def test_two_power_ons_two_answers(unit):
    settle(unit)
    pass_up_to(unit, "limited")
    answers = at_once(on(unit, "limited"), on(unit, "limited"), on(unit, "limited"))
    assert sorted(answers) == [302, 409, 409]
    assert PowerSession.objects.filter(ended=None).count() == 1 and Event.objects.filter(kind="power").count() == 1


def test_two_units_at_once(unit):
    """The first live session wins; the other end unit is told."""
    other = Unit.objects.get(name="B")
    board = typed.add_board(other, {"name": "PS-1", "supply": "switching", "rails": RAILS})
    paste(board, LINES, good_rows=False)
    for each in (unit, other):
        settle(each)
        pass_up_to(each, "limited")
    assert sorted(at_once(on(unit, "limited"), on(other, "limited"))) == [302, 409]
    assert PowerSession.objects.filter(ended=None).count() == 1


def test_a_swap_and_a_power_on_and_a_move_and_a_power_on(unit):
    settle(unit)
    board = unit.boards.get()
    spare = typed.add_board(unit, {"name": "MB", "expected": "0"})
    pass_up_to(unit, "limited")
    back, power = at_once(post("swap_back", board.pk, place="C2"), on(unit, "limited"))
    assert sorted([back, power]) == [302, 409]
    assert Swap.objects.filter(part__ref="C2").exists() is (power == 302), "what was answered with yes stands"
    at_once(lambda client: client.post(reverse("idle"), live_session()))
    if power == 409:
        discharge(unit)
        at_once(post("swap_done", board.pk, place="C2"))
    pass_up_to(unit, "limited")
    moved, power = at_once(post("move_board", spare.pk, unit=Unit.objects.get(name="B").pk), on(unit, "limited"))
    assert sorted([moved, power]) == [302, 409]
    assert (Board.objects.get(pk=spare.pk).unit_id == unit.pk) is (power == 302)


def test_double_clicks(unit):
    board = unit.boards.get()
    item = next(p.part for p in CatalogueItem.objects.all() if p.part == "SMALL")
    assert sorted(at_once(*[post("choose_take", board.pk, place="C2", item=item, seen="open")] * 2)) == [302, 409]
    assert sorted(at_once(*[post("choose_keep", board.pk, place="C1", seen="open")] * 2)) == [302, 409]
    both = at_once(
        post("choose_take", board.pk, place="C1", item="BIG", seen="old part kept"),
        post("choose_keep", board.pk, place="C1", seen="open"),
    )
    assert both == [302, 409] and Choice.objects.get(part__ref="C1").item == "BIG"
    discharge(unit)
    assert sorted(at_once(*[post("swap_done", board.pk, place="C2")] * 2)) == [302, 409]
    assert Swap.objects.count() == 1 and CatalogueItem.objects.get(part=item).stock == 8


def test_nothing_acknowledged_is_lost(unit):
    board = unit.boards.get()
    lines = [f"U{n} memory 15x35 at {20 * n},60 gnd 16 +5V 8" for n in range(1, 5)]
    assert at_once(*[post("survey", board.pk, line=line) for line in lines]) == [302] * 4
    board.refresh_from_db()
    assert len(board.chips.splitlines()) == 4
    part = Part.objects.get(ref="C3")
    add_line(board, "C3 sound")
    answers = at_once(
        post("part_look", part.pk, looks="crusty"),
        post("survey", board.pk, line="C3 esr 1.5"),
        post("part_place", part.pk, x="44", y="22"),
    )
    part.refresh_from_db()
    assert answers == [302] * 3 and (part.looks, part.esr, part.x) == ("crusty", 1.5, 44.0)
    found = board_state(board.pk)[1].find("C3")
    assert found is not None and found.core.esr == 1.5


def test_readings_at_once_are_all_kept(unit):
    settle(unit)
    discharge(unit)
    names = ["cold.cont.ps-1.plug", "cold.polarity.ps-1.c1", "cold.polarity.ps-1.c2"]
    keys = [key(unit, name) for name in names]
    assert at_once(*[post("reading", unit.pk, **{f"r:{k}": "yes"}) for k in keys]) == [302] * 3
    proof = unit_state(unit.pk).proof
    assert all(proof.status_of(proof.check(name)).passed for name in names)
    assert Reading.objects.filter(key__in=keys).count() == 3


def test_a_device_swapped_a_mend_and_a_step_twice_at_once(unit):
    """Each is there once: the second press is told so, and no press is a 500."""
    board = unit.boards.get()
    add_typed(board, "Q1 transistor 2A 60V at 100,20")
    discharge(unit)
    procedure = procedures.add(unit.pk, "fan")
    swap = post("swap_done", board.pk, place="Q1", device="1", typed="another type")
    step = lambda client: client.post(  # noqa: E731
        reverse("procedure_act", args=[unit.pk, procedure.pk, "done"]), {"step": 1, "reading": "yes"}
    )
    assert sorted(at_once(swap, swap)) == [302, 409] and DeviceSwap.objects.count() == 1
    assert sorted(at_once(step, step)) == [302, 409] and ProcedureStep.objects.count() == 1
    assert sorted(at_once(post("mend_back", board.pk, mend=0), post("mend", board.pk, mend="joint Q1"))) == [302, 409]


def test_a_board_that_went_away_in_the_same_moment(unit):
    """The request looked for the board's unit, and then somebody moved it: told, not broken."""
    board, other = unit.boards.get(), Unit.objects.get(name="B")
    with pytest.raises(Blocked, match="not here"), unit_transaction(other.pk, "x") as door:
        door.board(board.pk)


@pytest.mark.django_db
def test_nothing_of_this_stays_on_the_bench_of_other_tests():
    assert not Job.objects.exists() and not CatalogueItem.objects.filter(part__in=["BIG", "SMALL"]).exists()


@pytest.fixture
def to_buy(unit):
    """The unit's two places settled, nothing on the shelf, a plan made: one parcel."""
    board, names = unit.boards.get(), [name for name, *_ in PARTS]
    for ref, name in zip(("C1", "C2"), names, strict=True):
        choosing.take(board.pk, ref, name)
    # taken by hand: no plan takes another part, whatever else lies here
    Choice.objects.update(by_hand=True)
    CatalogueItem.objects.filter(part__in=names).update(stock=0, price=0.5, supplier="Quay Parts")
    planning.make()
    yield unit
    Order.objects.all().delete()
    BuyingPlan.objects.all().delete()


def buy(name, **data):
    return lambda client: client.post(reverse(name), data)


def test_a_parcel_ordered_twice_at_once_is_ordered_once(to_buy):
    order = buy("gather_order", supplier="Quay Parts", aim="cost")
    answers = at_once(order, order, order)
    assert sorted(answers) == [302, 409, 409] and Order.objects.count() == 1


def test_pieces_counted_in_twice_at_once_are_counted_once(to_buy):
    at_once(buy("gather_order", supplier="Quay Parts", aim="cost"))
    line = OrderLine.objects.first()
    before = CatalogueItem.objects.get(part=line.part).stock
    count_in = buy("gather_arrived", line=line.pk, pieces=line.quantity)
    answers = at_once(count_in, count_in, count_in)
    assert sorted(answers) == [302, 422, 422]
    assert CatalogueItem.objects.get(part=line.part).stock == before + line.quantity


def test_a_choice_and_an_order_at_once(to_buy):
    """Whoever comes second reads what the first wrote: an order is never of a place that asks something else by then."""
    board = to_buy.boards.get()
    ref = Choice.objects.first().part.ref
    left, ordered = at_once(
        post("choose_keep", board.pk, place=ref), buy("gather_order", supplier="Quay Parts", aim="cost")
    )
    assert left == 302 and ordered in (302, 422)
    assert Order.objects.exists() == (ordered == 302)


def test_one_piece_stands_in_for_one_place(to_buy):
    """One part that fits both places lies here once; two places ask for it in the same moment."""
    board = to_buy.boards.get()
    add_line(board, "C12 100u 16V 6.3x11 p2.5 decoupling rail +5V at 20,60 esr 6.8")
    at_once(post("choose_take", board.pk, place="C12", item="SMALL"))
    CatalogueItem.objects.create(
        part="SPARE", kind="wet", value=100e-6, volts=35, mounting="radial", diameter=6.3, height=11, pitch=2.5, temperature=105,
        life=5000, ripple=2.0, esr=0.05, stock=1,
    )  # fmt: skip
    try:
        places = [Part.objects.get(board=board, ref=ref).pk for ref in ("C2", "C12")]
        answers = at_once(*(post("gather_instead", pk, item="SPARE") for pk in places))
        assert sorted(answers) == [302, 422] and Choice.objects.filter(item="SPARE").count() == 1
    finally:
        CatalogueItem.objects.filter(part="SPARE").delete()
