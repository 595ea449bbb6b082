"""Ornaments are one event with the note they belong to, written or not.

A trill is heard as many short notes that turn between two pitches; each of them alone would be a
retry or an extra. It becomes one piece before the walk, with either of its pitches as its note.
Written trills, mordents, turns and grace notes, and free places, take in the short notes that
belong to them wherever the walk finds them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jigwright.core.follow.values import LinedNote
from jigwright.core.jig.model import Event, Jig
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Segment
from jigwright.core.values import Floats, median

# a trill that is not written: at least five notes, a semitone to a minor third apart
_FEWEST_NOTES = 5
_LEAST_STEP, _MOST_STEP = 60.0, 330.0
_NEAR_SHARE = 0.4  # of the step a piece may lie from the nearer of the two notes
_LONGEST_S, _SHORTEST_S = 0.32, 0.03
_EVEN, _CLOSES = 1.8, 3.2  # times the usual length: a piece inside, and the last one
_USUAL_S, _RECENT = 0.17, 8
_GAP_S = 0.12
_BOWED_DB = 15.0  # most of its notes begin without the level having fallen so far
# what belongs to a written ornament
_REACH_CENTS = 260.0
_SAME_CENTS = 60.0
_SHORT_S = 0.3
_APART_S = 0.15
TAKEN_IN_COST = 0.15
"""What a note that belongs to a written ornament costs the walk."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Turning:
    """Short notes that turn between two pitches.

    Parameters
    ----------
    first, last : int
        Segments, the last one included.
    lower_hz, upper_hz : float
        The two pitches.
    lower, upper : tuple of int
        Segments of either; a piece between the two is of neither.
    """

    first: int
    last: int
    lower_hz: float
    upper_hz: float
    lower: tuple[int, ...]
    upper: tuple[int, ...]


def find_trills(
    segments: Sequence[Segment],
    jig: Jig | None,
    *,
    a4_hz: float,
    said: frozenset[int] = frozenset(),
) -> list[Turning]:
    """Trills that are not written out, in time order.

    Parameters
    ----------
    segments : sequence of Segment
    jig : Jig or None
        Notes that are written out as turning between the same pitches are no trill.
    a4_hz : float
    said : frozenset of int
        Segments of which somebody said what they are: no part of a trill.
    """
    found: list[Turning] = []
    i = 0
    while i + _FEWEST_NOTES <= len(segments):
        trill = _from(segments, i, said)
        if trill is None:
            i += 1
            continue
        if jig is None or not _is_written_out(trill, jig, a4_hz):
            found.append(trill)
        i = trill.last + 1
    return found


def _from(segments: Sequence[Segment], i: int, said: frozenset[int]) -> Turning | None:
    """The trill that begins with a segment, as long as it goes on."""
    first, second = segments[i], segments[i + 1]
    step = abs(hz_to_cents(second.f0_hz, first.f0_hz))
    if not _LEAST_STEP <= step <= _MOST_STEP:
        return None
    low_hz = min(first.f0_hz, second.f0_hz)
    members: list[int] = []
    sides: list[int] = []
    for k in range(i, len(segments)):
        s = segments[k]
        length_s = _length_s(s)
        if s.i_pair >= 0 or length_s < _SHORTEST_S or k in said:
            break
        if members and _gap_s(segments, k) > _GAP_S:
            break
        if len(members) == _FEWEST_NOTES and not _are_quick(segments, members):
            return None  # so that a long run is not walked again from each of its notes
        at = hz_to_cents(s.f0_hz, low_hz) / step
        if not -_NEAR_SHARE <= at <= 1.0 + _NEAR_SHARE:
            break
        usual_s = median(np.array([_length_s(segments[m]) for m in members[-_RECENT:] or [k]]))
        if length_s > min(_LONGEST_S, _EVEN * usual_s):
            if length_s <= _CLOSES * usual_s and len(members) + 1 >= _FEWEST_NOTES:
                members.append(k)
                sides.append(_side(at))
            break
        members.append(k)
        sides.append(_side(at))
    told = [s for s in sides if s >= 0]
    turns = sum(a != b for a, b in zip(told, told[1:], strict=False))
    if len(members) < _FEWEST_NOTES or turns + 1 < _FEWEST_NOTES:
        return None
    if not _are_quick(segments, members):
        return None
    lower = tuple(k for k, side in zip(members, sides, strict=True) if side == 0)
    upper = tuple(k for k, side in zip(members, sides, strict=True) if side == 1)
    return Turning(
        first=members[0], last=members[-1], lower=lower, upper=upper,
        lower_hz=_usual_hz(segments, lower), upper_hz=_usual_hz(segments, upper),
    )  # fmt: skip


