"""Parts that are no capacitors: listed, drawn, measured, judged, swapped, and kept as they were typed."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.web.proving import faulting
from idlebench.web.proving.evidence import marks_of
from idlebench.web.records.models import Instrument
from idlebench.web.survey import device_measuring, measuring
from idlebench.web.survey.typed import add_typed
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import board_state, unit_state
from tests.web.helpers import discharge
from tests.web.test_photos import picture

LINES = (
    "R5 2R2 1W 5% fusible at 10,10", "D1 1A 400V at 30,10", "Q1 npn at 50,12", "OK1 at 70,10", "RL1 12V 120ohm at 20,40", "S1 at 5,60",
    "L3 10u at 60,40", "HS1 heatsink", "TH1 10R at 80,10",
)  # fmt: skip


@pytest.fixture
def board(surveyed):
    for line in LINES:
        add_typed(surveyed, line)
    discharge(surveyed.unit)
    surveyed.refresh_from_db()
    return surveyed


def shot():
    return SimpleUploadedFile("p.jpg", picture())


def others(board):
    return board_state(board.pk)[1]


def test_the_run_walks_every_part_that_a_meter_can_tell_of(client, board):
    run = measuring.run_of(others(board))
    refs = [place.ref for place in run.places]
    assert set(refs) == {"C1", "C2", "C3", "R5", "D1", "Q1", "OK1", "RL1", "S1", "L3", "TH1"} and refs[0] == "R5", refs
    url = reverse("measure", args=[board.pk])
    typed = {
        "R5": "2.25",
        "D1": "0.58 OL",
        "Q1": "be 0.0 bc 0.0",
        "OK1": "OL OL",
        "RL1": "121 closed 0.1",
        "S1": "0.2 OL",
        "L3": "9.8uH 0.3",
        "TH1": "OL",
    }
    for ref, text in typed.items():
        went = client.post(url, {"part": ref, "reading": text})
        assert went.status_code == 302 and f"last={ref}" in went.url, ref
        assert f"Just read, {ref}" in " ".join(client.get(went.url).content.decode().split()), ref
    state = others(board)
    names = {d.ref: d.verdict.name for d in state.devices}
    assert {ref for ref, name in names.items() if name == "replace"} == {"Q1", "OK1", "TH1"}
    assert {ref for ref, name in names.items() if name == "sound"} == {"R5", "D1", "RL1", "S1", "L3"}
    # what is bad is a step of Swap, with its way; what is sound is not
    assert [d.ref for d in state.devices_to_swap] == ["Q1", "OK1", "TH1"]


def test_a_bad_reading_writes_nothing_and_says_what_goes_there(client, board):
    url = reverse("measure", args=[board.pk])
    before = board.others
    for ref, text, says in (
        ("R5", "purple", "a reading of a resistor"),
        ("R5", "1 2", "at most 1"),
        ("D1", "", "typed"),
        ("ZZ9", "1", "an old part of"),
    ):
        refused = client.post(url, {"part": ref, "reading": text})
        assert refused.status_code == 422 and says in refused.content.decode(), (ref, text)
    board.refresh_from_db()
    assert board.others == before


def test_nothing_is_measured_on_a_board_whose_stores_may_be_charged(client, surveyed):
    add_typed(surveyed, "R5 2R2")
    refused = client.post(reverse("measure", args=[surveyed.pk]), {"part": "R5", "reading": "2.2"})
    assert refused.status_code == 409
    surveyed.refresh_from_db()
    assert "reads" not in surveyed.others


def test_the_text_of_a_tester_goes_in_whole_or_line_by_line(board):
    state, here = board_state(board.pk)
    text = "R5: 2.21 Ohm\nQ1 NPN hFE=230 Uf=680mV\nC2 41.0 uF, ESR = 0.3, Vloss 1.4 %\nC99 10u\nnonsense"
    none = device_measuring.take_tester(state, here, text, good_rows=False)
    assert not none.taken and [n for n, *_ in none.left] == [4, 5]
    assert all(not d.device.reads for d in others(board).devices) and board.parts.get(ref="C2").esr == 6.8
    some = device_measuring.take_tester(state, here, text, good_rows=True)
    assert some.taken == ("R5", "Q1", "C2") and "C2 Vloss 1.4%" in some.unused
    now = others(board)
    assert now.find_device("R5").device.lifted and now.find_device("R5").verdict.name == "sound"
    assert now.find("C2").core.capacitance == pytest.approx(41e-6) and not now.find("C2").core.in_circuit


def test_an_open_capacitor_reads_ol(client, board):
    went = client.post(reverse("measure", args=[board.pk]), {"part": "C2", "reading": "OL"})
    page = client.get(went.url).content.decode()
    assert "ESR OL" in page and others(board).find("C2").verdict.name == "replace"


def test_survey_shows_each_with_what_a_sound_one_reads_and_takes_a_reading_there(client, board):
    url = reverse("survey", args=[board.pk])
    page = client.get(url, {"part": "R5"}).content.decode()
    assert "R5, judged" in page and "2.07–2.53 Ω" in page and 'data-part="R5"' in page and "Other parts, 9" in page
    went = client.post(url, {"line": "R5 reads OL", "change": "1", "on_panel": "1"})
    assert went.status_code == 302 and went.url.endswith("?part=R5")
    page = client.get(went.url).content.decode()
    assert "open, a sound one" in page and others(board).find_device("R5").verdict.name == "replace"
    # a verdict by hand stands before it, with its reason; what is plain to see stands before that
    client.post(url, {"line": "R5 judged sound note the trace was open not the part", "change": "1", "on_panel": "1"})
    assert others(board).find_device("R5").verdict.by_hand
    client.post(url, {"line": "R5 burnt", "change": "1", "on_panel": "1"})
    assert others(board).find_device("R5").verdict.name == "replace"
    # the whole line typed again takes back what was a slip
    client.post(url, {"line": "R5 resistor 2.2ohm at 10,10", "change": "1", "on_panel": "1", "whole": "1"})
    part = others(board).find_device("R5").device
    assert not part.reads and not part.judged and not part.looks and part.ohms == 2.2


def test_a_part_is_dragged_to_its_place(client, board):
    put = reverse("device_place", args=[board.pk, "HS1"])
    assert client.post(put, {"x": "33.4", "y": "21", "side": "parts"}).status_code == 200
    part = others(board).find_device("HS1").device
    assert (part.x, part.y) == (33.4, 21.0)
    for bad in ({"x": "5000", "y": "1"}, {"x": "", "y": "1"}, {"x": "4", "y": "nan"}):
        assert client.post(put, bad).status_code == 422, bad
    assert client.post(reverse("device_place", args=[board.pk, "R77"]), {"x": "1", "y": "1"}).status_code == 422
    assert client.get(put).status_code == 405


def test_a_bad_part_is_swapped_as_a_step_and_what_is_in_is_new(board):
    add_typed(board, "TH1 OL")
    place = others(board).find_device("TH1")
    assert place.to_swap and place.swap is None
    swapping.device_swapped(board.pk, "TH1", typed="NTC 10R 3A", read_out="OL")
    after = others(board).find_device("TH1")
    assert after.swap.item == "NTC 10R 3A" and after.swap.read_out == "OL"


def test_a_part_is_photographed_found_and_stands_on_the_sheet(client, board):
    unit = board.unit
    client.post(
        reverse("photos", args=[unit.pk]), {"photo": shot(), "to": f"device:{board.pk}:R5", "words": "burnt end"}
    )
    shown = unit.photos.get()
    assert (shown.pinned_to, shown.board_id) == ("PS-1 R5", board.pk)
    assert (
        f"/photo/{shown.pk}.small.jpg"
        in client.get(reverse("survey", args=[board.pk]), {"part": "R5"}).content.decode()
    )
    assert "R5" in client.get(reverse("photos", args=[unit.pk])).content.decode()
    refused = client.post(reverse("photos", args=[unit.pk]), {"photo": shot(), "to": f"device:{board.pk}:R77"})
    assert refused.status_code == 422 and unit.photos.count() == 1
    found = client.get(reverse("find"), {"q": "fusible"}).content.decode()
    assert f"{reverse('survey', args=[board.pk])}?part=R5" in found
    add_typed(board, "R5 OL")
    sheet = client.get(reverse("sheet", args=[unit.pk])).content.decode()
    assert "open, a sound one" in sheet and "PS-1 R5" in sheet


def test_what_was_measured_of_a_part_counts_among_the_suspects(board):
    add_typed(board, "D1 OL lifted")
    add_typed(board, "L3 reads 9.8uH 0.3 lifted")
    case = faulting.Case(unit_state(board.unit_id), board_state(board.pk)[1])
    marks = {mark.ref: mark for mark in marks_of(case)}
    assert marks["D1"].factor > 20 and "open" in marks["D1"].words and marks["PS-1 D1"].factor == marks["D1"].factor
    assert marks["L3"].factor < 0.5 and "measured sound" in marks["L3"].words
    assert "R5" not in marks


def test_the_survey_table_takes_every_kind_out_and_in(client, board):
    add_typed(board, "R5 reads 2.3 lifted")
    out = client.get(reverse("survey_csv", args=[board.pk])).content
    assert b"R5," in out and b"resistor" in out
    before = others(board).others
    board.others = ""
    board.save()
    file = SimpleUploadedFile("s.csv", out)
    assert client.post(reverse("survey_load", args=[board.pk]), {"file": file}).status_code == 302
    assert {d.ref: d for d in others(board).others} == {d.ref: d for d in before}
    # one row that cannot go keeps all out
    bad = SimpleUploadedFile(
        "s.csv", b"ref,value,kind,x,y\nR77,2k2,resistor,5,5\nC1,,relay,,\nR78,1k,resistor,9000,5\n"
    )
    refused = client.post(reverse("survey_load", args=[board.pk]), {"file": bad})
    assert refused.status_code == 422 and others(board).find_device("R77") is None
    bad.seek(0)
    client.post(reverse("survey_load", args=[board.pk]), {"file": bad, "good": "1"})
    assert others(board).find_device("R77") and others(board).find_device("R78") is None


class Meter:
    """A meter that answers one ohms reading, or lies out of all bounds."""

    says = 2.25

    def __init__(self, address):
        assert address.endswith("5025")

    def __enter__(self):
        return self

    def __exit__(self, *told):
        return None

    def read(self, kind):
        assert kind == "resistance"
        return self.says


@pytest.mark.parametrize(("says", "verdict"), [(2.25, "sound"), (float("inf"), "replace")])
def test_an_empty_reading_is_asked_of_the_named_meter(client, board, monkeypatch, says, verdict):
    monkeypatch.setattr(device_measuring, "Multimeter", type("Said", (Meter,), {"says": says}))
    url, job = reverse("measure", args=[board.pk]), board.unit.job
    # the simulated meter reads capacitors only, and says so; without one it is typed
    assert "typed" in client.post(url, {"part": "R5", "reading": ""}).content.decode()
    job.meter = "127.0.0.1:5025"
    job.save()
    refused = client.post(url, {"part": "R5", "reading": ""})
    assert refused.status_code == 422 and "a meter that is named" in refused.content.decode()
    Instrument.objects.create(name="bench meter", address="127.0.0.1:5025", kind="meter")
    assert client.post(url, {"part": "R5", "reading": ""}).status_code == 302
    assert others(board).find_device("R5").verdict.name == verdict
    # what is no resistance is typed
    assert client.post(url, {"part": "D1", "reading": ""}).status_code == 422
