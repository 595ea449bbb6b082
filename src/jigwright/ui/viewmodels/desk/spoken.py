"""A remark that is spoken at a moment of a take: recorded, kept as a take, held to the note.

It is a recording of the studio like any other, with a note beside it that says what it speaks
about: what an interruption leaves behind becomes a remark at the next start.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.services.growing import Growing, record_of
from jigwright.services.ports import Stream
from jigwright.services.recording import SIMULATED, CaptureRequest, CaptureState
from jigwright.services.recordings import (
    FOLDER,
    RecordingNote,
    SpokenOf,
    remove_recording,
    write_note,
)
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.take_keeper import TakeKeeper, new_take_id
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
    keeper : TakeKeeper
        Makes a take of what was said.
    capture : callable or None
        Opens an input; ``None`` where there is none.
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
        keeper: TakeKeeper,
        capture: Callable[[], Stream] | None,
        *,
        is_taken: Callable[[], bool],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._remarks = studio, session, remarks
        self._keeper, self._capture, self._is_taken = keeper, capture, is_taken
        self._stream: Stream | None = None
        self._state: CaptureState | None = None
        self._growing: Growing | None = None
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
        device = self._session.now.input
        note = self._keeper.note(
            f"remark-{uuid.uuid4().hex[:16]}", input_name=device.name,
            source=tr("Spoken remark"), keeps="whole", free=True,
        )  # fmt: skip
        note = replace(note, about=SpokenOf(take_id=take_id, at_s=at_s, note_id=note_id))
        path = self._studio.folder / FOLDER / f"{note.id}.wav"
        try:
            path.parent.mkdir(exist_ok=True)
            write_note(path, note)
        except OSError as error:
            self.message.emit(error_sentence(error))
            return
        self._growing, self._state = Growing(path, note), None
        self._keeper.alive.append(self._growing)
        self._stream = self._capture()
        self._stream.start(CaptureRequest(device_id=device.id, to=path))
        self._timer.start()
        self.changed.emit()

    def end(self) -> None:
        """It was said: keep it, unless it was but a touch of the key."""
        growing = self._growing
        if growing is None:
            return
        self._read()
        seconds = self.seconds
        self.let_be()
        if seconds < LEAST_S:
            remove_recording(growing.path)
            self.message.emit(tr("Too short: nothing was kept. Press once, speak, press again."))
            return
        growing.ended = True
        self._keeper.cut(
            growing, (0.0, growing.seconds),
            record=record_of(growing.note, (0.0, seconds), take_id=new_take_id()),
            done=partial(self.hold, growing.note),
            failed=lambda e: self.message.emit(error_sentence(e)),
        )  # fmt: skip

    def hold(self, note: RecordingNote, kept: TakeRecord) -> None:
        """What was said is a take: hold it to the moment it speaks about."""
        about = note.about
        if about is None or not any(t.id == about.take_id for t in self._studio.takes()):
            return  # its take has gone meanwhile: what was said stays a take
        words = tr("Spoken remark, {s} s").format(s=max(1, round(kept.duration_s)))
        try:
            self._remarks.hold(
                about.take_id, about.at_s, words, note_id=about.note_id, spoken=kept.id,
                who=note.player,
            )  # fmt: skip
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
            return
        self.changed.emit()

    def let_be(self) -> None:
        """Close the microphone; what was said stays, and becomes a remark at the next start."""
        self._timer.stop()
        if self._growing is not None and self._growing in self._keeper.alive:
            self._keeper.alive.remove(self._growing)
        self._growing = None
        if self._stream is not None:
            self._stream.close()
            self._stream = None
            self.changed.emit()

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
