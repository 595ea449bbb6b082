"""The demo class is recorded behind the window: one take after the other, the first jig's first."""

from __future__ import annotations

import shutil
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.services.demo import MadeTake, keep_take, to_make
from jigwright.services.jobs import DemoRequest
from jigwright.services.studio_port import StudioPort
from jigwright.ui.tasks import JobRunner
from jigwright.wording.errors import error_sentence

_FIRST_MS = 400
_MOST_FAILURES = 3


class DemoMaking(QObject):
    """Makes what a demo studio lacks; interrupted, it goes on where it was.

    Parameters
    ----------
    studio : StudioPort
    jobs : JobRunner
        Of a worker of its own: nobody waits behind it.
    scratch : Path
        For sounds on their way; emptied before and after.

    Signals
    -------
    changed
        Read :attr:`made` and :attr:`total`.
    first : str
        The first take of an empty studio is there.
    message : str
    """

    changed = pyqtSignal()
    first = pyqtSignal(str)
    message = pyqtSignal(str)

    def __init__(
        self, studio: StudioPort, jobs: JobRunner, scratch: Path, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._studio, self._jobs, self._scratch = studio, jobs, scratch
        self._failures = 0
        self._asked = self._closed = False
        self.made, self.total = 0, 0

    @property
    def running(self) -> bool:
        """Whether takes are still being made."""
        return self.made < self.total and not self._closed

    def start(self) -> None:
        """Begin once the window stands."""
        shutil.rmtree(self._scratch, ignore_errors=True)  # of a run that was interrupted
        self.total, self.made = len(to_make()), len(to_make()) - len(self._left())
        if self.running and not self._studio.read_only:
            QTimer.singleShot(_FIRST_MS, self._next)
        self.changed.emit()

    def close_down(self) -> None:
        """Leave the rest for the next time."""
        self._closed = True
        self._jobs.close()
        shutil.rmtree(self._scratch, ignore_errors=True)

    def _left(self) -> tuple[tuple[str, int], ...]:
        takes = (*self._studio.takes(), *self._studio.takes(binned=True))
        return to_make({t.id for t in takes})

    def _next(self) -> None:
        if self._asked:
            return
        left = self._left()
        if self._closed or not left:
            self.made = self.total
            self.changed.emit()
            return
        jig_id, i = left[min(self._failures, len(left) - 1)]
        self._asked = True
        self._jobs.run(
            "demo_take", DemoRequest(jig_id=jig_id, i=i, scratch=self._scratch),
            done=self._done, failed=self._failed,
        )  # fmt: skip

    def _done(self, made: MadeTake) -> None:
        self._asked = False
        if self._closed:
            return
        empty = not self._studio.takes()
        try:
            keep_take(self._studio, made)
        except (JigwrightError, OSError) as error:
            self._failed(error)
            return
        self.made += 1
        self.changed.emit()
        if empty:
            self.first.emit(made.record.id)
        QTimer.singleShot(0, self._next)

    def _failed(self, error: Exception) -> None:
        """One that cannot be made is left out; several, and it stops and says why."""
        self._asked = False
        self._failures += 1
        if self._failures >= _MOST_FAILURES:
            self.message.emit(error_sentence(error))
            self.total = self.made
            self.changed.emit()
            return
        self._next()
