"""The tables that rules are read from, against the figures they were written from; and the small pieces around them."""

import itertools
import math

import pytest

from idlebench.catalogue import house_columns
from idlebench.catalogue.make import RADIAL, area, values, winding
from idlebench.core.board.first_look import first_look
from idlebench.core.board.parts import Fitted, radial_pitch
from idlebench.core.board.roles import ROLES, role
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.circuit import transformer
from idlebench.core.refusal import BadInput, Block
from idlebench.core.text.calculation import Calculation, CalculationLine

WINDOWS = {
    "mains_x": (0.9, 1.2), "mains_y": (0.5, 1.0), "bulk": (1.0, 1.5), "converter_output": (1.0, 2.0), "startup": (1.0, 2.2),
    "regulator_output": (1.0, 2.2), "decoupling": (0.8, 2.2), "coupling": (1.0, 2.2), "filter": (0.95, 1.05), "feedback": (0.95, 1.05),
    "timing": (0.9, 1.1), "reset": (0.9, 1.1), "deflection_coupling": (0.95, 1.05), "retrace_tuning": (0.98, 1.02), "boost": (0.9, 1.2),
    "tube_supply": (0.9, 1.2), "field_store": (1.0, 1.5), "video": (0.8, 2.2), "memory_backup": (0.8, 2.0), "unknown": (0.95, 1.2),
}  # fmt: skip


@pytest.mark.parametrize(("name", "window"), WINDOWS.items())
def test_each_role_has_its_window(name, window):
    asked = role(name)
    assert asked.window == window
    assert asked.title and asked.notes.endswith(".")


def test_no_role_is_forgotten_or_made_up():
    assert set(ROLES) == set(WINDOWS)
    assert role("").name == "unknown"
    assert {name for name, asked in ROLES.items() if not asked.relaxable} == {"mains_x", "mains_y", "retrace_tuning"}


@pytest.mark.parametrize(
    ("name", "safety", "temperature", "low_impedance", "pulse"),
    [("mains_x", ("X1", "X2", "Y1", "Y2"), 0, False, False), ("mains_y", ("Y1", "Y2"), 0, False, False), ("converter_output", (), 105, True, False),
     ("startup", (), 105, False, False), ("retrace_tuning", (), 0, False, True), ("boost", (), 105, False, False), ("tube_supply", (), 105, False, False),
     ("decoupling", (), 0, False, False)],
)  # fmt: skip
def test_what_else_a_role_asks(name, safety, temperature, low_impedance, pulse):
    asked = role(name)
    assert (asked.safety, asked.temperature, asked.low_impedance, asked.pulse) == (
        safety,
        temperature,
        low_impedance,
        pulse,
    )


@pytest.mark.parametrize(
    ("diameter", "pitch"),
    [(4, 1.5), (5, 2.0), (6.3, 2.5), (8, 3.5), (10, 5.0), (12.5, 5.0), (13, 5.0), (16, 7.5), (18, 7.5)],
)
def test_radial_pitch_by_diameter(diameter, pitch):
    assert radial_pitch(diameter) == pitch


@pytest.mark.parametrize(
    ("va", "share"), [(3, 0.35), (10, 0.22), (25, 0.15), (50, 0.12), (100, 0.09), (1, 0.35), (500, 0.09)]
)
def test_regulation_by_size(va, share):
    assert transformer.regulation(va) == pytest.approx(share)
    w = transformer.unloaded(12, va)
    assert w.values["volts"] == pytest.approx(12 * (1 + share))
    assert w.values["low"] < w.values["volts"] < w.values["high"]


def test_first_look_asks_about_what_the_machine_has():
    with_supply, without = first_look(["supply"]), first_look([])
    assert {look.key for look in with_supply} - {look.key for look in without} == {"fuse", "chassis", "supply"}
    tube = [look for look in first_look(["tube"]) if look.only == "tube"]
    assert tube and all(look.caution for look in tube), "each look at a tube carries its caution"
    assert with_supply[0].key == "plug", "before anything else"
    battery = next(look for look in without if look.key == "battery")
    assert "Gloves" in battery.caution


@pytest.mark.parametrize(
    ("old", "field", "value"),
    [
        (Fitted(ref="C1", value=1e-4, volts=16), "temperature", 85), (Fitted(ref="C1", value=1e-4, volts=16, ambient=55.0), "temperature", 105), (Fitted(ref="C1", value=1e-4, volts=16, temperature=105), "temperature", 105),
        (Fitted(ref="C1", value=1e-4, volts=16, rail_volts=-20.0), "volts", 20), (Fitted(ref="C1", value=1e-4, volts=None, rail_volts=12.0), "volts", 12),
        (Fitted(ref="C1", value=1e-4, volts=16, diameter=8, height=10), "diameter", 9), (Fitted(ref="C1", value=1e-4, volts=16, diameter=8, height=10), "height", 12),
        (Fitted(ref="C1", value=1e-4, volts=16, diameter=8, height=10, room_diameter=8.5, room_height=30.0), "diameter", 8.5),
        (Fitted(ref="C1", value=1e-4, volts=16, room_height=30.0), "lid", 30), (Fitted(ref="C1", value=1e-4, volts=16, diameter=10), "pitch", 5), (Fitted(ref="C1", value=1e-4, volts=16, diameter=10, pitch=7.5), "pitch", 7.5),
        (Fitted(ref="C1", value=1e-4, volts=16, role="bulk"), "ripple_frequency", 100), (Fitted(ref="C1", value=1e-4, volts=16, role="converter_output"), "ripple_frequency", 100e3),
        (Fitted(ref="C1", value=1e-4, volts=16, role="bulk", frequency=120.0), "ripple_frequency", 120), (Fitted(ref="C1", value=1e-4, volts=16), "diameter", None), (Fitted(ref="C1", value=1e-4, volts=16), "ac_volts", None),
    ],
)  # fmt: skip
def test_what_a_place_asks(old, field, value):
    got = getattr(need_of(old), field)
    assert got == (value if value is None else pytest.approx(value))


