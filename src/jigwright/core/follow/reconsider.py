"""Poor matches looked at once more, with what else was heard there.

The walk over a jig takes each segment as it comes: where a room hides the repeat of a note, the
next one is taken for it and comes out wrong, and a scrap is taken for the next. Each written note
that was matched poorly – by another pitch, or by a piece too short to be it – is tried again with a
doubtful beginning taken for a note, with the scrap let go, or with both; what fits more of what is
written stays. Nothing is put in that was not heard to begin, and a wrong note that stands alone
stays wrong.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.scraps import common_multiple, is_common_period, main_piece
from jigwright.core.follow.values import LinedNote, LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import written_seconds
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import median

_WRONG_CENTS = 65.0
_LEAST_S = 0.02  # no written note is counted as shorter
_SCRAP_SHARE, _SCRAP_S = 0.3, 0.12  # of the written length, and never longer
_MOST_TRIALS, _MOST_WORK = 24, 400_000  # segments times events of a trial, over all
_INSIDE_S = 0.03
_SAME_CENTS, _TOUCHES_S, _ATTACK_DB = 45.0, 0.05, 12.0
_COMMON_DOUBT_CENTS = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Fitting:
    """How a walk fits what is written.

    Parameters
    ----------
    n_fit : int
        Written notes found at their pitch, and long enough to be them.
    poor : tuple of int
        Rows matched by another pitch or by a scrap.
    """

    n_fit: int
    poor: tuple[int, ...]


def fit_of(lined: LinedUp, segments: Sequence[Segment], jig: Jig, *, a4_hz: float) -> Fitting:
    """Count what fits.

    Parameters
    ----------
    lined : LinedUp
    segments : sequence of Segment
    jig : Jig
    a4_hz : float
    """
    written = [max(_LEAST_S, s) for s in written_seconds(jig)]
    ratios = [
        _length_s(row, segments) / written[row.i_event]
        for row in lined.notes
        if row.segments and row.i_event is not None
    ]
    pace = float(np.clip(median(np.array(ratios)), 0.2, 5.0)) if ratios else 1.0
    n_fit, poor = 0, []
    for k, row in enumerate(lined.notes):
        if not row.segments or row.i_event is None or row.state != "played":
            continue
        length_s = _length_s(row, segments)
        scrap = length_s < min(_SCRAP_S, _SCRAP_SHARE * pace * written[row.i_event])
        if scrap or _off_cents(row, segments, jig, lined, a4_hz) > _WRONG_CENTS:
            poor.append(k)
        else:
            n_fit += 1
    return Fitting(n_fit=n_fit, poor=tuple(poor))


def reconsidered(
    segments: Sequence[Segment],
    doubtful: Sequence[Segment],
    jig: Jig,
    *,
    a4_hz: float,
    pairs: Sequence[Pair] = (),
) -> tuple[tuple[Segment, ...], dict[int, int]]:
    """The segments that fit most of what is written, and where each old one stands then.

    Parameters
    ----------
    segments, doubtful : sequence of Segment
        In time order.
    jig : Jig
    a4_hz : float
    pairs : sequence of Pair
    """
    kept = [(s, i) for i, s in enumerate(segments)]
    work = _MOST_WORK
    lined = line_up(segments, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
    fit = fit_of(lined, segments, jig, a4_hz=a4_hz)
    done: set[float] = set()
    for _ in range(_MOST_TRIALS):
        now = [s for s, _ in kept]
        row = next((k for k in fit.poor if now[lined.notes[k].segments[0]].onset_s not in done), -1)
        if row < 0:
            break
        done.add(now[lined.notes[row].segments[0]].onset_s)
        for trial, is_joined in _trials(kept, lined, row, doubtful, jig, a4_hz):
            work -= len(trial) * len(jig.events)
            if work < 0:
                return told(kept)
            parts = [s for s, _ in trial]
            again = line_up(parts, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
            better = fit_of(again, parts, jig, a4_hz=a4_hz)
            fewer = len(better.poor) - len(fit.poor)
            # a piece made a part of its neighbour is not lost; one that is let go would be
            same = is_joined and better.n_fit == fit.n_fit and fewer < 0
            if same or (better.n_fit > fit.n_fit and fewer <= 0):
                kept, lined, fit = trial, again, better
                break
    return told(kept)


Kept = list[tuple[Segment, int]]
"""Segments, and where each stood before; -1: it is new."""


def told(kept: Kept) -> tuple[tuple[Segment, ...], dict[int, int]]:
    """The segments, and where each old one stands now."""
    at = {i: k for k, (_, i) in enumerate(kept) if i >= 0}
    return tuple(s for s, _ in kept), at


def _trials(
    kept: Kept, lined: LinedUp, k: int, doubtful: Sequence[Segment], jig: Jig, a4_hz: float
) -> list[tuple[Kept, bool]]:
    """Other ways to hear about a poor row, the likeliest first; whether a piece was joined."""
    row = lined.notes[k]
    assert row.i_event is not None
    here = row.segments[0]
    segment = kept[here][0]
    wanted = cents_from_a4(jig.events[row.i_event].heads[-1].pitch) + lined.offset_cents
    trials: list[tuple[Kept, bool]] = []
    without = [pair for j, pair in enumerate(kept) if j not in row.segments]
    if here + 1 < len(kept) and is_common_period(segment, kept[here + 1][0]):
        trials.append((without, False))  # the mixture before a note that is there itself
    next_event = row.i_event + 1
    after_hz = None
    if next_event < len(jig.events):
        after = cents_from_a4(jig.events[next_event].heads[-1].pitch) + lined.offset_cents
        after_hz = a4_hz * 2.0 ** (after / 1200.0)
    mixed = _unmixed(kept, here, a4_hz, wanted, after_hz)
    if mixed is not None:
        trials.append(([*kept[:here], (mixed, kept[here][1]), *kept[here + 1 :]], False))
    joined = _joined(kept, here)
    if joined is not None:
        trials.append((joined, True))
    short = segment.offset_s - segment.onset_s < _SCRAP_S
    lo_s = kept[here - 1][0].onset_s if here else 0.0
    hi_s = kept[here + 1][0].offset_s if here + 1 < len(kept) else segment.offset_s
    inside = [
        d
        for d in doubtful
        if lo_s + _INSIDE_S < d.onset_s < hi_s - _INSIDE_S
        and abs(hz_to_cents(d.f0_hz, a4_hz) - wanted) < _WRONG_CENTS
    ]
    for d in inside:
        trials.append((with_doubt(kept, d), False))
        if short:
            trials.append((with_doubt(without, d), False))
    if short:
        trials.append((without, False))
    return trials


def _unmixed(
    kept: Kept, here: int, a4_hz: float, wanted_cents: float, after_hz: float | None
) -> Segment | None:
    """The written note where a piece is the common period of it and of a neighbour.

    The one before lingers, as it was heard; the one after begins early, as it is written.
    """
    segment = kept[here][0]
    around = [kept[here - 1][0].f0_hz] if here else []
    if after_hz is not None:
        around.append(after_hz)
    written_hz = a4_hz * 2.0 ** (wanted_cents / 1200.0)
    own = common_multiple(segment.f0_hz, written_hz)
    if own is None or all(common_multiple(segment.f0_hz, hz) is None for hz in around):
        return None
    return replace(
        segment,
        f0_hz=own * segment.f0_hz,
        uncertainty_cents=float(np.hypot(segment.uncertainty_cents, _COMMON_DOUBT_CENTS)),
    )


def _joined(kept: Kept, here: int) -> Kept | None:
    """The same with a piece that goes on at the pitch of the one before made a part of that."""
    if not here:
        return None
    (before, i), (piece, _) = kept[here - 1], kept[here]
    near = abs(hz_to_cents(piece.f0_hz, before.f0_hz)) < _SAME_CENTS
    touches = piece.onset_s - before.offset_s < _TOUCHES_S and piece.attack_db < _ATTACK_DB
    if not near or not touches or piece.i_pair >= 0 or before.i_pair >= 0:
        return None
    whole = replace(before, offset_s=piece.offset_s)
    return [*kept[: here - 1], (whole, i), *kept[here + 1 :]]


def with_doubt(kept: Kept, d: Segment) -> Kept:
    """The same with a doubtful note, which ends the one it lies in."""
    result: Kept = []
    placed = False
    for s, i in kept:
        if not placed and d.onset_s <= s.onset_s:
            result.append((d, -1))
            placed = True
        if s.onset_s < d.onset_s < s.offset_s:
            core_s = max(s.onset_s, min(s.core_end_s, d.onset_s))
            result.append((replace(s, offset_s=d.onset_s, core_end_s=core_s), i))
            result.append((replace(d, offset_s=s.offset_s, doubtful=True), -1))
            placed = True
        else:
            result.append((s, i))
    return result if placed else [*result, (d, -1)]


def _length_s(row: LinedNote, segments: Sequence[Segment]) -> float:
    return segments[row.segments[-1]].offset_s - segments[row.segments[0]].onset_s


def _off_cents(
    row: LinedNote, segments: Sequence[Segment], jig: Jig, lined: LinedUp, a4_hz: float
) -> float:
    """Distance of the nearest voice; two strings are left to those who judge them."""
    assert row.i_event is not None
    heads = jig.events[row.i_event].heads
    s = main_piece([segments[i] for i in row.main or row.segments])
    if s.i_pair >= 0 or len(heads) > 1:
        return 0.0
    cents = hz_to_cents(s.f0_hz, a4_hz) - lined.offset_cents
    return abs(cents - cents_from_a4(heads[0].pitch))
