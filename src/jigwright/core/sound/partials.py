"""Demodulated partials of one note, and the pitch that fits them all.

Each partial ``h`` is brought to zero frequency by the phase of the contour and summed in blocks of
one hop; what turns in the blocks is how far the contour is off. The offset common to all partials
is the one that maximises their summed energy (harmonic nonlinear least squares, Christensen &
Jakobsson 2009; Rife & Boorstyn 1974 for one partial), found by Newton steps on the block sums.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import signal

from jigwright.core.values import Floats

N_PARTIALS = 12


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Refined:
    """Pitch of a stretch from its partials.

    Parameters
    ----------
    offset_cents : float
        To be added to the contour.
    sd_cents : float
        Standard error of the offset from the residual phases.
    """

    offset_cents: float
    sd_cents: float


def refine_pitch(
    x: Floats, rate_hz: int, f_hz: Floats, hop_samples: int, *, n_partials: int = N_PARTIALS
) -> Refined | None:
    """Fit one frequency offset to all partials of a stretch.

    Parameters
    ----------
    x : ndarray, shape (m * hop_samples,)
        The sound at the internal rate.
    rate_hz : int
    f_hz : ndarray, shape (m + 1,)
        Contour at the block borders.
    hop_samples : int
    n_partials : int

    Returns
    -------
    Refined or None
        ``None`` when there are fewer than four blocks or no energy.
    """
    m = len(x) // hop_samples
    if m < 4:
        return None
    f_mean = float(np.exp(np.mean(np.log(f_hz))))
    count = max(1, min(n_partials, int(0.42 * rate_hz / f_mean)))
    blocks = _demodulate(x[: m * hop_samples], rate_hz, f_hz, hop_samples, count)
    power = np.sum(np.abs(blocks) ** 2, axis=1)
    if float(power.max(initial=0.0)) <= 0:
        return None
    t_s = (np.arange(m) - 0.5 * (m - 1)) * (hop_samples / rate_hz)
    taper = signal.get_window("hann", m + 2, fftbins=False)[1:-1]
    h = np.arange(1, count + 1)
    weights = _partial_weights(blocks, h)
    delta_hz = _common_offset(blocks * taper, t_s, h, weights)
    to_cents = 1200.0 / np.log(2) / f_mean
    sd_hz = _standard_error(blocks, t_s, h, weights, delta_hz)
    return Refined(
        offset_cents=delta_hz * to_cents,
        sd_cents=sd_hz * to_cents,
    )


def _demodulate(
    x: Floats, rate_hz: int, f_hz: Floats, hop: int, count: int
) -> np.ndarray:  # type: ignore[type-arg]
    n = len(x)
    m = n // hop
    f = np.interp(np.arange(n) + 0.5, np.arange(m + 1) * hop, f_hz[: m + 1])
    turn = np.exp(-2j * np.pi * np.cumsum(f) / rate_hz)
    carrier = np.ones(n, dtype=np.complex128)
    out = np.empty((count, m), dtype=np.complex128)
    for h in range(count):
        carrier *= turn
        out[h] = (carrier * x).reshape(m, hop).sum(axis=1)
    return out


def _partial_weights(blocks: np.ndarray, h: Floats) -> Floats:  # type: ignore[type-arg]
    """Inverse noise power of each partial, from block-to-block irregularity."""
    if blocks.shape[1] < 6:
        return np.ones(len(h))
    step = blocks[:, 2:] - 2 * blocks[:, 1:-1] + blocks[:, :-2]
    noise = np.mean(np.abs(step) ** 2, axis=1) / 6.0
    power = np.mean(np.abs(blocks) ** 2, axis=1)
    floor = 1e-5 * power.max()
    return np.asarray(1.0 / (noise + floor))


def _common_offset(
    blocks: np.ndarray, t_s: Floats, h: Floats, weights: Floats  # type: ignore[type-arg]
) -> float:
    delta = 0.0
    for _ in range(6):
        turn = np.exp(-2j * np.pi * delta * h[:, None] * t_s[None, :])
        z = blocks * turn
        s0, s1, s2 = z.sum(axis=1), (z * t_s).sum(axis=1), (z * t_s**2).sum(axis=1)
        a = 2 * np.pi * h
        slope = np.sum(weights * 2 * np.real(np.conj(s0) * (-1j * a * s1)))
        bend = np.sum(weights * 2 * a**2 * (np.abs(s1) ** 2 - np.real(np.conj(s0) * s2)))
        if bend >= 0 or not np.isfinite(slope):
            break
        step = float(np.clip(-slope / bend, -2.0, 2.0))
        delta += step
        if abs(step) < 1e-5:
            break
    return delta


def _standard_error(
    blocks: np.ndarray, t_s: Floats, h: Floats, weights: Floats, delta_hz: float  # type: ignore[type-arg]
) -> float:
    """Spread of the partials' own answers about the common one, as a standard error."""
    turn = np.exp(-2j * np.pi * delta_hz * h[:, None] * t_s[None, :])
    z = blocks * turn
    phase = np.unwrap(np.angle(z), axis=1)
    centred = t_s - t_s.mean()
    spread = float(np.sum(centred**2))
    slope = (phase @ centred) / spread
    residual = phase - phase.mean(axis=1, keepdims=True) - slope[:, None] * centred
    # neighbouring blocks are not independent: widen by the residual's correlation
    lag1 = np.sum(residual[:, 1:] * residual[:, :-1], axis=1) / np.maximum(
        np.sum(residual**2, axis=1), 1e-12
    )
    rho = np.clip(lag1, 0.0, 0.95)
    variance = np.mean(residual**2, axis=1) * (1 + rho) / (1 - rho) / spread
    sd_each = np.sqrt(variance) / (2 * np.pi * h)
    power = np.mean(np.abs(blocks) ** 2, axis=1)
    trust = weights * power * h**2
    share = trust / trust.sum()
    within = float(np.sqrt(np.sum((share * sd_each) ** 2)))
    own = slope / (2 * np.pi * h)
    between = float(np.sqrt(np.sum(share * own**2)))
    effective = 1.0 / float(np.sum(share**2))
    return float(np.hypot(within, between / np.sqrt(max(1.0, effective))))
