"""The page of double stops: ladders with their way, a stop over takes, each line alone."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QImage, QPainter

from aim_builders import jig_of, note
from builders import heard as heard_from
from builders import segment
from jigwright.core.gauge.two_strings import measure_double
from jigwright.core.judge.judging import Context, judge
from jigwright.core.judge.open_answers import open_answer
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL, Reference, just
from jigwright.core.sound.heard import Pair
from jigwright.core.tone import RATE_HZ, ToneLine, line_tones
from jigwright.services.practising import PastNote
from jigwright.ui.painting.two_strings import IntervalLadder, ladder_at, paint_ladders
from jigwright.ui.theme import LIGHT
from jigwright.ui.viewmodels.desk.stops import StopsModel
from pair_builders import pair

RECT = QRectF(0, 0, 600, 300)


def context(reference: Reference = EQUAL) -> Context:
    violin = instrument("violin")
    return Context(
        instrument_id="violin", strings=violin.strings, a4_hz=440.0, reference=reference,
        tolerance_cents=8.0,
    )  # fmt: skip


def desk_with(line: str, pairs: list[Pair | None], reference: Reference = EQUAL):  # type: ignore[no-untyped-def]
    """A desk that shows a take of some stops and single notes."""
    jig = jig_of(line)
    segments, kept, measured = [], [], []
    for i, one in enumerate(pairs):
        onset_s = 1.0 + 2.0 * i
        if one is None:
            seg = segment(440.0, onset_s, seconds=1.5)
        else:
            one = replace(one, onset_s=onset_s, times_s=one.times_s + onset_s - one.onset_s,
                          offset_s=onset_s + 1.5)  # fmt: skip
            seg = replace(segment(one.lower_hz, onset_s, seconds=1.5), i_pair=len(kept))
            kept.append(one)
        segments.append(seg)
        double = measure_double(one, seg, 700.0 if one is not None else None)
        measured.append(replace(note(jig, i).measured, segment=seg, double=double))
    notes = judge(measured, jig, context(reference))
    return SimpleNamespace(
        judged=SimpleNamespace(notes=notes), heard=replace(heard_from(segments), pairs=tuple(kept)),
        take_jig=lambda: jig, context=lambda: context(reference), selected=0,
        selected_note=lambda: notes[0], past_stops_of_selected=lambda: ("past",),
    )  # fmt: skip


FIFTH = pair([20.0] * 3 + [-10.0] * 3 + [0.0] * 10)
FIFTH_LINE = "D4+A4 A4 D4+A4"


def ladders(desk) -> tuple[IntervalLadder | None, ...]:  # type: ignore[no-untyped-def]
    return StopsModel(desk).ladders()


def test_a_ladder_shows_the_way_and_its_beats() -> None:
    first, none, second = ladders(desk_with(FIFTH_LINE, [FIFTH, None, FIFTH]))
    assert none is None
    assert first is not None
    assert second is not None
    assert [c for _, c in first.way][:2] == pytest.approx([20.0, 20.0], abs=0.1)
    assert first.way[-1][1] == pytest.approx(0.0, abs=0.1)
    assert first.way[0][0] == pytest.approx(0.085)
    assert first.beats[0] > 5.0
    assert first.beats[-1] == pytest.approx(0.0, abs=1e-6)
    assert first.interval_cents == pytest.approx(0.0, abs=0.2)
    assert [name for name, _ in first.rungs] == ["equal"]  # Pythagorean is pure here


def test_without_partials_that_meet_nothing_ripples() -> None:
    second = pair([0.0] * 12, ratio=9 / 8 * 2 ** (2 / 12))
    (one,) = ladders(desk_with("D4+F#4", [second]))
    assert one is not None
    assert len(one.way) == 12


def test_the_reference_has_its_own_rung_where_another_place_would_be_pure() -> None:
    stop = pair([0.0] * 12, lower_hz=294.33, ratio=32 / 27)
    (one,) = ladders(desk_with("D4+F4", [stop], just(jig_of("D4").key.tonic)))
    assert one is not None
    rungs = dict(one.rungs)
    assert rungs["9:8"] == pytest.approx(-21.5, abs=0.1)
    assert one.interval_cents == pytest.approx(-21.5, abs=0.3)
    assert all(abs(c + 21.5) > 1.0 for n, c in one.rungs if n != "9:8")


def fingered(line: str, heads: list[tuple[int, int]]):  # type: ignore[no-untyped-def]
    jig = jig_of(line)
    (event,) = jig.events
    placed = tuple(
        replace(h, string=s, finger=f) for h, (s, f) in zip(event.heads, heads, strict=True)
    )
    return replace(jig, events=(replace(event, heads=placed),))


@pytest.mark.parametrize(
    ("line", "heads", "ratio", "name", "wide"),
    [
        # E on the D string with the open A: pure with G lies a comma lower, so the fourth is wide
        ("E4+A4", [(1, 1), (2, 0)], 4 / 3, "pure with G", 21.5),
        # and with the open G the sixth of the A's E is a comma wide
        ("G3+E4", [(0, 0), (1, 1)], 5 / 3, "pure with A", 21.5),
    ],
)
def test_the_string_on_the_other_side_has_a_rung(
    line: str, heads: list[tuple[int, int]], ratio: float, name: str, wide: float
) -> None:
    jig = fingered(line, heads)
    lower_hz = 440.0 / (4 / 3) if line == "E4+A4" else 440.0 * 4 / 9
    desk = desk_with(line, [pair([0.0] * 12, lower_hz=lower_hz, ratio=ratio)])
    desk.take_jig = lambda: jig
    (one,) = ladders(desk)
    assert one is not None
    assert dict(one.rungs)[name] == pytest.approx(wide, abs=0.1)


def test_two_stopped_strings_have_no_other_answer() -> None:
    jig = fingered("E4+C5", [(1, 1), (2, 2)])
    desk = desk_with("E4+C5", [pair([0.0] * 12, lower_hz=330.0, ratio=1.6)])
    (played,) = desk.judged.notes
    assert open_answer(played, jig, context()) is None
    assert open_answer(played, None, context()) is None
    both_open = fingered("D4+A4", [(1, 0), (2, 0)])
    assert open_answer(played, both_open, context()) is None


def test_a_single_note_has_no_history_of_stops() -> None:
    desk = desk_with(FIFTH_LINE, [FIFTH, None, FIFTH])
    assert StopsModel(desk).history() == ("past",)
    desk.selected_note = lambda: desk.judged.notes[1]
    assert StopsModel(desk).history() == ()
    desk.selected_note = lambda: None
    assert StopsModel(desk).history() == ()


def pitch_of(sound: np.ndarray, start_s: float, stop_s: float) -> float:
    part = sound[round(start_s * RATE_HZ) : round(stop_s * RATE_HZ)]
    spectrum = np.abs(np.fft.rfft(part * np.hanning(len(part)), 1 << 19))
    return float(np.argmax(spectrum) * RATE_HZ / (1 << 19))


def test_each_line_is_heard_as_it_was_played() -> None:
    model = StopsModel(desk_with(FIFTH_LINE, [FIFTH, None, FIFTH]))
    lower, upper = model.line("lower"), model.line("upper")
    assert len(lower) == len(upper) == round(5.5 * RATE_HZ)
    assert pitch_of(lower, 0.7, 1.4) == pytest.approx(294.0, abs=0.5)
    assert pitch_of(upper, 0.7, 1.4) == pytest.approx(441.0, abs=0.5)
    assert pitch_of(upper, 0.05, 0.25) > 443.0  # the way is in it
    assert pitch_of(lower, 2.2, 3.2) == pytest.approx(440.0, abs=0.5)  # a single note is in both
    assert np.abs(lower[round(1.6 * RATE_HZ) : round(1.9 * RATE_HZ)]).max() == 0.0
    assert len(StopsModel(SimpleNamespace(judged=None)).line("lower")) == 0


def test_a_note_that_is_still_on_gives_way_to_the_next() -> None:
    def tone(onset_s: float, offset_s: float, f_hz: float) -> ToneLine:
        return ToneLine(
            onset_s=onset_s,
            offset_s=offset_s,
            times_s=np.array([onset_s]),
            track_hz=np.array([f_hz]),
        )

    sound = line_tones([tone(3.0, 5.0, 300.0), tone(4.0, 4.5, 400.0)])
    assert pitch_of(sound, 0.1, 0.9) == pytest.approx(300.0, abs=0.5)
    assert pitch_of(sound, 1.05, 1.45) == pytest.approx(400.0, abs=1.0)
    assert 0.05 < np.abs(sound).max() < 0.25
    assert np.abs(np.diff(sound)).max() < 0.06  # nothing jumps
    assert len(line_tones([])) == 0


def painted(ladder: IntervalLadder) -> np.ndarray:
    image = QImage(600, 300, QImage.Format.Format_RGB32)
    image.fill(LIGHT.color("paper"))
    painter = QPainter(image)
    paint_ladders(painter, RECT, [ladder], LIGHT)
    painter.end()
    raw = image.constBits().asstring(image.sizeInBytes())
    return np.frombuffer(raw, dtype=np.uint8).reshape(300, 600, 4)[:, :, :3].copy()


def plain(**changes: object) -> IntervalLadder:
    values = {
        "lower": "D4", "upper": "A4", "interval_cents": 0.0, "uncertainty_cents": 1.0, "rungs": (),
        "beats_hz": 0.0, "balance_db": 0.0, "mover": "upper",
        "way": tuple((0.1 * k, 0.0) for k in range(12)), "beats": (0.0,) * 12,
    }  # fmt: skip
    return IntervalLadder(**(values | changes))  # type: ignore[arg-type]


@pytest.mark.usefixtures("qapp")
def test_the_way_is_drawn_and_ripples_where_it_beats() -> None:
    still = painted(plain())
    wide = painted(plain(way=tuple((0.1 * k, 20.0 if k < 4 else 0.0) for k in range(12))))
    assert (still != wide).any()
    moved = np.flatnonzero((still != wide).any(axis=2).any(axis=1))
    assert moved.min() < 0.45 * 300 - 20  # wide is above pure
    rippled = painted(plain(beats=(6.0,) * 6 + (0.0,) * 6))
    x = np.flatnonzero((still != rippled).any(axis=2).any(axis=0))
    assert x.max() - x.min() > 15
    assert x.max() < 120 + 0.65 * 120  # the later half lies still
    assert (painted(plain(way=(), beats=())) != still).any()


def test_a_bead_is_found_where_it_is_drawn() -> None:
    two = [None, plain(), None, plain()]
    assert ladder_at(RECT, two, QPointF(125, 100)) == 1
    assert ladder_at(RECT, two, QPointF(239, 100)) == 1
    assert ladder_at(RECT, two, QPointF(241, 100)) == 3
    assert ladder_at(RECT, two, QPointF(119, 100)) is None
    assert ladder_at(RECT, two, QPointF(361, 100)) is None
    assert ladder_at(RECT, two, QPointF(125, 301)) is None
    assert ladder_at(RECT, [None], QPointF(125, 100)) is None


# the way back after a miss on either side


def past(*cents: float, unsure: float = 1.0) -> tuple[PastNote, ...]:
    return tuple(
        PastNote(take_id=f"t{i}", number=i + 1, cents=c, uncertainty_cents=unsure, standing="in")
        for i, c in enumerate(cents)
    )


def back(*cents: float, unsure: float = 1.0) -> tuple[str, float] | None:
    desk = desk_with("E4+G4", [pair([0.0] * 6, lower_hz=329.63, ratio=6 / 5)])
    desk.past_stops_of_selected = lambda: past(*cents, unsure=unsure)
    return StopsModel(desk).way_back()


@pytest.mark.parametrize(
    ("cents", "share"),
    [
        ((-20.0, 10.0), 1 / 3),
        ((9.0, -9.0), 0.5),
        ((50.0, 50.0, -6.0, 18.0), 0.75),  # the last two only
        ((3.1, -3.1), 0.5),
    ],
)
def test_between_two_misses_of_a_stop_lies_the_place(
    cents: tuple[float, ...], share: float
) -> None:
    found = back(*cents)
    assert found is not None
    assert found[0] == "E–G"
    assert found[1] == pytest.approx(share)


@pytest.mark.parametrize("cents", [(-20.0, -10.0), (-20.0, 2.9), (2.9, -20.0), (-20.0,), ()])
def test_no_way_back_without_a_miss_on_either_side(cents: tuple[float, ...]) -> None:
    assert back(*cents) is None


@pytest.mark.parametrize(("unsure", "said"), [(9.9, True), (10.0, False)])
def test_a_take_that_may_have_been_pure_is_no_miss(unsure: float, said: bool) -> None:
    assert (back(-20.0, 10.0, unsure=unsure) is not None) is said
    assert (back(10.0, -20.0, unsure=unsure) is not None) is said


def test_a_single_note_has_no_way_back_here() -> None:
    desk = desk_with("E4", [None])
    desk.past_stops_of_selected = lambda: past(-20.0, 10.0)
    assert StopsModel(desk).way_back() is None
    desk.selected_note = lambda: None
    assert StopsModel(desk).way_back() is None
