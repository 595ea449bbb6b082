"""What the use cases need from outside, as protocols."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

Progress = Callable[[float], None]


class SoundFiles(Protocol):
    """Reading and writing sound files."""

    def read(self, path: Path) -> tuple[NDArray[np.float32], int]:
        """Return samples of shape (n, channels) and the rate in Hz.

        Raises
        ------
        AudioError
        """

    def write_wav(self, path: Path, samples: NDArray[np.float32], rate_hz: int) -> None:
        """Write a 24-bit WAV file, complete or not at all."""


class SoundOutput(Protocol):
    """Where sound is played."""

    def play(self, samples: NDArray[np.float32], rate_hz: int, *, loop: bool = False) -> None:
        """Begin to play mono samples, replacing what plays now."""

    def play_blocks(self, make: Callable[[int, int], NDArray[np.float32]], rate_hz: int) -> None:
        """Play without end what ``make(start_sample, n_samples)`` returns."""

    def stop(self) -> None:
        """Fall silent."""

    @property
    def zero_s(self) -> float | None:
        """Monotonic time at which the first sample was handed over; ``None`` when unknown."""

    @property
    def position_s(self) -> float | None:
        """Seconds into what plays, or ``None`` when silent."""


class Stream(Protocol):
    """A process that speaks while it runs."""

    @property
    def running(self) -> bool:
        """Whether it is alive."""

    def prepare(self) -> None:
        """Start it ahead of time; it waits for its request."""

    def start(self, request: Any) -> int:
        """Start it anew; returns the descriptor of its pipe."""

    def messages(self) -> tuple[list[Any], bool]:
        """What it has said since the last call, and whether it has ended."""

    def send(self, message: Any) -> None:
        """Say something to it."""

    def close(self, *, patience_s: float = 2.0) -> None:
        """End it; kill it when it does not end within so many seconds."""


class Worker(Protocol):
    """Runs named jobs in another process."""

    @property
    def busy(self) -> bool:
        """Whether a job runs or waits."""

    def submit(
        self,
        job: str,
        request: Any,
        *,
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        progress: Progress | None = None,
        patience_s: float = 300.0,
        urgent: bool = False,
        gives_way: bool = False,
    ) -> int:
        """Queue a job; callbacks arrive on the window's thread. Returns its number.

        It fails when it gives no sign of life for ``patience_s`` seconds. Urgent ones go first; one
        that gives way may be begun anew after them.
        """

    def end_overdue(self) -> None:
        """End the running job if it has been silent for too long."""

    def cancel(self, number: int) -> None:
        """Drop a job, killing it if it runs."""

    def pump(self, timeout_s: float = 0.0) -> None:
        """Deliver what the worker has sent to the callbacks."""

    def watch(self, watcher: Callable[[int | None], None]) -> None:
        """Tell ``watcher`` the descriptor to watch, and ``None`` when it is gone."""

    def close(self) -> None:
        """Stop the process."""
