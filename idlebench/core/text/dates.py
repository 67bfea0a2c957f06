"""Date codes on parts: YYWW, YWW and letter-month forms, held against the machine's own year."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..refusal import BadInput, no_longer_than

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

    Returns:
        Every date it could be, likeliest first.

    Raises:
        BadInput: no date can be read.

    >>> [d.text for d in read_date('423')]
    ['week 23 of 1984', 'week 23 of 1974', 'week 23 of 1994']
    >>> read_date('423', 1995)[0].text
    'week 23 of 1994'
    """
    raw = str(text).strip().upper()
    dates = [d for d in _candidates(raw) if 1925 <= d.year <= 2060]
    if not dates and (hit := re.fullmatch(r"(\d{1,2})[-/ ]?(\d\d)", raw)):
        year = _centuries(int(hit[1]))[0] if len(hit[1]) == 2 else _decades(int(hit[1]))[0]
        known = f"{year} had {weeks_of(year)}" if int(hit[2]) == 53 else "no year has more than 53"
        raise BadInput(str(text), f"a week after the year: there is no week {int(hit[2])}, {known}", field="date")
    if not dates:
        raise BadInput(
            str(text), "a date code such as 8423, 423, 4K or 1984", "Leave it empty if in doubt.", field="date"
        )
    if machine_year is None:
        return tuple(dates)
    return tuple(sorted(dates, key=lambda d: _strangeness(d.year, machine_year)))


#: A part is made up to this many years before its machine; one older was lying about, or is not a date.
OLDEST = 6


@dataclass(frozen=True)
class JudgedDate:
    """A date code held against the machine's year: the likeliest date, what else it could be, and what to think of it.

    Attributes:
        date: the likeliest. text: it in words, with the others where there are any. doubt: why it is strange, "" if it is not.
        younger: years it is younger than the machine, 0 if it is not: a part that an earlier owner put in.
    """

    date: DateCode
    text: str
    doubt: str = ""
    younger: int = 0


def hold(text: str, machine_year: int | None = None) -> JudgedDate:
    """Hold a date code against the machine's own year.

    Args:
        text: as it was typed.
        machine_year: the year its machine was made in, None where unknown.

    Returns:
        The date, and whether it is before, of or after the machine.

    Raises:
        BadInput: no date can be read.

    >>> hold('8423', 1984).text, hold('9112', 1984).doubt
    ('week 23 of 1984', '7 years younger than the machine: changed by an earlier owner?')
    """
    dates = read_date(text, machine_year)
    best = dates[0]
    others = [d.text for d in dates[1:3]]
    said = best.text + (f", or {' or '.join(others)}" if others and machine_year is None else "")
    if machine_year is None:
        return JudgedDate(best, said, "type the machine's year to decide between them" if others else "")
    age = best.year - machine_year
    if age > 1:
        return JudgedDate(best, said, f"{age} years younger than the machine: changed by an earlier owner?", age)
    if age < -OLDEST:
        return JudgedDate(best, said, f"{-age} years older than the machine: is it a date?")
    return JudgedDate(best, said)


def year_of(text: str, machine_year: int | None = None) -> int | None:
    """The year a part was made in, by its date code, or its machine's where the code cannot be read."""
    try:
        return read_date(text, machine_year)[0].year if text.strip() else machine_year
    except BadInput:
        return machine_year


@dataclass(frozen=True)
class Dated:
    """A date code written down at Intake: the line as typed, and what it was read as, or why it was not."""

    line: str
    held: JudgedDate | None
    wrong: str = ""


def dated(lines: str, machine_year: int | None = None) -> tuple[Dated, ...]:
    """Date codes with where they stand, one a line: ``8423 on U5``.

    >>> [(d.held.text, d.line) for d in dated('8423 on U5', 1984)]
    [('week 23 of 1984', '8423 on U5')]
    """
    found = []
    for line in filter(None, map(str.strip, no_longer_than(lines, 8000, "dates").splitlines())):
        try:
            found.append(Dated(line, hold(line.split()[0], machine_year)))
        except BadInput as error:
            found.append(Dated(line, None, str(error)))
    return tuple(found)


def _strangeness(year: int, machine_year: int) -> int:
    return machine_year - year if year <= machine_year else 4 * (year - machine_year)


def _candidates(raw: str) -> list[DateCode]:
    if hit := re.fullmatch(r"(19\d\d|20[0-5]\d)(?:[-/.](\d{1,2}))?", raw):
        month = int(hit[2]) if hit[2] else None
        return [DateCode(int(hit[1]), month=month)] if month is None or 1 <= month <= 12 else []
    if hit := re.fullmatch(r"(\d\d)[-/ ]?(\d\d)", raw):
        years = [year for year in _centuries(int(hit[1])) if 1 <= int(hit[2]) <= weeks_of(year)]
        return [DateCode(year, week=int(hit[2])) for year in years]
    if hit := re.fullmatch(r"(\d)(\d\d)", raw):
        week = int(hit[2])
        return [DateCode(y, week=week) for y in _decades(int(hit[1])) if 1 <= week <= weeks_of(y)]
    return _letter_month(raw)


def _letter_month(raw: str) -> list[DateCode]:
    hit = re.fullmatch(r"(\d{1,2})([A-Z])|([A-Z])(\d{1,2})", raw)
    if not hit:
        return []
    year, letter = hit[1] or hit[4], hit[2] or hit[3]
    months = [m for m in (MONTH_LETTER.get(letter), MONTH_FIGURE.get(letter)) if m]
    years = _centuries(int(year)) if len(year) == 2 else _decades(int(year))
    return [DateCode(y, month=m) for y in years for m in dict.fromkeys(months)]


def weeks_of(year: int) -> int:
    """How many weeks a year has, by ISO 8601:2004, 2.2.10: 53 where it begins on a Thursday, or on a Wednesday and is a leap year.

    >>> weeks_of(1978), weeks_of(1981)
    (52, 53)
    """

    def last_day(y: int) -> int:
        return (y + y // 4 - y // 100 + y // 400) % 7

    return 53 if last_day(year) == 4 or last_day(year - 1) == 3 else 52


def _centuries(two: int) -> list[int]:
    """The years a two-figure year may be, the likelier first where nothing else is known."""
    return [1900 + two, 2000 + two] if two >= 27 else [2000 + two, 1900 + two]


def _decades(figure: int) -> list[int]:
    return [1980 + figure, 1970 + figure, 1990 + figure]
