"""Signs beside the notes: through edits, in spots, in files."""

from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction

import pytest

from jigwright.core.errors import JigError
from jigwright.core.jig import edit
from jigwright.core.jig.derive import as_double_stops, displaced, spot
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Change, Jig, Notehead
from jigwright.core.jig.phrases import echoes, marked_loudness, written_loudness
from jigwright.core.jig.signs import SIGN_KINDS, Sign, cut_to, in_order, shifted, tempo_at
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

F = Fraction


def sign(kind: str, at: float, end: float | None = None, text: str = "", **more: object) -> Sign:
    return Sign(
        kind=kind, at_beats=F(at), end_beats=None if end is None else F(end), text=text, **more  # type: ignore[arg-type]
    )  # fmt: skip


def eight(*signs: Sign, **more: object) -> Jig:
    """Eight quarter notes in two bars."""
    jig = jig_from_line("D4 E4 F#4 G4 A4 B4 C#5 D5", jig_id="j", instrument_id="violin", title="t")
    return replace(jig, signs=signs, **more)  # type: ignore[arg-type]


def places(jig: Jig) -> list[tuple[float, float | None]]:
    return [
        (float(s.at_beats), None if s.end_beats is None else float(s.end_beats)) for s in jig.signs
    ]


HAIRPIN, WORD = sign("hairpin", 1, 3, "crescendo"), sign("words", 4, text="dolce")


def test_time_put_in_moves_what_follows_and_opens_what_lies_across() -> None:
    moved = shifted((HAIRPIN, WORD), F(2), F(1))
    assert [(s.at_beats, s.end_beats) for s in moved] == [(1, 4), (5, None)]
    assert [s.at_beats for s in shifted((WORD,), F(4), F(1))] == [5]
    assert [s.at_beats for s in shifted((WORD,), F(5), F(1))] == [4]


def test_time_taken_out_gathers_what_stood_in_it() -> None:
    moved = shifted((HAIRPIN, WORD), F(2), F(-3))
    assert [(s.at_beats, s.end_beats) for s in moved] == [(1, 2), (2, None)]


def test_a_stretch_takes_along_what_reaches_into_it() -> None:
    rows = cut_to((HAIRPIN, WORD, sign("repeat", 2, text="forward"), sign("jump", 2, text="coda"),
                   sign("ending", 2, 4, "1")), F(2), F(4))  # fmt: skip
    assert [(s.kind, s.at_beats, s.end_beats) for s in rows] == [("hairpin", 0, 1)]
    assert [s.at_beats for s in cut_to((WORD,), F(4), F(8))] == [0]
    assert cut_to((HAIRPIN,), F(3), F(8)) == ()


def test_signs_of_one_moment_stand_by_kind_and_words_keep_their_order() -> None:
    rows = in_order([sign("words", 1, text="b"), sign("dynamic", 1, text="sf"),
                     sign("words", 1, text="a"), sign("words", 0, text="c")])  # fmt: skip
    assert [s.text for s in rows] == ["c", "sf", "b", "a"]


@pytest.mark.parametrize(
    ("change", "expected"),
    [
        (lambda j: edit.insert_note(j, 1, Pitch("A", 0, 4)), [(1, 4), (5, None)]),
        (lambda j: edit.remove(j, 2, 2), [(1, 2), (3, None)]),
        (lambda j: edit.rest_after(j, 3, F(2)), [(1, 3), (6, None)]),
        (lambda j: edit.lengthen(j, 1, 1, F(2)), [(1, 4), (5, None)]),
        (lambda j: edit.lengthen(j, 0, 1, F(1, 2)), [(0.5, 2), (3, None)]),
        (lambda j: edit.move_pitch(j, 0, 7, semitones=1), [(1, 3), (4, None)]),
    ],
)
def test_signs_go_along_with_their_notes(change, expected) -> None:
    assert places(change(eight(HAIRPIN, WORD))) == expected


def test_a_rest_taken_away_pulls_signs_back() -> None:
    jig = edit.rest_after(eight(HAIRPIN, WORD), 3, F(2))
    assert places(edit.rest_after(jig, 3, F(-2))) == [(1, 3), (4, None)]


@pytest.mark.parametrize(
    ("change", "beside_stays"),
    [
        (lambda j: edit.one_bow(j, 2, 4), True), (lambda j: edit.apart(j, 2, 4), True),
        (lambda j: edit.grouped(j, 2, title="x"), False),
    ],
)  # fmt: skip
def test_new_bows_take_the_place_of_written_slurs_over_them(change, beside_stays) -> None:
    across, beside = sign("slur", 1, 3), sign("slur", 0, 1)
    graces = sign("slur", 3, 3, "graces")
    left = change(eight(across, beside, graces)).signs
    assert across not in left
    assert graces in left
    assert (beside in left) is beside_stays


