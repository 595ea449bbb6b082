"""Aims of pitch, tone, time and two strings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from math import isfinite
from typing import cast

import numpy as np

from jigwright.core.gauge.values import AgainstClicks, Arrival, Double, Level, Vibrato
from jigwright.core.gauge_maths import middle_with_range
from jigwright.core.jig.aims import (
    FEWEST_DOTTED,
    SINGING_RATIO,
    SINGING_WIDTH,
    Aim,
    goes_back,
)
from jigwright.core.jig.phrases import (
    Statements,
    dotted_pairs,
    echoes,
    marked_loudness,
    written_shapes,
)
from jigwright.core.jig.signs import DYNAMICS
from jigwright.core.judge.aims.outcome import (
    AimResult,
    Evidence,
    cannot_tell,
    held_against,
    weightiest,
)
from jigwright.core.judge.changes import ROOM_TAIL_S
from jigwright.core.judge.judging import WRONG_NOTE_CENTS
from jigwright.core.judge.marking import came_again, is_free, is_off
from jigwright.core.judge.phrasing import measure_contrast, measure_pairs
from jigwright.core.values import Unmeasured

_TOLD_SHARE = 0.9
_STILL_CENTS = 4.0  # of a contour that holds no vibrato; in a long room 29 c of one leave 5
_SURELY_ALONE = 0.5  # of two strings; more may be the room's
_PAIR_DB = 0.5
_CLEAR_SHARE = 0.6  # of the shifts: those that slid are the first to be unclear
_LEAST_LANDINGS = 3


def every_note(evidence: Evidence, aim: Aim) -> AimResult:
    """No written note left out."""
    rows = [
        r for r in evidence.rows(aim, heard=False) if not is_free(evidence.notes[r], evidence.jig)
    ]
    missed = [r for r in rows if evidence.notes[r].standing == "missed"]
    limit = evidence.limit(aim)
    if len(missed) > limit:
        return AimResult(
            aim=aim, state="not_met", figure=float(len(missed)), limit=limit, row=missed[0]
        )
    unsure = [r for r in rows if evidence.notes[r].standing == "uncertain"]
    if unsure:
        return cannot_tell(aim, "hidden_note", row=unsure[0])
    return AimResult(aim=aim, state="met", figure=float(len(missed)), limit=limit)


def pitch(evidence: Evidence, aim: Aim) -> AimResult:
    """No note off beyond the tolerance and its own uncertainty."""
    rows = evidence.rows(aim)
    notes = evidence.notes
    limit = evidence.limit(aim)
    off = [r for r in rows if is_off(notes[r], evidence.jig, tolerance_cents=limit)]
    if goes_back(evidence.jig):  # the second arrival counts, and is an aim of its own
        off = [r for r in off if not came_again(r, notes)]
    if off:
        worst = max(off, key=lambda r: (notes[r].standing == "wrong", abs(notes[r].cents or 0.0)))
        return AimResult(
            aim=aim, state="not_met", figure=abs(notes[worst].cents or 0.0), limit=limit,
            uncertainty=notes[worst].uncertainty_cents, row=worst,
            detail="wrong" if notes[worst].standing == "wrong" else "",
        )  # fmt: skip
    told = [r for r in rows if notes[r].cents is not None and notes[r].uncertainty_cents <= limit]
    if not rows or len(told) < _TOLD_SHARE * len(rows):
        return cannot_tell(aim, "pitch_unclear" if rows else "not_heard")
    if goes_back(evidence.jig):
        told = [r for r in told if not came_again(r, notes)] or told
    worst = max(told, key=lambda r: abs(notes[r].cents or 0.0))
    return AimResult(
        aim=aim, state="met", figure=abs(notes[worst].cents or 0.0), limit=limit, row=worst,
        uncertainty=notes[worst].uncertainty_cents,
    )  # fmt: skip


def second_arrival(evidence: Evidence, aim: Aim) -> AimResult:
    """After going back the same note again: where it arrived then."""
    limit = evidence.limit(aim)
    tries = [
        (r, n)
        for r, n in enumerate(evidence.notes)
        if n.measured.lined.attempt > 1 and n.measured.segment is not None and n.cents is not None
    ]
    if not tries:
        first_off = any(
            is_off(evidence.notes[r], evidence.jig, tolerance_cents=limit)
            for r in evidence.rows(aim)
        )
        if first_off:
            return cannot_tell(aim, "not_gone_back")
        return AimResult(aim=aim, state="met", figure=0.0, limit=limit)
    last: dict[int | None, int] = {}
    for r, n in tries:
        last[n.measured.lined.i_event] = r
    worst = max(last.values(), key=lambda r: abs(evidence.notes[r].cents or 0.0))
    note = evidence.notes[worst]
    result = AimResult(
        aim=aim, state="met", figure=abs(note.cents or 0.0), uncertainty=note.uncertainty_cents,
        row=worst,
    )  # fmt: skip
    return held_against(result, limit)


def hand_frame(evidence: Evidence, aim: Aim) -> AimResult:
    """Spread of the landings of each finger on its place, pooled over the take."""
    places: dict[str, list[tuple[float, int]]] = {}
    for r in evidence.rows(aim):
        note = evidence.notes[r]
        if note.finger and note.cents is not None and note.standing != "wrong":
            places.setdefault(f"{note.string}.{note.pitch}", []).append((note.cents, r))
    groups = [g for g in places.values() if len(g) >= _LEAST_LANDINGS]
    n = sum(len(g) for g in groups)
    if n < 10:
        return cannot_tell(aim, "too_few_landings")
    left = [(c - float(np.mean([c for c, _ in g])), r) for g in groups for c, r in g]
    freedom = n - len(groups)
    spread = float((sum(d * d for d, _ in left) / freedom) ** 0.5)
    result = AimResult(
        aim=aim, state="met", figure=spread, uncertainty=1.96 * spread / (2.0 * freedom) ** 0.5,
        row=max(left, key=lambda d: abs(d[0]))[1],
    )  # fmt: skip
    return held_against(result, evidence.limit(aim))


def shift(evidence: Evidence, aim: Aim) -> AimResult:
    """Where the notes reached by a shift arrive first; a slow glide is wanted at its stage."""
    asked = 0
    arrivals = []
    for r in evidence.rows(aim):
        event = evidence.jig.events[evidence.event(r)]
        if event.bow is not None or (aim.way == "slow" and event.glide):
            continue
        asked += 1
        found = evidence.notes[r].measured.arrival
        if isinstance(found, Arrival) and isfinite(found.first_cents):
            arrivals.append((abs(found.first_cents), r))
    if len(arrivals) < max(2.0, _CLEAR_SHARE * asked):
        return cannot_tell(aim, "arrivals_unclear")
    usual, half = middle_with_range([c for c, _ in arrivals])
    result = AimResult(
        aim=aim, state="met", figure=usual, uncertainty=max(half, 1.0), row=max(arrivals)[1]
    )
    return held_against(result, evidence.limit(aim))


def interval(evidence: Evidence, aim: Aim) -> AimResult:
    """Every stop's interval against the chosen reference."""
    rows = [r for r in evidence.rows(aim) if evidence.notes[r].measured.lined.lower is not None]
    told = [
        (abs(j.interval_error_cents), d.uncertainty_cents, r)
        for r in rows
        if (j := evidence.notes[r].double) is not None
        and isinstance(d := evidence.notes[r].measured.double, Double)
    ]
    # where neither note is near what is written another pair was found in the mixture
    lost = [
        r
        for r in rows
        if (j := evidence.notes[r].double) is not None
        and min(abs(j.lower_cents), abs(j.upper_cents)) > WRONG_NOTE_CENTS
    ]
    if lost:
        return cannot_tell(aim, "stops_unclear", row=lost[0])
    if not rows or len(told) < _TOLD_SHARE * len(rows):
        return cannot_tell(aim, "stops_unclear" if rows else "no_stops")
    error, half, row = max(told, key=lambda t: t[0] - t[1])
    result = AimResult(aim=aim, state="met", figure=error, uncertainty=half, row=row)
    return held_against(result, evidence.limit(aim))


