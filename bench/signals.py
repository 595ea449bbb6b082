"""Signals that are plucked: how often they are understood, and how often there were none.

Plucked strings with random decays and touch, three strengths, in rooms and noise, two to three
tenths apart and more; and two hours of practice put together from our player's takes of every
exercise, and from recordings in a folder if one is given, in which nobody gives a signal.

    python bench/signals.py [--each 40] [--seed 0] [--minutes 30] [--sounds FOLDER]
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import fftconvolve

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.makers import MAKERS, Setting
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.play import play
from jigwright.core.sound.pluck_signals import PluckWatch
from jigwright.core.values import Floats

RATE = 48_000
KINDS = ("violin", "viola", "cello", "bass")
BLOCK = 2048


def plucked(rng: np.random.Generator, f_hz: float, n: int) -> Floats:
    """Silence, n plucks, silence; each stops what the one before left."""
    x = np.zeros(round(8.0 * RATE))
    at_s = 2.0 + rng.uniform(0, 0.3)
    for _ in range(n):
        t = np.arange(round(4.0 * RATE)) / RATE
        decay_s, where = rng.uniform(0.15, 0.8), rng.uniform(0.1, 0.4)
        one = sum(
            np.sin(np.pi * h * where) / h * np.exp(-t * (1 + rng.uniform(0.1, 0.3) * h) / decay_s)
            * np.sin(2 * np.pi * h * f_hz * t + rng.uniform(0, 6.28))
            for h in range(1, min(40, int(9000 / f_hz)))
        )  # fmt: skip
        one *= np.minimum(1.0, t / rng.uniform(0.002, 0.02))  # let go at once, or nearly
        a = round(at_s * RATE)
        x[a - round(0.01 * RATE) :] *= 0.2  # the finger damps what still rings
        x[a : a + len(one)] += rng.uniform(0.4, 1.0) * one[: len(x) - a]
        at_s += rng.uniform(0.22, 0.55)
    room_s = rng.choice([0.0, 0.3, 0.8])
    if room_s:
        m = round(room_s * RATE)
        h = rng.standard_normal(m) * 10 ** (-3 * np.arange(m) / m)
        h *= 10 ** (-rng.uniform(-1, 4) / 20) / np.sqrt(np.sum(h**2))
        h[0] += 1.0
        x = fftconvolve(x, h)[: len(x)]
    x *= 0.3 / np.max(np.abs(x))
    return np.asarray(x + 0.3 * 10 ** (-rng.uniform(45, 60) / 20) * rng.standard_normal(len(x)))


def signals(x: Floats, rate_hz: int, lowest_hz: float) -> list[int]:
    """What is told of a sound."""
    watch = PluckWatch(rate_hz, lowest_hz)
    told = [watch.push(x[i : i + BLOCK]) for i in range(0, len(x), BLOCK)]
    return [n for n in told if n]


def practice(kind: str, seed: int) -> Iterator[tuple[str, Floats, int]]:
    """Takes of every exercise, by our player."""
    key = Key(PitchClass("D"), "major")
    for k, maker in enumerate(MAKERS):
        try:
            jig = maker.make(Setting(instrument_id=kind, key=key, values={}))
        except JigwrightError:
            continue  # not for this instrument
        sound = play(jig, seed=seed + k).sound
        yield maker.id, np.concatenate([sound.samples, np.zeros(sound.rate_hz)]), sound.rate_hz


def main() -> None:
    """Print both tables."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--each", type=int, default=40)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--minutes", type=float, default=30.0)
    parser.add_argument("--sounds", type=Path)
    args = parser.parse_args()
    rng = np.random.default_rng(args.seed)
    for kind in KINDS:
        lowest = min(pure_strings(instrument(kind).strings, 440.0).values())
        right = {
            n: sum(
                signals(plucked(rng, lowest, n), RATE, lowest) == ([n] if n in (2, 3) else [])
                for _ in range(args.each)
            )
            for n in (1, 2, 3, 4)
        }
        print(f"{kind}: right of {args.each}: " + ", ".join(f"{n}: {r}" for n, r in right.items()))
    minutes, false = 0.0, []
    for kind in KINDS:
        lowest = min(pure_strings(instrument(kind).strings, 440.0).values())
        for name, x, rate_hz in practice(kind, args.seed):
            found = signals(x, rate_hz, lowest)
            minutes += len(x) / rate_hz / 60
            false += [(kind, name)] if found else []
            if minutes > args.minutes * (1 + KINDS.index(kind)) / len(KINDS):
                break
    for path in sorted(args.sounds.iterdir()) if args.sounds else ():
        if path.suffix in (".flac", ".wav", ".ogg"):
            samples, rate_hz = soundfile.read(path, always_2d=True)
            for kind in KINDS:
                lowest = min(pure_strings(instrument(kind).strings, 440.0).values())
                if kind in path.name:
                    found = signals(np.nan_to_num(samples[:, 0]), rate_hz, lowest)
                    minutes += len(samples) / rate_hz / 60
                    false += [(kind, path.name)] if found else []
    print(f"{minutes:.0f} minutes without a signal: {len(false)} told: {false}")


if __name__ == "__main__":
    main()
