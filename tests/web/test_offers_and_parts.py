"""Parts without a price are ordered and in no sum; what does not come is not planned again; a part's page corrects what is known."""

import csv
import io

import pytest
from django.urls import reverse

from idlebench.core.refusal import BadInput
from idlebench.web.gather import ordering, planning, terms
from idlebench.web.keep.untouched import untouched
from idlebench.web.records.models import (
    CatalogueItem,
    Choice,
    OfferOut,
    Order,
    OrderLine,
    ShelfDevice,
    StockChange,
    Supplier,
    SupplierOffer,
)
from idlebench.web.shelf import part_record
from idlebench.web.unit.stock import forget
from idlebench.web.unit.wanted import NOBODY, stock_of


@pytest.fixture
def chosen(client, surveyed):
    """A unit whose places have their parts; nobody says any price."""
    CatalogueItem.objects.update(stock=0, supplier="", price=0.0)
    client.post(reverse("choose_all", args=[surveyed.pk]))
    assert Choice.objects.count() == 2
    yield surveyed
    # an update of many leaves no mark that the catalogue, laid out for ranking, is known by
    forget()


def priced_fit(board, ref, past):
    """A part that fits a place and stands further down than a plan looks at first."""
    page = planning.rankings_for(
        planning.states_of([board.unit_id])[0], _parts(board, ref), fits=planning.ALL, refused=0
    )
    return page[0].candidates[past].part.part


def _parts(board, ref):
    return [part for part in planning.states_of([board.unit_id])[0].parts if part.ref == ref]


def test_what_has_no_price_is_planned_ordered_counted_in_and_left_out_of_the_sum(client, chosen):
    page = client.get(reverse("gather_shop")).content.decode()
    assert "Nothing is planned yet" in page
    plan = planning.make().kept
    cost = plan.aims["cost"]
    assert not plan.missing and len(cost.unpriced) == 2 and cost.total == pytest.approx(cost.penalties)
    assert "no price for 2 places" in planning.told(plan)
    page = client.get(reverse("gather_shop")).content.decode()
    assert "No price, so not in the total:" in " ".join(page.split()) and "No part is to be bought" not in page
    rows = list(csv.DictReader(io.StringIO(client.get(reverse("gather_plan_csv")).content.decode())))
    assert rows and {(row["supplier"], row["price"], row["cost"]) for row in rows} == {(NOBODY, "", "")}
    client.post(reverse("gather_order"), {"supplier": NOBODY, "aim": "cost"})
    for line in Order.objects.get().lines.all():
        assert line.price is None
        ordering.arrived(line.pk, line.quantity)
    assert {p.source for p in planning.make().kept.aims["cost"].places} == {"shelf"}
    html = client.get(reverse("gather_shop")).content.decode()
    assert "No part is to be bought: all parts are in stock" in " ".join(html.split())


def test_one_with_a_price_is_bought_though_it_stands_far_down(chosen):
    far = priced_fit(chosen, "C2", 9)
    CatalogueItem.objects.filter(part=far).update(price=0.3)
    cost = planning.make().kept.aims["cost"]
    got = {p.ref.split()[-1]: p.part for p in cost.places}
    assert got["C2"] == far and len(cost.unpriced) == 1


def test_a_part_out_of_a_donor_is_not_ordered(chosen):
    item = Choice.objects.first().item
    CatalogueItem.objects.filter(part=item).update(used_read="2026-01-01T00:00Z")
    assert not stock_of([item]).offers


def test_nothing_offered_at_all_is_said(client, chosen):
    for item in Choice.objects.all():
        OfferOut.objects.create(part=item.item, supplier=NOBODY, at="2026-01-01T00:00Z")
        item.by_hand = True
        item.save()
    plan = planning.make().kept
    assert len(plan.missing) == 2 and "no supplier for 2 places" in planning.told(plan)
    page = " ".join(client.get(reverse("gather_shop")).content.decode().split())
    assert "No supplier is known for:" in page and "No prices yet." in page
    assert "No part is to be bought" not in page


