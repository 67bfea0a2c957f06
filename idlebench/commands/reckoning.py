"""``idlebench reckon``: one calculation."""

from __future__ import annotations

import argparse
import json

from ..core.calculators import REGISTRY, reckoning
from ..core.refusal import BadInput
from ..core.text.calculation import Calculation


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add what it is asked by."""
    reckon = commands.add_parser("reckon", help="one calculation from the command line; alone it lists them")
    reckon.add_argument("name", nargs="?")
    reckon.add_argument("inputs", nargs="*", metavar="key=value")
    reckon.add_argument("--json", action="store_true")
    reckon.set_defaults(run=_reckon)


def _reckon(args: argparse.Namespace) -> int:
    if not args.name:
        width = max(map(len, REGISTRY))
        for item in REGISTRY.values():
            print(f"{item.name:<{width}}  {item.title}: {', '.join(f'{i.name}={i.default}' for i in item.inputs)}")
        return 0
    item = reckoning(args.name)
    typed = {}
    for pair in args.inputs:
        key, equals, value = pair.partition("=")
        if not equals:
            raise BadInput(pair, f"key=value, such as {item.inputs[0].name}={item.inputs[0].default}")
        typed[key] = value
    result = item.run(typed)
    print(json.dumps(result.as_json(), ensure_ascii=False, indent=1) if args.json else _told(result))
    return 0


def _told(result: Calculation) -> str:
    lines = [f"{line.label}: {line.formula}; {line.numbers} = {line.shown}" for line in result.lines]
    return "\n".join([*lines, *(f"Caution: {c}" for c in result.cautions)])
