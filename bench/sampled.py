"""Music by a sampler, in rooms, through microphones and with human mess, with its truth.

Lines nobody wrote, played from recorded samples by FluidSynth with whatever sound fonts are
installed; each note has its own detuning, long ones a vibrato whose rate and width wander (pitch
bends), strokes swell. What is heard of it is a room with early reflections, a microphone, noise,
and - in group C - false starts, restarts, wrong and skipped notes, tuning and talk between. The
layout is that of the passages folder, so ``bench/passages.py`` and its like can read it; no
module under test had a hand in the sound, and the analysis never sees the truth.

    python bench/sampled.py FOLDER [--takes 24] [--seed 0] [--groups A,B,C]
    python bench/passages.py FOLDER

Needs the program ``fluidsynth`` and at least one sound font (Debian: ``apt-get install fluidsynth
timgm6mb-soundfont fluid-soundfont-gm musescore-general-soundfont-small``).
"""

from __future__ import annotations

import argparse
import json
import shutil
import struct
import subprocess
import sys
import tempfile
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from scipy import signal

from jigwright.core.jig.exchange import jig_to_json
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from talk import NAMES, RATE, voice

FONTS = {
    "gm": "/usr/share/sounds/sf2/FluidR3_GM.sf2",
    "tim": "/usr/share/sounds/sf2/TimGM6mb.sf2",
    "ms": "/usr/share/sounds/sf3/MuseScore_General_Lite.sf3",
    "bank": "/usr/share/sounds/sf2/sf_GMbank.sf2",
}
PROGRAMS = {"violin": 40, "viola": 41, "cello": 42, "bass": 43}
OPEN = {
    "violin": (55, 62, 69, 76), "viola": (48, 55, 62, 69), "cello": (36, 43, 50, 57),
    "bass": (28, 33, 38, 43),
}  # fmt: skip
MAJOR = (0, 2, 4, 5, 7, 9, 11)
TICKS_PER_S = 9600
BEND_CENTS = 200.0
LEAD_S = 0.6
WHERE = {
    "rt03_dr6": (0.3, 6.0), "rt05_dr0": (0.5, 0.0), "rt08_dr3": (0.8, 3.0),
    "rt08_drm3": (0.8, -3.0), "rt15_dr0": (1.5, 0.0), "rt15_drm6": (1.5, -6.0),
}  # fmt: skip
MICROPHONES = ("phone", "laptop")
NOISES = (
    "hum20", "fan20", "click", "thumps", "speech25", "speech12", "drone20", "second25", "sink",
)  # fmt: skip


@dataclass(frozen=True)
class Written:
    """A note of the line: pitches (MIDI, low first), beats, whether it is slurred from the last."""

    midis: tuple[int, ...]
    beats: Fraction
    slurred: bool = False


@dataclass
class Score:
    """A line and how fast it goes."""

    kind: str
    bpm: float
    tonic: int
    notes: list[Written] = field(default_factory=list)

    def scale(self) -> list[int]:
        low, high = OPEN[self.kind][0], OPEN[self.kind][-1] + 12
        return [m for m in range(low, high + 1) if (m - self.tonic) % 12 in MAJOR]

    def line(self) -> str:
        """As :mod:`jigwright.core.jig.line` reads it; a rest is a note without pitches."""
        words: list[str] = []
        for i, x in enumerate(self.notes):
            follows = i + 1 < len(self.notes) and self.notes[i + 1].slurred
            word = "+".join(name(m) for m in x.midis) or "r"
            word = f"{word}:{x.beats}"
            if follows and not x.slurred:
                word = "(" + word
            if x.slurred and not follows:
                word += ")"
            words.append(word)
        return " ".join(words)

    def sounding(self) -> list[Written]:
        return [x for x in self.notes if x.midis]


def name(midi: int) -> str:
    """As ``C#4``."""
    return f"{NAMES[midi % 12]}{midi // 12 - 1}"


