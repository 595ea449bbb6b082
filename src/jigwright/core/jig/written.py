"""How events are written down: one row of notes and rests for each voice of each bar.

Notes that cross a bar line, or whose length no single note can write, become tied ones; notes that
are held under another are one long note in their own voice. Tuplets are found by where notes lie:
from a beat that is a half, quarter … of the bar to the next such moment.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from math import lcm

from jigwright.core.jig.model import Bar, Event, Jig, Notehead

_LONGEST, _SHORTEST = Fraction(4), Fraction(1, 32)
_DOTTED_FROM = Fraction(3, 8)  # shorter notes are tied rather than dotted


def _values() -> tuple[Fraction, ...]:
    plain = [_LONGEST / 2**k for k in range(8)]
    dotted = [v * 3 / 2 for v in plain if v < _LONGEST and v * 3 / 2 >= _DOTTED_FROM]
    return tuple(sorted((*plain, *dotted), reverse=True))


VALUES = _values()
"""Lengths in quarter notes that one note can write, longest first."""
_PLAIN = tuple(v for v in VALUES if v.numerator in (1, 2, 4))
_THREE_EIGHTHS = Fraction(3, 2)


@lru_cache(maxsize=512)
def split_length(beats: Fraction) -> tuple[Fraction, ...]:
    """Lengths that notes can write, longest first, adding up to ``beats`` (a rest is dropped)."""
    parts = []
    for value in VALUES:
        while beats >= value:
            parts.append(value)
            beats -= value
    return tuple(parts)


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenHead:
    """A notehead as it is written once.

    Parameters
    ----------
    head : Notehead
        The one that was struck.
    tied_from, tied_on : bool
        A tie comes to it, leads on from it.
    """

    head: Notehead
    tied_from: bool
    tied_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Written:
    """A note, chord or rest of one bar.

    Parameters
    ----------
    start, end : Fraction
        Quarter notes from the start of the jig.
    value : Fraction
        Length as written; in a tuplet more than it sounds.
    event : Event or None
        None: a rest.
    heads : tuple of WrittenHead
    first, last : bool
        It carries the event's beginning, its end.
    tuplet : (int, int) or None
        Notes written in the time of so many.
    group : int
        Same number: same tuplet.
    """

    start: Fraction
    end: Fraction
    value: Fraction
    event: Event | None = None
    heads: tuple[WrittenHead, ...] = ()
    first: bool = False
    last: bool = False
    tuplet: tuple[int, int] | None = None
    group: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class _Span:
    """Noteheads of one voice that sound together for a while."""

    start: Fraction
    end: Fraction
    event: Event
    heads: tuple[WrittenHead, ...]
    leads: bool  # the event's own marks stand here
    whole_end: Fraction  # before it was cut at bar lines
    goes_on: bool  # some of its notes last longer in the same event


class WrittenVoices:
    """Everything a jig holds, as written.

    Parameters
    ----------
    jig : Jig
    cuts : iterable of Fraction
        Moments at which a rest begins anew, because something stands there.
    """

    def __init__(self, jig: Jig, *, cuts: Iterable[Fraction] = ()) -> None:
        self._cuts = sorted(set(cuts))
        self._spans: dict[int, list[_Span]] = {}
        for voice in sorted({h.voice for e in jig.events for h in e.heads}):
            self._spans[voice] = _merged(list(_spans(jig.events, voice)))
        self._ends = {v: [s.end for s in spans] for v, spans in self._spans.items()}

    def voices(self, bar: Bar) -> list[tuple[int, list[Written]]]:
        """The rows of a bar: the first voice always, others where they have notes."""
        rows = []
        for voice, spans in self._spans.items():
            inside = self._inside(voice, spans, bar)
            if inside or voice == 1:
                rows.append((voice, _row(inside, bar, self._cuts_in(bar))))
        return rows or [(1, _row([], bar, self._cuts_in(bar)))]

    def _cuts_in(self, bar: Bar) -> list[Fraction]:
        i = bisect_left(self._cuts, bar.start_beats)
        return self._cuts[i : bisect_left(self._cuts, bar.start_beats + bar.length_beats)]

    def _inside(self, voice: int, spans: list[_Span], bar: Bar) -> list[_Span]:
        i = bisect_left(self._ends[voice], bar.start_beats)
        stop = bar.start_beats + bar.length_beats
        found = []
        while i < len(spans) and spans[i].start < stop:
            if spans[i].end > bar.start_beats:
                found.append(_between(spans[i], bar.start_beats, stop))
            i += 1
        return found


def leader(event: Event) -> Notehead:
    """The head that carries an event's marks: of the first voice that has a new one."""
    new = [h for h in event.heads if not h.held] or list(event.heads)
    return min(new, key=lambda h: h.voice)


