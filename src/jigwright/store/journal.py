"""Changes with their inverse: which rows an operation touched, before and after.

A step is a list of rows, each as (table, key, what it was, what it became); ``None`` where there
was none. Undoing writes what was, the last row first. Only the columns that differ are kept, so a
step takes back what it did and nothing else. Steps of the first build named one take and its
columns; they are read as the same thing.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any

from jigwright.core.errors import StoreError
from jigwright.services.records import Changed, What

Row = dict[str, Any]
Part = tuple[str, Row, Row | None]
"""Table, key columns, and what stands there: all columns, those that differ, or nothing."""

KEYS: dict[str, tuple[str, ...]] = {
    "take": ("id",),
    "player": ("id",),
    "instrument": ("id",),
    "jig": ("id", "revision"),
    "correction": ("take_id", "at_s"),
    "choice": ("take_id",),
    "remark": ("id",),
    "work": ("id",),
    "ladder": ("id",),
    "day_note": ("player_id", "day"),
    "string_check": ("instrument_id", "day", "string"),
    "contact": ("instrument_id", "string"),
}
"""Tables a player's changes go to, and what identifies a row of each."""

KINDS: dict[str, What] = {
    "take": "takes", "player": "players", "instrument": "instruments", "jig": "jigs",
    "correction": "corrections", "choice": "choices", "remark": "remarks", "work": "works",
    "ladder": "ladders", "day_note": "days", "string_check": "strings", "contact": "strings",
}  # fmt: skip


class Step:
    """An operation while it is made; every row it writes is noted with what it was before.

    Parameters
    ----------
    connection : sqlite3.Connection
        Inside a transaction.
    name : str
    """

    def __init__(self, connection: sqlite3.Connection, name: str) -> None:
        self._db = connection
        self.name = name
        self._before: list[Part] = []
        self._after: list[Part] = []

    def put(self, table: str, values: Mapping[str, Any]) -> None:
        """Write a row, new or changed; columns that are not named stay as they are."""
        key = {column: values[column] for column in KEYS[table]}
        was = _row(self._db, table, key)
        if was is None:
            self._note(table, key, None, dict(values))
        else:
            differ = [c for c, v in values.items() if was[c] != v]
            if not differ:
                return
            self._note(table, key, {c: was[c] for c in differ}, {c: values[c] for c in differ})
        write(self._db, (table, key, self._after[-1][2]))

    def remove(self, table: str, key: Mapping[str, Any]) -> None:
        """Take a row away, if it is there."""
        was = _row(self._db, table, key)
        if was is None:
            return
        self._note(table, dict(key), was, None)
        write(self._db, (table, dict(key), None))

    def _note(self, table: str, key: Row, was: Row | None, now: Row | None) -> None:
        self._before.append((table, key, was))
        self._after.append((table, key, now))

    @property
    def empty(self) -> bool:
        """Whether nothing became different."""
        return not self._after

    @property
    def changed(self) -> Changed:
        """What became different."""
        return changed_by(self.name, self._after, self._before)

    def keep(self, utc: str, group: str = "") -> None:
        """Write the step to the journal; what was undone before can no longer be done again.

        Parameters
        ----------
        utc : str
        group : str
            What goes on (a string check while its strings are played): a step of the group of the
            last one joins it, so that all of it is taken back at once.
        """
        self._db.execute("DELETE FROM journal WHERE undone = 1")
        last = self._db.execute(
            "SELECT n, operation, inverse FROM journal ORDER BY n DESC LIMIT 1"
        ).fetchone()
        if group and last is not None and json.loads(last[1]).get("group") == group:
            before, after = read_step(last[2])[1][::-1], read_step(last[1])[1]
            before, after = _joined(before, after, self._before, self._after)
            self._db.execute("DELETE FROM journal WHERE n = ?", (last[0],))
        else:
            before, after = self._before, self._after
        self._db.execute(
            "INSERT INTO journal (utc, operation, inverse) VALUES (?, ?, ?)",
            (utc, _text(self.name, after, group), _text(self.name, before[::-1], group)),
        )


