"""One pitch written several times: which pieces of sound are which of its notes.

A bow that lets go, shakes or scratches cuts a long note in pieces. Where the next note has the same
pitch the walk over pitches cannot tell to which of them a piece belongs; the written lengths can.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.follow.run_times import agree, in_time
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import says_lengths
from jigwright.core.sound.heard import Segment
from jigwright.core.values import Floats

_MOST_GAP_S = 0.35
_SHORTEST, _LONGEST, _CUT_OFF = 0.6, 1.5, 0.3  # of the length expected
_MOST_PIECES = 200
_SAME_CENTS = 60.0
_WHOLE_SHARE = 0.85
_JOIN_COST = 0.004  # a decibel of attack inside a note


def share_runs(
    path: Sequence[int], segments: Sequence[Segment], jig: Jig, expected_s: Floats
) -> tuple[list[int], set[int]]:
    """Share the pieces of a run of equal notes among them, by their lengths.

    Parameters
    ----------
    path : sequence of int
        Event of each segment, -1 for none.
    segments : sequence of Segment
    jig : Jig
    expected_s : ndarray
        Length of each event at the pace of the take.

    Returns
    -------
    (list of int, set of int)
        The path, and the segments that go on with the note of the segment before.
    """
    path = list(path)
    parts: set[int] = set()
    for first, last in runs_of(jig):
        found = [i for i, j in enumerate(path) if first <= j <= last]
        n_events = last - first + 1
        if not found:
            continue
        at = list(range(found[0], found[-1] + 1))
        usual_hz = float(np.median([segments[i].f0_hz for i in found]))
        if any(path[i] >= 0 and i not in found for i in at) or not all(
            _is_near(segments[i], usual_hz) for i in at
        ):
            continue
        if not n_events < len(at) <= _MOST_PIECES:
            continue
        open_ends = (first == 0, last == len(jig.events) - 1)
        pieces = [segments[i] for i in at]
        shared = _shared(pieces, _whole_s(pieces, expected_s[first : last + 1]), open_ends)
        if shared is None:
            continue
        for k, i in enumerate(at):
            path[i] = first + shared[k]
            if k and shared[k] == shared[k - 1]:
                parts.add(i)
    return path, parts


def place_in_runs(
    path: Sequence[int], segments: Sequence[Segment], jig: Jig, expected_s: Floats,
    starts_s: Floats,
) -> list[int]:  # fmt: skip
    """Say which of several equal notes were found where fewer were found than are written.

    The walk over pitches leaves out any of them alike. One that lasts until twice its length has
    passed hides the one after it, not the one before.

    Parameters
    ----------
    path : sequence of int
        Event of each segment, -1 for none.
    segments : sequence of Segment
    jig : Jig
    expected_s : ndarray
        Length of each event at the pace of the take.
    starts_s : ndarray
        Where each begins, at the same pace.
    """
    path, usual = list(path), 1.0 if says_lengths(jig) else None
    for first, last in runs_of(jig):
        found = [i for i, j in enumerate(path) if first <= j <= last]
        events = [path[i] for i in found]
        rising = all(b > a for a, b in zip(events, events[1:], strict=False))
        if not found or not rising or len(found) == last - first + 1:
            continue
        after = next((i for i in range(found[-1] + 1, len(path)) if path[i] >= 0), None)
        end_s = segments[found[-1]].offset_s if after is None else segments[after].onset_s
        at_s = np.array([*(segments[i].onset_s for i in found), end_s])
        due_s = np.array([*starts_s[first : last + 1], starts_s[last] + expected_s[last]])
        if after is None:
            as_walked = len(found) > 1 and agree(at_s[:-1], starts_s[events])
        else:
            as_walked = path[after] > last and agree(at_s, starts_s[[*events, path[after]]])
        if as_walked and usual is not None:
            continue
        chosen = in_time(at_s, np.zeros(len(found)), due_s, usual)
        if len(chosen) == len(found):
            for k, c in chosen:
                path[found[c]] = first + k
    return path


def runs_of(jig: Jig) -> list[tuple[int, int]]:
    """First and last event of every run of equal notes."""
    notes = [tuple(h.pitch.midi for h in e.heads) for e in jig.events]
    runs, start = [], 0
    for i in range(1, len(notes) + 1):
        if i == len(notes) or notes[i] != notes[start]:
            if i - start > 1:
                runs.append((start, i - 1))
            start = i
    return runs


def _whole_s(pieces: Sequence[Segment], expected_s: Floats) -> Floats:
    """Lengths at the pace of the notes that stayed whole: pieces make a take look hurried."""
    long_s = float(np.quantile([p.offset_s - p.onset_s for p in pieces], _WHOLE_SHARE))
    return np.asarray(expected_s * max(1.0, long_s / float(np.median(expected_s))))


def _shared(
    pieces: Sequence[Segment], expected_s: Floats, open_ends: tuple[bool, bool]
) -> list[int] | None:
    """Which note each piece belongs to; ``None`` where no sharing gives plausible lengths.

    The first note of a take may have begun before it, the last may have been broken off.
    """
    n, m = len(pieces), len(expected_s)
    shortest = [_SHORTEST] * m
    if open_ends[0]:
        shortest[0] = _CUT_OFF
    if open_ends[1]:
        shortest[-1] = _CUT_OFF
    # best[k][i]: cost of the first i pieces as the first k notes
    best = np.full((m + 1, n + 1), np.inf)
    begins = np.zeros((m + 1, n + 1), dtype=np.intp)
    best[0, 0] = 0.0
    for k in range(1, m + 1):
        for i in range(k, n + 1):
            for first in range(i - 1, k - 2, -1):
                if first < i - 1 and not _goes_on(pieces[first], pieces[first + 1]):
                    break
                ratio = (pieces[i - 1].offset_s - pieces[first].onset_s) / expected_s[k - 1]
                if ratio > _LONGEST:
                    break
                if ratio < shortest[k - 1]:
                    continue
                joins = _JOIN_COST * sum(max(0.0, p.attack_db) for p in pieces[first + 1 : i])
                cost = best[k - 1, first] + (ratio - 1.0) ** 2 + joins
                if cost < best[k, i]:
                    best[k, i], begins[k, i] = cost, first
    if not np.isfinite(best[m, n]):
        return None
    shared = [0] * n
    end = n
    for k in range(m, 0, -1):
        first = int(begins[k, end])
        shared[first:end] = [k - 1] * (end - first)
        end = first
    return shared


def _is_near(segment: Segment, f0_hz: float) -> bool:
    return abs(1200.0 * float(np.log2(segment.f0_hz / f0_hz))) < _SAME_CENTS


def _goes_on(before: Segment, after: Segment) -> bool:
    return after.onset_s - before.offset_s < _MOST_GAP_S
