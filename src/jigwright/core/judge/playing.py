"""What is measured over notes: strokes, changes, events, time and lengths."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jigwright.core.gauge.bow import BowedNote, Direction, measure_bow
from jigwright.core.gauge.events import (
    EventParams,
    find_events,
    fold_events,
    neighbour_event,
    whistle_events,
)
from jigwright.core.gauge.timing import against_clicks, measure_timing
from jigwright.core.gauge.values import AgainstClicks, BowChange, BowEvent, Pluck, Stroke, Timing
from jigwright.core.isolation import FAILED, isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.changes import ROOM_TAIL_S
from jigwright.core.judge.hidden import (
    with_hidden_change,
    without_changes_noise,
    written_beats,
)
from jigwright.core.judge.measured import MeasuredNote, is_turning
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.decay import tail_s as ends_tail_s
from jigwright.core.sound.heard import Heard, Pair
from jigwright.core.sound.ranges import is_room
from jigwright.core.values import Unmeasured

_BESIDE_S = 0.05  # two notes together may reach over the ends of the one that is written


@dataclass(frozen=True, slots=True, kw_only=True)
class Playing:
    """Measures of a whole take.

    Parameters
    ----------
    strokes : tuple of Stroke
    changes : tuple of BowChange
    events : tuple of BowEvent
    timing : Timing or Unmeasured
    sounding_ratio : tuple of float or None
        Sounding share of the written length, one value a row; ``None`` where nothing is written.
    tail_s : float
        How long notes linger in this take; NaN when that was not seen.
    in_room : bool
        Whether it came through a room, by its tails or else by its periods.
    against : AgainstClicks or Unmeasured or None
        The onsets of ``timing`` against the metronome that sounded; ``None`` where none did.
    failed : frozenset of str
        ``strokes``, ``events``: what is empty since its gauge failed, not since there was none.
    """

    strokes: tuple[Stroke, ...]
    changes: tuple[BowChange, ...]
    events: tuple[BowEvent, ...]
    timing: Timing | Unmeasured
    sounding_ratio: tuple[float | None, ...]
    tail_s: float = float("nan")
    in_room: bool = False
    against: AgainstClicks | Unmeasured | None = None
    failed: frozenset[Literal["strokes", "events"]] = frozenset()


def with_clicks(
    playing: Playing, measured: Sequence[MeasuredNote], jig: Jig | None,
    clicks: tuple[float, float] | None,
) -> Playing:  # fmt: skip
    """Hold a take's onsets against the metronome that sounded while it was played.

    Parameters
    ----------
    playing : Playing
    measured : sequence of MeasuredNote
    jig : Jig or None
    clicks : tuple of (float, float) or None
        First click on a beat, in seconds of the take, and beats a minute.
    """
    timing = playing.timing
    if clicks is None or jig is None or isinstance(timing, Unmeasured):
        return playing
    rows = [(measured[r].segment, measured[r].lined.i_event) for r in timing.rows]
    told = [(s.onset_s, float(jig.events[i].onset_beats)) for s, i in rows
            if s is not None and i is not None]  # fmt: skip
    onsets, beats = np.array([t for t, _ in told]), np.array([b for _, b in told])
    return replace(playing, against=against_clicks(onsets, beats, *clicks))


def measure_playing(
    heard: Heard,
    measured: Sequence[MeasuredNote],
    jig: Jig | None,
    open_hz: Mapping[Pitch, float],
) -> Playing:
    """Measure strokes, changes, events and time of a lined-up take.

    Parameters
    ----------
    heard : Heard
    measured : sequence of MeasuredNote
    jig : Jig or None
    open_hz : mapping of Pitch to float
        Open strings, for the neighbour string.
    """
    failed: set[Literal["strokes", "events"]] = set()
    bow = isolated("strokes", lambda: bow_of(heard, measured, jig), None)
    if bow is None:
        failed.add("strokes")
    strokes, changes = bow or ((), ())
    timing = isolated("timing", lambda: timing_of(measured, jig), FAILED)
    lingers_s = room_tail_s(heard)
    in_room = is_room(heard.segments, lingers_s)
    found = isolated("events", lambda: _events(heard, measured, jig, open_hz, lingers_s), None)
    if found is None:
        failed.add("events")
    events = found or ()
    if in_room and jig is not None:
        beats = written_beats([m.lined for m in measured], jig)
        events = without_changes_noise(events, with_hidden_change(strokes, beats))
    return Playing(
        strokes=strokes,
        changes=changes,
        events=events,
        timing=timing,
        sounding_ratio=tuple(_ratio(m, jig, timing) for m in measured),
        tail_s=lingers_s,
        in_room=in_room,
        failed=frozenset(failed),
    )


def room_tail_s(heard: Heard) -> float:
    """How long notes linger, under the next one or at their ends; NaN when neither was seen."""
    ends_s = isolated(
        "tails of notes",
        lambda: ends_tail_s(heard.contours, heard.segments, heard.noise_dbfs),
        float("nan"),
    )
    return float(np.fmax(ends_s, heard.tail_s))


def bow_of(
    heard: Heard, measured: Sequence[MeasuredNote], jig: Jig | None
) -> tuple[tuple[Stroke, ...], tuple[BowChange, ...]]:
    """Only the strokes and changes of a take, for pictures of many takes."""
    return measure_bow(heard.contours, _bowed(heard, measured, jig), heard.turns or ())


def _bowed(heard: Heard, measured: Sequence[MeasuredNote], jig: Jig | None) -> list[BowedNote]:
    written = jig is not None and any(e.bow is not None for e in jig.events)
    directions: list[Direction] = []
    if jig is not None:
        now: Direction = "unknown"
        for written_event in jig.events:
            now = written_event.bow or now
            directions.append(now)
    notes = []
    for row, m in enumerate(measured):
        if m.segment is None:
            continue
        i = m.lined.i_event
        known = written and i is not None and m.lined.state in ("played", "retry")
        event = jig.events[i] if jig is not None and known and i is not None else None
        notes.append(
            BowedNote(
                row=row,
                parts=tuple(heard.segments[k] for k in m.lined.segments),
                direction=directions[i] if event is not None and i is not None else "unknown",
                new_stroke=None if event is None else event.bow is not None,
                turning=is_turning(m.lined),
            )
        )
    return notes


def _events(
    heard: Heard,
    measured: Sequence[MeasuredNote],
    jig: Jig | None,
    open_hz: Mapping[Pitch, float],
    lingers_s: float,
) -> tuple[BowEvent, ...]:
    events = _folds(heard, measured, jig, open_hz)
    own = {m.segment.i_pair for m in measured if m.segment is not None}
    for row, m in enumerate(measured):
        if m.segment is None or isinstance(m.pluck, Pluck) or is_turning(m.lined):
            continue
        events += find_events(
            heard.contours, row, m.segment, m.level, m.vibrato, EventParams(),
            falls=heard.falls, bursts=heard.bursts, swings=heard.swings, tail_s=lingers_s,
        )  # fmt: skip
        pair = _sounding_beside(m, heard.pairs, own)
        if pair is not None:
            left_hz = float("nan")
            before = measured[row - 1].segment if row else None
            if before is not None and lingers_s > ROOM_TAIL_S:
                left_hz = before.f0_hz
            beside = neighbour_event(pair, row, m.lined.pitch, open_hz, left_hz=left_hz)
            events += [beside] if beside is not None else []
    whistles = whistle_events(heard.whistles, [_place(m) for m in measured])
    drowned = [e for e in events if any(_overlap(e, w) for w in whistles) and e.kind != "fold"]
    kept = [e for e in events if e not in drowned]
    return tuple(sorted([*kept, *whistles], key=lambda e: e.start_s))


def _sounding_beside(m: MeasuredNote, pairs: Sequence[Pair], own: set[int]) -> Pair | None:
    """Two notes that sounded for part of a written single one and are no row of their ``own``."""
    if m.segment is None or m.lined.i_event is None or m.lined.lower is not None:
        return None
    if m.segment.i_pair >= 0:
        return pairs[m.segment.i_pair]
    start_s, end_s = m.segment.onset_s, m.segment.offset_s
    inside = [
        p
        for i, p in enumerate(pairs)
        if i not in own and start_s - _BESIDE_S < p.onset_s and p.offset_s < end_s + _BESIDE_S
    ]
    return max(inside, key=lambda p: p.offset_s - p.onset_s, default=None)


def _place(m: MeasuredNote) -> tuple[float, float]:
    if m.segment is None or isinstance(m.pluck, Pluck):
        return float("nan"), float("nan")
    return m.segment.onset_s, m.segment.offset_s


def _overlap(a: BowEvent, b: BowEvent) -> bool:
    return a.start_s - 0.1 < b.end_s and a.end_s + 0.1 > b.start_s


def _folds(
    heard: Heard,
    measured: Sequence[MeasuredNote],
    jig: Jig | None,
    open_hz: Mapping[Pitch, float],
) -> list[BowEvent]:
    """Harmonics that sounded another partial of their string."""
    strings = list(open_hz.values())
    events: list[BowEvent] = []
    for row, m in enumerate(measured):
        i = m.lined.i_event
        if jig is None or i is None or m.lined.state in ("extra", "retry"):
            continue
        head = jig.events[i].heads[-1]
        if head.partial < 2 or head.string is None or head.string >= len(strings):
            continue
        before = [
            n.segment.offset_s for n in measured[:row] if n.lined.state == "played" and n.segment
        ]
        after = [
            n.segment.onset_s
            for n in measured[row + 1 :]
            if n.lined.state == "played" and n.segment
        ]
        start_s = m.segment.onset_s if m.segment else max(before, default=0.0)
        stop_s = min(after, default=heard.duration_s)
        inside = [
            s for s in heard.segments if s.onset_s >= start_s - 0.02 and s.onset_s < stop_s - 0.02
        ]
        base_hz = strings[head.string]
        if head.stopped is not None:
            above = head.stopped.midi - list(open_hz)[head.string].midi
            base_hz *= 2 ** (above / 12)
        events += fold_events(inside, row, base_hz, head.partial)
    return events


def timing_of(measured: Sequence[MeasuredNote], jig: Jig | None) -> Timing | Unmeasured:
    """Only the time of a take."""
    if jig is None:
        return Unmeasured("no_jig")
    rows, onsets, beats, levels = [], [], [], []
    for row, m in enumerate(measured):
        i = m.lined.i_event
        if m.segment is not None and i is not None and m.lined.state == "played":
            rows.append(row)
            onsets.append(m.segment.onset_s)
            beats.append(float(jig.events[i].onset_beats))
            levels.append(m.segment.level_dbfs)
    return measure_timing(rows, np.array(onsets), np.array(beats), np.array(levels))


def _ratio(m: MeasuredNote, jig: Jig | None, timing: Timing | Unmeasured) -> float | None:
    i = m.lined.i_event
    if jig is None or m.segment is None or i is None or isinstance(timing, Unmeasured):
        return None
    written_s = float(jig.events[i].length_beats) * 60.0 / timing.tempo_bpm
    return (m.segment.offset_s - m.segment.onset_s) / written_s
