"""The ear judges before the figures; its own record."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.judge.judging import JudgedNote
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel

EarAnswer = Literal["low", "in", "high"]
_MOVED_CENTS = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class EarScore:
    """How often the ear was right."""

    right: int = 0
    asked: int = 0


class EarFirst:
    """Asks about one note of a take and scores the answer.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    """

    def __init__(self, studio: StudioPort, session: SessionModel) -> None:
        self._studio, self._session = studio, session
        self._asked: JudgedNote | None = None
        self.on = False
        self.was_right: bool | None = None

    @property
    def asked(self) -> JudgedNote | None:
        """The note the ear is asked about, until it has answered."""
        return self._asked if self.on and self.was_right is None else None

    @property
    def score(self) -> EarScore:
        """The player's record, kept with the studio."""
        player = self._session.now.player
        right, asked = self._studio.ear_score(player.id) if player else (0, 0)
        return EarScore(right=right, asked=asked)

    def ask(self, note: JudgedNote | None) -> None:
        """Ask about a note, or about none."""
        self._asked = note if self.on else None
        self.was_right = None

    def answer(self, word: EarAnswer) -> bool:
        """The judgement by key or pedal; returns whether it was taken."""
        note = self.asked
        if note is None or note.cents is None:
            return False
        truth: EarAnswer = "in"
        if abs(note.cents) > self._session.context().tolerance_cents:
            truth = "high" if note.cents > 0 else "low"
        self.was_right = word == truth
        player = self._session.now.player
        if player is not None and not self._studio.read_only:
            self._studio.add_ear_answer(player.id, right=self.was_right)
        return True

    def hear_next_attempt(self, notes: Sequence[JudgedNote]) -> None:
        """The next attempt is the judgement: going higher says that it was low."""
        before = self.asked
        if before is None or before.cents is None:
            return
        note_id = before.measured.lined.note_id
        now = next(
            (n.cents for n in notes if n.measured.lined.note_id == note_id and n.cents is not None),
            None,
        )
        if now is None:
            return
        moved = now - before.cents
        self.answer("low" if moved > _MOVED_CENTS else "high" if moved < -_MOVED_CENTS else "in")
