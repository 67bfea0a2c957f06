"""Swap of what is no capacitor, and mends: what is logged, what it asks, and every way round the gates that was tried."""

from __future__ import annotations

import pytest
from django.urls import reverse

from idlebench.core.refusal import BadInput, Blocked
from idlebench.web.choose import devices as choosing
from idlebench.web.gather.services import device_lines
from idlebench.web.keep.coming import take_in
from idlebench.web.keep.leaving import export
from idlebench.web.proving import confirmations
from idlebench.web.proving import services as proving
from idlebench.web.records.models import DeviceChoice, DeviceSwap, Event, Job, Mend, ShelfDevice
from idlebench.web.survey.typed import add_typed
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import board_state, unit_state
from idlebench.web.unit.stock import count_in
from idlebench.web.unit.wanted import places

from .helpers import discharge, good_text, make_idle, pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db

LINES = (
    "VR1 regulator 7905 0.1A from +5V sink 10 at 20,20",
    "BT1 accumulator 3.6V 5uA at 40,20",
    "F2 fuse T 1A 5x20 at 60,20",
    "D1 diode 1A 100V at 80,20",
    "Q1 transistor 2A 60V at 100,20",
    "T1 transformer at 60,60",
)


@pytest.fixture
def board(surveyed):
    """The mainboard of the unit with one of each."""
    found = surveyed.unit.boards.get(name="MB-80")
    for line in LINES:
        add_typed(found, line)
    discharge(surveyed.unit)
    return found


def first(board, ref):
    """The first part that goes into a place."""
    state, found = board_state(board.pk)
    return next(v for v in choosing.others(state, found) if v.other.ref == ref).best.part


def keys(board):
    return {
        c.key.split(".")[1] for c in unit_state(board.unit_id).proof.steps[0].checks if c.key.split(".")[-1][0] == "d"
    }


def test_each_kind_is_chosen_swapped_and_asked_for(board):
    for ref in ("BT1", "F2", "D1"):
        choosing.take_other(board.pk, ref, first(board, ref))
    assert {p.ref for p in places()} >= {"BT1", "F2", "D1"}
    assert {line.what for line in device_lines(unit_state(board.unit_id))} == {"battery", "fuse", "diode"}
    for ref in ("BT1", "F2", "D1"):
        swapping.device_swapped(board.pk, ref, read_out="1.1 V", text="tight")
    swapping.device_swapped(board.pk, "Q1", "TQ 60-2 of the donor")
    swapping.device_swapped(board.pk, "T1", "wound anew, 9 V")
    swapping.device_swapped(board.pk, "U1", "a processor of the drawer")
    assert DeviceSwap.objects.count() == 6 and not {p.ref for p in places()} & {"BT1", "F2", "D1"}
    assert keys(board) == {"seat", "pins", "whole", "windings", "charge"}
    assert DeviceSwap.objects.get(ref="BT1").read_out == "1.1 V"
    stage = next(s for s in unit_state(board.unit_id).stages if s.key == "swap")
    assert stage.left == "done"


def test_a_regulator_of_a_fed_board_says_what_it_is_fed_from(board):
    view = next(v for v in choosing.others(*board_state(board.pk)) if v.other.ref == "VR1")
    assert "rail" in str(view.wrong) or view.judged, "−5 V from +5 V cannot be"
    add_typed(board, "VR2 regulator 7805 0.5A at 20,40")
    assert "what feeds it" in str(
        next(v for v in choosing.others(*board_state(board.pk)) if v.other.ref == "VR2").wrong
    )
    board.unit.boards.filter(name="PS-1").update(rails="+5 V 2 A min 0.5 A\n+12 V 1 A")
    add_typed(board, "VR2 regulator 7805 0.2A from +12V sink 10")
    choosing.take_other(board.pk, "VR2", first(board, "VR2"))
    swapping.device_swapped(board.pk, "VR2")
    assert "tab" in keys(board) or DeviceSwap.objects.get().facts["module"]


def test_the_tab_is_read_before_the_legs_are_soldered(board, client):
    add_typed(board, "VR2 regulator 7912 0.2A from -24V sink 10")
    board.unit.boards.filter(name="PS-1").update(rails="−24 V 1 A")
    choosing.take_other(board.pk, "VR2", "RN7912")
    url = reverse("swap_done", args=[board.pk])
    assert (
        "Tab to heatsink, before the legs are soldered"
        in client.get(reverse("swap", args=[board.pk]) + "?place=VR2").content.decode()
    )
    refused = client.post(url, {"place": "VR2", "device": "1", "tab": "150"})
    assert (
        refused.status_code == 422 and "at least 1 MΩ" in refused.content.decode() and not DeviceSwap.objects.exists()
    )
    assert client.post(url, {"place": "VR2", "device": "1", "tab": "OL"}).status_code == 302
    assert (
        DeviceSwap.objects.get().facts["tab_read"] == "OL"
        and {"tab", "pins"} <= keys(board)
        and "tabfree" not in keys(board)
    )
    client.post(reverse("swap_back", args=[board.pk]), {"place": "VR2"})
    assert client.post(url, {"place": "VR2", "device": "1"}).status_code == 302
    assert "tabfree" in keys(board), "nobody read it: the legs come free again"


