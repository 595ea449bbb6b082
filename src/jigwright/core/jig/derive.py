"""Exercises derived from a jig: spots, displaced beats, rebuilding, double stops, slower steps.

Notes keep their ids, so that history joins; ``derived_from`` names the jig and revision.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from jigwright.core.errors import JigError
from jigwright.core.jig.aims import MOST_AIMS, aims, aims_of
from jigwright.core.jig.fingering import placings
from jigwright.core.jig.model import Change, Event, Jig
from jigwright.core.jig.phrases import echoes, marked_loudness
from jigwright.core.jig.signs import cut_to, shifted, tempo_at
from jigwright.core.music.instruments import instrument


def spot(jig: Jig, first: int, last: int, *, jig_id: str, title: str) -> Jig:
    """Events ``first`` … ``last`` as an exercise of their own (S2).

    Raises
    ------
    JigError
        If the span is empty or outside the jig.
    """
    if not 0 <= first <= last < len(jig.events):
        raise JigError(f"no events {first} to {last} in a jig of {len(jig.events)}")
    bars = jig.bars()
    i = max(k for k, b in enumerate(bars) if b.start_beats <= jig.events[first].onset_beats)
    bar, start = bars[i], bars[i].start_beats
    end = jig.events[last].end_beats
    events = [replace(e, onset_beats=e.onset_beats - start) for e in jig.events[first : last + 1]]
    if events[0].bow is None and not events[0].pluck:
        stroke = next((e for e in jig.events[first::-1] if e.bow is not None), events[0])
        events[0] = replace(events[0], bow=stroke.bow, proposed_bow=stroke.proposed_bow)
    events[0] = replace(events[0], heads=tuple(replace(h, held=False) for h in events[0].heads))
    now = marked_loudness(jig, first)
    if now is not None:
        events[0] = replace(events[0], dynamic=now)
    return with_fitting_aims(
        replace(
            jig, id=jig_id, revision=1, title=title, events=tuple(events),
            derived_from=(jig.id, jig.revision), key=bar.key, beats_per_bar=bar.metre[0],
            beat_unit=bar.metre[1], pickup_beats=Fraction(0), silence_beats=Fraction(0),
            tempo_bpm=tempo_at(jig, start), signs=cut_to(jig.signs, start, end),
            changes=_changes_in(jig, i, end),
        )
    )  # fmt: skip


def _changes_in(jig: Jig, first_bar: int, end: Fraction) -> tuple[Change, ...]:
    """What changes in the bars of a spot, which keep their numbers."""
    bars = jig.bars()[first_bar:]
    start = bars[0].start_beats
    full = Fraction(bars[0].metre[0] * 4, bars[0].metre[1])
    found = [
        Change(
            at_beats=Fraction(0), number=bars[0].number if bars[0].number != 1 else None,
            bar_beats=bars[0].length_beats if bars[0].length_beats != full else None,
        )
    ]  # fmt: skip
    found += [
        replace(c, at_beats=c.at_beats - start) for c in jig.changes if start < c.at_beats < end
    ]
    return tuple(c for c in found if c.key or c.metre or c.bar_beats or c.number is not None)


def with_fitting_aims(jig: Jig) -> Jig:
    """Without the aims that its events leave nothing of; none left: what the marks ask for."""
    there = {e.id for e in jig.events}
    kept = []
    for aim in jig.aims:
        places = tuple(p for p in aim.places if p in there)
        if aim.places and not places:
            continue
        if aim.kind == "contrast" and not echoes(jig):
            continue
        kept.append(replace(aim, places=places))
    return replace(jig, aims=tuple(kept))


def displaced(jig: Jig, pick_up: int, *, jig_id: str, title: str) -> Jig:
    """The same notes with ``pick_up`` of them before the first bar line (S3).

    Raises
    ------
    JigError
        If there are not so many notes, or they do not fit a bar.
    """
    if not 0 <= pick_up < len(jig.events):
        raise JigError(f"no {pick_up} notes of pick-up in a jig of {len(jig.events)}")
    bar_beats = Fraction(jig.beats_per_bar * 4, jig.beat_unit)
    before = jig.events[pick_up].onset_beats - jig.events[0].onset_beats
    if before > bar_beats:
        raise JigError(f"{pick_up} notes of pick-up are longer than a bar")
    shift = (bar_beats - before) % bar_beats - jig.events[0].onset_beats
    events = tuple(replace(e, onset_beats=e.onset_beats + shift) for e in jig.events)
    evenness = [] if any(a.kind == "even_run" for a in jig.aims) else aims("even_run")
    return replace(
        jig, id=jig_id, revision=1, title=title, events=events,
        derived_from=(jig.id, jig.revision), signs=shifted(jig.signs, Fraction(0), shift),
        changes=(), pickup_beats=Fraction(0),
        aims=(*evenness, *aims_of(jig))[:MOST_AIMS],
    )  # fmt: skip


DISPLACEMENTS = (2, 1, 0, 3)
"""Order of pick-ups (S3): two notes, one, then as written to see whether it helped, then three."""


def rebuilt(jig: Jig, first: int, last: int, *, jig_id: str, titles: Sequence[str]) -> list[Jig]:
    """A spot taken apart and put together (S2): a beat, the next, both, both with the landing note.

    Parameters
    ----------
    jig : Jig
    first, last : int
        Events of the spot.
    jig_id : str
        Ids of the steps are built on it.
    titles : sequence of str
        One for each step; at least five.
    """
    beats = _by_beat(jig.events[first : last + 1], first)
    spans: list[tuple[int, int]] = []
    for a, b in zip(beats, beats[1:], strict=False):
        spans += [a, b, (a[0], b[1]), (a[0], min(b[1] + 1, len(jig.events) - 1))]
    spans.append((first, last))
    unique = list(dict.fromkeys(spans))
    return [
        spot(jig, a, b, jig_id=f"{jig_id}.{k}", title=titles[min(k, len(titles) - 1)])
        for k, (a, b) in enumerate(unique)
    ]


def _by_beat(events: Sequence[Event], first: int) -> list[tuple[int, int]]:
    groups: dict[int, list[int]] = {}
    for k, event in enumerate(events):
        groups.setdefault(int(event.onset_beats), []).append(first + k)
    return [(g[0], g[-1]) for g in groups.values()]


def as_double_stops(jig: Jig, *, jig_id: str, title: str) -> Jig:
    """Neighbouring notes that lie on neighbouring strings, sounded together (D9).

    Raises
    ------
    JigError
        If no two neighbouring notes can be taken together.
    """
    strings = instrument(jig.instrument_id).strings
    events: list[Event] = []
    at = Fraction(0)
    i = 0
    found = False
    while i < len(jig.events):
        event = jig.events[i]
        pair = None
        if i + 1 < len(jig.events) and len(event.heads) == len(jig.events[i + 1].heads) == 1:
            pair = _stop(event, jig.events[i + 1], strings, jig.instrument_id)
        length = max(event.length_beats, Fraction(1))
        if pair is not None:
            found = True
            events.append(replace(pair, onset_beats=at, length_beats=length))
            i += 2
        else:
            events.append(replace(event, onset_beats=at, length_beats=length, bow=None))
            i += 1
        at += length
    if not found:
        raise JigError("no two neighbouring notes lie on neighbouring strings")
    bows = tuple(replace(e, bow="down" if k % 2 == 0 else "up") for k, e in enumerate(events))
    return replace(
        jig, id=jig_id, revision=1, title=title, events=bows,
        derived_from=(jig.id, jig.revision), signs=(), changes=(), pickup_beats=Fraction(0),
        silence_beats=Fraction(0), aims=aims("interval", "both_sound", "every_note"),
    )  # fmt: skip


def _stop(one: Event, two: Event, strings: Sequence[object], instrument_id: str) -> Event | None:
    a, b = one.heads[0], two.heads[0]
    low, high = (a, b) if a.pitch.midi <= b.pitch.midi else (b, a)
    if low.string is not None and high.string is not None:
        return replace(one, heads=(low, high)) if high.string - low.string == 1 else None
    lows = placings(low.pitch, strings, instrument_id)  # type: ignore[arg-type]
    highs = placings(high.pitch, strings, instrument_id)  # type: ignore[arg-type]
    near = any(
        q.string - p.string == 1 and (not p.finger or not q.finger or abs(p.hand - q.hand) < 1.6)
        for p in lows
        for q in highs
    )
    return replace(one, heads=(low, high)) if near and low.pitch != high.pitch else None


def tempo_steps(jig: Jig, *, slowest: float = 0.5, steps: int = 6) -> tuple[float, ...]:
    """Tempi from slow to the written one and a little beyond, evenly spaced in ratio (S4)."""
    low, high = jig.tempo_bpm * slowest, jig.tempo_bpm * 1.06
    return tuple(round(low * (high / low) ** (k / (steps - 1))) * 1.0 for k in range(steps))


def weak_spans(
    jig: Jig, trouble: Mapping[int, int], *, least: int = 2, around: int = 2, most: int = 3
) -> tuple[tuple[int, int], ...]:
    """Spans in which the last takes went wrong, the worst first.

    Parameters
    ----------
    jig : Jig
    trouble : mapping of int to int
        In how many takes each event was out, wrong or missing.
    least : int
        Takes that make an event weak: once is chance, twice is a spot.
    around : int
        Events taken along on either side; a spot needs the way into it and out of it.
    most : int
        Spans at most.
    """
    last = len(jig.events) - 1
    spans: list[tuple[int, int, int]] = []  # first, last, weight
    for i in sorted(i for i, n in trouble.items() if n >= least and 0 <= i <= last):
        first, stop = max(0, i - around), min(last, i + around)
        if spans and first <= spans[-1][1] + 1:
            spans[-1] = (spans[-1][0], stop, spans[-1][2] + trouble[i])
        else:
            spans.append((first, stop, trouble[i]))
    spans.sort(key=lambda s: (-s[2], s[0]))
    return tuple((first, stop) for first, stop, _ in spans[:most])
