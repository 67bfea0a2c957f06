"""``idlebench buy`` and ``idlebench schedule``: one plan for all places, and when to do what."""

from __future__ import annotations

import argparse
import json
import os
import re
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ..core.refusal import BadInput
from ..core.text.quantity import read
from ..core.wording import in_columns, listed


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add what it is asked by."""
    buy = commands.add_parser("buy", help="one buying plan for all places: which part, from whom, how many")
    buy.add_argument("--demand", required=True, type=Path, help="CSV: job, ref, quantity, fits as A:0|B:0.05")
    buy.add_argument(
        "--offers",
        required=True,
        type=Path,
        help="CSV: part, supplier, pack, breaks as 1:0.20 10:0.12, stock, lead_days",
    )
    buy.add_argument(
        "--suppliers", required=True, type=Path, help="CSV: supplier, postage, free_above, handling, minimum"
    )
    buy.add_argument("--shelf", type=Path, help="CSV: part, quantity")
    buy.add_argument("--aim", default="cost", help="cost, parcels or soonest")
    buy.add_argument("--seconds", default="10", help="how long to look for a better plan")
    buy.add_argument("--json", action="store_true")
    buy.set_defaults(run=_buy)
    schedule = commands.add_parser("schedule", help="when to do what: the earliest finish of all tasks")
    schedule.add_argument(
        "--tasks",
        required=True,
        type=Path,
        help="CSV: task, unit, hands, wait, after as A1|B2, occupies as washer or washer+wait",
    )
    schedule.add_argument("--hands", default="1", help="people at the bench")
    schedule.add_argument("--hours-a-day", default="0", help="from the beginning of each day on; 0: always")
    schedule.add_argument("--seconds", default="2", help="how long to look for a better plan")
    schedule.add_argument("--json", action="store_true")
    schedule.set_defaults(run=_schedule)


def _buy(args: argparse.Namespace) -> int:
    from ..core.plan.buy import buy
    from ..core.plan.buy_tables import read_shop
    from ..core.plan.by_hand import part_by_part

    tables = [file.read_bytes() if file else None for file in (args.demand, args.offers, args.suppliers, args.shelf)]
    shop = read_shop(*tables)
    with _solver_silent():
        found = buy(shop, args.aim, read(args.seconds, "", field="seconds", low=0.1, high=3600), time.monotonic)
    by_hand = part_by_part(shop)
    if args.json:
        print(json.dumps(found.as_json(by_hand), ensure_ascii=False, indent=1))
        return 0
    rows = [
        [
            order.supplier.name,
            line.offer.part,
            line.quantity,
            *(("no price", "") if line.price is None else (f"at €{line.price:.4g}", f"€{line.goods:.2f}")),
        ]
        for order in found.orders
        for line in order.lines
    ]
    print(in_columns(rows) or "Nothing is to be bought.")
    print(
        f"Goods €{found.goods:.2f}, postage €{found.postage:.2f}, handling €{found.handling:.2f}, second choices "
        f"€{found.penalties:.2f}: €{found.total:.2f} in all"
        + (f", part by part €{by_hand.total:.2f}" if by_hand else "")
        + (". Proven cheapest." if found.proved else _how_far(found.gap))
    )
    if found.unpriced:
        print(f"Without a price, and not in these sums: {listed([wanted.name for wanted in found.unpriced])}.")
    return 0


def _how_far(gap: float | None) -> str:
    return "." if gap is None else f". Another is cheaper by {100 * gap:.1f} % at most."


def _schedule(args: argparse.Namespace) -> int:
    from ..core.plan.schedule_table import read_work
    from ..core.plan.scheduling import schedule

    if not re.fullmatch(r"[0-9]{1,3}", args.hands):
        raise BadInput(args.hands, "people at the bench, a whole number", field="hands")
    hours = read(args.hours_a_day, "", field="hours a day", low=0, high=24)
    work = read_work(args.tasks.read_bytes(), int(args.hands), hours)
    plan = schedule(work, read(args.seconds, "", field="seconds", low=0.1, high=3600))
    if args.json:
        print(json.dumps(plan.as_json(), ensure_ascii=False, indent=1))
        return 0
    rows = [
        [p.task.name, p.task.unit, f"{p.start} to {p.end} min", f"free at {p.free_at} min"]
        for p in sorted(plan.tasks, key=lambda p: p.start)
    ]
    print(in_columns(rows) or "Nothing is to be done.")
    print(
        f"All is done at {plan.finish} min"
        + (": no plan is earlier." if plan.proved else f"; no plan is before {plan.bound} min.")
    )
    return 0


@contextmanager
def _solver_silent() -> Iterator[None]:
    """Standard output kept for what the command says: the solver's library writes a line there now and then, whatever it is told."""
    sys.stdout.flush()
    kept = os.dup(1)
    with open(os.devnull, "w") as nothing:
        os.dup2(nothing.fileno(), 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)
