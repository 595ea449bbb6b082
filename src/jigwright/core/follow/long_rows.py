"""Notes that lasted far too long, looked at once more for the repeat that was taken for one.

A bow change on the same pitch that hardly dips leaves one segment for two written notes. Where the
whole run is one pitch every note still fits, the walk over the jig leaves out whichever is
cheapest, and nothing looks poor. What tells is the length: a note that sounded half as long again
as its neighbours say, with a doubtful beginning of its pitch inside about where the next one is
due, is tried as two; it is kept so when more of what is written is found then.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.places import Kept as Decided
from jigwright.core.follow.reconsider import Kept, fit_of, told, with_doubt
from jigwright.core.follow.values import LinedNote, LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import median

_LONG = 1.5  # times what is written, at the usual pace
_AWAY = 0.35  # of the written length a repeat may lie from its place
_SAME_CENTS = 45.0
_FEWEST_STEPS = 4  # from note to note: fewer do not tell the pace
_FAR_STEP = 3  # events; a hole stands where the walk left it
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
    if not doubtful:
        return told(kept)
    params = FollowParams()
    lined = line_up(segments, jig, a4_hz=a4_hz, params=params, pairs=pairs)
    if len({r.i_event for r in lined.notes if r.segments}) >= len(jig.events):
        return told(kept)
    fit = fit_of(lined, segments, jig, a4_hz=a4_hz)
    work = _MOST_WORK
    for found in _hidden(lined, segments, doubtful, jig, a4_hz):
        work -= (len(kept) + 1) * len(jig.events)
        if work < 0:
            break
        trial = kept
        for d in found:
            trial = with_doubt(trial, d)
        parts = [s for s, _ in trial]
        again = line_up(parts, jig, a4_hz=a4_hz, params=params, pairs=pairs)
        better = fit_of(again, parts, jig, a4_hz=a4_hz)
        if better.n_fit > fit.n_fit and len(better.poor) <= len(fit.poor):
            kept, fit = trial, better
    return told(kept)


def _hidden(
    lined: LinedUp, segments: Sequence[Segment], doubtful: Sequence[Segment], jig: Jig, a4_hz: float
) -> list[list[Segment]]:
    """For every note that lasted too long the doubtful beginnings that stand where others are due.

    The longest first.
    """
    written = WrittenTime(jig)
    starts = [written.at(e.onset_beats) for e in jig.events]
    lengths = written.lengths()
    rows = [r for r in lined.notes if r.i_event is not None and len(r.segments) == 1]
    pace = _pace(rows, segments, starts)
    if pace is None:
        return []
    found: list[tuple[float, list[Segment]]] = []
    for row in rows:
        s, event = segments[row.segments[0]], row.i_event
        assert event is not None
        due_s = max(pace * lengths[event], 0.02)
        share = (s.offset_s - s.onset_s) / due_s
        if share < _LONG or s.i_pair >= 0 or len(jig.events[event].heads) > 1:
            continue
        inside = [
            d
            for d in doubtful
            if s.onset_s < d.onset_s < s.offset_s
            and abs(hz_to_cents(d.f0_hz, a4_hz) - hz_to_cents(s.f0_hz, a4_hz)) < _SAME_CENTS
        ]
        chosen = _due(s, inside, due_s)
        if chosen:
            found.append((share, chosen))
    return [chosen for _, chosen in sorted(found, key=lambda f: -f[0])]


def _due(s: Segment, inside: Sequence[Segment], due_s: float) -> list[Segment]:
    """One beginning for each repeat that would be due, the nearest, as far as there is one."""
    n = round((s.offset_s - s.onset_s) / due_s)
    chosen: list[Segment] = []
    last_s = s.onset_s
    for _ in range(n - 1):
        at_s = last_s + due_s
        near = [d for d in inside if d.onset_s > last_s and abs(d.onset_s - at_s) < _AWAY * due_s]
        if not near:
            break
        chosen.append(min(near, key=lambda d: abs(d.onset_s - at_s)))
        last_s = chosen[-1].onset_s
    return chosen


def _pace(
    rows: Sequence[LinedNote], segments: Sequence[Segment], starts: Sequence[float]
) -> float | None:
    """Seconds played for a written one, from note to the next; ``None``: too few to tell."""
    steps = []
    for a, b in zip(rows, rows[1:], strict=False):
        assert a.i_event is not None
        assert b.i_event is not None
        if 0 < b.i_event - a.i_event <= _FAR_STEP and starts[b.i_event] > starts[a.i_event]:
            played = segments[b.segments[0]].onset_s - segments[a.segments[0]].onset_s
            steps.append(played / (starts[b.i_event] - starts[a.i_event]))
    return median(np.array(steps)) if len(steps) >= _FEWEST_STEPS else None
