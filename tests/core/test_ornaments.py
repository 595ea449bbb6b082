"""Trills, graces and free places are one note each; what is written out stays many."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
import pytest

from builders import heard, segment
from jigwright.core.errors import JigError
from jigwright.core.follow.align import Pin, line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.ornaments import find_trills
from jigwright.core.follow.turned import with_turns
from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.ornament import measure_trill
from jigwright.core.gauge.values import Trilled
from jigwright.core.jig.edit import rewritten
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.line import jig_from_line, jig_to_line
from jigwright.core.jig.model import ORNAMENTS, Jig
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Segment
from jigwright.core.values import Unmeasured

HZ = {"B4": 493.88, "C5": 523.25, "D5": 587.33, "E5": 659.26, "F5": 698.46, "G5": 783.99,
      "A5": 880.0}  # fmt: skip
DRY, ROOM = FollowParams(), FollowParams(in_room=True)


def jig_of(words: str) -> Jig:
    return jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120.0)


def in_turn(
    *notes: tuple[str, float] | tuple[str, float, float], from_s: float = 0.0
) -> list[Segment]:
    """Joined notes, each so long, some so many cents off."""
    at, found = from_s, []
    for name, seconds, *by in notes:
        one = segment(HZ[name] * 2 ** ((by[0] if by else 0.0) / 1200), at, seconds=seconds)
        middle_s = at + 0.5 * seconds
        found.append(replace(one, attack_db=1.0, core_start_s=min(one.core_start_s, middle_s),
                             core_end_s=max(one.core_end_s, middle_s)))  # fmt: skip
        at += seconds
    return found


def turning(
    n: int, seconds: float = 0.1, *, low: str = "D5", high: str = "E5"
) -> list[tuple[str, float]]:
    return [((low, high)[i % 2], seconds) for i in range(n)]


def rows(words: str | None, found: list[Segment], params: FollowParams = DRY) -> list[LinedNote]:
    jig = None if words is None else jig_of(words)
    return list(line_up(found, jig, a4_hz=440.0, params=params).notes)


# what a trill is ----------------------------------------------------------------------------


@pytest.mark.parametrize(("n", "is_one"), [(4, False), (5, True), (13, True)])
def test_five_notes_that_turn_are_a_trill(n: int, is_one: bool) -> None:
    found = in_turn(("C5", 0.5), *turning(n), ("C5", 0.5))
    assert bool(find_trills(found, None, a4_hz=440.0)) is is_one


@pytest.mark.parametrize(
    ("seconds", "is_one"), [(0.16, True), (0.18, False), (0.04, True), (0.025, False)]
)
def test_its_notes_are_short_and_no_scraps(seconds: float, is_one: bool) -> None:
    found = in_turn(("C5", 0.6), *turning(9, seconds), ("C5", 0.6))
    assert bool(find_trills(found, None, a4_hz=440.0)) is is_one


@pytest.mark.parametrize(("cents", "is_one"), [(55, False), (65, True), (325, True), (335, False)])
def test_its_notes_lie_a_semitone_to_a_third_apart(cents: float, is_one: bool) -> None:
    notes = [("D5", 0.1, cents * (i % 2)) for i in range(9)]
    assert bool(find_trills(in_turn(*notes), None, a4_hz=440.0)) is is_one


def test_a_run_up_and_down_is_none() -> None:
    scale = [(n, 0.1) for n in ("C5", "D5", "E5", "F5", "G5", "F5", "E5", "D5", "C5")]
    assert find_trills(in_turn(*scale), None, a4_hz=440.0) == []


@pytest.mark.parametrize(("attack_db", "is_one"), [(14.0, True), (16.0, False)])
def test_notes_of_a_bow_each_are_none(attack_db: float, is_one: bool) -> None:
    found = [replace(s, attack_db=attack_db) for s in in_turn(*turning(9))]
    assert bool(find_trills(found, None, a4_hz=440.0)) is is_one


@pytest.mark.parametrize(("gap_s", "n"), [(0.11, 1), (0.13, 0)])
def test_a_break_ends_it(gap_s: float, n: int) -> None:
    first = in_turn(*turning(4))
    later = in_turn(*turning(4), from_s=first[-1].offset_s + gap_s)
    assert len(find_trills([*first, *later], None, a4_hz=440.0)) == n


@pytest.mark.parametrize(("seconds", "in_it"), [(0.3, True), (0.34, False)])
def test_the_last_note_may_be_held_a_little(seconds: float, in_it: bool) -> None:
    found = in_turn(*turning(8), ("D5", seconds))
    (trill,) = find_trills(found, None, a4_hz=440.0)
    assert (trill.last == 8) is in_it
    assert trill.lower == ((0, 2, 4, 6, 8) if in_it else (0, 2, 4, 6))
    assert trill.upper == (1, 3, 5, 7)


def test_what_is_written_out_is_no_trill() -> None:
    found = in_turn(*turning(8, 0.125))
    written = "D5:1/4 E5 D5 E5 D5 E5 D5 E5"
    assert find_trills(found, jig_of(written), a4_hz=440.0) == []
    assert [r.state for r in rows(written, found)] == ["played"] * 8
    assert len(find_trills(found, jig_of("D5:2 C5:1"), a4_hz=440.0)) == 1
    assert len(find_trills(found, jig_of("D5:1/4 E5 D5 C5 D5 E5"), a4_hz=440.0)) == 1


# following -----------------------------------------------------------------------------------


def test_thirteen_notes_are_one_played_note_and_no_retry() -> None:
    found = in_turn(("C5", 0.5), *turning(13), ("C5", 0.5))
    lined = rows("C5 D5:2 C5:1", found)
    assert [r.state for r in lined] == ["played"] * 3
    trill = lined[1]
    assert (trill.ornament, trill.segments) == ("trill", tuple(range(1, 14)))
    assert trill.main == tuple(range(1, 14, 2))


def test_the_written_note_may_be_the_upper_one() -> None:
    found = in_turn(("C5", 0.5), *turning(9), ("C5", 0.5))
    trill = rows("C5 E5:2 C5:1", found)[1]
    assert (str(trill.pitch), trill.state, trill.main) == ("E5", "played", (2, 4, 6, 8))


@pytest.mark.parametrize(
    ("notes", "main"),
    [(turning(9), "D5"), ([*turning(8), ("D5", 0.3)], "D5"), ([*turning(9), ("E5", 0.3)], "E5")],
)
def test_blind_it_is_its_lower_note_unless_it_stays_on_the_upper(
    notes: list[tuple[str, float]], main: str
) -> None:
    lined = rows(None, in_turn(("G5", 0.5), *notes, ("G5", 0.5)))
    assert [str(r.pitch) for r in lined] == ["G5", main, "G5"]
    assert lined[1].ornament == "trill"


def test_a_free_place_takes_its_notes_in() -> None:
    far = in_turn(("D5", 0.2), ("A5", 0.2), ("D5", 0.2), ("F5", 0.2), ("D5", 0.5), ("G5", 0.5))
    near = in_turn(("D5", 0.2), ("E5", 0.2), ("D5", 0.2), ("C5", 0.2), ("D5", 0.5), ("G5", 0.5))
    for found, mark in ((far, "free"), (near, "turn"), (near, "free")):
        assert len(rows("D5:2 G5:1", found)) > 2
        lined = rows(f"D5:2@{mark} G5:1", found)
        assert [(r.state, r.segments) for r in lined] == [("played", (0, 1, 2, 3, 4)),
                                                           ("played", (5,))]  # fmt: skip
        assert lined[0].main == (0, 2, 4)


@pytest.mark.parametrize(("seconds", "taken"), [(0.29, True), (0.31, False)])
def test_long_notes_are_no_ornaments(seconds: float, taken: bool) -> None:
    found = in_turn(("D5", 0.5), ("F5", seconds), ("D5", 0.5), ("G5", 0.5))
    lined = rows("D5:2@free G5:1", found)
    assert ([r.state for r in lined] == ["played", "played"]) is taken


def test_a_mordent_reaches_no_further_than_its_neighbours() -> None:
    near = in_turn(("D5", 0.2), ("E5", 0.1), ("D5", 0.6), ("G5", 0.5))
    assert [r.state for r in rows("D5:2@mordent G5:1", near)] == ["played", "played"]
    far = in_turn(("D5", 0.2), ("A5", 0.2), ("D5", 0.6), ("G5", 0.5))
    assert len(rows("D5:2@mordent G5:1", far)) > 2


@pytest.mark.parametrize(("cents", "taken"), [(259, True), (261, False), (-259, True)])
def test_neighbours_lie_within_a_wide_third(cents: float, taken: bool) -> None:
    found = in_turn(("D5", 0.2), ("D5", 0.2, cents), ("D5", 0.5), ("A5", 0.5))
    lined = rows("D5:2@turn A5:1", found)
    assert ([r.state for r in lined] == ["played", "played"]) is taken


@pytest.mark.parametrize(("seconds", "n"), [(0.17, 1), (0.19, 0)])
def test_a_longer_note_inside_parts_it(seconds: float, n: int) -> None:
    found = in_turn(*turning(4), ("D5", seconds), ("E5", 0.1), ("D5", 0.1), ("E5", 0.1))
    assert len([t for t in find_trills(found, None, a4_hz=440.0) if t.last == 7]) == n


def test_written_graces_are_part_of_their_note() -> None:
    found = in_turn(("C5", 0.5), ("A5", 0.15), ("E5", 0.5), ("C5", 0.5))
    assert len(rows("C5 E5 C5", found)) == 4
    lined = rows("C5 ^A5 E5 C5", found)
    assert [(r.state, r.segments) for r in lined] == [("played", (0,)), ("played", (1, 2)),
                                                       ("played", (3,))]  # fmt: skip
    assert lined[1].main == (2,)


def test_a_second_go_at_an_ornament_is_a_retry() -> None:
    first = in_turn(("D5", 0.2), ("E5", 0.1), ("D5", 0.5))
    again = in_turn(("D5", 0.2), ("E5", 0.1), ("D5", 0.5), ("G5", 0.5), from_s=1.5)
    states = [r.state for r in rows("D5:2@mordent G5:1", [*first, *again])]
    assert states == ["played", "retry", "played"]


# what is not written -------------------------------------------------------------------------


@pytest.mark.parametrize(("seconds", "is_part"), [(0.11, True), (0.13, False)])
def test_a_short_note_that_leads_into_the_next_is_a_grace(seconds: float, is_part: bool) -> None:
    found = in_turn(("C5", 0.5), ("G5", seconds), ("E5", 0.5), ("C5", 0.5))
    lined = rows("C5 E5 C5", found)
    assert ("extra" not in [r.state for r in lined]) is is_part
    if is_part:
        assert (lined[1].ornament, lined[1].segments, lined[1].main) == ("grace", (1, 2), (2,))
        assert rows("C5 E5 C5", found, ROOM)[1].ornament is None  # there it may be what lingers


@pytest.mark.parametrize(("attack_db", "is_part"), [(11.9, True), (12.1, False)])
def test_what_was_begun_anew_is_no_grace(attack_db: float, is_part: bool) -> None:
    found = in_turn(("C5", 0.5), ("G5", 0.1), ("E5", 0.5), ("C5", 0.5))
    found[2] = replace(found[2], attack_db=attack_db)
    assert ("extra" not in [r.state for r in rows("C5 E5 C5", found)]) is is_part


def test_half_heard_turns_about_a_note_are_its_trill() -> None:
    # in a room: the second D is not heard, one piece lies between, the last D is held
    found = in_turn(("C5", 0.5), ("D5", 0.12), ("D5", 0.14, 60.0), ("D5", 0.1), ("E5", 0.12),
                    ("D5", 0.35), ("C5", 0.9))  # fmt: skip
    lined = rows("C5 D5:2 C5:1", found, ROOM)
    assert [r.state for r in lined] == ["played"] * 3
    assert (lined[1].ornament, lined[1].segments) == ("trill", (1, 2, 3, 4, 5))
    assert lined[1].main == (1, 3, 5)


def test_a_long_run_of_turns_that_are_written_out_takes_no_time() -> None:
    n = 600
    found = in_turn(*turning(n, 0.12))
    began = time.perf_counter()
    assert find_trills(found, jig_of("D5:1/4 " + "E5 D5 " * (n // 2 - 1) + "E5"), a4_hz=440.0) == []
    slow = in_turn(*turning(n, 0.25))
    assert find_trills(slow, None, a4_hz=440.0) == []
    assert time.perf_counter() - began < 5.0  # it was minutes: every run was walked from each note


def test_what_was_said_of_a_note_is_no_ornament() -> None:
    found = in_turn(("C5", 0.5), *turning(9), ("C5", 0.5))
    pin = Pin(at_s=found[5].onset_s, i_event=None)
    lined = line_up(found, jig_of("C5 D5:2 C5:1"), a4_hz=440.0, params=DRY, pins=[pin]).notes
    assert [r.segments for r in lined if r.state == "extra" and 5 in r.segments] == [(5,)]
    grace = in_turn(("C5", 0.5), ("G5", 0.1), ("E5", 0.5), ("C5", 0.5))
    pin = Pin(at_s=grace[1].onset_s, i_event=None)
    lined = line_up(grace, jig_of("C5 E5 C5"), a4_hz=440.0, params=DRY, pins=[pin]).notes
    assert [r.state for r in lined] == ["played", "extra", "played", "played"]


def plain_row(state: str, i: int, word: str, *segments: int) -> LinedNote:
    pitch = Pitch.parse(word)
    return LinedNote(state=state, pitch=pitch, i_event=None if state == "extra" else i,  # type: ignore[arg-type]
                     note_id=None, attempt=1, segments=segments)  # fmt: skip


@pytest.mark.parametrize(
    ("states", "merged"),
    [(("played", "extra", "extra", "extra"), True), (("played", "extra", "extra", "played"), False),
     (("played", "retry", "extra", "retry"), True)],
)  # fmt: skip
def test_three_left_over_pieces_are_needed(states: tuple[str, ...], merged: bool) -> None:
    found = in_turn(*turning(4))
    given = [plain_row(s, 0, ("D5", "E5")[k % 2], k) for k, s in enumerate(states)]
    got = with_turns(given, found, a4_hz=440.0, offset_cents=0.0)
    assert (len(got) == 1) is merged
    if merged:
        assert (got[0].state, got[0].segments, got[0].main) == ("played", (0, 1, 2, 3), (0, 2))


def test_a_missing_note_that_turns_is_found_again() -> None:
    found = in_turn(*turning(5))
    given = [plain_row("missed", 0, "D5"),
             *(plain_row("extra", 0, "E5", k) for k in range(5))]  # fmt: skip
    alone = with_turns(given, found, a4_hz=440.0, offset_cents=0.0)
    assert [r.state for r in alone] == ["missed", *["extra"] * 5]  # it stands before the run
    within = [given[1], given[0], *given[2:]]
    (one,) = with_turns(within, found, a4_hz=440.0, offset_cents=0.0)
    assert (one.state, one.ornament, one.main) == ("played", "trill", (0, 2, 4))


def test_tries_that_do_not_turn_stay_tries() -> None:
    found = in_turn(("C5", 0.5), ("D5", 0.25), ("D5", 0.25, 45.0), ("D5", 0.25), ("E5", 0.5))
    for k in (2, 3):
        found[k] = replace(found[k], attack_db=30.0)
    assert not any(r.ornament for r in rows("C5 D5 E5", found))


# the gauge -----------------------------------------------------------------------------------


def measured(onsets: list[float], *, by: float = 200.0) -> Trilled | Unmeasured:
    found = [
        segment(600.0 * 2 ** (by * (i % 2) / 1200), t, seconds=0.05) for i, t in enumerate(onsets)
    ]
    return measure_trill(found, [i % 2 == 0 for i in range(len(found))])


def test_rate_and_evenness_are_those_of_its_notes() -> None:
    even = measured(list(0.1 * np.arange(11)), by=-150.0)
    assert isinstance(even, Trilled)
    assert (even.n_notes, even.begins_on_main, even.ends_on_main) == (11, True, True)
    assert even.rate_hz == pytest.approx(10.0)
    assert even.unevenness == pytest.approx(0.0, abs=1e-9)
    assert even.neighbour_cents == pytest.approx(-150.0)
    limping = measured([0.1 * i + (0.02 if i % 2 else 0.0) for i in range(11)])
    assert isinstance(limping, Trilled)
    assert limping.rate_hz == pytest.approx(10.0)
    assert limping.unevenness == pytest.approx(np.std([0.12, 0.08] * 5, ddof=1) / 0.1)
    assert limping.rate_uncertainty_hz > even.rate_uncertainty_hz


def test_a_note_that_was_not_heard_counts_in_no_interval() -> None:
    onsets = [0.1 * i for i in range(12) if i not in (5, 6)]
    found = measured(onsets)
    assert isinstance(found, Trilled)
    assert found.rate_hz == pytest.approx(10.0, rel=1e-6)


def test_the_range_of_the_rate_is_that_of_its_mean() -> None:
    gaps = [0.09, 0.11] * 5
    found = measured(list(np.concatenate([[0.0], np.cumsum(gaps)])))
    assert isinstance(found, Trilled)
    spread = float(np.std(gaps, ddof=1))
    assert found.rate_uncertainty_hz == pytest.approx(1.96 * spread / 10**0.5 / 0.1**2)
    assert found.unevenness == pytest.approx(spread / 0.1)


@pytest.mark.parametrize(("by", "told"), [(-59, True), (-61, False)])
def test_notes_on_neither_of_the_two_are_lost_turns_too(by: float, told: bool) -> None:
    found = [segment((600.0, 700.0)[i % 2], 0.1 * i, seconds=0.05) for i in range(22)]
    for i in range(0, 10, 2):  # five of eleven: the usual one stays where it is
        found[i] = replace(found[i], f0_hz=600.0 * 2 ** (by / 1200))
    trill = measure_trill(found, [i % 2 == 0 for i in range(22)])
    assert isinstance(trill, Trilled) is told
    if not told:
        assert trill == Unmeasured("blurred")


@pytest.mark.parametrize(("n", "told"), [(4, False), (5, True)])
def test_too_few_notes_tell_nothing(n: int, told: bool) -> None:
    assert isinstance(measured(list(0.1 * np.arange(n))), Trilled) is told


@pytest.mark.parametrize(("n_same", "told"), [(2, True), (3, False)])
def test_notes_twice_in_a_row_are_lost_turns(n_same: int, told: bool) -> None:
    own = [i % 2 == 0 for i in range(10)]
    for k in range(n_same):
        own.insert(3 * k + 1, own[3 * k])
    found = [
        segment(600.0 if is_own else 670.0, 0.1 * i, seconds=0.05) for i, is_own in enumerate(own)
    ]
    trill = measure_trill(found, own)
    assert isinstance(trill, Trilled) is told
    if not told:
        assert trill == Unmeasured("blurred")


def test_a_trill_is_judged_by_its_main_note() -> None:
    found = in_turn(("C5", 0.5), *[(n, 0.1, 12.0) for n, _ in turning(9)], ("C5", 0.5))
    _, notes = follow_and_measure(
        heard(found), jig_of("C5 D5:2 C5:1"), a4_hz=440.0, instrument_id="violin"
    )
    trill = notes[1]
    assert trill.segment is not None
    assert 1200 * np.log2(trill.segment.f0_hz / HZ["D5"]) == pytest.approx(12.0, abs=0.1)
    assert (trill.segment.onset_s, trill.segment.offset_s) == (0.5, pytest.approx(1.4))
    assert trill.vibrato == trill.arrival == Unmeasured("ornament")
    assert isinstance(trill.trill, Trilled)
    assert notes[0].trill == Unmeasured("no_ornament")


def test_a_written_trill_of_one_note_says_so() -> None:
    found = in_turn(("C5", 0.5), ("D5", 1.0), ("C5", 0.5))
    _, notes = follow_and_measure(
        heard(found), jig_of("C5 D5:2@trill C5:1"), a4_hz=440.0, instrument_id="violin"
    )
    assert notes[1].trill == Unmeasured("not_turned")
    assert notes[0].trill == Unmeasured("no_ornament")


# written down --------------------------------------------------------------------------------


@pytest.mark.parametrize("mark", [*ORNAMENTS, "free"])
def test_a_line_holds_its_marks(mark: str) -> None:
    jig = jig_of(f"D5:1/2 (^A5 ^G5 E5:2@{mark} F5:1) G5")
    event = jig.events[1]
    assert event.ornament == (None if mark == "free" else mark)
    assert event.free is (mark == "free")
    assert [str(p) for p in event.graces] == ["A5", "G5"]
    again = jig_of(jig_to_line(jig))
    assert again.events == jig.events
    assert jig_from_json(jig_to_json(jig)).events == jig.events


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("D5@wobble", "trill"),
        ("D5 ^E5", "grace"),
        ("^H5 D5", "note name"),
        ("^A4+C5 D5", "one note"),
    ],
)
def test_what_cannot_be_read_is_named(words: str, says: str) -> None:
    with pytest.raises(JigError, match=says):
        jig_of(words)


def test_a_line_changed_by_hand_changes_the_ornament_and_keeps_the_rest() -> None:
    old = jig_of("D5 E5@trill F5@free G5")
    old = replace(old, events=tuple(replace(e, dynamic="p") for e in old.events))
    new = rewritten(old, jig_of("D5@turn E5 F5 ^A5 G5"))
    assert [e.ornament for e in new.events] == ["turn", None, None, None]
    assert [e.free for e in new.events] == [False] * 4
    assert [len(e.graces) for e in new.events] == [0, 0, 0, 1]
    assert all(e.dynamic == "p" for e in new.events)
    assert [e.id for e in new.events] == [e.id for e in old.events]