def both_sound(evidence: Evidence, aim: Aim) -> AimResult:
    """Share of the time in which both strings sound."""
    rows = [r for r in evidence.rows(aim) if evidence.notes[r].measured.lined.lower is not None]
    told = [
        (d.both_ratio, r)
        for r in rows
        if isinstance(d := evidence.notes[r].measured.double, Double) and isfinite(d.both_ratio)
    ]
    if not rows or len(told) < _TOLD_SHARE * len(rows):
        return cannot_tell(aim, "stops_unclear" if rows else "no_stops")
    share, row = min(told)
    result = AimResult(aim=aim, state="met", figure=share, uncertainty=0.03, row=row)
    judged = held_against(result, evidence.limit(aim))
    if judged.state == "not_met" and evidence.playing.in_room and share > _SURELY_ALONE:
        return replace(judged, state="cannot_tell", reason="room_rings")
    return judged


def balance(evidence: Evidence, aim: Aim) -> AimResult:
    """Level of the two strings against each other, and against each alone where that was played."""
    told = [
        (b.db, b.uncertainty_db, r)
        for r in evidence.rows(aim)
        if isfinite((b := evidence.notes[r].balance).db)
    ]
    if len(told) < 2:
        return cannot_tell(aim, "balance_unclear")
    usual, half = middle_with_range([b for b, _, _ in told])
    half = max(half, float(np.median([u for _, u, _ in told])) / len(told) ** 0.5)
    limit = evidence.limit(aim)
    lead = {"lower": -1.0, "upper": 1.0}.get(aim.way)
    if lead is not None:
        result = AimResult(aim=aim, state="met", figure=lead * usual, uncertainty=half)
        return held_against(result, limit, sense="least")
    worst = max(told, key=lambda t: abs(t[0]))[2]
    result = AimResult(
        aim=aim, state="met", figure=abs(usual), uncertainty=half, row=worst,
        detail="upper" if usual > 0 else "lower",
    )  # fmt: skip
    return held_against(result, limit)


