"""A job leaves in a file and comes to another bench: the whole sheet, the same bytes; made-up files change nothing."""

import csv
import io
import json
import random
import zipfile

import frictionless
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from idlebench.core.choose.shelf_line import read_own
from idlebench.core.judge.policy import POLICIES
from idlebench.core.prove.facts import DISCHARGED, INSIDE
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.text.csvtable import disarmed, rearmed
from idlebench.web.choose import services as choosing
from idlebench.web.keep import bundle_file, leaving, removing
from idlebench.web.keep.bundle import ask_if_here, take_in
from idlebench.web.keep.job_rows import OWN, SINCE, TABLES, TABLES_SINCE, Numbers
from idlebench.web.photos.services import lay_under, take_photo
from idlebench.web.proving.confirmations import confirm_imported
from idlebench.web.records.models import (
    Board,
    CatalogueItem,
    Cause,
    Choice,
    Clue,
    Entry,
    Event,
    Job,
    Mend,
    Order,
    OrderLine,
    Part,
    Photo,
    Reading,
    ReformRun,
    ShopHours,
    ShopPolicy,
    Swap,
    Unit,
)
from idlebench.web.survey import services as surveying
from idlebench.web.survey import undoing
from idlebench.web.swap import services as swapping
from idlebench.web.unit.state import unit_state
from idlebench.web.unit.stock import add_own

from ..snapshots import remembered
from .helpers import discharge, settle

pytestmark = pytest.mark.django_db
FORMULAS = (
    "=1+1",
    "@SUM(A1)",
    "+1+1",
    "-2+3",
    "'quoted",
    "\tx",
    '=HYPERLINK("x")',
    "+5 V",
    "-12 V",
    "plain",
    "''",
    "'",
)


@pytest.fixture
def worked(surveyed):
    """A job with something of every table: rows that are gone and only spoken of any more among it."""
    _worked(surveyed)
    return Job.objects.get(pk=surveyed.unit.job_id)


@remembered
def _worked(surveyed):
    unit, job = surveyed.unit, surveyed.unit.job
    surveying.paste(surveyed, "C11 10u 16V 5x11 series =QF leaking\nC12 10u 16V 5x11\nC13 10u 16V", good_rows=False)
    removing.remove("part", Part.objects.get(ref="C13").pk)
    undoing.undo(surveyed)
    settle(unit)
    # a swap that was taken back, and done again
    done = Swap.objects.filter(part__board=surveyed).first().part.ref
    discharge(unit)
    swapping.take_back(surveyed.pk, done)
    discharge(unit)
    swapping.swapped(surveyed.pk, done)
    discharge(unit)
    picture = io.BytesIO()
    Image.new("RGB", (200, 120), "teal").save(picture, "JPEG")
    photo, _ = take_photo(unit, picture.getvalue(), "a.jpg", words="=as found")
    lay_under(
        surveyed, "parts", photo, [(1, 1), (190, 1), (190, 110), (1, 110)], [(0, 0), (120, 0), (120, 80), (0, 80)]
    )
    ShopPolicy.objects.create(name="ours", data={**POLICY, "name": "ours"})
    Job.objects.filter(pk=job.pk).update(policy="ours", owner="=cmd|' /C calc'!A0")


POLICY = POLICIES["mend"].as_json()


def written(tmp_path, job):
    name, data = leaving.bundle_of(job.pk)
    path = tmp_path / name
    path.write_bytes(data)
    return path


def files(path):
    with zipfile.ZipFile(path) as bundle:
        return {name: bundle.read(name) for name in bundle.namelist()}


def changed(path, **other):
    """The bundle with some files changed, by name with dots as two underscores; None takes one out."""
    found = files(path)
    for name, data in other.items():
        found[name.replace("__", ".").replace("_of_", "/")] = data
    with zipfile.ZipFile(path, "w") as bundle:
        for name, data in found.items():
            if data is not None:
                bundle.writestr(name, data)
    return path


def stations(unit):
    """What is left at each but those at which somebody answers for a reading: they are asked again where they came with a file."""
    return [(s.key, s.left, s.done) for s in unit_state(unit.pk).stages if s.key not in ("cold", "power", "handover")]


