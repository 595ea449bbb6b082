"""Aims of the bow: evenness, mirror, left-over bow, changes, crossings, length, strokes in time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import isfinite

from jigwright.core.gauge.values import BowEvent, Level, Pluck, Start, Stroke, Vibrato
from jigwright.core.gauge_maths import middle_with_range
from jigwright.core.jig.aims import OWN_BEST, Aim
from jigwright.core.jig.phrases import FEWEST_OF_A_WAY
from jigwright.core.judge.aims.outcome import (
    AimResult,
    Evidence,
    cannot_tell,
    held_against,
    third_of,
    weightiest,
)
from jigwright.core.judge.changes import ROOM_TAIL_S, place_of
from jigwright.core.judge.hidden import with_hidden_change, written_beats
from jigwright.core.judge.mirror import measure_mirror
from jigwright.core.values import Unmeasured, median

# a room that holds notes longer than this hides a lost contact among the waves of a vibrato
CONTACT_TAIL_S = ROOM_TAIL_S
# without one, rooms up to here show what is lost for 40 ms (``bench/aims.py --only even_bow``);
# longer ones fill it
STILL_CONTACT_TAIL_S = 0.12
# a wave of 6 Hz keeps 0.8 of its depth in a tail that falls by 60 dB in three times this
# (modulation transfer of an exponential decay, Houtgast & Steeneken 1985)
SHAKE_TAIL_S = 0.08
_ROOM_ONSET_MS = {"violin": 16.0, "viola": 20.0, "cello": 30.0, "bass": 45.0}
_STEADINESS_SHARE = 0.15  # uncertainty of one stroke's wavering
_STEADINESS_FLOOR_DB = 0.1
_HURRY_DB = 0.8
_CROSSING_DB, _ROOM_DB = 0.7, 4.0  # a room favours some notes
ONSET_MS = {"violin": 4.0, "viola": 5.0, "cello": 7.0, "bass": 10.0}  # heard onsets scatter so
_FAULTS_OF_CONTACT = ("bounce", "scratch", "whistle", "shake")
_SHORT_STROKES = 4


def _strokes(evidence: Evidence, aim: Aim) -> list[Stroke]:
    """Strokes of the notes asked, whichever attempt."""
    rows = set(evidence.rows(aim, again=True))
    return [s for s in evidence.playing.strokes if rows.intersection(s.rows)]


def _as_written(evidence: Evidence, aim: Aim, strokes: Sequence[Stroke]) -> bool:
    """Whether no change is hidden: no note uncertain, and in a room no stroke far too long."""
    asked = evidence.rows(aim, heard=False)
    if any(evidence.notes[r].standing == "uncertain" for r in asked):
        return False
    if not evidence.playing.in_room:
        return True
    return not with_hidden_change(
        strokes, written_beats([n.measured.lined for n in evidence.notes], evidence.jig)
    )


def _stroke_at(strokes: Sequence[Stroke], at_s: float) -> Stroke | None:
    return next((s for s in strokes if s.start_s <= at_s <= s.end_s), None)


def _in_stroke(result: AimResult, strokes: Sequence[Stroke], at_s: float) -> AimResult:
    stroke = _stroke_at(strokes, at_s)
    if stroke is None:
        return result
    share = (at_s - stroke.start_s) / max(stroke.end_s - stroke.start_s, 1e-6)
    way = stroke.direction if stroke.direction in ("down", "up") else ""
    return replace(result, at_s=at_s, part=third_of(share), direction=way)


def _worst_event(
    evidence: Evidence, aim: Aim, kinds: Sequence[str]
) -> tuple[BowEvent, list[Stroke]] | None:
    rows = set(evidence.rows(aim, again=True))
    found = [e for e in evidence.playing.events if e.kind in kinds and e.row in rows]
    if not found:
        return None
    order = {k: i for i, k in enumerate(kinds)}
    return min(found, key=lambda e: (order[e.kind], -e.strength)), _strokes(evidence, aim)


def even_bow(evidence: Evidence, aim: Aim) -> AimResult:
    """Contact kept, no scratch, and the level wavers little inside each stroke."""
    allowed = ("scratch",) if aim.way == "scratch_allowed" else ()  # lifting out of fear never is
    faults = tuple(f for f in _FAULTS_OF_CONTACT if f not in allowed)
    worst = _worst_event(evidence, aim, faults)
    limit = evidence.limit(aim)
    if worst is not None:
        event, strokes = worst
        result = AimResult(
            aim=aim, state="not_met", figure=event.strength, limit=limit, row=event.row,
            detail=event.kind,
        )  # fmt: skip
        return _in_stroke(result, strokes, 0.5 * (event.start_s + event.end_s))
    strokes = [s for s in _strokes(evidence, aim) if isfinite(s.steadiness_db)]
    if not strokes:
        return cannot_tell(aim, "too_short")
    longest_s = STILL_CONTACT_TAIL_S if _all_still(evidence, aim) else CONTACT_TAIL_S
    if evidence.playing.tail_s > longest_s:
        return cannot_tell(aim, "room_rings")
    if not _as_written(evidence, aim, strokes):
        return cannot_tell(aim, "changes_hidden")
    stroke = max(strokes, key=lambda s: s.steadiness_db)
    result = AimResult(
        aim=aim, state="met", figure=stroke.steadiness_db,
        uncertainty=_STEADINESS_FLOOR_DB + _STEADINESS_SHARE * stroke.steadiness_db,
        row=stroke.rows[0], direction=_way(stroke), detail="wavers",
    )  # fmt: skip
    return held_against(result, limit)


def _all_still(evidence: Evidence, aim: Aim) -> bool:
    """Whether every note asked is known to have no vibrato."""
    vibratos = [evidence.notes[r].measured.vibrato for r in evidence.rows(aim, again=True)]
    return all(isinstance(v, Vibrato) and not v.present for v in vibratos)


def _way(stroke: Stroke) -> str:
    return stroke.direction if stroke.direction in ("down", "up") else ""


def mirror(evidence: Evidence, aim: Aim) -> AimResult:
    """Down against up along the hair, in the tenth where they differ most."""
    found = measure_mirror(_strokes(evidence, aim))
    if isinstance(found, Unmeasured):
        return cannot_tell(aim, found.reason)
    result = AimResult(
        aim=aim, state="met", figure=abs(found.difference_db), uncertainty=found.uncertainty_db,
        part=found.part, direction=found.louder,
    )  # fmt: skip
    return held_against(result, evidence.limit(aim))


def left_over(evidence: Evidence, aim: Aim) -> AimResult:
    """Bow left over at the end of a stroke: a swell of its last eighth."""
    strokes = [s for s in _strokes(evidence, aim) if isfinite(s.end_hurry_db)]
    if not strokes:
        return cannot_tell(aim, "too_short")
    if not _as_written(evidence, aim, strokes):
        return cannot_tell(aim, "changes_hidden")
    limit = evidence.limit(aim)
    results = []
    for way in ("down", "up", "unknown"):
        mine = [s for s in strokes if s.direction == way]
        if not mine:
            continue
        usual, half = middle_with_range([s.end_hurry_db for s in mine])
        half = _HURRY_DB if len(mine) < _SHORT_STROKES else max(half, 0.3)
        worst = max(mine, key=lambda s: s.end_hurry_db)
        result = AimResult(
            aim=aim, state="met", figure=usual, uncertainty=half, row=worst.rows[-1],
            at_s=worst.end_s, part="end", direction=_way(worst), detail="swell",
        )  # fmt: skip
        results.append(held_against(result, limit))
    return weightiest(results)


def bow_change(evidence: Evidence, aim: Aim) -> AimResult:
    """The hole at the changes; at frog and tip apart, the longer one counts."""
    rows = set(evidence.rows(aim))
    changes = [c for c in evidence.playing.changes if c.rows[1] in rows]
    if evidence.playing.tail_s > ROOM_TAIL_S:
        return cannot_tell(aim, "room_rings")
    results = []
    for way in ("down", "up", "unknown"):
        mine = [c for c in changes if c.from_direction == way]
        if len(mine) < 2:
            continue
        usual, half = middle_with_range([c.gap_ms for c in mine])
        worst = max(mine, key=lambda c: c.gap_ms)
        result = AimResult(
            aim=aim, state="met", figure=usual, uncertainty=max(half, 5.0), row=worst.rows[1],
            at_s=worst.time_s, part={"down": "tip", "up": "frog"}.get(way, ""), detail="gap",
        )  # fmt: skip
        limit = evidence.limit(aim)
        if aim.way == OWN_BEST:
            limit = evidence.best.gap_ms.get(place_of(worst), limit)
        results.append(held_against(result, limit))
    return weightiest(results) if results else cannot_tell(aim, "too_few_strokes")


def crossing(evidence: Evidence, aim: Aim) -> AimResult:
    """No neighbour string, and the level carried across."""
    worst = _worst_event(evidence, aim, ("neighbour_string",))
    limit = evidence.limit(aim)
    if worst is not None:
        event, _ = worst
        return AimResult(
            aim=aim, state="not_met", figure=event.strength, limit=limit, row=event.row,
            at_s=event.start_s, detail="neighbour_string",
        )  # fmt: skip
    steps: dict[tuple[int, int], list[tuple[float, int, int]]] = {}
    rows = evidence.rows(aim)
    for before, after in zip(rows, rows[1:], strict=False):
        one, two = evidence.notes[before], evidence.notes[after]
        levels = one.measured.level, two.measured.level
        if after != before + 1 or one.string is None or two.string is None:
            continue
        if one.string == two.string:
            continue
        if isinstance(levels[0], Level) and isinstance(levels[1], Level):
            step_db = levels[1].mean_dbfs - levels[0].mean_dbfs
            steps.setdefault((one.string, two.string), []).append((step_db, before, after))
    # strings differ by themselves: what is heard is a crossing unlike the others of its pair
    off = []
    for pair in steps.values():
        if len(pair) >= FEWEST_OF_A_WAY:
            usual = median([step for step, _, _ in pair])
            # the weaker note of the two is the one that was lost
            off += [
                (abs(step - usual), after if step < usual else before)
                for step, before, after in pair
            ]
    if not off:
        return cannot_tell(aim, "too_few_strokes")
    worst_db, row = max(off)
    result = AimResult(
        aim=aim, state="met", figure=worst_db, row=row, detail="level",
        uncertainty=_ROOM_DB if evidence.playing.in_room else _CROSSING_DB,
    )  # fmt: skip
    return held_against(result, limit)


def duration(evidence: Evidence, aim: Aim) -> AimResult:
    """How long the longest stroke sounds, down and up apart; the shorter of the two decides.

    The clock runs until the sound stops, not until it wavers.
    """
    strokes = _strokes(evidence, aim)
    if not strokes:
        return cannot_tell(aim, "not_heard")
    results = []
    for way in ("down", "up", "unknown"):
        mine = [s for s in strokes if s.direction == way]
        if not mine:
            continue
        longest = max(mine, key=lambda s: s.end_s - s.start_s)
        result = AimResult(
            aim=aim, state="met", figure=longest.end_s - longest.start_s, uncertainty=0.05,
            row=longest.rows[0], direction=_way(longest),
        )  # fmt: skip
        limit = evidence.limit(aim)
        if aim.way == OWN_BEST:
            limit = evidence.best.stroke_s.get(way, limit)
        results.append(held_against(result, limit))
    return weightiest(results, least=True)


def evenness(evidence: Evidence, aim: Aim) -> AimResult:
    """Spacing of the notes in per cent of a step, and the worst of them."""
    timing = evidence.playing.timing
    if isinstance(timing, Unmeasured):
        return cannot_tell(aim, timing.reason)
    rows = set(evidence.rows(aim))
    if len(rows) < len(evidence.rows(aim, heard=False)):
        return cannot_tell(aim, "notes_missing")
    off = [
        (abs(ms), row)
        for ms, row in zip(timing.onset_error_ms, timing.rows, strict=True)
        if row in rows
    ]
    if len(off) < 6 or not isfinite(timing.evenness_time):
        return cannot_tell(aim, "too_few")
    step_ms = 60_000.0 / timing.tempo_bpm * _usual_step_beats(evidence, rows)
    onset_ms = ONSET_MS.get(evidence.jig.instrument_id, 8.0)
    if evidence.playing.tail_s > ROOM_TAIL_S:
        onset_ms += _ROOM_ONSET_MS.get(evidence.jig.instrument_id, 20.0)
    heard_share = 100.0 * onset_ms / step_ms
    # what is heard scatters by the player's spacing and by the hearing's own onsets
    share = max(timing.evenness_time**2 - heard_share**2, 0.0) ** 0.5
    by_chance = 1.96 * timing.evenness_time / (2.0 * (len(off) - 1)) ** 0.5
    result = AimResult(
        aim=aim, state="met", figure=share, uncertainty=by_chance + 0.5 * heard_share,
        row=max(off)[1],
    )  # fmt: skip
    return held_against(result, evidence.limit(aim))


def _usual_step_beats(evidence: Evidence, rows: set[int]) -> float:
    lengths = [float(evidence.jig.events[evidence.event(r)].length_beats) for r in rows]
    return median(lengths)


def start(evidence: Evidence, aim: Aim) -> AimResult:
    """Time to the full tone."""
    rows = evidence.rows(aim)
    times = [
        (1000.0 * found.attack_s, row)
        for row in rows
        if isinstance(found := evidence.notes[row].measured.start, Start)
        and isfinite(found.attack_s)
    ]
    if len(times) < 2:
        return cannot_tell(aim, "too_few_strokes")
    usual, half = middle_with_range([t for t, _ in times])
    result = AimResult(
        aim=aim, state="met", figure=usual, uncertainty=max(half, 5.0), row=max(times)[1],
        part="beginning",
    )  # fmt: skip
    return held_against(result, evidence.limit(aim))


def soft(evidence: Evidence, aim: Aim) -> AimResult:
    """No shaking."""
    rows = evidence.rows(aim)
    levels = [evidence.notes[r].measured.level for r in rows]
    if not any(isinstance(v, Level) and isfinite(v.range_db) for v in levels):
        return cannot_tell(aim, "too_short")
    limit = evidence.limit(aim)
    worst = _worst_event(evidence, aim, ("shake",))
    if worst is None:
        if evidence.playing.tail_s > SHAKE_TAIL_S:
            return cannot_tell(aim, "room_rings")
        # a wave that was not told from others is no shaking, nor is it none
        tremors = [(v.tremor_db, r) for v, r in zip(levels, rows, strict=True)
                   if isinstance(v, Level) and isfinite(v.tremor_db)]  # fmt: skip
        most_db, row = max(tremors, default=(0.0, None))
        result = AimResult(
            aim=aim, state="met", figure=most_db, row=row,
            uncertainty=_STEADINESS_FLOOR_DB + _STEADINESS_SHARE * most_db,
        )  # fmt: skip
        judged = held_against(result, limit)
        if judged.state == "not_met":
            return replace(judged, state="cannot_tell", reason="near_limit")
        return judged
    event, strokes = worst
    result = AimResult(
        aim=aim, state="not_met", figure=event.strength, limit=limit, row=event.row, detail="shake"
    )
    stroke = _stroke_at(strokes, 0.5 * (event.start_s + event.end_s))
    return replace(result, direction=_way(stroke)) if stroke is not None else result


def pluck(evidence: Evidence, aim: Aim) -> AimResult:
    """Evenness of plucked notes."""
    levels = [
        (found.level_dbfs, row)
        for row in evidence.rows(aim)
        if isinstance(found := evidence.notes[row].measured.pluck, Pluck)
    ]
    if len(levels) < 4:
        return cannot_tell(aim, "too_few")
    values = [v for v, _ in levels]
    usual = median(values)
    worst, row = max((abs(v - usual), row) for v, row in levels)
    unsure = _ROOM_DB if evidence.playing.in_room else 1.0
    result = AimResult(aim=aim, state="met", figure=worst, uncertainty=unsure, row=row)
    return held_against(result, evidence.limit(aim))
