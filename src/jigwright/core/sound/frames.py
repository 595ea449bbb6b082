"""Frame analysis as a block processor: pitch candidates and level every 5 ms.

Method: normalised square-difference function (McLeod & Wyvill 2005) of windows of 2.2 periods of
the lowest note, by batched FFT with half-sample lags; each candidate period is refined at
multiples of its lag while the peak holds, which removes most of the interpolation bias at high
notes. The window lies symmetrically about the frame time for every lag.

Law: any split of the input gives the same frames.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy import fft, signal

from jigwright.core.sound.colour import colour
from jigwright.core.sound.frame_params import FrameParams
from jigwright.core.sound.resample import BlockResampler
from jigwright.core.values import Floats

N_CANDIDATES = 7
_MIN_PEAK = 0.25


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Frames:
    """Candidates of consecutive frames.

    Parameters
    ----------
    f0_hz : ndarray, shape (n, N_CANDIDATES)
        Candidate fundamentals; NaN where there are fewer.
    clarity : ndarray, shape (n, N_CANDIDATES)
        Peak heights, 0 … 1; 0 for missing candidates.
    level_db, centroid_hz, loudness_db : ndarray, shape (n,)
    """

    f0_hz: Floats
    clarity: Floats
    level_db: Floats
    centroid_hz: Floats
    loudness_db: Floats


class FrameStream:
    """Turn blocks of samples into frames.

    Parameters
    ----------
    params : FrameParams
    rate_in_hz : int
        Rate of the incoming samples.
    """

    def __init__(self, params: FrameParams, rate_in_hz: int) -> None:
        self.params = params
        self._rate_in_hz = rate_in_hz
        self._resampler = BlockResampler(rate_in_hz, params.rate_hz)
        corner = 0.55 * params.lowest_hz
        self._sos = signal.butter(4, corner, btype="high", fs=params.rate_hz, output="sos")
        self._state = np.zeros((self._sos.shape[0], 2))
        half = params.window_samples // 2
        self._buffer = np.zeros(half)  # silence before the first sample
        self._n_frames = 0
        self._n_total = 0
        self._kept: Floats | None = None
        self._n_kept = 0
        self._passing: list[Floats] | None = None

    def pass_filtered(self) -> None:
        """Hand the filtered signal on by :meth:`take_filtered` (live use)."""
        self._passing = []

    def take_filtered(self) -> Floats:
        """Return the filtered signal since the last call."""
        parts, self._passing = self._passing or [], []
        return np.concatenate(parts) if parts else np.zeros(0)

    def keep_filtered(self, n_in_samples: int) -> None:
        """Keep the filtered signal of a sound of known length (offline use)."""
        expected = n_in_samples * self.params.rate_hz / self._rate_in_hz
        self._kept = np.empty(int(expected) + 64, dtype=np.float32)

    @property
    def filtered(self) -> Floats:
        """The kept signal; sample ``i`` lies at ``i / params.rate_hz`` seconds."""
        if self._kept is None:
            return np.zeros(0, dtype=np.float32)
        return self._kept[: self._n_kept]

    def push(self, block: Floats) -> Frames:
        """Take a block of samples and return the frames that are now complete."""
        return self._advance(self._resampler.push(block))

    def finish(self) -> Frames:
        """Return the last frames, the sound being followed by silence."""
        tail = self._filter(self._resampler.finish())
        self._n_total += len(tail)
        n_frames_total = max(0, (self._n_total - 1) // self.params.hop_samples + 1)
        pad = np.zeros(self.params.window_samples + self.params.hop_samples)
        self._buffer = np.concatenate([self._buffer, tail, pad])
        return self._frames(n_frames_total - self._n_frames)

    def _filter(self, x: Floats) -> Floats:
        if not len(x):
            return x
        y, self._state = signal.sosfilt(self._sos, x, zi=self._state)
        if self._passing is not None:
            self._passing.append(y)
        if self._kept is not None:
            end = min(self._n_kept + len(y), len(self._kept))
            self._kept[self._n_kept : end] = y[: end - self._n_kept]
            self._n_kept = end
        return np.asarray(y)

    def _advance(self, x: Floats) -> Frames:
        y = self._filter(x)
        self._n_total += len(y)
        self._buffer = np.concatenate([self._buffer, y])
        n_ready = (len(self._buffer) - self.params.window_samples) // self.params.hop_samples + 1
        return self._frames(max(0, n_ready))

    def _frames(self, n: int) -> Frames:
        if n <= 0:
            empty = np.zeros((0, N_CANDIDATES))
            none = np.zeros(0)
            return Frames(
                f0_hz=empty, clarity=empty, level_db=none, centroid_hz=none, loudness_db=none
            )
        p = self.params
        parts = []
        for i in range(0, n, 2048):
            m = min(2048, n - i)
            lo = i * p.hop_samples
            span = self._buffer[lo : lo + (m - 1) * p.hop_samples + p.window_samples]
            parts.append(_analyse(span, p))
        self._buffer = self._buffer[n * p.hop_samples :]
        self._n_frames += n
        return join_frames(parts)


def join_frames(parts: list[Frames]) -> Frames:
    """Put consecutive frames together."""
    return Frames(
        f0_hz=np.concatenate([q.f0_hz for q in parts]),
        clarity=np.concatenate([q.clarity for q in parts]),
        level_db=np.concatenate([q.level_db for q in parts]),
        centroid_hz=np.concatenate([q.centroid_hz for q in parts]),
        loudness_db=np.concatenate([q.loudness_db for q in parts]),
    )


def _analyse(span: Floats, p: FrameParams) -> Frames:
    """All frames whose windows lie in a stretch of sound."""
    length = p.window_samples
    windows = sliding_window_view(span, length)[:: p.hop_samples]
    upto = np.concatenate([[0.0], np.cumsum(span**2)])
    running = sliding_window_view(upto, length + 1)[:: p.hop_samples]
    energy = p.energy_samples
    taper = np.hanning(energy + 2)[1:-1]
    taper /= taper.sum()
    lo = (length - energy) // 2
    single = windows.astype(np.float32)
    level = windows[:, lo : lo + energy] ** 2 @ taper
    level_db = 10 * np.log10(level + 1e-14)
    nsdf = _nsdf(single, running, int(0.72 * length))
    f0_hz, clarity = _candidates(nsdf, p)
    clarity[level <= 1e-13] = 0.0
    f0_hz[level <= 1e-13] = np.nan
    centroid_hz, loudness_db = colour(single, p.rate_hz)
    return Frames(
        f0_hz=f0_hz, clarity=clarity, level_db=level_db, centroid_hz=centroid_hz,
        loudness_db=loudness_db,
    )  # fmt: skip


def _nsdf(windows: Floats, running: Floats, max_lag: int) -> Floats:
    """Normalised square-difference function at half-sample lags 0, ½, 1 … ``max_lag``.

    ``running`` is the energy up to the beginning of each sample of a window, and to its end.
    """
    length = windows.shape[1]
    n_fft = fft.next_fast_len(length + max_lag + 1, real=True)
    # single precision is enough once every window has the same size; twice the size makes up for
    # the finer grid of lags and for the 2 in the numerator
    first, last = running[:, :1], running[:, -1:]
    total = last - first
    scale = 1.0 / np.sqrt(np.maximum(total, 0.0) + 1e-20)
    spectrum = fft.rfft(windows * (2.0 * scale).astype(np.float32), n_fft, axis=1)
    power = spectrum.real**2
    power += spectrum.imag**2
    r = fft.irfft(power, 2 * n_fft, axis=1)[:, : 2 * max_lag + 1]
    whole = running[:, length - max_lag : length + 1][:, ::-1] - running[:, : max_lag + 1]
    whole += total  # without the last 0, 1, 2 … samples, and without the first
    whole *= scale**2
    m = np.empty(r.shape, dtype=np.float32)
    m[:, ::2] = whole
    between = m[:, 1::2]
    np.add(m[:, :-1:2], m[:, 2::2], out=between)
    between *= 0.5
    np.maximum(m, 1e-12, out=m)
    return np.divide(r, m, out=m)


def _candidates(nsdf: Floats, p: FrameParams) -> tuple[Floats, Floats]:
    n, n_lags = nsdf.shape
    lag_min = max(3, int(2 * p.rate_hz / p.highest_hz))
    lag_max = min(n_lags - 2, int(2 * p.rate_hz / p.lowest_hz) + 1)
    mid = nsdf[:, lag_min : lag_max + 1]
    left = nsdf[:, lag_min - 1 : lag_max]
    right = nsdf[:, lag_min + 1 : lag_max + 2]
    is_peak = (mid > left) & (mid >= right) & (mid > _MIN_PEAK)
    lag_cost = 0.05 * np.log2(np.arange(lag_min, lag_max + 1) / lag_min)
    price = np.where(is_peak, lag_cost.astype(np.float32) - mid, np.float32(np.inf))
    k = min(N_CANDIDATES, price.shape[1])
    order = np.argpartition(price, k - 1, axis=1)[:, :k]
    found = np.take_along_axis(price, order, axis=1)
    lag, height = _parabola(nsdf, order + lag_min)
    lag = _refine(nsdf, lag, height)
    f0_hz = np.full((n, N_CANDIDATES), np.nan)
    clarity = np.zeros((n, N_CANDIDATES))
    good = np.isfinite(found)
    f0_hz[:, :k] = np.where(good, 2.0 * p.rate_hz / lag, np.nan)
    clarity[:, :k] = np.where(good, np.clip(height, 0.0, 1.0), 0.0)
    return f0_hz, clarity


def _parabola(nsdf: Floats, at: NDArray[np.intp]) -> tuple[Floats, Floats]:
    """Vertex of the parabola through three neighbouring lags (half-sample units)."""
    rows = np.arange(nsdf.shape[0])[:, None]
    a, b, c = nsdf[rows, at - 1], nsdf[rows, at], nsdf[rows, at + 1]
    curve = a - 2 * b + c
    shift = np.where(np.abs(curve) > 1e-12, 0.5 * (a - c) / np.where(curve == 0, 1, curve), 0.0)
    shift = np.clip(shift, -1.0, 1.0)
    return np.asarray(at + shift), np.asarray(b - 0.25 * (a - c) * shift)


def _refine(nsdf: Floats, lag: Floats, height: Floats) -> Floats:
    """Measure the period at 2, 4, 8 … times its lag while the peak holds there."""
    n_lags = nsdf.shape[1]
    rows = np.arange(nsdf.shape[0])[:, None]
    best = lag.copy()
    alive = np.ones(lag.shape, dtype=bool)
    for k in (2, 4, 8, 16):
        guess = np.rint(best * k).astype(np.intp)
        alive &= guess + 3 < n_lags
        if not alive.any():
            break
        guess = np.where(alive, guess, 4)
        around = nsdf[rows[:, :, None], guess[:, :, None] + np.arange(-2, 3)]
        at = guess + np.argmax(around, axis=2) - 2
        at_inner = (at > guess - 2) & (at < guess + 2)
        position, value = _parabola(nsdf, at)
        alive &= at_inner & (value > height - 0.12)
        best = np.where(alive, position / k, best)
    return best