def test_a_job_goes_to_an_empty_bench_and_is_the_same_there(worked, tmp_path):
    path, units = written(tmp_path, worked), list(worked.units.all())
    before = [stations(u) for u in units]
    stood = {c.key for c in unit_state(units[0].pk).proof.steps[0].checks if unit_state(units[0].pk).proof.done(c)}
    removing.remove("job", worked.pk)
    ShopPolicy.objects.all().delete()
    assert not Job.objects.exists()
    came = take_in(path)
    assert came.pk != worked.pk and came.owner == worked.owner and came.began == worked.began
    assert [stations(u) for u in came.units.all()] == before
    assert stood and Swap.objects.exists()
    again = written(tmp_path / "", Job.objects.get())
    assert again != path and files(again) == files(path) and again.read_bytes() == path.read_bytes()


def test_it_is_the_same_on_a_bench_with_other_jobs(worked, tmp_path):
    path = written(tmp_path, worked)
    came = take_in(path)
    assert Job.objects.count() == 2 and Unit.objects.count() == 2 and Photo.objects.count() == 2
    again = tmp_path / "again.zip"
    again.write_bytes(leaving.bundle_of(came.pk)[1])
    assert files(again) == files(path)
    mine, theirs = (unit_state(Unit.objects.get(job=job).pk) for job in (worked, came))
    assert [c.key for c in mine.proof.steps[0].checks] != [c.key for c in theirs.proof.steps[0].checks], (
        "by rows of its own"
    )
    assert not any(theirs.proof.status_of(c).passed for step in theirs.proof.steps for c in step.checks), (
        "another bench's"
    )
    confirm_imported(theirs.row.pk, "Ada Holm", "read by me at the museum")
    theirs = unit_state(theirs.row.pk)
    there = [(a, b) for a, b in zip(mine.proof.steps, theirs.proof.steps, strict=True)]
    for ours, other in [pair for a, b in there for pair in zip(a.checks, b.checks, strict=True)]:
        asked_again = ours.fact in (DISCHARGED, INSIDE)
        assert theirs.proof.status_of(other).word == ("not yet" if asked_again else mine.proof.status_of(ours).word), (
            ours
        )


def test_the_whole_demo_comes_back_as_it_was(demo, tmp_path):
    job = Job.objects.first()
    path = written(tmp_path, job)
    proven = unit_state(Unit.objects.get(name="A").pk).proof.proven
    removing.remove("job", job.pk)
    came = take_in(path)
    unit = came.units.get(name="A").pk
    assert proven and not unit_state(unit).proof.proven and unit_state(unit).unconfirmed
    again = tmp_path / "again.zip"
    again.write_bytes(leaving.bundle_of(came.pk)[1])
    assert again.read_bytes() == path.read_bytes()
    confirm_imported(unit, "Ada Holm", "I read them myself at the museum")
    assert unit_state(unit).proof.proven, "it was handed over, and counts as it did then"


def test_an_undo_on_the_other_bench_goes_back_to_what_was_before(worked, tmp_path):
    path = written(tmp_path, worked)
    removing.remove("job", worked.pk)
    came = take_in(path)
    board = Board.objects.get(unit__job=came, name="PS-1")
    assert Part.objects.filter(board=board, ref="C11").exists()
    surveying.add_line(board, "C11 22u 16V 5x11 leaking", change=True)
    undoing.undo(board)
    assert Part.objects.get(board=board, ref="C11").value == pytest.approx(1e-5)


