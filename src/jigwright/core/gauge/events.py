"""Things that happen inside a note: contact breaks, scratch, whistle, shake, a neighbour string.

Thresholds follow what bowed strings show: vibrato moves the level by 2 … 5 dB in waves of
60 … 90 ms; a skitter digs 7 … 23 dB for 20 … 40 ms and is rough; scratch is rough without a dip;
tremor is a level wave of 4 … 12 Hz with the pitch still. Beginnings and ends of strokes are left
out: the start gauge and the change gauge speak of them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge.values import BowEvent, Level, Vibrato
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.curves import frames_between, middle, roughness_db, runs_of
from jigwright.core.sound.disturbances import EDGE_S, rough_runs
from jigwright.core.sound.heard import (
    HOP_S,
    Burst,
    Contours,
    Fall,
    LevelSwing,
    Pair,
    Segment,
    Whistle,
)
from jigwright.core.values import Unmeasured, percentiles

METHOD_VERSION = 7
_LEFT_CENTS = 35.0


@dataclass(frozen=True, slots=True, kw_only=True)
class EventParams:
    """Limits of the event gauge.

    Parameters
    ----------
    dip_db, dip_s, dip_rough_db : float
        Least depth, greatest width and least roughness rise of a contact break.
    scratch_between_db, scratch_room_edge_s : float
        Where the note is rough, the gaps between its partials rise by so much (clean takes: up to
        12 dB); in rooms what rings on from before is waited for first.
    shake_db : float
        Least tremor, peak to peak, of the whole and of nearly all partials in step with it; a bow
        that only wanders in its pressure stays below.
    edge_s : float
        Left out at both ends of a note.
    together_db, together_vibrato_db, together_room_db, room_tail_s : float
        At a contact break nearly all partials fall by so much at once: planted ones of 8 … 18 dB
        show 11 … 25 dry and 8 … 17 in small rooms (notes linger up to 0.13 s). Clean notes without
        vibrato had no dip that could be one, in no room; with vibrato up to 8.3 dry, and in rooms
        (longer than ``room_tail_s``) waves reach 13.
    """

    dip_db: float = 6.5
    dip_s: float = 0.09
    dip_rough_db: float = 4.0
    scratch_between_db: float = 12.0
    scratch_room_edge_s: float = 0.18
    shake_db: float = 3.6
    edge_s: float = EDGE_S
    together_db: float = 8.0
    together_vibrato_db: float = 10.0
    together_room_db: float = 14.0
    room_tail_s: float = 0.065


def find_events(
    contours: Contours,
    row: int,
    segment: Segment,
    level: Level | Unmeasured,
    vibrato: Vibrato | Unmeasured,
    params: EventParams,
    *,
    falls: Sequence[Fall] | None = None,
    bursts: Sequence[Burst] | None = None,
    swings: Sequence[LevelSwing] | None = None,
    tail_s: float = float("nan"),
) -> list[BowEvent]:
    """Events inside one note.

    Parameters
    ----------
    contours : Contours
    row : int
        Row of the note.
    segment : Segment
        The whole note, its pieces joined.
    level, vibrato
        The note's other gauges.
    params : EventParams
    falls : sequence of Fall, optional
        Dips of the level and how much of the sound falls there; ``None``: that is not known.
    bursts : sequence of Burst, optional
        Rough stretches and what rises between the partials there; ``None`` likewise.
    swings : sequence of LevelSwing, optional
        Waves of level and how far the partials go with them; ``None`` likewise.
    tail_s : float
        How long notes linger in this take.
    """
    if segment.i_pair >= 0:
        return []
    found: list[BowEvent] = []
    begins_s = segment.onset_s + segment.covered_s  # until then the note before sounds as well
    inside = frames_between(
        contours, begins_s + params.edge_s, segment.offset_s - params.edge_s
    )  # fmt: skip
    if (inside.stop - inside.start) * HOP_S > 0.12:
        found += [
            e
            for e in _breaks(contours, row, inside, params)
            if falls is None or _all_falls(e, falls, _least_fall_db(vibrato, tail_s, params))
        ]
        found += [
            e
            for e in _scratches(contours, row, inside, found)
            if bursts is None or _between_rises(e, bursts, segment.onset_s, tail_s, params)
        ]
    still = not (isinstance(vibrato, Vibrato) and vibrato.present)
    still &= not found  # a break or a scratch moves the level too
    tremor_db = level.tremor_db if isinstance(level, Level) else float("nan")
    together = swings is None or _all_swings(segment, swings, params)
    if tremor_db >= params.shake_db and still and together:
        found.append(
            BowEvent(
                kind="shake", start_s=segment.onset_s, end_s=segment.offset_s, row=row,
                strength=tremor_db,
            )
        )  # fmt: skip
    return found


def _breaks(contours: Contours, row: int, inside: slice, params: EventParams) -> list[BowEvent]:
    level = contours.level_db[inside]
    rough = roughness_db(contours.clarity[inside])
    usual = middle(rough)
    around = round(0.15 / HOP_S)
    events: list[BowEvent] = []
    i = 1
    while i < len(level) - 1:
        a, b = max(0, i - around), min(len(level), i + around + 1)
        if level[i] > level[a:b].min():
            i += 1
            continue
        shoulder = min(percentiles(level[a : i + 1], 80)[0], percentiles(level[i:b], 80)[0])
        depth = shoulder - float(level[i])
        low = level[a:b] < shoulder - 0.5 * depth
        start, stop = next(((s, e) for s, e in runs_of(low) if s <= i - a < e), (0, 0))
        jump = float(np.max(rough[max(0, i - 6) : i + 7])) - usual
        if (
            depth >= params.dip_db
            and 0 < (stop - start) * HOP_S <= params.dip_s
            and jump >= params.dip_rough_db
        ):
            events.append(
                BowEvent(
                    kind="bounce", start_s=(inside.start + a + start) * HOP_S,
                    end_s=(inside.start + a + stop) * HOP_S, row=row, strength=depth,
                )
            )  # fmt: skip
            i += around // 2
        i += 1
    return events


def _least_fall_db(vibrato: Vibrato | Unmeasured, tail_s: float, params: EventParams) -> float:
    """How far the partials of a break fall at once, where nothing else moves them so far."""
    if isinstance(vibrato, Vibrato) and not vibrato.present:
        return params.together_db
    return params.together_room_db if tail_s > params.room_tail_s else params.together_vibrato_db


def _all_falls(event: BowEvent, falls: Sequence[Fall], least_db: float) -> bool:
    """Whether nearly all partials fall at a break, and not only some as in a wave."""
    return any(
        event.start_s - 0.02 <= f.time_s <= event.end_s + 0.02 and f.together_db >= least_db
        for f in falls
    )


def _between_rises(
    event: BowEvent,
    bursts: Sequence[Burst],
    onset_s: float,
    tail_s: float,
    params: EventParams,
) -> bool:
    """Whether what is rough is noise between the partials, and not what rings from before."""
    room = tail_s > params.room_tail_s
    if room and event.start_s < onset_s + params.scratch_room_edge_s:
        return False
    return any(
        b.start_s < event.end_s
        and b.end_s > event.start_s
        and b.between_db >= params.scratch_between_db
        for b in bursts
    )


def _all_swings(segment: Segment, swings: Sequence[LevelSwing], params: EventParams) -> bool:
    """Whether nearly all partials swing with the level, as under a bow that shakes."""
    return any(
        s.start_s < segment.offset_s
        and s.end_s > segment.onset_s
        and s.together_db >= params.shake_db
        for s in swings
    )


def _scratches(
    contours: Contours, row: int, inside: slice, breaks: Sequence[BowEvent]
) -> list[BowEvent]:
    rough, level = roughness_db(contours.clarity[inside]), contours.level_db[inside]
    events = []
    for a, b in rough_runs(contours.clarity[inside]):
        start_s, end_s = (inside.start + a) * HOP_S, (inside.start + b) * HOP_S
        at_break = any(e.start_s - 0.05 < end_s and e.end_s + 0.05 > start_s for e in breaks)
        quiet = middle(level[a:b]) < middle(level) - 6.0
        if not at_break and not quiet:
            strength = float(np.mean(rough[a:b])) - middle(rough)
            events.append(
                BowEvent(kind="scratch", start_s=start_s, end_s=end_s, row=row, strength=strength)
            )
    return events


def fold_events(
    segments: Sequence[Segment], row: int, open_hz: float, partial: int
) -> list[BowEvent]:
    """Where a natural harmonic sounded another partial of its string.

    Parameters
    ----------
    segments : sequence of Segment
        Everything heard from the note's beginning to the next note.
    row : int
    open_hz : float
        The open string.
    partial : int
        The partial meant.
    """
    found = []
    for s in segments:
        order = round(s.f0_hz / open_hz)
        near = order >= 1 and abs(1200.0 * np.log2(s.f0_hz / open_hz / order)) < 30.0
        if near and order != partial and s.offset_s - s.onset_s >= 0.06:
            found.append(
                BowEvent(
                    kind="fold", start_s=s.onset_s, end_s=s.offset_s, row=row, strength=float(order)
                )
            )
    return found


def whistle_events(
    whistles: Sequence[Whistle], places: Sequence[tuple[float, float]]
) -> list[BowEvent]:
    """Whistles, each given to the note it lies in or nearest to.

    Parameters
    ----------
    whistles : sequence of Whistle
    places : sequence of (float, float)
        Begin and end of every row in seconds; NaN where nothing was heard.
    """
    begin, end = np.array(places, dtype=np.float64).reshape(-1, 2).T
    if not np.isfinite(begin).any():
        return []
    found = []
    for w in whistles:
        middle = 0.5 * (w.start_s + w.end_s)
        off = np.maximum(0.0, np.maximum(begin - middle, middle - end))
        row = int(np.nanargmin(off))
        found.append(
            BowEvent(
                kind="whistle", start_s=w.start_s, end_s=w.end_s, row=row, strength=w.above_tone_db
            )
        )
    return found


def neighbour_event(
    pair: Pair,
    row: int,
    written: Pitch,
    open_hz: Mapping[Pitch, float],
    *,
    left_hz: float = float("nan"),
) -> BowEvent | None:
    """An open string that sounds beside a single written note.

    Parameters
    ----------
    pair : Pair
    row : int
    written : Pitch
    open_hz : mapping of Pitch to float
    left_hz : float
        Pitch of the note just left, where a room keeps it: what sounds on of it is no neighbour.
    """
    for string, hz in open_hz.items():
        if string.midi == written.midi:
            continue
        near = [f for f in (pair.lower_hz, pair.upper_hz) if abs(1200.0 * np.log2(f / hz)) < 35.0]
        if any(abs(1200.0 * np.log2(f / left_hz)) < _LEFT_CENTS for f in near):
            continue
        if near:
            return BowEvent(
                kind="neighbour_string", start_s=pair.onset_s, end_s=pair.offset_s, row=row,
                strength=abs(pair.balance_db) if np.isfinite(pair.balance_db) else 0.0,
            )  # fmt: skip
    return None
