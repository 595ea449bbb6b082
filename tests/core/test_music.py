from __future__ import annotations

import json
import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import PitchNameError, TuningError
from jigwright.core.music.instruments import check_a4, instrument, millimetres, parse_strings
from jigwright.core.music.keys import MODES, Key, signature
from jigwright.core.music.pitch import Pitch, PitchClass, cents_to_ratio, hz_to_cents
from jigwright.core.music.references import (
    EQUAL,
    MEANTONE,
    PYTHAGOREAN,
    RING,
    holds_still,
    just,
    parse_reference,
    parse_scale,
    pure_strings,
    target_hz,
)

TABLES = Path(__file__).with_name("reference_tables.json")
pitches = st.builds(Pitch, st.sampled_from("CDEFGAB"), st.integers(-2, 2), st.integers(0, 8))
references = st.sampled_from(
    [EQUAL, PYTHAGOREAN, MEANTONE, RING, just(PitchClass("C")), just(PitchClass("F", 1))]
)


@given(pitches)
def test_names_read_back(pitch: Pitch) -> None:
    assert Pitch.parse(str(pitch)) == pitch


@given(st.integers(24, 100), st.integers(-6, 6))
def test_spelling_keeps_the_key_number(midi: int, fifths: int) -> None:
    assert Pitch.from_midi(midi, fifths=fifths).midi == midi


@pytest.mark.parametrize("text", ["", "H4", "C", "C#", "4", "D44x", "E###b4"])
def test_bad_names_are_refused_with_the_text(text: str) -> None:
    with pytest.raises(PitchNameError, match="not a pitch name"):
        Pitch.parse(text)


def test_spelling_follows_the_key() -> None:
    assert str(Pitch.from_midi(66, fifths=2)) == "F#4"
    assert str(Pitch.from_midi(66, fifths=-5)) == "Gb4"
    assert str(Pitch.from_midi(71, fifths=-3)) == "B4"
    names = [str(c) for c in Key(PitchClass("C", 1), "melodic_minor").degrees()]
    assert names == ["C#", "D#", "E", "F#", "G#", "A#", "B#"]
    down = Key(PitchClass("A"), "melodic_minor").degrees(descending=True)
    assert [str(c) for c in down] == ["A", "B", "C", "D", "E", "F", "G"]


@given(st.sampled_from("CDEFGAB"), st.integers(-1, 1), st.sampled_from(MODES))
def test_scales_use_every_letter_once(step: str, alter: int, mode: str) -> None:
    degrees = Key(PitchClass(step, alter), mode).degrees()  # type: ignore[arg-type]
    assert sorted(d.step for d in degrees) == sorted("CDEFGAB")


@given(st.integers(-7, 7))
def test_signature_counts(fifths: int) -> None:
    assert len(signature(fifths)) == abs(fifths)


@given(pitches, references, st.floats(380, 470))
def test_an_octave_is_1200_cents_in_every_reference(
    pitch: Pitch, reference: object, a4: float
) -> None:
    up = Pitch(pitch.step, pitch.alter, pitch.octave + 1)
    low, high = (target_hz(reference, p, a4) for p in (pitch, up))  # type: ignore[arg-type]
    assert hz_to_cents(high, low) == pytest.approx(1200.0, abs=1e-6)


@given(pitches, references, st.floats(380, 470), st.floats(0.9, 1.1))
def test_targets_scale_with_a(pitch: Pitch, reference: object, a4: float, factor: float) -> None:
    one = target_hz(reference, pitch, a4)  # type: ignore[arg-type]
    two = target_hz(reference, pitch, a4 * factor)  # type: ignore[arg-type]
    assert two / one == pytest.approx(factor, rel=1e-9)


