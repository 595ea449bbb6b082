"""Values from outside: both sides of every limit, and a refusal that names its field."""

from __future__ import annotations

import pickle
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.checking import (
    MOST_DEPTH,
    MOST_DIGITS,
    beats,
    field,
    flag,
    identity,
    number,
    one_of,
    read_json,
    rows_of,
    whole,
    words,
)
from jigwright.core.errors import FieldError, JigError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import MOST_BEATS, MOST_LENGTH_BEATS, Event, Jig, Notehead
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.wording.errors import error_sentence
from signals import scale


@pytest.mark.parametrize(
    "text",
    [
        "", "{", "[1,]", "NaN", "[Infinity]", "-Infinity", "1e999", "9" * (MOST_DIGITS + 1),
        '"\\ud800"', '{"\\udfff": 1}', '"a\\u0000b"', "[" * 200_000,
        "[" * (MOST_DEPTH + 2) + "]" * (MOST_DEPTH + 2),
    ],
)  # fmt: skip
def test_json_that_cannot_be_used_is_refused_by_its_name(text: str) -> None:
    with pytest.raises(FieldError, match="work file"):
        read_json(text, what="work file")


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("9" * MOST_DIGITS, int("9" * MOST_DIGITS)),
        ("[" * MOST_DEPTH + "]" * MOST_DEPTH, None), ("1e300", 1e300),
        ('"♯"', "♯"), ('{"a": [1, null]}', {"a": [1, None]}), ('"\\ud83c\\udfbb"', "🎻"),
    ],
)  # fmt: skip
def test_json_that_fits_is_read(text: str, value: object) -> None:
    found = read_json(text, what="x")
    assert value is None or found == value


def test_the_place_of_a_bad_text_is_named() -> None:
    with pytest.raises(FieldError) as caught:
        read_json('{"take": {"words": ["fine", "\\ud800"]}}', what="manifest.json")
    assert caught.value.where == "manifest.json: take.words[1]"
    again = pickle.loads(pickle.dumps(caught.value))
    assert str(again) == str(caught.value)
    assert "half a character" in error_sentence(caught.value)


@pytest.mark.parametrize(("value", "fits"), [(3, True), (7, True), (2, False), (8, False)])
def test_whole_numbers(value: int, fits: bool) -> None:
    if fits:
        assert whole(value, "n", 3, 7) == value
        assert number(value, "n", 3, 7) == value
        return
    for check in (whole, number):
        with pytest.raises(FieldError, match="from 3 to 7"):
            check(value, "n", 3, 7)  # type: ignore[operator]


@pytest.mark.parametrize("value", [True, "5", None, 5.0, [5], float("nan")])
def test_what_only_looks_like_a_whole_number(value: object) -> None:
    with pytest.raises(FieldError):
        whole(value, "n", 3, 7)


@pytest.mark.parametrize("value", [True, "5", None, float("nan"), float("inf"), {}])
def test_what_only_looks_like_a_number(value: object) -> None:
    with pytest.raises(FieldError):
        number(value, "n", 3, 7)


def test_flags_choices_and_fields() -> None:
    assert flag(True, "f") is True
    for wrong in (1, "true", None):
        with pytest.raises(FieldError):
            flag(wrong, "f")
    assert one_of("up", "bow", (None, "down", "up")) == "up"
    assert one_of(None, "bow", (None, "down")) is None
    for wrong in ("UP", 0, False, ["up"]):
        with pytest.raises(FieldError, match="nothing, down, up"):
            one_of(wrong, "bow", (None, "down", "up"))
    with pytest.raises(FieldError):
        one_of(True, "unit", (1, 2))  # true is not one
    assert field({"a": None}, "a", "x") is None
    with pytest.raises(FieldError, match=r"x\.b"):
        field({"a": 1}, "b", "x")
    with pytest.raises(FieldError, match="an object"):
        field([1], "b", "x")


@pytest.mark.parametrize(("n", "fits"), [(0, True), (3, True), (4, False)])
def test_lists(n: int, fits: bool) -> None:
    if fits:
        assert rows_of([1] * n, "r", 3) == [1] * n
    else:
        with pytest.raises(FieldError, match="at most 3"):
            rows_of([1] * n, "r", 3)
    with pytest.raises(FieldError, match="a list"):
        rows_of("abc", "r", 3)


def test_words_lose_what_cannot_be_printed_and_what_is_too_long() -> None:
    assert words("so\x07ftly\u202e", "w", 4) == "soft"
    assert words("", "w", 4) == ""
    for wrong in (3, None, ["x"], "\ud800"):
        with pytest.raises(FieldError):
            words(wrong, "w", 4)


