"""Music by other makers, in rooms and through microphones: the table of which notes are heard.

Analyses every passage of a folder (``truth/NAME.json`` beside ``audio/``; the layout is that of the
folder's own README) and prints, for each group: single notes found within 60 cents, octaves and
other pitches, rows that no note claims, double stops where there are none, errors, stated ranges,
onsets, arrivals, vibratos, and written notes that were played and are called missed. The analysis
never sees the truth. To compare with another version, run that one's checkout.

    python bench/passages.py FOLDER [--only A,B] [--jobs 2]
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter, defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from jigwright.audio.files import SndFiles
from jigwright.commands.files import load_jig
from jigwright.core.gauge.values import Arrival, Double, Vibrato
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL
from jigwright.services.analysing import analyse_file

NEAR_CENTS = 60.0


@dataclass
class Group:
    """Counts and figures of some passages."""

    n: Counter[str] = field(default_factory=Counter)
    figures: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))

    def add(self, other: Group) -> None:
        self.n.update(other.n)
        for name, values in other.figures.items():
            self.figures[name] += values


def one(task: tuple[Path, Path]) -> tuple[str, Group]:
    """Analyse a passage with its jig, or blind where it has none, and hold it against its truth."""
    folder, path = task
    truth = json.loads(path.read_text())
    inst = instrument(truth["instrument"])
    context = Context(
        instrument_id=inst.id, strings=inst.strings, a4_hz=440.0, reference=EQUAL,
        tolerance_cents=10.0,
    )  # fmt: skip
    jig = folder / "jigs" / f"{path.stem}.json"
    sound = folder / "audio" / truth.get("file", f"{path.stem}.flac")
    found = analyse_file(
        SndFiles(), sound, jig=load_jig(jig) if jig.exists() else None, context=context
    )
    name = str(truth.get("group") or path.stem.split("_")[0])
    return name, held(truth, found.judged, with_jig=jig.exists())


def held(truth: dict[str, Any], judged: Judged, *, with_jig: bool) -> Group:
    """Count one passage."""
    g = Group()
    rows = [n for n in judged.notes if n.measured.segment is not None]
    single = [t for t in truth["notes"] if t["kind"] == "main" and "lower" not in t]
    taken: set[int] = set()
    for t in truth["notes"]:
        i = _best(t, rows, taken)
        if i is None:
            g.n["notes"] += t in single
            continue
        taken.add(i)
        if t in single:
            g.n["notes"] += 1
            _note(g, t, rows[i])
    talks = truth.get("talks", [])
    for i, row in enumerate(rows):
        s = row.measured.segment
        assert s is not None
        middle = 0.5 * (s.onset_s + s.offset_s)
        spoken = any(a - 0.2 <= middle <= b + 0.4 for a, b in talks)
        g.n["invented"] += i not in taken and not spoken
        alone = not any("lower" in t and t["onset_s"] - 0.1 <= middle <= t["offset_s"] + 0.1
                        for t in truth["notes"])  # fmt: skip
        g.n["false doubles"] += isinstance(row.measured.double, Double) and alone
    if with_jig:
        played = {t["w"] for t in single if t.get("w") is not None and not t.get("wrong")}
        missed = {n.measured.lined.i_event for n in judged.notes if n.standing == "missed"}
        heard = {n.measured.lined.i_event for n in rows}
        g.n["written"] += len(played)
        g.n["called missed"] += len(played & (missed - heard))
    return g


def _best(t: dict[str, Any], rows: Sequence[JudgedNote], taken: set[int]) -> int | None:
    """The row that lies over a note most, one of its pitch first."""
    best: tuple[bool, float, int] | None = None
    length_s = t["offset_s"] - t["onset_s"]
    for i, row in enumerate(rows):
        s = row.measured.segment
        assert s is not None
        over_s = min(t["offset_s"], s.offset_s) - max(t["onset_s"], s.onset_s)
        if i in taken or over_s < 0.4 * min(length_s, s.offset_s - s.onset_s):
            continue
        near = abs(_off(t, row)) <= NEAR_CENTS
        if best is None or (near, over_s) > best[:2]:
            best = (near, over_s, i)
    return None if best is None else best[2]


def _off(t: dict[str, Any], row: JudgedNote) -> float:
    assert row.measured.segment is not None
    return 1200.0 * float(np.log2(row.measured.segment.f0_hz / t["f0_hz"]))


def _note(g: Group, t: dict[str, Any], row: JudgedNote) -> None:
    off, s = _off(t, row), row.measured.segment
    assert s is not None
    if abs(off) > NEAR_CENTS:
        octave = min(abs(abs(off) - 100 * k) for k in (12, 19, 24)) <= NEAR_CENTS
        g.n["octaves" if octave else "other pitches"] += 1
        return
    unsure = max(t["uncertainty_cents"], 0.5 * (t.get("definition_spread_cents") or 0.0))
    g.n["found"] += 1
    g.n["inside"] += abs(off) <= row.uncertainty_cents + unsure
    g.figures["error"].append(abs(off))
    g.figures["onset"].append(1000.0 * abs(s.onset_s - t.get("onset_sound_s", t["onset_s"])))
    arrival, vibrato = row.measured.arrival, row.measured.vibrato
    if isinstance(arrival, Arrival) and not t.get("port"):
        g.n["arrivals"] += 1
        g.n[arrival.kind] += 1
    extent = t.get("vibrato_extent_cents") or 0.0
    if extent >= 8.0 and t["offset_s"] - t["onset_s"] > 0.75:
        g.n["vibratos"] += 1
        if isinstance(vibrato, Vibrato) and vibrato.present:
            g.n["vibratos found"] += 1
            g.figures["width"].append(vibrato.extent_cents / extent - 1.0)


def show(name: str, g: Group) -> None:
    n = g.n
    at = {k: np.percentile(v, [50, 90, 95]) for k, v in g.figures.items() if v}
    if "error" not in at:
        return
    width = f", width {100 * at['width'][0]:+.0f} %" if "width" in at else ""
    missed = f"; called missed {n['called missed']}/{n['written']}" if n["written"] else ""
    print(
        f"{name}: found {n['found']}/{n['notes']}, octaves {n['octaves']}, other "
        f"{n['other pitches']}, invented {n['invented']}, false doubles {n['false doubles']}; "
        f"error {at['error'][0]:.1f} / {at['error'][2]:.1f} c, inside "
        f"{100 * n['inside'] / max(1, n['found']):.0f} %; onset {at['onset'][0]:.0f} / "
        f"{at['onset'][1]:.0f} ms; landed {n['landed']}, hunted {n['hunted']}, slid "
        f"{n['slid_up'] + n['slid_down']} of {n['arrivals']}; vibratos {n['vibratos found']}/"
        f"{n['vibratos']}{width}{missed}"
    )


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--only", default="")
    parser.add_argument("--jobs", type=int, default=2)
    options = parser.parse_args()
    prefixes = tuple(options.only.split(",")) if options.only else ("",)
    paths = [p for p in sorted((options.folder / "truth").glob("*.json"))
             if p.stem.startswith(prefixes)]  # fmt: skip
    groups: dict[str, Group] = defaultdict(Group)
    with ProcessPoolExecutor(options.jobs) as pool:
        for name, found in pool.map(one, [(options.folder, p) for p in paths]):
            groups[name].add(found)
    for name in sorted(groups):
        show(name, groups[name])
    return 0


if __name__ == "__main__":
    sys.exit(main())
