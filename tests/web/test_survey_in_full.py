"""Survey by request, the rest of it: other parts, zones, nets, profiles, both sides, two windows, verdicts by hand, a run with a meter."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.core.refusal import BadInput, Blocked
from idlebench.instruments import LcrMeter, StandIn
from idlebench.web.records.models import BoardProfile, Entry, Instrument, Part, Unit
from idlebench.web.survey import profiles
from idlebench.web.survey.moving import move_part
from idlebench.web.survey.services import paste
from idlebench.web.unit.picture import OnBoard, PartRow
from idlebench.web.unit.state import board_state, unit_state
from tests import typed

from .helpers import discharge

pytestmark = pytest.mark.django_db


def url(name, board):
    return reverse(name, args=[board.pk])


def say(client, board, line):
    return client.post(url("survey", board), {"line": line}, follow=True).content.decode()


def part(ref):
    return Part.objects.get(ref=ref)


# other parts, zones, chips
def test_any_part_goes_in_by_the_quick_line(client, surveyed):
    for line in ("VR1 regulator 7805 1A at 80,40", "F1 fuse T 1A", "BT1 battery 3.6V at 70,20", "U7 counter 20x8 at 60,60 gnd 8", "heat 65 heatsink at 60,30 30x30"):  # fmt: skip
        assert "Listed:" in say(client, surveyed, line)
    board = board_state(surveyed.pk)[1]
    assert [o.ref for o in board.others] == ["VR1", "F1", "BT1"] and board.chips[0].ref == "U7"
    assert board.find("C2").core.ambient == 65.0 and board.find("C3").core.ambient is None
    html = client.get(url("survey", surveyed), {"part": "C2"}).content.decode()
    assert "which volts are marked?" in html and "65 °C from heatsink" in html
    assert "tab ground" in client.get(url("survey", surveyed), {"part": "VR1"}).content.decode()


def test_many_parts_of_any_kind_go_in_by_one_paste(client, unit):
    board = unit.boards.get(name="PS-1")
    lines = "C1 100u 16V\nF1 fuse T 1A 250V\nlid 30 at 60,40 100x60\nC2 10u 25V\nU3 timer 20x8"
    client.post(url("survey_paste", board), {"lines": lines})
    board.refresh_from_db()
    assert board.parts.count() == 2 and board.others and board.zones and board.chips


def test_three_hundred_lines_with_twelve_bad_ones_keep_the_bad_in_the_box(client, unit):
    board = unit.boards.get(name="PS-1")
    good = [f"C{i} 10u 16V" for i in range(1, 289)]
    bad = [f"C{i} lots" for i in range(501, 507)] + [
        "F1 fuse 7805",
        "heat at 1,1 5x5",
        "C1 1u 16V",
        "VR9 regulator at",
        "C900 -5u",
        "Z",
    ]
    response = client.post(url("survey_paste", board), {"lines": "\n".join([*good, *bad])})
    html = response.content.decode()
    assert response.status_code == 422 and board.parts.count() == 0 and html.count("<li>Line ") == 12
    response = client.post(url("survey_paste", board), {"lines": "\n".join([*good, *bad]), "good": "1"})
    html = response.content.decode()
    assert board.parts.count() == 288 and "288 lines taken" in html
    box = html[html.index("<textarea") : html.index("</textarea>")]
    assert all(line in box for line in bad) and "C288 " not in box


@pytest.mark.parametrize(("line", "said"), [("heat at 4,4 5x5", "a temperature"), ("F1 fuse 7805", "a regulator"), ("VR1 regulator at", "something after")])  # fmt: skip
def test_a_line_of_these_that_cannot_be_read_stays_in_its_field(client, surveyed, line, said):
    response = client.post(url("survey", surveyed), {"line": line})
    assert response.status_code == 422 and said in response.content.decode() and line in response.content.decode()
    assert said in client.get(url("survey_read", surveyed), {"line": line}).content.decode()


def test_what_is_taken_off_waits_in_the_box(client, surveyed):
    say(client, surveyed, "VR1 regulator 7805 at 80,40")
    response = client.post(url("survey_drop", surveyed), {"line": "VR1 regulator 7805 at 80,40"}, follow=True)
    assert 'value="VR1 regulator 7805 at 80,40"' in response.content.decode()
    surveyed.refresh_from_db()
    assert surveyed.others == ""
    assert client.post(url("survey_drop", surveyed), {"line": "VR1"}).status_code == 422


def test_a_leaking_battery_comes_out_before_its_tick(client, surveyed):
    say(client, surveyed, "BT1 battery 3.6V")
    say(client, surveyed, "BT1 battery leaking")
    surveyed.refresh_from_db()
    assert surveyed.others == "BT1 battery 3.6V leaking", "the later line adds"
    intake = reverse("intake", args=[surveyed.unit_id])
    client.post(reverse("look", args=[surveyed.unit_id]), {"key": "battery"})
    assert "BT1 is out" in client.get(intake).content.decode()
    refused = client.post(reverse("look", args=[surveyed.unit_id]), {"key": "battery"})
    assert refused.status_code == 409 and "BT1 on PS-1 leaks" in refused.content.decode()
    charged = client.post(url("battery_out", surveyed), {"ref": "BT1"})
    assert charged.status_code == 409 and "C1 on PS-1 is not logged as discharged" in charged.content.decode()
    discharge(surveyed.unit)
    client.post(url("battery_out", surveyed), {"ref": "BT1"})
    assert "BT1 is out" not in client.get(intake).content.decode()
    assert client.post(reverse("look", args=[surveyed.unit_id]), {"key": "battery"}).status_code == 302
    assert client.post(url("battery_out", surveyed), {"ref": "BT1"}).status_code == 422


# the other end side, rows
def test_the_solder_side_is_mirrored_and_a_part_put_there_stands_where_it_was_seen(client, surveyed):
    c3 = part("C3")
    client.post(
        reverse("part_place", args=[c3.pk]), {"x": "20", "y": "30", "side": "solder"}, headers={"HX-Request": "true"}
    )
    c3.refresh_from_db()
    assert (c3.x, c3.y, c3.side) == (100.0, 30.0, "solder")
    html = client.get(url("survey", surveyed), {"side": "solder"}).content.decode()
    assert 'data-x="20"' in html and html.count("ghost") == 2 and "solder side" in html
    assert client.post(reverse("part_place", args=[c3.pk]), {"x": "1", "y": "1", "side": "up"}).status_code == 422


def test_a_row_is_copied_in_one_go(client, surveyed):
    response = client.post(reverse("part_copy", args=[part("C2").pk]), {"more": "3", "to": "105,30"})
    assert response.status_code == 302
    assert [(p.ref, p.x, p.esr) for p in Part.objects.filter(ref__in=["C4", "C5", "C6"])] == [("C4", 75.0, None), ("C5", 90.0, None), ("C6", 105.0, None)]  # fmt: skip
    for more, to in (("", "5,5"), ("x", "5,5"), ("3", "999,5"), ("3", ""), ("0", "5,5")):
        response = client.post(reverse("part_copy", args=[part("C2").pk]), {"more": more, "to": to})
        assert response.status_code == 422, (more, to)
    assert Part.objects.count() == 6


# nets and profiles
def test_nets_give_pins_and_rails(client, surveyed):
    file = SimpleUploadedFile("n.csv", b"net,ref,pin\n+5V,C3,1\nGND,U5,7\n+5V,U5,14\n+5V,C2,1\n")
    response = client.post(url("survey_nets", surveyed), {"file": file}, follow=True)
    assert "2 pins to test" in response.content.decode()
    surveyed.refresh_from_db()
    assert part("C3").rail == "+5V" and "U5" in surveyed.chips and surveyed.nets.startswith("net,")
    bad = SimpleUploadedFile("n.csv", b"net,ref,pin\n,C3,1\n+5V,U6,14\n")
    response = client.post(url("survey_nets", surveyed), {"file": bad})
    assert response.status_code == 422 and "Line 2" in response.content.decode()
    assert client.post(url("survey_nets", surveyed)).status_code == 422


@pytest.fixture
def second(surveyed):
    """Unit B with a bare board of the same name."""
    unit = Unit.objects.create(job=surveyed.unit.job, name="B")
    return typed.add_board(unit, {"name": "PS-1"})


def test_a_profile_is_saved_applied_and_differs(client, surveyed, second):
    assert client.post(url("profile", surveyed), {"do": "save"}).status_code == 302
    client.post(url("profile", second), {"do": "apply"})
    second.refresh_from_db()
    assert second.parts.count() == 3 and second.expected == 3 and second.rails == surveyed.rails and second.width == 120
    assert second.fuse == "T 1 A 250 V" and second.supply == "switching"
    assert not second.parts.exclude(looks="").exists(), "nothing of the other end unit's findings came along"
    second.parts.filter(ref="C1").update(value=4.7e-3)
    second.parts.filter(ref="C2").update(looks="missing")
    paste(second, "C9 1u 50V", good_rows=False)
    html = client.get(url("survey", second)).content.decode()
    assert "1 missing · 1 extra · 1 changed" in html and "value 4700 µF, should be 2200 µF" in html


def test_a_profile_goes_out_as_a_file_and_comes_in_again(client, surveyed):
    data = client.get(url("profile", surveyed)).content
    assert json.loads(data)["board"] == "PS-1"
    client.post(url("profile", surveyed), {"do": "take", "file": SimpleUploadedFile("p.json", data)})
    assert BoardProfile.objects.get().board == "PS-1"
    for name, content, said in (
        ("other", data.replace(b'"PS-1"', b'"VM-12"'), "one of PS-1"),
        ("junk", b"{]", "as it is saved from Survey"),
    ):
        response = client.post(url("profile", surveyed), {"do": "take", "file": SimpleUploadedFile(name, content)})
        assert response.status_code == 422 and said in response.content.decode()
    assert client.post(url("profile", surveyed), {"do": "burn"}).status_code == 422


def test_an_empty_board_is_no_profile_and_none_is_applied(surveyed, second):
    with pytest.raises(BadInput, match="parts listed"):
        profiles.save_profile(second)
    with pytest.raises(BadInput, match="saved profile"):
        profiles.apply_profile(second)


# two windows
@pytest.mark.parametrize(
    ("name", "typed"),
    [("part_turn", {}), ("part_look", {"looks": "sound"}), ("part_verdict", {"verdict": "doubtful", "reason": "it smells odd"})],
)  # fmt: skip
def test_the_second_of_two_windows_is_told_and_nothing_is_lost(client, surveyed, name, typed):
    c2 = part("C2")
    seen = str(c2.version)
    client.post(url("survey", surveyed), {"line": "C2 esr 9.5", "change": "1", "seen": seen})
    response = client.post(reverse(name, args=[c2.pk]), {**typed, "seen": seen})
    assert response.status_code == 422 and "changed in another window" in response.content.decode()
    c2.refresh_from_db()
    assert c2.esr == 9.5 and c2.angle == 0 and not c2.looks and not c2.by_hand


def test_what_the_second_window_typed_stays_and_goes_in_when_sent_again(client, surveyed):
    seen = str(part("C2").version)
    client.post(url("survey", surveyed), {"line": "C2 esr 9.5", "change": "1", "seen": seen})
    response = client.post(url("survey", surveyed), {"line": "C2 47u", "change": "1", "seen": seen})
    html = response.content.decode()
    assert response.status_code == 422 and 'value="C2 47u"' in html and "ESR 9.5" in html
    now = str(part("C2").version)
    assert f'name="seen" value="{now}"' in html
    assert client.post(url("survey", surveyed), {"line": "C2 47u", "change": "1", "seen": now}).status_code == 302
    moved = client.post(reverse("part_place", args=[part("C2").pk]), {"x": "5", "y": "5", "seen": seen}, headers={"HX-Request": "true"})  # fmt: skip
    assert moved.status_code == 422 and part("C2").x == 60.0


# verdicts by hand
def test_a_verdict_by_hand_needs_a_reason_and_is_undone(client, surveyed):
    page = reverse("part_verdict", args=[part("C2").pk])
    for text in (
        {"verdict": "sound"},
        {"verdict": "sound", "reason": "fine"},
        {"verdict": "great", "reason": "I like it"},
    ):
        assert client.post(page, text).status_code == 422
    assert client.post(page, {"verdict": "sound", "reason": "read 0.4 Ω on a second meter"}).status_code == 302
    verdict = board_state(surveyed.pk)[1].find("C2").verdict
    assert verdict.by_hand and verdict.name == "sound" and "second meter" in verdict.leading
    client.post(url("survey_undo", surveyed))
    assert not part("C2").by_hand
    leaking = client.post(
        reverse("part_verdict", args=[part("C1").pk]), {"verdict": "sound", "reason": "looks fine to me"}
    )
    assert leaking.status_code == 422 and "C1 is leaking" in leaking.content.decode()


def test_strict_and_lenient_stand_beside_each_other(client, surveyed):
    client.post(url("survey", surveyed), {"line": "C2 esr 4.0", "change": "1"})
    html = client.get(url("survey", surveyed), {"part": "C2"}).content.decode()
    assert "strict says" in html and "lenient says" in html


def test_the_heat_map_is_drawn_with_its_words(client, surveyed):
    html = client.get(url("survey", surveyed), {"heat": "1"}).content.decode()
    assert 'class="heat' in html and "bad or doubtful" in html


# parts between units
def test_a_part_moves_between_units_and_both_logs_say_so(client, surveyed, second):
    paste(second, "C2 100u 16V looks missing at 5,5", good_rows=False)
    refused = client.post(reverse("part_give", args=[part_on(surveyed, "C2").pk]), {"to": second.pk})
    assert refused.status_code == 409 and "C1 on PS-1 is not logged as discharged" in refused.content.decode()
    discharge(surveyed.unit)
    response = client.post(reverse("part_give", args=[part_on(surveyed, "C2").pk]), {"to": second.pk})
    assert response.status_code == 302
    given, left = part_on(second, "C2"), part_on(surveyed, "C2")
    assert (
        given.esr == 6.8
        and given.x == 5.0
        and "from unit A" in given.note
        and left.looks == "missing"
        and left.esr is None
    )
    assert (
        Entry.objects.filter(kind="move", unit=surveyed.unit).exists()
        and Entry.objects.filter(kind="move", unit=second.unit).exists()
    )


def part_on(board, ref):
    return board.parts.get(ref=ref)


def test_a_part_is_not_given_where_one_stands_or_nothing_is_left(client, surveyed, second):
    paste(second, "C2 100u 16V sound", good_rows=False)
    discharge(surveyed.unit)
    for to, said in (
        (second.pk, "a place that is empty"),
        (surveyed.pk, "another unit"),
        ("x", "a board of another unit"),
    ):
        response = client.post(reverse("part_give", args=[part_on(surveyed, "C2").pk]), {"to": to})
        assert response.status_code == 422 and said in response.content.decode()
    surveyed.parts.filter(ref="C3").update(looks="missing")
    with pytest.raises(BadInput, match="that is there"):
        move_part(part_on(surveyed, "C3"), second)
    Unit.objects.filter(pk=second.unit_id).update(handed_over="2026-01-01T00:00Z")
    second.unit.refresh_from_db()
    with pytest.raises(Blocked):
        move_part(part_on(surveyed, "C1"), second)


# a measuring run
@pytest.fixture
def meter(surveyed):
    with StandIn() as server:
        Instrument.objects.create(name="LCR meter", address=server.address)
        typed.change_job(surveyed.unit.job, {**JOB, "meter": server.address})
        yield server


JOB = {"name": "Lamp room clock", "machine": "Tide clock", "made": "1984"}


def measure(client, board, **typed):
    return client.post(url("measure", board), typed, follow=True)


def test_a_reading_comes_from_the_meter_and_the_next_place_lights_up(client, surveyed, meter):
    assert "Measure C1" in client.get(url("measure", surveyed)).content.decode()
    refused = measure(client, surveyed, part="C1")
    assert refused.status_code == 409 and "Read the volts left across it" in refused.content.decode()
    assert measure(client, surveyed, part="C1", left="4").status_code == 409
    html = measure(client, surveyed, part="C1", left="0.3").content.decode()
    assert "Measure C3" in html and "Just read, C1" in html
    c1 = part("C1")
    assert c1.esr and c1.capacitance and c1.esr_frequency == 120.0 and not c1.in_circuit
    assert "300 mV left before" in Entry.objects.first().text


def test_volts_read_in_a_run_stand_for_the_discharge(client, surveyed):
    """Beside a store that nobody has read no meter is put on the next part."""
    beside = measure(client, surveyed, part="C3", reading="6.8")
    assert beside.status_code == 409 and "C1 on PS-1 is not logged as discharged" in beside.content.decode()
    assert measure(client, surveyed, part="C1", reading="0.2", left="0.3").status_code == 200
    assert measure(client, surveyed, part="C3", reading="6.8").status_code == 200 and part("C3").esr == 6.8
    check = next(c for c in unit_state(surveyed.unit_id).proof.discharges)
    assert unit_state(surveyed.unit_id).reading_of(check).typed == "0.3"


def test_in_circuit_the_neighbours_read_along_and_the_capacitance_is_not_kept(client, surveyed, meter):
    discharge(surveyed.unit)
    paste(surveyed, "C7 10u 16V decoupling rail +5V sound", good_rows=False)
    measure(client, surveyed, part="C7", in_circuit="on")
    inside = part("C7").esr
    assert part("C7").capacitance is None and part("C7").in_circuit
    assert "in circuit" in client.get(url("survey", surveyed), {"part": "C7"}).content.decode()
    measure(client, surveyed, part="C7")
    assert part("C7").esr > 2 * inside, "alone it reads its own ESR"
    assert not part("C7").in_circuit and part("C7").capacitance


@pytest.mark.parametrize(("fault", "said"), [("garbage", "2 numbers"), ("overload", "overload"), ("silent", "no answer to FETC?")])  # fmt: skip
def test_a_meter_that_misbehaves_writes_nothing(client, surveyed, meter, monkeypatch, fault, said):
    discharge(surveyed.unit)
    monkeypatch.setattr(LcrMeter.__init__, "__defaults__", (0.3,))
    meter.fault = fault
    response = measure(client, surveyed, part="C3")
    assert (
        response.status_code == 422 and said in response.content.decode() and "Measure C3" in response.content.decode()
    )
    assert part("C3").esr is None


def test_a_meter_that_is_not_there_is_told_of(client, surveyed):
    discharge(surveyed.unit)
    assert "a meter&#x27;s address" in measure(client, surveyed, part="C3").content.decode()
    Instrument.objects.create(name="LCR meter", address="127.0.0.1:9")
    typed.change_job(surveyed.unit.job, {**JOB, "meter": "127.0.0.1:9"})
    response = measure(client, surveyed, part="C3")
    assert response.status_code == 422 and "a meter that listens there" in response.content.decode()


@pytest.mark.parametrize(("typed", "esr", "capacitance"), [("6.8", 6.8, None), ("0.21 88n", 0.21, 88e-9), ("210m", 0.21, None)])  # fmt: skip
def test_a_reading_may_be_typed(client, surveyed, typed, esr, capacitance):
    discharge(surveyed.unit)
    measure(client, surveyed, part="C3", reading=typed)
    found = part("C3")
    assert found.esr == pytest.approx(esr) and found.capacitance == (
        pytest.approx(capacitance) if capacitance else None
    )


@pytest.mark.parametrize("typed", ["lots", "1 2 3", "-4", "6.8 -3u"])
def test_a_typed_reading_that_cannot_be_stays(client, surveyed, typed):
    discharge(surveyed.unit)
    response = measure(client, surveyed, part="C3", reading=typed)
    assert response.status_code == 422 and typed in response.content.decode() and part("C3").esr is None


def test_nothing_is_measured_while_there_is_power(client, surveyed):
    from .helpers import pass_up_to, power_at, settle

    settle(surveyed.unit)
    paste(surveyed, "C7 10u 16V sound", good_rows=False)
    pass_up_to(surveyed.unit, "full")
    power_at(surveyed.unit, "full")
    response = measure(client, surveyed, part="C7", reading="2")
    assert response.status_code == 409 and "has power" in response.content.decode()


def test_text_of_people_stays_text_on_the_picture_and_in_the_list():
    hostile = '<b a="1">&'
    told = OnBoard(
        href="?part=C1",
        css="v-sound",
        ref="C1",
        pk="1",
        seen="1",
        x="2",
        y="3",
        label_y="4",
        says=hostile,
        chosen="",
        body="<circle/>",
    ).markup
    row = PartRow(
        ref="C1",
        href="?part=C1&side=solder",
        here="",
        gable="<svg/>",
        marked=hostile,
        role=hostile,
        shape="ok",
        state=hostile,
    ).markup
    safe = "&lt;b a=&quot;1&quot;&gt;&amp;"
    assert f'aria-label="{safe}"' in told and "<circle/>" in told
    assert row.count(safe) == 3 and hostile not in row and "part=C1&amp;side" in row
