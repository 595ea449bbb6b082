"""Scraps of sound that nothing was written for and that are part of a neighbour.

A string that takes two goes to speak, a moment at which the room or the bow covers the tone, and
the mixture of two notes at a change each leave a short piece between two notes. It is no note of
its own: it has the pitch of the note it touches, it lies between two parts of one note, or its
period is the common one of the two notes around it. A finger that lands beside its note and goes
to it within a quarter of a second landed there: that is the note's arrival, and no note before it.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.sound.heard import Segment

_SHORT_S, _COMMON_S = 0.12, 0.25  # a scrap by its pitch, and the mixture of two notes
_TOUCHES_S = 0.03
_SAME_CENTS, _MULTIPLE_CENTS = 30.0, 40.0
_BESIDE_CENTS = 80.0  # a finger that is corrected; a semitone away is another note
_MOST_MULTIPLE = 4
_HIDDEN_S, _NO_ATTACK_DB = 0.25, 3.0  # what a moment's other sound hides of a note
_LEAST_ATTACK_DB = 12.0  # where the level fell so far, something began


def take_in_scraps(
    path: Sequence[int], segments: Sequence[Segment]
) -> tuple[list[int], frozenset[int]]:
    """Give scraps to the note they are part of.

    Parameters
    ----------
    path : sequence of int
        Event of each segment, -1 for none.
    segments : sequence of Segment

    Returns
    -------
    (list of int, frozenset of int)
        The path, and the segments that go on with the note of the segment before.
    """
    path = list(path)
    parts: set[int] = set()
    for i, scrap in enumerate(segments):
        length_s = scrap.offset_s - scrap.onset_s
        if path[i] >= 0 or scrap.i_pair >= 0 or length_s > _COMMON_S:
            continue
        if i > 0 and path[i - 1] >= 0 and _goes_on(segments[i - 1], scrap):
            path[i] = path[i - 1]
            parts.add(i)
            continue
        before = i > 0 and path[i - 1] >= 0 and _touch(segments[i - 1], scrap)
        after = i + 1 < len(path) and path[i + 1] >= 0 and _touch(scrap, segments[i + 1])
        of_before = before and _same(segments[i - 1], scrap)
        if after and not of_before and leads_into(scrap, segments[i + 1]):
            path[i] = path[i + 1]
            parts.add(i + 1)
        elif length_s > _SHORT_S:
            if before and after and _is_mixture(segments[i - 1], scrap, segments[i + 1]):
                path[i] = path[i + 1]
                parts.add(i + 1)
        elif of_before and scrap.attack_db < _LEAST_ATTACK_DB:
            path[i] = path[i - 1]
            parts.add(i)
        elif before and after and _interrupts(path, segments, i):
            path[i] = path[i - 1]
            parts.update((i, i + 1))
        elif after and _begins(scrap, segments[i + 1]):
            path[i] = path[i + 1]
            parts.add(i + 1)
    return path, frozenset(parts)


def _goes_on(before: Segment, scrap: Segment) -> bool:
    """Whether a note is heard again after something hid it, with nothing that begins."""
    gap_s = scrap.onset_s - before.offset_s
    return gap_s <= _HIDDEN_S and scrap.attack_db < _NO_ATTACK_DB and _same(before, scrap)


def _touch(a: Segment, b: Segment) -> bool:
    return b.onset_s - a.offset_s <= _TOUCHES_S


def _cents(a: Segment, b: Segment) -> float:
    return 1200.0 * float(np.log2(b.f0_hz / a.f0_hz))


def _same(a: Segment, b: Segment) -> bool:
    return abs(_cents(a, b)) < _SAME_CENTS


def _interrupts(path: Sequence[int], segments: Sequence[Segment], i: int) -> bool:
    """Whether a note goes on after it."""
    again = path[i + 1] == path[i - 1]
    shallow = segments[i + 1].attack_db < _LEAST_ATTACK_DB
    return again and shallow and _same(segments[i - 1], segments[i + 1])


def _begins(scrap: Segment, note: Segment) -> bool:
    """Whether it is the first sound of the note: its pitch, or a period that fits into it."""
    if _same(scrap, note):
        return note.attack_db < _LEAST_ATTACK_DB
    return is_common_period(scrap, note)


def _is_mixture(before: Segment, scrap: Segment, after: Segment) -> bool:
    return is_common_period(scrap, before) and is_common_period(scrap, after)


def is_common_period(scrap: Segment, note: Segment) -> bool:
    """Whether a piece's period is several of a note's, as that of a mixture is.

    Parameters
    ----------
    scrap, note : Segment
    """
    return common_multiple(scrap.f0_hz, note.f0_hz) is not None


def leads_into(scrap: Segment, note: Segment) -> bool:
    """Whether a finger landed beside a longer note and went to it: nothing begins between them.

    Parameters
    ----------
    scrap, note : Segment
        One after the other.
    """
    longer = note.offset_s - note.onset_s > scrap.offset_s - scrap.onset_s
    begins = note.attack_db >= _NO_ATTACK_DB
    return longer and not begins and abs(_cents(scrap, note)) < _BESIDE_CENTS


def is_arrival(first: Segment, note: Segment) -> bool:
    """Whether a note's first piece is on its way to it, and has not its pitch yet.

    Parameters
    ----------
    first, note : Segment
        One after the other.
    """
    return leads_into(first, note) and not _same(first, note)


def main_piece(parts: Sequence[Segment]) -> Segment:
    """The piece that says what note a row of pieces is: the longest that is no mixture's.

    Parameters
    ----------
    parts : sequence of Segment
        One at least.
    """
    own = [s for s in parts if not any(is_common_period(s, o) for o in parts)] or parts
    return max(own, key=lambda s: s.core_end_s - s.core_start_s)


def common_multiple(low_hz: float, note_hz: float) -> int | None:
    """How many times the lower pitch goes into the higher one, 2 … 4, where it does.

    Parameters
    ----------
    low_hz, note_hz : float
    """
    ratio = note_hz / low_hz
    whole = round(ratio)
    fits = 2 <= whole <= _MOST_MULTIPLE
    near = fits and abs(1200.0 * float(np.log2(ratio / whole))) < _MULTIPLE_CENTS
    return whole if near else None