def test_every_column_of_every_table_of_a_job_goes_with_it():
    """A table or column that somebody adds later is in the bundle, or is named here as one that stays."""
    from django.apps import apps

    from idlebench.web.records import models as records

    stays = {
        "BoardProfile", "CatalogueItem", "ColumnMap", "Device", "Instrument", "Job", "Judged", "PairingCode", "Removed",
        "BuyingPlan", "CalendarPlan", "ShopHours", "FirstClaim", "GatherStep", "OfferOut", "Order", "OrderLine", "PracticeRun", "Revision", "RoundAnswer", "Supplier", "SupplierOffer", "SeriesTally", "ShelfDevice", "ShopPolicy", "ShopProcedure", "ShopTimes", "StagedItem", "StockChange", "Summary", "Workshop", "WrongCode", "ImportedRecord", "UnitCounts", "FailureCount",
    }  # fmt: skip
    gone = {t.model for t in TABLES}
    left = {m.__name__ for m in apps.get_app_config("records").get_models() if m not in gone}
    assert left == stays
    for table in TABLES:
        kept = {f.name for f in table.model._meta.concrete_fields} - {f.name for f in table.fields}
        assert kept <= OWN, table.name
    assert records.Part in gone


def test_its_tables_are_as_their_description_says(worked, tmp_path):
    path = written(tmp_path, worked)
    with zipfile.ZipFile(path) as bundle:
        bundle.extractall(tmp_path / "open")
    report = frictionless.Package(str(tmp_path / "open" / "datapackage.json")).validate()
    assert report.valid, report.flatten(["title", "message"])[:5]
    assert len(report.tasks) == len(TABLES)


@pytest.mark.parametrize("text", FORMULAS)
def test_formulas_are_disarmed_and_come_back_the_same(text):
    assert rearmed(disarmed(text)) == text
    assert disarmed(text)[0] not in "=@\t" and (disarmed(text)[0] not in "+-" or text in ("+5 V", "-12 V"))


def test_formulas_in_every_csv_that_leaves(client, worked, tmp_path):
    board = Board.objects.get(name="PS-1", unit__job=worked)
    survey = client.get(reverse("survey_csv", args=[board.pk])).content.decode()
    assert "'=QF" in survey and ",=" not in survey
    odd = Part.objects.create(board=board, ref="C77", value=1e-5, volts=16.0)
    Choice.objects.create(part=odd, action=Choice.TAKE, item="=1+1", verdict="fits")
    gathered = client.get(reverse("gather_csv", args=[worked.units.get().pk])).content
    assert b"'=1+1," in gathered and b"\n=" not in gathered and b",=" not in gathered
    for name, data in files(written(tmp_path, worked)).items():
        if name.endswith(".csv"):
            assert b",=" not in data and b"\n=" not in data, name


def test_live_it_does_not_leave(surveyed, tmp_path):
    from django.utils import timezone

    from idlebench.web.records.models import PowerSession

    PowerSession.objects.create(unit=surveyed.unit, step="limited", title="Lamp", began=timezone.now())
    with pytest.raises(Blocked, match="cannot be exported") as refused:
        leaving.bundle_of(surveyed.unit.job_id)
    assert "Unit A has power" in str(refused.value.reasons[0])


def test_with_power_on_it_does_not_come(worked, tmp_path):
    path = written(tmp_path, worked)
    sessions = files(path)["sessions.csv"].decode().splitlines()[0]
    line = "1,A,1,limited,Lamp,2026-11-25T10:00:00+00:00,,"
    changed(path, sessions__csv=f"{sessions}\n{line}\n")
    with pytest.raises(BadInput, match="power on"):
        take_in(path)


def test_a_job_that_is_here_already_is_asked_about(client, worked, tmp_path, capsys):
    """By page and by command, a bundle and a typed folder; whoever says so has it twice, and one that was deleted comes back."""
    data = client.get(reverse("bundle", args=[worked.pk])).content

    def sent(**more):
        return client.post(reverse("come"), {"bundle": SimpleUploadedFile("a.zip", data), **more})

    page = sent()
    assert (
        page.status_code == 422
        and f"already: job {worked.number}" in page.content.decode()
        and Job.objects.count() == 1
    )
    assert 'name="again"' in page.content.decode()
    Job.objects.update(name="Renamed since")
    assert sent().status_code == 422, "it is known by when it began"
    assert sent(again="yes").status_code == 302 and Job.objects.count() == 2
    for pk in Job.objects.values_list("pk", flat=True):
        removing.remove("job", pk)
    assert sent().status_code == 302 and Job.objects.count() == 1
    folder = tmp_path / "typed"
    folder.mkdir()
    told = {
        "format": "idlebench-job",
        "version": 1,
        "job": {"name": "Horn", "machine": "Horn timer"},
        "units": [{"name": "A"}],
    }
    (folder / "job.json").write_text(json.dumps(told))
    ask_if_here(folder)
    take_in(folder)
    with pytest.raises(Blocked, match="not imported"):
        ask_if_here(folder)
    ask_if_here(tmp_path / "none")


