"""An open string that sounds beside a single written note."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import heard as heard_from
from builders import heard_of, segment
from jigwright.core.gauge.events import neighbour_event
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.playing import measure_playing
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import Pair, Segment
from pair_builders import pair as tracked

A4, D4 = Pitch.parse("A4"), Pitch.parse("D4")
OPEN_HZ = {D4: 293.66, A4: 440.0}
NAN = float("nan")


def pair(lower_hz: float, upper_hz: float, *, balance_db: float = 10.0) -> Pair:
    none = np.zeros(0)
    return Pair(
        onset_s=1.0, offset_s=1.5, lower_hz=lower_hz, upper_hz=upper_hz,
        lower_uncertainty_cents=1.0, upper_uncertainty_cents=1.0, balance_db=balance_db,
        balance_uncertainty_db=2.0, level_dbfs=-20.0, times_s=none, lower_track_hz=none,
        upper_track_hz=none, balance_track_db=none,
    )  # fmt: skip


def test_the_open_string_is_named_with_its_strength() -> None:
    found = neighbour_event(pair(293.66, 440.0, balance_db=-9.0), 3, A4, OPEN_HZ)
    assert found is not None
    assert (found.kind, found.row, found.strength) == ("neighbour_string", 3, 9.0)
    assert (found.start_s, found.end_s) == (1.0, 1.5)
    unsure = neighbour_event(pair(293.66, 440.0, balance_db=NAN), 3, A4, OPEN_HZ)
    assert unsure is not None
    assert unsure.strength == 0.0


@pytest.mark.parametrize(("cents", "there"), [(34.0, True), (36.0, False), (-34.0, True)])
def test_it_has_the_strings_pitch(cents: float, there: bool) -> None:
    hz = 293.66 * 2 ** (cents / 1200)
    assert (neighbour_event(pair(hz, 440.0), 0, A4, OPEN_HZ) is not None) is there


def test_the_written_note_is_not_beside_itself() -> None:
    assert neighbour_event(pair(220.0, 440.0), 0, A4, OPEN_HZ) is None
    assert neighbour_event(pair(293.66, 350.0), 0, D4, OPEN_HZ) is None


@pytest.mark.parametrize(
    ("left_cents", "beside"), [(NAN, True), (0.0, False), (34.0, False), (36.0, True)]
)
def test_what_a_room_keeps_of_the_note_just_left_is_no_neighbour(
    left_cents: float, beside: bool
) -> None:
    left_hz = 293.66 * 2 ** (left_cents / 1200)
    found = neighbour_event(pair(293.66, 440.0), 1, A4, OPEN_HZ, left_hz=left_hz)
    assert (found is not None) is beside


# beside a note that was heard alone


LINE = jig_from_line("D4 A4 D4", jig_id="l", instrument_id="violin", title="l")


def events_with(found: Pair) -> list[tuple[str, int]]:
    heard = replace(heard_of(LINE, [0.0] * 3), pairs=(found,))
    strings = pure_strings(instrument("violin").strings, 440.0)
    _, notes = follow_and_measure(heard, LINE, a4_hz=440.0, instrument_id="violin")
    return [(e.kind, e.row) for e in measure_playing(heard, notes, LINE, strings).events]


@pytest.mark.parametrize(("over_s", "named"), [(0.04, True), (0.06, False)])
@pytest.mark.parametrize("side", [-1, 1])
def test_a_string_beside_part_of_a_single_note_is_named(
    over_s: float, named: bool, side: int
) -> None:
    second = heard_of(LINE, [0.0] * 3).segments[1]
    start_s, end_s = second.onset_s, second.offset_s
    span = (start_s - over_s, start_s + 0.3) if side < 0 else (end_s - 0.3, end_s + over_s)
    found = replace(pair(293.66, 440.0), onset_s=span[0], offset_s=span[1])
    assert (("neighbour_string", 1) in events_with(found)) is named


def test_a_stop_that_is_a_note_of_its_own_is_nobodys_neighbour() -> None:
    line = jig_from_line("D4 D4+A4", jig_id="l", instrument_id="violin", title="l")
    whole = segment(293.66, 1.0, seconds=2.0)
    found = tracked([0.0] * 9, lower_hz=293.66, onset_s=2.0, offset_s=2.9)
    stop = replace(segment(293.66, 2.0, seconds=0.9), i_pair=0)
    strings = pure_strings(instrument("violin").strings, 440.0)

    def kinds(*segments: Segment) -> list[str]:
        heard = replace(heard_from(segments), pairs=(found,))
        _, notes = follow_and_measure(heard, line, a4_hz=440.0, instrument_id="violin")
        return [e.kind for e in measure_playing(heard, notes, line, strings).events]

    assert "neighbour_string" in kinds(whole)
    assert "neighbour_string" not in kinds(whole, stop)
