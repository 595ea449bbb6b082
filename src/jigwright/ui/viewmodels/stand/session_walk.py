"""A session at the Stand: one item after the other, with hands full.

When an item's aim was met often enough, or its minutes are over, that is said, and after a breath
the next one is there: the next sound begins it. The left pedal stays, or goes back to it. Breaks
are breaks; nothing is recorded in them.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Protocol

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.jig.model import Jig
from jigwright.core.judge import session_run
from jigwright.core.judge.plan import WORKED, PlanItem
from jigwright.core.judge.session_run import Leg, SessionRun
from jigwright.services.moments import today
from jigwright.services.session_runs import keep_run, to_resume
from jigwright.services.studio_port import SettingStore
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.session_run import asked_line, leg_line

_TICK_MS = 500
_BREATH_S = 6.0
"""Between what is said and the next item: time to read it, and to stay."""
_LONGEST_TICK_S = 5.0
"""A computer that slept was not practising."""


class Attending(Protocol):
    """What a session asks of the Stand."""

    def take_up(self, jig: Jig) -> None:
        """Be ready for a jig."""

    def check_strings(self) -> None:
        """Be ready for the strings."""

    def rest(self) -> None:
        """Nothing is heard for a while."""

    def is_playing(self) -> bool:
        """Whether somebody is playing at this moment."""

    def is_here(self) -> bool:
        """Whether the Stand is in sight."""

    def strings_agree(self) -> bool:
        """Whether every string was heard and none is out."""


class SessionWalk(QObject):
    """Walks through a session.

    Parameters
    ----------
    studio : SettingStore
    session : SessionModel
    attending : Attending
    clock : callable
        Seconds that only grow.

    Signals
    -------
    changed
    ended
        The last item is behind.
    """

    changed = pyqtSignal()
    ended = pyqtSignal()

    def __init__(
        self, studio: SettingStore, session: SessionModel, attending: Attending,
        parent: QObject | None = None, *, clock: Callable[[], float] = time.monotonic,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._studio, self._session, self._attending = studio, session, attending
        self._clock = clock
        self._jig_of: Callable[[PlanItem], Jig | None] = lambda _: None
        self._seen_s = 0.0
        self._asked_s: float | None = None
        self.run: SessionRun | None = None
        self._whose: str | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self.tick)
        session.changed.connect(self._session_changed)

    # what is shown ------------------------------------------------------------------------

    @property
    def leg(self) -> Leg | None:
        """The item in hand."""
        return self.run.leg if self.run is not None else None

    @property
    def asks(self) -> bool:
        """Whether it was said that it is time to go on."""
        return self._asked_s is not None

    @property
    def rests(self) -> bool:
        """Whether nothing is to be played now: before the first sound, in a break, at the end."""
        leg = self.leg
        return leg is not None and not leg.is_played and leg.item.part != "strings"

    @property
    def line(self) -> str:
        """What is said of the session now; empty when nothing is."""
        run = self.run
        if run is None or run.leg is None:
            return ""
        if not self.asks:
            return leg_line(run)
        return asked_line(run, strings_agree=self._strings_done())

    # what happens -------------------------------------------------------------------------

    def resumable(self) -> SessionRun | None:
        """A session of today that is not over."""
        player_id = self._player_id()
        return None if player_id is None else to_resume(self._studio, player_id, today())

    def start(
        self, items: Sequence[PlanItem], jig_of: Callable[[PlanItem], Jig | None], at: int = 0
    ) -> None:
        """Begin a session with one of its items."""
        self._jig_of, self._whose = jig_of, self._player_id()
        self._set(session_run.begin(items, at))
        self._enter()

    def resume(self, run: SessionRun, jig_of: Callable[[PlanItem], Jig | None]) -> None:
        """Go on with a session where it was left."""
        self._jig_of, self._whose = jig_of, self._player_id()
        self._set(run)
        self._enter()

    def go(self) -> bool:
        """To the next item; says whether a session is on its way."""
        if self.run is None:
            return False
        self._set(session_run.on(self.run))
        self._enter()
        return True

    def back(self) -> bool:
        """Stay with what was to be left, or go back to the item before; says whether there was."""
        run = self.run
        if run is None:
            return False
        if self.asks:
            self._asked_s = None
            self._set(session_run.stay(run))
            return True
        if run.at == 0:
            return False
        self._set(session_run.back(run))
        self._enter()
        return True

    def leave(self) -> bool:
        """Leave the session where it is; it is remembered for the day."""
        if self.run is None:
            return False
        self._keep()
        self._timer.stop()
        self.run, self._asked_s = None, None
        self.changed.emit()
        return True

    def heard(self, jig: Jig, met: bool | None) -> None:
        """A take was judged."""
        if self.run is not None:
            self._set(session_run.heard(self.run, jig.id, met))
            self._ask_when_over()

    def tick(self) -> None:
        """Time goes by while somebody is at the Stand."""
        now, run = self._clock(), self.run
        gone = min(now - self._seen_s, _LONGEST_TICK_S)
        self._seen_s = now
        if run is None or not self._attending.is_here():
            return
        self.run = session_run.passed(run, gone)
        self._ask_when_over()
        if self._asked_s is not None and self._attending.is_playing():
            self._asked_s = now  # once more of the same: what is said of it is read first
        if self._asked_s is not None and now - self._asked_s >= _BREATH_S:
            self.go()
        else:
            self.changed.emit()

    def close_down(self) -> None:
        """The window closes: where one is, is kept."""
        self._timer.stop()
        self._keep()

    # inside -------------------------------------------------------------------------------

    def _ask_when_over(self) -> None:
        leg = self.leg
        if leg is None or self.asks or self._attending.is_playing():
            return
        if not leg.over and not self._strings_done():
            return
        if self.rests:
            self.go()  # nobody is asked whether a break is over
            return
        self._asked_s = self._clock()
        self.changed.emit()

    def _strings_done(self) -> bool:
        leg = self.leg
        return (
            leg is not None and leg.item.part == "strings" and not leg.stays
            and self._attending.strings_agree()
        )  # fmt: skip

    def _enter(self) -> None:
        """Be ready for the item in hand."""
        self._asked_s = None
        self._seen_s = self._clock()
        leg = self.leg
        if leg is None:
            self._timer.stop()
            self._attending.rest()
            self.changed.emit()
            self.ended.emit()
            return
        self._timer.start()
        jig = self._jig_of(leg.item) if leg.item.part in WORKED else None
        if jig is not None:
            self._attending.take_up(jig)
        elif leg.item.part == "strings":
            self._attending.check_strings()
        else:
            self._attending.rest()
        self.changed.emit()

    def _set(self, run: SessionRun) -> None:
        self.run = run
        self._keep()
        self.changed.emit()

    def _keep(self) -> None:
        if self._whose is not None and self.run is not None:
            keep_run(self._studio, self._whose, today(), self.run)

    def _player_id(self) -> str | None:
        player = self._session.now.player
        return player.id if player is not None else None

    def _session_changed(self) -> None:
        """Somebody else plays: the session waits for the one whose it is."""
        if self.run is not None and self._player_id() != self._whose:
            self.leave()
