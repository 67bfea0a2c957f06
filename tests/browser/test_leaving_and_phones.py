"""A phone pairs, looks, is refused a write, is given work, is ended; a job leaves and comes back; a backup is restored."""

import io
import re

import pytest
import zxingcpp
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from idlebench.web.records.models import Device, Entry, Job, Unit
from idlebench.web.ui import local_only
from tests import typed

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def phone(browser: Browser, server, monkeypatch, settings):
    """A phone: its requests are taken for those of another device."""
    settings.ADDRESS = "127.0.0.1"

    def from_here(request):
        return "X-From-The-Phone" not in request.headers

    monkeypatch.setattr(local_only, "from_here", from_here)
    for room in ("devices.door", "devices.views", "keep.views"):
        monkeypatch.setattr(f"idlebench.web.{room}.from_here", from_here)
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, is_mobile=True, has_touch=True,
        extra_http_headers={"X-From-The-Phone": "yes"},
    )  # fmt: skip
    page = context.new_page()
    page.set_default_timeout(10_000)
    yield page
    context.close()


@pytest.fixture
def clock(db):
    """A job with one unit, taken in as people do."""
    return typed.take_in_job(
        {"name": "Lamp room clock", "machine": "Tide clock", "made": "1984", "units": "A"}
    ).units.get()


def describe(page: Page, unit: Unit, serial: str) -> None:
    page.goto(f"/unit/{unit.pk}/intake/")
    form = page.locator("form", has=page.locator("[name=symptoms]")).first
    form.locator("input[name=serial]").fill(serial)
    form.locator("button").first.click()


def test_a_phone_is_paired_looks_works_and_is_ended(page: Page, phone: Page, clock: Unit):
    phone.goto("/")
    expect(phone.locator("h1")).to_have_text("Pair this device")
    page.goto("/")
    page.get_by_role("navigation").get_by_role("link", name="Devices").click()
    expect(page.locator("h1")).to_have_text("Devices")
    page.keyboard.press("l")
    expect(page.locator("#digits")).to_have_text(re.compile(r"\d{3} \d{3}"))

    # what is drawn on the screen is read by another library, as a camera would
    drawn = Image.open(io.BytesIO(page.locator("#drawn-code").screenshot()))
    address = zxingcpp.read_barcode(drawn).text
    assert "/pair/?t=" in address
    phone.goto(address)
    expect(phone.locator("body")).to_contain_text("The code is correct")
    phone.get_by_label("Name of this device").fill("Mara's phone")
    phone.get_by_role("button", name="Pair").click()
    expect(phone.locator("h1")).to_have_text("On the bench")

    # it looks, and writes nothing
    describe(phone, clock, "LOOKED")
    expect(phone.locator("h1")).to_have_text("No access from here")
    expect(phone.locator("body")).to_contain_text("may only read")
    clock.refresh_from_db()
    assert clock.serial == ""

    # it is given work, and its name stands beside what it does
    page.goto("/devices/")
    page.get_by_role("button", name="Allow writing").click()
    expect(page.locator("body")).to_contain_text("works")
    describe(phone, clock, "WORKED")
    expect(phone.locator("h1")).to_contain_text("Intake of unit A")
    clock.refresh_from_db()
    assert clock.serial == "WORKED" and Entry.objects.first().device == "Mara's phone"
    page.goto("/ledger/")
    expect(page.locator("tbody tr").filter(has=page.locator("td")).first).to_contain_text("Mara's phone")

    # pairing and bringing back are not for it
    phone.goto("/devices/")
    expect(phone.locator("body")).to_contain_text("Pairing is done on the workshop's own machine")
    phone.goto("/backups/")
    assert phone.get_by_role("button", name="Make a backup").count() == 0

    # ended, it is out at once
    page.goto("/devices/")
    page.get_by_role("button", name="End Mara's phone").click()
    expect(page.locator("body")).to_contain_text("Ended: Mara's phone")
    phone.goto("/")
    expect(phone.locator("h1")).to_have_text("Pair this device")
    assert Device.objects.get().ended is not None


