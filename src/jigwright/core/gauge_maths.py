"""Robust fits that several measures share."""

from __future__ import annotations

import numpy as np

from jigwright.core.values import Floats

MIN_RATE_HZ, MAX_RATE_HZ = 3.5, 9.5  # rates of vibrato that are looked for


def robust_line(x: Floats, y: Floats) -> tuple[float, float]:
    """Theil-Sen slope and intercept over up to 64 evenly chosen points.

    Parameters
    ----------
    x, y : ndarray, shape (n,)
        Finite; ``n >= 2``.

    Returns
    -------
    (float, float)
        Slope (``y`` units per ``x`` unit) and intercept.
    """
    if len(x) > 64:
        pick = np.linspace(0, len(x) - 1, 64).astype(np.intp)
        x, y = x[pick], y[pick]
    i, j = np.triu_indices(len(x), k=1)
    run = x[j] - x[i]
    good = run != 0
    if not good.any():
        return 0.0, float(np.median(y))
    slope = float(np.median((y[j] - y[i])[good] / run[good]))
    return slope, float(np.median(y - slope * x))


def fit_sinusoid(t_s: Floats, cents: Floats) -> tuple[float, float, float, float]:
    """Best sinusoid plus line.

    Returns
    -------
    (float, float, float, float)
        Rate in Hz, amplitude (half extent) in cents, phase in radians, share of variance.
    """
    detrended = cents - np.polyval(np.polyfit(t_s, cents, 1), t_s)
    coarse = np.arange(MIN_RATE_HZ - 0.5, MAX_RATE_HZ + 0.5, 0.2)
    best = coarse[int(np.argmax(_explained(t_s, detrended, coarse)[0]))]
    fine = best + np.arange(-0.2, 0.2001, 0.02)
    share, amplitude, phase = _explained(t_s, detrended, fine)
    i = int(np.argmax(share))
    return float(fine[i]), float(amplitude[i]), float(phase[i]), float(share[i])


def _explained(t_s: Floats, y: Floats, rates_hz: Floats) -> tuple[Floats, Floats, Floats]:
    """Share of variance, amplitude and phase of the best sinusoid plus line at each rate."""
    angle = 2 * np.pi * rates_hz[:, None] * t_s[None, :]
    cos, sin = np.cos(angle), np.sin(angle)
    one = np.broadcast_to(np.ones_like(t_s), cos.shape)
    line = np.broadcast_to(t_s - t_s.mean(), cos.shape)
    basis = np.stack([cos, sin, one, line], axis=2)
    gram = np.einsum("rti,rtj->rij", basis, basis) + 1e-9 * np.eye(4)
    right = np.einsum("rti,t->ri", basis, y)
    coefficients = np.linalg.solve(gram, right[:, :, None])[:, :, 0]
    total = max(float(np.sum((y - y.mean()) ** 2)), 1e-12)
    left = np.sum((y[None, :] - np.einsum("rti,ri->rt", basis, coefficients)) ** 2, axis=1)
    a, b = coefficients[:, 0], coefficients[:, 1]
    return 1.0 - left / total, np.hypot(a, b), np.arctan2(a, b)
