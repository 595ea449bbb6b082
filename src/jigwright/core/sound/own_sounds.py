"""Take our own drone and clicks out of what is heard live, as it comes.

The drone's partials are known to the sample; the way from loudspeaker to microphone makes one
complex factor of each, estimated on the last windows (their median, which playing disturbs least)
and followed as it drifts. Clicks are short tones of known pitch: narrow bands are left out. What is
left decides when a take begins and ends; a take itself is cut from the untouched recording.

Unlike :mod:`core.sound.drone`, which has the whole take, only the past is known here: the first
second after the drone begins still holds it.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from jigwright.core.values import Floats

SETTLES_S = 2.5  # until the drone, which rises for a second, is out
_WINDOW_S = 0.25
_N_WINDOWS = 6
_CLICK_Q = 3.0
_HIGHEST = 0.45  # of the rate
_MOST_PARTIALS = 40
_LEAST_APART_HZ = 6.0


class OwnSounds:
    """A filter with a memory; one for one recording.

    Parameters
    ----------
    rate_hz : int
    drone_hz : sequence of float
        Exact frequencies of the drone's partials.
    clicks_hz : sequence of float
        Pitches of the clicks.
    """

    def __init__(
        self, rate_hz: int, drone_hz: Sequence[float] = (), clicks_hz: Sequence[float] = ()
    ) -> None:
        self._rate = rate_hz
        inside = sorted(f for f in drone_hz if 0.0 < f < _HIGHEST * rate_hz)
        kept: list[float] = []
        for f in inside:
            if not kept or f - kept[-1] > _LEAST_APART_HZ:
                kept.append(f)
        kept = kept[:_MOST_PARTIALS]
        self._drone_hz = np.array(kept)
        self._notches = [
            signal.iirnotch(f, _CLICK_Q, fs=rate_hz)
            for f in clicks_hz
            if 0.0 < f < _HIGHEST * rate_hz
        ]
        self._states = [np.zeros(2) for _ in self._notches]
        self._n = round(_WINDOW_S * rate_hz)
        taper = np.hanning(self._n)
        self._taper = taper / taper.sum()
        self._at = 0
        self._sum = np.zeros(len(kept), dtype=np.complex128)
        self._past: deque[NDArray[np.complex128]] = deque(maxlen=_N_WINDOWS)
        self._from = np.zeros(len(kept), dtype=np.complex128)
        self._to = np.zeros(len(kept), dtype=np.complex128)

    def take_out(self, block: Floats) -> Floats:
        """The same stretch of sound without them.

        Parameters
        ----------
        block : ndarray, shape (n,)
            Follows what was given before.
        """
        x = np.asarray(block, dtype=np.float64)
        for k, (b, a) in enumerate(self._notches):
            x, self._states[k] = signal.lfilter(b, a, x, zi=self._states[k])
        if not len(self._drone_hz):
            return x
        parts = []
        start = 0
        while start < len(x):
            room = self._n - self._at % self._n
            parts.append(self._within_window(x[start : start + room]))
            start += room
        return np.concatenate(parts) if parts else x

    def _within_window(self, x: Floats) -> Floats:
        """A stretch that crosses no border of a window."""
        into = self._at % self._n
        t = (self._at + np.arange(len(x))) / self._rate
        turn = np.exp(-2j * np.pi * np.outer(self._drone_hz, t))
        self._sum += turn @ (x * self._taper[into : into + len(x)])
        share = (into + np.arange(len(x))) / self._n
        factors = self._from[:, None] + (self._to - self._from)[:, None] * share
        left = x - np.real(factors * np.conj(turn)).sum(axis=0)
        self._at += len(x)
        if self._at % self._n == 0:
            self._past.append(2.0 * self._sum)
            seen = np.stack(self._past)
            self._from = self._to
            self._to = np.median(seen.real, axis=0) + 1j * np.median(seen.imag, axis=0)
            self._sum = np.zeros_like(self._sum)
        return np.asarray(left)