def test_by_page_and_by_command(client, worked, tmp_path, capsys):
    response = client.get(reverse("bundle", args=[worked.pk]))
    assert response["Content-Disposition"].startswith('attachment; filename="job-')
    removing.remove("job", worked.pk)
    sent = SimpleUploadedFile("../../x y.zip", response.content)
    assert client.post(reverse("come"), {"bundle": sent}).status_code == 302
    assert Job.objects.get().name == worked.name
    assert client.post(reverse("come")).status_code == 422
    assert client.post(reverse("come"), {"bundle": SimpleUploadedFile("a.zip", b"PK no")}).status_code == 422
    target = tmp_path / "out.zip"
    leaving.export(Job.objects.get().pk, target)
    with pytest.raises(BadInput, match="not there yet"):
        leaving.export(Job.objects.get().pk, target)
    assert target.read_bytes() == response.content


HOSTILE = {
    "cut": lambda path: path.write_bytes(path.read_bytes()[:-200]),
    "empty": lambda path: path.write_bytes(b""),
    "text": lambda path: path.write_text("no zip"),
    "climbs": lambda path: changed(path, **{"../../evil__csv": b"x"}),
    "absolute": lambda path: changed(path, **{"/etc/passwd": b"x"}),
    "stranger": lambda path: changed(path, photos_of_run__sh=b"x"),
    "newer": lambda path: page(path, version=99),
    "version is no number": lambda path: page(path, version=[2]),
    "other format": lambda path: page(path, format="else"),
    "list for a text": lambda path: job(path, name=["a"]),
    "number for a text": lambda path: job(path, name=7),
    "NUL": lambda path: job(path, owner="a\x00b"),
    "too long": lambda path: job(path, name="x" * 500),
    "not a number": lambda path: job(path, mains_volts="NaN"),
    "endless": lambda path: changed(path, job__json=files(path)["job.json"].replace(b'"hour_rate": 20.0', b'"hour_rate": 1e999')),
    "deep": lambda path: changed(path, job__json=b'{"a":' + b"[" * 100_000 + b"]" * 100_000 + b"}"),
    "a list": lambda path: changed(path, job__json=b"[1]"),
    "not text": lambda path: changed(path, job__json=b"\xff\xfe"),
    "no survey": lambda path: changed(path, survey__csv=None),
    "columns": lambda path: changed(path, survey__csv=b"no,where,ref\n1,a,C1\n"),
    "cell": lambda path: cell(path, "survey.csv", b",no,", b",perhaps,"),
    "NUL in a table": lambda path: cell(path, "log.csv", b"New job", b"Taken\x00in"),
    "unknown row": lambda path: cell(path, "boards.csv", b"\n1,A / PS-1,1", b"\n1,A / PS-1,99"),
    "negative row": lambda path: cell(path, "boards.csv", b"\n1,A / PS-1,1", b"\n1,A / PS-1,-1"),
    "numbering": lambda path: cell(path, "units.csv", b"\n1,", b"\n7,"),
    "photo is none": lambda path: changed(path, photos_of_0001__jpg=b"GIF89a"),
    "photo missing": lambda path: changed(path, photos_of_0001__jpg=None),
    "photo with a tail": lambda path: changed(path, photos_of_0001__jpg=files(path)["photos/0001.jpg"] + b"#!/bin/sh"),
    "policy of no kind": lambda path: page(path, policy={"name": 3}),
    "no policy": lambda path: page(path, policy=None),
    "quotes": lambda path: changed(path, survey__csv=files(path)["survey.csv"] + b'"'),
}  # fmt: skip


def page(path, **facts):
    return changed(path, job__json=json.dumps({**json.loads(files(path)["job.json"]), **facts}).encode())


