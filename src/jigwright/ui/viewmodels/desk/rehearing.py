"""Takes that an older method heard, or none, are heard anew while nothing else goes on."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import METHOD_VERSION, Heard
from jigwright.services.jobs import HearRequest
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.tasks import JobRunner
from jigwright.wording.catalogue import trn

_FIRST_MS, _PAUSE_MS = 4000, 250
_TELL_FROM = 3
_LONG_S = 180.0


class Rehearing(QObject):
    """One take after the other, newest first; what is left is done the next time.

    Signals
    -------
    message : str
    heard : str
        A take has a new analysis.
    """

    message = pyqtSignal(str)
    heard = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        jobs: JobRunner,
        is_busy: Callable[[], bool],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._jobs, self._is_busy = studio, jobs, is_busy
        self._waiting: list[TakeRecord] | None = None
        self._failed: set[str] = set()
        self._running = False
        self._n_done = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._next)

    def start(self, after_ms: int = _FIRST_MS) -> None:
        """Begin, after a while in which the window comes up."""
        if not self._studio.read_only:
            self._timer.start(after_ms)

    def close_down(self) -> None:
        """Leave the rest for the next time."""
        self._timer.stop()

    @property
    def n_waiting(self) -> int:
        """Takes that still wait."""
        return len(self._waiting or ())

    def _next(self) -> None:
        if self._running:
            return
        if self._waiting is None:
            methods = self._studio.methods()
            self._waiting = [
                t for t in self._studio.takes()
                if methods.get(t.id) != METHOD_VERSION and t.id not in self._failed
            ]  # fmt: skip
            # taken from the end: the newest first, long recordings last, since the worker that
            # hears them also engraves and decodes
            self._waiting.sort(key=lambda t: (t.duration_s < _LONG_S, t.recorded_utc))
            if len(self._waiting) >= _TELL_FROM:
                n = len(self._waiting)
                self.message.emit(
                    trn(
                        "One take is heard anew in the background.",
                        "{n} takes are heard anew in the background.", n,
                    ).format(n=n)
                )  # fmt: skip
        if not self._waiting:
            return
        if self._is_busy() or self._jobs.busy:
            self._timer.start(4 * _PAUSE_MS)
            return
        self._hear(self._waiting.pop())

    def _jig_of(self, take: TakeRecord) -> Jig | None:
        if take.jig_id is None or take.jig_revision is None:
            return None
        try:
            return self._studio.jig(take.jig_id, take.jig_revision)
        except JigwrightError:
            return None  # heard without

    def _hear(self, take: TakeRecord) -> None:
        owned = next((o for o in self._studio.instruments() if o.id == take.instrument_id), None)
        if owned is None:
            self._timer.start(_PAUSE_MS)
            return
        try:
            path = self._studio.audio_path(take)
        except JigwrightError:
            self._timer.start(_PAUSE_MS)
            return
        request = HearRequest(
            path=path, instrument_id=owned.kind, strings=owned.strings, a4_hz=take.a4_hz,
            drone_hz=self._studio.beside(take.id).drone_hz, jig=self._jig_of(take),
        )  # fmt: skip
        self._running = True

        def done(found: Heard) -> None:
            self._running = False
            try:
                self._studio.set_heard(take.id, found)
            except JigwrightError:
                return  # the disk is full, or another window writes now
            self._n_done += 1
            self.heard.emit(take.id)
            self._timer.start(_PAUSE_MS)

        def failed(_: Exception) -> None:
            self._running = False
            self._failed.add(take.id)
            self._timer.start(_PAUSE_MS)

        self._jobs.run("hear", request, done=done, failed=failed)
