"""A weak place of a piece at the Stand: offered after a run-through, worked on step by step."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.jig.spot_path import FEWEST_BARS, WeakPlace, events_of, is_step
from jigwright.core.judge.aims import all_met
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.piece_map import states_of, weak_place, went_in
from jigwright.services.moments import utc_now
from jigwright.services.spot_paths import (
    SpotWork,
    keep_step,
    left_off,
    remember,
    work_on,
)
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.errors import error_sentence
from jigwright.wording.spot_path import (
    helped_sentence,
    left_off_sentence,
    offer_sentence,
    passed_sentence,
    where_sentence,
)

_BREATH_MS = 2500  # what was said of a step is read before the next one is there


class PlaceWork(QObject):
    """From a run-through to its weak place, through the steps, and back into the piece.

    Parameters
    ----------
    playing : callable
        Whether somebody is playing at this moment.

    Signals
    -------
    changed
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self, studio: StudioPort, session: SessionModel, playing: Callable[[], bool],
        parent: QObject | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._studio, self._session, self._playing = studio, session, playing
        self.work: SpotWork | None = None
        self.said = ""
        self._offer: tuple[Jig, WeakPlace] | None = None
        self._left: SpotWork | None = None
        self._going = False
        self._on = QTimer(self)
        self._on.setSingleShot(True)
        self._on.setInterval(_BREATH_MS)
        self._on.timeout.connect(self._when_still)
        session.changed.connect(self._session_changed)

    def set_speed(self, speed: float) -> None:
        """How much faster than life everything goes; for the simulated player."""
        self._on.setInterval(round(_BREATH_MS / speed))

    def close_down(self) -> None:
        """The window closes: nothing goes on by itself."""
        self._on.stop()

    # what is shown ------------------------------------------------------------------------

    @property
    def where(self) -> str:
        """Which step is in hand; empty when none is."""
        work = self.work
        if work is None:
            return ""
        return where_sentence(work.at, len(work.steps), work.good, work.step.good_takes)

    @property
    def progress(self) -> tuple[int, int]:
        """Step in hand and number of steps; zeros when there is no work."""
        return (self.work.at, len(self.work.steps)) if self.work is not None else (0, 0)

    @property
    def line(self) -> str:
        """What is offered or was said."""
        if self.said:
            return self.said
        if self._offer is not None:
            return offer_sentence(*self._offer)
        left = self._left
        return "" if left is None else left_off_sentence(left.piece, left.place, left.step.kind)

    @property
    def can_go(self) -> bool:
        """Whether something is offered or was left off."""
        return self._offer is not None or self._left is not None

    # what happens -------------------------------------------------------------------------

    def heard(self, judged: Judged, jig: Jig) -> None:
        """A take was judged: a piece may have a weak place, a step may be passed."""
        self.said = ""
        states = states_of(judged.notes, jig, judged.aims)
        work = self.work
        if work is None:
            piece = len(jig.bars()) >= FEWEST_BARS and not is_step(jig.id)
            place = weak_place(states, jig) if piece else None
            self._offer = None if place is None else (jig, place)
        elif work.step.kind == "whole":
            off, told = went_in(states, work.piece, work.place)
            self.said = helped_sentence(work.piece, work.place, off, told)
            self._end()
        elif all_met(judged.aims):
            self._set(at=work.at, good=work.good + 1)
            if work.good + 1 >= work.step.good_takes:
                self.said = passed_sentence(work.steps[work.at + 1].kind)
                self._on.start()
        self.changed.emit()

    def go(self) -> bool:
        """Take what is offered, go on where it was left, or to the next step; says whether so."""
        if self.work is not None:
            if self.work.at + 1 >= len(self.work.steps):
                return False
            self._next()
            return True
        work: SpotWork | None = None
        if self._offer is not None:
            try:
                work = work_on(*self._offer)
            except JigwrightError as error:
                self.message.emit(error_sentence(error))
                return False
        else:
            work = self._left
        if work is None or self._studio.read_only:
            return False
        self.work, self._offer, self._left = work, None, None
        self._take_up()
        return True

    def take_on(self, piece: Jig, first_bar: int, last_bar: int) -> bool:
        """Begin to work on some bars of a piece; says whether that is possible."""
        try:
            worst, _ = events_of(piece, first_bar, last_bar)
            work = work_on(piece, WeakPlace(first_bar=first_bar, last_bar=last_bar, worst=worst))
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
            return False
        if self._studio.read_only:
            return False
        self.work, self._offer, self._left = work, None, None
        self._take_up()
        return True

    def back(self) -> bool:
        """To the step before; says whether there was one."""
        if self.work is None or not self.work.at:
            return False
        self._set(at=self.work.at - 1, good=0)
        self._take_up()
        return True

    def leave(self) -> bool:
        """Back to the piece; where the work was left is remembered. Says whether there was any."""
        work = self.work
        if work is None:
            return False
        self._on.stop()
        self.work, self.said = None, ""
        self._hand_over(work.piece)
        self._left = self._left_off()
        self.changed.emit()
        return True

    # inside -------------------------------------------------------------------------------

    def _left_off(self) -> SpotWork | None:
        """What was left open of the piece in hand."""
        player, jig = self._session.now.player, self._session.now.jig
        if player is None or jig is None or self.work is not None:
            return None
        left = left_off(self._studio, player.id)
        return left if left is not None and left.piece.id == jig.id else None

    def _when_still(self) -> None:
        """The next step, unless somebody plays this one once more: then that take decides."""
        if not self._playing():
            self._next()

    def _next(self) -> None:
        work = self.work
        if work is not None and work.at + 1 < len(work.steps):
            self._on.stop()
            self._set(at=work.at + 1, good=0)
            self._take_up()

    def _set(self, *, at: int, good: int) -> None:
        work = self.work
        assert work is not None
        self.work = SpotWork(piece=work.piece, place=work.place, steps=work.steps, at=at, good=good)
        self._remember(self.work)

    def _take_up(self) -> None:
        assert self.work is not None
        self.said = ""
        self._remember(self.work)
        self._hand_over(keep_step(self._studio, self.work.step, utc_now()))
        self.changed.emit()

    def _end(self) -> None:
        self.work = None
        self._remember(None)

    def _remember(self, work: SpotWork | None) -> None:
        player = self._session.now.player
        if player is not None and not self._studio.read_only:
            remember(self._studio, player.id, work)

    def _hand_over(self, jig: Jig) -> None:
        self._going = True
        try:
            self._session.set_jig(jig)
        finally:
            self._going = False

    def _session_changed(self, parts: frozenset[str]) -> None:
        """Somebody took up something else: the work is left where it is."""
        if self._going or not parts & {"jig", "player", "all"}:
            return
        jig = self._session.now.jig
        if self._offer is not None and (jig is None or jig.id != self._offer[0].id):
            self._offer = None
        if self.work is not None and (jig is None or jig.id != self.work.step.jig.id):
            self._on.stop()
            self.work = None
        self.said = ""
        self._left = self._left_off()
        self.changed.emit()
