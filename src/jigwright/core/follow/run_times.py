"""Which beginnings are the notes of a run, by their time alone.

Least cost over pace, note and beginning: distances from beginning to beginning are held against
what is written, a note may have none, and a beginning may be none. The pace is that of the run
itself, searched beside the usual one (after the beat trackers that search period and phase
together, Ellis 2007).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

_MISS, _DOUBT_COST, _UNUSED_COST = 1.0, 0.1, 1.5
_MISS_FIRST = 1.25  # who plays fewer left out later ones, or let them hide behind
_SPREAD, _SPREAD_S = 0.3, 0.015  # of what is written from one to the next, and in any case
_LONG_STEP = 2.0  # usual ones: a rest is not counted out that freely
_END_COST, _MOST_END_COST = 0.1, 1.0
_PACES = 2.0 ** (np.arange(-12, 13) / 16.0)  # times the usual one
_PACE_COST = 0.5  # an octave of pace
_MOST_MISSING = 4  # between two that are found


def in_time(
    at_s: Floats, doubtful: NDArray[np.bool_], due_s: Floats, usual: float | None
) -> list[tuple[int, int]]:
    """Which beginnings are the notes of a run, at the pace that suits them best.

    Parameters
    ----------
    at_s : ndarray, shape (n + 1,)
        Beginnings, ascending, and where the sound ends, s.
    doubtful : ndarray of bool, shape (n,)
        Which of them may be none.
    due_s : ndarray, shape (m + 1,)
        Where the notes begin as written, and where the last ends, s.
    usual : float or None
        Seconds played for a written one elsewhere, if that is known. It is tried, and what the
        length of the whole run says; both with up to three quarters of an octave beside them. The
        further from it, the dearer.

    Returns
    -------
    list of (int, int)
        Note and beginning, in order, for each note that has one.
    """
    whole = (at_s[-1] - at_s[0]) / max(1e-6, float(due_s[-1] - due_s[0]))
    best_cost, best = np.inf, list[tuple[int, int]]()
    likely = whole if usual is None else usual
    for pace in dict.fromkeys((likely, whole)):
        for share in _PACES:
            cost, chosen = _matched(at_s, doubtful, pace * share * due_s)
            cost += _PACE_COST * abs(float(np.log2(pace * share / likely)))
            if cost < best_cost:
                best_cost, best = cost, chosen
    return best


def _matched(
    at_s: Floats, doubtful: NDArray[np.bool_], due_s: Floats
) -> tuple[float, list[tuple[int, int]]]:
    stop_s, end_s = at_s[-1], due_s[-1]
    at_s, due_s = at_s[:-1], due_s[:-1]
    n, m = len(at_s), len(due_s)
    # what it costs to pass over every beginning before one
    passed = np.concatenate([[0.0], np.cumsum(np.where(doubtful, 0.0, _UNUSED_COST))])
    own = np.where(doubtful, _DOUBT_COST, 0.0)
    apart_s = at_s[None, :] - at_s[:, None]
    between = passed[None, :-1] - passed[1:, None]  # beginnings left out from one to the next
    longest_s = _LONG_STEP * float(np.median(np.diff(due_s))) if m > 1 else np.inf
    later = np.arange(n)[None, :] > np.arange(n)[:, None]
    total = np.full((m, n), np.inf)
    back = np.full((m, n, 2), -1, dtype=np.intp)
    for e in range(m):
        total[e] = _MISS_FIRST * e + passed[:-1] + own
        for gap in range(1, min(e, _MOST_MISSING + 1) + 1):
            due = due_s[e] - due_s[e - gap]
            off = (apart_s - due) / (_SPREAD * min(due / gap, longest_s) + _SPREAD_S)
            ways = np.where(
                later, total[e - gap][:, None] + _huber(off) + between + _MISS * (gap - 1), np.inf
            )
            via = np.argmin(ways, axis=0)
            cost = ways[via, np.arange(n)] + own
            better = cost < total[e]
            total[e][better] = cost[better]
            back[e][better] = np.stack([np.full(n, e - gap), via], axis=1)[better]
    # the last may ring on or be cut off: its end says little
    lasts = end_s - due_s
    off = ((stop_s - at_s)[None, :] - lasts[:, None]) / (_SPREAD * lasts + _SPREAD_S)[:, None]
    ends = total + np.minimum(_END_COST * _huber(off), _MOST_END_COST)
    ends += _MISS * (m - 1 - np.arange(m))[:, None] + (passed[-1] - passed[1:])[None, :]
    e, c = (int(v) for v in np.unravel_index(int(np.argmin(ends)), ends.shape))
    cost = float(ends[e, c])
    chosen: list[tuple[int, int]] = []
    while c >= 0:
        chosen.append((e, c))
        e, c = (int(v) for v in back[e, c])
    return cost, chosen[::-1]


def _huber(off: Floats) -> Floats:
    """Square near nought, straight beyond: who plays freely is far off once (Huber 1964)."""
    far = np.abs(off)
    return np.asarray(np.where(far < 1.0, far**2, 2.0 * far - 1.0))
