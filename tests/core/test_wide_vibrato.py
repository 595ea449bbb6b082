"""Low notes with a wide vibrato in a body that makes it loud and soft: one note each, no stop."""

from __future__ import annotations

import numpy as np
import pytest

from builders import segment
from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.values import Vibrato
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import Context
from jigwright.core.judge.measured import segment_of
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import EQUAL, pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import Performance, play
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.core.values import Floats
from jigwright.services.take_reader import judge_heard

RATE = 24_000


def jig_of(kind: str, line: str) -> Jig:
    return jig_from_line(
        line, jig_id="x", instrument_id=kind, title="x", key=Key(PitchClass("C"), "major"),
        tempo_bpm=72.0,
    )  # fmt: skip


def played(kind: str, line: str, seed: int, *, cents: int = 74, more: str = "") -> Performance:
    faults = (
        f"vibrato rate_hz=5.5 extent_cents={cents} irregularity=0.08 wander=0.1 arm_s=0.15; "
        f"body ripple_db=6; wander cents=1.5 level_db=1; noise snr_db=45{more}"
    )
    return play(jig_of(kind, line), seed=seed, faults=parse_faults(faults))


def heard_of(performance: Performance, kind: str) -> Heard:
    inst = instrument(kind)
    open_hz = tuple(pure_strings(inst.strings, 440.0).values())
    return hear(
        choose_signal(performance.sound.samples, performance.sound.rate_hz), inst,
        lowest_open_hz=min(open_hz), open_hz=open_hz,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "line"),
    [("viola", "C3:2 G3:2"), ("cello", "C2:2 F2:2 A2:2"), ("bass", "G1:2 C2:2")],
)
def test_a_wide_vibrato_leaves_a_low_note_whole(kind: str, line: str) -> None:
    performance = played(kind, line, 9003)
    found = heard_of(performance, kind)
    assert not found.pairs
    inst = instrument(kind)
    context = Context(
        instrument_id=kind, strings=inst.strings, a4_hz=440.0, reference=EQUAL, tolerance_cents=10.0
    )  # fmt: skip
    blind, _ = judge_heard(found, None, context)
    assert len(blind.notes) <= len(line.split()) + 1
    judged, _ = judge_heard(found, jig_of(kind, line), context)
    assert len(judged.notes) == len(line.split())
    gauged = [n.measured.vibrato for n in judged.notes]
    told = [v for v in gauged if isinstance(v, Vibrato) and v.present]
    assert len(told) >= len(gauged) - 1
    assert all(55.0 < v.extent_cents < 95.0 for v in told)


def test_strokes_on_one_pitch_stay_strokes_under_a_wide_vibrato() -> None:
    line = "A2:1 A2:1 A2:1 A2:1"
    performance = played("cello", line, 9003, cents=50, more="; uneven dip_db=20")
    assert len(heard_of(performance, "cello").segments) == 4


# what one string cannot play ------------------------------------------------------------------


def two(low_hz: float, high_hz: float, seconds: float = 1.2) -> Floats:
    t = np.arange(round(seconds * RATE)) / RATE
    edge = np.clip(np.minimum(t, t[::-1]) / 0.03, 0.0, 1.0)
    rng = np.random.default_rng(4)
    y = sum(
        np.sin(2 * np.pi * k * f * t + rng.uniform(0, 6.28)) / k
        for f in (low_hz, high_hz)
        for k in range(1, 30)
    )
    quiet = np.zeros(RATE // 2)
    return np.concatenate([quiet, 0.05 * edge * y, quiet]) + rng.normal(0, 1e-5, len(t) + RATE)


def stops(second_hz: float) -> tuple[tuple[float, float], ...]:
    inst = instrument("cello")
    x = two(69.3, 82.4).astype(np.float32)
    found = hear(
        choose_signal(x[:, None], RATE), inst, lowest_open_hz=65.4,
        open_hz=(65.4, second_hz, 146.8, 220.0),
    )  # fmt: skip
    return tuple((p.lower_hz, p.upper_hz) for p in found.pairs)


def test_two_notes_that_would_need_one_string_are_no_stop() -> None:
    assert stops(98.0) == ()


@pytest.mark.parametrize(("second_hz", "played"), [(85.4, True), (86.2, False)])
def test_a_string_tuned_low_enough_makes_them_one(second_hz: float, played: bool) -> None:
    found = stops(second_hz)
    assert (len(found) == 1) is played
    if played:
        assert found[0] == pytest.approx((69.3, 82.4), rel=2e-3)


# a row of several pieces ------------------------------------------------------------------------


def test_a_row_ends_where_the_last_of_its_pieces_does() -> None:
    long, short = segment(220.0, 1.0, seconds=3.5), segment(220.4, 1.0, seconds=0.05)
    row = LinedNote(
        state="heard", pitch=Pitch.parse("A3"), i_event=0, note_id="n", attempt=1, segments=(0, 1)
    )
    whole = segment_of(row, [long, short])
    assert whole.onset_s == 1.0
    assert whole.offset_s == max(long.offset_s, short.offset_s)