def test_a_delivery_that_will_not_come_takes_the_offer_out_until_it_is_put_back(client, chosen):
    CatalogueItem.objects.update(price=0.5, supplier="Quay Parts")
    planning.make()
    ordering.order("Quay Parts", "cost")
    line = OrderLine.objects.first()
    client.post(reverse("gather_no_more"), {"line": line.pk})
    assert OfferOut.objects.get().supplier == "Quay Parts" and not untouched()
    planning.make()
    page = " ".join(client.get(reverse("gather_shop")).content.decode().split())
    assert f"Use the offer of {line.part} from Quay Parts again" in page
    # another is planned for the place, and what lies here stays in sight all the same
    assert line.part not in {p.part for p in planning.latest()[0].kept.aims["cost"].places}
    assert "Ordered, not delivered" in page and "Other parts in stock for" in page
    place = next(w for w in client.get(reverse("gather_shop")).context["short"] if w.part == line.part).without[0]
    other = next(p for p in planning.alternatives([place])[place.pk] if p[0] != line.part)[0]
    CatalogueItem.objects.filter(part=other).update(stock=1)
    ordering.stand_in(place.pk, other)
    assert not client.get(reverse("gather_shop")).context["short"], "one was taken"
    row = OfferOut.objects.get()
    assert client.post(reverse("gather_put_back"), {"offer": row.pk}).status_code == 302
    assert client.post(reverse("gather_put_back"), {"offer": row.pk}).status_code == 422
    assert any(offer.part == line.part for offer in stock_of([line.part]).offers)


def test_an_offer_comes_back_with_the_step_that_took_it_out(chosen):
    CatalogueItem.objects.update(price=0.5, supplier="Quay Parts")
    planning.make()
    ordering.order("Quay Parts", "cost")
    ordering.no_more(OrderLine.objects.first().pk)
    ordering.take_back()
    assert not OfferOut.objects.exists()


def test_a_price_list_does_not_bring_back_what_was_taken_out(chosen):
    item = Choice.objects.first().item
    terms.load_offers(f"part,supplier,breaks\n{item},North Quay,1:0.2\n".encode())
    OfferOut.objects.create(part=item, supplier="North Quay", at="2026-01-01T00:00Z")
    terms.load_offers(f"part,supplier,breaks\n{item},North Quay,1:0.1\n".encode())
    assert {offer.supplier for offer in stock_of([item]).offers} == {NOBODY}


def test_terms_are_corrected_and_deleted_with_their_offers(client, chosen):
    say = {"supplier": "North Quay", "postage": "4", "free_above": "never", "handling": "0.2", "minimum": "5"}
    assert client.post(reverse("gather_supplier"), say).status_code == 302
    assert Supplier.objects.get().free_above is None
    page = client.get(reverse("gather_shop"), {"terms": "North Quay"})
    assert page.context["typed"] == {**say}
    client.post(reverse("gather_supplier"), {**say, "free_above": "30"})
    assert Supplier.objects.get().free_above == 30
    SupplierOffer.objects.create(part="A", supplier=Supplier.objects.get(), breaks=[[1, 0.2]])
    assert "1 offer of this supplier is deleted, too." in " ".join(
        client.get(reverse("gather_shop")).content.decode().split()
    )
    assert client.post(reverse("gather_supplier_delete"), {"supplier": "North Quay"}).status_code == 302
    assert not Supplier.objects.exists() and not SupplierOffer.objects.exists()
    assert client.post(reverse("gather_supplier_delete"), {"supplier": "North Quay"}).status_code == 422


def test_a_parcel_is_text_to_paste(client, chosen):
    CatalogueItem.objects.update(price=0.5, supplier="Quay Parts")
    lines = planning.make().kept.aims["cost"].parcel("Quay Parts").lines
    text = client.get(reverse("gather_plan_text"), {"aim": "cost", "supplier": "Quay Parts"})
    assert text["Content-Type"].startswith("text/plain")
    assert text.content.decode().split("\n")[:-1] == [f"{line.part}, {line.quantity}" for line in lines]
    assert client.get(reverse("gather_plan_text")).content.decode().startswith("From Quay Parts\n")


def url(name):
    return reverse("shelf_part", args=[name])


