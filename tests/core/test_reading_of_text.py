"""How people write: thousands, units apart, old spellings, codes, dates, lines that are kept. rules.md §1 in cases."""

import pytest

from idlebench.core.board.column_map import guess, read_foreign, scale_of, translated
from idlebench.core.board.devices import Device, read_device
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.quickline import read_line, sections
from idlebench.core.board.tables import read_catalogue, read_survey, read_value
from idlebench.core.choose.need import Mains
from idlebench.core.choose.supply_model import places_of, read_model, reckon
from idlebench.core.judge.measure import read_typed_reading
from idlebench.core.prove import BoardFacts, Proof, interlocks
from idlebench.core.refusal import BadInput
from idlebench.core.text.dates import hold, read_date
from idlebench.core.text.marking import read_marking
from idlebench.core.text.quantity import read
from idlebench.core.text.rails_and_chips import Rail, chip_line, read_chip, read_rail
from idlebench.core.text.stored import canonical, read_lines


@pytest.mark.parametrize(
    ("text", "value"),
    [("1,000 µF", 1e-3), ("2,200uF", 2.2e-3), ("4,7 µF", 4.7e-6), ("0,047 µF", 47e-9), ("10,000 µF", 10e-3), ("4,700 pF", 4.7e-9),
     ("1,000,000 pF", 1e-6), ("12,5 nF", 12.5e-9), ("3,300u", 3.3e-3), ("1,0000 µF", 1e-6), ("2,200.5 µF", 2.2005e-3)],
)  # fmt: skip
def test_a_comma_is_thousands_where_a_can_may_have_the_value(text, value):
    assert read(text, "F") == pytest.approx(value)
    assert read_value(text, "wet") == pytest.approx(value)


@pytest.mark.parametrize("text", ["4,725 µF", "1,234 µF", "9,999u"])
def test_where_both_are_possible_it_is_asked(text):
    for reader in (lambda: read(text, "F"), lambda: read_value(text, "wet"), lambda: read_marking(text, "wet")):
        with pytest.raises(BadInput, match="can mean"):
            reader()


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [("2,000 h", "h", 2000), ("100,000 Hz", "Hz", 1e5), ("1,000 V", "V", 1000), ("4,700 Ω", "Ω", 4700)],
)
def test_thousands_of_other_units(text, unit, value):
    assert read(text, unit) == value


@pytest.mark.parametrize(("text", "unit"), [("1,460 A", "A"), ("12,500 mm", "mm"), ("1,234 V", "V")])
def test_thousands_of_other_units_are_asked_where_both_go(text, unit):
    with pytest.raises(BadInput, match="can mean"):
        read(text, unit)


def test_tables_read_commas_the_same_way():
    got = read_survey('ref,value,volts\nC1,"1,000 µF",16\nC2,"4,7 µF",25\nC3,"4,725 µF",25\n')
    assert [p.value for p in got.parts] == [1e-3, pytest.approx(4.7e-6)]
    assert [(p.line, "4725 or 4.725" in p.complaint) for p in got.problems] == [(4, True)]


def test_units_apart_from_their_numbers():
    line = read_line("C1 100 uF 16 V 6.3x11 esr 6.8 ohm ambient 60 °C note 5 V rail")
    assert (line.changes["value"], line.changes["volts"], line.changes["esr"]) == (1e-4, 16.0, 6.8)
    assert line.changes["note"] == "5 V rail" and line.rest == []
    assert read_marking("100 uF 16 V", "wet").best.text == "100 µF 16 V"


@pytest.mark.parametrize("kind", ["wet", "polymer", "tantalum"])
def test_mf_on_an_electrolytic_is_microfarads_everywhere(kind):
    assert (
        read_value("100mF", kind) == pytest.approx(read_marking("100mF", kind).best.capacitance) == pytest.approx(1e-4)
    )
    assert read_line(f"C1 100mF 16V {kind}").changes["value"] == pytest.approx(1e-4)
    assert read_survey(f"ref,value,kind\nC1,100 mF,{kind}\n").parts[0].value == pytest.approx(1e-4)


def test_mf_is_asked_where_nobody_knows_what_it_is_of():
    with pytest.raises(BadInput, match="as on old parts"):
        read("4.7 mF", "F")
    assert read("4m7", "F") == pytest.approx(4.7e-3), "m in the place of the point is today's way of writing"


