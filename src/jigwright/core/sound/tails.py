"""What rings on after a note: the open strings it shares partials with, above the room.

The partials of an open string that lie within 30 cents of a partial of the note are demodulated
from the end of the bowing on. The note's other partials die away with the room and with the stopped
string: they say what would be left without a ringing string (a simplification of two-slope decay
fits, Karjalainen et al. 2002). A string rang only when its partials stay well above that.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge_maths import robust_line
from jigwright.core.sound.heard import Segment, Tail
from jigwright.core.values import Floats, median

_SHARED_CENTS = 30.0
_MOST_PARTIAL = 8
_LEAST_GAP_S = 0.6
_FROM_S, _TO_S = 0.1, 0.4
_STEP_S = 0.01


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Curve:
    """Level of some partials after the bowing, every 10 ms, and during the note."""

    db: Floats
    note_db: float


def shared_partials(f0_hz: float, string_hz: float) -> tuple[tuple[int, int], ...]:
    """Pairs (partial of the note, partial of the string) that lie within 30 cents."""
    found = []
    for m in range(1, _MOST_PARTIAL + 1):
        k = round(m * string_hz / f0_hz)
        if 1 <= k <= _MOST_PARTIAL:
            off = 1200.0 * np.log2(m * string_hz / (k * f0_hz))
            if abs(off) <= _SHARED_CENTS:
                found.append((k, m))
    return tuple(found)


def measure_tails(
    x: Floats,
    rate_hz: int,
    segments: Sequence[Segment],
    open_hz: Sequence[float],
) -> tuple[Tail, ...]:
    """Measure the tail of every note that is followed by a long enough gap.

    Parameters
    ----------
    x : ndarray
        Filtered sound at the internal rate.
    rate_hz : int
    segments : sequence of Segment
        In time order.
    open_hz : sequence of float
        Open strings as tuned.

    Returns
    -------
    tuple of Tail
        One for each note with a gap and each string it shares a partial with, and one with
        ``i_string`` -1 that holds the decay of the note's own partials.
    """
    tails: list[Tail] = []
    end_s = len(x) / rate_hz
    for i, s in enumerate(segments):
        if s.i_pair >= 0:
            continue
        next_s = segments[i + 1].onset_s if i + 1 < len(segments) else end_s
        gap_s = next_s - s.offset_s
        if gap_s < _LEAST_GAP_S or s.offset_s - s.onset_s < 0.12:
            continue
        tails += _note_tails(x, rate_hz, i, s, open_hz, min(gap_s, 1.6))
    return tuple(tails)


def _note_tails(
    x: Floats,
    rate_hz: int,
    i: int,
    s: Segment,
    open_hz: Sequence[float],
    gap_s: float,
) -> list[Tail]:
    shared = {j: shared_partials(s.f0_hz, hz) for j, hz in enumerate(open_hz)}
    taken = {k for pairs in shared.values() for k, _ in pairs}
    own = [
        k for k in range(1, _MOST_PARTIAL + 1) if k not in taken and k * s.f0_hz < 0.42 * rate_hz
    ]
    room_db = float("nan")
    room_t60 = float("nan")
    if len(own) >= 2:
        curve = _curve(x, rate_hz, s, [k * s.f0_hz for k in own], gap_s)
        room_db, room_t60 = _fallen(curve), _t60(curve)
    tails = [
        Tail(
            i_segment=i, i_string=-1, ring_db=float("nan"), above_room_db=room_db,
            decay_s=room_t60,
        )
    ]  # fmt: skip
    for j, pairs in shared.items():
        if not pairs:
            continue
        if abs(1200.0 * np.log2(s.f0_hz / open_hz[j])) < 2 * _SHARED_CENTS:
            continue  # the played string itself: its own tail has the same partials
        partials = [m * open_hz[j] for _, m in pairs if m * open_hz[j] < 0.42 * rate_hz]
        if not partials:
            continue
        curve = _curve(x, rate_hz, s, partials, gap_s)
        part = curve.db[round(_FROM_S / _STEP_S) : round(_TO_S / _STEP_S)]
        level = float(10 * np.log10(np.mean(10 ** (part / 10))))
        tails.append(
            Tail(
                i_segment=i, i_string=j, ring_db=level - s.level_dbfs,
                above_room_db=_fallen(curve) - room_db, decay_s=_t60(curve),
            )
        )  # fmt: skip
    return tails


def _curve(x: Floats, rate_hz: int, s: Segment, partials_hz: list[float], gap_s: float) -> _Curve:
    width = max(round(0.05 * rate_hz), round(2.5 * rate_hz / s.f0_hz))
    step = round(_STEP_S * rate_hz)
    length_s = min(0.3, 0.6 * (s.core_end_s - s.core_start_s))
    a = round((s.core_end_s - length_s) * rate_hz)
    b = min(len(x), round((s.offset_s + gap_s) * rate_hz))
    part = x[a:b].astype(np.float64)
    taper = np.hanning(width + 2)[1:-1]
    taper /= taper.sum()
    at = np.arange(0, len(part) - width, step)
    power = np.zeros(len(at))
    t = np.arange(len(part)) / rate_hz
    windows = np.lib.stride_tricks.sliding_window_view
    for f in partials_hz:
        turned = part * np.exp(-2j * np.pi * f * t)
        power += 2.0 * np.abs(windows(turned, width)[at] @ taper) ** 2
    db = 10 * np.log10(power + 1e-14)
    n_note = max(1, int((length_s - width / rate_hz) / _STEP_S))
    first = round((s.offset_s - a / rate_hz) / _STEP_S)
    return _Curve(db=db[first:], note_db=median(db[:n_note]))


def _fallen(curve: _Curve) -> float:
    """How far the partials have fallen 100 … 400 ms after the bowing, dB re the note (negative)."""
    part = curve.db[round(_FROM_S / _STEP_S) : round(_TO_S / _STEP_S)]
    if not len(part):
        return float("nan")
    return float(10 * np.log10(np.mean(10 ** (part / 10)))) - curve.note_db


def _t60(curve: _Curve) -> float:
    """Decay time from the slope of the tail above its own floor; NaN when too short."""
    part = curve.db[round(0.06 / _STEP_S) :]
    if len(part) < 10:
        return float("nan")
    below = np.flatnonzero(part < float(np.percentile(part, 10)) + 8.0)
    stop = int(below[0]) if len(below) else len(part)
    if stop < 4:
        return float("nan")
    slope, _ = robust_line(np.arange(stop) * _STEP_S, part[:stop])
    return float(-60.0 / slope) if slope < -3.0 else float("nan")
