"""Level of a note: mean, range, slope, shape and tremor.

RMS in the instrument's band re a full-scale square wave. The shape is decided from three robust
thirds of the driven part; tremor is the strongest sinusoid of 3 … 12 Hz in what the shape leaves,
with the vibrato's own rate left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Level, LevelShape, Vibrato
from jigwright.core.gauge_maths import level_wave, robust_line
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Floats, Unmeasured, deviation, median, percentiles

METHOD_VERSION = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelParams:
    """Limits of the level gauge.

    Parameters
    ----------
    shortest_s : float
        Below this only the mean is given; below 40 ms the measure is refused.
    shape_db : float
        Smallest change that is called a shape.
    tremor_db : float
        Smallest wave that is claimed, peak to peak.
    """

    shortest_s: float = 0.12
    shape_db: float = 3.0
    tremor_db: float = 1.5


def measure_level(
    contours: Contours, segment: Segment, vibrato: Vibrato | Unmeasured, params: LevelParams
) -> Level | Unmeasured:
    """Measure the level of a segment.

    Returns
    -------
    Level or Unmeasured
        Reason: ``too_short``.
    """
    length_s = segment.offset_s - segment.onset_s
    if length_s < params.shortest_s:
        return _mean_only(contours, segment) if length_s > 0.04 else Unmeasured("too_short")
    lead = min(0.08, 0.25 * length_s)
    lo = round((segment.onset_s + lead) / HOP_S)
    hi = round((segment.offset_s - min(0.06, 0.2 * length_s)) / HOP_S)
    level = np.asarray(contours.level_db[lo : max(hi, lo + 4)])
    if len(level) < 4:
        return Unmeasured("too_short")
    t_s = np.arange(len(level)) * HOP_S
    slope, intercept = robust_line(t_s, level)
    low, high = percentiles(level, 5, 95)
    tremor_hz, tremor_db = _tremor(level, float(t_s[-1]), vibrato, params)
    return Level(
        mean_dbfs=float(10 * np.log10(np.mean(10 ** (level / 10)))),
        range_db=float(high - low),
        slope_db_per_s=slope,
        shape=_shape(level, slope, t_s, intercept, params),
        tremor_hz=tremor_hz,
        tremor_db=tremor_db,
    )


def _mean_only(contours: Contours, segment: Segment) -> Level:
    """Level of a note too short for a shape: the upper half of its frames."""
    lo, hi = round(segment.onset_s / HOP_S), round(segment.offset_s / HOP_S)
    level = np.sort(contours.level_db[lo : max(hi, lo + 4)])
    loud = level[len(level) // 2 :]
    nan = float("nan")
    return Level(
        mean_dbfs=float(10 * np.log10(np.mean(10 ** (loud / 10)))), range_db=nan,
        slope_db_per_s=nan, shape=None, tremor_hz=nan, tremor_db=nan,
    )  # fmt: skip


def _shape(
    level: Floats, slope: float, t_s: Floats, intercept: float, params: LevelParams
) -> LevelShape:
    total = slope * float(t_s[-1] - t_s[0])
    n = len(level)
    ends = 0.5 * (median(level[: max(2, n // 5)]) + median(level[-max(2, n // 5) :]))
    middle = median(level[2 * n // 5 : max(3 * n // 5, 2 * n // 5 + 2)])
    bow = middle - float(ends)
    residual = deviation(level - (intercept + slope * t_s))
    if abs(total) >= params.shape_db and abs(total) > 1.4 * abs(bow):
        return "grow" if total > 0 else "fade"
    if abs(bow) >= 0.8 * params.shape_db and abs(bow) > 1.2 * residual:
        return "swell" if bow > 0 else "dip"
    if abs(total) >= params.shape_db:
        return "grow" if total > 0 else "fade"
    return "level"


def _tremor(
    level: Floats, length_s: float, vibrato: Vibrato | Unmeasured, params: LevelParams
) -> tuple[float, float]:
    nan = float("nan")
    own: list[tuple[float, float]] = []
    if isinstance(vibrato, Vibrato) and vibrato.present:
        width = max(0.6, 2.0 / max(length_s, 0.1))
        own = [(harmonic * vibrato.rate_hz, width) for harmonic in (1, 2)]
    wave = level_wave(level, HOP_S, without_hz=own)
    if wave is None or wave.depth < params.tremor_db or wave.share < 0.4:
        return nan, nan
    return wave.rate_hz, wave.depth
