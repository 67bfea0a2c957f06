"""The rule book of choosing. Each rule looks at a whole catalogue at once and can say why about any row of it.

One statement of a rule serves both the ranking of thousands and the reasons shown for one.
Source: the role table; IEC 60384-14 for mains parts; common practice for sizes, lead forming and kinds.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from .. import ageing
from ..parts import Capacitor
from ..quantity import VOLT_RATINGS, show
from .need import HEADROOM, Need
from .stand_in import CLASS_RANK, FAILS, FITS, KIND_FOR_KIND, KIND_REFUSED, LOOK_TWICE, MOUNT_FOR_MOUNT

VERDICT_NAMES = ("fits", "look twice", "fails")

#: Forming of leads: at most this much at each lead, mm. Pitches this close count as equal.
FORM_EACH, PITCH_EQUAL = 2.5, 0.5
#: Under a measured lid, less than this much air wants the can's top insulated, mm.
LID_AIR = 1.5
#: Volts above this many times the marked ones are said.
VOLTS_MUCH = 4.0
#: Expected life under which a part is looked at twice, h (5 years day and night).
LIFE_WANTED = 43_800.0
#: Room that a radial part standing up in an axial one's place takes for its bent lead, mm.
STAND_UP = 4.0

_FIELDS = (
    "value",
    "volts",
    "diameter",
    "height",
    "pitch",
    "ac_volts",
    "temperature",
    "life",
    "ripple",
    "ripple_frequency",
    "esr",
    "esr_frequency",
    "price",
    "stock",
)


@dataclass(frozen=True)
class Columns:
    """A catalogue as arrays, one row a part, in order of value. SI, sizes in mm."""

    parts: tuple[Capacitor, ...]
    numbers: dict[str, np.ndarray]
    flags: dict[str, np.ndarray]
    texts: dict[str, np.ndarray]

    @classmethod
    def of(cls, parts: Iterable[Capacitor]) -> Columns:
        """Lay a catalogue out for ranking."""
        rows = tuple(sorted(parts, key=lambda p: (p.value, p.volts, p.part)))
        return cls(
            rows,
            {name: np.array([getattr(p, name) for p in rows], dtype=float) for name in _FIELDS},
            {
                name: np.array([getattr(p, name) for p in rows], dtype=bool)
                for name in ("bipolar", "low_impedance", "pulse")
            },
            {name: np.array([getattr(p, name) for p in rows], dtype="U12") for name in ("kind", "mounting", "safety")},
        )

    def __len__(self) -> int:
        return len(self.parts)

    def __getitem__(self, name: str) -> np.ndarray:
        for table in (self.numbers, self.flags, self.texts):
            if name in table:
                return table[name]
        raise KeyError(name)

    def slice(self, low: int, high: int) -> Columns:
        """Rows low to high, as views."""
        cut = slice(low, high)
        return Columns(
            self.parts[cut], *({k: v[cut] for k, v in t.items()} for t in (self.numbers, self.flags, self.texts))
        )


@dataclass(frozen=True)
class Ruling:
    """What one rule says of every row: its status, the number it looked at, the limit, and words for one row."""

    rule: str
    status: np.ndarray
    say: Callable[[int], str]
    value: np.ndarray | None = None
    limit: float | None = None
    unit: str = ""
    at_least: bool = True

    def number(self, i: int) -> float | None:
        return None if self.value is None or not np.isfinite(self.value[i]) else float(self.value[i])


Rule = Callable[[Need, Columns], "Ruling | None"]


def _graded(fails: np.ndarray, look: np.ndarray | None = None) -> np.ndarray:
    status = np.where(fails, FAILS, FITS)
    return status if look is None else np.where((status == FITS) & look, LOOK_TWICE, status)


def value_rule(need: Need, cols: Columns) -> Ruling:
    value = cols["value"]
    fails = (value < need.value_low * 0.999) | (value > need.value_high * 1.001)

    def say(i: int) -> str:
        new, old = show(float(value[i]), "F"), need.value
        window = need.value_range
        if fails[i]:
            return f"Value {new}, the place takes {window}"
        ratio = value[i] / old
        return "Same value" if abs(ratio - 1) < 0.01 else f"{ratio:.2g} times the old value, window {window}"

    return Ruling("value", _graded(fails), say, value, need.value_low, "F")


def tenfold_rule(need: Need, cols: Columns) -> Ruling:
    ratio = cols["value"] / need.value
    up, down = (ratio > 7) & (ratio < 14), (ratio > 1 / 14) & (ratio < 1 / 7)

    def say(i: int) -> str:
        if not (up[i] or down[i]):
            return ""
        way = "Ten times" if up[i] else "A tenth of"
        return f"{way} the old value, {show(need.value, 'F')}: the classic tenfold slip, read both codes again"

    return Ruling("tenfold", np.where(up | down, LOOK_TWICE, FITS), say, cols["value"], need.value, "F")


def volts_rule(need: Need, cols: Columns) -> Ruling | None:
    if need.role.safety:
        return None
    volts, kinds = cols["volts"], cols["kind"]
    headroom = np.ones(len(cols))
    for kind, factor in HEADROOM.items():
        headroom = np.where(kinds == kind, factor, headroom)
    least = np.maximum(need.old.volts or 0.0, need.place_volts * headroom)
    fails = volts < least * 0.999
    marked = need.old.volts
    much = volts > VOLTS_MUCH * (marked or np.inf)
    unknown = np.full(len(cols), not marked and not need.place_volts)

    def say(i: int) -> str:
        if fails[i]:
            return f"{volts[i]:g} V, the place needs {show(float(least[i]), 'V')}"
        if unknown[i]:
            return "The old part's volts and the rail's are not known: measure the rail first"
        if much[i]:
            return f"{volts[i]:g} V is over four times the marked {marked:g} V: bigger, higher ESR"
        steps = _steps(volts[i : i + 1], marked)[0] if marked else 0
        return {0: "Same volts", 1: "One step up in volts"}.get(int(steps), f"{volts[i]:g} V, above the old rating")

    return Ruling("volts", _graded(fails, much | unknown), say, volts, need.volts, "V")


def _steps(volts: np.ndarray, marked: float) -> np.ndarray:
    """How many ratings up from the marked one."""
    ladder = np.array(VOLT_RATINGS)
    return np.searchsorted(ladder, volts * 0.999) - np.searchsorted(ladder, marked * 0.999)


def safety_rule(need: Need, cols: Columns) -> Ruling | None:
    allowed = need.role.safety
    if not allowed:
        return None
    classes, ac = cols["safety"], cols["ac_volts"]
    rank = np.array([CLASS_RANK.get(c, 0) for c in classes])
    wrong = ~np.isin(classes, allowed)
    lower = rank < CLASS_RANK.get(need.old.safety, 0)
    weak = ac < (need.ac_volts or 0) - 1e-9

    def say(i: int) -> str:
        if wrong[i]:
            what = f"class {classes[i]}" if classes[i] else "no safety class"
            return f"Has {what}: only {' or '.join(allowed)} may stand here, whatever its volts"
        if lower[i]:
            return f"Class {classes[i]} is below the old part's {need.old.safety}"
        if weak[i]:
            return f"{ac[i]:g} V~, the mains here asks {show(need.ac_volts, 'V')}~"
        return f"Class {classes[i]}, {ac[i]:g} V~"

    return Ruling("safety", _graded(wrong | lower | weak), say, ac, need.ac_volts, "V")


def touch_current_rule(need: Need, cols: Columns) -> Ruling | None:
    if need.role.name != "mains_y":
        return None
    from ..circuit.mains import EARTHED, HAND_HELD

    current = 2 * np.pi * need.mains.frequency * cols["value"] * need.mains.volts

    def say(i: int) -> str:
        more = "only in earthed equipment" if current[i] > HAND_HELD else "limit 0.5 mA hand-held, 3.5 mA earthed"
        return f"Passes {show(float(current[i]), 'A')} to earth: {more}"

    return Ruling("touch_current", _graded(current > EARTHED), say, current, EARTHED, "A", at_least=False)


def temperature_rule(need: Need, cols: Columns) -> Ruling:
    temperature = cols["temperature"]
    fails = (temperature < need.temperature - 0.5) | (temperature < need.ambient)

    def say(i: int) -> str:
        if not fails[i]:
            return ""
        return f"{temperature[i]:g} °C part, the place asks {need.temperature:g} °C ({need.ambient:g} °C round it)"

    return Ruling("temperature", _graded(fails), say, temperature, need.temperature, "°C")


def ripple_rating(need: Need, cols: Columns) -> np.ndarray:
    """Ripple each row may carry at the place's frequency, A; not a number where none is given."""
    at_place = ageing.ripple_multiplier(need.ripple_frequency, cols["value"], cols["low_impedance"])
    rated_at = np.where(cols["low_impedance"], 1.0, np.where(cols["ripple_frequency"] >= 10e3, 1.5, 1.0))
    rating = cols["ripple"] * at_place / rated_at
    return np.where(cols["ripple"] > 0, rating, np.nan)


