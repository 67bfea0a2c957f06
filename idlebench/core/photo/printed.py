"""What is printed on a board, put to the part it stands beside: references and markings, offered and never taken by themselves.

Source: a reference stands beside its part in letters, then digits; which letters and digits are taken for one another was seen on
made-up boards.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from .proposals import Found

#: References: letters that parts have, then digits.
REFERENCE = re.compile(r"(CN|FB|IC|LED|NTC|RN|TP|VR|XTAL|[CDFJKLPQRSTUVXYZ])([1-9]\d{0,3})")
#: What a digit is taken for, and a letter.
_DIGITS = str.maketrans("OQDIlZSBGA", "0001125864")
_LETTERS = str.maketrans("01258", "OIZSB")
#: A reference is believed from this share on, and one that had to be mended from this.
BELIEVED, MENDED = 0.72, 0.6
#: A reference stands no further from its part's edge than this, mm; and nearer by this share than to any other part.
FAR, NEARER = 4.2, 0.8


@dataclass(frozen=True, kw_only=True)
class Text:
    """A text in the photo: its middle in mm, its height in mm, and how sure its reader is, 0 to 1."""

    words: str
    x: float
    y: float
    tall: float
    share: float


def reference(words: str) -> tuple[str, bool] | None:
    """The reference that a text is, and whether it was read as it stands; None where it is none.

    >>> reference("C13"), reference("CZ0"), reference("74-08")
    (('C13', True), ('C20', False), None)
    """
    plain = re.sub(r"[\s.,:;'_-]", "", words)
    if REFERENCE.fullmatch(plain):
        return plain, True
    mended = plain[:1].upper().translate(_LETTERS) + plain[1:].translate(_DIGITS)
    return (mended, False) if REFERENCE.fullmatch(mended) and mended != plain else None


def gap(part: Found, x: float, y: float) -> float:
    """How far a place is from a part's edge as it is seen, mm; below zero on it."""
    if part.kind == "can":
        # the reference stands on the board, beside the foot
        return math.hypot(x - part.x, y - part.y) - (part.diameter or 0.0) / 2
    turn = math.radians(part.angle)
    dx, dy = x - part.x, y - part.y
    along, off = abs(dx * math.cos(turn) + dy * math.sin(turn)), abs(dy * math.cos(turn) - dx * math.sin(turn))
    over = along - (part.width or 0.0) / 2, off - (part.height or 0.0) / 2
    return max(over) if max(over) <= 0 else math.hypot(max(over[0], 0.0), max(over[1], 0.0))


#: A number that ends in 0 is doubted where it is larger than all others by this share and so many; any number, where it is this many times
#: as large as the largest of at least so many others.
DOUBTED, MORE = 1.15, 2
FAR_OFF, OTHERS = 2.5, 3


def _believable(offered: Sequence[tuple[float, str, int]]) -> list[tuple[float, str, int]]:
    """References that fit the others of their letters: boards are numbered without large gaps.

    A hole's ring beside a reference reads as a last 0, and is left off where none bears the number without it. A letter that is taken
    for another bears a number far off the others of that letter, and is believed nowhere.
    """
    numbers: dict[str, list[int]] = {}
    for _, ref, _ in offered:
        letters, number = split(ref)
        numbers.setdefault(letters, []).append(number)
    found = []
    for share, ref, i in offered:
        letters, number = split(ref)
        even = max((n for n in numbers[letters] if n % 10), default=0)
        others = list(numbers[letters])
        others.remove(number)
        if number >= 10 and number % 10 == 0 and number > DOUBTED * even + MORE:
            if number // 10 not in others:
                found.append((share / 2, f"{letters}{number // 10}", i))
        elif len(others) < OTHERS or number <= FAR_OFF * max(others):
            found.append((share, ref, i))
    return found


def split(ref: str) -> tuple[str, int]:
    """The letters and the number of a reference.

    >>> split("C13")
    ('C', 13)
    """
    letters = ref.rstrip("0123456789")
    return letters, int(ref[len(letters) :])


def with_texts(parts: Sequence[Found], texts: Sequence[Text]) -> list[Found]:
    """The parts with the reference beside each and the text on it.

    A reference goes to the part it is nearest to, clearly; one that is read twice is believed nowhere but where it is surest.
    """
    found = list(parts)
    offered: list[tuple[float, str, int]] = []
    for text in texts:
        gaps = sorted((gap(part, text.x, text.y), i) for i, part in enumerate(parts))
        if not gaps:
            break
        nearest, i = gaps[0]
        if nearest < -0.2:
            one = found[i]
            words, share = f"{one.text or ''} {text.words}".strip(), min(one.text_share or 1.0, text.share)
            found[i] = replace(one, text=words, text_share=share)
            continue
        ref = reference(text.words)
        if ref is None or text.share < (BELIEVED if ref[1] else MENDED) or nearest > FAR:
            continue
        if len(gaps) == 1 or nearest < NEARER * gaps[1][0]:
            offered.append((text.share if ref[1] else text.share / 2, ref[0], i))
    taken: set[str] = set()
    for share, ref_, i in sorted(_believable(offered), reverse=True):
        if ref_ not in taken and found[i].ref is None:
            taken.add(ref_)
            found[i] = replace(found[i], ref=ref_, ref_share=share)
    return found
