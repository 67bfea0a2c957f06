"""What is handed over: both sheets as PDF, what they tell, and the day of the next look in the calendar."""

import io
import re
import shutil
import subprocess
import zipfile
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar
from PIL import Image

from idlebench.core.refusal import BadInput
from idlebench.web.keep import leaving
from idlebench.web.keep.bundle import take_in
from idlebench.web.ledger import services
from idlebench.web.ledger.narrative import story
from idlebench.web.ledger.sheets import sheet
from idlebench.web.ledger.workshop import cost_of
from idlebench.web.photos.services import take_photo
from idlebench.web.records.models import (
    Board,
    CatalogueItem,
    Cause,
    DismantleStep,
    Job,
    Mend,
    Part,
    Photo,
    Unit,
    Workshop,
)
from idlebench.web.unit.state import unit_state

pytestmark = pytest.mark.django_db
TOOLS = [name for name in ("pdfinfo", "pdffonts", "pdftotext") if not shutil.which(name)]


@pytest.fixture
def handed(demo):
    """Unit A of the demo, handed over."""
    return Unit.objects.get(name="A", job__machine="Tidewriter 80")


def made(client, unit, name, tmp_path):
    """A sheet as PDF, and what Debian's tools say of it: pages, tagged, its fonts' names with whether each is inside, its text."""
    assert not TOOLS, "make test installs them"
    data = client.get(reverse(name, args=[unit.pk])).content
    path = tmp_path / f"{name}.pdf"
    path.write_bytes(data)

    def told(*words):
        return subprocess.run([*words, str(path)], capture_output=True, text=True, check=True).stdout

    info = dict(line.split(":", 1) for line in told("pdfinfo").splitlines() if ":" in line)
    fonts = [line.split() for line in told("pdffonts").splitlines()[2:]]
    text = subprocess.run(["pdftotext", str(path), "-"], capture_output=True, text=True, check=True).stdout
    return data, info, {f[0].split("+")[1]: f[-5] for f in fonts}, text


OURS = {"AHN", "AHN-Bold", "AHM", "AHM-Bold", "Signs", "Signs-mono"}


def test_the_whole_sheet_is_tagged_has_bookmarks_and_our_fonts_only(client, handed, tmp_path):
    from pypdf import PdfReader

    data, info, fonts, text = made(client, handed, "sheet_pdf", tmp_path)
    assert info["Tagged"].strip() == "yes" and len(data) < 1_000_000
    assert set(fonts) <= OURS and set(fonts.values()) == {"yes"}
    outline = re.findall(r"'/Title': '([^']*)'", str(PdfReader(tmp_path / "sheet_pdf.pdf").outline))
    assert any(title.startswith("Replaced, 40") for title in outline)
    order = [
        text.index(words) for words in ("Hand-over sheet, unit A", "Rails under power", "Replaced, 40", "Cold checks")
    ]
    assert order == sorted(order)
    assert "Expected of its parts" in text and "4.75 V to 5.25 V" in text and "Ω" in text


def test_the_owners_sheet_is_one_page_however_much_there_is(client, handed, tmp_path):
    _, info, fonts, text = made(client, handed, "owner_pdf", tmp_path)
    assert info["Pages"].strip() == "1" and info["Tagged"].strip() == "yes" and set(fonts) <= OURS
    assert "34 electrolytic capacitors renewed" in text and "may be used" in text
    board = handed.boards.first()
    for number in range(40):
        Board.objects.create(
            unit=handed, name=f"X-{number}", title="A board with a long name of its own", replaced="by another " * 20
        )
        Cause.objects.create(
            unit=handed, board=board, ref=f"C{number}", failure="dried out " * 6, outcome="confirmed", at=timezone.now()
        )
    Unit.objects.filter(pk=handed.pk).update(symptoms="It hums. " * 200)
    _, info, _, text = made(client, handed, "owner_pdf", tmp_path)
    assert info["Pages"].strip() == "1" and re.search(r"\d+ more lines", text)


