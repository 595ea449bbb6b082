"""Takes of a shelf read ahead of need, a few at a time; long ones measured in portions."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence

from PyQt6.QtCore import QObject, QTimer

from jigwright.core.judge.measured import MeasuredNote
from jigwright.services.records import TakeRecord
from jigwright.services.take_reader import TakeReader

_AHEAD_MS, _AHEAD_WORK_MS = 25, 8
PORTION_WORK_MS = 12


class ReadAhead(QObject):
    """Lines the takes of a shelf up while nothing else is to do, so that pages open at once.

    Parameters
    ----------
    reader : TakeReader
    """

    def __init__(self, reader: TakeReader, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._reader = reader
        self._left: list[TakeRecord] = []
        self._timer = QTimer(self)
        self._timer.setInterval(_AHEAD_MS)
        self._timer.timeout.connect(self._go_on)

    def set_shelf(self, takes: Sequence[TakeRecord]) -> None:
        """Read these, the newest first."""
        self._left = list(takes)
        if not self._timer.isActive():
            self._timer.start()

    def close_down(self) -> None:
        """The studio is about to close."""
        self._timer.stop()

    def _go_on(self) -> None:
        until = time.monotonic() + 0.001 * _AHEAD_WORK_MS
        while self._left:
            self._reader.pitches(self._left.pop())
            if time.monotonic() > until:
                return
        self._timer.stop()


class Portions(QObject):
    """Works through something long while the window stays alive.

    Parameters
    ----------
    done : callable
        Takes all results once there are no more.
    """

    def __init__(
        self, done: Callable[[tuple[MeasuredNote, ...]], None], parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._done = done
        self._rest: Iterator[MeasuredNote] = iter(())
        self._found: list[MeasuredNote] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._go_on)

    @property
    def running(self) -> bool:
        """Whether something is still to do."""
        return self._timer.isActive()

    def begin(self, rest: Iterator[MeasuredNote]) -> None:
        """Work through results as they are made."""
        self._rest, self._found = rest, []
        self._timer.start()

    def stop(self) -> None:
        """Give it up."""
        self._timer.stop()
        self._rest = iter(())

    def _go_on(self) -> None:
        until = time.monotonic() + 0.001 * PORTION_WORK_MS
        for one in self._rest:
            self._found.append(one)
            if time.monotonic() > until:
                return
        self._timer.stop()
        self._done(tuple(self._found))