def read_step(text: str) -> tuple[str, list[Part]]:
    """Name and rows of a step that was kept, in the order they are to be written.

    Raises
    ------
    StoreError
        ``damaged`` when it cannot be read.
    """
    try:
        step = json.loads(text)
        if "take" in step:  # as the first build wrote it
            parts: list[Part] = [("take", {"id": str(step["take"])}, dict(step["values"]))]
        else:
            parts = [(str(t), dict(k), None if v is None else dict(v)) for t, k, v in step["rows"]]
        if any(set(key) != set(KEYS[table]) for table, key, _ in parts):
            raise KeyError("key")
        return str(step["name"]), parts
    except (ValueError, TypeError, KeyError) as error:
        raise StoreError("damaged", f"a step of the journal: {error}") from error


def write(connection: sqlite3.Connection, part: Part) -> None:
    """Make a row what it is said to be."""
    table, key, values = part
    where = " AND ".join(f"{c} = ?" for c in key)
    if values is None:
        connection.execute(f"DELETE FROM {table} WHERE {where}", tuple(key.values()))
    elif _row(connection, table, key) is None:
        whole = {**key, **values}
        connection.execute(
            f"INSERT INTO {table} ({_names(connection, table, whole)}) "
            f"VALUES ({', '.join('?' * len(whole))})",
            tuple(whole.values()),
        )
    elif values:
        _names(connection, table, values)
        sets = ", ".join(f"{c} = ?" for c in values)
        connection.execute(
            f"UPDATE {table} SET {sets} WHERE {where}", (*values.values(), *key.values())
        )


def changed_by(name: str, *parts: Iterable[Part]) -> Changed:
    """What writing some rows makes different."""
    rows = [part for some in parts for part in some]
    return Changed(
        what=frozenset(KINDS[table] for table, _, _ in rows),
        take_ids=frozenset(
            str(found)
            for table, key, values in rows
            for found in ((key if table == "take" else {**(values or {}), **key}).get(
                "id" if table == "take" else "take_id"),)
            if found is not None
        ),
        name=name,
    )  # fmt: skip


def without_take(text: str, take_id: str) -> str | None:
    """A step without its rows of a take that is gone; ``None`` when nothing is left of it."""
    name, parts = read_step(text)
    left = [p for p in parts if take_id not in changed_by(name, [p]).take_ids]
    return _text(name, left) if left else None


def _row(connection: sqlite3.Connection, table: str, key: Mapping[str, Any]) -> Row | None:
    where = " AND ".join(f"{c} = ?" for c in key)
    cursor = connection.execute(f"SELECT * FROM {table} WHERE {where}", tuple(key.values()))
    found = cursor.fetchone()
    if found is None:
        return None
    return dict(zip((d[0] for d in cursor.description), found, strict=True))


def _names(connection: sqlite3.Connection, table: str, values: Mapping[str, Any]) -> str:
    """Column names, none but the table's own: a journal from elsewhere writes no SQL."""
    there = {str(r[1]) for r in connection.execute(f"PRAGMA table_info({table})")}
    if not set(values) <= there:
        raise StoreError("damaged", f"no such columns in {table}: {sorted(set(values) - there)}")
    return ", ".join(values)


def _text(name: str, parts: Iterable[Part], group: str = "") -> str:
    return json.dumps({"name": name, "rows": list(parts), **({"group": group} if group else {})})


def _joined(
    before: list[Part], after: list[Part], later_before: list[Part], later_after: list[Part]
) -> tuple[list[Part], list[Part]]:
    """Two steps as one: what each row was before the first, and is after the second."""
    was = {_place(p): p for p in before}
    now = {_place(p): p for p in after}
    for earlier, later in zip(later_before, later_after, strict=True):
        place = _place(later)
        if place not in was:
            was[place], now[place] = earlier, later
            continue
        table, key, first = was[place]
        then = now[place][2]
        if first is not None and earlier[2] is not None:
            first = {**earlier[2], **first}
        whole = None if later[2] is None else {**(then or {}), **later[2]}
        was[place], now[place] = (table, key, first), (table, key, whole)
    gone = {p for p in was if was[p][2] is None and now[p][2] is None}
    return [was[p] for p in was if p not in gone], [now[p] for p in now if p not in gone]


def _place(part: Part) -> str:
    return json.dumps([part[0], part[1]], sort_keys=True)
