"""Intake by request, and job bundles taken whole or not at all."""

import json
import zipfile

import pytest
from django.urls import reverse

from idlebench.core.refusal import BadInput
from idlebench.web.keep.bundle import import_folder
from idlebench.web.keep.demo import FOLDER
from idlebench.web.records.models import Job, Part, Unit
from idlebench.web.records.models import folder as photo_folder
from idlebench.web.unit.state import unit_state

pytestmark = pytest.mark.django_db

NEW = {"name": "Clock", "machine": "Tide clock", "made": "1984", "units": "A, B"}


def test_take_in_a_job(client, db):
    response = client.post("/job/new/", NEW)
    assert response.status_code == 302 and "intake" in response.url
    assert [u.name for u in Unit.objects.all()] == ["A", "B"]


@pytest.mark.parametrize(
    ("field", "text", "said"),
    [("name", "", "a name for the job"), ("made", "1899", "at least 1900"), ("made", "soon", "a number"), ("mains_volts", "12", "at least 90 V"),
     ("policy", "all", "renew"), ("units", "A, A", "different short names"), ("name", "x" * 200, "at most 120"), ("meter_frequency", "lots", "100k")],
)  # fmt: skip
def test_bad_fields_keep_what_was_typed(client, db, field, text, said):
    response = client.post("/job/new/", {**NEW, field: text})
    html = response.content.decode()
    assert response.status_code == 422 and said in html and "Tide clock" in html
    assert not Job.objects.exists()


def test_all_that_cannot_be_taken_is_told_at_once(client, unit):
    wrong = {**NEW, "name": "", "made": "soon", "mains_volts": "12"}
    page = client.post("/job/new/", wrong)
    assert [one.field for one in page.context["complaint"].each] == ["name", "made", "mains_volts"]
    assert page.content.decode().count('aria-invalid="true"') == 3 == page.content.decode().count('role="alert"')
    lines = {"name": "MB-80", "width": "240", "rails": "+5 V 3 A\nnonsense", "chips": "U1 gnd"}
    page = client.post(reverse("new_board", args=[unit.pk]), lines)
    assert [one.field for one in page.context["complaint"].each] == ["rails, line 2", "chips, line 1"]
    assert (
        page.status_code == 422 and "nonsense" in page.content.decode() and not unit.boards.filter(width=240).exists()
    )


def test_a_board_with_its_rails_and_chips(client, unit):
    url = reverse("new_board", args=[unit.pk])
    assert (
        client.post(
            url, {"name": "B2", "rails": "+5V 1A\n-12 V 0.1 A", "chips": "U1 cpu gnd 8", "supply": "linear"}
        ).status_code
        == 302
    )
    assert unit.boards.get(name="B2").rails.splitlines()[1] == "-12 V 0.1 A tol 10 ripple 120m"
    for typed, said in (({"name": "B2"}, "does not have yet"), ({"name": "B3", "rails": "+5V\nfive"}, "rails, line 2"), ({"name": "B3", "rails": "+5V\n+5 V"}, "line 1 already"),
                        ({"name": "B3", "chips": "U1 gnd x"}, "pin numbers"), ({"name": "B3", "width": "4"}, "at least 10 mm"), ({"name": "B3", "expected": "2.5"}, "whole")):  # fmt: skip
        response = client.post(url, typed)
        assert response.status_code == 422 and said in response.content.decode(), typed
    assert unit.boards.count() == 3


def test_change_a_board_and_the_job(client, unit):
    board = unit.boards.first()
    client.post(reverse("board_facts", args=[board.pk]), {"name": "PS-9", "rails": "+12 V 1 A", "supply": "linear"})
    board.refresh_from_db()
    assert (board.name, board.supply) == ("PS-9", "linear")
    assert client.post(reverse("board_facts", args=[board.pk]), {"name": "MB-80"}).status_code == 422
    client.post(reverse("job", args=[unit.job.pk]), {**NEW, "policy": "mend", "unit": unit.pk})
    assert Job.objects.get().policy == "mend"
    assert client.post(reverse("job", args=[unit.job.pk]), {**NEW, "made": "x", "unit": unit.pk}).status_code == 422


def test_first_look_ticks_and_unticks(client, unit):
    url = reverse("look", args=[unit.pk])
    client.post(url, {"key": "plug"})
    assert unit_state(unit.pk).looked == 9
    client.post(url, {"key": "plug"})
    assert unit_state(unit.pk).looked == 10
    assert client.post(url, {"key": "dance"}).status_code == 422


