"""Every table of the bench, by subject. Rows and their core values; no rules, no HTML.

The tables keep the names they were first made under, so that an existing bench opens.
"""

from .choices import Choice, DeviceChoice, FuseBlown
from .jobs import Board, BoardProfile, DismantleStep, Job, ShopPolicy, ShopTimes, Unit
from .log import Entry
from .parts import Part, ReformReading, ReformRun
from .photos import Photo, Underlay, folder
from .proof import Event, PowerSession, Reading
from .removed import Removed
from .shelf import CAPACITOR_FIELDS, CatalogueItem, ColumnMap, ShelfDevice
from .swaps import Swap

__all__ = [
    "CAPACITOR_FIELDS",
    "Board",
    "BoardProfile",
    "CatalogueItem",
    "Choice",
    "ColumnMap",
    "DeviceChoice",
    "DismantleStep",
    "Entry",
    "Event",
    "FuseBlown",
    "Job",
    "Part",
    "Photo",
    "PowerSession",
    "Reading",
    "ReformReading",
    "ReformRun",
    "Removed",
    "ShelfDevice",
    "ShopPolicy",
    "ShopTimes",
    "Swap",
    "Underlay",
    "Unit",
    "folder",
]
