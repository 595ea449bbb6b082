"""Double stops from recorded samples: which are heard as two notes, blind and with the exercise.

Both voices are rendered apart by FluidSynth (see :mod:`sampled`), each with its own detuning,
swell and vibrato that wanders, and put together; so what each voice is can be measured on it
alone, by an autocorrelation that is not the one under test. Lines of thirds, fourths, fifths,
sixths, octaves and tenths, dry, in a room and through a telephone. For each kind: stops
told as the right two notes, told as another stop, as one note (of the two, or neither), not at
all; rows that belong to no stop; errors of the voices and of the balance.

    python bench/sampled_stops.py [--takes 1] [--seed 0] [--jobs 2] [--why]
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from scipy import signal

from jigwright.core.jig.model import Jig, note_list
from jigwright.core.jig.stops import written_stops_hz
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.values import Unmeasured
from sampled import FONTS, MAJOR, OPEN, RATE, Sampler, in_room, name, recorded, stroke, vibrato

SIZES = {"third": 2, "fourth": 3, "fifth": 4, "sixth": 5, "octave": 7, "tenth": 9}
WHERE = ("dry", "room", "phone")
MODES = ("jig", "blind")
N_STOPS = 8


@dataclass(frozen=True)
class Task:
    """One line of stops."""

    kind: str
    font: str
    interval: str
    where: str
    seed: int


@dataclass(frozen=True)
class Stop:
    """What was played: seconds, MIDI notes, what each voice is alone."""

    onset_s: float
    offset_s: float
    midis: tuple[int, int]
    hz: tuple[float, float]
    balance_db: float


@dataclass
class Counted:
    """What became of the stops."""

    n: Counter[str] = field(default_factory=Counter)
    cents: list[float] = field(default_factory=list)
    inside: list[bool] = field(default_factory=list)
    balance: list[float] = field(default_factory=list)
    why: list[str] = field(default_factory=list)


def pitch_hz(x: np.ndarray, near_hz: float) -> float:
    """Pitch of one voice alone: peaks of the autocorrelation at many periods, quarter seconds."""
    size, found = round(0.25 * RATE), []
    for start in range(0, max(1, len(x) - size), size // 2):
        part = x[start : start + size] * signal.windows.hann(len(x[start : start + size]))
        ac = signal.correlate(part, part, method="fft")[len(part) - 1 :]
        weight = np.hanning(2 * len(part))[len(part) :]
        ac = ac / np.maximum(weight, 0.05)
        hz = near_hz
        for times in (1, 2, 4, 8):
            lag = times * RATE / hz
            reach = max(2, round(0.02 * lag / times))
            if lag + reach + 2 > 0.6 * len(part):
                break
            i = round(lag) - reach + int(np.argmax(ac[round(lag) - reach : round(lag) + reach + 1]))
            a, b, c = ac[i - 1 : i + 2]
            hz = times * RATE / (i + 0.5 * (a - c) / (a - 2 * b + c))
        found.append(hz)
    return float(np.median(found))


def played(task: Task) -> tuple[np.ndarray, list[Stop], Jig]:
    """The sound, what it is made of, and the exercise."""
    rng = np.random.default_rng([task.seed, list(SIZES).index(task.interval), ord(task.kind[0])])
    low, high = OPEN[task.kind][0], OPEN[task.kind][-1] + 10
    tonic = int(rng.integers(12))
    pitches = [m for m in range(low, high) if (m - tonic) % 12 in MAJOR]
    step = SIZES[task.interval]
    at = int(rng.integers(0, max(1, len(pitches) - step - N_STOPS)))
    way = [0, 1, 2, 3, 4, 3, 2, 1]
    pairs = [(pitches[at + w], pitches[at + w + step]) for w in way]
    voices = (Sampler(task.kind), Sampler(task.kind))
    now_s, spans = 0.5, []
    for pair in pairs:
        seconds = float(rng.uniform(0.7, 1.4))
        gap = float(rng.uniform(0, 0.06))
        for k, midi in enumerate(pair):
            cents, _ = vibrato(rng, seconds, float(rng.normal(0, 8)))
            late = float(np.clip(rng.normal(0, 0.01), -0.03, 0.03))
            voices[k].note(now_s + late, now_s + seconds - gap, midi, int(rng.integers(70, 105)),
                           cents, stroke(rng, seconds))  # fmt: skip
        spans.append((now_s, now_s + seconds - gap))
        now_s += seconds
    alone = [v.render(FONTS[task.font], now_s + 1.0) for v in voices]
    stops = []
    for pair, (on, off) in zip(pairs, spans, strict=True):
        a, b = round((on + 0.25 * (off - on)) * RATE), round((off - 0.1 * (off - on)) * RATE)
        cut = [v[a:b] for v in alone]
        hz = [pitch_hz(c, 440 * 2 ** ((m - 69) / 12)) for c, m in zip(cut, pair, strict=True)]
        level = [20 * np.log10(np.std(c) + 1e-12) for c in cut]
        stops.append(Stop(on, off, pair, (hz[0], hz[1]), float(level[1] - level[0])))
    x = alone[0] + alone[1]
    if task.where == "room":
        x = in_room(rng, x, 0.6, 2.0)
    elif task.where == "phone":
        x = recorded(rng, in_room(rng, x, 0.4, 5.0), "phone")
    x = 0.5 * x / np.max(np.abs(x)) + rng.normal(size=len(x)) * 1.5e-4
    text = " ".join("+".join(name(m) for m in pair) for pair in pairs)
    return x, stops, note_list(text, instrument_id=task.kind, tempo_bpm=60)


def run(task: Task) -> tuple[Task, dict[str, Counted]]:
    """Hear one line both ways."""
    x, stops, jig = played(task)
    strings = pure_strings(instrument(task.kind).strings, 440.0)
    out = {}
    for mode in MODES:
        heard = hear(
            choose_signal(x, RATE), instrument(task.kind), lowest_open_hz=min(strings.values()),
            open_hz=tuple(strings.values()),
            stops_hz=written_stops_hz(jig, 440.0) if mode == "jig" else (),
        )  # fmt: skip
        _, notes = follow_and_measure(
            heard, jig if mode == "jig" else None, a4_hz=440.0, instrument_id=task.kind
        )
        out[mode] = compare(stops, notes)
    return task, out


def compare(stops: Sequence[Stop], notes) -> Counted:  # type: ignore[no-untyped-def]
    """What became of each stop; rows that are the longest of none are extra."""
    found = Counted()
    rows = [n for n in notes if n.segment is not None]
    used = set()
    for stop in stops:
        found.n["stops"] += 1

        def overlap(n, stop=stop) -> float:  # type: ignore[no-untyped-def]
            return min(n.segment.offset_s, stop.offset_s) - max(n.segment.onset_s, stop.onset_s)

        near = [n for n in rows if overlap(n) > 0.15]
        if not near:
            found.n["nothing"] += 1
            found.why.append(f"{stop.midis} {stop.onset_s:.2f}: nothing")
            continue
        one = max(near, key=overlap)
        used.add(id(one))
        if isinstance(one.double, Unmeasured):
            midi = round(69 + 12 * np.log2(one.segment.f0_hz / 440))
            what = "one of the two" if midi in stop.midis else "another note"
            if one.double.reason == "fused":
                what = "fused"
            found.n[what] += 1
            found.why.append(
                f"{stop.midis} {stop.onset_s:.2f}: {what} {midi}, upper {stop.balance_db:+.0f} dB"
                f" of {len(near)}"
            )
            continue
        hz = (one.double.lower_hz, one.double.upper_hz)
        off = [1200 * np.log2(h / t) for h, t in zip(hz, stop.hz, strict=True)]
        if max(np.abs(off)) > 60:
            found.n["another stop"] += 1
            found.why.append(f"{stop.midis} {stop.onset_s:.2f}: another stop {off}")
            continue
        found.n["both"] += 1
        ranges = (one.double.lower_uncertainty_cents, one.double.upper_uncertainty_cents)
        found.cents += [abs(float(o)) for o in off]
        found.inside += [abs(o) <= r + 1.0 for o, r in zip(off, ranges, strict=True)]
        found.balance.append(one.double.balance_db - stop.balance_db)
    found.n["extra"] += sum(id(n) not in used for n in rows)
    return found


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the bench."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--takes", type=int, default=1)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--only", default=",".join(SIZES))
    parser.add_argument("--why", action="store_true")
    options = parser.parse_args(arguments)
    fonts = [k for k, v in FONTS.items() if Path(v).is_file()]
    if not fonts:
        print("needs fluidsynth and a sound font", file=sys.stderr)
        return 1
    tasks = []
    for interval in options.only.split(","):
        for where in WHERE:
            for k in range(options.takes):
                for i, kind in enumerate(OPEN):
                    seed = options.seed + k
                    tasks.append(Task(kind, fonts[(seed + i) % len(fonts)], interval, where, seed))
    total: dict[tuple[str, str, str], Counted] = {}
    with ProcessPoolExecutor(options.jobs) as pool:
        for task, both in pool.map(run, tasks):
            for mode, one in both.items():
                row = total.setdefault((task.interval, task.where, mode), Counted())
                row.n.update(one.n)
                row.cents += one.cents
                row.inside += one.inside
                row.balance += one.balance
                if options.why:
                    what = f"{task.kind} {task.font} {task.interval} {task.where} {mode}"
                    for text in one.why:
                        print(f"{what}: {text}")
    print("| interval | where | mode | stops | both | fused | another stop | one of the two | "
          "another note | nothing | extra rows | voice, cents, 50 / 95 % | inside | "
          "balance, dB, 50 / 90 % |\n" + "|---" * 14 + "|")  # fmt: skip
    keys = ("both", "fused", "another stop", "one of the two", "another note", "nothing", "extra")
    for (interval, where, mode), row in total.items():
        e, b = row.cents or [float("nan")], np.abs(row.balance or [float("nan")])
        counts = " | ".join(str(row.n[k]) for k in keys)
        print(
            f"| {interval} | {where} | {mode} | {row.n['stops']} | {counts} | "
            f"{np.percentile(e, 50):.1f} / {np.percentile(e, 95):.1f} | "
            f"{100 * np.mean(row.inside or [0]):.0f} % | "
            f"{np.nanpercentile(b, 50):.1f} / {np.nanpercentile(b, 90):.1f} |"
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