def test_the_mains_decide_ac_rating_and_ripple_frequency():
    old = Fitted(ref="C1", value=1e-7, volts=None, kind="film", role="mains_x", safety="X2")
    assert need_of(old, Mains(120, 60)).ac_volts == pytest.approx(132)
    assert need_of(Fitted(ref="C1", value=1e-4, volts=16, role="bulk"), Mains(120, 60)).ripple_frequency == 120


def test_refusals_say_what_was_read_and_the_mend():
    error = BadInput("x" * 100, "a number", "Type one.", field="value")
    assert str(error).startswith("value: read “xxx") and "…" in str(error) and str(error).endswith("Type one.")
    assert "nothing was given" in str(BadInput("", "a number"))
    assert error.within("volts").field == "volts"
    assert str(Block("rule", "It is shut.", "Open it.")) == "It is shut. Open it."


def test_a_working_is_told_with_units():
    line = CalculationLine(label="ESR", formula="R", numbers="1 ÷ 2", value=0.5, unit="Ω", source="a rule")
    assert line.shown == "500 mΩ" and CalculationLine(label="x", formula="", numbers="", value="words").shown == "words"
    data = Calculation(name="w", values={"r": 0.5}, lines=(line,), cautions=("careful",), inputs={"a": 1}).as_json()
    assert data["working"][0]["unit"] == "Ω" and data["inputs"] == {"a": 1} and data["cautions"] == ["careful"]


# The house catalogue, held to physics


def series(name: str) -> list:
    return [p for p in house_columns().parts if p.series == name and not p.part.endswith("B")]


@pytest.mark.parametrize("name", ["GP 85", "GP 105", "LZ 105", "LL 105", "BP 85", "AX 85", "CC 105", "SN 105"])
def test_more_charge_takes_a_larger_can_and_more_heat_a_larger_surface(name):
    for volts, group in itertools.groupby(
        sorted(series(name), key=lambda p: (p.volts, p.value)), key=lambda p: p.volts
    ):
        parts = list(group)
        for small, large in itertools.pairwise(parts):
            assert winding((large.diameter, large.height)) >= winding((small.diameter, small.height)) * 0.999, (
                volts,
                large.part,
            )
            assert large.ripple >= small.ripple * 0.85, (volts, large.part)
            assert large.esr <= small.esr * 1.35, (volts, large.part)


@pytest.mark.parametrize("name", ["GP 85", "LZ 105", "LL 105"])
def test_rated_ripple_heats_every_can_alike(name):
    """I²·ESR over the surface is the same for all: that is how the ratings were made."""
    heat = [p.ripple**2 * p.esr / area((p.diameter, p.height)) for p in series(name)]
    assert max(heat) / min(heat) < 1.05


def test_long_life_lives_longer_and_low_impedance_is_lower():
    named = {
        (p.series, p.value, p.volts): p for p in house_columns().parts if p.kind == "wet" and not p.part.endswith("B")
    }
    both = [
        (named["GP 105", v, u], named["LL 105", v, u])
        for s, v, u in named
        if s == "LL 105" and ("GP 105", v, u) in named
    ]
    assert len(both) > 50 and all(long.life > plain.life for plain, long in both)
    low = [
        (named["GP 105", v, u], named["LZ 105", v, u])
        for s, v, u in named
        if s == "LZ 105" and ("GP 105", v, u) in named
    ]
    assert len(low) > 50 and all(z.esr < 0.75 * g.esr for g, z in low)


def test_every_safety_part_has_its_class_and_ac_volts():
    for part in house_columns().parts:
        if part.series in ("XL 2", "YE 2"):
            assert part.safety and part.ac_volts >= 253
        else:
            assert not part.safety and not part.ac_volts


def test_values_are_of_the_series_of_six():
    got = values(1e-6, 1e-3)
    assert len(got) == 19 and got[0] == 1e-6 and got[-1] == 1e-3
    assert all(math.isclose(b / a, 10 ** (1 / 6), rel_tol=0.06) for a, b in itertools.pairwise(got))
    assert [winding(a) < winding(b) for a, b in itertools.pairwise(RADIAL)] == [True] * (len(RADIAL) - 1)
