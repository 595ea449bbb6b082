"""Mending a damaged studio: every row that can still be read moves into a new database.

The damaged file is never written to. Rows are read one after another by their number, so that a
page that cannot be read costs its own rows only; leaves whose tree is lost are read page by page
(:mod:`~jigwright.store.pages`). Jigs come back from the files beside the database, takes from their
sounds and the notes beside them. What points to something lost is mended (a take whose player is
gone gets a stand-in) or left out, and every loss is said.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

from jigwright.core.errors import JigwrightError, StoreError
from jigwright.core.jig.exchange import jig_from_json
from jigwright.core.music.instruments import instrument
from jigwright.services.records import TakeRecord
from jigwright.services.take_fields import instrument_row
from jigwright.store.database import inside
from jigwright.store.files import digest_of
from jigwright.store.moving import move_settings
from jigwright.store.opening import copy_aside, migrate, take_lock
from jigwright.store.people import drop_player_rows
from jigwright.store.salvage import TABLES, pour, pour_leaves
from jigwright.store.schema import APPLICATION_ID, VERSION
from jigwright.store.side_notes import SideNote, read_jig_notes, read_note
from jigwright.store.studio import DATABASE
from jigwright.store.take_tables import OF_A_TAKE, TAKE_COLUMNS, TAKE_FIELDS
from jigwright.store.trouble import store_errors

_MADE_AGAIN = ("heard", "segment", "summary")
_SOUNDS = (".flac", ".wav", ".ogg", ".aiff", ".aif", ".mp3")
_STAND_IN = "found-again"

LossKind = Literal[
    "unreadable", "from_note", "from_sound", "no_sound", "no_jig", "stand_in", "to_hear_again",
    "orphans", "bad_jig", "no_undo",
]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Loss:
    """Something that is not as it was.

    Parameters
    ----------
    kind : LossKind
        ``unreadable``: part of a table; ``from_note``: a take made again from the note beside its
        sound (marks and corrections may be gone); ``from_sound``: a take made again from its sound
        alone; ``no_sound``: a take whose sound is gone; ``no_jig``: a take whose jig is gone;
        ``stand_in``: a player or instrument nobody knows any more; ``to_hear_again``: takes that
        are analysed anew; ``orphans``: rows left out because what they belong to is gone;
        ``bad_jig``: a jig that is none; ``no_undo``: nothing before can be taken back.
    subject : str
        Table, take, jig, player or instrument it is about.
    n : int
    """

    kind: LossKind
    subject: str
    n: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Mended:
    """What came of mending.

    Parameters
    ----------
    kept : dict of str to int
        Rows of each table there are now.
    losses : tuple of Loss
    copy : str
        Name of the copy of the damaged database.
    """

    kept: dict[str, int]
    losses: tuple[Loss, ...]
    copy: str

    def n_of(self, *kinds: LossKind) -> int:
        """How many losses there are of some kinds."""
        return sum(loss.n for loss in self.losses if loss.kind in kinds)

    @property
    def figures(self) -> tuple[dict[str, int], tuple[tuple[str, str, int], ...], str]:
        """What the sentences about it need."""
        return self.kept, tuple((x.kind, x.subject, x.n) for x in self.losses), self.copy


def repair_studio(folder: Path) -> Mended:
    """Mend a studio as far as possible.

    Raises
    ------
    StoreError
        ``missing``, ``locked``, ``newer``, ``io``, ``full``.
    """
    database = folder / DATABASE
    if not database.exists():
        raise StoreError("missing", str(folder))
    lock = take_lock(folder)
    if lock is None:
        raise StoreError("locked", str(folder))
    part = folder / ".studio-mended.db"
    try:
        _refuse_newer(database)
        part.unlink(missing_ok=True)
        aside = copy_aside(database)
        fresh = sqlite3.connect(part, isolation_level=None)
        try:
            migrate(fresh, part, 0)
            fresh.execute("PRAGMA foreign_keys = OFF")
            fresh.execute("BEGIN")  # one for all: a row at a time takes the disk's time for each
            losses = tuple(_mend(folder, database, fresh))
            fresh.execute("COMMIT")
            mended = Mended(losses=losses, kept=_count(fresh), copy=aside.name)
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
    return mended


def _refuse_newer(database: Path) -> None:
    """A studio of a newer program is whole: mending it would take away what we do not know."""
    try:
        old = sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)
        try:
            version = int(old.execute("PRAGMA user_version").fetchone()[0])
            owner = int(old.execute("PRAGMA application_id").fetchone()[0])
        finally:
            old.close()
    except sqlite3.Error:
        return
    if owner == APPLICATION_ID and VERSION < version < VERSION + 1000:
        raise StoreError("newer", f"version {version}, this program knows {VERSION}")


def _mend(folder: Path, database: Path, fresh: sqlite3.Connection) -> list[Loss]:
    unreadable = pour(database, fresh)
    pour_leaves(database, fresh, unreadable)
    losses = [Loss(kind="unreadable", subject=t) for t in TABLES if t in unreadable]
    move_settings(fresh)
    losses += _mend_jigs(folder, fresh)
    losses += _mend_sounds(folder, fresh)
    losses += _mend_links(fresh, holes="heard" in unreadable or "segment" in unreadable)
    if "journal" in unreadable or any(loss.kind != "to_hear_again" for loss in losses):
        fresh.execute("DELETE FROM journal")  # a history with a hole in it would take back wrongly
        losses.append(Loss(kind="no_undo", subject="journal"))
    return losses


def _count(fresh: sqlite3.Connection) -> dict[str, int]:
    return {t: int(fresh.execute(f"SELECT COUNT(*) FROM {t}").fetchone()[0]) for t in TABLES}


# what lies beside the database -------------------------------------------------------------


def _mend_jigs(folder: Path, fresh: sqlite3.Connection) -> list[Loss]:
    losses = []
    for jig_id, revision, body in fresh.execute("SELECT id, revision, body FROM jig").fetchall():
        try:
            jig_from_json(body)
        except (JigwrightError, ValueError, TypeError, KeyError):
            fresh.execute("DELETE FROM jig WHERE id = ? AND revision = ?", (jig_id, revision))
            losses.append(Loss(kind="bad_jig", subject=f"{jig_id} {revision}"))
    when = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    for jig_id, revision, title, body in read_jig_notes(folder):
        fresh.execute(
            "INSERT OR IGNORE INTO jig VALUES (?, ?, ?, ?, ?)",
            (jig_id, revision, title, body, when),
        )
    back = {f"{i} {r}" for i, r in fresh.execute("SELECT id, revision FROM jig")}
    return [loss for loss in losses if loss.subject not in back]


def _mend_sounds(folder: Path, fresh: sqlite3.Connection) -> list[Loss]:
    """Bring sound files back that no row speaks of; say which takes lost theirs."""
    known: dict[str, str] = {}
    losses = []
    for take_id, audio in fresh.execute("SELECT id, audio FROM take").fetchall():
        known[str(audio)] = str(take_id)
        if not _is_sound(folder, str(audio)):
            losses.append(Loss(kind="no_sound", subject=str(take_id)))
    for path in sorted((folder / "audio").rglob("*")):
        relative = path.relative_to(folder).as_posix()
        if relative in known or path.suffix.lower() not in _SOUNDS:
            continue
        if path.is_symlink() or not _is_sound(folder, relative):
            continue
        note = read_note(path)
        taken = fresh.execute(
            "SELECT 1 FROM take WHERE id = ?", (note.take.id if note else path.stem,)
        ).fetchone()
        if note is not None and taken is None:
            _from_note(fresh, note, relative, digest_of(path))
            losses.append(Loss(kind="from_note", subject=note.take.id))
        else:
            take_id = path.stem if taken is None else f"{path.stem}-again"
            _from_sound(fresh, path, relative, take_id)
            losses.append(Loss(kind="from_sound", subject=take_id))
    return losses


def _is_sound(folder: Path, relative: str) -> bool:
    try:
        return inside(folder, relative).is_file()
    except StoreError:
        return False


def _from_note(fresh: sqlite3.Connection, note: SideNote, relative: str, digest: str) -> None:
    """A take as it was recorded, with who played it and on what."""
    fresh.execute(
        "INSERT OR IGNORE INTO player (id, name) VALUES (?, ?)", (note.player.id, note.player.name)
    )
    owned = instrument_row(note.owned)
    fresh.execute(
        f"INSERT OR IGNORE INTO instrument ({', '.join(owned)}) VALUES (?, ?, ?, ?, ?)",
        tuple(owned.values()),
    )
    values = {f: getattr(note.take, f) for f in TAKE_FIELDS}
    _insert_take(fresh, TakeRecord(**{**values, "audio": relative, "sha256": digest}))


def _from_sound(fresh: sqlite3.Connection, path: Path, relative: str, take_id: str) -> None:
    """A take nobody knows anything of but its sound."""
    player, owned = _owner(fresh)
    when = datetime.fromtimestamp(path.stat().st_mtime, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    _insert_take(
        fresh,
        TakeRecord(
            id=take_id, jig_id=None, jig_revision=None, player_id=player, instrument_id=owned,
            recorded_utc=when, utc_offset_min=0, audio=relative, sha256=digest_of(path),
            source_name=path.name, duration_s=0.0, a4_hz=440.0, reference="equal",
            tolerance_cents=10.0, input_name="",
        ),
    )  # fmt: skip


def _insert_take(fresh: sqlite3.Connection, take: TakeRecord) -> None:
    fresh.execute(
        f"INSERT OR IGNORE INTO take ({TAKE_COLUMNS}) VALUES ({', '.join('?' * len(TAKE_FIELDS))})",
        tuple(getattr(take, f) for f in TAKE_FIELDS),
    )


def _owner(fresh: sqlite3.Connection) -> tuple[str, str]:
    """The first player and instrument, or stand-ins."""
    found = []
    for table, add in (("player", _add_player), ("instrument", _add_instrument)):
        row = fresh.execute(f"SELECT id FROM {table} ORDER BY name LIMIT 1").fetchone()
        if row is None:
            add(fresh, _STAND_IN)
            row = (_STAND_IN,)
        found.append(str(row[0]))
    return found[0], found[1]


# what belongs together ---------------------------------------------------------------------


def _add_player(fresh: sqlite3.Connection, one: str) -> None:
    fresh.execute("INSERT INTO player (id, name) VALUES (?, '?')", (one,))


def _add_instrument(fresh: sqlite3.Connection, one: str) -> None:
    strings = " ".join(str(s) for s in instrument("violin").strings)
    fresh.execute(
        "INSERT INTO instrument (id, name, kind, strings) VALUES (?, '?', 'violin', ?)",
        (one, strings),
    )


def _mend_links(fresh: sqlite3.Connection, *, holes: bool) -> list[Loss]:
    """Make everything point to something."""
    losses = []
    gone = (
        "jig_id IS NOT NULL AND NOT EXISTS"
        " (SELECT 1 FROM jig WHERE jig.id = jig_id AND jig.revision = jig_revision)"
    )
    for (take_id,) in fresh.execute(f"SELECT id FROM take WHERE {gone}").fetchall():
        losses.append(Loss(kind="no_jig", subject=str(take_id)))
    fresh.execute(f"UPDATE take SET jig_id = NULL, jig_revision = NULL WHERE {gone}")
    stand_ins: tuple[tuple[str, Callable[[sqlite3.Connection, str], None]], ...] = (
        ("player", _add_player), ("instrument", _add_instrument),
    )  # fmt: skip
    for table, add in stand_ins:
        lost = (
            f"SELECT DISTINCT {table}_id FROM take WHERE {table}_id NOT IN (SELECT id FROM {table})"
        )
        for (one,) in fresh.execute(lost).fetchall():
            add(fresh, one)
            losses.append(Loss(kind="stand_in", subject=f"{table} {one}"))
    orphans = drop_player_rows(fresh)
    for table in OF_A_TAKE:
        cursor = fresh.execute(f"DELETE FROM {table} WHERE take_id NOT IN (SELECT id FROM take)")
        orphans += cursor.rowcount if table not in _MADE_AGAIN else 0
    fresh.execute("DELETE FROM segment WHERE take_id NOT IN (SELECT take_id FROM heard)")
    if orphans:
        losses.append(Loss(kind="orphans", subject="", n=orphans))
    again = _to_hear_again(fresh, holes=holes)
    if again:
        losses.append(Loss(kind="to_hear_again", subject="", n=again))
    return losses


def _to_hear_again(fresh: sqlite3.Connection, *, holes: bool) -> int:
    """Takes whose analysis has a hole are heard anew; returns how many wait to be heard.

    ``holes``: rows of analyses were lost, so that one without notes need not be a silent take.
    """
    gaps = fresh.execute(
        "SELECT take_id FROM segment GROUP BY take_id HAVING COUNT(*) != MAX(i) + 1"
    ).fetchall()
    for table in ("segment", "heard"):
        fresh.executemany(f"DELETE FROM {table} WHERE take_id = ?", gaps)
    if holes:
        fresh.execute(
            "DELETE FROM heard WHERE take_id NOT IN (SELECT take_id FROM segment) "
            "AND take_id IN (SELECT id FROM take WHERE duration_s > 1.0)"
        )
    row = fresh.execute(
        "SELECT COUNT(*) FROM take WHERE id NOT IN (SELECT take_id FROM heard)"
    ).fetchone()
    return int(row[0])
