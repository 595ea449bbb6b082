"""What a hand can hold at once, on this string length, and what no exercise may ask of it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jigwright.core.errors import JigError
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.hand_check import can_touch, hand_troubles
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import MAKERS, Setting, maker
from jigwright.core.jig.makers.spec import SettingChoice
from jigwright.core.jig.model import Jig, Notehead
from jigwright.core.music.hands import BASS_HAND, CELLO_HAND, THUMB, UPPER_HAND
from jigwright.core.music.instruments import INSTRUMENTS, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.spans import Finger, place_mm, strain
from jigwright.wording.hands import trouble_line

KINDS = tuple(INSTRUMENTS)
HANDS = {"violin": UPPER_HAND, "viola": UPPER_HAND, "cello": CELLO_HAND, "bass": BASS_HAND}


def hold(kind: str, *fingers: tuple[str, int, int], length_mm: float | None = None) -> float | None:
    """Strain of notes, each with its string and finger."""
    inst = instrument(kind)
    held = []
    for name, string, finger in fingers:
        held.append(
            Finger.on(inst.strings[string], Pitch.parse(name), string=string, finger=finger)
        )
    return strain(held, inst.hand, string_length_mm=length_mm or inst.string_length_mm)


# the string and the hand ----------------------------------------------------------------------


def test_places_are_those_of_an_ideal_string() -> None:
    assert place_mm(0, 328.0) == 0.0
    assert place_mm(12, 328.0) == pytest.approx(164.0)
    assert place_mm(7, 690.0) == pytest.approx(690.0 * (1 - 2 ** (-7 / 12)))


@pytest.mark.parametrize(("length_mm", "most_mm"), [(328.0, 112.0), (164.0, 56.0), (420.0, 112.0)])
def test_a_small_instrument_is_for_a_small_hand_and_a_large_one_makes_none_larger(
    length_mm: float, most_mm: float
) -> None:
    reach = UPPER_HAND.reach(1, 4, string_length_mm=length_mm)
    assert reach is not None
    assert reach.most_mm == pytest.approx(most_mm)


@pytest.mark.parametrize("hand", [UPPER_HAND, CELLO_HAND, BASS_HAND])
def test_reaches_are_in_order_and_grow_with_the_fingers(hand) -> None:  # type: ignore[no-untyped-def]
    for pair, reach in hand.reaches.items():
        assert 0 <= reach.least_mm < reach.usual_mm < reach.most_mm, pair
    assert hand.reach(4, 1, string_length_mm=300.0) is None
    outer = hand.reaches[1, 4]
    assert all(outer.most_mm >= r.most_mm for p, r in hand.reaches.items() if THUMB not in p)


# two at once ----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("kind", "notes", "can"),
    [
        ("violin", (("A3", 0, 1), ("A4", 1, 4)), True),  # an octave with the outer fingers
        ("violin", (("A3", 0, 4), ("A4", 1, 1)), False),
        ("violin", (("A3", 0, 1), ("E4", 1, 1)), True),  # one finger across
        ("violin", (("A3", 0, 1), ("F4", 1, 1)), False),
        ("violin", (("A3", 0, 1), ("A4", 2, 0)), False),  # a string lies between
        ("violin", (("A3", 0, 1), ("C5", 1, 4)), True),  # a tenth: the whole hand opens
        ("violin", (("A3", 0, 1), ("C#5", 1, 4)), False),
        ("violin", (("A3", 0, 1), ("C5", 1, 3)), False),
        ("cello", (("D2", 0, 1), ("D3", 1, 4)), False),  # a fourth apart: out of reach below
        ("cello", (("G2", 0, THUMB), ("G3", 1, 3)), True),
        ("cello", (("D2", 0, THUMB), ("D3", 1, 3)), False),  # the thumb is not up there yet
        ("cello", (("F2", 0, 4), ("A2", 1, 1)), True),  # a major third: three semitones
        ("cello", (("F#2", 0, 4), ("A2", 1, 1)), True),  # a minor third: extended
        ("cello", (("G2", 0, 4), ("A2", 1, 1)), False),
        ("bass", (("F#1", 0, 1), ("C#2", 1, 4)), True),  # a fifth: a whole step
        ("bass", (("F#1", 0, 1), ("D2", 1, 4)), False),
        ("bass", (("G1", 0, 1), ("G2", 1, 4)), False),
    ],
)
def test_what_lies_in_a_hand(kind: str, notes: tuple[tuple[str, int, int], ...], can: bool) -> None:
    assert (hold(kind, *notes) is not None) is can


def test_an_open_string_strains_nothing() -> None:
    assert hold("violin", ("G3", 0, 0), ("A4", 1, 4)) == 0.0
    assert hold("violin", ("G3", 0, 0), ("D4", 1, 0)) == 0.0


def test_a_wide_hand_is_strained_more() -> None:
    octave, tenth = (
        hold("violin", ("A3", 0, 1), ("A4", 1, 4)),
        hold("violin", ("A3", 0, 1), ("C5", 1, 4)),
    )
    assert octave is not None
    assert tenth is not None
    assert octave < 0.1 < 1.0 < tenth
    out_of_frame = hold("violin", ("A3", 0, 1), ("A4", 1, 3))
    assert out_of_frame is not None
    assert out_of_frame > octave + 1.0


def test_the_same_notes_may_be_out_of_reach_on_a_longer_string() -> None:
    tenth = (("A3", 0, 1), ("C5", 1, 4))
    assert hold("violin", *tenth, length_mm=328.0) is not None
    assert hold("violin", *tenth, length_mm=360.0) is None
    assert hold("violin", *tenth, length_mm=250.0) is not None  # hand and string are both small


def test_three_notes_need_every_pair() -> None:
    assert hold("violin", ("A3", 0, 1), ("E4", 1, 1), ("C#5", 2, 2)) is not None
    assert hold("violin", ("A3", 0, 1), ("F4", 1, 2), ("C#5", 2, 2)) is None


# proposing ------------------------------------------------------------------------------------


def fingers(kind: str, words: str, **more: object) -> list[str]:
    jig = jig_from_line(words, jig_id="j", instrument_id=kind, title="t")
    made = propose_fingering(jig, **more)  # type: ignore[arg-type]
    return ["".join("-" if h.finger is None else str(h.finger) for h in e.heads)
            for e in made.events]  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "words", "expected"),
    [
        ("violin", "A3+A4 B3+B4 C4+C5 B3+B4 A3+A4", ["14"] * 5),
        ("violin", "G3+G4 A3+A4", ["03", "14"]),
        ("violin", "A3+E4 B3+F#4", ["11", "22"]),
        ("violin", "A3+C5", ["14"]),
        ("cello", "G2+G3 A2+A3 B2+B3", ["04", "53", "53"]),
        ("cello", "E2+G2 F2+A2", ["30", "41"]),
        ("bass", "F#1+C#2 G1+D2", ["14", "14"]),
        ("bass", "E4+E5", ["--"]),
    ],
)
def test_double_stops_are_fingered_as_a_hand_holds_them(
    kind: str, words: str, expected: list[str]
) -> None:
    assert fingers(kind, words) == expected


def test_a_unison_has_two_fingers() -> None:
    jig = jig_from_line("D4+E4", jig_id="j", instrument_id="violin", title="t")
    low, high = jig.events[0].heads
    unison = replace(jig.events[0], heads=(replace(low, pitch=Pitch.parse("E4")), high))
    made = propose_fingering(replace(jig, events=(unison,))).events[0].heads
    assert [(h.string, h.finger) for h in made] == [(0, 4), (1, 1)]


def test_a_longer_string_changes_what_is_proposed() -> None:
    assert fingers("violin", "A3+C5") == ["14"]
    assert fingers("violin", "A3+C5", string_length_mm=390.0) == ["--"]


def test_vibrato_is_given_a_finger() -> None:
    jig = jig_from_line("D4 A4", jig_id="j", instrument_id="violin", title="t")
    assert [e.heads[0].finger for e in propose_fingering(jig).events] == [0, 0]
    with_vibrato = replace(jig, events=tuple(replace(e, vibrato=True) for e in jig.events))
    assert [e.heads[0].finger for e in propose_fingering(with_vibrato).events] == [4, 4]


def test_a_cello_takes_no_step_with_first_and_fourth() -> None:
    for tonic in ("C", "D", "Eb", "F#", "A", "Bb"):
        jig = maker("scale").make(Setting(
            instrument_id="cello", key=Key(PitchClass.parse(tonic)), values={"octaves": 2},
        ))  # fmt: skip
        assert not [t for t in hand_troubles(jig) if t.kind == "first_to_fourth"]


# checking -------------------------------------------------------------------------------------


def one(kind: str, *heads: Notehead, vibrato: bool | None = None) -> Jig:
    jig = jig_from_line("D4", jig_id="j", instrument_id=kind, title="t")
    return replace(jig, events=(replace(jig.events[0], heads=heads, vibrato=vibrato),))


def head(name: str, string: int | None, finger: int | None, **more: object) -> Notehead:
    return Notehead(id=f"h{name}{string}", pitch=Pitch.parse(name), string=string, finger=finger,
                    **more)  # type: ignore[arg-type]  # fmt: skip


@pytest.mark.parametrize(
    ("jig", "kinds"),
    [
        (one("violin", head("A4", 2, 0)), []),
        (one("violin", head("A4", None, None)), ["no_finger"]),
        (one("violin", head("A4", 2, 1)), ["not_there"]),
        (one("violin", head("B4", 2, 0)), ["not_there"]),
        (one("violin", head("C4", 1, 1)), ["not_there"]),
        (one("violin", head("C8", 3, 4)), ["out_of_reach"]),
        (one("violin", head("A4", 2, 0), vibrato=True), ["vibrato_on_open"]),
        (one("violin", head("A4", 2, 0), vibrato=False), []),
        (one("violin", head("G3", 0, 0), head("A4", 2, 0)), ["not_neighbours"]),
        (one("violin", head("A3", 0, 4), head("A4", 1, 1)), ["too_wide"]),
        (one("violin", head("A3", 0, 1), head("A4", 1, None)), ["no_finger"]),
        (one("cello", head("A4", 3, 4)), []),
        (one("cello", head("Bb4", 3, 4)), ["fourth_too_high"]),
        (one("violin", head("Bb5", 2, 4)), []),
        (one("violin", head("D6", 1, None, partial=4, stopped=Pitch.parse("D4"))),
         ["harmonic_too_wide"]),
        (one("violin", head("E6", 1, None, partial=4, stopped=Pitch.parse("E4"))), []),
    ],
)  # fmt: skip
def test_every_trouble_is_found_and_no_other(jig: Jig, kinds: list[str]) -> None:
    found = hand_troubles(jig)
    assert [t.kind for t in found] == kinds
    for trouble in found:
        line = trouble_line(trouble, jig)
        assert "–" in line
        assert trouble.kind not in line


def step(kind: str, first: tuple[str, int], second: tuple[str, int]) -> list[str]:
    jig = jig_from_line("D3 E3", jig_id="j", instrument_id=kind, title="t")
    events = tuple(
        replace(e, heads=(replace(e.heads[0], pitch=Pitch.parse(name), string=1, finger=f),))
        for e, (name, f) in zip(jig.events, (first, second), strict=True)
    )
    return [t.kind for t in hand_troubles(replace(jig, events=events))]


def test_first_and_fourth_for_a_step_is_told_on_hands_that_close_by_semitones() -> None:
    assert step("cello", ("A2", 1), ("B2", 4)) == ["first_to_fourth"]
    assert step("cello", ("B2", 4), ("A2", 1)) == ["first_to_fourth"]
    assert step("cello", ("A2", 1), ("C3", 4)) == []
    assert step("cello", ("A2", 4), ("B2", 1)) == []  # a shift up
    assert step("bass", ("B1", 1), ("C#2", 4)) == []
    assert step("bass", ("B1", 1), ("C2", 4)) == ["first_to_fourth"]
    assert step("viola", ("A3", 1), ("B3", 4)) == []


@pytest.mark.parametrize(
    ("kind", "stopped", "string", "can"),
    [
        ("violin", "A4", 2, False), ("violin", "B4", 2, True), ("cello", "E2", 0, False),
        ("cello", "C3", 0, True), ("bass", "C2", 0, False), ("bass", "F2", 0, True),
        ("bass", "E2", 0, False),
    ],
)  # fmt: skip
def test_artificial_harmonics_need_a_hand_that_reaches(
    kind: str, stopped: str, string: int, can: bool
) -> None:
    inst = instrument(kind)
    found = can_touch(
        Pitch.parse(stopped), 4, inst.strings, inst.hand, inst.string_length_mm, string
    )
    assert found is can


# every exercise -------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("made", MAKERS, ids=lambda m: m.id)
def test_no_exercise_asks_what_no_hand_can_play(kind: str, made) -> None:  # type: ignore[no-untyped-def]
    variants: list[dict[str, str | int]] = [{}]
    for field in made.fields:
        options = field.options if isinstance(field, SettingChoice) else (field.low, field.high)
        variants += [{field.id: o} for o in options]
    n_made = 0
    for values in variants:
        for tonic in ("D", "Ab"):
            setting = Setting(instrument_id=kind, key=Key(PitchClass.parse(tonic)), values=values)
            try:
                jig = made.make(setting)
            except JigError:
                continue
            n_made += 1
            assert hand_troubles(jig) == (), (values, tonic)
    assert n_made or kind not in made.kinds


def test_what_no_hand_reaches_is_refused_with_a_sentence() -> None:
    for interval in ("octaves", "tenths"):
        with pytest.raises(JigError, match="one of thirds, sixths"):
            maker("double_scale").make(Setting(instrument_id="bass", values={"interval": interval}))
    with pytest.raises(JigError, match="no hand reaches an octave"):
        maker("octave_hand").make(Setting(instrument_id="bass"))
    wide = {"position": 5, "frame": "forward"}
    with pytest.raises(JigError, match="thumb"):
        maker("hand_pattern").make(Setting(instrument_id="cello", values=wide))


@pytest.mark.parametrize(("interval", "pairs"), [
    ("octaves", {"violin": {"14", "03"}, "cello": {"53", "01"}}),
    ("fifths", {"violin": {"11", "22", "33", "44", "00"}}),
    ("thirds", {"violin": {"31", "42", "20"}, "cello": {"41", "31", "30", "20"}}),
])  # fmt: skip
def test_most_of_an_interval_lies_in_its_own_fingers(
    interval: str, pairs: dict[str, set[str]]
) -> None:
    for kind, expected in pairs.items():
        jig = maker("double_scale").make(
            Setting(instrument_id=kind, key=Key(PitchClass("D")), values={"interval": interval})
        )
        got = ["".join(str(h.finger) for h in e.heads) for e in jig.events]
        assert sum(g in expected for g in got) >= 0.6 * len(got), (kind, got)
