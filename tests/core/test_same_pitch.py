"""Whether one pitch begins again: what speaks for it, added up, and what follows from that."""

from __future__ import annotations

from dataclasses import replace
from math import log

import numpy as np
import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.doubts import decide
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.beginnings import Scene
from jigwright.core.sound.heard import HOP_S, Contours, Segment
from jigwright.core.sound.novelty import novelty
from jigwright.core.sound.same_pitch import (
    OddsParams,
    Signs,
    by_odds,
    log_odds,
    signs_at,
    weighed,
)
from jigwright.core.sound.segments import Piece
from jigwright.core.values import Floats

RATE, HOP = 24_000, 120
F_HZ = 440.0
CENTS = 1200.0 * float(np.log2(F_HZ))
PLAIN = Signs(new=0.05, stays=4.0, leads=0.8, fall_db=5.0, in_step=0.3, fits=0.8,
              spread_cents=8.0, clarity=0.9)  # fmt: skip
P = OddsParams()


# what speaks for it -----------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("change", "by"),
    [
        ({"new": 0.101}, P.new * log(2.0)),
        ({"stays": 9.0}, P.stays * log(2.0)),
        ({"leads": 0.9}, 0.1 * P.leads),
        ({"fall_db": 11.0}, P.falls * log(2.0)),
        ({"fall_db": -3.0}, -P.falls * log(6.0)),
        ({"in_step": 0.9}, 0.6 * P.in_step),
        ({"fits": 1.0}, 0.2 * P.fits),
        ({"spread_cents": 19.0}, P.restless * log(2.0)),
        ({"clarity": 0.8}, -0.1 * P.clear),
        ({"clarity": 0.1}, -0.6 * P.clear),  # less than 0.3 says no more than 0.3
        ({"in_step": None, "fits": None}, 0.05 * P.in_step + 0.05 * P.fits - P.read),
    ],
)  # fmt: skip
def test_each_sign_adds_its_share(change: dict[str, float | None], by: float) -> None:
    changed = log_odds(replace(PLAIN, **change))  # type: ignore[arg-type]
    assert changed - log_odds(PLAIN) == pytest.approx(by, abs=1e-9)


def test_the_odds_of_a_plain_moment() -> None:
    by_hand = (7.43 + 1.895 * log(0.051) - 2.975 * log(5.0) + 4.967 * 0.8 + 0.603 * log(6.0)
               - 2.985 * 0.3 + 6.015 * 0.8 + 3.269 - 0.603 * log(11.0) - 8.379 * 0.9)  # fmt: skip
    assert log_odds(PLAIN) == pytest.approx(by_hand)


@pytest.mark.parametrize(
    ("sign", "more_likely"),
    [("new", True), ("fall_db", True), ("leads", True), ("in_step", False),
     ("spread_cents", False), ("clarity", False)],
)  # fmt: skip
def test_what_is_new_falls_or_is_unclear_speaks_for_it(sign: str, more_likely: bool) -> None:
    more = replace(PLAIN, **{sign: 1.05 * getattr(PLAIN, sign)})
    assert (log_odds(more) > log_odds(PLAIN)) is more_likely


# how it is measured -----------------------------------------------------------------------------


def strokes(*starts_s: float, total_s: float = 2.0, vibrato: float = 0.0, seed: int = 0) -> Floats:
    """One pitch bowed anew at each moment, with a phase of its own and 12 ms between."""
    rng = np.random.default_rng(seed)
    t = np.arange(round(total_s * RATE)) / RATE
    cents = 0.5 * vibrato * np.sin(2 * np.pi * 5.5 * t)
    turns = np.cumsum(F_HZ * 2 ** (cents / 1200)) / RATE
    x = np.zeros_like(t)
    for start, stop in zip(starts_s, [*starts_s[1:], total_s - 0.1], strict=True):
        late, shape = rng.uniform(0.2, 0.8), 0.0
        rise = np.clip((t - start) / 0.02, 0.0, 1.0)
        fall = np.clip(1.0 - (t - stop + 0.012) / 0.012, 0.0, 1.0)
        for k in range(1, 9):
            shape = shape + np.sin(2 * np.pi * k * (turns + late) + k * k) / k
        x += 0.1 * shape * rise * fall
    return x + 1e-4 * rng.normal(size=len(t))


