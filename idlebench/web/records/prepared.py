"""A query that is asked at every act, its SQL written once: to write it anew takes longer than SQLite takes to answer."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import connections
from django.db.models import QuerySet

#: Stands for the key in the query that is written down; no row has it.
ANY = -987_654_321


class Prepared:
    """Rows of plain values for one key.

    Args:
        of: the query for a key, as ``values_list`` of columns; nothing else of it may depend on the key.
    """

    def __init__(self, of: Callable[[int], QuerySet]) -> None:
        self._of = of
        self._sql = ""
        self._params: tuple[Any, ...] = ()
        self._compiler: Any = None
        self._converters: dict[int, Any] = {}

    def rows(self, key: int) -> list[tuple[Any, ...]]:
        """The rows for a key, as the query itself would give them; none for a key that no table can hold."""
        if isinstance(key, int) and abs(key) >= 1 << 63:
            return []
        asked = self._of(ANY) if self._compiler is None else None
        if asked is not None:
            compiler = asked.query.get_compiler(asked.db)
            sql, params = compiler.as_sql()
            self._converters = compiler.get_converters([column for column, *_ in compiler.select])
            self._sql, self._params, self._compiler = sql, tuple(params), compiler
        model = self._compiler.query.model
        connection = connections[model._base_manager.db]
        with connection.cursor() as cursor:
            cursor.execute(self._sql, tuple(key if param == ANY else param for param in self._params))
            rows = cursor.fetchall()
        if not self._converters:
            return rows
        return [tuple(row) for row in _converted(rows, self._converters, connection)]


def _converted(rows: list[tuple[Any, ...]], converters: dict[int, Any], connection: Any) -> list[list[Any]]:
    """Values as Python has them: booleans, times, JSON."""
    lists = [list(row) for row in rows]
    for place, (convs, expression) in converters.items():
        for row in lists:
            value = row[place]
            for conv in convs:
                value = conv(value, expression, connection)
            row[place] = value
    return lists
