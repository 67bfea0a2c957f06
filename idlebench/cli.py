"""The idlebench command: reckon and choose without a database; serve, demo and import with one."""

from __future__ import annotations

import argparse
import json
import os
import re
import socket
import sys
import threading
import time
import webbrowser
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path

from . import __version__, bench_command, suspects_command
from .core.board.tables import TableParts, read_catalogue, read_survey
from .core.calculators import REGISTRY, reckoning
from .core.choose.need import Mains
from .core.choose.plan import Plan, make_plan
from .core.choose.rules import Columns
from .core.judge.evidence import SCHOOLS
from .core.judge.policy import POLICIES
from .core.refusal import BadInput, Blocked
from .core.text.calculation import Calculation
from .core.text.quantity import read
from .core.wording import in_columns

PORT = 8000
#: This machine as it calls itself; nothing is asked of who comes from here.
LOCAL = "127.0.0.1"


def main(argv: list[str] | None = None) -> int:
    """Run the command; 0 when done, 2 with one clear line for input that cannot be taken."""
    args = _parser().parse_args(argv)
    try:
        return args.run(args)
    except BadInput as error:
        print(f"idlebench: {error}", file=sys.stderr)
    except Blocked as error:
        print(f"idlebench: {error.title}: {' '.join(map(str, error.reasons))}", file=sys.stderr)
    except FileNotFoundError as error:
        print(f"idlebench: there is no file {error.filename}", file=sys.stderr)
    except (IsADirectoryError, PermissionError) as error:
        print(f"idlebench: cannot read {error.filename}: {error.strerror}", file=sys.stderr)
    return 2


#: An example of each command: its --help shows it.
EXAMPLES = {
    "reckon": "idlebench reckon discharge value=220u volts=325",
    "choose": "idlebench choose --survey board.csv --policy mend --json",
    "buy": "idlebench buy --demand places.csv --offers offers.csv --suppliers terms.csv",
    "schedule": "idlebench schedule --tasks tasks.csv --hours-a-day 2",
    "serve": "idlebench serve --open",
    "stand-in": "idlebench stand-in --port 5025",
    "bench": 'idlebench bench --supply supply.txt --survey board.csv --state "mains 230V 50Hz" --read "+5V dc"',
    "suspects": "idlebench suspects --supply supply.txt --survey board.csv --seen seen.txt",
    "demo": "idlebench demo",
    "import": "idlebench import job.zip",
    "export": "idlebench export 3 -o job.zip",
    "backup": "idlebench backup bench.zip",
    "restore": "idlebench restore bench.zip --replace",
}


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="idlebench", description="Measuring, arithmetic and judgement for restoring vintage electronics."
    )
    parser.add_argument("--version", action="version", version=f"Idle Bench {__version__}")
    commands = parser.add_subparsers(required=True, metavar="command")
    reckon = commands.add_parser("reckon", help="one calculation from the command line; alone it lists them")
    reckon.add_argument("name", nargs="?")
    reckon.add_argument("inputs", nargs="*", metavar="key=value")
    reckon.add_argument("--json", action="store_true")
    reckon.set_defaults(run=_reckon)
    choose = commands.add_parser("choose", help="judge a survey CSV and choose replacements")
    choose.add_argument("--survey", required=True, type=Path)
    choose.add_argument("--catalogue", type=Path, help="your own catalogue CSV; without it the house catalogue")
    choose.add_argument("--policy", default="renew", help=", ".join(POLICIES))
    choose.add_argument("--school", default="strict", choices=tuple(SCHOOLS), help="how ESR is judged")
    choose.add_argument("--mains", default="230", help="local mains, V rms")
    choose.add_argument("--frequency", default="50", help="of the mains, Hz")
    choose.add_argument("--made", type=int, help="year in which the machine was made")
    choose.add_argument("--good-rows", action="store_true", help="use the rows that can be read")
    choose.add_argument("--json", action="store_true")
    choose.set_defaults(run=_choose)
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
    serve = commands.add_parser("serve", help="serve your own bench on 127.0.0.1")
    serve.add_argument("--port", type=int, default=PORT)
    serve.add_argument(
        "--address", default="127.0.0.1", help="this computer's address in the workshop network, for a phone"
    )
    serve.add_argument("--open", action="store_true", help="open the browser on it")
    serve.set_defaults(run=_serve)
    meter = commands.add_parser(
        "stand-in", help="a simulated LCR meter on 127.0.0.1, to try a meter without having one"
    )
    meter.add_argument("--port", type=int, default=5025)
    meter.set_defaults(run=_stand_in)
    bench_command.add(commands)
    suspects_command.add(commands)
    demo = commands.add_parser("demo", help="load the demo into the database in use, for a bench that is empty")
    demo.set_defaults(run=_demo)
    load = commands.add_parser("import", help="import a job: a bundle that a bench made, or a folder of typed files")
    load.add_argument("file", type=Path)
    load.add_argument("--json", action="store_true")
    load.set_defaults(run=_import)
    leave = commands.add_parser("export", help="write a job with everything of it into one file")
    leave.add_argument("job", help="its number")
    leave.add_argument("-o", "--output", required=True, type=Path, metavar="FILE")
    leave.add_argument("--json", action="store_true")
    leave.set_defaults(run=_export)
    backup = commands.add_parser("backup", help="write the whole bench into one file; it may be in use meanwhile")
    backup.add_argument("file", type=Path)
    backup.add_argument("--json", action="store_true")
    backup.set_defaults(run=_backup)
    restore = commands.add_parser("restore", help="restore a backup; what it replaces is kept")
    restore.add_argument("file", type=Path)
    restore.add_argument("--replace", action="store_true", help="in place of the jobs that are on the bench")
    restore.add_argument("--json", action="store_true")
    restore.set_defaults(run=_restore)
    for name, command in commands.choices.items():
        command.epilog = f"Example: {EXAMPLES[name]}"
    return parser


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


