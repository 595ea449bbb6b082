"""Real scores in and out again: what is lost, what is invented, and whether it is named.

Usage: python bench/scores.py [--parts 200] [--check 40] [--only WORD] [--verbose]

The scores are those that ship with a general notation library (requirements/scores.txt). Every
part for a bowed string is read, written and read again. Marks are counted in the XML of the file
and of what was written, by code that shares nothing with the reader; the notes of some parts are
compared through the library itself.
"""

from __future__ import annotations

import argparse
import importlib.util
import io
import sys
import time
import zipfile
from collections import Counter
from fractions import Fraction
from pathlib import Path
from xml.etree import ElementTree as ET

from jigwright.core.errors import ScoreError
from jigwright.core.music.guessing import guess_instrument
from jigwright.services.exchange.midi import read_midi, write_midi
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml

_STRINGS = ("beethoven", "haydn", "mozart", "corelli", "schumann", "beach", "johnson", "liliuo")
_OTHERS = ("metronome", "rehearsal", "segno", "coda", "dashes", "bracket", "pedal", "octave-shift")


def corpus() -> Path:
    """The folder of scores."""
    spec = importlib.util.find_spec("music21")
    if spec is None or not spec.submodule_search_locations:
        raise SystemExit("pip install --no-deps -r requirements/scores.txt")
    return Path(next(iter(spec.submodule_search_locations))) / "corpus"


