"""The shown take beside another: figures, and listening blind before they are seen (L3)."""

from __future__ import annotations

import secrets

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.judge.compare import Compared, NotePair, compare_takes
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.values import Unmeasured
from jigwright.services.moments import utc_now
from jigwright.services.records import Choice, TakeRecord
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.wording.catalogue import tr

_LEAST_GAIN, _MOST_GAIN = 0.05, 1.0


class Comparing(QObject):
    """First take: the reference, the previous one or any other; second: the shown one.

    Signals
    -------
    changed
    """

    changed = pyqtSignal()

    def __init__(self, desk: DeskModel, sound: SoundModel) -> None:
        super().__init__()
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
        others = self.others()
        chosen = next((t for t in others if t.id == self._chosen), None)
        kept = next((t for t in reversed(others) if t.mark == "kept"), None)
        return chosen or kept or (others[-1] if others else None)

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
        return (
            one is not None
            and two is not None
            and one.input_name == two.input_name
            and one.day == two.day
        )

    # figures --------------------------------------------------------------------------------

    @property
    def hidden(self) -> bool:
        """Whether the figures wait for the player's liking."""
        return self._order is not None and self.answer is None

    def compared(self) -> tuple[tuple[NotePair, ...], Compared] | None:
        """Both takes note by note; ``None`` without two takes."""
        one, judged = self.other, self._desk.judged
        if one is None or judged is None:
            return None
        return compare_takes(self._notes_of(one), judged.notes, levels=self.same_place)

    def _notes_of(self, take: TakeRecord) -> tuple[JudgedNote, ...]:
        judged = self._desk.reader.judged(take, self._desk.view, "notes")
        return () if isinstance(judged, Unmeasured) else judged.notes

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
        loudness = [self._level(t) for t in (one, two)]
        gain = 10 ** ((min(loudness) - loudness[order[place]]) / 20)
        heard = self._desk.reader.heard(take)
        self._sound.play_span(
            take.id, self._desk.studio.audio_path(take), heard.i_channel if heard else 0, None,
            loop=False, what=tr("the first") if place == 0 else tr("the second"),
            gain=min(_MOST_GAIN, max(_LEAST_GAIN, gain)),
        )  # fmt: skip

    def _level(self, take: TakeRecord) -> float:
        heard = self._desk.reader.heard(take)
        levels = sorted(s.level_dbfs for s in heard.segments) if heard else []
        return levels[len(levels) // 2] if levels else 0.0

    def choose(self, place: int | None) -> None:
        """The player's liking; ``None``: no difference. It is kept with the take."""
        one, two = self.other, self._desk.take
        if self._order is None or one is None or two is None:
            return
        liked = None if place is None else (one, two)[self._order[place]]
        self.answer = tr("no difference") if liked is None else self.name(liked)
        if not self._desk.studio.read_only:
            self._desk.studio.set_choice(
                Choice(
                    take_id=two.id, against_id=one.id, liked_id=liked.id if liked else None,
                    utc=utc_now(),
                )
            )  # fmt: skip
        self.changed.emit()
