"""Rational resampling in blocks.

Polyphase FIR (Kaiser window, 80 dB) evaluated only where all its input is at hand, so any split
of the input gives the same output.
"""

from __future__ import annotations

import math
from fractions import Fraction
from functools import lru_cache

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from scipy import signal

from jigwright.core.values import Floats

_ROW = 32


class BlockResampler:
    """Change the sample rate of a signal that arrives in blocks.

    Parameters
    ----------
    rate_in_hz, rate_out_hz : int
    """

    def __init__(self, rate_in_hz: int, rate_out_hz: int) -> None:
        ratio = Fraction(rate_out_hz, rate_in_hz)
        self._up, self._down = ratio.numerator, ratio.denominator
        self._taps, self._half = self._design()
        self._buffer = np.zeros(0, dtype=np.float32)
        self._buffer_start = 0  # index of the first buffered input sample
        self._n_in = 0
        self._n_out = 0

    def _design(self) -> tuple[Floats, int]:
        wide = max(self._up, self._down)
        half = 16 * wide
        half = math.ceil(half / self._down) * self._down
        cutoff = 0.9 / wide
        if wide == 1:
            taps = np.zeros(2 * half + 1)
            taps[half] = 1.0
        else:
            taps = signal.firwin(2 * half + 1, cutoff, window=("kaiser", 7.0)) * self._up
        return taps.astype(np.float32), half

    def push(self, block: Floats) -> Floats:
        """Take a block and return the output samples that are now complete."""
        self._buffer = np.concatenate([self._buffer, block.astype(np.float32)])
        self._n_in += len(block)
        ready = (self._n_in * self._up - self._half - 1) // self._down + 1
        return self._make(max(ready, self._n_out))

    def finish(self) -> Floats:
        """Return the rest, the input being followed by silence."""
        total = (self._n_in - 1) * self._up // self._down + 1 if self._n_in else 0
        self._buffer = np.concatenate(
            [self._buffer, np.zeros(2 * self._half // self._up + 2, dtype=np.float32)]
        )
        return self._make(max(total, self._n_out))

    def _make(self, stop: int) -> Floats:
        start = self._n_out
        if stop <= start:
            return np.zeros(0)
        first = (start * self._down - self._half) // self._up
        first = max(self._buffer_start, first // self._down * self._down)
        last = ((stop - 1) * self._down + self._half) // self._up + 1
        chunk = self._buffer[first - self._buffer_start : last - self._buffer_start]
        full = _filter(self._taps, chunk, self._up, self._down)
        offset = self._half // self._down - first * self._up // self._down
        out = full[offset + start : offset + stop]
        self._n_out = stop
        keep = (stop * self._down - self._half) // self._up
        keep = max(self._buffer_start, keep // self._down * self._down)
        self._buffer = self._buffer[keep - self._buffer_start :]
        self._buffer_start = keep
        return np.asarray(out, dtype=np.float64)


def _filter(taps: Floats, x: Floats, up: int, down: int) -> Floats:
    """Every ``down``-th sample of the filtered sound.

    Plain decimation is a product of overlapping rows of the sound with a banded matrix: three
    times as fast as one sum of products for each sample.
    """
    if up != 1:
        return np.asarray(signal.upfirdn(taps, x, up, down))
    n_out = -(-(len(x) + len(taps)) // down) + 1
    n_rows = -(-n_out // _ROW)
    padded = np.zeros((n_rows - 1) * _ROW * down + (_ROW - 1) * down + len(taps), dtype=np.float32)
    padded[len(taps) - 1 : len(taps) - 1 + len(x)] = x
    rows = sliding_window_view(padded, (_ROW - 1) * down + len(taps))[:: _ROW * down]
    return np.asarray((rows @ _band(taps.tobytes(), down)).ravel()[:n_out])


@lru_cache(maxsize=8)
def _band(taps: bytes, down: int) -> Floats:
    """The taps backwards in each column, ``down`` rows lower in each next one."""
    backwards = np.frombuffer(taps, dtype=np.float32)[::-1]
    band = np.zeros(((_ROW - 1) * down + len(backwards), _ROW), dtype=np.float32)
    for i in range(_ROW):
        band[i * down : i * down + len(backwards), i] = backwards
    return band
