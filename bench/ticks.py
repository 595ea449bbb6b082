"""Somebody's metronome beside the playing: found, taken out, what it costs in notes.

Lines of our player in its rooms and through its microphones with a metronome of chosen sound, speed
and loudness in the same room; heard with the ticks taken out and without that step. At the Stand
the metronome ticks all along before, between and after two takes.

    python bench/ticks.py [--takes 12] [--seed 0] [--stand 6]
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from pathlib import Path
from unittest.mock import patch

import numpy as np

from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.drawn import WHERE, clean_take
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.places import surroundings
from jigwright.core.player.play import play
from jigwright.core.player.real import Ticks
from jigwright.core.sound import listen
from jigwright.core.sound.heard import METRONOME
from jigwright.core.sound.intake import choose_signal
from jigwright.services.ear import Ear
from jigwright.services.recording import EarRequest
from talk import RATE, SHAPES, line

BLOCK = 2400
SHAPES_HERE = tuple(s for s in SHAPES if s != "fast")


def sitting(rng, kind: str, where, level_db: float):
    """The line, what was played of it, and the metronome's speed."""
    shape = str(rng.choice(SHAPES_HERE))
    jig = jig_from_line(
        line(rng, kind, shape), jig_id="line", instrument_id=kind, title="line",
        key=Key(PitchClass("D"), "major"), tempo_bpm=float(rng.choice([60.0, 84.0])),
    )  # fmt: skip
    bpm = float(rng.choice([50.0, 66.0, 84.0, 96.0, 120.0]))
    told = [p for p in clean_take(rng, where).split("; ") if not p.startswith(("talk", "other"))]
    told.append(f"ticks bpm={bpm} every={rng.choice([0, 3, 4])} level_db={level_db}")
    return (
        jig,
        play(jig, faults=parse_faults("; ".join(told)), seed=int(rng.integers(1 << 30))),
        bpm,
    )


def rows(take, kind: str, *, out: bool) -> tuple[int, int, list[str]]:
    """Invented rows, notes lost and warnings, with the ticks taken out or not."""
    strings = pure_strings(instrument(kind).strings, 440.0)
    with patch.object(listen, "without_metronome", listen.without_metronome if out else kept):
        heard = listen.hear(
            choose_signal(np.asarray(take.sound.samples), take.sound.rate_hz), instrument(kind),
            lowest_open_hz=min(strings.values()), open_hz=tuple(strings.values()),
        )  # fmt: skip
    spans = [(n.onset_s, n.offset_s) for n in take.notes]
    middles = [(s.onset_s + s.offset_s) / 2 for s in heard.segments]
    claimed = {next((i for i, (a, b) in enumerate(spans) if a - 0.05 < m < b), -1) for m in middles}
    lost = len(spans) - len(claimed - {-1})
    return max(0, len(heard.segments) - len(claimed - {-1})), lost, list(heard.warnings)


def kept(x, _rate_hz):
    """As if nobody looked for a metronome."""
    return x, ()


def stood(rng, kind: str) -> tuple[int, int]:
    """Takes the Stand finds in two, and how many hold all that was played."""
    jig, take, bpm = sitting(rng, kind, "dry", -60.0)
    music = np.asarray(take.sound.samples, float)
    gap = np.zeros(9 * RATE)
    x = np.concatenate([gap, music, gap, music, gap])
    x += rng.normal(size=len(x)) * np.std(music) * 10 ** (-45 / 20)
    x += surroundings([Ticks(bpm=bpm, every=4, level_db=-6.0)], len(x), RATE, np.std(music), rng)
    x *= 0.2 / np.abs(x).max()
    ear = Ear(
        EarRequest(
            path=Path("-"), instrument_id=kind, strings=instrument(kind).strings, a4_hz=440.0,
            jig=jig,
        ),
        RATE,
    )  # fmt: skip
    takes = [
        says.take
        for i in range(0, len(x), BLOCK)
        if (says := ear.hear(x[i : i + BLOCK])).take is not None
    ]
    spans = [
        (9.0 + take.notes[0].onset_s, 9.0 + take.notes[-1].offset_s),
        tuple(
            18.0 + len(music) / RATE + t for t in (take.notes[0].onset_s, take.notes[-1].offset_s)
        ),
    ]
    whole = sum(any(a <= s + 0.1 and b >= e - 0.3 for a, b in takes) for s, e in spans)
    return len(takes), whole


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--takes", type=int, default=12)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--stand", type=int, default=6)
    o = parser.parse_args()
    rng = np.random.default_rng(o.seed)
    kinds = list(INSTRUMENTS)
    for where in WHERE:
        for level_db in (-3.0, -12.0):
            n: Counter = Counter()
            for k in range(o.takes):
                kind = kinds[k % len(kinds)]
                _, take, bpm = sitting(rng, kind, where, level_db)
                before, lost_before, _ = rows(take, kind, out=False)
                after, lost_after, warnings = rows(take, kind, out=True)
                said = [w.split(":") for w in warnings if w.startswith(METRONOME)]
                n["found"] += bool(said)
                n["right"] += bool(said) and abs(float(said[0][1]) / bpm - 1.0) < 1e-3
                n["notes"] += len(take.notes)
                n["before"] += before
                n["after"] += after
                n["lost before"] += lost_before
                n["lost after"] += lost_after
            print(
                f"{where:11} {level_db:+.0f} dB: found {n['found']} of {o.takes} "
                f"(speed right {n['right']}), rows that are no note {n['before']} -> {n['after']}, "
                f"notes lost {n['lost before']} -> {n['lost after']} of {n['notes']}",
                flush=True,
            )
    found = whole = 0
    for k in range(o.stand):
        a, b = stood(rng, kinds[k % len(kinds)])
        found, whole = found + a, whole + b
    print(f"Stand: {found} takes of {2 * o.stand}, {whole} whole")
    return 0


if __name__ == "__main__":
    sys.exit(main())
