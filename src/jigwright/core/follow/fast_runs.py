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
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.reconsider import Fitting, fit_of
from jigwright.core.follow.values import LinedUp
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Floats, median

_NEAR_CENTS = 65.0
_AWAY = 0.7  # of the written length a beginning may lie from its place
_MISS, _AWAY_COST, _OFF_COST, _DOUBT_COST = 1.0, 0.5, 0.3, 0.1
_LEAST_S = 0.03
_PACE = (0.55, 1.8)  # of the usual one: else notes were left out, or somebody stopped
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
    kept: _Kept = [(s, i) for i, s in enumerate(segments)]
    if not doubtful:
        return _told(kept)
    params = FollowParams()
    lined = line_up(segments, jig, a4_hz=a4_hz, params=params, pairs=pairs)
    fit = fit_of(lined, segments, jig, a4_hz=a4_hz)
    work = _MOST_WORK
    for zone in zones_of(lined, segments, jig, fit):
        trial = _matched(zone, kept, doubtful, jig, a4_hz, lined.offset_cents)
        work -= len(kept) * len(jig.events)
        if trial is None or work < 0:
            continue
        parts = [s for s, _ in trial]
        again = line_up(parts, jig, a4_hz=a4_hz, params=params, pairs=pairs)
        better = fit_of(again, parts, jig, a4_hz=a4_hz)
        if better.n_fit > fit.n_fit and len(better.poor) <= len(fit.poor):
            kept, fit = trial, better
    return _told(kept)


_Kept = list[tuple[Segment, int]]


def _told(kept: _Kept) -> tuple[tuple[Segment, ...], dict[int, int]]:
    at = {i: k for k, (_, i) in enumerate(kept) if i >= 0}
    return tuple(s for s, _ in kept), at


def zones_of(
    lined: LinedUp, segments: Sequence[Segment], jig: Jig, fit: Fitting
) -> tuple[Zone, ...]:
    """Where written notes between two sure ones are missing or matched poorly.

    A note is sure that fits, and next to which another fits.

    Parameters
    ----------
    lined : LinedUp
    segments : sequence of Segment
    jig : Jig
    fit : Fitting
    """
    poor = set(fit.poor)
    good = [
        (row.i_event, segments[row.segments[0]].onset_s)
        for k, row in enumerate(lined.notes)
        if row.segments and row.i_event is not None and row.state == "played" and k not in poor
    ]
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
        if (k and good[k - 1][0] == i - 1) or (k + 1 < len(good) and good[k + 1][0] == i + 1)
    ]
    zones = []
    for (a, a_s), (b, b_s) in zip(sure, sure[1:], strict=False):
        if not 1 < b - a <= _LONGEST_EVENTS or b_s <= a_s:
            continue
        pace = (b_s - a_s) / (starts[b] - starts[a])
        if not _PACE[0] * usual <= pace <= _PACE[1] * usual:
            continue
        inside = range(a + 1, b)
        zones.append(
            Zone(
                events=tuple(inside), start_s=a_s, stop_s=b_s,
                at_s=tuple(a_s + (starts[e] - starts[a]) * pace for e in inside),
                lengths_s=tuple(lengths[e] * pace for e in inside),
            )  # fmt: skip
        )
    return tuple(zones)


def _matched(
    zone: Zone, kept: _Kept, doubtful: Sequence[Segment], jig: Jig, a4_hz: float, offset: float
) -> _Kept | None:
    """The segments with the beginnings that suit the zone's notes best."""
    lo_s, hi_s = zone.start_s + _LEAST_S, zone.stop_s - _LEAST_S
    found: _Kept = [pair for pair in kept if lo_s < pair[0].onset_s < hi_s]
    found += [(d, -1) for d in doubtful if lo_s < d.onset_s < hi_s]
    found.sort(key=lambda pair: pair[0].onset_s)
    chosen = _least(_costs(zone, [s for s, _ in found], jig, a4_hz, offset))
    if not any(found[k][1] < 0 for k in chosen):
        return None
    mine = [found[k] for k in chosen]
    return _put_in(kept, mine, zone.stop_s)


def _costs(
    zone: Zone, found: Sequence[Segment], jig: Jig, a4_hz: float, offset: float
) -> Floats:
    """What it costs to take each beginning for each written note; infinite: it is not that."""
    cost = np.full((len(zone.events), len(found)), np.inf)
    for i, e in enumerate(zone.events):
        heads = jig.events[e].heads
        for j, s in enumerate(found):
            away = abs(s.onset_s - zone.at_s[i]) / max(zone.lengths_s[i], _LEAST_S)
            off = abs(hz_to_cents(s.f0_hz, a4_hz) - offset - cents_from_a4(heads[0].pitch))
            alike = (s.i_pair >= 0) == (len(heads) > 1)
            if alike and off < _NEAR_CENTS and away < _AWAY:
                cost[i, j] = (
                    _AWAY_COST * away + _OFF_COST * off / _NEAR_CENTS + _DOUBT_COST * s.doubtful
                )
    return cost


def _least(cost: Floats) -> list[int]:
    """Columns of the cheapest way to give rows columns in order, a row without one at `_MISS`."""
    m, n = cost.shape
    total = np.zeros((m + 1, n + 1))
    total[1:, 0] = _MISS * np.arange(1, m + 1)
    back = np.zeros((m + 1, n + 1), dtype=np.intp)
    for i in range(1, m + 1):
        for j in range(1, n + 1):
            ways = (
                total[i - 1, j] + _MISS,
                total[i - 1, j - 1] + cost[i - 1, j - 1],
                total[i, j - 1],
            )
            back[i, j] = int(np.argmin(ways))
            total[i, j] = ways[int(back[i, j])]
    chosen = []
    i, j = m, n
    while i and j:
        if back[i, j] == 1:
            chosen.append(j - 1)
            i, j = i - 1, j - 1
        elif back[i, j] == 2:
            j -= 1
        else:
            i -= 1
    return chosen[::-1]


def _put_in(kept: _Kept, chosen: Sequence[tuple[Segment, int]], stop_s: float) -> _Kept:
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
    result: _Kept = list(spans)
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
