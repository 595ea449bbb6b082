"""Derived exercises, the bow plan and the plain line keep what they should, or refuse."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import JigError
from jigwright.core.jig.derive import (
    as_double_stops,
    displaced,
    rebuilt,
    spot,
    tempo_steps,
    weak_spans,
)
from jigwright.core.jig.line import jig_from_line, jig_to_line
from jigwright.core.jig.makers import Setting, maker


def line(text, **more):
    return jig_from_line(text, jig_id="l", instrument_id="violin", title="line", **more)


TUNE = "(D4 E4) F#4 G4 (A4 B4 C#5 D5) E4 F#4 G4 A4"


def test_a_spot_keeps_note_ids_and_begins_in_its_bar_with_a_stroke() -> None:
    jig = line(TUNE)
    part = spot(jig, 5, 8, jig_id="s", title="spot")
    assert [e.heads[0].id for e in part.events] == [e.heads[0].id for e in jig.events[5:9]]
    assert part.events[0].onset_beats == jig.events[5].onset_beats - 4
    assert part.events[0].bow == jig.events[4].bow
    assert part.derived_from == ("l", 1)
    with pytest.raises(JigError, match="no events"):
        spot(jig, 3, 99, jig_id="s", title="x")


@given(st.integers(0, 3))
def test_displacing_moves_the_bar_line_and_nothing_else(pick_up) -> None:
    jig = line("D4:1/4 E4 F#4 G4 A4 B4 C#5 D5")
    moved = displaced(jig, pick_up, jig_id="d", title="d")
    assert moved.events[pick_up].onset_beats % 4 == 0
    starts = [e.onset_beats for e in moved.events]
    assert {b - a for a, b in zip(starts, starts[1:], strict=False)} == {Fraction(1, 4)}
    assert [e.heads[0].pitch for e in moved.events] == [e.heads[0].pitch for e in jig.events]


def test_rebuilding_ends_with_the_whole_spot() -> None:
    jig = line("D4:1/2 E4 F#4 G4 A4 B4")
    steps = rebuilt(jig, 0, 5, jig_id="r", titles=["step"])
    assert len(steps[0].events) == 2
    assert len(steps[-1].events) == 6
    assert len({s.id for s in steps}) == len(steps)


def test_crossings_become_double_stops() -> None:
    jig = maker("crossings").make(Setting(instrument_id="violin", values={"pattern": "pairs"}))
    stops = as_double_stops(jig, jig_id="x", title="x")
    assert all(len(e.heads) == 2 for e in stops.events[:4])
    with pytest.raises(JigError, match="neighbouring"):
        as_double_stops(line("D4!0 D4!0"), jig_id="x", title="x")


def test_tempo_steps_rise_to_just_beyond_the_written_tempo() -> None:
    steps = tempo_steps(line("D4 E4", tempo_bpm=120))
    assert list(steps) == sorted(steps)
    assert steps[0] == 60
    assert 120 < steps[-1] < 135


NOTES = st.lists(
    st.tuples(
        st.sampled_from(("D4", "F#4", "Bb3", "G3+B4", "r")),
        st.sampled_from(("", ":1/2", ":3/4", ":2")), st.sampled_from(("", ".")),
    ),
    min_size=1, max_size=20,
)  # fmt: skip


@given(NOTES)
def test_a_line_comes_back_as_it_was_written(words) -> None:
    text = " ".join(w + (b + lift if w != "r" else b) for w, b, lift in words)
    if all(w == "r" for w, _, _ in words):
        with pytest.raises(JigError):
            line(text)
        return
    jig = line(text)
    again = line(jig_to_line(jig))
    assert [(e.onset_beats - jig.events[0].onset_beats, e.length_beats, [h.pitch for h in e.heads],
             e.lifted) for e in jig.events] == [
        (e.onset_beats - again.events[0].onset_beats, e.length_beats, [h.pitch for h in e.heads],
         e.lifted) for e in again.events]  # fmt: skip


def test_slurs_come_back() -> None:
    jig = line(TUNE)
    assert [e.bow is None for e in line(jig_to_line(jig)).events] == [
        e.bow is None for e in jig.events
    ]


@pytest.mark.parametrize(
    ("text", "said"),
    [("D4 H4", "word 2"), ("(D4", "open to the end"), ("D4:0", "word 1"), ("D4)", "without"),
     ("D4:x/2", "word 1"), ("", "at least one note")],
)  # fmt: skip
def test_what_cannot_be_read_is_named(text, said) -> None:
    with pytest.raises(JigError, match=said.replace("(", r"\(")):
        line(text)


def test_weak_spans_are_where_notes_went_wrong_twice() -> None:
    jig = line(" ".join(["D4", "E4", "F#4", "G4"] * 5))
    assert weak_spans(jig, {3: 1, 10: 1}) == ()
    assert weak_spans(jig, {3: 2, 5: 3, 15: 2}) == ((1, 7), (13, 17))
    assert weak_spans(jig, {0: 1, 19: 4}, least=1) == ((17, 19), (0, 2))


def test_a_spot_inside_a_proposed_stroke_begins_with_a_proposal() -> None:
    made = line("(D4 E4 F#4) G4")
    proposed = replace(
        made, events=tuple(replace(e, proposed_bow=e.bow is not None) for e in made.events)
    )
    assert spot(proposed, 1, 2, jig_id="s", title="s").events[0].proposed_bow
    assert not spot(made, 1, 2, jig_id="s", title="s").events[0].proposed_bow
