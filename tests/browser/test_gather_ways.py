"""Gather for the whole shop, by keyboard and mouse: a plan over two jobs, ordered, delivered short, finished with a stand-in."""

import re

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import CatalogueItem, Choice, OrderLine, Supplier
from idlebench.web.survey.services import paste
from tests import typed

PARTS = "C1 2200u 16V 16x25 p7.5 bulk rail +5V worst 16 ripple 0.5 at 30,30 looks leaking\nC2 100u 16V 6.3x11 p2.5 decoupling rail +5V at 60,30 esr 6.8"


@pytest.fixture
def two_jobs(surveyed):
    """Two jobs of which each wants the same two parts; one shop sells them, nothing lies here."""
    from idlebench.web.choose.services import take_all

    CatalogueItem.objects.update(stock=0, supplier="Quay Parts", price=0.5, pack=1, lead_days=3)
    Supplier.objects.create(name="Quay Parts", postage=4.0)
    other = typed.take_in_job({"name": "Weather desk", "machine": "Rain recorder", "made": "1982", "units": "A"})
    second = typed.add_board(other.units.get(), {"name": "RB-2", "width": "120", "height": "80", "expected": "2"})
    paste(second, PARTS, good_rows=False)
    for board in (surveyed, second):
        take_all(board.pk)
    return second


def test_an_order_over_two_jobs_is_delivered_short_and_finished_with_a_stand_in(page: Page, two_jobs, server):
    page.goto("/")
    page.get_by_role("navigation", name="Rooms").get_by_role("link", name="Gather").click()
    expect(page.locator("h1")).to_have_text("Gather for all jobs")
    expect(page.locator("main")).to_contain_text("4 places of 2 jobs wait for a part")
    page.keyboard.press("p")
    expect(page.get_by_role("status").filter(has_text="Planned")).to_contain_text("Planned: 1 parcel", timeout=30_000)
    page.keyboard.press("b")
    expect(page.get_by_role("region", name="From Quay Parts")).to_contain_text("postage €4.00")
    expect(page.locator("main")).to_contain_text("Proven cheapest")
    page.keyboard.press("o")
    expect(page.get_by_role("status").filter(has_text="Ordered")).to_contain_text("Ordered from Quay Parts")

    line = OrderLine.objects.filter(quantity=2).first()
    row = page.get_by_role("row").filter(has=page.get_by_label(f"Pieces of {line.part} that came"))
    row.get_by_label(f"Pieces of {line.part} that came").fill("3")
    row.get_by_role("button", name="Count in").click()
    expect(page.get_by_role("alert")).to_contain_text("it takes 1 to 2 pieces")
    page.get_by_label(f"Pieces of {line.part} that came").fill("1")
    page.get_by_label(f"Pieces of {line.part} that came").press("Enter")
    expect(page.locator("main")).to_contain_text(f"1 of {line.part} counted in, 1 still on order")
    page.get_by_role("button", name=f"No more of {line.part} will come").click()
    without = page.get_by_role("region", name="Places without a part")
    expect(without).to_contain_text(line.part)

    # a part that fits turns up in a drawer
    place = Choice.objects.get(part__board=two_jobs, item=line.part).part
    page.goto(f"/board/{two_jobs.pk}/choose/?place={place.ref}")
    names = page.locator("main article").evaluate_all("all => all.map(a => a.getAttribute('aria-label'))")
    other = next(n.rsplit(", ", 1)[0] for n in names if n.endswith("fits") and not n.startswith(line.part))
    row = CatalogueItem.objects.get(part=other)
    row.stock = 1
    row.save()
    page.goto("/gather/")
    page.get_by_role("link", name=re.compile(f"Other parts in stock for .*{place.ref}")).click()
    expect(page.locator("h1")).to_have_text(f"In stock for {place.ref}")
    page.keyboard.press("1")
    expect(page.locator("main")).to_contain_text(f"{other} is used instead")
    assert Choice.objects.get(part=place).item == other
    assert page.get_by_role("region", name="Places without a part").filter(has_text=line.part).count() == 0

    # the last step is taken back by its key
    page.keyboard.press("u")
    expect(page.locator("main")).to_contain_text(f"{line.part} is on order again")