@pytest.mark.parametrize(
    ("text", "value", "volts"),
    [("105", 1e-6, None), ("336V", 33e-6, 35.0), ("107C", 100e-6, 16.0), ("226A", 22e-6, 10.0)],
)
def test_codes_on_a_tantalum(text, value, volts):
    best = read_marking(text, "tantalum").best
    assert (best.capacitance, best.volts) == (pytest.approx(value), volts)
    changes = read_line(f"C1 {text} tantalum").changes
    assert changes["value"] == pytest.approx(value) and changes.get("volts") == volts


def test_a_real_rating_is_still_volts():
    assert read_line("C1 10u 350V").changes["volts"] == 350.0
    assert read_line("C1 10u 16V tantalum").changes["volts"] == 16.0


def test_100f_is_doubted():
    assert read_marking("100F", "wet").doubtful and len(read_marking("100F", "").readings) > 1
    with pytest.raises(BadInput):
        read_value("100F", "wet")


def test_a_part_marked_in_ac_is_film_on_the_mains():
    part = read_line("C3 0.1u 250V~ X2").part()
    assert (part.kind, part.safety, part.role, part.value) == ("film", "X2", "mains_x", 1e-7)
    assert read_line("C3 0.1u 250VAC").part().kind == "film"


def test_a_capacitance_in_a_run_is_no_resistance():
    assert read_typed_reading("98n") == (None, 98e-9)
    assert read_typed_reading("0.4 98n") == read_typed_reading("98n 0.4") == (0.4, 98e-9)
    for bad in ("", "1 2", "98n 1u", "1 2 3"):
        with pytest.raises(BadInput):
            read_typed_reading(bad)


# dates


def test_a_date_without_a_century_takes_the_machines():
    assert read_date("2512", 1928)[0].text == "week 12 of 1925"
    assert read_date("2512", 2026)[0].text == "week 12 of 2025"
    assert read_date("4012", 1942)[0].year == 1940


@pytest.mark.parametrize(
    ("text", "said"), [("7853", "1978 had 52"), ("8478", "no week 78"), ("8453", "1984 had 52"), ("8400", "no week 0")]
)
def test_an_impossible_week_says_so(text, said):
    with pytest.raises(BadInput, match=said):
        read_date(text)


def test_week_53_of_a_year_that_has_it():
    assert hold("8153", 1982).text == "week 53 of 1981" and hold("7852", 1984).text == "week 52 of 1978"


# lines that are kept


@pytest.mark.parametrize("text", ["J1 power +5V", "J1 power +5V 20x8"])
def test_a_chip_line_that_could_not_be_read_again_is_not_taken(text):
    with pytest.raises(BadInput, match="pins after"):
        read_chip(text)


def test_a_rail_too_small_to_be_written_is_refused():
    with pytest.raises(BadInput, match=r"0\.1 V"):
        read_rail("+0.00005 V")


def test_a_battery_with_a_long_note_is_refused_before_it_makes_a_page_unreadable():
    with pytest.raises(BadInput, match="400"):
        canonical("BT1 battery 3.6V at 10,20 " + "note " + "x" * 370, read_device, Device.as_line)
        canonical("BT1 battery 3.6V at 100.25,200.25 " + "y" * 365, read_device, Device.as_line)


@pytest.mark.parametrize("text", ["+5 V 3.1 A min 0.3 A", "-12V 0.5A tol 10", "+3,3 V 1 A"])
def test_a_good_line_is_kept_in_one_way_of_writing(text):
    line = canonical(text, read_rail, Rail.as_line)
    assert canonical(line, read_rail, Rail.as_line) == line


def test_one_bad_line_hides_no_other_and_shuts_power():
    chips, unread = read_lines("U1 cpu 40x14 gnd 20\nJ1 power +5V\nU2 gnd 7", "chips", read_chip)
    assert [c.ref for c in chips] == ["U1", "U2"] and unread[0].line == "J1 power +5V" and "pins" in unread[0].why
    board = BoardFacts(
        name="PS-1",
        supply="linear",
        parts=(Fitted(ref="C1", value=1e-4),),
        rails=(read_rail("+5 V 1 A"),),
        unread=("chips: J1 power +5V",),
    )
    assert "unread" in [r.rule for r in interlocks.power(Proof(boards=(board,)), "full")]
    assert "unread" in [r.rule for r in interlocks.hand_over(Proof(boards=(board,)))]


