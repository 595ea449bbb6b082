"""What the window is given from outside."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QProcess

from jigwright.services.ports import SoundOutput, Stream, Worker
from jigwright.services.studio_port import StudioPort


@dataclass(frozen=True, slots=True, kw_only=True)
class Outside:
    """Adapters behind their ports.

    Parameters
    ----------
    studio : StudioPort
    worker : Worker
    output : callable
        Opens the sound output.
    cache : Path
        For things that can be made again.
    demo : bool
        The studio is the demo's.
    demo_worker : Worker or None
        Makes the takes of the demo class, beside the work that somebody waits for.
    capture, ear : callable or None
        Make the processes that record and that listen; ``None``: no recording.
    """

    studio: StudioPort
    worker: Worker
    output: Callable[[], SoundOutput]
    cache: Path
    demo: bool = False
    demo_worker: Worker | None = None
    capture: Callable[[], Stream] | None = None
    ear: Callable[[], Stream] | None = None


def open_elsewhere(folder: Path) -> None:
    """Open another studio folder in a program of its own."""
    QProcess.startDetached(sys.executable, ["-m", "jigwright", "--studio", str(folder)])
