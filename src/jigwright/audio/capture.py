"""The capture process: from a device, or from the simulated player, into a growing file.

PortAudio's callback copies into a queue of blocks and never blocks; the process's own loop drains
it to disk and speaks of its state twenty times a second. Overflows are counted. The sound server
moves a stream silently to another source when its own is pulled out, so the list of sources is
watched.
"""

from __future__ import annotations

import errno
import os
import shutil
import subprocess
import time
from collections import deque
from multiprocessing.connection import Connection
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from jigwright.audio.portaudio import PORTAUDIO, default_input
from jigwright.audio.wav_stream import WavWriter
from jigwright.services.recording import (
    SIMULATED,
    CaptureRequest,
    CaptureState,
    CaptureTrouble,
    InputDevice,
)

_SAY_S = 0.05
_WATCH_S = 2.0
_BLOCK_S = 0.01
_ROOM_S = 3.0


def capture(connection: Connection, request: CaptureRequest) -> None:
    """Body of the process: records until the pipe closes or says stop."""
    _Capture(connection, request).run()


class _Capture:
    def __init__(self, connection: Connection, request: CaptureRequest) -> None:
        self._connection, self._request = connection, request
        self._blocks: deque[NDArray[np.float32]] = deque()
        self._n_overflows = 0
        self._zero_s: float | None = None
        self._rms: deque[float] = deque(maxlen=round(_ROOM_S / _SAY_S))
        self._recent: deque[NDArray[np.float32]] = deque(maxlen=10)
        self._trouble: CaptureTrouble | None = None
        self._detail = ""
        self._ended = False

    def run(self) -> None:
        try:
            writer = WavWriter(self._request.to, self._request.rate_hz)
        except OSError as error:
            self._fail_disk(error)
            self._say(0, running=False)
            return
        try:
            source = self._open()
            with source:
                self._loop(writer, source)
        except _NoDeviceError as error:
            self._trouble, self._detail = "no_device", str(error)
        except OSError as error:
            self._fail_disk(error)
        except (BrokenPipeError, EOFError):
            pass
        except Exception as error:
            self._trouble, self._detail = "failed", f"{type(error).__name__}: {error}"
        n = writer.n_samples
        try:
            writer.close()
        except OSError as error:
            self._fail_disk(error)
        self._say(n, running=False)

    def _fail_disk(self, error: OSError) -> None:
        full = error.errno in (errno.ENOSPC, errno.EDQUOT)
        self._trouble, self._detail = (
            ("disk_full" if full else "disk"),
            error.strerror or str(error),
        )

    def _open(self) -> Any:
        if self._request.device_id == SIMULATED:
            return _Simulated(self._request, self._take)
        return _Device(self._request, self._take, self._overflow, self._end)

    def _take(self, block: NDArray[np.float32]) -> None:
        self._blocks.append(block)

    def _overflow(self) -> None:
        self._n_overflows += 1

    def _end(self) -> None:
        self._ended = True

    def _loop(self, writer: WavWriter, source: Any) -> None:
        said = watched = time.monotonic()
        while True:
            if self._connection.poll(0.005):
                try:
                    self._connection.recv()
                except (EOFError, OSError):
                    return
                return
            source.tick()
            while self._blocks:
                block = self._blocks.popleft()
                self._recent.append(block)
                writer.write(block)
                if not self._blocks:  # blocks come late, never early: the least is kept
                    zero_s = time.monotonic() - writer.n_samples / self._request.rate_hz
                    self._zero_s = zero_s if self._zero_s is None else min(self._zero_s, zero_s)
            if self._ended and not self._blocks:
                self._trouble = "lost_device"
                return
            now = time.monotonic()
            if now - said >= _SAY_S:
                said = now
                self._say(writer.n_samples, running=True)
            if now - watched >= _WATCH_S:
                watched = now
                if not source.is_there():
                    self._trouble = "lost_device"
                    return

    def _say(self, n_samples: int, *, running: bool) -> None:
        recent = np.concatenate(list(self._recent)) if self._recent else np.zeros(1)
        if self._recent:
            self._rms.append(float(np.sqrt(np.mean(recent**2))))
        try:
            self._connection.send(
                CaptureState(
                    running=running, seconds=n_samples / self._request.rate_hz,
                    peak=float(np.max(np.abs(recent))), rms=float(np.sqrt(np.mean(recent**2))),
                    room=min(self._rms, default=0.0),
                    n_overflows=self._n_overflows, zero_s=self._zero_s,
                    trouble=self._trouble, detail=self._detail,
                )
            )  # fmt: skip
        except (BrokenPipeError, OSError):
            self._ended = True


