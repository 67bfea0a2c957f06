"""What each role asks of a replacement, as data. Value window is new ÷ old marked value.

Source: IEC 60384-14:2013, 1.5, for the safety classes; IEC 60384-4:2016, 2.2, for wet aluminium parts; the value windows are worked
here from what each place does with its value, and each says so.
"""

from __future__ import annotations

import difflib
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Role:
    """What a place does, and what follows for the part in it.

    Attributes:
        name: the key in files. title: for people. window: least and greatest new ÷ old value.
        safety: classes that may stand here, () for none asked. temperature: least rating, °C, 0 for the old part's.
        low_impedance: asks a low-impedance series. life: least rated life in h (0: none asked).
        esr: least and greatest new ESR ÷ the old part's when new, () where it does not matter.
        same_kind: only these kinds may replace ("" entry means the old part's own).
        pulse: pulse-rated only. frequency: what its ripple is reckoned at when the place names none, Hz; "mains2" is 2 × mains.
        relaxable: False where no policy may touch it. notes: what the field says about it.
    """

    name: str
    title: str
    window: tuple[float, float]
    notes: str
    safety: tuple[str, ...] = ()
    temperature: float = 0.0
    low_impedance: bool = False
    life: float = 0.0
    esr: tuple[float, float] | tuple[()] = ()
    kinds: tuple[str, ...] = ()
    pulse: bool = False
    frequency: float | str = "mains2"
    relaxable: bool = True
    low_leakage: bool = False
    words: tuple[str, ...] = ()


_SAFETY_NOTE = "Mains part: only a part of its safety class may be fitted here, like for like."

ROLES: dict[str, Role] = {
    role.name: role
    for role in (
        Role(
            name="mains_x",
            title="across the line",
            window=(0.9, 1.2),
            notes=_SAFETY_NOTE,
            safety=("X1", "X2", "Y1", "Y2"),
            relaxable=False,
            kinds=("film", "paper", "ceramic"),
            words=("mains x", "x cap", "across the line", "line filter"),
        ),
        Role(
            name="mains_y",
            title="line to earth",
            window=(0.5, 1.0),
            notes=_SAFETY_NOTE,
            safety=("Y1", "Y2"),
            relaxable=False,
            kinds=("film", "paper", "ceramic"),
            words=("mains y", "y cap", "line to earth"),
        ),
        Role(
            name="bulk",
            title="reservoir capacitor",
            window=(1.0, 1.5),
            notes="Must withstand the peak at +10 % mains without load, and carry ripple at twice the mains frequency.",
            words=(
                "reservoir capacitor",
                "reservoir",
                "bulk store",
                "bulk",
                "main store",
                "smoothing",
                "main filter",
            ),
        ),
        Role(
            name="converter_output",
            title="converter output capacitor",
            window=(1.0, 2.0),
            notes="ESR below 0.3 of the old part's may make the loop unstable: check first.",
            temperature=105.0,
            low_impedance=True,
            esr=(0.3, 1.0),
            frequency=100e3,
            words=(
                "converter output",
                "output capacitor",
                "output store",
                "switching output",
                "secondary filter",
                "output filter",
            ),
        ),
        Role(
            name="startup",
            title="start-up or driver supply",
            window=(1.0, 2.2),
            notes="The usual first failure in a switching supply. A larger value makes the start slower.",
            temperature=105.0,
            life=3000.0,
            frequency=100e3,
            words=("start-up", "startup", "driver supply", "driver"),
        ),
        Role(
            name="regulator_output",
            title="regulator output",
            window=(1.0, 2.2),
            notes="Stay inside the regulator's stable ESR range where it has one.",
            words=("regulator output", "regulator"),
        ),
        Role(
            name="decoupling",
            title="supply decoupling",
            window=(0.8, 2.2),
            notes="A little more is fine: a supply line only needs smoothing.",
            words=(
                "decoupling",
                "bypass",
                "supply store",
                "store",
                "sound supply",
                "amplifier supply",
                "chip supply",
                "logic supply",
                "display supply",
                "motor supply",
                "rail",
                "supply",
            ),
        ),
        Role(
            name="coupling",
            title="signal coupling",
            window=(1.0, 2.2),
            notes="The corner 1/(2πRC) must not rise; leakage counts.",
            low_leakage=True,
            words=(
                "coupling",
                "signal",
                "dc block",
                "speaker",
                "headphone",
                "audio",
                "sound output",
                "amplifier output",
            ),
        ),
        Role(
            name="filter",
            title="filter",
            window=(0.95, 1.05),
            notes="The value sets a frequency: same kind, or film.",
            kinds=("", "film"),
            low_leakage=True,
            words=("filter", "audio filter", "tone", "low-pass", "high-pass", "noise filter"),
        ),
        Role(
            name="feedback",
            title="feedback",
            window=(0.95, 1.05),
            notes="The value sets how a loop answers: same kind, or film.",
            kinds=("", "film"),
            low_leakage=True,
            words=("feedback", "compensation"),
        ),
        Role(
            name="timing",
            title="timing",
            window=(0.9, 1.1),
            notes="The time RC·k moves with the value; leakage counts.",
            low_leakage=True,
            words=("timing", "timer", "oscillator", "clock", "delay", "one-shot"),
        ),
        Role(
            name="reset",
            title="reset",
            window=(0.9, 1.1),
            notes="The reset time RC·k moves with the value; leakage counts.",
            low_leakage=True,
            words=("reset", "power-on reset"),
        ),
        Role(
            name="deflection_coupling",
            title="deflection coupling",
            window=(0.95, 1.05),
            notes="Changes the width of the picture; carries ripple; bipolar if the old part was.",
            frequency=1e3,
            words=("deflection coupling", "deflection", "s-correction", "yoke"),
        ),
        Role(
            name="retrace_tuning",
            title="retrace tuning",
            window=(0.98, 1.02),
            notes="Never change the value: less capacitance raises the tube voltage and the X-rays.",
            kinds=("film",),
            pulse=True,
            relaxable=False,
            frequency=15e3,
            words=("retrace tuning", "retrace", "flyback tuning"),
        ),
        Role(
            name="field_store",
            title="field output capacitor",
            window=(1.0, 1.5),
            notes="Too small a value bends the picture and folds its end; it carries the coil's current.",
            temperature=105.0,
            frequency=50.0,
            words=("field output capacitor", "field output", "field output store", "field store", "vertical store"),
        ),
        Role(
            name="video",
            title="picture amplifier capacitor",
            window=(0.8, 2.2),
            notes="A little more is fine; at least the old volts.",
            temperature=105.0,
            words=("picture amplifier", "video capacitor", "video store", "video"),
        ),
        Role(
            name="boost",
            title="boost",
            window=(0.9, 1.2),
            notes="At least the old volts, 105 °C.",
            temperature=105.0,
            frequency=15e3,
            words=("boost",),
        ),
        Role(
            name="tube_supply",
            title="tube supply",
            window=(0.9, 1.2),
            notes="At least the old volts, 105 °C.",
            temperature=105.0,
            frequency=15e3,
            words=("tube supply", "tube", "g2"),
        ),
        Role(
            name="memory_backup",
            title="memory backup",
            window=(0.8, 2.0),
            notes="Leakage counts; check the charge path if a cell replaces it.",
            low_leakage=True,
            words=("memory backup", "backup", "clock backup", "battery backup"),
        ),
        Role(
            name="unknown",
            title="role not known",
            window=(0.95, 1.2),
            notes="Treated with the strictest rules until you say what the place does.",
            words=("unknown",),
        ),
    )
}


