"""Price lists of suppliers: which column is which, prices by quantity, what cannot be read."""

import pytest

from idlebench.core.board import column_map
from idlebench.core.board.column_map import read_foreign
from idlebench.core.board.tables import read_catalogue
from idlebench.core.plan import foreign_offers
from idlebench.core.plan.foreign_offers import check, guess, pieces_in, quantity_in, read_offers
from idlebench.core.plan.orders import Offer
from idlebench.core.refusal import BadInput

LIST = (
    "Order code;Description;Available;MOQ;Lead time (weeks);Unit price;Price 10+;from 100\n"
    "GR-100-25;radial;1200 pcs;5;2;€0,24;0.20 €;0,12\n"
    "GR-47-16;radial;;1;;0.10;;\n"
)


def test_a_price_list_is_guessed_and_read():
    foreign = read_foreign(LIST)
    columns = check(guess(foreign.header), foreign.header, "North Quay")
    assert columns == {
        "part": "Order code", "pack": "MOQ", "stock": "Available", "lead_days": "Lead time (weeks)",
        "price_1": "Unit price", "price_2": "Price 10+", "price_3": "from 100",
    }  # fmt: skip
    read = read_offers(foreign, columns, "North Quay")
    assert not read.problems
    assert read.offers == (
        # the price without a quantity counts from the first pack on
        Offer(
            part="GR-100-25",
            supplier="North Quay",
            pack=5,
            breaks=((5, 0.24), (10, 0.20), (100, 0.12)),
            stock=1200,
            lead_days=14.0,
        ),
        Offer(part="GR-47-16", supplier="North Quay", pack=1, breaks=((1, 0.10),), stock=None, lead_days=14.0),
    )
    assert len(read_offers(foreign, columns, "North Quay", most=1).offers) == 1


def test_the_lists_that_are_shown_as_examples_are_read_whole_by_what_is_guessed_of_them():
    ours = read_foreign(foreign_offers.EXAMPLE)
    read = read_offers(ours, check(guess(ours.header), ours.header, "North Quay"), "North Quay")
    assert not read.problems and read.offers[0].breaks == ((5, 0.24), (10, 0.20), (100, 0.12))
    theirs = column_map.read_foreign(column_map.EXAMPLE)
    found = column_map.check_map(theirs.guess, theirs.header)
    assert set(found.values()) == set(theirs.header), "every column of it is one of ours"
    parts = read_catalogue(column_map.translated(theirs, found))
    assert not parts.problems and [p.value for p in parts.parts] == [100e-6, 220e-6]
    assert parts.parts[0].diameter == 6.3 and parts.parts[0].ripple == 0.25


@pytest.mark.parametrize(
    ("header", "quantity", "pieces"),
    [
        ("1", 1, 1), ("10+", 10, 1), ("@25", 25, 1), ("500 or more", 500, 1), ("Price 2500", 2500, 1), ("Unit price", None, 1),
        ("Price per 100", None, 100), ("€/1000 from 5000", 5000, 1000), ("Voltage", None, 1), ("Cap 10", None, 1), ("qty 3", 3, 1),
    ],
)  # fmt: skip
def test_a_heading_says_from_how_many_and_of_how_many(header, quantity, pieces):
    assert (quantity_in(header), pieces_in(header)) == (quantity, pieces)


def test_prices_of_a_hundred_and_one_cell_for_all_and_suppliers_of_their_own():
    foreign = read_foreign("part,vendor,Price per 100\nA,Slip Road,12\nA,,11\n")
    columns = check(guess(foreign.header), foreign.header, "North Quay")
    assert [(o.supplier, o.breaks) for o in read_offers(foreign, columns, "North Quay").offers] == [
        ("Slip Road", ((1, 0.12),)), ("North Quay", ((1, 0.11),)),
    ]  # fmt: skip
    cell = read_foreign("part,supplier,breaks\nA,N,1:0.20 10:0.12\n")
    assert read_offers(cell, check(guess(cell.header), cell.header)).offers == (
        Offer(part="A", supplier="N", pack=1, breaks=((1, 0.2), (10, 0.12)), stock=None, lead_days=14.0),
    )


@pytest.mark.parametrize(
    ("row", "column", "said"),
    [
        ("A,1,free", "price", "free"), ("A,1,0", "price", "a price above 0"), ("A,1,-0.2", "price", "-0.2"), ("A,0,0.2", "pack", "1 or more"),
        (",1,0.2", "part", "a part"), ("A,many,0.2", "pack", "many"), ("A,1,0.2\nA,1,0.3", "part", "Line 2 offers the same"),
    ],
)  # fmt: skip
def test_rows_that_cannot_be_read_are_named_and_the_rest_is(row, column, said):
    foreign = read_foreign(f"part,pack,price\n{row}\nB,1,0.5\n")
    read = read_offers(foreign, guess(foreign.header), "N")
    assert [(p.column, said in p.complaint) for p in read.problems] == [(column, True)]
    assert "B" in [offer.part for offer in read.offers]


def test_a_row_without_a_price_is_offered_for_nothing_known():
    foreign = read_foreign("part,pack,price\nA,1,\nB,1,0.5\n")
    read = read_offers(foreign, guess(foreign.header), "N")
    assert [(offer.part, offer.priced) for offer in read.offers] == [("A", False), ("B", True)] and not read.problems


@pytest.mark.parametrize(
    ("change", "supplier", "said"),
    [
        ({"part": ""}, "N", "the column that holds the part"), ({}, "", "who sells it"), ({"price_1": "", "price_2": ""}, "N", "holds a price"),
        ({"price_2": "Price 1+"}, "N", "each column once"), ({"pack": "Nowhere"}, "N", "one of the columns"), ({"breaks": "note"}, "N", "not both"),
        ({"price_3": "1 pcs €"}, "N", "from 1 pieces on"),
    ],
)  # fmt: skip
def test_a_map_that_does_not_go_with_the_list(change, supplier, said):
    header = ("part", "Price 1+", "Price 10+", "1 pcs €", "note")
    columns = {"part": "part", "price_1": "Price 1+", "price_2": "Price 10+"} | change
    with pytest.raises(BadInput) as refused:
        check(columns, header, supplier)
    assert said in str(refused.value)


@pytest.mark.parametrize("name", ["Ripple " + "1" * 16_000, "x" * 121, "Price 1" + "." * 500])
def test_a_heading_is_refused_before_anything_looks_for_words_in_it(name):
    with pytest.raises(BadInput) as refused:
        read_foreign(f"part,{name}\nA,1\n")
    assert "at most 120 characters" in str(refused.value)


def test_a_frequency_in_a_heading_is_read_whole():
    assert (
        column_map.read_foreign("part,Ripple 100kHz mA,value,volts\nA,1,1u,16\n").guess["ripple"] == "Ripple 100kHz mA"
    )
    assert column_map.read_foreign(f"part,Ripple {'1' * 100},b\nA,1,1\n").header[1].startswith("Ripple 1")
