"""What a typed line speaks of: a capacitor, a chip, or another part, by the words that name it and by the letters of its reference.

Source: IEEE 315-1975, section 22, for the class letters, with those that boards of the time bear beside them.
"""

from __future__ import annotations

import re

from ..refusal import BadInput
from .devices import TITLES, WORDS
from .parts import KINDS
from .zones import is_zone

CAPACITOR, CHIP = "capacitor", "chip"
#: What the letters of a reference may stand for, the usual first. Two that are as usual: ASKED.
LETTERS: dict[str, tuple[str, ...]] = {
    **dict.fromkeys(("C", "CX", "CY"), (CAPACITOR, "trimmer")),
    **dict.fromkeys(("CV", "VC", "TC", "CT"), ("trimmer", CAPACITOR)),
    "R": ("resistor", "bleeder", "thermistor", "varistor", "trimmer"),
    **dict.fromkeys(("RN", "RP", "RA"), ("resistor", "trimmer")),
    "VR": ("regulator", "trimmer", "varistor"),
    **dict.fromkeys(("RV", "MOV", "VDR"), ("varistor", "trimmer")),
    **dict.fromkeys(("NTC", "PTC", "TH", "RT", "RTH"), ("thermistor",)),
    "L": ("choke", "lamp"),
    "FB": ("choke",),
    **dict.fromkeys(("D", "CR"), ("diode", "zener", "lamp")),
    **dict.fromkeys(("ZD", "DZ"), ("zener",)),
    "LED": ("lamp",),
    **dict.fromkeys(("BR", "DB", "BD"), ("diode",)),
    "Q": ("transistor", "regulator"),
    "TR": ("transistor", "transformer", "winding"),
    "T": ("transformer", "winding", "transistor"),
    **dict.fromkeys(("U", "IC"), (CHIP, "regulator", "optocoupler")),
    **dict.fromkeys(("F", "FS"), ("fuse",)),
    **dict.fromkeys(("OK", "PC", "OC", "OPT"), ("optocoupler",)),
    **dict.fromkeys(("X", "Y"), ("crystal", CAPACITOR)),
    **dict.fromkeys(("XTAL", "XT"), ("crystal",)),
    **dict.fromkeys(("RL", "RLY", "RE"), ("relay",)),
    "K": (CHIP, "relay"),
    **dict.fromkeys(("SW", "S"), ("switch",)),
    **dict.fromkeys(("J", "CN", "P", "CON", "JP", "PL"), (CHIP,)),
    **dict.fromkeys(("BT", "B", "BAT"), ("battery",)),
    "FAN": ("fan",),
    "HS": ("heatsink",),
    "MOD": ("module",),
    **dict.fromkeys(("LP", "LA", "NE"), ("lamp",)),
    **dict.fromkeys(("DS", "DIS", "LCD", "VFD"), ("display",)),
    "AD": ("adapter",),
    **dict.fromkeys(("SK", "SKT", "XS"), ("socket",)),
    **dict.fromkeys(("FH", "XF"), ("holder",)),
    "XP": ("connector",),
    **dict.fromkeys(("LS", "SP", "SPK"), ("speaker",)),
    "M": ("motor",),
    **dict.fromkeys(("GD", "GDT", "SG", "AR"), ("arrester",)),
}
#: Letters that stand for two things as usual: where no word tells, it is asked.
ASKED = ("X", "Y", "TR", "VR")
#: Letters whose words are labels: J2 fan is the fan's connector, U3 a display's driver.
LABELLED = ("U", "IC", "K", "J", "CN", "P", "CON", "JP", "PL")
#: Words that name a part only where its letters do not say otherwise: in Q5 key driver the key is what it drives.
ONLY_BESIDE = (
    "connector", "plug", "jack", "socket", "holder", "fuseholder", "button", "key", "speaker", "loudspeaker", "motor", "inverter",
    "card", "thermal",
)  # fmt: skip
#: Words that a capacitor's line alone has.
_FARADS = re.compile(r"(?i)\d+(?:[.,]\d+)?(?:[pnuµ]f?|mfd)|\d{0,3}[pnuµ]\d{1,2}")
_OF_CAPACITOR = re.compile(rf"(?i){_FARADS.pattern[4:]}|[xy][1-4](?:/[xy][1-4])?|\d+(?:v?~|vac)")
_HERTZ = re.compile(r"(?i)\d+(?:[.,]\d+)?[km]?hz")
_REGULATOR = re.compile(r"(?i)7[89][lms]?\d\d")


