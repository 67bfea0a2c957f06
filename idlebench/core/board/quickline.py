"""One typed line to one part: ``C22 100u 10V 6.3x11 p2.5 esr 6.8 sound store``. Doubts are asked, not guessed.

Source: LONGEST_WORD: workshop practice, because no marking of value and volts is as long.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

from ..refusal import BadInput, no_longer_than
from ..text.marking import MarkingReading, read_marking
from ..text.marking_values import preferred
from ..text.quantity import VOLT_RATINGS, read
from .parts import KINDS, LOOK_WORDS, LOOKS, MOUNTING_WORDS, MOUNTINGS, OPEN_ESR, Fitted, read_looks
from .roles import ROLES, effective_role, role_from_words
from .tables import SURVEY, read_ref, read_value, write_value

_COLUMN = {column.name: column for column in SURVEY}
_SIZE = re.compile(r"(\d+(?:[.,]\d+)?)[x×*](\d+(?:[.,]\d+)?)(?:mm)?", re.I)
_VOLTS = re.compile(r"(\d+(?:[.,]\d+)?)v", re.I)
_AC_VOLTS = re.compile(r"(\d+(?:[.,]\d+)?)(?:v?~|vac)", re.I)
_TEMPERATURE = re.compile(r"(85|105|125|130)(?:°c?|c|deg(?:rees)?\.?c?)", re.I)
#: A temperature without its unit, beside a value.
_CELSIUS = ("85", "105", "125", "130")
#: What people call a part on the surface of a board.
_PITCH = re.compile(r"p(\d+(?:[.,]\d+)?)", re.I)

#: Words that take the next word: word → survey column.
TAKES = {
    "esr": "esr",
    "cap": "capacitance",
    "leak": "leakage",
    "series": "series",
    "date": "date",
    "rail": "rail",
    "role": "role",
    "looks": "looks",
    "angle": "angle",
    "ambient": "ambient",
    "ripple": "ripple",
    "room": "room",
    "at": "at",
    "pitch": "pitch",
    "note": "note",
    "volts": "volts",
    "worst": "rail_volts",
    "side": "side",
}
#: Words that follow “sound” when it means the sound circuit and not the looks.
_SOUND_CIRCUIT = ("store", "supply", "coupling", "amplifier", "chip", "filter", "output")


#: Roles that people say in two words.
_PAIRS = {words: one.name for one in ROLES.values() for words in one.words if words.count(" ") == 1}


@dataclass(kw_only=True)
class QuickLine:
    """What a typed line was read as.

    Attributes:
        ref: the reference. changes: survey columns with their values. words: how the role was told. kind: as named
            anywhere in it.
        rest: words that no rule knew, kept as a note. sure: the value is meant as it stands, whatever parts are made in.
    """

    ref: str
    changes: dict[str, Any] = field(default_factory=dict)
    words: str = ""
    kind: str = ""
    sure: bool = False
    rest: list[str] = field(default_factory=list)

    @property
    def has_value(self) -> bool:
        return "value" in self.changes

    def part(self, before: Fitted | None = None) -> Fitted:
        """The part this line describes, on top of one that is already listed.

        Args:
            before: what stood or was read before, None for nothing.

        Returns:
            The part; what the line leaves out stays.

        Raises:
            BadInput: a new part without a value.
        """
        changes = dict(self.changes)
        if self.rest:
            note = " ".join(self.rest)
            changes["note"] = "; ".join(filter(None, [before.note if before else "", changes.get("note", ""), note]))
        if before is not None:
            if before.mounting == "chassis" and before.kind in ("wet", "polymer") and "diameter" in changes:
                # it may be called so for a size that was a slip: by its true one it is asked again, unless the line says it
                changes.setdefault("mounting", "can")
            return before.with_(**changes)
        if not self.has_value:
            raise BadInput(self.ref, "its value after the reference, such as 100u", field="value")
        return Fitted(ref=self.ref, **changes)


_SECTIONS = re.compile(r"(\d+(?:[.,]\d+)?(?:\+\d+(?:[.,]\d+)?){1,3})([pnuµ]?)f?", re.I)
#: Value and volts in one word, as they stand on a part: ``100uF/16V``, ``220/25``, ``470uF25V``.
_VALUE_AND_VOLTS = re.compile(
    r"((?:\d+(?:[.,]\d+)?\+)*\d*[.,]?\d+(?:[pnuµ]f?|mfd|f)?)(?:[/,;-](?=\d)(\d+(?:[.,]\d+)?)v?|(?<=[a-zµ])(\d+(?:[.,]\d+)?)v)(ac|~|)",
    re.I,
)
#: Letters of a word that may still hold value and volts.
LONGEST_WORD = 40
#: A code with its letters: volts before it, its tolerance, volts after it.
_LETTERED = re.compile(r"(?:\d[A-HJV])?\d{3}[FGJKMZ]\d{0,4}V?|[.,]\d{1,3}[JKM]\d{0,4}V?", re.I)


def sections(text: str) -> tuple[str, ...]:
    """The lines of the sections of a can that holds several, () for a line of one part: each section is chosen for itself.

    >>> sections('C1 8+8 450')
    ('C1A 8u 450V note section 1 of 2 of C1', 'C1B 8u 450V note section 2 of 2 of C1')
    >>> sections('C1 100u 16V')
    ()
    """
    words = value_and_volts(text).split()
    found = _SECTIONS.fullmatch(words[1]) if len(words) > 1 else None
    if found is None:
        return ()
    values, unit = found[1].split("+"), found[2] or "u"
    rest = words[2:]
    if rest and re.fullmatch(r"\d{1,3}", rest[0]):
        rest[0] += "V"
    tail = " ".join(rest)
    joins = ";" if " note " in f" {tail} " else " note"
    ref = read_ref(words[0])
    return tuple(
        f"{ref}{letter} {value}{unit} {tail}".strip() + f"{joins} section {i} of {len(values)} of {ref}"
        for i, (letter, value) in enumerate(zip("ABCD", values, strict=False), 1)
    )


def value_and_volts(text: str) -> str:
    """A line in which value and volts are two words, where they were typed as one; the volts are never lost.

    >>> value_and_volts('C1 100uF/16V radial'), value_and_volts('C1 16+16/450V'), value_and_volts('C1 47u16 x')
    ('C1 100uF 16V radial', 'C1 16+16 450V', 'C1 47u 16V x')
    """
    words = text.split()
    for i, word in enumerate(words[1:3], 1):
        if len(word) > LONGEST_WORD:
            continue
        if hit := _VALUE_AND_VOLTS.fullmatch(word):
            volts = hit[2] or hit[3]
            if float(volts.replace(",", ".")) in VOLT_RATINGS:
                words[i : i + 1] = [hit[1], f"{volts}V{'~' if hit[4] else ''}"]
                return " ".join(words)
        infix = re.fullmatch(r"(?i)(\d+[nuµ])(\d{2,3})", word)
        if infix and float(infix[2]) in VOLT_RATINGS and not preferred(float(f"{infix[1][:-1]}.{infix[2]}")):
            words[i : i + 1] = [infix[1], f"{infix[2]}V"]
            return " ".join(words)
    return text


#: A number, and its unit after a space.
_APART = re.compile(
    r"(?<=\s)(\d[\d.,]*)\s+((?:[pnuµμm]|M)?F|MFD|mfd|MMFD|mmfd|k?V(?:DC|AC)?~?|m?A|[mk]?(?:Ω|ohms?)|k?Hz|°?C|mm|deg(?:rees)?\.?\s?C?)(?=\s|$)"
)


def joined(text: str) -> str:
    """A line with units at their numbers: ``100 uF 16 V`` as ``100uF 16V``; a note stays as it was typed.

    >>> joined('C1 100 uF 16 V note 5 V rail')
    'C1 100uF 16V note 5 V rail'
    """
    head, note, tail = text.partition(" note ")
    return _APART.sub(r"\1\2", head) + note + tail


def as_line(part: Fitted) -> str:
    """What is marked on a part and said of its place, as it is typed: to be corrected and sent again.

    >>> size = dict(diameter=18.0, height=14.0, pitch=15.0)
    >>> as_line(Fitted(ref='C3', value=220e-9, volts=250.0, kind='film', safety='X2', role='mains_x', **size))
    'C3 220n 250V film X2 18x14 p15 mains_x'
    """
    bits = [part.ref, write_value(part.value)]
    if part.volts:
        bits.append(f"{part.volts:g}V")
    bits += [part.kind if part.kind != "wet" else "", part.mounting if part.mounting != "radial" else "", part.safety]
    if part.diameter and part.height:
        bits.append(f"{part.diameter:g}x{part.height:g}")
    bits.append(f"p{part.pitch:g}" if part.pitch else "")
    bits.append(f"{part.temperature:g}C" if part.temperature in (85, 105, 125, 130) else "")
    bits += ["bipolar" if part.bipolar else "", part.role if part.role != "unknown" else ""]
    rail = part.rail.replace(" ", "").replace("−", "-")
    bits.append(f"rail {rail}" if rail else "")
    return " ".join(filter(None, bits))


def read_line(text: str) -> QuickLine:
    """Read a quick line.

    Args:
        text: as it was typed.

    Returns:
        What each word was taken for, and what was not understood.

    Raises:
        BadInput: a word that cannot be read where one is expected; the field names it.

    >>> q = read_line('C22 100u 10V 6.3x11 p2.5 esr 6.8 sound store')
    >>> q.ref, q.changes['volts'], q.changes['role'], q.changes['esr']
    ('C22', 10.0, 'decoupling', 6.8)
    """
    no_longer_than(text, 400, "line")
    words = joined(value_and_volts(text.replace("–", "-"))).split()
    if not words:
        raise BadInput("", "a line such as C22 100u 10V 6.3x11 esr 6.8", field="line")
    # R5 is capacitor 100n: the word overrules the letters
    words = [word for i, word in enumerate(words) if not (i == 1 and word.lower() == "is")]
    words = [word for i, word in enumerate(words) if not (i == 1 and word.lower() == "capacitor")]
    line = QuickLine(ref=read_ref(words[0]))
    kind = next((w.lower() for w in words if w.lower() in KINDS), "")
    line.kind = kind
    loose: list[str] = []
    queue = words[1:]
    while queue:
        word = queue.pop(0)
        low = word.lower()
        if queue and (named := _PAIRS.get(f"{low} {queue[0].lower()}")):
            # two words that are a role together, one of which may be another alone
            line.changes["role"], line.words = named, f"{low} {queue.pop(0).lower()}"
        elif low in TAKES and queue:
            _take(line, TAKES[low], queue)
        elif low == "sound" and not (queue and queue[0].lower() in _SOUND_CIRCUIT):
            line.changes["looks"] = "sound"
        elif queue and (look := LOOK_WORDS.get(f"{low} {queue[0].lower()}")):
            queue.pop(0)
            line.changes["looks"] = look
        elif low == "in" and queue and queue[0].lower().startswith("circuit"):
            queue.pop(0)
            line.changes["in_circuit"] = True
        elif not _known(line, word, low):
            _value_or_loose(line, word, kind, loose)
    _roles(line, loose)
    _by_class(line)
    return line


def _take(line: QuickLine, name: str, queue: list[str]) -> None:
    text = queue.pop(0)
    if name == "note":
        line.changes["note"] = " ".join([text, *queue])
        queue.clear()
    elif name == "room":
        wide, high = _size(text, "room")
        line.changes.update(room_diameter=wide, room_height=high)
    elif name == "at":
        x, _, y = text.partition(",")
        line.changes.update(x=_column("x", x), y=_column("y", y or (queue.pop(0) if queue else "")))
    else:
        text, _, frequency = text.partition("@")
        is_open = name == "esr" and text.upper() in ("OL", "O.L", "OPEN")
        line.changes[name] = OPEN_ESR if is_open else _column(name, text)
        if frequency:
            line.changes["esr_frequency" if name == "esr" else "frequency"] = read(frequency, "Hz", field=name, above=0)


def _column(name: str, text: str) -> Any:
    try:
        return _COLUMN[name].take(text)
    except BadInput as error:
        raise error.within(name) from None


def _size(text: str, name: str) -> tuple[float, float]:
    found = _SIZE.fullmatch(text)
    if not found:
        raise BadInput(text, "diameter x height in mm, such as 13x26", field=name)
    return _column("diameter", found[1]), _column("height", found[2])


def _known(line: QuickLine, word: str, low: str) -> bool:
    """Words that say what they are by themselves."""
    if low in KINDS:
        line.changes["kind"] = low
    elif low in MOUNTINGS or low in MOUNTING_WORDS:
        line.changes["mounting"] = MOUNTING_WORDS.get(low, low)
    elif (low in LOOKS or low in LOOK_WORDS) and low != "sound":
        line.changes["looks"] = read_looks(low)
    elif low in ("bipolar", "bp", "np"):
        line.changes["bipolar"] = True
    elif low == "sure":
        line.sure = True
    elif low in ("in-circuit", "incircuit"):
        line.changes["in_circuit"] = True
    elif re.fullmatch(r"[xy]\d(/?[xy]\d)?", low):
        line.changes["safety"] = _column("safety", word)
    elif low in ROLES:
        line.changes["role"] = low
    elif found := _AC_VOLTS.fullmatch(word):
        # marked in AC: made for the mains, so film unless another kind is named
        line.changes["volts"] = _column("volts", found[1])
        line.changes.setdefault("kind", "film")
    elif (found := _VOLTS.fullmatch(word)) and not _is_tantalum_code(line, word):
        line.changes["volts"] = _column("volts", found[1])
    elif (found := _TEMPERATURE.fullmatch(word)) or (
        low in _CELSIUS and line.has_value and "temperature" not in line.changes
    ):
        line.changes["temperature"] = float(found[1] if found else low)
    elif found := _PITCH.fullmatch(word):
        line.changes["pitch"] = _column("pitch", found[1])
    elif _SIZE.fullmatch(word):
        line.changes["diameter"], line.changes["height"] = _size(word, "size")
    else:
        return False
    return True


def _is_tantalum_code(line: QuickLine, word: str) -> bool:
    """Whether a word is a code with a letter for volts, as on a small tantalum: ``336V`` is 33 µF 35 V, not 336 V."""
    return line.kind == "tantalum" and not line.has_value and bool(re.fullmatch(r"\d\d[0-7][eGJACDEVH]", word))


def _value_or_loose(line: QuickLine, word: str, kind: str, loose: list[str]) -> None:
    if not line.has_value and re.match(r"[\d.,µu+\-RnpN]", word) and any(c.isdigit() for c in word):
        if _is_tantalum_code(line, word):
            marking = read_marking(word, "tantalum").best
            line.changes["value"] = marking.capacitance
            line.changes.setdefault("volts", marking.volts)
            return
        if _LETTERED.fullmatch(word) and (marking := _lettered(word, kind or "film")):
            line.changes["value"] = marking.capacitance
            if marking.volts:
                line.changes.setdefault("volts", marking.volts)
            # no electrolytic bears such a code
            line.changes.setdefault("kind", "film")
            return
        line.changes["value"] = read_value(word, kind or ("film" if "safety" in line.changes else "wet"))
    else:
        loose.append(word)


def _lettered(word: str, kind: str) -> MarkingReading | None:
    """A code with its tolerance as it stands on film and ceramic parts, as 104K; None where it can be read two ways."""
    found = read_marking(word.upper(), kind).readings
    # a letter for volts stands on tantalum parts only
    plain = [one for one in found if not (one.volts and not re.search(r"^\d[A-Z]|[A-Z]\d", word.upper()))]
    return plain[0] if len(plain) == 1 else None


def _roles(line: QuickLine, loose: list[str]) -> None:
    """The words left over: a role where they tell one, else a note."""
    if not loose:
        return
    text = " ".join(loose)
    found = role_from_words(text)
    if found and "role" not in line.changes:
        line.changes["role"], line.words = found[0], text
    else:
        line.rest = loose


def _by_class(line: QuickLine) -> None:
    """A safety class tells the role and the kind where nothing else does."""
    safety = line.changes.get("safety", "")
    if safety:
        line.changes.setdefault("kind", "film")
        line.changes.setdefault("role", effective_role("unknown", safety))
