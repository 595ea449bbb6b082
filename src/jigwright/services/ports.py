"""What the use cases need from outside, as protocols."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from jigwright.core.jig.model import Jig
from jigwright.core.judge.work import SetWork
from jigwright.core.sound.heard import Heard, Pair, Segment
from jigwright.services.records import (
    CutFrom,
    DayNote,
    OwnedInstrument,
    Player,
    Remark,
    TakeRecord,
)

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


class StudioPort(Protocol):
    """An open studio; errors are :class:`~jigwright.core.errors.StoreError`."""

    folder: Path

    @property
    def read_only(self) -> bool:
        """Whether another window is the writer."""

    def players(self) -> tuple[Player, ...]:
        """All players."""

    def instruments(self) -> tuple[OwnedInstrument, ...]:
        """All instruments."""

    def jigs(self) -> tuple[Jig, ...]:
        """Newest revision of every jig."""

    def jig(self, jig_id: str, revision: int) -> Jig:
        """One revision."""

    def takes(
        self, *, jig_id: str | None = None, player_id: str | None = None, binned: bool = False
    ) -> tuple[TakeRecord, ...]:
        """Takes in order of time."""

    def activity(self, since_utc: str) -> dict[str, tuple[str, int, float]]:
        """Last take of every player; number and seconds since a moment."""

    @property
    def stamp(self) -> tuple[int, int]:
        """Another value after every change."""

    def heard(self, take_id: str) -> Heard | None:
        """What was heard."""

    def works(self) -> tuple[SetWork, ...]:
        """Work that was set."""

    def set_work(self, work: SetWork) -> None:
        """Set work, or change it."""

    def remove_work(self, work_id: str) -> None:
        """Take work back."""

    def heard_key(self, take_id: str) -> str:
        """Another text whenever a take was heard anew; empty while it was not."""

    def methods(self) -> dict[str, int]:
        """Version of the hearing of every analysed take."""

    def heard_notes(self, take_id: str) -> tuple[tuple[Segment, ...], tuple[Pair, ...]] | None:
        """Only the notes of what was heard."""

    def audio_path(self, take: TakeRecord) -> Path:
        """Where the sound lies."""

    def setting(self, name: str, default: str = "") -> str:
        """A remembered value."""

    def set_setting(self, name: str, value: str) -> None:
        """Remember a value."""

    def day_notes(self, player_id: str) -> tuple[DayNote, ...]:
        """What was written about a player's days."""

    def set_day_note(self, note: DayNote) -> None:
        """Write about a day."""

    def remarks(self, take_id: str) -> tuple[Remark, ...]:
        """Words left in a take, in order of time."""

    def set_remark(self, remark: Remark) -> None:
        """Leave or change a remark; one without words goes."""

    def summaries(self) -> dict[str, tuple[str, str]]:
        """Stored summaries by take."""

    def keep_summaries(self, rows: dict[str, tuple[str, str]]) -> None:
        """Store summaries."""

    def add_player(self, player: Player) -> None:
        """Add or rename a player."""

    def add_instrument(self, owned: OwnedInstrument) -> None:
        """Add or change an instrument."""

    def add_jig(self, jig: Jig, *, utc: str) -> None:
        """Keep a revision."""

    def add_take(
        self, take: TakeRecord, source: Path, heard: Heard | None, *, cut: CutFrom | None = None
    ) -> TakeRecord:
        """Keep a sound file and its take."""

    def cut_spans(self, recording: str) -> tuple[tuple[float, float], ...]:
        """Stretches of a growing recording that became takes."""

    def holds_sound(self, path: Path) -> bool:
        """Whether a take has this very file as its sound."""

    def set_heard(self, take_id: str, heard: Heard) -> None:
        """Keep a newer analysis."""

    def change(self, name: str, take_id: str, values: dict[str, Any], *, utc: str) -> None:
        """Apply an operation that can be undone."""

    def undo(self) -> str | None:
        """Take the last operation back."""

    def redo(self) -> str | None:
        """Do it again."""
