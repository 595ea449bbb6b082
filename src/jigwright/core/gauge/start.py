"""The start of a stroke: time to full tone, noise before it, accent."""

from __future__ import annotations

import numpy as np

from jigwright.core.gauge.values import Start
from jigwright.core.sound.curves import frames_between, middle
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Unmeasured

METHOD_VERSION = 2
_COVERED_S = 0.04
_FULL_DB = 3.0
_CLEAR = 0.9
_LONGEST_S = 0.35


def measure_start(contours: Contours, segment: Segment, *, blur_s: float) -> Start | Unmeasured:
    """Measure how a stroke begins.

    Parameters
    ----------
    contours : Contours
    segment : Segment
    blur_s : float
        Half the analysis window; subtracted from the rise it smears.

    Returns
    -------
    Start or Unmeasured
        Reasons: ``slurred`` (the bow goes on), ``too_short``, ``two_notes``,
        ``room_tail`` (the note before hides its beginning).
    """
    if segment.slurred:
        return Unmeasured("slurred")
    if segment.i_pair >= 0:
        return Unmeasured("two_notes")
    if segment.covered_s > _COVERED_S:  # its full tone cannot be told from that of the note before
        return Unmeasured("room_tail")
    length_s = segment.offset_s - segment.onset_s
    if length_s < 0.2:
        return Unmeasured("too_short")
    body = frames_between(
        contours,
        segment.onset_s + min(0.25, 0.4 * length_s),
        segment.onset_s + min(0.5, 0.8 * length_s),
    )
    settled = middle(contours.level_db[body])
    first = frames_between(
        contours, segment.onset_s, segment.onset_s + min(_LONGEST_S, 0.5 * length_s)
    )
    level, clarity = contours.level_db[first], contours.clarity[first]
    full = np.flatnonzero(level >= settled - _FULL_DB)
    clear = np.flatnonzero(clarity >= min(_CLEAR, middle(contours.clarity[body]) - 0.03))
    attack_s = (int(full[0]) if len(full) else len(level)) * HOP_S
    noise_s = (int(clear[0]) if len(clear) else len(clarity)) * HOP_S
    early = contours.level_db[
        frames_between(contours, segment.onset_s, segment.onset_s + min(0.15, 0.35 * length_s))
    ]
    return Start(
        attack_s=max(0.0, attack_s - 0.25 * blur_s),
        noise_before_s=max(0.0, noise_s - blur_s),
        accent_db=max(0.0, float(np.max(early)) - settled) if len(early) else 0.0,
    )
