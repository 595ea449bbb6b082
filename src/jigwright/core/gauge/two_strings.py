"""Two strings: interval, beats, balance and how long both sound.

The pitches come from :mod:`jigwright.core.sound.doubles`. A perfectly tuned octave or unison is a
blind spot: two strings cannot then be told from one, and the measure is refused as ``fused``.
"""

from __future__ import annotations

import math

import numpy as np

from jigwright.core.gauge.stop_arrival import StopArrivalParams, measure_stop_arrival
from jigwright.core.gauge.values import Double
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Unmeasured, median

METHOD_VERSION = 3
_LEAST_BALANCE_DB = 20.0
_MEETING_CENTS = 50.0
_OCTAVE_CENTS = 60.0
_MOST_PARTIAL = 10


def measure_double(
    pair: Pair | None,
    segment: Segment,
    written_cents: float | None,
    *,
    tail_s: float = float("nan"),
) -> Double | Unmeasured:
    """Measure a double stop.

    Parameters
    ----------
    pair : Pair or None
        What was heard; ``None`` when one note was heard.
    segment : Segment
    written_cents : float or None
        Equal-tempered size of the written interval; ``None`` when one note is written.
    tail_s : float
        How long what has ended takes to fall by 20 dB in this take; NaN when unknown.

    Returns
    -------
    Double or Unmeasured
        Reasons: ``one_note`` (one written, one heard), ``fused`` (an octave or unison in which no
        second string can be made out), ``one_string`` (two written, one heard).
    """
    if pair is None:
        if written_cents is None:
            return Unmeasured("one_note")
        return Unmeasured("fused" if written_cents % 1200 == 0 else "one_string")
    interval = 1200.0 * math.log2(pair.upper_hz / pair.lower_hz)
    if written_cents is not None and _octaves_off(interval, written_cents):
        return Unmeasured("fused")
    p, q = meeting_partials(interval)
    balance = pair.balance_track_db
    known = np.isfinite(balance)
    both = np.count_nonzero(~known | (np.abs(balance) < _LEAST_BALANCE_DB)) / max(1, len(balance))
    step_s = median(np.diff(pair.times_s)) if len(pair.times_s) > 1 else 0.2
    covered_s = float(pair.times_s[-1] - pair.times_s[0]) + 4.0 * step_s
    inside = covered_s / (segment.offset_s - segment.onset_s)
    return Double(
        lower_hz=pair.lower_hz,
        upper_hz=pair.upper_hz,
        lower_uncertainty_cents=pair.lower_uncertainty_cents,
        upper_uncertainty_cents=pair.upper_uncertainty_cents,
        interval_cents=interval,
        uncertainty_cents=math.hypot(pair.lower_uncertainty_cents, pair.upper_uncertainty_cents),
        beats_hz=abs(p * pair.lower_hz - q * pair.upper_hz) if p else float("nan"),
        beating_partials=(p, q),
        balance_db=pair.balance_db,
        balance_uncertainty_db=pair.balance_uncertainty_db,
        both_ratio=float(both * min(1.0, inside)),
        reached=measure_stop_arrival(pair, (p, q), StopArrivalParams(), tail_s=tail_s),
    )


def _octaves_off(interval: float, written_cents: float) -> bool:
    """Whether an octave or unison is written and another of these was made of its one series."""
    heard = round(interval / 1200.0)
    if written_cents % 1200 or abs(interval - 1200.0 * heard) > _OCTAVE_CENTS:
        return False
    return heard != round(written_cents / 1200.0)


def meeting_partials(interval_cents: float) -> tuple[int, int]:
    """Lowest partials (of the lower, of the upper note) that nearly coincide; (0, 0) for none."""
    for p in range(1, _MOST_PARTIAL + 1):
        q = max(1, round(p / 2 ** (interval_cents / 1200.0)))
        off = 1200.0 * math.log2(p / q) - interval_cents
        if abs(off) < _MEETING_CENTS:
            return p, q
    return 0, 0
