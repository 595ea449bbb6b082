"""The ear judges before the figures; its own record."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.judge.judging import JudgedNote
from jigwright.services.remembered import remembered
from jigwright.ui.viewmodels.desk import DeskModel

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
    desk : DeskModel
    """

    def __init__(self, desk: DeskModel) -> None:
        self._desk = desk
        self._asked: JudgedNote | None = None
        self.on = False
        self.was_right: bool | None = None

    @property
    def asked(self) -> JudgedNote | None:
        """The note the ear is asked about, until it has answered."""
        return self._asked if self.on and self.was_right is None else None

    @property
    def score(self) -> EarScore:
        """The record, kept with the studio."""
        return remembered(
            self._desk.studio, "ear_score",
            lambda kept: EarScore(right=int(kept[0]), asked=int(kept[1])),
            EarScore(right=0, asked=0),
        )  # fmt: skip

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
        if abs(note.cents) > self._desk.context().tolerance_cents:
            truth = "high" if note.cents > 0 else "low"
        self.was_right = word == truth
        score = self.score
        if not self._desk.studio.read_only:
            self._desk.studio.set_setting(
                "ear_score", json.dumps([score.right + int(self.was_right), score.asked + 1])
            )
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