def job(path, **facts):
    told = json.loads(files(path)["job.json"])
    return page(path, job={**told["job"], **facts})


def cell(path, name, old, new):
    data = files(path)[name]
    assert old in data
    return changed(path, **{name.replace(".", "__"): data.replace(old, new, 1)})


@pytest.mark.parametrize("how", HOSTILE)
def test_a_made_up_bundle_is_one_clear_line_and_changes_nothing(worked, tmp_path, settings, how):
    path = written(tmp_path, worked)
    before = {
        m: m.objects.count()
        for m in (Job, Unit, Board, Part, Event, Reading, Entry, Photo, ShopPolicy, ReformRun, CatalogueItem)
    }
    pictures = sorted(settings.PHOTOS.iterdir())
    HOSTILE[how](path)
    with pytest.raises(BadInput) as refused:
        take_in(path)
    assert "\n" not in str(refused.value) and "Traceback" not in str(refused.value) and len(str(refused.value)) < 400
    assert {m: m.objects.count() for m in before} == before
    assert sorted(settings.PHOTOS.iterdir()) == pictures


def test_a_bomb_is_refused_by_its_list(worked, tmp_path):
    path = tmp_path / "bomb.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.writestr("job.json", files(written(tmp_path, worked))["job.json"])
        bundle.writestr("survey.csv", bytes(bundle_file.LARGEST_FILE + 1))
    assert path.stat().st_size < 200_000
    with pytest.raises(BadInput, match="at most 60 MB"):
        take_in(path)


def test_a_link_is_no_file_of_a_bundle(worked, tmp_path):
    path = written(tmp_path, worked)
    found = files(path)
    with zipfile.ZipFile(path, "w") as bundle:
        for name, data in found.items():
            info = zipfile.ZipInfo(name)
            info.external_attr = (0o120777 if name == "survey.csv" else 0o600) << 16
            bundle.writestr(info, data)
    with pytest.raises(BadInput, match="no others"):
        take_in(path)


def test_mangled_bundles_are_taken_whole_or_not_at_all(worked, tmp_path):
    """The short form of what make torture does with two thousand."""
    path, dice = written(tmp_path, worked), random.Random(3)
    good = path.read_bytes()
    refused = 0
    for _ in range(60):
        data = bytearray(good)
        for _ in range(dice.randrange(1, 6)):
            data[dice.randrange(len(data))] = dice.randrange(256)
        path.write_bytes(data)
        before = Job.objects.count()
        try:
            take_in(path)
            assert Job.objects.count() == before + 1
        except BadInput as error:
            refused += 1
            assert Job.objects.count() == before and "\n" not in str(error)
    assert refused > 20


def test_a_key_speaks_of_rows_only_where_the_proof_puts_them():
    numbers = Numbers({}, lambda model, key: key + 100)
    for key, there in (
        ("cold.discharge.p6", "cold.discharge.p106"),
        ("cold.pin.b2.p5.16", "cold.pin.b102.p5.16"),
        ("cold.fuse.rating.b1", "cold.fuse.rating.b101"),
        ("cold.fuse.b1", "cold.fuse.b101"),
        ("cold.rail.b1.b7", "cold.rail.b101.b7"),
        ("up.full.p5.ripple", "up.full.p5.ripple"),
        ("up.life.b2.u1.8", "up.life.b102.u1.8"),
        ("up.dummy.+5-v.b2", "up.dummy.+5-v.b102"),
        ("full.b2", "full.b102"),
        ("cold.mains", "cold.mains"),
        ("limited", "limited"),
    ):
        assert numbers.in_key(key) == there
    assert numbers.in_evidence({"part": "GP-1 #2 x #6"}) == {"part": "GP-1 #2 x #106"}
    assert numbers.in_evidence({"part": "the old part"}) == {"part": "the old part"}


def test_a_policy_of_the_same_name_is_kept_beside_the_shop_s_own(worked, tmp_path):
    path = written(tmp_path, worked)
    ShopPolicy.objects.update(data={**POLICY, "name": "ours", "title": "Another"})
    came = take_in(path)
    assert came.policy == "ours-2" and ShopPolicy.objects.count() == 2


