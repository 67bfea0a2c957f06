"""The simulated bench as instruments that speak SCPI: a meter with an LCR meter in it, a source and a scope, on one supply.

A line in, an answer or nothing out. ``ROUT:CLOS (@+5V)`` puts the probe; a real meter's leads are put by hand.

Source: SCPI-1999, volumes 1 and 2; 9.9e37 is what it says for infinity (volume 1, 7.2.1.4).
"""

from __future__ import annotations

import re
from dataclasses import replace
from typing import ClassVar

import numpy as np

from ..refusal import BadInput
from .readings import Asked, read_asked
from .sitting import Sitting
from .state import State

NAME = "IDLE BENCH,SIMULATED BENCH,0,1"
#: What an instrument answers off its scale, and where there is no number.
OVERLOAD = 9.9e37
#: Points of a scope's trace.
MOST_POINTS = 100_000
#: An answer is plain ASCII without quotes of its own.
_PLAIN = str.maketrans({"“": "'", "”": "'", '"': "'", "−": "-", "Ω": "ohm", "µ": "u", "°": "deg ", "\n": " "})
#: Errors kept until they are asked for.
KEPT = 20


class Instruments:
    """One client's view of the bench: its probe, its LCR frequency, its errors. The supply and its source are everybody's."""

    #: Questions that read something, and what.
    READS: ClassVar[dict[str, str]] = {
        "MEAS:VOLT:DC?": "dc", "MEAS:VOLT:AC?": "ac", "MEAS:CURR:DC?": "amps", "MEAS:RES?": "ohms", "MEAS:TEMP?": "temp",
        "MEAS:CAP?": "cap", "MEAS:ESR?": "esr",
    }  # fmt: skip

    def __init__(self, sitting: Sitting) -> None:
        self.sitting = sitting
        self._probe = ""
        self._frequency = 120.0
        self._points = 1000
        self._errors: list[str] = []

    def answer(self, line: str) -> bytes | None:
        """What is said to a line: None where it is a command."""
        text = line.strip()
        if not text:
            return None
        head = re.sub(r"\s+", " ", text)
        try:
            found = self._asked(head) if head.split(" ")[0].endswith("?") else self._told(head)
        except BadInput as error:
            self._wrong(-221 if "everything off" in str(error) else -222, str(error))
            found = f"{OVERLOAD:.1E}" if head.endswith("?") else None
        return found if found is None or isinstance(found, bytes) else found.encode()

    def _wrong(self, number: int, words: str) -> None:
        if len(self._errors) < KEPT:
            plain = words[:200].translate(_PLAIN).encode("ascii", "replace").decode()
            self._errors.append(f'{number},"{plain}"')

    def _asked(self, head: str) -> str | bytes | None:
        question = head.upper()
        if question == "*IDN?":
            return NAME
        if question == "SYST:ERR?":
            return self._errors.pop(0) if self._errors else '0,"No error"'
        if question in self.READS:
            return self._read(self.READS[question])
        if question == "MEAS:VOLT?":
            return _number(self._source().volts if self._on else 0.0)
        if question == "MEAS:CURR?":
            return _number(self.sitting.mains_amps)
        question = "OUTP?" if question == "INP?" else question
        if question in ("VOLT?", "CURR?", "OUTP?", "FREQ?", "WAV:POIN?", "STAT:QUES?"):
            return {
                "VOLT?": _number(self._source().volts), "CURR?": _number(self._source().limit), "OUTP?": str(int(self._on)),
                "FREQ?": _number(self._frequency), "WAV:POIN?": str(self._points), "STAT:QUES?": str(int(self.sitting.limited())),
            }[question]  # fmt: skip
        if question in ("WAV:PRE?", "WAV:DATA?"):
            volts, step = self.sitting.trace(self._point("dc").point, self._points)
            if question == "WAV:PRE?":
                # points, s between two, s of the first, V a step, V of nought, and how they are sent
                return f"{len(volts)},{step:.9E},0.000000000E+00,1.000000000E+00,0.000000000E+00,FLOAT32 LITTLE"
            data = np.asarray(volts, "<f4").tobytes()
            return f"#{len(str(len(data)))}{len(data)}".encode() + data
        self._wrong(-113, f"Undefined header: {head}")
        return None

    def _read(self, what: str) -> str:
        asked = self._point(what)
        value = self.sitting.read(replace(asked, frequency=self._frequency)).value
        return _number(OVERLOAD if value is None else value)

    def _point(self, what: str) -> Asked:
        if not self._probe:
            raise BadInput("no probe", "a point for it", "Send ROUT:CLOS (@+5V) first.", field="probe")
        return read_asked(f"{self._probe} {what}", self.sitting.bench)[0]

    def _told(self, head: str) -> None:
        word, _, rest = head.partition(" ")
        word, rest = word.upper(), rest.strip()
        if word == "ROUT:CLOS":
            hit = re.fullmatch(r"\(@(.+)\)", rest)
            if not hit:
                raise BadInput(rest, "a point, such as (@+5V)", field="probe")
            name = hit[1].strip()
            read_asked(f"{name} dc", self.sitting.bench)
            self._probe = name
        elif word == "FREQ":
            self._frequency = _within(rest, 20.0, 1e6, "Hz")
        elif word == "WAV:POIN":
            self._points = int(_within(rest, 2, MOST_POINTS, "points"))
        elif word in ("VOLT", "CURR", "OUTP", "INP"):
            self._set(word, rest)
        elif word in ("*RST", "*CLS"):
            self._errors.clear()
            if word == "*RST":
                self._probe, self._frequency, self._points = "", 120.0, 1000
        else:
            self._wrong(-113, f"Undefined header: {head}")

    # the source

    def _source(self) -> State:
        return self.sitting.__dict__.setdefault("source", self.sitting.state)

    @property
    def _on(self) -> bool:
        return self.sitting.state.on

    def _set(self, word: str, rest: str) -> None:
        source, on = self._source(), self._on
        if word == "VOLT":
            source = replace(source, volts=_within(rest, 0.0, 300.0, "V"))
        elif word == "CURR":
            source = replace(source, limit=_within(rest, 0.001, 100.0, "A"))
        elif rest.upper() in ("ON", "1", "OFF", "0"):
            on = rest.upper() in ("ON", "1")
        else:
            raise BadInput(rest, "ON or OFF", field="output")
        self.sitting.__dict__["source"] = source
        self.sitting.set(source if on else replace(source, volts=0.0))


def _within(text: str, low: float, high: float, unit: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise BadInput(text, f"{low:g} to {high:g} {unit}", field="setting")
    return value


def _number(value: float) -> str:
    return f"{value:.6E}"