def _choose(args: argparse.Namespace) -> int:
    survey = _taken(read_survey(args.survey.read_bytes()), args.survey, args.good_rows)
    if args.catalogue:
        columns = Columns.of(_taken(read_catalogue(args.catalogue.read_bytes()), args.catalogue, args.good_rows))
    else:
        from .catalogue import house_columns

        columns = house_columns()
    mains = Mains(
        read(args.mains, "V", field="mains", low=90, high=260),
        read(args.frequency, "Hz", field="frequency", low=16, high=400),
    )
    plan = make_plan(
        survey, columns, policy=args.policy, school=args.school, year=date.today().year, made=args.made, mains=mains
    )
    print(json.dumps(plan.as_json(), ensure_ascii=False, indent=1) if args.json else _plan_told(plan))
    return 0


def _plan_told(plan: Plan) -> str:
    rows = []
    for place in plan.places:
        best = place.ranking.best if place.ranking else None
        reasons = "; ".join(r.text for r in best.reasons) if best else place.decision.why
        rows.append(
            f"{place.part.ref:<6} {place.outcome:<10} {place.chosen.part if place.chosen else '–':<24} {reasons}"
        )
    counts = plan.as_json()["summary"]
    return "\n".join([*rows, ", ".join(f"{k} {v}" for k, v in counts.items())])


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


def _buy(args: argparse.Namespace) -> int:
    from .core.plan.buy import buy
    from .core.plan.buy_tables import read_shop
    from .core.plan.by_hand import part_by_part

    tables = [file.read_bytes() if file else None for file in (args.demand, args.offers, args.suppliers, args.shelf)]
    shop = read_shop(*tables)
    with _solver_silent():
        found = buy(shop, args.aim, read(args.seconds, "", field="seconds", low=0.1, high=3600), time.monotonic)
    by_hand = part_by_part(shop)
    if args.json:
        print(json.dumps(found.as_json(by_hand), ensure_ascii=False, indent=1))
        return 0
    rows = [
        [order.supplier.name, line.offer.part, line.quantity, f"at €{line.price:.4g}", f"€{line.goods:.2f}"]
        for order in found.orders
        for line in order.lines
    ]
    print(in_columns(rows) or "Nothing is to be bought.")
    print(
        f"Goods €{found.goods:.2f}, postage €{found.postage:.2f}, handling €{found.handling:.2f}, second choices "
        f"€{found.penalties:.2f}: €{found.total:.2f} in all"
        + (f", part by part €{by_hand.total:.2f}" if by_hand else "")
        + (". Proven cheapest." if found.proved else f". Another is cheaper by {100 * found.gap:.1f} % at most.")
    )
    return 0


