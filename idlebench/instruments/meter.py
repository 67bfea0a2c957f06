"""Meters that answer SCPI over TCP: an LCR meter, and a multimeter."""

from __future__ import annotations

import math
import re
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from ipaddress import ip_address
from types import TracebackType
from typing import Self

from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show

#: How long a meter is waited for, s.
PATIENCE = 3.0
#: SCPI's number for a reading that is off the scale, and from where a number is taken for it.
OVERLOAD = 9.9e37
#: What a meter of this kind can read at all: F and Ω.
MOST_FARADS, MOST_OHMS = 10.0, 50e6
#: How long a whole conversation may take, s; and how many are held at once, so that dead meters leave threads to the pages.
LONGEST, AT_ONCE = 8.0, 2
_SHORT = re.compile(r"([0-9.]{7,15}|localhost):([0-9]{1,5})")
_VISA = re.compile(r"TCPIP[0-9]?::([0-9.]{7,15}|localhost)::([0-9]{1,5})::SOCKET", re.I)
_IDENTITY = re.compile(r"[A-Za-z0-9 ._/()-]{1,40}(,[A-Za-z0-9 ._/()-]{0,40}){1,3}")
_talking: set[str] = set()
_door = threading.Lock()


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
    hit = _VISA.fullmatch(plain) or _SHORT.fullmatch(plain)
    if hit and 0 < int(hit[2]) < 65536 and _is_near(hit[1]):
        return f"TCPIP::{hit[1]}::{hit[2]}::SOCKET"
    raise BadInput(
        text,
        "a meter's address in this workshop's network, such as 192.168.1.40:5025",
        "The address is in the meter's network menu.",
        field="meter",
    )


def _is_near(host: str) -> bool:
    """Whether a host is this machine or in a private network; names of hosts are not asked for."""
    if host == "localhost":
        return True
    try:
        address = ip_address(host)
    except ValueError:
        return False
    if address.is_link_local:
        return _is_cabled(host)
    return (address.is_private or address.is_loopback) and not (address.is_unspecified or address.is_multicast)


#: Where machines that are rented keep what is secret to them: never asked, whatever is cabled.
NEVER = "169.254.169.254"


def _is_cabled(host: str) -> bool:
    """Whether an address that machines give themselves (169.254.0.0/16) is that of an instrument on a cable: only where this machine
    would speak to it from such an address of its own. Nothing is sent to find out."""
    if host == NEVER:
        return False
    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect((host, 9))
            return ip_address(probe.getsockname()[0]).is_link_local
        except (OSError, ValueError):
            return False


@contextmanager
def alone(address: str) -> Iterator[None]:
    """One conversation at a time with an instrument, and few at once with all of them; nobody waits for his turn.

    Raises:
        BadInput: somebody talks to it just now.
    """
    with _door:
        busy = address in _talking or len(_talking) >= AT_ONCE
        if not busy:
            _talking.add(address)
    if busy:
        raise BadInput(
            "a meter that is being read already",
            f"one reading at a time, from {address}",
            "Read it again.",
            field="meter",
        )
    try:
        yield
    finally:
        with _door:
            _talking.discard(address)


def parsed_identity(answer: str) -> str:
    """What an instrument says it is: up to four plain fields. "" where the answer is none of an instrument.

    >>> parsed_identity('Workshop,LCR 1,007,1.2'), parsed_identity('<html>')
    ('Workshop,LCR 1,007,1.2', '')
    """
    plain = answer.strip()
    return plain if _IDENTITY.fullmatch(plain) else ""


