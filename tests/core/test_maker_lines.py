"""Rows of notes, rhythms, bowings, chords, chromatic spelling: what exercises are made of."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import JigError
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.makers.lines import (
    CHORDS,
    TUNE,
    LineManner,
    chord_pitches,
    chromatic_pitches,
    figured,
    lowest_note,
    note_at,
    tune_pitches,
    tune_string,
    write_line,
)
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import INSTRUMENTS
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

LINE = [*range(8), *range(6, -1, -1)]


def key(name: str, mode: str = "major") -> Key:
    return Key(PitchClass.parse(name), mode)  # type: ignore[arg-type]


def make(maker_id: str, kind: str = "violin", in_key: str = "D", mode: str = "major", **values):
    return maker(maker_id).make(Setting(instrument_id=kind, key=key(in_key, mode), values=values))


def names(jig: Jig) -> str:
    return " ".join(str(e.heads[0].pitch) for e in jig.events)


# figures --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("figure", "up", "down"),
    [
        ("steps", "01234567", "6543210"),
        ("thirds", "021324354657", "756453423120"),
        ("fours", "01231234234534564567", "76546543543243213210"),
        ("triads", "024135246357", "753642531420"),
        (
            "returning",
            "010121232343454565676",
            "7676565454343232121010",
        ),
    ],
)
def test_a_figure_stands_on_every_step_and_comes_back(figure: str, up: str, down: str) -> None:
    rows = figured(LINE, figure)
    said = "".join(str(letter) for letter, _ in rows)
    assert said.startswith(up)
    ways = [way for _, way in rows]
    assert ways == sorted(ways), "first up, then down"
    going_up = said[: ways.index(True)]
    assert going_up == up
    assert said.endswith("0")
    assert said[len(up) :].startswith(down[: len(said) - len(up)])


def test_a_figure_needs_room() -> None:
    with pytest.raises(JigError, match="more notes"):
        figured([0, 1, 0], "fours")
    assert len(figured([0, 1, 2, 1, 0], "thirds")) == 4


def test_the_seventh_of_melodic_minor_is_low_on_the_way_down_only() -> None:
    jig = make("scale", in_key="A", mode="melodic_minor", figure="thirds")
    up, down = names(jig).split()[:12], names(jig).split()[12:]
    assert "G#4" in up
    assert "G4" not in up
    assert "G4" in down
    assert "G#4" not in down


# rhythm and bow ---------------------------------------------------------------------------------


@given(
    st.sampled_from(["even", "long_short", "short_long", "long_two", "two_long", "gallop"]),
    st.integers(1, 30), st.sampled_from([Fraction(1), Fraction(1, 2), Fraction(1, 4)]),
)  # fmt: skip
def test_a_rhythm_fills_whole_groups(rhythm: str, n: int, value: Fraction) -> None:
    lengths = LineManner(value=value, rhythm=rhythm).lengths(n)
    assert len(lengths) == n
    assert all(length > 0 for length in lengths)
    group = {"even": 1, "gallop": 1}.get(rhythm, 2)
    assert (sum(lengths) / (value * group)).denominator == 1


def test_rhythms_are_what_they_are_called() -> None:
    def said(rhythm: str) -> list[str]:
        return [str(x) for x in LineManner(rhythm=rhythm).lengths(6)]

    assert said("long_short")[:2] == ["3/2", "1/2"]
    assert said("short_long")[:2] == ["1/2", "3/2"]
    assert said("long_two")[:3] == ["1", "1/2", "1/2"]
    assert said("two_long")[:3] == ["1/2", "1/2", "1"]
    assert said("gallop")[:3] == ["1/2", "1/4", "1/4"]


@pytest.mark.parametrize(
    ("bowing", "slur", "strokes"),
    [
        ("counted", 1, "nvnvnvnv"), ("counted", 4, "n---v---"), ("two_two", 1, "n-vnv-nv"),
        ("one_three", 1, "nv--nv--"), ("three_one", 1, "n--vn--v"), ("two_one", 1, "n-vn-vn-"),
        ("hooked", 1, "nnvvnnvv"),
    ],
)  # fmt: skip
def test_bowings(bowing: str, slur: int, strokes: str) -> None:
    draft = Draft("j")
    write_line(draft, [Pitch("D", 0, 4)] * 8, LineManner(bowing=bowing, slur=slur))
    assert "".join({"down": "n", "up": "v", None: "-"}[e.bow] for e in draft.events) == strokes


def test_strings_and_marks_go_with_the_notes() -> None:
    draft = Draft("j")
    write_line(draft, [Pitch("D", 0, 4)] * 2, LineManner(), strings=(1, 0), lifted=True)
    assert [e.heads[0].string for e in draft.events] == [1, 0]
    assert all(e.lifted for e in draft.events)


# chords and chromatic scales --------------------------------------------------------------------


@pytest.mark.parametrize(
    ("chord", "spelled"),
    [
        ("major", "C4 E4 G4 C5"), ("minor", "C4 Eb4 G4 C5"), ("diminished", "C4 Eb4 Gb4 C5"),
        ("augmented", "C4 E4 G#4 C5"), ("dominant_seventh", "C4 E4 G4 Bb4 C5"),
        ("major_seventh", "C4 E4 G4 B4 C5"), ("minor_seventh", "C4 Eb4 G4 Bb4 C5"),
        ("half_diminished", "C4 Eb4 Gb4 Bb4 C5"), ("diminished_seventh", "C4 Eb4 Gb4 A4 C5"),
    ],
)  # fmt: skip
def test_chords_are_spelled_in_thirds(chord: str, spelled: str) -> None:
    assert " ".join(str(p) for p in chord_pitches(Pitch("C", 0, 4), chord, 1)) == spelled
    two = chord_pitches(Pitch("C", 0, 4), chord, 2)
    assert [p.midi for p in two[len(CHORDS[chord]) :]] == [
        *(72 + k for k in CHORDS[chord]),
        84,
    ]


def test_nobody_reads_double_flats_in_a_chord() -> None:
    found = chord_pitches(Pitch("A", -1, 3), "diminished_seventh", 1)
    assert " ".join(map(str, found)) == "Ab3 Cb4 D4 F4 Ab4"


def test_an_arpeggio_is_of_its_key_unless_another_chord_is_wished() -> None:
    assert names(make("arpeggio")) == "D4 F#4 A4 D5 A4 F#4 D4"
    assert names(make("arpeggio", mode="natural_minor")) == "D4 F4 A4 D5 A4 F4 D4"
    assert names(make("arpeggio", chord="dominant_seventh")) == "D4 F#4 A4 C5 D5 C5 A4 F#4 D4"


@pytest.mark.parametrize(
    ("name", "mode", "start", "spelled"),
    [
        ("D", "major", "D4",
         "D D# E F F# G G# A A# B C C# D C# C B Bb A Ab G F# F E Eb D"),
        ("Eb", "major", "Eb4",
         "Eb E F F# G Ab A Bb B C C# D Eb D Db C B Bb A Ab G Gb F E Eb"),
        ("C", "major", "C4",
         "C C# D D# E F F# G G# A A# B C B Bb A Ab G Gb F E Eb D Db C"),
        ("A", "harmonic_minor", "A3",
         "A A# B C C# D D# E F F# G G# A G# G F# F E Eb D Db C B Bb A"),
        ("F#", "major", "F#4",
         "F# G G# A A# B C C# D D# E E# F# E# E D# D C# C B A# A G# G F#"),
    ],
)  # fmt: skip
def test_chromatic_scales_are_spelled_as_players_read_them(
    name: str, mode: str, start: str, spelled: str
) -> None:
    found = chromatic_pitches(key(name, mode), Pitch.parse(start), 12)
    assert " ".join(str(p.pitch_class) for p in found) == spelled
    assert [p.midi for p in found] == [
        *range(found[0].midi, found[0].midi + 13),
        *range(found[0].midi + 11, found[0].midi - 1, -1),
    ]


@given(st.integers(-6, 6), st.sampled_from(["major", "natural_minor", "harmonic_minor"]))
def test_hard_names_come_only_from_the_key_itself(fifths: int, mode: str) -> None:
    there = Key(PitchClass.from_fifths(fifths), mode)  # type: ignore[arg-type]
    own = {str(c) for c in there.degrees()}
    for pitch in chromatic_pitches(there, Pitch.in_class(there.tonic, 60), 12):
        hard = str(pitch.pitch_class) in ("E#", "B#", "Cb", "Fb") or abs(pitch.alter) > 1
        assert not hard or str(pitch.pitch_class) in own


# places -----------------------------------------------------------------------------------------


def test_a_scale_begins_on_any_degree_and_stays_on_one_string() -> None:
    assert names(make("scale", from_degree=5)).startswith("A3 B3 C#4 D4 E4 F#4 G4 A4 G4")
    one = make("scale", which_string="second")
    assert names(one).startswith("D4 E4 F#4 G4 A4 B4 C#5 D5 C#5")
    assert {e.heads[0].string for e in one.events} == {1}
    highest = make("scale", which_string="highest", in_key="G")
    assert {e.heads[0].string for e in highest.events} == {3}
    with pytest.raises(JigError, match="string"):
        make("scale", which_string="lowest", octaves=3)


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_a_beginner_stays_in_first_position(kind: str) -> None:
    in_key = {"violin": "D", "viola": "D", "cello": "D", "bass": "F"}[kind]
    jig = make("scale", kind, in_key, hand="first_position")
    strings = INSTRUMENTS[kind].strings
    for event in jig.events:
        head = event.heads[0]
        assert 0 <= head.pitch.midi - strings[head.string].midi <= 7
    with pytest.raises(JigError, match="first position"):
        make("scale", kind, in_key, hand="first_position", octaves=3)


def test_the_tune_is_eight_bars_in_a_fifth_and_lies_by_the_nut() -> None:
    assert sum(beats for _, beats in TUNE) in (31, 32)
    assert {k for k, _ in TUNE} == {0, 1, 2, 3, 4}
    at = Fraction(0)
    for _, beats in TUNE:
        assert (at % 4) + beats <= 4, "no note over a bar line"
        at += beats
    line = tune_pitches(key("D"), Pitch("D", 0, 4))
    assert [str(p) for p, _ in line[:5]] == ["D4", "F#4", "E4", "F#4", "G4"]
    for name, string in (("D", 1), ("A", 2), ("E", 3), ("G", 3), ("Bb", 2), ("F", 3)):
        setting = Setting(instrument_id="violin", key=key(name))
        assert tune_string(setting) == string, name


def test_a_tune_comes_again_on_the_string_below() -> None:
    jig = make("tune_on_strings")
    n = len(TUNE)
    first, second = jig.events[:n], jig.events[n:]
    assert [e.heads[0].pitch for e in first] == [e.heads[0].pitch for e in second]
    assert [e.length_beats for e in first] == [e.length_beats for e in second]
    assert [e.bow for e in first] == [e.bow for e in second]
    assert {e.heads[0].string for e in first} == {1}
    assert {e.heads[0].string for e in second} == {0}
    assert second[0].onset_beats == 32
    top = make("tune_on_strings", first_on="highest", in_key="E")
    assert top.events[0].heads[0].string == 3


def test_lowest_notes_and_letters() -> None:
    setting = Setting(instrument_id="violin", key=key("D"))
    assert str(lowest_note(setting, 1)) == "D4"
    assert str(lowest_note(setting, 5)) == "A3"
    assert str(lowest_note(setting, 1, on_string=2)) == "D5"
    assert str(lowest_note(setting, 4)) == "G3"
    minor = key("A", "melodic_minor")
    letter = Pitch("G", 0, 4).diatonic
    assert str(note_at(minor, letter)) == "G#4"
    assert str(note_at(minor, letter, descending=True)) == "G4"


# single makers ----------------------------------------------------------------------------------


def test_frames_are_all_different() -> None:
    for kind, n in (("violin", 4), ("viola", 4), ("cello", 3), ("bass", 1)):
        frames = [f for f in maker("hand_pattern").fields if f.id == "frame"]
        options = frames[0].on(kind).options
        assert len(options) == n
        lines = {names(make("hand_pattern", kind, frame=option)) for option in options}
        assert len(lines) == n
    half = make("hand_pattern", position=0)
    assert names(half).startswith("Eb4 F4")
    assert half.events[0].heads[0].finger == 1


def intervals(jig: Jig) -> list[int]:
    """Semitones of each interval that is played three times."""
    found = []
    for i in range(0, len(jig.events), 8):
        low, high = (jig.events[i + k].heads[0] for k in (0, 1))
        assert [e.heads[0].pitch for e in jig.events[i : i + 6]] == [low.pitch, high.pitch] * 3
        assert high.string == low.string + 1
        check, again = (jig.events[i + k].heads[0] for k in (6, 7))
        assert again.pitch == high.pitch
        assert check.pitch.midi < high.pitch.midi
        assert check.string == high.string
        found.append(high.pitch.midi - low.pitch.midi)
    return found


def test_a_frame_over_two_strings_has_sixths_to_octaves_and_check_notes() -> None:
    violin = intervals(make("frame_across"))
    assert violin == sorted(violin)
    assert violin == [8, 9, 9, 10, 10, 12]
    assert intervals(make("frame_across", frame="wide")) == [8, 9, 9, 10, 11, 12]
    assert intervals(make("frame_across", "cello")) == [8, 8, 8, 9, 9, 10]
    assert max(intervals(make("frame_across", "cello", frame="forward"))) == 11
    bass = intervals(make("frame_across", "bass"))
    assert bass == [3, 4, 4, 6, 6, 7], "strings in fourths: every shape differs"


def test_open_against_stopped_is_open_going_up_and_stopped_coming_down() -> None:
    jig = make("open_stopped")
    rows = [(str(e.heads[0].pitch), e.heads[0].string, e.heads[0].finger) for e in jig.events]
    assert rows[:6] == [
        ("C#4", 0, 3), ("D4", 1, 0), ("E4", 1, 1), ("E4", 1, 1), ("D4", 0, 4), ("C#4", 0, 3),
    ]  # fmt: skip
    assert rows[6:10] == [("D4", 1, 0), ("D4", 0, 4)] * 2
    assert len(rows) == 30
    for kind in ("cello", "bass"):
        other = make("open_stopped", kind, "A")
        strings = INSTRUMENTS[kind].strings
        ways: dict[int, set[int | None]] = {}
        for event in other.events:
            head = event.heads[0]
            if head.pitch.midi in {s.midi for s in strings} and head.finger:
                ways.setdefault(head.pitch.midi, set()).add(head.finger)
        assert len(ways) == 3
        assert all(len(fingers) == 1 for fingers in ways.values())


def test_balance_holds_two_strings_against_each_alone() -> None:
    jig = make("balance", leading="rocking", repeats=1)
    sizes = [len(e.heads) for e in jig.events[:4]]
    assert sizes == [1, 1, 2, 2]
    by_way = {a.way: a.places for a in jig.aims if a.kind == "balance"}
    assert by_way["lower"][0] == jig.events[2].id
    assert by_way["upper"][0] == jig.events[3].id
    assert len(by_way["lower"]) == len(by_way["upper"]) == 3
    for way in ("even", "lower", "upper"):
        aim = make("balance", leading=way).aims[0]
        assert (aim.kind, aim.way) == ("balance", way)
    stopped = make("balance", balance_notes="stopped").events[2]
    assert [h.finger for h in stopped.heads] == [1, 1]


def test_octaves_with_one_hand() -> None:
    plain = make("octave_hand")
    assert all(
        e.heads[1].pitch.midi - e.heads[0].pitch.midi == 12 and
        (e.heads[0].finger, e.heads[1].finger) == (1, 4)
        for e in plain.events
    )  # fmt: skip
    fingered = make("octave_hand", octave_fingers="fingered")
    hands = [(e.heads[0].finger, e.heads[1].finger) for e in fingered.events]
    assert hands[:4] == [(1, 3), (2, 4), (1, 3), (2, 4)]
    assert hands == hands[::-1]
    thumb = make("octave_hand", "cello")
    assert {(e.heads[0].finger, e.heads[1].finger) for e in thumb.events} == {(5, 3)}


def test_an_echo_has_the_same_bows_and_fingers() -> None:
    for kind in INSTRUMENTS:
        jig = make("echo", kind)
        for a, b in zip(jig.events[:5], jig.events[5:], strict=True):
            assert a.bow == b.bow
            assert (a.heads[0].string, a.heads[0].finger) == (b.heads[0].string, b.heads[0].finger)
        assert jig.events[0].dynamic == "f"
        assert jig.events[5].dynamic == "p"


def test_long_bows_begin_where_they_are_asked_to() -> None:
    frog = make("long_bows", string="highest")
    assert frog.events[0].bow == "down"
    assert frog.events[0].bow_place is None
    tip = make("long_bows", string="highest", start_place="tip")
    assert (tip.events[0].bow, tip.events[0].bow_place) == ("up", 1.0)
    middle = make("long_bows", start_place="middle")
    starts = [e.bow_place for e in middle.events if e.bow_place is not None]
    assert starts == [0.5] * 4, "once on each string"


def test_crossings_on_stopped_notes_and_in_a_tune() -> None:
    stopped = make("crossings", notes="stopped", repeats=1)
    assert {e.heads[0].finger for e in stopped.events} == {1, 2}
    assert [e.heads[0].string for e in stopped.events[:4]] == [0, 1, 0, 1]
    over = make("crossings", notes="stopped", pattern="over_and_back", repeats=1)
    assert [e.heads[0].finger for e in over.events[:4]] == [1, 2, 1, 2]
    tune = make("crossings", notes="tune")
    strings = [e.heads[0].string for e in tune.events]
    assert all(abs(a - b) == 1 for a, b in zip(strings, strings[1:], strict=False))
    assert {e.heads[0].finger for e in tune.events[1::2]} == {0}
    assert [a.kind for a in tune.aims] == ["crossing", "every_note"]


def test_off_the_string_on_a_scale_and_in_a_tune() -> None:
    scale = make("off_string", notes="scale")
    assert names(scale).split()[:8] == ["D4"] * 4 + ["E4"] * 4
    assert all(e.lifted for e in scale.events)
    both = make("off_string", notes="tune", stage="on_then_off")
    half = len(both.events) // 2
    assert not any(e.lifted for e in both.events[:half])
    assert all(e.lifted for e in both.events[half:])
    assert names(both).split()[:half] == names(both).split()[half:]


def test_dotted_rhythms_in_a_tune_end_on_a_beat() -> None:
    tune = make("dotted", dotted_notes="tune")
    assert names(tune).split()[: len(TUNE)] == [
        str(p) for p, _ in tune_pitches(key("D"), Pitch("D", 0, 4))
    ]
    lengths = [e.length_beats for e in tune.events]
    assert lengths[:2] == [Fraction(3, 4), Fraction(1, 4)]
    assert lengths[-1] == 1
    scale = make("dotted", character="sharp")
    assert [e.lifted for e in scale.events[:2]] == [True, False]
    assert scale.length_beats == 8


def test_a_study_goes_through_the_chords_of_its_key() -> None:
    jig = make("study", study="broken_chords")
    first = [e.heads[0].pitch for e in jig.events[::8]]
    assert [str(p) for p in first] == ["D4", "G4", "A3", "D4", "B3", "E4", "A3", "D4", "D4"]
    assert names(jig).split()[:8] == ["D4", "F#4", "A4", "F#4", "D5", "A4", "F#4", "A4"]
    assert jig.length_beats == 36
    sixteenths = make("study", note_value="sixteenth", notes_in_bow=4)
    assert [e.bow is None for e in sixteenths.events[:5]] == [False, True, True, True, False]
    low = make("study", in_key="G")
    assert min(e.heads[0].pitch.midi for e in low.events) >= 55
