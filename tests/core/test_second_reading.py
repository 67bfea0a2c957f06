"""Thirty surveys judged and chosen twice: by the app, and by a slow plain reading of the rules written here and nowhere else.

The second reading goes one part and one rule at a time, with no arrays and no tables of the app's. It only knows who is refused
and who is condemned; taste (what comes first) is not its business.
"""

import math
import random
from itertools import pairwise

import pytest

from idlebench.catalogue import house_columns
from idlebench.core.board.parts import Capacitor, Fitted
from idlebench.core.choose.need import Mains, need_of
from idlebench.core.choose.rank import judge_parts
from idlebench.core.judge.verdict import judge

from .test_data import WINDOWS

YEAR = 2026
LEAKAGE_COUNTS = ("timing", "reset", "coupling", "filter", "feedback", "memory_backup", "unknown")


def counted_role(old: Fitted) -> str:
    marks = old.safety.split("/") if old.safety else []
    has_y, has_x = any(m[0] == "Y" for m in marks), any(m[0] == "X" for m in marks)
    if old.role == "mains_y" or (has_y and not (old.role == "mains_x" and has_x)):
        return "mains_y"
    return "mains_x" if has_x or old.role == "mains_x" else old.role


def rank_of(safety: str) -> int:
    order = {"X3": 1, "Y4": 1, "X2": 2, "X1": 3, "Y2": 4, "Y1": 5}
    return max((order[m] for m in safety.split("/")), default=0) if safety else 0


def straight_line(f: float, points: list[tuple[float, float]]) -> float:
    """Between points over log f, flat outside."""
    if f <= points[0][0]:
        return points[0][1]
    for (f0, v0), (f1, v1) in pairwise(points):
        if f <= f1:
            return v0 + (v1 - v0) * math.log(f / f0) / math.log(f1 / f0)
    return points[-1][1]


def carried(part: Capacitor, f: float) -> float:
    """Share of a rating at a frequency, by the two tables of the ripple multipliers."""
    if not part.low_impedance:
        return straight_line(max(f, 50), [(50, 0.8), (120, 1.0), (300, 1.1), (1e3, 1.3), (10e3, 1.5)])
    table = [
        (180e-6, (0.40, 0.75, 0.90)),
        (560e-6, (0.50, 0.85, 0.94)),
        (1800e-6, (0.60, 0.87, 0.95)),
        (3900e-6, (0.75, 0.90, 0.95)),
    ]
    row = next((shares for most, shares in table if part.value <= most * 1.0001), (0.85, 0.95, 0.98))
    if f < 120:
        slope = (row[1] - row[0]) / math.log(1e3 / 120)
        return row[0] + slope * math.log(max(f, 50) / 120)
    return straight_line(f, [(120, row[0]), (1e3, row[1]), (10e3, row[2]), (100e3, 1.0)])


def esr_share(f: float, low_impedance: bool) -> float:
    return straight_line(f, [(120, 1.0), (100e3, 0.2 if low_impedance else 0.5)])


def tan_delta(value: float, volts: float) -> float:
    rows = [
        (350, 0.24),
        (160, 0.20),
        (100, 0.08),
        (63, 0.09),
        (50, 0.10),
        (35, 0.12),
        (25, 0.14),
        (16, 0.16),
        (10, 0.19),
    ]
    tangent = next((t for least, t in rows if volts >= least), 0.22)
    return tangent + (0.02 * math.ceil((value - 1e-3) / 1e-3 - 1e-9) if value > 1e-3 else 0.0)


