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

    def read(self, path: Path) -> tuple[NDArray[np.float64], int]:
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

    def stop(self) -> None:
        """Fall silent."""

    @property
    def position_s(self) -> float | None:
        """Seconds into what plays, or ``None`` when silent."""


class Worker(Protocol):
    """Runs named jobs in another process."""

    def submit(
        self,
        job: str,
        request: Any,
        *,
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        progress: Progress | None = None,
    ) -> int:
        """Queue a job; callbacks arrive on the window's thread. Returns its number."""

    def cancel(self, number: int) -> None:
        """Drop a job, killing it if it runs."""

    def pump(self, timeout_s: float = 0.0) -> None:
        """Deliver what the worker has sent to the callbacks."""

    def watch(self, watcher: Callable[[int | None], None]) -> None:
        """Tell ``watcher`` the descriptor to watch, and ``None`` when it is gone."""

    def close(self) -> None:
        """Stop the process."""