def _spans(events: Sequence[Event], voice: int) -> Iterator[_Span]:
    """Per event, its heads of a voice; cut where one of them ends before the others."""
    for i, event in enumerate(events):
        heads = [h for h in event.heads if h.voice == voice]
        if not heads:
            continue
        after = events[i + 1] if i + 1 < len(events) else None
        lead = leader(event)
        at = event.onset_beats
        for end in sorted({_end(event, h) for h in heads}):
            there = [h for h in heads if _end(event, h) >= end]
            yield _Span(
                start=at, end=end, whole_end=end, event=event,
                goes_on=any(_end(event, h) > end for h in there),
                leads=lead in there and at == event.onset_beats,
                heads=tuple(
                    WrittenHead(
                        head=h,
                        tied_from=h.held or at > event.onset_beats,
                        tied_on=_end(event, h) > end or _goes_on(h, end, after),
                    )
                    for h in there
                ),
            )  # fmt: skip
            at = end


def _end(event: Event, head: Notehead) -> Fraction:
    return event.onset_beats + (head.length_beats or event.length_beats)


def _goes_on(head: Notehead, end: Fraction, after: Event | None) -> bool:
    return after is not None and after.onset_beats == end and _held(head, after) is not None


def _held(head: Notehead, after: Event) -> Notehead | None:
    return next(
        (
            h
            for h in after.heads
            if h.held and h.voice == head.voice and h.pitch.midi == head.pitch.midi
        ),
        None,
    )


def _merged(spans: list[_Span]) -> list[_Span]:
    """A span whose every note goes on, into one where nothing else is new, is one with it."""
    result: list[_Span] = []
    for span in spans:
        last = result[-1] if result else None
        if (
            last is not None
            and last.end == span.start
            and not span.leads
            and all(h.tied_on for h in last.heads)
            and all(h.tied_from for h in span.heads)
            and [h.head.pitch.midi for h in last.heads] == [h.head.pitch.midi for h in span.heads]
        ):
            heads = tuple(
                replace(a, tied_on=b.tied_on) for a, b in zip(last.heads, span.heads, strict=True)
            )
            result[-1] = replace(
                last, end=span.end, whole_end=span.end, goes_on=span.goes_on, heads=heads
            )
        else:
            result.append(span)
    return result


def _between(span: _Span, start: Fraction, stop: Fraction) -> _Span:
    """The part of a span inside a bar."""
    before, behind = span.start < start, span.end > stop
    if not before and not behind:
        return span
    return replace(
        span, start=max(span.start, start), end=min(span.end, stop),
        leads=span.leads and not before,
        heads=tuple(
            replace(h, tied_from=h.tied_from or before, tied_on=h.tied_on or behind)
            for h in span.heads
        ),
    )  # fmt: skip


def _row(spans: list[_Span], bar: Bar, cuts: Sequence[Fraction]) -> list[Written]:
    """Notes and rests from bar line to bar line."""

    def rests(a: Fraction, b: Fraction) -> Iterator[tuple[Fraction, Fraction, None]]:
        edges = [a, *(c for c in cuts if a < c < b), b]
        yield from ((x, y, None) for x, y in pairwise(edges))

    pieces: list[tuple[Fraction, Fraction, _Span | None]] = []
    at, stop = bar.start_beats, bar.start_beats + bar.length_beats
    for span in spans:
        start = max(span.start, at)
        if span.end <= start:
            continue
        if start > at:
            pieces += rests(at, start)
        pieces.append((start, span.end, span))
        at = span.end
    if at < stop:
        pieces += rests(at, stop)
    pieces = [p for piece in pieces for p in _at_beats(*piece, bar.start_beats)]
    result: list[Written] = []
    i, group = 0, 0
    while i < len(pieces):
        j = i
        if not _plain(pieces[i][1] - bar.start_beats):
            group += 1
            while j + 1 < len(pieces) and not _plain(pieces[j][1] - bar.start_beats):
                j += 1
        times = {t - pieces[i][0] for p in pieces[i : j + 1] for t in p[:2]}
        ratio = _ratio(times) if j > i or not _plain(pieces[i][1] - bar.start_beats) else None
        for start, end, of in pieces[i : j + 1]:
            result += _notes(start, end, of, ratio, group if ratio else 0, bar)
        i = j + 1
    return result


