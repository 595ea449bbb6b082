"""Which way the bow went where one pitch begins again: our player, and a string of another maker.

The other string is Csound's waveguide (``wgbow``; McIntyre, Schumacher & Woodhouse 1983), driven
with positive and negative bow speed, so that it turns or begins again the same way round; a body of
random resonances, rooms and noise are put over it. Our player plays repeated notes with everything
real playing has (:mod:`jigwright.core.player.drawn`).

    python bench/turns.py [--takes 4] [--seed 0]

The waveguide needs the program ``csound`` (Debian: ``apt-get install csound``); without it only our
player is measured.
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

import numpy as np
import soundfile
from scipy import signal

from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.drawn import clean_faults
from jigwright.core.player.play import play
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.polarity import way_of

RATE = 48_000
NEAR_S = 0.13
PITCHES = {
    "violin": (196.0, 293.7, 440.0, 523.3, 784.0), "viola": (146.8, 220.0, 330.0),
    "cello": (73.4, 110.0, 164.8, 220.0), "bass": (49.0, 73.4, 98.0),
}  # fmt: skip
LINES = {
    "violin": "A4:2 A4 A4 B4:2 B4 B4 D5 D5", "viola": "D4:2 D4 D4 E4:2 E4 E4 G4 G4",
    "cello": "G2:2 G2 G2 A2:2 A2 A2 D3 D3", "bass": "A1:2 A1 A1 D2:2 D2 D2 E2 E2",
}  # fmt: skip
ROOMS = {"dry": (0.0, 0.0), "0.4 s, 0 dB": (0.4, 0.0), "0.5 s, -6 dB": (0.5, -6.0),
         "1.2 s, -3 dB": (1.2, -3.0)}  # fmt: skip


def _velocity(rng, lengths, ways, gap_s: float) -> tuple[list[tuple[float, float]], list[float]]:
    """Bow speed as points of a line, and the moments at which it changes."""
    points, changes, now = [(0.0, 0.0), (0.3, 0.0)], [], 0.3
    speed = rng.uniform(0.07, 0.16)
    for i, (length, way) in enumerate(zip(lengths, ways, strict=True)):
        ends = (now + gap_s / 2, now + length - gap_s / 2)
        points.extend((at, way * speed * rng.uniform(0.85, 1.1)) for at in ends)
        now += length
        if i + 1 == len(ways) or ways[i + 1] == way:
            points.append((now, 0.0))
        if i + 1 < len(ways):
            changes.append(now)
    return [*points, (now + 0.8, 0.0)], changes


def waveguide(rng, f_hz: float, vibrato_cents: float, folder: Path):
    """Six strokes on one pitch: samples, moments of change, whether the bow turned at each."""
    turned = rng.random(5) < 0.5
    ways = np.cumprod([1, *np.where(turned, -1, 1)])
    points, changes = _velocity(rng, rng.uniform(0.6, 1.2, 6), ways, rng.choice([0.03, 0.06, 0.1]))
    line = ", ".join(
        [f"{points[0][1]:.5f}"]
        + [
            f"{max(1e-4, b[0] - a[0]):.6f}, {b[1]:.5f}"
            for a, b in zip(points, points[1:], strict=False)
        ]
    )
    out = folder / "turns.wav"
    # the opcode takes speed as 0.03 + 0.2 × amplitude and scales its output by the amplitude
    text = f"""<CsoundSynthesizer>
