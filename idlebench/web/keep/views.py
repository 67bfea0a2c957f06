"""Taking the demo in; jobs that leave and come; backups; removing what was put down by mistake, and bringing it back."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from urllib.parse import urlencode

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db.models import Model
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from idlebench import __version__
from idlebench.core.refusal import BadInput, Blocked
from idlebench.core.wording import many

from .. import home
from ..records.models import Job, Removed
from ..ui.local_only import from_here, this_machine_only
from . import automatic_backups, leaving, removing
from . import backups as keeping
from .bundle import ask_if_here, take_in
from .demo import load_demo


def bundle(request: HttpRequest, pk: int) -> HttpResponse:
    """A job as a file, to take to another bench."""
    name, data = leaving.bundle_of(pk)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(data, content_type="application/zip", headers=headers)


@require_POST
def come(request: HttpRequest) -> HttpResponse:
    """Take a job in from its file."""
    file = request.FILES.get("bundle")
    if file is None:
        raise BadInput("", "a job's file", "Choose the file that another bench made.", field="bundle")
    with _as_file(file) as path:
        if request.POST.get("again") != "yes":
            try:
                ask_if_here(path)
            except Blocked as error:
                return _backups(request, 422, complaint=error, twice=True)
        job = take_in(path)
    first = job.units.first()
    return redirect("intake", first.pk) if first else redirect("bench")


@contextmanager
def _as_file(file: UploadedFile) -> Iterator[Path]:
    """What was sent, as a file of the name it had."""
    with tempfile.TemporaryDirectory(dir=settings.HOME, prefix="coming", suffix=home.HALF) as work:
        path = Path(work) / (
            "".join(c if c.isalnum() or c in "-_." else "-" for c in file.name or "")[-60:].lstrip(".") or "file"
        )
        with path.open("wb") as out:
            for piece in file.chunks():
                out.write(piece)
        yield path


def backups(request: HttpRequest) -> HttpResponse:
    """The backups of this bench."""
    return _backups(request)


def _backups(request: HttpRequest, status: int = 200, **extra: object) -> HttpResponse:
    rows = [
        (path.name, path.stat().st_size, datetime.fromtimestamp(path.stat().st_mtime, tz=UTC))
        for path in automatic_backups.all_kept()
    ]
    context = {
        "rows": rows,
        "here": from_here(request),
        "folder": settings.BACKUPS,
        "jobs": Job.objects.count(),
        "room": "keep",
        "version": __version__,
        **extra,
    }
    return render(request, "keep/backups.html", context, status=status)


@require_POST
@this_machine_only
def make_backup(request: HttpRequest) -> HttpResponse:
    """Make a backup now."""
    try:
        made = keeping.make(keeping.free_name(settings.BACKUPS / f"bench-{timezone.localtime():%Y-%m-%d-%H%M%S}.zip"))
    except BadInput as error:
        return _backups(request, 422, complaint=error)
    return _backups(request, made=made)


@this_machine_only
def backup_file(request: HttpRequest, name: str) -> HttpResponse:
    """A backup, to keep elsewhere."""
    path = settings.BACKUPS / name
    if not path.is_file():
        raise Http404
    return FileResponse(path.open("rb"), as_attachment=True, filename=name)


@require_POST
@this_machine_only
def restore(request: HttpRequest) -> HttpResponse:
    """Bring a backup back: one of this bench's, or one that was sent."""
    replace, name, file = (
        request.POST.get("replace") == "yes",
        request.POST.get("name", ""),
        request.FILES.get("backup"),
    )
    try:
        if file is not None:
            with _as_file(file) as path:
                found, kept = keeping.restore(path, replace=replace)
        elif name in {path.name for path in automatic_backups.all_kept()}:
            found, kept = keeping.restore(settings.BACKUPS / name, replace=replace)
        else:
            raise BadInput(name, "a backup: one of the list, or a file", field="file")
    except (BadInput, Blocked) as error:
        return _backups(request, 422 if isinstance(error, BadInput) else 409, complaint=error)
    return _backups(request, restored=found, kept=kept)


@require_POST
def demo(request: HttpRequest) -> HttpResponse:
    """Load the demo onto an empty bench."""
    load_demo()
    return redirect("bench")


def _kept_at(kind: str, row: Model) -> str:
    """The page of what is about to be removed: where whoever keeps it goes."""
    if kind == "unit":
        return reverse("intake", args=[row.pk])
    if kind == "board":
        return reverse("intake", args=[row.unit_id])
    return (
        f"{reverse('survey', args=[row.board_id])}?{urlencode({'part': row.ref})}"
        if kind == "part"
        else reverse("bench")
    )


def remove(request: HttpRequest, kind: str, pk: int) -> HttpResponse:
    """Asked once: what goes, and that it is kept for thirty days; posted, it goes."""
    row = removing.KINDS[kind].objects.get(pk=pk)
    if request.method == "POST":
        kept = removing.remove(kind, pk)
        return redirect(f"{reverse('removed')}?{urlencode({'last': kept.pk})}")
    counts: dict[str, int] = {}
    for one in removing.rows_of(row):
        name = str(one._meta.verbose_name_plural)
        counts[name] = counts.get(name, 0) + 1
    shown = [many(counts[name], word) for name, word in COUNTED if counts.get(name) and name != f"{kind}s"]
    context = {
        "kind": kind,
        "row": row,
        "title": removing.title_of(row),
        "counts": shown,
        "room": "bench",
        "back": _kept_at(kind, row),
    }
    return render(request, "keep/remove.html", context)


#: What people count of what goes, by the plural names of the rows.
COUNTED = (
    ("units", "unit"), ("boards", "board"), ("parts", "part"), ("choices", "choice"), ("swaps", "swap"),
    ("readings", "reading"), ("photos", "photo"), ("entries", "line"),
)  # fmt: skip


def removed(request: HttpRequest) -> HttpResponse:
    """What was removed in the last thirty days."""
    removing.sweep()
    rows = [(row, row.at + removing.KEPT) for row in Removed.objects.all()]
    return render(request, "keep/removed.html", {"rows": rows, "last": request.GET.get("last", ""), "room": "bench"})


@require_POST
def bring_back(request: HttpRequest, pk: int) -> HttpResponse:
    return redirect(removing.bring_back(pk))
