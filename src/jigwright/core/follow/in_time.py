"""Whether a written note that was not found may have been played all the same.

Who leaves a note out comes to the next one sooner; who plays it takes its time. Where something
sounded for as long as the notes written there take, it cannot be said that one was missed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from jigwright.core.follow.scraps import main_piece
from jigwright.core.follow.values import LinedNote, NoteState
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Segment
from jigwright.core.values import Floats

_HIDES = 0.6  # of a note's length must be left over for it
_SILENT_S, _SILENT_DB = 0.06, 12.0  # a gap out of which the next note rises
_RECENT = 5
_NEIGHBOURS = 3  # found notes on either side between which time is counted in a room
_LINGERS_S, _TOUCHES_S = 0.5, 0.12  # a wrong note no longer than this, its neighbour no further
_PHANTOMS, _PHANTOM_CENTS = (1200.0, 1902.0), 50.0
_WRONG_CENTS, _SAME_CENTS = 65.0, 40.0
_SHARE = 0.5  # of the missing time may lack: nearer to with them than to without
_LONGEST = 9.0  # times the missing notes: over more than that, tempo decides


class Hidden:
    """Whether a note that was not found may have been played all the same.

    Who leaves a note out comes to the next one sooner; who plays it takes its time. Where there
    was time for it, and something sounded meanwhile (the note before for longer than written, or a
    sound in which no note could be told), it cannot be said that it was missed. What is left of
    that time is used up by each of the notes.
    """

    def __init__(self, segments: Sequence[Segment], expected_s: Floats) -> None:
        self._segments, self._expected_s = segments, expected_s
        self._onset_s = self._offset_s = float("nan")
        self._j = -1
        self._paces: list[float] = []
        self._room_s = self._other_s = 0.0

    def besides(self, members: Sequence[int]) -> None:
        """Something else was found in these segments: it took its own time."""
        first, last = self._segments[members[0]], self._segments[members[-1]]
        self._other_s += last.offset_s - first.onset_s

    def reach(self, j: int, members: Sequence[int]) -> None:
        """Event ``j`` begins in these segments: so much room was left before it."""
        first = self._segments[members[0]]
        if self._j < 0:
            self._room_s = 0.0
        else:
            took_s = first.onset_s - self._onset_s - _silent_s(self._offset_s, first)
            self._room_s = took_s - self._pace() * float(self._expected_s[self._j]) - self._other_s
            if j == self._j + 1 and took_s > 0.0:
                self._paces.append(took_s / float(self._expected_s[self._j]))

    def end(self) -> None:
        """Nothing more was found: the last note may have gone on too long."""
        took_s = self._offset_s - self._onset_s
        left = self._j >= 0 and np.isfinite(took_s)
        self._room_s = took_s - float(self._expected_s[self._j]) if left else 0.0

    def after(self, j: int, members: Sequence[int]) -> None:
        """Event ``j`` was found in these segments."""
        first, last = self._segments[members[0]], self._segments[members[-1]]
        self._onset_s, self._offset_s, self._j = first.onset_s, last.offset_s, j
        self._other_s = 0.0

    def state(self, k: int) -> NoteState:
        """State of event ``k``, which was not found after the last one that was."""
        expected_s = self._pace() * float(self._expected_s[k])
        if self._room_s < _HIDES * expected_s:
            self._room_s = 0.0
            return "missed"
        self._room_s -= expected_s
        return "uncertain"

    def _pace(self) -> float:
        """How long notes took just now, as a share of what was expected."""
        return float(np.clip(np.median(self._paces[-_RECENT:]), 0.5, 2.0)) if self._paces else 1.0


def _silent_s(offset_s: float, after: Segment) -> float:
    """How long nothing sounded before a segment: a gap out of which it rises."""
    gap_s = after.onset_s - offset_s
    return gap_s if gap_s > _SILENT_S and after.attack_db >= _SILENT_DB else 0.0


def had_their_time(
    rows: Sequence[LinedNote], segments: Sequence[Segment], jig: Jig, expected_s: Floats
) -> tuple[LinedNote, ...]:
    """Missed notes that a room may have hidden, made uncertain.

    A room hides where a note begins: the one before seems to go on, or the one after comes late. So
    the time is counted from up to three notes before to up to three after; where any of these holds
    the missing notes as well, they had their time.

    Parameters
    ----------
    rows : sequence of LinedNote
    segments : sequence of Segment
    jig : Jig
    expected_s : ndarray, shape (n_events,)
        How long each written note takes at the player's pace, s.

    Returns
    -------
    tuple of LinedNote
    """
    result = list(rows)
    for first, last in _missing(rows):
        before = _found(rows[:first][::-1])
        after = _found(rows[last + 1 :])
        here = [row.i_event for row in rows[first : last + 1] if row.i_event is not None]
        missing_s = float(sum(expected_s[here]))
        if any(_holds(a, b, segments, jig, expected_s, missing_s) for a in before for b in after):
            result[first : last + 1] = [
                replace(row, state="uncertain") for row in rows[first : last + 1]
            ]
    return tuple(result)


def without_lingering(
    rows: Sequence[LinedNote],
    segments: Sequence[Segment],
    *,
    a4_hz: float,
    offset_cents: float,
    said: frozenset[int] = frozenset(),
) -> tuple[LinedNote, ...]:
    """Short wrong notes that have a neighbour's pitch, made part of it: the written one is hidden.

    In a room the note before lingers and the one after covers it early; neither is a wrong note.
    Nor is one that lies an octave or a twelfth below what is written: that is the root of a mixture
    or of a note whose fundamental the room swallowed.

    Parameters
    ----------
    rows : sequence of LinedNote
    segments : sequence of Segment
    a4_hz : float
    offset_cents : float
        The player's own A against the nominal one.
    said : frozenset of int
        Segments of which somebody said what they are: they stay it.

    Returns
    -------
    tuple of LinedNote
    """
    result = list(rows)
    for k, row in enumerate(rows):
        if row.state != "played" or row.lower is not None or not row.segments:
            continue
        if said.intersection(row.segments):
            continue
        first, last = segments[row.segments[0]], segments[row.segments[-1]]
        if last.offset_s - first.onset_s > _LINGERS_S or first.i_pair >= 0:
            continue
        own = main_piece([segments[i] for i in row.segments])
        cents = hz_to_cents(own.f0_hz, a4_hz) - offset_cents
        if abs(cents - cents_from_a4(row.pitch)) < _WRONG_CENTS:
            continue
        below = cents_from_a4(row.pitch) - cents
        if any(abs(below - deep) < _PHANTOM_CENTS for deep in _PHANTOMS):
            result[k] = replace(row, state="uncertain", segments=())
            continue
        for n in (k + 1, k - 1):
            near = result[n] if 0 <= n < len(rows) else None
            if near is None or not near.segments or near.lower is not None:
                continue
            if near.state == "extra" or abs(cents - cents_from_a4(near.pitch)) > _SAME_CENTS:
                continue
            members = tuple(sorted((*row.segments, *near.segments)))
            if segments[members[-1]].i_pair >= 0 or _apart_s(row, near, segments) > _TOUCHES_S:
                continue
            result[n] = replace(near, segments=members)
            result[k] = replace(row, state="uncertain", segments=())
            break
    return tuple(result)


def _apart_s(a: LinedNote, b: LinedNote, segments: Sequence[Segment]) -> float:
    first, second = (a, b) if a.segments[0] < b.segments[0] else (b, a)
    return segments[second.segments[0]].onset_s - segments[first.segments[-1]].offset_s


def _missing(rows: Sequence[LinedNote]) -> list[tuple[int, int]]:
    """First and last row of every run of notes that were not found, one of them at least missed."""
    runs: list[tuple[int, int]] = []
    for k, row in enumerate(rows):
        if row.state not in ("missed", "uncertain"):
            continue
        if runs and runs[-1][1] == k - 1:
            runs[-1] = (runs[-1][0], k)
        else:
            runs.append((k, k))
    return [
        run for run in runs if any(rows[k].state == "missed" for k in range(run[0], run[1] + 1))
    ]


def _found(rows: Sequence[LinedNote]) -> list[LinedNote]:
    """The nearest notes that were played, as long as none is played again."""
    near: list[LinedNote] = []
    for row in rows:
        if len(near) == _NEIGHBOURS or row.state == "retry":
            break
        if row.state == "played":
            near.append(row)
    return near


def _holds(
    a: LinedNote,
    b: LinedNote,
    segments: Sequence[Segment],
    jig: Jig,
    expected_s: Floats,
    missing_s: float,
) -> bool:
    """Whether there was time for all that is written from one found note to another."""
    assert a.i_event is not None
    assert b.i_event is not None
    first, last = segments[a.segments[0]], segments[b.segments[0]]
    beats = float(jig.events[b.i_event].onset_beats - jig.events[a.i_event].onset_beats)
    own = jig.events[a.i_event]
    pace = float(expected_s[a.i_event]) / max(1e-9, float(own.length_beats))
    written_s = beats * pace
    if written_s > _LONGEST * missing_s:
        return False
    between = segments[a.segments[0] : b.segments[0] + 1]
    silent_s = sum(_silent_s(s.offset_s, after) for s, after in pairwise(between))
    took_s = last.onset_s - first.onset_s - silent_s
    return took_s >= written_s - _SHARE * missing_s
