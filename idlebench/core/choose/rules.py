"""The rule book of choosing. Each rule looks at a whole catalogue at once and can say why about any row of it.

One statement of a rule serves both the ranking of thousands and the reasons shown for one.
Source: the role table; IEC 60384-14:2013, 1.5 and 2.2, for mains parts; sizes, lead forming and kinds are worked here from the room on the
board.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..board.parts import KINDS, classes_of
from ..board.roles import ROLES
from ..text.quantity import show
from ..wording import on_screen
from .columns import CLASSES, Alike, Columns, step_of
from .fit_rules import diameter_rule, height_rule, mounting_rule, pitch_rule
from .need import HEADROOM, WIDE_KINDS, step_marked
from .ruling import Rule, Ruling, graded
from .stand_in import CLASS_RANK, FAILS, FITS, KIND_FOR_KIND, KIND_REFUSED
from .strain_rules import esr_rule, life_rule, ripple_rule, stability_rule, temperature_rule

VERDICT_NAMES = ("fits", "look twice", "fails")

#: Volts above this many times the marked ones are said.
VOLTS_MUCH = 4.0

#: Share of its value that a class 2 ceramic loses at its rated volts, where its own curve is not given.
BIAS_LOSS = 0.5
#: Value above which the inrush and the diodes' peak of a store are reckoned anew, new ÷ old.
STORE_MORE = 1.2


def bias_share(need: Alike, cols: Columns) -> np.ndarray:
    """What share of its value each row keeps under the volts of the place: less than 1 for class 2 ceramics only."""
    if not cols["class2"].any():
        return np.ones(len(cols))
    under = np.where(need.place_volts > 0, need.place_volts, need.marked)
    # a mains part may have AC volts alone: nothing is known then of what bias takes
    volts = np.where(cols["volts"] > 0, cols["volts"], np.inf)
    return 1 - BIAS_LOSS * np.minimum(under / volts, 1.0) * cols["class2"]


def _share(ratio: float) -> str:
    """New to old value, as people say it."""
    if 0.95 < ratio < 1.05:
        return "A little over" if ratio > 1 else "A little under"
    return f"{ratio:.2g} times"


def value_rule(need: Alike, cols: Columns) -> Ruling:
    value, share, first = cols["value"], bias_share(need, cols), need.first
    fails = (value * share < need.value_low * 0.999) | (value > need.value_high * 1.001)

    def say(i: int) -> str:
        new, old = show(float(value[i]), "F"), first.value
        window = first.value_range
        left = f", {show(float(value[i] * share[i]), 'F')} of it left under the volts here" if share[i] < 1 else ""
        if fails[i]:
            return f"Value {new}{left}, the place allows {window}"
        ratio = value[i] / old
        return f"Same value{left}" if abs(ratio - 1) < 0.01 else f"{_share(ratio)} the old value, window {window}{left}"

    return Ruling(rule="value", status=graded(fails), say=say, value=value * share, limit=first.value_low, unit="F")


def tenfold_rule(need: Alike, cols: Columns) -> Ruling | None:
    ratio, first = cols["value"] / need.value, need.first
    up, down = (ratio > 7) & (ratio < 14), (ratio > 1 / 14) & (ratio < 1 / 7)

    def say(i: int) -> str:
        if not (up[i] or down[i]):
            return ""
        way = "Ten times" if up[i] else "A tenth of"
        return f"{way} the old value, {show(first.value, 'F')}: a tenfold slip is common, read both codes again"

    return Ruling(
        rule="tenfold",
        status=graded(np.zeros(len(cols), bool), up | down),
        say=say,
        value=cols["value"],
        limit=first.value,
        unit="F",
    )


def store_rule(need: Alike, cols: Columns) -> Ruling | None:
    """A store that grows charges harder: its inrush and the diodes' peak are reckoned anew."""
    if not need.any("bulk"):
        return None
    ratio = cols["value"] / need.value
    more = (ratio > STORE_MORE) & need.bulk

    def say(i: int) -> str:
        return (
            (
                f"{ratio[i]:.2g} times the old reservoir value: inrush and the peak current of the diodes grow, "
                "see The supply"
            )
            if more[i]
            else ""
        )

    nothing = np.zeros(len(cols), bool)
    return Ruling(
        rule="store",
        status=graded(nothing, more),
        say=say,
        value=cols["value"],
        limit=need.first.value,
        unit="F",
        at_least=False,
    )