def letters_of(ref: str) -> str:
    """The letters of a reference, "" for none.

    >>> letters_of('MOV1'), letters_of('c22a')
    ('MOV', 'C')
    """
    found = re.match(r"[A-Z]+(?=\d)", ref.upper())
    return found[0] if found else ""


def named_by(word: str) -> str:
    """The kind that a word names, "" for none; a capacitor's kinds and mountings count as capacitor."""
    low = word.lower().strip(",;:")
    if low in KINDS or low in ("electrolytic", "capacitor"):
        return CAPACITOR
    return WORDS.get(low, "")


def kind_of(text: str) -> str:
    """What a typed line speaks of: CAPACITOR, CHIP, or a key of TITLES; "" for a zone or nothing.

    Words decide before letters; ``R5 is diode`` overrules both.

    Args:
        text: as it was typed.

    Returns:
        CAPACITOR, CHIP or a key of TITLES; "" for a zone or nothing.

    Raises:
        BadInput: words and letters disagree, or the letters stand for two things and no word tells.

    >>> [kind_of(text) for text in ('R5 resistor 2R2 1W open', 'R7 2R2', 'L3 10u choke', 'D12 1n4148', 'C5 100u 16V', 'X1 film 100n')]
    ['resistor', 'resistor', 'choke', 'diode', 'capacitor', 'capacitor']
    """
    words = text.split()
    if not words or is_zone(text):
        return ""
    ref, letters = words[0].upper(), letters_of(words[0])
    forced = len(words) > 2 and words[1].lower() == "is"
    told = words[2:] if forced else words[1:]
    first = named_by(told[0]) if told else ""
    allowed = LETTERS.get(letters)
    if first and told[0].lower() in ONLY_BESIDE and allowed and first not in allowed and not forced:
        first = "" if letters not in LABELLED else first
    if forced and first and (letters not in LABELLED or first in allowed or first == CAPACITOR):
        return first
    said = first if letters in LABELLED else first or _named_later(told, letters)
    if allowed is None:
        return said or CAPACITOR
    if not said:
        return _by_letters(ref, letters, allowed, told)
    if said in allowed or (letters in LABELLED and _is_label(said)):
        return said if said in allowed else CHIP
    usual = TITLES.get(allowed[0], allowed[0])
    other = TITLES.get(said, said)
    raise BadInput(
        text,
        f"one meaning: {ref} is {_a(usual)}'s reference, and “{told[0] if first else _word_for(said, told)}” "
        f"is {_a(other)}'s word",
        _own_reference(said) if letters in LABELLED else f"Write {ref} is {said} … if the word is right.",
        field="line",
    )


def _is_label(said: str) -> bool:
    """Whether a word that names a part only labels a chip or a connector: J2 fan is where the fan is plugged in."""
    return said not in ("heatsink", "resistor", "crystal", "diode", "transistor", CAPACITOR)


def _own_reference(said: str) -> str:
    """How a part beside a chip is listed."""
    letters = next((name for name, kinds in LETTERS.items() if kinds[0] == said), "")
    return f"A part beside it has a reference of its own, such as {letters}1 {said}."


def _named_later(told: list[str], letters: str) -> str:
    """A kind that is named further on in a line; a capacitor's role speaks of what stands beside it, so not in its line."""
    if letters.startswith("C") and letters in LETTERS:
        return next((kind for word in told if (kind := named_by(word)) == "trimmer"), "")
    for before, word in zip(("", *told), told, strict=False):
        if word.lower() in ("note", "for", "from", "to"):
            return ""
        if before.lower() in ("built-in", "internal", "with", "and"):
            # what a part holds, or stands with, does not name it
            continue
        if word.lower() in ("reads", "measures", "measured"):
            return ""
        if word.lower() not in ONLY_BESIDE and (kind := named_by(word)):
            return kind
    return ""


