"""A tone to tune to: a harmonic sound at a moderate level with soft edges."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

RATE_HZ = 48_000
_PEAK = 0.12


def target_tone(f_hz: float, length_s: float) -> NDArray[np.float32]:
    """Return a tone of eight partials falling as 1/n, faded in and out over 60 ms.

    Parameters
    ----------
    f_hz : float
    length_s : float
        Seconds, 0.1 … 30.

    Returns
    -------
    ndarray of float32, shape (n,)
        At 48 kHz, peak about 0.12 of full scale.
    """
    n = round(min(max(length_s, 0.1), 30.0) * RATE_HZ)
    t_s = np.arange(n) / RATE_HZ
    total = np.zeros(n)
    for k in range(1, 9):
        if k * f_hz < 0.45 * RATE_HZ:
            total += np.sin(2 * np.pi * k * f_hz * t_s) / k
    edge = np.clip(np.minimum(t_s, t_s[::-1]) / 0.06, 0.0, 1.0)
    sound = _PEAK * total / 1.7 * np.sin(0.5 * np.pi * edge) ** 2
    return np.asarray(sound, dtype=np.float32)
