"""Patterns of a jig that ask for something: the same words twice, dotted pairs."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from aim_builders import jig_of
from jigwright.core.jig.aims import Aim, aims_of, implied_aims
from jigwright.core.jig.derive import spot, with_fitting_aims
from jigwright.core.jig.model import Jig
from jigwright.core.jig.phrases import (
    crossing_runs,
    dotted_pairs,
    echoes,
    entries_of,
    marked_loudness,
    slurs_of_two,
    statements,
    under_hairpins,
    written_shapes,
)
from jigwright.core.jig.signs import Sign

WORDS = "D4 E4 F#4"


def marked(line: str, **dynamics: str):
    """A jig with marks of loudness at events: ``e3="p"``."""
    jig = jig_of(line)
    events = list(jig.events)
    for where, mark in dynamics.items():
        i = int(where[1:])
        events[i] = replace(events[i], dynamic=mark)
    return replace(jig, events=tuple(events))


def test_an_echo_is_the_longest_run_that_comes_again_at_the_mark() -> None:
    jig = marked(f"B4 A4 {WORDS} {WORDS} G4 G4", e0="f", e5="p")
    assert echoes(jig) == (((2, 3, 4), (5, 6, 7)),)
    longer = marked(f"B4 G4 {WORDS} G4 {WORDS} D5", e0="f", e5="p")
    assert echoes(longer) == (((1, 2, 3, 4), (5, 6, 7, 8)),)


@pytest.mark.parametrize(
    ("line", "marks"),
    [
        ("A4 D4 E4 D4 E4 B4 C5", {"e0": "f", "e3": "p"}),  # two notes are no words
        (f"{WORDS} D4 E4 G4 A4", {"e0": "f", "e3": "p"}),  # other notes
        (f"{WORDS} D4 E4:2 F#4 A4", {"e0": "f", "e3": "p"}),  # other lengths
        (f"B4 {WORDS} {WORDS}", {"e0": "f", "e4": "f"}),  # no other loudness
        (f"B4 {WORDS} {WORDS}", {"e4": "p"}),  # nothing to differ from
    ],
)
def test_what_is_no_echo(line: str, marks: dict[str, str]) -> None:
    assert echoes(marked(line, **marks)) == ()


def test_an_echo_ends_with_the_reach_of_both_marks() -> None:
    jig = marked(f"D4 {WORDS} {WORDS} A4", e0="f", e1="mf", e4="p", e6="f")
    assert echoes(jig) == (), "the answer is over after two notes"
    late = marked(f"{WORDS} {WORDS} A4", e1="f", e3="p")
    assert echoes(late) == (), "the statement had begun before its mark"
    two = marked(f"{WORDS} {WORDS} {WORDS} A4", e0="f", e3="p", e6="f")
    assert echoes(two) == (((0, 1, 2), (3, 4, 5)), ((3, 4, 5), (6, 7, 8)))


def test_without_marks_the_second_half_may_answer_the_first() -> None:
    jig = jig_of(f"{WORDS} {WORDS}")
    assert echoes(jig) == (statements(jig),) == (((0, 1, 2), (3, 4, 5)),)
    assert statements(jig_of(f"{WORDS} {WORDS} A4")) is None
    assert statements(jig_of("D4 E4 D4 E4")) is None
    assert "contrast" not in [a.kind for a in aims_of(jig)], "nobody marked it"


def test_the_mark_that_holds() -> None:
    jig = marked("D4 E4 F#4 G4", e1="f", e3="p")
    assert [marked_loudness(jig, i) for i in range(4)] == [None, "f", "f", "p"]


def test_marks_in_a_piece_ask_for_contrast_in_their_place() -> None:
    jig = marked(f"B4 {WORDS} {WORDS} A4", e0="f", e4="p")
    aim = next(a for a in aims_of(jig) if a.kind == "contrast")
    assert aim.places == tuple(e.id for e in jig.events[1:7])


def test_dotted_pairs_lead_on() -> None:
    assert dotted_pairs(jig_of("D4:3/2 E4:1/2 F#4")) == (0,)
    assert dotted_pairs(jig_of("D4:3/2 E4:1/2")) == (), "the last one leads nowhere"
    assert dotted_pairs(jig_of("D4:3/2 r:1 E4:1/2 F#4")) == (), "a rest parts them"
    assert dotted_pairs(jig_of("D4:3/2 E4:1/2 r:1 F#4")) == ()
    assert dotted_pairs(jig_of("D4:2 E4:1/2 F#4")) == ()


def test_three_dotted_pairs_ask_for_dotted_as_written() -> None:
    pair = "D4:3/2 E4:1/2 "
    assert "dotted" not in [a.kind for a in aims_of(jig_of(pair * 2 + "F#4"))]
    jig = jig_of(pair * 3 + "F#4")
    aim = next(a for a in aims_of(jig) if a.kind == "dotted")
    assert (aim.way, aim.places) == ("singing", tuple(jig.events[i].id for i in (0, 2, 4)))


def test_a_spot_keeps_the_contrast_it_still_holds() -> None:
    jig = replace(
        marked(f"B4 {WORDS} {WORDS} A4", e0="f", e4="p"),
        aims=(Aim(kind="contrast"), Aim(kind="pitch")),
    )
    assert [a.kind for a in spot(jig, 0, 6, jig_id="s", title="s").aims] == ["contrast", "pitch"]
    assert [a.kind for a in with_fitting_aims(replace(jig, events=jig.events[:4])).aims] == [
        "pitch"
    ]


# hairpins, pairs, entries -----------------------------------------------------------------------


def pinned(line: str, *pins: tuple[str, str, str]):
    """A jig with hairpins from a beat to a beat."""
    signs = tuple(
        Sign(kind="hairpin", at_beats=Fraction(a), end_beats=Fraction(b), text=way)
        for way, a, b in pins
    )
    return replace(jig_of(line), signs=signs)


UP, OFF = "crescendo", "diminuendo"


@pytest.mark.parametrize(
    ("pins", "shape"),
    [
        ([(UP, "1", "5")], "grow"),
        ([(OFF, "1", "5")], "fade"),
        ([(UP, "1", "3"), (OFF, "3", "5")], "swell"),
        ([(OFF, "1", "3"), (UP, "3", "5")], "dip"),
        ([(UP, "2", "4")], "grow"),  # half of the note
        ([(UP, "2", "15/4")], None),  # less
        ([(UP, "1", "6")], None),  # over the next note too
        ([(UP, "1", "2"), (UP, "2", "3")], None),  # nobody means that
    ],
)
def test_hairpins_over_one_note_say_how_it_moves(pins, shape) -> None:
    jig = pinned("D4 E4:4 F#4", *pins)
    assert written_shapes(jig) == (None, shape, None)
    kinds = {a.kind: a.places for a in aims_of(jig)}
    assert kinds.get("direction") == ((jig.events[1].id,) if shape else None)


def test_a_shape_of_its_own_is_not_overruled() -> None:
    jig = pinned("D4 E4:4 F#4", (UP, "1", "5"))
    events = (jig.events[0], replace(jig.events[1], shape="fade"), jig.events[2])
    assert written_shapes(replace(jig, events=events))[1] == "fade"


@pytest.mark.parametrize(("beats", "asked"), [("3", True), ("23/8", False)])
def test_a_note_too_short_to_be_heard_moving_is_not_asked_for_it(beats: str, asked: bool) -> None:
    end = str(1 + Fraction(beats))  # at 120 a minute three beats are 1.5 s
    jig = pinned(f"D4 E4:{beats} F#4", (UP, "1", end))
    assert ("direction" in {a.kind for a in aims_of(jig)}) is asked


def test_notes_under_a_hairpin_have_no_loudness_of_their_own() -> None:
    jig = pinned("D4 E4 F#4 G4 A4", (UP, "1", "3"))
    assert under_hairpins(jig) == {1, 2}  # where it ends is where it was going
    assert under_hairpins(pinned("D4 E4:4 F#4", (UP, "1", "5"))) == {1}
    assert under_hairpins(jig_of("D4 E4")) == frozenset()


def test_slurs_of_two_are_strokes_of_exactly_two_notes() -> None:
    assert slurs_of_two(jig_of("(D4 E4) F#4 (G4 A4 B4) (A4 G4)")) == (0, 6)
    assert slurs_of_two(jig_of("(D4 E4) (F#4+A4 G4)")) == (0,)
    assert slurs_of_two(jig_of("D4 E4")) == ()


@pytest.mark.parametrize(
    ("line", "asked"),
    [
        ("(D4 E4) " * 4, True), ("(D4 E4) " * 3, False),
        ("(D4 E4) " * 4 + "G4 " * 12, True), ("(D4 E4) " * 4 + "G4 " * 13, False),
    ],
)  # fmt: skip
def test_a_study_of_slurs_in_twos_asks_for_pairs(line: str, asked: bool) -> None:
    assert ("pairs" in {a.kind for a in aims_of(jig_of(line))}) is asked


def test_a_second_note_that_a_mark_asks_to_stand_out_is_no_pair() -> None:
    jig = jig_of("(D4 E4) " * 5)
    ids = [jig.events[i].id for i in (0, 2, 4, 6, 8)]
    louder = [replace(e, dynamic="f") if i == 1 else e for i, e in enumerate(jig.events)]
    assert {a.kind: a.places for a in aims_of(jig)}["pairs"] == tuple(ids)
    marked = replace(jig, events=tuple(louder))
    assert {a.kind: a.places for a in aims_of(marked)}["pairs"] == tuple(ids[1:])
    growing = pinned("(D4 E4) " * 5, (UP, "2", "4"))
    assert {a.kind: a.places for a in aims_of(growing)}["pairs"] == (ids[0], *ids[2:])


def test_three_notes_marked_to_be_held_ask_for_it() -> None:
    jig = jig_of("D4 E4 F#4 G4")
    held = [replace(e, marks=("tenuto",)) for e in jig.events]
    three = replace(jig, events=(*held[:3], jig.events[3]))
    assert {a.kind: a.places for a in aims_of(three)}["held"] == tuple(e.id for e in held[:3])
    two = replace(jig, events=(*held[:2], *jig.events[2:]))
    lifted = replace(jig, events=(*held[:2], replace(held[2], lifted=True), jig.events[3]))
    for less in (two, lifted):
        assert "held" not in {a.kind for a in aims_of(less)}


def test_entries_come_after_a_beat_of_rest() -> None:
    jig = jig_of("D4:1 r:1/2 E4:1 r:1 F#4 r:2 G4 A4")
    assert entries_of(jig) == tuple(jig.events[i].id for i in (2, 3))
    assert entries_of(jig_of("D4 E4")) == ()


def on_strings(*strings: int | None, **more: dict[int, dict[str, object]]) -> Jig:
    """Quarters on strings that are told; ``changed``: by index, what else is true of a note."""
    jig = jig_of(" ".join(["D4"] * len(strings)))
    changed = more.get("changed", {})
    events = tuple(
        replace(e, heads=(replace(e.heads[0], string=s),), **changed.get(i, {}))
        for i, (e, s) in enumerate(zip(jig.events, strings, strict=True))
    )
    return replace(jig, events=events)


THERE_AND_BACK = (1, 2) * 4 + (1,)


def test_eight_crossings_in_a_row_are_a_passage_about_them() -> None:
    assert crossing_runs(on_strings(*THERE_AND_BACK)) == tuple(range(9))
    assert crossing_runs(on_strings(*THERE_AND_BACK[:-1])) == ()
    assert crossing_runs(on_strings(1, 1, *THERE_AND_BACK[1:], 2, 2)) == tuple(range(1, 11))
    assert crossing_runs(on_strings(0, 0, *THERE_AND_BACK, 0)) == tuple(range(1, 12))


def test_what_breaks_a_passage_of_crossings() -> None:
    whole = (*THERE_AND_BACK, 2, 1)
    assert len(crossing_runs(on_strings(*whole))) == 11
    for i, broken in ((5, None), (5, 3), (5, 1)):
        assert crossing_runs(on_strings(*whole[:i], broken, *whole[i + 1 :])) == ()
    assert crossing_runs(on_strings(*whole, changed={5: {"pluck": "plain"}})) == ()
    shorter = {5: {"length_beats": Fraction(1, 2)}}
    assert crossing_runs(on_strings(*whole, changed=shorter)) == (), "a rest between"
    pin = Sign(kind="hairpin", at_beats=Fraction(5), end_beats=Fraction(6), text="crescendo")
    assert crossing_runs(replace(on_strings(*whole), signs=(pin,))) == ()


def test_without_a_usual_step_there_is_nothing_to_compare() -> None:
    wandering = (0, 1, 2, 3, 2, 1, 0, 1, 2, 3)  # each way twice, one of them
    assert crossing_runs(on_strings(*wandering)) == ()
    assert len(crossing_runs(on_strings(*wandering, 2, 1, 0, 1))) == 14


def test_a_passage_of_crossings_is_for_them() -> None:
    jig = on_strings(3, 3, *THERE_AND_BACK)
    aim = implied_aims(jig)[-1]
    assert aim == Aim(kind="crossing", places=tuple(e.id for e in jig.events[2:]))
    assert "crossing" not in {a.kind for a in implied_aims(on_strings(*THERE_AND_BACK[1:]))}
