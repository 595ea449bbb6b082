"""Every gauge of every lined-up note; independent of A, reference and tolerances."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from math import hypot, log2
from typing import TypeVar

import numpy as np

from jigwright.core.follow.scraps import is_arrival, main_piece
from jigwright.core.follow.values import LinedNote, LinedUp
from jigwright.core.gauge.arrival import ArrivalParams, Before, measure_arrival
from jigwright.core.gauge.level import LevelParams, measure_level
from jigwright.core.gauge.ornament import measure_trill
from jigwright.core.gauge.pluck import PluckParams, measure_pluck
from jigwright.core.gauge.ring_place import RingPlace
from jigwright.core.gauge.start import measure_start
from jigwright.core.gauge.tone import measure_tone
from jigwright.core.gauge.two_strings import measure_double
from jigwright.core.gauge.values import (
    Arrival,
    Double,
    Level,
    Pluck,
    Ring,
    Start,
    Tone,
    Trilled,
    Vibrato,
)
from jigwright.core.gauge.vibrato import VibratoParams, measure_vibrato, room_ratio
from jigwright.core.isolation import FAILED, isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.resonance import ring_of, ring_place
from jigwright.core.sound.decay import tail_s
from jigwright.core.sound.frame_params import usual_window_s
from jigwright.core.sound.heard import HOP_S, Heard, Segment
from jigwright.core.values import Unmeasured

T = TypeVar("T")


NO_ORNAMENT = Unmeasured("no_ornament")
_NOT_YET = Unmeasured("not_yet")


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredNote:
    """One row with its gauges.

    Parameters
    ----------
    lined : LinedNote
    segment : Segment or None
        ``None`` for a missed note.
    arrival, vibrato, level, tone, start, double, ring, pluck
        The measure or why it was refused.
    trill
        Where an ornament was heard or is written.
    """

    lined: LinedNote
    segment: Segment | None
    arrival: Arrival | Unmeasured
    vibrato: Vibrato | Unmeasured
    level: Level | Unmeasured
    tone: Tone | Unmeasured
    start: Start | Unmeasured
    double: Double | Unmeasured
    ring: Ring | Unmeasured
    pluck: Pluck | Unmeasured
    trill: Trilled | Unmeasured = NO_ORNAMENT


_LEAST_DOUBT_CENTS = 2.0  # pieces surer than this count by their length alone


def analysis_blur_s(heard: Heard, instrument_id: str) -> float:
    """Half the analysis window in seconds; the usual one where a take does not say its own."""
    return 0.5 * (heard.window_s or usual_window_s(instrument_id))


def measure_notes(
    heard: Heard, lined: LinedUp, instrument_id: str, jig: Jig | None = None
) -> tuple[MeasuredNote, ...]:
    """Run the gauges over a take."""
    return tuple(measure_some(heard, lined.notes, instrument_id, jig))


def measure_some(
    heard: Heard, notes: Sequence[LinedNote], instrument_id: str, jig: Jig | None
) -> Iterator[MeasuredNote]:
    """Run the gauges note by note, for takes so long that they are measured in portions."""
    blur_s = analysis_blur_s(heard, instrument_id)
    ends_s = isolated(
        "tails of notes",
        lambda: tail_s(heard.contours, heard.segments, heard.noise_dbfs),
        float("nan"),
    )
    ends_s = float(np.fmax(ends_s, heard.tail_s))
    ratio = isolated(
        "vibratos in the room",
        lambda: room_ratio(heard.contours, heard.segments, VibratoParams(), window_s=2.0 * blur_s),
        1.0,
    )
    rings: RingPlace | Unmeasured = isolated(
        "what rings", lambda: ring_place(heard, notes, jig, instrument_id, tail_s=ends_s), FAILED
    )
    room = _Place(ends_s=ends_s, vibrato_ratio=ratio)
    for note in notes:
        one = _measure(heard, note, blur_s, room, _plucked(note, jig))
        yield replace(one, ring=_gauge("ring", partial(_ring, rings, one, jig)))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Place:
    """What the place does to every note of a take: ends, how much vibratos shrink."""

    ends_s: float
    vibrato_ratio: float


def _plucked(note: LinedNote, jig: Jig | None) -> bool | None:
    if jig is None:
        return None
    return note.i_event is not None and jig.events[note.i_event].pluck


def _measure(
    heard: Heard,
    note: LinedNote,
    blur_s: float,
    place: _Place,
    plucked: bool | None,
) -> MeasuredNote:
    if not note.segments:
        why = Unmeasured("hidden" if note.state == "uncertain" else "not_heard")
        return MeasuredNote(
            lined=note, segment=None, arrival=why, vibrato=why, level=why, tone=why, start=why,
            double=why, ring=why, pluck=why,
        )  # fmt: skip
    segment = segment_of(note, heard.segments)
    own = own_segment(note, heard.segments)
    pair = heard.pairs[segment.i_pair] if segment.i_pair >= 0 else None
    curves = heard.contours
    vibrato: Vibrato | Unmeasured = Unmeasured("two_notes")
    arrival: Arrival | Unmeasured = Unmeasured("two_notes")
    turning = is_turning(note)
    if turning:
        vibrato, arrival = Unmeasured("ornament"), Unmeasured("ornament")
    elif pair is None:
        vibrato = _gauge(
            "vibrato",
            lambda: measure_vibrato(
                curves,
                own,
                VibratoParams(),
                window_s=2.0 * blur_s,
                room_ratio=place.vibrato_ratio,
                ends_s=place.ends_s,
            ),
        )
        arrival = _gauge(
            "arrival",
            lambda: measure_arrival(
                curves,
                own,
                vibrato,
                ArrivalParams(),
                blur_s=blur_s,
                before=_before(heard.segments, (note.main or note.segments)[0], place.ends_s),
            ),
        )
    written = None
    if note.lower is not None:
        written = 100.0 * (note.pitch.midi - note.lower.midi)
    return MeasuredNote(
        lined=note,
        segment=segment,
        arrival=arrival,
        vibrato=vibrato,
        level=_gauge("level", lambda: measure_level(curves, own, vibrato, LevelParams())),
        tone=_gauge("tone", lambda: measure_tone(curves, segment)),
        start=_gauge("start", lambda: measure_start(curves, segment, blur_s=blur_s)),
        double=_gauge(
            "double", lambda: measure_double(pair, segment, written, tail_s=place.ends_s)
        ),
        ring=_NOT_YET,
        pluck=_gauge(
            "pluck", lambda: measure_pluck(curves, segment, PluckParams(), written=plucked)
        ),
        trill=_gauge("trill", lambda: _trill(heard, note)),
    )


def _ring(rings: RingPlace | Unmeasured, one: MeasuredNote, jig: Jig | None) -> Ring | Unmeasured:
    if one.segment is None:
        return one.ring
    return ring_of(rings, one.lined, one.segment, jig, one.vibrato)


def is_turning(note: LinedNote) -> bool:
    """Whether other notes go on inside it, so that its pitch is no single line."""
    return bool(note.main) and any(i > note.main[0] for i in note.segments if i not in note.main)


def own_segment(note: LinedNote, segments: Sequence[Segment]) -> Segment:
    """What sounded of a row without the ornaments that belong to it.

    Parameters
    ----------
    note : LinedNote
        With one segment at least.
    segments : sequence of Segment
    """
    return merge_segments([segments[i] for i in note.main or note.segments])


def segment_of(note: LinedNote, segments: Sequence[Segment]) -> Segment:
    """What sounded of a row: the borders of all its pieces, the pitch of its own ones.

    Parameters
    ----------
    note : LinedNote
        With one segment at least.
    segments : sequence of Segment
    """
    own = own_segment(note, segments)
    first = segments[note.segments[0]]
    ends_s = max(segments[i].offset_s for i in note.segments)  # not always that of the last
    return replace(
        own, onset_s=first.onset_s, offset_s=ends_s, attack_db=first.attack_db,
        slurred=first.slurred,
    )  # fmt: skip


def _trill(heard: Heard, note: LinedNote) -> Trilled | Unmeasured:
    if not is_turning(note):
        return Unmeasured("not_turned") if note.ornament == "trill" else NO_ORNAMENT
    parts = [heard.segments[i] for i in note.segments]
    return measure_trill(parts, [i in note.main for i in note.segments])


def _before(segments: Sequence[Segment], i: int, ends_s: float) -> Before | None:
    """The note before a segment."""
    if i == 0:
        return None
    one = segments[i - 1]
    return Before(f0_hz=one.f0_hz, offset_s=one.offset_s, tail_s=ends_s)


def _gauge(name: str, run: Callable[[], T | Unmeasured]) -> T | Unmeasured:
    """Let a gauge measure; one that raises refuses, the others go on."""
    return isolated(name, run, FAILED)


def merge_segments(parts: list[Segment]) -> Segment:
    """One note that was cut in pieces: borders of all, pitch of all, else the longest.

    Each piece counts by its length and by how well it tells its pitch; as far as the pieces lead
    away from the longest, so much wider is the range. A first piece of another pitch is what the
    note before left in its beginning; one that lies beside the note and leads into it is its
    arrival and tells nothing of where it settled.
    """
    if len(parts) == 1:
        return parts[0]
    longest = main_piece(parts)
    same = [s for s in parts if abs(1200 * log2(s.f0_hz / longest.f0_hz)) < 80]
    if same[0] is parts[0] and is_arrival(parts[0], parts[1]):
        same = same[1:]
    weight = [
        max(HOP_S, s.core_end_s - s.core_start_s)
        / max(_LEAST_DOUBT_CENTS, s.uncertainty_cents) ** 2
        for s in same
    ]
    shift = sum(
        w * 1200 * log2(s.f0_hz / longest.f0_hz) for w, s in zip(weight, same, strict=True)
    ) / sum(weight)
    covered_s = parts[0].covered_s
    if abs(1200 * log2(parts[0].f0_hz / longest.f0_hz)) >= 80:
        covered_s = same[0].onset_s - parts[0].onset_s + same[0].covered_s
    return replace(
        longest,
        f0_hz=longest.f0_hz * 2.0 ** (shift / 1200.0),
        uncertainty_cents=hypot(longest.uncertainty_cents, shift),
        covered_s=covered_s,
        onset_s=parts[0].onset_s,
        offset_s=parts[-1].offset_s,
        attack_db=parts[0].attack_db,
        slurred=parts[0].slurred,
    )
