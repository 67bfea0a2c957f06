"""The Shelf and the policies by hand: an export matched and taken, a part's curves, a policy of one's own on a board; photos dropped."""

import pytest
from playwright.sync_api import Page, expect

from idlebench.web.records.models import CatalogueItem, ColumnMap, Photo, ShopPolicy

pytestmark = pytest.mark.django_db(transaction=True)

EXPORT = "Order code;Family;Cap (uF);Rated voltage V;Dia mm;Length mm;Ripple mA;Price\nQ-1;GZ;100;16;6,3;11;250;0,12\nQ-2;GZ;220;16;8;11.5;330;0,15\n"


def test_an_export_is_matched_looked_at_and_taken(page: Page, shelf):
    page.goto("/shelf/")
    page.keyboard.press("m")
    file = {"name": "export.csv", "mimeType": "text/csv", "buffer": EXPORT.encode()}
    page.get_by_label("The export, CSV").set_input_files(file)
    page.get_by_role("button", name="Check it").click()
    expect(page.get_by_label("As it is read")).to_contain_text("Q-1")
    # a wrong match is told before anything is taken
    page.locator("#map-volts").select_option("")
    page.get_by_role("button", name="Check again").click()
    expect(page.get_by_role("alert")).to_contain_text("holds the volts")
    page.locator("#map-volts").select_option("Rated voltage V")
    page.get_by_label("Save this match as").fill("North Quay export")
    page.get_by_role("button", name="Import it").click()
    expect(page.locator(".said")).to_contain_text("2 parts added")
    assert (
        CatalogueItem.objects.get(part="Q-2").ripple == pytest.approx(0.33)
        and ColumnMap.objects.get().name == "North Quay export"
    )
    page.goto("/shelf/part/Q-1/")
    expect(page.locator("figure")).to_have_count(1)
    expect(page.get_by_label("Figures")).to_contain_text("100 µF")


def test_the_shelf_is_narrowed_by_its_filters(page: Page, shelf):
    page.goto("/shelf/")
    page.get_by_label("Kind", exact=True).select_option("polymer")
    rows = page.locator("#rows tbody tr")
    expect(rows.first).to_contain_text("polymer")
    page.get_by_label("Least volts").fill("25 V")
    expect(page.locator("#rows tbody")).not_to_contain_text(" 16 V ")
    expect(rows.first).to_contain_text("25 V")


def test_a_policy_of_ones_own_beside_another(page: Page, surveyed):
    page.goto("/policies/")
    page.get_by_role("link", name="Write your own").click()
    page.get_by_label("Its name").fill("Kind for kind")
    page.get_by_label("What to replace").select_option("mend")
    page.get_by_label("Kind of part").select_option("same")
    page.get_by_role("button", name="Save this policy").click()
    expect(page.get_by_role("columnheader", name="Kind for kind")).to_contain_text("the shop's own")
    assert ShopPolicy.objects.get().data["kinds"] == "same"
    page.goto(f"/board/{surveyed.pk}/choose/")
    page.keyboard.press("p")
    page.get_by_label("The other policy").select_option("kind-for-kind")
    page.get_by_role("button", name="Compare").click()
    expect(page.get_by_label("Outcomes")).to_contain_text("Kind for kind")
    expect(page.get_by_label("Outcomes").locator("tr").nth(1).locator("td").nth(1)).to_have_text("2")


def test_a_photo_is_dropped_on_the_page(page: Page, surveyed):
    page.goto(f"/unit/{surveyed.unit_id}/photos/")
    data = page.evaluate_handle(
        """async () => {
            const canvas = document.createElement("canvas"); canvas.width = 320; canvas.height = 200;
            canvas.getContext("2d").fillRect(20, 20, 100, 80);
            const blob = await new Promise(done => canvas.toBlob(done, "image/png"));
            const data = new DataTransfer(); data.items.add(new File([blob], "dropped.png", { type: "image/png" })); return data;
        }"""
    )
    page.dispatch_event("form.dropping", "drop", {"dataTransfer": data})
    expect(page.locator(".said")).to_contain_text("1 taken")
    photo = Photo.objects.get()
    assert (photo.width, photo.height) == (320, 200)
    expect(page.locator("figure img")).to_have_attribute("src", f"/photo/{photo.pk}.small.jpg")