def test_a_sheet_of_400_parts_and_60_photos_in_any_alphabet(client, handed, tmp_path):
    board = handed.boards.get(name="MB-80")
    Part.objects.bulk_create(
        Part(board=board, ref=f"C{1000 + n}", value=1e-5, volts=16.0, looks="sound") for n in range(351)
    )
    Job.objects.filter(pk=handed.job_id).update(owner="بيت المنارة · Ωμέγα", name="Ж & <b>")
    services.reopen(handed.pk, "photos are added")
    picture = tmp_path / "p.jpg"
    Image.effect_noise((1600, 1200), 60).convert("RGB").save(picture)
    first, _ = take_photo(handed, picture.read_bytes(), "p.jpg", words="before: the board")
    Photo.objects.filter(pk=first.pk).update(at=timezone.now() - timedelta(days=4000))
    Photo.objects.bulk_create(
        Photo(unit=handed, file=f"{n:024x}.jpg", width=1600, height=1200, at=timezone.now(), words=f"after {n}")
        for n in range(59)
    )
    for photo in Photo.objects.exclude(pk=first.pk):
        shutil.copy(first.path, photo.path)
        shutil.copy(first.small, photo.small)
    data, info, _, text = made(client, handed, "sheet_pdf", tmp_path)
    assert "after 58" in text and "Before, 1 photo" in text and "After, 59 photos" in text
    assert "C1350" in text and "Ж & <b>" in text and len(data) < 8_000_000
    assert int(info["Pages"]) > 8


def test_the_day_of_the_next_look_is_kept_goes_into_the_calendar_and_travels(client, handed, tmp_path):
    assert handed.next_look is not None and handed.next_look > timezone.localdate() + timedelta(days=365)
    assert "seals age" in handed.next_look_of
    page = client.get(reverse("calendar")).content.decode()
    assert f"{handed.next_look.day} {handed.next_look:%b %Y}" in page and handed.next_look_of.split(":")[0] in page
    events = {str(e["uid"]): e for e in Calendar.from_ical(client.get(reverse("calendar_ics")).content).walk("VEVENT")}
    event = events[f"next-look-{handed.pk}@idlebench"]
    assert event.decoded("dtstart") == handed.next_look and "Tidewriter 80, unit A" in event["summary"]
    _, data = leaving.bundle_of(handed.job_id)
    (tmp_path / "job.zip").write_bytes(data)
    came = take_in(tmp_path / "job.zip")
    assert came.units.get(name="A").next_look == handed.next_look
    services.reopen(handed.pk, "it smells warm")
    handed.refresh_from_db()
    assert handed.next_look is None
    assert f"next-look-{handed.pk}@idlebench".encode() not in client.get(reverse("calendar_ics")).content


def test_more_hours_a_day_bring_the_next_look_nearer(handed):
    state = unit_state(handed.pk)
    dates = []
    for hours in (2.0, 12.0, 24.0):
        state.row.hours_a_day, state.row.next_look = hours, None
        dates.append(story(state, sheet(state, False), False).look.days)
    assert dates[0] >= dates[1] > dates[2]


@pytest.mark.parametrize("typed", ["-1", "25", "often", "1e999"])
def test_hours_that_no_day_has_close_nothing(handed, typed):
    services.reopen(handed.pk, "to try it again")
    with pytest.raises(BadInput):
        services.hand_over(handed.pk, hours=typed)
    handed.refresh_from_db()
    assert handed.handed_over is None


def test_the_sheet_tells_what_was_wrong_what_to_watch_and_what_can_be_undone(client, handed):
    services.reopen(handed.pk, "more is told")
    board = handed.boards.get(name="PS-1")
    Cause.objects.create(
        unit=handed,
        board=board,
        ref="C3",
        failure="dried out",
        rails="+5 V",
        outcome="confirmed",
        words="changed",
        at=timezone.now(),
    )
    Mend.objects.create(board=board, line="trace C3 + to C1 + wire 0.3 insulated before OL")
    Unit.objects.get(pk=handed.pk).save()
    page = client.get(reverse("sheet", args=[handed.pk])).content.decode()
    for words in (
        "What was wrong, and how it was found",
        "dried out: confirmed",
        "What to watch",
        "What can be undone",
        "a diamond marks a repair",
    ):
        assert words in page, words
    owner = client.get(reverse("owner_sheet", args=[handed.pk])).content.decode()
    assert "It is not finished" in owner and "Do not plug it in" in owner and "break in the wiring repaired" in owner


def test_a_bundle_with_hours_that_no_day_has_is_refused_whole(handed, tmp_path):
    _, data = leaving.bundle_of(handed.job_id)
    path = tmp_path / "job.zip"
    with zipfile.ZipFile(io.BytesIO(data)) as made, zipfile.ZipFile(path, "w") as lies:
        for name in made.namelist():
            found = made.read(name)
            lies.writestr(name, found.replace(b",4.0,", b",99.0,") if name == "units.csv" else found)
    jobs = Job.objects.count()
    with pytest.raises(BadInput, match="24 hours a day"):
        take_in(path)
    assert Job.objects.count() == jobs


def picture(colour="navy"):
    made = io.BytesIO()
    Image.new("RGB", (900, 300), colour).save(made, "PNG")
    return made.getvalue()


