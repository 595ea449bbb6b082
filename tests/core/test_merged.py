"""Which repeats one tone may hide, and what that costs the walk."""

from __future__ import annotations

import numpy as np
import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.merged import Merged
from jigwright.core.follow.moves import FollowParams, Moves
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig

HZ = {"D5": 587.33, "E5": 659.26, "F#5": 739.99, "A5": 880.0}


def jig_of(words: str) -> Jig:
    return jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120.0)


def costs(
    words: str,
    elapsed_s: float,
    *,
    paces: tuple[float, ...] = (1.0,),
    sounded: tuple[bool, ...] | None = None,
) -> dict[tuple[int, int], float]:
    """Cost of every way from an event to one further on that hides those between."""
    jig = jig_of(words)
    own = np.ones(len(jig.events), dtype=bool) if sounded is None else np.array(sounded)
    return {
        (int(a), int(a) + gap): float(cost[a])
        for gap, cost in Merged.of(jig, paces, 0.3, 1.5).offers(elapsed_s, own)
        for a in np.flatnonzero(np.isfinite(cost))
    }


def test_only_repeats_of_the_tone_itself_are_hidden() -> None:
    assert costs("D5 E5 E5 D5", 1.0) == {(1, 3): 0.3}
    assert costs("D5 E5 D5 E5", 1.0) == {}
    assert costs("D5+F#5 D5+F#5 D5+A5", 1.0) == {(0, 2): 0.3}


def test_the_note_after_them_may_be_left_out_at_its_price() -> None:
    # half seconds: two of the tone's own, and the one that is missing
    assert costs("D5 E5 E5 F#5 D5 A5", 1.5) == {(1, 3): 0.3, (1, 4): pytest.approx(1.8)}
    assert costs("D5 E5 E5 F#5", 1.5) == {(1, 3): 0.3}  # nothing comes after it
    assert (1, 4) not in costs("D5 E5 E5 F#5 D5 A5", 0.97)  # time for two, not for three
    found = costs("E5 E5 E5 F#5 D5", 2.0)
    assert (found[(0, 4)], found[(0, 3)]) == (pytest.approx(2.1), pytest.approx(0.6))


def test_what_is_of_another_pitch_hides_nothing() -> None:
    words = "D5 E5 E5 D5 E5 E5 D5"
    assert costs(words, 1.0, sounded=(True,) * 7).keys() == {(1, 3), (4, 6), (1, 4)}
    off = (True, True, True, True, False, True, True)
    assert costs(words, 1.0, sounded=off).keys() == {(1, 3), (1, 4)}


def test_each_hidden_note_costs_the_same_again() -> None:
    # four eighths of a quarter second: the tone may be any of them to the next thing
    found = costs("E5:1/2 E5:1/2 E5:1/2 E5:1/2 D5", 0.75)
    assert found == {
        (0, 2): 0.3, (1, 3): 0.3, (2, 4): 0.3, (0, 3): 0.6, (1, 4): 0.6, (0, 4): pytest.approx(0.9),
    }  # fmt: skip


@pytest.mark.parametrize(
    ("elapsed_s", "there"), [(0.64, False), (0.66, True), (2.19, True), (2.21, False)]
)
def test_the_tone_lasts_about_as_long_as_all_of_them(elapsed_s: float, there: bool) -> None:
    assert ((0, 2) in costs("E5 E5 D5", elapsed_s)) is there  # a second, as written
    assert ((0, 2) in costs("E5 E5 D5", 2.0 * elapsed_s, paces=(2.0,))) is there
    assert ((0, 2) in costs("E5 E5 D5", elapsed_s, paces=(7.0, 1.0))) is there


@pytest.mark.parametrize(("n", "there"), [(9, True), (10, False)])
def test_no_more_than_eight_hide_behind_one(n: int, there: bool) -> None:
    words = " ".join(["E5:1/4"] * n + ["D5"])
    assert ((0, n) in costs(words, 0.125 * n)) is there


def test_a_jig_of_one_note_hides_nothing() -> None:
    assert costs("E5", 1.0) == {}
    assert costs("E5 E5", 1.0) == {}  # nothing comes after them


def test_the_walk_takes_the_cheaper_way() -> None:
    total = np.array([0.0, np.inf, np.inf, np.inf])
    moves = Moves.of(4, FollowParams())
    plain, _ = moves.best(total)
    hiding, via = moves.best(total, [(2, np.array([0.3, np.inf]))])
    assert plain[2] == pytest.approx(1.5)
    assert (hiding[2], via[2]) == (pytest.approx(0.3), 0)
    assert hiding[3] == plain[3]


def played(words: str, found: list[tuple[str, float, float]]) -> list[int | None]:
    """Event of each sound, each given with onset and end."""
    sounds = [segment(HZ[n], a, seconds=b - a) for n, a, b in found]
    lined = line_up(sounds, jig_of(words), a4_hz=440.0, params=FollowParams())
    where = {i: r.i_event for r in lined.notes for i in r.segments}
    return [where[i] for i in range(len(sounds))]


