"""Plucked and bowed strings of a few lines, for signals that are played."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from jigwright.core.values import Floats

RATE = 48_000
G3, E1 = 196.0, 41.2


def pluck(f_hz: float, *, seconds: float = 1.6, decay_s: float = 0.25) -> Floats:
    """A string let go at once: every partial begins at its strongest, the upper ones fade first."""
    t = np.arange(round(seconds * RATE)) / RATE
    partials = range(1, min(30, int(9000 / f_hz)))
    return sum(
        np.exp(-t * (1 + 0.25 * h) / decay_s) * np.sin(2 * np.pi * h * f_hz * t + 0.4 * h) / h
        for h in partials
    )  # type: ignore[return-value]


def bowed(f_hz: float, *, seconds: float = 0.15) -> Floats:
    t = np.arange(round(seconds * RATE)) / RATE
    swell = np.minimum(1.0, t / 0.06) * np.minimum(1.0, (seconds - t) / 0.03)
    return swell * sum(np.sin(2 * np.pi * h * f_hz * t) / h for h in range(1, 12))


def sound(
    starts_s: Sequence[float],
    f_hz: float = G3,
    *,
    seconds: float = 5.0,
    make: Callable[[float], Floats] = pluck,
    noise: float = 1e-4,
) -> Floats:
    x = noise * np.random.default_rng(1).standard_normal(round(seconds * RATE))
    for at_s in starts_s:
        one = 0.2 * make(f_hz)
        a = round(at_s * RATE)
        x[a : a + len(one)] += one[: max(0, len(x) - a)]
    return x
