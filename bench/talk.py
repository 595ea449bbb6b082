"""Talk between playing: what is noticed, what is taken for notes, what of the playing is lost.

Two takes of our player with somebody who speaks between them (synthetic voices of other makers
where they are installed: ``espeak-ng``, ``flite``; else our own), one room and one microphone
around all of it. Heard blind and with the jig.

    python bench/talk.py [--takes 24] [--seed 0]
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

from jigwright.core.follow.doubts import decided
from jigwright.core.follow.stretches import stretches
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.drawn import WHERE, clean_take
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.places import recorded
from jigwright.core.player.play import play
from jigwright.core.player.real import Microphone
from jigwright.core.player.voice import speech
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.ear import Ear
from jigwright.services.recording import EarRequest

RATE = 48_000
BLOCK = 2400  # as the Stand hears
WORDS = (
    "Once more from the second bar, a little slower, and listen to the end of the long note.",
    "Good. Now with less pressure, and let the arm lead. Where does the phrase want to go?",
    "Wait, that was the wrong finger. Which string are you on? Show me the hand. Yes, and again.",
)
VOICES = {
    "espeak-ng": ("en-us", "en-gb+f3", "de", "fr", "it+f2", "en+m3"),
    "flite": ("slt", "rms", "awb", "kal16"),
}
LOWEST = {"violin": 55, "viola": 48, "cello": 36, "bass": 28}
NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
SHAPES = {"long": ("4", 4), "scale": ("1", 14), "fast": ("1/4", 48), "leaps": ("1/2", 20)}


def voice(rng, seconds: float) -> np.ndarray:
    """Somebody who speaks, RMS 1."""
    there = [name for name in VOICES if shutil.which(name)]
    if not there:
        return speech(round(seconds * RATE), RATE, rng)
    name = str(rng.choice(there))
    who, words = str(rng.choice(VOICES[name])), str(rng.choice(WORDS))
    with tempfile.TemporaryDirectory() as folder:
        out = str(Path(folder) / "talk.wav")
        say = (
            ["espeak-ng", "-v", who, "-w", out, words]
            if name == "espeak-ng"
            else ["flite", "-voice", who, "-t", words, "-o", out]
        )
        subprocess.run(say, check=True, capture_output=True, timeout=60)
        x, rate = soundfile.read(out)
    y = signal.resample_poly(x, RATE // np.gcd(RATE, rate), rate // np.gcd(RATE, rate))
    y = y[: round(seconds * RATE)]
    return y / np.std(y)


def line(rng, kind: str, shape: str) -> str:
    """A made-up line in the low two octaves of an instrument."""
    beats, n = SHAPES[shape]
    midi, words = LOWEST[kind] + int(rng.integers(2, 14)), []
    for _ in range(n):
        words.append(f"{NAMES[midi % 12]}{midi // 12 - 1}:{beats}")
        step = int(rng.choice([-7, -5, 5, 7, 12] if shape == "leaps" else [-2, -1, 1, 2, 2]))
        midi += step if LOWEST[kind] <= midi + step <= LOWEST[kind] + 26 else -step
    return " ".join(words)


def sitting(rng, kind: str, shape: str, where):
    """Samples, the jig, when somebody speaks, when notes are played."""
    jig = jig_from_line(
        line(rng, kind, shape), jig_id="line", instrument_id=kind, title="line",
        key=Key(PitchClass("D"), "major"), tempo_bpm=float(rng.choice([60.0, 84.0])),
    )  # fmt: skip
    told = [p for p in clean_take(rng, where).split("; ") if not p.startswith(("talk", "other"))]
    takes = [
        play(jig, faults=parse_faults("; ".join(told)), seed=int(rng.integers(1 << 30)))
        for _ in range(2)
    ]
    first, second = (np.asarray(t.sound.samples, float) for t in takes)
    said = (
        voice(rng, float(rng.uniform(2.5, 6.0))) * np.std(first) * 10 ** (-rng.uniform(0, 14) / 20)
    )
    if where in ("room", "noise"):
        n = round(0.6 * RATE)
        tail = rng.normal(size=n) * 10 ** (-3.0 * np.arange(n) / RATE / 0.5)
        wet = signal.oaconvolve(said, tail)[: len(said)]
        said = said + 0.7 * wet * np.std(said) / np.std(wet)
    if where == "microphone":
        said = recorded(Microphone(kind="phone"), said, RATE)
    gap = np.zeros(round(0.35 * RATE))
    parts = [first, gap, said, gap, second]
    at = np.cumsum([0, *(len(p) for p in parts)]) / RATE
    hum = rng.normal(size=round(at[-1] * RATE) + 9) * np.std(first) * 10 ** (-45 / 20)
    x = np.concatenate(parts)
    notes = [(t.notes, at[k]) for t, k in zip(takes, (0, 4), strict=True)]
    played = [(n.onset_s + s, n.offset_s + s) for rows, s in notes for n in rows]
    return x + hum[: len(x)], jig, (at[2], at[3]), played


def count(n: Counter, where: str, talks, rows, talk, played) -> None:
    """Talk that was noticed, talk taken for notes, playing that was lost."""
    start_s, end_s = talk
    n[where, "sittings"] += 1
    inside = sum(max(0.0, min(t.end_s, end_s) - max(t.start_s, start_s)) for t in talks)
    n[where, "noticed"] += inside > 0.5 * (end_s - start_s)
    n[where, "elsewhere"] += sum(t.end_s < start_s - 0.5 or t.start_s > end_s + 0.5 for t in talks)
    middles = [(s.onset_s + s.offset_s) / 2 for s in rows]
    n[where, "rows in talk"] += sum(start_s < m < end_s for m in middles)
    n[where, "notes"] += len(played)
    n[where, "lost"] += sum(
        not any(s.onset_s < b and s.offset_s > a for s in rows) for a, b in played
    )


def stood(rng, kind: str, shape: str, where) -> tuple[int, int, int, int]:
    """At the Stand: somebody speaks, plays, speaks, plays, speaks.

    Returns
    -------
    spoken, taken, begun, whole : int
        Stretches of talk, takes of talk alone, takes that were played, those found from the first
        note to the last.
    """
    x, jig, talk, played = sitting(rng, kind, shape, where)
    n = len(played) // 2
    said = x[round(talk[0] * RATE) : round(talk[1] * RATE)]
    hush = np.random.default_rng(0).normal(size=round(1.6 * RATE)) * np.std(x) * 1e-3
    first = x[: round(talk[0] * RATE) - round(0.35 * RATE)]
    second = x[round(talk[1] * RATE) + round(0.35 * RATE) :]
    parts = [hush, said, hush, first, hush, said, hush, second, hush, said, hush, hush, hush]
    at = np.cumsum([0, *(len(p) for p in parts)]) / RATE
    takes = [
        (played[0][0] + at[3], played[n - 1][1] + at[3]),
        (played[n][0] - talk[1] - 0.35 + at[7], played[-1][1] - talk[1] - 0.35 + at[7]),
    ]
    ear = Ear(
        EarRequest(
            path=Path("x.wav"), instrument_id=kind, strings=instrument(kind).strings,
            a4_hz=440.0, jig=jig,
        ),
        RATE,
    )  # fmt: skip
    whole = np.concatenate(parts)
    blocks = [whole[i : i + BLOCK] for i in range(0, len(whole), BLOCK)]
    found = ear.find(blocks, stop_s=len(whole) / RATE, at_end=True).spans
    talk_only = sum(all(b < lo or a > hi for lo, hi in takes) for a, b in found)
    complete = sum(any(a <= lo + 0.02 and b >= hi - 0.1 for a, b in found) for lo, hi in takes)
    return 3, talk_only, len(takes), complete


OPEN = {
    "violin": "A4:3 D4+A4:4 G3+D4:4 A4+E5:4", "viola": "A4:3 D4+A4:4 G3+D4:4 C3+G3:4",
    "cello": "A3:3 D3+A3:4 G2+D3:4 C2+G2:4", "bass": "G2:3 D2+G2:4 A1+D2:4 E1+A1:4",
}  # fmt: skip


def lesson(rng, kind: str, where, minutes: float) -> tuple[int, int, int, list[str]]:
    """Tuning, then playing and talk in turns.

    Returns
    -------
    parts, right, extra : int
        What there is, what was found with its kind and both edges within a second, what else.
    missed : list of str
    """
    parts: list[tuple[str, np.ndarray]] = []
    tuning = jig_from_line(
        OPEN[kind], jig_id="tune", instrument_id=kind, title="tune", tempo_bpm=84.0
    )
    faults = "detune spread_cents=12; room rt60_s=0.4 wet_db=-6"
    x = np.asarray(play(tuning, faults=parse_faults(faults), seed=1).sound.samples, float)
    parts.append(("tuned", x))
    k = 0
    while sum(len(p) for _, p in parts) < minutes * 60 * RATE:
        level = np.std(x)
        said = voice(rng, float(rng.uniform(2.5, 6.0)))
        parts.append(("said", said * level * 10 ** (-rng.uniform(0, 12) / 20)))
        sound, _, talk, _ = sitting(rng, kind, list(SHAPES)[k % 4], where)
        parts.append(("played", sound[: round(talk[0] * RATE) - round(0.35 * RATE)]))
        k += 1
    whole, truth, at = [np.zeros(RATE)], [], float(1)
    for what, sound in parts:
        loud = np.flatnonzero(np.abs(sound) > 0.05 * np.abs(sound).max()) / RATE
        truth.append((what, at + loud[0], at + loud[-1]))
        gap = np.zeros(round(rng.uniform(0.4, 2.5) * RATE))
        whole += [sound, gap]
        at += (len(sound) + len(gap)) / RATE
    y = np.concatenate(whole)
    y = y + rng.normal(size=len(y)) * np.std(y) * 10 ** (-45 / 20)
    strings = pure_strings(instrument(kind).strings, 440.0)
    heard = hear(
        choose_signal(y, RATE), instrument(kind), lowest_open_hz=min(strings.values()),
        open_hz=tuple(strings.values()),
    )  # fmt: skip
    found = [(s.kind, s.start_s, s.end_s) for s in stretches(heard)]
    missed = [
        f"{t[0]} {t[1]:.1f}-{t[2]:.1f}"
        for t in truth
        if not any(t[0] == f[0] and abs(t[1] - f[1]) < 1 and abs(t[2] - f[2]) < 1 for f in found)
    ]
    extra = sum(
        not any(t[0] == f[0] and min(t[2], f[2]) > max(t[1], f[1]) for t in truth) for f in found
    )
    return len(truth), len(truth) - len(missed), extra, missed


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=24, help="sittings in each place")
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--lesson", type=float, default=0.0, help="minutes of made lessons")
    options = parser.parse_args()
    rng = np.random.default_rng(options.seed)
    for kind in INSTRUMENTS if options.lesson else ():
        for where in ("dry", "room"):
            parts, right, extra, missed = lesson(rng, kind, where, options.lesson)
            print(
                f"lesson of {options.lesson:g} min, {kind}, {where}: {right} of {parts} "
                f"stretches right, {extra} extra; missed: {', '.join(missed) or 'none'}",
                flush=True,
            )
    if not options.takes:
        return 0
    print("voices:", ", ".join(v for v in VOICES if shutil.which(v)) or "our own")
    for where in WHERE:
        n: Counter = Counter()
        for k in range(options.takes):
            kind, shape = list(INSTRUMENTS)[k % 4], list(SHAPES)[k // 4 % 4]
            x, jig, talk, played = sitting(rng, kind, shape, where)
            low = next(iter(pure_strings(instrument(kind).strings, 440.0).values()))
            heard = hear(choose_signal(x, RATE), instrument(kind), lowest_open_hz=low)
            every = heard.segments
            count(n, "as if nobody spoke", (), every, talk, played)
            for way, given in (("blind", None), ("with the jig", jig)):
                rows = decided(heard, given, a4_hz=440.0).segments
                count(n, way, heard.talks or (), rows, talk, played)
        for way in ("as if nobody spoke", "blind", "with the jig"):
            print(
                f"{where}, {way}: noticed {n[way, 'noticed']} of {n[way, 'sittings']}, "
                f"elsewhere {n[way, 'elsewhere']}, rows in talk {n[way, 'rows in talk']}, "
                f"notes lost {n[way, 'lost']} of {n[way, 'notes']}",
                flush=True,
            )
        spoken = [
            stood(rng, list(INSTRUMENTS)[k % 4], list(SHAPES)[k // 4 % 4], where)
            for k in range(options.takes)
        ]
        said, taken, begun, whole = np.sum(spoken, axis=0)
        print(
            f"{where}, at the Stand: {taken} takes of {said} stretches of talk, "
            f"{whole} of {begun} takes whole",
            flush=True,
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