def exact_rule(need: Alike, cols: Columns) -> Ruling | None:
    """A policy of exactly the marked value and volts."""
    if need.policy.values != "exact":
        return None
    other = np.abs(cols["value"] / need.value - 1) > 0.01
    volts = np.abs(cols["volts"] / np.maximum(need.marked, 1e-9) - 1) > 0.01
    other = (other | (volts & (need.marked > 0))) & need.relaxable
    return Ruling(
        rule="policy",
        status=graded(np.zeros(len(cols), bool), other),
        say=lambda i: f"The policy asks exactly the marked ones ({need.policy.title})" if other[i] else "",
    )


_HEADROOM = np.array([HEADROOM.get(kind, 1.0) for kind in KINDS])


def volts_rule(need: Alike, cols: Columns) -> Ruling | None:
    if need.classes:
        return None
    volts, first = cols["volts"], need.first
    least = np.maximum(need.marked, need.place_volts * _HEADROOM.take(cols["kind"], mode="clip"))
    fails = volts < least * 0.999
    much = (volts > VOLTS_MUCH * need.marked) & (need.marked > 0)
    unknown = (need.marked <= 0) & (need.place_volts <= 0) & np.ones(len(cols), bool)
    tantalum = cols.is_kind("tantalum")
    # on a supply line a tantalum wants twice the volts, and nobody can say so while what the place sees is not known
    unsure = tantalum & (need.place_volts <= 0) & (volts < HEADROOM["tantalum"] * need.marked * 0.999) & need.on_supply

    def say(i: int) -> str:
        factor = f"{volts[i] / first.place_volts:.2g} times" if first.place_volts > 0 else ""
        if fails[i] and volts[i] <= 0:
            return "Only its AC volts are given: it is made for the mains"
        if fails[i]:
            asked = f", {factor} the {show(first.place_volts, 'V')} here" if tantalum[i] and factor else ""
            return f"{volts[i]:g} V{asked}, the place needs {show(float(least[i]), 'V')}"
        if unsure[i]:
            times = f"{volts[i] / first.marked:.2g} times the marked {first.marked:g} V"
            return f"{volts[i]:g} V is {times}: a tantalum on a supply wants twice what the place sees, and that is not known"
        if tantalum[i] and factor:
            return f"{volts[i]:g} V is {factor} the {show(first.place_volts, 'V')} here"
        if unknown[i]:
            return "The old part's volts and the rail's are not known: measure the rail first"
        if much[i]:
            return f"{volts[i]:g} V is over four times the marked {first.marked:g} V: bigger, higher ESR"
        if not first.marked or abs(volts[i] / first.marked - 1) < 0.005:
            return "Same volts"
        one = int(step_of(volts[i])) - step_marked(first.marked) <= 1
        return f"{volts[i]:g} V for {first.marked:g} V, one step up" if one else f"{volts[i]:g} V, above the old rating"

    return Ruling(
        rule="volts", status=graded(fails, much | unknown | unsure), say=say, value=volts, limit=first.volts, unit="V"
    )


_CLASS_RANKS = np.array([CLASS_RANK[name] for name in CLASSES])


