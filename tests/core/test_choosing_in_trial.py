"""What was wrong or silent in choosing, profiles and rails. rules.md §2 in cases."""

import json

import pytest

from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.board.profile import Profile, read_profile, write_profile
from idlebench.core.choose.columns import Columns
from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import judge_parts, rank
from idlebench.core.choose.supply_model import places_of, read_model, tell_supply
from idlebench.core.faults.ripple import ripple_suspects

OLD = Fitted(ref="C1", value=100e-6, volts=16, diameter=8, height=11.5, pitch=3.5, temperature=85)


def part(name, kind="wet", mounting="radial", **also):
    facts = {"temperature": 105, "life": 5000, "ripple": 0.5} | also
    return Capacitor(
        part=name,
        series="S",
        kind=kind,
        value=100e-6,
        volts=25,
        mounting=mounting,
        diameter=8,
        height=11.5,
        pitch=3.5,
        **facts,
    )


@pytest.mark.parametrize("kind", ["polymer", "tantalum", "ceramic"])
def test_a_place_without_a_role_takes_no_other_kind(kind):
    """It may be a timing or coupling place, where leakage counts."""
    assert judge_parts(need_of(OLD), [part("N", kind)])[0].verdict == "fails"
    assert (
        judge_parts(need_of(OLD.with_(rail_volts=5.0, role="decoupling")), [part("N", kind, ripple=3)])[0].verdict
        != "fails"
    )


def test_a_place_without_a_role_has_its_own_mounting_first():
    old = OLD.with_(mounting="axial", height=20, room_height=40.0)
    radial, axial = part("R", stock=99, life=20000), part("A", mounting="axial", life=2000)
    assert rank(need_of(old), Columns.of([radial, axial])).best.part.part == "A"


def test_a_part_no_taller_than_the_old_one_needs_no_insulation():
    """The lid is 12 mm up, the old can stood 11.5 mm: 0.5 mm of air was enough for decades."""
    old = OLD.with_(role="decoupling", room_height=12.0, room_diameter=9.0)
    assert judge_parts(need_of(old), [part("N")])[0].verdict == "fits"
    taller = Capacitor(
        part="T",
        series="S",
        kind="wet",
        value=100e-6,
        volts=25,
        mounting="radial",
        diameter=8,
        height=11.8,
        pitch=3.5,
        temperature=105,
        life=5000,
        ripple=0.5,
    )
    assert "insulate" in " ".join(r.text for r in judge_parts(need_of(old), [taller])[0].reasons)


# profiles


def test_a_profile_has_what_a_board_should_have_and_nothing_of_one_unit():
    profile = Profile(
        board="PS-1",
        parts=(Fitted(ref="C1", value=1e-4, volts=16, looks="leaking", esr=6.8, note="brown goo under it"),),
        others=(
            "BT1 battery 3.6V missing at 10,20 note taken out, was leaking",
            "T1 winding 9V 2.8A",
            "F1 fuse T 1A 250V 5x20 burst",
        ),
        source_volts=9.0,
        source_va=25.0,
    )
    back = read_profile(write_profile(profile).encode())
    assert back.others == ("BT1 battery 3.6V at 10,20", "T1 winding 2.8A 9V", "F1 fuse T 1A 250V 5x20")
    assert (back.source_volts, back.source_va) == (9.0, 25.0)
    assert (back.parts[0].looks, back.parts[0].esr, back.parts[0].note) == ("", None, "")
    assert not any(word in write_profile(profile) for word in ("leaking", "goo", "missing", "burst"))


def test_an_older_profile_without_a_transformer_is_read():
    data = json.loads(write_profile(Profile(board="PS-1")))
    assert read_profile(json.dumps(data).encode()).source_volts is None


# a rail however it is typed


@pytest.mark.parametrize("typed", ["+5", "5V", "+5 V", "5", "+5V", " + 5 V"])
def test_a_part_is_found_by_its_rail_however_it_was_typed(typed):
    parts = [
        Fitted(ref="C1", value=1e-4, volts=16, rail=typed),
        Fitted(ref="C2", value=1e-4, volts=16, rail="-5 V"),
        Fitted(ref="C3", value=1e-4, volts=25, rail="+15 V"),
    ]
    assert ripple_suspects(parts, "+5 V", frozenset({"C1", "C2", "C3"})) == ("C1",)


def test_a_part_is_found_by_its_rail_from_the_supply_line():
    model = read_model("bridge mains 10ohm store C7 converter flyback 30W at 42k\nrail +5V 3.1A stores C14,C15")
    parts = {
        r: Fitted(ref=r, value=v, volts=w)
        for r, v, w in (("C7", 220e-6, 400), ("C14", 1e-3, 10), ("C15", 1e-3, 10), ("C20", 1e-3, 10))
    }
    told, _ = places_of(model, parts)
    here = [tell_supply(p, told)[0] for p in parts.values()]
    assert ripple_suspects(here, "+5 V", frozenset(parts)) == ("C14", "C15")


def test_what_was_typed_for_the_place_itself_wins():
    told, _ = places_of(
        read_model("bridge 9V 25VA reservoir C1 regulator VR1 5V 1A"),
        {"C1": Fitted(ref="C1", value=4.7e-3, volts=25, rail="raw")},
    )
    assert tell_supply(Fitted(ref="C1", value=4.7e-3, volts=25, rail="raw"), told)[0].rail == "raw"
