"""Arrival: landed, slid in, or hunted.

The first stable pitch after the onset, the settling time, and the kind. The contour is taken after
the analysis window has left the note before; a vibrato begun at once is taken out before reversals
are counted.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge.values import Arrival, ArrivalKind, Vibrato
from jigwright.core.gauge_maths import fit_sinusoid
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Floats, Unmeasured, median

METHOD_VERSION = 7
_EARLY_FRAMES = 60
_LINGERS_S = 0.04
_RESTS_FRAMES = 18  # inside the tolerance: no search rests so long
_HAND_FRAMES = 5  # no hand turns within a fortieth of a second
# falls by 20 dB until the tail of a room no longer pulls the period, or turns it to and fro
_ROOM_S, _TAIL_PULLS, _TAIL_TURNS = 0.11, 1.6, 2.2


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalParams:
    """Limits of the arrival gauge.

    Parameters
    ----------
    least_slide_cents, least_slide_s : float
        Smaller or shorter approaches count as landed.
    tolerance_cents : float
        The pitch has settled when it stays this near.
    reversal_cents : float
        Turns smaller than this are not hunting.
    least_windows : float
        A first pitch further out than ``least_slide_cents`` that settled in fewer analysis windows
        is blurred by them: its size cannot be told (NaN).
    most_back : float
        How far before the first clean frame a slide is followed, as a share of what it shows.
    most_going_on : float
        The pitch has settled when it stays within so many times what moves on in the later half.
    least_search : float
        Turns are hunting only where they swing so many times as far as what moves on later: a
        search ends.
    least_search_s : float
        No finger turns twice sooner.
    most_search : float
        Nor does a search go on through more than this share of the note.
    most_jump_cents, most_unheard, most_rough : float
        A finger's way is one line: where the contour jumps further between two frames, or leaves
        out so many, or so much of the sound is not of its period (1 − clarity, median), two notes
        or a rough start are heard and not a way.
    furthest_cents : float
        From further away comes the note before, or another period, and no finger.
    """

    least_slide_cents: float = 14.0
    least_slide_s: float = 0.055
    tolerance_cents: float = 6.0
    reversal_cents: float = 8.0
    least_windows: float = 3.0
    most_back: float = 1.5
    most_going_on: float = 1.3
    least_search: float = 2.6
    least_search_s: float = 0.15
    most_search: float = 0.6
    most_jump_cents: float = 45.0
    most_unheard: int = 2
    most_rough: float = 0.06
    furthest_cents: float = 260.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Before:
    """The note before a note.

    Parameters
    ----------
    f0_hz, offset_s : float
    tail_s : float
        How long what has ended takes to fall by 20 dB in this take; NaN when unknown.
    """

    f0_hz: float
    offset_s: float
    tail_s: float


def _may_be_tail(
    before: Before, segment: Segment, kind: ArrivalKind, first: float, settle_s: float
) -> bool:
    """Whether an approach from the side of the note before, or turns, are over before its tail is.

    Two pitches that sound together beat, and their period turns to and fro.
    """
    if not np.isfinite(before.tail_s) or segment.onset_s - before.offset_s > before.tail_s:
        return False
    away = 1200.0 * np.log2(before.f0_hz / segment.f0_hz)
    in_room = before.tail_s > _ROOM_S
    if kind == "hunted":
        return bool(settle_s <= (_TAIL_TURNS if in_room else 1.0) * before.tail_s + _LINGERS_S)
    lasts_s = (_TAIL_PULLS if in_room else 1.0) * before.tail_s + _LINGERS_S
    return bool(first * away > 0.0 and settle_s <= lasts_s)


def measure_arrival(
    contours: Contours,
    segment: Segment,
    vibrato: Vibrato | Unmeasured,
    params: ArrivalParams,
    *,
    blur_s: float,
    before: Before | None = None,
) -> Arrival | Unmeasured:
    """Measure how a segment's pitch was reached.

    Parameters
    ----------
    contours : Contours
    segment : Segment
    vibrato : Vibrato or Unmeasured
    params : ArrivalParams
    blur_s : float
        Half the analysis window: frames nearer to the onset still hear what was before.
    before : Before or None
        The note before, where one was.

    Returns
    -------
    Arrival or Unmeasured
        Reasons: ``too_short``, ``pitch_broken``, ``room_tail``: while the note before still
        sounds, its pitch and a slide from it cannot be told apart.
    """
    if segment.offset_s - segment.onset_s < 0.15:
        return Unmeasured("too_short")
    # after a real gap the window hears little of what was before
    near = 0.6 if segment.attack_db > 12.0 else 1.0
    skip = near * blur_s + (0.012 if segment.slurred else 0.004)
    if segment.covered_s > 0.0:  # until then the contour is still that of the note before
        skip = max(skip, segment.covered_s + near * blur_s)
    lo = int(np.ceil((segment.onset_s + skip) / HOP_S))
    hi = round(segment.core_end_s / HOP_S)
    if hi - lo < 16:
        return Unmeasured("too_short")
    cents = 1200.0 * np.log2(contours.f0_hz[lo:hi] / segment.f0_hz)
    heard_cents = cents
    good = np.isfinite(cents)
    if not good[:16].any() or np.count_nonzero(good) < 0.8 * len(cents):
        return Unmeasured("pitch_broken")
    cents = np.interp(np.arange(len(cents)), np.flatnonzero(good), cents[good])
    cents = np.clip(cents, -400.0, 400.0)
    steady = _without_vibrato(cents, vibrato, round(segment.core_start_s / HOP_S) - lo)
    tolerance = params.tolerance_cents
    if isinstance(vibrato, Vibrato) and vibrato.present:
        tolerance += 0.12 * vibrato.extent_cents
    going_on = _going_on_cents(steady)
    tolerance = max(tolerance, params.most_going_on * going_on)
    outside = np.flatnonzero(np.abs(steady[: max(1, int(0.8 * len(steady)))]) > tolerance)
    settled = int(outside[-1]) + 1 if len(outside) and _from_start(outside) else 0
    settle_s = skip + settled * HOP_S if settled else 0.0
    late_s = _late_s(np.asarray(contours.level_db[lo : lo + len(steady)]), blur_s)
    t_s = lo * HOP_S - segment.onset_s + np.arange(len(steady)) * HOP_S + late_s
    first = _first_cents(steady, t_s, settled, params)
    turns = max(params.reversal_cents, params.least_search * going_on)
    if settle_s > params.most_search * (segment.offset_s - segment.onset_s):
        turns = float("inf")  # what goes on through most of the note is no search
    kind = _kind(steady[: settled + 20 if settled else 0], first, settle_s, params, turns)
    rests = _rests_at(cents[:settled], tolerance) if kind == "hunted" else None
    if rests is not None:
        # it had arrived: what turned later was the vibrato that began there
        settled, settle_s = rests, skip + rests * HOP_S if rests else 0.0
        kind = _kind(cents[:settled], first, settle_s, params, turns)
    if (
        kind != "landed"
        and before is not None
        and _may_be_tail(before, segment, kind, first, settle_s)
    ):
        return Unmeasured("room_tail")
    if kind != "landed":
        way = slice(0, max(6, settled))
        one_line = _is_one_line(heard_cents[way], contours.clarity[lo:hi][way], params)
        if not one_line or abs(first) > params.furthest_cents:
            return Unmeasured("pitch_broken")
    if settle_s and abs(first) > 1.5 * tolerance and settle_s < params.least_windows * 2.0 * blur_s:
        first = float("nan")
    return Arrival(kind=kind, first_cents=first, settle_s=settle_s)


def _rests_at(cents: Floats, tolerance: float) -> int | None:
    """First frame of a stretch inside the tolerance that no search would make."""
    inside = np.concatenate([[False], np.abs(cents) < tolerance, [False]])
    edges = np.flatnonzero(np.diff(inside.astype(np.int8)))
    for start, stop in zip(edges[::2], edges[1::2], strict=True):
        if stop - start >= _RESTS_FRAMES:
            return int(start)
    return None


def _is_one_line(cents: Floats, clarity: Floats, params: ArrivalParams) -> bool:
    """Whether a stretch of the contour is the way of one clear pitch."""
    heard = np.isfinite(cents)
    begins = int(np.argmax(heard))  # before, no pitch is clear yet
    if np.count_nonzero(~heard[begins:]) > params.most_unheard:
        return False
    jumps = np.abs(np.diff(cents[heard]))
    smooth = not len(jumps) or float(jumps.max()) <= params.most_jump_cents
    return smooth and 1.0 - median(clarity) <= params.most_rough


def _first_cents(steady: Floats, t_s: Floats, settled: int, params: ArrivalParams) -> float:
    """First pitch. A slide is followed back to the onset along a half cosine.

    The first frames after the onset still hear the attack or the note before, and a slide begins
    slowly: a straight line back would go too far, the first clean frame not far enough.
    """
    first = median(steady[:3])
    if abs(first) < 0.6 * params.least_slide_cents or settled < 3:
        return first
    t_s = t_s[: settled + 6]
    lengths_s = np.arange(max(0.03, 0.8 * t_s[settled - 1]), 1.8 * t_s[-1], 0.005)
    shape = 0.5 * (1.0 + np.cos(np.pi * np.minimum(t_s[None, :] / lengths_s[:, None], 1.0)))
    part = steady[: len(t_s)]
    size = (shape @ part) / np.maximum(np.sum(shape**2, axis=1), 1e-9)
    misfit = np.sum((part - size[:, None] * shape) ** 2, axis=1)
    best = int(np.argmin(misfit))
    small = abs(first) < params.least_slide_cents
    if misfit[best] > (0.02 if small else 0.1) * float(np.sum(part**2)):
        return first  # not a slide of one piece
    limit = params.most_back * abs(first)
    return first + float(np.clip(size[best] - first, -limit, limit))


def _late_s(level_db: Floats, blur_s: float) -> Floats:
    """How much later than its middle a window hears: while the tone grows, its end weighs more.

    The centroid of an exponential of rate ``k`` over ``± b`` lies at about
    ``b² k / 3``.
    """
    rate = np.gradient(level_db) / HOP_S * (np.log(10.0) / 10.0)
    return np.asarray(np.clip(blur_s**2 * rate / 3.0, 0.0, 0.6 * blur_s))


def _from_start(outside: NDArray[np.intp]) -> bool:
    """Whether the stretch outside belongs to the beginning."""
    return bool(outside[0] <= 6)


def _without_vibrato(cents: Floats, vibrato: Vibrato | Unmeasured, core: int) -> Floats:
    if not isinstance(vibrato, Vibrato) or not vibrato.present:
        return cents
    t_s = np.arange(len(cents)) * HOP_S
    core = min(max(core, 0), len(cents) - 12)
    rate, half, phase, _ = fit_sinusoid(t_s[core:], cents[core:])
    wave = half * np.sin(2 * np.pi * rate * t_s + phase)
    begins = int(max(0.0, vibrato.start_s - 0.02) / HOP_S)
    wave[: min(begins, len(wave))] = 0.0
    return _over_cycles(cents - wave, round(1.0 / rate / HOP_S), begins)


def _over_cycles(cents: Floats, period: int, begins: int) -> Floats:
    """Means over a cycle of the vibrato, from half a cycle after it begins.

    A real vibrato wanders in rate and width, and a sinusoid leaves much of it; a mean over one of
    its cycles does not. Before it begins nothing is smoothed.
    """
    if period < 3 or len(cents) < 2 * period:
        return cents
    half = period // 2
    total = np.concatenate([[0.0], np.cumsum(np.pad(cents, half, mode="reflect"))])
    mean = (total[2 * half + 1 :] - total[: -2 * half - 1]) / (2 * half + 1)
    smooth = cents.copy()
    smooth[begins + half :] = mean[begins + half :]
    if begins <= half:  # it begins with the note: its first cycle says where that landed
        smooth[: begins + half] = mean[begins + half]
    return np.asarray(smooth)


def _going_on_cents(steady: Floats) -> float:
    """How far the pitch still moves in the later half, about its middle: no search, since it stays.

    What a real vibrato leaves when a sinusoid is taken out of it goes on through the whole note.
    """
    later = steady[max(len(steady) // 2, min(_EARLY_FRAMES, 2 * len(steady) // 3)) :]
    if len(later) < 8:
        return 0.0
    return float(np.quantile(np.abs(later - median(later)), 0.9))


def _kind(
    before: Floats, first: float, seconds: float, params: ArrivalParams, turns_cents: float
) -> ArrivalKind:
    if not len(before):
        return "landed"
    if seconds >= params.least_search_s and _reversals(before, turns_cents) >= 2:
        return "hunted"  # sooner than that no finger turns twice: it is the room's beating
    if abs(first) < params.least_slide_cents or seconds < params.least_slide_s:
        return "landed"
    return "slid_up" if first < 0 else "slid_down"


def _reversals(cents: Floats, least: float) -> int:
    """Turns of direction whose swings exceed ``least`` on both sides."""
    if len(cents) >= 2 * _HAND_FRAMES:
        cents = np.median(np.lib.stride_tricks.sliding_window_view(cents, _HAND_FRAMES), axis=1)
    turns, direction, extreme = 0, 0, float(cents[0])
    for value in cents[1:]:
        if direction >= 0 and value < extreme - least:
            turns += direction > 0
            direction, extreme = -1, float(value)
        elif direction <= 0 and value > extreme + least:
            turns += direction < 0
            direction, extreme = 1, float(value)
        elif (direction > 0 and value > extreme) or (direction < 0 and value < extreme):
            extreme = float(value)
    return turns
