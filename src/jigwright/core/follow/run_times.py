"""Which beginnings are the notes of a run, by their time alone.

Least cost over pace, note and beginning: distances from beginning to beginning are held against
what is written, a note may have none, and a beginning may be none. The pace is that of the run
itself, searched beside the usual one (after the beat trackers that search period and phase
together, Ellis 2007).
"""

from __future__ import annotations

from collections import OrderedDict

import numpy as np

from jigwright.core.values import Floats

_MISS, _UNUSED_COST = 1.0, 1.5
_MISS_FIRST = 1.25  # who plays fewer left out later ones, or let them hide behind
_SPREAD, _SPREAD_S = 0.3, 0.015  # of what is written from one to the next, and in any case
_LONG_STEP = 2.0  # usual ones: a rest is not counted out that freely
_END_COST, _MOST_END_COST = 0.1, 1.0
_PACES = 2.0 ** (np.arange(-6, 7) / 8.0)  # times the usual one
_PACE_COST = 0.5  # an octave of pace
_MOST_MISSING = 4  # between two that are found
_REACH = 16  # beginnings from one that is a note to the next
_AGREE = 0.33
_MOST_KNOWN = 64
# a take is lined up many times while it is decided, its runs are the same ones
_KNOWN: OrderedDict[tuple[bytes, bytes, bytes, float | None], tuple[tuple[int, int], ...]] = (
    OrderedDict()
)


def in_time(
    at_s: Floats, cost: Floats, due_s: Floats, usual: float | None
) -> list[tuple[int, int]]:
    """Which beginnings are the notes of a run, at the pace that suits them best.

    Parameters
    ----------
    at_s : ndarray, shape (n + 1,)
        Beginnings, ascending, and where the sound ends, s.
    cost : ndarray, shape (n,)
        Of taking each for one; 0 where it surely is one (:mod:`doubt_cost`).
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
    key = (at_s.tobytes(), cost.tobytes(), due_s.tobytes(), usual)
    found = _KNOWN.get(key)
    if found is None:
        found = _KNOWN[key] = _in_time(at_s, cost, due_s, usual)
        while len(_KNOWN) > _MOST_KNOWN:
            _KNOWN.popitem(last=False)
    return list(found)


def agree(at_s: Floats, due_s: Floats) -> bool:
    """Whether beginnings lie about where these notes are due: each distance within a third.

    Parameters
    ----------
    at_s, due_s : ndarray, shape (n,)
        Beginnings, and where the notes they are taken for are due, s.
    """
    steps, due = np.diff(at_s), np.diff(due_s)
    return bool(np.all(np.abs(steps - due) < _AGREE * due + _SPREAD_S))


def _in_time(
    at_s: Floats, cost: Floats, due_s: Floats, usual: float | None
) -> tuple[tuple[int, int], ...]:
    whole = (at_s[-1] - at_s[0]) / max(1e-6, float(due_s[-1] - due_s[0]))
    likely = whole if usual is None else usual
    paces = np.unique(np.concatenate([likely * _PACES, whole * _PACES]))
    due = paces[:, None] * due_s[None, :]
    stop_s, end_s = at_s[-1], due[:, -1]
    at_s, due = at_s[:-1], due[:, :-1]
    n, m = len(at_s), due.shape[1]
    # what it costs to pass over every beginning before one
    passed = np.concatenate([[0.0], np.cumsum(np.where(cost > 0.0, 0.0, _UNUSED_COST))])
    before = np.arange(n)[None, :] - np.arange(1, min(_REACH, n) + 1)[:, None]
    from_ = np.maximum(before, 0)
    apart_s = at_s[None, :] - at_s[from_]
    between = np.where(before < 0, np.inf, passed[None, :-1] - passed[from_ + 1])
    longest_s = _LONG_STEP * paces * float(np.median(np.diff(due_s[:-1]))) if m > 1 else paces
    total = np.full((len(paces), m, n), np.inf)
    back = np.full((len(paces), m, n, 2), -1, dtype=np.intp)
    for e in range(m):
        total[:, e] = _MISS_FIRST * e + passed[:-1] + cost
        for gap in range(1, min(e, _MOST_MISSING + 1) + 1):
            steps = due[:, e] - due[:, e - gap]
            spread = _SPREAD * np.minimum(steps / gap, longest_s) + _SPREAD_S
            off = (apart_s[None] - steps[:, None, None]) / spread[:, None, None]
            ways = total[:, e - gap][:, from_] + _huber(off) + between[None] + _MISS * (gap - 1)
            via = np.argmin(ways, axis=1)
            least = np.take_along_axis(ways, via[:, None, :], axis=1)[:, 0] + cost
            better = least < total[:, e]
            total[:, e][better] = least[better]
            back[:, e, :, 0][better] = e - gap
            back[:, e, :, 1][better] = (
                np.broadcast_to(np.arange(n), via.shape)[better] - via[better] - 1
            )
    # the last may ring on or be cut off: its end says little
    lasts = end_s[:, None] - due
    off = ((stop_s - at_s)[None, None, :] - lasts[:, :, None]) / (_SPREAD * lasts + _SPREAD_S)[
        :, :, None
    ]
    ends = total + np.minimum(_END_COST * _huber(off), _MOST_END_COST)
    ends += _MISS * (m - 1 - np.arange(m))[None, :, None] + (passed[-1] - passed[1:])[None, None, :]
    ends += _PACE_COST * np.abs(np.log2(paces / likely))[:, None, None]
    p, e, c = (int(v) for v in np.unravel_index(int(np.argmin(ends)), ends.shape))
    chosen: list[tuple[int, int]] = []
    while c >= 0:
        chosen.append((e, c))
        e, c = (int(v) for v in back[p, e, c])
    return tuple(chosen[::-1])


def _huber(off: Floats) -> Floats:
    """Square near nought, straight beyond: who plays freely is far off once (Huber 1964)."""
    far = np.abs(off)
    return np.asarray(np.where(far < 1.0, far**2, 2.0 * far - 1.0))
