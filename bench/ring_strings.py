"""Rings on sound with coupled strings made by another synthesis.

Csound plays a scale: a bowed-like tone (a band-limited sawtooth through a formant) on one string at
a time, whose sound drives delay lines tuned as the open strings (waveguide strings, Smith 1992).
A string that is played is stopped; the others ring. The truth is the delay lines' own sound at the
partials a note shares. Nothing of it is the project's own player.

    python bench/ring_strings.py [--takes 8] [--seed 0]

Needs the program ``csound`` (Debian: ``apt-get install csound``).
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

from jigwright.core.gauge.values import Ring
from jigwright.core.jig.scales import make_scale
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import RING, pure_strings, target_hz
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from rings import LOUD_DB, NONE_DB, SOME_DB, planted_db

RATE = 48_000
_SHARP = 2.0 ** (13.5 / 1200.0)  # the loop's filter makes the line as much longer
KINDS = ("violin", "viola", "cello")
TONICS = {"violin": ("G", "A", "D"), "viola": ("C", "D", "G"), "cello": ("C", "D", "G")}


def _orchestra(open_hz: list[float], out: Path, feedback: float, coupling: float) -> str:
    """One delay line a string, a channel each, and the played sound in the first channel."""
    lines = [
        "<CsoundSynthesizer>", "<CsOptions>", f"-W -3 -o {out} -d -m0", "</CsOptions>",
        "<CsInstruments>", f"sr = {RATE}", "ksmps = 16", f"nchnls = {1 + len(open_hz)}",
        "0dbfs = 1", "gadrive init 0",
        "instr 1", "kvib lfo p6 * p5 * 0.00057779, 5.6",
        "aenv linseg 0, 0.06, 1, p3 - 0.12, 0.95, 0.06, 0", "asaw vco2 p4, p5 + kvib",
        "anoise pinkish 0.01 * p4", "abody butterbp asaw, 900, 1600", "alow tone asaw, 2600",
        "gadrive = gadrive + (0.5 * abody + 0.6 * alow + anoise) * aenv", "endin",
        "instr 5", 'Sname sprintf "free%d", p4', "chnset p5, Sname", "endin",
        "instr 10",
    ]  # fmt: skip
    lines += ["asum = gadrive"]
    for j, hz in enumerate(open_hz):
        lines += [
            f'kraw{j} chnget "free{j}"', f"kfree{j} port kraw{j}, 0.012",
            f"adrive{j} = gadrive * {coupling:.6f} * kfree{j}",
            f"awet{j} wguide1 adrive{j}, {hz * _SHARP:.5f}, 6000, {feedback:.6f}",
            f"awet{j} = awet{j} * kfree{j}", f"outch {j + 2}, awet{j}", f"asum = asum + awet{j}",
        ]  # fmt: skip
    lines += ["outch 1, asum", "clear gadrive", "endin", "</CsInstruments>", "<CsScore>"]
    return "\n".join(lines)


def made(rng, kind: str, folder: Path, *, rings: bool):
    """A scale with its strings' own sound: samples, strings' samples, jig, open strings."""
    tonic = str(rng.choice(TONICS[kind]))
    jig = make_scale(
        jig_id="c", instrument_id=kind, slur=1, tempo_bpm=60, key=Key(PitchClass(tonic)), octaves=2
    )
    strings = pure_strings(instrument(kind).strings, 440.0)
    open_hz = list(strings.values())
    coupling = 10 ** (rng.uniform(-46, -34) / 20) if rings else 0.0
    out = folder / "take.wav"
    text = [_orchestra(open_hz, out, float(rng.uniform(0.985, 0.995)), coupling)]
    vibrato = float(rng.choice([0.0, 0.0, 12.0]))
    end = 0.5 + len(jig.events)
    text += [f"i 5 0 0.01 {j} 1" for j in range(len(open_hz))]
    text.append(f"i 10 0 {end + 1.5}")
    for i, event in enumerate(jig.events):
        head, at = event.heads[0], 0.5 + i
        hz = target_hz(RING, head.pitch, 440.0, open_strings_hz=strings)
        hz *= 2.0 ** (float(rng.normal(0.0, 1.5)) / 1200.0)
        text.append(f"i 1 {at:.4f} 0.99 0.25 {hz:.5f} {vibrato}")
        text += [f"i 5 {at:.4f} 0.01 {head.string} 0", f"i 5 {at + 0.99:.4f} 0.01 {head.string} 1"]
    text += ["</CsScore>", "</CsoundSynthesizer>"]
    score = folder / "take.csd"
    score.write_text("\n".join(text))
    subprocess.run(["csound", str(score)], check=True, capture_output=True, timeout=300)
    samples, _ = soundfile.read(out)
    noise = 10 ** (-rng.choice([40, 50]) / 20) * np.std(samples[:, 0])
    x = samples[:, 0] + noise * rng.standard_normal(len(samples))
    return x, samples[:, 1:].T, jig, tuple(open_hz)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=8)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    if shutil.which("csound") is None:
        print("csound is not installed: apt-get install csound")
        return 1
    rng = np.random.default_rng(options.seed)
    for rings in (True, False):
        n: Counter[str] = Counter()
        off: list[float] = []
        for k in range(options.takes):
            with tempfile.TemporaryDirectory() as folder:
                kind = KINDS[k % len(KINDS)]
                x, rung, jig, open_hz = made(rng, kind, Path(folder), rings=rings)
            heard = hear(
                choose_signal(x, RATE), instrument(kind), lowest_open_hz=open_hz[0],
                open_hz=open_hz,
            )  # fmt: skip
            _, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=kind)
            for note in notes:
                if not isinstance(note.ring, Ring) or note.segment is None:
                    continue
                for one in note.ring.strings:
                    true = planted_db(
                        rung.sum(axis=0), RATE, note.segment, open_hz[one.meeting.string], -120.0
                    )
                    if one.state == "rang":
                        n["false" if true < NONE_DB else "rang"] += 1
                        off.append(one.level_db - true)
                    for limit, name in ((LOUD_DB, "loud"), (SOME_DB, "some")):
                        if true > limit and one.state != "unknown":
                            n[f"{name} {one.state}"] += 1
        what = "strings ring" if rings else "no string rings"
        size = ""
        if off:
            size = f"; level off by dB {np.median(np.abs(off)):.1f}, bias {np.median(off):+.1f}"
        print(f"{what}, {options.takes} takes: {dict(n)}{size}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
