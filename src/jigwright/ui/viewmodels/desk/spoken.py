"""A remark that is spoken at a moment of a take: recorded, kept as a take, held to the note."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.services.ports import Stream
from jigwright.services.recording import (
    SIMULATED,
    CaptureRequest,
    CaptureState,
    CutRequest,
    CutTake,
)
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.verdicts import trouble_sentence

_POLL_MS = 50
LEAST_S, MOST_S = 0.7, 60.0


class SpokenRemarks(QObject):
    """Records one remark at a time from the chosen input.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    remarks : Remarks
    jobs : JobRunner
    cache : Path
    capture : callable or None
        Opens an input; ``None`` where there is none.
    record : callable
        The record of a take to be from its source.
    is_taken : callable
        Whether somebody else records now.

    Signals
    -------
    changed
        It began, went on or ended.
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        remarks: Remarks,
        jobs: JobRunner,
        cache: Path,
        capture: Callable[[], Stream] | None,
        *,
        record: Callable[[str], TakeRecord],
        is_taken: Callable[[], bool],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._remarks, self._jobs = studio, session, remarks, jobs
        self._cache, self._capture = cache, capture
        self._record, self._is_taken = record, is_taken
        self._stream: Stream | None = None
        self._state: CaptureState | None = None
        self._at: tuple[str, float, str | None] = "", 0.0, None
        self._n = 0
        self._timer = QTimer(self)
        self._timer.setInterval(_POLL_MS)
        self._timer.timeout.connect(self._poll)

    @property
    def speaking(self) -> bool:
        """Whether it is recorded now."""
        return self._stream is not None

    @property
    def seconds(self) -> float:
        """How long the remark is by now."""
        return self._state.seconds if self._state is not None else 0.0

    @property
    def can_speak(self) -> bool:
        """Whether there is a microphone, and nobody else records from it."""
        there = self._capture is not None and self._session.now.input.id != SIMULATED
        return there and not self._studio.read_only and not self._is_taken()

    def begin(self, take_id: str, at_s: float, note_id: str | None) -> None:
        """Speak about a moment of a take."""
        if self.speaking or not self.can_speak:
            return
        assert self._capture is not None
        self._cache.mkdir(parents=True, exist_ok=True)
        self._n += 1
        self._file.unlink(missing_ok=True)
        self._at, self._state = (take_id, at_s, note_id), None
        self._stream = self._capture()
        self._stream.start(CaptureRequest(device_id=self._session.now.input.id, to=self._file))
        self._timer.start()
        self.changed.emit()

    def end(self) -> None:
        """It was said: keep it, unless it was but a touch of the key."""
        self._read()
        seconds = self.seconds
        self.give_up()
        if seconds < LEAST_S:
            self.message.emit(tr("Too short: nothing was kept. Press once, speak, press again."))
            return
        take_id, at_s, note_id = self._at
        record = replace(self._record(tr("Spoken remark")), jig_id=None, jig_revision=None)
        now = self._session.now
        request = CutRequest(
            path=self._file, start_s=0.0, stop_s=seconds, to=self._file.with_suffix(".flac"),
            instrument_id=now.kind, strings=now.strings, a4_hz=record.a4_hz,
        )  # fmt: skip

        def done(cut: CutTake) -> None:
            try:
                kept = self._studio.add_take(
                    replace(record, duration_s=cut.seconds), cut.path, cut.heard
                )
                words = tr("Spoken remark, {s} s").format(s=max(1, round(cut.seconds)))
                self._remarks.hold(take_id, at_s, words, note_id=note_id, spoken=kept.id)
            except JigwrightError as error:
                self.message.emit(error_sentence(error))
                return
            for path in (cut.path, request.path):
                path.unlink(missing_ok=True)
            self.changed.emit()

        self._jobs.run(
            "cut_take", request, done=done, failed=lambda e: self.message.emit(error_sentence(e))
        )

    def give_up(self) -> None:
        """Close the microphone; nothing is kept."""
        self._timer.stop()
        if self._stream is not None:
            self._stream.close()
            self._stream = None
            self.changed.emit()

    @property
    def _file(self) -> Path:
        return self._cache / f"remark-{self._n}.wav"

    def _read(self) -> bool:
        """Take in how the recording goes; whether it goes on."""
        if self._stream is None:
            return False
        states, ended = self._stream.messages()
        if states:
            self._state = states[-1]
        return not ended and (self._state is None or self._state.running)

    def _poll(self) -> None:
        before = int(self.seconds)
        goes_on = self._read()
        if goes_on and self.seconds < MOST_S:
            if int(self.seconds) != before:
                self.changed.emit()
            return
        state = self._state
        self.end()  # what was said so far is kept
        if state is not None and state.trouble is not None:
            self.message.emit(trouble_sentence(state.trouble, state.detail))
