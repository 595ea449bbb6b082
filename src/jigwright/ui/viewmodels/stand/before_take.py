"""What comes before a take: a model's turn, or a counted bar; then the player's space."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.services.take_flow import Before, PlayersTurn
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.companions import Companions
from jigwright.ui.viewmodels.stand.turns import Turns


class BeforeTake(QObject):
    """Lets the model play or counts, and remembers from when on the player is heard.

    Signals
    -------
    over
        It is the player's turn.
    """

    over = pyqtSignal()

    def __init__(
        self, session: SessionModel, turns: Turns, companions: Companions, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._session, self._turns, self._companions = session, turns, companions
        self.turn = PlayersTurn()
        self._since, self._count_s, self._n_counted = 0.0, 0.0, 0
        turns.ended.connect(self.over)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.over)

    def clear(self) -> None:
        """Somebody begins anew."""
        self.turn.clear()
        self._timer.stop()

    def begin(self, *, model: bool, follows: bool, speed: float) -> Before | None:
        """Begin what is wished; ``None`` when nothing is."""
        self.turn.wait()
        if model:
            self._turns.play(speed=speed)
            return "model"
        if not self._companions.counts or not follows:
            return None
        seconds, self._n_counted = self._companions.count()
        self._since, self._count_s = time.monotonic(), seconds / speed
        self._timer.start(round(1000 * self._count_s))
        return "counting"

    @property
    def beat(self) -> int:
        """The beat that is being counted, from 1."""
        share = (time.monotonic() - self._since) / max(self._count_s, 1e-3)
        return min(self._n_counted, 1 + int(share * self._n_counted))

    def lead_s(self, *, model: bool, follows: bool) -> float:
        """How long the simulated player waits for model or count."""
        if model:
            return self._turns.seconds + 3.0
        jig = self._session.now.jig
        if not self._companions.counts or jig is None or not follows:
            return 0.0
        return jig.beats_per_bar * jig.seconds_per_beat + 2.0

    def open(self, at_s: float, *, model: bool) -> None:
        """The player's turn begins at a moment of the recording."""
        self.turn.open(at_s, space_s=self._turns.space_s if model else None)