@pytest.mark.parametrize("ref", ["VR1", "BT1", "F2"])
def test_what_the_rules_judge_goes_in_only_by_a_choice(board, ref):
    with pytest.raises(Blocked) as shut:
        swapping.device_swapped(board.pk, ref, "whatever lies here")
    assert shut.value.reasons[0].rule == "choice" and not DeviceSwap.objects.exists()


def test_other_ways_round_the_gate(board, client):
    url = reverse("swap_done", args=[board.pk])
    for typed in ("", "x", "y" * 61):
        assert client.post(url, {"place": "Q1", "device": "1", "typed": typed}).status_code == 422
    assert client.post(url, {"place": "VR1"}).status_code == 422, "no capacitor"
    assert client.post(url, {"place": "C1", "device": "1", "typed": "a store"}).status_code == 422
    assert client.post(url, {"place": "", "device": "1"}).status_code == 422
    assert not DeviceSwap.objects.exists()
    choosing.take_other(board.pk, "BT1", first(board, "BT1"))
    assert client.post(url, {"place": "bt1", "device": "1"}).status_code == 302
    assert client.post(url, {"place": "BT1", "device": "1"}).status_code == 409, "once is enough"
    with pytest.raises(Blocked):
        choosing.take_other(board.pk, "BT1", first(board, "BT1"))
    assert DeviceSwap.objects.count() == 1


def test_a_cell_that_must_not_be_charged_is_refused_by_any_request(board, client):
    plain = "LC3V6-1200L"
    response = client.post(reverse("other_take", args=[board.pk]), {"ref": "BT1", "item": plain})
    assert response.status_code == 409 and "Must never be charged" in response.content.decode()
    assert not DeviceChoice.objects.exists()


def test_nothing_is_changed_while_a_store_may_be_charged_or_power_is_on(surveyed, board):
    settle(surveyed.unit)
    pass_up_to(surveyed.unit, "limited")
    power_at(surveyed.unit, "limited")
    for act in (
        lambda: swapping.device_swapped(board.pk, "Q1", "another"),
        lambda: swapping.mend(board.pk, "joint U1"),
    ):
        with pytest.raises(Blocked):
            act()
    make_idle()
    with pytest.raises(Blocked) as shut:
        swapping.device_swapped(board.pk, "Q1", "another")
    assert shut.value.reasons[0].rule == "charged"
    assert not DeviceSwap.objects.exists() and not Mend.objects.exists()


def test_the_third_fuse_waits_for_a_cause_at_the_bench_too(board):
    choosing.take_other(board.pk, "F2", first(board, "F2"))
    swapping.device_swapped(board.pk, "F2")
    choosing.blew(board, "F2")
    assert not DeviceSwap.objects.exists(), "what blew stands there no more"
    swapping.device_swapped(board.pk, "F2")
    choosing.blew(board, "F2")
    with pytest.raises(Blocked) as shut:
        swapping.device_swapped(board.pk, "F2")
    assert shut.value.reasons[0].rule == "blown"
    choosing.cause_found(board, "F2", "shorted store C9")
    swapping.device_swapped(board.pk, "F2")


def test_a_piece_comes_off_the_shelf_and_goes_back(board):
    name = first(board, "D1")
    count_in(name, 2)
    before = ShelfDevice.objects.get(part=name).stock
    choosing.take_other(board.pk, "D1", name)
    swapping.device_swapped(board.pk, "D1")
    assert ShelfDevice.objects.get(part=name).stock == before - 1
    swapping.device_back(board.pk, "D1")
    assert ShelfDevice.objects.get(part=name).stock == before and not DeviceSwap.objects.exists()
    with pytest.raises(Blocked):
        swapping.device_back(board.pk, "D1")
    assert keys(board) == set()


def test_a_leaking_cell_that_is_changed_leaks_no_more(board):
    add_typed(board, "BT1 battery leaking")
    assert unit_state(board.unit_id).leaking
    choosing.take_other(board.pk, "BT1", first(board, "BT1"))
    swapping.device_swapped(board.pk, "BT1")
    assert not unit_state(board.unit_id).leaking
    swapping.device_back(board.pk, "BT1")
    assert unit_state(board.unit_id).leaking