def safety_rule(need: Alike, cols: Columns) -> Ruling | None:
    allowed = need.classes
    if not allowed:
        return None
    classes, ac = cols["safety"], cols["ac_volts"]
    right = np.array([any(one in allowed for one in classes_of(name)) for name in CLASSES])
    wrong = ~right[classes]
    lower = _CLASS_RANKS[classes] < CLASS_RANK.get(need.safety, 0)
    weak, near = ac < need.mains.volts - 1e-9, ac < need.ac_volts - 1e-9

    def say(i: int) -> str:
        name = CLASSES[classes[i]]
        if wrong[i]:
            what = f"class {name}" if name else "no safety class"
            return f"Has {what}: only {' or '.join(allowed)} may stand here, whatever its volts"
        if lower[i]:
            return f"Class {name} is below the old part's {need.safety}"
        if weak[i]:
            return f"{ac[i]:g} V~ is under the mains here, {need.mains.volts:g} V~"
        if near[i]:
            more = f"{ac[i] / need.mains.volts:.3g} times the mains here; from {show(need.first.ac_volts, 'V')}~ it stands +10 %"
            return f"Class {name}, {ac[i]:g} V~ is {more}"
        return f"Class {name}, {ac[i]:g} V~"

    return Ruling(
        rule="safety",
        status=graded(wrong | lower | weak, near),
        say=say,
        value=ac,
        limit=need.first.ac_volts,
        unit="V",
    )


def touch_current_rule(need: Alike, cols: Columns) -> Ruling | None:
    if not need.any("touch"):
        return None
    from ..circuit.mains import EARTHED, HAND_HELD, HIGHEST

    # at the highest mains and the part's own upper tolerance, as the standards ask
    current = (
        2 * np.pi * need.mains.frequency * cols["value"] * need.mains.volts * (1 + HIGHEST) * (1 + cols["tolerance"])
    )

    def say(i: int) -> str:
        if need.first.role.name != "mains_y":
            return ""
        more = "only in earthed equipment" if current[i] > HAND_HELD else "limit 0.75 mA hand-held, 3.5 mA earthed"
        return f"Passes up to {show(float(current[i]), 'A')} to earth: {more}"

    return Ruling(
        rule="touch_current",
        status=graded((current > EARTHED) & need.touch),
        say=say,
        value=current,
        limit=EARTHED,
        unit="A",
        at_least=False,
    )


def tolerance_rule(need: Alike, cols: Columns) -> Ruling | None:
    """A part that strays from its value by more than the place's own window, whatever is printed on it."""
    if not need.any("strays_much"):
        return None
    tolerance, first = cols["tolerance"], need.first
    fails = tolerance > need.strays_most + 1e-9
    wide = tolerance > need.strays_much + 1e-9

    def say(i: int) -> str:
        if not wide[i]:
            return ""
        limit = first.strays_most if fails[i] else first.strays_much
        text = f"±{100 * tolerance[i]:g} %, and the place's window is ±{100 * limit:g} %"
        return text if fails[i] else f"{text}: measure it before it is fitted"

    return Ruling(
        rule="tolerance",
        status=graded(fails, wide),
        say=say,
        value=tolerance,
        limit=first.strays_much,
        unit="",
        at_least=False,
    )


def leakage_rule(need: Alike, cols: Columns) -> Ruling | None:
    """Where leakage counts, what is known of it; it refuses nothing, the order prefers the one that leaks less."""
    if not need.any("leaks"):
        return None
    leaky, wide = cols["leaky"], cols.is_kind(*WIDE_KINDS)
    nothing = np.zeros(len(cols), bool)

    def say(i: int) -> str:
        if leaky[i]:
            return "Ordinary leakage, and leakage counts here: a low-leakage part keeps its time or level better"
        return "Low leakage, which counts here" if wide[i] else ""

    return Ruling(rule="leakage", status=graded(nothing, nothing), say=say)


