"""In a room a note that had its time is not called missed, and a lingering one not wrong."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import heard, segment
from jigwright.core.follow.align import Pin, line_up
from jigwright.core.follow.in_time import Hidden, had_their_time
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.values import LinedNote
from jigwright.core.jig.line import jig_from_line
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.measured import merge_segments
from jigwright.core.sound.heard import Segment

HZ = {"C5": 523.25, "D5": 587.33, "E5": 659.26, "F5": 698.46, "G5": 783.99, "A5": 880.0}
ROOM, DRY = FollowParams(in_room=True), FollowParams()
WORDS = "C5 D5 E5 F5 G5 A5"
JIG = jig_from_line(WORDS, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120.0)


def at(name: str, onset_s: float, stop_s: float) -> Segment:
    one = segment(HZ[name], onset_s, seconds=stop_s - onset_s)
    return replace(one, attack_db=3.0)


def rows(found: list[Segment], params: FollowParams) -> list[LinedNote]:
    return list(line_up(found, JIG, a4_hz=440.0, params=params).notes)


def state_of(name: str, lined: list[LinedNote]) -> str:
    return next(r.state for r in lined if str(r.pitch) == name)


def without_e(f_from_s: float, late_s: float = 0.0) -> list[Segment]:
    """E is nowhere; F was found to begin then (written at 1.5), the rest after it."""
    return [at("C5", 0.0, 0.5), at("D5", 0.5 + late_s, f_from_s),
            at("F5", f_from_s, f_from_s + 0.5), at("G5", f_from_s + 0.5, f_from_s + 1.0),
            at("A5", f_from_s + 1.0, f_from_s + 1.5)]  # fmt: skip


# time for what is missing ---------------------------------------------------------------------


@pytest.mark.parametrize(("f_from_s", "state"), [(1.5, "uncertain"), (1.27, "uncertain"),
                                                  (1.2, "missed"), (1.0, "missed")])  # fmt: skip
def test_half_of_its_time_must_have_been_there(f_from_s: float, state: str) -> None:
    assert state_of("E5", rows(without_e(f_from_s), ROOM)) == state


def test_a_late_beginning_before_it_does_not_make_it_missed() -> None:
    # D was found 0.3 s late: from D to F there is time for one note, from C there is for two
    late = without_e(1.5, late_s=0.3)
    assert state_of("E5", rows(late, DRY)) == "missed"
    assert state_of("E5", rows(late, ROOM)) == "uncertain"


def test_it_may_hide_in_the_note_after_it() -> None:
    long_f = [at("C5", 0.0, 0.5), at("D5", 0.5, 1.0), at("F5", 1.0, 2.0), at("G5", 2.0, 2.5),
              at("A5", 2.5, 3.0)]  # fmt: skip
    assert state_of("E5", rows(long_f, DRY)) == "missed"
    assert state_of("E5", rows(long_f, ROOM)) == "uncertain"


def test_silence_is_no_time_for_a_note() -> None:
    rests = [at("C5", 0.0, 0.5), at("D5", 0.5, 1.0), replace(at("F5", 1.5, 2.0), attack_db=30.0),
             at("G5", 2.0, 2.5), at("A5", 2.5, 3.0)]  # fmt: skip
    assert state_of("E5", rows(rests, ROOM)) == "missed"
    assert (
        state_of("E5", rows([*rests[:2], replace(rests[2], attack_db=3.0), *rests[3:]], ROOM))
        == "uncertain"
    )


@pytest.mark.parametrize(("d_beats", "state"), [(7, "uncertain"), (9, "missed")])
def test_over_nine_times_its_length_the_tempo_decides(d_beats: int, state: str) -> None:
    """D, and the E after it, took all the time they have."""
    jig = jig_from_line(f"C5:1 D5:{d_beats} E5:1 F5 G5", jig_id="j", instrument_id="violin",
                        title="j", tempo_bpm=120.0)  # fmt: skip
    d = LinedNote(state="played", pitch=jig.events[1].heads[0].pitch, i_event=1, note_id=None,
                  attempt=1, segments=(0,))  # fmt: skip
    e = replace(d, state="missed", pitch=jig.events[2].heads[0].pitch, i_event=2, segments=())
    f = replace(d, pitch=jig.events[3].heads[0].pitch, i_event=3, segments=(1,))
    end_s = 0.5 * (d_beats + 1)
    segments = [at("D5", 0.0, end_s), at("F5", end_s, end_s + 0.5)]
    expected = np.array([0.5 * float(x.length_beats) for x in jig.events])
    found = had_their_time([d, e, f], segments, jig, expected)
    assert [r.state for r in found] == ["played", state, "played"]


def test_what_was_said_of_a_note_stands() -> None:
    found = with_wrong("F5")
    assert state_of("E5", rows(found, ROOM)) == "uncertain"
    pin = Pin(at_s=found[2].onset_s, i_event=2)
    lined = line_up(found, JIG, a4_hz=440.0, params=ROOM, pins=[pin]).notes
    e = next(r for r in lined if str(r.pitch) == "E5")
    assert (e.state, e.segments) == ("played", (2,))


def hidden_state(sounds: list[tuple[float, float, float]], *, missing: int = 1) -> list[str]:
    """States of notes left out before the last sound: onset, end and attack of each."""
    segments = [replace(segment(440.0, a, seconds=b - a), attack_db=db) for a, b, db in sounds]
    hidden = Hidden(segments, np.full(len(sounds) + missing, 0.5))
    for i in range(len(segments) - 1):
        hidden.reach(i, [i])
        hidden.after(i, [i])
    last = len(segments) - 1
    hidden.reach(last + missing, [last])
    return [hidden.state(last + k) for k in range(missing)]


@pytest.mark.parametrize(
    ("onset_s", "attack_db", "state"),
    [(1.31, 3.0, "uncertain"), (1.29, 3.0, "missed"), (1.31, 30.0, "missed"),
     (1.31, 11.9, "uncertain")],
)  # fmt: skip
def test_room_left_before_a_note_must_have_sounded(
    onset_s: float, attack_db: float, state: str
) -> None:
    sounds = [(0.0, 0.5, 20.0), (0.5, 1.0, 3.0), (onset_s, onset_s + 0.5, attack_db)]
    assert hidden_state(sounds) == [state]


def test_the_room_of_a_slow_player_is_wider() -> None:
    slow = [(0.0, 0.9, 20.0), (0.9, 1.8, 3.0), (1.8, 3.1, 3.0), (3.1, 4.0, 3.0)]
    assert hidden_state(slow) == ["missed"]  # 1.3 s for a note and another of 0.9 s each
    steady = [(0.0, 0.5, 20.0), (0.5, 1.0, 3.0), (1.0, 2.3, 3.0), (2.3, 2.8, 3.0)]
    assert hidden_state(steady) == ["uncertain"]
    assert hidden_state(steady, missing=2) == ["uncertain", "missed"]  # it is used up


def test_other_sound_takes_its_own_time() -> None:
    segments = [replace(segment(440.0, a, seconds=b - a), attack_db=3.0)
                for a, b in ((0.0, 0.5), (0.5, 1.0), (1.0, 1.5))]  # fmt: skip
    for told in (False, True):
        hidden = Hidden(segments, np.full(4, 0.5))
        hidden.reach(0, [0])
        hidden.after(0, [0])
        if told:
            hidden.besides([1])
        hidden.reach(2, [2])
        assert hidden.state(1) == ("missed" if told else "uncertain")


@pytest.mark.parametrize(("seconds", "state"), [(0.79, "missed"), (0.81, "uncertain")])
def test_the_last_note_may_hide_what_follows_it(seconds: float, state: str) -> None:
    hidden = Hidden([segment(440.0, 0.0, seconds=seconds)], np.full(2, 0.5))
    hidden.reach(0, [0])
    hidden.after(0, [0])
    hidden.end()
    assert hidden.state(1) == state


def test_notes_at_the_end_that_never_came_are_missed() -> None:
    found = [at("C5", 0.0, 0.5), at("D5", 0.5, 1.0), at("E5", 1.0, 1.5), at("F5", 1.5, 2.0)]
    lined = rows(found, ROOM)
    assert [r.state for r in lined] == ["played"] * 4 + ["missed"] * 2


# wrong notes that are a neighbour ---------------------------------------------------------------


def with_wrong(name: str, *, seconds: float = 0.3) -> list[Segment]:
    """Where E is written, another note for so long."""
    stop_s = 1.0 + seconds
    return [at("C5", 0.0, 0.5), at("D5", 0.5, 1.0), at(name, 1.0, stop_s),
            at("F5", stop_s, stop_s + 0.5), at("G5", stop_s + 0.5, stop_s + 1.0),
            at("A5", stop_s + 1.0, stop_s + 1.5)]  # fmt: skip


def test_what_sounds_like_the_next_note_is_the_next_note_come_early() -> None:
    lined = rows(with_wrong("F5"), ROOM)
    assert state_of("E5", lined) == "uncertain"
    f = next(r for r in lined if str(r.pitch) == "F5")
    assert f.segments == (2, 3)
    assert not any(r.state in ("extra", "retry") for r in lined)


def test_what_sounds_like_the_note_before_lingers() -> None:
    lined = rows(with_wrong("D5"), ROOM)
    assert state_of("E5", lined) == "uncertain"
    assert not any(r.segments == (2,) for r in lined)


@pytest.mark.parametrize(("seconds", "state"), [(0.49, "uncertain"), (0.51, "played")])
def test_a_long_one_was_meant(seconds: float, state: str) -> None:
    assert state_of("E5", rows(with_wrong("F5", seconds=seconds), ROOM)) == state


@pytest.mark.parametrize(("gap_s", "state"), [(0.11, "uncertain"), (0.13, "played")])
def test_one_apart_from_its_neighbour_was_meant(gap_s: float, state: str) -> None:
    found = with_wrong("F5")
    found[3:] = [replace(s, onset_s=s.onset_s + gap_s, core_start_s=s.core_start_s + gap_s,
                         core_end_s=s.core_end_s + gap_s, offset_s=s.offset_s + gap_s)
                 for s in found[3:]]  # fmt: skip
    assert state_of("E5", rows(found, ROOM)) == state


@pytest.mark.parametrize(("by", "state"), [(39, "uncertain"), (41, "played")])
def test_one_at_another_pitch_than_its_neighbour_was_meant(by: float, state: str) -> None:
    found = with_wrong("F5")
    found[2] = replace(found[2], f0_hz=found[2].f0_hz * 2 ** (by / 1200))
    assert state_of("E5", rows(found, ROOM)) == state


@pytest.mark.parametrize(
    ("below", "state"),
    [(1200, "uncertain"), (1249, "uncertain"), (1151, "uncertain"), (1251, "played"),
     (1902, "uncertain"), (1840, "played"), (-1200, "played")],
)  # fmt: skip
def test_a_phantom_root_in_a_room_is_no_wrong_note(below: float, state: str) -> None:
    found = with_wrong("E5")
    found[2] = replace(found[2], f0_hz=HZ["E5"] * 2 ** (-below / 1200))
    assert state_of("E5", rows(found, ROOM)) == state
    assert state_of("E5", rows(found, DRY)) == "played"


@pytest.mark.parametrize("below", [1200, 1902])
def test_a_note_that_begins_with_a_phantom_root_is_played(below: float) -> None:
    found = with_wrong("E5")
    root = replace(at("E5", 1.0, 1.1), f0_hz=HZ["E5"] * 2 ** (-below / 1200))
    rest = replace(found[2], onset_s=1.1)
    lined = rows([*found[:2], root, rest, *found[3:]], ROOM)
    e = next(r for r in lined if str(r.pitch) == "E5")
    assert (e.state, e.segments) == ("played", (2, 3))


def test_another_wrong_note_stays_wrong() -> None:
    lined = rows(with_wrong("G5"), ROOM)
    e = next(r for r in lined if str(r.pitch) == "E5")
    assert (e.state, e.segments) in (("played", (2,)), ("missed", ()))


def test_heard_in_a_room_everything_follows_so() -> None:
    found = without_e(1.5, late_s=0.3)
    for tail_s, state in ((0.3, "uncertain"), (0.01, "missed")):
        sound = replace(heard(found), tail_s=tail_s)
        lined, notes = follow_and_measure(sound, JIG, a4_hz=440.0, instrument_id="violin")
        assert next(n.state for n in lined.notes if str(n.pitch) == "E5") == state
        assert next(n for n in notes if str(n.lined.pitch) == "E5").segment is None


# one pitch of several pieces ---------------------------------------------------------------------


def test_an_unsure_scrap_does_not_move_a_sure_note() -> None:
    sure = replace(at("A5", 0.0, 0.4), uncertainty_cents=1.0)
    scrap = replace(at("A5", 0.4, 0.5), uncertainty_cents=30.0)
    scrap = replace(scrap, f0_hz=scrap.f0_hz * 2 ** (30 / 1200))
    note = merge_segments([sure, scrap])
    assert note.f0_hz == pytest.approx(880.0, rel=1e-4)
    assert note.uncertainty_cents == pytest.approx(1.0, abs=0.3)
    assert (note.onset_s, note.offset_s) == (0.0, pytest.approx(0.5))


def test_equally_sure_pieces_count_by_their_length_and_widen_the_range() -> None:
    one = replace(at("A5", 0.0, 0.4), uncertainty_cents=1.0)
    other = replace(at("A5", 0.4, 0.8), uncertainty_cents=1.0)
    other = replace(other, f0_hz=other.f0_hz * 2 ** (10 / 1200))
    note = merge_segments([one, other])
    assert note.f0_hz == pytest.approx(880.0 * 2 ** (5 / 1200), rel=1e-5)
    assert note.uncertainty_cents == pytest.approx(26**0.5, rel=1e-2)
