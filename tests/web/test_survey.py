"""Survey by request: lines, pastes, tables, bad input; nothing lost, nothing half-written."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.core.board.tables import read_survey
from idlebench.web.records.models import Entry, Part, Removed

pytestmark = pytest.mark.django_db


def url(name, board):
    return reverse(name, args=[board.pk])


def test_a_line_becomes_a_part_and_a_log_entry(client, surveyed):
    response = client.post(
        url("survey", surveyed), {"line": "C22 100u 10V 6.3x11 p2.5 esr 6.8 sound store"}, follow=True
    )
    part = Part.objects.get(ref="C22")
    assert (part.value, part.esr, part.role) == (pytest.approx(1e-4), 6.8, "decoupling")
    assert "C22, judged" in response.content.decode() and "1.8 times the strict limit" in response.content.decode()
    assert "C22 100u" in Entry.objects.first().text


def test_a_line_without_a_value_adds_to_the_part(client, surveyed):
    client.post(url("survey", surveyed), {"line": "c3 cap 8n leak 5u"})
    part = Part.objects.get(ref="C3")
    assert (part.capacitance, part.leakage, part.value) == (
        pytest.approx(8e-9),
        pytest.approx(5e-6),
        pytest.approx(1e-7),
    )


def test_a_listed_part_is_corrected_where_it_is_selected(client, surveyed):
    assert client.post(url("survey", surveyed), {"line": "C2 47u 25V", "change": "1"}).status_code == 302
    part = Part.objects.get(ref="C2")
    assert (part.value, part.volts, part.esr) == (pytest.approx(47e-6), 25, 6.8)
    client.post(url("survey_undo", surveyed))
    part.refresh_from_db()
    assert part.value == pytest.approx(100e-6)


@pytest.mark.parametrize(
    ("line", "said"),
    [("C2 100u 16V", "listed as 100 µF"), ("C50 esr 3", "not listed yet"), ("C50 much", "a value"), ("C50 220 ceramic", "22 pF or 220 pF"),
     ("C50 100u 0V", "more than 0 V"), ("C50 -5u", "it takes"), ("", "a line such as"), ("C50 100u <b>esr", "")],
)  # fmt: skip
def test_a_line_that_cannot_be_taken_stays_in_its_field(client, surveyed, line, said):
    response = client.post(url("survey", surveyed), {"line": line})
    html = response.content.decode()
    if said:
        assert response.status_code == 422 and said in html
        assert Part.objects.count() == 3
    if line and said:
        assert line.replace("<", "&lt;") in html


def test_live_reading(client, surveyed):
    page = url("survey_read", surveyed)
    html = client.get(page, {"line": "C22 100u 10V esr 6.8"}).content.decode()
    assert "at most 2.52 Ω" in html
    assert "listed as" in client.get(page, {"line": "C2 100u"}).content.decode()
    assert "Reference, value" in client.get(page, {"line": ""}).content.decode()


def test_a_paste_is_all_or_nothing_until_told(client, surveyed):
    text = "C10 10u 16V\nC11 lots\nC12 22u 16V\nC10 1u\nC3 esr 1"
    response = client.post(url("survey_paste", surveyed), {"lines": text})
    html = response.content.decode()
    assert response.status_code == 422 and Part.objects.count() == 3
    assert "Line 2" in html and "Line 4" in html and "C12 22u 16V" in html, "the whole sheet is still in the box"
    response = client.post(url("survey_paste", surveyed), {"lines": text, "good": "1"})
    assert set(Part.objects.values_list("ref", flat=True)) == {"C1", "C2", "C3", "C10", "C12"}
    assert "C11 lots\nC10 1u</textarea>" in response.content.decode(), "only the bad lines stay"


def upload(client, board, data: bytes, **extra):
    return client.post(url("survey_load", board), {"file": SimpleUploadedFile("s.csv", data, "text/csv"), **extra})


def test_a_table_in_and_out(client, surveyed):
    assert upload(client, surveyed, b"ref,value,volts\nC2,47u,16\nC8,10u,25\n").status_code == 302
    assert Part.objects.get(ref="C2").value == pytest.approx(47e-6)
    out = client.get(url("survey_csv", surveyed))
    parts = {p.ref: p for p in read_survey(out.content).parts}
    assert set(parts) == {"C1", "C2", "C3", "C8"}
    assert parts["C1"] == Part.objects.get(ref="C1").to_core()
    assert "attachment" in out.headers["Content-Disposition"]


@pytest.mark.parametrize(
    ("data", "said"),
    [(b"ref,value\nC8,10u\nC9,lots\n", "Line 3, column value"), ("ref,value\nC8,10µF\n".encode("latin-1"), "UTF-8"), (b"", "empty"),
     (b"ref,value\nC8,1u\nC8,2u\n", "line 2 already"), (b"ref,value,volts\nC8,1u,0\n", "more than 0 V"), (b"x" * 9_000_000, "at most 8 MB")],
)  # fmt: skip
def test_a_bad_table_takes_nothing(client, surveyed, data, said):
    response = upload(client, surveyed, data)
    assert response.status_code == 422 and said in response.content.decode()
    assert Part.objects.count() == 3


def test_the_good_rows_when_told(client, surveyed):
    response = upload(client, surveyed, b"ref,value\nC8,10u\nC9,lots\n", good="on")
    assert Part.objects.filter(ref="C8").exists() and "Line 3" in response.content.decode()


def test_a_table_of_50_megabytes_is_refused(client, surveyed):
    response = upload(client, surveyed, b"ref,value\n" + b"C1,1u\n" * 8_400_000)
    assert response.status_code == 422 and "at most 8 MB" in response.content.decode()


def test_no_file_is_said(client, surveyed):
    assert "Choose one first" in client.post(url("survey_load", surveyed)).content.decode()


def test_place_turn_look_remove_and_take_back(client, surveyed):
    part = Part.objects.get(ref="C2")
    assert (
        client.post(
            reverse("part_place", args=[part.pk]), {"x": "44.5", "y": "12"}, headers={"HX-Request": "true"}
        ).status_code
        == 200
    )
    part.refresh_from_db()
    assert (part.x, part.y) == (44.5, 12)
    client.post(reverse("part_place", args=[part.pk]), {"x": "444", "y": "12"})
    part.refresh_from_db()
    assert part.x is None, "off the board is back in the tray"
    assert client.post(reverse("part_place", args=[part.pk]), {"x": "left", "y": "0"}).status_code == 422
    client.post(reverse("part_turn", args=[part.pk]))
    client.post(reverse("part_look", args=[part.pk]), {"looks": "bulging"})
    part.refresh_from_db()
    assert (part.angle, part.looks) == (90, "bulging")
    assert client.post(reverse("part_look", args=[part.pk]), {"looks": "happy"}).status_code == 422
    client.post(reverse("remove", args=["part", part.pk]))
    assert not Part.objects.filter(ref="C2").exists()
    client.post(reverse("bring_back", args=[Removed.objects.get().pk]))
    back = Part.objects.get(ref="C2")
    assert (back.looks, back.angle, back.esr) == ("bulging", 90, 6.8)
    for _ in range(2):
        client.post(url("survey_undo", surveyed))
    back.refresh_from_db()
    assert (back.looks, back.angle) == ("", 0)


def test_taking_back_goes_to_the_beginning_and_then_says_so(client, surveyed):
    for _ in range(3):
        assert client.post(url("survey_undo", surveyed)).status_code == 302
    assert Part.objects.count() == 0
    assert client.post(url("survey_undo", surveyed)).status_code == 422


@pytest.fixture
def bare(unit):
    from tests import typed

    return typed.add_board(unit, {"name": "MB-9", "width": "200", "height": "140"})


@pytest.mark.parametrize(
    ("line", "kept"),
    [
        ("R5 resistor 2R2 1W open", "R5 resistor 2.2ohm reads ohms OL note 1W"), ("R7 2R2", "R7 resistor 2.2ohm"), ("L3 10u choke", "L3 choke note 10u"),
        ("D12 1n4148", "D12 diode note 1n4148"), ("R5 is diode 1A", "R5 diode 1A"),
    ],
)  # fmt: skip
def test_a_part_that_is_no_capacitor_is_kept_with_its_words_and_goes_to_no_choice(client, bare, line, kept):
    url = reverse("survey", args=[bare.pk])
    assert client.post(url, {"line": line}).status_code == 302
    bare.refresh_from_db()
    assert kept in bare.others and not bare.parts.exists()
    assert client.get(reverse("choose", args=[bare.pk])).status_code == 200
    # the same by many lines at once
    other = line.replace("5", "8").replace("7", "9").replace("L3", "L4").replace("D12", "D13")
    assert client.post(reverse("survey_paste", args=[bare.pk]), {"lines": other}).status_code == 302
    bare.refresh_from_db()
    assert len(bare.others.splitlines()) == 2 and not bare.parts.exists()


def test_nothing_typed_for_one_thing_overwrites_another(client, bare):
    url = reverse("survey", args=[bare.pk])
    for line in ("U1 processor 46x14 at 100,52", "D4 diode 1A 400V", "C5 100u 16V"):
        assert client.post(url, {"line": line}).status_code == 302
    for line, said in (
        ("U1 heatsink 14x14 glued", "HS1 heatsink"),
        ("C5 diode 1A", "C5 as it is listed, a capacitor"),
        ("U1 is heatsink 9x9", "HS1 heatsink"),
    ):
        refused = client.post(url, {"line": line})
        assert refused.status_code == 422 and said in refused.content.decode(), line
        assert client.post(reverse("survey_paste", args=[bare.pk]), {"lines": line}).status_code == 422
    said = client.post(url, {"line": "D4 0.42V"}, follow=True).content.decode()
    bare.refresh_from_db()
    assert bare.chips == "U1 processor 46x14 at 100,52" and bare.others == "D4 diode 1A 400V reads drop 0.42"
    # told from what is kept, not from the line
    assert "D4, diode: 1 A 400 V" in said
    assert "marking not read" not in client.post(url, {"line": "D4 at 20,20"}, follow=True).content.decode()
    # and a line that is asked about lists nothing
    assert client.post(url, {"line": "X1 0.1"}).status_code == 422 and bare.parts.count() == 1


def test_what_was_not_read_is_shown_at_once(client, bare):
    told = client.get(reverse("survey_read", args=[bare.pk]), {"line": "R5 2R2 purple"}).content.decode()
    assert "not understood, saved as a note: purple" in told and "resistor" in told
    assert (
        "not understood, saved as a note: purple"
        in client.get(reverse("survey_read", args=[bare.pk]), {"line": "C5 100u purple"}).content.decode()
    )


def test_an_odd_value_is_kept_only_when_it_is_meant(client, bare):
    url = reverse("survey", args=[bare.pk])
    refused = client.post(url, {"line": "C5 film 220u"})
    assert refused.status_code == 422 and "add the word sure" in refused.content.decode() and not bare.parts.exists()
    assert client.post(reverse("survey_paste", args=[bare.pk]), {"lines": "C5 film 220u"}).status_code == 422
    assert client.post(url, {"line": "C5 film 220u sure"}).status_code == 302
    assert "sure" not in bare.parts.get().note
    # a table keeps what it says, and the page asks; so it does of what older versions read in farads
    Part.objects.create(board=bare, ref="C22", value=0.1, kind="film", volts=250.0)
    page = client.get(url).content.decode()
    assert "is it 0.1 µF?" in page and "C5: 220 µF is more than any film part is made for" in page
    assert client.post(url, {"line": "C9 8+8 450"}).status_code == 302
    assert sorted(bare.parts.values_list("ref", flat=True)) == ["C22", "C5", "C9A", "C9B"]
