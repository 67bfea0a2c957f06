"""What a unit is kept by: a stamp of its boards and parts, and one of its record, made anew by the database at every write.

Triggers make the stamps, not services: rows are also written by undo, by what is brought back, by reading a bundle, by the command
line and by a migration, and none of these can forget it. A stamp is drawn by lot, so that none comes back: not after a restore,
and not after a change that was taken back.
"""

from __future__ import annotations

from django.db import connections, models


class Revision(models.Model):
    """The stamps of a unit: no foreign key, for a stamp may outlive its unit."""

    unit = models.BigIntegerField(primary_key=True)
    parts = models.BigIntegerField(default=0)
    record = models.BigIntegerField(default=0)

    def __str__(self) -> str:
        return f"unit {self.unit} at {self.parts}, {self.record}"


_OF_BOARD = "SELECT {0}.unit_id AS pk"
_ON_BOARD = "SELECT unit_id AS pk FROM jobs_board WHERE id = {0}.board_id"
_OF_PART = "SELECT b.unit_id AS pk FROM survey_part p JOIN jobs_board b ON b.id = p.board_id WHERE p.id = {0}.part_id"
#: Tables that a unit is judged from, which stamp they move, and how a row of them names its unit.
TABLES = {
    "jobs_board": ("parts", _OF_BOARD),
    "survey_part": ("parts", _ON_BOARD),
    "choose_choice": ("parts", _OF_PART),
    "swap_swap": ("parts", _OF_PART),
    "choose_otherchoice": ("parts", _ON_BOARD),
    "choose_fuseblown": ("parts", _ON_BOARD),
    "records_deviceswap": ("parts", _ON_BOARD),
    "records_mend": ("parts", _ON_BOARD),
    "records_modification": ("parts", _ON_BOARD),
    "records_event": ("record", _OF_BOARD),
    "records_importedrecord": ("record", _OF_BOARD),
}
_ROWS = {"INSERT": ("NEW",), "UPDATE": ("OLD", "NEW"), "DELETE": ("OLD",)}


def _triggers() -> dict[str, str]:
    found = {}
    for table, (stamp, unit) in TABLES.items():
        for act, rows in _ROWS.items():
            moves = "".join(
                f" INSERT INTO records_revision (unit, parts, record) SELECT pk, random(), random() FROM ({unit.format(row)}) WHERE true"
                f" ON CONFLICT (unit) DO UPDATE SET {stamp} = random();"
                for row in rows
            )
            found[f"revision_{table}_{act.lower()}"] = f"AFTER {act} ON {table} BEGIN{moves} END"
    return found


def install(using: str = "default") -> None:
    """Make the triggers where they are missing."""
    with connections[using].cursor() as cursor:
        for name, does in _triggers().items():
            cursor.execute(f"CREATE TRIGGER IF NOT EXISTS {name} {does}")


def take_away(using: str = "default") -> None:
    """Before a change of tables: a trigger that reads a table which is being made anew would stop it."""
    with connections[using].cursor() as cursor:
        for name in _triggers():
            cursor.execute(f"DROP TRIGGER IF EXISTS {name}")
