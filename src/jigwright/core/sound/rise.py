"""Which pitch begins at a moment, under whatever still sounds from before.

The spectrum just after a beginning, less what stood there just before, holds the partials of the
new note alone: what goes on does not rise. Their summed logarithmic strength over a comb, less that
half-way between the comb's teeth, says which pitch it is (a harmonic sum as in Hermes 1988, over a
difference of spectra). In fast playing the release of each note covers the next one's beginning and
the period of the mixture is neither's.

On 193 single notes of four fast passages by three generators, with the beginnings given, the pitch
named lies within 50 c of the note in 171: in 146 of 156 on the violin, in 25 of 37 on the bass.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

_CENTS = 10.0
_FADE = 0.84  # weight from each partial to the next
_N_PARTIALS = 10
_BETWEEN, _N_BETWEEN = 0.6, 7
_STAYS = 0.8  # share of what stood before that is taken out: releases fall meanwhile
_STRENGTH = 30.0
_APART_S = 0.006
_LEAST_S = 0.03
_RESOLUTION_S = 0.25


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Rise:
    """How strongly each pitch begins.

    Parameters
    ----------
    cents : ndarray
        Re 1 Hz, every 10 cents.
    salience : ndarray
        No unit; below 0 where nothing of that pitch begins.
    """

    cents: Floats
    salience: Floats

    @property
    def best_cents(self) -> float:
        """The pitch that begins most clearly."""
        return float(self.cents[int(np.argmax(self.salience))])

    @property
    def best(self) -> float:
        """Its salience."""
        return float(self.salience.max())

    def near(self, cents: float, within: float = 50.0) -> float:
        """Largest salience near a pitch; 0 when that is out of range."""
        inside = np.abs(self.cents - cents) <= within
        return float(self.salience[inside].max()) if inside.any() else 0.0


def rise_at(
    x: Floats,
    rate_hz: int,
    start: int,
    stop: int,
    *,
    lowest_hz: float,
    highest_hz: float,
    window_s: float,
) -> Rise | None:
    """What begins at a sample.

    Parameters
    ----------
    x : ndarray
    rate_hz : int
    start, stop : int
        Samples at which it begins, and at which the next thing does.
    lowest_hz, highest_hz : float
        Range of pitches.
    window_s : float
        As long as is looked at, where it lasts so long.

    Returns
    -------
    Rise or None
        ``None`` where there is no sound before or after.
    """
    length = max(round(_LEAST_S * rate_hz), min(round(window_s * rate_hz), stop - start))
    apart = round(_APART_S * rate_hz)
    size = 1 << int(np.ceil(np.log2(_RESOLUTION_S * rate_hz)))
    after = _spectrum(x, start + apart, start + apart + length, size)
    before = _spectrum(x, start - apart - length, start - apart, size)
    if after is None:
        return None
    new = after.copy() if before is None else np.maximum(0.0, after - _STAYS * before)
    new[-1] = 0.0  # where teeth beyond the highest bin are looked for
    new = np.log1p(new * (_STRENGTH / (float(np.percentile(after, 99.5)) + 1e-12)))
    comb = _combs(rate_hz, size, lowest_hz, highest_hz)
    return Rise(cents=comb.cents, salience=comb.weights @ new[comb.bins])


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Combs:
    cents: Floats
    bins: NDArray[np.intp]
    weights: Floats


@lru_cache(maxsize=8)
def _combs(rate_hz: int, size: int, lowest_hz: float, highest_hz: float) -> _Combs:
    """Bins of the teeth and of half-way between them for every pitch, and what each counts."""
    cents = np.arange(1200.0 * np.log2(lowest_hz), 1200.0 * np.log2(highest_hz), _CENTS)
    teeth = np.concatenate([1.0 + np.arange(_N_PARTIALS), 0.5 + np.arange(_N_BETWEEN)])
    weights = np.concatenate(
        [_FADE ** np.arange(_N_PARTIALS), -_BETWEEN * _FADE ** np.arange(_N_BETWEEN)]
    )
    bins = np.round(np.outer(teeth, 2.0 ** (cents / 1200.0)) * size / rate_hz).astype(np.intp)
    return _Combs(cents=cents, bins=np.minimum(bins, size // 2), weights=weights)


def _spectrum(x: Floats, start: int, stop: int, size: int) -> Floats | None:
    start, stop = max(0, start), min(len(x), stop)
    if stop - start < 32:
        return None
    taper = np.hanning(stop - start + 2)[1:-1]
    return np.asarray(np.abs(np.fft.rfft(x[start:stop] * taper, size)) / taper.sum())