def test_what_is_listed_is_moved_and_nothing_of_it_is_lost():
    from idlebench.core.text.rails_and_chips import over

    chip = read_chip("U1 processor 46x14 at 10,20 gnd 20 +5V 40")
    assert chip_line(over(chip, read_chip("U1 at 80,90"))) == "U1 processor 46x14 at 80,90 gnd 20 +5V 40"
    assert chip_line(over(chip, read_chip("U1 gnd 21"))) == "U1 processor 46x14 at 10,20 +5V 40 gnd 21"


# stores in series and the doubler: half the volts each, half the value


def parts(**facts):
    return {ref: Fitted(ref=ref, value=value, volts=200, role="bulk") for ref, value in facts.items()}


def test_two_stores_in_series_share_the_volts_and_count_half():
    model = read_model("bridge mains 4ohm store C8+C9 current 0.16A")
    assert model[0].stores == ("C8", "C9")
    told, wrong = places_of(model, parts(C8=200e-6, C9=200e-6), Mains(230, 50))
    whole, _ = places_of(
        read_model("bridge mains 4ohm store C7 current 0.16A"),
        {"C7": Fitted(ref="C7", value=100e-6, volts=400)},
        Mains(230, 50),
    )
    assert not wrong and told["C8"].volts == told["C9"].volts == pytest.approx(whole["C7"].volts / 2)
    assert told["C8"].ripple == pytest.approx(whole["C7"].ripple, rel=0.02), "the same current runs through both"
    uneven, _ = places_of(model, parts(C8=100e-6, C9=300e-6), Mains(230, 50))
    assert uneven["C8"].volts == pytest.approx(3 * uneven["C9"].volts), "the smaller holds more"


def test_a_doubler_charges_each_store_from_its_own_half_wave():
    (branch,) = read_model("doubler mains 4ohm store C8+C9 current 0.1A")
    state = reckon(branch, parts(C8=220e-6, C9=220e-6), Mains(115, 60))
    alone = reckon(read_model("half mains 4ohm store C8 current 0.1A")[0], parts(C8=220e-6), Mains(115, 60))
    assert state.places["C8"].volts == pytest.approx(115 * 1.1 * 2**0.5 - 0.55, abs=0.02)
    assert state.places["C9"].ripple == pytest.approx(alone.places["C8"].ripple)
    lowest = next(f for f in state.figures if f.name.startswith("Lowest")).after
    assert lowest == pytest.approx(2 * next(f for f in alone.figures if f.name.startswith("Lowest")).after)


@pytest.mark.parametrize(
    "text",
    [
        "doubler mains 4ohm store C8 current 0.1A",
        "bridge mains 4ohm store C8+C8 current 0.1A",
        "doubler mains 4ohm store C8,C9 current 0.1A",
    ],
)
def test_what_is_no_pair_is_refused(text):
    with pytest.raises(BadInput):
        read_model(text)


# foreign tables: a column's own unit


@pytest.mark.parametrize(
    ("header", "unit", "factor"),
    [("Impedance 100kHz (mΩ)", "Ω", 1e-3), ("ESR mOhm @ 100 kHz", "Ω", 1e-3), ("Ripple 100kHz (mA)", "A", 1e-3), ("Cap (uF)", "F", 1e-6),
     ("Life kh", "h", 1e3), ("Height mm", "mm", 1.0), ("Frequency kHz", "Hz", 1e3)],
)  # fmt: skip
def test_a_column_is_read_by_its_own_unit(header, unit, factor):
    assert scale_of(header, unit)[0] == factor


def test_a_foreign_row_takes_the_frequency_of_its_heading():
    table = "Part no;Capacitance uF;Rated volt.;Impedance 100kHz (mΩ);Ripple current 100kHz (mA)\nA1;100;25;45;400\n"
    foreign = read_foreign(table)
    found = read_catalogue(translated(foreign, guess(foreign.header))).parts[0]
    assert (found.esr, found.esr_frequency) == (pytest.approx(0.045), 100e3)
    assert (found.ripple, found.ripple_frequency) == (pytest.approx(0.4), 100e3)


