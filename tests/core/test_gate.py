"""Takes begin and end where the music does: soft starts, written rests, silences."""

from __future__ import annotations

import pytest

from jigwright.core.follow.gate import GateParams, TakeGate
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.heard import HOP_S, Now
from jigwright.services.ear import rests_s

NAN = float("nan")


def now(time_s: float, *, sounding: bool, pitch: bool, level_db: float = -25.0) -> Now:
    return Now(
        time_s=time_s, f0_hz=440.0 if pitch else NAN, level_db=level_db if sounding else -80.0,
        sounding=sounding, clarity=0.95 if pitch else 0.3,
    )  # fmt: skip


def run(
    gate: TakeGate,
    *parts: tuple[str, float],
    from_s: float = 0.0,
    level_db: float = -25.0,
    last: bool = False,
    rest_s: float = 0.0,
) -> float:
    """Hear silence, noise and tone of so many seconds each; where it ended, in time."""
    time_s = from_s
    for what, seconds in parts:
        for _ in range(round(seconds / HOP_S)):
            frame = now(time_s, sounding=what != "silence", pitch=what == "tone", level_db=level_db)
            gate.hear(frame, last_note_heard=last, rest_s=rest_s)
            time_s += HOP_S
            if gate.state == "ended":
                return time_s
    return time_s


@pytest.mark.parametrize(("seconds", "state"), [(0.15, "waiting"), (0.16, "playing")])
def test_a_pitched_sound_as_long_as_a_note_begins(seconds: float, state: str) -> None:
    gate = TakeGate()
    run(gate, ("silence", 1.0), ("tone", seconds))
    assert gate.state == state


def test_nothing_begins_while_somebody_speaks_and_nothing_is_cut_off_after() -> None:
    gate = TakeGate()
    run(gate, ("silence", 1.0))
    for k in range(200):
        frame = now(1.0 + k * HOP_S, sounding=True, pitch=True)
        assert gate.hear(frame, last_note_heard=False, spoken=True) == "waiting"
    run(gate, ("tone", 0.01), from_s=2.0)
    assert gate.state == "playing"
    assert gate.start_s == pytest.approx(0.55, abs=0.02)


def test_what_was_no_playing_is_taken_back_and_a_take_may_begin_again() -> None:
    gate = TakeGate()
    run(gate, ("silence", 1.0), ("tone", 0.5))
    gate.take_back()
    assert gate.state == "waiting"
    run(gate, ("silence", 1.0), ("tone", 0.14), from_s=1.5)
    assert gate.state == "waiting"
    run(gate, ("tone", 0.02), from_s=2.64)
    assert gate.state == "playing"
    assert gate.start_s == pytest.approx(2.05, abs=0.02)
    run(gate, ("silence", 4.0), from_s=2.66)
    gate.take_back()
    assert gate.state == "ended"


def test_what_is_hardly_there_begins_nothing() -> None:
    for level_db, state in ((-62.1, "waiting"), (-61.9, "playing")):
        gate = TakeGate()
        run(gate, ("silence", 1.0), ("tone", 1.0), level_db=level_db)
        assert gate.state == state


def test_a_take_begins_a_little_before_its_first_note() -> None:
    gate = TakeGate()
    run(gate, ("silence", 3.0), ("tone", 0.5))
    assert gate.start_s == pytest.approx(2.55, abs=0.01)
    early = TakeGate()
    run(early, ("silence", 0.2), ("tone", 0.5))
    assert early.start_s == 0.0


@pytest.mark.parametrize(
    ("before", "start_s"),
    [
        ((("noise", 1.0),), 2.55),  # a soft start of a second, and the lead
        ((("noise", 2.5),), 3.5),  # at most two seconds
        ((("noise", 0.5), ("silence", 0.28), ("noise", 0.2)), 2.55),
        ((("noise", 0.5), ("silence", 0.32), ("noise", 0.2)), 3.37),
    ],
)
def test_nothing_that_sounded_before_the_first_pitch_is_cut_off(before, start_s: float) -> None:
    gate = TakeGate()
    run(gate, ("silence", 3.0), *before, ("tone", 0.5))
    assert gate.start_s == pytest.approx(start_s, abs=0.02)


