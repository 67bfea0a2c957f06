"""Date codes on parts: YYWW, YWW and letter-month forms, held against the machine's own year."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .refusal import BadInput

#: Months by letter, I left out because it looks like 1.
MONTH_LETTER = {letter: i for i, letter in enumerate("ABCDEFGHJKLM", 1)}
#: Months by figure, with O, N and D for October to December.
MONTH_FIGURE = {**{str(i): i for i in range(1, 10)}, "O": 10, "N": 11, "D": 12}


@dataclass(frozen=True)
class DateCode:
    """A date on a part: its year, and the week or the month of it."""

    year: int
    week: int | None = None
    month: int | None = None

    @property
    def text(self) -> str:
        if self.week:
            return f"week {self.week} of {self.year}"
        return f"{MONTHS[self.month - 1]} {self.year}" if self.month else str(self.year)


MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


def read_date(text: str, machine_year: int | None = None) -> tuple[DateCode, ...]:
    """Read a date code; every date it could be, the likeliest first.

    Args:
        text: ``8423`` (year and week), ``423`` (one-figure year), ``4K``, ``K84``, ``1984``, ``1984-06``.
        machine_year: when the machine was made; a part is rarely younger, and seldom more than three years older.

    Raises:
        BadInput: no date can be read.

    >>> [d.text for d in read_date('423')]
    ['week 23 of 1984', 'week 23 of 1974', 'week 23 of 1994']
    >>> read_date('423', 1995)[0].text
    'week 23 of 1994'
    """
    raw = str(text).strip().upper()
    dates = [d for d in _candidates(raw) if 1925 <= d.year <= 2060]
    if not dates:
        raise BadInput(str(text), "a date code such as 8423, 423, 4K or 1984", "Leave it empty if in doubt.", "date")
    if machine_year is None:
        return tuple(dates)
    return tuple(sorted(dates, key=lambda d: _strangeness(d.year, machine_year)))


def _strangeness(year: int, machine_year: int) -> int:
    return machine_year - year if year <= machine_year else 4 * (year - machine_year)


def _candidates(raw: str) -> list[DateCode]:
    if hit := re.fullmatch(r"(19\d\d|20[0-5]\d)(?:[-/.](\d{1,2}))?", raw):
        month = int(hit[2]) if hit[2] else None
        return [DateCode(int(hit[1]), month=month)] if month is None or 1 <= month <= 12 else []
    if hit := re.fullmatch(r"(\d\d)[-/ ]?(\d\d)", raw):
        return [DateCode(_century(int(hit[1])), week=int(hit[2]))] if 1 <= int(hit[2]) <= 53 else []
    if hit := re.fullmatch(r"(\d)(\d\d)", raw):
        week = int(hit[2])
        return [DateCode(y, week=week) for y in _decades(int(hit[1]))] if 1 <= week <= 53 else []
    return _letter_month(raw)


def _letter_month(raw: str) -> list[DateCode]:
    hit = re.fullmatch(r"(\d{1,2})([A-Z])|([A-Z])(\d{1,2})", raw)
    if not hit:
        return []
    year, letter = hit[1] or hit[4], hit[2] or hit[3]
    months = [m for m in (MONTH_LETTER.get(letter), MONTH_FIGURE.get(letter)) if m]
    years = [_century(int(year))] if len(year) == 2 else _decades(int(year))
    return [DateCode(y, month=m) for y in years for m in dict.fromkeys(months)]


def _century(two: int) -> int:
    return 1900 + two if two >= 27 else 2000 + two


def _decades(figure: int) -> list[int]:
    return [1980 + figure, 1970 + figure, 1990 + figure]
