"""Short tones that come and go, and steady ones that do not."""

from __future__ import annotations

import numpy as np

RATE = 24_000


def noise(seconds: float, db: float = -80.0) -> np.ndarray:
    rng = np.random.default_rng(1)
    return 10 ** (db / 20) * rng.standard_normal(round(seconds * RATE))


def tone(seconds: float, f_hz: float, db: float, *, wander_cents: float = 0.0) -> np.ndarray:
    """Three partials; a bowed one wanders."""
    n = round(seconds * RATE)
    steps = np.random.default_rng(2).standard_normal(n // 200 + 2)
    slow = np.interp(np.arange(n), np.arange(len(steps)) * 200, np.cumsum(steps))
    cents = wander_cents * slow / max(1e-9, np.std(slow))
    turn = 2 * np.pi * np.cumsum(f_hz * 2 ** (cents / 1200)) / RATE
    return 10 ** (db / 20) * sum(np.sin(k * turn) / k for k in (1, 2, 3))


def notes(seconds: float, *, gap_s: float = 0.2) -> np.ndarray:
    """Single tones of half a second, each another, with gaps between."""
    x = np.zeros(round(seconds * RATE))
    for k, start_s in enumerate(np.arange(0.8, seconds - 1.2, 0.5 + gap_s)):
        i = round(start_s * RATE)
        part = tone(0.5, 220.0 * 2 ** ((k * 5 % 12) / 12), -12.0)
        x[i : i + len(part)] += part * np.hanning(len(part)) ** 0.25
    return x