def test_six_digits_are_typed_where_there_is_no_camera(page: Page, phone: Page, clock: Unit):
    page.goto("/devices/")
    page.keyboard.press("w")
    digits = page.locator("#digits").inner_text()
    phone.goto("/pair/")
    wrong = f"{(int(digits.replace(' ', '')) + 1) % 1_000_000:06d}"
    phone.get_by_label("Six digits").fill(wrong)
    phone.get_by_label("Name of this device").fill("Bench tablet")
    phone.get_by_role("button", name="Pair").click()
    expect(phone.get_by_role("alert")).to_contain_text("a wrong code")
    phone.get_by_label("Six digits").fill(digits)
    phone.get_by_role("button", name="Pair").click()
    expect(phone.locator("h1")).to_have_text("On the bench")
    describe(phone, clock, "TABLET")
    expect(phone.locator("h1")).to_contain_text("Intake of unit A")


def test_a_job_leaves_is_removed_and_comes_back(page: Page, clock: Unit, tmp_path):
    page.goto(f"/unit/{clock.pk}/intake/")
    with page.expect_download() as begun:
        page.get_by_role("link", name=re.compile(r"Job \d+ as a file")).click()
    file = tmp_path / begun.value.suggested_filename
    begun.value.save_as(file)
    assert file.name.endswith("lamp-room-clock.zip")
    page.goto(f"/remove/job/{clock.job_id}/")
    page.keyboard.press("y")
    expect(page.locator("h1")).to_have_text("Deleted")
    assert not Job.objects.exists()
    page.goto("/backups/")
    page.get_by_label("A job's file").set_input_files(file)
    page.get_by_role("button", name="Import the job").click()
    expect(page.locator("h1")).to_contain_text("Intake of unit A")
    assert Job.objects.get().name == "Lamp room clock"
    # another file is one clear line
    other = tmp_path / "other.zip"
    other.write_bytes(b"PK\x03\x04 nothing")
    page.goto("/backups/")
    page.get_by_label("A job's file").set_input_files(other)
    page.get_by_role("button", name="Import the job").click()
    expect(page.locator("main")).to_contain_text("other.zip")
    assert Job.objects.count() == 1


def test_a_backup_is_made_and_brought_back(page: Page, clock: Unit, settings, monkeypatch, tmp_path):
    # the tables of these tests are made without migrations; bringing older ones forward is tried in tests/web/test_keeping.py
    monkeypatch.setattr("idlebench.web.keep.backups._brought_forward", lambda database, path: None)
    settings.BACKUPS = tmp_path / "backups"
    page.goto("/backups/")
    page.keyboard.press("m")
    expect(page.locator(".good.said")).to_contain_text("1 job, 1 unit")
    Job.objects.update(name="Changed since")
    page.goto("/backups/")
    page.get_by_label("in place of 1 job").check()
    page.get_by_role("button", name=re.compile("^Restore bench-")).click()
    expect(page.locator(".good.said")).to_contain_text("is restored")
    expect(page.locator(".good.said")).to_contain_text("before-restore-")
    assert Job.objects.get().name == "Lamp room clock"
    page.goto("/")
    expect(page.locator("main")).to_contain_text("Lamp room clock")


def test_the_theme_follows_the_machine_until_d_says_otherwise_and_paper_is_white(browser: Browser, server, clock: Unit):
    """On a desk in the dark: dark, light by D, dark again by D, which is the machine's own setting; printed, black on white."""
    context = browser.new_context(base_url=server, color_scheme="dark", viewport={"width": 1280, "height": 800})
    page = context.new_page()

    def ground() -> int:
        """How light the page's ground is, 0 to 255."""
        return int(re.findall(r"\d+", page.evaluate("getComputedStyle(document.body).backgroundColor"))[0])

    def ink() -> int:
        return int(re.findall(r"\d+", page.evaluate("getComputedStyle(document.querySelector('h1')).color"))[0])

    page.goto("/")
    assert ground() < 60 and ink() > 200
    page.wait_for_load_state()
    page.keyboard.press("d")
    assert ground() > 200 and ink() < 60
    page.reload()
    assert ground() > 200, "what D says is kept"
    page.wait_for_load_state()
    page.keyboard.press("d")
    assert ground() < 60 and not [c for c in context.cookies() if c["name"] == "theme"], "it follows the machine again"
    page.emulate_media(color_scheme="light")
    assert ground() > 200
    page.emulate_media(color_scheme="dark", media="print")
    assert ground() == 255 and ink() < 60
    head = page.evaluate(
        "(({position, backgroundColor}) => [position, backgroundColor])(getComputedStyle(document.querySelector('main > .head')))"
    )
    assert head == ["static", "rgb(255, 255, 255)"], "the title lies over nothing on paper"
    page.goto(f"/unit/{clock.pk}/handover.html")
    assert ink() < 60
    context.close()
