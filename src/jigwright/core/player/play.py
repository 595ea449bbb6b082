"""Play a jig: sound and truth together."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import check_a4, instrument
from jigwright.core.music.pitch import Pitch, hz_to_cents
from jigwright.core.music.references import EQUAL, Reference, pure_strings
from jigwright.core.player import faults as f
from jigwright.core.player.bowing import bounce_times
from jigwright.core.player.performance import PlayedNote, perform
from jigwright.core.player.real import Grace, Portamento, Trill, Wander, Wolf
from jigwright.core.player.synthesis import Rendered, render

PLAYER_VERSION = 5


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Performance:
    """A simulated take with its truth.

    Parameters
    ----------
    sound : Rendered
    notes : tuple of PlayedNote
    instrument_id : str
    a4_hz : float
    """

    sound: Rendered
    notes: tuple[PlayedNote, ...]
    instrument_id: str
    a4_hz: float


def play(
    jig: Jig,
    *,
    seed: int,
    faults: Sequence[f.Fault] = (),
    a4_hz: float = 440.0,
    reference: Reference = EQUAL,
    strings: tuple[Pitch, ...] | None = None,
) -> Performance:
    """Play a jig, deterministically for a seed.

    Raises
    ------
    TuningError
        If the A lies outside 380 … 470 Hz.
    """
    check_a4(a4_hz)
    rng = np.random.default_rng(seed)
    inst = instrument(jig.instrument_id)
    notes = perform(
        jig, reference=reference, a4_hz=a4_hz, strings=strings or inst.strings,
        faults=faults, rng=rng,
    )  # fmt: skip
    open_hz = tuple(pure_strings(strings or inst.strings, a4_hz).values())
    sound = render(notes, instrument_id=inst.id, faults=faults, rng=rng, open_hz=open_hz)
    return Performance(sound=sound, notes=notes, instrument_id=inst.id, a4_hz=a4_hz)


def truth_json(performance: Performance, *, file: str) -> str:
    """Write the truth of a simulated take as JSON (docs/formats.md)."""
    rows = [_truth_row(performance, i) for i in range(len(performance.notes))]
    strokes = [n for n in performance.notes if not n.slurred]
    changes = [
        {"time_s": round(b.onset_s, 5), "from": _bow(a.bow), "to": _bow(b.bow), "dip_db": b.dip_db}
        for a, b in zip(strokes, strokes[1:], strict=False)
        if a.bow != b.bow
    ]
    body = {
        "file": file,
        "generator": f"jigwright player {PLAYER_VERSION}",
        "instrument": performance.instrument_id,
        "kind": "simulated",
        "a4_hz": performance.a4_hz,
        "sample_rate": performance.sound.rate_hz,
        "duration_s": round(len(performance.sound.samples) / performance.sound.rate_hz, 5),
        "channels": 1,
        "schema": "sounds-truth-1",
        "notes": rows,
        "bow_changes": changes,
        "double_stops": [
            _double_row(performance, i) for i, n in enumerate(performance.notes) if n.lower
        ],
        "events": _event_rows(performance),
    }
    return json.dumps(body, indent=1)


def _double_row(performance: Performance, i: int) -> dict[str, Any]:
    """Truth of a double stop, in the field names of the known sounds."""
    note = performance.notes[i]
    assert note.lower is not None
    upper = _truth_row(performance, i)
    lower_nominal = performance.a4_hz * 2.0 ** ((note.lower.midi - 69) / 12)
    return {
        "onset_s": upper["onset_s"],
        "offset_s": upper["offset_s"],
        "interval_cents": round(hz_to_cents(upper["f0_hz"], note.lower_hz), 3),
        "lower": {
            "name": str(note.lower), "midi": note.lower.midi, "f0_hz": round(note.lower_hz, 5),
            "cents": round(hz_to_cents(note.lower_hz, lower_nominal), 3), "truth_quality": "exact",
            "onset_sound_s": upper["onset_sound_s"],
        },
        "upper": upper,
        "balance_db_upper_minus_lower": note.balance_db,
        "jig_index": upper["jig_index"],
    }  # fmt: skip


def _event_rows(performance: Performance) -> list[dict[str, Any]]:
    """Where bow faults were planted."""
    rows: list[dict[str, Any]] = []
    for note in performance.notes:
        length = note.offset_s - note.onset_s
        for x in note.bow_faults:
            match x:
                case f.Bounce():
                    for at_s in bounce_times(x, length):
                        middle = note.onset_s + at_s
                        half = x.width_ms / 2000.0
                        rows.append(
                            _event("bounce", middle - half, middle + half, note, x.depth_db)
                        )
                case f.Scratch():
                    start = note.onset_s + x.at * length
                    rows.append(_event("scratch", start, start + x.seconds, note, x.db))
                case f.WhistleFault():
                    start = note.onset_s + x.at * length
                    end = min(start + x.seconds, note.offset_s)
                    rows.append(_event("whistle", start, end, note, x.db))
                case f.Tremor():
                    rows.append(_event("shake", note.onset_s, note.offset_s, note, x.depth_db))
                case f.Hurry():
                    rows.append(
                        _event("hurry", note.onset_s + 0.85 * length, note.offset_s, note, x.db)
                    )
    return rows


def _event(
    kind: str, start_s: float, end_s: float, note: PlayedNote, strength: float
) -> dict[str, Any]:
    return {
        "kind": kind, "start_s": round(start_s, 4), "end_s": round(end_s, 4),
        "jig_index": note.i_event, "strength": strength,
    }  # fmt: skip


def _bow(direction: int) -> str:
    return "down" if direction > 0 else "up"


def _truth_row(performance: Performance, i: int) -> dict[str, Any]:
    note = performance.notes[i]
    on_s, off_s = _sounding(performance, i)
    nominal = performance.a4_hz * 2.0 ** ((note.pitch.midi - 69) / 12)
    f0_hz, wobble = _settled_hz(performance, note)
    vibrato = note.vibrato
    return {
        "onset_s": round(note.onset_s, 5),
        "offset_s": round(note.offset_s, 5),
        "onset_sound_s": round(note.onset_s if note.slurred else on_s, 5),
        "offset_sound_s": round(off_s, 5),
        "midi": note.pitch.midi,
        "name": str(note.pitch),
        "jig_index": note.i_event if note.i_event >= 0 else None,
        "nominal_hz": round(nominal, 5),
        "f0_hz": round(f0_hz, 5),
        "cents": round(hz_to_cents(f0_hz, nominal), 3),
        "target_hz": round(note.target_hz, 5),
        "truth_source": "control",
        "uncertainty_cents": round(0.02 + 0.05 * wobble, 3),
        "truth_quality": "exact",
        "vibrato_rate_hz": vibrato.rate_hz if vibrato else 0.0,
        "vibrato_extent_cents": vibrato.extent_cents if vibrato else 0.0,
        "vibrato_sounding_cents": round(_swings_cents(performance, note), 2),
        "slide_cents": note.slide_cents,
        "slide_s": note.slide_s,
        "hunted": note.n_swings > 0,
        "portamento": any(isinstance(x, Portamento) for x in note.real) and note.slide_s > 0,
        "kind": _kind(note),
        "shape": note.shape.kind if note.shape else "level",
        "level_db": note.level_db,
        "slurred": note.slurred,
        "bow": _bow(note.bow),
    }


def _kind(note: PlayedNote) -> str:
    for x in note.real:
        if isinstance(x, (Trill, Grace, Wolf)):
            return type(x).__name__.lower()
    return "main"


def _sounding(performance: Performance, i: int) -> tuple[float, float]:
    """First and last moment above -20 dB of the note's own level."""
    sound, note = performance.sound, performance.notes[i]
    rate = sound.rate_hz
    lo, hi = round(note.onset_s * rate), round((note.offset_s + 0.15) * rate)
    if i + 1 < len(performance.notes):
        hi = min(hi, round(performance.notes[i + 1].onset_s * rate))
    level = sound.level[lo:hi]
    if not len(level):
        return note.onset_s, note.offset_s
    own = float(np.sqrt(np.mean(level**2)))
    above = np.flatnonzero(level >= 0.1 * own)
    return (lo + int(above[0])) / rate, (lo + int(above[-1]) + 1) / rate


