"""Written time through changes of tempo."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, whole_seconds, written_seconds
from jigwright.core.jig.signs import Sign, tempi_of

F = Fraction


def jig(*tempi: tuple[object, float]) -> Jig:
    """Four notes of one, two, one and two beats at 60, with later tempi."""
    made = jig_from_line("D4:1 E4:2 F#4:1 G4:2", jig_id="j", instrument_id="violin", title="t")
    signs = tuple(Sign(kind="tempo", at_beats=F(at), value=bpm) for at, bpm in tempi)  # type: ignore[arg-type]
    return replace(made, signs=signs)


def test_at_one_tempo_seconds_are_beats_times_its_length() -> None:
    assert written_seconds(jig()) == (1.0, 2.0, 1.0, 2.0)
    assert whole_seconds(jig()) == 6.0
    assert WrittenTime(replace(jig(), tempo_bpm=120.0)).at(F(3)) == 1.5


def test_a_later_tempo_holds_from_its_beat_on() -> None:
    time = WrittenTime(jig((3, 120.0), (5, 30.0)))
    assert [time.at(F(b)) for b in (0, 3, 4, 5, 6)] == [0.0, 3.0, 3.5, 4.0, 6.0]
    assert [time.seconds_per_beat(F(b)) for b in (2, 3, 5)] == [1.0, 0.5, 2.0]
    assert time.lengths() == [1.0, 2.0, 0.5, 2.5]


def test_a_change_inside_a_note_counts_from_there() -> None:
    assert written_seconds(jig((2, 120.0)))[1] == 1.5


@pytest.mark.parametrize(
    ("bpm", "held"), [(9.0, 10.0), (10.0, 10.0), (400.0, 400.0), (999.0, 400.0)]
)
def test_no_tempo_leaves_what_a_jig_may_have(bpm: float, held: float) -> None:
    assert tempi_of(jig((2, bpm)))[-1] == (2, held)


def test_the_sign_at_the_beginning_does_not_go_against_the_jigs_own_tempo() -> None:
    assert tempi_of(jig((0, 99.0))) == ((0, 60.0),)
    unsaid = replace(jig(), signs=(Sign(kind="tempo", at_beats=F(2)),))
    assert tempi_of(unsaid) == ((0, 60.0),)