def test_an_own_part_comes_with_the_job_that_took_it(worked, tmp_path, surveyed):
    add_own(read_own("100u 25V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.13@100k low €0.20 x10 stock 4 name OURS"))
    surveying.paste(surveyed, "C20 100u 16V 6.3x11 p2.5 decoupling leaking", good_rows=False)
    choosing.settle_all(surveyed.pk, [("C20", "OURS")])
    path = written(tmp_path, worked)
    CatalogueItem.objects.filter(part="OURS").delete()
    removing.remove("job", worked.pk)
    take_in(path)
    item = CatalogueItem.objects.get(part="OURS")
    assert item.stock == 0 and item.price == 0 and item.value == pytest.approx(1e-4), "what it costs is each shop's own"


@pytest.mark.parametrize("version", [2, 3])
def test_a_bundle_of_a_version_before_is_brought_forward(worked, tmp_path, version):
    """Columns and tables that came since are as in a new row: places count as a person's own, so no plan changes them."""
    path, old = leaving.export(worked.pk, tmp_path / "job.zip"), tmp_path / "old.zip"
    later = {
        table.name: [name for name, since in SINCE.get(table.name, {}).items() if since > version] for table in TABLES
    }
    with zipfile.ZipFile(path) as bundle, zipfile.ZipFile(old, "w") as made:
        for name in bundle.namelist():
            data, table = bundle.read(name), name.removesuffix(".csv")
            if TABLES_SINCE.get(table, 0) > version:
                continue
            if later.get(table):
                rows = list(csv.reader(io.StringIO(data.decode(), newline="")))
                kept = [i for i, column in enumerate(rows[0]) if column not in later[table]]
                out = io.StringIO()
                csv.writer(out, lineterminator="\n").writerows([row[i] for i in kept] for row in rows)
                data = out.getvalue().encode()
            if name == "job.json":
                data = json.dumps({**json.loads(data), "version": version}).encode()
            made.writestr(name, data)
    Choice.objects.update(by_hand=False)
    came = take_in(old)
    found = Choice.objects.filter(part__board__unit__job=came)
    assert found.exists() and (version > 2 or all(found.values_list("by_hand", flat=True)))
    # what says it is of now has to have the whole sheet
    with zipfile.ZipFile(old) as bundle, zipfile.ZipFile(tmp_path / "lies.zip", "w") as made:
        for name in bundle.namelist():
            data = bundle.read(name)
            lie = json.dumps({**json.loads(data), "version": leaving.VERSION}).encode() if name == "job.json" else data
            made.writestr(name, lie)
    with pytest.raises(BadInput, match=r"the columns|in the bundle"):
        take_in(tmp_path / "lies.zip")


WORDS = st.text(st.characters(exclude_categories=("Cs", "Cc", "Zl", "Zp"), include_characters="\n"), max_size=30)
PARTS = st.lists(
    st.fixed_dictionaries(
        {
            "value": st.sampled_from((1e-7, 4.7e-6, 1e-4, 4.7e-3)), "volts": st.sampled_from((None, 6.3, 16.0, 400.0)),
            "kind": st.sampled_from(("wet", "film", "tantalum")), "looks": st.sampled_from(("", "sound", "leaking", "bulging")),
            "esr": st.one_of(st.none(), st.floats(0.001, 50)), "series": WORDS.map(str.strip), "note": WORDS, "x": st.floats(0, 90),
            "swapped": st.booleans(), "kept": st.booleans(),
        }
    ),
    max_size=5,
)  # fmt: skip
UNITS = st.lists(
    st.fixed_dictionaries({"found": WORDS, "parts": PARTS, "look": st.dates(), "cause": WORDS, "clue": WORDS}),
    min_size=1,
    max_size=3,
)


