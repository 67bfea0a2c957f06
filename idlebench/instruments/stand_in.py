"""A stand-in LCR meter: a TCP server that answers like one, for parts it is told of. For trying things out without a meter.

What it reads is worked out from the part's marking, its looks and its neighbours on the rail, the same each time.
"""

from __future__ import annotations

import socketserver
import threading
import time
import zlib
from dataclasses import dataclass, fields
from typing import Self

import numpy as np

from idlebench.core.judge.ageing import new_esr

from .meter import OVERLOAD

NAME = "IDLE BENCH,STAND-IN LCR METER,0,1"
#: What looks do to a wet part: times the ESR, times the capacitance.
WORN = {"leaking": (6.0, 0.62), "crusty": (4.5, 0.72), "bulging": (5.0, 0.66), "burst": (40.0, 0.2)}
#: Loss factor of dry kinds.
LOSS = {"film": 0.004, "paper": 0.012, "ceramic": 0.015, "tantalum": 0.05, "polymer": 0.03}


@dataclass(frozen=True, kw_only=True)
class Probed:
    """What the probes of the stand-in touch.

    Attributes:
        value: F marked. volts: V marked. kind, looks: of the part. seed: tells parts of one kind apart.
        in_circuit: whether neighbours are in parallel: beside_value F, beside_esr Ω of them all, 0 if there are none.
        true_value, true_esr: where they are known from an earlier reading out of circuit, else 0.
    """

    value: float = 0.0
    volts: float = 0.0
    kind: str = "wet"
    looks: str = ""
    seed: str = ""
    in_circuit: bool = False
    beside_value: float = 0.0
    beside_esr: float = 0.0
    true_value: float = 0.0
    true_esr: float = 0.0

    def as_command(self) -> str:
        """The command that puts the probes on it."""
        shown = ",".join(str(getattr(self, f.name)).replace(",", "") for f in fields(self))
        return f"BENC:PROB {shown}"

    @classmethod
    def from_command(cls, text: str) -> Probed:
        """The part in a command's fields. ValueError where they are not one."""
        cells = text.split(",")
        found = {}
        for field, cell in zip(fields(cls), cells, strict=True):
            if isinstance(field.default, bool):
                found[field.name] = cell == "True"
            else:
                found[field.name] = type(field.default)(cell)
        return cls(**found)


def believable(part: Probed, frequency: float) -> tuple[float, float]:
    """What a meter would read of a part at a frequency (Hz): F and Ω; overload where nothing is between the probes.

    A part ages by its looks and by chance, the chance drawn from its seed. In circuit its neighbours stand in parallel:
    the capacitances add up and the resistances are shared, so that a bad part can read well.
    """
    if part.looks == "missing" or part.value <= 0:
        return OVERLOAD, OVERLOAD
    rng = np.random.default_rng(zlib.crc32(f"{part.seed} {part.value:.6g}".encode()))
    more, less = WORN.get(part.looks, (1.0, 1.0))
    if part.kind == "wet":
        esr = new_esr(part.value, part.volts or 25.0, frequency) * 0.55 * more * float(rng.lognormal(0.0, 0.45))
        value = part.value * less * float(rng.normal(1.02, 0.05))
    else:
        esr = LOSS.get(part.kind, 0.01) / (2 * np.pi * frequency * part.value) + 0.005
        value = part.value * float(rng.normal(1.0, 0.02))
    value, esr = part.true_value or value, part.true_esr or esr
    if part.in_circuit and part.beside_value > 0:
        # the admittances of the two series pairs add up
        omega = 2 * np.pi * frequency
        both = 1 / complex(esr, -1 / (omega * value)) + 1 / complex(part.beside_esr, -1 / (omega * part.beside_value))
        impedance = 1 / both
        value, esr = -1 / (omega * impedance.imag), impedance.real
    return value, esr


class _Answers(socketserver.StreamRequestHandler):
    """One connection. Commands end with a line feed; those with a question mark are answered."""

    server: StandIn

    def handle(self) -> None:
        part, frequency = Probed(), self.server.frequency
        for line in self.rfile:
            command = line.decode("ascii", "replace").strip()
            head = command.upper()
            if head.startswith("BENC:PROB "):
                try:
                    part = Probed.from_command(command[10:])
                except (ValueError, TypeError):
                    part = Probed()
            elif head.startswith("FREQ "):
                try:
                    frequency = min(max(float(head[5:]), 20.0), 1e6)
                except ValueError:
                    continue
            elif head.endswith("?"):
                self._answer(head, part, frequency)

    def _answer(self, question: str, part: Probed, frequency: float) -> None:
        fault = self.server.fault if question == "FETC?" else ""
        if fault == "silent":
            return
        if fault == "late":
            time.sleep(self.server.delay)
        answer = {"*IDN?": NAME, "FREQ?": f"{frequency:.6E}", "FETC?": ""}.get(question)
        if answer is None:
            # what it does not know it says nothing to, as instruments do
            return
        if question == "FETC?":
            value, esr = (OVERLOAD, OVERLOAD) if fault == "overload" else believable(part, frequency)
            answer = "##,\x07kaboom" if fault == "garbage" else f"{value:.6E},{esr:.6E},0"
        self.wfile.write(answer.encode() + b"\n")


class StandIn(socketserver.ThreadingTCPServer):
    """The stand-in meter, on 127.0.0.1. In a ``with`` it serves beside the rest until the end of it.

    fault: "", or "late", "garbage", "overload", "silent": how it misbehaves when a reading is fetched, for trying that out.
    """

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int = 0, frequency: float = 120.0, fault: str = "", delay: float = 5.0) -> None:
        super().__init__(("127.0.0.1", port), _Answers)
        self.frequency, self.fault, self.delay = frequency, fault, delay

    @property
    def address(self) -> str:
        """Where it listens, as a person types it."""
        return f"127.0.0.1:{self.server_address[1]}"

    def __enter__(self) -> Self:
        self._thread = threading.Thread(target=self.serve_forever, args=(0.05,), daemon=True)
        self._thread.start()
        return self

    def __exit__(self, *what: object) -> None:
        self.shutdown()
        self.server_close()


#: What a person types for the stand-in that this program keeps running beside itself.
HOUSE = "stand-in"
_house: list[StandIn] = []
_lock = threading.Lock()


def house() -> StandIn:
    """The stand-in of this process: started when it is first asked for, and running until the process ends."""
    with _lock:
        if not _house:
            _house.append(StandIn().__enter__())
        return _house[0]


def beside(value: float, volts: float, frequency: float) -> float:
    """What a sound neighbour puts in parallel: its ESR, Ω."""
    return 0.5 * new_esr(value, volts, frequency)
