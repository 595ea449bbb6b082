"""Tone of a note: harmonic-to-noise ratio, brightness, and how brightness moves.

Harmonic-to-noise ratio from the correlation peak at the period (Boersma 1993). Brightness is the
centroid of the power spectrum; divided by the fundamental it compares notes, and its slope is the
direction of colour. Louder is usually brighter: compare colour at one level.
"""

from __future__ import annotations

import numpy as np

from jigwright.core.gauge.values import Tone
from jigwright.core.gauge_maths import robust_line
from jigwright.core.sound.curves import frames_between, middle, roughness_db
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Unmeasured

METHOD_VERSION = 2
_SHORTEST_S = 0.08
_SLOPE_S = 0.25  # over less, the way a note speaks is taken for a change of its colour
_COVERED_S = 0.04
_SCRATCH_CLARITY = 0.85


def measure_tone(contours: Contours, segment: Segment) -> Tone | Unmeasured:
    """Measure the tone of a segment's settled part.

    Returns
    -------
    Tone or Unmeasured
        Reasons: ``too_short``; ``two_notes`` (one period does not fit two strings);
        ``room_tail`` (the note before sounds on under it: that is no noise of the bow).
    """
    if segment.i_pair >= 0:
        return Unmeasured("two_notes")
    if segment.covered_s > _COVERED_S:
        return Unmeasured("room_tail")
    core = frames_between(contours, segment.core_start_s, segment.core_end_s)
    clarity = contours.clarity[core]
    centroid = contours.centroid_hz[core]
    good = np.isfinite(centroid)
    if len(clarity) * HOP_S < _SHORTEST_S or np.count_nonzero(good) < 8:
        return Unmeasured("too_short")
    slope = float("nan")
    if len(clarity) * HOP_S >= _SLOPE_S:
        slope, _ = robust_line(np.flatnonzero(good) * HOP_S, np.log2(centroid[good]))
    brightness = middle(centroid)
    return Tone(
        hnr_db=float(-middle(roughness_db(clarity)) + 10.0 * np.log10(max(middle(clarity), 0.01))),
        brightness_hz=brightness,
        brightness_ratio=brightness / segment.f0_hz,
        brightness_slope=slope,
        scratch_ratio=float(np.mean(clarity < _SCRATCH_CLARITY)),
        loudness_db=middle(contours.loudness_db[core]),
    )