def _schedule(args: argparse.Namespace) -> int:
    from .core.plan.schedule_table import read_work
    from .core.plan.scheduling import schedule

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


def _django(*, look: bool = True) -> None:
    from .web import home

    home.prepare(home.place(), look=look)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "idlebench.web.settings")
    import django

    django.setup()


def _migrated() -> None:
    """Open the bench in use, its tables brought up to date; a copy of it is kept before they are changed."""
    _django()
    from django.core.management import call_command

    from .web import home
    from .web.records import empty

    empty.begin(home.place())

    _refuse_half_old()
    _refuse_newer()
    if _copy_before_change():
        call_command("migrate", verbosity=0, interactive=False)
    from idlebench.web.keep.removing import sweep
    from idlebench.web.shelf.services import ensure_house_catalogue, sweep_staged
    from idlebench.web.unit.series import rejudge

    ensure_house_catalogue()
    sweep_staged()
    rejudge()
    sweep()


def _refuse_half_old() -> None:
    """Refuse a bench whose tables are of a version before the last one that kept them in separate rooms.

    Raises:
        BadInput: it says how to open it.
    """
    from django.db import connection
    from django.db.migrations.loader import MigrationLoader
    from django.db.migrations.recorder import MigrationRecorder

    replaced = set(MigrationLoader(None).get_migration("records", "0001_initial").replaces)
    applied = set(MigrationRecorder(connection).applied_migrations())
    if replaced & applied and not replaced <= applied:
        raise BadInput(
            str(connection.settings_dict["NAME"]),
            "a bench that was opened by version 0.1 at its last state",
            "Open it once with that version, then with this one. Nothing of it was changed.",
            field="bench",
        )


def _refuse_newer() -> None:
    """Refuse a bench whose tables are of a version that is newer than this one.

    Raises:
        BadInput: it says what to do.
    """
    from django.db import connection

    from .web.records.versions import newer_than_ours

    unknown = newer_than_ours(connection)
    if unknown:
        raise BadInput(
            f"tables of a newer Idle Bench ({unknown[-1]})",
            f"a bench of this version or an older one in {connection.settings_dict['NAME']}",
            "Start the newer version again. Nothing of it was changed.",
            field="bench",
        )


def _copy_before_change() -> bool:
    """Whether the tables are to change; a copy of a bench is kept before they do."""
    from datetime import datetime

    from django.conf import settings
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    from .web import home

    executor = MigrationExecutor(connection)
    plan = executor.migration_plan(executor.loader.graph.leaf_nodes())
    if plan and executor.loader.applied_migrations:
        name = f"before-{plan[-1][0].name}-{datetime.now():%Y-%m-%d-%H%M%S}.sqlite3"
        connection.close()
        home.copied(Path(connection.settings_dict["NAME"]), settings.BACKUPS / name)
    return bool(plan)


def port_free(port: int, address: str = "127.0.0.1") -> bool:
    """Whether a server can listen at this address and port."""
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind((address, port))
        except OSError:
            return False
    return True


