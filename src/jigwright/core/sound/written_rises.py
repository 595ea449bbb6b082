"""Notes that may begin where a pitch that is written comes to sound more strongly.

In fast notes the one before sounds on – its release, its string, the room – and the period of what
sounds is neither's: one contour holds several notes, or a root below both. How strongly each
written pitch sounds (:mod:`activations`) still rises when it is bowed. Each such rise is a doubtful
note: it becomes one only where a written note of that pitch would else be missing at that place.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.sound.activations import ACTIVATION_HOP_S, Activations, activations
from jigwright.core.sound.heard import HOP_S, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.sound.mixed_pitch import mixed_pitch
from jigwright.core.values import Floats, median

_LOW_HZ, _WINDOW_S, _LOW_WINDOW_S = 120.0, 0.046, 0.09
_BEFORE_S, _AFTER_S = 0.06, 0.06
_LEAST_RISE, _LEAST_DB, _OTHER_DB = 0.05, 1.5, 3.0
_STRENGTH_FLOOR = 1e-3
# of 480 true rises under other notes 97 % are that strong, of 4,604 false ones 15 %
_LEAST_NEW, _LEAST_SHARE, _SOON_S = 0.07, 0.22, 0.08
_KNOWN_S, _KNOWN_CENTS = 0.05, 65.0
_SETTLES_S, _SHORTEST_S, _LONGEST_S = 0.012, 0.045, 0.25
_TOGETHER_S, _PARTIAL_CENTS = 0.05, 25.0
_ENDS_SHARE = 0.3
_BEGUN_SHARE = 0.1
_LATE_S = 0.018  # median on 817 notes of three generators; nine in ten within 37 ms of it
_OTHER_SHARE = 0.25  # of the note's own strength: another that is weaker does not draw it
_CAUTION, _LEAST_SD_CENTS = 1.4, 0.5
_AGAIN_SD_CENTS, _FEWEST_FRAMES = 1.5, 6
_TOLD_S = 0.2  # a fast note tells its pitch by then, and a longer search costs as much more
_WIDEST_CENTS = 50.0  # beyond half a semitone it is not known to be that pitch
_NEW_DB = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Rising:
    """A pitch comes to sound more strongly.

    Parameters
    ----------
    i_pitch : int
    frame : int
        Of `Activations`.
    rise : float
        How much stronger, in its units.
    ratio_db : float
        The same as a ratio.
    """

    i_pitch: int
    frame: int
    rise: float
    ratio_db: float = np.inf

    @property
    def onset_s(self) -> float:
        """When it was bowed, as far as a rise tells."""
        return max(0.0, self.frame * ACTIVATION_HOP_S - _LATE_S)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Risen:
    """Where pitches come to sound more strongly.

    Parameters
    ----------
    sounding : Activations
    rises : tuple of Rising
        In time order.
    """

    sounding: Activations
    rises: tuple[Rising, ...]


def pitches_sounding(written_hz: Sequence[float], segments: Sequence[Segment]) -> tuple[float, ...]:
    """What may rise: what is written, or where nobody said, what was heard, each once.

    Parameters
    ----------
    written_hz : sequence of float
    segments : sequence of Segment
    """
    if written_hz:
        return tuple(written_hz)
    found: list[float] = []
    for s in sorted(segments, key=lambda s: s.onset_s - s.offset_s):  # the longest first
        if all(abs(1200.0 * np.log2(s.f0_hz / f_hz)) > _KNOWN_CENTS for f_hz in found):
            found.append(s.f0_hz)
    return tuple(sorted(found))


def find_rises(take: Take, pitches_hz: Sequence[float], besides: Sequence[Segment] = ()) -> Risen:
    """Where pitches come to sound more strongly.

    Parameters
    ----------
    take : Take
    pitches_hz : sequence of float
    besides : sequence of Segment
        What was heard: pitches that none of these explains take their share of the sound, and
        their rises are not looked for.
    """
    low = not pitches_hz or min(pitches_hz) <= _LOW_HZ
    window_s = _LOW_WINDOW_S if low else _WINDOW_S
    known = list(pitches_hz)
    for s in sorted(besides, key=lambda s: s.onset_s - s.offset_s):  # the longest first
        if all(abs(1200.0 * np.log2(s.f0_hz / f_hz)) > _KNOWN_CENTS for f_hz in known):
            known.append(s.f0_hz)
    sounding = activations(take.x, take.rate_hz, known, window_s=window_s)
    rises = [r for r in rises_of(sounding) if r.i_pitch < len(pitches_hz)]
    return Risen(sounding=sounding, rises=tuple(rises))


def written_rises(take: Take, risen: Risen, segments: Sequence[Segment]) -> tuple[Segment, ...]:
    """Doubtful notes where written pitches rise and no note of theirs is known to begin.

    Parameters
    ----------
    take : Take
    risen : Risen
        Of the written pitches.
    segments : sequence of Segment
        What was heard; stops are not looked at.
    """
    sounding = risen.sounding
    rises = [
        r
        for r in without_partials(risen.rises, sounding.pitches_hz)
        if r.rise >= _LEAST_NEW and _share(sounding, r) >= _LEAST_SHARE
    ]
    result = []
    for k, r in enumerate(rises):
        f_hz = sounding.pitches_hz[r.i_pitch]
        onset_s = r.onset_s
        if any(
            s.i_pair < 0
            and abs(s.onset_s - onset_s) < _KNOWN_S
            and abs(1200.0 * np.log2(s.f0_hz / f_hz)) < _KNOWN_CENTS
            for s in segments
        ):
            continue
        offset_s = ends_s(sounding, r, rises[k + 1 :])
        around = _around(segments, onset_s, f_hz)
        if around is not None:
            result.append(_again(take, around, onset_s, min(offset_s, around.offset_s)))
            continue
        if r.ratio_db < _OTHER_DB:
            continue
        note = _note(take, sounding, r, onset_s, offset_s)
        if note is not None:
            result.append(note)
    return tuple(result)


def _around(segments: Sequence[Segment], onset_s: float, f_hz: float) -> Segment | None:
    """The note of that pitch that sounds already."""
    return next(
        (
            s
            for s in segments
            if s.i_pair < 0
            and s.onset_s < onset_s < s.offset_s - _SHORTEST_S
            and abs(1200.0 * np.log2(s.f0_hz / f_hz)) < _KNOWN_CENTS
        ),
        None,
    )


def _again(take: Take, around: Segment, onset_s: float, offset_s: float) -> Segment:
    """A stroke inside a note of its pitch: what the contour is meanwhile, a little less sure."""
    sd_cents = float(np.hypot(0.5 * around.uncertainty_cents / _CAUTION, _AGAIN_SD_CENTS))
    lo, hi = (round(t / HOP_S) for t in (onset_s + _SETTLES_S, offset_s))
    own_hz = take.contours.f0_hz[lo:hi]
    off = 1200.0 * np.log2(own_hz / around.f0_hz)
    off = off[np.isfinite(off) & (np.abs(off) < _KNOWN_CENTS)]
    cents = median(off) if len(off) >= _FEWEST_FRAMES else 0.0
    f0_hz = around.f0_hz * 2.0 ** (cents / 1200.0)
    return _segment(take, f0_hz, sd_cents, around.clarity, onset_s, offset_s)


def rises_of(sounding: Activations) -> list[Rising]:
    """Where a pitch comes to sound more strongly, in time order.

    Parameters
    ----------
    sounding : Activations
    """
    before, after = (round(s / ACTIVATION_HOP_S) for s in (_BEFORE_S, _AFTER_S))
    found: list[Rising] = []
    for i, own in enumerate(sounding.values):
        n = len(own)
        if n < before + after:
            continue
        padded = np.concatenate([np.full(before, own[0]), own, np.full(after, own[-1])])
        views = np.lib.stride_tricks.sliding_window_view(padded, before)
        least = views[:n].min(axis=1)
        mean = np.lib.stride_tricks.sliding_window_view(padded[before:], after)[:n].mean(axis=1)
        rise = mean - least
        ratio_db = 20.0 * np.log10((mean + _STRENGTH_FLOOR) / (least + _STRENGTH_FLOOR))
        for t in np.flatnonzero((rise > _LEAST_RISE) & (ratio_db > _LEAST_DB)):
            around = rise[max(0, t - before) : t + before + 1]
            if int(np.argmax(around)) == min(t, before):
                begins = _begins(own, int(t), before, after)
                found.append(
                    Rising(
                        i_pitch=i, frame=begins, rise=float(rise[t]), ratio_db=float(ratio_db[t])
                    )
                )
    return sorted(found, key=lambda r: r.frame)


def without_partials(rises: Sequence[Rising], pitches_hz: Sequence[float]) -> list[Rising]:
    """The same but for those that are partials of what rises more strongly at the time.

    Parameters
    ----------
    rises : sequence of Rising
        In time order.
    pitches_hz : sequence of float
    """
    near = round(_TOGETHER_S / ACTIVATION_HOP_S)

    def is_partial(r: Rising, q: Rising) -> bool:
        ratio = pitches_hz[r.i_pitch] / pitches_hz[q.i_pitch]
        multiple = round(ratio)
        return (
            multiple >= 2
            and abs(1200.0 * float(np.log2(ratio / multiple))) < _PARTIAL_CENTS
            and q.rise > r.rise
            and abs(q.frame - r.frame) <= near
        )

    return [r for r in rises if not any(is_partial(r, q) for q in rises)]


def _begins(own: Floats, t: int, before: int, after: int) -> int:
    """The frame in which it leaves where it came from."""
    lo = max(0, t - before)
    least = lo + int(np.argmin(own[lo : t + 1]))
    top = float(own[t : t + after].max())
    level = float(own[least]) + _BEGUN_SHARE * (top - float(own[least]))
    over = np.flatnonzero(own[least : t + after] > level)
    return least + (int(over[0]) if len(over) else 0)


def ends_s(sounding: Activations, r: Rising, later: Sequence[Rising]) -> float:
    """Where its pitch has faded, or the next one of all that is half as strong begins.

    Parameters
    ----------
    sounding : Activations
    r : Rising
    later : sequence of Rising
        Those after it, in time order.
    """
    own = sounding.values[r.i_pitch, r.frame :]
    last = round(_LONGEST_S / ACTIVATION_HOP_S)
    peak = float(own[: max(2, last // 3)].max())
    faded = np.flatnonzero(own[2:last] < _ENDS_SHARE * peak)
    end = int(faded[0]) + 2 if len(faded) else min(last, len(own))
    for q in later:
        if q.frame - r.frame >= round(_SHORTEST_S / ACTIVATION_HOP_S) and q.rise > 0.5 * r.rise:
            end = min(end, q.frame - r.frame)
            break
    end = max(end, round(_SHORTEST_S / ACTIVATION_HOP_S) + 1)
    return (r.frame + end) * ACTIVATION_HOP_S


def _note(
    take: Take, sounding: Activations, r: Rising, onset_s: float, offset_s: float
) -> Segment | None:
    a, b = (
        round(t * take.rate_hz) for t in (onset_s + _SETTLES_S, min(offset_s, onset_s + _TOLD_S))
    )
    near_hz = sounding.pitches_hz[r.i_pitch]
    mixed = mixed_pitch(
        take.x[a:b], take.rate_hz, 1200.0 * float(np.log2(near_hz)), _other_hz(sounding, r)
    )
    if mixed is None or _range_cents(mixed.sd_cents) > _WIDEST_CENTS:
        return None
    return _segment(
        take, 2.0 ** (mixed.cents / 1200.0), mixed.sd_cents, mixed.share, onset_s, offset_s
    )


def _segment(
    take: Take, f0_hz: float, sd_cents: float, clarity: float, onset_s: float, offset_s: float
) -> Segment:
    lo, hi = round(onset_s / HOP_S), round(offset_s / HOP_S)
    return Segment(
        onset_s=onset_s, offset_s=offset_s, core_start_s=min(onset_s + _SETTLES_S, offset_s),
        core_end_s=offset_s, f0_hz=f0_hz, uncertainty_cents=_range_cents(sd_cents),
        spread_cents=0.0, drift_cents_per_s=0.0,
        level_dbfs=_mean_db(take.contours.level_db[lo : max(hi, lo + 1)]),
        attack_db=_NEW_DB, clarity=clarity, slurred=False, doubtful=True,
        covered_s=offset_s - onset_s,
    )  # fmt: skip


def _share(sounding: Activations, r: Rising) -> float:
    """How strongly it sounds just then, re the strongest of all."""
    first = min(r.frame + 1, sounding.values.shape[1] - 1)  # it may rise in the very last frame
    span = slice(first, first + round(_SOON_S / ACTIVATION_HOP_S))
    means = sounding.values[:, span].mean(axis=1)
    return float(means[r.i_pitch] / max(float(means.max()), _STRENGTH_FLOOR))


def _other_hz(sounding: Activations, r: Rising) -> float | None:
    """The strongest other pitch while it sounds."""
    span = slice(r.frame, r.frame + round(_AFTER_S / ACTIVATION_HOP_S))
    means = sounding.values[:, span].mean(axis=1)
    own = float(means[r.i_pitch])
    means[r.i_pitch] = 0.0
    k = int(np.argmax(means))
    return sounding.pitches_hz[k] if means[k] > _OTHER_SHARE * own else None


def _range_cents(sd_cents: float) -> float:
    return 2.0 * float(np.hypot(_CAUTION * sd_cents, _LEAST_SD_CENTS))


def _mean_db(level_db: Floats) -> float:
    if not len(level_db):
        return -140.0
    return 10.0 * float(np.log10((10 ** (level_db / 10)).mean() + 1e-14))
