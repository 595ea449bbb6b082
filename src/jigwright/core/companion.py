"""What sounds under the playing: a drone rich enough to tune to, and a click.

The drone's partials fall by 5 dB an octave up to 5 kHz, so that beats with a played note are heard
at several heights; two notes sound together at the same loudness. The click is a short decaying
tone, higher and louder on the accent. Both begin softly: nothing jumps.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

RATE_HZ = 48_000
CLICKS_HZ = (1760.0, 1320.0)  # of a bar, of a beat
_HIGHEST_HZ = 5000.0
_DB_PER_OCTAVE = 5.0
_CUE_PARTIALS = (1.0, 0.4, 0.2, 0.1)
_CUE_RELEASE_S = 0.08


def drone_partials(f_hz: float) -> tuple[tuple[float, float], ...]:
    """Frequencies and amplitudes of a drone's partials; amplitudes add up in energy to 1."""
    orders = np.arange(1, max(2, int(_HIGHEST_HZ / f_hz)) + 1)
    amplitude = 10.0 ** (-_DB_PER_OCTAVE * np.log2(orders) / 20.0)
    amplitude /= np.sqrt(np.sum(amplitude**2))
    return tuple((float(f_hz * k), float(a)) for k, a in zip(orders, amplitude, strict=True))


def drone_block(
    notes_hz: Sequence[float], start_sample: int, n_samples: int, *, rate_hz: int = RATE_HZ
) -> NDArray[np.float32]:
    """A stretch of a drone; stretches that follow each other fit together exactly.

    Parameters
    ----------
    notes_hz : sequence of float
        One or two notes.
    start_sample, n_samples, rate_hz : int

    Returns
    -------
    ndarray of float32, shape (n_samples,)
        RMS 0.1 of full scale, rising over the first second.
    """
    t = (start_sample + np.arange(n_samples)) / rate_hz
    out = np.zeros(n_samples)
    for f_hz in notes_hz:
        for k, (partial_hz, amplitude) in enumerate(drone_partials(f_hz)):
            out += amplitude * np.sin(2 * np.pi * partial_hz * t + 0.9 * k * k)
    out *= 0.1 * np.sqrt(2.0 / max(1, len(notes_hz)))
    return np.asarray(out * np.clip(t / 1.0, 0.0, 1.0), dtype=np.float32)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pulse:
    """A metronome's pattern.

    Parameters
    ----------
    bpm : float
        Beats a minute.
    beats_per_bar : int
    subdivisions : int
        Clicks to a beat, 1 … 6.
    silent_bars : int
        Bars of silence after each sounding bar, 0 for none.
    """

    bpm: float
    beats_per_bar: int = 4
    subdivisions: int = 1
    silent_bars: int = 0

    @property
    def step_s(self) -> float:
        """Seconds between clicks."""
        return 60.0 / self.bpm / self.subdivisions

    def strength(self, i_click: int) -> float:
        """Loudness of a click: 1 on the bar, 0.6 on a beat, 0.3 between, 0 in silent bars."""
        per_bar = self.beats_per_bar * self.subdivisions
        bar, place = divmod(i_click, per_bar)
        if self.silent_bars and bar % (1 + self.silent_bars):
            return 0.0
        if place == 0:
            return 1.0
        return 0.6 if place % self.subdivisions == 0 else 0.3


def click_times_s(pulse: Pulse, start_s: float, stop_s: float) -> list[tuple[float, float]]:
    """Times and strengths of the clicks that begin in a stretch."""
    first = max(0, int(np.ceil(start_s / pulse.step_s - 1e-9)))
    last = int(np.ceil(stop_s / pulse.step_s - 1e-9))
    return [(i * pulse.step_s, pulse.strength(i)) for i in range(first, last)]


def click_block(
    pulse: Pulse, start_sample: int, n_samples: int, *, rate_hz: int = RATE_HZ
) -> NDArray[np.float32]:
    """A stretch of clicks; stretches that follow each other fit together exactly."""
    out = np.zeros(n_samples)
    length = round(0.05 * rate_hz)
    start_s = (start_sample - length) / rate_hz
    stop_s = (start_sample + n_samples) / rate_hz
    for time_s, strength in click_times_s(pulse, start_s, stop_s):
        if not strength:
            continue
        at = round(time_s * rate_hz) - start_sample
        lo, hi = max(0, at), min(n_samples, at + length)
        if hi <= lo:
            continue
        u = (np.arange(lo, hi) - at) / rate_hz
        tone = np.sin(2 * np.pi * CLICKS_HZ[0 if strength == 1.0 else 1] * u)
        out[lo:hi] += 0.25 * strength * tone * np.exp(-u / 0.008)
    return out.astype(np.float32)


class CueLine:
    """An accompaniment as sound: struck tones that fade, quiet beside a bowed string.

    Parameters
    ----------
    notes : sequence of (float, float, float)
        Beginning and end in seconds from the first beat, and frequency.
    """

    def __init__(self, notes: Sequence[tuple[float, float, float]]) -> None:
        self._notes = sorted(notes)
        self._starts = [start for start, _, _ in self._notes]
        self._longest_s = max((end - start for start, end, _ in self._notes), default=0.0)

    def block(
        self, start_sample: int, n_samples: int, *, rate_hz: int = RATE_HZ
    ) -> NDArray[np.float32]:
        """A stretch; stretches that follow each other fit together exactly."""
        out = np.zeros(n_samples)
        from_s, to_s = start_sample / rate_hz, (start_sample + n_samples) / rate_hz
        first = bisect_left(self._starts, from_s - self._longest_s - _CUE_RELEASE_S)
        for start_s, end_s, f_hz in self._notes[first : bisect_left(self._starts, to_s)]:
            lo = max(start_sample, round(start_s * rate_hz))
            hi = min(start_sample + n_samples, round((end_s + _CUE_RELEASE_S) * rate_hz))
            if hi <= lo:
                continue
            u = np.arange(lo, hi) / rate_hz - start_s
            rise = np.clip(u / 0.004, 0.0, 1.0)
            fall = np.clip((end_s + _CUE_RELEASE_S - start_s - u) / _CUE_RELEASE_S, 0.0, 1.0)
            tone = sum(
                a * np.exp(-u * k / 1.2) * np.sin(2 * np.pi * k * f_hz * u)
                for k, a in enumerate(_CUE_PARTIALS, 1)
                if k * f_hz < _HIGHEST_HZ
            )
            out[lo - start_sample : hi - start_sample] += 0.06 * rise * fall * tone
        return out.astype(np.float32)
