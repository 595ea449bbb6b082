"""Somebody who speaks: a source and a filter that move, as far as a listener for music needs.

After Klatt 1980 ("Software for a cascade/parallel formant synthesizer"): pulses with jitter and
breath, three formants that glide from sound to sound, noise for consonants.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import signal

_Array = NDArray[np.float64]
_FORMANTS_HZ = (
    (730.0, 1090.0, 2440.0), (270.0, 2290.0, 3010.0), (530.0, 1840.0, 2480.0),
    (300.0, 870.0, 2240.0), (570.0, 840.0, 2410.0), (440.0, 1020.0, 2240.0),
)  # fmt: skip
_WIDTHS_HZ = (80.0, 110.0, 170.0)
_STEP_S = 0.005
_GLIDE_S = 0.07  # from the consonant's formants to the vowel's
_HIGHEST_HZ = 4500.0
_JITTER, _BREATH = 0.004, 0.05
_HISS_HZ = (2500.0, 7000.0)


def speech(n: int, rate_hz: int, rng: np.random.Generator) -> _Array:
    """Syllables of a voice; RMS 1 while it speaks.

    Parameters
    ----------
    n : int
        Samples.
    rate_hz : int
    rng : numpy.random.Generator
    """
    at = np.arange(n) / rate_hz / _STEP_S
    tracks = _Tracks(int(n / rate_hz / _STEP_S) + 2, rng)
    every = np.arange(len(tracks.f0_hz))
    f0 = np.interp(at, every, tracks.f0_hz)
    f0 *= 1.0 + _JITTER * np.interp(at, every, rng.normal(size=len(every)))
    phase = 2 * np.pi * np.cumsum(f0) / rate_hz
    source = np.zeros(n)
    for k in range(1, int(_HIGHEST_HZ / f0.max()) + 1):
        source += np.cos(k * phase) / k**0.5
    source += _BREATH * np.sqrt(_HIGHEST_HZ / 200.0) * rng.normal(size=n) * (1.0 + np.cos(phase))
    voiced = _through_formants(source, tracks.formants_hz, rate_hz)
    voiced *= np.interp(at, every, tracks.voice)
    high = min(_HISS_HZ[1], 0.45 * rate_hz)
    sos = signal.butter(2, [_HISS_HZ[0], high], "band", fs=rate_hz, output="sos")
    hiss = signal.sosfilt(sos, rng.normal(size=n)) * np.interp(at, every, tracks.hiss)
    spoken = tracks.voice > 0.3
    active = np.interp(at, every, spoken) > 0.5
    usual = float(np.sqrt(np.mean(voiced[active] ** 2))) if active.any() else 1.0
    out = voiced / max(usual, 1e-12) + hiss
    sounding = np.abs(out) > 1e-3
    return out / (float(np.sqrt(np.mean(out[sounding] ** 2))) if sounding.any() else 1.0)


class _Tracks:
    """Pitch, loudness, noise and formants of made-up syllables, one value every 5 ms."""

    def __init__(self, n: int, rng: np.random.Generator) -> None:
        self.voice, self.hiss = np.zeros(n), np.zeros(n)
        self.f0_hz = np.full(n, 150.0)
        self.formants_hz = np.tile(np.array(_FORMANTS_HZ[0]), (n, 1))
        base_hz = float(rng.uniform(95.0, 220.0))
        at, since, before = 0, 0, np.array(_FORMANTS_HZ[3])
        while at < n:
            at = self._consonant(at, rng)
            length = int(rng.uniform(0.07, 0.2) / _STEP_S)
            stop = min(n, at + length)
            u = np.arange(stop - at) * _STEP_S
            falls = 2.0 ** (-0.15 * (at - since) * _STEP_S + rng.normal(0.0, 0.1))
            bend = rng.normal(0.0, 0.8) * u + rng.normal(0.0, 3.0) * u**2
            self.f0_hz[at:stop] = np.clip(base_hz * falls * 2.0**bend, 70.0, 400.0)
            target = np.array(_FORMANTS_HZ[int(rng.integers(len(_FORMANTS_HZ)))])
            goes_to = np.array(_FORMANTS_HZ[int(rng.integers(len(_FORMANTS_HZ)))])
            arrived = np.clip(u / _GLIDE_S, 0.0, 1.0)[:, None]
            leaves = np.clip((u - u[-1:] + _GLIDE_S) / _GLIDE_S, 0.0, 1.0)[:, None] * 0.5
            now = before + arrived * (target - before)
            self.formants_hz[at:stop] = now + leaves * (goes_to - now)
            self.voice[at:stop] = np.sin(np.pi * (np.arange(len(u)) + 0.5) / length) ** 0.6
            if stop > at:
                before = self.formants_hz[stop - 1]
            at = stop
            if rng.random() < 0.12:  # a breath between phrases
                at += int(rng.uniform(0.2, 0.5) / _STEP_S)
                since = at

    def _consonant(self, at: int, rng: np.random.Generator) -> int:
        kind = rng.random()
        if kind < 0.45:  # hissed
            length = int(rng.uniform(0.05, 0.11) / _STEP_S)
            self.hiss[at : at + length] = rng.uniform(0.05, 0.25)
        elif kind < 0.75:  # stopped and let go
            length = int(rng.uniform(0.04, 0.08) / _STEP_S)
            self.hiss[at + length - 2 : at + length] = rng.uniform(0.15, 0.4)
        else:  # hummed
            length = int(rng.uniform(0.04, 0.08) / _STEP_S)
            self.voice[at : at + length] = 0.25
        return at + length


def _through_formants(source: _Array, formants_hz: _Array, rate_hz: int) -> _Array:
    """Resonators side by side whose frequencies move every 5 ms."""
    out = np.zeros(len(source))
    block = round(_STEP_S * rate_hz)
    states: list[_Array] = [np.zeros(2) for _ in _WIDTHS_HZ]
    for i, start in enumerate(range(0, len(source), block)):
        part = source[start : start + block]
        for k, width_hz in enumerate(_WIDTHS_HZ):
            b, a = _resonator(
                float(formants_hz[min(i, len(formants_hz) - 1), k]), width_hz, rate_hz
            )
            y, states[k] = signal.lfilter(b, a, part, zi=states[k])
            out[start : start + block] += y / (1 + k) ** 0.5
    return out


def _resonator(f_hz: float, width_hz: float, rate_hz: int) -> tuple[Sequence[float], Any]:
    """Klatt's resonator, as loud at its top whatever its frequency."""
    r = np.exp(-np.pi * width_hz / rate_hz)
    angle = 2 * np.pi * min(f_hz, 0.45 * rate_hz) / rate_hz
    return [1.0 - r], [1.0, -2.0 * r * np.cos(angle), r * r]
