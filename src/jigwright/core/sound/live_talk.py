"""While somebody plays or speaks: which of both it is, a second after it began.

A take begins with the first pitched sound, and a voice has pitch. So long as everything since then
scores as speech (:mod:`core.sound.talk`) it may be taken back; one stretch that does not, and it is
playing for good.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.sound.heard import Segment
from jigwright.core.sound.talk import (
    MAYBE_SPOKEN,
    SPOKEN,
    STEP_S,
    WINDOW_S,
    sounds_played,
    talk_scores,
)
from jigwright.core.values import Floats

_LEAST_S = 0.9  # of a beginning that is looked at
_SURE = 3  # stretches
_MOST_NOTES = 30


class TalkWatch:
    """Looks at the newest 1.2 s, five times a second, while it matters.

    Parameters
    ----------
    rate_hz : int
    """

    def __init__(self, rate_hz: int) -> None:
        self._rate_hz = rate_hz
        self._x = np.zeros(0, dtype=np.float32)
        self._end_s = 0.0
        self._looked_s = 0.0
        self._n_spoken = 0
        self._notes: list[Segment] = []
        self._open = True
        self.talking = False

    def push(self, samples: Floats, notes: Sequence[Segment]) -> None:
        """Take a block, and the notes that were decided in it."""
        kept = round(WINDOW_S * self._rate_hz)
        self._x = np.concatenate([self._x, np.asarray(samples, dtype=np.float32)])[-kept:]
        self._end_s += len(samples) / self._rate_hz
        self._notes = [*self._notes, *notes][-_MOST_NOTES:]

    def begins(self) -> None:
        """A take has begun: it may still turn out to be talk."""
        self._open, self._n_spoken, self._notes = True, 0, []

    def is_talk(self, since_s: float) -> bool:
        """Whether all of what began ``since_s`` (seconds of what was pushed) is talk.

        Looked at for as long as nothing spoke against it.
        """
        if not self._open or self._end_s - since_s < _LEAST_S or not self._is_time():
            return False
        score = self._score()
        if np.isnan(score):
            return False
        if score <= SPOKEN or sounds_played(self._notes):
            self._open = False
            return False
        self._n_spoken += 1
        self.talking = self._n_spoken >= _SURE
        return self.talking

    def goes_on(self) -> bool:
        """Whether the talk that was noticed goes on."""
        if self.talking and self._is_time():
            score = self._score()
            self.talking = bool(score > MAYBE_SPOKEN) and not sounds_played(self._notes)
        return self.talking

    @property
    def was_a_word(self) -> bool:
        """Whether a take that ended before it was decided was a word or two."""
        return self._open and self._n_spoken > 0

    def _is_time(self) -> bool:
        if self._end_s - self._looked_s < STEP_S:
            return False
        self._looked_s = self._end_s
        return True

    def _score(self) -> float:
        _, scores = talk_scores(self._x, self._rate_hz)
        return float(scores[len(scores) // 2]) if len(scores) else float("nan")
