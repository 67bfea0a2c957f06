"""A supplier's price list on its page: matched, looked at, taken; in odd shapes, long, in another currency, and out again."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.web.gather import terms
from idlebench.web.records.models import ColumnMap, SupplierOffer
from tests.core.test_list_words import lists

PRICES = "Order code;Available;Unit price;Price 10+\nGR-1;40;0,24;0,20\nGR-2;;lots;0.10\n"


def test_a_price_list_is_looked_at_taken_and_its_match_kept(client, db):
    def send(**typed):
        response = client.post(reverse("gather_offers"), {"supplier": "Mast Supplies", **typed})
        return response.status_code, response.content.decode()

    status, html = send(file=SimpleUploadedFile("prices.csv", PRICES.encode()))
    assert status == 200 and "1+ €0.24<" in html and "10+ €0.20<" in html and "Line 3" in html
    named = {
        "map_part": "Order code",
        "map_stock": "Available",
        "map_price_1": "Unit price",
        "map_price_2": "Price 10+",
    }
    status, html = send(table=PRICES, name="Mast", take="1", **named)
    assert status == 422 and "nothing was imported" in html and not SupplierOffer.objects.exists()
    assert send(table=PRICES, name="", good="1", **named)[0] == 422 and not SupplierOffer.objects.exists()
    assert send(table=PRICES, name="Mast", good="1", **named)[0] == 302
    offer = SupplierOffer.objects.get()
    assert (offer.part, offer.supplier.name, offer.stock, offer.breaks) == (
        "GR-1",
        "Mast Supplies",
        40,
        [[1, 0.24], [10, 0.2]],
    )
    assert ColumnMap.objects.get().what == "offers"
    # the next list of theirs is matched by what was kept, whatever a guess would say
    later = "Unit price;Price 10+;Order code;Old code\n0,30;0,25;GR-1;X\n"
    status, html = send(table=later, kept="Mast")
    assert status == 200 and "1+ €0.30<" in html and 'value="Mast"' in html
    for sent, said in (({"table": ""}, "Choose a file"), ({"table": later, "supplier": "", "take": "1", "name": "Mast", **named}, "one of the columns"),
                        ({"table": later, "supplier": ""}, "who sells it")):  # fmt: skip
        status, html = send(**sent)
        assert status == 422 and said in html
    assert SupplierOffer.objects.get().breaks == [[1, 0.24], [10, 0.2]]


def test_a_match_kept_for_the_parts_of_a_supplier_serves_for_its_prices(client, db):
    columns = {"part": "Code", "value": "Cap (uF)", "volts": "WV", "price": "Net", "stock": "Free"}
    ColumnMap.objects.create(name="North Quay", columns=columns)
    given = {"supplier": "North Quay", "kept": "North Quay", "table": "Code,Cap (uF),WV,Net,Free\nGR-9,100,25,0.4,12\n"}
    html = client.post(reverse("gather_offers"), given).content.decode()
    assert "1+ €0.40<" in html and "GR-9" in html
    # kept for prices beside it, and not instead
    taken = client.post(
        reverse("gather_offers"),
        {**given, "kept": "", "name": "North Quay", "take": "1", "map_part": "Code", "map_price_1": "Net"},
    )
    assert taken.status_code == 302 and ColumnMap.objects.get(what="parts").columns == columns
    assert ColumnMap.objects.get(what="offers").columns == {"part": "Code", "price_1": "Net"}


def test_three_odd_lists_go_in_and_come_out_again(client, db):
    for n, table in enumerate(lists(60)):
        sent = {"supplier": f"Shop {n}", "table": table}
        page = client.post(reverse("gather_offers"), sent)
        named = {f"map_{ours}": theirs for ours, theirs in page.context["preview"].columns.items()}
        named |= {"map_from_1": "1", "map_from_2": "10"} if n == 2 else {}
        answer = client.post(reverse("gather_offers"), {**sent, **named, "name": f"list {n}", "take": "1"})
        assert answer.status_code == 302, answer.content.decode()
    assert SupplierOffer.objects.count() == 180
    assert ColumnMap.objects.get(name="list 2").columns["from_2"] == "10"
    before = list(SupplierOffer.objects.values_list("part", "supplier__name", "pack", "breaks", "stock", "lead_days"))
    table = client.get(reverse("gather_offers_csv")).content
    SupplierOffer.objects.all().delete()
    client.post(reverse("gather_offers"), {"table": table.decode()})
    assert sorted(
        SupplierOffer.objects.values_list("part", "supplier__name", "pack", "breaks", "stock", "lead_days")
    ) == sorted(before)


def test_lists_of_five_thousand_rows_go_in_and_come_out_again(db):
    maps = (
        {"part": "Bestellnummer", "stock": "Bestand", "pack": "VPE", "lead_days": "Lieferzeit", "price_1": "Stückpreis", "price_2": "Preis ab 10"},
        {"part": "Order code", "stock": "Stock", "lead_days": "Lead time", "breaks": "Price list"},
        {"part": "Référence", "stock": "Disponibilité", "lead_days": "Délai", "price_1": "Prix A", "price_2": "Prix B", "from_1": "1", "from_2": "10"},
    )  # fmt: skip
    for n, (table, columns) in enumerate(zip(lists(5000), maps, strict=True)):
        assert terms.load_foreign(table.encode(), columns, f"Shop {n}", f"list {n}", good_rows=False).offers == 5000
    rows = SupplierOffer.objects.order_by("id").values_list(
        "part", "supplier__name", "pack", "breaks", "stock", "lead_days"
    )
    before = sorted(rows, key=str)
    assert len(before) == 15_000
    table = terms.written_offers()
    SupplierOffer.objects.all().delete()
    assert terms.load_offers(table.encode()) == (15_000, [])
    assert sorted(rows.all(), key=str) == before


def test_all_columns_are_matched_on_one_page_and_one_key_takes_the_rest(client, db):
    table = "Code;A;B;C\nGR-1;0,3;0,2;0,1\nGR-2;0,3;;\nGR-3;lots;;\n"
    sent = {"supplier": "Mast", "table": table, "map_part": "Code"}
    prices = {f"map_price_{n}": h for n, h in ((1, "A"), (2, "B"), (3, "C"))}
    refused = client.post(reverse("gather_offers"), {**sent, **prices})
    assert refused.status_code == 422 and "Type the least quantity beside the column" in refused.content.decode()
    typed = {"map_from_2": "10", "map_from_3": "100", "name": "Mast"}
    page = client.post(reverse("gather_offers"), {**sent, **prices, **typed}).content.decode()
    assert "2 good rows" in page and "Line 4, column A" in page
    assert client.post(reverse("gather_offers"), {**sent, **prices, **typed, "take": "1"}).status_code == 422
    assert not SupplierOffer.objects.exists()
    assert client.post(reverse("gather_offers"), {**sent, **prices, **typed, "good": "1"}).status_code == 302
    assert SupplierOffer.objects.get(part="GR-1").breaks == [[1, 0.3], [10, 0.2], [100, 0.1]]


def test_a_list_in_another_currency_asks_its_rate(client, db):
    sent = {
        "supplier": "Mast",
        "table": "Code,Price $\nGR-1,0.50\n",
        "map_part": "Code",
        "map_price_1": "Price $",
        "name": "Mast",
    }
    asked = client.post(reverse("gather_offers"), {**sent, "take": "1"})
    assert (
        asked.status_code == 422
        and "the exchange rate, € per USD" in asked.content.decode()
        and 'name="rate"' in asked.content.decode()
    )
    assert client.post(reverse("gather_offers"), {**sent, "take": "1", "rate": "-1"}).status_code == 422
    assert client.post(reverse("gather_offers"), {**sent, "take": "1", "rate": "0.9"}).status_code == 302
    assert SupplierOffer.objects.get().breaks == [[1, 0.45]]
