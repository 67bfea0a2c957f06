"""A scope's capture: tables as scopes write them, ripple told apart by spectrum, and what is refused."""

import numpy as np
import pytest

from idlebench.core.prove.scope import Capture, drawn, read_capture, ripple_of
from idlebench.core.refusal import BadInput

TIME = np.arange(4000) / 100e3
WAVE = 12 + 0.08 * np.sin(2 * np.pi * 100 * TIME) + 0.03 * np.sign(np.sin(2 * np.pi * 21e3 * TIME))


def table(head="time,volts", row="{t:.6e},{v:.5f}", time=TIME, volts=WAVE):
    return head + "\n" + "\n".join(row.format(t=t, v=v) for t, v in zip(time, volts, strict=True)) + "\n"


@pytest.mark.parametrize(
    ("text", "columns"),
    [
        (table(), ("time", "volts")),
        (table("Model,SCO-2\nDate,2026\nTime (ms),CH1 (mV)", "{t:.5f},{v:.3f}", TIME * 1e3, WAVE * 1e3), ("Time (ms)", "CH1 (mV)")),
        (table("x;y", "{t:.6e};{v:.5f}").replace(".", ","), ("x", "y")),
        (table("index\tSecond\tVolt", "7\t{t:.6e}\t{v:.5f}"), ("Second", "Volt")),
        (table("X,CH1\ns,mV", "{t:.6e},{v:.3f}", TIME, WAVE * 1e3), ("X", "CH1")),
        (table("", "{t:.6e},{v:.5f}"), ("column 1", "column 2")),
    ],
    ids=["plain", "millis", "another locale", "tabs and an index", "a row of units", "no heading"],
)  # fmt: skip
def test_tables_as_scopes_write_them(text, columns):
    found = read_capture(text.encode())
    assert found.columns == columns and len(found.time) == 4000
    ripple = ripple_of(found, 50.0)
    assert ripple.mean == pytest.approx(12.0, abs=0.002)
    assert ripple.mains == pytest.approx(0.16, rel=0.05) and ripple.switching == pytest.approx(0.06, rel=0.35)
    assert ripple.rate == pytest.approx(21e3, rel=0.01) and ripple.twice == pytest.approx(0.08 / 2**0.5, rel=0.02)
    assert ripple.once < 0.002 and ripple.whole == pytest.approx(0.22, rel=0.06)
    assert "p-p of the mains" in ripple.words and "kHz" in ripple.words


def test_steep_edges_of_the_mains_are_no_switching():
    sags = np.minimum(12.0, 9 + 40 * np.abs(np.sin(2 * np.pi * 50 * TIME)))
    found = ripple_of(Capture(TIME, sags), 50.0)
    assert found.rate == 0 and "no distinct tone" in found.words and found.mains > 2.5 and found.twice > 10 * found.once


def test_another_channel_is_chosen_by_its_name():
    text = "t,CH1,CH2\n" + "\n".join(f"{t:.6e},5,{v:.5f}" for t, v in zip(TIME, WAVE, strict=True))
    assert ripple_of(read_capture(text), 50.0).whole == 0
    assert ripple_of(read_capture(text, volts="CH2"), 50.0).whole > 0.1
    with pytest.raises(BadInput, match="one of the columns t, CH1, CH2"):
        read_capture(text, volts="CH3")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "a table of time and volts"), ("volts\n1\n2\n3\n", "one column of numbers"), ("hello\nthere\n", "no numbers"),
        ("t,v\n0,1\n1,2\n", "at least 50"), (table(time=TIME[::-1]), "time that runs on"), (table(time=np.minimum(TIME, 0.02)), "time that runs on"),
        (table(time=TIME / 100), "a cycle of the mains or more"), (b"\x00\x01" * 100, "a CSV table"),
    ],
)  # fmt: skip
def test_captures_that_cannot_be_used(text, said):
    with pytest.raises(BadInput) as refused:
        ripple_of(read_capture(text), 50.0)
    assert said in str(refused.value)


def test_a_million_points_are_refused_and_what_is_drawn_loses_nothing_narrow():
    with pytest.raises(BadInput, match="at most 1000000"):
        read_capture("t,v\n" + "0,1\n" * 1_000_001)
    volts = np.zeros(50_000)
    volts[31_415] = 7.0
    time, shown = drawn(Capture(np.arange(50_000) / 1e6, volts))
    assert len(time) == len(shown) == 600 and shown.max() == 7.0
