"""Runs that fit badly, matched anew: what is a zone, what is given to what, what stays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.fast_runs import least_cost, with_runs, zones_of
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import EQUAL, target_hz
from jigwright.core.sound.heard import Segment

A4 = 440.0
INF = np.inf


def jig_of(words: str, bpm: float = 120.0) -> Jig:
    return jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=bpm)


def note(name: str, onset_s: float, seconds: float = 0.12, *, cents: float = 0.0) -> Segment:
    hz = target_hz(EQUAL, Pitch.parse(name), A4) * 2 ** (cents / 1200)
    one = segment(hz, onset_s, seconds=seconds)
    middle_s = onset_s + 0.5 * seconds
    return replace(one, core_start_s=min(one.core_start_s, middle_s),
                   core_end_s=max(one.core_end_s, middle_s))  # fmt: skip


def maybe(name: str, onset_s: float, seconds: float = 0.12, *, cents: float = 0.0) -> Segment:
    return replace(note(name, onset_s, seconds, cents=cents), doubtful=True, covered_s=seconds,
                   attack_db=20.0)  # fmt: skip


RUN = "D5:1/2 E5:1/2 F5:1/4 G5:1/4 A5:1/4 B5:1/4 C6:1/2 D6:1/2"
# at 120: 0 .25 .5 .625 .75 .875 1 1.25
SURE = [("D5", 0.0), ("E5", 0.25), ("C6", 1.0), ("D6", 1.25)]
RISES = [("F5", 0.5), ("G5", 0.625), ("A5", 0.75), ("B5", 0.875)]


def sure() -> list[Segment]:
    return [note(n, t, 0.24) for n, t in SURE]


def states(words: str, found: tuple[Segment, ...]) -> list[str]:
    jig = jig_of(words)
    return [r.state for r in line_up(found, jig, a4_hz=A4, params=FollowParams()).notes]


# which notes are looked at ------------------------------------------------------------------


def test_a_zone_lies_between_two_notes_that_fit_beside_others() -> None:
    good = [(0, 0.0), (1, 0.25), (6, 1.0), (7, 1.25)]
    (zone,) = zones_of(good, jig_of(RUN), strict=True)
    assert zone.events == (2, 3, 4, 5)
    assert (zone.start_s, zone.stop_s) == (0.25, 1.0)
    assert zone.at_s == pytest.approx((0.5, 0.625, 0.75, 0.875))
    assert zone.lengths_s == pytest.approx((0.125,) * 4)


def test_its_places_follow_the_pace_between_the_two() -> None:
    good = [(0, 0.0), (1, 0.25), (6, 1.15), (7, 1.4)]
    (zone,) = zones_of(good, jig_of(RUN), strict=True)
    assert zone.at_s[0] == pytest.approx(0.25 + 0.25 * 1.2)
    assert zone.lengths_s[0] == pytest.approx(0.15)


def test_a_note_alone_is_sure_only_the_second_time() -> None:
    good = [(0, 0.0), (1, 0.25), (4, 0.75), (6, 1.0), (7, 1.25)]
    assert [z.events for z in zones_of(good, jig_of(RUN), strict=True)] == [(2, 3, 4, 5)]
    assert [z.events for z in zones_of(good, jig_of(RUN), strict=False)] == [(2, 3), (5,)]


def test_a_note_beside_missing_ones_of_its_pitch_may_be_any_of_them() -> None:
    words = "D5 E5 F5 E5 F5 E5 G5 A5"
    good = [(0, 0.0), (1, 0.5), (5, 2.5), (6, 3.0), (7, 3.5)]
    spans = [z.events for z in zones_of(good, jig_of(words), strict=False)]
    # between the two E; with the later E free; with the earlier one free
    assert spans == [(2, 3, 4), (2, 3, 4, 5), (1, 2, 3, 4)]
    assert [z.events for z in zones_of(good, jig_of("D5 E5 F5 C5 F5 E5 G5 A5"), strict=False)] == [
        (2, 3, 4)
    ]


def test_of_two_voices_no_single_note_is_another_try() -> None:
    words = "D5 E5 F5 E5+G5 F5 E5+G5 G5 A5"
    good = [(0, 0.0), (1, 0.5), (5, 2.5), (6, 3.0)]
    spans = [z.events for z in zones_of(good, jig_of(words), strict=False)]
    assert spans[:2] == [(2, 3, 4), (2, 3, 4, 5)]
    assert (1, 2, 3, 4) not in spans


def test_a_run_is_found_though_its_first_note_was_taken_for_the_last() -> None:
    words = "D5:1/2 C5:1/2 F5:1/4 C5:1/4 F5:1/4 C5:1/4 D6 E6"
    # at 120: 0 .25 .5 .625 .75 .875 1 1.5
    found = [note("D5", 0.0, 0.24), note("C5", 0.25, 0.24), note("C5", 0.875, 0.12),
             note("D6", 1.0, 0.48), note("E6", 1.5, 0.48)]  # fmt: skip
    rises = [maybe("F5", 0.5), maybe("C5", 0.625), maybe("F5", 0.75)]
    segments, _ = with_runs(found, rises, jig_of(words), a4_hz=A4)
    assert states(words, segments) == ["played"] * 8


def test_neighbours_leave_nothing_to_look_for() -> None:
    good = [(0, 0.0), (1, 0.25), (2, 0.5), (3, 0.625), (4, 0.75), (5, 0.875), (6, 1), (7, 1.25)]
    assert zones_of(good, jig_of(RUN), strict=True) == ()


@pytest.mark.parametrize(
    ("stop_s", "there"),
    # written 0.75 s; 0.55 and 1.8 of the usual pace
    [(0.25 + 0.42, True), (0.25 + 0.40, False), (0.25 + 1.34, True), (0.25 + 1.36, False)],
)
def test_notes_left_out_or_a_stop_make_no_zone(stop_s: float, there: bool) -> None:
    good = [(0, 0.0), (1, 0.25), (6, stop_s), (7, stop_s + 0.25)]
    assert bool(zones_of(good, jig_of(RUN), strict=True)) is there


@pytest.mark.parametrize(
    ("seconds", "there"), [(0.62, True), (0.58, False), (7.9, True), (8.1, False)]
)
def test_a_bare_list_of_notes_says_little_of_their_time(seconds: float, there: bool) -> None:
    jig = jig_of("D5 E5 F5 G5 A5 B5")  # half a second each, written
    good = [(0, 0.0), (1, 0.5), (5, 0.5 + seconds)]  # two seconds written
    assert bool(zones_of(good, jig, strict=False)) is there


def test_going_back_is_no_zone() -> None:
    good = [(4, 0.0), (5, 0.25), (0, 1.0), (1, 1.25), (2, 1.5), (6, 2.0), (7, 2.25)]
    assert [z.events for z in zones_of(good, jig_of(RUN), strict=True)] == [(3, 4, 5)]


def test_after_the_last_sure_one_the_usual_pace_goes_on() -> None:
    good = [(0, 0.0), (1, 0.5), (2, 1.0)]  # half as fast as written
    (zone,) = zones_of(good, jig_of(RUN), strict=True)
    assert zone.events == (3, 4, 5, 6, 7)
    assert zone.at_s == pytest.approx((1.25, 1.5, 1.75, 2.0, 2.5))
    assert zone.lengths_s == pytest.approx((0.25, 0.25, 0.25, 0.5, 0.5))
    assert zone.stop_s == pytest.approx(3.5)  # the last may last twice as long


@pytest.mark.parametrize(("pace", "there"), [(2.0, True), (3.5, True), (3.7, False), (1.0, False)])
def test_the_usual_pace_is_the_players_own(pace: float, there: bool) -> None:
    good = [(0, 0.0), (1, 0.5), (6, 0.5 + 0.75 * pace), (7, 1.0 + 0.75 * pace)]  # twice as slow
    assert bool(zones_of(good, jig_of(RUN), strict=True)) is there


def test_nothing_in_a_row_says_nothing_of_the_pace() -> None:
    assert zones_of([(0, 0.0), (4, 0.75)], jig_of(RUN), strict=False) == ()


def test_a_very_long_stretch_is_left_alone() -> None:
    for n, there in ((64, True), (65, False)):
        words = "D5 E5 " + "F5 " * n + "G5 A5"
        good: list[tuple[int, float]] = [
            (0, 0.0),
            (1, 0.5),
            (n + 2, 0.5 + 0.5 * (n + 1)),
            (n + 3, 1.0 + 0.5 * (n + 1)),
        ]
        assert bool(zones_of(good, jig_of(words), strict=True)) is there, n


# which beginning is which note --------------------------------------------------------------


def test_the_cheapest_way_goes_forward() -> None:
    cost = np.array([[0.4, INF, 0.1], [INF, 0.2, INF]])
    at_s, apart = np.array([0.0, 0.1, 0.2]), np.zeros(2)
    assert least_cost(cost, at_s, apart) == [0, 1]  # not the cheap third one, then back


def test_a_row_goes_without_where_that_costs_less() -> None:
    at_s = np.array([0.0, 0.1, 0.2])
    cost = np.array([[0.9, INF, INF], [0.8, INF, INF], [INF, INF, 0.1]])
    assert least_cost(cost, at_s, np.zeros(3)) == [0, 2]
    cost[0, 0], cost[1, 0] = INF, INF
    assert least_cost(cost, at_s, np.zeros(3)) == [2]


@pytest.mark.parametrize(("apart_s", "found"), [(0.09, [0, 1]), (0.11, [0, 2])])
def test_two_beginnings_lie_apart(apart_s: float, found: list[int]) -> None:
    cost = np.array([[0.1, INF, INF], [INF, 0.1, 0.5]])
    at_s, apart = np.array([0.0, 0.1, 0.2]), np.array([0.0, apart_s])
    assert least_cost(cost, at_s, apart) == found


def test_only_what_costs_less_than_a_miss_can_be_better_than_none() -> None:
    assert least_cost(np.array([[INF, INF]]), np.array([0.0, 0.1]), np.zeros(1)) == []
    assert least_cost(np.array([[0.99]]), np.array([0.0]), np.zeros(1)) == [0]


def test_the_best_way_to_a_row_need_not_be_the_last_one() -> None:
    cost = np.array([[0.1, 0.6, INF, INF], [INF, INF, 0.1, INF], [INF, INF, INF, 0.1]])
    at_s = np.array([0.0, 0.1, 0.2, 0.3])
    assert least_cost(cost, at_s, np.zeros(3)) == [0, 2, 3]


# with a jig ---------------------------------------------------------------------------------


def test_a_run_under_what_sounds_on_is_found() -> None:
    found, at = with_runs(sure(), [maybe(n, t) for n, t in RISES], jig_of(RUN), a4_hz=A4)
    assert [s.onset_s for s in found] == [0.0, 0.25, 0.5, 0.625, 0.75, 0.875, 1.0, 1.25]
    assert at == {0: 0, 1: 1, 2: 6, 3: 7}
    assert states(RUN, found) == ["played"] * 8


def test_each_ends_where_the_next_begins() -> None:
    doubtful = [maybe(n, t, 0.3) for n, t in RISES]
    found, _ = with_runs(sure(), doubtful, jig_of(RUN), a4_hz=A4)
    assert [s.offset_s for s in found[2:6]] == pytest.approx([0.625, 0.75, 0.875, 1.0])
    assert all(s.core_start_s <= s.core_end_s <= s.offset_s for s in found)


def test_without_doubt_nothing_changes() -> None:
    found, at = with_runs(sure(), [], jig_of(RUN), a4_hz=A4)
    assert (found, at) == (tuple(sure()), {0: 0, 1: 1, 2: 2, 3: 3})


@pytest.mark.parametrize(("cents", "there"), [(64, True), (-64, True), (66, False), (-66, False)])
def test_only_its_own_pitch_is_a_written_note(cents: float, there: bool) -> None:
    found, _ = with_runs(sure(), [maybe("G5", 0.625, cents=cents)], jig_of(RUN), a4_hz=A4)
    assert (len(found) == 5) is there


@pytest.mark.parametrize(("late_s", "there"), [(0.085, True), (0.09, False)])
def test_only_near_its_place(late_s: float, there: bool) -> None:  # 0.7 of an eighth of a second
    found, _ = with_runs(sure(), [maybe("G5", 0.625 + late_s)], jig_of(RUN), a4_hz=A4)
    assert (len(found) == 5) is there


def test_far_from_its_place_where_nobody_said_how_long_notes_are() -> None:
    words = "D5 E5 F5 G5 A5"
    heard = [note("D5", 0.0, 0.4), note("E5", 0.5, 0.4), note("A5", 2.0, 0.4)]
    found, _ = with_runs(heard, [maybe("G5", 0.8)], jig_of(words), a4_hz=A4)
    assert len(found) == 4  # its place is 1.5


def test_what_surely_sounds_and_is_no_written_note_stays() -> None:
    heard = [*sure(), note("F#4", 0.52, 0.09)]
    heard.sort(key=lambda s: s.onset_s)
    found, _ = with_runs(heard, [maybe("A5", 0.75), maybe("B5", 0.875)], jig_of(RUN), a4_hz=A4)
    assert any(s == heard[2] for s in found)
    assert [s.onset_s for s in found] == [0.0, 0.25, 0.52, 0.75, 0.875, 1.0, 1.25]


def test_what_held_several_notes_ends_with_the_second() -> None:
    heard = sure()
    heard[1] = note("E5", 0.25, 0.7)
    found, at = with_runs(heard, [maybe(n, t) for n, t in RISES], jig_of(RUN), a4_hz=A4)
    assert found[1].offset_s == pytest.approx(0.5)
    assert at[1] == 1


def test_a_mixture_whose_time_is_taken_up_goes() -> None:
    mixture = note("D4", 0.51, 0.4)
    heard = [*sure()[:2], mixture, *sure()[2:]]
    found, at = with_runs(heard, [maybe(n, t) for n, t in RISES], jig_of(RUN), a4_hz=A4)
    assert mixture not in found
    assert 2 not in at
    assert states(RUN, found) == ["played"] * 8


def test_a_stop_is_no_single_note_and_the_other_way_round() -> None:
    words = "D5:1/2 E5:1/2 F5:1/4 F5+A5:1/4 A5:1/4 B5:1/4 C6:1/2 D6:1/2"
    found, _ = with_runs(sure(), [maybe(n, t) for n, t in RISES[1:]], jig_of(words), a4_hz=A4)
    assert [s.onset_s for s in found] == [0.0, 0.25, 0.75, 0.875, 1.0, 1.25]


def test_nothing_is_taken_that_makes_the_rest_worse() -> None:
    heard = [note("D5", 0.0, 0.24), note("E5", 0.25, 0.24), note("C6", 1.0, 0.24)]
    words = "D5:1/2 E5:1/2 C6:1/2"
    found, _ = with_runs(heard, [maybe("E5", 0.6), maybe("C6", 0.8)], jig_of(words), a4_hz=A4)
    assert found == tuple(heard)


def test_a_sure_beginning_is_taken_before_a_doubtful_one() -> None:
    heard = sure()
    heard.insert(2, note("A5", 0.755))
    doubtful = [maybe(n, t) for n, t in RISES]
    found, at = with_runs(heard, doubtful, jig_of(RUN), a4_hz=A4)
    assert [s.onset_s for s in found] == [0.0, 0.25, 0.5, 0.625, 0.755, 0.875, 1.0, 1.25]
    assert at == {0: 0, 1: 1, 2: 4, 3: 6, 4: 7}
    assert not found[4].doubtful


def test_one_note_more_is_taken_beside_a_wrong_one_elsewhere() -> None:
    words = RUN + " E6:1/2 F6:1/2"
    heard = [*sure(), note("Eb6", 1.5, 0.24), note("F6", 1.75, 0.24)]
    doubtful = [maybe("G5", 0.625)]
    found, _ = with_runs(heard, doubtful, jig_of(words), a4_hz=A4)
    assert len(found) == len(heard) + 1


def test_what_begins_with_the_sure_note_is_that_note() -> None:
    words = "D5 E5 E5 F5 G5"
    heard = [note("D5", 0, 0.4), note("E5", 0.5, 0.9), note("F5", 1.5, 0.4), note("G5", 2.0, 0.4)]
    for late_s, there in ((0.029, False), (0.4, True)):
        found, _ = with_runs(heard, [maybe("E5", 0.5 + late_s)], jig_of(words), a4_hz=A4)
        assert (len(found) == 5) is there


def test_a_player_who_is_sharp_all_along_is_followed() -> None:
    heard = [note(n, t, 0.24, cents=50) for n, t in SURE]
    for cents, there in ((50, True), (-30, False), (110, True), (120, False)):
        found, _ = with_runs(heard, [maybe("G5", 0.625, cents=cents)], jig_of(RUN), a4_hz=A4)
        assert (len(found) == 5) is there, cents


def test_of_two_at_a_time_the_nearer_pitch_is_taken() -> None:
    doubtful = [maybe("G5", 0.62, cents=40), maybe("G5", 0.63, cents=5)]
    found, _ = with_runs(sure(), doubtful, jig_of(RUN), a4_hz=A4)
    assert [s.onset_s for s in found] == [0.0, 0.25, 0.63, 1.0, 1.25]


@pytest.mark.parametrize(("apart_s", "both"), [(0.055, True), (0.035, False)])
def test_two_notes_are_bowed_apart(apart_s: float, both: bool) -> None:  # 0.4 of an eighth second
    doubtful = [maybe("F5", 0.54), maybe("G5", 0.54 + apart_s)]
    found, _ = with_runs(sure(), doubtful, jig_of(RUN), a4_hz=A4)
    assert (len(found) == 6) is both
