"""A fifth in tune is not the note an octave below its lower one."""

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.heard import Contours
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.pair_measure import Sound, pair_params
from jigwright.core.sound.phantom_roots import _is_root, find_rooted, two_of_root
from signals import perform

RATE = 8000.0


def tone(f_hz, *, orders=range(1, 40), seconds=2.0, seed=0, noise=1e-4):
    rng = np.random.default_rng(seed)
    t_s = np.arange(round(seconds * RATE)) / RATE
    x = noise * rng.normal(size=len(t_s))
    for k in orders:
        if k * f_hz < 0.48 * RATE:
            x += np.sin(2 * np.pi * k * f_hz * t_s + rng.uniform(0, 6.28)) / k
    return x


def asked(x, f_hz, **given):
    s = replace(segment(f_hz, 0.2, seconds=1.6), **given)
    return two_of_root(Sound(x=x, rate_hz=RATE, n=1024), s)


@pytest.mark.parametrize(("m", "n"), [(2, 3), (3, 4), (3, 5), (4, 5), (5, 6)])
@pytest.mark.parametrize("root_hz", [49.0, 73.4, 130.8])
def test_two_notes_in_tune_are_found_under_their_root(m, n, root_hz) -> None:
    x = tone(m * root_hz) + 0.6 * tone(n * root_hz, seed=1)
    found = asked(x, root_hz)
    assert found == (pytest.approx(m * root_hz), pytest.approx(n * root_hz))


@pytest.mark.parametrize(
    "orders",
    [range(1, 40), range(2, 40), range(3, 40), range(1, 40, 2), range(2, 40, 2), [2, 3, 4, 5, 6]],
)
def test_a_single_note_whatever_it_lacks_is_no_stop(orders) -> None:
    assert asked(tone(98.0, orders=orders), 98.0) is None


def test_a_little_of_the_fifth_partial_makes_it_a_note() -> None:
    both = tone(196.0) + tone(294.0, seed=1)
    assert asked(both, 98.0) == (pytest.approx(196.0), pytest.approx(294.0))
    one = 0.05 * tone(490.0, orders=[1], seed=2)
    assert asked(both + one, 98.0) is None


def test_it_takes_time_to_tell() -> None:
    x = tone(196.0) + tone(294.0, seed=1)
    assert asked(x, 98.0, core_start_s=0.5, core_end_s=0.81) is not None
    assert asked(x, 98.0, core_start_s=0.5, core_end_s=0.79) is None
    low = tone(60.0) + tone(90.0, seed=1)
    assert asked(low, 30.0, core_start_s=0.5, core_end_s=0.95) is not None
    assert asked(low, 30.0, core_start_s=0.5, core_end_s=0.89) is None


FIFTH = [(-70.0, 2.0), (0.0, 60.0), (0.0, 60.0), (-8.0, 50.0), (-70.0, 2.0), (-3.0, 50.0),
         (-70.0, 2.0), (-10.0, 50.0), (-10.0, 50.0), (-12.0, 50.0)]  # fmt: skip


def with_order(k, level):
    levels = list(FIFTH)
    levels[k - 1] = level
    return levels


@pytest.mark.parametrize(
    ("levels", "is_root"),
    [
        (FIFTH, True), (FIFTH[:8], False),
        (with_order(5, (-33.0, 9.0)), False), (with_order(5, (-33.0, 7.0)), True),
        (with_order(5, (-35.0, 20.0)), True), (with_order(1, (-33.0, 9.0)), False),
        (with_order(9, (-10.0, 15.0)), True), (with_order(9, (-10.0, 13.0)), False),
        (with_order(9, (-39.0, 50.0)), True), (with_order(9, (-41.0, 50.0)), False),
    ],
)  # fmt: skip
def test_what_makes_a_root(levels, is_root) -> None:
    assert _is_root(levels, 2, 3) is is_root


@pytest.mark.parametrize(("highest_hz", "n"), [(300.0, 1), (290.0, 0)])
def test_stops_are_found_among_single_notes_within_the_range(highest_hz, n) -> None:
    x = np.concatenate([tone(220.0), tone(196.0) + tone(294.0, seed=1), tone(98.0)])
    notes = [
        replace(segment(f, at + 0.1, seconds=1.8), core_start_s=at + 0.2, core_end_s=at + 1.8)
        for f, at in ((220.0, 0.0), (98.0, 2.0), (98.0, 4.0))
    ]
    flat = np.zeros(1200)
    curves = Contours(f0_hz=flat, level_db=flat, clarity=flat, centroid_hz=flat, loudness_db=flat)
    found = find_rooted(
        Sound(x=x, rate_hz=RATE, n=1024), notes, curves, pair_params("cello"), highest_hz=highest_hz
    )
    assert [(round(p.onset_s, 3), round(p.offset_s, 3)) for p in found] == [(2.1, 3.9)][:n]
    for p in found:
        assert p.lower_hz == pytest.approx(196.0, rel=1e-3)
        assert p.upper_hz == pytest.approx(294.0, rel=1e-3)


@pytest.mark.parametrize(
    ("kind", "line", "names"),
    [
        ("viola", "D4+A4:4", (62, 69)),
        ("cello", "D3+A3:4", (50, 57)),
        ("viola", "G3+C4:4", (55, 60)),
    ],
)
def test_a_stop_in_tune_is_heard_as_both_its_notes(kind, line, names) -> None:
    jig = jig_from_line(line, jig_id="l", instrument_id=kind, title="l", tempo_bpm=84.0)
    take = perform(jig, "room rt60_s=0.4 wet_db=-6")
    inst = instrument(kind)
    lowest = min(pure_strings(inst.strings, 440.0).values())
    heard = hear(choose_signal(take.sound.samples, take.sound.rate_hz), inst, lowest_open_hz=lowest)
    (pair,) = heard.pairs
    for f_hz, midi in zip((pair.lower_hz, pair.upper_hz), names, strict=True):
        assert 12 * np.log2(f_hz / 440.0) + 69 == pytest.approx(midi, abs=0.2)
    assert [s.i_pair for s in heard.segments] == [0]
