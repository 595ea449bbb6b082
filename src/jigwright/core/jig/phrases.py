"""What the notes of a jig say by their pattern: statements of the same words, dotted pairs."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from fractions import Fraction
from functools import lru_cache
from itertools import accumulate, pairwise
from typing import TYPE_CHECKING

from jigwright.core.jig.signs import DYNAMICS, Dynamic
from jigwright.core.jig.voices import strokes

if TYPE_CHECKING:
    from jigwright.core.jig.model import Event, Jig, Shape

SHORTEST_ECHO = 3  # notes; fewer are no words that somebody says twice
FEWEST_CROSSINGS = 8  # in a row: a passage that is about them
FEWEST_OF_A_WAY = 3  # of the same two strings, the same way: fewer have no usual step
_FEWEST_NOTES = 6
_BY_HAIRPINS: dict[tuple[str, ...], Shape] = {
    ("crescendo",): "grow", ("diminuendo",): "fade", ("crescendo", "diminuendo"): "swell",
    ("diminuendo", "crescendo"): "dip",
}  # fmt: skip

Statements = tuple[tuple[int, ...], tuple[int, ...]]
"""Events of the first and of the second statement, equally many."""


def statements(jig: Jig) -> Statements | None:
    """Two statements that make up the whole jig: its second half repeats the first exactly."""
    n = len(jig.events)
    if n < _FEWEST_NOTES or n % 2:
        return None
    words = [_word(e) for e in jig.events]
    if words[: n // 2] != words[n // 2 :]:
        return None
    return tuple(range(n // 2)), tuple(range(n // 2, n))


def echoes(jig: Jig) -> tuple[Statements, ...]:
    """The same words twice, with another marked loudness the second time.

    Each mark of loudness that differs from the one before may begin an echo: the longest run of
    notes (three or more) up to it that the notes from it on repeat, pitch for pitch and length for
    length, within the reach of both marks. A jig without such a place whose second half repeats
    the first is one pair of statements.
    """
    events = jig.events
    loudness = written_loudness(jig)
    marks = [i for i, mark in enumerate(loudness) if mark is not None]
    found = []
    for before, at, after in zip(marks, marks[1:], [*marks[2:], len(events)], strict=False):
        if loudness[before] == loudness[at]:
            continue
        longest = min(at - before, after - at)
        for n in range(longest, SHORTEST_ECHO - 1, -1):
            first, second = range(at - n, at), range(at, at + n)
            if all(
                _word(events[a]) == _word(events[b]) for a, b in zip(first, second, strict=True)
            ):
                found.append((tuple(first), tuple(second)))
                break
    if found:
        return tuple(found)
    whole = statements(jig)
    return (whole,) if whole is not None else ()


def marked_loudness(jig: Jig, i: int) -> Dynamic | None:
    """The mark that holds at an event: its own or the last one before."""
    return next((d for d in reversed(written_loudness(jig)[: i + 1]) if d is not None), None)


@lru_cache(maxsize=16)
def written_loudness(jig: Jig) -> tuple[Dynamic | None, ...]:
    """For each event the mark of loudness that begins there.

    One that stands in a rest, or under the end of a note, holds from the next note on; accents of
    loudness (*sf*, *fp*) hold for no other note and are none.
    """
    events = jig.events
    found = [e.dynamic for e in events]
    onsets = [e.onset_beats for e in events]
    for sign in jig.signs:
        if sign.kind == "dynamic" and sign.text in DYNAMICS:
            i = bisect_left(onsets, sign.at_beats)
            if i < len(events) and (found[i] is None or events[i].dynamic is None):
                found[i] = sign.text
    return tuple(found)


@lru_cache(maxsize=16)
def written_shapes(jig: Jig) -> tuple[Shape | None, ...]:
    """For each event how it is meant to move: as it says itself, or as hairpins over it alone say.

    A hairpin counts for a note when it begins and ends within it and fills half of it or more.
    """
    found = [e.shape for e in jig.events]
    onsets = [e.onset_beats for e in jig.events]
    ways: dict[int, list[tuple[Fraction, Fraction, str]]] = {}
    for sign in jig.signs:
        if sign.kind != "hairpin" or sign.end_beats is None:
            continue
        i = bisect_right(onsets, sign.at_beats) - 1
        if i >= 0 and sign.end_beats <= jig.events[i].end_beats:
            ways.setdefault(i, []).append((sign.at_beats, sign.end_beats, sign.text))
    for i, rows in ways.items():
        filled = sum(end - start for start, end, _ in rows)
        if found[i] is None and 2 * filled >= jig.events[i].length_beats:
            found[i] = _BY_HAIRPINS.get(tuple(text for *_, text in sorted(rows)))
    return tuple(found)


def under_hairpins(jig: Jig) -> frozenset[int]:
    """Events that begin while a hairpin lasts, or over which one moves: no loudness of their own.

    The note on which a hairpin ends is where it was going.
    """
    pins = [
        (s.at_beats, s.end_beats)
        for s in jig.signs
        if s.kind == "hairpin" and s.end_beats is not None
    ]
    return frozenset(
        i
        for i, (event, shape) in enumerate(zip(jig.events, written_shapes(jig), strict=True))
        if shape is not None or any(start <= event.onset_beats < end for start, end in pins)
    )


def slurs_of_two(jig: Jig) -> tuple[int, ...]:
    """First notes of strokes with exactly two notes, neither of them a stop or plucked."""
    events = jig.events
    return tuple(
        a
        for a, b in strokes(events)
        if b == a + 1
        and events[a].bow is not None
        and all(len(e.heads) == 1 and not e.pluck for e in events[a : b + 1])
    )


def entries_of(jig: Jig) -> tuple[str, ...]:
    """Ids of the events that come in after a rest of a beat or more."""
    ends = accumulate((e.end_beats for e in jig.events), max)
    return tuple(
        event.id
        for end, event in zip(ends, jig.events[1:], strict=False)
        if event.onset_beats - end >= 1
    )


def dotted_pairs(jig: Jig) -> tuple[int, ...]:
    """Long notes of dotted pairs: three times as long as the next, which leads into a third."""
    events = jig.events
    return tuple(
        i
        for i in range(len(events) - 2)
        if events[i].length_beats == 3 * events[i + 1].length_beats
        and events[i].end_beats == events[i + 1].onset_beats
        and events[i + 1].end_beats == events[i + 2].onset_beats
    )


def crossing_runs(jig: Jig) -> tuple[int, ...]:
    """Notes of passages that go to the neighbouring string and back all the time.

    At least :data:`FEWEST_CROSSINGS` changes in a row, each to a string beside the one before, one
    of them (the same two strings, the same way) at least :data:`FEWEST_OF_A_WAY` times; without
    stops, rests, plucked notes and notes under a hairpin. The strings are those of the fingering.
    """
    events, moving = jig.events, under_hairpins(jig)
    found: list[int] = []
    run: list[int] = []
    for i, event in enumerate(events):
        string = _only_string(event) if i not in moving else None
        if string is None:
            run = []
            continue
        if run:
            before = events[run[-1]]
            crossed = abs(string - (_only_string(before) or 0)) == 1
            if not crossed or before.end_beats != event.onset_beats:
                run = []
        run.append(i)
        if len(run) == FEWEST_CROSSINGS + 1:
            found += run
        elif len(run) > FEWEST_CROSSINGS + 1:
            found.append(i)
    ways = Counter(
        (_only_string(events[a]), _only_string(events[b])) for a, b in pairwise(found) if b == a + 1
    )
    return tuple(found) if max(ways.values(), default=0) >= FEWEST_OF_A_WAY else ()


def _only_string(event: Event) -> int | None:
    return event.heads[0].string if len(event.heads) == 1 and not event.pluck else None


def _word(event: Event) -> tuple[tuple[int, ...], object]:
    return tuple(h.pitch.midi for h in event.heads), event.length_beats
