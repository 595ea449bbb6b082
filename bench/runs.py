"""Fast notes that sound into each other: found with what is written in mind, and without it.

Lines in sixteenths of our player – scales, to and fro between two strings, strokes on one pitch –
dry and in its rooms. Counted are notes found (within 65 cents, half of the time in common), rows no
note accounts for, notes that were left out and are called played, and onsets.

    python bench/runs.py [--takes 8] [--seed 0]
"""

from __future__ import annotations

import argparse
from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from jigwright.core.follow.align import line_up
from jigwright.core.follow.doubts import decided
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.stops import written_pitches_hz
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.drawn import clean_take
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from talk import LOWEST, NAMES

WAYS = ("with what is written", "without")


@dataclass
class Counted:
    """What was found one way."""

    n: Counter = field(default_factory=Counter)
    onset_ms: list[float] = field(default_factory=list)


def line(rng, kind: str) -> str:
    """Six bars of runs, strokes on one pitch, and two strings in turn."""
    words: list[str] = []

    def note(midi: int, beats: str) -> str:
        return f"{NAMES[midi % 12]}{midi // 12 - 1}:{beats}"

    for _ in range(6):
        low = LOWEST[kind] + int(rng.integers(3, 17))
        shape = rng.choice(["run", "strokes", "turns"])
        if shape == "run":
            words += [note(low + s, "1/4") for s in (0, 2, 4, 5, 7, 9, 11, 12)]
        elif shape == "strokes":
            words += [note(low + s, "1/4") for s in (0, 0, 2, 2, 4, 4, 5, 5)]
        else:
            up = int(rng.choice([5, 7, 9, 12]))
            words += [note(low + s, "1/4") for s in (0, up) * 4]
        words += [note(low + 4, "1"), note(low + 2, "1")]
    return " ".join(words)


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--takes", type=int, default=8)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    for where in ("dry", "room"):
        rng = np.random.default_rng(options.seed)
        counted = {way: Counted() for way in WAYS}
        for k in range(options.takes):
            kind = list(INSTRUMENTS)[k % 4]
            jig = jig_from_line(
                line(rng, kind), jig_id="line", instrument_id=kind, title="line",
                key=Key(PitchClass("C"), "major"),
                tempo_bpm=float(rng.uniform(70, 92) if kind == "bass" else rng.uniform(84, 126)),
            )  # fmt: skip
            faults = [
                p for p in clean_take(rng, where).split("; ")
                if not p.startswith(("talk", "other"))
            ]  # fmt: skip
            if k % 3 == 2:
                faults.append(f"miss notes={int(rng.integers(5, len(jig.events) - 5))}")
            take = play(
                jig, faults=parse_faults("; ".join(faults)), seed=int(rng.integers(1 << 30))
            )
            for way in WAYS:
                count(counted[way], take, jig, kind, written=way == WAYS[0])
        for way in WAYS:
            c = counted[way]
            ms = np.abs(c.onset_ms)
            print(
                f"{where:5} {way:22} found {c.n['found']}/{c.n['notes']}, invented "
                f"{c.n['invented']}, left out and called played {c.n['ghosts']}/{c.n['left out']}, "
                f"onsets {np.median(ms):.0f} ms, nine in ten {np.percentile(ms, 90):.0f} ms"
            )
    return 0


def count(c: Counted, take, jig, kind: str, *, written: bool) -> None:
    """Add what was found of one take."""
    strings = pure_strings(instrument(kind).strings, 440.0)
    heard = hear(
        choose_signal(np.asarray(take.sound.samples), take.sound.rate_hz), instrument(kind),
        lowest_open_hz=min(strings.values()), open_hz=tuple(strings.values()),
        written_hz=written_pitches_hz(jig, 440.0) if written else (),
    )  # fmt: skip
    segments = decided(heard, jig, a4_hz=440.0).segments
    rows = line_up(segments, jig, a4_hz=440.0, params=FollowParams(), pairs=heard.pairs).notes
    used: set[int] = set()
    for n in take.notes:
        c.n["notes"] += 1
        common = {
            i: min(n.offset_s, s.offset_s) - max(n.onset_s, s.onset_s)
            for i, s in enumerate(segments)
            if i not in used and abs(1200.0 * np.log2(s.f0_hz / n.f0_hz)) < 65.0
        }
        best = max(common, key=lambda i: common[i], default=-1)
        if best < 0:
            continue
        shorter = min(n.offset_s - n.onset_s, segments[best].offset_s - segments[best].onset_s)
        if common[best] > 0.5 * shorter:
            used.add(best)
            c.n["found"] += 1
            c.onset_ms.append(1000.0 * (segments[best].onset_s - n.onset_s))
    c.n["invented"] += len(segments) - len(used)
    played = {n.i_event for n in take.notes}
    for i in set(range(len(jig.events))) - played:
        c.n["left out"] += 1
        c.n["ghosts"] += any(r.i_event == i and r.state == "played" for r in rows)


if __name__ == "__main__":
    raise SystemExit(main())
