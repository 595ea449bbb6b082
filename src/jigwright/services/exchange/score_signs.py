"""Signs of a jig in the order in which a file must be written: by time, each once, with numbers.

Slurs, hairpins and lines that overlap get different numbers; what ends comes before what begins.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from xml.etree.ElementTree import Element, SubElement

from jigwright.core.jig.model import Event, Jig
from jigwright.core.jig.signs import Sign
from jigwright.core.jig.voices import drawn_slurs
from jigwright.core.jig.written import Written
from jigwright.services.exchange.score_marks import plucking

_DIRECTIONS = ("dynamic", "hairpin", "words", "tempo", "rehearsal", "jump", "octave_line", "clef")


@dataclass(frozen=True, slots=True)
class TimedSign:
    """A direction at its moment; what ends comes before what begins."""

    at: Fraction
    rank: int
    sign: Sign
    ends: bool
    number: int = 1


class WaitingSigns:
    """Signs by time, each handed out once."""

    def __init__(self, signs: Iterable[Sign]) -> None:
        self._by_time = signs_by_time(signs)
        self._times = sorted(self._by_time)

    def take(self, piece: Written) -> list[Sign]:
        """Those inside a piece that nobody has taken."""
        found: list[Sign] = []
        i = bisect_left(self._times, piece.start)
        while i < len(self._times) and self._times[i] < piece.end:
            found += self._by_time.pop(self._times[i], [])
            i += 1
        return found


class SlurEnds:
    """Where slurs begin and end, with numbers that do not clash."""

    def __init__(self, jig: Jig) -> None:
        explicit = [s for s in jig.signs if s.kind == "slur"]
        plain = [(s.at_beats, s.end_beats or s.at_beats) for s in explicit if s.text != "graces"]
        graces = [(s.at_beats, s.end_beats or s.at_beats) for s in explicit if s.text == "graces"]
        rows = [(a, b, False) for a, b in drawn_slurs(jig.events, plain, graces)]
        rows += [(a, b, True) for a, b in graces]
        self._onsets = [e.onset_beats for e in jig.events]
        self._starts: dict[Fraction, list[int]] = defaultdict(list)
        self._stops: dict[Fraction, list[int]] = defaultdict(list)
        self._graced: dict[Fraction, list[int]] = defaultdict(list)
        self.from_graces: dict[Fraction, list[int]] = defaultdict(list)
        busy: list[tuple[Fraction, int]] = []
        for a, b, early in sorted(rows, key=lambda r: (r[0], not r[2], -r[1])):
            busy = [(end, n) for end, n in busy if end >= a]  # a stop may stand after a start
            number = _free_number(n for _, n in busy)
            busy.append((b, number))
            (self.from_graces if early else self._starts)[a].append(number)
            (self._graced if early and a == b else self._stops)[b].append(number)
        self._times = {"start": sorted(self._starts), "stop": sorted(self._stops)}

    def write(self, notations: Element, piece: Written) -> None:
        """Slurs that begin or end in a piece of an event."""
        event = piece.event
        assert event is not None
        if piece.first:
            self._put(notations, "stop", self._graced.pop(event.onset_beats, ()))
        if piece.last:  # a slur to a note ends at the last of its tied ones
            self._put(notations, "stop", self._stops.pop(event.onset_beats, ()))
        for kind, table in (("stop", self._stops), ("start", self._starts)):
            times = self._times[kind]
            i = bisect_left(times, piece.start)
            while i < len(times) and times[i] < piece.end:
                mine = self._sounding_at(times[i]) == event.onset_beats
                if mine and (kind == "start" or times[i] != event.onset_beats):
                    self._put(notations, kind, table.pop(times[i], ()))
                i += 1

    def _sounding_at(self, beats: Fraction) -> Fraction:
        """Onset of the event of a moment: a long note in another voice is not meant."""
        return self._onsets[max(0, bisect_right(self._onsets, beats) - 1)]

    @staticmethod
    def _put(notations: Element, kind: str, numbers: Iterable[int]) -> None:
        for number in numbers:
            SubElement(notations, "slur", type=kind, number=str(number))


def _plucking_words(jig: Jig) -> Iterator[Sign]:
    """``pizz.`` and ``arco`` where no words say it already."""
    said = sorted(
        s.at_beats for s in jig.signs if s.kind == "words" and plucking(s.text) is not None
    )
    before: Event | None = None
    for event in jig.events:
        if event.pluck != (before is not None and before.pluck):
            since = before.onset_beats if before is not None else Fraction(-1)
            i = bisect_right(said, event.onset_beats) - 1
            if i < 0 or said[i] <= since:
                text = "pizz." if event.pluck else "arco"
                yield Sign(kind="words", at_beats=event.onset_beats, text=text, above=True)
        before = event


def _free_number(taken: Iterable[int]) -> int:
    """The lowest number that is not taken; the standard knows sixteen."""
    busy = set(taken)
    return next((n for n in range(1, 17) if n not in busy), 16)


def is_direction(sign: Sign) -> bool:
    """Whether what is kept stands beside the notes, not at one."""
    return sign.text.startswith(("<direction-type", "<harmony", "<figured-bass"))


def timed_signs(jig: Jig) -> list[TimedSign]:
    """Directions by time, ends before beginnings."""
    found = [
        TimedSign(
            e.onset_beats, 1,
            Sign(kind="dynamic", at_beats=e.onset_beats, text=e.dynamic, above=False), ends=False,
        )
        for e in jig.events
        if e.dynamic
    ]  # fmt: skip
    found += [TimedSign(s.at_beats, 1, s, ends=False) for s in _plucking_words(jig)]
    busy: list[tuple[Fraction, int]] = []
    for sign in jig.signs:
        if sign.kind not in _DIRECTIONS and not (sign.kind == "kept" and is_direction(sign)):
            continue
        number = 1
        if sign.kind in ("hairpin", "octave_line") and sign.end_beats is not None:
            busy = [(end, n) for end, n in busy if end >= sign.at_beats]
            number = _free_number(n for _, n in busy)
            busy.append((sign.end_beats, number))
            rank = 2 if sign.end_beats == sign.at_beats else 0
            found.append(TimedSign(sign.end_beats, rank, sign, ends=True, number=number))
        found.append(TimedSign(sign.at_beats, 1, sign, ends=False, number=number))
    return sorted(found, key=lambda t: (t.at, t.rank))


def signs_by_time(signs: Iterable[Sign]) -> dict[Fraction, list[Sign]]:
    """Signs by the moment they stand at."""
    table: dict[Fraction, list[Sign]] = defaultdict(list)
    for sign in signs:
        table[sign.at_beats].append(sign)
    return table
