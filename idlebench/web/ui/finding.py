"""What is found by name: from the index of the bench, and among the pages, terms, calculators and procedures that ship."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from django.contrib.staticfiles import finders
from django.urls import reverse
from django.utils.http import urlencode

from idlebench.catalogue import house_procedures
from idlebench.catalogue.glossary import TERMS
from idlebench.core.calculators import REGISTRY
from idlebench.core.text.quantity import show

from ..records import search_index
from ..records.models import (
    Board,
    CatalogueItem,
    Entry,
    Job,
    Part,
    ShelfDevice,
    ShopProcedure,
    Supplier,
    Unit,
    UnitProcedure,
)

#: Rows of a kind that are shown, and that are asked for before those of closed units go to the end.
SHOWN, ASKED = 6, 24
#: What stands between words.
_NO_WORD = re.compile(r"[^\w]+")
#: Pages that have a name of their own: what people call them, and where they are.
PAGES = (
    ("Bench, open units", "bench"), ("Calendar, what to do when", "calendar"), ("Gather for all jobs, orders, suppliers", "gather_shop"),
    ("Shelf, stock and catalogue", "shelf"), ("Procedures, washes and services", "procedures"), ("Calculators", "reckoner"),
    ("Practice, hidden faults", "practice"), ("Ledger, everything that was done", "ledger"), ("The shop's figures", "figures"),
    ("Workshop details, address and logo", "workshop"),
    ("Devices, meters and phones", "devices"), ("Backups and files", "backups"), ("Glossary, terms of the field", "glossary"),
    ("Guide, a page for each stage", "guide"), ("New job", "new_job"),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Found:
    """Something that was found: what it is, its words, where it is."""

    what: str
    words: str
    url: str


@dataclass(frozen=True)
class Fixed:
    """Something that ships: its kind, title, address, and the words it is found by."""

    what: str
    title: str
    url: str
    says: str


def find(text: str) -> tuple[list[Found], str]:
    """What a person looks for.

    Args:
        text: as it was typed.

    Returns:
        What was found, what is open and near first; and the words that were looked for instead, "" where the typed ones were found.
    """
    found = _all(text)
    if found or not text.strip():
        return found, ""
    for other in _one_letter_off(text):
        if found := _all(other):
            return found, other
    return [], ""


def _all(text: str) -> list[Found]:
    words = search_index.words_of(text)
    if not words:
        return []
    keys = search_index.matching(words, ASKED)
    found = []
    for kind, told in _TOLD:
        found += told(keys[kind])[:SHOWN] if kind in keys else []
        if kind == "part" and "board" in keys:
            found += _lines(keys["board"], text)[:SHOWN]
    return [*found, *_fixed_of(text)]


def _one_letter_off(text: str) -> Iterable[str]:
    """The text with one of its words as the bench knows it."""
    words = text.split()
    for i, word in enumerate(words):
        near = [
            *search_index.near_words(word),
            *(w for w in sorted(_fixed_words()) if search_index.one_letter_off(word.lower(), w)),
        ]
        for other in dict.fromkeys(near):
            yield " ".join([*words[:i], other, *words[i + 1 :]])


def _fixed_of(text: str) -> list[Found]:
    asked = [word for word in _NO_WORD.split(text.lower()) if word]
    hits: list[tuple[int, Fixed]] = []
    for one in _fixed():
        title = one.title.lower()
        if asked and _holds(_NO_WORD.split(f"{title} {one.says}".lower()), asked):
            # what is in a title is nearer than what is in a text
            hits.append((0 if all(part in title for part in asked) else 1, one))
    shown: dict[str, int] = {}
    found = []
    for _, one in sorted(hits, key=lambda hit: hit[0]):
        shown[one.what] = shown.get(one.what, 0) + 1
        if shown[one.what] <= SHOWN:
            found.append(Found(what=one.what, words=one.title, url=one.url))
    return found


@cache
def _fixed() -> tuple[Fixed, ...]:
    found = [Fixed("page", title, reverse(name), "") for title, name in PAGES]
    found += [
        Fixed("calculator", r.title, reverse("reckoning", args=[r.name]), f"{r.name} {r.about}")
        for r in REGISTRY.values()
    ]
    found += [Fixed("term", f"{t.title}: {t.meaning}", f"{reverse('glossary')}#{t.key}", "") for t in TERMS]
    found += [
        Fixed(
            "procedure",
            p.title,
            reverse("procedure", args=[name]),
            f"{p.about} {' '.join(step.text for step in p.steps)}",
        )
        for name, p in house_procedures().items()
    ]
    return (
        *found,
        *(
            Fixed("guide", page["title"], reverse("guide_page", args=[page["name"]]), page["text"])
            for page in guide_pages()
        ),
    )


@cache
def _fixed_words() -> frozenset[str]:
    return frozenset(word for one in _fixed() for word in re.findall(r"[a-z]{4,}", one.title.lower()))


@cache
def guide_pages() -> tuple[dict[str, str], ...]:
    """The pages of the guide as they were built: name, title, body, and text to search; empty where nothing was built."""
    built = finders.find("build/guide/pages.json")
    return tuple(json.loads(Path(built).read_text(encoding="utf-8"))) if built else ()


def _in_order(keys: list[int], rows: dict[int, object], is_open: Callable[[object], bool]) -> list[object]:
    """Rows as near as they were found, those of closed units last."""
    there = [rows[key] for key in keys if key in rows]
    return sorted(there, key=lambda row: not is_open(row))


def _jobs(keys: list[int]) -> list[Found]:
    rows = {job.pk: job for job in Job.objects.filter(pk__in=keys).prefetch_related("units")}
    first = {pk: next(iter(job.units.all()), None) for pk, job in rows.items()}
    return [
        Found(
            what="job",
            words=f"Job {job.number}: {job.name}, {job.machine}{', ' + job.owner if job.owner else ''}",
            url=first[job.pk].get_absolute_url(),
        )
        for job in _in_order(keys, rows, lambda job: any(u.handed_over is None for u in job.units.all()))
        if first[job.pk] is not None
    ]


def _units(keys: list[int]) -> list[Found]:
    rows = {unit.pk: unit for unit in Unit.objects.filter(pk__in=keys).select_related("job")}
    return [
        Found(
            what="unit",
            words=f"{u.job.machine}, unit {u.name}{', ' + u.serial if u.serial else ''}: {u.job.name}",
            url=u.get_absolute_url(),
        )
        for u in _in_order(keys, rows, lambda u: u.handed_over is None)
    ]


def _where(board: Board) -> str:
    return f"unit {board.unit.name}, {board.name}"


def _lines(keys: list[int], text: str) -> list[Found]:
    """Parts that are lines of their board, as fuses, resistors and chips are."""
    rows = {b.pk: b for b in Board.objects.filter(pk__in=keys, replaced="").select_related("unit")}
    asked = [word for word in _NO_WORD.split(text.lower()) if word]
    return [
        Found(
            what="part",
            words=f"{line[:60]}, {_where(board)}",
            url=f"{reverse('survey', args=[board.pk])}?{urlencode({'part': line.split()[0]})}",
        )
        for board in _in_order(keys, rows, lambda b: b.unit.handed_over is None)
        for line in f"{board.others}\n{board.chips}".splitlines()
        if line.strip() and _holds(_NO_WORD.split(line.lower()), asked)
    ]


def _holds(words: Iterable[str], asked: Iterable[str]) -> bool:
    """Whether some word begins with each that is asked for."""
    known = list(words)
    return all(any(word.startswith(one) for word in known) for one in asked)


def _boards(keys: list[int]) -> list[Found]:
    rows = {b.pk: b for b in Board.objects.filter(pk__in=keys, replaced="").select_related("unit__job")}
    return [
        Found(what="board", words=f"{b}, unit {b.unit.name} of job {b.unit.job_id}", url=reverse("survey", args=[b.pk]))
        for b in _in_order(keys, rows, lambda b: b.unit.handed_over is None)
    ]


def _parts(keys: list[int]) -> list[Found]:
    rows = {p.pk: p for p in Part.objects.filter(pk__in=keys).select_related("board__unit")}
    return [
        Found(
            what="part",
            words=" ".join(
                filter(None, (p.ref, show(p.value, "F") if p.value else "", show(p.volts, "V") if p.volts else ""))
            )
            + f", {_where(p.board)}",
            url=f"{reverse('survey', args=[p.board_id])}?{urlencode({'part': p.ref})}",
        )
        for p in _in_order(keys, rows, lambda p: p.board.unit.handed_over is None)
    ]


def _catalogue(keys: list[int]) -> list[Found]:
    rows = {item.pk: item for item in CatalogueItem.objects.filter(pk__in=keys)}
    return [
        Found(
            what="catalogue",
            words=f"{i.part}{f', {i.stock} in stock' if i.stock else ''}",
            url=f"{reverse('shelf')}?{urlencode({'q': i.part})}",
        )
        for i in _in_order(keys, rows, lambda i: bool(i.stock))
    ]


def _devices(keys: list[int]) -> list[Found]:
    rows = {one.pk: one for one in ShelfDevice.objects.filter(pk__in=keys)}
    return [
        Found(what=str(one.what), words=one.part, url=f"{reverse('shelf')}?{urlencode({'q': one.part})}")
        for one in _in_order(keys, rows, lambda one: bool(one.stock))
    ]


def _suppliers(keys: list[int]) -> list[Found]:
    rows = Supplier.objects.filter(pk__in=keys)
    return [Found(what="supplier", words=row.name, url=reverse("gather_shop")) for row in rows]


def _own_procedures(keys: list[int]) -> list[Found]:
    rows = ShopProcedure.objects.filter(pk__in=keys)
    return [
        Found(what="procedure", words=row.to_core().title, url=reverse("procedure", args=[row.name])) for row in rows
    ]


def _on_units(keys: list[int]) -> list[Found]:
    rows = {row.pk: row for row in UnitProcedure.objects.filter(pk__in=keys).select_related("unit")}
    return [
        Found(
            what="on a unit",
            words=f"{row.title}, unit {row.unit.name}",
            url=reverse("unit_procedure", args=[row.unit_id, row.pk]),
        )
        for row in _in_order(keys, rows, lambda row: row.ended is None)
    ]


def _entries(keys: list[int]) -> list[Found]:
    rows = {row.pk: row for row in Entry.objects.filter(pk__in=keys).select_related("unit")}
    return [
        Found(
            what="ledger",
            words=f"{row.at:%-d %b %Y}, unit {row.unit.name}: {row.text[:90]}",
            url=f"{reverse('ledger')}?{urlencode({'q': row.text[:40]})}",
        )
        for row in _in_order(keys, rows, lambda row: row.unit.handed_over is None)
    ]


#: How each kind of row is told, in the order in which kinds are shown.
_TOLD: tuple[tuple[str, Callable[[list[int]], list[Found]]], ...] = (
    ("job", _jobs), ("unit", _units), ("board", _boards), ("part", _parts), ("catalogue", _catalogue), ("shelf", _devices),
    ("supplier", _suppliers), ("on a unit", _on_units), ("procedure", _own_procedures), ("ledger", _entries),
)  # fmt: skip