def direction(evidence: Evidence, aim: Aim) -> AimResult:
    """Change of level along the long notes against the shape that is marked."""
    asked = 0
    results = []
    shapes = written_shapes(evidence.jig)
    for r in evidence.rows(aim):
        shape = shapes[evidence.event(r)]
        if shape is None:
            continue
        asked += 1
        level, segment = evidence.notes[r].measured.level, evidence.notes[r].measured.segment
        if not isinstance(level, Level) or segment is None or not isfinite(level.slope_db_per_s):
            continue
        length_s = segment.offset_s - segment.onset_s
        if shape in ("grow", "fade"):
            change = level.slope_db_per_s * length_s * (1.0 if shape == "grow" else -1.0)
        elif shape == "level":
            continue
        else:
            change = level.range_db if level.shape == shape else 0.0
        results.append((change, r, shape))
    if not results:
        return cannot_tell(aim, "too_short" if asked else "no_shapes")
    change, row, shape = min(results)
    result = AimResult(aim=aim, state="met", figure=change, uncertainty=0.8, row=row, detail=shape)
    return held_against(result, evidence.limit(aim))


def contrast(evidence: Evidence, aim: Aim) -> AimResult:
    """Statements of the same words: how many decibels apart, in the marked direction.

    Where several echoes are asked for, the one that differs least decides.
    """
    asked = set(aim.places)
    found = [
        pair for pair in echoes(evidence.jig)
        if not asked or asked.issuperset(evidence.jig.events[i].id for half in pair for i in half)
    ]  # fmt: skip
    if not found:
        return cannot_tell(aim, "no_statements")
    row_of = {evidence.event(r): r for r in evidence.rows(aim)}
    results = [_contrast(evidence, aim, pair, row_of) for pair in found]
    return weightiest(results, least=True)


