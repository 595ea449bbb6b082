"""Two pitches in part of a single note are no double stop of their own, where none is written."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import heard_of, segment
from jigwright.core.follow.beside import without_stops_beside
from jigwright.core.follow.doubts import decide
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.sound.pair_trills import without_trills
from pair_builders import pair

LINE = jig_from_line("D4 E4 F#4 G4", jig_id="l", instrument_id="violin", title="l")
PLAYED = heard_of(LINE, [0.0] * 4).segments
E4 = PLAYED[1].f0_hz
SECOND = PLAYED[1]


def stop(lower_hz: float = E4, ratio: float = 1.5, *, seconds: float = 0.4) -> Pair:
    return pair(
        np.zeros(4), lower_hz=lower_hz, ratio=ratio, onset_s=SECOND.onset_s,
        offset_s=SECOND.onset_s + seconds,
    )  # fmt: skip


def row_of(p: Pair) -> Segment:
    one = segment(p.lower_hz, p.onset_s, seconds=p.offset_s - p.onset_s)
    return replace(one, i_pair=0)


def with_stop(p: Pair) -> tuple[Segment, ...]:
    return tuple(sorted((*PLAYED, row_of(p)), key=lambda s: (s.onset_s, s.i_pair < 0)))


def left(p: Pair, line: str = "D4 E4 F#4 G4") -> tuple[Segment, ...]:
    jig = jig_from_line(line, jig_id="l", instrument_id="violin", title="l")
    return without_stops_beside(with_stop(p), jig, a4_hz=440.0, pairs=(p,))[0]


def test_a_stop_over_its_single_note_goes_and_places_are_kept() -> None:
    p = stop()
    rows = with_stop(p)
    kept, at = without_stops_beside(rows, LINE, a4_hz=440.0, pairs=(p,))
    assert kept == PLAYED
    assert [rows[i] for i in at] == list(PLAYED)
    assert sorted(at.values()) == [0, 1, 2, 3]
    assert decide(rows, (), LINE, a4_hz=440.0, pairs=(p,))[0] == PLAYED


@pytest.mark.parametrize("upper", [False, True])
@pytest.mark.parametrize(("off", "goes"), [(55.0, True), (-55.0, True), (65.0, False)])
def test_one_of_its_voices_is_the_single_note(upper: bool, off: float, goes: bool) -> None:
    f_hz = E4 * 2 ** (off / 1200) / (1.4 if upper else 1.0)
    assert (left(stop(f_hz, 1.4)) == PLAYED) is goes


@pytest.mark.parametrize(("over", "goes"), [(0.45, True), (0.55, False)])
def test_most_of_it_lies_in_the_single_note(over: float, goes: bool) -> None:
    length_s = SECOND.offset_s - SECOND.onset_s
    assert (left(stop(seconds=length_s / (1.0 - over))) == PLAYED) is goes


def test_a_stop_alone_stays() -> None:
    p = stop()
    only = (PLAYED[0], row_of(p), *PLAYED[2:])
    assert without_stops_beside(only, LINE, a4_hz=440.0, pairs=(p,))[0] == only


@pytest.mark.parametrize(("off", "stays"), [(75.0, True), (85.0, False)])
def test_a_written_stop_stays_beside_a_held_note(off: float, stays: bool) -> None:
    found = stop(E4, 1.5 * 2 ** (off / 1200))  # E4 with B4
    assert (len(left(found, "D4 E4 E4+B4 F#4")) == 5) is stays


# trills


@pytest.mark.parametrize(
    ("step", "seconds", "is_stop"),
    [(200.0, 0.49, False), (200.0, 0.51, True), (229.0, 0.3, False), (231.0, 0.3, True)],
)
def test_two_near_pitches_for_a_moment_are_a_trill(
    step: float, seconds: float, is_stop: bool
) -> None:
    found = stop(E4, 2 ** (step / 1200), seconds=seconds)
    assert without_trills([found], ()) == ((found,) if is_stop else ())


@pytest.mark.parametrize(("off", "is_stop"), [(75.0, True), (85.0, False)])
@pytest.mark.parametrize("voice", [0, 1])
def test_a_written_second_is_a_stop(off: float, is_stop: bool, voice: int) -> None:
    found = stop(E4, 2 ** (200 / 1200), seconds=0.3)
    written = [found.lower_hz, found.upper_hz]
    written[voice] *= 2 ** (off / 1200)
    assert bool(without_trills([found], [(written[0], written[1])])) is is_stop
