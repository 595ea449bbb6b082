"""What was to be played decides where the sound leaves it open whether a note begins.

The jig says what is likely, never what was heard: a doubtful beginning becomes a note only where a
written note would else be missing, at its place between the notes around it and at its pitch. A
written note for which there is no beginning at all, but sound long enough to hide it, is
*uncertain* and not missed.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from itertools import zip_longest

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.as_written import NEAR_CENTS, is_as_written
from jigwright.core.follow.beside import without_stops_beside
from jigwright.core.follow.doubt_cost import doubt_cost
from jigwright.core.follow.equal_runs import with_repeats
from jigwright.core.follow.faint import without_faint
from jigwright.core.follow.fast_runs import with_runs
from jigwright.core.follow.moves import ALONE_ODDS, FollowParams
from jigwright.core.follow.places import Kept, then
from jigwright.core.follow.reconsider import reconsidered
from jigwright.core.follow.spoken import without_talk
from jigwright.core.follow.values import LinedNote
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import says_lengths
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Heard, Pair, Segment

_LEAST_S = 0.03
_AWAY = 0.75  # of the written length a beginning may lie from its place
_MISS = 1.0
_SAME_S = 0.03
_APART_S = 0.08  # from border to border where nothing is written
_FEWEST_TURNS, _MORE = 3, 2  # single notes in a double stop's place, and how many more must fit


_MOST_DECIDED = 4
# pitches, figures and bow of a take are asked for one after the other and are decided once
_DECIDED: OrderedDict[tuple[object, ...], Kept] = OrderedDict()


@dataclass(frozen=True, slots=True, kw_only=True)
class _Gap:
    """Written notes that are missing between two that were heard."""

    events: tuple[int, ...]
    start_s: float
    stop_s: float
    i_before: int  # event of the note before


def decided(heard: Heard, jig: Jig | None, *, a4_hz: float) -> Heard:
    """The same, its doubtful notes made notes or let go.

    Parameters
    ----------
    heard : Heard
    jig : Jig or None
        Without one, doubt is no note.
    a4_hz : float
    """
    if jig is None and not heard.doubtful and not any(s.in_talk or s.faint for s in heard.segments):
        return heard
    segments, at = decide(heard.segments, heard.doubtful, jig, a4_hz=a4_hz, pairs=heard.pairs)
    if not heard.doubtful and segments == heard.segments:
        return heard
    lines = heard.ring_lines
    if lines is not None:
        lines = tuple(replace(q, i_segment=at[q.i_segment]) for q in lines if q.i_segment in at)
    return replace(heard, segments=segments, doubtful=(), ring_lines=lines)


def decide(
    segments: Sequence[Segment],
    doubtful: Sequence[Segment],
    jig: Jig | None,
    *,
    a4_hz: float,
    pairs: Sequence[Pair] = (),
) -> tuple[tuple[Segment, ...], dict[int, int]]:
    """Notes with those doubtful ones that a jig asks for, and where each sure one stands then.

    Parameters
    ----------
    segments, doubtful : sequence of Segment
        In time order.
    jig : Jig or None
    a4_hz : float
    pairs : sequence of Pair
    """
    if jig is None or not jig.events or not segments:
        return _likely(*_sure(segments, None, a4_hz, pairs), doubtful)
    key = (_figures(segments), _figures(doubtful), jig, a4_hz, _figures(pairs))
    if key not in _DECIDED:
        _DECIDED[key] = _decide(segments, doubtful, jig, a4_hz, pairs)
        while len(_DECIDED) > _MOST_DECIDED:
            _DECIDED.popitem(last=False)
    chosen, at = _DECIDED[key]
    return chosen, dict(at)


def _figures(rows: Sequence[Segment] | Sequence[Pair]) -> bytes:
    """Every figure of notes or pairs but their curves; NaN counts like any other value."""
    figures = [
        [v for f in fields(row) if not isinstance(v := getattr(row, f.name), np.ndarray)]
        for row in rows
    ]
    return np.array(figures, dtype=float).tobytes()


def _decide(
    segments: Sequence[Segment], doubtful: Sequence[Segment], jig: Jig, a4_hz: float,
    pairs: Sequence[Pair],
) -> Kept:  # fmt: skip
    soft = [s for s in segments if (s.faint or s.outsounded) and not s.in_talk]
    segments, same = _sure(segments, jig, a4_hz, pairs)
    if not segments:
        return segments, same
    soft = [replace(s, doubtful=True) for s in soft if s not in segments]
    doubtful = sorted((*doubtful, *soft), key=lambda d: d.onset_s)  # a note if it is missed
    single = [d for d in doubtful if d.i_pair < 0]
    seen = [d for d in single if not d.is_hidden]
    segments, after = _with_turns(segments, seen, jig, a4_hz, pairs)
    same = then(same, after)
    segments, after = with_runs(segments, single, jig, a4_hz=a4_hz, pairs=pairs)
    same = then(same, after)
    doubtful = [d for d in doubtful if not _is_among(d, segments)]
    single = [d for d in doubtful if d.i_pair < 0]
    segments, after = reconsidered(segments, single, jig, a4_hz=a4_hz, pairs=pairs)
    same = then(same, after)
    left = [d for d in single if not _is_among(d, segments)]
    segments, after = with_repeats(segments, left, jig, a4_hz=a4_hz, pairs=pairs)
    same = then(same, after)
    doubtful = [d for d in doubtful if not _is_among(d, segments)]
    lined = line_up(segments, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
    chosen: list[Segment] = []
    for gap in _gaps(lined.notes, segments, jig):
        inside = [d for d in doubtful if gap.start_s + _LEAST_S < d.onset_s < gap.stop_s - _LEAST_S]
        chosen += _fitting(gap, inside, jig, a4_hz, lined.offset_cents)
    if not chosen:
        return tuple(segments), same
    result, at = _split(segments, sorted(chosen, key=lambda d: d.onset_s))
    return result, {i: at[k] for i, k in same.items() if k in at}


def _sure(
    segments: Sequence[Segment], jig: Jig | None, a4_hz: float, pairs: Sequence[Pair]
) -> Kept:
    """Without what is talk, and what hardly sounds."""
    segments, same = without_talk(segments, jig, a4_hz=a4_hz, pairs=pairs)
    segments, after = without_faint(segments, jig, a4_hz=a4_hz, pairs=pairs)
    same = then(same, after)
    if jig is None or not jig.events:
        return segments, same
    segments, after = without_stops_beside(segments, jig, a4_hz=a4_hz, pairs=pairs)
    return segments, then(same, after)


def _likely(segments: Sequence[Segment], same: dict[int, int], doubtful: Sequence[Segment]) -> Kept:
    """Where nothing is written, with what likely begins inside a note of its pitch."""
    weighed = [(d.odds, d) for d in doubtful if d.odds is not None and d.odds > ALONE_ODDS]
    chosen: list[Segment] = []
    for _, d in sorted(weighed, key=lambda pair: -pair[0]):
        if all(abs(d.onset_s - other.onset_s) >= _APART_S for other in chosen) and any(
            s.onset_s + _APART_S <= d.onset_s <= s.offset_s - _APART_S and s.i_pair < 0
            for s in segments
        ):
            chosen.append(d)
    if not chosen:
        return tuple(segments), same
    result, at = _split(segments, sorted(chosen, key=lambda d: d.onset_s))
    return result, {i: at[k] for i, k in same.items() if k in at}


def _is_among(d: Segment, segments: Sequence[Segment]) -> bool:
    """Whether it is one of them, or begins with one of its pitch."""
    return any(
        abs(s.onset_s - d.onset_s) < _SAME_S
        and (s.i_pair >= 0) == (d.i_pair >= 0)
        and abs(hz_to_cents(d.f0_hz, s.f0_hz)) < NEAR_CENTS
        for s in segments
    )


def _with_turns(
    segments: Sequence[Segment],
    doubtful: Sequence[Segment],
    jig: Jig,
    a4_hz: float,
    pairs: Sequence[Pair],
) -> tuple[tuple[Segment, ...], dict[int, int]]:
    """Take single notes instead of a double stop where more of what is written is found so.

    Returns
    -------
    segments : tuple of Segment
    at : dict of int to int
        Where each segment that was kept stands now.
    """
    kept: list[tuple[Segment, int]] = list(zip(segments, range(len(segments)), strict=True))
    now = _fits(segments, jig, a4_hz, pairs)
    for i, s in enumerate(segments):
        if s.i_pair < 0:
            continue
        singles = _in_turn([d for d in doubtful if s.onset_s - _LEAST_S < d.onset_s < s.offset_s])
        if len(singles) < _FEWEST_TURNS:
            continue
        trial = [pair for pair in kept if pair[1] != i] + [(d, -1) for d in singles]
        trial.sort(key=lambda pair: pair[0].onset_s)
        fits = _fits([t for t, _ in trial], jig, a4_hz, pairs)
        if fits >= now + _MORE:
            kept, now = trial, fits
    return tuple(t for t, _ in kept), {i: k for k, (_, i) in enumerate(kept) if i >= 0}


def _in_turn(found: Sequence[Segment]) -> list[Segment]:
    """One after the other: where two overlap, the later begins where the earlier ends."""
    result: list[Segment] = []
    for d in found:
        onset_s = max(d.onset_s, result[-1].offset_s) if result else d.onset_s
        if d.offset_s - onset_s < _LEAST_S:
            continue
        core_s = min(max(d.core_start_s, onset_s), d.core_end_s)
        result.append(replace(d, onset_s=onset_s, core_start_s=core_s, doubtful=True))
    return result


def _fits(segments: Sequence[Segment], jig: Jig, a4_hz: float, pairs: Sequence[Pair]) -> int:
    """How many written notes are found as they are written."""
    lined = line_up(segments, jig, a4_hz=a4_hz, params=FollowParams(), pairs=pairs)
    return sum(is_as_written(row, lined, segments, jig, a4_hz=a4_hz) for row in lined.notes)


def _gaps(notes: Sequence[LinedNote], segments: Sequence[Segment], jig: Jig) -> list[_Gap]:
    """Where written notes are missing; only between neighbours that go forward."""
    rows = [n for n in notes if n.segments and n.i_event is not None]
    gaps = []
    for row, after in zip_longest(rows, rows[1:]):
        assert row.i_event is not None
        first, last = segments[row.segments[0]], segments[row.segments[-1]]
        if after is None:
            end, stop_s = len(jig.events), last.offset_s
        else:
            assert after.i_event is not None
            end, stop_s = after.i_event, segments[after.segments[0]].onset_s
        events = tuple(range(row.i_event + 1, end))
        if events:
            gaps.append(
                _Gap(events=events, start_s=first.onset_s, stop_s=stop_s, i_before=row.i_event)
            )
    return gaps


def _fitting(
    gap: _Gap, found: Sequence[Segment], jig: Jig, a4_hz: float, offset_cents: float
) -> list[Segment]:
    """Doubtful notes of a gap that fit its written ones, in order (least cost)."""
    m, n = len(gap.events), len(found)
    if not n:
        return []
    cost = np.full((m, n), np.inf)
    starts = float(jig.events[gap.i_before].onset_beats)
    last = jig.events[gap.events[-1]]
    beats = float(last.end_beats) - starts
    timed = says_lengths(jig)
    pace = (gap.stop_s - gap.start_s) / max(beats, 1e-6)
    for i, e in enumerate(gap.events):
        event = jig.events[e]
        at_s = gap.start_s + (float(event.onset_beats) - starts) * pace
        length_s = max(0.05, float(event.length_beats) * pace)
        for j, d in enumerate(found):
            away = abs(d.onset_s - at_s) / length_s
            cents = hz_to_cents(d.f0_hz, a4_hz) - offset_cents
            off = abs(cents - cents_from_a4(event.heads[0].pitch))
            alike = (d.i_pair >= 0) == (len(event.heads) > 1)
            if alike and off < NEAR_CENTS and away < _AWAY:
                cost[i, j] = 0.5 * away + 0.3 * off / NEAR_CENTS + doubt_cost(d, says_lengths=timed)
    total = np.full((m + 1, n + 1), np.inf)
    total[0, :] = 0.0
    back = np.zeros((m + 1, n + 1), dtype=np.intp)
    for i in range(1, m + 1):
        for j in range(n + 1):
            ways = [total[i - 1, j] + _MISS]
            if j:
                ways += [total[i - 1, j - 1] + cost[i - 1, j - 1], total[i, j - 1]]
            back[i, j] = int(np.argmin(ways))
            total[i, j] = ways[int(back[i, j])]
    chosen: list[Segment] = []
    i, j = m, n
    while i and j:
        if back[i, j] == 1:
            chosen.append(found[j - 1])
            i, j = i - 1, j - 1
        elif back[i, j] == 2:
            j -= 1
        else:
            i -= 1
    return chosen


def _split(
    segments: Sequence[Segment], chosen: Sequence[Segment]
) -> tuple[tuple[Segment, ...], dict[int, int]]:
    """End the notes in which others begin, and put those in."""
    result: list[tuple[Segment, int]] = []
    for i, s in enumerate(segments):
        cuts = [d for d in chosen if s.onset_s < d.onset_s < s.offset_s]
        if not cuts:
            result.append((s, i))
            continue
        first_s = cuts[0].onset_s
        core_s = max(s.core_start_s, min(s.core_end_s, first_s))
        result.append((replace(s, offset_s=first_s, core_end_s=max(core_s, s.onset_s)), i))
        for d, after in zip(cuts, [*cuts[1:], None], strict=True):
            stop_s = s.offset_s if after is None else after.onset_s
            result.append((replace(d, offset_s=stop_s, doubtful=True), -1))
    apart = [d for d in chosen if not any(s.onset_s < d.onset_s < s.offset_s for s in segments)]
    result += [(d, -1) for d in apart]
    result.sort(key=lambda pair: pair[0].onset_s)
    at = {i: k for k, (_, i) in enumerate(result) if i >= 0}
    return tuple(s for s, _ in result), at
