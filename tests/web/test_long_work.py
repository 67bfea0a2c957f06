"""Long work goes on beside the pages: it tells how far it is, can be stopped, and writes the whole sheet or nothing."""

import logging
import threading

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.core.refusal import Blocked
from idlebench.instruments.meter import AT_ONCE, alone
from idlebench.web.ledger.pdf import to_pdf
from idlebench.web.records.models import CatalogueItem, Part, StagedItem
from idlebench.web.shelf import services
from idlebench.web.ui import tasks

pytestmark = pytest.mark.django_db


def table(rows: int, volts: int = 25) -> bytes:
    lines = ["part,series,kind,value,volts,mounting,diameter,height,pitch,price"]
    lines += [f"T{i},LONG,wet,{(10, 22, 47)[i % 3]}u,{volts},radial,6.3,11,2.5,0.10" for i in range(rows)]
    return "\n".join(lines).encode()


def test_a_long_table_is_taken_over_at_once_and_brought_up_to_date(shelf, monkeypatch):
    monkeypatch.setattr(services, "PAUSE", 0)
    told = []
    first = services.load_csv(table(2500), good_rows=False, tell=lambda *step: told.append(step))
    assert (first.added, first.changed) == (2500, 0) and not StagedItem.objects.exists()
    assert [doing for doing, _, _ in told[-4:]] == ["writing the parts"] * 3 + ["taking over"]
    again = services.load_csv(table(2600, volts=35), good_rows=False)
    assert (again.added, again.changed) == (100, 2500)
    assert set(CatalogueItem.objects.filter(series="LONG").values_list("volts", flat=True)) == {35.0}
    item = CatalogueItem.objects.get(part="T1")
    assert item.to_core().value == pytest.approx(22e-6) and item.price == 0.10
    changed = item.changed
    services.load_csv(table(10, volts=35), good_rows=False)
    item.refresh_from_db()
    assert item.changed == changed, "what is as it was is left alone"


@pytest.mark.parametrize("at", ["reading", "writing the parts", "taking over"])
def test_stopped_anywhere_nothing_is_written(shelf, at, monkeypatch):
    monkeypatch.setattr(services, "PAUSE", 0)

    def tell(doing, done, total):
        if doing == at:
            raise tasks.Stopped

    with pytest.raises(tasks.Stopped):
        services.load_csv(table(2500), good_rows=False, tell=tell)
    assert not CatalogueItem.objects.filter(series="LONG").exists() and not StagedItem.objects.exists()


def test_what_a_stop_of_the_program_left_is_swept(shelf):
    services._lay_down("left", services.read_catalogue(table(3)).parts)
    assert StagedItem.objects.count() == 3
    services.sweep_staged()
    assert not StagedItem.objects.exists()


def test_what_was_laid_down_whole_is_taken_over_after_a_stop(shelf, monkeypatch):
    """The program is stopped between two pieces: when it starts again the rest goes in, once; what was not whole is let go."""
    monkeypatch.setattr(services, "PAUSE", 0)
    monkeypatch.setattr(services, "TAKEN_AT_ONCE", 100)
    taken, let_go = services._taken_over, services._let_go
    calls = []

    def stops(*args):
        calls.append(args)
        if len(calls) == 2:
            raise SystemExit
        taken(*args)

    monkeypatch.setattr(services, "_taken_over", stops)
    monkeypatch.setattr(services, "_let_go", lambda batch: None)
    with pytest.raises(SystemExit):
        services.load_csv(table(250), good_rows=False)
    assert CatalogueItem.objects.filter(series="LONG").count() == 100
    monkeypatch.setattr(services, "_taken_over", taken)
    monkeypatch.setattr(services, "_let_go", let_go)
    StagedItem.objects.create(
        batch="half", part="H1", series="LONG", kind="wet", value=1e-6, volts=16.0, mounting="radial"
    )
    services.sweep_staged()
    assert CatalogueItem.objects.filter(series="LONG").count() == 250 and not StagedItem.objects.exists()
    assert not CatalogueItem.objects.filter(part="H1").exists()


def finished(key: str) -> tasks.Task:
    task = tasks.task_of(key)
    next(t for t in threading.enumerate() if t.name == f"task {task.title}").join(
        30
    ) if task.state == "running" else None
    return task


def test_a_task_tells_what_came_of_it(client):
    went, go = threading.Event(), threading.Event()

    def work(task):
        task.step("half", 1, 2)
        went.set()
        go.wait(20)
        return "Done well."

    task = tasks.begin("A piece of work", "/shelf/", work)
    went.wait(20)
    page = client.get(reverse("task", args=[task.key])).content.decode()
    assert "1 of 2" in page and "50 %" in page and "Stop it" in page
    go.set()
    assert finished(task.key).state == "done"
    assert "Done well." in client.get(reverse("task", args=[task.key])).content.decode()
    assert client.get(reverse("task", args=["none"])).status_code == 404


def test_a_task_is_stopped_by_its_page(client):
    went, go = threading.Event(), threading.Event()

    def work(task):
        went.set()
        go.wait(20)
        task.step("on", 1, 2)
        raise AssertionError("it went on")

    task = tasks.begin("A long way", "/shelf/", work)
    went.wait(20)
    assert client.post(reverse("task", args=[task.key])).status_code == 302
    go.set()
    assert finished(task.key).said == "Stopped. Nothing was written."


