"""Ribbons of strokes, and every figure in words: laws that hold for any numbers."""

from __future__ import annotations

from dataclasses import replace
from math import nan

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jigwright.core.gauge.values import BowEvent, Double, Start, Stroke, Tone
from jigwright.core.judge.doubles import judge_double
from jigwright.core.judge.phrasing import StringLevel
from jigwright.core.judge.ribbons import N_POINTS, ribbons_of
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.sound.heard import Contours
from jigwright.core.values import Unmeasured
from jigwright.wording.measures import double_texts, start_text, tone_text
from jigwright.wording.pages import strings_sentence
from jigwright.wording.ringing import ring_text
from ring_builders import ring, string_ring

N = 800  # four seconds


def contours(level_db: np.ndarray, clarity: float = 0.995) -> Contours:
    ones = np.ones(len(level_db))
    return Contours(
        f0_hz=440.0 * ones, level_db=level_db, clarity=clarity * ones, centroid_hz=900.0 * ones,
        loudness_db=level_db,
    )  # fmt: skip


def stroke(start_s: float, end_s: float, direction: str = "down") -> Stroke:
    return Stroke(
        start_s=start_s, end_s=end_s, direction=direction, rows=(0,), steadiness_db=0.0,
        end_hurry_db=0.0, slope_db_per_s=0.0, mean_dbfs=-20.0,
    )  # fmt: skip


def bounce(at_s: float) -> BowEvent:
    return BowEvent(kind="bounce", start_s=at_s - 0.02, end_s=at_s + 0.02, row=0, strength=12.0)


@given(st.floats(-20, 20), st.floats(0.2, 1.8), st.floats(0.05, 0.95))
def test_a_ribbon_forgets_gain_and_keeps_places(gain_db: float, length: float, at: float) -> None:
    level = -30.0 + 8.0 * np.sin(np.arange(N) / 90.0)
    strokes = [stroke(0.5, 0.5 + length), stroke(2.4, 3.4, "up")]
    events = [bounce(0.5 + at * length)]
    plain = ribbons_of(contours(level), strokes, events)
    louder = ribbons_of(contours(level + gain_db), strokes, events)
    assert [r.direction for r in plain] == ["down", "up"]
    for one, two in zip(plain, louder, strict=True):
        assert one.level_db.shape == (N_POINTS,)
        assert np.allclose(one.level_db, two.level_db)
        assert ((one.rough >= 0) & (one.rough <= 1)).all()
    if at * length > 0.02:  # it begins inside the stroke
        assert plain[0].breaks == pytest.approx((at,), abs=0.01)
    assert max(float(np.median(r.level_db)) for r in plain) == pytest.approx(0.0)


def test_short_strokes_have_no_ribbon_and_two_strings_no_roughness() -> None:
    rough = contours(np.full(N, -20.0), clarity=0.7)
    assert ribbons_of(rough, [stroke(0.5, 0.6)], []) == ()
    assert ribbons_of(rough, [], []) == ()
    assert ribbons_of(rough, [stroke(0.5, 1.5)], [])[0].rough.min() > 0.5


REASONS = ("too_short", "in_use", "covered", "two_notes", "fused")


@pytest.mark.parametrize("reason", REASONS)
def test_a_refusal_says_why_and_is_no_figure(reason: str) -> None:
    strings = instrument("violin").strings
    for text, measured in (
        start_text(Unmeasured(reason)), tone_text(Unmeasured(reason)),
        ring_text(Unmeasured(reason), strings),
    ):  # fmt: skip
        assert not measured
        assert text.startswith("cannot tell: ")
        assert reason not in text
    assert double_texts(Unmeasured("one_note"), None) == []
    assert [row[2] for row in double_texts(Unmeasured(reason), None)] == [False]


