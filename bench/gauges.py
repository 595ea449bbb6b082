"""Every further gauge: errors on simulated takes and known sounds, faults found, false alarms.

Instruments, rooms, noise and tempo vary with the take; the analysis never sees the truth.

    python bench/gauges.py [--takes 40] [--seed 0] [--only doubles changes …]
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections import Counter, defaultdict
from math import log2
from pathlib import Path

import numpy as np
import soundfile

from jigwright.core.gauge.values import Double, Level, Ring, Timing
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.analysis import follow_and_measure, judge_take
from jigwright.core.judge.judging import Context
from jigwright.core.judge.playing import measure_playing
from jigwright.core.judge.touch_trial import touch_notes
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import EQUAL, MEANTONE, PYTHAGOREAN, just, pure_strings
from jigwright.core.player.faults import Gain, parse_faults
from jigwright.core.player.play import play, truth_json
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.touch import measure_touch
from jigwright.core.values import Unmeasured
from rings import ring

SOUNDS = Path(os.environ.get("JIGWRIGHT_SOUNDS", Path(__file__).parents[2] / "shared" / "sounds"))
KINDS = ("violin", "viola", "cello", "bass")
TONICS = {"violin": "ADG", "viola": "CDG", "cello": "CDG", "bass": "EFG"}
ROOMS = {
    "dry": "room rt60_s=0.2 wet_db=-24; noise snr_db=45",
    "room 0.5 s": "room rt60_s=0.5 wet_db=-10; noise snr_db=40",
    "noise 25 dB": "room rt60_s=0.3 wet_db=-16; noise snr_db=25",
}


def cents(a: float, b: float) -> float:
    return 1200 * log2(a / b)


def analyse(x, rate, kind: str, a4: float, jig: Jig | None):
    strings = pure_strings(instrument(kind).strings, a4)
    heard = hear(
        choose_signal(x, rate), instrument(kind), lowest_open_hz=min(strings.values()),
        open_hz=tuple(strings.values()),
    )  # fmt: skip
    _, notes = follow_and_measure(heard, jig, a4_hz=a4, instrument_id=kind)
    return notes, measure_playing(heard, notes, jig, strings)


def take(rng, kind: str, faults: str, *, slur: int = 1, tempo: float = 80.0):
    jig = make_scale(
        jig_id="b", instrument_id=kind, slur=slur, tempo_bpm=tempo,
        key=Key(PitchClass(str(rng.choice(list(TONICS[kind]))))),
    )  # fmt: skip
    p = play(jig, seed=int(rng.integers(1 << 30)), faults=parse_faults(faults))
    notes, playing = analyse(p.sound.samples, p.sound.rate_hz, kind, 440.0, jig)
    return notes, playing, json.loads(truth_json(p, file="x"))


def quantiles(values, digits=1) -> str:
    good = np.abs([v for v in values if np.isfinite(v)])
    if not len(good):
        return "–"
    return f"{np.median(good):.{digits}f} / {np.percentile(good, 90):.{digits}f} (n {len(good)})"


def score_doubles(rows, notes, truth) -> None:
    for d in truth["double_stops"]:
        rows["n"] += [1]
        near = [
            n
            for n in notes
            if n.segment
            and isinstance(n.double, Double)
            and min(n.segment.offset_s, d["offset_s"]) - max(n.segment.onset_s, d["onset_s"]) > 0.2
        ]
        if not near:
            continue
        note = max(near, key=lambda n: n.segment.offset_s - n.segment.onset_s)
        low, up = d["lower"], d["upper"]
        assert note.lined.lower is not None
        heard = (note.lined.lower.midi, note.lined.pitch.midi)
        rows["named"] += [heard == (low["midi"], up["midi"])]
        allowed = [
            v.get("uncertainty_cents", 0) + v.get("definition_spread_cents", 0) for v in (low, up)
        ]
        errors = [
            cents(note.double.lower_hz, low["f0_hz"]),
            cents(note.double.upper_hz, up["f0_hz"]),
        ]
        rows["voice"] += [max(0.0, abs(e) - a) for e, a in zip(errors, allowed, strict=True)]
        rows["interval"] += [max(0.0, abs(errors[1] - errors[0]) - sum(allowed))]
        rows["inside"] += [
            abs(e) <= u + a
            for e, u, a in zip(
                errors,
                (note.double.lower_uncertainty_cents, note.double.upper_uncertainty_cents),
                allowed, strict=True,
            )
        ]  # fmt: skip
        rows["balance"] += [note.double.balance_db - d["balance_db_upper_minus_lower"]]


def doubles(rng, count: int) -> None:
    print("| double stops, blind | stops | found | named | voice, cents (median / 90 %) |"
          " interval | truth inside the range | balance, dB |")  # fmt: skip
    print("|---|---|---|---|---|---|---|---|")
    for kind in KINDS:
        inst = instrument(kind)
        for room, spec in ROOMS.items():
            rows = defaultdict(list)
            for _ in range(max(2, count // 10)):
                words = []
                for _ in range(8):
                    size = int(rng.choice([3, 4, 5, 7, 8, 9, 15, 16]))
                    low = inst.lowest.midi + int(rng.integers(0, 14))
                    words.append(f"{name_of(low)}+{name_of(low + size)}")
                jig = note_list(" ".join(words), instrument_id=kind, tempo_bpm=60)
                off, bal = rng.uniform(-12, 12), rng.uniform(-8, 8)
                p = play(
                    jig, seed=int(rng.integers(1 << 30)),
                    faults=parse_faults(
                        f"{spec}; detune spread_cents=8; lower cents={off:.1f} balance_db={bal:.1f}"
                    ),
                )  # fmt: skip
                notes, _ = analyse(p.sound.samples, p.sound.rate_hz, kind, 440.0, None)
                score_doubles(rows, notes, json.loads(truth_json(p, file="x")))
            show_doubles(f"simulated {kind}, {room}", rows)
    for path in sorted(SOUNDS.glob("double_*.json")) if SOUNDS.is_dir() else []:
        truth = json.loads(path.read_text())
        x, rate = soundfile.read(SOUNDS / truth["file"])
        rows = defaultdict(list)
        notes, _ = analyse(x, rate, truth["instrument"], truth["a4_hz"], None)
        score_doubles(rows, notes, truth)
        show_doubles(path.stem, rows)


def name_of(midi: int) -> str:
    from jigwright.core.music.pitch import Pitch

    return str(Pitch.from_midi(midi, fifths=1))


def show_doubles(name: str, rows) -> None:
    n, named = len(rows["n"]), rows["named"]
    print(
        f"| {name} | {n} | {len(named)} | {sum(named)} | {quantiles(rows['voice'], 2)} | "
        f"{quantiles(rows['interval'], 2)} | {100 * np.mean(rows['inside'] or [0]):.0f} % | "
        f"{quantiles(rows['balance'])} |",
        flush=True,
    )


def changes(rng, count: int) -> None:
    print("\n| bow changes | planted | within 20 ms | within 30 ms | invented |")
    print("|---|---|---|---|---|")
    for kind in KINDS:
        for room, spec in ROOMS.items():
            near, invented = [], 0
            for _ in range(max(2, count // 12)):
                _, playing, truth = take(rng, kind, spec, slur=int(rng.choice([1, 2])), tempo=100)
                wanted = [c["time_s"] for c in truth["bow_changes"]]
                found = [c.time_s for c in playing.changes]
                near += [min([abs(t - f) for f in found], default=9.0) for t in wanted]
                invented += sum(min(abs(t - f) for t in wanted) > 0.06 for f in found)
            a = np.array(near)
            print(f"| {kind}, {room} | {len(a)} | {100 * np.mean(a < 0.02):.0f} % | "
                  f"{100 * np.mean(a < 0.03):.0f} % | {invented} |", flush=True)  # fmt: skip


PLANTED = {
    "bounce": "bounce notes={i} depth_db=14 width_ms=40",
    "scratch": "scratch notes={i} db=-6 seconds=0.15",
    "whistle": "whistle notes={i} seconds=0.2 db={db:.0f} f_hz={hz:.0f}",
    "shake": "tremor notes={i} rate_hz=6.5 depth_db=5",
}


def events(rng, count: int) -> None:
    clean: Counter[str] = Counter()
    takes = notes_seen = 0
    for k in range(count):
        kind, spec = KINDS[k % 4], list(ROOMS.values())[k % 3]
        extra = ("", "; vibrato extent_cents=40 irregularity=0.1", "; detune spread_cents=6")
        notes, playing, _ = take(rng, kind, spec + extra[k // 3 % 3], slur=(1, 2, 4)[k // 2 % 3])
        takes += 1
        notes_seen += len(notes)
        clean.update({e.kind for e in playing.events})
        clean["double stop"] += any(isinstance(n.double, Double) for n in notes)
        clean["hurry over 3 dB"] += any(s.end_hurry_db > 3.0 for s in playing.strokes)
        clean["false ring"] += any(isinstance(n.ring, Ring) and n.ring.rang for n in notes)
    print(f"\nclean takes: {takes} ({notes_seen} notes); takes with a false event: {dict(clean)}")
    for name, text in PLANTED.items():
        found = Counter()
        kinds = KINDS[:3] if name == "whistle" else KINDS  # the bass: above what is analysed
        for k in range(max(8, count // 3)):
            i = int(rng.integers(1, 13))
            kind, spec = kinds[k % len(kinds)], list(ROOMS.values())[k // 2 % 3]
            drawn = {"db": rng.uniform(-8, 0), "hz": rng.uniform(4300, 5300)}
            _, playing, _ = take(rng, kind, spec + "; " + text.format(i=i, **drawn), tempo=60)
            hit = any(e.kind == name and e.row == i for e in playing.events)
            found[kind, hit] += 1
            found["all", hit] += 1
        said = ", ".join(
            f"{k} {found[k, True]}/{found[k, True] + found[k, False]}" for k in (*KINDS, "all")
        )
        print(f"planted {name}: {said}", flush=True)


def levels(rng, count: int) -> None:
    slope, depth, rate = [], [], []
    for k in range(max(8, count // 4)):
        kind = KINDS[k % 4]
        db, hz = float(rng.uniform(3, 8)), float(rng.uniform(4.5, 9))
        notes, _, _ = take(rng, kind, f"tremor rate_hz={hz:.2f} depth_db={db:.2f}", tempo=40)
        for n in notes:
            if isinstance(n.level, Level) and np.isfinite(n.level.tremor_hz):
                rate.append(n.level.tremor_hz - hz)
                depth.append(100 * (n.level.tremor_db / db - 1))
        grow = float(rng.uniform(6, 14))
        notes, _, _ = take(rng, kind, f"shape kind=grow db={grow:.1f}", tempo=40)
        slope += [n.level.slope_db_per_s - grow / 1.5 for n in notes if isinstance(n.level, Level)]
    print(f"\nlevel: slope error dB/s {quantiles(slope, 2)}; tremor rate error Hz "
          f"{quantiles(rate, 2)}, depth error % {quantiles(depth)}")  # fmt: skip


def timing(rng, count: int) -> None:
    tempo, even = [], []
    for k in range(max(8, count // 4)):
        bpm = float(rng.uniform(60, 160))
        _, playing, _ = take(rng, KINDS[k % 4], "unsteady spread_ms=0", tempo=bpm)
        if isinstance(playing.timing, Timing):
            tempo.append(100 * (playing.timing.tempo_bpm / bpm - 1))
            even.append(playing.timing.evenness_time)
    print(
        f"time: tempo error % {quantiles(tempo, 2)}; evenness of even takes % {quantiles(even, 2)}"
    )


def touch(rng, count: int) -> None:
    """The touch test: strings that ring by known amounts, silent ones, bows that move meanwhile."""
    off: list[float] = []
    n: Counter[str] = Counter()
    for k in range(count):
        kind = KINDS[k % 4]
        strings = instrument(kind).strings
        notes = touch_notes(strings)
        what = notes[k // 4 % len(notes)]
        draft = Draft("b")
        draft.note(what.note, 13)
        jig = draft.finish(
            title="b", instrument_id=kind, key=Key(what.note.pitch_class), tempo_bpm=60
        )
        others = ",".join(str(i) for i in range(len(strings)) if i != what.string)
        base = [
            f"noise snr_db={rng.choice([25, 35, 50])}",
            ("room rt60_s=0.2 wet_db=-24", "room rt60_s=0.5 wet_db=-9")[k // 2 % 2],
            ("shape kind=swell db=6", "tremor depth_db=3", "shape kind=fade db=8", "gain db=-6")[
                int(rng.integers(4))
            ],
        ]
        rings = k % 3 < 2
        if rings:
            base.append(f"sympathy coupling_db={rng.uniform(-30, -18):.1f} muted={others}")
            base += [f"touch string={what.string} from_s={a} to_s={a + 2.5}" for a in (2.6, 7.6)]
        faults = parse_faults("; ".join(base))
        p = play(jig, seed=int(rng.integers(1 << 30)), faults=faults)
        x = p.sound.samples.astype(np.float64)
        inst = instrument(kind)
        hz = list(pure_strings(inst.strings, 440.0).values())
        heard = hear(choose_signal(x, p.sound.rate_hz), inst, lowest_open_hz=min(hz))
        f0_hz = max(heard.segments, key=lambda s: s.offset_s - s.onset_s).f0_hz
        got = measure_touch(
            x, p.sound.rate_hz, f0_hz=f0_hz, onset_s=heard.segments[0].onset_s,
            offset_s=heard.segments[-1].offset_s, open_hz=hz[what.string],
        )  # fmt: skip
        if isinstance(got, Unmeasured):
            n[f"refused: {got.reason}"] += 1
        elif not rings:
            n["false" if got.rang else "silent, said so"] += 1
        else:
            ring_db = true_ring_db(p, faults)
            heard_so = "heard" if got.rang else "under its limit"
            n[heard_so if got.rang or ring_db < got.limit_db else "missed"] += 1
            if got.rang:
                off.append(got.ring_db - ring_db)
    print(f"touch test: {dict(n)}; ring off by dB {quantiles([abs(v) for v in off], 1)}, "
          f"bias {np.median(off):+.1f}")  # fmt: skip


def true_ring_db(performance, faults) -> float:
    """What the strings gave in the free stretches, re the note."""
    rate, start = performance.sound.rate_hz, performance.notes[0].onset_s
    spans = [(start + a + 0.8, start + a + 2.5) for a in (0.0, 5.0, 10.0)]
    cut = [slice(round(a * rate), round(b * rate)) for a, b in spans]
    ring = np.concatenate([performance.sound.ring.sum(axis=0)[c] for c in cut])
    whole = np.concatenate([performance.sound.samples[c].astype(np.float64) for c in cut])
    gain = next((x.db for x in faults if isinstance(x, Gain)), 0.0)
    return float(10 * np.log10(np.mean(ring**2) / np.mean(whole**2))) + gain


def tuning(rng, count: int) -> None:
    n: Counter[str] = Counter()
    own_a: list[float] = []
    for k in range(count):
        kind = KINDS[k % 4]
        key = Key(PitchClass(str(rng.choice(list(TONICS[kind])))), MODES[k // 4 % 2])
        jig = make_scale(jig_id="b", instrument_id=kind, key=key, octaves=2, tempo_bpm=150, slur=2)
        reference = [EQUAL, PYTHAGOREAN, MEANTONE, just(key.tonic)][k % 4 if k % 8 < 4 else k % 3]
        a4 = float(rng.uniform(436, 444))
        p = play(
            jig, seed=int(rng.integers(1 << 30)), faults=parse_faults("detune spread_cents=5"),
            a4_hz=a4, reference=reference,
        )  # fmt: skip
        inst = instrument(kind)
        lowest = min(pure_strings(inst.strings, 440.0).values())
        heard = hear(choose_signal(p.sound.samples, p.sound.rate_hz), inst, lowest_open_hz=lowest)
        _, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=kind)
        context = Context(
            instrument_id=kind, strings=inst.strings, a4_hz=440.0, reference=EQUAL,
            tolerance_cents=10.0,
        )  # fmt: skip
        found = judge_take(notes, jig, context).tuning
        said = found.best_reference
        right = said == reference.name
        n["no preference" if said is None else "right" if right else "wrong"] += 1
        if right and found.estimated_a4_hz:
            own_a.append(cents(found.estimated_a4_hz, a4))
    print(f"tuning, 5 c spread, two octaves: {dict(n)}; own A within cents {quantiles(own_a, 2)}")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=40)
    parser.add_argument("--seed", type=int, default=0)
    names = {f.__name__: f for f in (doubles, changes, events, levels, timing, ring, touch, tuning)}
    parser.add_argument("--only", nargs="*", choices=list(names), default=list(names))
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    for part in (names[n] for n in options.only):
        part(rng, options.takes)
    return 0


if __name__ == "__main__":
    sys.exit(main())
