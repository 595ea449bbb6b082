"""The result of an analysis as plain data: schema ``jigwright.result/1`` (docs/formats.md)."""

from __future__ import annotations

import csv
import io
import math
from typing import Any

from jigwright import __version__
from jigwright.core.gauge.values import Arrival, Level, Vibrato
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.values import Unmeasured
from jigwright.services.analysing import Analysed
from jigwright.wording.findings import finding_sentence, reason_text

SCHEMA = "jigwright.result/1"
_LATER = ("tone", "start", "length", "ring", "double")


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
        "notes": [_note(i, n) for i, n in enumerate(judged.notes)],
        "strokes": [],
        "changes": [],
        "events": [],
        "timing": None,
        "unmeasured": {
            name: reason_text("not_yet") for name in ("strokes", "changes", "events", "timing")
        },
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


def _number(value: float | None, digits: int) -> float | None:
    if value is None or not math.isfinite(value):
        return None
    return round(value, digits)


def _note(index: int, note: JudgedNote) -> dict[str, Any]:
    m = note.measured
    segment = m.segment
    unmeasured: dict[str, str] = {name: reason_text("not_yet") for name in _LATER}
    row: dict[str, Any] = {
        "index": index,
        "jig_index": m.lined.i_event,
        "note_id": m.lined.note_id,
        "attempt": m.lined.attempt,
        "written": str(m.lined.pitch),
        "state": m.lined.state,
        "onset_s": _number(segment.onset_s, 4) if segment else None,
        "offset_s": _number(segment.offset_s, 4) if segment else None,
        "target_hz": round(note.target_hz, 4),
        "standing": note.standing,
    }
    if segment is None or note.cents is None:
        row["pitch"] = None
        unmeasured["pitch"] = reason_text("not_heard")
    else:
        row["pitch"] = {
            "f0_hz": round(segment.f0_hz, 4),
            "cents": round(note.cents, 3),
            "uncertainty_cents": round(segment.uncertainty_cents, 3),
            "spread_cents": round(segment.spread_cents, 2),
            "drift_cents_per_s": round(segment.drift_cents_per_s, 2),
        }
    for name, measure in (("arrival", m.arrival), ("vibrato", m.vibrato), ("level", m.level)):
        if isinstance(measure, Unmeasured):
            row[name] = None
            unmeasured[name] = reason_text(measure.reason)
        else:
            row[name] = _measure(measure)
    for name in _LATER:
        row[name] = None
    row["unmeasured"] = unmeasured
    return row


def _measure(measure: Arrival | Vibrato | Level) -> dict[str, Any]:
    match measure:
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
