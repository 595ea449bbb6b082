"""Live hearing against offline hearing: note decisions that agree, delay, cost and memory.

python bench/live.py [--takes 24] [--seed 0] [--minutes 0]
"""

from __future__ import annotations

import argparse
import sys
import time

import numpy as np

from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import Heard, Segment
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.live import LiveEar
from robust import make_take

BLOCK_S = 0.01
FAULTS = (
    "unsteady spread_ms=8", "vibrato extent_cents=40", "slide from_cents=-40",
    "back_one notes=3; pause notes=7 seconds=0.8; repeat notes=10; miss notes=5 closed_up=true",
)  # fmt: skip


def listen_live(x: np.ndarray, rate: int, kind: str, a4: float):
    """Notes, the age of each decision after the note's end, the share of time used, frames kept."""
    inst = instrument(kind)
    ear = LiveEar(inst, rate, min(pure_strings(inst.strings, a4).values()))
    notes: list[Segment] = []
    late: list[float] = []
    most = 0
    step = round(BLOCK_S * rate)
    start = time.perf_counter()
    for i in range(0, len(x), step):
        heeded = ear.push(x[i : i + step])
        notes += heeded.notes
        late += [(i + step) / rate - n.offset_s for n in heeded.notes]
        most = max(most, ear.n_kept_frames)
    notes += ear.finish().notes
    used = (time.perf_counter() - start) / (len(x) / rate)
    return notes, late, used, most, ear.delay_s


def agreement(live: list[Segment], heard: Heard) -> tuple[int, int, int]:
    """Notes heard offline, of these decided alike live, and live notes that offline has not."""

    def alike(a: Segment, b: Segment) -> bool:
        near = abs(a.onset_s - b.onset_s) < 0.03 and abs(a.offset_s - b.offset_s) < 0.08
        return near and abs(1200 * np.log2(a.f0_hz / b.f0_hz)) < 5.0

    singles = [s for s in heard.segments if s.i_pair < 0]
    hits = sum(any(alike(s, n) for n in live) for s in singles)
    extra = sum(not any(alike(s, n) for s in heard.segments) for n in live)
    return len(singles), hits, extra


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=24)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    total = np.zeros(3, dtype=int)
    late: list[float] = []
    used: list[float] = []
    most = 0
    delays: dict[str, float] = {}
    for i in range(options.takes):
        faults = FAULTS[i % len(FAULTS)]
        jig, performance, heard = make_take(rng, faults)
        signal = choose_signal(performance.sound.samples, performance.sound.rate_hz)
        notes, ages, share, kept, delay = listen_live(
            signal.samples, signal.rate_hz, jig.instrument_id, performance.a4_hz
        )
        total += agreement(notes, heard)
        late += ages
        used.append(share)
        most = max(most, kept)
        delays[jig.instrument_id] = 1000 * (delay + BLOCK_S)
    print(
        f"{options.takes} takes: of {total[0]} notes heard offline {total[1]} "
        f"({100 * total[1] / total[0]:.1f} %) decided alike live, {total[2]} others; decided "
        f"{np.median(late):.2f} s after their end (95 %: {np.percentile(late, 95):.2f} s); "
        f"{100 * np.median(used):.0f} % of one core; at most {most} frames kept"
    )
    print(
        "delay of the pitch with 10 ms blocks: "
        + ", ".join(f"{k} {v:.0f} ms" for k, v in sorted(delays.items()))
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
