"""All places for a wanted harmonic, how easily each folds, and what a string gives is in tune."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aim_builders import jig_of, note
from builders import segment
from jigwright.core.jig.harmonic_ways import (
    CLOSE_MM,
    EASY_MM,
    HIGHEST_SEARCHED,
    HarmonicWay,
    apart_mm,
    by_one_finger,
    nearest_node,
    pairs_to_sound,
    ways_to_sound,
    with_spelling,
)
from jigwright.core.judge.judging import Context, judge
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch, cents_to_ratio
from jigwright.core.music.references import EQUAL, PYTHAGOREAN, Reference, just, pure_strings

P = Pitch.parse
A4_HZ = 440.0


def ways(
    wanted: str, kind: str = "violin", length_mm: float | None = None
) -> tuple[HarmonicWay, ...]:
    inst = instrument(kind)
    return ways_to_sound(
        P(wanted), pure_strings(inst.strings, A4_HZ), inst,
        string_length_mm=length_mm or inst.string_length_mm, a4_hz=A4_HZ,
    )  # fmt: skip


def natural(wanted: str, kind: str = "violin") -> list[tuple[str, int, int]]:
    """String, partial and touched place in millimetres."""
    return [
        (str(w.string), w.partial, round(w.touched_mm))
        for w in ways(wanted, kind)
        if w.kind == "natural"
    ]


# where -------------------------------------------------------------------------------------------


def test_an_octave_of_a_string_is_in_its_middle_and_elsewhere() -> None:
    assert natural("A5") == [
        ("A4", 2, 164), ("D4", 3, 109), ("D4", 3, 219),
    ]  # fmt: skip
    fourths = [w for w in ways("D6") if w.kind == "natural" and w.partial == 4]
    assert [round(w.touched_mm) for w in fourths] == [246, 82], "not in the middle: that is the 2nd"
    assert {w.i_string for w in fourths} == {1}


def test_seventh_partials_are_found_although_they_lie_low() -> None:
    sevenths = [w for w in ways("C7") if w.partial == 7]
    assert {str(w.string) for w in sevenths} == {"D4"}
    assert sevenths[0].cents == pytest.approx(-31.2 - 2.0, abs=0.1)
    assert len(sevenths) == 6
    assert not any(w.partial == 7 for w in ways("B6"))


def test_artificial_ones_are_stopped_where_a_hand_reaches() -> None:
    found = [w for w in ways("E6") if w.kind == "artificial"]
    by_partial = {(w.partial, str(w.string)): w for w in found}
    fourth = by_partial[4, "D4"]
    assert str(fourth.stopped) == "E4"
    assert str(fourth.touched) == "A4"
    assert fourth.stopped_mm == pytest.approx(328 * (1 - 2 ** (-(2 + 0.0196) / 12)), abs=0.5)
    rest = 328.0 - fourth.stopped_mm
    assert fourth.touched_mm == pytest.approx(fourth.stopped_mm + rest / 4)
    assert all(w.stopped_mm > 0 for w in found)
    assert not any(w.kind == "artificial" and w.partial == 4 for w in ways("C5", "cello")
                   if w.string == P("C2") and w.stopped == P("C2"))  # fmt: skip
    low = [w for w in ways("E3", "bass") if w.kind == "artificial"]
    assert not any(w.partial == 4 and w.stopped_mm < 200 for w in low), "a bass hand is too small"


def test_the_lowest_partial_and_the_surest_place_come_first() -> None:
    found = ways("A6")
    kinds = [w.kind for w in found]
    assert kinds == sorted(kinds, reverse=True), "natural ones first"
    partials = [w.partial for w in found if w.kind == "natural"]
    assert partials == sorted(partials)
    same = [w.margin_mm for w in found if w.partial == partials[0] and w.kind == "natural"]
    assert same == sorted(same, reverse=True)


def test_notes_are_named_as_the_wanted_one_is() -> None:
    flat = [w for w in ways("Bb5") if w.kind == "artificial"]
    assert flat
    assert {str(w.stopped.pitch_class) for w in flat if w.stopped} <= {"Bb", "Eb", "Gb", "F", "D"}
    sharp = [w for w in ways("A#5") if w.kind == "artificial"]
    assert {w.stopped.midi for w in sharp if w.stopped} == {
        w.stopped.midi for w in flat if w.stopped
    }
    assert any(w.stopped and w.stopped.alter > 0 for w in sharp)
    named = with_spelling(ways("Eb7"), P("Eb7"))
    assert all(w.touched.alter <= 0 for w in named if w.kind == "natural")


def test_nothing_below_the_second_partial_and_nothing_far_above() -> None:
    assert ways("G3") == ()
    assert all(w.partial <= HIGHEST_SEARCHED for w in ways("D7"))
    half = [w for w in ways("G4", length_mm=164.0) if w.kind == "natural"]
    assert [w.touched_mm for w in half] == [82.0], "on this string"


@given(st.integers(60, 100), st.sampled_from(("violin", "viola", "cello", "bass")))
def test_every_way_sounds_the_wanted_note(midi: int, kind: str) -> None:
    wanted = Pitch.from_midi(midi)
    inst = instrument(kind)
    for way in ways(str(wanted), kind):
        assert abs(way.cents) <= 42.0
        assert 0.0 <= way.stopped_mm < way.touched_mm < inst.string_length_mm
        sounding = 12 * math.log2(way.f_hz / A4_HZ) + 69
        assert abs(sounding - midi) <= 0.43
        assert (way.stopped is None) == (way.kind == "natural")
        assert way.folds_to < way.partial


# folding -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("k", "n", "share", "whose"),
    [(1, 2, 1 / 2, 1), (1, 3, 1 / 6, 2), (1, 4, 1 / 12, 3), (2, 5, 1 / 15, 3), (1, 5, 1 / 20, 4),
     (3, 7, 1 / 35, 5), (4, 7, 1 / 35, 5)],
)  # fmt: skip
def test_the_nearest_lower_node(k: int, n: int, share: float, whose: int) -> None:
    margin, folds_to = nearest_node(k, n, 1000.0)
    assert margin == pytest.approx(1000.0 * share)
    assert folds_to == whose


def test_how_easily_it_folds_is_a_matter_of_millimetres() -> None:
    way = ways("A5")[0]
    assert replace(way, margin_mm=EASY_MM).folding == "hardly"
    assert replace(way, margin_mm=EASY_MM - 0.1).folding == "sometimes"
    assert replace(way, margin_mm=CLOSE_MM).folding == "sometimes"
    assert replace(way, margin_mm=CLOSE_MM - 0.1).folding == "easily"
    violin = next(w for w in ways("C7") if w.partial == 7 and round(w.touched_mm) == 141)
    assert violin.folding == "easily"
    cello = next(w for w in ways("A#4", "cello") if w.partial == 7)
    assert cello.margin_mm > violin.margin_mm


# judged by what the string gives -----------------------------------------------------------------


def heard(partial: int, cents: float, reference: Reference, *, written: str = "F#6", **head):
    jig = jig_of(written)
    only = replace(jig.events[0].heads[0], string=1, partial=partial, finger=None, **head)
    jig = replace(jig, events=(replace(jig.events[0], heads=(only,)),))
    violin = instrument("violin")
    d4 = pure_strings(violin.strings, A4_HZ)[P("D4")]
    measured = replace(
        note(jig, 0).measured, segment=segment(partial * d4 * cents_to_ratio(cents), 0.5)
    )
    context = Context(
        instrument_id="violin", strings=violin.strings, a4_hz=A4_HZ, reference=reference,
        tolerance_cents=8.0,
    )  # fmt: skip
    return judge([measured], jig, context)[0]


def test_a_natural_harmonic_is_in_tune_where_its_string_has_it() -> None:
    for reference in (EQUAL, PYTHAGOREAN, just(P("C4").pitch_class)):
        for cents in (0.0, 7.0, -7.0):
            one = heard(5, cents, reference)
            assert one.cents == pytest.approx(cents, abs=0.01)
            assert one.standing == "in"
        assert heard(5, 12.0, reference).standing == "high"
        assert heard(5, -12.0, reference).standing == "low"


def test_the_seventh_is_no_scale_note_and_right() -> None:
    assert heard(7, 0.0, EQUAL, written="C7").standing == "in"


def test_what_is_stopped_or_written_for_other_strings_goes_by_the_scale() -> None:
    stopped = heard(5, 0.0, EQUAL, stopped=P("D4"))
    assert stopped.cents == pytest.approx(-15.6, abs=0.2)
    assert stopped.standing == "low"
    other = heard(5, 0.0, EQUAL, written="E6")
    assert abs(other.cents or 0.0) > 60.0, "no partial of this string"
    assert heard(1, 0.0, EQUAL, written="D4").cents == pytest.approx(-2.0, abs=0.1)


# two at once ------------------------------------------------------------------------------------


def pairs(low: str, high: str, kind: str = "violin") -> list[tuple[tuple[str, int, int], ...]]:
    """String, partial and touched place of both."""
    inst = instrument(kind)
    return [
        tuple((str(w.string), w.partial, round(w.touched_mm)) for w in pair)
        for pair in pairs_to_sound(
            P(low), P(high), pure_strings(inst.strings, A4_HZ), inst,
            string_length_mm=inst.string_length_mm, a4_hz=A4_HZ,
        )
    ]  # fmt: skip


def test_a_fifth_lies_side_by_side_and_one_finger_touches_it() -> None:
    found = pairs("D5", "A5")
    assert found[:3] == [
        (("D4", 2, 164), ("A4", 2, 164)),
        (("G3", 3, 109), ("D4", 3, 109)),
        (("G3", 3, 219), ("D4", 3, 219)),
    ]
    assert all(abs(low[2] - high[2]) > 9 for low, high in found[3:])


def test_only_neighbouring_strings() -> None:
    names = ["G3", "D4", "A4", "E5"]
    for low, high in (("D5", "A5"), ("G4", "A5"), ("A5", "E6"), ("A5", "D6")):
        for a, b in pairs(low, high):
            assert abs(names.index(a[0]) - names.index(b[0])) == 1


def test_the_higher_note_may_lie_on_the_lower_string() -> None:
    assert (("A4", 2, 164), ("D4", 4, 246)) in pairs("A5", "D6")


def test_a_hand_has_its_width() -> None:
    assert pairs("G4", "A5") == [(("G3", 2, 164), ("D4", 3, 109)), (("G3", 2, 164), ("D4", 3, 219))]
    assert pairs("G3", "D4", "bass") == []  # a quarter of the string apart
    assert pairs("D4", "A4", "cello")[0] == (("D3", 2, 345), ("A3", 2, 345))


@pytest.mark.parametrize(("mm", "one"), [(9.0, True), (9.1, False)])
def test_one_finger_is_as_wide_as_a_pad(mm: float, one: bool) -> None:
    first = next(w for w in ways("A5") if w.kind == "natural")
    pair = (first, replace(first, touched_mm=first.touched_mm - mm))
    assert apart_mm(pair) == pytest.approx(mm)
    assert by_one_finger(pair) is one


def test_only_what_sounds_as_wanted() -> None:
    inst = instrument("viola")
    for a, b in pairs_to_sound(
        P("G4"), P("D5"), pure_strings(inst.strings, A4_HZ), inst,
        string_length_mm=inst.string_length_mm, a4_hz=A4_HZ,
    ):  # fmt: skip
        assert (a.kind, b.kind) == ("natural", "natural")
        assert abs(1200 * math.log2(a.f_hz / 392.0)) < 42
        assert abs(1200 * math.log2(b.f_hz / 587.3)) < 42
