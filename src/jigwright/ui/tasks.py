"""The one job runner: worker jobs for the window, newer superseding older."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QSocketNotifier, QTimer

from jigwright.services.ports import Progress, Worker

_OVERDUE_MS = 1000
_SHORT_S, _LONG_S = 90.0, 900.0
_LONG = ("hear", "cut_take", "find_takes", "warm", "give_take", "take_in", "demo_take", "cut_file")
_URGENT = ("cut_take",)
_GIVE_WAY = ("hear", "find_takes")


class JobRunner(QObject):
    """Submits jobs and delivers their results on the window's thread.

    Parameters
    ----------
    worker : Worker
    parent : QObject, optional
    """

    def __init__(self, worker: Worker, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._worker = worker
        self._notifier: QSocketNotifier | None = None
        self._by_key: dict[str, int] = {}
        self._closed = False
        worker.watch(self._watch)
        self._overdue = QTimer(self)
        self._overdue.setInterval(_OVERDUE_MS)
        self._overdue.timeout.connect(worker.end_overdue)
        self._overdue.start()

    def run(
        self,
        job: str,
        request: Any,
        *,
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        progress: Progress | None = None,
        key: str | None = None,
    ) -> int:
        """Submit a job; with a ``key`` the answer of an older job of that key is dropped.

        Cutting what was just played goes first, and hearing gives way to it. Engraving and making
        sounds take seconds: silent for longer, they are ended, and nothing waits behind them.
        """
        number = 0

        def fresh() -> bool:
            return not self._closed and (key is None or self._by_key.get(key) == number)

        def on_done(value: Any) -> None:
            if fresh():
                done(value)

        def on_failed(error: Exception) -> None:
            if fresh():
                failed(error)

        number = self._worker.submit(
            job, request, done=on_done, failed=on_failed, progress=progress,
            patience_s=_LONG_S if job in _LONG else _SHORT_S, urgent=job in _URGENT,
            gives_way=job in _GIVE_WAY,
        )  # fmt: skip
        if key is not None:
            self._by_key[key] = number
        return number

    @property
    def busy(self) -> bool:
        """Whether a job runs or waits."""
        return self._worker.busy

    def cancel(self, number: int) -> None:
        """Drop a job; its callbacks are not called."""
        self._worker.cancel(number)

    def close(self) -> None:
        """Stop watching and stop the worker; nothing is called back any more."""
        self._closed = True
        self._overdue.stop()
        self._watch(None)
        self._worker.close()

    def _watch(self, descriptor: int | None) -> None:
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
        if descriptor is not None:
            self._notifier = QSocketNotifier(
                descriptor,  # type: ignore[call-overload]  # the stub asks for a voidptr
                QSocketNotifier.Type.Read,
                self,
            )
            self._notifier.activated.connect(lambda *_: self._worker.pump())
