"""Whether the ear still hears: it may die or hang while the recorder goes on."""

from __future__ import annotations

import time
from collections.abc import Callable

_MOST_DEATHS = 3
_HANGS_S = 5.0  # nothing said for so long, though sound came in
_STARTING_S = 20.0  # a fresh process imports its libraries first
_GREW_S = 2.0


class EarWatch:
    """Counts how often the ear died in one recording, and sees when it says nothing more.

    Parameters
    ----------
    clock : callable
        Monotonic seconds.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._n_deaths = 0
        self._since = clock()
        self._at_s = 0.0
        self._spoke = False

    @property
    def given_up(self) -> bool:
        """Whether no other ear is tried: what is played is listened to afterwards."""
        return self._n_deaths > _MOST_DEATHS

    def said(self, n: int, recorded_s: float) -> None:
        """It spoke so many times while the recording was so long."""
        if n:
            self._since, self._at_s, self._spoke = self._clock(), recorded_s, True

    def hangs(self, recorded_s: float) -> bool:
        """Whether sound comes in and it has said nothing about it for too long."""
        if self.given_up:
            return False
        patience = _HANGS_S if self._spoke else _STARTING_S
        return self._clock() - self._since > patience and recorded_s - self._at_s > _GREW_S

    def died(self) -> bool:
        """It died, or hangs; says whether another one is to be tried."""
        self._n_deaths += 1
        self._since, self._spoke = self._clock(), False
        return not self.given_up
