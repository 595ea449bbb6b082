"""Runs that fit badly, matched anew with everything that may have begun in them.

Where fast notes sound into each other, one segment stands for several, and the walk over the jig
takes the next for another. Between two notes that are surely where they are written the notes
between are known, and so is their time: every written one is given the beginning – sure or
doubtful – that lies nearest to its place and its pitch, in order, or none (least cost). What was
surely heard and is none of them stays as it was, unless those that were found take up its time.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.as_written import is_as_written
from jigwright.core.follow.doubt_cost import doubt_cost
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.reconsider import Fitting, Kept, fit_of, told
from jigwright.core.follow.values import LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, says_lengths
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Floats, median

_NEAR_CENTS = 65.0
_AWAY = 0.7  # of the written length a beginning may lie from its place
_MISS, _AWAY_COST, _OFF_COST = 1.0, 0.5, 0.3
_FAR, _FAR_COST = 3.0, 0.15
_LEAST_S = 0.03
_APART = 0.4  # of the length of the note before, from one beginning to the next
_PACE = (0.55, 1.8)  # of the usual one: else notes were left out, or somebody stopped
_LOOSE_PACE = (0.3, 4.0)
_PER_POOR = 2  # more notes found for one that fits worse
_TAKEN_UP = 0.6
_MOST_WORK = 4_000_000  # segments times events of all trials
_LONGEST_EVENTS = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone:
    """Written notes between two that are sure.

    Parameters
    ----------
    events : tuple of int
    start_s, stop_s : float
        Onsets of the sure ones.
    at_s, lengths_s : tuple of float
        Where each should begin, and how long it is, at the pace between them.
    """

    events: tuple[int, ...]
    start_s: float
    stop_s: float
    at_s: tuple[float, ...]
    lengths_s: tuple[float, ...]


def with_runs(
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
    kept: Kept = [(s, i) for i, s in enumerate(segments)]
    if not doubtful:
        return told(kept)
    params = FollowParams()
    lined = line_up(segments, jig, a4_hz=a4_hz, params=params, pairs=pairs)
    fit = fit_of(lined, segments, jig, a4_hz=a4_hz)
    good = _good(lined, segments, jig, fit, a4_hz)
    n_found = _n_found(lined, segments, jig, fit, a4_hz)
    work = _MOST_WORK
    for strict in (True, False):
        for zone in zones_of(good, jig, strict=strict):
            trial = _matched(zone, kept, doubtful, jig, a4_hz, lined.offset_cents)
            work -= len(kept) * len(jig.events)
            if trial is None or work < 0:
                continue
            parts = [s for s, _ in trial]
            again = line_up(parts, jig, a4_hz=a4_hz, params=params, pairs=pairs)
            better = fit_of(again, parts, jig, a4_hz=a4_hz)
            found = _n_found(again, parts, jig, better, a4_hz)
            if found - n_found > _PER_POOR * max(0, len(better.poor) - len(fit.poor)):
                kept, fit, n_found = trial, better, found
                good = _good(again, parts, jig, better, a4_hz)
    return told(kept)


def zones_of(good: Sequence[tuple[int, float]], jig: Jig, *, strict: bool) -> tuple[Zone, ...]:
    """Where written notes between two sure ones, or after the last, are missing or fit poorly.

    Parameters
    ----------
    good : sequence of (int, float)
        Event and onset in seconds of every note that fits, in time order.
    jig : Jig
    strict : bool
        Only a note next to which another fits is sure; else every one.
    """
    written = WrittenTime(jig)
    starts = [written.at(e.onset_beats) for e in jig.events]
    lengths = written.lengths()
    paces = [
        (b_s - a_s) / (starts[b] - starts[a])
        for (a, a_s), (b, b_s) in zip(good, good[1:], strict=False)
        if b == a + 1
    ]
    if not paces:
        return ()
    usual = median(np.array(paces))
    sure = [
        (i, t)
        for k, (i, t) in enumerate(good)
        if not strict
        or (k and good[k - 1][0] == i - 1)
        or (k + 1 < len(good) and good[k + 1][0] == i + 1)
    ]
    slowest, fastest = _PACE if says_lengths(jig) else _LOOSE_PACE

    def zone(a: int, a_s: float, stop: int, stop_s: float, pace: float) -> Zone:
        inside = range(a + 1, stop)
        return Zone(
            events=tuple(inside), start_s=a_s, stop_s=stop_s,
            at_s=tuple(a_s + (starts[e] - starts[a]) * pace for e in inside),
            lengths_s=tuple(lengths[e] * pace for e in inside),
        )  # fmt: skip

    zones = []
    for (a, a_s), (b, b_s) in [*zip(sure, sure[1:], strict=False), *_wider(sure, jig)]:
        if not 1 < b - a <= _LONGEST_EVENTS + 1 or b_s <= a_s:
            continue
        pace = (b_s - a_s) / (starts[b] - starts[a])
        if slowest * usual <= pace <= fastest * usual:
            zones.append(zone(a, a_s, b, b_s, pace))
    if sure and sure[-1][0] + 1 < len(starts):  # what follows the last one
        a, a_s = sure[-1]
        stop = min(len(starts), a + 1 + _LONGEST_EVENTS)
        ends = starts[stop - 1] + 2.0 * lengths[stop - 1]
        zones.append(zone(a, a_s, stop, a_s + (ends - starts[a]) * usual, usual))
    return tuple(zones)


def _wider(
    sure: Sequence[tuple[int, float]], jig: Jig
) -> list[tuple[tuple[int, float], tuple[int, float]]]:
    """Where a note beside missing ones has the pitch of one of them, it may be that one."""
    notes = [tuple(h.pitch.midi for h in e.heads) for e in jig.events]
    found = []
    for k in range(1, len(sure)):
        a, b = sure[k - 1][0], sure[k][0]
        missing = {notes[e] for e in range(a + 1, b)}
        if notes[b] in missing and k + 1 < len(sure):
            found.append((sure[k - 1], sure[k + 1]))
        if notes[a] in missing and k > 1:
            found.append((sure[k - 2], sure[k]))
    return found


def _good(
    lined: LinedUp, segments: Sequence[Segment], jig: Jig, fit: Fitting, a4_hz: float
) -> list[tuple[int, float]]:
    """Event and onset of every note that fits, a stop for a stop."""
    poor = set(fit.poor)
    return [
        (row.i_event, segments[row.segments[0]].onset_s)
        for k, row in enumerate(lined.notes)
        if row.i_event is not None and row.state in ("played", "retry") and k not in poor
        if is_as_written(row, lined, segments, jig, a4_hz=a4_hz)
    ]


def _n_found(
    lined: LinedUp, segments: Sequence[Segment], jig: Jig, fit: Fitting, a4_hz: float
) -> int:
    """How many written notes were found, each once."""
    return len({event for event, _ in _good(lined, segments, jig, fit, a4_hz)})


def _matched(
    zone: Zone, kept: Kept, doubtful: Sequence[Segment], jig: Jig, a4_hz: float, offset: float
) -> Kept | None:
    """The segments with the beginnings that suit the zone's notes best."""
    apart_s = _APART * np.array([zone.at_s[0] - zone.start_s, *zone.lengths_s[:-1]])
    first_s, last_s = float(apart_s[0]), _APART * zone.lengths_s[-1]
    if not says_lengths(jig):
        first_s = last_s = 0.0
    lo_s, hi_s = zone.start_s + max(_LEAST_S, first_s), zone.stop_s - max(_LEAST_S, last_s)
    found: Kept = [pair for pair in kept if lo_s < pair[0].onset_s < hi_s]
    found += [(d, -1) for d in doubtful if lo_s < d.onset_s < hi_s]
    found.sort(key=lambda pair: pair[0].onset_s)
    chosen = least_cost(
        _costs(zone, [s for s, _ in found], jig, a4_hz, offset),
        np.array([s.onset_s for s, _ in found]),
        apart_s,
    )
    if not any(found[k][1] < 0 for k in chosen):
        return None
    mine = [found[k] for k in chosen]
    return _put_in(kept, mine, zone.stop_s)