def test_starts_and_tone_and_ring_in_words() -> None:
    clean, _ = start_text(Start(attack_s=0.05, noise_before_s=0.0, accent_db=0.0))
    rough, _ = start_text(Start(attack_s=0.05, noise_before_s=0.09, accent_db=5.0))
    assert rough.startswith(clean)
    assert "90 ms" in rough
    assert "5 dB" in rough
    tone = Tone(
        hnr_db=31.0, brightness_hz=1320.0, brightness_ratio=3.0, brightness_slope=0.0,
        scratch_ratio=0.0, loudness_db=0.0,
    )  # fmt: skip
    assert "31 dB" in tone_text(tone)[0]
    strings = instrument("violin").strings
    both = ring(string_ring(0, level_db=-31.0), string_ring(2, level_db=-36.0))
    text, _ = ring_text(both, strings)
    assert "G string" in text
    assert "A string" in text


def double(upper_hz: float, balance_db: float = 4.0, beats_hz: float = 1.5) -> Double:
    return Double(
        lower_hz=220.0, upper_hz=upper_hz, lower_uncertainty_cents=0.4,
        upper_uncertainty_cents=0.4, interval_cents=1200 * float(np.log2(upper_hz / 220.0)),
        uncertainty_cents=0.6, beats_hz=beats_hz, beating_partials=(3, 2), balance_db=balance_db,
        balance_uncertainty_db=2.0, both_ratio=1.0,
    )  # fmt: skip


@given(st.floats(-40, 40).filter(lambda c: abs(c) > 0.01))
def test_an_interval_is_called_wide_or_narrow_as_it_is(cents: float) -> None:
    assume(abs(abs(cents) % 1.0 - 0.5) > 1e-6)  # a half is rounded either way
    found = double(330.0 * 2 ** (cents / 1200))
    judged = judge_double(
        found, lower=Pitch.parse("A3"), upper=Pitch.parse("E4"), lower_places=[(220.0, None)],
        upper_places=[(330.0, None)],
    )  # fmt: skip
    rows = {name: text for name, text, _ in double_texts(found, judged)}
    side = "wide of pure" if cents > 0 else "narrow of pure"
    pure = round(cents) == 0
    said = "pure, ± 0.6 cents" if pure else f"{abs(cents):.0f} ± 0.6 cents {side}"
    assert rows["Interval"] == said
    assert rows["Beats"] == "1.5 a second"
    assert rows["Balance"].startswith("upper louder, 4 ± 2 dB")


def test_an_unknown_balance_is_said_to_be_unknown() -> None:
    rows = double_texts(double(330.0, balance_db=nan, beats_hz=nan), None)
    assert [(name, measured) for name, _, measured in rows] == [
        ("Both sound", True),
        ("Balance", False),
    ]


# strings beside each other -----------------------------------------------------------------------

STRINGS = tuple(map(Pitch.parse, ("G3", "D4", "A4", "E5")))


def string_level(string: int, db: float, attack_s: float = 0.05) -> StringLevel:
    return StringLevel(string=string, loudness_db=db, attack_s=attack_s, n_notes=4)


def test_the_weak_string_is_named_with_how_late_it_speaks() -> None:
    levels = [string_level(0, -6.4, 0.081), string_level(1, 1.0), string_level(2, 0.5, 0.04)]
    assert strings_sentence(levels, STRINGS) == (
        "The G string sounds 6 dB below the middle of the take. It speaks 31 ms later than the "
        "others."
    )
    early = [replace(levels[0], attack_s=0.069), *levels[1:]]
    assert "speaks" not in strings_sentence(early, STRINGS)
    unknown = [replace(levels[0], attack_s=nan), *levels[1:]]
    assert "speaks" not in strings_sentence(unknown, STRINGS)


@pytest.mark.parametrize(("db", "said"), [(-3.9, False), (-4.0, True)])
def test_strings_that_speak_alike_are_not_mentioned(db: float, *, said: bool) -> None:
    levels = [string_level(1, db), string_level(2, 0.0)]
    assert bool(strings_sentence(levels, STRINGS)) is said
    assert strings_sentence(levels[:1], STRINGS) == ""
    assert strings_sentence([replace(levels[0], string=7), levels[1]], STRINGS) == ""
