"""A weak place of a piece worked on step by step, and back into the piece (S2).

From a run-through to the place itself: a beat alone, the next alone, both, both with the landing
note; the notes as a chord shape; very short stopped bows where strings are crossed; slowly, as it
is written, with the bars around it; then the piece again, to see whether it helped. Every step
keeps the ids of its notes, so that takes of it count for the piece.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import aims
from jigwright.core.jig.derive import as_double_stops, spot
from jigwright.core.jig.model import Event, Jig
from jigwright.core.jig.signs import at_one_tempo

StepKind = Literal[
    "beat", "next_beat", "both", "landing", "shape", "stopped", "slow", "written", "context",
    "whole",
]  # fmt: skip
FEWEST_BARS = 4
"""Of a jig that is a piece: it has a map, and a place of it can be weak."""
MOST_BARS = 4
SLOWER = 0.6
GOOD_TAKES: dict[StepKind, int] = {"slow": 2, "written": 2}
"""That pass a step; one where nothing is said."""
_PREFIX = "path-"
_SLOWEST_BPM = 20.0
_FEWEST_CROSSINGS = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class WeakPlace:
    """A weak place of a piece.

    Parameters
    ----------
    first_bar, last_bar : int
        From 0, as they stand in :meth:`~jigwright.core.jig.model.Jig.bars`.
    worst : int
        Event around which it is taken apart.
    n_off : int
        Notes of it that went wrong.
    n_told : int
        Notes of it that could be told.
    """

    first_bar: int
    last_bar: int
    worst: int
    n_off: int = 0
    n_told: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class PathStep:
    """One exercise on the way.

    Parameters
    ----------
    kind : StepKind
    jig : Jig
        The piece itself for the last one.
    """

    kind: StepKind
    jig: Jig

    @property
    def good_takes(self) -> int:
        """Good takes that pass it."""
        return GOOD_TAKES.get(self.kind, 1)


def is_step(jig_id: str) -> bool:
    """Whether a jig is a step of a path: it is worked on, and does not lie on the shelf."""
    return jig_id.startswith(_PREFIX)


def spot_path(
    piece: Jig, place: WeakPlace, *, path_id: str, title_of: Callable[[StepKind], str]
) -> tuple[PathStep, ...]:
    """The steps from a weak place back into the piece.

    Parameters
    ----------
    piece : Jig
    place : WeakPlace
    path_id : str
        Ids of the steps are built on it; the same place gives the same ones.
    title_of : callable
        From the kind of a step to its title.

    Returns
    -------
    tuple of PathStep
        Steps that would be the same as one before are left out, and those that the place does not
        ask for: a chord shape and stopped bows where no strings are crossed.

    Raises
    ------
    JigError
        If no note begins in the bars of the place.
    """
    first, last = events_of(piece, place.first_bar, place.last_bar)

    def made(kind: StepKind, a: int, b: int) -> Jig:
        return spot(piece, a, b, jig_id=f"{_PREFIX}{path_id}-{kind}", title=title_of(kind))

    jigs: list[tuple[StepKind, tuple[int, int] | None, Jig]] = []  # None: like no other step
    for kind, (a, b) in _beats(piece, place.worst, first, last):
        jigs.append((kind, (a, b), made(kind, a, b)))
    whole = (first, last)
    around = _around(piece, place)
    written = made("written", *whole)
    n_crossings = crossings(written)
    if n_crossings >= _FEWEST_CROSSINGS:
        shape = _shape(made("shape", *whole))
        if shape is not None:
            jigs.append(("shape", None, shape))
        jigs.append(("stopped", None, stopped_bows(made("stopped", *whole))))
    jigs.append(("slow", None, slower(made("slow", *whole))))
    jigs.append(("written", whole, written))
    jigs.append(("context", around, made("context", *around)))
    seen = {(0, len(piece.events) - 1)}
    steps = []
    for kind, span, jig in jigs:
        if span is None or span not in seen or kind == "written":
            seen |= {span} if span is not None else set()
            steps.append(PathStep(kind=kind, jig=jig))
    return (*steps, PathStep(kind="whole", jig=piece))


def events_of(piece: Jig, first_bar: int, last_bar: int) -> tuple[int, int]:
    """First and last event that begin in some bars.

    Raises
    ------
    JigError
        If there is none.
    """
    bars = piece.bars()
    if not 0 <= first_bar <= last_bar < len(bars):
        raise JigError(f"no bars {first_bar} to {last_bar} in a piece of {len(bars)}")
    start, end = bars[first_bar].start_beats, bars[last_bar].start_beats
    end += bars[last_bar].length_beats
    there = [i for i, e in enumerate(piece.events) if start <= e.onset_beats < end]
    if not there:
        raise JigError("there are no notes in these bars")
    return there[0], there[-1]


def crossings(jig: Jig) -> int:
    """How often the bow goes from string to string, as far as strings are known."""
    strings = [e.heads[-1].string for e in jig.events]
    return sum(
        a is not None and b is not None and a != b
        for a, b in zip(strings, strings[1:], strict=False)
    )


def slower(jig: Jig) -> Jig:
    """At six tenths of its tempo, without other tempi."""
    return replace(
        jig, tempo_bpm=max(_SLOWEST_BPM, SLOWER * jig.tempo_bpm), signs=at_one_tempo(jig.signs)
    )


def stopped_bows(jig: Jig) -> Jig:
    """Every note with a very short bow that stops, at six tenths of the tempo: for crossings."""
    way = "down"
    events: list[Event] = []
    for event in jig.events:
        bow = None if event.pluck else way
        events.append(replace(event, bow=bow, proposed_bow=True, lifted=True, glide=False))  # type: ignore[arg-type]
        way = way if event.pluck else "up" if way == "down" else "down"
    kept = tuple(s for s in jig.signs if s.kind not in ("slur", "hairpin", "dynamic"))
    return slower(replace(jig, events=tuple(events), signs=kept,
                          aims=aims("every_note", "pitch", "crossing")))  # fmt: skip


def _shape(jig: Jig) -> Jig | None:
    try:
        made = as_double_stops(jig, jig_id=jig.id, title=jig.title)
    except JigError:
        return None
    return replace(made, derived_from=jig.derived_from)


def _around(piece: Jig, place: WeakPlace) -> tuple[int, int]:
    """The place with the bar before it and the one after it."""
    n = len(piece.bars())
    first, last = place.first_bar, place.last_bar
    for a, b in ((first - 1, last + 1), (first, last + 1), (first - 1, last)):
        if a >= 0 and b < n:
            return events_of(piece, a, b)
    return events_of(piece, first, last)


def _beats(
    piece: Jig, worst: int, first: int, last: int
) -> list[tuple[StepKind, tuple[int, int]]]:  # fmt: skip
    """The beat of the worst note and a neighbour: alone, both, both with the landing note."""
    groups: dict[Fraction, list[int]] = {}
    for i in range(first, last + 1):
        event = piece.events[i]
        groups.setdefault(Fraction(int(event.onset_beats)), []).append(i)
    beats = [(g[0], g[-1]) for g in groups.values()]
    at = next((k for k, (a, b) in enumerate(beats) if a <= worst <= b), 0)
    if len(beats) < 2:
        return []
    k = at - 1 if at + 1 >= len(beats) else at
    one, two = beats[k], beats[k + 1]
    both = (one[0], two[1])
    landing = (one[0], min(two[1] + 1, len(piece.events) - 1))
    return [("beat", one), ("next_beat", two), ("both", both), ("landing", landing)]
