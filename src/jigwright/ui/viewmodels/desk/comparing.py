"""The shown take beside another: figures, and listening blind before they are seen (L3)."""

from __future__ import annotations

import secrets

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.judge.compare import AimPair, Compared, NotePair
from jigwright.core.values import Unmeasured
from jigwright.services.comparing import (
    compare,
    compare_by_aims,
    level_dbfs,
    matching_gain,
    same_place,
    to_compare_with,
)
from jigwright.services.moments import utc_now
from jigwright.services.records import Liking, TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.wording.catalogue import tr


class Comparing(QObject):
    """First take: the reference, the previous one or any other; second: the shown one.

    Signals
    -------
    changed
    """

    changed = pyqtSignal()

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        desk: DeskModel,
        sound: SoundModel,
    ) -> None:
        super().__init__()
        self._studio, self._session, self._reader = studio, session, reader
        self._desk, self._sound = desk, sound
        self._chosen: str | None = None
        self._order: tuple[int, int] | None = None
        self.answer: str | None = None
        desk.take_changed.connect(self._reset)

    def _reset(self) -> None:
        self._order = self.answer = None
        self.changed.emit()

    # which ----------------------------------------------------------------------------------

    def others(self) -> tuple[TakeRecord, ...]:
        """Takes the shown one can be held against."""
        shown = self._desk.take
        return tuple(p.take for p in self._desk.prints if shown is None or p.take.id != shown.id)

    @property
    def other(self) -> TakeRecord | None:
        """The take it is held against."""
        return to_compare_with(self.others(), self._chosen)

    def step(self) -> None:
        """Hold it against the next one."""
        others, now = self.others(), self.other
        if now is not None:
            at = [t.id for t in others].index(now.id)
            self._chosen = others[(at + 1) % len(others)].id
            self._order = self.answer = None
            self.changed.emit()

    def name(self, take: TakeRecord) -> str:
        """A take by its number."""
        number = next((p.number for p in self._desk.prints if p.take.id == take.id), 0)
        return tr("take {n}").format(n=number)

    @property
    def same_place(self) -> bool:
        """Whether levels may be compared: one input, one day."""
        one, two = self.other, self._desk.take
        return one is not None and two is not None and same_place(one, two)

    # figures --------------------------------------------------------------------------------

    @property
    def hidden(self) -> bool:
        """Whether the figures wait for the player's liking."""
        return self._order is not None and self.answer is None

    def compared(self) -> tuple[tuple[NotePair, ...], Compared] | None:
        """Both takes note by note; ``None`` without two takes."""
        one, two, judged = self.other, self._desk.take, self._desk.judged
        if one is None or two is None or judged is None:
            return None
        found = compare(self._reader, one, two, judged, self._session.now.view)
        return None if isinstance(found, Unmeasured) else found

    def aims(self) -> tuple[AimPair, ...]:
        """What became of each aim."""
        one, judged = self.other, self._desk.judged
        if one is None or judged is None:
            return ()
        return compare_by_aims(self._reader, one, judged, self._session.now.view)

    # blind ----------------------------------------------------------------------------------

    def start_blind(self) -> None:
        """Put both takes in an order nobody knows."""
        first = secrets.randbelow(2)
        self._order, self.answer = (first, 1 - first), None
        self.changed.emit()

    def hear(self, place: int) -> None:
        """Play the first (0) or the second (1) of the blind order, levels matched."""
        one, two = self.other, self._desk.take
        if one is None or two is None:
            return
        order = self._order or (0, 1)
        take = (one, two)[order[place]]
        levels = (level_dbfs(self._reader, one), level_dbfs(self._reader, two))
        heard = self._reader.heard(take)
        self._sound.play_span(
            take.id, self._studio.audio_path(take), heard.i_channel if heard else 0, None,
            loop=False, what=tr("the first") if place == 0 else tr("the second"),
            gain=matching_gain(levels, order[place]),
        )  # fmt: skip

    def choose(self, place: int | None) -> None:
        """The player's liking; ``None``: no difference. It is kept with the take."""
        one, two = self.other, self._desk.take
        if self._order is None or one is None or two is None:
            return
        liked = None if place is None else (one, two)[self._order[place]]
        self.answer = tr("no difference") if liked is None else self.name(liked)
        if not self._studio.read_only:
            self._studio.set_choice(
                Liking(
                    take_id=two.id, against_id=one.id, liked_id=liked.id if liked else None,
                    utc=utc_now(),
                )
            )  # fmt: skip
        self.changed.emit()
