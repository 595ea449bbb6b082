"""The result of an analysis as plain data: schema ``jigwright.result/1`` (docs/formats.md)."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Sequence
from typing import Any

from jigwright import __version__
from jigwright.core.follow.stretches import stretches
from jigwright.core.gauge.values import (
    Arrival,
    Double,
    Level,
    Pluck,
    Start,
    StopArrival,
    StringRing,
    Stroke,
    Tone,
    Trilled,
    Vibrato,
)
from jigwright.core.jig.aims import AimKind
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.judge.playing import Playing
from jigwright.core.judge.verdict import bar_of, judge_at_once
from jigwright.core.music.references import GoodPlace
from jigwright.core.values import Unmeasured
from jigwright.services.analysing import Analysed
from jigwright.wording.aims import aim_sentence, why_untold
from jigwright.wording.findings import finding_sentence, reason_text
from jigwright.wording.verdicts import verdict_line, verdict_word

SCHEMA = "jigwright.result/1"


def result_dict(
    analysed: Analysed, *, file: str, context: Context, jig: Jig | None
) -> dict[str, Any]:
    """Build the result of one file; holds no NaN or infinity."""
    heard, judged = analysed.heard, analysed.judged
    tuning = judged.tuning
    return {
        "schema": SCHEMA,
        "program": {"name": "jigwright", "version": __version__},
        "source": {
            "file": file,
            "sample_rate_hz": heard.sample_rate_hz,
            "duration_s": round(heard.duration_s, 5),
            "channels": heard.n_channels,
            "measured_channel": heard.i_channel,
            "noise_dbfs": round(heard.noise_dbfs, 1),
            "warnings": list(heard.warnings),
            "stretches": [
                [s.kind, round(s.start_s, 2), round(s.end_s, 2)] for s in stretches(heard)
            ],
            "talks": [[round(t.start_s, 2), round(t.end_s, 2)] for t in heard.talks or ()],
        },
        "context": {
            "instrument": context.instrument_id,
            "strings": [str(s) for s in context.strings],
            "a4_hz": context.a4_hz,
            "reference": context.reference.name,
            "jig": jig.title if jig is not None else None,
        },
        "tuning": {
            "estimated_a4_hz": _number(tuning.estimated_a4_hz, 2),
            "best_reference": tuning.best_reference,
            "confidence": _number(tuning.confidence, 2),
            "n_telling_notes": tuning.n_telling,
            "by_reference": {name: round(rms, 2) for name, rms in tuning.by_reference},
        },
        "notes": [
            _note(i, n, judged.playing.sounding_ratio[i] if judged.playing else None, context)
            for i, n in enumerate(judged.notes)
        ],
        **_playing(judged.playing, judged.notes),
        "aims": [_aim(r, jig, judged.notes) for r in judged.aims],
        "verdict": _verdict(judged, jig),
        "findings": [
            {
                "id": f.id,
                "severity": round(f.severity, 2),
                "sentence": finding_sentence(f),
                "notes": list(f.notes),
                "evidence": {k: round(float(v), 3) for k, v in f.values.items()},
            }
            for f in judged.findings
        ],
    }


def _aim(result: AimResult, jig: Jig | None, notes: Sequence[JudgedNote]) -> dict[str, Any]:
    reason = why_untold(result.reason) if result.state == "cannot_tell" else None
    return {
        "kind": result.aim.kind,
        "places": list(result.aim.places),
        "limit": _number(result.limit, 3),
        "state": result.state,
        "figure": _number(result.figure, 3),
        "unit": result.unit,
        "uncertainty": _number(result.uncertainty, 3),
        "note": result.row,
        "at_s": _number(result.at_s, 3),
        "part": result.part or None,
        "direction": result.direction or None,
        "detail": result.detail or None,
        "reason": reason,
        "sentence": aim_sentence(result, bar_of(result.row, notes, jig)),
    }


def _verdict(judged: Judged, jig: Jig | None) -> dict[str, Any] | None:
    """What the Stand would say of this take alone."""
    if jig is None:
        return None
    said = judge_at_once(judged.notes, jig, aims=judged.aims)
    word, line = verdict_word(said, direction=True), verdict_line(said, direction=True)
    kind = said.aim.aim.kind if said.aim is not None else None
    named: dict[str, AimKind] = {
        "listen": "pitch", "direction": "pitch", "wrong": "pitch", "missed": "every_note",
        "unsure": "every_note",
    }  # fmt: skip
    return {
        "sentence": f"{word}. {line}" if line else word,
        "aim": kind or named.get(said.kind),
        "note": said.row,
        "kind": said.kind,
    }


def _number(value: float | None, digits: int) -> float | None:
    if value is None or not math.isfinite(value):
        return None
    return round(value, digits)


def _playing(playing: Playing | None, notes: Sequence[JudgedNote]) -> dict[str, Any]:
    """Strokes, changes, events and time."""
    if playing is None:
        names = ("strokes", "changes", "events", "timing")
        empty: dict[str, Any] = {"strokes": [], "changes": [], "events": [], "timing": None}
        return empty | {"unmeasured": {name: reason_text("not_yet") for name in names}}
    timing = playing.timing
    unmeasured = {}
    if isinstance(timing, Unmeasured):
        unmeasured["timing"] = reason_text(timing.reason)
    return {
        "strokes": [
            {
                "start_s": _number(s.start_s, 4), "end_s": _number(s.end_s, 4),
                "direction": s.direction, "notes": list(s.rows),
                "level_shape": _stroke_shape(s, notes),
                "steadiness_db": _number(s.steadiness_db, 2),
                "end_hurry": _number(s.end_hurry_db, 2), "mean_dbfs": _number(s.mean_dbfs, 2),
            }
            for s in playing.strokes
        ],
        "changes": [
            {
                "time_s": _number(c.time_s, 4), "from": c.from_direction, "to": c.to_direction,
                "notes": list(c.rows), "dip_db": _number(c.dip_db, 2),
                "gap_ms": _number(c.gap_ms, 1), "heard_way": c.heard_way,
                "bump_db": _number(c.bump_db, 2), "noise_db": _number(c.noise_db, 2),
                "pitch_jolt_cents": _number(c.pitch_jolt_cents, 1),
            }
            for c in playing.changes
        ],
        "events": [
            {
                "kind": e.kind, "start_s": _number(e.start_s, 4), "end_s": _number(e.end_s, 4),
                "note": e.row, "strength": _number(e.strength, 2),
            }
            for e in playing.events
        ],
        "timing": None
        if isinstance(timing, Unmeasured)
        else {
            "tempo_bpm": _number(timing.tempo_bpm, 2),
            "notes": list(timing.rows),
            "onset_error_ms": [_number(v, 1) for v in timing.onset_error_ms],
            "evenness_time": _number(timing.evenness_time, 2),
            "evenness_level_db": _number(timing.evenness_level_db, 2),
        },
        "unmeasured": unmeasured,
    }  # fmt: skip


def _stroke_shape(stroke: Stroke, notes: Sequence[JudgedNote]) -> str:
    """Shape of a stroke: of its one note, else from its slope."""
    if len(stroke.rows) == 1:
        level = notes[stroke.rows[0]].measured.level
        if isinstance(level, Level) and level.shape is not None:
            return level.shape
    change = stroke.slope_db_per_s * (stroke.end_s - stroke.start_s)
    return "level" if abs(change) < 3.0 else "grow" if change > 0 else "fade"


def _note(
    index: int, note: JudgedNote, sounding_ratio: float | None, context: Context
) -> dict[str, Any]:
    m = note.measured
    segment = m.segment
    unmeasured: dict[str, str] = {}
    row: dict[str, Any] = {
        "index": index,
        "jig_index": m.lined.i_event,
        "note_id": m.lined.note_id,
        "attempt": m.lined.attempt,
        "written": str(m.lined.pitch)
        if m.lined.lower is None
        else f"{m.lined.lower}+{m.lined.pitch}",
        "state": m.lined.state,
        "part": m.lined.part,
        "onset_s": _number(segment.onset_s, 4) if segment else None,
        "offset_s": _number(segment.offset_s, 4) if segment else None,
        "target_hz": round(note.target_hz, 4),
        "standing": note.standing,
    }
    if note.answer is not None:
        row["answer"] = _ratio(note.answer)
    if segment is None or note.cents is None:
        row["pitch"] = None
        unmeasured["pitch"] = reason_text(_absent(note))
    else:
        row["pitch"] = {
            "f0_hz": round(segment.f0_hz, 4),
            "cents": round(note.cents, 3),
            "uncertainty_cents": round(segment.uncertainty_cents, 3),
            "spread_cents": round(segment.spread_cents, 2),
            "drift_cents_per_s": round(segment.drift_cents_per_s, 2),
        }
    if sounding_ratio is None:
        row["length"] = None
        unmeasured["length"] = reason_text(_absent(note) if segment is None else "no_jig")
    else:
        row["length"] = {"sounding_ratio": _number(sounding_ratio, 3)}
    for name, measure in (
        ("arrival", m.arrival), ("vibrato", m.vibrato), ("level", m.level), ("tone", m.tone),
        ("start", m.start), ("double", m.double), ("pluck", m.pluck), ("trill", m.trill),
    ):  # fmt: skip
        if isinstance(measure, Unmeasured):
            row[name] = None
            unmeasured[name] = reason_text(measure.reason)
        else:
            row[name] = _measure(measure, note)
    row["ring"] = _ring(note, context)
    if isinstance(m.ring, Unmeasured):
        unmeasured["ring"] = reason_text(m.ring.reason)
    if isinstance(m.arrival, Arrival) and not math.isfinite(m.arrival.first_cents):
        unmeasured["arrival.first_cents"] = reason_text("slide_blurred")
    row["unmeasured"] = unmeasured
    return row


def _absent(note: JudgedNote) -> str:
    """Why nothing was heard of a note."""
    return "hidden" if note.measured.lined.state == "uncertain" else "not_heard"


def _measure(
    measure: Arrival | Vibrato | Level | Tone | Start | Double | Pluck | Trilled, note: JudgedNote
) -> dict[str, Any]:
    match measure:
        case Tone():
            return {
                "hnr_db": _number(measure.hnr_db, 1),
                "brightness_hz": _number(measure.brightness_hz, 1),
                "brightness_ratio": _number(measure.brightness_ratio, 3),
                "brightness_slope": _number(measure.brightness_slope, 3),
                "scratch_ratio": _number(measure.scratch_ratio, 3),
                "loudness_db": _number(measure.loudness_db, 2),
            }
        case Pluck():
            return {
                "ring_s": _number(measure.ring_s, 3),
                "level_dbfs": _number(measure.level_dbfs, 2),
                "thud_db": _number(measure.thud_db, 1),
            }
        case Trilled():
            return {
                "n_notes": measure.n_notes,
                "rate_hz": _number(measure.rate_hz, 2),
                "rate_uncertainty_hz": _number(measure.rate_uncertainty_hz, 2),
                "unevenness": _number(measure.unevenness, 3),
                "neighbour_cents": _number(measure.neighbour_cents, 1),
                "begins_on_main": measure.begins_on_main,
                "ends_on_main": measure.ends_on_main,
            }
        case Start():
            return {
                "attack_s": _number(measure.attack_s, 3),
                "noise_before_s": _number(measure.noise_before_s, 3),
                "accent_db": _number(measure.accent_db, 2),
            }
        case Double():
            return _double(measure, note)
        case Arrival():
            return {
                "kind": measure.kind,
                "first_cents": _number(measure.first_cents, 1),
                "settle_s": _number(measure.settle_s, 3),
            }
        case Vibrato():
            return {
                "present": measure.present,
                "rate_hz": _number(measure.rate_hz, 2),
                "extent_cents": _number(measure.extent_cents, 1),
                "extent_uncertainty_cents": _number(measure.extent_uncertainty_cents, 1),
                "regularity": _number(measure.regularity, 3),
                "start_s": _number(measure.start_s, 3),
            }
        case Level():
            return {
                "mean_dbfs": _number(measure.mean_dbfs, 2),
                "range_db": _number(measure.range_db, 2),
                "slope_db_per_s": _number(measure.slope_db_per_s, 2),
                "shape": measure.shape,
                "tremor_hz": _number(measure.tremor_hz, 2),
                "tremor_db": _number(measure.tremor_db, 2),
            }


def _ring(note: JudgedNote, context: Context) -> dict[str, Any] | None:
    ring = note.measured.ring
    if isinstance(ring, Unmeasured):
        return None
    names = [str(s) for s in context.strings]
    return {
        "possible_strings": [names[s.meeting.string] for s in ring.strings],
        "rang": [names[i] for i in ring.rang],
        "ring_db": _number(ring.ring_db, 1),
        "decay_s": _number(ring.decay_s, 2),
        "above_room_db": _number(ring.above_room_db, 1),
        "strings": [_string_ring(s, names) for s in ring.strings],
    }


def _string_ring(ring: StringRing, names: Sequence[str]) -> dict[str, Any]:
    meeting = ring.meeting
    return {
        "string": names[meeting.string],
        "state": ring.state,
        "reason": ring.reason or None,
        "partials": [meeting.note_partial, meeting.string_partial],
        "apart_cents": _number(meeting.apart_cents, 2),
        "half_width_cents": _number(meeting.half_width_cents, 2),
        "share_db": _number(meeting.share_db, 1),
        "level_db": _number(ring.level_db, 1),
        "level_uncertainty_db": _number(ring.level_uncertainty_db, 1),
        "decay_s": _number(ring.decay_s, 2),
        "decay_uncertainty_s": _number(ring.decay_uncertainty_s, 2),
        "limit_db": _number(ring.limit_db, 1),
        "string_cents": _number(ring.string_cents, 2),
    }


def _double(double: Double, note: JudgedNote) -> dict[str, Any]:
    judged = note.double
    row: dict[str, Any] = {
        "lower_hz": _number(double.lower_hz, 4),
        "upper_hz": _number(double.upper_hz, 4),
        "lower_uncertainty_cents": _number(double.lower_uncertainty_cents, 2),
        "upper_uncertainty_cents": _number(double.upper_uncertainty_cents, 2),
        "interval_cents": _number(double.interval_cents, 2),
        "uncertainty_cents": _number(double.uncertainty_cents, 2),
        "beats_hz": _number(double.beats_hz, 3),
        "beating_partials": list(double.beating_partials),
        "balance_db": _number(double.balance_db, 1),
        "balance_uncertainty_db": _number(double.balance_uncertainty_db, 1),
        "both_ratio": _number(double.both_ratio, 3),
        "lower_cents": None,
        "upper_cents": None,
        "interval_error_cents": None,
    }
    if isinstance(double.reached, StopArrival):
        row["reached"] = {
            "kind": double.reached.kind,
            "settle_s": _number(double.reached.settle_s, 2),
            "swings_cents": [_number(c, 1) for c in double.reached.swings_cents],
            "mover": double.reached.mover,
            "still_s": _number(double.reached.still_s, 2),
        }
    if judged is not None:
        row |= {
            "lower_cents": _number(judged.lower_cents, 2),
            "upper_cents": _number(judged.upper_cents, 2),
            "interval_error_cents": _number(judged.interval_error_cents, 2),
            "against": {name: _number(v, 2) for name, v in judged.against},
            "mover": judged.mover,
        }
        for voice, answer in (("lower", judged.lower_answer), ("upper", judged.upper_answer)):
            if answer is not None:
                row[f"{voice}_answer"] = _ratio(answer)
    if note.balance.against_alone:
        row |= {
            "balance_alone_db": _number(note.balance.db, 1),
            "balance_alone_uncertainty_db": _number(note.balance.uncertainty_db, 1),
        }
    return row


def _ratio(answer: GoodPlace) -> str:
    return f"{answer.ratio[0]}/{answer.ratio[1]}"


_CSV_FIELDS = (
    "file", "index", "written", "state", "onset_s", "offset_s", "f0_hz", "cents",
    "uncertainty_cents", "arrival", "settle_s", "vibrato_rate_hz", "vibrato_extent_cents",
    "level_dbfs", "level_shape",
)  # fmt: skip


def results_csv(results: list[dict[str, Any]]) -> str:
    """One row per note of every result; cells that could start a formula are quoted."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(_CSV_FIELDS)
    for result in results:
        for n in result["notes"]:
            pitch, arrival = n["pitch"] or {}, n["arrival"] or {}
            vibrato, level = n["vibrato"] or {}, n["level"] or {}
            row = (
                result["source"]["file"], n["index"], n["written"], n["state"], n["onset_s"],
                n["offset_s"], pitch.get("f0_hz"), pitch.get("cents"),
                pitch.get("uncertainty_cents"), arrival.get("kind"), arrival.get("settle_s"),
                vibrato.get("rate_hz"), vibrato.get("extent_cents"), level.get("mean_dbfs"),
                level.get("shape"),
            )  # fmt: skip
            writer.writerow([_cell(v) for v in row])
    return out.getvalue()


def _cell(value: object) -> object:
    if isinstance(value, str) and value[:1] in "=+-@\t\r":
        return "'" + value
    return "" if value is None else value
