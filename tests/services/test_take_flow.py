"""What may follow at the Stand when the ear speaks, a take ends, the model plays; by value."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.sound.heard import Now, PairNow
from jigwright.services.live_picture import LivePicture
from jigwright.services.recording import CaptureState, EarSays
from jigwright.services.take_flow import PlayersTurn, TakeFlow
from jigwright.wording.verdicts import input_words


def says(
    *frames_s: float, take: tuple[float, float] | None = None, since_s: float | None = None
) -> EarSays:
    frames = tuple(
        Now(time_s=t, f0_hz=440.0, level_db=-20.0, clarity=0.9, sounding=True) for t in frames_s
    )
    return EarSays(frames=frames, notes=(), i_event=None, take=take, since_s=since_s)


def flow_in(state: str) -> TakeFlow:
    flow = TakeFlow()
    flow.state = state  # type: ignore[assignment]
    return flow


ALL = (
    "off",
    "preparing",
    "opening",
    "model",
    "counting",
    "waiting",
    "playing",
    "judging",
    "asking",
)


def test_what_turns_out_to_be_talk_is_waited_over() -> None:
    flow = flow_in("waiting")
    assert flow.hear(says(since_s=1.0)) == (True, None)
    assert flow.hear(says()) == (True, None)
    assert flow.state == "waiting"
    assert flow.hear(says()) == (False, None)
    assert flow.hear(says(since_s=3.0)) == (True, None)
    assert flow.state == "playing"


def test_a_take_begins_is_judged_and_the_next_is_waited_for() -> None:
    flow = TakeFlow()
    assert flow.state == "off"
    flow.prepare()
    assert flow.state == "preparing"
    flow.open()
    assert flow.state == "opening"
    assert flow.hear(says(since_s=1.0)) == (False, None), "nobody was asked to play yet"
    assert flow.ready()
    assert flow.state == "waiting"
    assert not flow.ready(), "only the first sound is waited for"
    assert flow.hear(says(since_s=1.0)) == (True, None)
    assert flow.state == "playing"
    assert flow.hear(says(since_s=1.0)) == (False, None)  # begun is begun
    assert flow.hear(says(take=(1.0, 4.0))) == (False, (1.0, 4.0))
    flow.judge()
    assert flow.state == "judging"
    flow.go_on(listening=True)
    assert flow.state == "waiting"
    flow.refuse()
    assert flow.state == "off"


@pytest.mark.parametrize("state", ALL)
def test_a_take_begins_only_where_the_player_is_waited_for_or_asked(state: str) -> None:
    flow = flow_in(state)
    began, _ = flow.hear(says(since_s=1.0))
    assert began is (state in ("waiting", "asking"))
    assert flow.state == ("playing" if began else state)


@pytest.mark.parametrize("state", ALL)
def test_what_model_and_count_sound_is_no_take(state: str) -> None:
    flow = flow_in(state)
    assert flow.is_before is (state in ("model", "counting"))
    _, take = flow.hear(says(take=(0.0, 3.0)))
    assert take == (None if flow.is_before else (0.0, 3.0))


@pytest.mark.parametrize("state", ALL)
@pytest.mark.parametrize("before", ["model", "counting", None])
def test_model_and_count_come_before_a_take_only(state: str, before: str | None) -> None:
    flow = flow_in(state)
    begun = flow.begin_before(before)  # type: ignore[arg-type]
    assert begun is (before is not None and state in ("waiting", "asking"))
    assert flow.state == (before if begun else state)


@pytest.mark.parametrize("state", ALL)
def test_the_turn_is_handed_over_once(state: str) -> None:
    flow = flow_in(state)
    was = flow.hand_over()
    assert was == (state if state in ("model", "counting") else None)
    assert flow.state == ("waiting" if was else state)
    assert flow.hand_over() is None


@pytest.mark.parametrize("state", ALL)
def test_closing_leaves_a_take_that_is_being_judged(state: str) -> None:
    flow = flow_in(state)
    flow.close()
    assert flow.state == ("judging" if state == "judging" else "off")


@pytest.mark.parametrize(
    ("listening", "asks", "state"),
    [(True, False, "waiting"), (True, True, "asking"), (False, True, "off"), (False, False, "off")],
)
def test_the_ear_is_asked_while_somebody_is_there(listening: bool, asks: bool, state: str) -> None:
    flow = flow_in("judging")
    flow.go_on(listening=listening, asks=asks)
    assert flow.state == state


@pytest.mark.parametrize("state", ALL)
def test_an_answer_ends_the_question(state: str) -> None:
    flow = flow_in(state)
    flow.answer()
    assert flow.state == ("waiting" if state == "asking" else state)


def test_all_of_a_recording_is_the_players_unless_something_comes_before() -> None:
    turn = PlayersTurn()
    assert turn.own_part((0.0, 9.0)) == (0.0, 9.0)
    assert not turn.is_over(1e9)


@pytest.mark.parametrize(
    ("span", "own"),
    [
        ((2.0, 4.0), None),  # the model
        ((2.0, 9.0), (4.9, 9.0)),  # a first note may lean on the end of the count
        ((6.0, 9.0), (6.0, 9.0)),
        ((2.0, 5.399), None),
        ((2.0, 5.401), (4.9, 5.401)),
    ],
)
def test_what_the_player_plays_begins_with_the_turn(
    span: tuple[float, float], own: tuple[float, float] | None
) -> None:
    turn = PlayersTurn()
    turn.open(5.0, space_s=None)
    assert turn.own_part(span) == own


def test_the_space_runs_out_once() -> None:
    turn = PlayersTurn()
    turn.open(5.0, space_s=3.0)
    assert not turn.is_over(7.99)
    assert turn.is_over(8.0)
    assert not turn.is_over(9.0)  # said once
    turn.open(5.0, space_s=3.0)
    turn.wait()  # the model plays again
    assert not turn.is_over(9.0)
    turn.open(5.0, space_s=3.0)
    turn.clear()
    assert not turn.is_over(9.0)
    assert turn.own_part((0.0, 3.0)) == (0.0, 3.0)


def test_the_picture_holds_the_last_four_seconds() -> None:
    live = LivePicture()
    live.hear(says(0.0, 0.5, 1.0))
    live.hear(says(4.5))
    assert [n.time_s for n in live.trace] == [0.5, 1.0, 4.5]  # as old as four seconds stays
    assert live.now is not None
    assert live.now.time_s == 4.5
    live.hear(says())  # nothing new: what was heard stands
    assert live.now.time_s == 4.5


def test_notes_gather_until_a_recording_begins() -> None:
    live = LivePicture()
    first, second = segment(440.0, 0.0), segment(660.0, 1.0)
    live.hear(EarSays(frames=(), notes=(first,), i_event=None, take=None))
    live.hear(EarSays(frames=(), notes=(second,), i_event=None, take=None))
    assert live.notes == [first, second]
    live.level = CaptureState(running=False, seconds=7.0, n_overflows=2)
    live.hear(says(1.0))
    live.begin()
    assert live.notes == []
    assert not live.trace
    assert live.level == CaptureState(running=True, seconds=0.0)


def test_two_strings_are_shown_only_while_they_sound() -> None:
    live = LivePicture()
    pair = PairNow(lower_hz=196.0, upper_hz=294.0, balance_db=0.0)
    live.hear(EarSays(frames=(), notes=(), i_event=None, take=None, pair=pair))
    assert live.pair is pair
    live.hear(says(2.0))
    assert live.pair is None


def test_at_rest_there_is_no_place_and_no_pitch() -> None:
    live = LivePicture()
    live.hear(says(1.0))
    live.i_event = 3
    live.rest()
    assert live.now is None
    assert live.i_event is None


# the input ---------------------------------------------------------------------------------------


def heard_frames(*times_s: float, clarity: float = 0.95, sounding: bool = True) -> EarSays:
    return EarSays(
        frames=tuple(
            Now(time_s=t, f0_hz=440.0, level_db=-30.0, clarity=clarity, sounding=sounding)
            for t in times_s
        ),
        notes=(), i_event=None, take=None,
    )  # fmt: skip


def input_state(
    *words: EarSays, playing: bool = False, beside: bool = False, **level: float
) -> str:
    live = LivePicture()
    plain = {"seconds": 10.0, "peak": 0.1, "rms": 0.05, "room": 0.001}
    live.level = CaptureState(running=True, **(plain | level))  # type: ignore[arg-type]
    for one in words:
        live.hear(one)
    return live.input_state(playing=playing, beside=beside)


def test_a_room_is_judged_only_from_its_silence() -> None:
    bowed = heard_frames(8.0, 9.0, 9.9)
    noise = heard_frames(8.0, 9.0, 9.9, clarity=0.4)
    loud_room = 10 ** (-44 / 20)
    assert input_state(noise, room=loud_room) == "noisy"
    assert input_state(noise, room=10 ** (-46 / 20)) == "quiet"
    assert input_state(bowed, room=loud_room) == "heard", "somebody bows a long note"
    assert input_state(bowed, heard_frames(13.1, clarity=0.2), room=loud_room) == "noisy"
    assert input_state(bowed, heard_frames(12.8, clarity=0.2), room=loud_room) == "heard"
    hum = heard_frames(9.0, sounding=False)
    assert input_state(hum, room=loud_room) == "noisy", "what is below the floor is no tone"


def test_talk_is_said_instead_of_hearing_well_until_somebody_plays() -> None:
    spoken = replace(heard_frames(9.9), talking=True)
    assert input_state(spoken) == "talk"
    assert input_state(spoken, playing=True) == "heard"
    assert input_state(spoken, heard_frames(9.95)) == "heard"
    assert input_state(spoken, peak=0.99) == "clips"
    assert "speaks" in input_words("talk", -60.0, 0)
    live = LivePicture()
    live.hear(spoken)
    live.rest()
    assert not live.talking


def test_it_takes_three_seconds_and_our_own_sound_is_no_room() -> None:
    loud_room = 10 ** (-40 / 20)
    early, noise = heard_frames(2.0, clarity=0.2), heard_frames(9.0, clarity=0.2)
    assert input_state(early, seconds=2.9, room=loud_room, peak=0.01) == "waiting"
    assert input_state(early, seconds=3.1, room=loud_room) == "noisy"
    assert input_state(noise, beside=True, room=loud_room, peak=0.1) == "heard"
    assert input_state(noise, beside=True, room=loud_room, peak=0.02) == "waiting"


def test_without_an_ear_the_room_is_not_known() -> None:
    loud_room = 10 ** (-40 / 20)
    assert input_state(room=loud_room) == "heard"
    behind = heard_frames(8.1, clarity=0.2)
    assert input_state(behind, room=loud_room) == "noisy"
    assert input_state(behind, seconds=10.2, room=loud_room) == "heard"


def tone(from_s: float, to_s: float, level_db: float) -> EarSays:
    """A tone of so many decibels, 200 frames a second."""
    frames = tuple(
        Now(time_s=t, f0_hz=440.0, level_db=level_db, clarity=0.95, sounding=True)
        for t in np.arange(from_s, to_s, 0.005).tolist()
    )
    return EarSays(frames=frames, notes=(), i_event=None, take=None)


@pytest.mark.parametrize(("level_db", "state"), [(-48.5, "soft"), (-47.5, "heard")])
def test_who_plays_too_far_away_is_asked_nearer(level_db: float, state: str) -> None:
    assert input_state(tone(8.0, 10.0, level_db), playing=True) == state
    assert input_state(tone(8.0, 10.0, level_db), playing=False) == "heard"


@pytest.mark.parametrize(("seconds", "state"), [(0.49, "heard"), (0.51, "soft")])
def test_half_a_second_must_have_been_soft(seconds: float, state: str) -> None:
    assert input_state(tone(9.0, 9.0 + seconds, -60.0), playing=True) == state


def test_nobody_is_asked_nearer_in_the_silence_after_a_note() -> None:
    soft = tone(8.0, 9.0, -60.0)
    for silent_for_s, state in ((0.3, "soft"), (0.5, "heard")):
        after = heard_frames(9.0 + silent_for_s, sounding=False)
        assert input_state(soft, after, playing=True) == state
    assert input_state(playing=True) == "heard"


def test_the_end_of_a_loud_note_is_no_soft_one() -> None:
    dying = tone(9.0, 10.0, -55.0)
    assert input_state(tone(8.0, 9.0, -20.0), dying, playing=True) == "heard"
    assert input_state(tone(4.0, 5.0, -20.0), dying, playing=True) == "soft", "long ago"


def test_clipping_comes_before_everything() -> None:
    assert input_state(playing=True, peak=0.98) == "clips"
    assert input_state(room=0.5, peak=0.98) == "clips"
    assert input_state(peak=0.97) != "clips"


def test_what_is_said_of_the_input() -> None:
    assert input_words("noisy", -38.4, 0) == (
        "noisy room (−38 dB): soft notes will be hard to judge"
    )
    assert input_words("soft", -60.0, 2) == "very quiet: come nearer · 2 gaps"
    said = [
        input_words(s, -50.0, 0) for s in ("clips", "soft", "heard", "noisy", "quiet", "waiting")
    ]  # type: ignore[arg-type]
    assert len(set(said)) == 6