def test_stock_and_price_are_corrected_on_the_parts_page_and_its_history_tells(client, chosen):
    item = Choice.objects.first().item
    page = client.get(url(item)).content.decode()
    assert "Places that need this part" in page and "No supplier" in page
    assert (
        client.post(url(item), {"do": "stock", "stock": "7", "price": "0.35", "why": "found a bag"}).status_code == 302
    )
    row = CatalogueItem.objects.get(part=item)
    assert (row.stock, row.price) == (7, 0.35)
    assert "stock corrected from 0 to 7: found a bag" in client.get(url(item)).content.decode()
    client.post(url(item), {"do": "stock", "stock": "7", "price": ""})
    assert CatalogueItem.objects.get(part=item).price == 0 and StockChange.objects.count() == 1


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ({"do": "stock", "stock": ""}, "stock"), ({"do": "stock", "stock": "-1"}, "-1"), ({"do": "stock", "stock": "1.5"}, "whole"),
        ({"do": "stock", "stock": "1", "price": "dear"}, "dear"), ({"do": "offer", "supplier": ""}, "supplier"),
        ({"do": "offer", "supplier": "N", "breaks": "1:0"}, "above 0"), ({"do": "offer", "supplier": "N", "pack": "0"}, "1 or more"),
        ({"do": "delete", "offer": "9"}, "offer of this part"), ({"do": "delete", "offer": "x"}, "offer of this part"),
        ({"do": "offer", "supplier": "N", "offer": "77"}, "offer of this part"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_on_a_parts_page_changes_nothing(client, chosen, data, said):
    item = Choice.objects.first().item
    answer = client.post(url(item), data)
    assert answer.status_code == 422 and said in answer.content.decode()
    assert not SupplierOffer.objects.exists() and not StockChange.objects.exists() and not Supplier.objects.exists()


def test_an_offer_is_typed_corrected_and_deleted_on_the_parts_page(client, chosen):
    item = Choice.objects.first().item
    client.post(url(item), {"do": "offer", "supplier": "North Quay", "breaks": "1:0.20 10:0.12", "lead_days": "3"})
    offer = SupplierOffer.objects.get()
    assert (offer.breaks, offer.stock, offer.lead_days, offer.pack) == ([[1, 0.2], [10, 0.12]], None, 3, 1)
    form = client.get(url(item), {"offer": offer.pk}).context["filled"]
    assert (form["breaks"], form["supplier"], form["lead_days"]) == ("1:0.2 10:0.12", "North Quay", "3")
    client.post(url(item), {"do": "offer", "offer": offer.pk, "supplier": "North Quay", "pack": "5", "breaks": ""})
    offer = SupplierOffer.objects.get()
    assert (offer.pack, offer.breaks) == (5, [])
    client.post(url(item), {"do": "delete", "offer": offer.pk})
    assert not SupplierOffer.objects.exists()


def test_an_offer_that_is_corrected_stays_excluded_until_a_person_uses_it_again(client, chosen):
    item = Choice.objects.first().item
    row = OfferOut.objects.create(part=item, supplier="North Quay", at="2026-01-01T00:00Z")
    part_record.save_offer(item, {"supplier": "North Quay", "breaks": "1:0.2"})
    assert {offer.supplier for offer in stock_of([item]).offers} == {NOBODY}
    page = " ".join(client.get(url(item)).content.decode().split())
    assert "North Quay did not deliver this part" in page and "Use the offer of North Quay again" in page
    client.post(reverse("gather_put_back"), {"offer": row.pk})
    assert {offer.supplier for offer in stock_of([item]).offers} == {"North Quay"}
    with pytest.raises(BadInput):
        part_record.save_offer(item, {"supplier": "x" * 61})


def test_a_correction_of_a_part_that_a_plan_only_thought_of_makes_the_plan_old(chosen):
    made = planning.make()
    settled = {choice.item for choice in Choice.objects.all()}
    other = next(part for part in made.kept.parts if part not in settled)
    assert planning.latest()[1]
    part_record.correct(other, {"stock": "0", "price": "0.10"})
    assert not planning.latest()[1]


def test_a_part_that_is_no_capacitor_has_its_page(client, chosen):
    html = client.get(reverse("shelf"), {"q": "7805"}).content.decode()
    name = html.split("/shelf/part/")[1].split("/")[0]
    assert client.get(url(name)).status_code == 200
    client.post(url(name), {"do": "stock", "stock": "3", "price": "0.4"})
    assert ShelfDevice.objects.get(part=name).stock == 3
    assert client.post(url(name), {"measured": "cap 3u"}).status_code == 422
    assert client.get(url("nobody's")).status_code == 404
