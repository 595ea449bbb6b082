"""The pitch of a note while the one before still sounds.

Harmonic least squares over two fundamentals (Christensen & Jakobsson 2009, with two sources): that
of the note before is known, that of the note is searched within 60 cents of where it was heard to
begin. What both explain together is maximised, so that a release that rings on draws nothing.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

_N_PARTIALS = 7
_REACH_CENTS, _STEP_CENTS = 60.0, 12.0
_LONGEST_S = 0.25
_LEAST_PERIODS = 4.0
_LOADING = 1e-4
_LEAST_SHARE = 0.5  # of the energy the two notes explain


@dataclass(frozen=True, slots=True, kw_only=True)
class Mixed:
    """What was found.

    Parameters
    ----------
    cents : float
        Re 1 Hz.
    sd_cents : float
        From the curvature of the explained energy at its maximum and what is left unexplained.
    share : float
        Of the energy that both notes explain.
    """

    cents: float
    sd_cents: float
    share: float


def mixed_pitch(x: Floats, rate_hz: int, near_cents: float, other_hz: float | None) -> Mixed | None:
    """Search the pitch of a note beside another one.

    Parameters
    ----------
    x : ndarray
        The note's sound at the internal rate; of a long one the middle is taken.
    rate_hz : int
    near_cents : float
        Re 1 Hz.
    other_hz : float or None
        Fundamental of the note before; ``None`` where none sounds on.

    Returns
    -------
    Mixed or None
        ``None`` when it is too short or both explain less than half of the sound.
    """
    near_hz = 2.0 ** (near_cents / 1200.0)
    most = round(_LONGEST_S * rate_hz)
    if len(x) > most:
        lo = (len(x) - most) // 2
        x = x[lo : lo + most]
    if len(x) < _LEAST_PERIODS * rate_hz / near_hz:
        return None
    taper = np.hanning(len(x) + 2)[1:-1]
    y = np.asarray(x, dtype=np.float64) * taper
    total = float(y @ y)
    if total <= 0.0:
        return None
    t_s = (np.arange(len(y)) - 0.5 * len(y)) / rate_hz
    other = np.empty((len(y), 0))
    if other_hz is not None:
        other = _comb(t_s, taper, other_hz, rate_hz)
    own_gram, seen_other = other.T @ other, other.T @ y

    def explained(cents: float) -> float:
        own = _comb(t_s, taper, 2.0 ** (cents / 1200.0), rate_hz)
        n = own.shape[1]
        gram = np.empty((n + len(own_gram),) * 2)
        gram[:n, :n], gram[:n, n:], gram[n:, n:] = own.T @ own, own.T @ other, own_gram
        gram[n:, :n] = gram[:n, n:].T
        gram[np.diag_indices_from(gram)] += _LOADING * float(np.trace(gram)) / len(gram)
        seen = np.concatenate([own.T @ y, seen_other])
        return float(seen @ np.linalg.solve(gram, seen))

    best, step = near_cents, _STEP_CENTS
    energy: dict[float, float] = {}
    for reach in (int(_REACH_CENTS / _STEP_CENTS), 2, 2):  # ever finer about the best so far
        for k in range(-reach, reach + 1):
            at = best + k * step
            if at not in energy:
                energy[at] = explained(at)
        best = max(energy, key=lambda at: energy[at])
        step /= 3.0
    step *= 3.0
    a, b, c = (energy.get(best + k * step) or explained(best + k * step) for k in (-1.0, 0.0, 1.0))
    bend = (a - 2.0 * b + c) / step**2
    if bend >= 0.0:
        return None
    cents = best + 0.5 * (a - c) / (a - 2.0 * b + c) * step
    left = max(total - b, 1e-12 * total)
    share = 1.0 - left / total
    if share < _LEAST_SHARE:
        return None
    # variance of the estimate: noise power per sample over the energy's curvature
    noise = left / (len(y) * float(np.mean(taper**2)))
    sd = float(np.sqrt(2.0 * noise * float(np.mean(taper**2)) / -bend))
    return Mixed(cents=cents, sd_cents=sd, share=share)


def _comb(t_s: Floats, taper: Floats, f_hz: float, rate_hz: int) -> NDArray[np.float64]:
    """Tapered cosines and sines of the partials, shape (samples, 2 * partials)."""
    count = max(1, min(_N_PARTIALS, int(0.42 * rate_hz / f_hz)))
    turn = np.exp(2j * np.pi * f_hz * t_s)
    waves = np.empty((len(t_s), count), dtype=np.complex128)
    wave = taper.astype(np.complex128)
    for h in range(count):
        wave = wave * turn
        waves[:, h] = wave
    return np.asarray(waves.view(np.float64))
