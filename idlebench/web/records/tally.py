"""How each make series has done, counted by the database itself as parts come, change and go.

Triggers count, not services: a part is also written by undo, by bringing back what was removed and by reading a bundle, and goes
with its board. None of these can forget to count.
"""

from __future__ import annotations

from django.db import connection, connections, models

from idlebench.core.judge.evidence import SeriesCount


class SeriesTally(models.Model):
    """Parts of a series that were seen on all units, and how many of them their own looks and readings condemn."""

    series = models.CharField(max_length=60, primary_key=True)
    seen = models.IntegerField(default=0)
    failed = models.IntegerField(default=0)

    class Meta:
        ordering = ["series"]
        verbose_name_plural = "series tallies"

    def __str__(self) -> str:
        return f"{self.series}: {self.failed} of {self.seen}"

    def to_core(self) -> SeriesCount:
        """The counts as the core knows them."""
        return SeriesCount(self.failed, self.seen)


class Judged(models.Model):
    """By which rules and in which year the parts were last judged alone. One row."""

    rules = models.CharField(max_length=64)
    year = models.PositiveIntegerField()

    class Meta:
        verbose_name_plural = "judged"

    def __str__(self) -> str:
        return f"judged in {self.year}"


_COUNT_IN = """
    INSERT INTO records_seriestally (series, seen, failed) SELECT NEW.series, 1, NEW.condemned WHERE NEW.series <> ''
    ON CONFLICT (series) DO UPDATE SET seen = seen + 1, failed = failed + excluded.failed;"""
_COUNT_OUT = """
    UPDATE records_seriestally SET seen = seen - 1, failed = failed - OLD.condemned WHERE series = OLD.series;"""
_TRIGGERS = {
    "tally_part_comes": f"AFTER INSERT ON survey_part BEGIN {_COUNT_IN} END",
    "tally_part_goes": f"AFTER DELETE ON survey_part BEGIN {_COUNT_OUT} END",
    "tally_part_changes": "AFTER UPDATE OF series, condemned ON survey_part "
    f"WHEN OLD.series <> NEW.series OR OLD.condemned <> NEW.condemned BEGIN {_COUNT_OUT} {_COUNT_IN} END",
}


def install(using: str = "default") -> None:
    """Make the triggers where they are missing: a change of the parts' table takes them away with the old table."""
    with connections[using].cursor() as cursor:
        for name, does in _TRIGGERS.items():
            cursor.execute(f"CREATE TRIGGER IF NOT EXISTS {name} {does}")


def recount() -> None:
    """Count every series from the parts themselves. Inside a transaction of the caller's."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM records_seriestally")
        cursor.execute(
            "INSERT INTO records_seriestally (series, seen, failed) "
            "SELECT series, COUNT(*), SUM(condemned) FROM survey_part WHERE series <> '' GROUP BY series"
        )
