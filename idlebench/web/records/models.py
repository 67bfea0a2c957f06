"""Every table of the bench, by subject. Rows and their core values; no rules, no HTML.

The tables keep the names they were first made under, so that an existing bench opens.
"""

from .buying import BuyingPlan, FirstClaim, GatherStep, OfferOut, Order, OrderLine, Supplier, SupplierOffer
from .calendar import CalendarPlan, ShopHours
from .choices import Choice, DeviceChoice, FuseBlown
from .devices import Device, Instrument, PairingCode, WrongCode
from .faults import Cause, Clue, KnownFault
from .jobs import Board, BoardProfile, DismantleStep, Job, ShopPolicy, ShopTimes, Unit
from .log import Entry
from .parts import Part, ReformReading, ReformRun
from .photos import Photo, Underlay, folder
from .practice import PracticeRun
from .procedures import ProcedureStep, ShopProcedure, UnitProcedure
from .proof import Event, ImportedRecord, PowerSession, Reading, RoundAnswer
from .removed import Removed
from .revisions import Revision
from .shelf import CAPACITOR_FIELDS, CatalogueItem, ColumnMap, ShelfDevice, StagedItem, StockChange, capacitor_of
from .summary import FailureCount, Summary, UnitCounts
from .swaps import UNKNOWN, Bag, DeviceSwap, Mend, Modification, Swap
from .tally import Judged, SeriesTally
from .workshop import Workshop

__all__ = [
    "CAPACITOR_FIELDS",
    "UNKNOWN",
    "Bag",
    "Board",
    "BoardProfile",
    "BuyingPlan",
    "CalendarPlan",
    "CatalogueItem",
    "Cause",
    "Choice",
    "Clue",
    "ColumnMap",
    "Device",
    "DeviceChoice",
    "DeviceSwap",
    "DismantleStep",
    "Entry",
    "Event",
    "FailureCount",
    "FirstClaim",
    "FuseBlown",
    "GatherStep",
    "ImportedRecord",
    "Instrument",
    "Job",
    "Judged",
    "KnownFault",
    "Mend",
    "Modification",
    "OfferOut",
    "Order",
    "OrderLine",
    "PairingCode",
    "Part",
    "Photo",
    "PowerSession",
    "PracticeRun",
    "ProcedureStep",
    "Reading",
    "ReformReading",
    "ReformRun",
    "Removed",
    "Revision",
    "RoundAnswer",
    "SeriesTally",
    "ShelfDevice",
    "ShopHours",
    "ShopPolicy",
    "ShopProcedure",
    "ShopTimes",
    "StagedItem",
    "StockChange",
    "Summary",
    "Supplier",
    "SupplierOffer",
    "Swap",
    "Underlay",
    "Unit",
    "UnitCounts",
    "UnitProcedure",
    "Workshop",
    "WrongCode",
    "capacitor_of",
    "folder",
]