def _are_quick(segments: Sequence[Segment], members: Sequence[int]) -> bool:
    """Whether pieces are as short as a trill's notes, and most begin without a new bow."""
    parts = [segments[k] for k in members]
    short = median(np.array([_length_s(s) for s in parts])) <= _USUAL_S
    return short and median(np.array([s.attack_db for s in parts[1:]])) <= _BOWED_DB


def _side(at: float) -> int:
    """0 the lower note, 1 the upper, -1 neither."""
    if abs(at) <= _NEAR_SHARE:
        return 0
    return 1 if abs(at - 1.0) <= _NEAR_SHARE else -1


def _usual_hz(segments: Sequence[Segment], members: Sequence[int]) -> float:
    return median(np.array([segments[k].f0_hz for k in members]))


def _length_s(s: Segment) -> float:
    return s.offset_s - s.onset_s


def _gap_s(segments: Sequence[Segment], k: int) -> float:
    return segments[k].onset_s - segments[k - 1].offset_s


def _is_written_out(trill: Turning, jig: Jig, a4_hz: float) -> bool:
    """Whether some notes of the jig turn between the same two pitches."""
    low, high = (hz_to_cents(hz, a4_hz) for hz in (trill.lower_hz, trill.upper_hz))
    run, before = 0, -1
    for event in jig.events:
        cents = cents_from_a4(event.heads[-1].pitch)
        side = 0 if abs(cents - low) < _SAME_CENTS else 1 if abs(cents - high) < _SAME_CENTS else -1
        single = side >= 0 and len(event.heads) == 1
        run = (run + 1 if side == 1 - before else 1) if single else 0
        before = side if single else -1
        if run >= _FEWEST_NOTES - 1:
            return True
    return False


@dataclass(frozen=True, slots=True, kw_only=True)
class Folded:
    """Segments with every trill as one.

    Parameters
    ----------
    segments : tuple of Segment
        The trill's has its main pitch, where nothing is written that of its lower note or of the
        one it stays on.
    members : tuple of tuple of int
        Segments each one was made of.
    trills : dict of int to Turning
        Trill of a folded segment.
    other_hz : tuple of float
        The other pitch it may be written with; NaN where there is none.
    """

    segments: tuple[Segment, ...]
    members: tuple[tuple[int, ...], ...]
    trills: dict[int, Turning]
    other_hz: tuple[float, ...]


def folded(segments: Sequence[Segment], trills: Sequence[Turning]) -> Folded:
    """Make every trill one segment.

    Parameters
    ----------
    segments : sequence of Segment
    trills : sequence of Turning
        In time order.
    """
    at = {t.first: t for t in trills}
    parts: list[Segment] = []
    members: list[tuple[int, ...]] = []
    other: list[float] = []
    of: dict[int, Turning] = {}
    i = 0
    while i < len(segments):
        trill = at.get(i)
        if trill is None:
            parts.append(segments[i])
            members.append((i,))
            other.append(float("nan"))
            i += 1
            continue
        first, last = segments[trill.first], segments[trill.last]
        main_hz, other_hz = trill.lower_hz, trill.upper_hz
        if trill.last in trill.upper and _length_s(last) > _EVEN * _length_s(
            segments[trill.last - 1]
        ):
            main_hz, other_hz = other_hz, main_hz  # it stays on the upper one
        of[len(parts)] = trill
        parts.append(
            replace(first, f0_hz=main_hz, offset_s=last.offset_s, core_end_s=last.core_end_s)
        )
        members.append(tuple(range(trill.first, trill.last + 1)))
        other.append(other_hz)
        i = trill.last + 1
    return Folded(segments=tuple(parts), members=tuple(members), trills=of, other_hz=tuple(other))


