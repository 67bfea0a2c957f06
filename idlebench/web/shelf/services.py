"""The catalogue: loading it, and having it ready for ranking."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from django.db import transaction

from idlebench.catalogue import PATH
from idlebench.core.board.column_map import PREVIEW, Foreign, check_map, read_foreign, translated
from idlebench.core.board.parts import Capacitor
from idlebench.core.board.tables import read_catalogue
from idlebench.core.refusal import BadInput
from idlebench.core.text.csvtable import Problem

from ..records.models import CAPACITOR_FIELDS, CatalogueItem, ColumnMap


@dataclass(frozen=True)
class Loaded:
    """What a catalogue file gave."""

    added: int
    changed: int
    problems: list[Problem]
    rows: int


@transaction.atomic
def load_csv(data: bytes, *, good_rows: bool) -> Loaded:
    """Take a catalogue CSV in; parts known by name are brought up to date."""
    found = read_catalogue(data)
    if found.problems and not good_rows:
        return Loaded(0, 0, list(found.problems), len(found.parts))
    known = set(CatalogueItem.objects.values_list("part", flat=True))
    items = [CatalogueItem(**{name: getattr(part, name) for name in CAPACITOR_FIELDS}) for part in found.parts]
    CatalogueItem.objects.bulk_create(
        items,
        update_conflicts=True,
        unique_fields=["part"],
        batch_size=500,
        update_fields=[*(f for f in CAPACITOR_FIELDS if f != "part"), "changed"],
    )
    changed = sum(part.part in known for part in found.parts)
    return Loaded(len(items) - changed, changed, list(found.problems), len(items))


def ensure_house_catalogue() -> int:
    """Load the house catalogue into an empty shelf; the number of parts on it."""
    if not CatalogueItem.objects.exists():
        load_csv(PATH.read_bytes(), good_rows=False)
    return CatalogueItem.objects.count()


@dataclass(frozen=True)
class Preview:
    """A foreign table before it is taken: its header, the map, the first parts read by it, and what cannot be read of them."""

    foreign: Foreign
    columns: dict[str, str]
    parts: tuple[Capacitor, ...]
    problems: list[Problem]
    wrong: BadInput | None


def preview(data: bytes, typed: Mapping[str, str], kept: str = "") -> Preview:
    """Look at a foreign table through a map: the one typed, else the one kept under a name, else the guess."""
    foreign = read_foreign(data)
    row = ColumnMap.objects.filter(name=kept).first() if kept else None
    named = {name.removeprefix("map_"): value for name, value in typed.items() if name.startswith("map_")}
    columns = named or ({k: v for k, v in row.columns.items() if v in foreign.header} if row else foreign.guess)
    try:
        chosen = check_map(columns, foreign.header)
        found = read_catalogue(translated(foreign, chosen, PREVIEW))
        return Preview(foreign, columns, found.parts, list(found.problems), None)
    except BadInput as error:
        return Preview(foreign, columns, (), [], error)


@transaction.atomic
def load_foreign(data: bytes, typed: Mapping[str, str], *, good_rows: bool) -> Loaded:
    """Take a foreign table in through the map that was typed, and keep the map under its name.

    Raises:
        BadInput: a map that does not go with the table, or no name for it.
    """
    foreign = read_foreign(data)
    columns = check_map({n.removeprefix("map_"): v for n, v in typed.items() if n.startswith("map_")}, foreign.header)
    name = str(typed.get("name", "")).strip()
    if not 2 <= len(name) <= 60:
        raise BadInput(name, "a name for this export, to know it by next time", "Such as the supplier's name.", "name")
    loaded = load_csv(translated(foreign, columns).encode(), good_rows=good_rows)
    if not loaded.problems or good_rows:
        ColumnMap.objects.update_or_create(name=name, defaults={"columns": columns})
    return loaded
