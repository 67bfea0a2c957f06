"""The demo: Skerry Point's three terminals, taken in like anybody's own job."""

from __future__ import annotations

from pathlib import Path

from ..gather.terms import say_terms
from ..records.models import Job
from ..shelf.services import ensure_house_catalogue, stock_up
from .bundle import import_folder

#: What the two shops ask, sample figures.
TERMS = (
    {"supplier": "Lampwright Supply", "postage": "4.90", "free_above": "40", "handling": "0.10"},
    {"supplier": "North Quay Parts", "postage": "3.50", "free_above": "25", "handling": "0.15", "minimum": "5"},
)
FOLDER = Path(__file__).resolve().parents[3] / "demo" / "skerry-point"


def load_demo() -> str:
    """Load the demo onto an empty bench; says what was done."""
    ensure_house_catalogue()
    if Job.objects.exists():
        return "The bench has jobs already: the demo is only loaded onto an empty one."
    stock_up((FOLDER / "shelf.csv").read_bytes())
    for terms in TERMS:
        say_terms(terms)
    job = import_folder(FOLDER)
    return f"Loaded job {job.number}, {job.name}: {job.units.count()} units."
