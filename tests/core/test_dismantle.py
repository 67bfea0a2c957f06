"""The dismantling log: read as typed, counted, read backwards."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.dismantle import look_alikes, read_step, still_open, tray
from idlebench.core.refusal import BadInput


@pytest.mark.parametrize(
    ("text", "screws", "plugs", "clips"),
    [
        ("lid", [], [], 0),
        ("lid: 4 screws M3x8", [(4, "M3x8")], [], 0),
        ("lid: 1 screw M3x8", [(1, "M3x8")], [], 0),
        ("lid: 4 M3x8 screws, 2 M4x10", [(4, "M3x8"), (2, "M4x10")], [], 0),
        ("lid: 6 x M3x8", [(6, "M3x8")], [], 0),
        ("fan: plug J4 to supply, 2 clips, 1 clip", [], ["J4 to supply"], 3),
        ("fan: plug J9 from switch", [], ["J9 from switch"], 0),
        ("fan: plug J4", [], ["J4"], 0),
    ],
)
def test_what_held_it(text, screws, plugs, clips):
    step = read_step(text)
    assert [(s.count, s.kind) for s in step.screws] == screws
    assert [p.text for p in step.plugs] == plugs
    assert step.clips == clips


def test_cautions_glue_and_notes():
    step = read_step(
        "tube board: glue on the neck, caution vacuum: wear goggles, slides to the back, note keep the felt"
    )
    assert step.what == "tube board" and step.glue == "on the neck"
    assert step.cautions == ("vacuum: wear goggles",)
    assert step.notes == ("slides to the back", "keep the felt")


@pytest.mark.parametrize(
    "text",
    [
        "",
        ":",
        "  : 4 screws M3x8",
        "lid: 0 screws M3x8",
        "lid: 900 screws M3x8",
        "lid: plug",
        "x" * 500,
        "lid: 999 clips",
    ],
)
def test_what_cannot_be_read(text):
    with pytest.raises(BadInput, match="expected"):
        read_step(text)


STEPS = [
    read_step(t)
    for t in (
        "lid: 4 screws M4x10, 2 clips",
        "keyboard: 2 screws M3x8, plug J6 to mainboard",
        "supply: 3 screws M3x12, plug J1 to mainboard",
    )
]


def test_still_open_counts_down_to_nothing():
    assert still_open([(s, False) for s in STEPS])[0] == "2 plugs not back: J6 to mainboard, J1 to mainboard"
    some = still_open([(STEPS[0], False), (STEPS[1], False), (STEPS[2], True)])
    assert some == (
        "1 plug not back: J6 to mainboard",
        "6 screws not back: 2 M3x8, 4 M4x10",
        "2 clips not back",
        "2 steps not reversed: keyboard, lid",
    )
    assert still_open([(s, True) for s in STEPS]) == () == still_open([])


def test_tray_holds_what_is_not_back():
    drawn = tray([(STEPS[0], False), (STEPS[1], False), (STEPS[2], True)])
    assert [(kind, count, len(xs)) for kind, count, xs, _ in drawn.rows] == [("M3x8", 2, 2), ("M4x10", 4, 4)]
    assert tray([]).rows == ()
    assert len(tray([(read_step("lid: 40 screws M3x8"), False)]).rows[0][2]) == 10, "the number says the rest"


def test_look_alikes():
    (said,) = look_alikes(STEPS)
    assert "M3x8 (keyboard) and M3x12 (supply) look alike" in said
    three = look_alikes([*STEPS, read_step("cage: 2 screws M3x6")])
    assert three[0].startswith("M3x8 (keyboard), M3x12 (supply) and M3x6 (cage)")
    assert look_alikes(STEPS[:2]) == ()


@given(st.lists(st.booleans(), min_size=3, max_size=3))
def test_every_screw_is_counted_once(back):
    steps = list(zip(STEPS, back, strict=True))
    waiting = sum(s.count for step, done in steps if not done for s in step.screws)
    assert sum(count for _, count, _, _ in tray(steps).rows) == waiting


@pytest.mark.parametrize(
    ("text", "what", "screws", "clips"),
    [
        ("lid off, 6 screws", "lid off", [(6, "size not said")], 0), ("lid off, six screws", "lid off", [(6, "size not said")], 0), ("lid, 6 x 25 mm screws", "lid", [(6, "25 mm")], 0),
        ("back, 3 clips", "back", [], 3), ("two M3x12 screws under the label", "two M3x12 screws under the label", [(2, "M3x12")], 0), ("4 M3x6 screws, 2 clips", "4 M3x6 screws", [(4, "M3x6")], 2),
        ("cage: a screw, one clip", "cage", [(1, "size not said")], 1), ("lid: 6x M3 screws", "lid", [(6, "M3")], 0), ("lid: 4 screws M3x8, 2 clips", "lid", [(4, "M3x8")], 2),
        ("keyboard off, foil inside", "keyboard off, foil inside", [], 0), ("lid: five bolts 30 mm at the back", "lid", [(5, "30 mm")], 0),
    ],
)  # fmt: skip
def test_screws_and_clips_count_however_they_are_said_and_the_tray_agrees(text, what, screws, clips):
    step = read_step(text)
    assert [(s.count, s.kind) for s in step.screws] == screws and step.clips == clips and step.what == what
    assert sum(count for _, count, _, _ in tray([(step, False)]).rows) == sum(count for count, _ in screws)
    assert bool(still_open([(step, False)]))
