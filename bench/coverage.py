"""Whether stated ranges hold the truth: coverage of the 95 % range of pitch, band by band.

Simulated takes, heard blind, over instruments, lengths, noise, rooms and vibrato; the truth is
exact. *Inside* should be 90 … 99 %: less is boasting, more is hiding. The last column is the share
of its range that 95 % of the errors need (1 would be exact).

    python bench/coverage.py [--takes 160] [--seed 5]
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import defaultdict
from fractions import Fraction

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.measured import merge_segments
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play, truth_json
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear

INSTRUMENTS = (("violin", "D"), ("viola", "G"), ("cello", "C"), ("bass", "F"))
LENGTHS = ((0.2, "under 0.2 s"), (0.4, "0.2 … 0.4 s"), (0.8, "0.4 … 0.8 s"), (9.0, "longer"))
Bands = dict[str, list[tuple[float, float]]]


def one_take(bands: Bands, i: int, seed: int, rng: np.random.Generator) -> None:
    kind, tonic = INSTRUMENTS[i % 4]
    snr = (15, 20, 25, 30, 40, None)[rng.integers(6)]
    room = (None, None, 0.3, 0.5)[rng.integers(4)]
    tempo = (60, 120, 60, 60)[rng.integers(4)]
    beats = (Fraction(1, 4), Fraction(1, 2), Fraction(1), Fraction(2))[rng.integers(4)]
    waver = bool(rng.integers(2)) and beats * 60 / tempo >= Fraction(1, 2)
    faults = ["detune spread_cents=12"]
    if snr is not None:
        faults.append(f"noise snr_db={snr}")
    if room is not None:
        faults.append(f"room rt60_s={room} wet_db=-9")
    if waver:
        rate, extent = rng.uniform(4.5, 6.5), rng.uniform(15, 70)
        faults.append(f"vibrato rate_hz={rate:.2f} extent_cents={extent:.0f}")
    jig = make_scale(
        jig_id="c", instrument_id=kind, key=Key(PitchClass(tonic)),
        slur=(1, 2, 4)[rng.integers(3)], tempo_bpm=tempo, note_beats=beats,
    )  # fmt: skip
    performance = play(jig, seed=i + 1000 * seed, faults=parse_faults("; ".join(faults)))
    inst = instrument(kind)
    heard = hear(
        choose_signal(performance.sound.samples.astype(np.float64), performance.sound.rate_hz),
        inst,
        lowest_open_hz=440.0 * 2 ** ((inst.lowest.midi - 69) / 12),
    )
    lined = line_up(heard.segments, None, a4_hz=440.0, params=FollowParams(), pairs=heard.pairs)
    found = [merge_segments([heard.segments[j] for j in n.segments]) for n in lined.notes]
    for note in json.loads(truth_json(performance, file="c"))["notes"]:
        overlap = [
            min(s.offset_s, note["offset_s"]) - max(s.onset_s, note["onset_s"]) for s in found
        ]
        best = int(np.argmax(overlap)) if overlap else -1
        if best < 0 or overlap[best] < 0.02:
            continue
        error = abs(1200 * np.log2(found[best].f0_hz / note["f0_hz"]))
        length = note["offset_s"] - note["onset_s"]
        for band in (
            "all",
            kind,
            f"noise {snr} dB" if snr else "no noise",
            f"room {room} s" if room else "dry",
            next(name for most, name in LENGTHS if length < most),
            "vibrato" if waver else "still",
        ):
            bands[band].append((error, found[best].uncertainty_cents))


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=160)
    parser.add_argument("--seed", type=int, default=5)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    bands: Bands = defaultdict(list)
    for i in range(options.takes):
        one_take(bands, i, options.seed, rng)
    print("| band | notes | error, cents (median / 95 %) | range (median) | inside | needed |")
    print("|---|---|---|---|---|---|")
    for band, rows in sorted(bands.items()):
        error, half = np.array(rows).T
        print(
            f"| {band} | {len(error)} | {np.median(error):.3f} / {np.percentile(error, 95):.2f} | "
            f"±{np.median(half):.2f} | {100 * np.mean(error <= half):.1f} % | "
            f"{np.percentile(error / half, 95):.2f} |"
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