def refusals(old: Fitted, new: Capacitor, mains: float) -> set[str]:
    """Which rules refuse a part, by name."""
    role, why = counted_role(old), set()
    on_mains = role in ("mains_x", "mains_y")
    place = abs(old.rail_volts or 0.0)
    marked = old.volts or 0.0
    if on_mains:
        marks = new.safety.split("/") if new.safety else []
        allowed = ("Y1", "Y2") if role == "mains_y" else ("X1", "X2", "Y1", "Y2")
        if not any(m in allowed for m in marks) or rank_of(new.safety) < rank_of(old.safety) or new.ac_volts < mains:
            why.add("safety")
        if role == "mains_y" and 2 * math.pi * 50 * new.value * mains * 1.1 * (1 + new.tolerance) > 3.5e-3:
            why.add("touch_current")
    else:
        headroom = {"polymer": 1.25, "tantalum": 2.0}.get(new.kind, 1.0)
        if new.volts < 0.999 * marked or new.volts < 0.999 * place * headroom:
            why.add("volts")
    low, high = WINDOWS[role]
    left = new.value
    if new.kind == "ceramic" and "class 1" not in new.note:
        left *= 1 - 0.5 * min((place or marked) / new.volts, 1.0) if new.volts else 1
    if left < 0.999 * low * old.value or new.value > 1.001 * high * old.value:
        why.add("value")
    if kind_refused(old.kind, new.kind, role):
        why.add("kind")
    if (
        role in ("filter", "feedback")
        and old.kind not in ("wet", "polymer", "tantalum")
        and new.tolerance > 0.05 + 1e-6
    ):
        why.add("tolerance")
    if old.bipolar and not new.bipolar and new.kind in ("wet", "polymer", "tantalum"):
        why.add("bipolar")
    ambient = 40.0 if old.ambient is None else old.ambient
    asked = old.temperature or (85.0 if old.kind in ("wet", "paper") else 0.0)
    if role in ("converter_output", "startup", "boost", "tube_supply", "field_store", "video") or ambient >= 55:
        asked = max(asked, 105.0)
    if new.temperature < asked - 0.5 or new.temperature < ambient:
        why.add("temperature")
    if old.ripple and new.ripple:
        by_role = {
            "converter_output": 100e3,
            "startup": 100e3,
            "deflection_coupling": 1e3,
            "retrace_tuning": 15e3,
            "boost": 15e3,
            "field_store": 50.0,
            "tube_supply": 15e3,
        }
        f = old.frequency or by_role.get(role, 100.0)
        if new.ripple / carried(new, new.ripple_frequency) * carried(new, f) < old.ripple:
            why.add("ripple")
    if role == "converter_output" and marked and old.kind == "wet" and new.esr:
        limit = tan_delta(old.value, marked) / (2 * math.pi * 120 * old.value) * 0.5
        at_100k = new.esr * esr_share(100e3, new.low_impedance) / esr_share(new.esr_frequency, new.low_impedance)
        if at_100k > limit:
            why.add("esr")
    if (role == "converter_output" and new.kind == "wet" and not new.low_impedance) or (
        role == "retrace_tuning" and not new.pulse
    ):
        why.add("series")
    return why | sizes(old, new)


def kind_refused(old: str, new: str, role: str) -> bool:
    if role in ("mains_x", "mains_y") and new not in ("film", "paper", "ceramic"):
        return True
    if role == "retrace_tuning" and new != "film":
        return True
    if role in ("filter", "feedback") and new not in (old, "film"):
        return True
    if new == old:
        return False
    if new == "polymer" and role in LEAKAGE_COUNTS:
        return True
    if new == "ceramic" and role in (
        "timing",
        "reset",
        "coupling",
        "filter",
        "feedback",
        "bulk",
        "deflection_coupling",
        "unknown",
    ):
        return True
    if new == "tantalum" and role in ("bulk", "converter_output", "startup", "boost", "tube_supply", "unknown"):
        return True
    usual = {
        "wet": ("polymer", "tantalum", "ceramic", "film"), "tantalum": ("wet", "polymer", "ceramic"),
        "paper": ("film",), "ceramic": ("film",), "polymer": (), "film": (),
    }  # fmt: skip
    return new not in usual[old]


