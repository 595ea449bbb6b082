"""A fifth in tune is not the note an octave below its lower one."""

from dataclasses import replace

import numpy as np
import pytest

from builders import segment
from jigwright.core.jig.line import jig_from_line
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.sound.pair_measure import Sound
from jigwright.core.sound.phantom_roots import _is_root, two_of_root
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
