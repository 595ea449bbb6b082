"""My turn, your turn: a model plays, then the player for as long; both lie side by side (L5)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.judge.judging import JudgedNote
from jigwright.services.jobs import DecodeRequest, PreviewRequest, RawSound
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.ui.painting.rows import TurnBar
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.wording.catalogue import tr


class Turns(QObject):
    """The model: the reference take of the jig, else the simulated player.

    Signals
    -------
    ended
        The model has finished.
    """

    ended = pyqtSignal()

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        sound: SoundModel,
        jobs: JobRunner,
        cache: Path,
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._reader = studio, session, reader
        self._sound, self._jobs, self._cache = sound, jobs, cache
        self._model: RawSound | None = None
        self._take: TakeRecord | None = None
        self.on = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.ended)

    @property
    def seconds(self) -> float:
        """Length of the model; 0 before it is ready."""
        return 0.0 if self._model is None else self._model.n_samples / self._model.rate_hz

    @property
    def space_s(self) -> float:
        """How long the player's turn may last: the model's length and time to take a breath."""
        return self.seconds * 1.25 + 4.0

    def prepare(self, done: Callable[[], None], failed: Callable[[Exception], None]) -> None:
        """Make the model's sound ready."""
        jig = self._session.now.jig
        assert jig is not None
        takes = self._studio.takes(jig_id=jig.id)
        self._take = next((t for t in reversed(takes) if t.mark == "kept"), None)
        self._cache.mkdir(parents=True, exist_ok=True)
        to = self._cache / "model.f32"
        request: DecodeRequest | PreviewRequest
        if self._take is not None:
            path = self._studio.audio_path(self._take)
            request = DecodeRequest(path=path, i_channel=0, to=to)
        else:
            a4_hz = self._session.context().a4_hz
            request = PreviewRequest(jig=jig, a4_hz=a4_hz, reference=jig.reference, to=to)

        def ready(sound: RawSound) -> None:
            self._model = sound
            done()

        job = "decode" if self._take is not None else "preview"
        self._jobs.run(job, request, done=ready, failed=failed, key="model")

    def play(self, *, speed: float) -> None:
        """Let the model play; ``ended`` follows."""
        if self._model is None:
            return
        what = tr("reference take") if self._take is not None else tr("simulated player")
        self._sound.play_raw(self._model, what=what)
        self._timer.start(round(1000 * self.seconds / speed))

    def stop(self) -> None:
        """Nobody plays any more."""
        self._timer.stop()

    def model_bars(self) -> tuple[TurnBar, ...]:
        """The model's notes."""
        jig = self._session.now.jig
        if self._take is not None:
            return bars_of(self._reader.landings(self._take))
        if jig is None or not jig.events:
            return ()
        whole = float(jig.length_beats)
        return tuple(
            TurnBar(start=float(e.onset_beats) / whole, stop=float(e.end_beats) / whole, cents=0.0)
            for e in jig.events
        )


def bars_of(notes: tuple[JudgedNote, ...]) -> tuple[TurnBar, ...]:
    """Notes of a take between its first sound and its last."""
    heard = [n for n in notes if n.measured.segment is not None]
    spans = [(n.measured.segment.onset_s, n.measured.segment.offset_s) for n in heard
             if n.measured.segment is not None]  # fmt: skip
    if not spans:
        return ()
    first, last = min(a for a, _ in spans), max(b for _, b in spans)
    whole = max(last - first, 1e-3)
    return tuple(
        TurnBar(start=(a - first) / whole, stop=(b - first) / whole, cents=n.cents)
        for n, (a, b) in zip(heard, spans, strict=True)
    )
