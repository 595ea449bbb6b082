"""Aims held against music by other makers: what is met, refused and blamed, and where.

Every passage of a folder (``truth/NAME.json`` beside ``audio/``) is heard once and judged by jigs
made from its line. A *clean* jig asks for what the truth says was played: the notes within five
cents, every note, the vibratos. A *planted* one asks one thing more, which was not: a note that
lies more than twenty cents out, a note nobody played (left out, or another in its place), a vibrato
on a long still note. The hearing never sees the truth.

    python bench/aims_passages.py FOLDER [--only A_,B_] [--why]
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from jigwright.audio.files import SndFiles
from jigwright.core.errors import JigError
from jigwright.core.jig.aims import Aim, AimKind
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import EQUAL, pure_strings
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.take_reader import judge_heard

TOLERANCE, WITHIN, OUT = 12.0, 5.0, 20.0


@dataclass(frozen=True)
class Asked:
    """A jig, its one aim, and the event that was planted."""

    kind: AimKind
    jig: Jig
    planted: tuple[str, ...] = ()


def _line(truth: dict[str, Any], line: str) -> Jig:
    return jig_from_line(
        line, jig_id="passage", instrument_id=truth["instrument"], title="Passage",
        tempo_bpm=float(truth["bpm"]),
    )  # fmt: skip


def _asked(truth: dict[str, Any]) -> Iterator[Asked]:
    """Clean and planted jigs, as far as the passage has what they need."""
    jig = _line(truth, truth["line"])
    jig = replace(jig, tolerance_cents=TOLERANCE)
    ids = [e.id for e in jig.events]
    sounding = [e for e in jig.events if e.heads]
    sounded = {n["w"] for n in truth["notes"]}
    left_out = tuple(e.id for i, e in enumerate(sounding) if i not in sounded)
    yield Asked("every_note", replace(jig, aims=(Aim(kind="every_note"),)), planted=left_out)
    if left_out:
        return
    words = truth["line"].split()
    middle = next(i for i in range(len(words) // 2, len(words)) if not words[i].endswith(")")
                  and not words[i].startswith("("))  # fmt: skip
    inside = any("(" in w for w in words[: middle + 1]) and (
        " ".join(words[: middle + 1]).count("(") > " ".join(words[: middle + 1]).count(")")
    )
    if not inside:
        near = sounding[len(sounding) // 2].heads[0].pitch
        nobody = Pitch.in_class(PitchClass.from_fifths(near.pitch_class.fifths + 6), near.midi + 6)
        more = [*words[: middle + 1], f"{nobody}:1", *words[middle + 1 :]]
        longer = _line(truth, " ".join(more))
        extra = next(
            e for e, f in zip(longer.events, [*jig.events, None], strict=True)
            if f is None or e.heads != f.heads
        )  # fmt: skip
        yield Asked(
            "every_note", replace(longer, aims=(Aim(kind="every_note"),)), planted=(extra.id,)
        )
    once = Counter(n["w"] for n in truth["notes"])
    notes = [
        n for n in truth["notes"]
        if n["kind"] == "main" and "lower" not in n and once[n["w"]] == 1
        and n["truth_quality"] in ("exact", "good") and len(sounding[n["w"]].heads) == 1
    ]  # fmt: skip
    if len(sounding) != truth["n_written"] or truth["group"] == "C":
        return
    assert len(ids) >= len(sounding)
    right = [sounding[n["w"]].id for n in notes if abs(n["cents"]) < WITHIN]
    wrong = [sounding[n["w"]].id for n in notes if abs(n["cents"]) > OUT
             and n["definition_spread_cents"] < WITHIN]  # fmt: skip
    yield from _with_places(jig, "pitch", right, wrong)
    swing = [n for n in notes if (n["vibrato_extent_cents"] or 0) > 20]
    still = [
        n for n in notes
        if not n["vib_ctl"] and n["vibrato_truth_source"] != "measured"
        and n["offset_s"] - n["onset_s"] > 0.8 and truth["generator"] == "wg"
    ]  # fmt: skip
    yield from _with_places(
        jig, "vibrato", [sounding[n["w"]].id for n in swing], [sounding[n["w"]].id for n in still]
    )


def _with_places(
    jig: Jig, kind: AimKind, right: Sequence[str], wrong: Sequence[str]
) -> Iterator[Asked]:
    if len(right) < 2:
        return
    yield Asked(kind, _asking(jig, kind, tuple(right)))
    for one in wrong[:3]:
        yield Asked(kind, _asking(jig, kind, (*right, one)), planted=(one,))


def _asking(jig: Jig, kind: AimKind, places: tuple[str, ...]) -> Jig:
    events = tuple(
        replace(e, vibrato=True) if kind == "vibrato" and e.id in places else e for e in jig.events
    )
    return replace(jig, events=events, aims=(Aim(kind=kind, places=places),))


def one(task: tuple[Path, Path]) -> tuple[str, list[tuple[str, str, bool, str]]]:
    """A passage heard once and judged by each jig: kind, state, whether planted, a line."""
    folder, path = task
    truth = json.loads(path.read_text())
    inst = instrument(truth["instrument"])
    strings = pure_strings(inst.strings, 440.0)
    context = Context(
        instrument_id=inst.id, strings=inst.strings, a4_hz=440.0, reference=EQUAL,
        tolerance_cents=TOLERANCE,
    )  # fmt: skip
    samples, rate_hz = SndFiles().read(folder / "audio" / truth.get("file", f"{path.stem}.flac"))
    heard = hear(
        choose_signal(samples, rate_hz), inst,
        lowest_open_hz=min(strings.values()), open_hz=tuple(strings.values()),
    )  # fmt: skip
    rows = []
    try:
        asked_of_it = list(_asked(truth))
    except JigError as e:
        return truth["group"], [("jig", str(e), False, path.stem)]
    for asked in asked_of_it:
        judged, _ = judge_heard(heard, asked.jig, context)
        result = next(r for r in judged.aims if r.aim.kind == asked.kind)
        row, state = result.row, str(result.state)
        if asked.kind == "every_note" and state == "met" and asked.planted:
            another = [r for r, n in enumerate(judged.notes) if n.standing == "wrong"]
            row, state = (another[0], "not_met") if another else (row, state)
        place = ""
        if asked.planted and state == "not_met":
            i = judged.notes[row].measured.lined.i_event if row is not None else None
            right = i is not None and asked.jig.events[i].id in asked.planted
            place = "right" if right else "other"
        rows.append(
            (asked.kind, state, bool(asked.planted), place
             or f"{path.stem} {result.figure} ± {result.uncertainty:.1f} {result.detail} "
             f"{result.reason}")
        )  # fmt: skip
    return truth["group"], rows


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the bench."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("folder", type=Path)
    parser.add_argument("--only", default="")
    parser.add_argument("--why", action="store_true")
    options = parser.parse_args(arguments)
    only = tuple(options.only.split(","))
    tasks = [
        (options.folder, p) for p in sorted((options.folder / "truth").glob("*.json"))
        if p.stem.startswith(only)
    ]  # fmt: skip
    counts: dict[tuple[str, str], Counter[str]] = {}
    with ProcessPoolExecutor(2) as pool:
        for group, rows in pool.map(one, tasks):
            for kind, state, planted, place in rows:
                c = counts.setdefault((group[:1], kind), Counter())
                c[f"{'planted' if planted else 'clean'} {state}"] += 1
                c[place] += place in ("right", "other")
                if options.why and state != ("not_met" if planted else "met"):
                    print("   ", "planted" if planted else "clean", kind, state, place, flush=True)
    print("| group | aim | clean met / cannot tell / not met | planted not met / cannot tell / met "
          "| right place |\n|---|---|---|---|---|")  # fmt: skip
    for (group, kind), c in sorted(counts.items()):
        clean = " / ".join(str(c[f"clean {s}"]) for s in ("met", "cannot_tell", "not_met"))
        bad = " / ".join(str(c[f"planted {s}"]) for s in ("not_met", "cannot_tell", "met"))
        print(f"| {group} | {kind} | {clean} | {bad} | {c['right']} of {c['right'] + c['other']} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
