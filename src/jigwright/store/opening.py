"""Opening a studio folder: lock, checks, migration; a damaged database is copied aside."""

from __future__ import annotations

import fcntl
import shutil
import sqlite3
from pathlib import Path
from typing import IO

from jigwright.core.errors import StoreError
from jigwright.store.files import digest_of
from jigwright.store.moving import move_settings, write_missing_notes
from jigwright.store.schema import APPLICATION_ID, MIGRATIONS, TYPED_FACTS, VERSION
from jigwright.store.studio import DATABASE, Studio
from jigwright.store.trouble import reason_of, store_errors


def open_studio(folder: Path, *, create: bool = True) -> Studio:
    """Open a studio folder, making one where there is none.

    Raises
    ------
    StoreError
        ``missing``, ``not_a_studio``, ``read_only``, ``damaged``, ``newer``, ``io``.
    """
    database = folder / DATABASE
    fresh = not database.exists()
    if fresh:
        _prepare_new(folder, create)
    lock = take_lock(folder)
    try:
        connection = _connect(database, writer=lock is not None)
    except StoreError:
        if lock is not None:
            lock.close()
        raise
    return Studio(folder, connection, lock)


def _prepare_new(folder: Path, create: bool) -> None:
    if not create:
        raise StoreError("missing", str(folder))
    if folder.exists() and not folder.is_dir():
        raise StoreError("not_a_studio", str(folder))
    if folder.is_dir() and any(p.name != "studio.lock" for p in folder.iterdir()):
        raise StoreError("not_a_studio", str(folder))
    with store_errors():
        folder.mkdir(parents=True, exist_ok=True)


def take_lock(folder: Path) -> IO[str] | None:
    """Become the studio's one writer; ``None`` when somebody else is."""
    with store_errors():
        file = (folder / "studio.lock").open("a")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.close()
        return None
    return file


def _connect(database: Path, *, writer: bool) -> sqlite3.Connection:
    connection: sqlite3.Connection | None = None
    try:
        connection = sqlite3.connect(database, isolation_level=None, timeout=2.0)
        connection.execute("PRAGMA trusted_schema = OFF")
        connection.execute("PRAGMA foreign_keys = ON")
        if writer:
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = FULL")
        else:
            connection.execute("PRAGMA query_only = ON")
        version = int(connection.execute("PRAGMA user_version").fetchone()[0])
        owner = int(connection.execute("PRAGMA application_id").fetchone()[0])
        if version == 0 and connection.execute("SELECT 1 FROM sqlite_master").fetchone():
            raise StoreError("not_a_studio", str(database))
        if version and owner != APPLICATION_ID:
            raise StoreError("not_a_studio", str(database))
        if version > VERSION:
            raise StoreError("newer", f"version {version}, this program knows {VERSION}")
        problem = connection.execute("PRAGMA quick_check").fetchone()[0]
        if problem != "ok":
            raise sqlite3.DatabaseError(problem)
        if version < VERSION and writer:
            migrate(connection, database, version)
    except sqlite3.DatabaseError as error:
        if connection is not None:
            connection.close()
        if isinstance(error, sqlite3.OperationalError) and not _is_damage(error):
            raise StoreError(reason_of(error), str(error)) from error
        aside = copy_aside(database)
        raise StoreError("damaged", f"{error}; copy: {aside.name}") from error
    except StoreError:
        if connection is not None:
            connection.close()
        raise
    return connection


def migrate(
    connection: sqlite3.Connection, database: Path, version: int, *, upto: int = VERSION
) -> None:
    """Bring a database to the present version, a copy of the old one beside it."""
    if version:
        copy = sqlite3.connect(database.with_name(f"studio-before-v{VERSION}.db"))
        with copy:
            connection.backup(copy)
        copy.close()
    for step in range(version, upto):
        connection.executescript(f"BEGIN IMMEDIATE; {MIGRATIONS[step]}")
        try:
            if version and step + 1 == TYPED_FACTS:
                move_settings(connection)
                write_missing_notes(database.parent, connection)
            connection.execute(f"PRAGMA user_version = {step + 1}")
            connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            connection.execute("COMMIT")
        except BaseException:
            connection.execute("ROLLBACK")
            raise


def copy_aside(database: Path) -> Path:
    """Copy a damaged database beside itself, once; the database itself when that fails."""
    try:
        digest = digest_of(database)
        for n in range(1, 1000):
            aside = database.with_name(f"studio-damaged-{n}.db")
            if not aside.exists():
                break
            if digest_of(aside) == digest:
                return aside
        shutil.copy2(database, aside)
    except OSError:
        return database
    return aside


def _is_damage(error: sqlite3.OperationalError) -> bool:
    return any(w in str(error) for w in ("malformed", "not a database", "disk image", "no such"))
