"""Two strings while they sound: both pitches, their balance and their beats.

The newest window is searched for two notes and fitted as offline (:mod:`pair_fit`); a single window
is less sure than the median of many, so this is for the eye at the Stand and is never kept.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy import fft

from jigwright.core.music.instruments import Instrument
from jigwright.core.sound.frame_params import frame_params
from jigwright.core.sound.heard import PairNow
from jigwright.core.sound.pair_fit import Fit, Windows, fit_notes
from jigwright.core.sound.pair_measure import Sound, all_meet, balance_of, is_stop, pair_params
from jigwright.core.sound.pair_search import find_peaks, search_pair
from jigwright.core.sound.pair_written import MOST_STOPS, PRIOR, SLACK
from jigwright.core.sound.resample import BlockResampler
from jigwright.core.values import Floats

EVERY_S = 0.1
_MOST_WRITTEN_LEFT = 0.3
_FAINTEST_DB = 20.0
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
    stops_hz : sequence of (float, float)
        Both notes of every written stop: hypotheses where a window is not clear.
    """

    def __init__(
        self,
        inst: Instrument,
        rate_hz: int,
        lowest_open_hz: float,
        *,
        stops_hz: Sequence[tuple[float, float]] = (),
    ) -> None:
        params = pair_params(inst.id)
        frames = frame_params(inst.id, lowest_open_hz, inst.highest_hz)
        self._rate = frames.rate_hz // params.divide
        self._resampler = BlockResampler(rate_hz, self._rate)
        self._n = round(params.window_s * self._rate)
        self._newest: Floats = np.zeros(self._n)
        self._lowest_hz, self._highest_hz = 0.96 * lowest_open_hz, 0.4 * inst.highest_hz
        self._stops = [s for s in dict.fromkeys(stops_hz) if not all_meet(s)][:MOST_STOPS]
        self._waiting = self._heard = 0
        self.now: PairNow | None = None

    def push(self, block: Floats) -> float | None:
        """Take a block; ``now`` follows ten times a second.

        Returns
        -------
        float or None
            Middle of the newest window in seconds from the first sample, when it was looked at.
        """
        new = self._resampler.push(block)
        self._newest = np.concatenate([self._newest, new])[-self._n :]
        self._waiting += len(new)
        self._heard += len(new)
        if self._waiting < EVERY_S * self._rate:
            return None
        self._waiting = 0
        self.now = self._look()
        return (self._heard - 0.5 * self._n) / self._rate

    def _look(self) -> PairNow | None:
        x = self._newest
        if float(np.mean(x**2)) < _QUIET:
            return None
        size = 1 << int(np.ceil(np.log2(2 * self._n)))
        magnitude = np.abs(fft.rfft(x * np.hanning(self._n), size))
        peaks = find_peaks(magnitude, self._rate / size, 2.0 * self._rate / self._n)
        two = search_pair(peaks, self._lowest_hz, self._highest_hz)
        windows = Sound(x=x, rate_hz=self._rate, n=self._n).windows([0.0])
        found = None if two is None else fit_notes(windows, two)[0]
        found = self._written(windows, found)
        if found is None or found.left_ratio > _MOST_LEFT:
            return None
        lower, upper = sorted(found.f_hz)
        balance = balance_of(found, _APART_HZ)
        return PairNow(
            lower_hz=float(lower), upper_hz=float(upper),
            balance_db=float("nan") if balance is None else balance.db,
        )  # fmt: skip

    def _written(self, windows: Windows, found: Fit | None) -> Fit | None:
        """A written stop instead of another one, or of none, that explains no more."""
        if found is not None and any(is_stop(found.f_hz, stop) for stop in self._stops):
            return found
        fits = [fit for stop in self._stops if (fit := self._fitted(windows, stop)) is not None]
        best = min(fits, key=lambda fit: fit.left_ratio, default=None)
        left = 1.0 if found is None else found.left_ratio
        return best if best is not None and best.left_ratio <= PRIOR * left + SLACK else found

    @staticmethod
    def _fitted(windows: Windows, stop: tuple[float, float]) -> Fit | None:
        """A written stop, if it explains the window and both of its notes are there."""
        fit = fit_notes(windows, stop)[0]
        if fit is None or not is_stop(fit.f_hz, stop) or fit.left_ratio > _MOST_WRITTEN_LEFT:
            return None
        balance = balance_of(fit, _APART_HZ)
        return fit if balance is not None and abs(balance.db) <= _FAINTEST_DB else None
