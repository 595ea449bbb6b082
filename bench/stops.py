"""Double stops in motion, as real players play them: what is heard, said and followed live.

Scales in thirds, sixths and octaves on four instruments (drawn from
:mod:`jigwright.core.player.drawn`), with vibrato on the upper string in every second take, dry and
in rooms. For each kind: stops of which both notes were told, fused ones, rows that are no note,
findings in clean takes, errors of both voices and how often the truth lies inside the range, how
stops are said to have been reached, and (``--live``) how often the place in the exercise is right
nine tenths of a second into a stop, with a repeated stop and a note gone back to.

    python bench/stops.py [--takes 4] [--seed 10] [--live]
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from jigwright.core.errors import JigError
from jigwright.core.gauge.values import Double
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.jig.stops import written_stops_hz
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import parse_reference, pure_strings
from jigwright.core.player.drawn import Where, clean_take
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import Performance, play, truth_json
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.values import Unmeasured
from jigwright.services.ear import Ear
from jigwright.services.recording import EarRequest
from jigwright.services.take_reader import judge_heard

TONICS = {"violin": "D", "viola": "C", "cello": "C", "bass": "A"}
INTERVALS = ("thirds", "sixths", "octaves")
Task = tuple[str, str, Where, int]


@dataclass
class Counted:
    """What was found of some takes."""

    n: Counter[str] = field(default_factory=Counter)
    errors: list[float] = field(default_factory=list)
    inside: list[bool] = field(default_factory=list)


def played(task: Task, faults: str = "") -> tuple[Jig, Performance] | None:
    """A scale in one interval; ``None`` where no hand reaches it."""
    kind, interval, where, seed = task
    setting = Setting(
        instrument_id=kind, key=Key(PitchClass(TONICS[kind])), tempo_bpm=60.0,
        values={"interval": interval},
    )  # fmt: skip
    try:
        jig = maker("double_scale").make(setting)
    except JigError:
        return None
    text = clean_take(np.random.default_rng(seed), where, vibrato=bool(seed % 2))
    made = play(
        jig, seed=seed, faults=parse_faults("; ".join(t for t in (text, faults) if t)),
        reference=parse_reference(jig.reference),
    )  # fmt: skip
    return jig, made


def offline(task: Task) -> tuple[Task, Counted]:
    """Hear a clean take with its jig."""
    found = Counted()
    taken = played(task)
    if taken is None:
        return task, found
    jig, made = taken
    inst = instrument(task[0])
    strings = pure_strings(inst.strings, 440.0)
    heard = hear(
        choose_signal(made.sound.samples, made.sound.rate_hz), inst,
        lowest_open_hz=min(strings.values()), open_hz=tuple(strings.values()),
        stops_hz=written_stops_hz(jig, 440.0),
    )  # fmt: skip
    context = Context(
        instrument_id=inst.id, strings=inst.strings, a4_hz=440.0,
        reference=parse_reference(jig.reference), tolerance_cents=10.0,
    )  # fmt: skip
    judged, _ = judge_heard(heard, jig, context)
    truth = json.loads(truth_json(made, file="x"))["double_stops"]
    found.n["stops"] = len(truth)
    found.n["findings"] = len(judged.findings)
    for note in judged.notes:
        lined, double = note.measured.lined, note.measured.double
        found.n["extra"] += lined.i_event is None
        found.n["wrong"] += note.standing in ("wrong", "missed")
        if lined.i_event is None or note.measured.segment is None:
            continue
        found.n["attempts"] += lined.state == "retry"
        if isinstance(double, Unmeasured):
            found.n[double.reason] += 1
            continue
        found.n["both"] += 1
        reached = double.reached
        found.n["refused" if isinstance(reached, Unmeasured) else reached.kind] += 1
        near = [t for t in truth if abs(t["onset_s"] - note.measured.segment.onset_s) < 0.4]
        for one in near[:1]:
            _compare(found, double, one)
    return task, found


def _compare(found: Counted, double: Double, truth: dict) -> None:  # type: ignore[type-arg]
    for voice in ("lower", "upper"):
        off = 1200 * np.log2(getattr(double, f"{voice}_hz") / truth[voice]["f0_hz"])
        found.errors.append(abs(float(off)))
        found.inside.append(bool(abs(off) <= getattr(double, f"{voice}_uncertainty_cents")))


def live(task: Task) -> tuple[Task, Counted]:
    """Follow a take with a repeated stop and one gone back to."""
    found = Counted()
    taken = played(task, "repeat notes=4 times=1; back_one notes=8")
    if taken is None:
        return task, found
    jig, made = taken
    rate = made.sound.rate_hz
    x = made.sound.samples
    x = x[:, 0] if x.ndim > 1 else x
    rng = np.random.default_rng(1)
    x = np.concatenate([rng.normal(0, 1e-5, int(1.5 * rate)), x, rng.normal(0, 1e-5, 4 * rate)])
    request = EarRequest(
        path=Path("x"), instrument_id=task[0], strings=instrument(task[0]).strings, a4_hz=440.0,
        jig=jig,
    )  # fmt: skip
    ear = Ear(request, rate)
    step = rate // 20
    said = []
    for i in range(0, len(x), step):
        says = ear.hear(x[i : i + step])
        found.n["takes"] += says.take is not None
        said.append((i / rate - 1.5, says.i_event, says.pair is not None))
    notes = json.loads(truth_json(made, file="x"))["notes"]
    for k, note in enumerate(notes):
        inside = [s for s in said if note["onset_s"] + 0.9 < s[0] < note["offset_s"]]
        if not inside:
            continue
        place = inside[len(inside) // 2][1]
        before = notes[k - 1]["jig_index"] if k else None
        found.n["stops"] += 1
        found.n["right"] += place in (note["jig_index"], before)
        found.n["shown"] += inside[len(inside) // 2][2]
    return task, found


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the bench."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--takes", type=int, default=4)
    parser.add_argument("--seed", type=int, default=10)
    parser.add_argument("--live", action="store_true")
    options = parser.parse_args(arguments)
    wheres: tuple[Where, ...] = ("dry", "room")
    tasks = [
        (kind, interval, where, options.seed + k)
        for interval in INTERVALS
        for where in wheres
        for k in range(options.takes)
        for kind in TONICS
    ]
    total: dict[tuple[str, str], Counted] = {}
    with ProcessPoolExecutor(2) as pool:
        for task, one in pool.map(live if options.live else offline, tasks):
            row = total.setdefault(task[1:3], Counted())
            row.n.update(one.n)
            row.errors += one.errors
            row.inside += one.inside
    if options.live:
        print("| scale | stops | place right | both notes shown | takes |\n|---|---|---|---|---|")
        for (interval, where), row in total.items():
            n = row.n
            print(f"| {interval}, {where} | {n['stops']} | {n['right']} | {n['shown']} | "
                  f"{n['takes']} |")  # fmt: skip
        return 0
    print("| scale | stops | both told | fused | one string | extra rows | wrong or missed | "
          "findings | voice, cents, 50 / 95 % | inside | landed / corrected / hunted / refused |\n"
          "|---|---|---|---|---|---|---|---|---|---|---|")  # fmt: skip
    for (interval, where), row in total.items():
        n, e = row.n, row.errors or [float("nan")]
        print(
            f"| {interval}, {where} | {n['stops']} | {n['both']} | {n['fused']} | "
            f"{n['one_string']} | {n['extra']} | {n['wrong']} | {n['findings']} | "
            f"{np.percentile(e, 50):.1f} / {np.percentile(e, 95):.1f} | "
            f"{100 * np.mean(row.inside or [0]):.0f} % | {n['landed']} / {n['corrected']} / "
            f"{n['hunted']} / {n['refused']} |"
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