def ripple_rule(need: Need, cols: Columns) -> Ruling | None:
    if not need.ripple:
        return None
    rating = ripple_rating(need, cols)
    unknown = np.isnan(rating)
    dry = np.isin(cols["kind"], ("film", "ceramic"))
    fails = np.where(unknown, False, rating < need.ripple)

    def say(i: int) -> str:
        if fails[i]:
            return f"Ripple rating {show(float(rating[i]), 'A')}, the place needs {show(need.ripple, 'A')}"
        return "" if not unknown[i] or dry[i] else "No ripple rating is given for it"

    return Ruling("ripple", _graded(fails, unknown & ~dry), say, rating, need.ripple, "A")


def esr_rule(need: Need, cols: Columns) -> Ruling | None:
    if need.esr_high is None or need.esr_low is None:
        return None
    share = np.where(cols["esr_frequency"] >= 10e3, 1.0, np.where(cols["low_impedance"], 0.2, 0.5))
    esr = np.where(cols["esr"] > 0, cols["esr"] * share, np.nan)
    high, low = np.nan_to_num(esr, nan=0) > need.esr_high, np.nan_to_num(esr, nan=np.inf) < need.esr_low
    old = need.esr_high / need.role.esr[1]

    def say(i: int) -> str:
        if high[i]:
            return f"ESR {show(float(esr[i]), 'Ω')}, the old part was at most {show(need.esr_high, 'Ω')} when new"
        if low[i]:
            return f"ESR {esr[i] / old:.2f} of the old part's: check the loop"
        return "No ESR is given for it" if np.isnan(esr[i]) else ""

    return Ruling("esr", _graded(high, low | np.isnan(esr)), say, esr, need.esr_high, "Ω", at_least=False)