def test_what_is_taken_and_not_in_keeps_a_unit_from_hand_over(board):
    choosing.take_other(board.pk, "D1", first(board, "D1"))
    assert [d.ref for d in unit_state(board.unit_id).devices_unsettled] == ["D1"]
    assert "D1" in unit_state(board.unit_id).proof.unsettled


def test_a_change_asks_its_board_again(board):
    """Pins joined and rails not short on the board are asked again after any change of it."""
    for check in unit_state(board.unit_id).proof.steps[0].checks:
        if check.board == "MB-80" and check.fact in ("joined", "no short"):
            proving.take_reading(board.unit_id, check.key, good_text(check))
    swapping.device_swapped(board.pk, "Q1", "another type")
    proof = unit_state(board.unit_id).proof
    again = [c for c in proof.steps[0].checks if c.board == "MB-80" and c.fact in ("joined", "no short")]
    assert again and not any(proof.status_of(c).passed for c in again)


# Mends


def test_a_mend_is_kept_drawn_and_asked_for(board, client):
    line = "trace U1 5 to Q1 2 wire 0.2 insulated before OL"
    assert client.post(reverse("mend", args=[board.pk]), {"mend": line}).status_code == 302
    row = Mend.objects.get()
    key = f"cold.mend.m{row.pk}"
    page = client.get(reverse("swap", args=[board.pk]))
    assert "broken trace from U1 5" in page.content.decode() and len(page.context["scene"].mends) == 1
    assert proving.take_reading(board.unit_id, key, "0.4").key == key
    assert unit_state(board.unit_id).proof.status_of(unit_state(board.unit_id).proof.check(key)).passed
    sheet = client.get(reverse("handover", args=[board.unit_id])).content.decode()
    assert "Damage and repairs, 1" in sheet and "OL" in sheet and "0.4 Ω" in sheet
    swapping.mend(board.pk, "joint U1")
    assert not unit_state(board.unit_id).proof.status_of(unit_state(board.unit_id).proof.check(key)).passed
    client.post(reverse("mend_back", args=[board.pk]), {"mend": row.pk})
    assert unit_state(board.unit_id).proof.check(key) is None
    assert client.post(reverse("mend_back", args=[board.pk]), {"mend": row.pk}).status_code == 409


@pytest.mark.parametrize(
    "line", ["trace U1 40 to U1 20", "pad C99 + to U1 40", "pad U1 40 to 500,500", "pad U1 40", "x", "trace U1 5 to Q1 2 wire 99"]
)  # fmt: skip
def test_a_mend_that_cannot_be_is_said_at_its_field(board, client, line):
    before = Event.objects.count()
    response = client.post(reverse("mend", args=[board.pk]), {"mend": line})
    assert response.status_code == 422 and line in response.content.decode()
    assert not Mend.objects.exists() and Event.objects.count() == before


def test_a_mend_through_the_netlist(board):
    board.nets = "net,ref,pin\nDATA3,U1,5\nDATA4,Q1,2\n"
    board.save()
    with pytest.raises(BadInput, match="must not be joined"):
        swapping.mend(board.pk, "trace U1 5 to Q1 2 wire 0.2")
    board.nets = "net,ref,pin\nDATA3,U1,5\nDATA3,Q1,2\n"
    board.save()
    swapping.mend(board.pk, "trace U1 5 to Q1 2 wire 0.2")
    assert Mend.objects.get().net == "DATA3"


def test_a_thin_wire_on_a_rail_is_said(board, client):
    response = client.post(reverse("mend", args=[board.pk]), {"mend": "pad U1 40 to 10,10 wire 0.2"}, follow=True)
    assert "may carry 2 A" in response.content.decode()


def test_mends_and_changes_travel_with_their_job(board, tmp_path):
    """Round trip byte for byte, what stood there still standing."""
    swapping.device_swapped(board.pk, "Q1", "another type")
    swapping.mend(board.pk, "trace U1 5 to Q1 2 wire 0.2")
    check = next(c for c in unit_state(board.unit_id).proof.steps[0].checks if c.key.startswith("cold.mend."))
    proving.take_reading(board.unit_id, check.key, "0.4")
    seat = next(c for c in unit_state(board.unit_id).proof.steps[0].checks if c.key.startswith("cold.seat."))
    proving.take_reading(board.unit_id, seat.key, "yes")
    one, two = tmp_path / "one.zip", tmp_path / "two.zip"
    export(board.unit.job_id, one)
    came = take_in(one)
    export(came.pk, two)
    assert one.read_bytes() == two.read_bytes() and Job.objects.count() == 2
    confirmations.confirm_imported(came.units.get().pk, "Ada Holm", "I made these mends myself")
    proof = unit_state(came.units.get().pk).proof
    for name in ("cold.mend.m", "cold.seat.d"):
        found = next(c for c in proof.steps[0].checks if c.key.startswith(name))
        assert proof.status_of(found).passed and found.key not in (check.key, seat.key)


