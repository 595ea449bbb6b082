"""One line in a stretch of sound: its pitch, how clearly it stands, its level and its decay.

The stretch is brought from a frequency to zero; the line is the highest point of its spectrum
there (Rife & Boorstyn 1974), its level is followed in overlapping windows, and a weighted straight
line through them gives level and decay.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge_maths import turning
from jigwright.core.values import Floats

STEP_S = 0.005
BLOCK_S = 0.04
SEEN_DB = 6.0
_BETA = 8.0
_LEAST_S = 0.14
_SPAN_HZ = 14.0
_GRID_HZ = 0.25
_WINDOW_S, _EARLY_S = 0.25, 0.5
_ROOM_S = 0.1  # in which the room is louder than the strings
_SKIP_FROM_S = 0.63  # with so much to see the first of it can be left out
_Complex = NDArray[np.complex128]


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
    """A stretch of sound brought from a frequency to zero, every 5 ms.

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
    taper = np.kaiser(round(BLOCK_S * rate_hz), _BETA)
    n, step = len(taper), round(STEP_S * rate_hz)
    lo = max(0, round(from_s * rate_hz))
    hi = min(len(x), round(to_s * rate_hz))
    if hi - lo < n + step:
        return np.zeros(0, dtype=np.complex128)
    views = np.lib.stride_tricks.sliding_window_view(x[lo:hi], n)[::step]
    inside = turning(np.outer(np.arange(n) / rate_hz, [f_hz]))[:, 0] * (2.0 * taper / taper.sum())
    z = views @ np.stack([inside.real, inside.imag], axis=1)
    between = turning(np.outer(np.arange(len(z)) * STEP_S, [f_hz]))[:, 0]
    return np.asarray((z[:, 0] + 1j * z[:, 1]) * between)


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
    above, floor, at_hz = _peak(z, t_s, tolerance_hz)
    early = round(_EARLY_S / STEP_S)
    if len(z) > 1.2 * early:  # what dies away soon stands out soon
        part = z[-early:] if at_end else z[:early]
        above, floor, at_hz = max((above, floor, at_hz), _peak(part, t_s[:early], tolerance_hz))
    skip = round(_ROOM_S / STEP_S) if length_s > _SKIP_FROM_S else 0
    level, slope, sd = _decay(z[skip:], t_s[skip:], at_hz, length_s)
    return StandingLine(
        level_db=level, slope_db_per_s=slope, slope_sd=sd, above_db=above,
        floor_db=10 * float(np.log10(floor + 1e-20)), offset_hz=at_hz,
        middle_db=_at(z, t_s, at_hz),
    )  # fmt: skip


def _at(z: _Complex, t_s: Floats, at_hz: float) -> float:
    taper = np.kaiser(len(z), _BETA)
    whole = np.sum(z * turning(np.outer([at_hz], t_s))[0] * taper) / taper.sum()
    return 20 * float(np.log10(abs(whole) + 1e-10))


def _peak(z: _Complex, t_s: Floats, tolerance_hz: float) -> tuple[float, float, float]:
    """The strongest line within a tolerance: dB over its surroundings, their power, its place."""
    offsets = np.arange(-_SPAN_HZ - tolerance_hz, _SPAN_HZ + tolerance_hz + _GRID_HZ, _GRID_HZ)
    power = _spectrum(z, t_s, offsets)
    near = np.flatnonzero(np.abs(offsets) <= tolerance_hz)
    peak = int(near[np.argmax(power[near])])
    lobe = float(np.hypot(1.0, _BETA / np.pi)) / (len(z) * STEP_S)
    away = np.abs(offsets - offsets[peak]) > lobe
    floor = float(np.median(power[away])) if away.any() else float(power.min())
    above = 10 * float(np.log10((power[peak] + 1e-20) / (floor + 1e-20)))
    return above, floor, float(offsets[peak])


def _spectrum(z: _Complex, t_s: Floats, offsets_hz: Floats) -> Floats:
    taper = np.kaiser(len(z), _BETA)
    taper /= taper.sum()
    return np.asarray(np.abs(turning(np.outer(offsets_hz, t_s)) @ (z * taper)) ** 2)


def _decay(z: _Complex, t_s: Floats, at_hz: float, length_s: float) -> tuple[float, float, float]:
    """Level at the beginning, dB a second and its standard error, from overlapping windows."""
    n = min(len(z), round(max(_WINDOW_S, 0.4 * length_s) / STEP_S))
    taper = np.kaiser(n, _BETA)
    taper /= taper.sum()
    at_line = z * turning(np.outer([at_hz], t_s))[0]
    lobe = float(np.hypot(1.0, _BETA / np.pi)) / (n * STEP_S)
    views = np.lib.stride_tricks.sliding_window_view(at_line, n)[:: max(1, n // 8)]
    sides = turning(np.outer(np.array([-1.6, -1.2, 1.2, 1.6]) * lobe, t_s[:n])) * taper
    power = np.abs(views @ taper) ** 2
    # on one side a partial of what is played now may lie near
    floor = np.sort(np.abs(views @ sides.T) ** 2, axis=1)[:, 1]
    at_s = t_s[0] + (np.arange(len(views)) * max(1, n // 8) + 0.5 * (n - 1)) * STEP_S
    seen = power > floor * 10 ** (SEEN_DB / 10.0)
    stop = int(np.argmin(seen)) if not seen.all() else len(seen)
    use = slice(0, max(stop, 1))
    ratio = np.maximum(power[use] / (floor[use] + 1e-20), 1.0)
    db, weight = 10 * np.log10(power[use] + 1e-20), ratio / (ratio + 10.0)
    if stop < 3:
        return float(db[0]), 0.0, float("inf")
    middle = float(np.average(at_s[use], weights=weight))
    away = at_s[use] - middle
    spread = float(np.sum(weight * away**2))
    slope = float(np.sum(weight * away * db) / spread)
    # windows overlap: about eight of them are one
    noise = np.sqrt(np.sum(weight**2 * away**2 * (4.34**2 * 2.0 / ratio)) * 8.0) / spread
    left = db - (np.average(db, weights=weight) + slope * away)
    scatter = float(np.sqrt(np.average(left**2, weights=weight) * 4.0 / spread))
    lost = np.sum(taper * 10 ** (slope * (t_s[:n] - t_s[n // 2]) / 20.0))
    level = float(np.average(db, weights=weight)) - slope * middle - 20 * float(np.log10(lost))
    return level, slope, float(np.hypot(noise, scatter))