def _swings_cents(performance: Performance, note: PlayedNote) -> float:
    """Extent of the vibrato that was played: an arm that starts late and cycles that differ."""
    if note.vibrato is None:
        return 0.0
    rate = performance.sound.rate_hz
    start = note.onset_s + note.vibrato.start_s + max(note.slide_s, note.hunt_s, 0.05)
    part = performance.sound.f0_hz[round(start * rate) : round((note.offset_s - 0.03) * rate) : 48]
    if len(part) < rate // (48 * note.vibrato.rate_hz):
        return 0.0
    cents = 1200.0 * np.log2(part / note.f0_hz)
    t = np.arange(len(cents))
    return float(2.0 * np.sqrt(2.0) * np.std(cents - np.polyval(np.polyfit(t, cents, 1), t)))


def _settled_hz(performance: Performance, note: PlayedNote) -> tuple[float, float]:
    """Mean of the settled pitch (over whole vibrato cycles) and the wobble it was taken over."""
    wanders = any(isinstance(x, Wander) for x in note.real)
    if note.vibrato is None and not wanders:
        return note.f0_hz, 0.0
    rate = performance.sound.rate_hz
    start = note.onset_s + max(note.slide_s, note.hunt_s, 0.05)
    stop = note.offset_s - 0.03
    irregular = 0.5 if wanders else 0.0
    if note.vibrato is not None:
        start = max(start, note.onset_s + note.vibrato.start_s)
        cycles = int((stop - start) * note.vibrato.rate_hz)
        if not cycles:  # no mean over a part of a swing says where its middle is
            return note.f0_hz, irregular + 0.1 * note.vibrato.extent_cents
        stop = start + cycles / note.vibrato.rate_hz
        irregular += note.vibrato.irregularity + note.vibrato.wander
    part = performance.sound.f0_hz[round(start * rate) : round(stop * rate)]
    if not len(part):
        return note.f0_hz, 0.0
    cents = 1200.0 * np.log2(part / note.f0_hz)
    mean = float(np.mean(cents))
    return note.f0_hz * 2.0 ** (mean / 1200.0), irregular * float(np.std(cents))
