"""Every main view filled with long words, 40 rows and 12 columns: nothing is wider than its window."""

import pytest
from django.utils import timezone
from playwright.sync_api import Page

from idlebench.web.keep.backups import make
from idlebench.web.records.models import (
    Board,
    CatalogueItem,
    Clue,
    DismantleStep,
    Entry,
    Job,
    KnownFault,
    OfferOut,
    OrderLine,
    Part,
    Supplier,
    SupplierOffer,
    Unit,
    Workshop,
)

from .test_every_view import main_views

pytestmark = pytest.mark.django_db(transaction=True)

LONG = "Tidewriterlighthousedisplayterminalmainboardelectrolyticcapacitorreplacement"
#: Widths of a laptop's and of a phone's window.
WIDTHS = ((1280, 800), (390, 844))


def fill() -> None:
    """Long words wherever people type, and forty rows of what there may be many of."""
    now = timezone.now()
    unit = Unit.objects.get(name="B")
    Job.objects.update(name=LONG[:60], owner=LONG[:60])
    Board.objects.update(title=LONG[:60])
    Unit.objects.update(symptoms=f"{LONG} hums. {LONG}", found=LONG, serial=LONG[:40])
    Entry.objects.bulk_create(Entry(unit=unit, at=now, kind="note", text=f"{LONG} {n} {LONG}") for n in range(40))
    OrderLine.objects.update(part=LONG[:60])
    shop = Supplier.objects.create(name=LONG[:60])
    item = CatalogueItem.objects.get(part="LZ105-2200u-16")
    prices = [[10**n, 1 / (n + 1)] for n in range(6)]
    SupplierOffer.objects.bulk_create(
        SupplierOffer(part=item.part, supplier=shop, pack=n, breaks=prices) for n in range(1, 41)
    )
    OfferOut.objects.create(part=LONG[:60], supplier=LONG[:60], at=now)
    CatalogueItem.objects.filter(part__in=CatalogueItem.objects.values_list("part")[:40]).update(
        note=LONG * 2, supplier=LONG[:60]
    )
    KnownFault.objects.bulk_create(
        KnownFault(unit=unit, text=f"{LONG} {n}", owner=LONG[:40], at=now) for n in range(40)
    )
    Clue.objects.bulk_create(Clue(unit=unit, text=f"{LONG} {n}", at=now) for n in range(40))
    DismantleStep.objects.bulk_create(DismantleStep(unit=unit, text=f"{LONG} {n}", at=now) for n in range(40))
    Part.objects.filter(board__unit=unit).update(series=LONG[:40], note=f"{LONG} {LONG}"[:120])
    Workshop.objects.create(name=LONG, lines=f"{LONG}\n{LONG}", contact=LONG, worker=LONG, answered=LONG)


def wider(page: Page, width: int, height: int) -> list[str]:
    """What reaches beyond the window, from the inside out."""
    page.set_viewport_size({"width": width, "height": height})
    if page.evaluate("document.documentElement.scrollWidth") <= width:
        return []
    return page.evaluate(
        """(most) => [...document.querySelectorAll("body *")].filter(e => e.getBoundingClientRect().right > most + 1
        && !e.closest(".scroll")).map(e => e.tagName + "." + e.className.toString().slice(0, 70)).slice(0, 4)""",
        width,
    )


def test_nothing_is_wider_than_its_window_however_long_its_words(page: Page, demo, settings, tmp_path):
    views = main_views() | {
        "backups": "/backups/",
        "workshop": "/workshop/",
        "devices": "/devices/",
        "found": "/find/?q=tidewriter",
    }
    fill()
    settings.BACKUPS = tmp_path
    make(tmp_path / "day-2026-01-01.zip")
    found = []
    for name, url in views.items():
        page.goto(url)
        page.evaluate("document.querySelectorAll('main details').forEach(fold => fold.open = true)")
        found += [(name, width, who) for width, height in WIDTHS if (who := wider(page, width, height))]
    assert not found, "\n".join(map(str, found))


def test_a_price_list_of_twelve_columns_and_forty_rows_stays_in_its_window(page: Page, demo, tmp_path):
    table = tmp_path / "list.csv"
    header = ["Order code", *(f"{LONG} {n}" for n in range(8)), "Stock", "Unit price", "Price 10+"]
    rows = [[f"{LONG}{n}", *([LONG] * 8), "40", "0.20", "lots" if n % 3 else "0.10"] for n in range(40)]
    table.write_text("\n".join(";".join(row) for row in [header, *rows]))
    found = []
    for url in ("/gather/offers/", "/shelf/foreign/"):
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(url)
        page.set_input_files("input[type=file]", str(table))
        if page.locator("#supplier").count():
            page.fill("#supplier", LONG[:60])
        page.locator("main button.act").click()
        page.wait_for_selector("text=As it is")
        found += [(url, width, who) for width, height in WIDTHS if (who := wider(page, width, height))]
    assert not found, "\n".join(map(str, found))