def test_a_turned_bow_is_written_and_the_others_stay_proposals() -> None:
    jig = eight()
    jig = replace(jig, events=tuple(replace(e, proposed_bow=True) for e in jig.events))
    turned = edit.turn_bow(jig, 3)
    assert [e.proposed_bow for e in turned.events] == [True] * 3 + [False] + [True] * 4
    assert [e.bow for e in turned.events[2:5]] == ["down", "down", "up"]
    joined = edit.one_bow(turned, 5, 6)
    assert joined.events[6].bow is None
    assert not joined.events[6].proposed_bow
    again = edit.apart(joined, 5, 6)
    assert again.events[6].proposed_bow
    assert not any(e.proposed_bow for e in edit.apart(edit.one_bow(eight(), 1, 2), 1, 2).events)


def test_a_spot_keeps_its_signs_key_metre_tempo_loudness_and_bar_numbers() -> None:
    jig = eight(
        HAIRPIN, WORD, sign("tempo", 4, text="1", value=90.0),
        changes=(Change(at_beats=F(4), key=Key(PitchClass("G")), metre=(2, 4)),),
    )  # fmt: skip
    jig = replace(jig, events=(replace(jig.events[0], dynamic="p"), *jig.events[1:]))
    got = spot(jig, 5, 6, jig_id="s", title="spot")
    assert [e.onset_beats for e in got.events] == [1, 2]
    assert (got.key, got.beats_per_bar, got.tempo_bpm) == (Key(PitchClass("G")), 2, 90.0)
    assert [(s.kind, s.at_beats) for s in got.signs] == [("words", 0), ("tempo", 0)]
    assert [b.number for b in got.bars()] == [2, 3]
    assert got.events[0].dynamic == "p"
    first = spot(jig, 0, 3, jig_id="s", title="spot")
    assert first.tempo_bpm == jig.tempo_bpm
    assert places(first) == [(1, 3)]
    assert first.changes == ()


def test_a_spot_begins_with_notes_that_are_struck_and_keeps_later_changes() -> None:
    jig = eight(changes=(Change(at_beats=F(4), metre=(3, 4)),))
    held = replace(jig.events[1], heads=(replace(jig.events[1].heads[0], held=True),))
    jig = replace(jig, events=(jig.events[0], held, *jig.events[2:]))
    got = spot(jig, 1, 6, jig_id="s", title="spot")
    assert not got.events[0].heads[0].held
    assert got.changes == (Change(at_beats=F(4), metre=(3, 4)),)


def test_displaced_and_double_stops_leave_no_sign_at_a_wrong_place() -> None:
    jig = eight(HAIRPIN, pickup_beats=F(0))
    assert places(displaced(jig, 2, jig_id="d", title="d")) == [(3, 5)]
    assert as_double_stops(eight(WORD), jig_id="d", title="d").signs == ()


def test_the_tempo_at_a_moment_is_the_last_one_before_it() -> None:
    jig = eight(sign("tempo", 0, value=50.0), sign("tempo", 4, value=120.0),
                sign("tempo", 6, value=9999.0))  # fmt: skip
    assert [tempo_at(jig, F(b)) for b in (0, 3, 4, 5, 7)] == [60.0, 60.0, 120.0, 120.0, 400.0]


def test_loudness_written_in_a_rest_holds_from_the_next_note_and_accents_do_not() -> None:
    jig = eight(sign("dynamic", 1.5, text="p"), sign("dynamic", 3, text="sf"),
                sign("dynamic", 5.5, text="f"))  # fmt: skip
    jig = replace(jig, events=(replace(jig.events[0], dynamic="mf"), *jig.events[1:]))
    assert written_loudness(jig) == ("mf", None, "p", None, None, None, "f", None)
    assert [marked_loudness(jig, i) for i in (0, 1, 2, 5, 7)] == ["mf", "mf", "p", "p", "f"]
    own = replace(jig, events=tuple(replace(e, dynamic="ff") if i == 2 else e
                                    for i, e in enumerate(jig.events)))  # fmt: skip
    assert written_loudness(own)[2] == "ff"


def test_an_echo_is_heard_by_signs_too() -> None:
    jig = jig_from_line("D4 E4 F#4 D4 E4 F#4", jig_id="j", instrument_id="violin", title="t")
    loud = replace(jig, events=(replace(jig.events[0], dynamic="f"), *jig.events[1:]),
                   signs=(sign("dynamic", 2.5, text="p"),))  # fmt: skip
    assert echoes(loud) == (((0, 1, 2), (3, 4, 5)),)


