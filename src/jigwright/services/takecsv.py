"""The figures of a take as a table: one line a note, empty where nothing could be told."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from math import isfinite

from jigwright.core.gauge.values import (
    Arrival,
    Double,
    Level,
    Pluck,
    Ring,
    Start,
    Timing,
    Tone,
    Trilled,
    Vibrato,
)
from jigwright.core.jig.model import Jig
from jigwright.core.judge.changes import place_of
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.playing import Playing

COLUMNS = (
    "note", "bar", "beat", "state", "standing", "cents", "uncertainty_cents", "target_hz",
    "heard_hz", "onset_s", "offset_s", "string", "finger", "off_mm", "arrival", "first_cents",
    "settled_s", "vibrato_hz", "vibrato_extent_cents", "level_dbfs", "level_slope_db_per_s",
    "loudness_db", "brightness_ratio", "above_noise_db", "attack_s", "interval_cents",
    "beats_hz", "balance_db", "ring_db", "ring_s", "vibrato_range_cents", "vibrato_regularity",
    "vibrato_start_s", "level_range_db", "level_shape", "tremor_hz", "tremor_db",
    "brightness_hz", "brightness_slope", "scratch_ratio", "noise_before_s", "accent_db",
    "both_ratio", "interval_range_cents", "balance_range_db", "above_room_db",
    "ring_range_db", "ring_range_s", "ring_limit_db", "ring_string_cents",
    "ring_note_partial", "ring_string_partial", "ring_apart_cents", "ring_half_width_cents",
    "ring_share_db", "ring_taken_cents", "pluck_ring_s",
    "pluck_dbfs", "thud_db", "stroke", "stroke_s", "stroke_wavers_db", "stroke_end_db",
    "stroke_slope_db_per_s", "change_place", "change_dip_db", "change_gap_ms", "change_bump_db",
    "change_noise_db", "change_jolt_cents", "change_heard_way", "late_ms", "events", "ornament",
    "trill_notes", "trill_hz", "trill_range_hz", "trill_unevenness", "trill_other_cents",
    "trill_begins_on_it", "trill_ends_on_it", "balance_alone_db", "balance_alone_range_db",
)  # fmt: skip


def take_csv(
    notes: Sequence[JudgedNote],
    jig: Jig | None,
    playing: Playing | None = None,
    *,
    delimiter: str = ",",
) -> str:
    """Write the notes of a judged take.

    Parameters
    ----------
    notes : sequence of JudgedNote
    jig : Jig or None
        For bars and beats.
    playing : Playing or None
        For the bow and the time.
    delimiter : str
        A tab for the clipboard.
    """
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", delimiter=delimiter)
    writer.writeheader()
    for i, note in enumerate(notes):
        cells = _row(note, jig)
        if playing is not None:
            cells |= _bow(playing, i)
        writer.writerow({k: _cell(v) for k, v in cells.items()})
    return out.getvalue()


def _row(note: JudgedNote, jig: Jig | None) -> dict[str, object]:
    m = note.measured
    row: dict[str, object] = {
        "note": str(note.pitch), "state": m.lined.state, "standing": note.standing,
        "cents": note.cents, "target_hz": note.target_hz, "string": note.string,
        "finger": note.finger, "off_mm": note.off_mm,
    }  # fmt: skip
    if jig is not None and m.lined.i_event is not None:
        bar, beat = jig.bar_of(jig.events[m.lined.i_event])
        row |= {"bar": bar, "beat": float(beat) + 1}
    if m.segment is not None:
        row |= {
            "heard_hz": m.segment.f0_hz, "uncertainty_cents": note.uncertainty_cents,
            "onset_s": m.segment.onset_s, "offset_s": m.segment.offset_s,
        }  # fmt: skip
    if isinstance(m.arrival, Arrival):
        row |= {
            "arrival": m.arrival.kind, "first_cents": m.arrival.first_cents,
            "settled_s": m.arrival.settle_s,
        }  # fmt: skip
    if isinstance(m.vibrato, Vibrato) and m.vibrato.present:
        row |= {
            "vibrato_hz": m.vibrato.rate_hz, "vibrato_extent_cents": m.vibrato.extent_cents,
            "vibrato_range_cents": m.vibrato.extent_uncertainty_cents,
            "vibrato_regularity": m.vibrato.regularity, "vibrato_start_s": m.vibrato.start_s,
        }  # fmt: skip
    if isinstance(m.level, Level):
        row |= {
            "level_dbfs": m.level.mean_dbfs, "level_slope_db_per_s": m.level.slope_db_per_s,
            "level_range_db": m.level.range_db, "level_shape": m.level.shape,
            "tremor_hz": m.level.tremor_hz, "tremor_db": m.level.tremor_db,
        }  # fmt: skip
    if isinstance(m.tone, Tone):
        row |= {
            "loudness_db": m.tone.loudness_db, "brightness_ratio": m.tone.brightness_ratio,
            "above_noise_db": m.tone.hnr_db, "brightness_hz": m.tone.brightness_hz,
            "brightness_slope": m.tone.brightness_slope, "scratch_ratio": m.tone.scratch_ratio,
        }  # fmt: skip
    if isinstance(m.start, Start):
        row |= {
            "attack_s": m.start.attack_s, "noise_before_s": m.start.noise_before_s,
            "accent_db": m.start.accent_db,
        }  # fmt: skip
    if isinstance(m.pluck, Pluck):
        row |= {
            "pluck_ring_s": m.pluck.ring_s, "pluck_dbfs": m.pluck.level_dbfs,
            "thud_db": m.pluck.thud_db,
        }  # fmt: skip
    if m.lined.ornament is not None:
        row["ornament"] = m.lined.ornament
    if isinstance(m.trill, Trilled):
        row |= {
            "trill_notes": m.trill.n_notes, "trill_hz": m.trill.rate_hz,
            "trill_range_hz": m.trill.rate_uncertainty_hz,
            "trill_unevenness": m.trill.unevenness, "trill_other_cents": m.trill.neighbour_cents,
            "trill_begins_on_it": int(m.trill.begins_on_main),
            "trill_ends_on_it": int(m.trill.ends_on_main),
        }  # fmt: skip
    if isinstance(m.double, Double):
        row |= {
            "interval_cents": m.double.interval_cents, "beats_hz": m.double.beats_hz,
            "balance_db": m.double.balance_db, "both_ratio": m.double.both_ratio,
            "interval_range_cents": m.double.uncertainty_cents,
            "balance_range_db": m.double.balance_uncertainty_db,
        }  # fmt: skip
        if note.balance.against_alone:
            row |= {
                "balance_alone_db": note.balance.db,
                "balance_alone_range_db": note.balance.uncertainty_db,
            }
    if isinstance(m.ring, Ring):
        row |= _ring(m.ring)
    return row


def _ring(ring: Ring) -> dict[str, object]:
    """The string that rang loudest, else the first that could have."""
    told = ring.strongest or next((s for s in ring.strings if s.state == "silent"), None)
    if told is None:
        return {}
    met = told.meeting
    return {
        "ring_db": told.level_db, "ring_range_db": told.level_uncertainty_db,
        "ring_s": told.decay_s, "ring_range_s": told.decay_uncertainty_s,
        "above_room_db": told.above_room_db, "ring_limit_db": told.limit_db,
        "ring_string_cents": told.string_cents, "ring_note_partial": met.note_partial,
        "ring_string_partial": met.string_partial, "ring_apart_cents": met.apart_cents,
        "ring_half_width_cents": met.half_width_cents, "ring_share_db": met.share_db,
        "ring_taken_cents": met.string_cents,
    }  # fmt: skip


def _bow(playing: Playing, i: int) -> dict[str, object]:
    """The stroke of a note, the change into it, what happened in it, and its time."""
    row: dict[str, object] = {}
    stroke = next((s for s in playing.strokes if i in s.rows), None)
    if stroke is not None:
        row |= {
            "stroke": stroke.direction, "stroke_s": stroke.end_s - stroke.start_s,
            "stroke_wavers_db": stroke.steadiness_db, "stroke_end_db": stroke.end_hurry_db,
            "stroke_slope_db_per_s": stroke.slope_db_per_s,
        }  # fmt: skip
    change = next((c for c in playing.changes if c.rows[1] == i), None)
    if change is not None:
        row |= {
            "change_place": place_of(change), "change_dip_db": change.dip_db,
            "change_gap_ms": change.gap_ms, "change_bump_db": change.bump_db,
            "change_noise_db": change.noise_db, "change_jolt_cents": change.pitch_jolt_cents,
            "change_heard_way": change.heard_way,
        }  # fmt: skip
    if isinstance(playing.timing, Timing) and i in playing.timing.rows:
        row["late_ms"] = playing.timing.onset_error_ms[playing.timing.rows.index(i)]
    row["events"] = " ".join(
        f"{e.kind}@{e.start_s:.2f}s:{e.strength:.1f}" for e in playing.events if e.row == i
    )
    return row


def _cell(value: object) -> object:
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    return round(value, 4) if isinstance(value, float) else value
