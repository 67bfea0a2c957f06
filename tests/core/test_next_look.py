"""When a machine is looked at again: by its parts' own life, never by a round number."""

import pytest

from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.next_look import LOOK_AT, Wearing, next_look, wears
from idlebench.core.refusal import BadInput


def place(**more):
    facts = {
        "ref": "C1",
        "value": 1000e-6,
        "volts": 16.0,
        "kind": "wet",
        "mounting": "radial",
        "role": "decoupling",
        **more,
    }
    return need_of(Fitted(**facts), Mains())


def test_the_life_of_rules_is_what_it_counts_from():
    """2000 h at 85 °C, ripple 0.9 of the rating, at 60 °C: 12 906 h (rules, 3)."""
    new = Capacitor(
        part="N1",
        series="S",
        kind="wet",
        value=1000e-6,
        volts=16.0,
        temperature=85.0,
        life=2000.0,
        ripple=1.0,
        ripple_frequency=100.0,
    )
    worn = wears("C1", place(ripple=0.9, frequency=100.0, ambient=60.0), new)
    assert worn.hours == pytest.approx(12_906, rel=2e-4)
    look = next_look([worn], 24)
    assert look.years == pytest.approx(2 / 3 * 12_906 / 8766, rel=1e-3)
    assert look.days == round(look.years * 365.25)


def test_an_old_part_counts_half_of_a_plain_one_and_comes_first():
    new = Capacitor(part="N1", series="S", kind="wet", value=1000e-6, volts=16.0, temperature=105.0, life=5000.0)
    old, fresh = wears("C1", place(ambient=45.0)), wears("C2", place(ambient=45.0), new)
    assert old.hours == pytest.approx(0.5 * 2000 * 2**4 * 2) and old.old
    look = next_look([fresh, old], 12)
    assert look.first is old and look.first.part == "the old 1000 µF"


@pytest.mark.parametrize("hours", [0, 0.5, 4, 24])
def test_seals_age_whatever_the_hours_say(hours):
    lasting = Wearing(place="C1", part="N1", hours=131_400.0, ambient=40.0)
    assert next_look([lasting], hours).years <= LOOK_AT * 15 + 1e-9
    assert next_look([lasting], 0).years == pytest.approx(10)


def test_dry_parts_do_not_wear_and_a_day_has_24_hours():
    assert wears("C1", place(kind="film")) is None
    assert (
        wears("C1", place(), Capacitor(part="F", series="S", kind="film", value=1e-6, volts=63.0, life=100_000.0))
        is None
    )
    assert next_look([], 4) is None
    for wrong in (-1, 25, float("nan")):
        with pytest.raises(BadInput, match="0 to 24 hours"):
            next_look([Wearing(place="C1", part="N1", hours=1e4, ambient=40.0)], wrong)


def test_a_part_that_is_nearly_spent_is_looked_at_in_a_quarter_not_at_once():
    assert next_look([Wearing(place="C1", part="N1", hours=10.0, ambient=100.0)], 24).years == 0.25
