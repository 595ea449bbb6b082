"""An open string that sounds beside a single written note."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.gauge.events import neighbour_event
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Pair

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
