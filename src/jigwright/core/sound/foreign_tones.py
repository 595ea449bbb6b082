"""Tones of other people's machines, found while somebody plays and taken out of what is heard live.

A drone from a telephone on the music stand would begin a take and never end it. While a take goes
on, the last seconds are looked through for lines that keep level and phase
(:mod:`core.sound.steady_tones`); from then on they are taken out as our own drone is.
"""

from __future__ import annotations

from collections import deque

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.own_sounds import OwnSounds
from jigwright.core.sound.steady_tones import partials_of, steady_lines
from jigwright.core.values import Floats

LOOK_BACK_S, LOOK_EVERY_S = 8.0, 2.0


class ForeignTones:
    """A filter that finds out for itself what to take out; one for one recording.

    Parameters
    ----------
    rate_hz : int
    """

    def __init__(self, rate_hz: int) -> None:
        self._rate = rate_hz
        self._recent: deque[NDArray[np.float32]] = deque()
        self._n_recent = 0
        self._n_since = 0
        self._filter: OwnSounds | None = None
        self.partials_hz: tuple[float, ...] = ()

    def take_out(self, block: Floats, *, looks: bool) -> Floats:
        """The same stretch of sound without them.

        Parameters
        ----------
        block : ndarray, shape (n,)
            Follows what was given before.
        looks : bool
            Whether somebody plays: only over notes a machine is told from a long note.
        """
        self._recent.append(np.asarray(block, dtype=np.float32))
        self._n_recent += len(block)
        while self._n_recent - len(self._recent[0]) >= LOOK_BACK_S * self._rate:
            self._n_recent -= len(self._recent.popleft())
        self._n_since += len(block)
        if looks and self._filter is None and self._n_since >= LOOK_EVERY_S * self._rate:
            self._n_since = 0
            self._look()
        return block if self._filter is None else self._filter.take_out(block)

    def _look(self) -> None:
        found = partials_of(steady_lines(np.concatenate(list(self._recent)), self._rate))
        if found:
            self.partials_hz = found
            self._filter = OwnSounds(self._rate, found)
