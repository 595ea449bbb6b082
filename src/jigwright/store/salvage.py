"""Rows of a damaged database: what the engine can read, and leaves that no tree leads to."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from jigwright.store.opening import migrate
from jigwright.store.pages import PagedFile, Value
from jigwright.store.schema import VERSION

TABLES = (
    "player", "instrument", "jig", "take", "heard", "segment", "setting", "day_note", "summary",
    "remark", "work", "cut", "correction", "choice", "take_drone", "take_click", "string_check",
    "contact", "best_bow", "ear_score", "ladder", "input_delay", "seen_file", "journal",
)  # fmt: skip
_MOST_MISSES = 5000


# rows of the damaged database --------------------------------------------------------------


def pour(database: Path, fresh: sqlite3.Connection) -> set[str]:
    """Move every row over that the engine can read; says of which tables it could not read all."""
    unreadable: set[str] = set()
    try:
        old = sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)
        old.execute("PRAGMA trusted_schema = OFF")
        version = int(old.execute("PRAGMA user_version").fetchone()[0])
    except sqlite3.Error:
        return set(TABLES)
    try:
        for table in TABLES:
            wanted = _columns(fresh, table)
            try:
                there = _columns(old, table)
            except sqlite3.Error:
                there = []
            names = [n for n in wanted if n in there]
            if not names:
                if table in _tables_of(version):
                    unreadable.add(table)
                continue
            for row in _rows(old, table, ", ".join(names)):
                if row is None or not _insert(fresh, table, names, row):
                    unreadable.add(table)
    finally:
        old.close()
    return unreadable


def _tables_of(version: int) -> frozenset[str]:
    """Tables a studio of a version has."""
    model = sqlite3.connect(":memory:", isolation_level=None)
    try:
        migrate(model, Path("nowhere"), 0, upto=version if 0 < version <= VERSION else VERSION)
        return frozenset(t for t in TABLES if _columns(model, t))
    finally:
        model.close()


def _columns(connection: sqlite3.Connection, table: str) -> list[str]:
    return [str(row[1]) for row in connection.execute(f"PRAGMA table_info({table})")]


def _insert(
    fresh: sqlite3.Connection, table: str, names: Sequence[str], row: Sequence[object]
) -> bool:
    try:
        fresh.execute(
            f"INSERT OR IGNORE INTO {table} ({', '.join(names)}) "
            f"VALUES ({', '.join('?' * len(names))})",
            tuple(row),
        )
    except sqlite3.Error:
        return False
    return True


def _rows(old: sqlite3.Connection, table: str, columns: str) -> Iterator[tuple[object, ...] | None]:
    """Rows by their number; ``None`` for a stretch that cannot be read."""
    at = misses = 0
    while misses < _MOST_MISSES:
        try:
            cursor = old.execute(
                f"SELECT rowid, {columns} FROM {table} WHERE rowid > ? ORDER BY rowid", (at,)
            )
            for row in cursor:
                at, misses = int(row[0]), 0
                yield tuple(row[1:])
        except (sqlite3.Error, OverflowError, UnicodeDecodeError):
            if not misses:
                yield None
            at, misses = at + 1, misses + 1
        else:
            return


# leaves whose tree is lost -----------------------------------------------------------------


def pour_leaves(database: Path, fresh: sqlite3.Connection, damaged: set[str]) -> None:
    """Bring rows back from leaves that no tree leads to, for tables that were not read whole."""
    wanted = [t for t in TABLES if t in damaged and t != "journal"]
    if not wanted:
        return
    try:
        file = PagedFile(database)
    except (OSError, IndexError):
        return
    known = set(file.free_pages())
    for root in _roots(database):
        known |= file.leaves_below(root)
    shapes = {t: _shapes(fresh, t) for t in wanted}
    for number in range(1, file.n_pages + 1):
        if number in known:
            continue
        rows = [values for _, values in file.rows(number)]
        fitting = [t for t in wanted if rows and all(_fits(r, shapes[t]) for r in rows)]
        if len(fitting) != 1:
            continue  # it could be of either: nothing is put where it may not belong
        names = list(shapes[fitting[0]])
        for row in rows:
            _insert(fresh, fitting[0], names[: len(row)], row)


def _roots(database: Path) -> list[int]:
    """Where the trees of the tables begin, as far as the schema can be read."""
    try:
        old = sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)
        try:
            rows = old.execute("SELECT rootpage FROM sqlite_master WHERE type = 'table'")
            return [1, *(int(r) for (r,) in rows.fetchall())]
        finally:
            old.close()
    except sqlite3.Error:
        return []


@dataclass(frozen=True, slots=True, kw_only=True)
class _Column:
    kind: str
    needed: bool


def _shapes(fresh: sqlite3.Connection, table: str) -> dict[str, _Column]:
    return {
        str(row[1]): _Column(kind=str(row[2]), needed=bool(row[3]) and row[4] is None)
        for row in fresh.execute(f"PRAGMA table_info({table})")
    }


def _fits(row: Sequence[Value], shape: dict[str, _Column]) -> bool:
    """Whether a row can be one of a table; later columns may be missing (an older version's)."""
    columns = list(shape.values())
    if len(row) > len(columns) or any(c.needed for c in columns[len(row) :]):
        return False
    return all(_can_be(v, c) for v, c in zip(row, columns, strict=False))


def _can_be(value: Value, column: _Column) -> bool:
    if value is None:
        return not column.needed
    kinds: dict[str, tuple[type, ...]] = {
        "TEXT": (str,), "INTEGER": (int,), "REAL": (int, float)
    }  # fmt: skip
    return isinstance(value, kinds.get(column.kind, (object,)))
