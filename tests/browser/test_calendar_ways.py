"""The calendar by keyboard: planned, its hours said, and moved by a parcel that is late."""

from django.utils import timezone
from playwright.sync_api import Page, expect

from idlebench.web.records.models import CatalogueItem, Order, OrderLine


def test_a_late_parcel_moves_the_calendar(page: Page, surveyed, server):
    from idlebench.web.choose.services import take_all

    take_all(surveyed.pk)
    CatalogueItem.objects.update(stock=0)
    order = Order.objects.create(supplier="Quay Parts", at=timezone.now(), lead_days=3)
    for item in surveyed.parts.filter(choice__action="take").values_list("choice__item", flat=True):
        OrderLine.objects.create(order=order, part=item, quantity=1, price=0.5)

    page.goto("/")
    page.get_by_role("navigation", name="Rooms").get_by_role("link", name="Calendar").click()
    expect(page.locator("main")).to_contain_text("Nothing is planned yet")
    page.keyboard.press("h")
    page.locator("#c-hours").fill("1.5")
    page.locator("#c-hours").press("Enter")
    expect(page.locator(".said")).to_contain_text("Hours saved")
    page.keyboard.press("p")
    expect(page.get_by_role("status").filter(has_text="Planned")).to_contain_text("Planned: 5 tasks", timeout=30_000)
    page.keyboard.press("b")
    expect(page.get_by_role("region", name="Waiting")).to_contain_text("The parcel arrives")
    before = page.get_by_role("row").filter(has_text="Swap the parts on order").inner_text()
    assert page.locator("svg.lanes .bar").count() >= 3

    Order.objects.update(lead_days=12)
    page.keyboard.press("p")
    expect(page.get_by_role("status").filter(has_text="Planned")).to_contain_text("5 moved", timeout=30_000)
    page.keyboard.press("b")
    expect(page.get_by_role("region", name="What has moved")).to_contain_text("Swap the parts on order")
    assert page.get_by_role("row").filter(has_text="Swap the parts on order").inner_text() != before
    page.goto("/")
    expect(page.get_by_role("region", name="Now")).to_contain_text("waits")
