"""Sources, electronic loads and scopes that answer SCPI over TCP, and how an instrument of each kind is tried.

The app sets volts and a limit while an output is off, reads, and switches off. It never switches an output on: that is done by a
hand at the instrument, with eyes on the machine.
"""

from __future__ import annotations

import math
import struct
from collections.abc import Sequence
from dataclasses import dataclass

from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

from .meter import OVERLOAD, LcrMeter, Multimeter, Session

#: What an instrument may be, by the word that is kept; what it is used for.
KINDS = {
    "meter": "multimeter",
    "lcr": "LCR meter",
    "source": "bench supply with a limit",
    "ac": "variable AC source",
    "load": "electronic load",
    "scope": "scope",
}
#: Kinds that have an output or input which the app may set and switch off, and the word for that.
SWITCHED = {"source": "OUTP", "ac": "OUTP", "load": "INP"}
#: The most that may be set, V and A.
MOST_VOLTS, MOST_AMPS = 300.0, 100.0
#: Points of a trace at most, and the bytes of one.
MOST_POINTS = 100_000


@dataclass(frozen=True, kw_only=True)
class Gives:
    """What a source or load is set to and does: V, A, the V and A that it reads itself, on, in its limit."""

    volts: float
    limit: float
    now_volts: float
    now_amps: float
    on: bool
    limited: bool

    @property
    def words(self) -> str:
        state = "output on" + (", IN ITS LIMIT" if self.limited else "") if self.on else "output off"
        return (
            f"set to {show(self.volts, 'V')}, limit {show(self.limit, 'A')}; {state}; "
            f"it reads {show(self.now_volts, 'V')}, {show(self.now_amps, 'A')}"
        )


class Source(Session):
    """A source with a limit, a variable AC source or an electronic load. switch: OUTP or INP."""

    def __init__(self, address: str, patience: float | None = None, switch: str = "OUTP") -> None:
        super().__init__(address, patience)
        self.switch = switch

    def _one(self, question: str, most: float, unit: str) -> float:
        (value,) = self._numbers(question, 1)
        if abs(value) >= OVERLOAD / 10 or abs(value) > most:
            raise self._wrong(f"{value:g} {unit}", f"up to {most:g} {unit}", "Check the kind of the instrument.")
        return value

    @property
    def is_on(self) -> bool:
        """Whether its output is on. BadInput: it does not say so plainly; it is then taken as on by nobody."""
        answer = self.ask(f"{self.switch}?").strip().upper()
        if answer not in ("0", "1", "ON", "OFF"):
            raise self._wrong("no 0 or 1", f"an answer to {self.switch}?", "Check that it is a source.")
        return answer in ("1", "ON")

    def amps(self) -> float:
        """A that it gives now."""
        return self._one("MEAS:CURR?", 1000.0, "A")

    def limited(self) -> bool:
        """Whether it is in its limit."""
        return bool(int(self._one("STAT:QUES?", 65535.0, "")) & 1)

    def gives(self) -> Gives:
        """What it is set to, and what it does."""
        volts, limit = self._one("VOLT?", 1000.0, "V"), self._one("CURR?", 1000.0, "A")
        now_volts, now_amps, on = self._one("MEAS:VOLT?", 1000.0, "V"), self.amps(), self.is_on
        return Gives(
            volts=volts, limit=limit, now_volts=now_volts, now_amps=now_amps, on=on, limited=on and self.limited()
        )

    def set(self, volts: float, limit: float) -> None:
        """Set volts and limit, while its output is off.

        Raises:
            BadInput: more than can be set, or the output is on: nothing is set.
        """
        for name, value, most, unit in (("volts", volts, MOST_VOLTS, "V"), ("limit", limit, MOST_AMPS, "A")):
            if not (math.isfinite(value) and 0 < value <= most):
                raise BadInput(f"{value:g} {unit}", f"above 0 and up to {most:g} {unit}", field=name)
        if self.is_on:
            raise BadInput(
                "an output that is on",
                "one that is off",
                "Switch it off first: the machine connected to it would see a step.",
                field="output",
            )
        # the limit first: new volts never meet the old, larger limit
        self.tell(f"CURR {limit:g}")
        self.tell(f"VOLT {volts:g}")

    def off(self) -> None:
        """Switch it off, and see that it is.

        Raises:
            BadInput: it still says that it is on.
        """
        self.tell(f"{self.switch} OFF")
        if self.is_on:
            raise self._wrong("an output that is still on", "one that is off", "Switch it off by hand, now.")


class Scope(Session):
    """A scope: one trace, as it shows it."""

    def trace(self, points: int = 20_000) -> tuple[list[float], list[float]]:
        """Time, s from the trace's beginning, and volts.

        Raises:
            BadInput: late, garbage, too many points, or none.
        """
        self.tell(f"WAV:POIN {min(points, MOST_POINTS)}")
        fields = self.ask("WAV:PRE?").split(",")
        try:
            count, step, start, gain, nought = int(float(fields[0])), *(float(field) for field in fields[1:5])
        except (ValueError, IndexError):
            count = 0
            step = start = gain = nought = math.nan
        if not (0 < count <= MOST_POINTS and math.isfinite(step) and step > 0 and math.isfinite(start + gain + nought)):
            raise self._wrong(
                "no preamble",
                f"points, seconds, volts to WAV:PRE?, up to {MOST_POINTS} points",
                "Check that it is a scope.",
            )
        volts = self._block("WAV:DATA?", count)
        return [start + step * i for i in range(count)], [nought + gain * v for v in volts]

    def _block(self, question: str, count: int) -> Sequence[float]:
        """A definite-length block of little-endian float32."""
        import pyvisa

        self.tell(question)
        try:
            head = self._session.read_bytes(2)
            size = int(self._session.read_bytes(int(chr(head[1]))))
            if head[:1] != b"#" or size != 4 * count:
                raise ValueError
            data = self._session.read_bytes(size)
            self._session.read_bytes(1)
        except (pyvisa.Error, OSError, ValueError):
            raise self._wrong("no block of that length", f"{count} points to {question}", "Read it again.") from None
        volts = struct.unpack(f"<{count}f", data)
        if not all(map(math.isfinite, volts)):
            raise self._wrong("points that are not numbers", f"volts to {question}", "Switch a channel on.")
        return volts


def tried(kind: str, address: str) -> tuple[str, str]:
    """What an instrument says it is, and one thing that it read, in words.

    Raises:
        BadInput: nothing answers, it names no instrument, or it does not answer as its kind does.
    """
    if kind not in KINDS:
        raise BadInput(kind, f"one of {', '.join(KINDS.values())}", field="kind")
    if kind == "lcr":
        with LcrMeter(address) as lcr:
            return _named(lcr), lcr.read().text
    if kind == "scope":
        with Scope(address) as scope:
            name = _named(scope)
            time, volts = scope.trace(1000)
            return (
                name,
                f"{len(volts)} points over {show(time[-1] - time[0], 's')}, {show(min(volts), 'V')} to {show(max(volts), 'V')}",
            )
    if kind in SWITCHED:
        with Source(address, switch=SWITCHED[kind]) as source:
            return _named(source), source.gives().words
    with Multimeter(address) as meter:
        return _named(meter), f"{show(meter.read('dc_volts'), 'V', 5)} DC"


def _named(session: Session) -> str:
    if not session.identity:
        raise BadInput("an answer that names no instrument", f"an instrument at {session.address}", field="address")
    return session.identity
