"""How notes are written down: bars, ties, tuplets, voices, rests in the right order."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.jig.model import Event, Jig, Notehead
from jigwright.core.jig.written import VALUES, Written, WrittenVoices, split_length
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

F = Fraction


def jig_of(*rows: tuple[object, object], metre: tuple[int, int] = (4, 4), **more: object) -> Jig:
    """Single notes: onset and length in beats."""
    events = tuple(
        Event(
            id=f"e{i}", onset_beats=F(a), length_beats=F(n),  # type: ignore[arg-type]
            heads=(Notehead(id=f"n{i}", pitch=Pitch("D", 0, 4)),), bow="down",
        )
        for i, (a, n) in enumerate(rows)
    )  # fmt: skip
    return Jig(
        id="j", title="t", instrument_id="violin", key=Key(PitchClass("C")), events=events,
        beats_per_bar=metre[0], beat_unit=metre[1], **more,  # type: ignore[arg-type]
    )  # fmt: skip


def row_of(jig: Jig, bar: int = 0, **more: object) -> list[Written]:
    return WrittenVoices(jig, **more).voices(jig.bars()[bar])[0][1]  # type: ignore[arg-type]


def values(row: list[Written]) -> list[str]:
    """Written values; rests in brackets, ties as +."""
    return [
        f"({w.value})" if w.event is None
        else f"{'+' if w.heads[0].tied_from else ''}{w.value}{'+' if w.heads[0].tied_on else ''}"
        for w in row
    ]  # fmt: skip


def test_plain_values_are_one_note_each() -> None:
    assert values(row_of(jig_of((0, 2), (2, 1), (3, F(1, 2)), (F(7, 2), F(1, 2))))) == [
        "2", "1", "1/2", "1/2"
    ]  # fmt: skip


def test_a_length_no_note_can_write_is_tied_where_the_beats_lie() -> None:
    assert values(row_of(jig_of((0, F(5, 4)), (F(5, 4), F(1, 4)))))[:3] == ["1+", "+1/4", "1/4"]
    assert values(row_of(jig_of((0, F(3, 4)), (F(3, 4), F(5, 4)), (2, 2))))[:3] == [
        "3/4", "1/4+", "+1"
    ]  # fmt: skip


def test_notes_over_a_bar_line_are_tied_and_only_the_first_carries_the_marks() -> None:
    jig = jig_of((3, 2), (5, 3))
    first, second = row_of(jig)[-1], row_of(jig, 1)[0]
    assert (first.value, first.first, first.last) == (1, True, False)
    assert (second.value, second.first, second.last) == (1, False, True)
    assert first.heads[0].tied_on
    assert second.heads[0].tied_from


@pytest.mark.parametrize(
    ("metre", "notes", "rests"),
    [
        ((4, 4), [(0, 1)], ["(1)", "(2)"]),
        ((4, 4), [(0, F(1, 2))], ["(1/2)", "(1)", "(2)"]),
        ((4, 4), [(3, 1)], ["(2)", "(1)"]),
        ((4, 4), [(0, F(1, 4))], ["(1/4)", "(1/2)", "(1)", "(2)"]),
        ((3, 4), [(0, 1)], ["(1)", "(1)"]),
        ((6, 8), [(0, F(3, 2))], ["(3/2)"]),
        ((6, 8), [(0, F(1, 2))], ["(1/2)", "(1/2)", "(3/2)"]),
        ((9, 8), [(0, 1)], ["(1/2)", "(3/2)", "(3/2)"]),
        ((6, 8), [(F(5, 2), F(1, 2))], ["(3/2)", "(1)"]),
    ],
)
def test_rests_show_where_the_beats_lie(metre, notes, rests) -> None:
    row = row_of(jig_of(*notes, metre=metre, silence_beats=F(4)))
    assert [v for v in values(row) if v.startswith("(")] == rests


def test_a_bar_of_rest_is_one_rest_whatever_its_length() -> None:
    jig = jig_of((F(9, 2), 1), metre=(9, 8))
    assert values(row_of(jig)) == ["(9/2)"]
    cut = row_of(jig, cuts=[F(3)])
    assert next((w.start, w.end) for w in cut if w.start in (0, 3)) == (0, F(3, 2))
    assert F(3) in {w.start for w in cut}


@pytest.mark.parametrize(
    ("lengths", "ratio", "written"),
    [
        ([F(1, 3)] * 3, (3, 2), ["1/2"] * 3),
        ([F(2, 3)] * 3, (3, 2), ["1"] * 3),
        ([F(1, 5)] * 5, (5, 4), ["1/4"] * 5),
        ([F(2, 7)] * 7, (7, 4), ["1/2"] * 7),
        ([F(2, 3), F(1, 3)], (3, 2), ["1", "1/2"]),
        ([F(1, 6)] * 3 + [F(1, 2)], (3, 2), ["1/4"] * 3),
    ],
)
def test_tuplets_are_found_by_where_notes_lie(lengths, ratio, written) -> None:
    onsets = [sum(lengths[:i], F(0)) for i in range(len(lengths))]
    end = sum(lengths, F(0))
    row = row_of(jig_of(*zip(onsets, lengths, strict=True), (end, 4 - end)))
    inside = [w for w in row if w.tuplet]
    assert {w.tuplet for w in inside} == {ratio}
    assert [str(w.value) for w in inside] == written
    assert len({w.group for w in inside}) == 1
    assert row[-1].tuplet is None


def test_two_triplets_in_a_row_are_two_groups() -> None:
    thirds = [(F(k, 3), F(1, 3)) for k in range(6)]
    row = row_of(jig_of(*thirds))
    assert [w.group for w in row if w.tuplet] == [1, 1, 1, 2, 2, 2]


def test_a_note_tied_into_a_triplet_keeps_its_beat() -> None:
    row = row_of(jig_of((0, F(4, 3)), (F(4, 3), F(1, 3)), (F(5, 3), F(1, 3)), (2, 2)))
    assert values(row) == ["1+", "+1/2", "1/2", "1/2", "2"]
    assert [w.tuplet for w in row] == [None, (3, 2), (3, 2), (3, 2), None]
    ends = row_of(jig_of((0, F(1, 3)), (F(1, 3), F(1, 3)), (F(2, 3), F(4, 3)), (2, 2)))
    assert values(ends) == ["1/2", "1/2", "1/2+", "+1", "2"]
    both = row_of(jig_of((0, F(2, 3)), (F(2, 3), F(5, 3)), (F(7, 3), F(2, 3)), (3, 1)))
    assert values(both) == ["1", "1/2+", "+1+", "+1/2", "1", "1"]


def held_jig() -> Jig:
    """G3 under B4 and C5."""
    low = Notehead(id="g", pitch=Pitch("G", 0, 3), voice=2)
    one = Notehead(id="b", pitch=Pitch("B", 0, 4))
    two = Notehead(id="c", pitch=Pitch("C", 0, 5))
    jig = jig_of((0, 2), (2, 2))
    return replace(
        jig,
        events=(
            replace(jig.events[0], heads=(low, one)),
            replace(jig.events[1], heads=(replace(low, id="g2", held=True), two), bow=None),
        ),
    )


def test_a_held_note_is_one_long_note_in_its_own_voice() -> None:
    rows = dict(WrittenVoices(held_jig()).voices(held_jig().bars()[0]))
    assert values(rows[1]) == ["2", "2"]
    assert values(rows[2]) == ["4"]
    assert rows[2][0].heads[0].head.id == "g"
    assert rows[2][0].last


def test_in_the_same_voice_it_is_tied_from_chord_to_chord() -> None:
    jig = held_jig()
    events = tuple(
        replace(e, heads=tuple(replace(h, voice=1) for h in e.heads)) for e in jig.events
    )
    row = row_of(replace(jig, events=events))
    assert [[(h.head.id, h.tied_from, h.tied_on) for h in w.heads] for w in row] == [
        [("g", False, True), ("b", False, False)], [("g2", True, False), ("c", False, False)]
    ]  # fmt: skip


def test_a_note_of_a_chord_that_ends_early_leaves_the_other_tied() -> None:
    jig = jig_of((0, 4))
    short = Notehead(id="g", pitch=Pitch("G", 0, 3), length_beats=F(2))
    long = Notehead(id="b", pitch=Pitch("B", 0, 4))
    row = row_of(replace(jig, events=(replace(jig.events[0], heads=(short, long)),)))
    assert [[h.head.id for h in w.heads] for w in row] == [["g", "b"], ["b"]]
    assert [[h.tied_on for h in w.heads] for w in row] == [[False, True], [False]]
    assert [w.first for w in row] == [True, False]
    assert [w.last for w in row] == [False, True]


def test_values_and_their_sums() -> None:
    assert VALUES[0] == 4
    assert F(3, 16) not in VALUES
    assert split_length(F(7)) == (4, 3)
    assert split_length(F(7, 16)) == (F(3, 8), F(1, 16))


LENGTHS = st.sampled_from(
    [F(1, 4), F(1, 2), F(1), F(3, 2), F(1, 3), F(2, 3), F(5, 4), F(1, 5), F(3)]
)


@given(
    st.lists(LENGTHS, min_size=1, max_size=12), st.sampled_from([(4, 4), (3, 4), (6, 8), (2, 2)])
)
def test_every_row_fills_its_bar_and_every_note_sounds_as_long_as_it_should(lengths, metre) -> None:
    onsets = [sum(lengths[:i], F(0)) for i in range(len(lengths))]
    jig = jig_of(*zip(onsets, lengths, strict=True), metre=metre)
    voices = WrittenVoices(jig)
    sounded = dict.fromkeys((e.id for e in jig.events), F(0))
    for bar in jig.bars():
        row = voices.voices(bar)[0][1]
        at = bar.start_beats
        for w in row:
            assert w.start == at
            at = w.end
            if w.event is not None:
                sounded[w.event.id] += w.end - w.start
        assert at == bar.start_beats + bar.length_beats
    assert sounded == {e.id: e.length_beats for e in jig.events}


def test_a_note_held_on_under_a_new_one_of_its_voice_ends_its_own_event_all_the_same() -> None:
    jig = held_jig()
    events = tuple(
        replace(e, heads=tuple(replace(h, voice=1) for h in e.heads)) for e in jig.events
    )
    row = row_of(replace(jig, events=events))
    assert [(w.first, w.last) for w in row] == [(True, True), (True, True)]