def test_the_owners_sheet_carries_the_workshop_its_logo_the_cost_and_a_photo_on_one_page(client, handed, tmp_path):
    html = client.get(reverse("owner_sheet", args=[handed.pk])).content.decode()
    assert "Warranty" not in html and "Total €" not in html and "workshop/logo" not in html
    said = {"name": "Kelp Lane Workshop", "lines": "3 Kelp Lane\nSkerry Point", "contact": "01 234", "worker": "M. Quill",
            "answered": "12 months", "costs": "on", "logo": SimpleUploadedFile("logo.png", picture())}  # fmt: skip
    assert client.post(reverse("workshop"), said).status_code == 302
    Unit.objects.filter(pk=handed.pk).update(handed_over=None)
    take_photo(Unit.objects.get(pk=handed.pk), picture("orange"), "whole.png", words="The whole machine")
    _, info, _, text = made(client, handed, "owner_pdf", tmp_path)
    assert info["Pages"].strip() == "1"
    text = " ".join(text.split())
    for words in (
        "Kelp Lane Workshop",
        "Skerry Point",
        "01 234",
        "Work by M. Quill",
        "Warranty: 12 months",
        "Total €",
    ):
        assert words in text, words
    html = client.get(reverse("owner_sheet", args=[handed.pk])).content.decode()
    assert 'alt="The whole machine"' in html and 'alt="Logo of Kelp Lane Workshop"' in html
    assert client.get(reverse("workshop_logo")).content[:2] == b"\xff\xd8", "made anew, whatever came"
    assert 'alt="The whole machine"' in client.get(reverse("sheet", args=[handed.pk])).content.decode()
    assert client.post(reverse("workshop"), {"name": "Kelp", "no_logo": "on"}).status_code == 302
    assert client.get(reverse("workshop_logo")).status_code == 404 and not Workshop.objects.get().costs


@pytest.mark.parametrize(
    "wrong", [{"logo": SimpleUploadedFile("a.png", b"<svg></svg>")}, {"name": "x" * 81}, {"answered": "x" * 200}]
)
def test_a_workshop_that_cannot_be_kept_changes_nothing(client, handed, wrong):
    assert client.post(reverse("workshop"), {"name": "Kelp", **wrong}).status_code == 422
    assert not Workshop.objects.exists()


def test_the_cost_is_of_what_is_in_and_says_what_it_leaves_out(handed):
    state = unit_state(handed.pk)
    CatalogueItem.objects.update(price=0.0)
    none = cost_of(state)
    assert (
        none.parts == 0
        and none.unpriced == sum(bool(p.swap) for p in state.parts) > 0
        and "not in the total" in none.words
    )
    CatalogueItem.objects.update(price=0.5)
    one = cost_of(state)
    assert one.parts == pytest.approx(0.5 * none.unpriced) and one.unpriced == 0 and one.hours == none.hours > 0
    assert f"Total €{one.parts + one.hours * one.rate:.2f}" in one.words


def test_every_row_of_the_whole_sheet_says_board_place_and_what_was_checked(client, handed):
    told = sheet(unit_state(handed.pk))
    rows = [row.told for row in (*told.cold, *told.powered)]
    assert "C1 on MB-80: the stripe is the negative side, against the board's print" in rows
    assert "across C1 on PS-1: volts DC" in rows and len(set(rows)) == len(rows)
    assert all(": " in row and not row.endswith(": ") for row in rows)
    boards = {board.name for board in handed.boards.all()}
    assert all(
        any(name in row for name in boards)
        for row in rows
        if "mains at the socket" not in row and "inside the case" not in row
    )
    assert {m.rail for m in told.rails} == {
        f"{v} V on {board}" for v in ("+5", "+12", "−12") for board in ("PS-1", "MB-80")
    }
    # more is expected than is allowed: the sheet says why
    reasons = {(m.step, m.rail): m.reason for m in told.rails if m.reason}
    ((where, why),) = reasons.items()
    assert where[1] == "+5 V on MB-80" and "the regulator gets less than its least input voltage" in why
    html = client.get(reverse("sheet", args=[handed.pk])).content.decode()
    assert (
        "the regulator gets less than its least input voltage" in html
        and "15 V winding to C2, behind it VR3, 12 V" in html
    )


def test_the_next_restorer_reads_how_it_was_opened(client, handed):
    DismantleStep.objects.create(unit=handed, text="four case screws, 12 mm")
    html = " ".join(client.get(reverse("sheet", args=[handed.pk])).content.decode().split())
    assert "Dismantling, 5 steps" in html and "four case screws, 12 mm (not marked as reassembled)" in html
