"""The recording that is open: its file, the two processes, and an ear that may be replaced."""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

from jigwright.core.jig.model import Jig
from jigwright.services.ear_watch import EarWatch
from jigwright.services.growing import Growing
from jigwright.services.recording import (
    SILENT,
    Accompaniment,
    CaptureRequest,
    CaptureState,
    EarRequest,
    EarSays,
)
from jigwright.services.recordings import FOLDER, RecordingNote, write_note
from jigwright.services.streams import Streams

EarEnd = Literal["again", "given_up"]


def recording_path(folder: Path, now: datetime | None = None) -> Path:
    """Where the next recording of a studio is written; its name begins with the moment in UTC.

    Parameters
    ----------
    folder : Path
        The studio's.
    now : datetime, optional
        In UTC.
    """
    stamp = (now or datetime.now(UTC)).strftime("%Y%m%dT%H%M%SZ")
    return folder / FOLDER / f"{stamp}-{uuid.uuid4().hex[:6]}.wav"


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """What one look at both processes brought.

    Parameters
    ----------
    level : CaptureState or None
        The recorder's newest word.
    ended : bool
        The recorder says no more, or that it has stopped.
    says : tuple of EarSays
        Nothing when the recorder has ended: see :meth:`Sitting.last_words`.
    """

    level: CaptureState | None = None
    ended: bool = False
    says: tuple[EarSays, ...] = ()


class Sitting:
    """Opens a recording, looks after it, and lets another ear take over where one fails.

    Parameters
    ----------
    streams : Streams
    clock : callable
        Monotonic seconds.
    """

    def __init__(self, streams: Streams, clock: Callable[[], float] = time.monotonic) -> None:
        self._streams, self._clock = streams, clock
        self.growing: Growing | None = None
        self.hearing = EarWatch(clock)
        self._jig: Jig | None = None
        self._recorded_s = 0.0
        self._ear_ended = False
        self._beside = SILENT
        self.signals = False
        """Whether the ear listens for plucked signals."""

    @property
    def listening(self) -> bool:
        """Whether the input is open."""
        return self._streams.running

    def open(
        self,
        path: Path,
        note: RecordingNote,
        *,
        jig: Jig | None,
        device_id: str,
        raw: Path | None,
        speed: float,
    ) -> None:
        """Begin to record into a file and to hear what comes.

        Raises
        ------
        OSError
            When the folder or the note beside the file cannot be written; nothing is open then.
        """
        path.parent.mkdir(exist_ok=True)
        write_note(path, note)
        self.growing, self._jig, self._recorded_s = Growing(path, note), jig, 0.0
        self.hearing = EarWatch(self._clock)
        self._beside = replace(self._beside, since_s=0.0)
        self._streams.open(
            CaptureRequest(device_id=device_id, to=path, play_raw=raw, speed=speed),
            self._request(self.growing, 0.0),
        )

    def look(self) -> Looked:
        """What recorder and ear have said since the last look."""
        states, ended = self._streams.recorded()
        level = states[-1] if states else None
        if level is not None:
            self._recorded_s = level.seconds
        if ended or (level is not None and not level.running):
            return Looked(level=level, ended=True)
        says, self._ear_ended = self._streams.heard()
        self.hearing.said(len(says), self._recorded_s)
        return Looked(level=level, says=says)

    def last_words(self) -> tuple[EarSays, ...]:
        """What the ear still said when the recorder ended."""
        return self._streams.heard()[0]

    def mend_ear(self) -> EarEnd | None:
        """See after a look whether the ear has died or hangs; let another one take over.

        Returns
        -------
        {"again", "given_up"} or None
            Another ear goes on where the last one was; or none is tried any more, and what is
            played is listened to afterwards. ``None`` while it hears, or was given up before.
        """
        growing = self.growing
        failed = self._ear_ended or self.hearing.hangs(self._recorded_s)
        if not failed or growing is None or self.hearing.given_up:
            return None
        self._ear_ended = False
        if self.hearing.died():
            self._streams.restart_ear(self._request(growing, _not_heard_from_s(growing)))
            return "again"
        self._streams.drop_ear()
        return "given_up"

    def sounds_beside(self, beside: Accompaniment) -> bool:
        """Our loudspeaker begins or ends something: another ear knows it from now on.

        It begins where the last one was; a take that is being played is heard again from its
        beginning.

        Returns
        -------
        bool
            Whether another ear took over.
        """
        beside = replace(beside, since_s=self._recorded_s)
        same = replace(beside, since_s=self._beside.since_s) == self._beside
        if same:
            return False
        self._beside = beside
        return self._another_ear()

    def heed_signals(self, wished: bool) -> bool:
        """Plucks are signals from now on, or no longer; whether another ear took over."""
        if wished == self.signals:
            return False
        self.signals = wished
        return self._another_ear()

    def _another_ear(self) -> bool:
        """Let an ear that knows what holds now take over; says whether one did."""
        growing = self.growing
        if growing is None or self.hearing.given_up:
            return False
        self._streams.restart_ear(self._request(growing, _not_heard_from_s(growing)))
        return True

    def was_heard(self, until_s: float, *, own_from_s: float | None) -> None:
        """Write down how far the ear has come, and since when the player plays himself."""
        if self.growing is not None:
            ledger = self.growing.ledger
            self.growing.ledger = ledger.was_heard(until_s, playing_s=own_from_s)

    def close(self) -> Growing | None:
        """Close the input; all that was played is in the file when this returns."""
        growing, self.growing = self.growing, None
        self._streams.close()
        return growing

    def _request(self, growing: Growing, from_s: float) -> EarRequest:
        note = growing.note
        return EarRequest(
            path=growing.path, instrument_id=note.kind, strings=note.strings, a4_hz=note.a4_hz,
            jig=self._jig, from_s=from_s, beside=self._beside, signals=self.signals,
        )  # fmt: skip


def _not_heard_from_s(growing: Growing) -> float:
    """Where another ear goes on, so that nothing stays unheard."""
    ledger = growing.ledger
    if ledger.playing_s is None:
        return ledger.heard_s
    return min(ledger.heard_s, ledger.playing_s)
