"""A megabyte of anything in any field: read in one go or refused by its length, never looked through again and again.

Those that were not took from twenty seconds to a minute and a half each: such a one shows in how long this file takes.
"""

import pytest

from idlebench.core.board import devices, dismantle, parts, quickline, tables, zones
from idlebench.core.choose import shelf_line
from idlebench.core.circuit import supply_lines
from idlebench.core.judge import measure
from idlebench.core.refusal import BadInput
from idlebench.core.text import csvtable, dates, marking, nets, quantity, rails_and_chips, stored
from idlebench.instruments import read_address

SIZE = 1_000_000
PIECES = (
    " ",
    "1",
    "(",
    "[",
    "ab ",
    "1.",
    "a,",
    '"',
    "1x",
    "\n",
    "C1 10u 16V\n",
    "-",
    "+5V ",
    "1 ",
    "1e",
    ";",
    "µ",
    "/",
)
READERS = {
    "a quantity": lambda text: quantity.read(text, "V"), "a marking": marking.read_marking, "a date": dates.read_date,
    "dates": lambda text: dates.dated(text, 1984), "a rail": rails_and_chips.read_rail, "a chip": rails_and_chips.read_chip,
    "a line": quickline.read_line, "a device": devices.read_device, "a zone": zones.read_zone, "a step": dismantle.read_step,
    "a part of one's own": shelf_line.read_own, "a supply": supply_lines.read_model, "a reading": measure.read_typed_reading,
    "looks": parts.read_looks, "a class": parts.read_safety, "an address": read_address, "nets": nets.read_nets,
    "a survey": tables.read_survey, "a catalogue": tables.read_catalogue, "a reference": tables.read_ref,
    "a cell": lambda text: csvtable.rearmed(csvtable.disarmed(text)),
    "stored lines": lambda text: stored.read_lines(text, "rails", rails_and_chips.read_rail),
}  # fmt: skip


@pytest.mark.parametrize("name", READERS)
def test_a_megabyte(name):
    for piece in (*PIECES, "1" + " " * SIZE + "x"):
        text = piece * (SIZE // len(piece)) if len(piece) < SIZE else piece
        try:
            READERS[name](text)
        except BadInput as error:
            assert len(str(error)) < 2000


@pytest.mark.parametrize(
    ("read", "text"),
    [
        (rails_and_chips.read_rail, "+5 V " + "1 " * 300),
        (rails_and_chips.read_chip, "U1 " + "ab " * 2000),
        (quickline.read_line, "C1 10u " + "x" * 400),
        (zones.read_zone, "heat 70 " + "x " * 600),
    ],
)
def test_a_line_that_is_too_long_is_told_so(read, text):
    with pytest.raises(BadInput, match=r"at most \d+ characters.*There are \d+"):
        read(text)
