"""Lower alone, upper alone, both: which voice a single note of a double stop is."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.follow.parts import name_parts
from jigwright.core.follow.values import LinedNote, NoteState
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.pitch import cents_from_a4
from jigwright.core.sound.heard import Segment

JIG = jig_from_line("D4+A4 E4+B4 D4", jig_id="j", instrument_id="violin", title="j")


def hz(name: str, cents: float = 0.0) -> float:
    pitch = next(h.pitch for e in JIG.events for h in e.heads if str(h.pitch) == name)
    return float(440.0 * 2 ** ((cents_from_a4(pitch) + cents) / 1200))


def sound(name: str, at_s: float, *, both: bool = False, cents: float = 0.0) -> Segment:
    return replace(segment(hz(name, cents), at_s), i_pair=0 if both else -1)


def row(i_event: int, k: int, state: NoteState = "played") -> LinedNote:
    event = JIG.events[i_event]
    low = event.heads[0].pitch if len(event.heads) > 1 else None
    return LinedNote(
        state=state, pitch=event.heads[-1].pitch, i_event=i_event, note_id=event.heads[-1].id,
        attempt=1, segments=(k,) if k >= 0 else (), lower=low,
    )  # fmt: skip


def told(sounds: list[Segment], events: list[int], offset: float = 0.0):
    rows = [row(i, k) for k, i in enumerate(events)]
    return name_parts(rows, sounds, JIG, 440.0, offset)


def test_each_voice_is_named_and_the_first_time_both_sound_is_the_note() -> None:
    sounds = [sound("D4", 0.0), sound("A4", 1.0), sound("D4", 2.0, both=True),
              sound("D4", 3.0, both=True)]  # fmt: skip
    found = told(sounds, [0, 0, 0, 0])
    assert [(n.part, n.state, n.attempt) for n in found] == [
        ("lower", "retry", 1), ("upper", "retry", 1), (None, "played", 1), (None, "retry", 2),
    ]  # fmt: skip
    assert [str(n.pitch) for n in found] == ["D4", "A4", "A4", "A4"]
    assert [n.lower is None for n in found] == [True, True, False, False]
    low, high = JIG.events[0].heads
    assert [n.note_id for n in found[:2]] == [low.id, high.id]


def test_single_notes_where_both_never_sounded_stay_what_they_were() -> None:
    sounds = [sound("D4", 0.0), sound("A4", 1.0), sound("E4", 2.0, both=True)]
    found = told(sounds, [0, 0, 1])
    assert [n.part for n in found] == [None, None, None]
    assert found[:2] == (row(0, 0), row(0, 1))


@pytest.mark.parametrize(("cents", "part"), [(-80.0, "lower"), (85.0, "lower"), (95.0, None)])
def test_a_voice_may_be_nearly_a_semitone_out(cents: float, part: str | None) -> None:
    sounds = [sound("D4", 0.0, cents=cents), sound("D4", 1.0, both=True)]
    assert told(sounds, [0, 0])[0].part == part


def test_the_players_own_a_is_taken_off() -> None:
    sounds = [sound("D4", 0.0, cents=110.0), sound("D4", 1.0, both=True)]
    assert told(sounds, [0, 0])[0].part is None
    assert told(sounds, [0, 0], offset=30.0)[0].part == "lower"


def test_single_written_notes_and_what_was_not_played_are_left_alone() -> None:
    sounds = [sound("D4", 0.0, both=True)]
    missed = row(0, -1, "missed")
    found = name_parts([row(2, 0), missed], sounds, JIG, 440.0, 0.0)
    assert found == (row(2, 0), missed)
