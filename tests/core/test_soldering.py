"""How parts come out and go in, by the table; what is never exceeded; the order of the hands."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.board.devices import read_device
from idlebench.core.board.parts import LOOKS, MOUNTINGS, Capacitor, Fitted
from idlebench.core.board.soldering import MOST_CELSIUS, WAYS, swap_order, way_in, way_out, way_out_of


@pytest.mark.parametrize(
    ("facts", "planes", "name", "leaded", "lead_free"),
    [
        ({"mounting": "radial"}, (), "two thin tracks", 330, 360),
        ({"mounting": "radial", "note": "minus leg in plane"}, (), "one leg in a ground plane", 360, 390),
        ({"mounting": "radial"}, ("C1",), "one leg in a ground plane", 360, 390),
        ({"mounting": "radial", "rail": "+5V"}, (), "one leg in a ground plane", 360, 390),
        ({"mounting": "axial"}, (), "axial", 350, 380),
        ({"mounting": "snap", "diameter": 22}, (), "large can", 380, 400),
        ({"mounting": "radial", "diameter": 25.0}, (), "large can", 380, 400),
        ({"mounting": "can"}, (), "surface can", 330, 350),
        ({"mounting": "chip"}, (), "surface can", 330, 350),
        ({"mounting": "chip", "kind": "tantalum"}, (), "surface chip", 330, 350),
        ({"mounting": "can", "diameter": 30.0, "height": 50.0}, (), "chassis can", 380, 400),
    ],
)
def test_the_way_out_by_the_table(facts, planes, name, leaded, lead_free):
    way = way_out(Fitted(ref="C1", value=1e-4, **facts), planes=planes)
    assert (way.name, way.leaded, way.lead_free) == (name, leaded, lead_free)
    assert (
        way.reasons and way.celsius(1984) == leaded and way.celsius(2009) == lead_free and way.celsius(None) == leaded
    )


def test_a_regulator_comes_off_its_sink_and_a_fuse_does_not():
    assert way_out_of(read_device("VR1 regulator 7805 1A")).name == "on a heatsink"
    assert way_out_of(read_device("D1 diode 1A 100V")).name == "two thin tracks"


def test_what_bites_is_said():
    wet = way_out(Fitted(ref="C1", value=1e-4, looks="crusty", note="glued down"))
    assert any("neutralise" in c for c in wet.cautions) and any("glue" in c for c in wet.cautions)
    weak = way_out(Fitted(ref="C1", value=1e-4, mounting="can", note="pad lifted"))
    assert any("pad" in r for r in weak.reasons) and "Never twist" in weak.how
    brown = way_out(Fitted(ref="C1", value=1e-4, mounting="snap", diameter=30.0), phenolic=True)
    assert (brown.leaded, brown.lead_free, brown.seconds) == (350, 350, 3)


@given(
    st.sampled_from(MOUNTINGS),
    st.sampled_from(("", *LOOKS)),
    st.floats(1, 60),
    st.booleans(),
    st.sampled_from((None, 1975, 2015)),
)
def test_no_tip_is_hotter_than_may_be(mounting, looks, diameter, phenolic, made):
    way = way_out(Fitted(ref="C1", value=1e-4, mounting=mounting, looks=looks, diameter=diameter), phenolic=phenolic)
    assert way.celsius(made) <= (350 if phenolic else MOST_CELSIUS) and way.seconds <= 5
    assert all(one.leaded < one.lead_free <= MOST_CELSIUS for one in WAYS.values())


def test_the_way_in():
    new = Capacitor(part="X", series="", value=1e-4, volts=16, kind="wet", mounting="radial", pitch=2.5, height=11.0)
    assert "Form the leads out from 2.5 to 5 mm" in way_in(Fitted(ref="C1", value=1e-4, pitch=5.0), new)
    assert way_in(Fitted(ref="C1", value=1e-4, pitch=2.5), new)[0].startswith("Down to the board")
    assert "in a sleeve" in way_in(Fitted(ref="C1", value=1e-4, mounting="axial"), new)[0]
    assert "glue" in way_in(Fitted(ref="C1", value=1e-4, mounting="can"), new)[0]
    tall = Capacitor(part="X", series="", value=1e-2, volts=16, kind="wet", mounting="snap", pitch=10, height=35.0)
    assert any("glue" in step for step in way_in(Fitted(ref="C1", value=1e-2, mounting="snap", pitch=10), tall))


def test_the_order_of_the_hands():
    parts = [
        Fitted(ref="C10", value=1e-5, volts=16), Fitted(ref="C2", value=1e-5, volts=16), Fitted(ref="C3", value=4.7e-3, volts=25, height=36.0), Fitted(ref="C4", value=1e-6, volts=50), Fitted(ref="C5", value=2.2e-5, volts=16),
    ]  # fmt: skip
    assert swap_order(parts, lambda ref: True) == ["C4", "C2", "C10", "C5", "C3"]
    assert swap_order(parts, lambda ref: ref in ("C3", "C5")) == ["C5", "C3", "C4", "C2", "C10"]
