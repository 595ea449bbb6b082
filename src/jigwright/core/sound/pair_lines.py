"""Two notes that waver: each followed by those of its partials that stand alone.

A window long enough to part two notes is as long as a turn of vibrato, and a fit of steady partials
explains it badly. Partials far from all of the other note need no parting: each is filtered out of
the spectrum of the whole stretch and demodulated, its phase slope being the pitch at every moment
(instantaneous frequency, Boashash 1992). Partials that disagree with the median of them all are
left out. The centre is the mean over the stretch under a Hann taper, so that begun vibrato turns
weigh little.

Limits: octaves and unisons leave the upper or both notes without partials of their own; a band must
hold the deviation of its partial and one vibrato sideband, so high partials of close intervals are
not used.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.values import Floats, median

_FASTEST_HZ = 6.0  # vibrato: the nearest sidebands lie this far out
_DEVIATION_RATIO = 0.012  # 20 cents
_NARROWEST_HZ = 5.0
_WIDER = 1.5
_FLAT = 0.6  # of a band passes unchanged: a sideband made smaller is a vibrato made narrower
_MOST_PARTIALS = 10
_FAINTEST_DB = 30.0
_APART_CENTS = 8.0
_EDGE_S = 0.06
_CENTS = 1200.0 / np.log(2.0)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Line:
    """One note of two, through a stretch.

    Parameters
    ----------
    centre_hz : float
    uncertainty_cents : float
        Half the 95 % range, from how far the partials disagree.
    times_s : ndarray, shape (n,)
        From the start of the stretch.
    track_hz : ndarray, shape (n,)
    """

    centre_hz: float
    uncertainty_cents: float
    times_s: Floats
    track_hz: Floats


def follow_lines(
    x: Floats, rate_hz: float, pair_hz: tuple[float, float]
) -> tuple[Line, Line] | None:
    """Both notes of a stretch, or ``None`` when one of them has too few partials of its own.

    Parameters
    ----------
    x : ndarray
        The stretch, without what sounds before and after.
    rate_hz : float
    pair_hz : tuple of float
        Both fundamentals within about 20 cents.
    """
    n = fft.next_fast_len(len(x), real=True)
    spectrum = fft.rfft(x, n)
    lines = []
    for own, other in (pair_hz, pair_hz[::-1]):
        line = _follow(spectrum, rate_hz / n, len(x) / rate_hz, own, other)
        if line is None:
            return None
        lines.append(line)
    return lines[0], lines[1]


def lone_levels_db(
    x: Floats, rate_hz: float, pair_hz: tuple[float, float]
) -> tuple[Floats, Floats] | None:
    """Level of each note's own partials through a stretch.

    Parameters
    ----------
    x : ndarray
    rate_hz : float
    pair_hz : tuple of float
        Both fundamentals within about 30 cents.

    Returns
    -------
    tuple of ndarray or None
        Decibels of the lower and the upper note, on even grids from the start to the end of the
        stretch; ``None`` when one of them has no partial of its own.
    """
    n = fft.next_fast_len(len(x), real=True)
    spectrum = fft.rfft(x, n)
    levels = []
    for own, other in (pair_hz, pair_hz[::-1]):
        number, half_hz = _alone(own, other, 0.9 * len(spectrum) * rate_hz / n)
        if not len(number):
            return None
        z = _bands(spectrum, rate_hz / n, number * own, half_hz)
        kept = z[:, : int(len(x) / n * z.shape[1])]
        levels.append(10.0 * np.log10(np.sum(np.abs(kept) ** 2, axis=0) + 1e-20))
    return levels[0], levels[1]


def _bands(
    spectrum: NDArray[np.complexfloating[Any, Any]],
    bin_hz: float,
    middle_hz: Floats,
    half_hz: Floats,
) -> NDArray[np.complex128]:
    """Every partial brought to about zero at a low rate, shape (partials, m)."""
    size = fft.next_fast_len(int(4 * half_hz.max() / bin_hz) + 4)
    middle = np.rint(middle_hz / bin_hz).astype(int)
    bands = np.zeros((len(middle), size), dtype=np.complex128)
    for band, at, half in zip(bands, middle, half_hz, strict=True):
        reach = int(half / bin_hz)
        offset = np.arange(-reach, reach + 1)
        edge_part = np.maximum(0.0, np.abs(offset) / (reach + 1) - _FLAT) / (1.0 - _FLAT)
        weight = np.cos(0.5 * np.pi * edge_part) ** 2
        band[offset % size] = spectrum[at + offset] * weight
    return np.asarray(fft.ifft(bands, axis=1))


def demodulated(
    spectrum: NDArray[np.complexfloating[Any, Any]],
    bin_hz: float,
    middle_hz: Floats,
    half_hz: float,
) -> tuple[NDArray[np.complex128], float]:
    """Bands of one width, each turned so that its middle stands still.

    Parameters
    ----------
    spectrum : ndarray, shape (n // 2 + 1,)
        Of a whole stretch.
    bin_hz : float
    middle_hz : ndarray, shape (p,)
    half_hz : float

    Returns
    -------
    bands : ndarray of complex, shape (p, m)
    rate_hz : float
        Of their samples.
    """
    z = _bands(spectrum, bin_hz, middle_hz, np.full(len(middle_hz), half_hz))
    rate_hz = z.shape[1] * bin_hz
    rest_hz = np.rint(middle_hz / bin_hz) * bin_hz - middle_hz
    at_s = np.arange(z.shape[1]) / rate_hz
    return z * np.exp(2j * np.pi * rest_hz[:, None] * at_s), rate_hz


def _follow(
    spectrum: NDArray[np.complexfloating[Any, Any]],
    bin_hz: float,
    length_s: float,
    own_hz: float,
    other_hz: float,
) -> Line | None:
    number, half_hz = _alone(own_hz, other_hz, 0.9 * len(spectrum) * bin_hz)
    if len(number) < 2:
        return None
    middle = np.rint(number * own_hz / bin_hz).astype(int)
    z = _bands(spectrum, bin_hz, number * own_hz, half_hz)
    slow_hz = z.shape[1] * bin_hz
    z = z[:, : int(length_s * slow_hz)]
    edge = round(_EDGE_S * slow_hz)
    turn = (z[:, 1:] * z[:, :-1].conj())[:, edge:-edge]
    if turn.shape[1] < 8:
        return None
    f_hz = middle[:, None] * bin_hz + np.angle(turn) * slow_hz / (2 * np.pi)
    cents = _CENTS * np.log(np.maximum(f_hz / (number[:, None] * own_hz), 1e-3))
    power = np.abs(turn)
    taper = np.hanning(turn.shape[1] + 2)[1:-1]
    total = power.sum(axis=1)
    heard = total > total.max() * 10 ** (-_FAINTEST_DB / 10)
    each = np.sum(cents * power * taper, axis=1) / np.sum(power * taper, axis=1)
    agreeing = heard & (np.abs(each - median(each[heard])) < _APART_CENTS)
    n_used = int(np.count_nonzero(agreeing))
    if n_used < 2:
        return None
    weight = power[agreeing] * number[agreeing, None] ** 2
    track = np.sum(weight * cents[agreeing], axis=0) / np.sum(weight, axis=0)
    centre = float(np.sum(track * taper) / np.sum(taper))
    apart = float(np.std(each[agreeing], ddof=1))
    return Line(
        centre_hz=own_hz * 2 ** (centre / 1200),
        uncertainty_cents=0.25 + 1.96 * apart / np.sqrt(n_used),
        times_s=(np.arange(len(track)) + edge + 0.5) / slow_hz,
        track_hz=own_hz * 2 ** (track / 1200),
    )


def _alone(own_hz: float, other_hz: float, top_hz: float) -> tuple[Floats, Floats]:
    """Numbers of the partials that stand alone, and half the width each may take."""
    number = np.arange(1.0, max(2.0, top_hz / own_hz))
    place = number * own_hz
    others = other_hz * np.arange(1.0, place[-1] / other_hz + 2.0)
    gap = np.minimum(np.abs(place[:, None] - others[None, :]).min(axis=1), own_hz)
    need = np.maximum(_NARROWEST_HZ, _DEVIATION_RATIO * place + _FASTEST_HZ)
    free = np.flatnonzero(0.5 * gap >= need)[:_MOST_PARTIALS]
    return number[free], np.minimum(0.5 * gap, _WIDER * need)[free]
