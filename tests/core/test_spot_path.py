"""A weak place of a piece: found in a take, taken apart, put together, back into the piece."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import jig_of
from jigwright.core.errors import JigError
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.spot_path import (
    GOOD_TAKES,
    MOST_BARS,
    SLOWER,
    WeakPlace,
    crossings,
    events_of,
    is_step,
    slower,
    spot_path,
    stopped_bows,
)
from jigwright.core.judge.piece_map import weak_place, went_in

PIECE = jig_of("D4:1 E4:1 F#4:1 G4:1 " * 8)  # eight bars of four
ALONG = jig_of("G3 D4 G3 D4 " * 8)  # strings are crossed
EIGHTHS = jig_of("D4:1/2 E4:1/2 F#4:1/2 G4:1/2 A4:1/2 G4:1/2 F#4:1/2 E4:1/2 " * 6)


def steps(piece, place: WeakPlace):
    made = spot_path(piece, place, path_id="p", title_of=lambda kind: f"step {kind}")
    return {s.kind: s for s in made}


def names(jig) -> list[str]:
    return [str(e.heads[-1].pitch) for e in jig.events]


def off(*events: int, jig=PIECE, unknown: tuple[int, ...] = ()) -> dict[str, str]:
    states = {e.id: "met" for e in jig.events}
    states |= {jig.events[i].id: "not_met" for i in events}
    return states | {jig.events[i].id: "unknown" for i in unknown}


# the place ----------------------------------------------------------------------------------


def test_one_note_that_went_wrong_is_chance_two_are_a_place() -> None:
    assert weak_place(off(9), PIECE) is None
    assert weak_place(off(), PIECE) is None
    assert weak_place({}, PIECE) is None
    place = weak_place(off(9, 10), PIECE)
    assert (place.first_bar, place.last_bar, place.worst) == (2, 2, 9)
    assert (place.n_off, place.n_told) == (2, 4)


def test_notes_that_went_wrong_far_apart_are_no_place() -> None:
    assert weak_place(off(1, 21), PIECE) is None
    assert weak_place(off(1, 4), PIECE).last_bar == 1  # in bars beside each other they are


def test_bars_beside_the_worst_one_belong_to_it_four_at_most() -> None:
    place = weak_place(off(6, 9, 10, 11, 13), PIECE)
    assert (place.first_bar, place.last_bar, place.worst) == (1, 3, 9)
    many = weak_place(off(*range(0, 32, 2)), PIECE)
    assert many.last_bar - many.first_bar + 1 == MOST_BARS
    last = weak_place(off(28, 29, 24), PIECE)
    assert (last.first_bar, last.last_bar) == (6, 7)


def test_what_could_not_be_told_is_not_counted() -> None:
    place = weak_place(off(9, 10, unknown=(8,)), PIECE)
    assert (place.n_off, place.n_told) == (2, 3)
    assert went_in(off(9, unknown=(8, 10)), PIECE, place) == (1, 2)
    assert went_in({}, PIECE, place) == (0, 0)
    assert went_in(off(30), PIECE, place) == (0, 4)


# the steps -----------------------------------------------------------------------------------


def test_from_a_beat_to_the_piece_again() -> None:
    made = steps(PIECE, WeakPlace(first_bar=2, last_bar=2, worst=9))
    assert list(made) == [
        "beat", "next_beat", "both", "landing", "slow", "written", "context", "whole"
    ]  # fmt: skip
    assert names(made["beat"].jig) == ["E4"]
    assert names(made["next_beat"].jig) == ["F#4"]
    assert names(made["both"].jig) == ["E4", "F#4"]
    assert names(made["landing"].jig) == ["E4", "F#4", "G4"]
    assert names(made["written"].jig) == ["D4", "E4", "F#4", "G4"]
    assert len(made["context"].jig.events) == 12
    assert made["whole"].jig == PIECE


def test_a_beat_is_all_its_notes() -> None:
    made = steps(EIGHTHS, WeakPlace(first_bar=1, last_bar=1, worst=11))
    assert names(made["beat"].jig) == ["F#4", "G4"]
    assert names(made["landing"].jig) == ["F#4", "G4", "A4", "G4", "F#4"]


def test_the_last_beat_is_taken_with_the_one_before_it() -> None:
    made = steps(PIECE, WeakPlace(first_bar=2, last_bar=2, worst=11))
    assert names(made["both"].jig) == ["F#4", "G4"]
    end = steps(PIECE, WeakPlace(first_bar=7, last_bar=7, worst=31))
    assert "landing" not in end  # nothing comes after it: both beats were that already
    one = steps(jig_of("D4:4 E4:4 F#4:4 G4:4 A4:4"), WeakPlace(first_bar=1, last_bar=1, worst=1))
    assert list(one) == ["slow", "written", "context", "whole"]


def test_bars_keep_their_numbers_and_notes_their_ids() -> None:
    made = steps(PIECE, WeakPlace(first_bar=2, last_bar=3, worst=9))
    assert made["written"].jig.bars()[0].number == 3
    assert made["context"].jig.bars()[0].number == 2
    ids = {e.id for e in PIECE.events}
    for kind, step in made.items():
        assert {e.id for e in step.jig.events} <= ids, kind
        assert kind == "whole" or step.jig.derived_from == (PIECE.id, PIECE.revision)
        assert step.jig.title == ("j" if kind == "whole" else f"step {kind}")


def test_at_the_ends_of_the_piece_there_is_one_bar_around() -> None:
    first = steps(PIECE, WeakPlace(first_bar=0, last_bar=0, worst=1))["context"].jig
    last = steps(PIECE, WeakPlace(first_bar=7, last_bar=7, worst=29))["context"].jig
    assert (len(first.events), first.bars()[0].number) == (8, 1)
    assert (len(last.events), last.bars()[0].number) == (8, 7)


def test_a_place_that_is_all_of_the_piece_is_not_played_in_context() -> None:
    short = jig_of("D4:1 E4:1 F#4:1 G4:1 " * 2)
    assert list(steps(short, WeakPlace(first_bar=0, last_bar=1, worst=1)))[-2:] == [
        "written",
        "whole",
    ]


def test_slowly_is_six_tenths_and_needs_two_good_takes() -> None:
    made = steps(PIECE, WeakPlace(first_bar=2, last_bar=2, worst=9))
    assert made["slow"].jig.tempo_bpm == pytest.approx(SLOWER * PIECE.tempo_bpm)
    assert made["written"].jig.tempo_bpm == PIECE.tempo_bpm
    assert {k: s.good_takes for k, s in made.items() if s.good_takes > 1} == GOOD_TAKES
    assert slower(replace(PIECE, tempo_bpm=24.0)).tempo_bpm == 20.0


def test_crossings_ask_for_the_chord_and_for_stopped_bows() -> None:
    piece = propose_fingering(ALONG)
    made = steps(piece, WeakPlace(first_bar=2, last_bar=2, worst=9))
    assert [len(e.heads) for e in made["shape"].jig.events] == [2, 2]
    assert made["shape"].jig.derived_from == (piece.id, piece.revision)
    stopped = made["stopped"].jig
    assert all(e.lifted for e in stopped.events)
    assert [e.bow for e in stopped.events] == ["down", "up", "down", "up"]
    assert "crossing" in {a.kind for a in stopped.aims}
    assert list(made).index("shape") < list(made).index("stopped") < list(made).index("slow")


def test_crossings_are_counted_where_strings_are_known() -> None:
    assert crossings(propose_fingering(ALONG)) == 31
    assert crossings(ALONG) == 0
    assert crossings(propose_fingering(jig_of("D4 E4 D4 E4"))) == 0
    one = propose_fingering(jig_of("D4:1 E4:1 F#4:1 G3:1 " + "D4:1 E4:1 F#4:1 G4:1 " * 3))
    assert "stopped" not in steps(one, WeakPlace(first_bar=0, last_bar=0, worst=1))


def test_stopped_bows_leave_plucked_notes_alone() -> None:
    jig = jig_of("D4 E4 F#4")
    events = (jig.events[0], replace(jig.events[1], pluck=True, bow=None), jig.events[2])
    assert [e.bow for e in stopped_bows(replace(jig, events=events)).events] == ["down", None, "up"]


def test_steps_are_told_from_other_jigs() -> None:
    made = steps(PIECE, WeakPlace(first_bar=2, last_bar=2, worst=9))
    assert {k: is_step(s.jig.id) for k, s in made.items()} == {k: k != "whole" for k in made}


@pytest.mark.parametrize("bars", [(-1, 0), (2, 1), (7, 8)])
def test_bars_that_are_not_there_are_refused(bars: tuple[int, int]) -> None:
    with pytest.raises(JigError, match="no bars"):
        events_of(PIECE, *bars)


def test_bars_without_notes_are_refused() -> None:
    rests = jig_of("D4:4 r:4 E4:4")
    assert events_of(rests, 0, 2) == (0, 1)
    with pytest.raises(JigError, match="no notes"):
        events_of(rests, 1, 1)
