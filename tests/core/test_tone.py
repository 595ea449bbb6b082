"""Noise, brightness and change of colour of a note, and when they cannot be told."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.gauge.tone import measure_tone
from jigwright.core.gauge.values import Tone
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.values import Unmeasured
from jigwright.wording.measures import tone_text


def curves(
    *, clarity: float = 0.99, centroid_hz: float = 880.0, octaves_s: float = 0.0
) -> Contours:
    t_s = np.arange(400) * HOP_S
    return Contours(
        f0_hz=np.full(400, 440.0), level_db=np.full(400, -20.0),
        clarity=np.full(400, clarity), centroid_hz=centroid_hz * 2 ** (octaves_s * t_s),
        loudness_db=np.full(400, 3.0),
    )  # fmt: skip


def note(core_s: float = 0.5, **changes: float) -> Segment:
    one = segment(440.0, 0.2, seconds=core_s + 0.1)
    return replace(one, core_start_s=0.25, core_end_s=0.25 + core_s, **changes)


def tone(contours: Contours, one: Segment) -> Tone:
    found = measure_tone(contours, one)
    assert isinstance(found, Tone)
    return found


def test_brightness_is_the_centroid_over_the_note() -> None:
    found = tone(curves(), note())
    assert found.brightness_hz == pytest.approx(880.0)
    assert found.brightness_ratio == pytest.approx(2.0)
    assert found.brightness_slope == pytest.approx(0.0, abs=1e-9)
    assert found.loudness_db == 3.0


@pytest.mark.parametrize("octaves_s", [1.5, -0.75])
def test_a_change_of_colour_has_its_direction(octaves_s: float) -> None:
    assert tone(curves(octaves_s=octaves_s), note()).brightness_slope == pytest.approx(octaves_s)


@pytest.mark.parametrize(("core_s", "told"), [(0.26, True), (0.24, False)])
def test_a_short_note_has_brightness_and_no_change_of_colour(core_s: float, told: bool) -> None:
    found = tone(curves(octaves_s=7.0), note(core_s))
    assert np.isfinite(found.brightness_slope) == told
    assert found.brightness_hz > 880.0
    assert ("octaves a second" in tone_text(found)[0]) is told


@pytest.mark.parametrize(("core_s", "told"), [(0.085, True), (0.075, False)])
def test_the_shortest_note(core_s: float, told: bool) -> None:
    assert isinstance(measure_tone(curves(), note(core_s)), Tone) is told


@pytest.mark.parametrize(("covered_s", "told"), [(0.04, True), (0.041, False)])
def test_a_note_that_another_sounds_into_has_no_noise_of_its_own(
    covered_s: float, told: bool
) -> None:
    found = measure_tone(curves(clarity=0.5), note(covered_s=covered_s))
    assert isinstance(found, Tone) is told
    if not told:
        assert found == Unmeasured("room_tail")


def test_two_notes_fit_no_one_period() -> None:
    assert measure_tone(curves(), note(i_pair=0)) == Unmeasured("two_notes")


@pytest.mark.parametrize(("clarity", "ratio"), [(0.84, 1.0), (0.86, 0.0)])
def test_what_hardly_repeats_is_scratch(clarity: float, ratio: float) -> None:
    assert tone(curves(clarity=clarity), note()).scratch_ratio == ratio


def test_a_clearer_note_stands_further_above_its_noise() -> None:
    clear, rough = (tone(curves(clarity=c), note()).hnr_db for c in (0.999, 0.9))
    assert clear - rough == pytest.approx(20.0, abs=1.5)


def test_gaps_in_the_centroid_are_left_out() -> None:
    broken = curves()
    broken.centroid_hz[60:90] = np.nan
    assert tone(broken, note()).brightness_hz == pytest.approx(880.0)
    broken.centroid_hz[:] = np.nan
    assert measure_tone(broken, note()) == Unmeasured("too_short")
