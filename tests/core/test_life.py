"""Signs of life: a clock by its frequency, a level, a line with what it should do."""

import pytest

from idlebench.core.prove import BoardFacts, power_up
from idlebench.core.prove.typed_readings import read_reading
from idlebench.core.text.rails_and_chips import chip_line, read_chip, read_rail

LINE = "U1 cpu 20x8 gnd 20 +5V 40 clock 18 16MHz clock 19 2MHz clock 21 high 5 low 6,7 moves 33 (pulses at each key) moves 35"


def checks():
    board = BoardFacts(
        name="MB-1",
        row="b1",
        supply="linear",
        rails=(read_rail("+5V 1A"),),
        chips=(read_chip(LINE),),
        source_volts=9.0,
        source_va=20.0,
    )
    life = next(step for step in power_up([board]) if step.key == "life")
    return {check.point: check for check in life.checks}


def test_a_line_with_frequencies_levels_and_patterns_is_written_back():
    chip = read_chip(LINE)
    assert read_chip(chip_line(chip)) == chip and "clock 18 16MHz" in chip_line(chip)
    # lines of before mean what they meant
    assert [p.kind for p in read_chip("U1 cpu gnd 20 clock 18 moves 33,34").pins][1:] == [
        ("clock", "", 0.0, ""),
        *[("activity", "", 0.0, "")] * 2,
    ]


@pytest.mark.parametrize(
    ("point", "reading", "good"),
    [
        ("U1 pin 18", "16.01 MHz", True), ("U1 pin 18", "8MHz", False), ("U1 pin 18", "16M", True), ("U1 pin 19", "2.0MHz", True),
        ("U1 pin 19", "0", False), ("U1 pin 5", "4.8", True), ("U1 pin 5", "1.4", False), ("U1 pin 6", "0.2", True), ("U1 pin 7", "1.4", False),
        ("U1 pin 33", "yes", True), ("U1 pin 40", "5.02", True),
    ],
)  # fmt: skip
def test_a_pin_is_judged_by_what_it_should_be(point, reading, good):
    check = checks()[point]
    assert check.passes(read_reading(check, reading)) == good and not check.safety


def test_what_a_line_should_do_is_asked_in_its_own_words():
    found = checks()
    assert found["U1 pin 33"].ask == "As it should be: pulses at each key." and "not stuck" in found["U1 pin 35"].ask
    assert found["U1 pin 21"].kind == "activity" and "U1 pin 20" not in found