def test_a_mend_this_version_cannot_read_shuts_power_and_hides_nothing(board, client):
    Mend.objects.create(board=board, line="weld everything")
    state = unit_state(board.unit_id)
    assert any("weld" in one.line for _, one in state.unread)
    assert client.get(reverse("swap", args=[board.pk])).status_code == 200


def test_swap_pages_of_every_kind(board, client):
    for ref in ("VR1", "BT1", "F2", "D1", "Q1", "T1", "U1", "nobody", ""):
        for side in ("parts", "solder", "inside"):
            page = client.get(f"{reverse('swap', args=[board.pk])}?place={ref}&side={side}")
            assert page.status_code == 200, ref
    assert page.context["place"] is None


# An edit after


def filter_place(surveyed):
    """A place of a plain film part, chosen."""
    from idlebench.web.choose import services
    from idlebench.web.survey.services import add_line
    from idlebench.web.unit import fits

    add_line(surveyed, "C9 100n 63V film 7.2x6.5 p5 filter leaking")
    state, found = board_state(surveyed.pk)
    services.take(surveyed.pk, "C9", fits.ranking_for(state, found.find("C9")).best.part.part)


@pytest.mark.parametrize("edit", ["C9 mains x", "C9 X2", "C9 mains y"])
def test_a_plain_part_chosen_before_its_place_was_a_mains_place_is_not_swapped_in(surveyed, edit):
    from idlebench.web.survey.services import add_line

    discharge(surveyed.unit)
    filter_place(surveyed)
    add_line(surveyed, edit, change=True)
    with pytest.raises(Blocked) as shut:
        swapping.swapped(surveyed.pk, "C9")
    assert shut.value.reasons[0].rule == "chosen before"


@pytest.mark.parametrize("edit", ["C9 mains x", "C9 X2"])
def test_a_place_that_becomes_a_mains_place_after_its_swap_takes_no_power(surveyed, edit):
    from idlebench.core.prove import interlocks
    from idlebench.web.records.models import Swap
    from idlebench.web.survey.services import add_line

    discharge(surveyed.unit)
    filter_place(surveyed)
    swapping.swapped(surveyed.pk, "C9")
    assert not interlocks.mains_parts(unit_state(surveyed.unit_id).proof.boards)
    add_line(surveyed, edit, change=True)
    reasons = interlocks.mains_parts(unit_state(surveyed.unit_id).proof.boards)
    assert "has no such class" in reasons[0].text and "X1" in reasons[0].opens
    assert any(r.rule == "mains part" for r in interlocks.power(unit_state(surveyed.unit_id).proof, "limited"))
    Swap.objects.filter(part__ref="C9").update(safety="X2")
    assert not interlocks.mains_parts(unit_state(surveyed.unit_id).proof.boards)


def test_a_cell_chosen_for_a_place_that_nothing_charged_is_asked_again_when_it_is_charged(board):
    add_typed(board, "BT1 battery 3.6V note not charged")
    choosing.take_other(board.pk, "BT1", "LC3V6-1200L")
    add_typed(board, "BT1 battery note charged")
    with pytest.raises(Blocked) as shut:
        swapping.device_swapped(board.pk, "BT1")
    assert shut.value.reasons[0].rule == "chosen before"
    add_typed(board, "BT1 battery note not charged")
    choosing.take_other(board.pk, "BT1", "LC3V6-1200L")
    swapping.device_swapped(board.pk, "BT1")
    assert keys(board) == {"seat"}
    # said after the swap: the charge path is asked, and a cell without a diode cannot pass it
    add_typed(board, "BT1 battery note charged")
    assert keys(board) == {"seat", "charge"}


def test_a_fuse_chosen_before_another_marking_was_read_is_not_fitted(board):
    choosing.take_other(board.pk, "F2", first(board, "F2"))
    add_typed(board, "F2 fuse T 500mA 5x20")
    with pytest.raises(Blocked) as shut:
        swapping.device_swapped(board.pk, "F2")
    assert "is T (time-lag) 500 mA" in shut.value.reasons[0].text