def _contrast(evidence: Evidence, aim: Aim, pair: Statements, row_of: dict[int, int]) -> AimResult:
    pairs = [
        (row_of[a], row_of[b]) for a, b in zip(*pair, strict=True) if a in row_of and b in row_of
    ]
    measured = [n.measured for n in evidence.notes]
    told = measure_contrast(measured, [a for a, _ in pairs], [b for _, b in pairs])
    row = row_of.get(pair[1][0])
    if isinstance(told, Unmeasured):
        return cannot_tell(aim, told.reason, row=row)
    first, second = (marked_loudness(evidence.jig, half[0]) for half in pair)
    sign = -1.0 if first and second and DYNAMICS.index(first) < DYNAMICS.index(second) else 1.0
    result = AimResult(
        aim=aim, state="met", figure=sign * told.loudness_db, uncertainty=told.uncertainty_db,
        row=row, detail=f"{first or ''}-{second or ''}",
    )  # fmt: skip
    return held_against(result, evidence.limit(aim))


def pairs(evidence: Evidence, aim: Aim) -> AimResult:
    """Slurs of two: the second against the first."""
    asked = set(evidence.rows(aim))
    told = [
        p
        for p in measure_pairs([n.measured for n in evidence.notes], evidence.jig)
        if p.rows[0] in asked
    ]
    if len(told) < _LEAST_LANDINGS:
        return cannot_tell(aim, "too_few")
    usual, half = middle_with_range([p.second_db for p in told])
    worst = max(told, key=lambda p: p.second_db)
    result = AimResult(
        aim=aim, state="met", figure=usual, uncertainty=max(half, _PAIR_DB), row=worst.rows[1]
    )
    return held_against(result, evidence.limit(aim))


def held(evidence: Evidence, aim: Aim) -> AimResult:
    """Sounding share of the written length; wanted gaps are left out."""
    ratios = evidence.playing.sounding_ratio
    told = [
        (float(cast("float", ratios[r])), r)
        for r in evidence.rows(aim)
        if ratios[r] is not None and not evidence.jig.events[evidence.event(r)].lifted
    ]
    if not told:
        return cannot_tell(aim, "not_measured")
    usual, half = middle_with_range([s for s, _ in told])
    result = AimResult(
        aim=aim, state="met", figure=usual, uncertainty=min(max(half, 0.02), 0.2), row=min(told)[1]
    )
    return held_against(result, evidence.limit(aim))


def dotted(evidence: Evidence, aim: Aim) -> AimResult:
    """Long against short from onset to onset, for the character that is meant."""
    onset = {
        evidence.event(r): (segment.onset_s, r)
        for r in evidence.rows(Aim(kind="dotted"))
        if (segment := evidence.notes[r].measured.segment) is not None
    }
    asked = set(aim.places)
    told = []
    for i in dotted_pairs(evidence.jig):
        if asked and evidence.jig.events[i].id not in asked:
            continue
        if all(k in onset for k in (i, i + 1, i + 2)):
            long_s = onset[i + 1][0] - onset[i][0]
            short_s = onset[i + 2][0] - onset[i + 1][0]
            if min(long_s, short_s) > 0.01:
                told.append((float(np.log(long_s / short_s)), onset[i + 1][1]))
    if len(told) < FEWEST_DOTTED:
        return cannot_tell(aim, "too_few")
    usual, half = middle_with_range([v for v, _ in told])
    ratio = float(np.exp(usual))
    width = ratio * min(half, 1.0)
    if aim.way == "singing":
        away = abs(ratio - SINGING_RATIO)
        row = max(told, key=lambda t: abs(t[0] - float(np.log(SINGING_RATIO))))[1]
        judged = held_against(
            AimResult(aim=aim, state="met", figure=away, uncertainty=width, row=row),
            SINGING_WIDTH, sense="most",
        )  # fmt: skip
        detail = "lazy" if ratio < SINGING_RATIO else "snapped"
        return AimResult(
            aim=aim, state=judged.state, figure=ratio, uncertainty=width, limit=SINGING_RATIO,
            row=row, detail=detail, reason=judged.reason,
        )  # fmt: skip
    result = AimResult(
        aim=aim, state="met", figure=ratio, uncertainty=width, row=min(told)[1], detail="lazy"
    )
    return held_against(result, evidence.limit(aim))


