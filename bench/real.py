"""Clean takes as they really are: which notes are heard, what is invented, what is said wrongly.

Melodies with steps, leaps, repeated notes, slurs and long notes, played by the simulated player
with everything a good player does not hear as a fault (:mod:`jigwright.core.player.drawn`), dry and
in rooms, through microphones, in noise. Nothing is planted that a finding could name, so every
finding is a false one (a note further off than the tolerance aside).

    python bench/real.py [--takes 40] [--seed 0] [--where dry,room,microphone,noise] [--vibrato]
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter, defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from jigwright.core.gauge.values import Arrival, Vibrato
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.jig.stops import written_pitches_hz
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import EQUAL, pure_strings
from jigwright.core.player.drawn import WHERE, Where, clean_faults
from jigwright.core.player.play import play, truth_json
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.take_reader import judge_heard

KEYS = {"violin": "ADGB", "viola": "CDGF", "cello": "CDGF", "bass": "EFGA"}
STEPS = (0, 2, 4, 5, 7, 9, 11)
STEPS_TAKEN = (-4, -2, -1, 0, 1, 2, 4, 7)
STEP_SHARES = (0.04, 0.1, 0.34, 0.1, 0.31, 0.06, 0.03, 0.02)
TOLERANCE_CENTS = 10.0


def melody(rng: np.random.Generator, kind: str) -> Jig:
    """A line nobody wrote: steps, some leaps, repeated notes, slurs, one long note."""
    key = Key(PitchClass(str(rng.choice(list(KEYS[kind])))), "major")
    low = instrument(kind).strings[0].midi
    tonic = next(
        m for m in range(low, low + 12) if m % 12 == Pitch.parse(f"{key.tonic}4").midi % 12
    )
    degree, words, inside = int(rng.integers(3, 9)), [], 0
    for _ in range(int(rng.integers(14, 22))):
        step = int(rng.choice(STEPS_TAKEN, p=STEP_SHARES))
        # the same pitch again in one bow would begin nothing
        degree += step if step or not inside else 1
        if not 0 <= degree <= 14:
            degree = 7 - step
        name = str(
            Pitch.from_midi(tonic + 12 * (degree // 7) + STEPS[degree % 7], fifths=key.fifths)
        )
        beats = str(rng.choice(["1/2", "1", "1", "2", "3"], p=[0.3, 0.3, 0.15, 0.15, 0.1]))
        opens = not inside and rng.random() < 0.35
        inside = int(rng.integers(2, 5)) if opens else inside
        words.append(("( " if opens else "") + f"{name}:{beats}")
        if inside:
            inside -= 1
            if not inside:
                words.append(")")
    if inside:
        words.append(")")
    return jig_from_line(
        " ".join(words), jig_id="line", instrument_id=kind, title="line", key=key,
        tempo_bpm=float(rng.choice([72, 96, 120])),
    )  # fmt: skip


@dataclass
class Count:
    """What was counted, and figures by name."""

    n: Counter[str] = field(default_factory=Counter)
    figures: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    found: Counter[str] = field(default_factory=Counter)

    def add(self, other: Count) -> None:
        self.n.update(other.n)
        self.found.update(other.found)
        for name, values in other.figures.items():
            self.figures[name] += values


def one_take(task: tuple[int, Where, bool | None]) -> tuple[Where, Count]:
    """Play, hear and count a take."""
    seed, where, vibrato = task
    rng = np.random.default_rng(seed)
    kind = str(rng.choice(sorted(KEYS)))
    jig = melody(rng, kind)
    performance = play(jig, seed=seed, faults=clean_faults(rng, where, vibrato=vibrato))
    inst = instrument(kind)
    context = Context(
        instrument_id=kind, strings=inst.strings, a4_hz=440.0, reference=EQUAL,
        tolerance_cents=TOLERANCE_CENTS,
    )  # fmt: skip
    open_hz = tuple(pure_strings(inst.strings, 440.0).values())
    heard = hear(
        choose_signal(performance.sound.samples, performance.sound.rate_hz), inst,
        lowest_open_hz=min(open_hz), open_hz=open_hz, written_hz=written_pitches_hz(jig, 440.0),
    )  # fmt: skip
    judged, _ = judge_heard(heard, jig, context)
    return where, count(json.loads(truth_json(performance, file="x"))["notes"], judged)


def count(truth: Sequence[dict[str, Any]], judged: Judged) -> Count:
    """Hold what was heard against the truth."""
    c = Count()
    rows = [(n, n.measured.segment) for n in judged.notes if n.measured.segment is not None]
    taken: set[int] = set()
    for t in truth:
        c.n["notes"] += 1
        best, most = -1, 0.0
        for i, (_, s) in enumerate(rows):
            overlap = min(t["offset_s"], s.offset_s) - max(t["onset_s"], s.onset_s)
            if i not in taken and overlap > most:
                best, most = i, overlap
        if best < 0 or most < 0.5 * min(t["offset_s"] - t["onset_s"], 0.2):
            c.n["not found"] += 1
            continue
        taken.add(best)
        note, s = rows[best]
        off = 1200.0 * float(np.log2(s.f0_hz / t["f0_hz"]))
        if abs(off) > 60:
            octave = min(abs(abs(off) - 100 * k) for k in (12, 19, 24)) < 60
            c.n["octave" if octave else "gross"] += 1
            continue
        c.n["found"] += 1
        c.figures["error"].append(abs(off))
        if note.uncertainty_cents > 0:
            c.n["ranges"] += 1
            c.n["inside"] += abs(off) <= note.uncertainty_cents + t["uncertainty_cents"]
        c.figures["onset"].append(1000 * abs(s.onset_s - t["onset_sound_s"]))
        arrival, vibrato = note.measured.arrival, note.measured.vibrato
        if isinstance(arrival, Arrival) and not t["portamento"]:
            c.n["arrivals"] += 1
            c.n[arrival.kind] += 1
        if t["vibrato_extent_cents"] > 0 and t["offset_s"] - t["onset_s"] > 0.75:
            c.n["vibratos"] += 1
            if isinstance(vibrato, Vibrato) and vibrato.present:
                c.n["vibratos found"] += 1
                c.figures["width"].append(vibrato.extent_cents / t["vibrato_sounding_cents"] - 1)
    c.n["invented"] = len(rows) - len(taken)
    c.n["double"] = sum(n.double is not None for n, _ in rows)
    c.n["missed"] = sum(n.standing == "missed" for n in judged.notes)
    off = any(abs(t["cents"]) > TOLERANCE_CENTS - 2.0 for t in truth)
    slid = any(t["portamento"] for t in truth)  # played, and not written: a slide is true
    wrong = {
        f.id
        for f in judged.findings
        if not (off and f.id in ("note_off", "finger_habit")) and not (slid and f.id == "slides")
    }
    c.n["takes"], c.n["takes with a false finding"] = 1, int(bool(wrong))
    c.found.update(wrong)
    return c


def _percent(part: int, whole: int) -> str:
    return f"{100 * part / whole:.1f} %" if whole else "–"


def show(where: str, c: Count) -> None:
    n, figures = c.n, c.figures
    at = {k: np.percentile(v, [50, 90, 95]) for k, v in figures.items() if v}
    print(
        f"{where}: {n['takes']} takes, {n['notes']} notes; "
        f"found {_percent(n['found'], n['notes'])}, octave {n['octave']}, gross {n['gross']}, "
        f"invented {100 * n['invented'] / max(1, n['notes']):.1f} per 100, "
        f"doubles {n['double']}, missed {_percent(n['missed'], n['notes'])}; "
        f"error median {at['error'][0]:.2f}, 95 % {at['error'][2]:.1f} c; "
        f"in the range {_percent(n['inside'], n['ranges'])}; "
        f"onset median {at['onset'][0]:.0f}, 90 % {at['onset'][1]:.0f} ms"
    )
    arrived = n["arrivals"]
    width = f", width {100 * at['width'][0]:+.0f} %" if "width" in at else ""
    print(
        f"    landed {_percent(n['landed'], arrived)}, hunted {n['hunted']}, "
        f"slid {n['slid_up'] + n['slid_down']} of {arrived}; "
        f"vibrato found {n['vibratos found']} of {n['vibratos']}{width}; false findings in "
        f"{n['takes with a false finding']} takes: {dict(c.found.most_common())}"
    )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=40)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--where", default=",".join(WHERE))
    parser.add_argument("--vibrato", action="store_true", help="in every take")
    parser.add_argument("--jobs", type=int, default=2)
    options = parser.parse_args()
    chosen = [w for w in WHERE if w in options.where.split(",")]
    tasks = [
        (1000 * options.seed + i, w, True if options.vibrato else None)
        for w in chosen
        for i in range(options.takes)
    ]
    total: dict[str, Count] = {w: Count() for w in chosen}
    with ProcessPoolExecutor(options.jobs) as pool:
        for where, found in pool.map(one_take, tasks):
            total[where].add(found)
    for where in chosen:
        show(where, total[where])
    return 0


if __name__ == "__main__":
    sys.exit(main())