def test_stored_tables() -> None:
    tables = json.loads(TABLES.read_text())
    assert len(tables) >= 6
    for name, rows in tables.items():
        reference = parse_reference(name)
        for note, cents in rows.items():
            got = hz_to_cents(target_hz(reference, Pitch.parse(note), 440.0), 440.0)
            assert got == pytest.approx(cents, abs=0.01), f"{name} {note}"


def test_pythagorean_tells_spellings_apart() -> None:
    sharp, flat = (target_hz(PYTHAGOREAN, Pitch.parse(n), 440.0) for n in ("G#4", "Ab4"))
    assert hz_to_cents(sharp, flat) == pytest.approx(23.46, abs=0.01)
    sharp, flat = (target_hz(MEANTONE, Pitch.parse(n), 440.0) for n in ("G#4", "Ab4"))
    assert hz_to_cents(sharp, flat) == pytest.approx(-41.06, abs=0.01)


def test_the_pure_a_depends_on_the_drone() -> None:
    a = Pitch.parse("A4")
    over_c = hz_to_cents(target_hz(just(PitchClass("C")), a, 440.0),
                         target_hz(just(PitchClass("C")), Pitch.parse("C4"), 440.0))  # fmt: skip
    assert over_c == pytest.approx(884.36, abs=0.01)
    drone = just(PitchClass("G"), drone_hz=196.5)
    g = target_hz(drone, Pitch.parse("G4"), 440.0)
    assert g == pytest.approx(393.0)
    assert holds_still(drone) == "drone"
    assert holds_still(just(PitchClass("G"))) == "tonic"


def test_ring_takes_the_open_strings_as_measured() -> None:
    strings = pure_strings(instrument("violin").strings, 440.0)
    sharp_d = {**strings, Pitch.parse("D4"): strings[Pitch.parse("D4")] * cents_to_ratio(9)}
    got = target_hz(RING, Pitch.parse("D5"), 440.0, open_strings_hz=sharp_d)
    assert hz_to_cents(got, 2 * strings[Pitch.parse("D4")]) == pytest.approx(9.0)
    f = Pitch.parse("F#4")
    assert target_hz(RING, f, 440.0, open_strings_hz=sharp_d) == pytest.approx(
        target_hz(PYTHAGOREAN, f, 440.0)
    )


def test_scale_files() -> None:
    text = "! comment\nfive notes\n 5\n!\n 200.0\n 400.0\n 3/2\n 900.0\n 2/1\n"
    scale = parse_scale(text, name="five.scl")
    base = target_hz(EQUAL, Pitch.parse("C4"), 440.0)
    g = hz_to_cents(target_hz(scale, Pitch.parse("G4"), 440.0), base)
    assert g == pytest.approx(1200 * math.log2(1.5))
    with pytest.raises(TuningError, match="octave"):
        parse_scale("stretched\n 2\n 600.\n 1210.\n", name="no.scl")
    with pytest.raises(TuningError, match="announced"):
        parse_scale("short\n 4\n 600.\n", name="no.scl")


@pytest.mark.parametrize("text", ["just", "just:H", "equals", "ring:", "nothing:D"])
def test_unknown_references_are_refused(text: str) -> None:
    if text == "ring:":
        assert parse_reference(text) == RING
        return
    with pytest.raises(TuningError):
        parse_reference(text)


def test_strings_and_a() -> None:
    assert len(parse_strings("B0 E1 A1 D2 G2")) == 5
    for bad in ("G3", "E5 A4 D4 G3", "G3 G3"):
        with pytest.raises(TuningError):
            parse_strings(bad)
    for hz in (379.9, 470.1):
        with pytest.raises(TuningError):
            check_a4(hz)


def test_millimetres_shrink_up_the_string() -> None:
    low = millimetres(100, 330.0, 293.7, 328.0)
    high = millimetres(100, 587.0, 293.7, 328.0)
    assert low == pytest.approx(328 * 293.7 / 330 * (1 - 2 ** (-1 / 12)))
    assert low > high > 0 > millimetres(-100, 330.0, 293.7, 328.0)
