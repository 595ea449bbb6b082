"""Sounds that nobody tuned anything to, and the whole chain they go through.

Tones of random spectra with leaps, rests, overlaps, swells and rooms; takes of the simulated player
with random faults; pieces cut at random out of passages by other makers, mixed and disturbed; and
arrays that are no music at all.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from jigwright.core.jig.makers import MAKERS, Setting
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.judge.analysis import follow_and_measure, judge_take
from jigwright.core.judge.judging import Context
from jigwright.core.judge.playing import measure_playing
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL, pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.analysing import Analysed
from jigwright.services.result import result_dict, results_csv
from jigwright.wording.findings import finding_sentence, finding_title

KINDS = ("violin", "viola", "cello", "bass")
_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
_FAULTS = (
    "detune spread_cents=25", "slide from_cents=-80", "hunt size_cents=60", "repeat notes=2",
    "vibrato extent_cents=90 rate_hz=7 irregularity=0.2", "wrong notes=1 semitones=3",
    "miss notes=1", "miss notes=0,3 closed_up=true", "back_one notes=4 first_cents=40",
    "weak notes=1,2 db=25", "shape kind=swell db=20", "unsteady spread_ms=120",
    "pause notes=3 seconds=2", "gain db=-40",
    "room rt60_s=1.4 wet_db=-2", "noise snr_db=8 hum_hz=50", "neighbour balance_db=1",
    "bounce times=4 depth_db=30", "scratch seconds=0.4 db=0", "whistle", "tremor depth_db=14",
    "hurry db=12", "lift share=0.3", "sympathy", "pluck", "fold", "drone f_hz=220 db=-12",
    "extra semitones=-5", "bow_change dip_db=40 gap_ms=120",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Case:
    """A sound and what it is held against."""

    samples: np.ndarray
    rate_hz: int
    kind: str
    jig: Jig | None


def passages_folder() -> Path | None:
    """Where passages by other makers lie, if they are here."""
    beside = Path(__file__).parents[2] / "shared" / "passages"
    folder = Path(os.environ.get("JIGWRIGHT_PASSAGES", beside))
    return folder if folder.is_dir() else None


def _name(midi: int) -> str:
    return f"{_NAMES[midi % 12]}{midi // 12 - 1}"


def _jig_of(rng: np.random.Generator, midi: Sequence[int], kind: str) -> Jig | None:
    """Sometimes what was played, sometimes with notes left out, sometimes nothing."""
    if rng.random() < 0.4:
        return None
    kept = [m for m in midi if rng.random() > 0.15] or list(midi[:1])
    return note_list(" ".join(_name(m) for m in kept), instrument_id=kind) if kept else None


def _tone(rng: np.random.Generator, rate_hz: int, f_hz: float, seconds: float) -> np.ndarray:
    t = np.arange(max(2, int(seconds * rate_hz))) / rate_hz
    partials = [h for h in range(1, 10) if f_hz * h < 0.5 * rate_hz]
    x = np.zeros(len(t))
    for h in partials:
        x += rng.uniform(0.05, 1.0) / h * np.sin(2 * np.pi * f_hz * h * t + rng.uniform(0, 6.3))
    edge = min(len(t) // 2, int(rng.uniform(0.001, 0.2) * rate_hz)) + 1
    shape = np.ones(len(t))
    shape[:edge] = np.linspace(0.0, 1.0, edge)[: len(t)]
    shape[-edge:] *= np.linspace(1.0, 0.0, edge)[-len(t) :]
    if rng.random() < 0.4:
        shape *= np.linspace(rng.uniform(0.0, 1.0), rng.uniform(0.0, 1.0), len(t))
    return np.asarray(10 ** (rng.uniform(-30.0, -3.0) / 20) * x * shape)


def _in_room(rng: np.random.Generator, x: np.ndarray, rate_hz: int) -> np.ndarray:
    n = int(0.5 * rate_hz)
    tail = rng.standard_normal(n) * 10 ** (-3 * np.arange(n) / (rng.uniform(0.2, 1.5) * rate_hz))
    wet = np.fft.irfft(np.fft.rfft(x, 2 * len(x)) * np.fft.rfft(tail, 2 * len(x)))[: len(x)]
    share = rng.uniform(0.05, 1.0) * (np.std(x) + 1e-12) / (np.std(wet) + 1e-12)
    return np.asarray(x + share * wet)


def tones(rng: np.random.Generator) -> Case:
    """Leaps, rests, overlaps, crescendi, noise and rooms."""
    kind = KINDS[int(rng.integers(4))]
    rate_hz = int(rng.choice([48_000, 44_100, 22_050, 16_000, 8_000]))
    lowest, at = instrument(kind).strings[0].midi, rng.uniform(0.0, 0.5)
    parts, midi = [], []
    for _ in range(int(rng.integers(1, 12))):
        midi.append(lowest + int(rng.integers(0, 32)))
        f_hz = 440.0 * 2 ** ((midi[-1] + rng.normal(0, 0.2) - 69) / 12)
        seconds = float(rng.choice([0.04, 0.08, 0.12, 0.2, 0.35, 0.6, 1.2])) * rng.uniform(0.7, 1.3)
        parts.append((at, _tone(rng, rate_hz, f_hz, seconds)))
        at += seconds * float(rng.choice([0.5, 0.8, 1.0, 1.0, 1.0, 1.2, 2.5]))
    x = np.zeros(int((at + 1.6) * rate_hz))
    for start, part in parts:
        i = int(start * rate_hz)
        x[i : i + len(part)] += part[: len(x) - i]
    if rng.random() < 0.35:
        x = _in_room(rng, x, rate_hz)
    x += 10 ** (rng.uniform(-95.0, -30.0) / 20) * rng.standard_normal(len(x))
    return Case(samples=x, rate_hz=rate_hz, kind=kind, jig=_jig_of(rng, midi, kind))


def played(rng: np.random.Generator) -> Case:
    """Any exercise by the simulated player with two or three faults, cut off anywhere."""
    while True:
        one = MAKERS[int(rng.integers(len(MAKERS)))]
        kind = KINDS[int(rng.integers(4))]
        try:
            jig = one.make(Setting(instrument_id=kind, tempo_bpm=float(rng.choice([60, 96, 160]))))
            jig = replace(jig, events=jig.events[:10])  # the rest would be cut off below
            break
        except ValueError:
            continue
    faults = "; ".join(rng.choice(_FAULTS, int(rng.integers(0, 4)), replace=False))
    sound = play(jig, seed=int(rng.integers(1000)), faults=parse_faults(faults)).sound
    x = np.asarray(sound.samples, dtype=np.float64)[: int(rng.uniform(1.0, 9.0) * sound.rate_hz)]
    return Case(
        samples=x, rate_hz=sound.rate_hz, kind=kind, jig=jig if rng.random() < 0.7 else None
    )


@lru_cache(maxsize=1)
def _files(folder: Path) -> tuple[Path, ...]:
    return tuple(sorted((folder / "audio").glob("*.flac")))


def _piece(rng: np.random.Generator, folder: Path) -> tuple[np.ndarray, int, str, list[int]]:
    import soundfile

    path = _files(folder)[int(rng.integers(len(_files(folder))))]
    truth = json.loads((folder / "truth" / f"{path.stem}.json").read_text())
    x, rate_hz = soundfile.read(path, dtype="float64", always_2d=True)
    start = int(rng.uniform(0.0, 0.8) * len(x))
    stop = start + int(rng.uniform(0.3, 7.0) * rate_hz)
    inside = [
        n for n in truth["notes"] if start / rate_hz <= float(n["onset_s"]) < stop / rate_hz
    ]  # fmt: skip
    midi = [round(69 + 12 * np.log2(float(n["f0_hz"]) / 440.0)) for n in inside if n.get("f0_hz")]
    return x[start:stop, 0], rate_hz, str(truth["instrument"]), midi


def cut_out(rng: np.random.Generator, folder: Path) -> Case:
    """A piece of a passage by another maker: cut anywhere, mixed, faded, turned round, in noise."""
    x, rate_hz, kind, midi = _piece(rng, folder)
    if rng.random() < 0.4:
        y, other_hz, _, more = _piece(rng, folder)
        if other_hz == rate_hz:
            x = np.concatenate([x, np.zeros(int(rng.uniform(0, 1) * rate_hz)), y])
            midi += more
    if rng.random() < 0.2:
        y = _piece(rng, folder)[0]
        n = min(len(x), len(y))
        x = x[:n] + rng.uniform(0.05, 0.6) * y[:n]
    if rng.random() < 0.2:
        x = x[::-1]
    if rng.random() < 0.3:
        x = x * np.linspace(rng.uniform(0, 1), rng.uniform(0, 1), len(x))
    if rng.random() < 0.3:
        x = _in_room(rng, x, rate_hz)
    x = x + 10 ** (rng.uniform(-95.0, -25.0) / 20) * rng.standard_normal(len(x))
    if rng.random() < 0.15:
        x = np.clip(8.0 * x, -1.0, 1.0)
    midi = [m for m in midi if 12 <= m <= 120]
    return Case(samples=x, rate_hz=rate_hz, kind=kind, jig=_jig_of(rng, midi, kind))


def no_music(rng: np.random.Generator) -> Case:
    """Arrays of any length and content."""
    rate_hz = int(rng.choice([4_000, 8_000, 48_000, 192_000]))
    n = int(rng.choice([1, 2, 3, 5, 37, 200, 1000, 5000, 40_000]))
    noise = rng.standard_normal(n)
    one_bad = noise.copy()
    one_bad[int(rng.integers(n))] = float(rng.choice([np.inf, -np.inf, np.nan, 1e30, 1e9]))
    click = np.zeros(n)
    click[n // 2] = 1.0
    choices: tuple[Callable[[], np.ndarray], ...] = (
        lambda: np.zeros(n), lambda: noise, lambda: np.full(n, np.nan), lambda: one_bad,
        lambda: np.sign(noise), lambda: 1e30 * noise, lambda: 1e-30 * noise, lambda: click,
        lambda: np.full(n, 0.7), lambda: np.sin(rng.uniform(0.0, 3.14) * np.arange(n)),
        lambda: np.stack([noise, np.zeros(n)], axis=1), lambda: np.linspace(-1.0, 1.0, n),
    )  # fmt: skip
    x = choices[int(rng.integers(len(choices)))]()
    if rng.random() < 0.5:
        with np.errstate(over="ignore"):
            x = x.astype(np.float32)
    kind = KINDS[int(rng.integers(4))]
    return Case(samples=x, rate_hz=rate_hz, kind=kind, jig=_jig_of(rng, [60, 62, 64], kind))


def any_case(seed: int) -> Case:
    """The case of a seed: all four families in turn."""
    rng = np.random.default_rng(seed)
    folder = passages_folder()
    family = seed % 4
    if family == 1 and folder is not None:
        return cut_out(rng, folder)
    if family == 2:
        return played(rng)
    return no_music(rng) if family == 3 else tones(rng)


def whole_chain(case: Case) -> dict[str, Any]:
    """Hear, line up, measure, judge, write as JSON and CSV, and say every sentence."""
    inst = instrument(case.kind)
    open_hz = pure_strings(inst.strings, 440.0)
    context = Context(
        instrument_id=case.kind, strings=inst.strings, a4_hz=440.0, reference=EQUAL,
        tolerance_cents=10.0,
    )  # fmt: skip
    heard = hear(
        choose_signal(case.samples, case.rate_hz), inst, lowest_open_hz=min(open_hz.values()),
        open_hz=tuple(open_hz.values()),
    )  # fmt: skip
    lined, measured = follow_and_measure(heard, case.jig, a4_hz=440.0, instrument_id=case.kind)
    playing = measure_playing(heard, measured, case.jig, open_hz)
    judged = judge_take(
        measured, case.jig, context, key_fifths=lined.key_fifths, playing=playing
    )  # fmt: skip
    for finding in judged.findings:
        assert finding_title(finding, inst.strings)
        assert finding_sentence(finding)
    analysed = Analysed(heard=heard, judged=judged, key_fifths=lined.key_fifths)
    result = result_dict(analysed, file="x", context=context, jig=case.jig)
    json.dumps(result, allow_nan=False)
    results_csv([result])
    return result
