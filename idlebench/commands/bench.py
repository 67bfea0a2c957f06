"""``idlebench bench``: a supply on the simulated bench, read once or served as instruments."""

from __future__ import annotations

import argparse
import json
import math
import threading
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.board.tables import read_survey
from ..core.choose.need import Mains
from ..core.refusal import BadInput
from ..core.text.quantity import read
from .ports import a_port_or_none

if TYPE_CHECKING:
    from ..core.simulate.state import State
    from ..core.simulate.supply import Bench

#: Mains that machines are made for, V, and from how many on the higher is meant.
MADE_FOR, HIGHER = (120.0, 230.0), 170.0


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command."""
    bench = commands.add_parser("bench", help="a supply on the simulated bench: what it reads, and what it should read")
    bench.add_argument("--supply", required=True, type=Path, help="the supply's lines")
    bench.add_argument("--survey", required=True, type=Path, help="CSV of its parts")
    bench.add_argument("--fuse", default="", help="as marked, such as T 1.6A 250V")
    bench.add_argument("--truth", type=Path, help="what the parts really are: lines such as C1 cap 400u esr 2.1")
    bench.add_argument("--state", default="off", help="such as mains 230V 50Hz; lamp 60W; load dummy")
    bench.add_argument("--made-for", default="", help="V of the mains it is made for; without it, from the state")
    bench.add_argument("--read", default="", help="points and what to read there: +5V dc; C1 ripple; lamp; mains amps")
    bench.add_argument("--seconds", default="0", help="since it was switched on")
    bench.add_argument("--seed", default="1", help="the same one gives the same readings")
    bench.add_argument("--serve", action="store_true", help="act as instruments on 127.0.0.1 that speak SCPI")
    bench.add_argument("--port", type=a_port_or_none, default=0, help="port to serve on; without it, a free port")
    bench.add_argument("--json", action="store_true")
    bench.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Read the bench once, or serve it."""
    from ..core.simulate.readings import read_asked, shown
    from ..core.simulate.sitting import Sitting
    from ..core.simulate.state import read_state
    from ..core.simulate.truth import read_truth

    state = read_state(args.state)
    supply = supply_of(args, made_for(args, state))
    faults = read_truth(text_of(args.truth)) if args.truth else ()
    seed = read(args.seed, "", field="seed", low=0, high=2**31)
    if seed != int(seed):
        raise BadInput(args.seed, "a whole number", field="seed")
    seconds = read(args.seconds, "", field="seconds", low=0, high=1e6)
    sitting = Sitting(bench=supply, faults=faults, state=state, seed=int(seed), seconds=seconds)
    if args.serve:
        return _serve(sitting, args.port, args.json)
    asked = read_asked(args.read, supply)
    readings = [sitting.read(one) for one in asked]
    expected = sitting.expected(asked)
    if args.json:
        told = {
            "readings": [
                {"point": r.asked.typed, "what": r.asked.what, "value": r.value, "unit": r.unit}
                | ({"overload": True} if r.value is None else {})
                for r in readings
            ],
            "events": sitting.events,
            "expected": [
                {"point": one.typed, "what": one.what, "low": _finite(band.low), "high": _finite(band.high)}
                for one, band in zip(asked, expected, strict=True)
            ],
        }
        print(json.dumps(told, ensure_ascii=False, indent=1))
        return 0
    print("\n".join([*shown(asked, [r.value for r in readings]), *(f"! {event}" for event in sitting.events)]))
    return 0


def made_for(args: argparse.Namespace, state: State) -> Mains:
    """The mains a supply is made for: as said, else told from the state."""
    volts = read(args.made_for, "V", field="made-for", low=90, high=260) if args.made_for else _made_for(state.volts)
    return Mains(volts, state.frequency)


def supply_of(args: argparse.Namespace, mains: Mains) -> Bench:
    """The supply of a command's files.

    Raises:
        BadInput: a row of the survey or a line of the supply cannot be read.
    """
    from ..core.simulate.supply import Bench

    survey = read_survey(args.survey.read_bytes())
    if survey.problems:
        raise BadInput(
            args.survey.name, "a survey in which every row can be read", str(survey.problems[0]), field="survey"
        )
    return Bench.of(text_of(args.supply), survey.parts, args.fuse, mains)


def _made_for(volts: float) -> float:
    return MADE_FOR[-1] if not volts or volts >= HIGHER else MADE_FOR[0]


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None


def text_of(file: Path) -> str:
    """A file's text.

    Raises:
        BadInput: it is not in UTF-8.
    """
    try:
        return file.read_text("utf-8-sig")
    except UnicodeDecodeError:
        raise BadInput(file.name, "text in UTF-8", "Save it as UTF-8.", field="file") from None


def _serve(sitting: object, port: int, as_json: bool) -> int:
    from ..instruments.bench_server import BenchServer

    try:
        server = BenchServer(sitting, port)
    except (OSError, OverflowError):
        raise BadInput(str(port), "a free port", "Use another with --port, or none.", field="port") from None
    with server:
        host, _, number = server.address.partition(":")
        told = {
            "address": server.address,
            "visa": f"TCPIP::{host}::{number}::SOCKET",
            "instruments": ["meter", "source", "scope"],
        }
        print(
            json.dumps(told) if as_json else f"The simulated bench listens on {server.address} (stop with Ctrl+C)",
            flush=True,
        )
        try:
            threading.Event().wait()
        except KeyboardInterrupt:
            print()
    return 0
