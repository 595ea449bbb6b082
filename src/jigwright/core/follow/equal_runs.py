"""One pitch written several times: which of what may have begun are its notes.

A bow change that hardly dips leaves one segment for two written notes, a room one for many. Where
the whole run is one pitch every note still fits, the walk over the jig leaves out whichever is
cheapest, and nothing looks poor. What tells is the time: the notes of a run are given the
beginnings – sure or doubtful – whose distances agree best with what is written, at the pace that
suits them best (least cost over pace, note and beginning; a note may have none). What is found so
stays when more of what is written is found then.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.doubt_cost import doubt_cost
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.places import Kept as Decided
from jigwright.core.follow.reconsider import Kept, fit_of, told, with_doubt
from jigwright.core.follow.repeats import runs_of
from jigwright.core.follow.run_times import in_time
from jigwright.core.follow.values import LinedNote, LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, says_lengths
from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Floats, median

_SAME_CENTS = 45.0
_FEWEST_STEPS, _FAR_STEP = 4, 3  # to tell the pace of a take; events: a hole may lie between
_MOST_CANDIDATES = 120
_MOST_WORK = 400_000  # segments times events of all trials


def with_repeats(
    segments: Sequence[Segment],
    doubtful: Sequence[Segment],
    jig: Jig,
    *,
    a4_hz: float,
    pairs: Sequence[Pair] = (),
) -> Decided:
    """The segments that fit most of what is written, and where each old one stands then.

    Parameters
    ----------
    segments, doubtful : sequence of Segment
        In time order.
    jig : Jig
    a4_hz : float
    pairs : sequence of Pair
    """
    kept: Kept = [(s, i) for i, s in enumerate(segments)]
    runs = runs_of(jig) if doubtful and says_lengths(jig) else []
    if not runs:
        return told(kept)
    params = FollowParams()
    lined = line_up(segments, jig, a4_hz=a4_hz, params=params, pairs=pairs)
    fit = fit_of(lined, segments, jig, a4_hz=a4_hz)
    written = WrittenTime(jig)
    starts = np.array([written.at(e.onset_beats) for e in jig.events])
    ends = starts + np.array(written.lengths())
    work = _MOST_WORK
    for first, last in runs:
        now = [s for s, _ in kept]
        found = _new_in((first, last), lined, now, doubtful, (starts, ends), a4_hz)
        if not found:
            continue
        work -= (len(kept) + len(found)) * len(jig.events)
        if work < 0:
            break
        trial = kept
        for d in found:
            trial = with_doubt(trial, d)
        parts = [s for s, _ in trial]
        again = line_up(parts, jig, a4_hz=a4_hz, params=params, pairs=pairs)
        better = fit_of(again, parts, jig, a4_hz=a4_hz)
        more = better.n_fit > fit.n_fit and len(better.poor) <= len(fit.poor)
        if more and _but((first, last), again, parts) == _but((first, last), lined, now):
            kept, lined, fit = trial, again, better
    return told(kept)


def _but(
    run: tuple[int, int], lined: LinedUp, segments: Sequence[Segment]
) -> list[tuple[int | None, float]]:
    """What was found of everything but a run: it must stay as it was."""
    return [
        (r.i_event, _onset_s(r, segments))
        for r in lined.notes
        if r.segments and (r.i_event is None or not run[0] <= r.i_event <= run[1])
    ]


def _new_in(
    run: tuple[int, int], lined: LinedUp, segments: Sequence[Segment],
    doubtful: Sequence[Segment], written: tuple[Floats, Floats], a4_hz: float,
) -> list[Segment]:  # fmt: skip
    """Doubtful beginnings that are notes of a run; none where all of it is found."""
    first, last = run
    rows = [
        r for r in lined.notes
        if r.segments and r.i_event is not None and first <= r.i_event <= last
    ]  # fmt: skip
    n_found = len({r.i_event for r in rows})
    if not rows or n_found == last - first + 1 or any(r.state == "retry" for r in rows):
        return []
    inside = sorted({i for r in rows for i in r.segments})
    mine = [segments[i] for i in range(inside[0], inside[-1] + 1)]
    usual_hz = median(np.array([segments[i].f0_hz for i in inside]))
    if any(s.i_pair >= 0 or not _is_near(s, usual_hz, a4_hz) for s in mine):
        return []
    start_s, stop_s = mine[0].onset_s, mine[-1].offset_s
    maybe = [
        d for d in doubtful
        if start_s < d.onset_s < stop_s and _is_near(d, usual_hz, a4_hz)
    ]  # fmt: skip
    candidates = sorted([*mine, *maybe], key=lambda s: s.onset_s)
    if not maybe or len(candidates) > _MOST_CANDIDATES:
        return []
    starts, ends = written
    chosen = in_time(
        np.array([*(c.onset_s for c in candidates), stop_s]),
        np.array([doubt_cost(c, says_lengths=True) for c in candidates]),
        np.array([*starts[first : last + 1], ends[last]]), _pace(lined, segments, starts),
    )  # fmt: skip
    found = [candidates[k] for _, k in chosen]
    if len(found) <= n_found:
        return []
    return [d for d in found if any(d is m for m in maybe)]


def _is_near(s: Segment, f0_hz: float, a4_hz: float) -> bool:
    return abs(hz_to_cents(s.f0_hz, a4_hz) - hz_to_cents(f0_hz, a4_hz)) < _SAME_CENTS


def _pace(lined: LinedUp, segments: Sequence[Segment], starts: Floats) -> float | None:
    """Seconds played for a written one, from note to the next; ``None``: too few to tell."""
    rows = [r for r in lined.notes if r.i_event is not None and r.segments]
    steps = [
        (_onset_s(b, segments) - _onset_s(a, segments)) / (starts[b.i_event] - starts[a.i_event])
        for a, b in zip(rows, rows[1:], strict=False)
        if a.i_event is not None and b.i_event is not None
        if 0 < b.i_event - a.i_event <= _FAR_STEP and starts[b.i_event] > starts[a.i_event]
    ]
    return median(np.array(steps)) if len(steps) >= _FEWEST_STEPS else None


def _onset_s(row: LinedNote, segments: Sequence[Segment]) -> float:
    return segments[row.segments[0]].onset_s
