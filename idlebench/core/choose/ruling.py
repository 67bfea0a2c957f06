"""What a rule says of catalogue parts for a place: a grade, and the words for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from .columns import Alike, Columns
from .stand_in import FAILS, LOOK_TWICE


@dataclass(frozen=True, kw_only=True)
class Ruling:
    """What one rule says of every row: its status, the number it looked at, the limit, and words for one row."""

    rule: str
    status: np.ndarray
    say: Callable[[int], str]
    value: np.ndarray | None = None
    limit: float | None = None
    unit: str = ""
    at_least: bool = True

    def number(self, i: int) -> float | None:
        return None if self.value is None or not np.isfinite(self.value[i]) else float(self.value[i])


Rule = Callable[[Alike, Columns], "Ruling | None"]


def graded(fails: np.ndarray, look: np.ndarray | None = None) -> np.ndarray:
    status = np.multiply(fails, FAILS, dtype=np.int8)
    return status if look is None else np.maximum(status, np.multiply(look, LOOK_TWICE, dtype=np.int8))