def composed(rng: np.random.Generator, kind: str) -> Score:
    """Phrases of what studies are made of: steps, runs, repeats, leaps, dotted notes, stops."""
    slow = rng.random() < 0.6
    bpm = float(rng.uniform(56, 92) if slow else rng.uniform(96, 144 if kind != "bass" else 120))
    score = Score(kind, round(bpm), int(rng.choice([0, 2, 4, 5, 7, 9, 11])))
    pitches = score.scale()
    at = int(rng.integers(4, len(pitches) - 9))
    goal = int(rng.integers(26, 46))
    shapes = ["steps", "run", "repeat", "cross", "leap", "dotted", "long", "stop", "arpeggio"]
    shares = np.array([4, 2, 1.5, 1.5, 1, 1.5, 2, 0.7, 1])
    while len(score.sounding()) < goal:
        at = int(np.clip(at + rng.integers(-3, 4), 2, len(pitches) - 9))
        score.notes += _phrase(rng, str(rng.choice(shapes, p=shares / shares.sum())), pitches, at)
        if rng.random() < 0.08:
            score.notes.append(Written((), Fraction(1)))
    score.notes.append(Written((pitches[at],), Fraction(2)))
    return score


def _phrase(rng, shape: str, pitches: list[int], at: int) -> list[Written]:
    def p(step: int) -> tuple[int]:
        return (pitches[int(np.clip(at + step, 0, len(pitches) - 1))],)

    half, quarter = Fraction(1, 2), Fraction(1, 4)
    slur = bool(rng.random() < 0.5)
    way = int(rng.choice([-1, 1]))
    if shape == "steps":
        return [
            Written(p(way * i), half, slur and i % 2 == 1) for i in range(int(rng.choice([4, 6])))
        ]
    if shape == "run":
        start = 0 if way > 0 else 7
        return [Written(p(start + way * i), quarter, slur and i % 4 > 0) for i in range(8)]
    if shape == "repeat":
        each = quarter if rng.random() < 0.4 else half
        return [Written(p(0), each) for _ in range(4)] + [Written(p(1), Fraction(1))]
    if shape == "cross":
        far = int(rng.integers(4, 8))
        each = quarter if rng.random() < 0.4 else half
        return [Written(p(far if i % 2 else 0), each, slur and i % 2 == 1) for i in range(4)]
    if shape == "leap":
        return [Written(p(0), Fraction(1)), Written(p(7), Fraction(1)), Written(p(2), Fraction(1))]
    if shape == "dotted":
        return [
            Written(p(i // 2), Fraction(3, 4) if i % 2 == 0 else quarter, False) for i in range(4)
        ]  # fmt: skip
    if shape == "arpeggio":
        return [Written(p(i), half, slur and i > 0) for i in (0, 2, 4, 2)]
    if shape == "stop":
        other = int(rng.choice([2, 4, 5, 7]))
        return [
            Written((*p(0), *p(other)), Fraction(1)),
            Written((*p(-1), *p(other - 1)), Fraction(1)),
        ]
    return [Written(p(0), Fraction(2)), Written(p(way), Fraction(1))]


@dataclass(frozen=True)
class Part:
    """What is done next: written notes ``first`` to ``last`` played, a pause, tuning or talk."""

    what: str
    first: int = 0
    last: int = 0
    seconds: float = 0.0
    speed: float = 1.0
    skip: tuple[int, ...] = ()
    wrong: tuple[tuple[int, int], ...] = ()
    cut: bool = False


def story(rng: np.random.Generator, n: int) -> list[Part]:
    """How somebody gets through ``n`` notes who practises."""
    end, mid = n - 1, int(rng.integers(n // 3, 2 * n // 3))
    faults = {
        "skip": tuple(int(i) for i in rng.choice(np.arange(3, n - 3), rng.integers(0, 3), False))
    }
    free = [i for i in range(3, n - 3) if i not in faults["skip"]]
    faults["wrong"] = tuple(
        (int(i), int(rng.choice([-2, -1, 1, 2])))
        for i in rng.choice(free, rng.integers(0, 3), False)
    )
    pause = Part("pause", seconds=float(rng.uniform(0.25, 1.6)))
    kind = str(rng.choice(["false", "restart", "back", "slow", "overlap", "tune", "talk"]))
    if kind == "false":
        return [
            Part("play", 0, int(rng.integers(1, 6)), cut=True),
            pause,
            Part("play", 0, end, **faults),
        ]
    if kind == "restart":
        again = max(0, mid - int(rng.integers(2, 9)))
        return [Part("play", 0, mid), pause, Part("play", again, end, **faults)]
    if kind == "back":
        return [Part("play", 0, mid, cut=True), Part("play", mid - 1, end, **faults)]
    if kind == "slow":
        return [Part("play", 0, mid, speed=0.7), pause, Part("play", 0, end, **faults)]
    if kind == "overlap":
        again, third = mid - int(rng.integers(1, 6)), int(rng.integers(mid + 2, n - 2))
        return [Part("play", 0, mid), pause, Part("play", again, third), pause,
                Part("play", third - int(rng.integers(0, 4)), end)]  # fmt: skip
    if kind == "tune":
        return [Part("tune"), pause, Part("play", 0, end, **faults)]
    return [Part("play", 0, mid), pause, Part("talk", seconds=float(rng.uniform(2, 4))), pause,
            Part("play", mid - 2, end, **faults)]  # fmt: skip


class Sampler:
    """Collects notes on two channels in turn (so that each has its own bend) and renders them."""

    def __init__(self, kind: str) -> None:
        self.events: list[tuple[float, int, bytes]] = []
        self._channel = 0
        for channel in range(4):
            self.events.append((0.0, 0, bytes([0xC0 | channel, PROGRAMS[kind]])))
            for control, value in ((101, 0), (100, 0), (6, int(BEND_CENTS // 100)), (11, 100)):
                self.events.append((0.0, 1, bytes([0xB0 | channel, control, value])))

    def note(self, on_s: float, off_s: float, midi: int, velocity: int, cents, swell) -> None:
        """``cents`` and ``swell`` (0 to 1) are functions of seconds since the onset."""
        channel = self._channel = (self._channel + 1) % 4
        for t in np.arange(-0.004, off_s - on_s + 0.25, 0.01):
            u = max(0.0, float(t))
            bend = int(np.clip(8192 + 8192 * cents(u) / BEND_CENTS, 0, 16383))
            self.events.append((on_s + float(t), 2, bytes([0xE0 | channel, bend & 127, bend >> 7])))
            loud = int(np.clip(127 * swell(u), 1, 127))
            self.events.append((on_s + float(t), 2, bytes([0xB0 | channel, 11, loud])))
        self.events.append((on_s, 3, bytes([0x90 | channel, midi, velocity])))
        self.events.append((off_s, 4, bytes([0x80 | channel, midi, 0])))

    def render(self, font: str, seconds: float) -> np.ndarray:
        """Mono at ``RATE``, without the sampler's own reverberation."""
        last, track = 0, b"\x00\xff\x51\x03\x0f\x42\x40"
        for at, _, data in sorted(self.events, key=lambda x: (x[0], x[1])):
            tick = max(last, round(max(0.0, at) * TICKS_PER_S))
            track += _length(tick - last) + data
            last = tick
        track += b"\x00\xff\x2f\x00"
        head = b"MThd" + struct.pack(">IHHH", 6, 0, 1, TICKS_PER_S)
        with tempfile.TemporaryDirectory() as folder:
            midi, wav = Path(folder) / "x.mid", Path(folder) / "x.wav"
            midi.write_bytes(head + b"MTrk" + struct.pack(">I", len(track)) + track)
            subprocess.run(
                ["fluidsynth", "-ni", "-R", "0", "-C", "0", "-g", "0.6", "-r", str(RATE),
                 "-F", str(wav), font, str(midi)],
                check=True, capture_output=True, timeout=300,
            )  # fmt: skip
            x, _ = soundfile.read(wav)
        x = x.mean(axis=1)[: round(seconds * RATE)]
        return np.pad(x, (0, round(seconds * RATE) - len(x)))


def _length(ticks: int) -> bytes:
    out = [ticks & 127]
    while ticks := ticks >> 7:
        out.append(128 | (ticks & 127))
    return bytes(reversed(out))


def vibrato(rng: np.random.Generator, seconds: float, at: float):
    """Cents over seconds: a detuning, an arm that starts late, a rate and a width that wander."""
    if seconds < 0.5 or rng.random() < 0.35:
        return lambda _: at, 0.0
    rate, width = rng.uniform(4.8, 6.6), rng.uniform(10, 45)
    drift, breath = rng.uniform(0.2, 0.9, 2)
    late, phase = rng.uniform(0.05, 0.25), rng.uniform(0, 2 * np.pi, 3)

    def cents(u: float) -> float:
        arm = np.clip((u - late) / 0.2, 0, 1)
        turn = 2 * np.pi * rate * u + 0.9 * np.sin(2 * np.pi * drift * u + phase[0])
        wide = 0.5 * width * (1 + 0.25 * np.sin(2 * np.pi * breath * u + phase[1]))
        return float(at + arm * wide * np.sin(turn + phase[2]))

    return cents, float(width)


def stroke(rng: np.random.Generator, seconds: float):
    """Expression over seconds: a swell or a taper of a few decibels."""
    depth, peak = rng.uniform(0, 0.25), rng.uniform(0.2, 0.8) * seconds
    return lambda u: float(0.82 - depth * min(1.0, abs(u - peak) / max(0.1, seconds)))


@dataclass
class Take:
    """What was played, and when."""

    sampler: Sampler
    notes: list[dict[str, Any]] = field(default_factory=list)
    talks: list[tuple[float, float]] = field(default_factory=list)
    told: list[str] = field(default_factory=list)
    now_s: float = LEAD_S


def played(rng: np.random.Generator, score: Score, parts: list[Part]) -> Take:
    """The parts of a story one after the other."""
    take = Take(Sampler(score.kind))
    for part in parts:
        take.told.append(f"{take.now_s:.1f} {part}")
        if part.what == "pause":
            take.now_s += part.seconds
        elif part.what == "talk":
            take.talks.append((take.now_s, take.now_s + part.seconds))
            take.now_s += part.seconds
        elif part.what == "tune":
            strings = OPEN[score.kind]
            for k in range(2, 0, -1):
                _sound(rng, take, (strings[k], strings[k + 1]), 1.6, "tuning", None, False, False)
        else:
            _play(rng, take, score, part)
    return take


def _play(rng, take: Take, score: Score, part: Part) -> None:
    written = -1
    drift, sway = rng.uniform(0.02, 0.06), rng.uniform(6, 14)
    wrong = dict(part.wrong)
    for x in score.notes:
        written += bool(x.midis)
        if not part.first <= written <= part.last or written in part.skip:
            continue
        pace = 60.0 / score.bpm / part.speed * (1 + drift * np.sin(2 * np.pi * take.now_s / sway))
        seconds = float(x.beats) * pace * (1 + rng.normal(0, 0.02))
        if not x.midis:
            if written < part.last:
                take.now_s += seconds
            continue
        if part.cut and written == part.last:
            seconds *= rng.uniform(0.35, 0.7)
        by = wrong.get(written, 0)
        slurred = x.slurred and written > part.first and written - 1 not in part.skip
        midis = tuple(m + by for m in x.midis)
        _sound(rng, take, midis, seconds, "main", written, slurred, bool(by))


def _sound(rng, take: Take, midis, seconds: float, kind, written, slurred, wrong) -> None:
    on = take.now_s + float(np.clip(rng.normal(0, 0.008), -0.02, 0.02))
    gap = (
        0.0
        if slurred
        else float(rng.uniform(0, 0.05) + (0.12 if rng.random() < 0.08 else 0))
        * min(1, seconds / 0.4)
    )
    off = take.now_s + seconds - gap
    rows = []
    for midi in midis:
        cents, width = vibrato(rng, seconds, float(rng.normal(0, 7)))
        swell = stroke(rng, seconds)
        take.sampler.note(
            on, off + (0.03 if slurred else 0), midi, int(rng.integers(64, 110)), cents, swell
        )
        at = float(np.mean([cents(u) for u in np.linspace(0.3 * seconds, 0.9 * seconds, 60)]))
        rows.append({
            "f0_hz": 440.0 * 2 ** ((midi - 69 + at / 100) / 12), "cents": at,
            "uncertainty_cents": 10.0, "definition_spread_cents": 10.0, "midi": midi,
            "vibrato_extent_cents": width or None, "vibrato_rate_hz": None,
        })  # fmt: skip
    row = {
        **rows[-1], "onset_s": on, "offset_s": off, "onset_sound_s": on, "offset_sound_s": off,
        "w": written, "kind": kind, "slur": slurred, "port": False, "trill_of": None,
        "vib_ctl": None, "truth_quality": "doubtful", "wrong": wrong,
    }  # fmt: skip
    row["vibrato_extent_cents"] = None
    if len(rows) > 1:
        row["lower"] = {
            k: rows[0][k]
            for k in ("f0_hz", "cents", "uncertainty_cents", "definition_spread_cents", "midi")
        }
    take.notes.append(row)
    take.now_s += seconds


def in_room(rng, x: np.ndarray, t60_s: float, direct_db: float) -> np.ndarray:
    """Direct sound, a dozen early reflections, and a tail whose treble dies sooner."""
    n = round(t60_s * RATE)
    late = np.zeros(n)
    for low, high, share in (
        (60, 400, 1.1),
        (400, 1600, 1.0),
        (1600, 6000, 0.75),
        (6000, 16000, 0.45),
    ):
        sos = signal.butter(2, (low, high), "bandpass", fs=RATE, output="sos")
        late += signal.sosfilt(sos, rng.normal(size=n)) * 10 ** (-3 * np.arange(n) / (n * share))
    late[: round(0.018 * RATE)] = 0
    early = np.zeros(n)
    for at in rng.uniform(0.002, 0.045, 12):
        early[round(at * RATE)] += rng.choice([-1, 1]) * rng.uniform(0.3, 1) * 10 ** (-at / 0.06)
    late *= 1 / np.sqrt(np.sum(late**2))
    early *= 1 / np.sqrt(np.sum(early**2))
    wet = 0.75**0.5 * late + 0.25**0.5 * early
    wet[0] = 0
    wet *= 10 ** (-direct_db / 20)
    wet[0] = 1
    return signal.oaconvolve(x, wet)[: len(x)]


def recorded(rng, x: np.ndarray, how: str) -> np.ndarray:
    """A phone: narrow band, gain control, 16 kHz; a laptop: bass gone, some clipping."""
    low, high = (180, 7000) if how == "phone" else (120, 9000)
    x = signal.sosfilt(signal.butter(2, (low, high), "bandpass", fs=RATE, output="sos"), x)
    level = np.sqrt(np.maximum(1e-8, signal.lfilter([1e-4], [1, -(1 - 1e-4)], x**2)))
    x = x * (np.max(level) / np.maximum(level, 0.1 * np.max(level))) ** 0.6
    x = np.clip(x / np.max(np.abs(x)) * (1.25 if how == "laptop" else 1.0), -1, 1)
    if how == "phone":
        x = signal.resample_poly(signal.resample_poly(x, 1, 3), 3, 1)[: len(x)]
    return x + rng.normal(size=len(x)) * 3e-4


def with_noise(rng, x: np.ndarray, how: str, take: Take, score: Score, font: str) -> np.ndarray:
    """Something else sounds."""
    n, rms = len(x), np.std(x)
    t = np.arange(n) / RATE
    if how.startswith("hum"):
        hum = sum(np.sin(2 * np.pi * 50 * k * t + k) / k for k in (1, 2, 3, 4, 6, 8))
        return x + rms * 0.1 * hum / np.std(hum)
    if how.startswith("fan"):
        fan = signal.lfilter([1], [1, -0.97], rng.normal(size=n))
        return x + rms * 0.1 * fan / np.std(fan)
    if how == "click":
        y = np.zeros(n)
        u = np.arange(round(0.03 * RATE)) / RATE
        tick = np.sin(2 * np.pi * 1800 * u) * np.exp(-u / 0.006)
        for at in np.arange(LEAD_S, n / RATE - 0.1, 60 / score.bpm):
            y[round(at * RATE) : round(at * RATE) + len(tick)] += tick
        return x + y * 0.5 * np.max(np.abs(x))
    if how == "thumps":
        y = np.zeros(n)
        u = np.arange(round(0.25 * RATE)) / RATE
        for at in rng.uniform(0.2, n / RATE - 0.4, max(3, n // RATE // 3)):
            hit = np.sin(2 * np.pi * rng.uniform(50, 140) * u) * np.exp(
                -u / 0.04
            ) + 0.3 * rng.normal(size=len(u)) * np.exp(-u / 0.01)
            y[round(at * RATE) : round(at * RATE) + len(u)] += hit * rng.uniform(0.2, 0.8)
        return x + y * np.max(np.abs(x))
    if how.startswith("speech"):
        y = np.zeros(n)
        at = rng.uniform(0, 2)
        while at < n / RATE - 1:
            s = voice(rng, 4.0)[: n - round(at * RATE)]
            y[round(at * RATE) : round(at * RATE) + len(s)] += s
            take.talks.append((at, at + len(s) / RATE))
            at += len(s) / RATE + rng.uniform(1, 4)
        return x + rms * 10 ** (-float(how[6:]) / 20) * y
    if how.startswith("drone"):
        f = 440 * 2 ** ((score.tonic + 48 - 69) / 12)
        y = sum(np.sin(2 * np.pi * f * k * t) / k for k in range(1, 8))
        return x + rms * 0.1 * y / np.std(y)
    if how.startswith("second"):
        other = played(
            rng, (s := composed(rng, score.kind)), [Part("play", 0, len(s.sounding()) - 1)]
        )
        y = other.sampler.render(font, n / RATE)
        return x + rms * 10 ** (-25 / 20) * y / np.std(y)
    x = with_noise(rng, in_room(rng, x, 0.6, 0.0), "fan20", take, score, font)
    x = with_noise(
        rng, with_noise(rng, x, "thumps", take, score, font), "speech25", take, score, font
    )
    return recorded(rng, x, "phone")


def make(folder: Path, seed: int, group: str) -> None:
    """One passage: its sound, its truth, its exercise."""
    rng = np.random.default_rng([seed, ord(group)])
    kind = list(PROGRAMS)[seed % 4]
    fonts = {k: v for k, v in FONTS.items() if Path(v).is_file()}
    font = list(fonts)[(seed // 4) % len(fonts)]
    score = composed(rng, kind)
    n = len(score.sounding())
    parts = story(rng, n) if group == "C" else [Part("play", 0, n - 1)]
    take = played(rng, score, parts)
    x = take.sampler.render(fonts[font], take.now_s + 1.2)
    condition = None
    if group == "B":
        choice = [*WHERE, *MICROPHONES, *NOISES]
        condition = choice[seed % len(choice)]
        if condition in WHERE:
            x = in_room(rng, x, *WHERE[condition])
        elif condition in MICROPHONES:
            x = recorded(rng, in_room(rng, x, 0.4, 3.0), condition)
        else:
            x = with_noise(rng, x, condition, take, score, fonts[font])
    elif group == "C":
        for start, end in take.talks:
            s = voice(rng, end - start) * np.std(x) * 10 ** (rng.uniform(-12, -3) / 20)
            x[round(start * RATE) : round(start * RATE) + len(s)] += s
        if rng.random() < 0.5:
            x = in_room(rng, x, float(rng.uniform(0.25, 0.6)), float(rng.uniform(2, 8)))
    x = 0.5 * x / np.max(np.abs(x)) + rng.normal(size=len(x)) * 1.5e-4
    title = f"{group}_{seed:03d}_{condition or 'dry'}_{kind}_{font}"
    jig = jig_from_line(
        score.line(), jig_id=title, instrument_id=kind, title=title,
        key=Key(PitchClass("C"), "major"), tempo_bpm=float(score.bpm),
    )  # fmt: skip
    (folder / "jigs" / f"{title}.json").write_text(jig_to_json(jig))
    soundfile.write(folder / "audio" / f"{title}.flac", x, RATE)
    truth = {
        "name": title, "instrument": kind, "generator": font, "bpm": score.bpm, "a4_hz": 440.0,
        "line": score.line(),
        "notes_arg": " ".join("+".join(map(name, w.midis)) for w in score.sounding()),
        "n_written": n, "group": _group(group, condition), "condition": condition,
        "written": [
            {"i": i, "midis": list(w.midis), "trill": False, "grace": None,
             "names": [name(m) for m in w.midis]} for i, w in enumerate(score.sounding())
        ],
        "notes": take.notes, "story": take.told, "talks": take.talks, "duration_s": len(x) / RATE,
    }  # fmt: skip
    (folder / "truth" / f"{title}.json").write_text(json.dumps(truth, indent=1))


def _group(group: str, condition: str | None) -> str:
    if condition in WHERE:
        return "B-room"
    if condition in MICROPHONES or condition == "sink":
        return "B-mic"
    return "B-noise" if condition else group


def main() -> int:
    parser = argparse.ArgumentParser(description="Music by a sampler, with its truth.")
    parser.add_argument("folder", type=Path)
    parser.add_argument("--takes", type=int, default=24, help="passages of each group")
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--groups", default="A,B,C")
    args = parser.parse_args()
    if shutil.which("fluidsynth") is None or not any(Path(v).is_file() for v in FONTS.values()):
        print("needs fluidsynth and a sound font", file=sys.stderr)
        return 1
    for part in ("audio", "truth", "jigs"):
        (args.folder / part).mkdir(parents=True, exist_ok=True)
    for group in args.groups.split(","):
        for seed in range(args.seed, args.seed + args.takes):
            make(args.folder, seed, group)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