@settings(max_examples=7, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(owner=WORDS, units=UNITS)
def test_any_job_comes_back_as_it_was(shelf, tmp_path, owner, units):
    """Round trip byte for byte, over jobs that nobody thought of; Frictionless reads each as it is."""
    now = timezone.now()
    job = Job.objects.create(name="Made up", machine="Tide clock", owner=owner, made=1984)
    for number, told in enumerate(units):
        unit = Unit.objects.create(
            job=job,
            name=f"U{number}",
            found=told["found"],
            next_look=told["look"],
            next_look_of=told["cause"][:200],
            hours_a_day=2.5,
        )
        board = Board.objects.create(unit=unit, name="PS-1", monitor_model="", rails="+5 V 1 A min 0.2 A")
        Clue.objects.create(unit=unit, board=board, kind=Clue.SIGN, text=told["clue"] or "hums", at=now)
        Cause.objects.create(
            unit=unit, board=board, ref="C1", failure="dried out", words=told["cause"], outcome="ruled out", at=now
        )
        Mend.objects.create(board=board, line="trace C1 + to C2 + wire 0.3 insulated before OL")
        for place, facts in enumerate(told["parts"], 1):
            plain = {key: value for key, value in facts.items() if key not in ("swapped", "kept")}
            part = Part.objects.create(board=board, ref=f"C{place}", **plain)
            if facts["swapped"]:
                Swap.objects.create(
                    part=part, item="GP105-100u-16", value=1e-4, kind="wet", mounting="radial", safety=""
                )
            elif facts["kept"]:
                Choice.objects.create(part=part, action=Choice.KEEP, item="", verdict="keep")
    path = tmp_path / "job.zip"
    _, data = leaving.bundle_of(job.pk)
    path.write_bytes(data)
    came = take_in(path)
    assert leaving.bundle_of(came.pk)[1] == data
    with zipfile.ZipFile(path) as bundle:
        bundle.extractall(tmp_path / "open")
    report = frictionless.Package(str(tmp_path / "open" / "datapackage.json")).validate()
    assert report.valid, report.flatten(["title", "message"])[:5]


def test_what_was_ordered_and_what_matters_go_along_and_no_parcel_is_waited_for_there(client, worked, tmp_path):
    part = Choice.objects.exclude(item="").first().item
    order = Order.objects.create(supplier="North =Quay", at=timezone.now(), postage=3.5, lead_days=4)
    OrderLine.objects.create(order=order, part=part, quantity=5, price=0.2)
    OrderLine.objects.create(order=order, part="of another job", quantity=1, price=9.0)
    unit = worked.units.get()
    ShopHours.objects.create(weights={str(unit.pk): 5.0, "999": 0.2})
    path = written(tmp_path, worked)
    page = json.loads(files(path)["job.json"])
    assert [(p["supplier"], p["part"], p["quantity"]) for p in page["job"]["parcels"]] == [("North =Quay", part, 5)]
    assert page["weights"] == {unit.name: 5.0}
    Order.objects.all().delete()
    ShopHours.objects.all().delete()
    came = take_in(path)
    assert not Order.objects.exists(), "a parcel comes to the shop that ordered it"
    assert ShopHours.objects.get().weights == {str(came.units.get().pk): 5.0}
    assert leaving.bundle_of(came.pk)[1] == path.read_bytes()
    sheet = client.get(reverse("sheet", args=[came.units.get().pk])).content.decode()
    assert "Ordered for this job, with supplier" in sheet and part in sheet


@pytest.mark.parametrize(
    "lie",
    [
        {"weights": {"nobody": 1.0}}, {"weights": [1]}, {"weights": {"A": -1}}, {"weights": {"A": 1e9}}, {"parcels": [{"part": "x"}]},
        {"parcels": ["x"]}, {"parcels": {}}, {"parcels": [{"supplier": 1, "at": "", "part": "", "quantity": 1, "price": 1}]},
    ],
)  # fmt: skip
def test_made_up_parcels_and_weights_are_refused_whole(worked, tmp_path, lie):
    path = written(tmp_path, worked)
    page = json.loads(files(path)["job.json"])
    page["job"] |= {key: value for key, value in lie.items() if key == "parcels"}
    page |= {key: value for key, value in lie.items() if key == "weights"}
    jobs = Job.objects.count()
    with pytest.raises(BadInput):
        take_in(changed(path, job__json=json.dumps(page).encode()))
    assert Job.objects.count() == jobs and not ShopHours.objects.exists()