def _costs(zone: Zone, found: Sequence[Segment], jig: Jig, a4_hz: float, offset: float) -> Floats:
    """What it costs to take each beginning for each written note; infinite: it is not that."""
    cost = np.full((len(zone.events), len(found)), np.inf)
    timed = says_lengths(jig)
    reach, weight = (_AWAY, _AWAY_COST) if timed else (_FAR, _FAR_COST)
    for i, e in enumerate(zone.events):
        heads = jig.events[e].heads
        for j, s in enumerate(found):
            away = abs(s.onset_s - zone.at_s[i]) / max(zone.lengths_s[i], _LEAST_S)
            off = abs(hz_to_cents(s.f0_hz, a4_hz) - offset - cents_from_a4(heads[0].pitch))
            alike = (s.i_pair >= 0) == (len(heads) > 1)
            if alike and off < _NEAR_CENTS and away < reach:
                doubt = doubt_cost(s, says_lengths=timed)
                cost[i, j] = weight * away + _OFF_COST * off / _NEAR_CENTS + doubt
    return cost


def least_cost(cost: Floats, at_s: Floats, apart_s: Floats) -> list[int]:
    """Columns of the cheapest way to give rows columns in order.

    Parameters
    ----------
    cost : ndarray, shape (rows, columns)
        Infinite: the row is not that column. A row without one costs `_MISS`.
    at_s : ndarray, shape (columns,)
        Where each begins, ascending.
    apart_s : ndarray, shape (rows,)
        How long after the one before a row's column must begin.
    """
    m, n = cost.shape
    total = np.full((m, n), np.inf)
    back = np.full((m, n, 2), -1)
    ends = np.full(n, np.inf)  # cheapest way whose last column it is, with the misses since
    ends_row = np.full(n, -1)
    for i in range(m):
        least = np.minimum.accumulate(ends)
        for j in (int(k) for k in np.flatnonzero(np.isfinite(cost[i]))):
            total[i, j] = _MISS * i + cost[i, j]
            last = min(j, int(np.searchsorted(at_s, at_s[j] - apart_s[i], side="right")))
            if last and least[last - 1] + cost[i, j] < total[i, j]:
                q = int(np.argmin(ends[:last]))
                total[i, j] = ends[q] + cost[i, j]
                back[i, j] = ends_row[q], q
        ends = ends + _MISS
        better = total[i] < ends
        ends[better], ends_row[better] = total[i][better], i
    if not np.isfinite(ends).any():
        return []
    column = int(np.argmin(ends))
    row = int(ends_row[column])
    chosen: list[int] = []
    while column >= 0:
        chosen.append(column)
        row, column = (int(v) for v in back[row, column])
    return chosen[::-1]