def test_a_look_is_skipped_with_a_reason_but_never_one_that_hurts(client, unit):
    from idlebench.web.unit.state import unit_state

    for key in ("smell", "shake"):
        client.post(reverse("look", args=[unit.pk]), {"key": key})
    skip = reverse("skip_look", args=[unit.pk])
    short = client.post(skip, {"key": "smell", "reason": "no"})
    assert short.status_code == 422 and "printed on the hand-over sheet" in short.content.decode()
    refused = client.post(skip, {"key": "shake", "reason": "in a hurry today"})
    assert refused.status_code == 409 and "cannot be skipped" in refused.content.decode()
    assert client.post(skip, {"key": "smell", "reason": "no nose for it since a cold"}).status_code == 302
    assert unit_state(unit.pk).looked == 9
    assert "no nose for it" in client.get(reverse("sheet", args=[unit.pk])).content.decode()


def test_the_unit_leads_to_the_stage_it_waits_at(client, demo):
    waits = {u.name: client.get(f"/unit/{u.pk}/").url for u in Unit.objects.all()}
    assert "handover" in waits["A"] and "choose" in waits["B"] and "intake" in waits["C"]


def bundle(tmp_path, change=None, **files):
    data = json.loads((FOLDER / "job.json").read_text(encoding="utf-8"))
    data["units"] = data["units"][1:2]
    if change:
        change(data)
    (tmp_path / "photos").mkdir(exist_ok=True)
    for file in (*FOLDER.glob("B-*.csv"), *FOLDER.glob("photos/B-*")):
        (tmp_path / file.relative_to(FOLDER)).write_bytes(file.read_bytes())
    for name, text in files.items():
        (tmp_path / f"{name.replace('_', '-')}.csv").write_text(text, encoding="utf-8")
    (tmp_path / "job.json").write_text(json.dumps(data), encoding="utf-8")
    return tmp_path


def test_a_bundle_as_zip_gives_the_same_job(tmp_path, shelf):
    folder = tmp_path / "job"
    folder.mkdir()
    bundle(folder)
    place = tmp_path / "job.zip"
    with zipfile.ZipFile(place, "w") as packed:
        for file in folder.rglob("*.*"):
            packed.write(file, file.relative_to(folder))
    first, second = import_folder(folder), import_folder(place)
    refs = [
        list(Part.objects.filter(board__unit__job=j).values_list("board__name", "ref", "value"))
        for j in (first, second)
    ]
    assert refs[0] == refs[1] and len(refs[0]) > 30


def test_a_bundle_with_a_mistake_takes_nothing(tmp_path, shelf):
    def version(data):
        data["version"] = 99

    def outside(data):
        data["units"][0]["boards"][0]["survey"] = "../../../etc/passwd"

    def units(data):
        data["units"] = "many"

    cases = [
        ({"change": version}, "version"), ({"change": outside}, "a file of the bundle"), ({"change": units}, "a list of units"),
        ({"B_PS_2": "ref,value\nC1,lots\n"}, "Line 2"), ({"B_plan": "board,ref\nPS-2,C99\n"}, "a place of PS-2"),
        ({"B_plan": "board,ref\nXX,C1\n"}, "one of the boards"), ({"B_plan": "ref\nC1\n"}, "header row"),
    ]  # fmt: skip
    for i, (case, said) in enumerate(cases):
        folder = tmp_path / str(i)
        folder.mkdir()
        with pytest.raises(BadInput, match=said):
            import_folder(bundle(folder, **case))
        assert not Job.objects.exists()
        assert not list(photo_folder().iterdir()), "photos taken in before the mistake are gone again"


@pytest.mark.parametrize("text", ["", "{", "[]", '{"format": "other"}'])
def test_what_is_no_bundle(tmp_path, db, text):
    (tmp_path / "job.json").write_text(text)
    with pytest.raises(BadInput, match=r"job\.json"):
        import_folder(tmp_path)
    (tmp_path / "x.zip").write_bytes(b"PK nonsense")
    with pytest.raises(BadInput, match="zip"):
        import_folder(tmp_path / "x.zip")
    with pytest.raises(BadInput, match="folder or zip"):
        import_folder(tmp_path / "none")
