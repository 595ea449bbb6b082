"""Robust fits that several measures share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats, median

_MOST_POINTS = 40  # 780 slopes: the median of more costs time and tells nothing new
MIN_RATE_HZ, MAX_RATE_HZ = 3.5, 9.5  # rates of vibrato that are looked for
MIN_WAVE_HZ, MAX_WAVE_HZ = 3.0, 12.0  # rates at which a level swings


def robust_line(x: Floats, y: Floats) -> tuple[float, float]:
    """Theil-Sen slope and intercept over up to 40 evenly chosen points.

    Parameters
    ----------
    x, y : ndarray, shape (n,)
        Finite; ``n >= 2``.

    Returns
    -------
    (float, float)
        Slope (``y`` units per ``x`` unit) and intercept.
    """
    if len(x) > _MOST_POINTS:
        pick = np.linspace(0, len(x) - 1, _MOST_POINTS).astype(np.intp)
        x, y = x[pick], y[pick]
    i, j = _pairs(len(x))
    run = x[j] - x[i]
    good = run != 0
    if not good.any():
        return 0.0, median(y)
    slope = median((y[j] - y[i])[good] / run[good])
    return slope, median(y - slope * x)


@lru_cache(maxsize=64)
def _pairs(n: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    return np.triu_indices(n, k=1)


def fit_sinusoid(t_s: Floats, cents: Floats) -> tuple[float, float, float, float]:
    """Best sinusoid plus line.

    Returns
    -------
    (float, float, float, float)
        Rate in Hz, amplitude (half extent) in cents, phase in radians, share of variance.
    """
    detrended = _without_line(t_s, cents)
    coarse = np.arange(MIN_RATE_HZ - 0.5, MAX_RATE_HZ + 0.5, 0.2)
    # groups of frames are enough to find the neighbourhood
    group = 4 if len(t_s) >= 96 else 2 if len(t_s) >= 24 else 1
    n = len(t_s) // group * group
    thin_t = t_s[:n].reshape(-1, group).mean(axis=1)
    thin_y = detrended[:n].reshape(-1, group).mean(axis=1)
    explained = _explained(thin_t, thin_y, coarse)[0]
    i = min(max(int(np.argmax(explained)), 1), len(coarse) - 2)
    before, here, after = explained[i - 1 : i + 2]
    curve = before - 2 * here + after
    shift = 0.5 * (before - after) / curve if curve < -1e-12 else 0.0
    best = coarse[i] + 0.2 * min(max(shift, -1.0), 1.0)
    share, amplitude, phase = _explained(t_s, detrended, np.array([best]))
    return float(best), float(amplitude[0]), float(phase[0]), float(share[0])


def _without_line(t_s: Floats, y: Floats) -> Floats:
    line = t_s - t_s.mean()
    return np.asarray(y - y.mean() - line * (float(line @ y) / max(float(line @ line), 1e-12)))


def _explained(t_s: Floats, y: Floats, rates_hz: Floats) -> tuple[Floats, Floats, Floats]:
    """Share of variance, amplitude and phase of the best sinusoid plus line at each rate."""
    angle = 2 * np.pi * np.outer(rates_hz, t_s)
    cos, sin = np.cos(angle), np.sin(angle)
    line = t_s - t_s.mean()
    plain = np.stack([np.full(len(t_s), len(t_s) ** -0.5), line / np.sqrt(np.sum(line**2))])
    left = y - plain.T @ (plain @ y)
    cos_plain, sin_plain = cos @ plain.T, sin @ plain.T
    # the wave's own part, clear of mean and line: a 2 x 2 system for each rate
    cc = np.sum(cos * cos, axis=1) - np.sum(cos_plain**2, axis=1) + 1e-9
    ss = np.sum(sin * sin, axis=1) - np.sum(sin_plain**2, axis=1) + 1e-9
    cs = np.sum(cos * sin, axis=1) - np.sum(cos_plain * sin_plain, axis=1)
    cy, sy = cos @ left, sin @ left
    det = np.maximum(cc * ss - cs * cs, 1e-12)
    a, b = (ss * cy - cs * sy) / det, (cc * sy - cs * cy) / det
    total = max(float(np.sum((y - y.mean()) ** 2)), 1e-12)
    unexplained = float(np.sum(left**2)) - (a * cy + b * sy)
    return 1.0 - unexplained / total, np.hypot(a, b), np.arctan2(a, b)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wave:
    """The strongest sinusoid in a curve.

    Parameters
    ----------
    rate_hz : float
    depth : float
        Peak to peak, in the curve's unit.
    share : float
        Of the variance that it explains.
    """

    rate_hz: float
    depth: float
    share: float


def level_wave(
    level: Floats, hop_s: float, *, without_hz: Sequence[tuple[float, float]] = ()
) -> Wave | None:
    """Strongest sinusoid of 3 … 12 Hz in a curve without its quadratic trend.

    Parameters
    ----------
    level : ndarray
    hop_s : float
    without_hz : sequence of (float, float)
        Rates left out: centre and half width.

    Returns
    -------
    Wave or None
        ``None`` for less than half a second.
    """
    length_s = (len(level) - 1) * hop_s
    if length_s < 0.5:
        return None
    left, taper = _tapered(level, hop_s)
    n_fft = max(8192, 1 << int(np.ceil(np.log2(len(left)))))
    at = np.arange(int(MIN_WAVE_HZ * hop_s * n_fft), int(MAX_WAVE_HZ * hop_s * n_fft) + 1)
    rates = at / (hop_s * n_fft)
    amplitude = np.abs(np.fft.rfft(left * taper, n_fft)[at]) * 2 / taper.sum()
    for centre_hz, width_hz in without_hz:
        amplitude[np.abs(rates - centre_hz) < width_hz] = 0.0
    best = int(np.argmax(amplitude))
    high = float(amplitude[best])
    share = 0.5 * high**2 / max(float(np.var(left)), 1e-9)
    return Wave(rate_hz=float(rates[best]), depth=2.0 * high, share=share)


def wave_at(level: Floats, hop_s: float, rate_hz: float) -> complex:
    """The sinusoid of one rate in a curve without its quadratic trend: amplitude and phase."""
    left, taper = _tapered(level, hop_s)
    turn = np.exp(-2j * np.pi * rate_hz * np.arange(len(left)) * hop_s)
    return complex(np.sum(left * taper * turn) * 2 / taper.sum())


def _tapered(level: Floats, hop_s: float) -> tuple[Floats, Floats]:
    t_s = np.arange(len(level)) * hop_s
    left = level - np.polyval(np.polyfit(t_s, level, 2), t_s)
    return np.asarray(left), np.hanning(len(left) + 2)[1:-1]


def turning(turns: Floats) -> NDArray[np.complex64]:
    """``exp(-2 pi i turns)``, reduced to one turn before it is rounded to single precision."""
    angle = (2 * np.pi * (turns - np.floor(turns))).astype(np.float32)
    out = np.empty(angle.shape, dtype=np.complex64)
    out.real, out.imag = np.cos(angle), -np.sin(angle)
    return out


def middle(values: Sequence[float]) -> float | None:
    """Median of what could be measured; ``None`` if nothing could."""
    good = [v for v in values if np.isfinite(v)]
    return float(np.median(good)) if good else None


def middle_with_range(values: Sequence[float]) -> tuple[float, float]:
    """Median and half its 95 % range, from the robust spread.

    1.25 σ/√n is the standard error of a median of normal values (Kendall & Stuart 1977, 10.12).

    Parameters
    ----------
    values : sequence of float
        One is a median without a range (infinite).
    """
    n = len(values)
    centre = median(list(values))
    if n < 2:
        return centre, float("inf")
    spread = 1.4826 * median([abs(v - centre) for v in values])
    if n < 5:
        spread = max(spread, float(np.std(values, ddof=1)))
    return centre, 1.96 * 1.2533 * spread / n**0.5
