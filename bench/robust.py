"""Counts over many simulated takes: octave errors, following, arrivals, false findings.

Instruments, rooms, noise and bowing vary with the take; the analysis never sees the truth.

    python bench/robust.py [--takes 80] [--seed 0]
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.gauge.values import Arrival
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.analysis import follow_and_measure, judge_take
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import EQUAL, pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import Performance, play, truth_json
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear

TONICS = {"violin": "ADGBE", "viola": "CDGEF", "cello": "CDGEF", "bass": "EFGA"}


def make_take(rng: np.random.Generator, faults: str) -> tuple[Jig, Performance, Heard]:
    kind = str(rng.choice(sorted(TONICS)))
    jig = make_scale(
        jig_id="b", instrument_id=kind,
        key=Key(PitchClass(str(rng.choice(list(TONICS[kind])))), MODES[int(rng.integers(4))]),
        slur=int(rng.choice([1, 2, 4])), tempo_bpm=float(rng.choice([90, 120, 160])),
    )  # fmt: skip
    room = f"room rt60_s={rng.uniform(0.2, 0.5):.2f} wet_db={rng.uniform(-18, -9):.1f}"
    noise = f"noise snr_db={rng.uniform(25, 50):.0f}"
    a4 = float(rng.choice([415.0, 440.0, 442.0]))
    spec = parse_faults(f"detune spread_cents=3; {room}; {noise}; {faults}")
    performance = play(jig, seed=int(rng.integers(1 << 30)), faults=spec, a4_hz=a4)
    inst = instrument(kind)
    lowest = min(pure_strings(inst.strings, a4).values())
    signal = choose_signal(performance.sound.samples, performance.sound.rate_hz)
    return jig, performance, hear(signal, inst, lowest_open_hz=lowest)


def clean(rng: np.random.Generator, count: int) -> None:
    n: Counter[str] = Counter()
    kinds: Counter[str] = Counter()
    false: Counter[str] = Counter()
    for _ in range(count):
        jig, performance, heard = make_take(rng, "unsteady spread_ms=8")
        a4 = performance.a4_hz
        blind = line_up(heard.segments, None, a4_hz=a4, params=FollowParams(), pairs=heard.pairs)
        for note in performance.notes:
            n["notes"] += 1
            for name, rows in (("blind", blind.notes),):
                near = [
                    heard.segments[r.segments[0]].f0_hz
                    for r in rows
                    if abs(heard.segments[r.segments[0]].onset_s - note.onset_s) < 0.1
                ]
                error = min((abs(1200 * np.log2(f / note.f0_hz)) for f in near), default=0.0)
                n[f"octave errors {name}"] += int(error > 600)
        _, measured = follow_and_measure(heard, jig, a4_hz=a4, instrument_id=jig.instrument_id)
        played = [m for m in measured if m.lined.state == "played" and m.segment]
        n["jig notes matched"] += len(played)
        n["jig notes not matched"] += len(jig.events) - len(played)
        n["extra or retry"] += sum(m.lined.state in ("extra", "retry") for m in measured)
        for m in played:
            truth = performance.notes[m.lined.i_event or 0]
            assert m.segment is not None
            octaves = abs(np.log2(m.segment.f0_hz / truth.f0_hz))
            n["octave errors with jig"] += int(octaves > 0.5)
            if isinstance(m.arrival, Arrival):
                kinds[m.arrival.kind] += 1
        context = Context(
            instrument_id=jig.instrument_id, strings=instrument(jig.instrument_id).strings,
            a4_hz=a4, reference=EQUAL, tolerance_cents=10.0,
        )  # fmt: skip
        found = judge_take(measured, jig, context).findings
        true_off = any(abs(note.cents) > 9.0 for note in performance.notes)
        wrong = [f.id for f in found if not (true_off and f.id in ("note_off", "finger_habit"))]
        n["takes with a false finding"] += bool(wrong)
        false.update(wrong)
    print(f"clean takes: {count}; {dict(n)}")
    print(f"arrivals of clean notes: {dict(kinds)}; false findings: {dict(false)}")


def trouble(rng: np.random.Generator, count: int) -> None:
    hits = wanted = claimed = 0
    onset: list[float] = []
    for _ in range(count):
        a, b, c, d = (int(v) for v in rng.choice(np.arange(1, 14), 4, replace=False))
        faults = (
            f"back_one notes={a}; miss notes={b} closed_up=true; pause notes={c} seconds=0.8;"
            f"repeat notes={d}; unsteady spread_ms=10"
        )
        jig, performance, heard = make_take(rng, faults)
        lined = line_up(
            heard.segments, jig, a4_hz=performance.a4_hz, params=FollowParams(), pairs=heard.pairs
        )
        rows = [r for r in lined.notes if r.segments]
        claimed += len(rows)
        wanted += len(performance.notes)
        for note in performance.notes:
            for r in rows:
                at = heard.segments[r.segments[0]].onset_s
                if r.i_event == note.i_event and abs(at - note.onset_s) < 0.12:
                    hits += 1
                    onset.append(1000 * (at - note.onset_s))
                    break
    off = np.abs(np.array(onset) - np.median(onset))
    print(
        f"takes with trouble: {count}; recall {hits / wanted:.3f}, precision {hits / claimed:.3f}, "
        f"onset median {np.median(onset):+.1f} ms, "
        f"90 % within {np.percentile(off, 90):.0f} ms of it"
    )


def arrivals(rng: np.random.Generator, count: int) -> None:
    first: list[float] = []
    settle: list[float] = []
    right = total = told = 0
    for _ in range(count):
        cents = float(rng.choice([-60, -40, -25, 25, 40, 60]))
        seconds = float(rng.choice([0.1, 0.15, 0.25]))
        jig, performance, heard = make_take(rng, f"slide from_cents={cents} seconds={seconds}")
        _, measured = follow_and_measure(
            heard, jig, a4_hz=performance.a4_hz, instrument_id=jig.instrument_id
        )
        truth = json.loads(truth_json(performance, file="x"))["notes"]
        for m in measured:
            if m.lined.state != "played" or not isinstance(m.arrival, Arrival):
                continue
            total += 1
            right += m.arrival.kind == ("slid_up" if cents < 0 else "slid_down")
            # the planted slide is a half cosine from the control onset: where it is when it sounds
            row = next(r for r in truth if r["jig_index"] == m.lined.i_event)
            late = row["onset_sound_s"] - row["onset_s"]
            told += np.isfinite(m.arrival.first_cents)
            first.append(
                abs(m.arrival.first_cents - cents * 0.5 * (1 + np.cos(np.pi * late / seconds)))
            )
            # it enters 6 cents before its end
            inside = seconds * np.arccos(2 * min(1.0, 6.0 / abs(cents)) - 1) / np.pi - late
            settle.append(1000 * abs(m.arrival.settle_s - inside))
    print(
        f"slides: {total} notes, kind right {100 * right / total:.1f} %, first error within "
        f"{np.nanpercentile(first, 90):.1f} c (told of {told}) and settling within "
        f"{np.percentile(settle, 90):.0f} ms in 90 %"
    )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=80)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    clean(rng, options.takes)
    trouble(rng, max(4, options.takes // 3))
    arrivals(rng, max(4, options.takes // 3))
    return 0


if __name__ == "__main__":
    sys.exit(main())
