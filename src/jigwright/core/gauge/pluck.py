"""Plucked notes: how long they ring, how loud, how much thud.

A plucked string decays exponentially after its peak (two-stage decay aside; Woodhouse 2004). Ring
time is the time to fall by 60 dB that the slope of the level gives. Thud is the
energy at the peak beyond what the straight fall leads back to, re the tone there. A note is taken
as plucked when the jig says so, or when it falls straight and steeply from its first moment as no
bow stroke does; without a jig a string that rings for long is not claimed as plucked.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import Pluck
from jigwright.core.gauge_maths import robust_line
from jigwright.core.sound.curves import frames_between
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Unmeasured, median

METHOD_VERSION = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class PluckParams:
    """Limits of the pluck gauge.

    Parameters
    ----------
    shortest_s : float
        Of the falling part.
    least_fall_db, least_db_per_s, most_residual_db : float
        What a fall must show to be called plucked without a jig.
    """

    shortest_s: float = 0.12
    least_fall_db: float = 5.0
    least_db_per_s: float = 14.0
    most_residual_db: float = 1.5


def measure_pluck(
    contours: Contours, segment: Segment, params: PluckParams, *, written: bool | None
) -> Pluck | Unmeasured:
    """Measure a plucked note.

    Parameters
    ----------
    contours, segment
    params : PluckParams
    written : bool or None
        Whether the jig asks for it; ``None`` without a jig.

    Returns
    -------
    Pluck or Unmeasured
        Reasons: ``not_plucked``, ``too_short``.
    """
    if written is False:
        return Unmeasured("not_plucked")
    part = frames_between(contours, segment.onset_s, segment.offset_s + 0.02)
    level = np.asarray(contours.level_db[part])
    if len(level) * HOP_S < params.shortest_s + 0.03:
        return Unmeasured("too_short" if written else "not_plucked")
    first = int(np.argmax(level[: max(4, round(0.08 / HOP_S))]))
    falling = level[first + 3 :]
    falling = falling[: max(1, len(falling) - 4)]
    if len(falling) * HOP_S < params.shortest_s:
        return Unmeasured("too_short" if written else "not_plucked")
    t_s = np.arange(len(falling)) * HOP_S
    slope, start_db = robust_line(t_s, falling)
    residual = median(np.abs(falling - start_db - slope * t_s))
    fall_db = -slope * float(t_s[-1])
    steep = slope <= -params.least_db_per_s and fall_db >= params.least_fall_db
    if written is None and not (steep and residual <= params.most_residual_db):
        return Unmeasured("not_plucked")
    if slope >= -1.0:
        return Unmeasured("not_plucked")
    line_db = start_db - slope * 3 * HOP_S  # the tone alone at the peak
    excess = 10.0 ** ((float(level[first]) - line_db) / 10.0) - 1.0
    return Pluck(
        ring_s=-60.0 / slope,
        level_dbfs=float(level[first]),
        thud_db=float(10.0 * np.log10(max(excess, 1e-3))),
    )