@pytest.mark.parametrize("value", ["", "x" * 6, "a\nb", 3, None, "\ud800"])
def test_ids_are_kept_or_refused_never_changed(value: object) -> None:
    with pytest.raises(FieldError):
        identity(value, "id", 5)


def test_an_id_at_its_longest() -> None:
    assert identity("xxxxx", "id", 5) == "xxxxx"


@pytest.mark.parametrize(
    "value",
    ["", "1e9", "1/0", "x", "1/2/3", "9" * 41, "-1", "-1/8", "4001", None, 1.5, True, "1/1000001",
     "nan", "inf", []],
)  # fmt: skip
def test_lengths_that_are_none(value: object) -> None:
    with pytest.raises(FieldError):
        beats(value, "b", 0, 4000)


@given(st.fractions(0, 4000, max_denominator=1_000_000))
def test_any_length_comes_back_exactly(value: Fraction) -> None:
    assert beats(str(value), "b", 0, 4000) == value


# jigs -----------------------------------------------------------------------------------------


def _jig(length: Fraction | int, onset: Fraction | int = 0, *, tempo: float = 60.0) -> Jig:
    event = Event(
        id="e", onset_beats=Fraction(onset), length_beats=Fraction(length),
        heads=(Notehead(id="n", pitch=Pitch.parse("D4")),),
    )  # fmt: skip
    return Jig(
        id="j", title="t", instrument_id="violin", key=Key(PitchClass("C")), tempo_bpm=tempo,
        events=(event,),
    )  # fmt: skip


def test_a_note_may_be_long_but_not_endless() -> None:
    assert _jig(MOST_LENGTH_BEATS).length_beats == MOST_LENGTH_BEATS
    with pytest.raises(JigError, match="never ends"):
        _jig(MOST_LENGTH_BEATS + 1)
    with pytest.raises(JigError, match="before the jig"):
        _jig(1, -1)
    assert _jig(1, MOST_BEATS - 1, tempo=100.0).length_beats == MOST_BEATS
    with pytest.raises(JigError, match="longer than a day"):
        _jig(2, MOST_BEATS - 1, tempo=100.0)


@pytest.mark.parametrize(("onset", "fits"), [(14_399, True), (14_400, False)])
def test_a_jig_may_last_a_day(onset: int, fits: bool) -> None:
    if fits:
        _jig(1, onset, tempo=10.0)
    else:
        with pytest.raises(JigError, match="day"):
            _jig(1, onset, tempo=10.0)


@pytest.mark.parametrize(
    ("old", "new", "named"),
    [
        ('"revision": 1', '"revision": 0', "jig.revision"),
        ('"revision": 1', '"revision": ' + "9" * 5000, "digits"),
        ('"tempo_bpm": 120.0', '"tempo_bpm": 1e308', "jig.tempo_bpm"),
        ('"tempo_bpm": 120.0', '"tempo_bpm": NaN', "no number"),
        ('"length_beats": "1"', '"length_beats": "1000000000"', r"jig.events\[0\].length_beats"),
        ('"onset_beats": "0"', '"onset_beats": "-5"', r"jig.events\[0\].onset_beats"),
        ('"pitch": "D4"', '"pitch": "D99"', r"jig.events\[0\].notes\[0\].pitch"),
        ('"pitch": "D4"', '"pitch": 62', r"jig.events\[0\].notes\[0\].pitch"),
        ('"vibrato": null', '"vibrato": 3', r"jig.events\[0\].vibrato"),
        ('"glide": false', '"glide": "no"', r"jig.events\[0\].glide"),
        ('"string": 1', '"string": 10', r"notes\[0\].string"),
        ('"mode": "major"', '"mode": ["major"]', "jig.key.mode"),
        ('"title": "', '"title": "\\ud800', "half a character"),
        ('"events": [', '"events": 5, "was": [', "jig.events"),
        ('"from": null', '"from": ["x"]', "jig.from"),
        ('"metre": [\n  4,\n  4\n ]', '"metre": [4]', "jig.metre"),
        ('"metre": [\n  4,\n  4\n ]', '"metre": [65, 4]', "jig.metre"),
        ('"metre": [\n  4,\n  4\n ]', '"metre": [4, 3]', "jig.metre"),
    ],
)  # fmt: skip
def test_a_jig_file_that_lies_is_refused_by_its_field(old: str, new: str, named: str) -> None:
    text = jig_to_json(scale())
    assert old in text
    with pytest.raises(JigError, match=named):
        jig_from_json(text.replace(old, new, 1))
    assert jig_from_json(text) == scale()
