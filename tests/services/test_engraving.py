"""What the engraver draws: tempo marks with their note values, drawn as outlines."""

from __future__ import annotations

import re
from dataclasses import replace
from fractions import Fraction

import pytest

from aim_builders import jig_of
from jigwright.core.jig.signs import Sign
from jigwright.engraving.score import VerovioEngraver
from jigwright.services.engraving import engrave_request


def svg_of(*signs: Sign) -> str:
    jig = replace(jig_of("D4 E4 F#4 G4 A4 B4 C#5 D5"), signs=signs)
    return VerovioEngraver().engrave(engrave_request(jig, scale=60, target_width=900.0)).svg


def tempo(unit: str, bpm: float, at: int = 0) -> Sign:
    return Sign(kind="tempo", at_beats=Fraction(at), text=unit, value=bpm)


def marks(svg: str) -> list[tuple[str, float]]:
    """Words of a tempo, and how far right of its note sign they begin."""
    found = []
    for group in re.findall(r'class="tempo">(.*?)</g>', svg, re.DOTALL):
        sign = re.search(r"translate\(([\d.]+),", group)
        words = re.search(r'<text x="([\d.]+)"[^>]*>(.*?)</text>', group)
        found.append((words[2], float(words[1]) - float(sign[1])))
    return found


@pytest.mark.parametrize(
    ("unit", "words"),
    [("1", "= 120"), ("2", "= 60"), ("1/2", "= 240"), ("3/2", ". = 80"), ("1/4", "= 480")],
)
def test_a_tempo_has_the_outline_of_its_note_value_before_its_number(unit, words) -> None:
    svg = svg_of(tempo(unit, 120.0))
    ((said, gap),) = marks(svg)
    assert said == words
    assert gap > 0
    assert not re.search("[\ue000-\uf8ff]", svg)


def test_note_values_differ_in_their_outlines() -> None:
    outlines = set()
    for unit in ("1", "2", "1/2"):
        group = re.search(r'class="tempo">(.*?)</g>', svg_of(tempo(unit, 120.0)), re.DOTALL)[1]
        outlines.add(re.search(r' d="(.*?)"', group)[1])
    assert len(outlines) == 3


def test_other_words_stay_as_they_are() -> None:
    svg = svg_of(Sign(kind="words", at_beats=Fraction(0), text="dolce e legato"))
    assert "dolce" in svg
    assert 'class="tempo"' not in svg