def _put_in(kept: Kept, chosen: Sequence[tuple[Segment, int]], stop_s: float) -> Kept:
    """End each chosen one where the next begins, and leave out what they take up."""
    spans = []
    for (s, i), after in zip(chosen, [*chosen[1:], None], strict=True):
        until = stop_s if after is None else after[0].onset_s
        end_s = min(s.offset_s, until)
        core_s = min(s.core_start_s, end_s)
        whole = replace(
            s, offset_s=end_s, core_start_s=core_s, core_end_s=max(core_s, min(s.core_end_s, end_s))
        )
        spans.append((whole, i))
    known = {i for _, i in spans if i >= 0}
    result: Kept = list(spans)
    for s, i in kept:
        if i in known:
            continue
        cuts = [q for q, _ in spans if s.onset_s < q.offset_s and q.onset_s < s.offset_s]
        taken = sum(min(s.offset_s, q.offset_s) - max(s.onset_s, q.onset_s) for q in cuts)
        inside = [q.onset_s for q in cuts if q.onset_s > s.onset_s + _LEAST_S]
        if cuts and inside and len(inside) == len(cuts):
            end_s = min(inside)
            core_s = min(s.core_start_s, end_s)
            s = replace(
                s, offset_s=end_s, core_start_s=core_s,
                core_end_s=max(core_s, min(s.core_end_s, end_s)),
            )  # fmt: skip
        elif taken > _TAKEN_UP * (s.offset_s - s.onset_s):
            continue
        result.append((s, i))
    return sorted(result, key=lambda pair: pair[0].onset_s)
