"""A catalogue and the places that are looked at, as arrays: what the rule book reads."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable, Sequence
from functools import cached_property, lru_cache

import numpy as np

from ..board.parts import KINDS, MOUNTINGS, Capacitor
from ..judge import ageing
from ..judge.policy import Weights
from ..text.quantity import VOLT_RATINGS
from .need import FLAGS_FROM, NUMBER, WIDE_KINDS, Need
from .stand_in import CLASS_RANK

_FIELDS = (
    "value",
    "volts",
    "diameter",
    "height",
    "pitch",
    "ac_volts",
    "tolerance",
    "temperature",
    "life",
    "ripple",
    "ripple_frequency",
    "esr",
    "esr_frequency",
    "price",
    "stock",
)
_FLAGS = ("bipolar", "low_impedance", "pulse")


#: What a catalogue notes of a series that is made to leak little: about a fifth of the 0.01 · C · V of an ordinary one.
LOW_LEAKAGE = "low leakage"
#: Safety classes by their number in a catalogue.
CLASSES = tuple(CLASS_RANK)
#: The number of each name.
KIND_CODE = {name: i for i, name in enumerate(KINDS)}
MOUNTING_CODE = {name: i for i, name in enumerate(MOUNTINGS)}
CLASS_CODE = {name: i for i, name in enumerate(CLASSES)}


class Columns:
    """A catalogue as arrays, one row a part, in order of value. SI, sizes in mm; kinds, mountings and classes by number.

    Some rows of it are a Columns too: a column of theirs is gathered when it is first asked for.
    """

    def __init__(
        self, parts: tuple[Capacitor, ...], base: dict[str, np.ndarray], rows: np.ndarray | None = None
    ) -> None:
        self.parts, self.base, self.rows = parts, base, rows
        self._columns = base if rows is None else {}
        self._kept: dict[str, tuple[object, np.ndarray]] = {}

    @classmethod
    def of(cls, parts: Iterable[Capacitor]) -> Columns:
        """Lay a catalogue out for ranking."""
        rows = tuple(sorted(parts, key=_order))
        data: dict[object, np.ndarray] = {
            name: np.array([getattr(p, name) for p in rows], dtype=float) for name in _FIELDS
        }
        data |= {name: np.array([getattr(p, name) for p in rows], dtype=bool) for name in _FLAGS}
        for name, codes in (("kind", KIND_CODE), ("mounting", MOUNTING_CODE), ("safety", CLASS_CODE)):
            data[name] = np.array([codes[getattr(p, name)] for p in rows], dtype=np.int8)
        data["make"] = (data["kind"] * len(MOUNTINGS) + data["mounting"]).astype(np.int8)
        data["step"] = step_of(data["volts"]).astype(np.int16)
        data["log2"] = np.log2(np.maximum(data["value"], 1e-18))
        data["rated_life"] = np.where(
            (data["life"] > 0) & (data["kind"] != KIND_CODE["film"]) & (data["temperature"] > 0), data["life"], np.nan
        )
        data["leads"] = np.where(data["pitch"] > 0, data["pitch"], np.nan)
        data["band"] = ageing.ripple_band(data["value"], data["low_impedance"]).astype(np.int8)
        # a rating is brought from the frequency it is given at to the one its table counts from
        rated_at = np.ones(len(rows))
        for frequency in np.unique(data["ripple_frequency"]):
            here = data["ripple_frequency"] == frequency
            rated_at[here] = np.array(ageing.ripple_table(float(frequency)))[data["band"][here]]
        data["ripple_base"] = np.where(data["ripple"] > 0, data["ripple"] / rated_at, np.nan)
        impedance = data["low_impedance"]
        to_100k = ageing.frequency_share(100e3, impedance) / ageing.frequency_share(data["esr_frequency"], impedance)
        data["esr_high"] = np.where(data["esr"] > 0, data["esr"] * to_100k, np.nan)
        data["leaky"] = np.array([p.kind in WIDE_KINDS and LOW_LEAKAGE not in p.note for p in rows], dtype=bool)
        data["class2"] = np.array([p.kind == "ceramic" and "class 1" not in p.note for p in rows], dtype=bool)
        return cls(rows, data)

    def changed(self, parts: Iterable[Capacitor]) -> Columns:
        """A whole catalogue with some parts new or another than they were: the others are not laid out anew."""
        few = Columns.of(parts)
        where = [bisect_left(self.parts, _order(part), key=_order) for part in few.parts]
        if all(i < len(self.parts) and self.parts[i].part == p.part for i, p in zip(where, few.parts, strict=True)):
            return self._in_place(few, where)
        old = {part.part: i for i, part in enumerate(self.parts)} if len(few) else {}
        gone = sorted(old[part.part] for part in few.parts if part.part in old)
        stay = list(self.parts)
        for i in reversed(gone):
            del stay[i]
        at = [bisect_left(stay, _order(part), key=_order) for part in few.parts]
        for shift, (i, part) in enumerate(zip(at, few.parts, strict=True)):
            stay.insert(i + shift, part)
        base = {
            name: np.insert(np.delete(array, gone), at, few.base[name])
            for name, array in self.base.items()
            if name in few.base
        }
        return Columns(tuple(stay), base)

    def _in_place(self, few: Columns, where: list[int]) -> Columns:
        """The same where every part stays in its row: only the columns in which something is another are copied."""
        parts, base = list(self.parts), dict(self.base)
        for i, part in zip(where, few.parts, strict=True):
            parts[i] = part
        for name, new in few.base.items():
            was = base[name][where]
            if not np.array_equal(was, new, equal_nan=was.dtype.kind == "f"):
                base[name] = base[name].copy()
                base[name][where] = new
        same = all(base[name] is self.base[name] for name in few.base if name not in ("stock", "price"))
        # what was worked out of the columns stands where they do; what stock and price add does not
        kept = {name: column for name, column in base.items() if name in few.base or (same and name[0] != "costs")}
        return Columns(tuple(parts), kept)

    @cached_property
    def plain(self) -> np.ndarray:
        """What the plainest rules ask, each so that more is better: temperature °C, volts V, −diameter and −height mm; a column a part.

        A temperature that nobody says is refused by none of them.

        They lie side by side, so that a slice of the catalogue is held against a place's limits in one go.
        """
        said = np.where(self["temperature"] > 0, self["temperature"], np.inf)
        return np.stack([said, self["volts"], -self["diameter"], -self["height"]])

    def __len__(self) -> int:
        return len(self.parts) if self.rows is None else len(self.rows)

    def __getitem__(self, name: object) -> np.ndarray:
        found = self._columns.get(name)
        if found is None:
            # the rows are known to be in range; without the check it is twice as fast
            found = self._columns[name] = self.base[name].take(self.rows, mode="clip")
        return found

    def once(self, name: str, need: object, work: Callable[[], np.ndarray]) -> np.ndarray:
        """What several rules want of these rows for the same places, worked out once."""
        found = self._kept.get(name)
        if found is None or found[0] is not need:
            found = self._kept[name] = (need, work())
        return found[1]

    def part(self, i: int) -> Capacitor:
        """The part of a row."""
        return self.parts[i if self.rows is None else self.rows[i]]

    def is_kind(self, *names: str) -> np.ndarray:
        """Which rows are of one of these kinds."""
        found = self._columns.get(names)
        if found is None:
            found = self._columns[names] = _kind_mask(names).take(self["kind"], mode="clip")
        return found

    def is_mounted(self, name: str) -> np.ndarray:
        """Which rows are mounted so."""
        return self["mounting"] == MOUNTING_CODE[name]

    def standing_costs(self, weights: Weights) -> np.ndarray:
        """What each row of the whole catalogue adds to its score in any place: price, and not being on the shelf."""
        name = ("costs", weights.shelf, weights.price)
        if name not in self.base:
            self.base[name] = weights.shelf * (self.base["stock"] <= 0) + weights.price * self.base["price"]
        return self[name]

    def take(self, rows: np.ndarray) -> Columns:
        """Those rows, in that order."""
        return Columns(self.parts, self.base, rows if self.rows is None else self.rows[rows])


def _order(part: Capacitor) -> tuple[float, float, str]:
    """How a catalogue is ordered."""
    return part.value, part.volts, part.part


@lru_cache(maxsize=64)
def _kind_mask(names: tuple[str, ...]) -> np.ndarray:
    wanted = np.zeros(len(KINDS), bool)
    wanted[[KIND_CODE[name] for name in names]] = True
    return wanted


_LADDER = np.array(VOLT_RATINGS)


def step_of(volts: np.ndarray | float) -> np.ndarray:
    """The place of a rating in the row of ratings."""
    return np.searchsorted(_LADDER, np.asarray(volts) * 0.999)


class Alike:
    """Places that are asked the same rules: safety classes, policy and mains are theirs together, their numbers row by row.

    Every number is an array with one entry for each of the rows that are looked at for one of the places; what is not asked
    or not known has a value that no part misses. first: the first of the places, for the words about a single one.
    """

    def __init__(self, needs: Sequence[Need], counts: Sequence[int]) -> None:
        self.first = first = needs[0]
        self.classes, self.safety = first.role.safety, first.safety
        self.policy, self.mains = first.policy, first.mains
        self.needs = needs
        self._table = np.array([need.numbers for need in needs], dtype=float)
        self._counts = counts
        self.place = np.repeat(np.arange(len(needs)), counts)
        self._multipliers = np.array([ageing.ripple_table(need.ripple_frequency) for need in needs]).ravel()

    def __getattr__(self, name: str) -> np.ndarray:
        if name not in NUMBER:
            raise AttributeError(name)
        column = self._table[:, NUMBER[name]]
        if NUMBER[name] >= FLAGS_FROM:
            column = column > 0
        found = column[0] if len(column) == 1 else np.repeat(column, self._counts)
        setattr(self, name, found)
        return found

    def multiplier(self, band: np.ndarray) -> np.ndarray:
        """Share of its ripple rating that each row carries at its place's frequency, by its band."""
        return self._multipliers.take(self.place * (ageing.GENERAL_BAND + 1) + band, mode="clip")

    @cached_property
    def _kinds(self) -> tuple[list[tuple[str, str, str]], dict[tuple[str, str, str], Need]]:
        """Role, kind and mounting of each place, and a place of each; asked for by several rules."""
        kinds = [(need.role.name, need.kind, need.mounting) for need in self.needs]
        return kinds, dict(zip(kinds, self.needs, strict=True))

    def by_place(self, grades: Callable[[Need], np.ndarray], codes: np.ndarray) -> np.ndarray:
        """A grade for each row from a table that each place has of its own, by the row's code."""
        kinds, different = self._kinds
        tables = np.array([grades(need) for need in different.values()])
        if len(tables) == 1:
            return tables[0].take(codes, mode="clip")
        number = {key: i * tables.shape[1] for i, key in enumerate(different)}
        start = np.repeat(np.array([number[key] for key in kinds]), self._counts)
        return tables.ravel().take(start + codes, mode="clip")

    def any(self, name: str) -> bool:
        """Whether a number is asked of any of the places: above zero, and not without end."""
        column = self._table[:, NUMBER[name]]
        return bool(((column > 0) & np.isfinite(column)).any())