def test_it_does_not_reach_into_the_take_before() -> None:
    gate = TakeGate()
    run(gate, ("noise", 0.3), ("tone", 0.5), from_s=10.0)
    assert gate.start_s == pytest.approx(10.0, abs=0.01)


def ends_after(*, last: bool = False, rest_s: float = 0.0) -> float:
    """Seconds of silence until a take ends."""
    gate = TakeGate()
    end_s = run(gate, ("tone", 1.0), ("silence", 30.0), last=last, rest_s=rest_s)
    assert gate.state == "ended"
    assert gate.end_s == pytest.approx(1.0 + min(end_s - 1.0, 0.9), abs=0.02)
    return end_s - 1.0


def test_silence_ends_a_take_and_written_rests_are_waited_for() -> None:
    assert ends_after() == pytest.approx(3.0, abs=0.02)
    assert ends_after(rest_s=1.0) == pytest.approx(3.0, abs=0.02)
    assert ends_after(rest_s=7.0) == pytest.approx(1.4 * 7.0 + 1.5, abs=0.02)
    assert ends_after(rest_s=3.0) == pytest.approx(5.7, abs=0.02)
    assert ends_after(rest_s=7.0, last=True) == pytest.approx(0.9, abs=0.02)


def test_a_note_within_the_rest_goes_on() -> None:
    gate = TakeGate()
    run(gate, ("tone", 1.0), ("silence", 7.0), ("tone", 1.0), rest_s=7.0)
    assert gate.state == "playing"
    gate.stop(20.0)
    assert (gate.state, gate.end_s) == ("ended", 20.0)


@pytest.mark.parametrize(
    ("clarity", "seconds", "two", "state"),
    [
        (0.35, 0.41, True, "playing"), (0.35, 0.38, True, "waiting"), (0.29, 2.0, True, "waiting"),
        (0.35, 2.0, False, "waiting"),
    ],
)  # fmt: skip
def test_a_double_stop_begins_where_one_is_written(
    clarity: float, seconds: float, *, two: bool, state: str
) -> None:
    gate = TakeGate(two_strings=two)
    for i in range(round(seconds / HOP_S)):
        frame = Now(time_s=i * HOP_S, f0_hz=NAN, level_db=-25.0, sounding=True, clarity=clarity)
        gate.hear(frame, last_note_heard=False)
    assert gate.state == state


def test_one_stopped_before_it_began_has_no_end() -> None:
    gate = TakeGate(GateParams(least_note_s=0.5))
    run(gate, ("tone", 0.4))
    gate.stop(1.0)
    assert gate.state == "waiting"


def test_rests_are_those_between_written_notes() -> None:
    jig = jig_from_line(
        "D4 E4 r F#4:2 r:2 G4", jig_id="j", instrument_id="violin", title="j", tempo_bpm=120
    )
    assert rests_s(jig) == (0.0, 0.5, 1.0)


# beside our own metronome -----------------------------------------------------------------------


def beside_clicks(tone_s: float, *, clicking: bool = True, every_s: float = 0.5) -> str:
    """A note, then only short tones at the beat: whether the take has ended after five seconds."""
    gate = TakeGate(clicking=clicking)
    t = 0.0
    while t < 6.0:
        played = t < 1.0
        tone = played or t % every_s < tone_s
        frame = now(t, sounding=tone, pitch=tone)
        gate.hear(frame, last_note_heard=False)
        t += HOP_S
    return gate.state


@pytest.mark.parametrize(("tone_s", "state"), [(0.05, "ended"), (0.09, "playing")])
def test_clicks_hold_no_take_open_and_short_notes_do(tone_s: float, state: str) -> None:
    assert beside_clicks(tone_s) == state
    assert beside_clicks(tone_s, clicking=False) == "playing"


def test_noise_without_pitch_is_a_click_beside_clicks() -> None:
    for clicking, state in ((True, "ended"), (False, "playing")):
        gate = TakeGate(clicking=clicking)
        for i in range(round(6.0 / HOP_S)):
            t = i * HOP_S
            gate.hear(now(t, sounding=True, pitch=t < 1.0), last_note_heard=False)
        assert gate.state == state
