"""Two strings while they sound: both pitches, their balance and their beats.

The newest window is searched for two notes and fitted as offline (:mod:`pair_fit`); a single window
is less sure than the median of many, so this is for the eye at the Stand and is never kept.
"""

from __future__ import annotations

import numpy as np
from scipy import fft

from jigwright.core.music.instruments import Instrument
from jigwright.core.sound.frame_params import frame_params
from jigwright.core.sound.heard import PairNow
from jigwright.core.sound.pair_fit import fit_notes
from jigwright.core.sound.pair_measure import Sound, balance_of, pair_params
from jigwright.core.sound.pair_search import find_peaks, search_pair
from jigwright.core.sound.resample import BlockResampler
from jigwright.core.values import Floats

_EVERY_S = 0.1
_MOST_LEFT = 0.4  # share of the energy that two notes may leave unexplained
_APART_HZ = 8.0
_QUIET = 1e-7


class LivePair:
    """Watches blocks for two notes.

    Parameters
    ----------
    inst : Instrument
    rate_hz : int
    lowest_open_hz : float
    """

    def __init__(self, inst: Instrument, rate_hz: int, lowest_open_hz: float) -> None:
        params = pair_params(inst.id)
        frames = frame_params(inst.id, lowest_open_hz, inst.highest_hz)
        self._rate = frames.rate_hz // params.divide
        self._resampler = BlockResampler(rate_hz, self._rate)
        self._n = round(params.window_s * self._rate)
        self._newest: Floats = np.zeros(self._n)
        self._lowest_hz, self._highest_hz = 0.96 * lowest_open_hz, 0.4 * inst.highest_hz
        self._waiting = 0
        self.now: PairNow | None = None

    def push(self, block: Floats) -> None:
        """Take a block; ``now`` follows ten times a second."""
        new = self._resampler.push(block)
        self._newest = np.concatenate([self._newest, new])[-self._n :]
        self._waiting += len(new)
        if self._waiting >= _EVERY_S * self._rate:
            self._waiting = 0
            self.now = self._look()

    def _look(self) -> PairNow | None:
        x = self._newest
        if float(np.mean(x**2)) < _QUIET:
            return None
        size = 1 << int(np.ceil(np.log2(2 * self._n)))
        magnitude = np.abs(fft.rfft(x * np.hanning(self._n), size))
        peaks = find_peaks(magnitude, self._rate / size, 2.0 * self._rate / self._n)
        two = search_pair(peaks, self._lowest_hz, self._highest_hz)
        if two is None:
            return None
        found = fit_notes(Sound(x=x, rate_hz=self._rate, n=self._n).windows([0.0]), two)[0]
        if found is None or found.left_ratio > _MOST_LEFT:
            return None
        lower, upper = sorted(found.f_hz)
        balance = balance_of(found, _APART_HZ)
        return PairNow(
            lower_hz=float(lower), upper_hz=float(upper),
            balance_db=float("nan") if balance is None else balance.db,
        )  # fmt: skip
