"""An open studio's database: one writer, transactions, the journal, and who is told of a change."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import IO

from jigwright.core.errors import StoreError
from jigwright.services.moments import utc_now
from jigwright.services.records import Changed, What
from jigwright.store.journal import Step, changed_by, read_step, without_take, write
from jigwright.store.trouble import store_errors

Watcher = Callable[[Changed], None]


class StudioDatabase:
    """Connection and lock of a studio folder.

    Parameters
    ----------
    folder : Path
    connection : sqlite3.Connection
    lock : file or None
        Held while this is the writer.
    clock : callable
        Wall time in UTC, for the journal.
    """

    def __init__(
        self,
        folder: Path,
        connection: sqlite3.Connection,
        lock: IO[str] | None,
        clock: Callable[[], str] = utc_now,
    ) -> None:
        self.folder = folder
        self._db = connection
        self._lock = lock
        self._clock = clock
        self._watchers: list[Watcher] = []

    @property
    def read_only(self) -> bool:
        """Whether another window is the writer."""
        return self._lock is None

    def close(self) -> None:
        """Close the database and give up the lock."""
        self._watchers.clear()
        self._db.close()
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    @property
    def stamp(self) -> tuple[int, int]:
        """Another value after every change, also by another window."""
        version = self._db.execute("PRAGMA data_version").fetchone()[0]
        return self._db.total_changes, int(version)

    def watch(self, watcher: Watcher) -> Callable[[], None]:
        """Tell somebody what became different, after every change; returns how to stop it."""
        self._watchers.append(watcher)

        def stop() -> None:
            if watcher in self._watchers:
                self._watchers.remove(watcher)

        return stop

    # the journal --------------------------------------------------------------------------

    def undo(self) -> Changed | None:
        """Take the last operation back; ``None`` when there is none."""
        return self._replay("undone = 0 ORDER BY n DESC", "inverse", undone=1)

    def redo(self) -> Changed | None:
        """Do the last undone operation again."""
        return self._replay("undone = 1 ORDER BY n", "operation", undone=0)

    def _replay(self, where: str, column: str, *, undone: int) -> Changed | None:
        row = self._db.execute(
            f"SELECT n, {column}, operation, inverse FROM journal WHERE {where} LIMIT 1"
        ).fetchone()
        if row is None:
            return None
        name, parts = read_step(row[1])
        both = [read_step(text)[1] for text in row[2:]]
        changed = replace(changed_by(name, *both), by="undo" if undone else "redo")
        with self._transaction():
            for part in parts:
                write(self._db, part)
            self._db.execute("UPDATE journal SET undone = ? WHERE n = ?", (undone, row[0]))
        self._tell(changed)
        return changed

    def settle(self) -> None:
        """What was done so far can no longer be taken back."""
        with self._transaction():
            self._db.execute("DELETE FROM journal")

    def _settle_rows(self, *rows: tuple[str, str]) -> None:
        """Adding these rows can no longer be taken back: something was built on them."""
        steps = self._db.execute(
            'SELECT n, operation FROM journal WHERE operation LIKE \'{"name": "player"%\' '
            'OR operation LIKE \'{"name": "instrument"%\' OR operation LIKE \'{"name": "jig"%\''
        ).fetchall()  # not the thousands of others
        for n, operation in steps:
            parts = read_step(operation)[1]
            if any((table, str(key.get("id"))) in rows for table, key, _ in parts):
                self._db.execute("DELETE FROM journal WHERE n = ?", (n,))

    def _forget_take(self, take_id: str) -> None:
        """Nothing about a take that is gone for good can be taken back."""
        rows = self._db.execute(
            "SELECT n, operation, inverse FROM journal WHERE operation LIKE ? OR inverse LIKE ?",
            (f"%{take_id}%", f"%{take_id}%"),
        ).fetchall()
        for n, operation, inverse in rows:
            left = (without_take(operation, take_id), without_take(inverse, take_id))
            if None in left:
                self._db.execute("DELETE FROM journal WHERE n = ?", (n,))
            else:
                self._db.execute(
                    "UPDATE journal SET operation = ?, inverse = ? WHERE n = ?", (*left, n)
                )

    # changing -----------------------------------------------------------------------------

    @contextmanager
    def _step(self, name: str, group: str = "") -> Iterator[Step]:
        """An operation with its inverse: all of it and its line in the journal, or nothing."""
        with self._transaction():
            step = Step(self._db, name)
            yield step
            if not step.empty:
                step.keep(self._clock(), group)
        if not step.empty:
            self._tell(step.changed)

    @contextmanager
    def _change(self, *what: What, takes: tuple[str, ...] = ()) -> Iterator[None]:
        """A change that is not taken back: what was heard, what can be made again, preferences."""
        with self._transaction():
            yield
        if what:
            self._tell(Changed(what=frozenset(what), take_ids=frozenset(takes)))

    def _tell(self, changed: Changed) -> None:
        for watcher in tuple(self._watchers):
            watcher(changed)

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        self._check_writable()
        with store_errors():
            try:
                self._db.execute("BEGIN IMMEDIATE")
                yield
                self._db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:
                    self._db.execute("ROLLBACK")
                raise

    def _check_writable(self) -> None:
        if self._lock is None:
            raise StoreError("locked", str(self.folder))

    def _inside(self, relative: str) -> Path:
        """A path of the studio; none that leaves it.

        Raises
        ------
        StoreError
            ``damaged``.
        """
        return inside(self.folder, relative)


def inside(folder: Path, relative: str) -> Path:
    """A path below a folder.

    Raises
    ------
    StoreError
        ``damaged`` when it leads out of it, or is none.
    """
    try:
        path = (folder / relative).resolve()
        if path.is_relative_to(folder.resolve()):
            return path
    except (ValueError, OSError):
        pass
    raise StoreError("damaged", f"a path leaves the studio: {relative!r:.80}")
