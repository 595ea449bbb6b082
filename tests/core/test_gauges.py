from __future__ import annotations

import numpy as np
import pytest

from jigwright.core.gauge.arrival import ArrivalParams, measure_arrival
from jigwright.core.gauge.level import LevelParams, measure_level
from jigwright.core.gauge.values import Arrival, Level, Vibrato
from jigwright.core.gauge.vibrato import VibratoParams, measure_vibrato, window_gain
from jigwright.core.gauge_maths import fit_sinusoid, robust_line
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.measured import MeasuredNote, measure_notes
from jigwright.core.music.instruments import INSTRUMENTS
from jigwright.core.sound.frame_params import frame_params, usual_window_s
from jigwright.core.sound.heard import Contours, Segment
from jigwright.core.values import Unmeasured
from signals import listen, perform, scale

HOP = 0.005


def contour(cents: np.ndarray, level: np.ndarray | None = None) -> tuple[Contours, Segment]:
    n = len(cents)
    contours = Contours(
        f0_hz=440.0 * 2 ** (cents / 1200),
        level_db=np.full(n, -20.0) if level is None else level,
        clarity=np.ones(n),
        centroid_hz=np.full(n, 1500.0),
        loudness_db=np.full(n, -20.0),
    )
    segment = Segment(
        onset_s=0.0, offset_s=n * HOP, core_start_s=0.1, core_end_s=(n - 8) * HOP, f0_hz=440.0,
        uncertainty_cents=0.5, spread_cents=0.0, drift_cents_per_s=0.0, level_dbfs=-20.0,
        attack_db=40.0, clarity=1.0, slurred=False,
    )  # fmt: skip
    return contours, segment


def measured(kind: str, faults: str, *, tempo: float = 60.0) -> tuple[MeasuredNote, ...]:
    jig = scale(kind, tempo=tempo)
    heard = listen(perform(jig, faults))
    return follow_and_measure(heard, jig, a4_hz=440.0, instrument_id=kind)[1]


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
@pytest.mark.parametrize(("rate", "extent"), [(4.0, 20.0), (5.5, 45.0), (7.0, 70.0)])
def test_vibrato_through_sound(kind: str, rate: float, extent: float) -> None:
    notes = measured(kind, f"vibrato rate_hz={rate} extent_cents={extent}")
    good = 0
    for note in notes:
        v = note.vibrato
        assert isinstance(v, Vibrato)
        assert v.present
        close = abs(v.rate_hz - rate) < 0.2
        good += close and abs(v.extent_cents - extent) < max(2.0, 0.08 * extent)
    assert good >= 0.9 * len(notes)


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
def test_steady_notes_have_no_vibrato_and_land(kind: str) -> None:
    for note in measured(kind, "noise snr_db=35"):
        assert isinstance(note.vibrato, Vibrato)
        assert not note.vibrato.present
        assert isinstance(note.arrival, Arrival)
        assert note.arrival.kind == "landed"
        assert isinstance(note.level, Level)
        assert note.level.shape == "level"
        assert np.isnan(note.level.tremor_hz)


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
@pytest.mark.parametrize(("cents", "want"), [(-40, "slid_up"), (60, "slid_down")])
def test_slides(kind: str, cents: float, want: str) -> None:
    notes = measured(kind, f"slide from_cents={cents} seconds=0.2")
    kinds = [n.arrival.kind for n in notes if isinstance(n.arrival, Arrival)]
    assert kinds.count(want) >= 0.9 * len(notes)
    settle = np.median([n.arrival.settle_s for n in notes if isinstance(n.arrival, Arrival)])
    assert 0.1 < settle < 0.23


@pytest.mark.parametrize("kind", ["violin", "cello"])
def test_hunting_is_not_vibrato(kind: str) -> None:
    notes = measured(kind, "hunt size_cents=40 seconds=0.4")
    kinds = [n.arrival.kind for n in notes if isinstance(n.arrival, Arrival)]
    assert kinds.count("hunted") >= 0.9 * len(notes)
    notes = measured(kind, "vibrato extent_cents=50 rate_hz=5.5")
    kinds = [n.arrival.kind for n in notes if isinstance(n.arrival, Arrival)]
    assert kinds.count("hunted") == 0


@pytest.mark.parametrize("kind", sorted(INSTRUMENTS))
@pytest.mark.parametrize("shape", ["grow", "fade", "swell", "dip"])
def test_level_shapes(kind: str, shape: str) -> None:
    notes = measured(kind, f"shape kind={shape} db=9")
    shapes = [n.level.shape for n in notes if isinstance(n.level, Level)]
    assert shapes.count(shape) >= 0.9 * len(notes)
    if shape in ("grow", "fade"):
        slopes = [n.level.slope_db_per_s for n in notes if isinstance(n.level, Level)]
        assert abs(abs(np.median(slopes)) - 9.0) < 1.5