def _restless(evidence: Evidence, row: int) -> bool:
    segment = evidence.notes[row].measured.segment
    return segment is not None and segment.spread_cents > _STILL_CENTS


def vibrato(evidence: Evidence, aim: Aim) -> AimResult:
    """Vibrato where it is asked for, none where none is."""
    wrong, unclear = [], 0
    asked = 0
    for r in evidence.rows(aim):
        wanted = evidence.jig.events[evidence.event(r)].vibrato
        if wanted is None:
            continue
        asked += 1
        found = evidence.notes[r].measured.vibrato
        if not isinstance(found, Vibrato):
            unclear += 1
        elif wanted and not found.present and _restless(evidence, r):
            unclear += 1  # it moved, but not as a vibrato that was recognised
        elif found.present is not wanted:
            wrong.append((r, "missing" if wanted else "unasked"))
    if not asked:
        return cannot_tell(aim, "no_marks")
    limit = evidence.limit(aim)
    if len(wrong) > limit:
        return AimResult(
            aim=aim, state="not_met", figure=float(len(wrong)), limit=limit, row=wrong[0][0],
            detail=wrong[0][1],
        )  # fmt: skip
    if unclear > 0.1 * asked:
        return cannot_tell(aim, "vibrato_unclear")
    return AimResult(aim=aim, state="met", figure=float(len(wrong)), limit=limit)


def partial(evidence: Evidence, aim: Aim) -> AimResult:
    """The written harmonic speaks, and no other."""
    rows = set(evidence.rows(aim))
    folds = [e for e in evidence.playing.events if e.kind == "fold" and e.row in rows]
    limit = evidence.limit(aim)
    if folds and evidence.playing.tail_s > ROOM_TAIL_S:
        # the partial played before may ring on: that is no fold
        return cannot_tell(aim, "room_rings", row=folds[0].row)
    if len(folds) > limit:
        return AimResult(
            aim=aim, state="not_met", figure=float(len(folds)), limit=limit, row=folds[0].row,
            at_s=folds[0].start_s, detail="fold",
        )  # fmt: skip
    return AimResult(aim=aim, state="met" if rows else "cannot_tell", figure=0.0, limit=limit,
                     reason="" if rows else "not_heard")  # fmt: skip


def entry(evidence: Evidence, aim: Aim) -> AimResult:
    """Notes after a rest, against the metronome that sounded or else the player's own pulse."""
    timing, clicks = evidence.playing.timing, evidence.playing.against
    if isinstance(timing, Unmeasured):
        return cannot_tell(aim, timing.reason)
    by_click = isinstance(clicks, AgainstClicks)
    late_ms = clicks.late_ms if isinstance(clicks, AgainstClicks) else timing.onset_error_ms
    late = dict(zip(timing.rows, late_ms, strict=True))
    events = evidence.jig.events
    told = [
        (abs(late[r]), r)
        for r in evidence.rows(aim)
        if r in late
        and (i := evidence.event(r)) > 0
        and events[i].onset_beats > events[i - 1].end_beats
    ]
    if not told:
        return cannot_tell(aim, "no_rests")
    worst, row = max(told)
    result = AimResult(
        aim=aim, state="met", figure=worst, uncertainty=15.0, row=row,
        detail=("late" if late[row] > 0 else "early") + ("_by_click" if by_click else ""),
    )  # fmt: skip
    return held_against(result, evidence.limit(aim))


MUSIC: dict[str, Callable[[Evidence, Aim], AimResult]] = {
    "every_note": every_note, "pitch": pitch, "second_arrival": second_arrival,
    "hand_frame": hand_frame, "shift": shift, "interval": interval, "both_sound": both_sound,
    "balance": balance, "direction": direction, "contrast": contrast, "pairs": pairs,
    "held": held, "dotted": dotted, "vibrato": vibrato, "partial": partial, "entry": entry,
}  # fmt: skip
