"""``idlebench import``, ``export``, ``backup`` and ``restore``: jobs and whole benches as files."""

from __future__ import annotations

import argparse
import json
import os
import re
from pathlib import Path

from ..core.refusal import BadInput
from .opening import django_ready, migrated, there_already


def add(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add what it is asked by."""
    load = commands.add_parser("import", help="import a job: a bundle that a bench made, or a folder of typed files")
    load.add_argument("file", type=Path)
    load.add_argument("--again", action="store_true", help="also if the job is on the bench already")
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


def _import(args: argparse.Namespace) -> int:
    migrated()
    from idlebench.web.keep.bundle import ask_if_here, take_in

    if not args.again:
        ask_if_here(args.file)
    job = take_in(args.file)
    _say(args, {"job": job.number, "name": job.name}, f"Imported job {job.number}, {job.name}.")
    return 0


def _export(args: argparse.Namespace) -> int:
    if not re.fullmatch(r"[0-9]{1,15}", args.job):
        raise BadInput(args.job, "a job's number", "The Bench shows it.", field="job")
    there_already()
    migrated()
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
    there_already()
    migrated()
    from idlebench.web.keep.backups import make

    made = make(args.file)
    told = {"file": str(made.path), "made": made.made.isoformat(), "photos": made.photos, "rows": made.counts}
    _say(args, told, f"{made.path}: {made.told}. Opened and counted.")
    return 0


def _restore(args: argparse.Namespace) -> int:
    from ..web import home

    folder = home.place()
    home.prepare(folder, look=False)
    with home.HomeLock(folder, f"process {os.getpid()}, restoring"):
        django_ready(look=False)
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


def _say(args: argparse.Namespace, told: dict[str, object], words: str) -> None:
    print(json.dumps(told, ensure_ascii=False) if args.json else words)