<CsOptions>
-W -3 -o {out} -d -m0
</CsOptions>
<CsInstruments>
sr = {RATE}
ksmps = 16
nchnls = 1
0dbfs = 1
instr 1
kspeed linseg {line}
kamp = (kspeed - 0.03) / 0.2
if abs(kamp) < 0.00001 then
kamp = 0.00001
endif
kdrift jspline 2, 0.5, 2
kvib lfo {vibrato_cents / 2}, 5.4
kf = {f_hz} * cent(kdrift + kvib)
a1 wgbow kamp, kf, {rng.uniform(2.5, 4.0):.3f}, {rng.uniform(0.09, 0.16):.4f}, 0, 0
out a1 / kamp * 0.3
endin
</CsInstruments>
<CsScore>
i1 0 {points[-1][0]}
</CsScore>
</CsoundSynthesizer>"""
    score = folder / "turns.csd"
    score.write_text(text)
    subprocess.run(["csound", str(score)], check=True, capture_output=True, timeout=120)
    samples, _ = soundfile.read(out)
    return samples, changes, turned


def placed(rng, x, t60_s: float, direct_db: float):
    """Through a body of random resonances, a room, and noise."""
    y = 0.3 * x
    for _ in range(14):
        b, a = signal.iirpeak(
            np.exp(rng.uniform(np.log(180), np.log(5000))), rng.uniform(8, 25), fs=RATE
        )
        y = y + rng.choice([-1, 1]) * rng.uniform(0.5, 1.5) * signal.lfilter(b, a, x)
    if t60_s > 0:
        t_s = np.arange(int(1.1 * t60_s * RATE)) / RATE
        tail = rng.normal(size=len(t_s)) * 10 ** (-3 * t_s / t60_s) * (t_s > 0.004)
        tail = signal.sosfilt(signal.butter(1, 6000, fs=RATE, output="sos"), tail)
        wet = signal.oaconvolve(y, tail)[: len(y)]
        y = y + wet * np.std(y) / np.std(wet) * 10 ** (-direct_db / 20)
    y = 0.5 * y / np.abs(y).max()
    return y + rng.normal(size=len(y)) * np.std(y) * 10 ** (-rng.choice([30, 40]) / 20)


def listened(x, rate_hz: int, kind: str) -> Heard:
    low = next(iter(pure_strings(instrument(kind).strings, 440.0).values()))
    return hear(choose_signal(np.asarray(x), rate_hz), instrument(kind), lowest_open_hz=low)


def count(n: Counter, where: str, heard: Heard, changes, turned) -> None:
    """Every change: found as a border, claimed, right; borders where none was."""
    onsets = [s.onset_s for s in heard.segments]
    for at, true in zip(changes, turned, strict=True):
        n[where, "changes"] += 1
        n[where, "found"] += any(abs(s - at) < NEAR_S for s in onsets)
        told = [t for t in heard.turns or () if abs(t.time_s - at) < NEAR_S]
        way = way_of(told[0]) if told else "unknown"
        n[where, "claimed"] += way != "unknown"
        n[where, "right"] += way == ("turned" if true else "same")
    n[where, "elsewhere"] += sum(
        way_of(t) == "turned" and all(abs(t.time_s - at) >= NEAR_S for at in changes)
        for t in heard.turns or ()
    )


def told(n: Counter, where: str) -> None:
    """One line, as soon as a group is done."""
    total, claimed = n[where, "changes"], n[where, "claimed"]
    right = 100.0 * n[where, "right"] / max(1, claimed)
    print(
        f"{where}: {total} changes, found {n[where, 'found']}, claimed {claimed} "
        f"({100 * claimed / max(1, total):.0f} %), right {n[where, 'right']} ({right:.1f} %), "
        f"turned elsewhere {n[where, 'elsewhere']}",
        flush=True,
    )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=4, help="of each instrument, pitch and room")
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    n: Counter = Counter()
    for where in ("dry", "room"):
        for k in range(4 * options.takes):
            kind = tuple(LINES)[k % 4]
            jig = jig_from_line(
                LINES[kind], jig_id="line", instrument_id=kind, title="line",
                key=Key(PitchClass("D"), "major"), tempo_bpm=80.0,
            )  # fmt: skip
            take = play(jig, faults=clean_faults(rng, where), seed=options.seed + k)
            notes = take.notes
            pairs = [(a, b) for a, b in zip(notes, notes[1:], strict=False) if a.pitch == b.pitch]
            count(
                n, f"our player, {where}", listened(take.sound.samples, take.sound.rate_hz, kind),
                [b.onset_s for _, b in pairs], [a.bow != b.bow for a, b in pairs],
            )  # fmt: skip
        told(n, f"our player, {where}")
    if shutil.which("csound"):
        for name, (t60_s, direct_db) in ROOMS.items():
            for k in range(options.takes):
                for kind, pitches in PITCHES.items():
                    for f_hz in pitches:
                        with tempfile.TemporaryDirectory() as folder:
                            x, changes, turned = waveguide(
                                rng,
                                f_hz * 2 ** (rng.uniform(-2, 2) / 12),
                                30.0 * (k % 2),
                                Path(folder),
                            )
                        heard = listened(placed(rng, x, t60_s, direct_db), RATE, kind)
                        count(n, f"waveguide, {name}", heard, changes, turned)
            told(n, f"waveguide, {name}")
    else:
        print("csound is not installed: only our player (apt-get install csound)")
    return 0


if __name__ == "__main__":
    sys.exit(main())
