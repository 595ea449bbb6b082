from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.follow.align import Pin, line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.spelling import estimate_signature
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Segment
from signals import listen, perform, scale

PARAMS = FollowParams()


def segments_of(midi: list[float], *, length_s: float = 0.5) -> list[Segment]:
    return [
        Segment(
            onset_s=i * length_s, offset_s=(i + 1) * length_s, core_start_s=i * length_s + 0.05,
            core_end_s=(i + 1) * length_s - 0.05, f0_hz=440.0 * 2 ** ((m - 69) / 12),
            uncertainty_cents=0.5, spread_cents=1.0, drift_cents_per_s=0.0, level_dbfs=-20.0,
            attack_db=20.0, clarity=0.99, slurred=False,
        )
        for i, m in enumerate(midi)
    ]  # fmt: skip


def states(jig: Jig, midi: list[float]) -> list[tuple[str, int | None]]:
    lined = line_up(segments_of(midi), jig, a4_hz=440.0, params=PARAMS)
    return [(n.state, n.i_event) for n in lined.notes]


JIG = scale("violin")
WRITTEN = [float(e.heads[0].pitch.midi) for e in JIG.events]


@given(st.floats(-0.35, 0.35))
def test_a_player_who_is_flat_or_sharp_is_followed(shift: float) -> None:
    got = states(JIG, [m + shift for m in WRITTEN])
    assert got == [("played", i) for i in range(len(WRITTEN))]


@given(st.integers(1, len(WRITTEN) - 2))
def test_a_missing_note_keeps_its_place(i: int) -> None:
    got = states(JIG, [*WRITTEN[:i], *WRITTEN[i + 1 :]])
    assert got == [("missed" if k == i else "played", k) for k in range(len(WRITTEN))]


@given(st.integers(1, len(WRITTEN) - 1))
def test_going_back_one_note(i: int) -> None:
    if WRITTEN[i - 2 : i - 1] == WRITTEN[i : i + 1]:
        return  # about the turn of the scale two stories fit equally well
    got = states(JIG, [*WRITTEN[: i + 1], WRITTEN[i - 1], *WRITTEN[i:]])
    retries = [k for state, k in got if state == "retry"]
    assert retries == [i - 1, i]
    assert [k for state, k in got if state == "played"] == list(range(len(WRITTEN)))


@given(st.integers(0, len(WRITTEN) - 1), st.sampled_from([-3, 3, 5]))
def test_a_wrong_note_stays_a_played_note(i: int, off: int) -> None:
    midi = list(WRITTEN)
    midi[i] += off
    if midi[i] in WRITTEN[max(0, i - 2) : i + 3]:
        return  # the neighbour's pitch: then a skip is the better story
    got = states(JIG, midi)
    assert ("played", i) in got
    assert [s for s, _ in got].count("missed") == 0


def test_an_extra_note_is_called_extra() -> None:
    got = states(JIG, [*WRITTEN[:5], WRITTEN[4] + 6.5, *WRITTEN[5:]])
    assert [s for s, _ in got].count("extra") == 1
    assert [k for s, k in got if s == "played"] == list(range(len(WRITTEN)))


def test_only_a_beginning_is_played() -> None:
    got = states(JIG, WRITTEN[:6])
    assert got[:6] == [("played", i) for i in range(6)]
    assert all(state == "missed" for state, _ in got[6:])


def test_nothing_heard_is_all_missed() -> None:
    assert {s for s, _ in states(JIG, [])} == {"missed"}
    assert line_up([], None, a4_hz=440.0, params=PARAMS).notes == ()


@pytest.mark.parametrize("kind", ["violin", "cello"])
def test_trouble_through_sound(kind: str) -> None:
    faults = (
        "back_one notes=4; miss notes=9 closed_up=true; pause notes=6 seconds=1.2; repeat notes=2"
    )
    performance = perform(scale(kind), faults)
    lined = line_up(listen(performance).segments, scale(kind), a4_hz=440.0, params=PARAMS)
    heard = [n for n in lined.notes if n.segments]
    assert [n.i_event for n in heard] == [n.i_event for n in performance.notes]
    assert [n.i_event for n in lined.notes if n.state == "missed"] == [9]


def test_repeated_pitch_is_found_by_its_bow_change() -> None:
    from jigwright.core.jig.model import note_list

    jig = note_list("A4 A4 A4 B4 B4 A4", instrument_id="violin", tempo_bpm=100)
    from dataclasses import replace

    jig = replace(jig, events=tuple(replace(e, bow="down") for e in jig.events))
    lined = line_up(listen(perform(jig)).segments, jig, a4_hz=440.0, params=PARAMS)
    assert [(n.state, n.i_event) for n in lined.notes] == [("played", i) for i in range(6)]


def test_blind_notes_are_spelled_in_their_key() -> None:
    midi = [62, 64, 66, 67, 69, 71, 73, 74]
    lined = line_up(segments_of([float(m) for m in midi]), None, a4_hz=440.0, params=PARAMS)
    assert lined.key_fifths == 2
    assert [str(n.pitch) for n in lined.notes][2] == "F#4"
    flats = [58, 60, 62, 63, 65, 67, 69, 70]
    lined = line_up(segments_of([float(m) for m in flats]), None, a4_hz=440.0, params=PARAMS)
    assert lined.notes[3].pitch == Pitch.parse("Eb4")
    assert estimate_signature([], []) == 0  # type: ignore[arg-type]


def test_what_somebody_pins_is_followed_and_the_rest_finds_its_place() -> None:
    jig = note_list("D4 E4 F#4 G4 A4", instrument_id="violin", tempo_bpm=90)
    heard = listen(perform(jig, "wrong notes=2 semitones=-1"))
    args = {"a4_hz": 440.0, "params": FollowParams(), "pairs": heard.pairs}
    plain = line_up(heard.segments, jig, **args)
    assert [n.state for n in plain.notes] == ["played"] * 5
    at_s = heard.segments[2].onset_s
    extra = line_up(heard.segments, jig, pins=[Pin(at_s=at_s + 0.02, i_event=None)], **args)
    assert [n.state for n in extra.notes] == ["played", "played", "extra", "missed", "played",
                                             "played"]  # fmt: skip
    again = line_up(heard.segments, jig, pins=[Pin(at_s=at_s, i_event=1)], **args)
    assert [n.i_event for n in again.notes if n.state in ("played", "retry")] == [0, 1, 1, 3, 4]
    far = line_up(heard.segments, jig, pins=[Pin(at_s=99.0, i_event=0)], **args)
    assert far == plain


def test_a_long_bow_that_lets_go_for_a_moment_is_one_note_even_before_its_repeat() -> None:
    values = {"repeats": 1, "beats_in_bow": 2}
    jig = maker("long_bows").make(Setting(instrument_id="violin", values=values))
    for broken in (0, 1, 5):
        performance = perform(jig, f"bounce notes={broken} at=0.4; detune spread_cents=2", seed=3)
        lined = line_up(listen(performance).segments, jig, a4_hz=440.0, params=PARAMS)
        assert [n.i_event for n in lined.notes] == list(range(len(jig.events)))
        assert all(n.state == "played" for n in lined.notes)
        assert len(lined.notes[broken].segments) == 2
