"""Signals that are played: the lowest open string plucked two or three times, then silence.

A pluck rises in all bands within hundredths of a second, has the string's period at once, and dies
away; a bow takes longer to set a string going and keeps it going. Nothing sounds for half a second
before the first and nothing begins for three quarters after the last, so that no plucked passage
and no short stroke is taken for one.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.percussive import band_levels, hop_samples
from jigwright.core.values import Floats

LONGEST_S = 4.0
"""Of sound that is looked at: quiet, at most three plucks, quiet."""
FEWEST, MOST = 2, 3
_QUIET_BEFORE_S, QUIET_AFTER_S, _LOOK_S = 0.5, 0.75, 0.3
_RISE_DB, _MOST_RISE_DB, _RISE_HOPS = 5.2, 20.0, 5
_ENOUGH_HZ = 8000
_APART_S = (0.13, 0.75)
_SPEAKS_S, _HELD_S = 0.04, 0.30
_LEAST_CORRELATION, _OCTAVE = 0.6, 0.93
_NEAR, _AROUND = 0.035, 0.085  # of the period: 60 cents, and what is searched
_STRUCK_DB = 0.8
_QUIETER_DB, _SWELLS_DB, _FALLEN_DB = 12.0, 2.0, 4.0


class PluckWatch:
    """Listens for signals in blocks of any length.

    Parameters
    ----------
    rate_hz : int
    lowest_hz : float
        Of the lowest open string.
    """

    def __init__(self, rate_hz: int, lowest_hz: float) -> None:
        self._rate_hz, self._lowest_hz = rate_hz, lowest_hz
        self._x: Floats = np.zeros(0)
        self._level = np.zeros((0, 0), dtype=np.float32)
        self._rest: Floats = np.zeros(0)
        self._end_s = 0.0
        self._told_s = float("-inf")  # the last onset of a signal that was told
        self.began_s = 0.0
        """Where the newest signal began, in seconds of what was pushed."""

    @property
    def heard_s(self) -> float:
        """How much was pushed."""
        return self._end_s

    def push(self, samples: Floats) -> int:
        """Take a block; how often the string was plucked, where that was a signal and is over.

        Returns
        -------
        int
            2 or 3, once for each signal; else 0.
        """
        rate_hz, hop = self._rate_hz, hop_samples(self._rate_hz)
        samples = np.asarray(samples, dtype=np.float64)
        self._end_s += len(samples) / rate_hz
        self._x = np.concatenate([self._x, samples])[-round(LONGEST_S * rate_hz) :]
        self._rest = np.concatenate([self._rest, samples])
        new = band_levels(self._rest, rate_hz)
        if len(new):
            self._rest = self._rest[len(new) * hop :]
            kept = round(LONGEST_S * rate_hz / hop)
            old = self._level if self._level.size else new[:0]
            self._level = np.concatenate([old, new])[-kept:]
        onsets_s = [t - (len(self._rest) / rate_hz) for t in self._onsets_before_end()]
        if not onsets_s or not QUIET_AFTER_S <= -onsets_s[-1] <= QUIET_AFTER_S + _LOOK_S:
            return 0
        last_s = self._end_s + onsets_s[-1]
        if last_s - self._told_s < _APART_S[0]:
            return 0
        length_s = len(self._x) / rate_hz
        n = self._signal([length_s + t for t in onsets_s])
        if n:
            self._told_s, self.began_s = last_s, self._end_s + onsets_s[-n]
        return n

    def _onsets_before_end(self) -> list[float]:
        """Onsets, in seconds from the end of the levels: negative."""
        hop_s = hop_samples(self._rate_hz) / self._rate_hz
        return [t - len(self._level) * hop_s for t in onsets_of(self._level, hop_s)]

    def _signal(self, onsets_s: list[float]) -> int:
        first = 0
        for k in range(len(onsets_s) - 1, 0, -1):
            if onsets_s[k] - onsets_s[k - 1] > _APART_S[1]:
                first = k
                break
        plucks_s = onsets_s[first:]
        if not FEWEST <= len(plucks_s) <= MOST or plucks_s[0] < _QUIET_BEFORE_S:
            return 0
        x, rate_hz = self._x, self._rate_hz
        if not _is_quiet_before(x, rate_hz, plucks_s[0]):
            return 0
        stops_s = [*plucks_s[1:], len(x) / rate_hz]
        for onset_s, stop_s in zip(plucks_s, stops_s, strict=True):
            if not _is_of_string(x, rate_hz, onset_s, stop_s, self._lowest_hz):
                return 0
        hop_s, end = hop_samples(rate_hz) / rate_hz, len(self._level)
        from_end_s = [len(x) / rate_hz - len(self._rest) / rate_hz - t for t in plucks_s]
        falls = [_falls_db(self._level, end - round(t / hop_s)) for t in from_end_s]
        if np.mean(falls) < _STRUCK_DB or not _dies_away(x, rate_hz, plucks_s[-1]):
            return 0
        return len(plucks_s)


def onsets_of(level: NDArray[np.float32], hop_s: float) -> list[float]:
    """Where most bands rise within twenty-five milliseconds, in seconds from the first frame.

    Parameters
    ----------
    level : ndarray, shape (frames, bands)
        As :func:`~jigwright.core.sound.percussive.band_levels` gives it.
    hop_s : float
    """
    if len(level) <= _RISE_HOPS:
        return []
    heard = np.maximum(level, np.median(level, axis=0))  # what a room murmurs rises by itself
    rise = np.clip(heard[_RISE_HOPS:] - heard[:-_RISE_HOPS], 0.0, _MOST_RISE_DB).mean(axis=1)
    found: list[float] = []
    apart = round(_APART_S[0] / hop_s)
    for i in np.flatnonzero(rise >= _RISE_DB):
        if rise[i] < np.max(rise[max(0, i - apart) : i + apart + 1]):
            continue
        at_s = float((i + _RISE_HOPS) * hop_s)
        if not found or at_s - found[-1] >= _APART_S[0]:
            found.append(at_s)
    return found


def _part(x: Floats, rate_hz: int, start_s: float, stop_s: float) -> Floats:
    return x[max(0, round(start_s * rate_hz)) : max(0, round(stop_s * rate_hz))]


def _db(part: Floats) -> float:
    return 10.0 * float(np.log10(np.mean(np.square(part)) + 1e-14)) if len(part) else -140.0


def _is_quiet_before(x: Floats, rate_hz: int, onset_s: float) -> bool:
    before = _db(_part(x, rate_hz, onset_s - _QUIET_BEFORE_S, onset_s - 0.03))
    return before < _db(_part(x, rate_hz, onset_s, onset_s + 0.12)) - _QUIETER_DB


def _is_of_string(x: Floats, rate_hz: int, onset_s: float, stop_s: float, lowest_hz: float) -> bool:
    """Whether it has the period of the string, and not that of its octave, and does not swell."""
    stop_s = min(stop_s - 0.02, onset_s + _HELD_S)
    part, rate = _thinned(_part(x, rate_hz, onset_s + _SPEAKS_S, stop_s), rate_hz)
    period = rate / lowest_hz
    if len(part) < 2.5 * period:
        return False
    own = _correlation(part, period)
    if own < _LEAST_CORRELATION or _correlation(part, 0.5 * period) > _OCTAVE * own:
        return False
    half = len(part) // 2
    return _db(part[half:]) < _db(part[:half]) + _SWELLS_DB


def _thinned(part: Floats, rate_hz: int) -> tuple[Floats, float]:
    """Means of a few samples: enough for the period of a low string."""
    k = max(1, rate_hz // _ENOUGH_HZ)
    n = len(part) // k
    return part[: n * k].reshape(n, k).mean(axis=1), rate_hz / k


def _correlation(part: Floats, period: float) -> float:
    """Normalised correlation at the best lag within half a step either way, if that is near."""
    low, high = int(period * (1 - _AROUND)), int(period * (1 + _AROUND)) + 2
    best, best_lag = 0.0, 0
    for lag in range(max(1, low), min(len(part) - 2, high)):
        a, b = part[:-lag], part[lag:]
        scale = float(np.dot(a, a) + np.dot(b, b))
        value = 2.0 * float(np.dot(a, b)) / scale if scale > 0.0 else 0.0
        if value > best:
            best, best_lag = value, lag
    is_near = abs(best_lag - period) <= max(1.0, _NEAR * period)
    return best if is_near else 0.0


def _falls_db(level: NDArray[np.float32], frame: int) -> float:
    """How far the bands fall within a tenth of a second of a beginning, in the mean.

    A pluck is strongest at once, its upper partials above all; a bow is still setting the string
    going, or keeps it going.
    """
    heard = np.maximum(level, np.median(level, axis=0))
    first, later = heard[max(0, frame - 2) : frame + 5], heard[frame + 16 : frame + 26]
    if not len(first) or not len(later):
        return 0.0
    return float(np.mean(first.max(axis=0) - later.max(axis=0)))


def _dies_away(x: Floats, rate_hz: int, onset_s: float) -> bool:
    late = _db(_part(x, rate_hz, onset_s + 0.5, onset_s + QUIET_AFTER_S))
    return late < _db(_part(x, rate_hz, onset_s + 0.02, onset_s + 0.15)) - _FALLEN_DB
