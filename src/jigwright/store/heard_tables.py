"""What was heard in takes: a row a segment, curves in one file a take."""

from __future__ import annotations

import contextlib
import json
import os
import tempfile
from dataclasses import fields
from pathlib import Path

import numpy as np

from jigwright.core.errors import StoreError
from jigwright.core.sound.heard import Heard, HeardNotes, Pair, Segment
from jigwright.store.arrays import (
    heard_arrays,
    read_bursts,
    read_falls,
    read_heard_arrays,
    read_open_hz,
    read_pairs,
    read_ring_lines,
    read_swings,
    read_tail_s,
    read_talks,
    read_turns,
    read_window_s,
)
from jigwright.store.database import StudioDatabase
from jigwright.store.files import file_name
from jigwright.store.trouble import store_errors

_SEGMENT_FIELDS = tuple(f.name for f in fields(Segment))


class HeardTables(StudioDatabase):
    """Tables ``heard`` and ``segment``, and the folder ``heard``."""

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
                contours, pairs, whistles = read_heard_arrays(arrays)
                ring_lines, open_hz = read_ring_lines(arrays), read_open_hz(arrays)
                window_s, tail_s = read_window_s(arrays), read_tail_s(arrays)
                falls = read_falls(arrays)
                bursts, swings = read_bursts(arrays), read_swings(arrays)
                turns, talks = read_turns(arrays), read_talks(arrays)
        except (OSError, ValueError, KeyError, StoreError):
            return None  # lost contours are made again from the sound
        segments, doubtful = self._segments(take_id)
        return Heard(
            contours=contours, segments=segments, doubtful=doubtful, method_version=row[0],
            sample_rate_hz=row[2], n_channels=row[3], i_channel=row[4], noise_dbfs=row[5],
            duration_s=row[6], warnings=tuple(json.loads(row[7])), pairs=pairs,
            ring_lines=ring_lines, open_hz=open_hz, whistles=whistles, window_s=window_s,
            tail_s=tail_s, falls=falls, bursts=bursts, swings=swings,
            turns=turns, talks=talks,
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

    def heard_notes(self, take_id: str) -> HeardNotes | None:
        """Only the notes of what was heard, for figures of many takes; curves stay on disk."""
        row = self._db.execute(
            "SELECT contours FROM heard WHERE take_id = ?", (take_id,)
        ).fetchone()
        if row is None:
            return None
        segments, doubtful = self._segments(take_id)
        pairs: tuple[Pair, ...] = ()
        two = any(s.i_pair >= 0 for s in segments)
        tail_s = float("nan")
        try:  # an archive is read member by member: the curves stay where they are
            with np.load(self._inside(row[0]), allow_pickle=False) as arrays:
                pairs = read_pairs(arrays) if two else pairs
                tail_s = read_tail_s(arrays)
        except (OSError, ValueError, KeyError, StoreError):
            if two:
                return None
        return HeardNotes(segments=segments, doubtful=doubtful, pairs=pairs, tail_s=tail_s)

    def _segments(self, take_id: str) -> tuple[tuple[Segment, ...], tuple[Segment, ...]]:
        """Those that are sure, and those that may be notes."""
        names = ", ".join(_SEGMENT_FIELDS)
        rows = self._db.execute(
            f"SELECT {names} FROM segment WHERE take_id = ? ORDER BY i", (take_id,)
        )
        found = []
        for row in rows:
            values = dict(zip(_SEGMENT_FIELDS, row, strict=True))
            for name in ("slurred", "doubtful", "in_talk", "faint", "outsounded"):
                values[name] = bool(values[name])
            found.append(Segment(**values))
        return tuple(s for s in found if not s.doubtful), tuple(s for s in found if s.doubtful)

    def set_heard(self, take_id: str, heard: Heard) -> None:
        """Keep a newer analysis of a take; the older curves go."""
        self._check_writable()
        before = self._curves_of(take_id)
        contours = self._write_contours(take_id, heard)
        with self._change("heard", takes=(take_id,)):
            self._db.execute("DELETE FROM segment WHERE take_id = ?", (take_id,))
            self._db.execute("DELETE FROM heard WHERE take_id = ?", (take_id,))
            self._insert_heard(take_id, heard, contours)
        for path in before:
            if path != self._inside(contours):
                with contextlib.suppress(OSError):  # they can lie there: nothing points to them
                    path.unlink(missing_ok=True)

    def _curves_of(self, take_id: str) -> tuple[Path, ...]:
        """Files of curves that are kept of a take."""
        row = self._db.execute(
            "SELECT contours FROM heard WHERE take_id = ?", (take_id,)
        ).fetchone()
        if row is None:
            return ()
        try:
            return (self._inside(str(row[0])),)
        except StoreError:
            return ()

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
                for i, s in enumerate((*heard.segments, *heard.doubtful))
            ],
        )
