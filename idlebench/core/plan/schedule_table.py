"""The table of tasks."""

from __future__ import annotations

from ..refusal import BadInput, no_longer_than
from ..text.csvtable import Column, read_table
from ..text.quantity import read
from .schedule import DAY, MOST_TASKS, Hours, Task, Work

#: The longest task and wait, minutes.
MOST_HANDS, MOST_WAIT = 60 * 24 * 30, 60 * 24 * 365


def _name(text: str) -> str:
    return no_longer_than(text, 80)


def _minutes(most: int):
    def take(text: str) -> int:
        value = read(text, "", low=0, high=most)
        if value != int(value):
            raise BadInput(text, "whole minutes")
        return int(value)

    return take


def _names(text: str) -> tuple[str, ...]:
    found = [name for one in no_longer_than(text, 4000).split("|") if (name := one.strip())]
    return tuple(dict.fromkeys(found))


COLUMNS = (
    Column(name="task", take=_name, required=True, about="its name"),
    Column(name="unit", take=_name, default="", about="the unit it is for"),
    Column(name="hands", take=_minutes(MOST_HANDS), default=0, unit="min", about="minutes of bench time"),
    Column(name="wait", take=_minutes(MOST_WAIT), default=0, unit="min", about="minutes after it without bench time"),
    Column(name="after", take=_names, default=(), about="tasks whose waits must be over before: A1|B2"),
    Column(
        name="occupies",
        take=_names,
        default=(),
        about="what one task uses at a time: washer, or washer+wait until its wait is over",
    ),
)


def read_work(data: bytes | str, hands: int = 1, hours_a_day: float = 0.0) -> Work:
    """What is to be planned, from its table.

    Args:
        data: the file's bytes.
        hands: people at work.
        hours_a_day: from the beginning of each day on; 0: always.

    Returns:
        The tasks, hands and hours.

    Raises:
        BadInput: a row cannot be read, tasks wait for each other, or there are no hours to work in.
    """
    table = read_table(data, COLUMNS, unique="task")
    if table.problems:
        more = f" And {len(table.problems) - 1} more." if len(table.problems) > 1 else ""
        raise BadInput(
            str(table.problems[0])[:60],
            "a table in which every row can be read",
            f"{table.problems[0]}{more}",
            field="tasks",
        )
    if len(table.rows) > MOST_TASKS:
        raise BadInput(f"{len(table.rows)} tasks", f"at most {MOST_TASKS}", "Leave out what is far off.", field="tasks")
    minutes = round(hours_a_day * 60)
    if hours_a_day and not 1 <= minutes <= DAY:
        raise BadInput(f"{hours_a_day:g}", "0 for always, or up to 24 hours a day", field="hours a day")
    tasks = []
    for row in table.rows:
        held = tuple(one.removesuffix("+wait") for one in row["occupies"] if one.endswith("+wait"))
        used = tuple(one for one in row["occupies"] if not one.endswith("+wait") and one not in held)
        tasks.append(
            Task(
                name=row["task"],
                unit=row["unit"],
                hands=row["hands"],
                wait=row["wait"],
                after=row["after"],
                occupies=used,
                holds=held,
            )
        )
    return Work(tuple(tasks), hands, Hours(minutes))
