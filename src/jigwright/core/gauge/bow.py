"""Strokes and bow changes, as far as they can be heard.

A stroke reaches from one bow change to the next. A change is a dip of the level between two notes
or inside one; its depth is the lower shoulder minus the minimum, within 120 ms. Whether a bow goes
down or up cannot be heard: that is the jig's bowing, else unknown. That it turned can, where one
pitch goes on (:mod:`jigwright.core.sound.polarity`); it is a change then, whatever the level does.
A room fills dips: depth and gap are then too small, never too large. Stops longer than a quarter of
a second are not changes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jigwright.core.gauge.values import BowChange, Stroke
from jigwright.core.gauge_maths import robust_line
from jigwright.core.sound.curves import frames_between, middle, roughness_db
from jigwright.core.sound.heard import HOP_S, BowTurn, Contours, Segment
from jigwright.core.sound.polarity import surely_turned, way_of
from jigwright.core.values import Floats, median, percentiles

METHOD_VERSION = 1
Direction = Literal["down", "up", "unknown"]
_LEAST_FRAMES_OF_TENTHS = 100
_STOP_S = 0.25
_LEAST_DIP_DB, _ALIKE_DB = 3.0, 0.2
_BEFORE_S, _AFTER_S = 0.06, 0.0  # the hole lies before what sounds again
_STROKE_DB = 2.0  # less is the beating of two notes in a room
_BROKEN_SLUR_DB = 9.0  # where a slur is written, only such a fall is a bow that turned in it


@dataclass(frozen=True, slots=True, kw_only=True)
class BowedNote:
    """A heard note as the bow gauge needs it.

    Parameters
    ----------
    row : int
    parts : tuple of Segment
        What it was heard as.
    direction : Direction
        Written direction of the stroke it belongs to.
    new_stroke : bool or None
        Whether the writing asks for a new stroke here; ``None``: not written.
    turning : bool
        A trill or another ornament goes on inside it, in one bow.
    """

    row: int
    parts: tuple[Segment, ...]
    direction: Direction
    new_stroke: bool | None
    turning: bool = False


def measure_bow(
    contours: Contours, notes: Sequence[BowedNote], turns: Sequence[BowTurn] = ()
) -> tuple[tuple[Stroke, ...], tuple[BowChange, ...]]:
    """Find strokes and changes.

    Parameters
    ----------
    contours : Contours
    notes : sequence of BowedNote
        In time order.
    turns : sequence of BowTurn
        Where one pitch begins again, and which way round.
    """
    at = {round(t.time_s / HOP_S): t for t in turns}
    pieces = [(n, s) for n in notes for s in n.parts]
    groups: list[list[tuple[BowedNote, Segment]]] = []
    for note, segment in pieces:
        first = segment is note.parts[0]
        turn = at.get(round(segment.onset_s / HOP_S))
        if not groups or _begins(groups[-1][-1], note, segment, first, turn):
            groups.append([(note, segment)])
        else:
            groups[-1].append((note, segment))
    strokes = tuple(_stroke(contours, g) for g in groups)
    changes = []
    for a, b in zip(groups, groups[1:], strict=False):
        if b[0][1].onset_s - a[-1][1].offset_s > _STOP_S:
            continue
        change = _change(contours, a[-1], b[0])
        if change is not None:
            turn = at.get(round(b[0][1].onset_s / HOP_S))
            changes.append(change if turn is None else replace(change, heard_way=way_of(turn)))
    return strokes, tuple(changes)


def _begins(
    before: tuple[BowedNote, Segment],
    note: BowedNote,
    segment: Segment,
    first: bool,
    turn: BowTurn | None,
) -> bool:
    """Whether a new stroke begins here: heard so, or written so."""
    gap_s = segment.onset_s - before[1].offset_s
    if gap_s > _STOP_S:
        return True
    if note.turning and not first:
        return False
    if turn is not None and surely_turned(turn):
        return True
    if note.new_stroke:
        return first
    if note.new_stroke is not None:
        return segment.attack_db >= _BROKEN_SLUR_DB
    return not segment.slurred and segment.attack_db >= _STROKE_DB


def _change(
    contours: Contours, before: tuple[BowedNote, Segment], after: tuple[BowedNote, Segment]
) -> BowChange | None:
    at_s = after[1].onset_s
    near = frames_between(contours, at_s - _BEFORE_S, at_s + _AFTER_S)
    level = contours.level_db[near]
    if not len(level):
        return None
    # where nothing falls it is when the note begins
    lowest = near.start + int(np.flatnonzero(level <= level.min() + _ALIKE_DB)[-1])
    time_s = lowest * HOP_S
    shoulders = [
        _high(contours.level_db[frames_between(contours, time_s - 0.12, time_s)]),
        _high(contours.level_db[frames_between(contours, time_s + HOP_S, time_s + 0.12)]),
    ]
    shoulder = min(shoulders)
    dip = shoulder - float(contours.level_db[lowest])
    around = frames_between(contours, time_s - 0.12, time_s + 0.12)
    below = contours.level_db[around] < shoulder - 6.0
    length_s = after[1].offset_s - at_s
    later = contours.level_db[
        frames_between(contours, at_s + min(0.2, 0.4 * length_s), at_s + min(0.5, 0.8 * length_s))
    ]
    bump_part = contours.level_db[
        frames_between(contours, at_s + 0.02, at_s + min(0.18, 0.4 * length_s))
    ]
    rough = roughness_db(contours.clarity)
    steady = middle(rough[frames_between(contours, after[1].core_start_s, after[1].core_end_s)])
    return BowChange(
        time_s=time_s,
        from_direction=before[0].direction,
        to_direction=after[0].direction,
        rows=(before[0].row, after[0].row),
        dip_db=max(0.0, dip),
        gap_ms=float(np.count_nonzero(below) * HOP_S * 1000.0) if dip > 6.0 else 0.0,
        bump_db=max(0.0, float(np.max(bump_part)) - middle(later))
        if len(bump_part) and len(later)
        else float("nan"),
        noise_db=float(np.max(rough[around]) - steady),
        pitch_jolt_cents=_jolt(contours, before[1], after[1]),
    )


def _high(level: Floats) -> float:
    return percentiles(level, 80)[0] if len(level) else -140.0


def _jolt(contours: Contours, before: Segment, after: Segment) -> float:
    """Largest excursion just after a change on one pitch; NaN when the pitch changes."""
    if abs(1200.0 * np.log2(after.f0_hz / before.f0_hz)) > 40.0:
        return float("nan")
    part = contours.f0_hz[frames_between(contours, after.onset_s + 0.03, after.onset_s + 0.12)]
    part = part[np.isfinite(part)]
    if len(part) < 6:
        return float("nan")
    cents = 1200.0 * np.log2(part / after.f0_hz)
    return float(cents[int(np.argmax(np.abs(cents)))])


def _stroke(contours: Contours, group: list[tuple[BowedNote, Segment]]) -> Stroke:
    start_s, end_s = group[0][1].onset_s, group[-1][1].offset_s
    length_s = end_s - start_s
    inner = frames_between(
        contours, start_s + min(0.1, 0.25 * length_s), end_s - min(0.08, 0.2 * length_s)
    )
    level = contours.level_db[inner]
    steadiness = hurry = float("nan")
    slope = 0.0
    if len(level) >= 30:
        t_s = np.arange(len(level)) * HOP_S
        bend = np.polyfit(t_s, level, 2)
        left = level - np.polyval(bend, t_s)
        steadiness = float(1.48 * median(np.abs(left - median(left))))
        slope, _ = robust_line(t_s, level)
        lead = slice(int(0.5 * len(t_s)), int(0.85 * len(t_s)))
        late_slope, late = robust_line(t_s[lead], level[lead])
        last = level[int(0.88 * len(level)) :]
        hurry = float(median(last) - (late + late_slope * t_s[int(0.94 * len(t_s))]))
    rows = tuple(dict.fromkeys(n.row for n, _ in group))
    return Stroke(
        start_s=start_s, end_s=end_s, direction=group[0][0].direction, rows=rows,
        steadiness_db=steadiness, end_hurry_db=hurry, slope_db_per_s=slope,
        mean_dbfs=middle(level) if len(level) else float("nan"), tenths_db=_tenths(level),
    )  # fmt: skip


def _tenths(level: Floats) -> tuple[float, ...]:
    if len(level) < _LEAST_FRAMES_OF_TENTHS:
        return ()
    usual = median(level)
    return tuple(median(part) - usual for part in np.array_split(level, 10))
