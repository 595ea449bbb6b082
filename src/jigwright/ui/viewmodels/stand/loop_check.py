"""Measuring the way from loudspeaker to microphone, and where the metronome was in a take."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.delay_sweep import PROBE_S, LoopDelay, probe
from jigwright.core.values import Unmeasured
from jigwright.services.jobs import LoopRequest
from jigwright.services.ports import Stream
from jigwright.services.recording import RATE_HZ, SIMULATED, CaptureRequest, CaptureState
from jigwright.services.studio_port import SettingStore
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.wording.errors import error_sentence
from jigwright.wording.verdicts import loop_sentence, trouble_sentence

_POLL_MS = 30
_BEFORE_S = 0.4
_AFTER_S = 1.8
_LIMIT_S = 12.0


class LoopCheck(QObject):
    """Plays a probe, records it, keeps the delay with the input.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(
        self,
        studio: SettingStore,
        sound: SoundModel,
        jobs: JobRunner,
        cache: Path,
        capture: Callable[[], Stream] | None,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._sound, self._jobs, self._cache = studio, sound, jobs, cache
        self._make_capture = capture
        self._stream: Stream | None = None
        self._file = cache / "loop.wav"
        self._device_id = ""
        self._played_at_s: float | None = None
        self._until = 0.0
        self._state: CaptureState | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_POLL_MS)
        self._timer.timeout.connect(self._poll)

    @property
    def running(self) -> bool:
        """Whether the probe is being played or sought."""
        return self._stream is not None

    def can_begin(self, device_id: str) -> bool:
        """Whether there is a microphone and a loudspeaker to measure."""
        return self._make_capture is not None and device_id != SIMULATED and not self.running

    def begin(self, device_id: str) -> None:
        """Record, play the probe, look for it."""
        if not self.can_begin(device_id):
            return
        assert self._make_capture is not None
        self._cache.mkdir(parents=True, exist_ok=True)
        self._file.unlink(missing_ok=True)
        self._device_id, self._played_at_s, self._state = device_id, None, None
        self._until = time.monotonic() + _LIMIT_S
        self._stream = self._make_capture()
        self._stream.start(CaptureRequest(device_id=device_id, to=self._file))
        self._timer.start()

    def stop(self) -> None:
        """Give it up."""
        self._timer.stop()
        if self._stream is not None:
            self._stream.close()
            self._stream = None

    def _poll(self) -> None:
        if self._stream is None:
            return
        states, ended = self._stream.messages()
        if states:
            self._state = states[-1]
        state = self._state
        if ended or (state is not None and not state.running) or time.monotonic() > self._until:
            self.stop()
            why = state.trouble if state is not None and state.trouble is not None else "failed"
            self.message.emit(trouble_sentence(why, state.detail if state is not None else ""))
            return
        if state is None or state.zero_s is None:
            return
        if self._played_at_s is None:
            if state.seconds > _BEFORE_S:
                self._sound.output.play(probe(RATE_HZ), RATE_HZ)
                self._played_at_s = state.seconds  # mended below, once the output has told
            return
        zero_s = self._sound.output.zero_s
        if zero_s is not None:
            self._played_at_s = zero_s - state.zero_s
        if state.seconds > self._played_at_s + PROBE_S + _AFTER_S:
            self._find(self._played_at_s)

    def _find(self, played_at_s: float) -> None:
        self.stop()
        device_id = self._device_id

        def done(found: LoopDelay | Unmeasured) -> None:
            if isinstance(found, LoopDelay) and not self._studio.read_only:
                self._studio.set_input_delay(device_id, found.seconds, found.uncertainty_s)
            self.message.emit(loop_sentence(found))

        request = LoopRequest(path=self._file, played_at_s=played_at_s)
        self._jobs.run(
            "loop_delay", request, done=done,
            failed=lambda e: self.message.emit(error_sentence(e)), key="loop",
        )  # fmt: skip


def loop_of(studio: SettingStore, device_id: str) -> LoopDelay | None:
    """The delay that was measured for an input; ``None`` when none was."""
    kept = studio.input_delay(device_id)
    return None if kept is None else LoopDelay(seconds=kept[0], uncertainty_s=kept[1])
