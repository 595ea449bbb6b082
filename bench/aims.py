"""Aims held against takes: a clean one and one with a planted fault, for every aim.

Each exercise of the makers is played by the simulated player as real players play (drawn from
:mod:`jigwright.core.player.drawn`), clean and with one fault of medium size, on four instruments,
dry and in a room. Printed for each aim: clean takes met / cannot be told / called not met, faulty
takes not met / cannot be told / called met, and how often the deciding note was the planted one.

    python bench/aims.py [--takes 4] [--seed 0] [--where dry,room] [--only even_bow,contrast]
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import groupby

import numpy as np

from jigwright.core.errors import JigError
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import parse_reference, pure_strings
from jigwright.core.player.drawn import Where, clean_take
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import play
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.take_reader import judge_heard

KINDS = ("violin", "viola", "cello", "bass")
TONICS = {"violin": "D", "viola": "C", "cello": "C", "bass": "A"}


def same(jig: Jig) -> Jig:
    """Played as written."""
    return jig


def without_dynamics(jig: Jig) -> Jig:
    """Played without the marked loudness."""
    return replace(jig, events=tuple(replace(e, dynamic=None) for e in jig.events))


def dotted_as(ratio: float) -> Callable[[Jig], Jig]:
    """Dotted pairs played with another ratio."""

    def played(jig: Jig) -> Jig:
        share = Fraction(round(1000 * ratio / (1 + ratio)), 1000)
        events, at = [], Fraction(0)
        for i, e in enumerate(jig.events):
            last = i == len(jig.events) - 1
            length = e.length_beats if last else share if i % 2 == 0 else 1 - share
            events.append(replace(e, onset_beats=at, length_beats=length))
            at += length
        return replace(jig, events=tuple(events))

    return played


@dataclass(frozen=True, kw_only=True)
class Case:
    """One aim, the exercise it is looked at in, and what is planted.

    ``{n}`` in a fault stands for the numbers of some notes from 0, ``{up}`` and ``{down}`` for
    those of up and down bows.
    """

    kind: str
    maker_id: str
    planted: str = ""
    usual: str = ""
    values: Mapping[str, str | int] = field(default_factory=dict)
    play_clean: Callable[[Jig], Jig] = same
    play_planted: Callable[[Jig], Jig] = same
    vibrato: bool | None = None
    tempo: float = 66.0
    named: str = ""  # whose name is right, where it is not what was planted


STRING: Mapping[str, str | int] = {"string": "second", "repeats": 3}
CASES = (
    Case(kind="even_bow", maker_id="long_bows", values=STRING, vibrato=False,
         planted="bounce notes={n} depth_db=16 width_ms=40"),
    Case(kind="even_bow", maker_id="long_bows", values=STRING, vibrato=False,
         planted="scratch notes={n} db=-4 seconds=0.2"),
    Case(kind="mirror", maker_id="long_bows", values=STRING, vibrato=False,
         planted="shape notes={up} kind=grow db=12"),
    Case(kind="left_over", maker_id="long_bows", values=STRING, vibrato=False,
         planted="hurry notes={up} db=5"),
    Case(kind="bow_change", maker_id="bow_changes", values={"string": "second", "repeats": 1},
         vibrato=False, planted="bow_change dip_db=40 gap_ms=140"),
    Case(kind="crossing", maker_id="crossings", values={"repeats": 1}, vibrato=False,
         planted="weak notes={n} db=9"),
    Case(kind="duration", maker_id="slowest_bow", values={"string": "second", "seconds": 8},
         vibrato=False, planted="lift share=0.6"),
    Case(kind="notes_in_bow", maker_id="many_notes", values={"notes_in_bow": "16", "repeats": 1},
         vibrato=False, planted="unsteady spread_ms=90"),
    Case(kind="even_run", maker_id="even_run", vibrato=False, planted="unsteady spread_ms=45"),
    Case(kind="off_string", maker_id="off_string", vibrato=False, tempo=80.0,
         values={"string": "second", "repeats": 1}, planted="unsteady spread_ms=45"),
    Case(kind="soft", maker_id="soft_bows", values=STRING, vibrato=False,
         planted="tremor notes={n} rate_hz=6.5 depth_db=6"),
    Case(kind="direction", maker_id="long_shapes", values={"shape": "grow"}, vibrato=False,
         usual="shape kind=grow db=10", planted="shape kind=fade db=6"),
    Case(kind="contrast", maker_id="echo", play_planted=without_dynamics),
    Case(kind="pairs", maker_id="pairs", usual="weak notes={second} db=4",
         planted="weak notes={first} db=5", named="{second}"),
    Case(kind="held", maker_id="held", planted="lift share=0.7"),
    Case(kind="dotted", maker_id="dotted", values={"character": "sharp"}, vibrato=False,
         play_clean=dotted_as(3.8), play_planted=dotted_as(2.4)),
    Case(kind="dotted", maker_id="dotted", values={"character": "on_a_line"}, vibrato=False,
         play_planted=dotted_as(2.1)),
    Case(kind="vibrato", maker_id="vibrato", vibrato=False,
         usual="vibrato notes={second} rate_hz=5.5 extent_cents=40 irregularity=0.05 wander=0.1",
         planted="vibrato notes={two} rate_hz=5.5 extent_cents=40 irregularity=0.05 wander=0.1",
         named="{rest}"),
    Case(kind="pluck", maker_id="plucked", vibrato=False, planted="weak notes={n} db=9"),
    Case(kind="pitch", maker_id="scale", planted="detune notes={n} cents=-24"),
    Case(kind="every_note", maker_id="scale", planted="miss notes={n} closed_up=true"),
    Case(kind="hand_frame", maker_id="hand_pattern", planted="detune spread_cents=16"),
    Case(kind="shift", maker_id="shifts", planted="slide notes={shift} from_cents=-70 seconds=0.2",
         values={"glide": "none"}),
    Case(kind="second_arrival", maker_id="drone_scale",
         usual="back_one notes={n} first_cents=-25",
         planted="detune notes={n} cents=-25; back_one notes={n} first_cents=-30"),
    Case(kind="interval", maker_id="double_scale", values={"interval": "thirds"}, vibrato=False,
         planted="lower notes={n} cents=25"),
    Case(kind="both_sound", maker_id="double_scale", values={"interval": "thirds"},
         vibrato=False),
    Case(kind="partial", maker_id="harmonics", values={"highest_partial": 4}, vibrato=False,
         planted="fold notes={fourth} from_partial=4 to_partial=3"),
)  # fmt: skip


def filled(text: str, jig: Jig) -> tuple[str, set[int]]:
    """A fault's text with its notes, and their events."""
    n = len(jig.events)
    every = range(n)
    bows = [e.bow for e in jig.events]
    chosen = {
        "n": [max(1, n // 2)], "second": [i for i in every if i % 2],
        "first": [i for i in every if i % 2 == 0], "two": [1, 3],
        "rest": [i for i in every if i % 2 and i > 3],
        "up": [i for i in every if bows[i] == "up"],
        "down": [i for i in every if bows[i] == "down"],
        "fourth": [i for i in every if jig.events[i].heads[0].partial == 4][:1],
        "shift": [i for i in every if bows[i] is None],
    }  # fmt: skip
    used: set[int] = set()
    for name, numbers in chosen.items():
        if "{" + name + "}" in text:
            text = text.replace("{" + name + "}", ",".join(map(str, numbers)))
            used |= set(numbers)
    return text, used


def judged(
    case: Case, kind: str, where: Where, seed: int, *, planted: bool
) -> tuple[AimResult, set[int], int | None] | None:
    rng = np.random.default_rng(seed)
    key = Key(PitchClass(TONICS[kind]))
    try:
        jig = maker(case.maker_id).make(
            Setting(instrument_id=kind, key=key, tempo_bpm=case.tempo, values=case.values)
        )
    except JigError:
        return None
    usual = clean_take(rng, where, vibrato=case.vibrato)
    if case.kind == "shift":  # no slide is what the exercise asks for
        usual = "; ".join(t for t in usual.split("; ") if not t.startswith("portamento"))
    first, _ = filled(case.usual if not (planted and case.planted) else "", jig)
    fault, asked = filled(case.planted if planted else "", jig)
    if case.named and planted:
        asked = filled(case.named, jig)[1]
    text = "; ".join(t for t in (usual, first, fault) if t)
    if planted and not case.planted and case.play_planted is same:
        return None
    played = (case.play_planted if planted else case.play_clean)(jig)
    made = play(
        played, seed=seed, faults=parse_faults(text), reference=parse_reference(jig.reference)
    )
    inst = instrument(kind)
    strings = pure_strings(inst.strings, 440.0)
    heard = hear(
        choose_signal(made.sound.samples, made.sound.rate_hz), inst,
        lowest_open_hz=min(strings.values()), open_hz=tuple(strings.values()),
    )  # fmt: skip
    context = Context(
        instrument_id=kind, strings=inst.strings, a4_hz=440.0,
        reference=parse_reference(jig.reference), tolerance_cents=jig.tolerance_cents,
    )  # fmt: skip
    found, _ = judge_heard(heard, jig, context)
    result = next(r for r in found.aims if r.aim.kind == case.kind)
    row = result.row
    i_event = found.notes[row].measured.lined.i_event if row is not None else None
    return result, asked, i_event


def count(job: tuple[int, str, Where, int]) -> tuple[int, Where, Counter[str], list[str]]:
    """One clean and one faulty take."""
    i_case, kind, where, seed = job
    case, counts, lines = CASES[i_case], Counter[str](), []
    for planted in (False, True):
        found = judged(case, kind, where, seed, planted=planted)
        if found is None:
            continue
        result, asked, i_event = found
        name = "planted" if planted else "clean"
        counts[f"{name} {result.state}"] += 1
        if planted and result.state == "not_met" and asked:
            counts["named"] += 1
            counts["right"] += i_event in asked or i_event is None
        wrong = result.state == ("met" if planted else "not_met")
        if wrong or result.state == "cannot_tell":
            lines.append(
                f"    {name} {kind} {where} seed {seed}: {result.state} {result.figure} "
                f"± {result.uncertainty:.2f} (limit {result.limit}) {result.detail} {result.reason}"
            )
    return i_case, where, counts, lines


def _row(kind: str, exercise: str, where: str, c: Counter[str]) -> str:
    clean = " / ".join(str(c[f"clean {s}"]) for s in ("met", "cannot_tell", "not_met"))
    planted = " / ".join(str(c[f"planted {s}"]) for s in ("not_met", "cannot_tell", "met"))
    place = f"{c['right']} of {c['named']}" if c["named"] else "–"
    return f"| {kind} | {exercise} | {where} | {clean} | {planted} | {place} |"


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the bench."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--takes", type=int, default=4)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--where", default="dry,room")
    parser.add_argument("--only", default="")
    parser.add_argument("--why", action="store_true")
    options = parser.parse_args(arguments)
    only = set(options.only.split(",")) - {""}
    jobs: list[tuple[int, str, Where, int]] = [
        (i, KINDS[k % 4], where, options.seed + k)
        for i, case in enumerate(CASES)
        if not only or case.kind in only
        for where in options.where.split(",")
        for k in range(options.takes)
    ]
    print("| aim | exercise | where | clean met / cannot tell / not met | planted not met / cannot "
          "tell / met | place |\n|---|---|---|---|---|---|")  # fmt: skip
    overall: Counter[str] = Counter()
    with ProcessPoolExecutor(2) as pool:
        for (i, where), found in groupby(pool.map(count, jobs), key=lambda r: r[:2]):
            total, why = Counter[str](), []
            for _, _, counts, lines in found:
                total.update(counts)
                why += lines
            overall.update(total)
            print(_row(CASES[i].kind, CASES[i].maker_id, where, total), flush=True)
            if options.why and why:
                print("\n".join(why), flush=True)
    print(_row("all", "", "", overall))
    return 0


if __name__ == "__main__":
    sys.exit(main())
