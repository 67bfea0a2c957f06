"""Signs that are seen, heard or smelt, as words a line; what each hypothesis would show of them; which two cannot both be.

Source: workshop practice, because nobody has counted how often a sign is seen where it is there.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..refusal import BadInput, nearly, no_longer_than
from ..simulate.outcome import Outcome
from ..simulate.rectifier import Floats
from ..simulate.state import State
from ..simulate.supply import Bench
from ..text.rails_and_chips import rail_called
from ..wording import on_screen
from .hypotheses import Hypothesis
from .symptom_words import TOLD

#: Signs that stand alone, of a supply and of what no model of a supply tells.
ALONE = (
    "dead", "fuse whole", "fuse gone", "fuse gone again", "fan twitches", "hum", "smell", "lamp stays bright", "works when warm",
    "no sound", "weak sound", "distorted", "motorboats", "squeals", "crackle", "comes when touched",
    "one bright line across", "one bright line upright", "picture small", "picture breathes", "picture shakes", "hum bar", "foldover",
    "dim", "one colour missing", "retrace lines", "no picture", "no picture, heater dark", "no picture, heater glows",
    "no height at the bottom", "wavy edges", "out of focus", "leaning", "keys dead", "wrong letters", "does not start", "freezes",
    "forgets",
)  # fmt: skip
#: The same as they are ticked, by what they are seen on.
GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Power", ("dead", "fuse whole", "fuse gone", "fuse gone again", "fan twitches", "lamp stays bright", "smell", "works when warm")),
    ("Sound", ("hum", "no sound", "weak sound", "distorted", "motorboats", "squeals", "crackle", "comes when touched")),
    ("Keys and logic", ("does not start", "freezes", "wrong letters", "keys dead", "forgets")),
    ("Picture", (
        "no picture", "no picture, heater dark", "no picture, heater glows", "dim", "one bright line across", "one bright line upright",
        "no height at the bottom", "foldover", "picture small", "picture breathes", "picture shakes", "wavy edges", "hum bar", "leaning",
        "out of focus", "retrace lines", "one colour missing",
    )),
)  # fmt: skip
#: Signs of a rail, and of a part.
OF_RAIL = ("rail low", "rail high", "ripple", "sags with load")
OF_PART = ("smoke", "moves when pressed")
#: Two that cannot both be.
AGAINST = (("fuse whole", "fuse gone"), ("fuse whole", "fuse gone again"), ("fan twitches", "fuse gone"))
#: How likely a sign is seen where it is there, and where it is not.
SEEN, FALSE = 0.9, 0.05
#: Signs of a supply with nothing wrong.
FINE = ("fuse whole", "fuse good")
#: A rail is low or high from so far off, ripples from so much of its volts or V, sags by so much; dead is under so much of it.
OFF, RIPPLES, LEAST_RIPPLE, SAGS, DEAD = 0.05, 0.01, 0.05, 0.04, 0.2
#: Failures that go as a part warms.
WARMS = {"high ESR", "dried", "cracked"}
#: A sign at a part itself counts so many times: what moves under the finger is told directly, whatever else could explain it.
AT_PART = {"smoke": 12.0, "moves when pressed": 60.0}


#: Symptoms as people read them, and the word by which they are stored.
SPOKEN = {on_screen(word): word for word in ALONE if on_screen(word) != word}


@dataclass(frozen=True)
class Sign:
    """A sign: a word of ALONE, OF_RAIL, OF_PART or ``stripes``; of: its rail or part, or what follows it."""

    what: str
    of: str = ""

    @property
    def words(self) -> str:
        return f"{self.what} {self.of}".strip()


def read_signs(text: str, bench: Bench | None = None) -> tuple[Sign, ...]:
    """Signs as typed, one a line or apart by semicolons.

    Args:
        text: as it was typed.
        bench: the supply as the simulated bench knows it.

    Returns:
        The signs, in the order they were typed.

    Raises:
        BadInput: not a sign, a rail or part that is not there, or two that cannot both be: it names the two.

    >>> read_signs('dead; fuse whole')[0].what, read_signs('ripple +5V')[0].of, read_signs('fuse blown')[0].what
    ('dead', '+5 V', 'fuse gone')
    """
    no_longer_than(text, 4000, "seen")
    found = tuple(
        _one(line.strip(), bench)
        for line in re.split(r"[;\n]", text)
        if line.strip() and not line.lstrip().startswith("#")
    )
    _agree(found)
    return found


def _one(line: str, bench: Bench | None) -> Sign:
    low = " ".join(line.lower().split())
    low = SPOKEN.get(low, low)
    if low in ALONE:
        return Sign(low)
    if hit := re.fullmatch(r"stripes (\d{1,3}) (\d{1,3})", low):
        return Sign("stripes", f"{hit[1]} {hit[2]}")
    for what in OF_RAIL:
        if low.startswith(what + " "):
            name = rail_called(low.removeprefix(what).strip())
            if not name or (bench is not None and name not in bench.rails):
                made = ", ".join(bench.rails) if bench else "+5V"
                raise BadInput(line, f"{what} and a rail that the supply makes: {made}", field="seen")
            return Sign(what, name)
    for what in OF_PART:
        if low.startswith(what + " "):
            ref = line.split()[-1].upper()
            if bench is not None and ref not in bench.refs:
                raise BadInput(
                    line, f"{what} and a part of the supply: {', '.join(sorted(bench.refs))[:160]}", field="seen"
                )
            return Sign(what, ref)
    # in a person's own words: the sign that the line tells first
    if told := signs_in(low):
        return Sign(told[0])
    raise BadInput(
        line,
        f"a symptom: {', '.join((*ALONE[:9], *OF_RAIL, *OF_PART))} and others",
        field="seen",
        instead=nearly(low, ALONE),
    )


def signs_in(text: str) -> tuple[str, ...]:
    """Signs that a person's own words tell, such as symptoms as the owner told them; one that contradicts another is left out.

    >>> signs_in('Hums, then blows its fuse. Picture shakes when cold.')
    ('fuse gone', 'hum', 'picture shakes')
    """
    low = " ".join(text.lower().split())
    found: list[Sign] = []
    for word in dict.fromkeys((*(w for _, group in GROUPS for w in group), *ALONE)):
        # its own word counts as well; what stands after a no is not there
        said = re.finditer(TOLD.get(word, rf"\b{re.escape(word)}\b"), low)
        if any(not re.search(r"\b(?:no|not|without|never) (?:\w+ )?$", low[: hit.start()]) for hit in said):
            try:
                _agree((*found, Sign(word)))
            except BadInput:
                continue
            found.append(Sign(word))
    return tuple(sign.what for sign in found)


#: How people note a joint that is broken, and a reference.
_BROKEN = re.compile(r"\b(?:rings?|crack\w*|(?:dry|cold|loose|grey|bad) joints?)\b", re.IGNORECASE)
_REF = re.compile(r"\b(?:J|T|Q|VR|IC|U|L|R|D|P|X)\d{1,4}\b")


def joints_noted(text: str) -> dict[str, str]:
    """Places at which somebody noted a broken joint, each with the sentence that says so; a mended one is none.

    >>> joints_noted('Dusty. A ring round a pin of T2. No crack at J3.')
    {'T2': 'A ring round a pin of T2'}
    """
    found: dict[str, str] = {}
    for sentence in re.split(r"[.;\n]+", text):
        plain = " ".join(sentence.split())
        if _BROKEN.search(plain) and not re.search(
            r"\b(?:no|not|none|without|never|reflowed|mended|new)\b", plain, re.IGNORECASE
        ):
            found |= {ref: plain[:120] for ref in _REF.findall(plain) if ref not in found}
    return found


def _agree(signs: Sequence[Sign]) -> None:
    whats = {sign.what: sign for sign in signs}
    for one, other in AGAINST:
        if one in whats and other in whats:
            raise BadInput(
                f"{one}, and {other}",
                "symptoms that are possible together",
                f"Check the fuse again; {one} is doubted first.",
                field="seen",
            )
    for what in OF_RAIL:
        if "dead" in whats and what in whats:
            raise BadInput(
                f"dead, and {whats[what].words}", "symptoms that are possible together",
                "A dead supply has no volts: dead is doubted first.", field="seen",
            )  # fmt: skip
    lows = {s.of for s in signs if s.what == "rail low"} & {s.of for s in signs if s.what == "rail high"}
    if lows:
        rail = min(lows)
        raise BadInput(f"rail low {rail}, and rail high {rail}", "one of the two", "Read it again.", field="seen")


def likelihood(
    sign: Sign, bench: Bench, many: Sequence[Hypothesis], outcome: Outcome | None, state: State | None
) -> Floats:
    """How likely a sign is with each hypothesis; 1 everywhere for one that no model of a supply tells."""
    if sign.what in OF_PART:
        return np.array([AT_PART[sign.what] if sign.of in one.ref.split(" + ") else 1.0 for one in many])
    if sign.what == "works when warm":
        return np.array([4.0 if WARMS & set(one.failure.split(" + ")) else 1.0 for one in many])
    there = _shown(sign, bench, outcome, state) if outcome is not None else None
    if there is None:
        return np.ones(len(many))
    shows = np.array(there[1:])
    if sign.what.startswith("fuse"):
        # one that went of itself leaves nothing else behind
        alone = np.array(["blown" in one.failure.split(" + ") for one in many])
        # and one that went again did not go of itself
        shows = shows | alone if sign.what == "fuse gone" else shows & ~alone
    return np.where(shows, SEEN, FALSE)


def _shown(sign: Sign, bench: Bench, outcome: Outcome, state: State | None) -> np.ndarray | None:
    """Whether each row shows a sign, the sound supply first; None where it tells nothing."""
    if sign.what in ("fuse gone", "fuse gone again"):
        return _gone(outcome)
    if sign.what == "fuse whole":
        return ~_gone(outcome)
    if sign.what == "fan twitches":
        return outcome.ticking
    if sign.what == "lamp stays bright":
        return outcome.shorted | (outcome.lamp > 0.7)
    if sign.what == "dead":
        return np.all(
            [
                np.abs(rail.volts).mean(axis=1) < DEAD * abs(bench.rails[name].volts)
                for name, rail in outcome.rails.items()
            ],
            axis=0,
        )
    if sign.what not in OF_RAIL or sign.of not in outcome.rails:
        return None
    rail, nominal = outcome.rails[sign.of], abs(bench.rails[sign.of].volts)
    mean = np.abs(rail.volts).mean(axis=1) - rail.joint
    if sign.what == "rail low":
        return (mean < (1 - OFF) * nominal) & (mean > 0.02 * nominal)
    if sign.what == "rail high":
        return mean > (1 + OFF) * nominal
    if sign.what == "ripple":
        return np.ptp(rail.volts, axis=1) + rail.switching > max(RIPPLES * nominal, LEAST_RIPPLE)
    return mean - rail.lowest > SAGS * nominal


def _gone(outcome: Outcome) -> np.ndarray:
    return np.broadcast_to(outcome.blown > 0, outcome.shorted.shape)
