"""A trill: how fast and how evenly its two notes turn, how far apart they are, its two ends."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.gauge.values import Trilled
from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import Segment
from jigwright.core.values import Unmeasured, median

METHOD_VERSION = 1
_FEWEST = 5
_STRAY_CENTS, _MOST_LOST = 60.0, 0.2
_LOST = 1.6  # times the usual interval: a note between was not heard


def measure_trill(parts: Sequence[Segment], is_main: Sequence[bool]) -> Trilled | Unmeasured:
    """Measure a trill by the notes it was heard as.

    Parameters
    ----------
    parts : sequence of Segment
        In time order.
    is_main : sequence of bool
        Which of them are the note itself.

    Returns
    -------
    Trilled or Unmeasured
        Reasons: ``too_few`` – fewer than five notes, or none on one of the two pitches;
        ``blurred`` – notes between the two, or the same one twice, where a room hides the turns.
    """
    main = [s for s, own in zip(parts, is_main, strict=True) if own]
    other = [s for s, own in zip(parts, is_main, strict=True) if not own]
    if len(parts) < _FEWEST or not main or not other:
        return Unmeasured("too_few")
    main_hz, other_hz = (median(np.array([s.f0_hz for s in few])) for few in (main, other))
    stray = sum(
        min(abs(hz_to_cents(s.f0_hz, hz)) for hz in (main_hz, other_hz)) > _STRAY_CENTS
        for s in parts
    )
    again = sum(a == b for a, b in zip(is_main, is_main[1:], strict=False))
    if stray + again > _MOST_LOST * len(parts):
        return Unmeasured("blurred")
    intervals = np.diff([s.onset_s for s in parts])
    usual = median(intervals)
    whole = intervals[intervals <= _LOST * usual]
    mean = float(whole.mean())
    spread = float(whole.std(ddof=1)) if len(whole) > 1 else 0.0
    return Trilled(
        n_notes=len(parts), rate_hz=1.0 / mean,
        rate_uncertainty_hz=1.96 * spread / np.sqrt(len(whole)) / mean**2,
        unevenness=spread / mean, neighbour_cents=hz_to_cents(other_hz, main_hz),
        begins_on_main=bool(is_main[0]),
        ends_on_main=bool(is_main[-1]),
    )  # fmt: skip
