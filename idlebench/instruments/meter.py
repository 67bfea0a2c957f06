"""An LCR meter that answers SCPI over TCP: series capacitance and series resistance at its test frequency."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from types import TracebackType
from typing import Self

import pyvisa
from pyvisa import constants

from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

#: How long a meter is waited for, s.
PATIENCE = 3.0
#: SCPI's number for a reading that is off the scale, and from where a number is taken for it.
OVERLOAD = 9.9e37
#: What a meter of this kind can read at all: F and Ω.
MOST_FARADS, MOST_OHMS = 10.0, 50e6
_SHORT = re.compile(r"([A-Za-z0-9.\-]{1,100}):(\d{1,5})")
_VISA = re.compile(r"TCPIP\d?::[A-Za-z0-9.\-]{1,100}::\d{1,5}::SOCKET", re.I)


@dataclass(frozen=True)
class LcrReading:
    """What a meter read: F, Ω and Hz."""

    capacitance: float
    esr: float
    frequency: float

    @property
    def text(self) -> str:
        """The reading in words."""
        return f"{show(self.capacitance, 'F')}, {show(self.esr, 'Ω')} at {show(self.frequency, 'Hz')}"


def read_address(text: str) -> str:
    """A meter's address as VISA knows it, from ``127.0.0.1:5025`` or a VISA socket address.

    Raises:
        BadInput: neither of the two.

    >>> read_address('127.0.0.1:5025')
    'TCPIP::127.0.0.1::5025::SOCKET'
    """
    plain = text.strip()
    if _VISA.fullmatch(plain):
        return plain
    if (hit := _SHORT.fullmatch(plain)) and 0 < int(hit[2]) < 65536:
        return f"TCPIP::{hit[1]}::{hit[2]}::SOCKET"
    raise BadInput(text, "a meter's address such as 127.0.0.1:5025", "It stands in the meter's network menu.", "meter")


class LcrMeter:
    """An open meter. Use it in a ``with``: a session that went wrong is closed, so that a late answer is nobody's."""

    def __init__(self, address: str, patience: float = PATIENCE) -> None:
        """Open the meter.

        Args:
            address: as read_address takes it. patience: s it is waited for.

        Raises:
            BadInput: nothing answers there. What answers is asked what it is: see ``identity``.
        """
        self.address = read_address(address)
        self.patience = patience
        self._manager = pyvisa.ResourceManager("@py")
        try:
            self._session = self._manager.open_resource(
                self.address,
                open_timeout=int(patience * 1000),
                timeout=int(patience * 1000),
                read_termination="\n",
                write_termination="\n",
            )
            self.identity = self.ask("*IDN?")[:100]
        except (pyvisa.Error, OSError, ValueError):
            self._manager.close()
            raise self._wrong("nothing", "a meter that listens there", "Is it on, and is the address right?") from None

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._session.close()
        self._manager.close()

    def _wrong(self, read: str, expected: str, mend: str) -> BadInput:
        return BadInput(read, f"{expected}, from {self.address}", mend, "meter")

    def tell(self, command: str) -> None:
        """Send a command that has no answer."""
        try:
            self._session.write(command)
        except (pyvisa.Error, OSError):
            raise self._wrong("a lost connection", "a meter that listens", "Take the reading again.") from None

    def ask(self, question: str) -> str:
        """Ask, and wait for the answer.

        Raises:
            BadInput: it comes late, or is not text.
        """
        self.tell(question)
        try:
            return self._session.read().strip()
        except pyvisa.VisaIOError as error:
            if error.error_code == constants.StatusCode.error_timeout:
                raise self._wrong(
                    f"no answer to {question}",
                    f"one within {self.patience:g} s",
                    "What comes later is thrown away. Take the reading again.",
                ) from None
            raise self._wrong("a lost connection", f"an answer to {question}", "Take the reading again.") from None
        except (pyvisa.Error, OSError, UnicodeDecodeError):
            raise self._wrong("no text", f"an answer to {question}", "Is it an LCR meter?") from None

    def read(self) -> LcrReading:
        """Take a reading: series capacitance and resistance, and the frequency they were read at.

        Raises:
            BadInput: late, garbage, or off the scale; it names what was read.
        """
        self.tell("FUNC:IMP CSRS")
        (frequency,) = self._numbers("FREQ?", 1)
        if not 1 <= frequency <= 10e6:
            raise self._wrong(f"{frequency:g}", "a test frequency of 1 Hz to 10 MHz", "Look at the meter's setting.")
        capacitance, esr = self._numbers("FETC?", 2)
        if max(abs(capacitance), abs(esr)) >= OVERLOAD / 10:
            raise self._wrong(
                "overload", "a reading", "Do the probes touch both leads? Is the part discharged? Is the range right?"
            )
        if not (0 <= capacitance <= MOST_FARADS and 0 <= esr <= MOST_OHMS):
            raise self._wrong(
                f"{capacitance:g} F, {esr:g} Ω",
                "a capacitor",
                "Probes swapped with a coil, or charge left in the part?",
            )
        return LcrReading(capacitance, esr, frequency)

    def _numbers(self, question: str, count: int) -> list[float]:
        """An answer's first numbers."""
        answer = self.ask(question)
        try:
            numbers = [float(field) for field in answer.split(",")[:count]]
        except ValueError:
            numbers = []
        if len(numbers) < count or not all(map(math.isfinite, numbers)):
            many = "a number" if count == 1 else f"{count} numbers"
            raise self._wrong(answer[:60] or "an empty line", f"{many} to {question}", "Is it an LCR meter?")
        return numbers