class Session:
    """An open instrument. Use it in a ``with``: a session that went wrong is closed, so that a late answer is nobody's."""

    def __init__(self, address: str, patience: float | None = None) -> None:
        """Open the instrument.

        Args:
            address: as read_address takes it. patience: s it is waited for.

        Raises:
            BadInput: nothing answers there. What answers is asked what it is: see ``identity``.
        """
        self.address = read_address(address)
        self.patience = PATIENCE if patience is None else patience
        self._until = time.monotonic() + LONGEST
        self._held = ExitStack()
        self._held.enter_context(alone(self.address))
        try:
            self._open()
        except BaseException:
            self._held.close()
            raise

    def _open(self) -> None:
        # here and below, not at the top: most benches have no instrument, and it takes a while to load
        import pyvisa

        patience = self.patience
        self._manager = pyvisa.ResourceManager("@py")
        try:
            self._session = self._manager.open_resource(
                self.address,
                open_timeout=int(patience * 1000),
                timeout=int(patience * 1000),
                read_termination="\n",
                write_termination="\n",
            )
            self.identity = parsed_identity(self.ask("*IDN?"))
        except (pyvisa.Error, OSError, ValueError):
            self._manager.close()
            raise self._wrong(
                "nothing", "a meter that listens there", "Check that it is on, and the address."
            ) from None

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            self._session.close()
            self._manager.close()
        finally:
            self._held.close()

    def _wrong(self, read: str, expected: str, mend: str) -> BadInput:
        return BadInput(read, f"{expected}, from {self.address}", mend, field="meter")

    def tell(self, command: str) -> None:
        """Send a command that has no answer."""
        if time.monotonic() > self._until:
            raise self._wrong("no end", f"a reading within {LONGEST:g} s", "Check the meter's setting.")
        import pyvisa

        try:
            self._session.write(command)
        except (pyvisa.Error, OSError):
            raise self._wrong("a lost connection", "a meter that listens", "Read it again.") from None

    def ask(self, question: str) -> str:
        """Ask, and wait for the answer.

        Raises:
            BadInput: it comes late, or is not text.
        """
        import pyvisa

        self.tell(question)
        try:
            return self._session.read().strip()
        except pyvisa.VisaIOError as error:
            if error.error_code == pyvisa.constants.StatusCode.error_timeout:
                raise self._wrong(
                    f"no answer to {question}",
                    f"one within {self.patience:g} s",
                    "A later answer is thrown away. Read it again.",
                ) from None
            raise self._wrong("a lost connection", f"an answer to {question}", "Read it again.") from None
        except (pyvisa.Error, OSError, UnicodeDecodeError):
            raise self._wrong("no text", f"an answer to {question}", "Check that it is a meter.") from None

    def _numbers(self, question: str, count: int) -> list[float]:
        """An answer's first numbers."""
        answer = self.ask(question)
        try:
            numbers = [float(field) for field in answer.split(",")[:count]]
        except ValueError:
            numbers = []
        if len(numbers) < count or not all(map(math.isfinite, numbers)):
            many = "a number" if count == 1 else f"{count} numbers"
            # what a stranger answers is not repeated to anybody
            said = "an empty line" if not answer else f"{len(answer)} characters that are not a reading"
            raise self._wrong(said, f"{many} to {question}", "Check that it is a meter.")
        return numbers


class LcrMeter(Session):
    """A meter of series capacitance and series resistance at its test frequency."""

    def read(self) -> LcrReading:
        """Take a reading: series capacitance and resistance, and the frequency they were read at.

        Raises:
            BadInput: late, garbage, or off the scale; it names what was read.
        """
        self.tell("FUNC:IMP CSRS")
        (frequency,) = self._numbers("FREQ?", 1)
        if not 1 <= frequency <= 10e6:
            raise self._wrong(f"{frequency:g}", "a test frequency of 1 Hz to 10 MHz", "Check the meter's setting.")
        capacitance, esr = self._numbers("FETC?", 2)
        if max(abs(capacitance), abs(esr)) >= OVERLOAD / 10:
            raise self._wrong(
                "overload",
                "a reading",
                "Check that the probes touch both leads, that the part is discharged, and the range.",
            )
        if not (0 <= capacitance <= MOST_FARADS and 0 <= esr <= MOST_OHMS):
            raise self._wrong(
                f"{capacitance:g} F, {esr:g} Ω",
                "a capacitor",
                "Check the probes: a coil reads so, and a part that is still charged.",
            )
        return LcrReading(capacitance, esr, frequency)


#: What a multimeter is asked for each kind of reading, the unit of the answer, and the most of it that can be believed.
QUESTIONS = {
    "dc_volts": ("MEAS:VOLT:DC?", "V", 2000.0),
    "ac_volts": ("MEAS:VOLT:AC?", "V", 1000.0),
    "resistance": ("MEAS:RES?", "Ω", 1e9),
    "temperature": ("MEAS:TEMP?", "°C", 500.0),
}


class Multimeter(Session):
    """A meter of volts, ohms and degrees. Its leads are put by hand; the simulated bench alone is told where."""

    def probe(self, point: str) -> None:
        """Put the probe of a simulated bench to a point."""
        self.tell(f"ROUT:CLOS (@{point})")

    def read(self, kind: str) -> float:
        """Take a reading, SI; endless where a resistance is off the scale.

        Args:
            kind: a key of QUESTIONS.

        Raises:
            BadInput: late, garbage, off the scale, or more than a meter reads.
        """
        question, unit, most = QUESTIONS[kind]
        (value,) = self._numbers(question, 1)
        if abs(value) >= OVERLOAD / 10:
            if kind == "resistance":
                return math.inf
            raise self._wrong("overload", "a reading", "Check the range and the leads.")
        if abs(value) > most:
            raise self._wrong(f"{value:g} {unit}", f"up to {most:g} {unit}", "Check the kind of the instrument.")
        return value
