"""Metronomes that are not ours, of chosen sound, speed and evenness."""

from __future__ import annotations

import numpy as np

from tone_builders import RATE


def tick(pitch_hz: float = 1900.0, seed: int = 1) -> np.ndarray:
    """A damped tone of a hundredth of a second with the same noise at each."""
    u = np.arange(round(0.06 * RATE)) / RATE
    rough = np.random.default_rng(seed).normal(size=len(u))
    return np.sin(2 * np.pi * pitch_hz * u) * np.exp(-u / 0.01) + 0.4 * rough * np.exp(-u / 0.004)


def metronome(
    seconds: float,
    bpm: float = 90.0,
    level: float = 0.2,
    *,
    first_s: float = 0.31,
    every: int = 0,
    jitter_s: float = 0.0,
    from_s: float = 0.0,
    to_s: float = 1e9,
    same: bool = True,
) -> np.ndarray:
    """Ticks of one height; ``every`` how many-th a higher one, ``same`` or each its own sound."""
    rng = np.random.default_rng(11)
    out = np.zeros(round(seconds * RATE) + RATE)
    for i in range(int((seconds - first_s) * bpm / 60.0) + 1):
        at_s = first_s + i * 60.0 / bpm + rng.normal() * jitter_s
        if not from_s <= at_s < to_s:
            continue
        accent = bool(every) and i % every == 0
        pitch_hz = 2600.0 if accent else 1900.0
        if same:
            sound = tick(pitch_hz, seed=2 if accent else 1)
        else:
            sound = tick(rng.uniform(900.0, 4000.0), seed=100 + i)
        start = round(at_s * RATE)
        out[start : start + len(sound)] += level * sound
    return out[: round(seconds * RATE)]