def unfolded(
    row: LinedNote, fold: Folded, jig: Jig | None, *, a4_hz: float, offset_cents: float
) -> LinedNote:
    """A row of folded segments with the segments they were made of.

    Parameters
    ----------
    row : LinedNote
    fold : Folded
    jig : Jig or None
    a4_hz, offset_cents : float
        Nominal A, and the player's own against it.
    """
    members = tuple(i for k in row.segments for i in fold.members[k])
    trill = next((fold.trills[k] for k in row.segments if k in fold.trills), None)
    if trill is None:
        own = row.main or _own(row, fold, jig, a4_hz, offset_cents)
        return replace(row, segments=members, main=tuple(i for k in own for i in fold.members[k]))
    lower = hz_to_cents(trill.lower_hz, a4_hz) - offset_cents
    upper = hz_to_cents(trill.upper_hz, a4_hz) - offset_cents
    written = cents_from_a4(row.pitch)
    main = trill.lower if abs(lower - written) <= abs(upper - written) else trill.upper
    return replace(row, segments=members, main=main, ornament="trill")


def _own(
    row: LinedNote, fold: Folded, jig: Jig | None, a4_hz: float, offset_cents: float
) -> Sequence[int]:
    """Folded segments that are the note itself, where its ornaments were taken in."""
    if jig is None or row.i_event is None or len(row.segments) < 2:
        return []
    if not _takes_in(jig.events[row.i_event]):
        return []
    written = cents_from_a4(row.pitch) + offset_cents
    return [
        k
        for k in row.segments
        if abs(hz_to_cents(fold.segments[k].f0_hz, a4_hz) - written) < _SAME_CENTS
    ]


def _takes_in(event: Event) -> bool:
    return event.free or bool(event.graces) or event.ornament is not None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TakesIn:
    """Which short notes belong to which written note.

    Parameters
    ----------
    events : ndarray of bool, shape (n_events,)
        Whether a note takes anything in.
    mask : ndarray of bool, shape (n_segments, n_events)
        Whether a segment is one of its ornament's notes.
    """

    events: NDArray[np.bool_]
    mask: NDArray[np.bool_]


def taken_in(segments: Sequence[Segment], cents: Floats, jig: Jig) -> TakesIn:
    """Short notes that written ornaments, graces and free places take in.

    Parameters
    ----------
    segments : sequence of Segment
    cents : ndarray, shape (n_segments,)
        Pitch of each against the player's own A4.
    jig : Jig
    """
    takes = np.array([_takes_in(e) for e in jig.events], dtype=bool)
    mask = np.zeros((len(segments), len(jig.events)), dtype=bool)
    if takes.any():
        single = np.array([s.i_pair < 0 for s in segments])
        short = single & (np.array([_length_s(s) for s in segments]) <= _SHORT_S)
        for j in np.flatnonzero(takes):
            event = jig.events[int(j)]
            away = np.abs(cents - cents_from_a4(event.heads[-1].pitch))
            allowed = np.full(len(segments), event.free)
            if event.ornament in ("trill", "mordent", "turn"):
                allowed |= away <= _REACH_CENTS
            if event.ornament == "tremolo":
                allowed |= away <= _SAME_CENTS
            for grace in event.graces:
                allowed |= np.abs(cents - cents_from_a4(grace)) <= _SAME_CENTS
            mask[:, j] = short & allowed
    return TakesIn(events=takes, mask=mask)


def goes_on(takes: TakesIn, segments: Sequence[Segment], j: int, before: int, i: int) -> bool:
    """Whether a segment goes on with the ornament that another one of the same note is part of.

    Parameters
    ----------
    takes : TakesIn
    segments : sequence of Segment
    j : int
        The written note.
    before, i : int
        Segments.
    """
    close = segments[i].onset_s - segments[before].offset_s <= _APART_S
    return bool(takes.events[j] and close and (takes.mask[i, j] or takes.mask[before, j]))