def _at_beats(
    start: Fraction, end: Fraction, span: _Span | None, zero: Fraction
) -> Iterator[tuple[Fraction, Fraction, _Span | None]]:
    """Cut at the beats between a plain and a tuplet part of a long note."""
    a, b = start - zero, end - zero
    cuts = []
    if _plain(a) and not _plain(b) and b // 1 - a >= 1:
        cuts.append(zero + b // 1)
    elif not _plain(a) and _plain(b) and b + (-a) // 1 >= 1:
        cuts.append(zero - (-a) // 1)
    elif not _plain(a) and not _plain(b) and b // 1 + (-a) // 1 >= 1:
        cuts += [zero - (-a) // 1, zero + b // 1]
    edges = [start, *(c for c in cuts if start < c < end), end]
    for k, (x, y) in enumerate(zip(edges, edges[1:], strict=False)):
        if span is None or len(edges) == 2:
            yield x, y, span
        else:
            part = _between(replace(span, start=start, end=end), x, y)
            yield x, y, replace(part, leads=span.leads and k == 0)


def _plain(beats: Fraction) -> bool:
    """A moment that halving beats leads to."""
    return beats.denominator & (beats.denominator - 1) == 0


def _ratio(times: set[Fraction]) -> tuple[int, int] | None:
    odd = lcm(*(_odd(t.denominator) for t in times))
    if odd == 1:
        return None
    return odd, 1 << (odd.bit_length() - 1)


def _odd(n: int) -> int:
    while n % 2 == 0:
        n //= 2
    return n


def _notes(
    start: Fraction, end: Fraction, span: _Span | None, ratio: tuple[int, int] | None, group: int,
    bar: Bar,
) -> Iterator[Written]:  # fmt: skip
    """A piece as notes that can be written."""
    factor = Fraction(*ratio) if ratio else Fraction(1)
    whole = (end - start) * factor
    if ratio is None and (span is None or whole not in VALUES):
        values = list(_in_beats(start - bar.start_beats, whole, bar, rest=span is None))
    else:
        values = list(split_length(whole))
    if sum(values, Fraction(0)) != whole:
        values = [whole]
    at = start
    for k, value in enumerate(values):
        first, last = k == 0, k == len(values) - 1
        then = end if last else at + value / factor
        if span is None:
            yield Written(start=at, end=then, value=value, tuplet=ratio, group=group)
        else:
            yield Written(
                start=at, end=then, value=value, tuplet=ratio, group=group, event=span.event,
                first=span.leads and first,
                last=last and span.end == span.whole_end and not span.goes_on,
                heads=tuple(
                    WrittenHead(
                        head=h.head,
                        tied_from=h.tied_from or not first,
                        tied_on=h.tied_on or not last,
                    )
                    for h in span.heads
                ),
            )  # fmt: skip
        at = then


def _in_beats(at: Fraction, beats: Fraction, bar: Bar, *, rest: bool) -> Iterator[Fraction]:
    """Lengths that show where the beats lie: none reaches over a beat larger than itself.

    A whole bar of rest is one rest. In 6/8, 9/8 and 12/8 a dotted quarter is the beat; a note (not
    a rest) that begins on a beat may be dotted.
    """
    if rest and beats == bar.length_beats:
        yield beats
        return
    if bar.number == 0:
        at -= bar.length_beats  # a pick-up leads to the bar line
    compound = bar.metre[1] == 8 and bar.metre[0] % 3 == 0
    while beats >= _SHORTEST:
        there = (v for v in VALUES if v <= beats)
        fits = (
            v for v in there if (_fits_in_threes(at, v, rest=rest) if compound else _fits(at, v))
        )
        value = next(fits, _SHORTEST)
        yield value
        at += value
        beats -= value


def _fits(at: Fraction, value: Fraction) -> bool:
    return value in _PLAIN and at % value == 0


def _fits_in_threes(at: Fraction, value: Fraction, *, rest: bool) -> bool:
    if value in (_THREE_EIGHTHS, 2 * _THREE_EIGHTHS):
        return at % value == 0 and (value == _THREE_EIGHTHS or not rest)
    if value > 1 or value not in _PLAIN or (rest and value == 1 and at % _THREE_EIGHTHS):
        return False
    inside = at // _THREE_EIGHTHS == (at + value - _SHORTEST) // _THREE_EIGHTHS
    return inside and at % min(value, Fraction(1, 2)) == 0
