"""Sound output: a device through PortAudio, and a stand-in that records what was played."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jigwright.audio.portaudio import PORTAUDIO


class RecordingOutput:
    """A stand-in without a device: remembers what was played and keeps time by a clock.

    Parameters
    ----------
    clock : callable
        Seconds, monotone.
    """

    available = False

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._started: float | None = None
        self._length_s = 0.0
        self._loop = False
        self.played: list[tuple[NDArray[np.float32], int, bool]] = []
        self.zero_s: float | None = None

    def play(self, samples: NDArray[np.float32], rate_hz: int, *, loop: bool = False) -> None:
        """Note down what would sound."""
        self.played.append((samples.copy(), rate_hz, loop))
        self._started = self.zero_s = self._clock()
        self._length_s = len(samples) / rate_hz
        self._loop = loop

    def play_blocks(self, make: Callable[[int, int], NDArray[np.float32]], rate_hz: int) -> None:
        """Note down the first second of what would sound."""
        self.play(make(0, rate_hz), rate_hz, loop=True)

    def stop(self) -> None:
        """Fall silent."""
        self._started = None

    @property
    def position_s(self) -> float | None:
        """Seconds into what plays."""
        if self._started is None:
            return None
        at = self._clock() - self._started
        if self._loop and self._length_s > 0:
            return at % self._length_s
        if at >= self._length_s:
            self._started = None
            return None
        return at


class DeviceOutput:
    """The default output device; opened when something is first played."""

    available = True

    def __init__(self) -> None:
        self._sounddevice: Any = PORTAUDIO.library()
        self._sounddevice.check_output_settings(channels=1, samplerate=48_000)
        self._stream: Any = None
        self._samples: NDArray[np.float32] = np.zeros(0, dtype=np.float32)
        self._rate_hz = 48_000
        self._at = 0
        self._loop = False
        self.zero_s: float | None = None

    def play(self, samples: NDArray[np.float32], rate_hz: int, *, loop: bool = False) -> None:
        """Begin to play, replacing what plays now."""
        self.stop()
        self._samples, self._rate_hz = np.ascontiguousarray(samples, dtype=np.float32), rate_hz
        self._at, self._loop = 0, loop
        self._stream = self._sounddevice.OutputStream(
            samplerate=rate_hz, channels=1, dtype="float32", callback=self._fill
        )
        self._stream.start()

    def play_blocks(self, make: Callable[[int, int], NDArray[np.float32]], rate_hz: int) -> None:
        """Play blocks as they are made, replacing what plays now."""
        self.stop()
        self._samples, self._rate_hz, self._at = np.zeros(0, dtype=np.float32), rate_hz, 0

        def fill(out: NDArray[np.float32], n_frames: int, _time: Any, _status: Any) -> None:
            self._note_time(self._at / rate_hz)
            out[:, 0] = make(self._at, n_frames)
            self._at += n_frames

        self._stream = self._sounddevice.OutputStream(
            samplerate=rate_hz, channels=1, dtype="float32", callback=fill
        )
        self._stream.start()

    def _note_time(self, at_s: float) -> None:
        """When sample 0 was handed over: calls come late, never early, so the least is kept."""
        zero_s = time.monotonic() - at_s
        self.zero_s = zero_s if self.zero_s is None else min(self.zero_s, zero_s)

    def _fill(self, out: NDArray[np.float32], n_frames: int, _time: Any, _status: Any) -> None:
        if self._at or self.zero_s is None:
            self._note_time(self._at / self._rate_hz)
        done = 0
        while done < n_frames:
            part = self._samples[self._at : self._at + n_frames - done]
            out[done : done + len(part), 0] = part
            done += len(part)
            self._at += len(part)
            if self._at >= len(self._samples):
                if self._loop and len(self._samples):
                    self._at = 0
                    continue
                out[done:, 0] = 0.0
                if not len(part):
                    raise self._sounddevice.CallbackStop
                return

    def stop(self) -> None:
        """Fall silent and close the stream."""
        if self._stream is not None:
            self._stream.close()
            self._stream = None
        self.zero_s = None

    @property
    def position_s(self) -> float | None:
        """Seconds into what plays."""
        if self._stream is None:
            return None
        if not self._stream.active:
            self.stop()
            return None
        return self._at / self._rate_hz


def open_output(*, stand_in: bool = False) -> RecordingOutput | DeviceOutput:
    """Return the device, or the stand-in where there is none."""
    if stand_in:
        return RecordingOutput()
    try:
        return DeviceOutput()
    except Exception:
        return RecordingOutput()