def tree_of(path: Path) -> ET.Element:
    """The XML of a plain or compressed file."""
    data = path.read_bytes()
    if data[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            name = next(
                n
                for n in archive.namelist()
                if n.endswith((".xml", ".musicxml")) and "META" not in n
            )
            data = archive.read(name)
    return ET.fromstring(data)


def marks(part: ET.Element) -> Counter[str]:
    """What stands in the first staff of a part, each kind counted once a moment."""
    found: Counter[str] = Counter()
    divisions, bar_start = Fraction(1), Fraction(0)
    seen: set[tuple[Fraction, str]] = set()

    def add(at: Fraction, name: str, *, once: bool = True) -> None:
        if not once or (at, name) not in seen:
            seen.add((at, name))
            found[name] += 1

    for bar in part.iterfind("measure"):
        at = longest = before = Fraction(0)
        for element in bar:
            divisions = Fraction(element.findtext("divisions") or divisions)
            length = Fraction(element.findtext("duration") or 0) / divisions
            staff = (element.findtext("staff") or "1") == "1"
            if element.tag in ("backup", "forward"):
                at += length if element.tag == "forward" else -length
            elif element.tag == "note":
                chord = element.find("chord") is not None
                if staff and element.find("cue") is None:
                    _note(element, bar_start + (before if chord else at), add)
                if not chord:
                    before, at = at, at + length
            elif element.tag == "direction" and staff:
                _direction(element, bar_start + at, add)
            _bar_marks(element, found)
            longest = max(longest, at)
        found["bars"] += 1
        bar_start += longest
    return found


def _bar_marks(element: ET.Element, found: Counter[str]) -> None:
    if element.tag == "attributes":
        found["clef"] += sum(c.get("number", "1") == "1" for c in element.iterfind("clef"))
    for inner in element if element.tag == "barline" else ():
        if inner.tag == "repeat":
            found[f"repeat {inner.get('direction')}"] += 1
        elif inner.tag == "ending" and inner.get("type") == "start":
            found["ending"] += 1
        elif inner.tag == "fermata":
            found["fermata"] += 1


def _note(element: ET.Element, at: Fraction, add) -> None:  # type: ignore[no-untyped-def]
    if element.find("grace") is not None:
        add(at, "grace", once=False)
        return
    for notations in element.iterfind("notations"):
        for mark in notations:
            if mark.tag in ("articulations", "ornaments", "technical"):
                for inner in mark:
                    if inner.tag != "other-technical":
                        add(at, inner.tag)
            elif mark.tag == "slur" and mark.get("type") == "start":
                add(at, "slur", once=False)
            elif mark.tag in ("fermata", "arpeggiate"):
                add(at, mark.tag)
            elif mark.tag in ("slide", "glissando") and mark.get("type") == "stop":
                add(at, "slide")
            elif mark.tag == "dynamics":
                for inner in mark:
                    add(at, "dynamics " + inner.tag)
    for _ in element.iterfind("lyric"):
        add(at, "lyric", once=False)


def _direction(element: ET.Element, at: Fraction, add) -> None:  # type: ignore[no-untyped-def]
    for kind in element.iterfind("direction-type/*"):
        if kind.tag == "wedge" and kind.get("type") in ("crescendo", "diminuendo"):
            add(at, str(kind.get("type")), once=False)
        elif kind.tag == "words" and (kind.text or "").strip():
            add(at, "words", once=False)
        elif kind.tag == "dynamics":
            for inner in kind:
                add(at, "dynamics " + inner.tag, once=False)
        elif kind.tag in _OTHERS and (kind.tag != "octave-shift" or kind.get("type") != "stop"):
            add(at, kind.tag, once=False)


def same(a, b) -> list[str]:  # type: ignore[no-untyped-def]
    """In what two jigs differ."""
    names = ("events", "signs", "changes", "pickup_beats", "key", "beats_per_bar", "beat_unit",
             "tempo_bpm", "silence_beats", "title", "instrument_id")  # fmt: skip
    return [n for n in names if getattr(a, n) != getattr(b, n)]


def library_notes(source: object, i_part: int) -> list[tuple[int, Fraction, Fraction, int]]:
    """Bar, beat, length and pitch of a part's notes as the notation library reads them.

    Ties are joined note by note, also where only the first of two notes tells them, as a good many
    of the sources do.
    """
    from music21 import converter

    part = converter.parse(source, format="musicxml").parts[i_part]  # type: ignore[arg-type]
    rows = []
    for k, bar in enumerate(part.getElementsByClass("Measure")):
        start = Fraction(bar.getOffsetBySite(part)).limit_denominator(960)
        for chord in bar.recurse().notes:
            if chord.duration.isGrace or chord.quarterLength <= 0:
                continue
            inside = Fraction(chord.getOffsetInHierarchy(bar)).limit_denominator(960)
            length = Fraction(chord.quarterLength).limit_denominator(960)
            for one in chord.notes if chord.isChord else (chord,):
                tie = one.tie or chord.tie
                on = tie is not None and tie.type in ("start", "continue")
                rows.append((start + inside, k, inside, length, one.pitch.midi, on))
    rows.sort()
    ends: dict[int, Fraction] = {}
    for _, k, inside, length, _, _ in rows:
        ends[k] = max(ends.get(k, Fraction(0)), inside + length)
    found: list[list] = []  # type: ignore[type-arg]
    waiting: dict[tuple[int, Fraction, int], list[int]] = {}
    for _, k, inside, length, midi, on in rows:
        # A bar ends where its notes end: some are shorter or longer than their sign says.
        before = waiting.get((k, inside, midi))
        if before:
            i = before.pop()
            found[i][2] += length
        else:
            i = len(found)
            found.append([k, inside, length, midi])
        if on:
            over = inside + length >= ends[k]
            nearest = (k + 1, Fraction(0), midi) if over else (k, inside + length, midi)
            waiting.setdefault(nearest, []).append(i)
    return sorted(tuple(f) for f in found)  # type: ignore[misc]


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--parts", type=int, default=200)
    parser.add_argument("--check", type=int, default=0, help="parts compared through the library")
    parser.add_argument("--only", default="")
    parser.add_argument("--verbose", action="store_true")
    args = parser.parse_args()
    folder = corpus()
    files = sorted(p for p in folder.rglob("*") if p.suffix in (".mxl", ".xml", ".musicxml"))
    files.sort(key=lambda p: not any(w in str(p) for w in _STRINGS))
    lost: Counter[str] = Counter()
    invented: Counter[str] = Counter()
    there: Counter[str] = Counter()
    named: Counter[str] = Counter()
    unequal: Counter[str] = Counter()
    n = n_equal = n_midi = n_checked = n_alike = n_said = 0
    began = time.perf_counter()
    for path in files:
        if n >= args.parts or args.only not in str(path):
            continue
        try:
            root = tree_of(path)
        except (ET.ParseError, StopIteration):
            continue
        if root.tag != "score-partwise":
            continue
        labels = {
            p.get("id"): " ".join((p.findtext("part-name") or "").split())
            for p in root.iterfind("part-list/score-part")
        }
        for i, part in enumerate(root.findall("part")):
            if n >= args.parts or guess_instrument(labels.get(part.get("id"), "")) is None:
                continue
            try:
                got = read_musicxml(path.read_bytes(), jig_id="j", title="t", i_part=i)
            except ScoreError as error:
                print(f"{path.name} {i}: refused, {error}")
                continue
            n += 1
            written = write_musicxml(got.jig)
            back = read_musicxml(
                written, jig_id="j", title="t", instrument_id=got.jig.instrument_id
            )
            differ = same(got.jig, back.jig)
            n_equal += not differ
            for name in differ:
                unequal[name] += 1
            before, after = marks(part), marks(ET.fromstring(written).find("part"))  # type: ignore[arg-type]
            there += before
            gone, more = before - after, after - before
            said = sum(x.what == "slur" for x in got.losses)
            gone["slur"] = max(0, gone["slur"] - said)
            gone = +gone
            lost += gone
            invented += more
            for loss in got.losses:
                named[loss.what] += 1
            midi = read_midi(
                write_midi(got.jig), jig_id="j", title="t", instrument_id=got.jig.instrument_id
            )
            alike = _alike(_sounds(midi.jig), _sounds(got.jig))
            n_midi += alike
            if n % 10 == 0:
                print(f"… {n} parts, {n_equal} equal, MIDI {n_midi}, library {n_alike} of "
                      f"{n_checked}, {time.perf_counter() - began:.0f} s", flush=True)  # fmt: skip
            where = f"{path.relative_to(folder)} {i}"
            if args.verbose and (differ or gone or more or not alike):
                print(where, differ, dict(gone), dict(more), "" if alike else "midi",
                      sorted({x.what for x in got.losses}))  # fmt: skip
            if n_checked < args.check:
                n_checked += 1
                theirs = library_notes(path, i), library_notes(written.decode(), 0)
                ok = theirs[0] == theirs[1]
                n_alike += ok
                n_said += not ok and any(x.what == "tie" for x in got.losses)
                if not ok and not any(x.what == "tie" for x in got.losses):
                    first = next((p for p in zip(*theirs, strict=False) if p[0] != p[1]), None)
                    print("  library:", where, len(theirs[0]), len(theirs[1]), first)
    print(
        f"{n} parts in {time.perf_counter() - began:.0f} s; read, written, read: {n_equal} equal; "
        f"MIDI: {n_midi} alike; library: {n_alike} of {n_checked} alike, "
        f"{n_said} more differ in a tie that was named"
    )
    print("unequal", dict(unequal))
    print("named", dict(named))
    _print_marks(there, lost, invented)


def _print_marks(there: Counter[str], lost: Counter[str], invented: Counter[str]) -> None:
    print(f"{'mark':<28}{'there':>8}{'lost':>8}{'invented':>10}")
    for name in sorted({*there, *lost, *invented}):
        print(f"{name:<28}{there[name]:>8}{lost[name]:>8}{invented[name]:>10}")


def _alike(a, b) -> bool:  # type: ignore[no-untyped-def]
    """Equal to a hundredth of a beat: some sources are off by their own ticks."""
    return len(a) == len(b) and all(
        abs(x[0] - y[0]) < 0.01 and abs(x[1] - y[1]) < 0.01 and x[2] == y[2]
        for x, y in zip(a, b, strict=True)
    )


def _sounds(jig) -> list[tuple[Fraction, Fraction, tuple[int, ...]]]:  # type: ignore[no-untyped-def]
    return [
        (e.onset_beats, e.length_beats, tuple(sorted(h.pitch.midi for h in e.heads)))
        for e in jig.events
    ]


if __name__ == "__main__":
    sys.exit(main())