# files ---------------------------------------------------------------------------------------


def full_jig() -> Jig:
    jig = eight(
        HAIRPIN, sign("words", 4, text="dolce", above=False),
        sign("tempo", 4, text="3/2", value=90.0),
        changes=(Change(at_beats=F(4), bar_beats=F(3), number=9),), silence_beats=F(4),
    )  # fmt: skip
    head = Notehead(id="j.h", pitch=Pitch("A", 0, 4), held=True, length_beats=F(1, 2), voice=2)
    event = replace(
        jig.events[1], heads=(jig.events[1].heads[0], head), marks=("accent", "fermata"),
        proposed_bow=True,
    )  # fmt: skip
    return replace(jig, events=(jig.events[0], event, *jig.events[2:]))


def test_a_jig_file_keeps_all_of_it() -> None:
    assert jig_from_json(jig_to_json(full_jig())) == full_jig()


def test_what_is_not_there_takes_no_room() -> None:
    body = json.loads(jig_to_json(eight()))
    assert {"signs", "silence_beats", "changes"} & set(body) == set()
    assert {"marks", "proposed_bow"} & set(body["events"][0]) == set()
    assert {"held", "length_beats", "voice"} & set(body["events"][0]["notes"][0]) == set()


@pytest.mark.parametrize(
    ("path", "value"),
    [
        (("signs", 0, "kind"), "scribble"),
        (("signs", 0, "at_beats"), "-1"),
        (("signs", 0, "text"), "louder"),
        (("signs", 2, "text"), "x/y"),
        (("signs", 0, "above"), "yes"),
        (("signs", 2, "value"), -3),
        (("signs", 0, "text"), 7),
        (("events", 1, "marks"), ["loud"]),
        (("events", 1, "notes", 1, "voice"), 5),
        (("events", 1, "notes", 1, "voice"), 0),
        (("events", 1, "notes", 1, "length_beats"), "0"),
        (("events", 1, "notes", 1, "held"), 1),
        (("changes", 0, "number"), -1),
        (("silence_beats",), "-2"),
        (("events", 1, "proposed_bow"), "no"),
    ],
)
def test_every_field_is_checked(path, value) -> None:
    body = json.loads(jig_to_json(full_jig()))
    inner = body
    for step in path[:-1]:
        inner = inner[step]
    inner[path[-1]] = value
    with pytest.raises(JigError):
        jig_from_json(json.dumps(body))


def test_a_sign_that_ends_before_it_begins_ends_where_it_begins() -> None:
    body = json.loads(jig_to_json(full_jig()))
    body["signs"][0]["end_beats"] = "0"
    assert jig_from_json(json.dumps(body)).signs[0].end_beats == 1


def test_too_many_signs_are_refused() -> None:
    with pytest.raises(JigError, match="too many signs"):
        eight(*[WORD] * 40_001)


def test_every_kind_of_sign_stands_once() -> None:
    assert len(set(SIGN_KINDS)) == len(SIGN_KINDS)


def test_bars_of_their_own_length_and_number() -> None:
    bars = full_jig().bars()
    assert [(b.number, b.length_beats) for b in bars] == [(1, 4), (9, 3), (10, 4), (11, 4)]


def test_it_is_said_whose_bows_everything_goes_by() -> None:
    from jigwright.wording.bow_plan import bowing_sentence

    jig = eight()
    assert bowing_sentence(jig) == ""
    all_proposed = replace(jig, events=tuple(replace(e, proposed_bow=True) for e in jig.events))
    assert bowing_sentence(all_proposed) == "The bows are a proposal; nobody wrote them."
    one = replace(all_proposed, events=(jig.events[0], *all_proposed.events[1:]))
    assert bowing_sentence(one) == "Where no bow is written, one is proposed."
    slurred = edit.one_bow(jig, 0, 7)
    assert bowing_sentence(slurred) == ""


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("D4 E4 F#4 G4 A4 B4 C#5 D5", [(1, 3), (4, None)]),
        ("C4 D4 E4 F#4 G4 A4 B4 C#5 D5", [(2, 4), (5, None)]),  # one more before
        ("D4 F#4 G4 A4 B4 C#5 D5", [(1, 2), (3, None)]),  # without the one it began at
        ("D4:2 E4:1 F#4 G4 A4", [(2, 4), (5, None)]),  # the first one longer
        ("D4", [(1, 1), (1, None)]),
    ],
)
def test_a_line_written_anew_leaves_signs_at_the_notes_that_stayed(text, expected) -> None:
    new = jig_from_line(text, jig_id="n", instrument_id="violin", title="t")
    assert places(edit.rewritten(eight(HAIRPIN, WORD), new)) == expected
