"""Mending a damaged studio: every row that can still be read moves into a new database.

The damaged file is never written to. Rows are read one after another by their number, so that a
page that cannot be read costs its own rows only. What points to something lost is mended (a take
whose player is gone gets a stand-in) or left out; sound files that no row speaks of come back as
takes without a jig.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from jigwright.core.errors import JigwrightError, StoreError
from jigwright.core.jig.exchange import jig_from_json
from jigwright.core.music.instruments import instrument
from jigwright.store.files import digest_of
from jigwright.store.opening import copy_aside, migrate, take_lock
from jigwright.store.studio import DATABASE
from jigwright.store.trouble import store_errors

TABLES = (
    "player", "instrument", "jig", "take", "heard", "segment", "setting", "day_note", "summary",
    "remark", "work", "cut", "journal",
)  # fmt: skip
_SOUNDS = (".flac", ".wav", ".ogg", ".aiff", ".aif", ".mp3")
_MOST_MISSES = 5000
_STAND_IN = "found-again"


@dataclass(frozen=True, slots=True, kw_only=True)
class Mended:
    """What came of mending.

    Parameters
    ----------
    kept : dict of str to int
        Rows saved of each table.
    unreadable : tuple of str
        Tables of which something could not be read.
    dropped : int
        Rows left out because what they belong to is lost.
    found : int
        Sound files that came back as takes.
    without_sound : int
        Takes whose sound file is gone.
    copy : str
        Name of the copy of the damaged database.
    """

    kept: dict[str, int]
    unreadable: tuple[str, ...]
    dropped: int
    found: int
    without_sound: int
    copy: str

    @property
    def figures(self) -> tuple[dict[str, int], tuple[str, ...], int, int, str]:
        """What the sentence about it needs."""
        return self.kept, self.unreadable, self.found, self.without_sound, self.copy


def repair_studio(folder: Path) -> Mended:
    """Mend a studio as far as possible.

    Raises
    ------
    StoreError
        ``missing``, ``locked``, ``io``, ``full``.
    """
    database = folder / DATABASE
    if not database.exists():
        raise StoreError("missing", str(folder))
    lock = take_lock(folder)
    if lock is None:
        raise StoreError("locked", str(folder))
    part = folder / ".studio-mended.db"
    try:
        part.unlink(missing_ok=True)
        aside = copy_aside(database)
        fresh = sqlite3.connect(part, isolation_level=None)
        try:
            migrate(fresh, part, 0)
            fresh.execute("PRAGMA foreign_keys = OFF")
            kept, unreadable = _pour(database, fresh)
            dropped = _mend_links(fresh)
            found, without_sound = _mend_sounds(folder, fresh)
            fresh.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        finally:
            fresh.close()
        with store_errors():
            for tail in ("-wal", "-shm"):
                database.with_name(database.name + tail).unlink(missing_ok=True)
                part.with_name(part.name + tail).unlink(missing_ok=True)
            part.replace(database)
    except sqlite3.Error as error:
        raise StoreError("io", str(error)) from error
    finally:
        part.unlink(missing_ok=True)
        lock.close()
    return Mended(
        kept=kept, unreadable=unreadable, dropped=dropped, found=found,
        without_sound=without_sound, copy=aside.name,
    )  # fmt: skip


def _pour(database: Path, fresh: sqlite3.Connection) -> tuple[dict[str, int], tuple[str, ...]]:
    """Move every readable row over."""
    kept = dict.fromkeys(TABLES, 0)
    unreadable: list[str] = []
    try:
        old = sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)
        old.execute("PRAGMA trusted_schema = OFF")
    except sqlite3.Error:
        return kept, TABLES
    try:
        for table in TABLES:
            wanted = [str(row[1]) for row in fresh.execute(f"PRAGMA table_info({table})")]
            try:
                there = [str(row[1]) for row in old.execute(f"PRAGMA table_info({table})")]
            except sqlite3.Error:
                there = []
            names = [n for n in wanted if n in there]
            if not names:
                unreadable.append(table)
                continue
            marks, columns = ", ".join("?" * len(names)), ", ".join(names)
            missed = False
            for row in _rows(old, table, columns):
                if row is None:
                    missed = True
                    continue
                try:
                    fresh.execute(
                        f"INSERT OR IGNORE INTO {table} ({columns}) VALUES ({marks})", row
                    )
                    kept[table] += 1
                except sqlite3.Error:
                    missed = True
            if missed:
                unreadable.append(table)
    finally:
        old.close()
    return kept, tuple(unreadable)


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


def _mend_links(fresh: sqlite3.Connection) -> int:
    """Make everything point to something; says how many rows had to go."""
    dropped = 0
    for jig_id, revision, body in fresh.execute("SELECT id, revision, body FROM jig").fetchall():
        try:
            jig_from_json(body)
        except (JigwrightError, ValueError, TypeError, KeyError):
            fresh.execute("DELETE FROM jig WHERE id = ? AND revision = ?", (jig_id, revision))
            dropped += 1
    fresh.execute(
        "UPDATE take SET jig_id = NULL, jig_revision = NULL WHERE jig_id IS NOT NULL AND NOT EXISTS"
        " (SELECT 1 FROM jig WHERE jig.id = jig_id AND jig.revision = jig_revision)"
    )
    lost = "SELECT DISTINCT {0}_id FROM take WHERE {0}_id NOT IN (SELECT id FROM {0})"
    for (one,) in fresh.execute(lost.format("player")).fetchall():
        fresh.execute("INSERT INTO player (id, name) VALUES (?, ?)", (one, "?"))
    strings = " ".join(str(s) for s in instrument("violin").strings)
    for (one,) in fresh.execute(lost.format("instrument")).fetchall():
        fresh.execute(
            "INSERT INTO instrument (id, name, kind, strings) VALUES (?, '?', 'violin', ?)",
            (one, strings),
        )
    for table in ("heard", "segment", "summary", "remark"):
        cursor = fresh.execute(f"DELETE FROM {table} WHERE take_id NOT IN (SELECT id FROM take)")
        dropped += cursor.rowcount
    cursor = fresh.execute("DELETE FROM segment WHERE take_id NOT IN (SELECT take_id FROM heard)")
    dropped += cursor.rowcount
    cursor = fresh.execute("DELETE FROM day_note WHERE player_id NOT IN (SELECT id FROM player)")
    dropped += cursor.rowcount
    cursor = fresh.execute("DELETE FROM work WHERE player_id NOT IN (SELECT id FROM player)")
    return dropped + cursor.rowcount


def _mend_sounds(folder: Path, fresh: sqlite3.Connection) -> tuple[int, int]:
    """Bring sound files back that no row speaks of; count takes without their sound."""
    known = {str(a) for (a,) in fresh.execute("SELECT audio FROM take")}
    without = sum(not (folder / a).is_file() for a in known)
    found = 0
    for path in sorted((folder / "audio").rglob("*")):
        relative = path.relative_to(folder).as_posix()
        if relative in known or path.suffix.lower() not in _SOUNDS or not path.is_file():
            continue
        player, owned = _owner(fresh)
        when = datetime.fromtimestamp(path.stat().st_mtime, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        fresh.execute(
            "INSERT OR IGNORE INTO take (id, player_id, instrument_id, recorded_utc, "
            "utc_offset_min, audio, sha256, source_name, duration_s, a4_hz, reference, "
            "tolerance_cents, input_name) VALUES (?, ?, ?, ?, 0, ?, ?, ?, 0, 440, 'equal', 10, '')",
            (path.stem, player, owned, when, relative, digest_of(path), path.name),
        )
        found += 1
    fresh.execute(
        "INSERT OR REPLACE INTO setting VALUES ('mended', ?)",
        (json.dumps({"found": found, "without_sound": without}),),
    )
    return found, without


def _owner(fresh: sqlite3.Connection) -> tuple[str, str]:
    """The first player and instrument, or stand-ins."""
    player = fresh.execute("SELECT id FROM player ORDER BY name LIMIT 1").fetchone()
    if player is None:
        fresh.execute("INSERT INTO player (id, name) VALUES (?, '?')", (_STAND_IN,))
        player = (_STAND_IN,)
    owned = fresh.execute("SELECT id FROM instrument ORDER BY name LIMIT 1").fetchone()
    if owned is None:
        strings = " ".join(str(s) for s in instrument("violin").strings)
        fresh.execute(
            "INSERT INTO instrument (id, name, kind, strings) VALUES (?, '?', 'violin', ?)",
            (_STAND_IN, strings),
        )
        owned = (_STAND_IN,)
    return str(player[0]), str(owned[0])