def series_rule(need: Need, cols: Columns) -> Ruling | None:
    """What the role asks of the make: low impedance, long life, pulse."""
    asked = need.role
    impedance = (~cols["low_impedance"] & (cols["kind"] == "wet")) if asked.low_impedance else np.zeros(len(cols), bool)
    short = (cols["life"] < asked.life) & (cols["kind"] == "wet") if asked.life else np.zeros(len(cols), bool)
    pulse = ~cols["pulse"] if asked.pulse else np.zeros(len(cols), bool)

    def say(i: int) -> str:
        if pulse[i]:
            return "Not pulse-rated, and this place asks it"
        if impedance[i]:
            return "Not a low-impedance series: it heats at the switching rate"
        return f"Rated {cols['life'][i]:g} h, long life from {asked.life:g} h is wanted here" if short[i] else ""

    return Ruling("series", _graded(impedance | pulse, short), say)


def kind_rule(need: Need, cols: Columns) -> Ruling:
    kinds, old = cols["kind"], need.old.kind
    status, words = np.zeros(len(cols), int), {}
    allowed = {k or old for k in need.role.kinds}
    for kind in np.unique(kinds):
        grade, text = (
            (FITS, "") if kind == old else KIND_FOR_KIND.get((old, str(kind)), (FAILS, f"{kind} for {old} is not done"))
        )
        roles, why = KIND_REFUSED.get(str(kind), ((), ""))
        if kind != old and need.role.name in roles:
            grade, text = FAILS, f"{str(kind).capitalize()} for {old}: {why}"
        if allowed and kind not in allowed:
            grade, text = FAILS, f"A {need.role.title} place takes {' or '.join(sorted(allowed))}, this is {kind}"
        status = np.where(kinds == kind, grade, status)
        words[str(kind)] = text
    return Ruling("kind", status, lambda i: words[str(kinds[i])])


def bipolar_rule(need: Need, cols: Columns) -> Ruling | None:
    if not need.bipolar:
        return None
    fails = ~cols["bipolar"] & np.isin(cols["kind"], ("wet", "polymer", "tantalum"))
    return Ruling("bipolar", _graded(fails), lambda i: "Polar, and the old part is bipolar: never" if fails[i] else "")


def mounting_rule(need: Need, cols: Columns) -> Ruling:
    mountings, old = cols["mounting"], need.old.mounting
    status, words = np.zeros(len(cols), int), {}
    for mounting in np.unique(mountings):
        default = (FITS, "") if mounting == old else (FAILS, f"{str(mounting).capitalize()} for {old} does not go")
        grade, words[str(mounting)] = MOUNT_FOR_MOUNT.get((old, str(mounting)), default)
        status = np.where(mountings == mounting, grade, status)
    return Ruling("mounting", status, lambda i: words[str(mountings[i])])