def test_gain_leaves_differences_alone() -> None:
    quiet = measured("violin", "shape kind=grow db=6; gain db=-15")
    loud = measured("violin", "shape kind=grow db=6; gain db=0")
    for a, b in zip(quiet, loud, strict=True):
        assert isinstance(a.level, Level)
        assert isinstance(b.level, Level)
        assert a.level.slope_db_per_s == pytest.approx(b.level.slope_db_per_s, abs=0.3)
        assert b.level.mean_dbfs - a.level.mean_dbfs == pytest.approx(15.0, abs=0.3)


def test_vibrato_maths() -> None:
    t = np.arange(200) * HOP
    rate, half, _, share = fit_sinusoid(t, 12 * np.sin(2 * np.pi * 5.3 * t + 1) + 3 * t)
    assert rate == pytest.approx(5.3, abs=0.05)
    assert half == pytest.approx(12.0, abs=0.2)
    assert share > 0.99
    # the stated shrinking of a 61 Hz bass note in a 76 ms window
    assert [round(window_gain(r, 0.076), 2) for r in (4, 5.5, 7)] == pytest.approx(
        [0.92, 0.86, 0.79], abs=0.02
    )
    slope, start = robust_line(t, np.where(t == t[50], 99.0, 2 * t + 1))
    assert (slope, start) == pytest.approx((2.0, 1.0), abs=1e-6)


def test_tremor_is_told_from_vibrato() -> None:
    t = np.arange(300) * HOP
    shaking = -20 + 2 * np.sin(2 * np.pi * 6.5 * t)
    contours, segment = contour(np.zeros(300), shaking)
    got = measure_level(contours, segment, Unmeasured("too_short"), LevelParams())
    assert isinstance(got, Level)
    assert got.tremor_hz == pytest.approx(6.5, abs=0.3)
    assert got.tremor_db == pytest.approx(4.0, abs=0.6)
    waving, segment = contour(15 * np.sin(2 * np.pi * 6.5 * t), shaking)
    v = measure_vibrato(waving, segment, VibratoParams(), window_s=0.012)
    calm = measure_level(waving, segment, v, LevelParams())
    assert isinstance(calm, Level)
    assert np.isnan(calm.tremor_hz)


def test_too_short_is_refused_not_guessed() -> None:
    contours, segment = contour(np.zeros(20))
    assert measure_vibrato(contours, segment, VibratoParams(), window_s=0.012) == Unmeasured(
        "too_short"
    )
    blur = 0.5 * usual_window_s("violin")
    no = Unmeasured("too_short")
    assert isinstance(
        measure_arrival(contours, segment, no, ArrivalParams(), blur_s=blur), Unmeasured
    )
    broken = np.zeros(200)
    broken[::2] = np.nan
    contours, segment = contour(broken)
    assert measure_vibrato(contours, segment, VibratoParams(), window_s=0.012) == Unmeasured(
        "pitch_broken"
    )


def test_a_take_carries_the_window_it_was_heard_with() -> None:
    """A five-string bass has longer windows: its vibrato was measured 8 per cent too narrow."""
    from dataclasses import replace

    from jigwright.core.follow.align import line_up
    from jigwright.core.follow.moves import FollowParams
    from jigwright.core.jig.model import note_list
    from jigwright.core.sound.intake import choose_signal
    from jigwright.core.sound.listen import hear

    jig = note_list("G1 A1 G1", instrument_id="bass", tempo_bpm=40.0)
    one = perform(jig, "vibrato rate_hz=5.5 extent_cents=60")
    signal = choose_signal(one.sound.samples, one.sound.rate_hz)
    bass = INSTRUMENTS["bass"]
    for lowest_hz in (41.2, 30.87):
        heard = hear(signal, bass, lowest_open_hz=lowest_hz)
        assert heard.window_s == frame_params("bass", lowest_hz, bass.highest_hz).window_s
        lined = line_up(heard.segments, jig, a4_hz=440.0, params=FollowParams())
        widths = [n.vibrato.extent_cents for n in measure_notes(heard, lined, "bass", jig)]
        assert np.median(widths) == pytest.approx(60.0, rel=0.04)
    plain = tuple(replace(s, swing_cents=0.0, swing_gain=0.0) for s in heard.segments)
    unknown = measure_notes(replace(heard, window_s=0.0, segments=plain), lined, "bass", jig)
    assert np.median([n.vibrato.extent_cents for n in unknown]) < 57.0  # as if usually strung


@pytest.mark.parametrize(
    ("kind", "seconds"),
    [("violin", 0.01225), ("viola", 0.0184), ("cello", 0.0368), ("bass", 0.058)],
)
def test_usual_windows(kind: str, seconds: float) -> None:
    assert usual_window_s(kind) == pytest.approx(seconds, rel=0.01)
    assert INSTRUMENTS[kind].analysis_rate_hz % 200 == 0
