"""One line in a stretch of sound: its pitch, how clearly it stands, its level and its decay.

The stretch is brought from a frequency to zero; the line is the highest point of its spectrum
there (Rife & Boorstyn 1974), its level is followed in overlapping windows, and a weighted straight
line through them gives level and decay.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TypeVar

import numpy as np
from numpy.lib.stride_tricks import as_strided
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.gauge_maths import turning
from jigwright.core.sound.curves import runs_of
from jigwright.core.values import Floats, read_only

STEP_S = 0.01
BLOCK_S = 0.04
SEEN_DB = 6.0
_BETA = 8.0
_LEAST_S = 0.14
_SPAN_HZ = 14.0
_FFT = 1024  # a place every 0.1 Hz
_BESIDE = (-1.6, -1.2, 1.2, 1.6)  # of the main lobe's half-width
_OVERLAP = 8
_FEWEST_WINDOWS = 3
_PLAIN_DB = 35.0
_WORTH_DB = 9.0  # less is no line whose decay anybody asks for
_WINDOW_S, _EARLY_S = 0.25, 0.5
_ROOM_S = 0.1  # in which the room is louder than the strings
_SKIP_FROM_S = 0.63  # with so much to see the first of it can be left out
_Complex = NDArray[np.complex128]
T = TypeVar("T", bound=np.generic)


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingLine:
    """A line in a stretch.

    Parameters
    ----------
    level_db : float
        Where the stretch begins, dB re a sine of amplitude 1.
    slope_db_per_s, slope_sd : float
        Its fall and the standard error; infinite where too little was seen.
    above_db, floor_db : float
        Over what stands up to 14 Hz beside it, and that.
    offset_hz : float
        From where it was looked for.
    middle_db : float
        Level in the middle of the stretch, whatever it does there.
    """

    level_db: float
    slope_db_per_s: float
    slope_sd: float
    above_db: float
    floor_db: float
    offset_hz: float
    middle_db: float

    def at(self, t_s: float) -> float:
        """Level so long after the stretch began, dB."""
        return self.level_db + self.slope_db_per_s * t_s

    def earlier(self, by_s: float) -> StandingLine:
        """The same line counted from an earlier moment."""
        return replace(self, level_db=self.at(-by_s))


def turned(x: Floats, rate_hz: int, f_hz: float, from_s: float, to_s: float) -> _Complex:
    """A stretch of sound brought from a frequency to zero, every 10 ms.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : int
        A multiple of 200 Hz.
    f_hz, from_s, to_s : float

    Returns
    -------
    ndarray of complex, shape (m,)
        Amplitude 1 for a sine of amplitude 1; empty where the stretch is too short.
    """
    n, step = round(BLOCK_S * rate_hz), round(STEP_S * rate_hz)
    lo = max(0, round(from_s * rate_hz))
    hi = min(len(x), round(to_s * rate_hz))
    if hi - lo < n + step:
        return np.zeros(0, dtype=np.complex128)
    views = _overlapping(x[lo:hi], n, step)
    inside = turning(np.arange(n) / rate_hz * f_hz) * (2.0 * _taper(n))
    z = views @ np.stack([inside.real, inside.imag], axis=1)
    return np.asarray((z[:, 0] + 1j * z[:, 1]) * turning(np.arange(len(z)) * STEP_S * f_hz))


def fit_line(z: _Complex, tolerance_hz: float, *, at_end: bool = False) -> StandingLine | None:
    """The strongest line near zero frequency.

    Parameters
    ----------
    z : ndarray of complex, shape (m,)
        As :func:`turned` gives it.
    tolerance_hz : float
        How far from zero it may lie.
    at_end : bool
        What is near the end counts, not what is near the beginning.

    Returns
    -------
    StandingLine or None
        ``None`` where too little was given.
    """
    if len(z) < _LEAST_S / STEP_S:
        return None
    t_s = np.arange(len(z)) * STEP_S
    length_s = len(z) * STEP_S
    above, floor, at_hz = _peak(z, tolerance_hz)
    early = round(_EARLY_S / STEP_S)
    if above < _PLAIN_DB and len(z) > 1.2 * early:  # what dies away soon stands out soon
        part = z[-early:] if at_end else z[:early]
        above, floor, at_hz = max((above, floor, at_hz), _peak(part, tolerance_hz))
    level, slope, sd = _at(z, t_s, at_hz), 0.0, float("inf")
    if above > _WORTH_DB:
        skip = round(_ROOM_S / STEP_S) if length_s > _SKIP_FROM_S else 0
        level, slope, sd = _decay(z[skip:], t_s[skip:], at_hz, length_s)
    return StandingLine(
        level_db=level, slope_db_per_s=slope, slope_sd=sd, above_db=above,
        floor_db=10 * float(np.log10(floor + 1e-20)), offset_hz=at_hz,
        middle_db=_at(z, t_s, at_hz),
    )  # fmt: skip


def _at(z: _Complex, t_s: Floats, at_hz: float) -> float:
    whole = np.sum(z * turning(t_s * at_hz) * _taper(len(z)))
    return 20 * float(np.log10(abs(whole) + 1e-10))


def _overlapping(x: NDArray[T], n: int, step: int) -> NDArray[T]:
    """Views of ``n`` values every ``step``, shape (m, n); ``x`` is not shorter than one."""
    (one,) = x.strides
    return as_strided(
        x, shape=((len(x) - n) // step + 1, n), strides=(step * one, one), writeable=False
    )


@lru_cache(maxsize=512)
def _taper(n: int) -> Floats:
    """A Kaiser window that sums to one."""
    taper = np.kaiser(n, _BETA)
    return read_only(taper / taper.sum())


def _middle(values: Floats) -> float:
    at = len(values) // 2
    return float(np.partition(values, at)[at])


def _lobe_hz(n: int) -> float:
    """Half-width of the main lobe of a window of ``n`` steps."""
    return float(np.hypot(1.0, _BETA / np.pi)) / (n * STEP_S)


def _peak(z: _Complex, tolerance_hz: float) -> tuple[float, float, float]:
    """The strongest line within a tolerance: dB over its surroundings, their power, its place."""
    spectrum = fft.fft(z * _taper(len(z)), _FFT)
    half = min(_FFT // 2 - 1, int((_SPAN_HZ + tolerance_hz) * _FFT * STEP_S))
    power = np.abs(np.concatenate([spectrum[-half:], spectrum[: half + 1]])) ** 2
    offsets = np.arange(-half, half + 1) / (_FFT * STEP_S)
    reach = int(tolerance_hz * _FFT * STEP_S)
    near = power[half - reach : half + reach + 1]
    tops = 1 + np.flatnonzero((near[1:-1] >= near[:-2]) & (near[1:-1] > near[2:]))
    if not len(tops):
        return 0.0, float(near.min()), 0.0  # the flank of something further off is no line
    peak = half - reach + int(tops[np.argmax(near[tops])])
    away = np.abs(offsets - offsets[peak]) > _lobe_hz(len(z))
    floor = _middle(power[away]) if away.any() else float(power.min())
    above = 10 * float(np.log10((power[peak] + 1e-20) / (floor + 1e-20)))
    return above, floor, float(offsets[peak])


@lru_cache(maxsize=512)
def _windows(n: int) -> _Complex:
    """A window of ``n`` steps at the line and at four places beside it, shape (n, 5)."""
    t_s = np.arange(n) * STEP_S
    beside = turning(np.outer(t_s, np.array([0.0, *_BESIDE]) * _lobe_hz(n)))
    return np.asarray(beside * _taper(n)[:, None], dtype=np.complex128)


def _decay(z: _Complex, t_s: Floats, at_hz: float, length_s: float) -> tuple[float, float, float]:
    """Level at the beginning, dB a second and its standard error, from overlapping windows."""
    n = min(len(z), round(max(_WINDOW_S, 0.4 * length_s) / STEP_S))
    hop = max(1, n // _OVERLAP)
    views = _overlapping(z * turning(t_s * at_hz), n, hop)
    powers = np.abs(views @ _windows(n)) ** 2
    power = powers[:, 0]
    # on one side a partial of what is played now may lie near
    floor = np.sort(powers[:, 1:], axis=1)[:, 1]
    at_s = t_s[0] + (np.arange(len(views)) * hop + 0.5 * (n - 1)) * STEP_S
    seen = power > floor * 10 ** (SEEN_DB / 10.0)
    start, stop = max(runs_of(seen), key=lambda r: r[1] - r[0], default=(0, 1))
    use = slice(start, stop)
    ratio = np.maximum(power[use] / (floor[use] + 1e-20), 1.0)
    db, weight = 10 * np.log10(power[use] + 1e-20), ratio / (ratio + 10.0)
    if stop - start < _FEWEST_WINDOWS:
        return float(db[0]), 0.0, float("inf")
    middle = float(np.average(at_s[use], weights=weight))
    away = at_s[use] - middle
    spread = float(np.sum(weight * away**2))
    slope = float(np.sum(weight * away * db) / spread)
    # windows overlap: about eight of them are one
    noise = np.sqrt(np.sum(weight**2 * away**2 * (4.34**2 * 2.0 / ratio)) * _OVERLAP) / spread
    left = db - (np.average(db, weights=weight) + slope * away)
    scatter = float(np.sqrt(np.average(left**2, weights=weight) * 0.5 * _OVERLAP / spread))
    inside_s = (np.arange(n) - n // 2) * STEP_S
    lost = np.sum(_taper(n) * 10 ** (slope * inside_s / 20.0))
    level = float(np.average(db, weights=weight)) - slope * middle - 20 * float(np.log10(lost))
    return level, slope, float(np.hypot(noise, scatter))