def test_the_sheet_as_pdf_is_made_beside_the_pages(client, unit):
    answer = client.post(reverse("sheet_pdf", args=[unit.pk]))
    key = answer.headers["Location"].split("/")[-2]
    made = finished(key).made
    assert made.data.startswith(b"%PDF") and made.name == f"handover-unit-{unit.name}.pdf"
    assert reverse("task_file", args=[key]) in client.get(reverse("task", args=[key])).content.decode()
    assert client.get(reverse("task_file", args=[key])).content == made.data
    assert client.get(reverse("task_file", args=["none"])).status_code == 404


def test_a_pdf_tells_its_steps_and_stops_at_one():
    told = []
    assert to_pdf("<p>One</p><p style='break-before: page'>Two</p>", lambda *step: told.append(step)).startswith(
        b"%PDF"
    )
    assert [doing for doing, _, _ in told if "page" in doing] == ["setting pages, page 1", "setting pages, page 2"]
    assert [number for _, number, _ in told] == sorted(number for _, number, _ in told) and told[-1][1] == told[-1][2]

    def stop(doing: str, number: int, total: int) -> None:
        if number == 5:
            raise tasks.Stopped

    with pytest.raises(tasks.Stopped):
        to_pdf("<p>One</p>", stop)
    heard = logging.getLogger("weasyprint.progress").handlers
    assert not [h for h in heard if type(h).__module__.startswith("idlebench")], "nobody goes on listening"


def test_only_so_many_at_once():
    go = threading.Event()
    begun = [tasks.begin(f"Work {n}", "/", lambda task: str(go.wait(20))) for n in range(tasks.AT_ONCE)]
    with pytest.raises(Blocked, match="Not begun"):
        tasks.begin("One more", "/", str)
    go.set()
    for task in begun:
        finished(task.key)


def test_a_large_file_becomes_a_task(client, shelf, monkeypatch):
    begun = []
    monkeypatch.setattr(
        "idlebench.web.shelf.views.begin",
        lambda title, back, work: begun.append(work) or tasks.Task(title=title, back=back),
    )
    file = SimpleUploadedFile("big.csv", table(9000))
    response = client.post(reverse("shelf_load"), {"what": "capacitor", "file": file})
    assert response.status_code == 302 and response.url.startswith("/task/")
    monkeypatch.setattr(services, "PAUSE", 0)
    assert begun[0](tasks.Task(title="t", back="/")) == "9000 parts added, 0 brought up to date."


def test_a_board_of_many_parts_pages_its_list(client, surveyed):
    Part.objects.bulk_create(Part(board=surveyed, ref=f"C{n}", value=1e-5, volts=16.0) for n in range(10, 460))
    page = reverse("survey", args=[surveyed.pk])
    shown = client.get(page).context
    assert shown["part_rows"].count("<a class") == 200 and shown["part_page"].paginator.num_pages == 3
    assert "capacitors 1 to 200 of 453" in client.get(page).content.decode()
    last = client.get(page, {"part": "C459"}).context
    assert "C459" in last["part_rows"].splitlines()[-1], "the list turns to the part that is selected"
    assert client.get(page, {"rows": "2"}).context["part_rows"].count("<a class") == 200


@pytest.mark.parametrize("room", ["shelf", "survey", "choose", "photos"])
def test_no_words_from_the_address_line_are_said(client, surveyed, room):
    args = {"shelf": [], "photos": [surveyed.unit_id]}.get(room, [surveyed.pk])
    address = reverse(room, args=args)
    for words in ("Your bench is broken call 555", "abc:def:ghi"):
        assert words not in client.get(address, {"said": words}).content.decode()
    shop = reverse("gather_shop")
    saved = client.post(reverse("gather_supplier"), {"supplier": "Lampwright Supply", "postage": "4"}, follow=True)
    assert saved.redirect_chain[-1][0] == shop and "Terms of Lampwright Supply saved" in saved.content.decode()
    assert "Terms of Lampwright Supply saved" not in client.get(shop).content.decode(), "said once"


def test_one_conversation_at_a_time_with_an_instrument():
    from idlebench.core.refusal import BadInput

    with alone("a"):
        with pytest.raises(BadInput, match="being read already"), alone("a"):
            pass
        with alone("b"), pytest.raises(BadInput, match="being read already"), alone("c"):
            pass
    assert AT_ONCE == 2
    with alone("a"), alone("c"):
        pass


def test_long_words_for_the_next_page_are_said_whole(client, surveyed):
    """Too long for a cookie: 900 letters that no packing makes shorter."""
    from django.contrib import messages
    from django.contrib.messages.storage import default_storage
    from django.http import HttpResponse
    from django.test import RequestFactory

    request = RequestFactory().get("/")
    request.session = client.session
    storage = default_storage(request)
    words = "".join(chr(0x4E00 + i * i * 7919 % 20000) for i in range(900))
    storage.add(messages.SUCCESS, words)
    answer = HttpResponse()
    assert storage.update(answer) == [], "nothing is left over"
    again = RequestFactory().get("/")
    again.session, again.COOKIES = request.session, {name: morsel.value for name, morsel in answer.cookies.items()}
    assert [str(told) for told in default_storage(again)] == [words]
