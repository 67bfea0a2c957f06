"""A new bench is a person's own: generic sizes without our prices, suppliers or stock, and what they add is found and used."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from idlebench.catalogue import house_columns, house_devices
from idlebench.core.choose.shelf_line import read_own
from idlebench.core.refusal import BadInput
from idlebench.web.records.models import CatalogueItem, DeviceChoice, ShelfDevice
from idlebench.web.survey.typed import add_typed
from idlebench.web.unit.stock import fuses, regulators

pytestmark = pytest.mark.django_db
LINE = "100u 16V 6.3x11 p2.5 105C 5000h ripple 0.4@100k esr 0.13@100k €0.20 x10 stock 4"


def test_what_ships_has_no_price_supplier_or_stock():
    for part in (*house_columns().parts, *house_devices("regulator"), *house_devices("fuse")):
        assert (part.price, part.stock, getattr(part, "supplier", "")) == (0, 0, ""), part.part


def test_the_line_of_the_issue_gives_the_part_it_says():
    part = read_own(LINE)
    assert (part.value, part.volts, part.diameter, part.height, part.pitch) == (pytest.approx(1e-4), 16, 6.3, 11, 2.5)
    assert (part.temperature, part.life, part.price, part.pack, part.stock) == (105, 5000, 0.20, 10, 4)
    assert (part.ripple, part.ripple_frequency, part.esr, part.esr_frequency) == (0.4, 100e3, 0.13, 100e3)


@pytest.mark.parametrize(
    ("line", "said"),
    [("", "a part in one line"), ("100u", "rated volts"), ("16V", "a value"), ("100u 16V wobbly", "wobbly"), ("100n X2", "rated volts"),
     ("fuse 1A 250V 5x20", "characteristic"), ("7805", "current"), ("regulator 5V 1A module", "efficiency"), ("100u 16V stock -1", "stock"),
     ("100u 16V stock 1.5", "whole number"), ("100u 16V €-3", "€-3"), ("100u -16V", "-16V"), ("100u 16V esr", "after")],
)  # fmt: skip
def test_what_cannot_be_a_part_says_what_is_missing(client, line, said):
    with pytest.raises(BadInput) as wrong:
        read_own(line)
    assert said in str(wrong.value)
    answer = client.post(reverse("shelf_own"), {"line": line})
    assert answer.status_code == 422 and (not line or line.split()[0] in answer.content.decode())


def test_one_part_of_ones_own_is_put_on_the_shelf_found_and_chosen(client, surveyed):
    answer = client.post(reverse("shelf_own"), {"line": LINE + " name MINE1"})
    assert answer.status_code == 302
    html = client.get(answer.url).content.decode()
    assert "MINE1" in html and "€0.20" in html and "MINE1 is on the Shelf" in html
    assert "MINE1" in client.get(reverse("find"), {"q": "MINE1"}).content.decode()
    assert client.post(reverse("choose_take", args=[surveyed.pk]), {"place": "C2", "item": "MINE1"}).status_code == 302


def test_a_safety_part_with_ac_volts_alone_is_shown_by_them(client):
    answer = client.post(reverse("shelf_own"), {"line": "100n 275V~ X2 18x11 p15 name XMINE"})
    html = client.get(answer.url).content.decode()
    assert "275 V~ X2" in html and "0 V" not in html.split("XMINE", 2)[2][:200]
    assert "275 V~" in client.get(reverse("shelf_part", args=["XMINE"])).content.decode()


def test_ones_own_regulator_and_fuse_are_found_and_taken(client, unit):
    for line in ("7805 1.5A €0.40 stock 3 name MYREG", "fuse T 500mA 250V 5x20 high €0.30 stock 2 name MYFUSE"):
        assert client.post(reverse("shelf_own"), {"line": line}).status_code == 302
    html = client.get(reverse("shelf"), {"q": "MYFUSE"}).content.decode()
    assert "MYFUSE" in html and "T 500 mA 250 V" in html
    assert "MYREG" in client.get(reverse("find"), {"q": "MYREG"}).content.decode()
    assert {"MYREG"} <= {r.part for r in regulators()} and {"MYFUSE"} <= {f.part for f in fuses()}
    board = unit.boards.get(name="PS-1")
    add_typed(board, "F1 fuse T 500mA 250V 5x20")
    assert client.post(reverse("other_take", args=[board.pk]), {"ref": "F1", "item": "MYFUSE"}).status_code == 302
    gather = client.get(reverse("gather", args=[unit.pk])).content.decode()
    assert "MYFUSE" in gather and "PS-1: F1" in gather
    assert "MYFUSE" in client.get(reverse("gather_csv", args=[unit.pk])).content.decode()
    assert "MYFUSE" in client.get(reverse("handover", args=[unit.pk])).content.decode()
    client.post(reverse("arrived", args=[unit.pk]), {"part": "MYFUSE", "pieces": "5"})
    assert ShelfDevice.objects.get(part="MYFUSE").stock == 7


def test_a_generic_fuse_is_counted_in_and_bought_by_its_price(client, unit):
    board = unit.boards.get(name="PS-1")
    add_typed(board, "F1 fuse T 500mA 250V 5x20")
    DeviceChoice.objects.create(board=board, ref="F1", item="FUTH5-0A5", verdict="fits")
    ShelfDevice.objects.update_or_create(part="FUTH5-0A5", defaults={"what": "fuse", "price": 0.45, "stock": 0})
    html = client.get(reverse("gather", args=[unit.pk])).content.decode()
    assert "€0.45" in html and "1 kind to buy" in html.replace("1 kinds", "1 kind")
    client.post(reverse("arrived", args=[unit.pk]), {"part": "FUTH5-0A5", "pieces": "2"})
    assert next(f for f in fuses() if f.part == "FUTH5-0A5").stock == 2


def test_a_battery_that_came_out_is_on_the_list_and_on_the_sheet(client, unit):
    board = unit.boards.get(name="MB-80")
    add_typed(board, "BT1 battery 3.6V leaking at 10,10")
    client.post(reverse("battery_out", args=[board.pk]), {"ref": "BT1"})
    assert "battery for BT1" in client.get(reverse("gather", args=[unit.pk])).content.decode()
    sheet = client.get(reverse("handover", args=[unit.pk])).content.decode()
    assert "MB-80 BT1" in sheet and "taken out" in sheet


def test_regulators_and_fuses_come_by_table_too(client):
    table = "part,series,rating,characteristic,volts_ac,breaking,size,melting,price,stock\nTF1,own,1,T,250,1500,5x20,20,0.5,4\n"
    answer = client.post(reverse("shelf_load"), {"what": "fuse", "file": SimpleUploadedFile("f.csv", table.encode())})
    assert answer.status_code == 302 and ShelfDevice.objects.get(part="TF1").stock == 4
    bad = table.replace("TF1", "TF2").replace(",1,T,", ",0,T,")
    answer = client.post(reverse("shelf_load"), {"what": "fuse", "file": SimpleUploadedFile("f.csv", bad.encode())})
    assert answer.status_code == 422 and not ShelfDevice.objects.filter(part="TF2").exists()


def test_a_name_is_of_one_part_only(client):
    client.post(reverse("shelf_own"), {"line": LINE + " name SAME"})
    answer = client.post(reverse("shelf_own"), {"line": "7805 1A name SAME"})
    assert answer.status_code == 422 and not ShelfDevice.objects.filter(part="SAME").exists()
    assert client.post(reverse("shelf_own"), {"line": LINE.replace("0.20", "0.30") + " name SAME"}).status_code == 302
    assert CatalogueItem.objects.get(part="SAME").price == 0.30


def test_a_refused_candidate_taken_by_its_key_says_why(client, surveyed):
    html = client.get(reverse("choose", args=[surveyed.pk]), {"place": "C2"}).content.decode()
    import re

    number = re.search(r"why=(\d)", html)[1]
    assert (
        "does not fit:"
        in client.get(reverse("choose", args=[surveyed.pk]), {"place": "C2", "why": number}).content.decode()
    )


def test_a_series_that_joins_the_generic_sizes_joins_a_shelf_that_has_them(shelf):
    from idlebench.web.shelf.services import JOINED, ensure_house_catalogue

    house = [p for p in house_columns().parts if p.series in JOINED]
    whole = CatalogueItem.objects.count()
    CatalogueItem.objects.filter(series__in=JOINED).delete()
    assert house and ensure_house_catalogue() == whole and ensure_house_catalogue() == whole
    # a shelf that somebody emptied of it stays as it is
    CatalogueItem.objects.filter(series__in=[*JOINED, *JOINED.values()]).delete()
    left = CatalogueItem.objects.count()
    assert ensure_house_catalogue() == left
