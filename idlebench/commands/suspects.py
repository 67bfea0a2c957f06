"""``idlebench suspects``: from signs and readings of a supply to the parts that explain them, and what to measure next."""

from __future__ import annotations

import argparse
import csv
import io
import json
from pathlib import Path

from ..core.faults.severity import Severity
from ..core.refusal import BadInput
from ..core.text.quantity import read
from .bench import made_for, supply_of, text_of

COLUMNS = ("point", "what", "value", "state")


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command."""
    suspects = commands.add_parser("suspects", help="which part explains what was seen and read of a supply")
    suspects.add_argument("--supply", required=True, type=Path, help="the supply's lines")
    suspects.add_argument("--survey", required=True, type=Path, help="CSV of its parts")
    suspects.add_argument("--seen", type=Path, help="symptoms, one a line: dead, fuse whole, ripple +5V and others")
    suspects.add_argument("--readings", type=Path, help="CSV with point, what, value, state")
    suspects.add_argument(
        "--state", default="mains 230V 50Hz; load rated", help="the bench when the symptoms were seen"
    )
    suspects.add_argument("--fuse", default="", help="as marked, such as T 1.6A 250V")
    suspects.add_argument("--made-for", default="", help="V of the mains it is made for")
    suspects.add_argument("--json", action="store_true")
    suspects.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    """Name the suspects."""
    from ..catalogue import house_evidence
    from ..core.faults.further import further
    from ..core.faults.signs import read_signs
    from ..core.faults.suspects import Inquiry
    from ..core.simulate.state import read_state

    state = read_state(args.state)
    bench = supply_of(args, made_for(args, state))
    signs = read_signs(text_of(args.seen), bench) if args.seen else ()
    readings = _readings(args.readings, bench, state) if args.readings else []
    if not signs and not readings:
        raise BadInput("", "symptoms in --seen, or readings in --readings", "Such as a line: dead", field="seen")
    # what no model of a supply tells, sound, logic and picture, comes from the table
    elsewhere = tuple(dict.fromkeys(sign.what for sign in signs))
    inquiry = Inquiry(bench=bench, evidence=house_evidence(), elsewhere=elsewhere)
    found = inquiry.look(readings, signs, state)
    following = further(inquiry, found, state, readings)
    if args.json:
        told = {
            "suspects": [
                {
                    "ref": s.ref, "failure": s.failure, "share": round(s.share, 6), "for": list(s.speaks_for),
                    "against": list(s.against), "severity": _severity(s.severity),
                }
                for s in found.suspects
            ],
            "sound": round(found.sound, 6),
            "none": round(found.none, 6),
            "pairs": [
                {"refs": p.ref.split(" + "), "failures": p.failure.split(" + "), "share": round(p.share, 6)}
                for p in found.pairs
            ],
            "fitted": {"mains": round(found.fitted.mains, 1), "loads": {r: round(a, 3) for r, a in found.fitted.loads.items()}}
            if found.fitted else None,
            "next": [
                {
                    "point": f.asked.typed, "what": f.asked.what, "bits": round(f.bits, 3), "minutes": f.minutes,
                    "outcomes": [{"reads": e.reads, "share": round(e.share, 4), "suspects": list(e.suspects)} for e in f.outcomes],
                }
                for f in following
            ],
            "unexplained": found.unexplained,
        }  # fmt: skip
        print(json.dumps(told, ensure_ascii=False, indent=1))
        return 0
    if found.sound >= 0.005:
        print(f"{found.sound:6.1%}  nothing is wrong here")
    if found.none >= 0.005:
        print(f"{found.none:6.1%}  none of the parts in these lines" + (" alone" if found.pairs else ""))
    for p in found.pairs[:3]:
        print(f"        two at once, {p.share:.1%} of what two explain: {p.words}")
    for s in found.suspects[:6]:
        print(
            f"{s.share:6.1%}  {s.words}"
            + (f": {s.severity.words}" if s.severity and s.share >= 0.05 else "")
            + "".join(f"\n         + {w}" for w in s.speaks_for)
            + "".join(f"\n         - {w}" for w in s.against)
        )
    for f in following:
        print(f"next: {f.asked.typed} {f.asked.what}, {f.bits:.2f} bits in {f.minutes:g} min")
    return 0


def _severity(one: Severity | None) -> dict[str, object] | None:
    """How far a suspect has drifted, in JSON; null for what does not drift."""
    if one is None:
        return None
    return {"what": one.what, "value": one.value, "low": one.low, "high": one.high, "unit": one.unit}


def _readings(file: Path, bench: object, state: object) -> list[object]:
    """Readings of a table.

    Raises:
        BadInput: a column is missing, or a row cannot be read: it names the row.
    """
    from ..core.faults.clues import ClueReading
    from ..core.simulate.readings import UNITS, read_asked
    from ..core.simulate.state import read_state

    rows = csv.DictReader(io.StringIO(text_of(file)))
    names = [name.strip().lower() for name in rows.fieldnames or ()]
    if missing := [name for name in COLUMNS[:3] if name not in names]:
        raise BadInput(
            ", ".join(names),
            f"columns {', '.join(COLUMNS)}",
            f"Without {', '.join(missing)} the table cannot be read.",
            field=file.name,
        )
    found = []
    for number, row in enumerate(rows, 2):
        cells = {
            (name or "").strip().lower(): (value or "").strip()
            for name, value in row.items()
            if not isinstance(value, list)
        }
        try:
            (asked,) = read_asked(f"{cells['point']} {cells['what']}", bench)
            typed = cells["value"]
            over = typed.lower() in ("ol", "overload", "inf")
            value = None if over else read(typed, UNITS[asked.what], field="value", low=-1e9, high=1e12)
            where = read_state(cells["state"]) if cells.get("state") else state
            _can_be_read(bench, where, asked)
            found.append(ClueReading(where, asked, value))
        except BadInput as error:
            raise error.within(f"{file.name}, row {number}") from None
    return found


def _can_be_read(bench: object, state: object, asked: object) -> None:
    """Refuse what cannot be read in a state at all."""
    from ..core.simulate.readings import read_values
    from ..core.simulate.rectifier import ROUGH
    from ..core.simulate.steady_state import run as simulated
    from ..core.simulate.truth import Values

    values = Values(1)
    read_values(bench, values, state, simulated(bench, values, state, grids=ROUGH), asked)