def _serve(args: argparse.Namespace) -> int:
    if not re.fullmatch(r"\d{1,3}(\.\d{1,3}){3}", args.address) or args.address == "0.0.0.0":
        raise BadInput(args.address, "this computer's own address, such as 192.168.1.20", field="address")
    if not all(port_free(args.port, address) for address in {LOCAL, args.address}):
        print(
            f"idlebench: the address {args.address}:{args.port} is in use, or is not this computer's. Stop "
            f"the other program, or use --port {args.port + 1} (make demo PORT={args.port + 1}).",
            file=sys.stderr,
        )
        return 1
    from .web import home

    os.environ["IDLEBENCH_ADDRESS"] = args.address if args.address != LOCAL else ""
    folder = home.place()
    home.prepare(folder)
    with home.HomeLock(folder, f"process {os.getpid()} on http://{LOCAL}:{args.port}/"):
        home.sweep_halves(folder)
        _migrated()
        from .web.keep.backups import by_the_clock, sweep_unclaimed
        from .web.unit.power_note import looked_at

        sweep_unclaimed()
        if words := looked_at():
            print(f"idlebench: {words}. Measure every reservoir capacitor again before any work.", file=sys.stderr)
        from .web.server import serve

        also = (
            f", and on http://{args.address}:{args.port}/ for devices that are paired" if args.address != LOCAL else ""
        )
        page = f"http://{LOCAL}:{args.port}/"

        def ready() -> None:
            print(f"Idle Bench is on {page}{also} (stop with Ctrl+C)", flush=True)
            if args.open:
                # in a thread: a browser that runs in this terminal comes back only when it is closed
                threading.Thread(target=_open_browser, args=(page,), daemon=True, name="browser").start()

        serve(list(dict.fromkeys([LOCAL, args.address])), args.port, by_the_clock, ready)
    return 0


def _open_browser(page: str) -> None:
    if not webbrowser.open(page):
        print(f"idlebench: no browser could be opened here. Open {page} in one.", file=sys.stderr)


def _stand_in(args: argparse.Namespace) -> int:
    from .instruments import StandIn

    if not port_free(args.port):
        raise BadInput(str(args.port), "a free port", "Use another with --port.", field="port")
    with StandIn(args.port) as server:
        print(f"The simulated meter listens on {server.address} (stop with Ctrl+C)", flush=True)
        try:
            threading.Event().wait()
        except KeyboardInterrupt:
            print()
    return 0


def _demo(args: argparse.Namespace) -> int:
    _migrated()
    from idlebench.web.keep.demo import load_demo

    print(load_demo())
    return 0


def _import(args: argparse.Namespace) -> int:
    _migrated()
    from idlebench.web.keep.bundle import take_in

    job = take_in(args.file)
    _say(args, {"job": job.number, "name": job.name}, f"Imported job {job.number}, {job.name}.")
    return 0


def _say(args: argparse.Namespace, told: dict[str, object], words: str) -> None:
    print(json.dumps(told, ensure_ascii=False) if args.json else words)


def _export(args: argparse.Namespace) -> int:
    if not re.fullmatch(r"[0-9]{1,15}", args.job):
        raise BadInput(args.job, "a job's number", "The Bench shows it.", field="job")
    _migrated()
    from idlebench.web.keep.leaving import export
    from idlebench.web.records.models import Job

    if not Job.objects.filter(pk=int(args.job)).exists():
        raise BadInput(
            args.job,
            f"a job's number: {', '.join(map(str, Job.objects.values_list('pk', flat=True))) or 'there is none'}",
            field="job",
        )
    file = export(int(args.job), args.output)
    _say(args, {"file": str(file), "bytes": file.stat().st_size}, f"Job {args.job} is in {file}.")
    return 0


def _backup(args: argparse.Namespace) -> int:
    _migrated()
    from idlebench.web.keep.backups import make

    made = make(args.file)
    told = {"file": str(made.path), "made": made.made.isoformat(), "photos": made.photos, "rows": made.counts}
    _say(args, told, f"{made.path}: {made.told}. Opened and counted.")
    return 0


def _restore(args: argparse.Namespace) -> int:
    from .web import home

    folder = home.place()
    home.prepare(folder, look=False)
    with home.HomeLock(folder, f"process {os.getpid()}, restoring"):
        _django(look=False)
        from idlebench.web.keep.backups import restore

        found, kept = restore(args.file, replace=args.replace)
    told = {
        "made": found.made.isoformat(),
        "photos": found.photos,
        "rows": found.counts,
        "kept": str(kept) if kept else None,
    }
    was = f" What was here is kept in {kept}." if kept else ""
    _say(
        args,
        told,
        f"The bench of {found.made:%Y-%m-%d %H:%M} is restored: {found.told}.{was} Pair the devices again.",
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
