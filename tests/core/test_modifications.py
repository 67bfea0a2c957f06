"""Modifications: read as typed and written back, and what of their numbers is too much."""

import pytest

from idlebench.core.board.modifications import is_modification, read_modification, troubles
from idlebench.core.board.zones import read_zone
from idlebench.core.prove import BoardFacts, Modified, cold_checks
from idlebench.core.refusal import BadInput

FULL = (
    "mod added video amplifier at 40,30 parts Q1 npn, R1 75ohm height 12 wire 0.25 heat 0.3W to92 level 1.05V of 1V ripple 4mV "
    "tried 68ohm, 82ohm back unsolder three wires at J3"
)


def test_a_modification_is_written_back_as_it_was_read():
    found = read_modification(FULL)
    assert (found.title, found.parts, found.tried) == ("added video amplifier", "Q1 npn, R1 75ohm", "68ohm, 82ohm")
    assert (found.height, found.wire, found.level, found.package) == (12.0, 0.25, (1.05, 1.0), "to92")
    assert found.ripple == pytest.approx(0.004) and read_modification(found.as_line()) == found
    assert troubles(found, [read_zone("lid 30 at 60,40 200x200")]) == ()


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("mod", "one of added"),
        ("mod painted the case back scrape it off", "one of added"),
        ("mod added back put it back", "what is added"),
        ("mod added reset button height 6", "how it is put back"),
        ("mod added button height -6 back unsolder it", "height"),
        ("mod added button heat 1W in a box back unsolder it", "a package"),
        ("mod added amplifier level 1V back unsolder it", "the level as read"),
        ("mod added button at 40 back unsolder it", "at"),
    ],
)
def test_what_says_too_little_is_refused(line, said):
    with pytest.raises(BadInput, match=said):
        read_modification(line)


@pytest.mark.parametrize(
    ("line", "zone", "words"),
    [
        ("height 20", "lid 18 at 50,50 200x200", "3 mm too high"),
        ("at 150,150 height 20", "lid 18 at 50,50 60x60", ""),
        ("height 20", "heat 70 heatsink at 40,30 60x20", ""),
        ("level 1.3V of 1V", "", "30 % too high"),
        ("level 1.09V of 1V", "", ""),
        ("level 0.8V of 1V", "", "20 % too low"),
        ("level 1V of 1V ripple 14mV", "", "10 mV or less"),
        ("ripple 14mV", "", ""),
        ("heat 1.5W to92", "", "315 °C"),
        ("heat 1W to220", "", ""),
        ("heat 20W", "", ""),
    ],
)
def test_its_numbers_are_held_against_what_is_known(line, zone, words):
    found = read_modification(f"mod added amplifier {line} back unsolder it")
    said = " ".join(troubles(found, [read_zone(zone)] if zone else []))
    assert (words in said) if words else not said


def test_it_asks_for_a_look_of_its_own_and_is_no_mend():
    assert is_modification("mod added a socket") and not is_modification("modified pad C7 + to D2 1")
    board = BoardFacts(name="MB-1", row="b1", modified=(Modified(row="n3", title="added reset button", wire=True),))
    check = next(c for c in cold_checks([board]) if c.key == "cold.mod.n3")
    assert "Its wires lie flat" in check.ask and "n3" in check.rows and not check.safety
