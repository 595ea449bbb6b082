"""How much of the sound is new at each moment: where something begins, whatever the level does.

Spectral flux over a bank of quarter-tone bands in logarithmic measure, each band held against the
largest of itself and its neighbours a moment ago, so that a vibrato brings nothing new (Böck &
Widmer 2013, "SuperFlux"). Under the tail of a room or of the note before, where the level hardly
falls, a beginning still stands out.

Deviations: rates and windows follow the instrument; bands begin at its lowest string; levels are
taken against the loud parts of all that was heard so far.
"""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.values import Floats

_BANDS_PER_OCTAVE = 24
_HIGHEST_HZ = 9000.0
_PERIODS, _SHORTEST_S, _LONGEST_S = 4.0, 0.045, 0.085
LAG_FRAMES = 6
_COMPRESSION = 300.0  # how far below the loud parts a band still counts
_BLOCK_FRAMES = 1024
_EVERY = 2  # frames: what is new for 30 ms need not be looked for every 5
_SPARSE = 4
_BINS, _ZERO_BIN = 640, 480


def novelty_window_s(lowest_hz: float) -> float:
    """Length of the window, four periods of the lowest string within limits."""
    return float(np.clip(_PERIODS / lowest_hz, _SHORTEST_S, _LONGEST_S))


def novelty(
    x: Floats, rate_hz: int, hop_samples: int, n_frames: int, *, lowest_hz: float
) -> Floats:
    """What is new at each frame, mean over the bands.

    Parameters
    ----------
    x : ndarray
        Filtered sound.
    rate_hz, hop_samples, n_frames : int
    lowest_hz : float
        Of the lowest string.

    Returns
    -------
    ndarray, shape (n_frames,)
        In decades of compressed magnitude; 0 where nothing begins. A beginning stands at its
        middle: half a lag is given back.
    """
    return NewSound(rate_hz, hop_samples, lowest_hz=lowest_hz).of(x, n_frames)


class NewSound:
    """Novelty of a sound that grows: bands of what was looked at are kept.

    Parameters
    ----------
    rate_hz, hop_samples : int
    lowest_hz : float
        Of the lowest string.
    """

    def __init__(self, rate_hz: int, hop_samples: int, *, lowest_hz: float) -> None:
        n = fft.next_fast_len(round(novelty_window_s(lowest_hz) * rate_hz), real=True)
        self._n = n + n % 2
        self._hop = hop_samples
        self._bank = _bank(self._n, rate_hz, 0.9 * lowest_hz).T
        self._taper = np.hanning(self._n + 1)[:-1].astype(np.float32)
        self._levels = np.zeros((0, self._bank.shape[1]), dtype=np.float32)
        self._seen = np.zeros(_BINS, dtype=np.int64)  # levels of all rows so far, in half decibels

    def forget(self, n_frames: int) -> None:
        """Frames at the beginning are held no more; an even number of them."""
        self._levels = self._levels[n_frames // _EVERY :]

    def of(self, x: Floats, n_frames: int) -> Floats:
        """Novelty of the frames that are held; see :func:`novelty`.

        Where a window reaches beyond the sound it is 0: an end that is cut off is no beginning.
        """
        count, lag = -(-n_frames // _EVERY), LAG_FRAMES // _EVERY
        if count <= lag:
            return np.zeros(n_frames)
        levels = self._look(x, count)
        loud = self._loud(levels)
        levels = np.log10(1.0 + levels * np.float32(_COMPRESSION / loud))
        widest = levels[:-lag].copy()
        np.maximum(widest[:, 1:], levels[:-lag, :-1], out=widest[:, 1:])
        np.maximum(widest[:, :-1], levels[:-lag, 1:], out=widest[:, :-1])
        rise = np.maximum(0.0, levels[lag:] - widest).mean(axis=1)
        rise[max(0, (len(x) - self._n // 2) // (_EVERY * self._hop) - lag + 1) :] = 0.0
        middle = _EVERY * (np.arange(len(rise)) + 0.5 * lag)
        at = np.arange(n_frames, dtype=np.float64)
        return np.asarray(np.interp(at, middle, rise, left=0.0, right=0.0), dtype=np.float64)

    def _count(self, rows: NDArray[np.float32]) -> None:
        bins = np.clip(40.0 * np.log10(rows[::_SPARSE] + 1e-12) + _ZERO_BIN, 0, _BINS - 1)
        self._seen += np.bincount(bins.astype(np.intp).ravel(), minlength=_BINS)

    def _loud(self, levels: NDArray[np.float32]) -> float:
        """What the loud parts reach in a band, of all that was heard so far."""
        if not self._seen.any():
            return float(np.percentile(levels, 99.0)) + 1e-12
        running = np.cumsum(self._seen)
        at = int(np.searchsorted(running, 0.99 * running[-1]))
        return float(10.0 ** ((at + 0.5 - _ZERO_BIN) / 40.0))

    def _look(self, x: Floats, count: int) -> NDArray[np.float32]:
        """Bands of every row; those that were known are not looked at again."""
        step, half = _EVERY * self._hop, self._n // 2
        whole = max(0, (len(x) - half) // step)
        known = min(len(self._levels), count)
        fresh = np.empty((count - known, self._bank.shape[1]), dtype=np.float32)
        for at in range(known, count, _BLOCK_FRAMES):
            stop = min(count, at + _BLOCK_FRAMES)
            part = np.zeros((stop - at - 1) * step + self._n, dtype=np.float32)
            lo = at * step - half
            have = x[max(0, lo) : max(0, lo + len(part))]
            part[max(0, -lo) : max(0, -lo) + len(have)] = have
            frames = sliding_window_view(part, self._n)[::step] * self._taper
            np.matmul(np.abs(fft.rfft(frames)), self._bank, out=fresh[at - known : stop - known])
        np.nan_to_num(fresh, copy=False, posinf=0.0)  # bad samples bring nothing new
        all_rows = np.concatenate([self._levels[:known], fresh])
        self._count(all_rows[known:whole])
        self._levels = all_rows[:whole]  # what the end of the sound touches is looked at again
        return all_rows


def _bank(n: int, rate_hz: int, lowest_hz: float) -> NDArray[np.float32]:
    """Triangles over the bins of a spectrum, shape (bands, n // 2 + 1), each of unit sum."""
    highest = min(_HIGHEST_HZ, 0.45 * rate_hz)
    count = int(np.log2(highest / lowest_hz) * _BANDS_PER_OCTAVE) + 1
    centres = lowest_hz * 2.0 ** (np.arange(count) / _BANDS_PER_OCTAVE)
    bins = np.unique(np.round(centres * n / rate_hz).astype(int))
    bank = np.zeros((max(1, len(bins) - 2), n // 2 + 1), dtype=np.float32)
    at = np.arange(n // 2 + 1)
    for i in range(len(bins) - 2):
        a, b, c = bins[i : i + 3]
        up, down = (at - a) / max(1, b - a), (c - at) / max(1, c - b)
        bank[i] = np.clip(np.minimum(up, down), 0.0, 1.0)
    return np.asarray(bank / np.maximum(bank.sum(axis=1, keepdims=True), 1e-9))