def scene_of(x: Floats) -> Scene:
    n = len(x) // HOP
    frames = x[: n * HOP].reshape(n, HOP)
    level = 20.0 * np.log10(np.sqrt((frames**2).mean(axis=1)) + 1e-9)
    sounds = level > -50.0
    contours = Contours(
        f0_hz=np.where(sounds, F_HZ, np.nan), level_db=level,
        clarity=np.where(sounds, 0.97, 0.0), centroid_hz=np.full(n, 900.0), loudness_db=level,
    )  # fmt: skip
    return Scene(
        x=x, rate_hz=RATE, hop_samples=HOP, contours=contours,
        new=novelty(x, RATE, HOP, n, lowest_hz=196.0), lowest_hz=190.0, highest_hz=3000.0,
    )  # fmt: skip


def piece(start_s: float, stop_s: float, **more: object) -> Piece:
    return replace(
        Piece(start=round(start_s / HOP_S), stop=round(stop_s / HOP_S), cents=CENTS,
              broken_before=True), **more,
    )  # type: ignore[arg-type]  # fmt: skip


def odds(scene: Scene, at_s: float) -> float:
    stop = round(1.9 / HOP_S)
    signs = signs_at(scene, round(at_s / HOP_S), round(0.3 / HOP_S), stop, stop)
    assert signs is not None
    return log_odds(signs)


def test_a_stroke_is_likelier_than_any_moment_of_a_tone_that_goes_on() -> None:
    turned, held = scene_of(strokes(0.3, 1.0)), scene_of(strokes(0.3))
    there = odds(turned, 1.0)
    elsewhere = [odds(held, t) for t in np.arange(0.6, 1.6, 0.1)]
    assert there > P.likely
    assert max(elsewhere) < P.unlikely


def test_what_is_measured_at_a_stroke() -> None:
    stop = round(1.9 / HOP_S)
    signs = signs_at(scene_of(strokes(0.3, 1.0)), 200, 60, stop, stop)
    assert signs is not None
    assert signs.new > 0.04
    assert signs.fall_db > 9.0
    assert signs.in_step is not None
    assert signs.in_step < 0.2
    assert signs.spread_cents == pytest.approx(0.0, abs=1e-6)
    assert signs.clarity == pytest.approx(0.97)


def test_what_goes_on_is_in_step() -> None:
    stop = round(1.9 / HOP_S)
    signs = signs_at(scene_of(strokes(0.3)), 200, 60, stop, stop)
    assert signs is not None
    assert signs.in_step == pytest.approx(1.0, abs=0.05)
    assert signs.fits == pytest.approx(1.0, abs=0.02)


def test_without_sound_before_nothing_is_said() -> None:
    scene = scene_of(strokes(0.3))
    assert signs_at(scene, 62, 60, 380, 380) is None


# what follows from it ---------------------------------------------------------------------------


def test_an_unlikely_border_is_let_go_and_stays_a_doubt() -> None:
    scene = scene_of(strokes(0.3))
    sure, doubtful = by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene)
    assert [(p.start, p.stop) for p in sure] == [(60, 380)]
    assert [(d.start, d.stop) for d in doubtful] == [(200, 380)]
    assert doubtful[0].odds < P.unlikely


def test_a_likely_border_stays() -> None:
    scene = scene_of(strokes(0.3, 1.0))
    sure, doubtful = by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene)
    assert [(p.start, p.stop) for p in sure] == [(60, 200), (200, 380)]
    assert doubtful == []


def test_a_likely_doubt_is_a_border() -> None:
    scene = scene_of(strokes(0.3, 1.0))
    sure, doubtful = by_odds([piece(0.3, 1.9)], [piece(1.0, 1.9)], scene)
    assert [(p.start, p.stop) for p in sure] == [(60, 200), (200, 380)]
    assert sure[1].begins == 200
    assert sure[1].new == pytest.approx(float(scene.new[200]))
    assert doubtful == []


def test_an_unlikely_doubt_stays_one_and_knows_its_odds() -> None:
    scene = scene_of(strokes(0.3))
    sure, doubtful = by_odds([piece(0.3, 1.9)], [piece(1.0, 1.9)], scene)
    assert [(p.start, p.stop) for p in sure] == [(60, 380)]
    assert doubtful[0].odds == pytest.approx(odds(scene, 1.0), abs=1e-6)


def test_of_doubts_close_together_the_likeliest_is_the_border() -> None:
    scene = scene_of(strokes(0.3, 1.0))
    doubts = [piece(t, 1.9) for t in (0.96, 1.0, 1.04)]
    sure, _ = by_odds([piece(0.3, 1.9)], doubts, scene)
    assert len(sure) == 2
    assert abs(sure[1].start - 200) <= 8


@pytest.mark.parametrize(
    "other",
    [{"cents": CENTS + 61.0}, {"mixed": True}, {"start": 207}],
    ids=["another pitch", "a mixture", "after a rest"],
)
def test_only_what_goes_over_within_one_pitch_is_weighed(other: dict[str, object]) -> None:
    scene = scene_of(strokes(0.3))
    after = replace(piece(1.0, 1.9), **other)  # type: ignore[arg-type]
    sure, doubtful = by_odds([piece(0.3, 1.0), after], [], scene)
    assert sure == [piece(0.3, 1.0), after]
    assert doubtful == []