def _laid_flat(need: Need, cols: Columns) -> np.ndarray:
    return (cols["mounting"] == "radial") & (need.old.mounting == "chip")


def diameter_rule(need: Need, cols: Columns) -> Ruling:
    diameter = cols["diameter"]
    known = need.diameter is not None
    fails = (diameter > need.diameter + 0.05) & ~_laid_flat(need, cols) if known else np.zeros(len(cols), bool)

    def say(i: int) -> str:
        if fails[i]:
            what = "long" if cols["kind"][i] == "film" else "wide"
            return f"{diameter[i]:g} mm {what}, room for {need.diameter:.3g} mm"
        return "" if known else "The room is not known: measure the old part"

    return Ruling(
        "diameter", _graded(fails, np.full(len(cols), not known)), say, diameter, need.diameter, "mm", at_least=False
    )


def height_rule(need: Need, cols: Columns) -> Ruling | None:
    if need.height is None:
        return None
    height = np.where(_laid_flat(need, cols), cols["diameter"], cols["height"])
    fails = height > need.height + 0.05
    if need.old.mounting == "axial" and need.lid:
        fails &= ~((cols["mounting"] == "radial") & (height + STAND_UP <= need.lid))
    air = (need.lid or np.inf) - height
    tight = (air < LID_AIR) & (need.old.mounting != "axial")
    word = "long" if need.old.mounting == "axial" else "tall"

    def say(i: int) -> str:
        if fails[i]:
            return f"{height[i]:g} mm {word}, room for {need.height:.3g} mm"
        return f"{max(air[i], 0):.1f} mm under the lid: insulate the can top" if tight[i] else ""

    return Ruling("height", _graded(fails, tight), say, height, need.height, "mm", at_least=False)


def pitch_rule(need: Need, cols: Columns) -> Ruling | None:
    if need.pitch is None or need.old.mounting in ("axial", "chip"):
        return None
    pitch = cols["pitch"]
    off = np.abs(pitch - need.pitch)
    stiff = (cols["kind"] == "film") | (cols["mounting"] == "snap")
    fails = np.where(stiff, off > PITCH_EQUAL, off > 2 * FORM_EACH + 0.01) & (pitch > 0)

    def say(i: int) -> str:
        if fails[i]:
            more = "must match" if stiff[i] else f"leads form {FORM_EACH} mm each at most"
            return f"Pitch {pitch[i]:g} mm for holes at {need.pitch:g} mm: {more}"
        return f"Form each lead by {off[i] / 2:.2g} mm" if off[i] > PITCH_EQUAL and pitch[i] else ""

    return Ruling("pitch", _graded(fails), say, pitch, need.pitch, "mm")


def expected_life(need: Need, cols: Columns) -> np.ndarray:
    """Expected life of each row in the place, h; not a number for dry parts and parts without a rated life."""
    rating = ripple_rating(need, cols)
    rating = np.where(np.isnan(rating) | (rating <= 0), max(need.ripple, 1e-9), rating)
    hours = ageing.life(cols["life"], cols["temperature"], need.ambient, need.ripple, rating)
    return np.where((cols["life"] > 0) & (cols["kind"] != "film"), hours, np.nan)


def life_rule(need: Need, cols: Columns) -> Ruling:
    hours = expected_life(need, cols)
    short = np.nan_to_num(hours, nan=np.inf) < LIFE_WANTED

    def say(i: int) -> str:
        if not short[i]:
            return ""
        return f"Expected life {hours[i] / 8760:.1f} y at {need.ambient:g} °C, {LIFE_WANTED / 8760:g} y is wanted"

    return Ruling("life", _graded(np.zeros(len(cols), bool), short), say, hours, LIFE_WANTED, "h")


def role_rule(need: Need, cols: Columns) -> Ruling | None:
    if need.role.name != "unknown":
        return None
    return Ruling("role", np.full(len(cols), LOOK_TWICE), lambda i: "What the place does is not settled: say its role")


RULES: tuple[Rule, ...] = (
    safety_rule,
    kind_rule,
    bipolar_rule,
    value_rule,
    tenfold_rule,
    volts_rule,
    ripple_rule,
    esr_rule,
    series_rule,
    temperature_rule,
    diameter_rule,
    height_rule,
    pitch_rule,
    mounting_rule,
    life_rule,
    touch_current_rule,
    role_rule,
)
