"""Cells of price lists in other languages and with either decimal sign; headings by which columns are guessed; three odd lists whole."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.column_map import read_foreign
from idlebench.core.plan.foreign_offers import check, currency_of, guess, read_offers
from idlebench.core.plan.list_words import COMMA, POINT, days, number, pairs, stock, style_of
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("text", "style", "value"),
    [
        ("1.250", COMMA, 1250), ("1.250", POINT, 1.25), ("1,250", POINT, 1250), ("1,250", COMMA, 1.25), ("1.250,5", "", 1250.5),
        ("1,250.5", "", 1250.5), ("0.125", COMMA, 0.125), ("0,125", POINT, 0.125), ("12,5 €", POINT, 12.5), ("1.250.000", "", 1250000),
        ("1 250,00", "", 1250), ("1'250.00 CHF", "", 1250), ("€ 3", "", 3), ("−2", "", -2),
    ],
)  # fmt: skip
def test_a_number_is_read_by_the_sign_of_its_list(text, style, value):
    assert number(text, style) == pytest.approx(value)


@pytest.mark.parametrize("text", ["1.250", "1,250", "", "lots", "3 or 4", "1.2.3", "1 25"])
def test_a_number_that_is_none_or_could_be_two_is_asked(text):
    with pytest.raises(BadInput):
        number(text)


@given(st.floats(0.0001, 99_999).map(lambda x: round(x, 4)), st.sampled_from(["", "€ {}", "{} EUR"]))
def test_any_price_comes_back_whatever_the_sign(value, around):
    plain = f"{value:,.4f}"
    german = plain.translate(str.maketrans(",.", ".,"))
    for text, style in ((plain, POINT), (german, COMMA)):
        assert number((around or "{}").format(text), style) == pytest.approx(value)


@pytest.mark.parametrize(
    ("cells", "style"),
    [
        (["0,24", "1.250"], COMMA),
        (["1,250", "3.5"], POINT),
        (["0,24", "0.24"], ""),
        (["12", ""], ""),
        (["1.250,00"], COMMA),
        (["1.2.3"], ""),
        (["1.250.000"], COMMA),
    ],
)
def test_the_decimal_sign_of_a_list(cells, style):
    assert style_of(cells) == style


@pytest.mark.parametrize(
    ("text", "pieces"),
    [("yes", None), ("Ja", None), ("auf Lager", None), ("en stock", None), ("> 100", 100), ("100+", 100), ("1.250 Stk", 1250), ("no", 0),
     ("nicht auf Lager", 0), ("niet op voorraad", 0), ("Rupture de stock", 0), ("out of stock", 0), ("0", 0), ("", None), ("in stock: 40", 40)],
)  # fmt: skip
def test_stock_in_words(text, pieces):
    assert stock(text) == pieces


@pytest.mark.parametrize("text", ["< 10", "ask us", "-3", "2.5", "3 or 4"])
def test_stock_that_says_nothing_is_refused(text):
    with pytest.raises(BadInput):
        stock(text, POINT)


@pytest.mark.parametrize(
    ("text", "found"),
    [("next day", 1), ("2-3 Tage", 3), ("2 – 3 jours", 3), ("1 Woche", 7), ("2 weken", 14), ("48 h", 2), ("3", 3), ("ca. 10 days", 10),
     ("morgen", 1), ("1 month", 30), ("5 bis 7 Werktage", 7), ("", None)],
)  # fmt: skip
def test_days_in_words(text, found):
    assert days(text) == found


@pytest.mark.parametrize("text", ["on request", "2 3 4", "2000 days"])
def test_days_that_are_none_are_refused(text):
    with pytest.raises(BadInput):
        days(text)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("1: $0.25; 10: $0.18", [("1", "$0.25"), ("10", "$0.18")]), ("1-9 = 0,25 / 10+ 0,18", [("1", "0,25"), ("10", "0,18")]),
        ("1+ €0.20 | 100+ €0.12", [("1", "€0.20"), ("100", "€0.12")]), ("10 @ 0.18", [("10", "0.18")]), ("ab 5", []),
        ("1 Stk: 0,25 €; 10 Stk: 0,18 €", [("1", "0,25 €"), ("10", "0,18 €")]),
    ],
)  # fmt: skip
def test_breaks_in_one_cell(text, found):
    assert pairs(text) == found


@pytest.mark.parametrize(
    ("header", "ours"),
    [
        ("Bestellnummer;Bestand;VPE;Lieferzeit (Wochen);Stückpreis;Preis ab 10",
         {"part": "Bestellnummer", "stock": "Bestand", "pack": "VPE", "lead_days": "Lieferzeit (Wochen)", "price_1": "Stückpreis",
          "price_2": "Preis ab 10"}),
        ("Référence;Désignation;Disponibilité;Conditionnement;Délai;Prix unitaire;dès 100",
         {"part": "Référence", "stock": "Disponibilité", "pack": "Conditionnement", "lead_days": "Délai", "price_1": "Prix unitaire",
          "price_2": "dès 100"}),
        ("Artikelnummer;Leverancier;Voorraad;Verpakking;Levertijd;Prijs;vanaf 25",
         {"part": "Artikelnummer", "supplier": "Leverancier", "stock": "Voorraad", "pack": "Verpakking", "lead_days": "Levertijd",
          "price_1": "Prijs", "price_2": "vanaf 25"}),
    ],
)  # fmt: skip
def test_german_french_and_dutch_headings_are_guessed(header, ours):
    assert guess(header.split(";")) == ours


GERMAN = "Bestellnummer;Bestand;VPE;Lieferzeit;Stückpreis;Preis ab 10\n"
ENGLISH = "Order code,Stock,Lead time,Price list\n"
FRENCH = "Référence\tDisponibilité\tDélai\tPrix A\tPrix B\n"


def lists(rows):
    """Three odd lists of the same parts: a German export, breaks in a cell, two prices whose quantity no heading says."""
    german = GERMAN + "".join(f"P{i};1.{i % 1000:03};5;2-3 Tage;{1 + i % 7},25 €;0,9\n" for i in range(rows))
    english = ENGLISH + "".join(f'P{i},yes,next day,"1: €{1 + i % 7}.25; 10: €0.90"\n' for i in range(rows))
    french = FRENCH + "".join(f"P{i}\t> 100\t1 semaine\t{1 + i % 7},25\t0,90\n" for i in range(rows))
    return german, english, french


def test_three_odd_lists_of_five_thousand_rows_are_read_whole():
    german, english, french = (read_foreign(text) for text in lists(5000))
    found = []
    for foreign, more in ((german, {}), (english, {}), (french, {"from_1": "1", "from_2": "10"})):
        columns = check(guess(foreign.header, foreign.rows) | more, foreign.header, "North Quay")
        found.append(read_offers(foreign, columns, "North Quay"))
    assert [(len(one.offers), one.problems) for one in found] == [(5000, ())] * 3
    assert [one.offers[8].breaks for one in found] == [
        ((5, 2.25), (10, 0.9)),
        ((1, 2.25), (10, 0.9)),
        ((1, 2.25), (10, 0.9)),
    ]
    assert [(one.offers[8].stock, one.offers[8].lead_days, one.offers[8].pack) for one in found] == [
        (1008, 3.0, 5), (None, 1.0, 1), (100, 7.0, 1),
    ]  # fmt: skip
    assert [one.currency for one in found] == ["EUR", "EUR", ""]


def test_what_cannot_be_read_names_their_column_and_the_line_of_the_file():
    foreign = read_foreign('Code;Preis\n\nA;"0,2"\n"two\nlines";lots\nB;1.250\nC;0,25\n')
    columns = check(guess(foreign.header), foreign.header, "N")
    read = read_offers(foreign, columns, "N")
    assert [(p.line, p.column) for p in read.problems] == [(4, "Preis")] and "lots" in str(read.problems[0])
    assert [o.breaks for o in read.offers] == [((1, 0.2),), ((1, 1250.0),), ((1, 0.25),)]


def test_a_number_that_could_be_two_is_asked_where_the_list_shows_no_sign():
    foreign = read_foreign("Code,Price\nA,1.250\n")
    columns = check(guess(foreign.header), foreign.header, "N")
    (problem,) = read_offers(foreign, columns, "N").problems
    assert "1250 or 1.250" in problem.complaint and "number format" in problem.complaint
    assert read_offers(foreign, columns, "N", style=POINT).offers[0].breaks == ((1, 1.25),)
    assert read_offers(foreign, columns, "N", style=COMMA).offers[0].breaks == ((1, 1250.0),)


def test_currency_is_said_and_brought_to_ours():
    foreign = read_foreign("Code,Price ($)\nA,0.50\n")
    columns = check(guess(foreign.header), foreign.header, "N")
    assert currency_of(foreign, columns) == "USD"
    assert read_offers(foreign, columns, "N", rate=0.9).offers[0].breaks == ((1, 0.45),)
    mixed = read_foreign("Code,Price\nA,$0.50\nB,€0.50\n")
    with pytest.raises(BadInput, match="one currency"):
        read_offers(mixed, {"part": "Code", "price_1": "Price"}, "N")
    apart = read_foreign("Code,Price,Currency\nA,0.50,GBP\n")
    assert currency_of(apart, check({"part": "Code", "price_1": "Price"}, apart.header, "N")) == "GBP"


@pytest.mark.parametrize("typed", ["0", "-1", "ten", "1.5", "9999999999"])
def test_a_quantity_that_is_none_is_refused(typed):
    with pytest.raises(BadInput) as wrong:
        check({"part": "Code", "price_1": "A", "from_1": typed}, ["Code", "A"], "N")
    assert wrong.value.field == "from_1"
    with pytest.raises(BadInput, match="Type the least quantity"):
        check({"part": "Code", "price_1": "A", "price_2": "B", "from_1": "5", "from_2": "5"}, ["Code", "A", "B"], "N")