@pytest.mark.parametrize(
    "other",
    [{"cents": CENTS + 61.0}, {"mixed": True}, {"broken_before": False}, {"start": 68},
     {"start": 372}],
    ids=["another pitch", "a mixture", "a slur", "its beginning", "its end"],
)  # fmt: skip
def test_only_a_doubt_of_the_pitch_inside_is_weighed(other: dict[str, object]) -> None:
    scene = scene_of(strokes(0.3, 1.0))
    doubt = replace(piece(1.0, 1.9), **other)  # type: ignore[arg-type]
    sure, doubtful = by_odds([piece(0.3, 1.9)], [doubt], scene)
    assert sure == [piece(0.3, 1.9)]
    assert doubtful == [doubt]


def test_limits_are_those_that_are_given() -> None:
    scene = scene_of(strokes(0.3))
    lax = replace(P, likely=-50.0, unlikely=-60.0)
    assert len(by_odds([piece(0.3, 1.9)], [piece(1.0, 1.9)], scene, lax)[0]) == 2
    assert len(by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene, lax)[0]) == 2


# doubtful notes that were found otherwise -------------------------------------------------------


def doubt(onset_s: float, f0_hz: float = F_HZ, **more: object):
    return replace(segment(f0_hz, onset_s, seconds=0.4), doubtful=True, **more)  # type: ignore[arg-type]


def test_a_doubt_inside_a_note_of_its_pitch_is_given_its_odds() -> None:
    scene = scene_of(strokes(0.3, 1.0))
    (found,) = weighed([doubt(1.0)], [segment(F_HZ, 0.3, seconds=1.6)], scene)
    assert found.odds > P.likely
    held = scene_of(strokes(0.3))
    (found,) = weighed([doubt(1.0)], [segment(F_HZ, 0.3, seconds=1.6)], held)
    assert found.odds < P.unlikely


@pytest.mark.parametrize(
    "one",
    [doubt(1.0, 466.16), doubt(0.2), doubt(1.0, odds=-1.25), doubt(1.0, i_pair=0)],
    ids=["another pitch", "outside", "known already", "a stop"],
)
def test_any_other_doubt_stays_as_it_is(one) -> None:
    scene = scene_of(strokes(0.3, 1.0))
    assert weighed([one], [segment(F_HZ, 0.3, seconds=1.6)], scene) == (one,)


def test_a_doubt_inside_a_stop_is_not_weighed() -> None:
    scene = scene_of(strokes(0.3, 1.0))
    stop = replace(segment(F_HZ, 0.3, seconds=1.6), i_pair=0)
    assert weighed([doubt(1.0)], [stop], scene)[0].odds is None


# a sound that grows -----------------------------------------------------------------------------


@pytest.mark.parametrize(("n_after", "weighed_now"), [(56, False), (57, True)])
def test_while_too_little_follows_nothing_is_decided(n_after: int, weighed_now: bool) -> None:
    x = strokes(0.3)
    scene = scene_of(x[: (200 + n_after) * HOP])
    known: dict[int, float] = {}
    stop = (200 + n_after) * HOP_S
    sure, _ = by_odds([piece(0.3, 1.0), piece(1.0, stop)], [], scene, known=known, i_first=1000)
    assert (len(sure) == 1) is weighed_now
    assert list(known) == ([1200] if weighed_now else [])


@pytest.mark.parametrize(
    ("frame", "used"), [(1199, True), (1200, True), (1201, True), (1202, False)]
)
def test_what_was_decided_once_stays_so(frame: int, used: bool) -> None:
    scene = scene_of(strokes(0.3, 1.0))  # a likely border
    known = {frame: P.unlikely - 0.1}
    sure, _ = by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene, known=known, i_first=1000)
    assert (len(sure) == 1) is used


@pytest.mark.parametrize(("odds", "stays"), [(P.unlikely + 0.01, True), (P.unlikely - 0.01, False)])
def test_the_limit_of_an_unlikely_border(odds: float, stays: bool) -> None:
    scene = scene_of(strokes(0.3))
    sure, _ = by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene, known={200: odds})
    assert (len(sure) == 2) is stays


@pytest.mark.parametrize(("odds", "border"), [(P.likely + 0.01, True), (P.likely - 0.01, False)])
def test_the_limit_of_a_likely_doubt(odds: float, border: bool) -> None:
    scene = scene_of(strokes(0.3))
    sure, _ = by_odds([piece(0.3, 1.9)], [piece(1.0, 1.9)], scene, known={200: odds})
    assert (len(sure) == 2) is border