def sizes(old: Fitted, new: Capacitor) -> set[str]:
    why = set()
    stands_in = {
        "axial": ("radial",),
        "chip": ("radial", "can"),
        "can": ("radial", "chip"),
        "chassis": ("snap", "radial"),
        "radial": ("axial",),
        "screw": ("snap",),
        "snap": (),
    }
    if new.mounting != old.mounting and new.mounting not in stands_in[old.mounting]:
        why.add("mounting")
    lying = old.mounting in ("can", "chip") and new.mounting == "radial"
    wide = old.room_diameter or (old.diameter + 1.0 if old.diameter else math.inf)
    if old.mounting == "axial":
        # it lies: the lid is above its body, and its length is that between the holes or of the old part
        wide = min(wide, old.room_height or math.inf)
        long = [
            n
            for n in (
                old.pitch - 4.0 if old.pitch and old.pitch > 4 else None,
                old.height * 1.2 if old.height else None,
            )
            if n
        ]
        high = max(long, default=math.inf)
    else:
        high = old.room_height or (old.height * 1.2 if old.height else math.inf)
    if new.diameter > wide + 0.05 and not lying:
        why.add("diameter")
    tall = (
        new.diameter if lying else new.height + (4.0 if new.mounting == "axial" and old.mounting == "radial" else 0.0)
    )
    upright = (
        old.mounting == "axial"
        and new.mounting == "radial"
        and old.room_height is not None
        and tall + 4.0 <= old.room_height
    )
    if tall > high + 0.05 and not upright:
        why.add("height")
    radial = {4: 1.5, 5: 2.0, 6.3: 2.5, 8: 3.5, 10: 5.0, 12.5: 5.0, 16: 7.5, 18: 7.5}
    pitch = old.pitch
    if pitch is None and old.kind == "wet" and old.mounting == "radial" and old.diameter:
        pitch = next((p for d, p in sorted(radial.items(), reverse=True) if old.diameter >= d - 0.3), 1.5)
    if old.mounting not in ("axial", "chip", "can", "screw", "chassis") and pitch and new.pitch:
        most = 0.5 if new.kind == "film" or new.mounting == "snap" else 5.01
        if abs(new.pitch - pitch) > most:
            why.add("pitch")
    return why


def condemned(part: Fitted, made: int) -> bool:
    """Whether a part goes whatever else speaks for it: by one plain reason."""
    if part.looks in ("burst", "leaking", "missing", "cracked", "bulging", "crusty", "corroded"):
        return True
    if part.kind == "paper" and (part.safety or part.role in ("mains_x", "mains_y")) and YEAR - made > 25:
        return True
    marks = part.safety.split("/") if part.safety else []
    if (
        part.volts
        and part.rail_volts
        and abs(part.rail_volts) > part.volts
        and not marks
        and part.role not in ("mains_x", "mains_y")
    ):
        return True
    if part.role == "mains_x" and not any(m in ("X1", "X2", "Y1", "Y2") for m in marks):
        return True
    if part.role == "mains_y" and not any(m in ("Y1", "Y2") for m in marks):
        return True
    if part.kind == "wet" and part.volts and part.esr is not None:
        new = (
            tan_delta(part.value, part.volts)
            / (2 * math.pi * 120 * part.value)
            * esr_share(part.esr_frequency or 120.0, False)
        )
        if part.esr > 1.5 * new:
            return True
    if part.capacitance is not None and part.capacitance < 0.8 * part.value:
        return True
    if part.leakage is not None:
        dry = part.kind in ("film", "ceramic", "paper")
        if part.leakage > (
            1e-6 if dry else max(0.01 * part.value * 1e6 * part.volts, 3.0) * 1e-6 if part.volts else math.inf
        ):
            return True
    return False


# the surveys


