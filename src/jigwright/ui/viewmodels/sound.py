"""Playing takes, spans and targets through the output port."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.tone import RATE_HZ, target_tone
from jigwright.services.jobs import DecodeRequest, RawSound, SlowRequest
from jigwright.services.ports import SoundOutput
from jigwright.ui.tasks import JobRunner
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence

_TICK_MS = 30
_EDGE_S = 0.01


class SoundModel(QObject):
    """What sounds now.

    Signals
    -------
    state_changed
        Playing began, moved or ended.
    failed : str
        A sentence.
    """

    state_changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(
        self,
        output: Callable[[], SoundOutput],
        jobs: JobRunner,
        cache: Path,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._open_output = output
        self._output: SoundOutput | None = None
        self._jobs = jobs
        self._cache = cache
        self._take_id = ""
        self._sound: RawSound | None = None
        self._start_s = 0.0
        self._tone = False
        self._pace = 1.0
        self._gain = 1.0
        self.speed = 1.0
        self.playing = False
        self.what = ""
        self.at_s: float | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)

    @property
    def output(self) -> SoundOutput:
        """The output, opened at first use."""
        if self._output is None:
            self._output = self._open_output()
        return self._output

    @property
    def take_id(self) -> str:
        """The take that sounds; empty where none does."""
        return self._take_id if self.playing and not self._tone else ""

    def play_span(
        self,
        take_id: str,
        path: Path,
        i_channel: int,
        span_s: tuple[float, float] | None,
        *,
        loop: bool,
        what: str,
        gain: float = 1.0,
    ) -> None:
        """Play a take or a span of it, decoding it in the worker first."""
        self._gain = gain
        if self._take_id == take_id and self._sound is not None:
            self._play_sound(self._sound, span_s, loop=loop, what=what)
            return
        self._cache.mkdir(parents=True, exist_ok=True)
        request = DecodeRequest(path=path, i_channel=i_channel, to=self._cache / "playing.f32")

        def done(sound: RawSound) -> None:
            self._take_id, self._sound = take_id, sound
            self._play_sound(sound, span_s, loop=loop, what=what)

        self._jobs.run("decode", request, done=done, failed=self._on_failed, key="sound")

    def play_raw(self, sound: RawSound, *, what: str, loop: bool = False) -> None:
        """Play a sound the worker has made."""
        self._gain = 1.0
        self._play_sound(sound, None, loop=loop, what=what)
        self._take_id, self._sound = "", None

    def play_target(self, f_hz: float, what: str) -> None:
        """Play a tone to compare with."""
        self._begin(target_tone(f_hz, 2.0), RATE_HZ, loop=False, what=what, start_s=0.0)
        self._tone = True

    def play_targets(self, f_hz: tuple[float, ...], what: str) -> None:
        """Play several tones at once."""
        tones = [target_tone(f, 2.0) for f in f_hz]
        together = np.mean(np.stack(tones), axis=0).astype(np.float32)
        self._begin(together, RATE_HZ, loop=False, what=what, start_s=0.0)
        self._tone = True

    def play_line(self, samples: NDArray[np.float32], *, what: str) -> None:
        """Play tones that were made here (48 kHz)."""
        self._begin(samples, RATE_HZ, loop=False, what=what, start_s=0.0)
        self._tone = True

    def stop(self) -> None:
        """Fall silent."""
        if self._output is not None:
            self._output.stop()
        self._timer.stop()
        self.playing, self.at_s = False, None
        self.state_changed.emit()

    def forget(self) -> None:
        """Another take is shown: stop what plays."""
        if self.playing:
            self.stop()

    def _play_sound(
        self, sound: RawSound, span_s: tuple[float, float] | None, *, loop: bool, what: str
    ) -> None:
        samples = np.memmap(sound.path, dtype=np.float32, mode="r", shape=(sound.n_samples,))
        first, last = 0, sound.n_samples
        if span_s is not None:
            first = max(0, round((span_s[0] - 0.02) * sound.rate_hz))
            last = min(last, round((span_s[1] + 0.04) * sound.rate_hz))
        if self.speed < 1.0:
            self._slowed(sound, first, last, loop=loop, what=what)
            return
        part = np.array(samples[first:last]) * np.float32(self._gain)
        self._faded(part, sound.rate_hz, span_s is not None)
        self._begin(part, sound.rate_hz, loop=loop, what=what, start_s=first / sound.rate_hz)

    def cycle_speed(self) -> float:
        """Full speed, three quarters, half; the pitch stays."""
        order = {1.0: 0.75, 0.75: 0.5, 0.5: 1.0}
        self.speed = order[self.speed]
        if self.playing:
            self.stop()
        self.state_changed.emit()
        return self.speed

    def _slowed(self, sound: RawSound, first: int, last: int, *, loop: bool, what: str) -> None:
        self._cache.mkdir(parents=True, exist_ok=True)
        request = SlowRequest(
            path=sound.path, rate_hz=sound.rate_hz, first=first, last=last,
            factor=1.0 / self.speed, to=self._cache / "slow.f32",
        )  # fmt: skip

        def done(slow: RawSound) -> None:
            part = np.fromfile(slow.path, dtype=np.float32) * np.float32(self._gain)
            self._faded(part, slow.rate_hz, True)
            said = tr("{what}, {percent} % of its speed").format(
                what=what, percent=round(100 * self.speed)
            )
            self._begin(part, slow.rate_hz, loop=loop, what=said, start_s=first / sound.rate_hz)
            self._pace = self.speed

        self._jobs.run("slow", request, done=done, failed=self._on_failed, key="sound")

    @staticmethod
    def _faded(part: NDArray[np.float32], rate_hz: int, cut: bool) -> None:
        edge = min(len(part) // 2, round(_EDGE_S * rate_hz))
        if edge and cut:
            ramp = np.linspace(0, 1, edge, dtype=np.float32)
            part[:edge] *= ramp
            part[-edge:] *= ramp[::-1]

    def _begin(
        self, samples: NDArray[np.float32], rate_hz: int, *, loop: bool, what: str, start_s: float
    ) -> None:
        if not len(samples):
            return
        try:
            self.output.play(samples, rate_hz, loop=loop)
        except Exception as error:
            self._on_failed(error)
            return
        if not getattr(self.output, "available", True):
            what = tr("no sound device: silent")
        self._tone, self._pace = False, 1.0
        self._start_s, self.what, self.playing, self.at_s = start_s, what, True, start_s
        self._timer.start()
        self.state_changed.emit()

    def _tick(self) -> None:
        position = self.output.position_s
        if position is None:
            self.stop()
            return
        self.at_s = None if self._tone else self._start_s + position * self._pace
        self.state_changed.emit()

    def _on_failed(self, error: Exception) -> None:
        self.playing = False
        self.failed.emit(error_sentence(error))
