"""The beat moved through a passage of a jig."""

from __future__ import annotations

import pytest

from aim_builders import jig_of
from jigwright.core.jig.model import Jig
from jigwright.ui.viewmodels.jigs.jig_tools import displace

TUNE = "D4 E4 F#4:1/2 G4:1/2 A4:1/2 B4:1/2 C#5 D5:2"


def pitches(jig: Jig) -> list[str]:
    return [str(h.pitch) for e in jig.events for h in e.heads]


def test_only_the_chosen_notes_are_moved() -> None:
    made = displace(jig_of(TUNE), (2, 5)).jigs
    assert [pitches(m) for m in made] == [["F#4", "G4", "A4", "B4"]] * 4
    bar = [[float(e.onset_beats) for e in m.events] for m in made]
    # two before the beat, one, as written, three
    assert bar == [[3, 3.5, 4, 4.5], [3.5, 4, 4.5, 5], [0, 0.5, 1, 1.5], [2.5, 3, 3.5, 4]]
    assert all("even_run" in [a.kind for a in m.aims] for m in made)
    assert {m.derived_from for m in made} == {("j", 1)}
    assert len({m.id for m in made}) == 4


def test_all_notes_where_none_are_chosen() -> None:
    made = displace(jig_of(TUNE), None).jigs
    assert {len(m.events) for m in made} == {8}


@pytest.mark.parametrize(
    ("line", "n"), [("D4 E4 F#4 G4 A4", 4), ("D4:2 E4:2 F#4:2 G4:2", 3), ("D4 E4", 2)]
)
def test_pick_ups_longer_than_a_bar_or_than_the_passage_are_left_out(line: str, n: int) -> None:
    found = displace(jig_of(line), None)
    assert len(found.jigs) == n
    assert found.said == f"The beat was moved {n} ways."


def test_what_is_not_kept_yet_has_no_origin() -> None:
    made = displace(jig_of(TUNE, id="new"), None).jigs
    assert {m.derived_from for m in made} == {None}
