"""A double stop heard as one note below both: the root that two notes in tune have in common.

Two notes as 2 to 3 repeat together at half the period of the lower, as 3 to 4 at a third: the
shortest period of a fifth or a fourth is that of a note nobody plays. It has no partials of its
own. A bowed string may lack its fundamental; it does not lack its fifth, seventh and eleventh
partial as well.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy import fft

from jigwright.core.sound.heard import Contours, Pair, Segment
from jigwright.core.sound.pair_measure import PairParams, Sound, is_two, measure_pair, place_pair
from jigwright.core.values import Floats

RATIOS = ((2, 3), (3, 4), (3, 5), (4, 5), (5, 6))
_HIGHEST_ORDER = 18
_LEAST_S, _MOST_S = 0.3, 1.2
_LEAST_PERIODS = 12.0  # of the root
_LINE_DB, _WORTH_DB = 14.0, -40.0  # above the floor between partials; re the strongest
_NONE_DB, _FAINT_DB = 8.0, -34.0
_FEWEST_OWN, _MOST_OWN, _FEWEST_ABSENT = 2, 0.7, 3
_NEAR_CENTS = 22.0


def find_rooted(
    sound: Sound,
    segments: Sequence[Segment],
    contours: Contours,
    params: PairParams,
    *,
    highest_hz: float,
) -> list[Pair]:
    """Stops among what was heard as single notes.

    Parameters
    ----------
    sound : Sound
    segments : sequence of Segment
        Single notes that no stop touches.
    contours : Contours
    params : PairParams
    highest_hz : float
        Of fundamentals.
    """
    found = []
    for s in segments:
        two = two_of_root(sound, s)
        if two is None or two[1] > highest_hz:
            continue
        pair = measure_pair(sound, s.onset_s, s.offset_s, two, params)
        if pair is not None and is_two(sound, pair, params):
            placed = place_pair(pair, s.onset_s, s.offset_s, contours, params)
            found.append(replace(placed, onset_s=s.onset_s, offset_s=s.offset_s))
    return found


def two_of_root(sound: Sound, segment: Segment) -> tuple[float, float] | None:
    """Both notes of a stop whose common root a segment is, or ``None``.

    Parameters
    ----------
    sound : Sound
    segment : Segment
        Heard as one note.
    """
    f_hz, rate = segment.f0_hz, sound.rate_hz
    long_s = min(_MOST_S, segment.core_end_s - segment.core_start_s)
    if long_s < max(_LEAST_S, _LEAST_PERIODS / f_hz):
        return None
    middle = 0.5 * (segment.core_start_s + segment.core_end_s)
    lo = max(0, round((middle - 0.5 * long_s) * rate))
    levels = _levels(sound.x[lo : lo + round(long_s * rate)], rate, f_hz)
    if len(levels) < 8:
        return None
    for m, n in RATIOS:
        if _is_root(levels, m, n):
            return m * f_hz, n * f_hz
    return None


def _levels(x: Floats, rate_hz: float, f_hz: float) -> list[tuple[float, float]]:
    """Of each partial of ``f_hz``: level re the strongest, and above the floor beside it, in dB."""
    n = fft.next_fast_len(4 * len(x))
    power = np.abs(fft.rfft(np.asarray(x, float) * np.hanning(len(x)), n)) ** 2 + 1e-20
    per_hz = n / rate_hz
    orders = range(1, min(_HIGHEST_ORDER, int(0.45 * rate_hz / f_hz) - 1) + 1)
    peaks, floors = [], []
    for k in orders:
        near = max(3.0 * n / len(x), k * f_hz * (2 ** (_NEAR_CENTS / 1200) - 1) * per_hz)
        at = k * f_hz * per_hz
        peaks.append(power[int(at - near) : int(at + near) + 2].max())
        between = power[int(at + 0.3 * f_hz * per_hz) : int(at + 0.7 * f_hz * per_hz) + 1]
        floors.append(float(np.median(between)))
    top = max(peaks, default=1.0)
    return [
        (float(10 * np.log10(p / top)), float(10 * np.log10(p / q)))
        for p, q in zip(peaks, floors, strict=True)
    ]


def _is_root(levels: Sequence[tuple[float, float]], m: int, n: int) -> bool:
    """Whether lines stand at the multiples of ``m`` and of ``n`` and at no other partial."""
    orders = range(1, len(levels) + 1)
    highest = max(
        (k for k in orders if levels[k - 1][0] > _WORTH_DB and levels[k - 1][1] > _LINE_DB),
        default=0,
    )
    own = [
        [k for k in orders if k % a == 0 and k % b and k <= highest] for a, b in ((m, n), (n, m))
    ]
    absent = [k for k in orders if k % m and k % n and k < highest]
    if min(len(own[0]), len(own[1])) < _FEWEST_OWN or len(absent) < _FEWEST_ABSENT:
        return False
    stand = all(
        sum(levels[k - 1][1] > _LINE_DB and levels[k - 1][0] > _WORTH_DB for k in ks)
        >= max(_FEWEST_OWN, _MOST_OWN * len(ks))
        for ks in own
    )
    none = all(levels[k - 1][1] < _NONE_DB or levels[k - 1][0] < _FAINT_DB for k in absent)
    return stand and none