def _by_letters(ref: str, letters: str, allowed: tuple[str, ...], told: list[str]) -> str:
    """What a line without a naming word speaks of, by its letters and what else stands there."""
    farads = next((word for word in told[:1] if _FARADS.fullmatch(word)), "")
    if farads and letters != "L" and CAPACITOR not in allowed:
        usual = _a(TITLES.get(allowed[0], allowed[0]))
        raise BadInput(
            " ".join([ref, *told]), f"one meaning: {ref} is {usual}'s reference, and {farads} is a capacitor's value",
            f"Write {ref} is capacitor … if the value is right.", field="line",
        )  # fmt: skip
    if letters not in ASKED:
        return allowed[0]
    if any(_HERTZ.fullmatch(word) for word in told) and "crystal" in allowed:
        return "crystal"
    if any(_OF_CAPACITOR.fullmatch(word) for word in told) and CAPACITOR in allowed:
        return CAPACITOR
    if any(_REGULATOR.fullmatch(word) for word in told) and "regulator" in allowed:
        return "regulator"
    either = " or ".join(_a(TITLES.get(kind, kind)) for kind in allowed if kind != "winding")
    raise BadInput(
        " ".join([ref, *told]),
        f"what {ref} is: {either}",
        f"Write {ref} {allowed[0]} …, or {ref} {allowed[1]} ….",
        field="line",
    )


def _word_for(said: str, told: list[str]) -> str:
    return next((word for word in told if named_by(word) == said), said)


def _a(words: str) -> str:
    return f"an {words}" if words[:1] in "aeiou" else f"a {words}"


def named(text: str) -> str:
    """A line with the kind of its part as the second word, where it speaks of a part that is neither capacitor nor chip.

    Args:
        text: as it was typed.

    Returns:
        The line in full; as it was where nothing is missing.

    Raises:
        BadInput: as for kind_of.

    >>> named('R7 2R2 1W'), named('L3 10u choke'), named('C5 100u 16V'), named('U1 processor 46x14')
    ('R7 resistor 2R2 1W', 'L3 choke 10u', 'C5 100u 16V', 'U1 processor 46x14')
    """
    kind = kind_of(text)
    words = text.split()
    if len(words) > 2 and words[1].lower() == "is" and named_by(words[2]):
        words.pop(1)
        text = " ".join(words)
    if kind in ("", CAPACITOR, CHIP):
        return text
    if len(words) > 1 and WORDS.get(words[1].lower()) == kind:
        return text
    at = next((i for i, word in enumerate(words) if i and named_by(word) == kind), 0)
    word = words.pop(at) if at else kind
    return " ".join([words[0], word, *words[1:]])


def is_device(text: str) -> bool:
    """Whether a line, as ``named`` gives it, speaks of a part that is neither capacitor nor chip.

    >>> is_device('R5 resistor 2R2'), is_device('J2 fan'), is_device('C5 100u')
    (True, False, False)
    """
    words = text.split()
    kind = WORDS.get(words[1].lower(), "") if len(words) > 1 and not is_zone(text) else ""
    letters = letters_of(words[0]) if kind else ""
    return bool(kind) and (letters not in LABELLED or kind in LETTERS[letters])


def not_of_a_capacitor(ref: str) -> str:
    """What else a reference stands for by its letters, where no capacitor has them; "" where one may.

    >>> not_of_a_capacitor('R5'), not_of_a_capacitor('C5'), not_of_a_capacitor('E5')
    ('a resistor', '', '')
    """
    allowed = LETTERS.get(letters_of(ref), (CAPACITOR,))
    return "" if CAPACITOR in allowed else _a(TITLES.get(allowed[0], allowed[0]))


def only_capacitor(text: str) -> None:
    """Refuse a line that speaks of something else.

    Args:
        text: as it was typed.

    Raises:
        BadInput: it names what, and how it is listed.
    """
    kind = kind_of(text)
    if kind in ("", CAPACITOR):
        return
    ref = text.split()[0].upper()
    title = TITLES.get(kind, kind)
    raise BadInput(
        text.strip()[:200], f"a capacitor's line, and {ref} is {_a(title)}'s reference",
        f"If a capacitor stands there, write {ref} is capacitor ….", field="ref",
    )  # fmt: skip
