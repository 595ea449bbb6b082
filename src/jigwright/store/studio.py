"""Reading and changing a studio folder.

One writer at a time (a locked file; write-ahead log); a second window reads only. Sound files are
synced before their row appears; every change is an operation with its inverse in a journal, so
undo survives a restart. A damaged database is refused and copied aside, never overwritten.
"""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, fields
from functools import lru_cache, partial
from pathlib import Path
from typing import IO, Any
from uuid import uuid4

import numpy as np

from jigwright.core.errors import StoreError
from jigwright.core.isolation import isolated
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.core.judge.work import SetWork
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Heard, Pair, Segment
from jigwright.services.moments import is_utc
from jigwright.services.records import (
    CutFrom,
    DayNote,
    OwnedInstrument,
    Player,
    Remark,
    TakeRecord,
)
from jigwright.store.arrays import heard_arrays, read_heard_arrays, read_pairs, read_window_s
from jigwright.store.files import copy_synced, digest_of, file_name, sync_tree
from jigwright.store.trouble import store_errors

DATABASE = "studio.db"
_UNDOABLE = ("set_mark", "bin_take", "restore_take", "set_take")


class Studio:
    """An open studio folder. Use :func:`~jigwright.store.opening.open_studio`.

    Parameters
    ----------
    folder : Path
    connection : sqlite3.Connection
    lock : file or None
        Held while this is the writer.
    """

    def __init__(self, folder: Path, connection: sqlite3.Connection, lock: IO[str] | None) -> None:
        self.folder = folder
        self._db = connection
        self._lock = lock

    @property
    def read_only(self) -> bool:
        """Whether another window is the writer."""
        return self._lock is None

    def close(self) -> None:
        """Close the database and give up the lock."""
        self._db.close()
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    # reading ------------------------------------------------------------------------------

    def players(self) -> tuple[Player, ...]:
        """All players by name."""
        rows = self._db.execute("SELECT id, name FROM player ORDER BY name")
        return tuple(Player(id=i, name=n) for i, n in rows)

    def instruments(self) -> tuple[OwnedInstrument, ...]:
        """All instruments by name."""
        rows = self._db.execute("SELECT id, name, kind, strings FROM instrument ORDER BY name")
        return tuple(_owned(*row) for row in rows)

    def jigs(self) -> tuple[Jig, ...]:
        """The newest revision of every jig, by title."""
        rows = self._db.execute(
            "SELECT body FROM jig AS a WHERE revision = "
            "(SELECT MAX(revision) FROM jig AS b WHERE b.id = a.id) ORDER BY title"
        )
        found = (isolated("a jig of the studio", partial(_jig, body), None) for (body,) in rows)
        return tuple(jig for jig in found if jig is not None)

    def jig(self, jig_id: str, revision: int) -> Jig:
        """One revision of a jig.

        Raises
        ------
        StoreError
            If it is not there.
        """
        row = self._db.execute(
            "SELECT body FROM jig WHERE id = ? AND revision = ?", (jig_id, revision)
        ).fetchone()
        if row is None:
            raise StoreError("no_jig", f"{jig_id} revision {revision}")
        return _jig(row[0])

    def takes(
        self, *, jig_id: str | None = None, player_id: str | None = None, binned: bool = False
    ) -> tuple[TakeRecord, ...]:
        """Takes in order of time, of one jig or player or of all."""
        sql = f"SELECT {_TAKE_COLUMNS} FROM take WHERE binned = ?"
        values: list[Any] = [int(binned)]
        for column, value in (("jig_id", jig_id), ("player_id", player_id)):
            if value is not None:
                sql += f" AND {column} = ?"
                values.append(value)
        rows = self._db.execute(sql + " ORDER BY recorded_utc, rowid", values)
        return tuple(_take(row) for row in rows)

    def cut_spans(self, recording: str) -> tuple[tuple[float, float], ...]:
        """Stretches of a growing recording that became takes, in order."""
        rows = self._db.execute(
            "SELECT start_s, stop_s FROM cut WHERE recording = ? ORDER BY start_s", (recording,)
        )
        return tuple((float(a), float(b)) for a, b in rows)

    def holds_sound(self, path: Path) -> bool:
        """Whether a take, in the bin or not, has this very file as its sound."""
        with store_errors():
            digest = digest_of(path)
        row = self._db.execute("SELECT 1 FROM take WHERE sha256 = ?", (digest,)).fetchone()
        return row is not None

    def activity(self, since_utc: str) -> dict[str, tuple[str, int, float]]:
        """Of every player: moment of the last take, number and seconds of takes since a moment."""
        rows = self._db.execute(
            "SELECT player_id, MAX(recorded_utc), SUM(recorded_utc >= ?), "
            "SUM(CASE WHEN recorded_utc >= ? THEN duration_s ELSE 0 END) "
            "FROM take WHERE binned = 0 GROUP BY player_id",
            (since_utc, since_utc),
        )
        return {str(p): (str(last), int(n), float(s)) for p, last, n, s in rows}

    @property
    def stamp(self) -> tuple[int, int]:
        """Another value after every change, also by another window."""
        version = self._db.execute("PRAGMA data_version").fetchone()[0]
        return self._db.total_changes, int(version)

    def heard(self, take_id: str) -> Heard | None:
        """What was heard in a take, or ``None`` when it has not been analysed."""
        row = self._db.execute(
            "SELECT method_version, contours, sample_rate_hz, n_channels, i_channel, noise_dbfs, "
            "duration_s, warnings FROM heard WHERE take_id = ?", (take_id,)
        ).fetchone()  # fmt: skip
        if row is None:
            return None
        try:
            with np.load(self._inside(row[1]), allow_pickle=False) as arrays:
                contours, pairs, tails, whistles = read_heard_arrays(arrays)
                window_s = read_window_s(arrays)
        except (OSError, ValueError, KeyError):
            return None  # lost contours are made again from the sound
        return Heard(
            contours=contours, segments=self._segments(take_id), method_version=row[0],
            sample_rate_hz=row[2], n_channels=row[3], i_channel=row[4], noise_dbfs=row[5],
            duration_s=row[6], warnings=tuple(json.loads(row[7])), pairs=pairs, tails=tails,
            whistles=whistles, window_s=window_s,
        )  # fmt: skip

    def heard_key(self, take_id: str) -> str:
        """Another text whenever a take was heard anew; empty while it was not."""
        row = self._db.execute(
            "SELECT method_version, contours, duration_s FROM heard WHERE take_id = ?", (take_id,)
        ).fetchone()
        return "" if row is None else f"{row[0]}:{row[1]}:{row[2]}"

    def methods(self) -> dict[str, int]:
        """Version of the hearing of every take that has been analysed."""
        rows = self._db.execute("SELECT take_id, method_version FROM heard")
        return {str(take_id): int(version) for take_id, version in rows}

    def heard_notes(self, take_id: str) -> tuple[tuple[Segment, ...], tuple[Pair, ...]] | None:
        """Only the notes of what was heard, for figures of many takes; curves stay on disk."""
        row = self._db.execute(
            "SELECT contours FROM heard WHERE take_id = ?", (take_id,)
        ).fetchone()
        if row is None:
            return None
        segments = self._segments(take_id)
        pairs: tuple[Pair, ...] = ()
        if any(s.i_pair >= 0 for s in segments):
            try:
                with np.load(self._inside(row[0]), allow_pickle=False) as arrays:
                    pairs = read_pairs(arrays)
            except (OSError, ValueError, KeyError):
                return None
        return segments, pairs

    def _segments(self, take_id: str) -> tuple[Segment, ...]:
        names = ", ".join(_SEGMENT_FIELDS)
        rows = self._db.execute(
            f"SELECT {names} FROM segment WHERE take_id = ? ORDER BY i", (take_id,)
        )
        return tuple(
            Segment(**{**dict(zip(_SEGMENT_FIELDS, r, strict=True)), "slurred": bool(r[-1])})
            for r in rows
        )

    def audio_path(self, take: TakeRecord) -> Path:
        """Where a take's sound lies.

        Raises
        ------
        StoreError
            If the stored path leaves the studio.
        """
        return self._inside(take.audio)

    def setting(self, name: str, default: str = "") -> str:
        """A remembered value."""
        row = self._db.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
        return str(row[0]) if row else default

    # changing -----------------------------------------------------------------------------

    def set_setting(self, name: str, value: str) -> None:
        """Remember a value."""
        with self._change():
            self._db.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (name, value))

    def day_notes(self, player_id: str) -> tuple[DayNote, ...]:
        """What was written about a player's days, oldest first."""
        rows = self._db.execute(
            "SELECT player_id, day, word, liking, notes, next_time FROM day_note "
            "WHERE player_id = ? ORDER BY day",
            (player_id,),
        )
        return tuple(
            DayNote(player_id=r[0], day=r[1], word=r[2], liking=r[3], notes=r[4], next_time=r[5])
            for r in rows
        )

    def set_day_note(self, note: DayNote) -> None:
        """Write about a day; an empty note is taken away."""
        with self._change():
            if not (note.word or note.liking or note.notes or note.next_time):
                self._db.execute(
                    "DELETE FROM day_note WHERE player_id = ? AND day = ?",
                    (note.player_id, note.day),
                )
                return
            self._db.execute(
                "INSERT OR REPLACE INTO day_note VALUES (?, ?, ?, ?, ?, ?)",
                (note.player_id, note.day, note.word, note.liking, note.notes, note.next_time),
            )

    def remarks(self, take_id: str) -> tuple[Remark, ...]:
        """Words left in a take, in order of time."""
        rows = self._db.execute(
            "SELECT id, take_id, note_id, at_s, who, words, utc FROM remark "
            "WHERE take_id = ? ORDER BY at_s, utc",
            (take_id,),
        )
        return tuple(
            Remark(id=r[0], take_id=r[1], note_id=r[2], at_s=r[3], who=r[4], words=r[5], utc=r[6])
            for r in rows
        )

    def set_remark(self, remark: Remark) -> None:
        """Leave or change a remark; one without words goes."""
        with self._change():
            if not remark.words:
                self._db.execute("DELETE FROM remark WHERE id = ?", (remark.id,))
                return
            self._db.execute(
                "INSERT OR REPLACE INTO remark VALUES (?, ?, ?, ?, ?, ?, ?)",
                (
                    remark.id, remark.take_id, remark.note_id, remark.at_s, remark.who,
                    remark.words, remark.utc,
                ),
            )  # fmt: skip

    def works(self) -> tuple[SetWork, ...]:
        """Work that was set, the earliest due first."""
        rows = self._db.execute(
            f"SELECT {', '.join(_WORK_FIELDS)} FROM work ORDER BY due, set_utc"
        ).fetchall()
        return tuple(
            SetWork(**{**dict(zip(_WORK_FIELDS, r, strict=True)), "closed": bool(r[-1])})
            for r in rows
        )

    def set_work(self, work: SetWork) -> None:
        """Set work, or change it."""
        with self._change():
            self._db.execute(
                f"INSERT OR REPLACE INTO work ({', '.join(_WORK_FIELDS)}) "
                f"VALUES ({', '.join('?' * len(_WORK_FIELDS))})",
                tuple(getattr(work, f) for f in _WORK_FIELDS),
            )

    def remove_work(self, work_id: str) -> None:
        """Take work back."""
        with self._change():
            self._db.execute("DELETE FROM work WHERE id = ?", (work_id,))

    def summaries(self) -> dict[str, tuple[str, str]]:
        """Stored summaries: what each was made from, and its body, by take."""
        rows = self._db.execute("SELECT take_id, inputs, body FROM summary")
        return {r[0]: (r[1], r[2]) for r in rows}

    def keep_summaries(self, rows: dict[str, tuple[str, str]]) -> None:
        """Store summaries; they can be made again at any time."""
        with self._change():
            self._db.executemany(
                "INSERT OR REPLACE INTO summary VALUES (?, ?, ?)",
                [(take_id, inputs, body) for take_id, (inputs, body) in rows.items()],
            )

    def add_player(self, player: Player) -> None:
        """Add or rename a player."""
        with self._change():
            self._db.execute(
                "INSERT INTO player VALUES (?, ?) "
                "ON CONFLICT (id) DO UPDATE SET name = excluded.name",
                (player.id, player.name),
            )

    def add_instrument(self, owned: OwnedInstrument) -> None:
        """Add or change an instrument."""
        strings = " ".join(str(s) for s in owned.strings)
        with self._change():
            self._db.execute(
                "INSERT INTO instrument VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET "
                "name = excluded.name, kind = excluded.kind, strings = excluded.strings",
                (owned.id, owned.name, owned.kind, strings),
            )

    def add_jig(self, jig: Jig, *, utc: str) -> None:
        """Keep a revision of a jig for good.

        Raises
        ------
        StoreError
            If another jig already has this id and revision.
        """
        body = jig_to_json(jig)
        before = self._db.execute(
            "SELECT body FROM jig WHERE id = ? AND revision = ?", (jig.id, jig.revision)
        ).fetchone()
        if before is not None:
            if before[0] != body:
                raise StoreError("io", f"revision {jig.revision} of {jig.title!r} is already kept")
            return
        with self._change():
            self._db.execute(
                "INSERT INTO jig VALUES (?, ?, ?, ?, ?)",
                (jig.id, jig.revision, jig.title, body, utc),
            )

    def add_take(
        self, take: TakeRecord, source: Path, heard: Heard | None, *, cut: CutFrom | None = None
    ) -> TakeRecord:
        """Keep a sound file byte for byte and its take.

        Parameters
        ----------
        take : TakeRecord
            ``audio`` and ``sha256`` are filled in here.
        source : Path
            File to copy.
        heard : Heard or None
        cut : CutFrom or None
            The stretch of a growing recording it was cut from; kept in the same transaction.

        Raises
        ------
        StoreError
            ``exists`` when a take of this id is here, in the bin too; nothing is overwritten.
        """
        self._check_writable()
        if self._db.execute("SELECT 1 FROM take WHERE id = ?", (take.id,)).fetchone():
            raise StoreError("exists", f"take {take.id}")
        year = take.recorded_utc[:4] if take.recorded_utc[:4].isdecimal() else "0000"
        relative = f"audio/{year}/{file_name(take.id)}{_suffix(source)}"
        target = self._inside(relative)
        with store_errors():
            target.parent.mkdir(parents=True, exist_ok=True)
            if target.exists():  # a sound that no row speaks of: it is not ours to overwrite
                relative = f"audio/{year}/{file_name(take.id)}-{uuid4().hex[:6]}{_suffix(source)}"
                target = self._inside(relative)
            digest = copy_synced(source, target)
        values = {**asdict(take), "audio": relative, "sha256": digest}
        row = TakeRecord(**values)
        files: list[str] = []
        try:
            if heard is not None:
                files.append(self._write_contours(row.id, heard))
            with self._change():
                marks = ", ".join("?" * len(_TAKE_FIELDS))
                self._db.execute(
                    f"INSERT INTO take ({_TAKE_COLUMNS}) VALUES ({marks})",
                    tuple(getattr(row, f) for f in _TAKE_FIELDS),
                )
                if heard is not None:
                    self._insert_heard(row.id, heard, files[0])
                if cut is not None:
                    self._db.execute(
                        "INSERT OR REPLACE INTO cut VALUES (?, ?, ?, ?)",
                        (row.id, cut.recording, cut.start_s, cut.stop_s),
                    )
        except BaseException:
            for path in (target, *(self._inside(f) for f in files)):
                path.unlink(missing_ok=True)
            raise
        return row

    def set_heard(self, take_id: str, heard: Heard) -> None:
        """Keep a newer analysis of a take."""
        self._check_writable()
        contours = self._write_contours(take_id, heard)
        with self._change():
            self._db.execute("DELETE FROM segment WHERE take_id = ?", (take_id,))
            self._db.execute("DELETE FROM heard WHERE take_id = ?", (take_id,))
            self._insert_heard(take_id, heard, contours)

    def change(self, name: str, take_id: str, values: dict[str, Any], *, utc: str) -> None:
        """Apply an operation with an inverse and write both to the journal.

        Parameters
        ----------
        name : str
            ``set_mark``, ``bin_take``, ``restore_take`` or ``set_take``.
        take_id : str
        values : dict
            New values of columns of the take.
        utc : str
        """
        if name not in _UNDOABLE or not set(values) <= set(_TAKE_FIELDS):
            raise ValueError(f"unknown operation {name!r} with {sorted(values)}")
        columns = sorted(values)
        row = self._db.execute(
            f"SELECT {', '.join(columns)} FROM take WHERE id = ?",
            (take_id,),
        ).fetchone()
        if row is None:
            raise StoreError("no_take", take_id)
        inverse = dict(zip(columns, row, strict=True))
        with self._change():
            self._set_take(take_id, values)
            self._db.execute("DELETE FROM journal WHERE undone = 1")
            self._db.execute(
                "INSERT INTO journal (utc, operation, inverse) VALUES (?, ?, ?)",
                (
                    utc,
                    json.dumps({"name": name, "take": take_id, "values": values}),
                    json.dumps({"name": name, "take": take_id, "values": inverse}),
                ),
            )

    def undo(self) -> str | None:
        """Take the last operation back; returns its name, or ``None`` when there is none."""
        return self._replay("undone = 0 ORDER BY n DESC", "inverse", undone=1)

    def redo(self) -> str | None:
        """Do the last undone operation again."""
        return self._replay("undone = 1 ORDER BY n", "operation", undone=0)

    def _replay(self, where: str, column: str, *, undone: int) -> str | None:
        row = self._db.execute(f"SELECT n, {column} FROM journal WHERE {where} LIMIT 1").fetchone()
        if row is None:
            return None
        step = json.loads(row[1])
        with self._change():
            self._set_take(step["take"], step["values"])
            self._db.execute("UPDATE journal SET undone = ? WHERE n = ?", (undone, row[0]))
        return str(step["name"])

    def empty_bin(self) -> int:
        """Delete binned takes and their sound for good; returns how many."""
        self._check_writable()
        binned = self.takes(binned=True)
        for take in binned:
            contours = self._db.execute(
                "SELECT contours FROM heard WHERE take_id = ?", (take.id,)
            ).fetchone()
            with self._change():
                for table in ("segment", "heard"):
                    self._db.execute(f"DELETE FROM {table} WHERE take_id = ?", (take.id,))
                self._db.execute("DELETE FROM journal WHERE operation LIKE ?", (f'%"{take.id}"%',))
                self._db.execute("DELETE FROM take WHERE id = ?", (take.id,))
            with store_errors():
                self.audio_path(take).unlink(missing_ok=True)
                if contours:
                    self._inside(contours[0]).unlink(missing_ok=True)
        return len(binned)

    def check(self) -> list[str]:
        """Look for damage: database integrity, missing or changed sound files."""
        problems = [str(r[0]) for r in self._db.execute("PRAGMA integrity_check") if r[0] != "ok"]
        for take in (*self.takes(), *self.takes(binned=True)):
            path = self.audio_path(take)
            if not path.is_file():
                problems.append(f"sound missing: {take.audio}")
            elif digest_of(path) != take.sha256:
                problems.append(f"sound changed: {take.audio}")
        return problems

    def backup(self, target: Path) -> None:
        """Copy the studio to a new folder, consistently; it appears complete or not at all.

        What an interrupted sitting left behind is copied too.

        Raises
        ------
        StoreError
            ``exists`` when something is there already; else as the disk says.
        """
        if target.exists():
            raise StoreError("exists_folder", str(target))
        with store_errors():
            target.parent.mkdir(parents=True, exist_ok=True)
            part = Path(tempfile.mkdtemp(dir=target.parent, prefix=f".{target.name[:40]}-part-"))
            try:
                copy = sqlite3.connect(part / DATABASE)
                with copy:
                    self._db.backup(copy)
                copy.close()
                for name in ("audio", "heard", "recording"):
                    if (self.folder / name).is_dir():
                        shutil.copytree(self.folder / name, part / name)
                sync_tree(part)
                part.chmod(0o755)
                part.replace(target)
            finally:
                shutil.rmtree(part, ignore_errors=True)

    def _set_take(self, take_id: str, values: dict[str, Any]) -> None:
        sets = ", ".join(f"{c} = ?" for c in sorted(values))
        self._db.execute(
            f"UPDATE take SET {sets} WHERE id = ?",
            (*(values[c] for c in sorted(values)), take_id),
        )

    def _write_contours(self, take_id: str, heard: Heard) -> str:
        relative = f"heard/{file_name(take_id)}.{heard.method_version}.npz"
        target = self._inside(relative)
        with store_errors():
            target.parent.mkdir(parents=True, exist_ok=True)
            handle, name = tempfile.mkstemp(dir=target.parent, prefix=".part-")
            part = Path(name)
            try:
                with os.fdopen(handle, "wb") as file:
                    np.savez(file, **heard_arrays(heard))  # type: ignore[arg-type]
                    file.flush()
                    os.fsync(file.fileno())
                part.replace(target)
            finally:
                part.unlink(missing_ok=True)
        return relative

    def _insert_heard(self, take_id: str, heard: Heard, contours: str) -> None:
        self._db.execute(
            "INSERT INTO heard VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                take_id, heard.method_version, contours, heard.sample_rate_hz, heard.n_channels,
                heard.i_channel, heard.noise_dbfs, heard.duration_s,
                json.dumps(list(heard.warnings)),
            ),
        )  # fmt: skip
        marks = ", ".join("?" * (len(_SEGMENT_FIELDS) + 2))
        self._db.executemany(
            f"INSERT INTO segment (take_id, i, {', '.join(_SEGMENT_FIELDS)}) VALUES ({marks})",
            [
                (take_id, i, *(getattr(s, f) for f in _SEGMENT_FIELDS))
                for i, s in enumerate(heard.segments)
            ],
        )

    def _inside(self, relative: str) -> Path:
        path = (self.folder / relative).resolve()
        if not path.is_relative_to(self.folder.resolve()):
            raise StoreError("damaged", f"a path leaves the studio: {relative}")
        return path

    def _check_writable(self) -> None:
        if self._lock is None:
            raise StoreError("locked", str(self.folder))

    @contextmanager
    def _change(self) -> Iterator[None]:
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


