"""In a room a note that had its time is not called missed, and a lingering one not wrong."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import heard, segment
from jigwright.core.follow.align import line_up
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


def test_far_away_notes_decide_nothing() -> None:
    words = "C5:8 D5:8 E5 F5:8 G5:8"
    jig = jig_from_line(words, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120.0)
    shift = 0.3  # D's own length tells nothing of a half second here
    found = [at("C5", 0.0, 4.0), at("D5", 4.0, 8.0 + shift), at("F5", 8.0 + shift, 12.0),
             at("G5", 12.0, 16.0)]  # fmt: skip
    lined = line_up(found, jig, a4_hz=440.0, params=ROOM).notes
    assert next(r.state for r in lined if str(r.pitch) == "E5") in ("missed", "uncertain")
    near = rows(without_e(1.5), ROOM)
    assert state_of("E5", near) == "uncertain"


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
