"""Strings of the simulated player: they ring when they are left alone, and never otherwise."""

from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.jig.model import note_list
from jigwright.core.player.coupled import Use, strings_in_use, sympathetic
from jigwright.core.player.faults import Sympathy, Touch, parse_faults
from jigwright.core.player.play import play

RATE = 48_000
OPEN_HZ = (195.5556, 293.3333, 440.0, 660.0)
D5 = 586.6667


def tone(f_hz: float = D5, seconds: float = 2.0, until_s: float = 1.0) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    return np.where(t < until_s, 0.1 * np.sin(2 * np.pi * f_hz * t), 0.0)


def level_db(rings: np.ndarray | None, string: int, from_s: float, to_s: float) -> float:
    assert rings is not None
    part = rings[string, round(from_s * RATE) : round(to_s * RATE)]
    return float(10 * np.log10(np.mean(part**2) / (0.5 * 0.01) + 1e-15))


def rung(*uses: Use, touch: Touch | None = None, **about: object) -> np.ndarray | None:
    faults = [Sympathy(coupling_db=-20.0, **about), *([touch] if touch else [])]  # type: ignore[arg-type]
    return sympathetic(tone(), faults, uses, OPEN_HZ, RATE)


def test_a_string_left_alone_rings_at_the_coupling_and_dies_away() -> None:
    rings = rung(t60_s=2.0)
    assert level_db(rings, 1, 0.95, 1.0) == pytest.approx(-20.0, abs=1.0)
    assert level_db(rings, 3, 1.1, 1.2) < -55.0  # the E string has nothing of D5
    fell = level_db(rings, 1, 1.1, 1.2) - level_db(rings, 1, 1.5, 1.6)
    assert fell == pytest.approx(60 * 0.4 / (2.0 / 2**0.5), rel=0.05)


def test_a_string_that_is_stopped_cannot_ring_and_starts_from_rest() -> None:
    held = rung(Use(string=1, from_s=0.0, to_s=1.0))
    assert level_db(held, 1, 0.2, 0.9) < -100.0
    assert level_db(held, 1, 1.1, 1.9) < -100.0
    stopped_after = rung(Use(string=1, from_s=1.0, to_s=2.0))
    assert level_db(stopped_after, 1, 0.9, 1.0) > -25.0
    assert level_db(stopped_after, 1, 1.1, 1.9) < -100.0
    other = rung(Use(string=2, from_s=0.0, to_s=1.0))
    assert level_db(other, 1, 1.1, 1.2) > -40.0


def test_a_finger_on_the_string_damps_it_likewise() -> None:
    damped = rung(touch=Touch(string=1, from_s=1.2, to_s=1.8))
    assert level_db(damped, 1, 1.1, 1.2) > -40.0
    assert level_db(damped, 1, 1.3, 1.7) < -100.0
    assert level_db(rung(muted=(1,)), 1, 0.5, 1.5) < -100.0


def test_a_string_bowed_open_rings_on_by_itself_and_not_while_it_is_bowed() -> None:
    opened = rung(Use(string=1, from_s=0.0, to_s=1.0, is_open=True), own_db=-10.0)
    assert level_db(opened, 1, 0.2, 0.9) < -100.0
    free = rung()
    after = level_db(opened, 1, 1.05, 1.1) - level_db(free, 1, 1.05, 1.1)
    assert after == pytest.approx(10.0, abs=0.5)


def test_strings_and_partials_are_coupled_unlike() -> None:
    both = tone(D5) + tone(2 * D5)
    plain = sympathetic(both, [Sympathy(coupling_db=-20.0)], (), OPEN_HZ, RATE)
    other = sympathetic(
        both, [Sympathy(coupling_db=-20.0, step_db=3.0, slope_db=4.0)], (), OPEN_HZ, RATE
    )
    weaker = level_db(plain, 1, 1.1, 1.2) - level_db(other, 1, 1.1, 1.2)
    assert 3.0 + 4.0 <= weaker + 0.1 <= 3.0 + 8.0


def test_a_string_that_is_out_rings_less_and_at_its_own_place() -> None:
    true, out = rung(t60_s=1.5), rung(t60_s=1.5, out_string=1, out_cents=-8.0)
    assert level_db(out, 1, 1.1, 1.2) < level_db(true, 1, 1.1, 1.2) - 8.0
    assert out is not None
    part = out[1, round(1.05 * RATE) : round(1.95 * RATE)]
    spectrum = np.abs(np.fft.rfft(part * np.hanning(len(part)), 8 * len(part)))
    peak = np.argmax(spectrum) * RATE / (8 * len(part))
    assert 1200 * np.log2(peak / D5) == pytest.approx(-8.0, abs=1.0)


def test_which_string_a_note_keeps() -> None:
    notes = play(note_list("D5 D4 G3+D4", instrument_id="violin"), seed=1).notes
    uses = strings_in_use(notes, OPEN_HZ)
    assert [(u.string, u.is_open) for u in uses] == [
        (2, False), (1, True), (1, True), (0, True)
    ]  # fmt: skip


def test_without_sympathy_nothing_rings() -> None:
    assert sympathetic(tone(), [], (), OPEN_HZ, RATE) is None
    sound = play(note_list("D5 E5", instrument_id="violin"), seed=1).sound
    assert sound.ring is None


def test_the_open_string_is_bowed_as_its_peg_has_it() -> None:
    faults = parse_faults("sympathy out_string=1 out_cents=-12")
    notes = play(note_list("D4 E4", instrument_id="violin"), seed=1, faults=faults).notes
    assert [round(n.cents) for n in notes] == [-12, 0]
