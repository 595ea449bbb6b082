"""Accuracy on sounds with known truth, beside general libraries, in one run.

Rows: every file of known sounds, and simulated takes. For each: our pitch error blind (finding the
notes itself), and the error of pYIN (librosa) and of autocorrelation (parselmouth) *given* the
true note borders. Errors are counted beyond the truth's own uncertainty and, where reasonable
definitions of a note's pitch differ, beyond that; *inside* counts our range and the truth's own
uncertainty only.

    python bench/accuracy.py [--no-libraries]
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import numpy as np
import soundfile

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.gauge.values import Arrival, Vibrato
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.measured import merge_segments
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play, truth_json
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear

SOUNDS = Path(os.environ.get("JIGWRIGHT_SOUNDS", Path(__file__).parents[2] / "shared" / "sounds"))


@dataclass
class Row:
    """Scores of one kind of sound."""

    errors: list[float] = field(default_factory=list)
    pyin: list[float] = field(default_factory=list)
    autocorrelation: list[float] = field(default_factory=list)
    onset_ms: list[float] = field(default_factory=list)
    inside: int = 0
    notes: int = 0
    lost: int = 0
    invented: int = 0
    seconds: float = 0.0
    ours_s: float = 0.0
    pyin_s: float = 0.0
    autocorrelation_s: float = 0.0


def score(row: Row, x: np.ndarray, rate: int, truth: dict, *, libraries: bool) -> Heard | None:
    inst = instrument(truth.get("instrument") or "violin")
    a4 = truth.get("a4_hz", 440.0)
    lowest = a4 * 2 ** ((inst.lowest.midi - 69) / 12)
    start = time.perf_counter()
    heard = hear(choose_signal(x, rate), inst, lowest_open_hz=lowest)
    lined = line_up(heard.segments, None, a4_hz=a4, params=FollowParams(), pairs=heard.pairs)
    row.ours_s += time.perf_counter() - start
    row.seconds += len(x) / rate
    found = [merge_segments([heard.segments[i] for i in n.segments]) for n in lined.notes]
    notes = [n for n in truth.get("notes", []) if n.get("f0_hz")]
    used = set()
    for note in notes:
        row.notes += 1
        allowed = note["uncertainty_cents"] + note.get("definition_spread_cents", 0.0)
        overlap = [
            min(s.offset_s, note["offset_s"]) - max(s.onset_s, note["onset_s"]) for s in found
        ]
        best = int(np.argmax(overlap)) if overlap else -1
        if best < 0 or overlap[best] < 0.02:
            row.lost += 1
            continue
        used.add(best)
        segment = found[best]
        error = abs(1200 * np.log2(segment.f0_hz / note["f0_hz"]))
        row.errors.append(max(0.0, error - allowed))
        row.inside += error <= segment.uncertainty_cents + note["uncertainty_cents"]
        if note.get("truth_quality") != "doubtful":
            onset = note.get("onset_sound_s", note["onset_s"])
            row.onset_ms.append(1000 * (segment.onset_s - onset))
    row.invented += len(found) - len(used)
    if libraries and notes:
        _libraries(row, x, rate, notes, inst.highest_hz, lowest)
    return heard


def _libraries(row, x, rate, notes, highest, lowest) -> None:
    import librosa
    import parselmouth

    mono = x if x.ndim == 1 else x[:, int(np.argmax(np.mean(x**2, axis=0)))]
    start = time.perf_counter()
    f0, _, _ = librosa.pyin(
        mono, fmin=lowest * 0.92, fmax=min(highest, 0.45 * rate), sr=rate,
        frame_length=4096 if lowest < 80 else 2048, hop_length=rate // 200,
    )  # fmt: skip
    row.pyin_s += time.perf_counter() - start
    start = time.perf_counter()
    pitch = parselmouth.Sound(mono, rate).to_pitch_ac(
        time_step=0.005, pitch_floor=lowest * 0.92, pitch_ceiling=min(highest, 0.45 * rate)
    )
    row.autocorrelation_s += time.perf_counter() - start
    tracks = (
        (row.pyin, np.arange(len(f0)) * (rate // 200) / rate, f0),
        (row.autocorrelation, pitch.xs(), pitch.selected_array["frequency"]),
    )
    for note in notes:
        allowed = note["uncertainty_cents"] + note.get("definition_spread_cents", 0.0)
        length = note["offset_s"] - note["onset_s"]
        lead = min(0.1, 0.3 * length)
        for errors, t, f in tracks:
            part = f[(t > note["onset_s"] + lead) & (t < note["offset_s"] - 0.6 * lead)]
            part = part[np.isfinite(part) & (part > 0)]
            if len(part):
                centre = (
                    np.mean(np.log2(part))
                    if note.get("vibrato_extent_cents")
                    else np.median(np.log2(part))
                )
                error = abs(1200 * (centre - np.log2(note["f0_hz"])))
                errors.append(max(0.0, error - allowed))


def stored_sounds(*, libraries: bool) -> dict[str, Row]:
    rows: dict[str, Row] = {}
    for path in sorted(SOUNDS.glob("*.json")):
        truth = json.loads(path.read_text())
        kind = path.stem.split("_")[0]
        if kind in ("double", "bad") or not truth.get("notes"):
            continue
        x, rate = soundfile.read(SOUNDS / truth["file"])
        score(rows.setdefault(kind, Row()), x, rate, truth, libraries=libraries)
    for name in ("bad_reverb", "bad_hum_noise", "bad_rate8k"):
        path = SOUNDS / f"{name}.json"
        if path.exists():
            truth = json.loads(path.read_text())
            x, rate = soundfile.read(SOUNDS / truth["file"])
            score(rows.setdefault(name, Row()), x, rate, truth, libraries=libraries)
    return rows


SIMULATED = {
    "steady": ("detune spread_cents=15; noise snr_db=30", 60.0),
    "vibrato": (
        "detune spread_cents=15; vibrato rate_hz=5.6 extent_cents=45; noise snr_db=30",
        60.0,
    ),
    "slides": ("slide from_cents=-45 seconds=0.15", 60.0),
    "hunting": ("hunt size_cents=40 seconds=0.4", 60.0),
    "sixteenths at 120": ("detune spread_cents=8", 120.0),
    "room 0.5 s": ("room rt60_s=0.5 wet_db=-9; detune spread_cents=8", 80.0),
    "noise 20 dB": ("noise snr_db=20; detune spread_cents=8", 80.0),
}


def simulated() -> tuple[dict[str, Row], dict[str, list[str]]]:
    rows: dict[str, Row] = {}
    notes: dict[str, list[str]] = {}
    for name, (faults, tempo) in SIMULATED.items():
        row = rows.setdefault(f"simulated {name}", Row())
        kinds, wave = [], []
        for kind, tonic in (("violin", "D"), ("viola", "G"), ("cello", "C"), ("bass", "F")):
            for seed in range(3):
                jig = make_scale(
                    jig_id="b", instrument_id=kind, key=Key(PitchClass(tonic)),
                    slur=(1, 2, 4)[seed], tempo_bpm=tempo,
                    note_beats=Fraction(1, 4 if "sixteenths" in name else 1),
                )  # fmt: skip
                performance = play(jig, seed=seed, faults=parse_faults(faults))
                truth = json.loads(truth_json(performance, file="x"))
                x = performance.sound.samples.astype(np.float64)
                heard = score(row, x, performance.sound.rate_hz, truth, libraries=False)
                assert heard is not None
                _, measured = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=kind)
                kinds += [m.arrival.kind for m in measured if isinstance(m.arrival, Arrival)]
                wave += [
                    (m.vibrato.rate_hz, m.vibrato.extent_cents)
                    for m in measured
                    if isinstance(m.vibrato, Vibrato) and m.vibrato.present
                ]
        said = [f"{k} {kinds.count(k)}/{len(kinds)}" for k in sorted(set(kinds))]
        if wave:
            rate, extent = np.median(np.array(wave), axis=0)
            said.append(f"vibrato in {len(wave)}: median {rate:.2f} Hz, {extent:.1f} c")
        notes[f"simulated {name}"] = said
    return rows, notes


def pair(values: list[float]) -> str:
    if not values:
        return "–"
    return f"{np.median(values):.2f} / {np.percentile(values, 95):.2f}"


def show(rows: dict[str, Row]) -> None:
    print("| sound | notes | lost | invented | ours, cents (median / 95 %) | truth inside the range"
          " | pYIN | autocorrelation | onset ms (median / 90 %) | × real time |")  # fmt: skip
    print("|---|---|---|---|---|---|---|---|---|---|")
    for name, r in rows.items():
        onset = np.array(r.onset_ms) if r.onset_ms else np.zeros(1)
        print(
            f"| {name} | {r.notes} | {r.lost} | {r.invented} | {pair(r.errors)} | "
            f"{100 * r.inside / max(1, r.notes):.0f} % | {pair(r.pyin)} | "
            f"{pair(r.autocorrelation)} | "
            f"{np.median(onset):+.0f} / {np.percentile(np.abs(onset), 90):.0f} | "
            f"{r.seconds / r.ours_s:.0f} |"
        )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--no-libraries", action="store_true")
    options = parser.parse_args()
    if SOUNDS.is_dir():
        rows = stored_sounds(libraries=not options.no_libraries)
        show(rows)
        if not options.no_libraries:
            ours = sum(r.ours_s for r in rows.values()) / sum(r.seconds for r in rows.values())
            for name in ("pyin_s", "autocorrelation_s"):
                theirs = sum(getattr(r, name) for r in rows.values())
                total = sum(r.seconds for r in rows.values())
                print(f"\n{name[:-2]}: {total / theirs:.1f} × real time, "
                      f"{theirs / total / ours:.1f} times our time")  # fmt: skip
    else:
        print(f"no folder of known sounds at {SOUNDS} (set JIGWRIGHT_SOUNDS)", file=sys.stderr)
    print()
    rows, notes = simulated()
    show(rows)
    for name, said in notes.items():
        print(f"\n{name}: {'; '.join(said)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
