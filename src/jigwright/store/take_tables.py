"""Takes: their rows and sounds, what belongs to them, and the bin."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, fields, replace
from pathlib import Path
from typing import Any
from uuid import uuid4

from jigwright.core.errors import StoreError
from jigwright.core.follow.align import Pin
from jigwright.core.sound.heard import Heard
from jigwright.services.moments import EPOCH, is_utc
from jigwright.services.recording import SIMULATED
from jigwright.services.records import (
    Beside,
    CutFrom,
    Liking,
    OwnedInstrument,
    Player,
    Remark,
    TakeRecord,
)
from jigwright.store.files import copy_synced, digest_of, file_name
from jigwright.store.heard_tables import HeardTables
from jigwright.store.people import PeopleTables
from jigwright.store.side_notes import note_path, write_note
from jigwright.store.trouble import store_errors

TAKE_FIELDS = tuple(f.name for f in fields(TakeRecord))
TAKE_COLUMNS = ", ".join(TAKE_FIELDS)
OF_A_TAKE = (
    "segment", "heard", "summary", "remark", "correction", "choice", "take_drone", "take_click",
)  # fmt: skip
"""Tables whose rows go with their take; ``cut`` stays: what was a take is not offered again."""
_OPERATIONS = ("set_mark", "bin_take", "restore_take", "set_take")


class TakeTables(HeardTables, PeopleTables):
    """Tables ``take``, ``cut``, ``correction``, ``choice``, ``take_drone``, ``take_click``."""

    def takes(
        self, *, jig_id: str | None = None, player_id: str | None = None, binned: bool = False
    ) -> tuple[TakeRecord, ...]:
        """Takes in order of time, of one jig or player or of all."""
        sql = f"SELECT {TAKE_COLUMNS} FROM take WHERE binned = ?"
        values: list[Any] = [int(binned)]
        for column, value in (("jig_id", jig_id), ("player_id", player_id)):
            if value is not None:
                sql += f" AND {column} = ?"
                values.append(value)
        rows = self._db.execute(sql + " ORDER BY recorded_utc, rowid", values)
        return tuple(take_from(row) for row in rows)

    def take(self, take_id: str) -> TakeRecord | None:
        """One take, in the bin or not; ``None`` when there is none of this id."""
        row = self._db.execute(
            f"SELECT {TAKE_COLUMNS} FROM take WHERE id = ?", (take_id,)
        ).fetchone()
        return take_from(row) if row is not None else None

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

    def activity(self, since_day: str) -> dict[str, tuple[str, int, float]]:
        """Of every player: local day of the last take; number and seconds of takes since a day."""
        rows = self._db.execute(
            "WITH played AS (SELECT player_id, duration_s, "
            "date(recorded_utc, utc_offset_min || ' minutes') AS day FROM take "
            "WHERE binned = 0 AND source_name <> ?) "
            "SELECT player_id, MAX(day), SUM(day >= ?), "
            "SUM(CASE WHEN day >= ? THEN duration_s ELSE 0 END) FROM played "
            "WHERE day IS NOT NULL GROUP BY player_id",
            (SIMULATED, since_day, since_day),
        )
        return {str(p): (str(last), int(n), float(s)) for p, last, n, s in rows}

    def audio_path(self, take: TakeRecord) -> Path:
        """Where a take's sound lies.

        Raises
        ------
        StoreError
            If the stored path leaves the studio.
        """
        return self._inside(take.audio)

    def add_take(
        self,
        take: TakeRecord,
        source: Path,
        heard: Heard | None,
        *,
        cut: CutFrom | None = None,
        beside: Beside | None = None,
        remarks: Sequence[Remark] = (),
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
        beside : Beside or None
            What our own loudspeaker played then.
        remarks : sequence of Remark
            Words that came with it.

        Raises
        ------
        StoreError
            ``exists`` when a take of this id is here, in the bin too; nothing is overwritten.
        """
        self._check_writable()
        if self._db.execute("SELECT 1 FROM take WHERE id = ?", (take.id,)).fetchone():
            raise StoreError("exists", f"take {take.id}")
        relative = self._free_place(take, source)
        target = self._inside(relative)
        with store_errors():
            digest = copy_synced(source, target)
        row = replace(take, audio=relative, sha256=digest)
        files = [target]
        try:
            player, owned = self._played_by(row)
            write_note(target, row, player, owned)
            files.append(note_path(target))
            contours = ""
            if heard is not None:
                contours = self._write_contours(row.id, heard)
                files.append(self._inside(contours))
            with self._change("takes", takes=(row.id,)):
                self._insert_take(row, cut, beside or Beside())
                self._db.executemany(
                    "INSERT INTO remark (id, take_id, note_id, at_s, who, words, utc, spoken) "
                    "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                    [
                        (r.id, row.id, r.note_id, r.at_s, r.who, r.words, r.utc, r.spoken)
                        for r in remarks
                    ],
                )
                if heard is not None:
                    self._insert_heard(row.id, heard, contours)
        except BaseException:
            for path in files:
                path.unlink(missing_ok=True)
            raise
        return row

    def _free_place(self, take: TakeRecord, source: Path) -> str:
        """Where a sound may lie: nothing that is there, with a row or without, is overwritten."""
        year = take.recorded_utc[:4] if take.recorded_utc[:4].isdecimal() else "0000"
        stem = f"audio/{year}/{file_name(take.id)}"
        with store_errors():
            (self.folder / "audio" / year).mkdir(parents=True, exist_ok=True)
            if any(self._inside(stem + s).exists() for s in (_suffix(source), ".json")):
                stem += f"-{uuid4().hex[:6]}"
        return stem + _suffix(source)

    def _insert_take(self, row: TakeRecord, cut: CutFrom | None, beside: Beside) -> None:
        self._db.execute(
            f"INSERT INTO take ({TAKE_COLUMNS}) VALUES ({', '.join('?' * len(TAKE_FIELDS))})",
            tuple(getattr(row, f) for f in TAKE_FIELDS),
        )
        self._settle_rows(
            ("player", row.player_id), ("instrument", row.instrument_id), ("jig", row.jig_id or "")
        )
        if cut is not None:
            self._db.execute(
                "INSERT OR REPLACE INTO cut VALUES (?, ?, ?, ?)",
                (row.id, cut.recording, cut.start_s, cut.stop_s),
            )
        self._db.executemany(
            "INSERT INTO take_drone VALUES (?, ?, ?)",
            [(row.id, i, f_hz) for i, f_hz in enumerate(beside.drone_hz)],
        )
        if beside.clicks is not None:
            self._db.execute("INSERT INTO take_click VALUES (?, ?, ?)", (row.id, *beside.clicks))

    def _played_by(self, take: TakeRecord) -> tuple[Player, OwnedInstrument]:
        """Who played a take, and on what.

        Raises
        ------
        StoreError
            ``io`` when the studio does not know them.
        """
        player = next((p for p in self.players() if p.id == take.player_id), None)
        owned = next((i for i in self.instruments() if i.id == take.instrument_id), None)
        if player is None or owned is None:
            raise StoreError("io", f"take {take.id}: no such player or instrument")
        return player, owned

    def beside(self, take_id: str) -> Beside:
        """What our own loudspeaker played while a take was recorded."""
        drone = self._db.execute(
            "SELECT f_hz FROM take_drone WHERE take_id = ? ORDER BY i", (take_id,)
        ).fetchall()
        click = self._db.execute(
            "SELECT first_s, bpm FROM take_click WHERE take_id = ?", (take_id,)
        ).fetchone()
        return Beside(
            drone_hz=tuple(float(f) for (f,) in drone if 1.0 <= f <= 30_000.0),
            first_click_s=float(click[0]) if click else None,
            click_bpm=float(click[1]) if click and 1.0 <= click[1] <= 1000.0 else None,
        )

    # what can be taken back ---------------------------------------------------------------

    def change(self, name: str, take_id: str, values: Mapping[str, Any]) -> None:
        """Change columns of a take; it can be taken back.

        Parameters
        ----------
        name : str
            ``set_mark``, ``bin_take``, ``restore_take`` or ``set_take``.
        take_id : str
        values : mapping
            New values of columns of the take.
        """
        if name not in _OPERATIONS or not set(values) <= set(TAKE_FIELDS) - {"id"}:
            raise ValueError(f"unknown operation {name!r} with {sorted(values)}")
        if self.take(take_id) is None:
            raise StoreError("no_take", take_id)
        with self._step(name) as step:
            step.put("take", {"id": take_id, **values})

    def corrections(self, take_id: str) -> tuple[Pin, ...]:
        """What somebody said the notes of a take were, in order of time."""
        rows = self._db.execute(
            "SELECT at_s, i_event FROM correction WHERE take_id = ? ORDER BY at_s", (take_id,)
        )
        return tuple(Pin(at_s=float(a), i_event=None if i is None else int(i)) for a, i in rows)

    def corrected(self) -> frozenset[str]:
        """Takes of which somebody said what a note was."""
        rows = self._db.execute("SELECT DISTINCT take_id FROM correction")
        return frozenset(str(t) for (t,) in rows)

    def set_corrections(self, take_id: str, pins: Sequence[Pin]) -> None:
        """Keep what somebody said the notes of a take were, in place of what was said before."""
        said = {pin.at_s: pin.i_event for pin in pins}
        with self._step("correct") as step:
            for pin in self.corrections(take_id):
                if pin.at_s not in said:
                    step.remove("correction", {"take_id": take_id, "at_s": pin.at_s})
            for at_s, i_event in said.items():
                step.put("correction", {"take_id": take_id, "at_s": at_s, "i_event": i_event})

    def choice(self, take_id: str) -> Liking | None:
        """Which of two takes was liked when this one was heard blind against another."""
        row = self._db.execute(
            "SELECT against_id, liked_id, utc FROM choice WHERE take_id = ?", (take_id,)
        ).fetchone()
        if row is None:
            return None
        return Liking(take_id=take_id, against_id=row[0], liked_id=row[1], utc=row[2])

    def set_choice(self, choice: Liking) -> None:
        """Keep a liking."""
        with self._step("choose") as step:
            step.put("choice", asdict(choice))

    # the bin ------------------------------------------------------------------------------

    def empty_bin(self) -> int:
        """Delete binned takes and their sound for good; returns how many.

        Raises
        ------
        StoreError
            What was deleted before it stays deleted; the rest stays in the bin.
        """
        self._check_writable()
        binned = self.takes(binned=True)
        for take in binned:
            files = [*self._curves_of(take.id)]
            with contextlib.suppress(StoreError):  # a path that leaves the studio is not ours
                sound = self.audio_path(take)
                files += [sound, note_path(sound)]
            with self._change("takes", takes=(take.id,)):
                for table in OF_A_TAKE:
                    self._db.execute(f"DELETE FROM {table} WHERE take_id = ?", (take.id,))
                self._forget_take(take.id)
                self._db.execute("DELETE FROM take WHERE id = ?", (take.id,))
            with store_errors():
                for path in files:
                    path.unlink(missing_ok=True)
        return len(binned)


def _suffix(source: Path) -> str:
    suffix = source.suffix.lower()[:6]
    return suffix if suffix[1:].isalnum() and suffix.isascii() else ""


def take_from(row: Sequence[Any]) -> TakeRecord:
    """A take; what cannot be true in it (an older version let it in) reads as a usual value."""
    values = dict(zip(TAKE_FIELDS, row, strict=True))
    values["binned"] = bool(values["binned"])
    if not is_utc(values["recorded_utc"]):
        values["recorded_utc"] = EPOCH
    for name, (low, high, usual) in _SENSIBLE.items():
        value = values[name]
        if not isinstance(value, (int, float)) or not low <= value <= high:
            values[name] = usual
    return TakeRecord(**values)


_SENSIBLE: dict[str, tuple[float, float, float]] = {
    "utc_offset_min": (-14 * 60, 14 * 60, 0),
    "duration_s": (0.0, 86_400.0, 0.0),
    "a4_hz": (300.0, 500.0, 440.0),
    "tolerance_cents": (0.1, 200.0, 10.0),
}