def survey(seed: int) -> list[Fitted]:
    """Ten parts over roles, kinds, classes, mountings and conditions."""
    rng = random.Random(seed)
    catalogue = house_columns().parts
    parts = []
    for i in range(10):
        like = rng.choice(catalogue)
        role = rng.choice([*WINDOWS, "decoupling", "bulk", "mains_x", "mains_y"])
        safety = like.safety or (
            rng.choice(["", "", "", "X2", "Y2", "X1/Y2"]) if like.kind in ("film", "ceramic") else ""
        )
        kind = "paper" if like.kind == "film" and rng.random() < 0.3 else like.kind
        near = rng.random() < 0.7
        parts.append(
            Fitted(
                ref=f"C{i + 1}", value=like.value, volts=rng.choice([like.volts, None, 16.0]) if like.volts else None, kind=kind, mounting=like.mounting,
                diameter=like.diameter + rng.choice([0, 0, 1]) if near else None, height=like.height if near else None,
                pitch=rng.choice([like.pitch or None, None]), temperature=rng.choice([None, 85.0, 105.0]), bipolar=like.bipolar or rng.random() < 0.1, safety=safety, role=role,
                rail_volts=rng.choice([None, 5.0, -12.0, 15.1, 40.0]), ripple=rng.choice([None, None, 0.05, 0.3, 1.2]),
                frequency=rng.choice([None, 50.0, 100.0, 20e3, 100e3]), ambient=rng.choice([None, 45.0, 60.0]),
                room_diameter=rng.choice([None, None, 20.0]), room_height=rng.choice([None, None, 12.0, 40.0]),
                looks=rng.choice(["", "", "sound", "sound", "bulging", "cracked", "stained", "rusty", "bare", "corroded"]),
                esr=rng.choice([None, None, 0.05, 1.0, 9.0]), esr_frequency=rng.choice([None, 120.0, 100e3]),
                capacitance=rng.choice([None, None, like.value * rng.choice([0.05, 0.5, 0.79, 0.81, 1.0, 1.3])]),
                leakage=rng.choice([None, None, 1e-7, 5e-6, 1e-3]),
            )
        )  # fmt: skip
    return parts


def candidates(old: Fitted, rng: random.Random) -> list[Capacitor]:
    """Parts near the place and some from anywhere, so that rules refuse and let by in all mixtures."""
    catalogue = house_columns().parts
    near = [p for p in catalogue if 0.45 <= p.value / old.value <= 2.4]
    return list({p.part: p for p in (*rng.sample(near, min(len(near), 60)), *rng.sample(catalogue, 20))}.values())


@pytest.mark.parametrize("seed", range(30))
def test_two_readings_of_the_rules_refuse_the_same(seed):
    rng = random.Random(1000 + seed)
    mains = rng.choice([115.0, 230.0, 240.0])
    for old in survey(seed):
        parts = candidates(old, rng)
        for candidate in judge_parts(need_of(old, Mains(mains)), parts):
            ours = {r.rule for r in candidate.reasons if r.status == 2}
            assert ours == refusals(old, candidate.part, mains), (old, candidate.part)


@pytest.mark.parametrize("seed", range(30))
def test_two_readings_of_the_rules_condemn_the_same(seed):
    for part in survey(seed):
        ours = any(e.points >= 6 for e in judge(part, year=YEAR, made=1984).evidence)
        assert ours == condemned(part, 1984), part


def test_the_surveys_meet_every_rule_and_every_role():
    """A comparison that never refuses anything by some rule would prove nothing of it."""
    met, roles, kinds = set(), set(), set()
    for seed in range(30):
        rng = random.Random(1000 + seed)
        mains = rng.choice([115.0, 230.0, 240.0])
        for old in survey(seed):
            roles.add(old.role)
            kinds.add(old.kind)
            for part in candidates(old, rng):
                met |= refusals(old, part, mains)
    assert met >= {
        "safety",
        "volts",
        "value",
        "kind",
        "bipolar",
        "temperature",
        "ripple",
        "series",
        "diameter",
        "height",
        "pitch",
        "mounting",
        "esr",
    }
    assert roles == set(WINDOWS) and kinds >= {"wet", "film", "paper", "ceramic", "tantalum", "polymer"}
