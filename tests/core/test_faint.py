"""What has next to no share of the sound: marked, and no note unless the jig has one there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest

from builders import heard_of, segment
from jigwright.core.follow.doubts import decide
from jigwright.core.follow.faint import without_faint
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.activations import Activations
from jigwright.core.sound.faint import marked_faint
from jigwright.core.sound.heard import Segment

D4, E4, A4 = 293.66, 329.63, 440.0
JIG = jig_from_line("D4 E4 F#4 G4", jig_id="l", instrument_id="violin", title="l")
PLAYED = heard_of(JIG, [0.0] * 4).segments


def sounding(strength: Mapping[float, float], *, seconds: float = 2.0) -> Activations:
    values = np.array([np.full(round(seconds / 0.01), v) for v in strength.values()])
    return Activations(pitches_hz=tuple(strength), values=values, window_s=0.064)


def note(f0_hz: float = A4, *, seconds: float = 0.3) -> Segment:
    return segment(f0_hz, 0.5, seconds=seconds)


@pytest.mark.parametrize(
    ("own", "other", "faint"),
    [
        (0.049, 0.0, True),
        (0.051, 0.0, False),
        (0.149, 0.51, True),
        (0.149, 0.49, False),
        (0.151, 0.9, False),
    ],
)
def test_both_sides_of_what_hardly_sounds(own: float, other: float, faint: bool) -> None:
    (marked,) = marked_faint([note()], sounding({A4: own, D4: other}))
    assert marked.faint is faint


@pytest.mark.parametrize(
    ("own", "seconds", "under"),
    [(0.39, 0.49, True), (0.41, 0.49, False), (0.39, 0.51, False)],
)
def test_a_short_note_under_another_is_outsounded(own: float, seconds: float, under: bool) -> None:
    (marked,) = marked_faint([note(seconds=seconds)], sounding({D4: 0.5, A4: own}))
    assert marked.outsounded is under
    assert not marked.faint


@pytest.mark.parametrize(
    ("own", "seconds", "soft"), [(0.119, 0.49, True), (0.121, 0.49, False), (0.119, 0.51, False)]
)
def test_a_short_note_alone_is_no_wrong_note_if_very_soft(
    own: float, seconds: float, soft: bool
) -> None:
    (marked,) = marked_faint([note(seconds=seconds)], sounding({A4: own}))
    assert marked.outsounded is soft


def test_its_own_time_is_looked_at_without_the_edges() -> None:
    shares = sounding({A4: 0.0, D4: 0.0})
    shares.values[0, 52:78] = 0.4  # 0.52 … 0.78 s of 0.5 … 0.8
    shares.values[1, :52] = 0.9
    shares.values[1, 78:] = 0.9
    (marked,) = marked_faint([note()], shares)
    assert not marked.faint
    assert not marked.outsounded


@pytest.mark.parametrize(("off_cents", "marked"), [(69.0, True), (71.0, False)])
def test_a_note_without_a_pitch_of_its_own_is_left(off_cents: float, marked: bool) -> None:
    f_hz = A4 * 2 ** (off_cents / 1200)
    assert marked_faint([note()], sounding({f_hz: 0.01, D4: 0.9}))[0].faint is marked


def test_stops_and_what_lies_outside_are_left() -> None:
    stop = replace(note(), i_pair=0)
    late = segment(A4, 5.0, seconds=0.3)
    assert marked_faint([stop, late], sounding({A4: 0.0, D4: 0.9})) == (stop, late)
    assert marked_faint([note()], sounding({})) == (note(),)
    assert marked_faint([], sounding({A4: 0.0})) == ()


def test_it_is_alone_where_nothing_else_may_sound() -> None:
    (marked,) = marked_faint([note()], sounding({A4: 0.2}))
    assert not marked.faint
    assert not marked.outsounded


# what becomes of it


def ghost(at_s: float, **marks: bool) -> Segment:
    return replace(segment(A4, at_s, seconds=0.1), **marks)


@pytest.mark.parametrize("mark", ["faint", "outsounded"])
def test_with_a_jig_a_ghost_is_no_extra_note_and_places_are_kept(mark: str) -> None:
    rows = (*PLAYED[:2], ghost(PLAYED[1].offset_s - 0.05, **{mark: True}), *PLAYED[2:])
    kept, at = without_faint(rows, JIG, a4_hz=440.0)
    assert kept == PLAYED
    assert at == {0: 0, 1: 1, 3: 2, 4: 3}
    assert decide(rows, (), JIG, a4_hz=440.0)[0] == PLAYED


def test_a_wrong_note_that_sounds_stays() -> None:
    rows = (*PLAYED[:2], ghost(PLAYED[1].offset_s - 0.05), *PLAYED[2:])
    assert without_faint(rows, JIG, a4_hz=440.0)[0] == rows


def test_a_written_note_stays_however_soft() -> None:
    rows = tuple(replace(s, faint=True, outsounded=True) for s in PLAYED)
    assert without_faint(rows, JIG, a4_hz=440.0)[0] == rows


def test_without_a_jig_only_what_hardly_sounds_goes() -> None:
    rows = (PLAYED[0], ghost(1.0, faint=True), ghost(1.5, outsounded=True))
    for jig in (None, replace(JIG, events=())):
        kept, at = without_faint(rows, jig, a4_hz=440.0)
        assert kept == (rows[0], rows[2])
        assert at == {0: 0, 2: 1}
    assert without_faint((), None, a4_hz=440.0) == ((), {})