def series_rule(need: Alike, cols: Columns) -> Ruling | None:
    """What the role asks of the make: low impedance, long life, pulse."""
    if not any(map(need.any, ("low_impedance", "life_asked", "pulse"))):
        return None
    wet, asked = cols.is_kind("wet"), need.first.role
    impedance = ~cols["low_impedance"] & wet & need.low_impedance
    short = (cols["life"] < need.life_asked) & wet
    pulse = ~cols["pulse"] & need.pulse

    def say(i: int) -> str:
        if pulse[i]:
            return "Not pulse-rated, and this place asks it"
        if impedance[i]:
            return "Not a low-impedance series: it heats at the switching rate"
        return f"Rated {cols['life'][i]:g} h, long life from {asked.life:g} h is wanted here" if short[i] else ""

    return Ruling(rule="series", status=graded(impedance | pulse, short), say=say)


@lru_cache(maxsize=512)
def kind_grades(name: str, old: str, same: bool) -> tuple[np.ndarray, tuple[str, ...]]:
    """What each kind is worth in a role for an old kind: its grade and the words, by number. same: a policy of kind for kind."""
    role = ROLES[name]
    allowed = {name or old for name in role.kinds}
    grades, words = [], []
    for kind in KINDS:
        grade, text = (
            (FITS, "")
            if kind == old
            else KIND_FOR_KIND.get((old, kind), (FAILS, f"{on_screen(kind)} instead of {on_screen(old)} is not done"))
        )
        roles, why = KIND_REFUSED.get(kind, ((), ""))
        if kind != old and role.name in roles:
            grade, text = FAILS, f"{on_screen(kind).capitalize()} instead of {on_screen(old)}: {why}"
        if allowed and kind not in allowed:
            grade, text = (
                FAILS,
                f"A {role.title} place allows {' or '.join(map(on_screen, sorted(allowed)))}, this is {on_screen(kind)}",
            )
        if same and kind != old and grade != FAILS:
            grade, text = FAILS, f"The policy asks kind for kind, and this is {on_screen(kind)}"
        grades.append(grade)
        words.append(text)
    return np.array(grades, dtype=np.int8), tuple(words)


def kind_rule(need: Alike, cols: Columns) -> Ruling:
    same, kinds = need.policy.kinds == "same", cols["kind"]
    words = kind_grades(need.first.role.name, need.first.kind, same)[1]
    status = need.by_place(lambda one: kind_grades(one.role.name, one.kind, same)[0], kinds)
    return Ruling(rule="kind", status=status, say=lambda i: words[kinds[i]])


def bipolar_rule(need: Alike, cols: Columns) -> Ruling | None:
    if not need.any("bipolar"):
        return None
    fails = ~cols["bipolar"] & cols.is_kind("wet", "polymer", "tantalum") & need.bipolar
    return Ruling(
        rule="bipolar",
        status=graded(fails),
        say=lambda i: "Polar, and the old part is bipolar: never" if fails[i] else "",
    )


def role_rule(need: Alike, cols: Columns) -> Ruling | None:
    if not need.any("unsettled"):
        return None
    nothing = np.zeros(len(cols), bool)
    say = "The role of the place is not known."
    return Ruling(rule="role", status=graded(nothing, nothing | need.unsettled), say=lambda i: say)


#: All rules, in the order in which their reasons are shown.
RULES: tuple[Rule, ...] = (
    safety_rule,
    kind_rule,
    bipolar_rule,
    value_rule,
    tolerance_rule,
    leakage_rule,
    tenfold_rule,
    store_rule,
    exact_rule,
    volts_rule,
    ripple_rule,
    esr_rule,
    stability_rule,
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
#: Those that can still speak of rows inside a place's window of values: no window is ten times wide.
INSIDE = tuple(rule for rule in RULES if rule is not tenfold_rule)
#: Those that refuse most of what the plainest limits leave: the others are asked of what they leave, a third less.
SIEVE = (value_rule, ripple_rule, series_rule, height_rule, pitch_rule)
AFTER_SIEVE = tuple(rule for rule in INSIDE if rule not in SIEVE)