def test_a_safety_part_with_ac_volts_alone_is_whole():
    got = read_catalogue("part,value,volts,ac_volts,safety,kind\nX1,100n,,275,X2,film\nP1,100n,,,,film\n")
    assert [p.part for p in got.parts] == ["X1"] and got.parts[0].rated == "275 V~"
    assert (
        "volts" in got.problems[0].column
        and Capacitor(part="C", series="S", kind="wet", value=1e-6, volts=25).rated == "25 V"
    )


# tables of others as a survey

EDITOR = """Designator,Val,Package,PosX,PosY,Rot,Layer
C1,100uF/16V,CP_D6.3,12.5mm,-30.25mm,0,top
"C2, C3",100n,C_5mm,500mil,-10,90,bottom
R1,10k,R_0207,40,-40,180,top
U1,cpu,DIP40,60,-50,0,top
C4,no value,CP,1,-1,0,top
"""


def test_the_placement_table_of_a_board_editor_is_read_under_its_own_headings():
    """Y runs up in an editor and down in ours; turns are counted against the clock; 500 mil is 12.7 mm."""
    from idlebench.core.board.placement import read_placement

    found = read_placement(EDITOR)
    got = {p.ref: p for p in found.read.parts}
    assert list(got) == ["C1", "C2", "C3"] and found.others == 2
    assert (got["C1"].value, got["C1"].x, got["C1"].y, got["C1"].side) == (pytest.approx(1e-4), 12.5, 30.25, "parts")
    assert (got["C2"].x, got["C2"].angle, got["C3"].side) == (12.7, 270.0, "solder")
    assert [p.column for p in found.read.problems] == ["value"] and "no value" in str(found.read.problems[0])


@pytest.mark.parametrize(
    "header",
    [
        "Reference\tValue\tx\ty\tturn\tside",
        "ref des\tcomment\tMid X\tMid Y\tRotation\tLayer",
        "Part ref\tVal\tcentre x\tcentre y\tangle\tTB",
    ],
)
def test_headings_of_any_editor(header):
    from idlebench.core.board.placement import is_placement, read_placement

    assert is_placement(header.split("\t"))
    part = read_placement(f"{header}\nC7\t47u\t10\t20\t0\tTop\n").read.parts[0]
    assert (part.ref, part.x, part.y, part.side) == ("C7", 10.0, 20.0, "parts")


def test_our_own_survey_is_not_taken_for_a_foreign_one():
    from idlebench.core.board.placement import is_placement

    assert not is_placement(["ref", "value", "x", "y"]) and not is_placement(["C1", "100u", "16V"])


@pytest.mark.parametrize(
    ("line", "changes"),
    [
        ("C1 104k", {"value": 1e-7, "kind": "film"}), ("C1 473K", {"value": 47e-9, "kind": "film"}), ("C1 104J 100V film", {"value": 1e-7, "volts": 100.0, "kind": "film"}),
        ("C1 2A104J", {"value": 1e-7, "volts": 100.0, "kind": "film"}), ("C1 104K100", {"value": 1e-7, "volts": 100.0, "kind": "film"}),
        ("C1 104M 50V ceramic", {"value": 1e-7, "volts": 50.0, "kind": "ceramic"}), ("C1 100uF/16V", {"value": 1e-4, "volts": 16.0}), ("C1 100u/16", {"value": 1e-4, "volts": 16.0}),
        ("C1 220/25", {"value": 220e-6, "volts": 25.0}), ("C1 100uF16V", {"value": 1e-4, "volts": 16.0}), ("C1 470uF,25V", {"value": 470e-6, "volts": 25.0}),
        ("C1 47u16", {"value": 47e-6, "volts": 16.0}), ("C1 100n/250V~", {"value": 1e-7, "volts": 250.0, "kind": "film"}), ("C1 4u7 16V", {"value": 4.7e-6, "volts": 16.0}),
        ("C1 2,2u 50V", {"value": 2.2e-6, "volts": 50.0}), ("C1 336V tantalum", {"value": 33e-6, "volts": 35.0, "kind": "tantalum"}),
    ],
)  # fmt: skip
def test_value_and_volts_are_read_as_they_stand_on_a_part_and_the_volts_are_never_lost(line, changes):
    assert read_line(line).changes == pytest.approx(changes)


def test_sections_with_their_volts_in_one_word():
    assert [read_line(one).changes["volts"] for one in sections("C1 16+16/450V")] == [450.0, 450.0]