def test_who_begins_again_after_merged_repeats_is_not_taken_for_wrong_notes() -> None:
    words = "F#5:2 E5 A5 E5:3/4 E5:1/4 F#5:3/4 F#5:1/4 E5:1/2 E5:1/2 E5:1/2 E5:1/2 F#5 D5"
    once = [
        ("F#5", 0.0, 1.0), ("E5", 1.0, 1.5), ("A5", 1.5, 2.0), ("E5", 2.0, 2.5),
        ("F#5", 2.5, 3.0), ("E5", 3.0, 4.0), ("F#5", 4.0, 4.5), ("D5", 4.5, 5.0),
    ]  # fmt: skip
    again = [(n, a + 6.0, b + 6.0) for n, a, b in once]
    events = [0, 1, 2, 3, 5, 7, 11, 12]
    assert played(words, [*once, *again]) == [*events, *events]


@pytest.mark.parametrize("slower", [0.7, 1.0, 1.6, 2.0])
def test_the_pace_need_not_be_the_written_one(slower: float) -> None:
    words = "F#5:2 E5 A5 E5:3/4 E5:1/4 F#5:3/4 F#5:1/4 E5:1/2 E5:1/2 E5:1/2 E5:1/2 F#5 D5"
    once = [
        ("F#5", 0.0, 1.0), ("E5", 1.0, 1.5), ("A5", 1.5, 2.0), ("E5", 2.0, 2.5),
        ("F#5", 2.5, 3.0), ("E5", 3.0, 4.0), ("F#5", 4.0, 4.5), ("D5", 4.5, 5.0),
    ]  # fmt: skip
    found = [
        (n, slower * (a + 6.0 * k), slower * (b + 6.0 * k)) for k in (0, 1) for n, a, b in once
    ]
    assert played(words, found) == [0, 1, 2, 3, 5, 7, 11, 12] * 2


def test_repeats_and_the_note_after_them_may_be_lost_and_the_place_is_kept() -> None:
    # four As as two tones, the G after them unheard, a stop, and once more from the G
    hz = {"A2": 110.0, "G2": 98.0, "F#2": 92.5, "E2": 82.41, "D2": 73.42, "C#2": 69.3}
    words = "F#2:1/2 G2:1/2 A2:1/2 A2:1/2 A2:1/2 A2:1/2 G2:1/4 F#2:1/4 E2:1/4 D2:1/4 C#2:1/2 E2:1/2"
    heard = [
        ("F#2", 0.0, 0.25), ("G2", 0.25, 0.5), ("A2", 0.5, 0.9), ("A2", 0.9, 1.5),
        ("F#2", 1.52, 1.66), ("E2", 1.66, 1.8), ("C#2", 1.9, 2.3), ("G2", 2.65, 2.78),
        ("F#2", 2.78, 2.9), ("E2", 2.9, 3.02), ("D2", 3.02, 3.15), ("C#2", 3.15, 3.4),
        ("E2", 3.4, 3.8),
    ]  # fmt: skip
    jig = jig_from_line(words, jig_id="j", instrument_id="bass", title="j", tempo_bpm=120.0)
    sounds = [segment(hz[n], a, seconds=b - a) for n, a, b in heard]
    lined = line_up(sounds, jig, a4_hz=440.0, params=FollowParams())
    where = {i: r.i_event for r in lined.notes for i in r.segments}
    assert [where[i] for i in (4, 5)] == [7, 8]
    assert [where[i] for i in range(7, 13)] == [6, 7, 8, 9, 10, 11]


@pytest.mark.parametrize(
    ("words", "events"),
    [
        ("C#5 G4 E4 D4 B4 C#5 E4 A4", [0, 1, 2, 3, 4, 6, 7, 4, 5, 6, 7]),
        ("B4 C#5 D5 E5 D4 C#5 B4 B4", [0, 1, 2, 3, 5, 6, 3, 4, 5, 6, 7]),
        ("E5 B4 G4 F#5 E4 E4 G4 B4", [0, 1, 2, 3, 4, 6, 7, 4, 5, 6, 7]),
    ],
)
def test_a_note_left_out_and_gone_back_for_is_no_row_of_far_notes(
    words: str, events: list[int]
) -> None:
    midi = {"D4": 62, "E4": 64, "G4": 67, "A4": 69, "B4": 71, "C#5": 73, "D5": 74, "E5": 76,
            "F#5": 78}  # fmt: skip
    names = words.split()
    sounds = [
        segment(440 * 2 ** ((midi[names[e]] - 69) / 12), 0.25 * i, seconds=0.25)
        for i, e in enumerate(events)
    ]
    jig = jig_of(" ".join(f"{n}:1/2" for n in names))
    lined = line_up(sounds, jig, a4_hz=440.0, params=FollowParams())
    where = {i: r.i_event for r in lined.notes for i in r.segments}
    assert [where[i] for i in range(len(events))] == events
