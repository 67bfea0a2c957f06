"""``idlebench choose``: a survey judged, and replacements chosen for it."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import replace
from datetime import date
from pathlib import Path

from ..core.board.tables import TableParts, read_catalogue, read_survey
from ..core.choose.need import Mains
from ..core.choose.plan import Plan, make_plan, other_places
from ..core.choose.rules import Columns
from ..core.judge.evidence import ESR_CRITERIA
from ..core.judge.policy import POLICIES
from ..core.refusal import BadInput
from ..core.text.quantity import read


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add what it is asked by."""
    choose = commands.add_parser("choose", help="judge a survey CSV and choose replacements")
    choose.add_argument("--survey", required=True, type=Path)
    choose.add_argument("--catalogue", type=Path, help="your own catalogue CSV; without it the house catalogue")
    choose.add_argument("--policy", default="renew", help=", ".join(POLICIES))
    choose.add_argument("--school", default="strict", choices=tuple(ESR_CRITERIA), help="how ESR is judged")
    choose.add_argument("--mains", default="230", help="local mains, V rms")
    choose.add_argument("--frequency", default="50", help="of the mains, Hz")
    choose.add_argument("--made", type=int, help="year in which the machine was made")
    choose.add_argument("--good-rows", action="store_true", help="use the rows that can be read")
    choose.add_argument("--json", action="store_true")
    choose.set_defaults(run=_choose)


def _choose(args: argparse.Namespace) -> int:
    table = read_survey(args.survey.read_bytes())
    survey = _taken(table, args.survey, args.good_rows)
    if args.catalogue:
        columns = Columns.of(_taken(read_catalogue(args.catalogue.read_bytes()), args.catalogue, args.good_rows))
    else:
        from ..catalogue import house_columns

        columns = house_columns()
    mains = Mains(
        read(args.mains, "V", field="mains", low=90, high=260),
        read(args.frequency, "Hz", field="frequency", low=16, high=400),
    )
    plan = make_plan(
        survey,
        columns,
        policy=args.policy,
        esr_criterion=args.school,
        year=date.today().year,
        made=args.made,
        mains=mains,
    )
    if table.devices:
        from ..catalogue import house_devices

        plan = replace(plan, others=other_places(table.devices, house_devices))
    print(json.dumps(plan.as_json(), ensure_ascii=False, indent=1) if args.json else _plan_told(plan))
    return 0


def _taken(found: TableParts, file: Path, good_rows: bool) -> tuple:
    for problem in found.problems:
        print(f"idlebench: {file.name}: {problem}", file=sys.stderr)
    if found.problems and not good_rows:
        raise BadInput(
            file.name,
            "a table in which every row can be read",
            "Correct the rows above, or add --good-rows to use the others.",
            field="file",
        )
    return found.parts


def _plan_told(plan: Plan) -> str:
    rows = []
    for place in plan.places:
        best = place.ranking.best if place.ranking else None
        reasons = "; ".join(r.text for r in best.reasons) if best else place.decision.why
        rows.append(
            f"{place.part.ref:<6} {place.outcome:<10} {place.chosen.part if place.chosen else '–':<24} {reasons}"
        )
    rows += [
        f"{o.device.ref:<6} {o.outcome:<10} {o.best.part.part if o.best and o.outcome != 'keep' else '–':<24} {o.why}"
        for o in plan.others
    ]
    counts = plan.as_json()["summary"]
    return "\n".join([*rows, ", ".join(f"{k} {v}" for k, v in counts.items())])