class _NoDeviceError(Exception):
    """No device could be opened."""


class _Simulated:
    """Hands raw samples over in real time, then silence."""

    def __init__(self, request: CaptureRequest, take: Any) -> None:
        self._request, self._take = request, take
        self._samples: NDArray[np.float32] = np.zeros(0, dtype=np.float32)
        self._at = 0
        self._start = 0.0
        self._room = np.random.default_rng(0)

    def __enter__(self) -> Self:
        if self._request.play_raw is not None:
            self._samples = np.memmap(self._request.play_raw, dtype=np.float32, mode="r")
        self._start = time.monotonic()
        return self

    def __exit__(self, *_: object) -> None:
        self._samples = np.zeros(0, dtype=np.float32)

    def tick(self) -> None:
        """Hand over what is due."""
        rate = self._request.rate_hz
        due = int((time.monotonic() - self._start) * rate * self._request.speed)
        step = round(_BLOCK_S * rate)
        while self._at + step <= due:
            block = np.zeros(step, dtype=np.float32)
            part = self._samples[self._at : self._at + step]
            block[: len(part)] = part
            block += 1e-4 * self._room.standard_normal(step, dtype=np.float32)
            self._take(block)
            self._at += step

    @staticmethod
    def is_there() -> bool:
        """The simulated player never goes away."""
        return True


class _Device:
    """A PortAudio input stream; the source is chosen through the sound server's environment."""

    def __init__(self, request: CaptureRequest, take: Any, overflow: Any, end: Any) -> None:
        self._request, self._take, self._overflow, self._end = request, take, overflow, end
        self._stream: Any = None

    def __enter__(self) -> Self:
        if self._request.device_id:
            os.environ["PULSE_SOURCE"] = self._request.device_id
        try:
            sounddevice = PORTAUDIO.library()
            names = [d["name"] for d in sounddevice.query_devices() if d["max_input_channels"]]
            device = "pulse" if "pulse" in names else None
            self._stream = sounddevice.InputStream(
                samplerate=self._request.rate_hz, channels=1, dtype="float32", device=device,
                blocksize=round(_BLOCK_S * self._request.rate_hz), callback=self._callback,
                finished_callback=self._end,
            )  # fmt: skip
            self._stream.start()
        except Exception as error:
            raise _NoDeviceError(str(error)) from error
        return self

    def __exit__(self, *_: object) -> None:
        if self._stream is not None:
            self._stream.close()

    def _callback(self, data: NDArray[np.float32], _n: int, _time: Any, status: Any) -> None:
        if status and status.input_overflow:
            self._overflow()
        self._take(data[:, 0].copy())

    def tick(self) -> None:
        """Nothing to do: blocks come by themselves."""

    def is_there(self) -> bool:
        """Whether the chosen source is still listed."""
        if not self._request.device_id:
            return True
        names = server_sources()
        return names is None or self._request.device_id in [n for n, _ in names]


def server_sources() -> list[tuple[str, str]] | None:
    """Name and description of the sound server's sources; ``None`` when it cannot be asked."""
    program = shutil.which("pactl")
    if program is None:
        return None
    try:
        done = subprocess.run(
            [program, "list", "sources"], capture_output=True, text=True, timeout=2.0, check=False,
            env={**os.environ, "LC_ALL": "C"},
        )  # fmt: skip
    except (OSError, subprocess.TimeoutExpired):
        return None
    if done.returncode != 0:
        return None
    sources: list[tuple[str, str]] = []
    name = ""
    for line in done.stdout.splitlines():
        word, _, value = line.strip().partition(": ")
        if word == "Name":
            name = value
        elif word == "Description" and name:
            sources.append((name, value))
            name = ""
    return sources


def list_inputs() -> tuple[InputDevice, ...]:
    """What can be recorded from, the sound server's default first."""
    sources = server_sources()
    found: list[InputDevice] = []
    if sources is not None:
        real = [s for s in sources if not s[0].endswith(".monitor")]
        found = [InputDevice(id=name, name=text) for name, text in real]
    else:
        name = default_input()
        found = [InputDevice(id="", name=name)] if name else []
    return tuple(found)