def role(name: str) -> Role:
    """The role of that name; the strict "unknown" where none is given. KeyError for a name that is none."""
    return ROLES[name or "unknown"]


MAINS_ROLES = ("mains_x", "mains_y")


def is_mains_place(name: str, safety: str = "") -> bool:
    """Whether a place is on the mains: by what it does, or by the safety class of the part that stands there.

    >>> is_mains_place('mains_x'), is_mains_place('unknown', 'Y2'), is_mains_place('bulk')
    (True, True, False)
    """
    return name in MAINS_ROLES or bool(safety)


def effective_role(name: str, safety: str = "") -> str:
    """The role that a place counts as: a safety class makes it a mains place, and the stricter of role and class holds.

    Line to earth is stricter than across the line. A part of two classes may stand in either place.

    >>> effective_role('decoupling', 'X2'), effective_role('mains_x', 'Y2')
    ('mains_x', 'mains_y')
    >>> effective_role('mains_y', 'X2'), effective_role('mains_x', 'X1/Y2')
    ('mains_y', 'mains_x')
    """
    if not safety or (name in MAINS_ROLES and "/" in safety):
        return name
    if name == "mains_y" or "Y" in safety:
        return "mains_y"
    return "mains_x"


def wrong_class(name: str, safety: str) -> str:
    """What a mains place lacks: a safety class, or one that may stand there; "" where the place is none or the class is right.

    Source: IEC 60384-14:2013, 1.5: only classes X and Y stand across the line, only class Y from line to earth.

    >>> wrong_class('mains_y', ''), wrong_class('mains_y', 'X2'), wrong_class('mains_y', 'X1/Y2'), wrong_class('bulk', '')
    ('no safety class: Y1 or Y2 is asked line to earth', 'class X2: Y1 or Y2 is asked line to earth', '', '')
    """
    if name not in MAINS_ROLES:
        return ""
    asked = role(name)
    marks = [mark for mark in safety.split("/") if mark]
    if any(mark in asked.safety for mark in marks):
        return ""
    found = f"class {safety}" if marks else "no safety class"
    return f"{found}: {', '.join(asked.safety[:-1])} or {asked.safety[-1]} is asked {asked.title}"


def disagreement(name: str, safety: str = "") -> str:
    """What is to be asked where role and safety class contradict each other, "" where they agree or one is not known.

    >>> disagreement('decoupling', 'X2')
    'Marked X2, a mains part, and listed as supply decoupling: which is it? Until you say, it counts as across the line.'
    """
    holds = effective_role(name, safety)
    letter = {"mains_x": "X", "mains_y": "Y"}.get(name, "")
    if not safety or name in ("", "unknown") or (letter and letter in safety):
        return ""
    return (
        f"Marked {safety}, a mains part, and listed as {role(name).title}: which is it? "
        f"Until you say, it counts as {role(holds).title}."
    )


def nearest_roles(text: str, most: int = 3) -> tuple[str, ...]:
    """The words of roles that come nearest to what somebody typed, likeliest first.

    >>> nearest_roles('couplng')[0]
    'coupling'
    """
    known = list(dict.fromkeys(w for one in ROLES.values() for w in (*one.words, one.name.replace("_", " "))))
    return tuple(difflib.get_close_matches(" ".join(text.lower().split()), known, most, 0.6))


def role_from_words(text: str) -> tuple[str, str] | None:
    """Find the role that a person's words mean: (name, the words that told it), the longest words first.

    >>> role_from_words('sound store')
    ('decoupling', 'store')
    """
    low = " ".join(text.lower().replace("_", " ").split())
    known = [(w, r.name) for r in ROLES.values() for w in (*r.words, r.name.replace("_", " "))]
    for words, name in sorted(known, key=lambda pair: -len(pair[0])):
        if words in low:
            return name, words
    return None
