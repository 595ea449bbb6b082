"""Scores of other programs: nothing of a part for strings goes silently on the way in and out."""

from __future__ import annotations

import importlib.util
import io
import zipfile
from collections import Counter
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest

from jigwright.core.jig.model import Jig
from jigwright.services.exchange.midi import read_midi, write_midi
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml

PARTS = (
    ("beethoven/opus18no1/movement1.mxl", 0), ("beethoven/opus18no1/movement2.mxl", 0),
    ("beethoven/opus18no1/movement2.mxl", 3), ("haydn/opus1no1/movement2.mxl", 1),
    ("haydn/opus1no1/movement4.mxl", 0), ("haydn/opus74no1/movement2.mxl", 2),
    ("haydn/opus74no1/movement3.mxl", 2), ("mozart/k458/movement1.mxl", 1),
)  # fmt: skip
COUNTED = ("fermata", "trill-mark", "mordent", "inverted-mordent", "turn", "accent", "tenuto",
           "staccato", "wedge", "words", "dynamics", "metronome", "repeat", "ending", "up-bow",
           "down-bow", "fingering", "tremolo", "segno", "clef")  # fmt: skip


def score(name: str) -> Path:
    spec = importlib.util.find_spec("music21")
    if spec is None or not spec.submodule_search_locations:
        pytest.skip("the package with real scores is not installed")
    path = Path(next(iter(spec.submodule_search_locations))) / "corpus" / name
    if not path.exists():
        pytest.skip("this version of the package has no such score")
    return path


def tree(path: Path) -> ET.Element:
    with zipfile.ZipFile(io.BytesIO(path.read_bytes())) as archive:
        name = next(n for n in archive.namelist() if n.endswith("xml") and "META" not in n)
        return ET.fromstring(archive.read(name))


def counted(part: ET.Element) -> Counter[str]:
    """Marks of a part; those of a hairpin's end and of a repeated clef are not counted."""
    found: Counter[str] = Counter()
    for element in part.iter():
        if element.tag == "wedge" and element.get("type") == "stop":
            continue
        if element.tag == "ending" and element.get("type") != "start":
            continue
        if element.tag == "words" and not (element.text or "").strip():
            continue
        if element.tag in COUNTED:
            found[element.tag] += 1
    return found


def sounds(jig: Jig) -> list[tuple[float, float, tuple[int, ...]]]:
    return [
        (round(float(e.onset_beats), 2), round(float(e.length_beats), 2),
         tuple(h.pitch.midi for h in e.heads))
        for e in jig.events
    ]  # fmt: skip


@pytest.mark.parametrize(("name", "i_part"), PARTS)
def test_read_written_and_read_again_a_part_is_the_same(name: str, i_part: int) -> None:
    path = score(name)
    got = read_musicxml(path.read_bytes(), jig_id="q", title="t", i_part=i_part)
    written = write_musicxml(got.jig)
    again = read_musicxml(written, jig_id="q", title="t", instrument_id=got.jig.instrument_id)
    assert again.jig.events == got.jig.events
    assert again.jig.signs == got.jig.signs
    assert again.jig.bars() == got.jig.bars()
    assert again.jig.tempo_bpm == got.jig.tempo_bpm

    before = counted(tree(path).findall("part")[i_part])
    after = counted(ET.fromstring(written).find("part"))  # type: ignore[arg-type]
    allowed = Counter({"fermata": 3, "staccato": 8})  # two voices, or both notes of a tie: one mark
    assert before - after - allowed == Counter()
    assert after - before == Counter()  # nothing is invented

    midi = read_midi(write_midi(got.jig), jig_id="q", title="t")
    assert [x[2] for x in sounds(midi.jig)] == [x[2] for x in sounds(got.jig)]
