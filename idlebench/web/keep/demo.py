"""The demo: Skerry Point's three terminals, taken in like anybody's own job."""

from __future__ import annotations

from pathlib import Path

from ..records.models import Job
from ..shelf.services import ensure_house_catalogue, stock_up
from .bundle import import_folder

FOLDER = Path(__file__).resolve().parents[3] / "demo" / "skerry-point"


def load_demo() -> str:
    """Load the demo onto an empty bench; says what was done."""
    ensure_house_catalogue()
    if Job.objects.exists():
        return "The bench has jobs already: the demo is only loaded onto an empty one."
    stock_up((FOLDER / "shelf.csv").read_bytes())
    job = import_folder(FOLDER)
    return f"Loaded job {job.number}, {job.name}: {job.units.count()} units."