_TAKE_FIELDS = tuple(f.name for f in fields(TakeRecord))
_TAKE_COLUMNS = ", ".join(_TAKE_FIELDS)
_WORK_FIELDS = tuple(f.name for f in fields(SetWork))
_SEGMENT_FIELDS = tuple(f.name for f in fields(Segment))


def _suffix(source: Path) -> str:
    suffix = source.suffix.lower()[:6]
    return suffix if suffix[1:].isalnum() and suffix.isascii() else ""


@lru_cache(maxsize=1024)
def _jig(body: str) -> Jig:
    """Jigs never change: one that was read once need not be read again."""
    return jig_from_json(body)


def _owned(instrument_id: str, name: str, kind: str, strings: str) -> OwnedInstrument:
    """An instrument; one whose kind or strings cannot be read has those of a violin."""
    known = kind if kind in INSTRUMENTS else "violin"
    usual = instrument(known).strings
    parsed = isolated(
        "strings of an instrument", lambda: tuple(Pitch.parse(s) for s in strings.split()), usual
    )
    return OwnedInstrument(id=instrument_id, name=name, kind=known, strings=parsed or usual)


def _take(row: Sequence[Any]) -> TakeRecord:
    """A take; what cannot be true in it (an older version let it in) reads as a usual value."""
    values = dict(zip(_TAKE_FIELDS, row, strict=True))
    values["binned"] = bool(values["binned"])
    if not is_utc(values["recorded_utc"]):
        values["recorded_utc"] = EPOCH
    for name, (low, high, usual) in _SENSIBLE.items():
        value = values[name]
        if not isinstance(value, (int, float)) or not low <= value <= high:
            values[name] = usual
    return TakeRecord(**values)


EPOCH = "1970-01-01T00:00:00Z"
_SENSIBLE: dict[str, tuple[float, float, float]] = {
    "utc_offset_min": (-14 * 60, 14 * 60, 0),
    "duration_s": (0.0, 86_400.0, 0.0),
    "a4_hz": (300.0, 500.0, 440.0),
    "tolerance_cents": (0.1, 200.0, 10.0),
}