@pytest.mark.parametrize(("apart", "both"), [(15, False), (16, True)])
def test_two_borders_lie_apart(apart: int, both: bool) -> None:
    scene = scene_of(strokes(0.3))
    doubts = [replace(piece(1.0, 1.9), start=s) for s in (200, 200 + apart)]
    known = {200: 3.0, 200 + apart: 2.0}
    sure, _ = by_odds([piece(0.3, 1.9)], doubts, scene, known=known)
    assert [p.start for p in sure[1:]] == ([200, 200 + apart] if both else [200])


@pytest.mark.parametrize(
    ("span_s", "struck"),
    [((0.95, 0.98), True), ((1.0, 1.0), True), ((0.9, 0.929), False), ((1.071, 1.2), False),
     ((0.2, 1.9), True)],
)  # fmt: skip
def test_a_blow_makes_a_doubt_unlikely_and_takes_no_sure_border(span_s, struck: bool) -> None:
    scene = replace(scene_of(strokes(0.3, 1.0)), struck_s=(span_s,))
    _, doubtful = by_odds([piece(0.3, 1.9)], [piece(1.0, 1.9)], scene)
    assert bool(doubtful) is struck
    if struck:
        assert doubtful[0].odds == pytest.approx(odds(scene, 1.0) - 6.0)
    sure, _ = by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene)
    assert len(sure) == 2


def test_a_border_that_stays_knows_its_odds() -> None:
    scene = scene_of(strokes(0.3, 1.0))
    sure, _ = by_odds([piece(0.3, 1.0), piece(1.0, 1.9)], [], scene)
    assert sure[1].odds == pytest.approx(odds(scene, 1.0))
    parted, _ = by_odds([piece(0.3, 1.9)], [piece(1.0, 1.9)], scene)
    assert parted[1].odds == pytest.approx(odds(scene, 1.0))
    assert (sure[0].odds, parted[0].odds) == (None, None)


# what a take without a jig makes of it ----------------------------------------------------------


def blind(doubts: list[Segment], long: Segment | None = None) -> list[float]:
    """Onsets of the notes of a long tone with doubts in it."""
    tone = long or segment(F_HZ, 0.5, seconds=2.0)
    found, at = decide([tone], doubts, None, a4_hz=440.0)
    assert at == {0: 0}
    lined = line_up(found, None, a4_hz=440.0, params=FollowParams())
    return [found[r.segments[0]].onset_s for r in lined.notes]


@pytest.mark.parametrize(
    ("its_odds", "there"), [(0.01, True), (-0.01, False), (0.0, False), (None, False)]
)
def test_without_a_jig_what_is_likelier_than_not_is_a_note(
    its_odds: float | None, there: bool
) -> None:
    assert blind([doubt(1.5, odds=its_odds)]) == ([0.5, 1.5] if there else [0.5])


def test_without_a_jig_the_likelier_of_two_close_ones_is_taken() -> None:
    assert blind([doubt(1.5, odds=1.0), doubt(1.57, odds=2.0)]) == [0.5, 1.57]
    assert blind([doubt(1.5, odds=1.0), doubt(1.59, odds=2.0)]) == [0.5, 1.5, 1.59]


@pytest.mark.parametrize("at_s", [0.55, 2.45, 3.0])
def test_without_a_jig_nothing_is_cut_off_its_ends(at_s: float) -> None:
    assert blind([doubt(at_s, odds=3.0)]) == [0.5]


def test_without_a_jig_a_stop_is_not_cut() -> None:
    stop = replace(segment(F_HZ, 0.5, seconds=2.0), i_pair=0)
    found, _ = decide([stop], [doubt(1.5, odds=3.0)], None, a4_hz=440.0)
    assert found == (stop,)


@pytest.mark.parametrize(("its_odds", "apart"), [(1.01, True), (0.99, False), (None, False)])
def test_one_written_note_bowed_twice_is_two_tries_where_that_is_sure(
    its_odds: float | None, apart: bool
) -> None:
    two = [segment(F_HZ, 0.5, seconds=1.0),
           replace(segment(F_HZ, 1.5, seconds=1.0), attack_db=2.0, odds=its_odds)]  # fmt: skip
    jig = jig_from_line("A4 B4", jig_id="j", instrument_id="violin", title="j", tempo_bpm=30.0)
    lined = line_up(two, jig, a4_hz=440.0, params=FollowParams())
    rows = [r.segments for r in lined.notes if r.segments]
    assert rows == ([(0,), (1,)] if apart else [(0, 1)])
