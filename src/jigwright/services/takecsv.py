"""The figures of a take as a table: one line a note, empty where nothing could be told."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from math import isfinite

from jigwright.core.gauge.values import Arrival, Double, Level, Ring, Start, Tone, Vibrato
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote

COLUMNS = (
    "note", "bar", "beat", "state", "standing", "cents", "uncertainty_cents", "target_hz",
    "heard_hz", "onset_s", "offset_s", "string", "finger", "off_mm", "arrival", "first_cents",
    "settled_s", "vibrato_hz", "vibrato_extent_cents", "level_dbfs", "level_slope_db_per_s",
    "loudness_db", "brightness_ratio", "above_noise_db", "attack_s", "interval_cents",
    "beats_hz", "balance_db", "ring_db", "ring_s",
)  # fmt: skip


def take_csv(notes: Sequence[JudgedNote], jig: Jig | None, *, delimiter: str = ",") -> str:
    """Write the notes of a judged take.

    Parameters
    ----------
    notes : sequence of JudgedNote
    jig : Jig or None
        For bars and beats.
    delimiter : str
        A tab for the clipboard.
    """
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, restval="", delimiter=delimiter)
    writer.writeheader()
    for note in notes:
        writer.writerow({k: _cell(v) for k, v in _row(note, jig).items()})
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
        row |= {"vibrato_hz": m.vibrato.rate_hz, "vibrato_extent_cents": m.vibrato.extent_cents}
    if isinstance(m.level, Level):
        row |= {"level_dbfs": m.level.mean_dbfs, "level_slope_db_per_s": m.level.slope_db_per_s}
    if isinstance(m.tone, Tone):
        row |= {
            "loudness_db": m.tone.loudness_db, "brightness_ratio": m.tone.brightness_ratio,
            "above_noise_db": m.tone.hnr_db,
        }  # fmt: skip
    if isinstance(m.start, Start):
        row |= {"attack_s": m.start.attack_s}
    if isinstance(m.double, Double):
        row |= {
            "interval_cents": m.double.interval_cents, "beats_hz": m.double.beats_hz,
            "balance_db": m.double.balance_db,
        }  # fmt: skip
    if isinstance(m.ring, Ring) and m.ring.rang:
        row |= {"ring_db": m.ring.ring_db, "ring_s": m.ring.decay_s}
    return row


def _cell(value: object) -> object:
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    return round(value, 4) if isinstance(value, float) else value
