from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from aim_builders import playing, stroke
from jigwright.core.gauge.values import BowChange, BowEvent
from jigwright.core.judge.changes import N_POINTS, Gathered
from jigwright.core.judge.playing import Playing
from jigwright.core.sound.heard import Speech
from jigwright.ui.painting.bow_lane import paint_bow_lane
from jigwright.ui.painting.changes import ChangesPicture, paint_changes
from jigwright.ui.painting.lanes import PitchScale, tick_steps
from jigwright.ui.painting.talk import paint_talks
from jigwright.ui.painting.two_strings import IntervalLadder, paint_ladders
from jigwright.ui.painting.xmap import by_note, by_time
from jigwright.ui.theme import DARK, LIGHT, Palette

pytestmark = pytest.mark.usefixtures("qapp")  # letters are painted

heads = st.lists(st.floats(20, 900), min_size=1, max_size=30, unique_by=round).map(sorted)


@given(heads, st.floats(0, 1))
def test_the_map_by_note_is_monotone_and_two_way(xs: list[float], share: float) -> None:
    rows = [(str(i), (float(i), i + 0.9)) for i in range(len(xs))]
    xmap = by_note(rows, [(str(i), x) for i, x in enumerate(xs)], 1000.0)
    edges = [(c.x0, c.x1) for c in xmap.columns]
    assert all(a <= b for a, b in edges)
    assert all(a[1] <= b[0] + 1e-9 for a, b in zip(edges, edges[1:], strict=False))
    for i in range(len(xs)):
        t = i + 0.9 * share * 0.999
        x = xmap.x_in(i, t)
        assert xmap.columns[i].x0 <= x <= xmap.columns[i].x1
        column = xmap.columns[i]
        if column.x1 - column.x0 > 1 and column.x0 < x < column.x1 - 1e-6:
            assert xmap.time_at(x) == pytest.approx(t, abs=1e-6)
            assert xmap.row_at(x) == i


@given(st.floats(0, 100), st.floats(5, 500))
def test_the_map_by_time_is_two_way(t: float, px_per_s: float) -> None:
    xmap = by_time([(1.0, 2.0), None, (2.0, 3.0)], 100.0, px_per_s)
    assert xmap.time_at(xmap.x_at(t)) == pytest.approx(t, abs=1e-6)
    assert xmap.columns[1].start_s is None


def test_retries_share_the_column_and_extras_stand_between() -> None:
    rows = [
        ("a", (0.0, 1.0)),
        ("a", (1.0, 2.0)),
        (None, (2.0, 2.5)),
        ("b", (2.5, 3.0)),
        ("c", None),
    ]
    xmap = by_note(rows, [("a", 100.0), ("b", 200.0), ("c", 300.0)], 400.0)
    assert (xmap.columns[0].x0, xmap.columns[0].x1) == (xmap.columns[1].x0, xmap.columns[1].x1)
    assert xmap.columns[0].x0 < xmap.columns[2].x0 < xmap.columns[3].x1
    assert xmap.x_in(4, 9.0) == xmap.columns[4].x0


@given(st.floats(-200, 200))
def test_high_is_up_and_clipped(cents: float) -> None:
    scale = PitchScale(top=0.0, bottom=100.0, span=30.0)
    assert 0.0 <= scale.y(cents) <= 100.0
    assert (scale.y(cents) < 50.0) == (cents > 0) or abs(cents) < 1e-9
    assert tick_steps(30.0) == (20.0, -20.0)


def luminance(color: str) -> float:
    parts = [int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
@pytest.mark.parametrize("surface", ["paper", "panel", "band", "hover"])
@pytest.mark.parametrize("ink", ["ink", "ink2", "accent", "low", "high"])
def test_contrast(palette: Palette, surface: str, ink: str) -> None:
    a, b = sorted((luminance(getattr(palette, n)) for n in (surface, ink)), reverse=True)
    assert (a + 0.05) / (b + 0.05) >= 4.5


def ladder(interval_cents: float, **other: float) -> IntervalLadder:
    values = {"uncertainty_cents": 1.0, "beats_hz": 2.0, "balance_db": 3.0} | other
    return IntervalLadder(
        lower="D4", upper="A4", interval_cents=interval_cents, rungs=(("equal", -2.0),),
        mover="upper", **values,
    )  # fmt: skip


def painted(
    ladders: list[IntervalLadder | None], palette: Palette = LIGHT, **kwargs: int
) -> np.ndarray:
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    paint_ladders(painter, QRectF(0, 0, 400, 300), ladders, palette, **kwargs)
    painter.end()
    raw = image.constBits().asstring(image.sizeInBytes())
    return np.frombuffer(raw, dtype=np.uint8).reshape(300, 400, 4)[:, :, 2::-1]


def rows_of(picture: np.ndarray, palette: Palette, name: str) -> np.ndarray:
    color = palette.color(name)
    same = (picture == (color.red(), color.green(), color.blue())).all(axis=2)
    return np.flatnonzero(same.sum(axis=1) > 4)


@pytest.mark.usefixtures("qapp")
@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
def test_a_wide_interval_stands_high_a_narrow_one_low_and_a_pure_one_is_ink(
    palette: Palette,
) -> None:
    high = rows_of(painted([ladder(12.0)], palette), palette, "high")
    low = rows_of(painted([ladder(-12.0)], palette), palette, "low")
    assert len(high)
    assert len(low)
    assert high.mean() < low.mean() - 20
    pure = painted([ladder(0.5)], palette)
    assert not len(rows_of(pure, palette, "high"))
    assert not len(rows_of(pure, palette, "low"))


@pytest.mark.usefixtures("qapp")
def test_ladders_keep_inside_and_leave_out_what_is_unknown() -> None:
    empty = painted([])
    assert (painted([None, None]) == empty).all()
    far, edge = painted([ladder(500.0)]), painted([ladder(35.0)])
    assert rows_of(far, LIGHT, "high").min() == rows_of(edge, LIGHT, "high").min()
    nan = float("nan")
    known, unknown = painted([ladder(0.0)]), painted([ladder(0.0, beats_hz=nan, balance_db=nan)])
    assert (known != empty).sum() > (unknown != empty).sum()
    assert (painted([ladder(0.0)], selected=0) != known).any()


# the bow ---------------------------------------------------------------------------------------


def bow_lane(playing_: Playing, *, selected: int | None = None, palette: Palette = LIGHT) -> QImage:
    image = QImage(220, 30, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    xmap = by_time([(0.0, 1.0), (1.0, 2.0)], 2.0, 100.0)
    area = QRectF(0, 0, 220, 30)
    paint_bow_lane(painter, area, playing_, xmap, palette, clip=area, selected=selected)
    painter.end()
    return image


def turned(**figures: object) -> Playing:
    plain = {
        "dip_db": 24.0, "gap_ms": 100.0, "bump_db": 0.0, "noise_db": 0.0, "pitch_jolt_cents": 0.0,
    }  # fmt: skip
    one = BowChange(
        time_s=1.0, from_direction="down", to_direction="up", rows=(0, 1),
        **(plain | figures),  # type: ignore[arg-type]
    )  # fmt: skip
    strokes = tuple(
        replace(stroke(i), start_s=float(i), end_s=i + 1.0, rows=(i,)) for i in range(2)
    )
    return playing(strokes=strokes, changes=(one,))


def inked(image: QImage, x: int, palette: Palette = LIGHT) -> int:
    """Pixels of a column that are not paper."""
    paper = palette.color("paper").rgb()
    return sum(image.pixel(x, y) != paper for y in range(image.height()))


def under(image: QImage, x: int, palette: Palette = LIGHT) -> list[int]:
    """Rows below the band that hold ink in a column."""
    paper = palette.color("paper").rgb()
    return [y for y in range(LANE_BOTTOM, image.height()) if image.pixel(x, y) != paper]


LANE_BOTTOM = 26
LEFT = round(by_time([(0.0, 1.0)], 1.0, 100.0).left)


@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_a_change_is_a_hole_as_deep_as_the_level_falls(palette: Palette) -> None:
    at, band = LEFT + 102, LEFT + 50
    whole = inked(bow_lane(turned(), palette=palette), band, palette)
    assert whole >= 12
    through = inked(bow_lane(turned(), palette=palette), at, palette)
    half = inked(bow_lane(turned(dip_db=12.0), palette=palette), at, palette)
    none = inked(bow_lane(turned(dip_db=0.0), palette=palette), at, palette)
    assert through < half < none


def test_a_longer_hole_is_wider_and_a_bump_stands_out() -> None:
    def empty(gap_ms: float) -> int:
        image = bow_lane(turned(gap_ms=gap_ms))
        return sum(inked(image, x) < 4 for x in range(LEFT + 80, LEFT + 120))

    assert empty(10.0) < empty(120.0)
    flat, bump = bow_lane(turned()), bow_lane(turned(bump_db=6.0))
    beside = range(LEFT + 104, LEFT + 116)
    assert max(inked(bump, x) for x in beside) > max(inked(flat, x) for x in beside)


def test_an_angle_says_that_the_bow_turned_and_a_dash_that_it_did_not() -> None:
    middle = LEFT + 100
    unknown, same, over = (
        bow_lane(turned(heard_way=way), palette=LIGHT) for way in ("unknown", "same", "turned")
    )
    assert not under(unknown, middle)
    assert under(same, middle)
    assert under(same, middle) == under(same, middle - 3)
    assert min(under(over, middle)) > min(under(over, middle - 3))


def talk_picture(*talks: Speech, timed: bool = True, palette: Palette = LIGHT) -> QImage:
    rows = [("a", (0.0, 1.0)), ("b", (4.0, 5.0))]
    xmap = (
        by_time([(0.0, 1.0), (4.0, 5.0)], 1.0, 60.0)
        if timed
        else by_note(rows, [("a", 80.0), ("b", 200.0)], 300.0)
    )
    image = QImage(400, 80, QImage.Format.Format_RGB32)
    image.fill(palette.color("panel"))
    painter = QPainter(image)
    area = QRectF(0, 0, 400, 80)
    paint_talks(painter, area, talks, xmap, palette, clip=area)
    painter.end()
    return image


def inked_columns(image: QImage, y0: int, y1: int, palette: Palette = LIGHT) -> list[int]:
    ground = palette.color("panel").rgb()
    return [
        x for x in range(image.width()) if any(image.pixel(x, y) != ground for y in range(y0, y1))
    ]


@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_talk_is_hatched_over_its_time(palette: Palette) -> None:
    left = by_time([(0.0, 1.0)], 1.0, 60.0).left
    columns = inked_columns(
        talk_picture(Speech(start_s=1.5, end_s=3.5), palette=palette), 40, 80, palette
    )
    assert columns[0] == pytest.approx(left + 90, abs=8)
    assert columns[-1] == pytest.approx(left + 210, abs=8)
    assert inked_columns(talk_picture(palette=palette), 0, 80, palette) == []


def test_where_the_page_has_no_time_for_talk_a_line_stands() -> None:
    columns = inked_columns(talk_picture(Speech(start_s=1.5, end_s=3.5), timed=False), 40, 80)
    assert 1 <= len(columns) <= 4


def test_talk_beyond_the_page_is_not_drawn() -> None:
    assert inked_columns(talk_picture(Speech(start_s=60.0, end_s=63.0)), 0, 80) == []


def test_the_chosen_change_has_the_colour_of_the_choice() -> None:
    accent = LIGHT.color("accent").rgb()

    def has_accent(image: QImage) -> bool:
        return any(
            image.pixel(x, y) == accent for x in range(image.width()) for y in range(image.height())
        )

    assert has_accent(bow_lane(turned(), selected=1))
    assert not has_accent(bow_lane(turned(), selected=0))


def test_what_happened_in_a_stroke_stands_in_the_lane() -> None:
    plain = bow_lane(turned())
    for kind in ("bounce", "scratch", "shake", "whistle", "neighbour_string"):
        event = BowEvent(kind=kind, start_s=0.4, end_s=0.6, row=0, strength=9.0)  # type: ignore[arg-type]
        assert bow_lane(replace(turned(), events=(event,))) != plain, kind
    fold = BowEvent(kind="fold", start_s=0.4, end_s=0.6, row=0, strength=2.0)
    assert bow_lane(replace(turned(), events=(fold,))) == plain


def changes_picture(*pictures: ChangesPicture) -> QImage:
    image = QImage(240, 400, QImage.Format.Format_RGB32)
    image.fill(LIGHT.color("panel"))
    painter = QPainter(image)
    paint_changes(painter, QRectF(0, 0, 240, 400), pictures, LIGHT)
    painter.end()
    return image


def gathered_at(place: str, depth_db: float) -> Gathered:
    dip = -depth_db * np.exp(-(np.linspace(-6, 6, N_POINTS) ** 2))
    return Gathered(
        place=place, n=4, low=dip - 2, middle=dip, high=dip + 1, dip_db=depth_db, gap_ms=30.0,  # type: ignore[arg-type]
        gap_spread_ms=5.0, bump_db=0.0, jolt_cents=0.0,
    )  # fmt: skip


def test_changes_are_drawn_as_deep_as_they_are_and_the_best_beside_them() -> None:
    accent = LIGHT.color("accent").rgb()

    def lowest(image: QImage) -> int:
        return max(y for y in range(300) for x in range(100, 140) if image.pixel(x, y) == accent)

    shallow = changes_picture(ChangesPicture(now=gathered_at("frog", 6.0)))
    deep = changes_picture(ChangesPicture(now=gathered_at("frog", 18.0)))
    assert lowest(shallow) + 30 < lowest(deep)
    best = ChangesPicture(
        now=gathered_at("frog", 18.0), best=gathered_at("frog", 6.0), best_day="x"
    )
    assert changes_picture(best) != deep
    two = changes_picture(best, ChangesPicture(now=gathered_at("tip", 9.0)))
    assert two != changes_picture(best)
    blank = QImage(240, 400, QImage.Format.Format_RGB32)
    blank.fill(LIGHT.color("panel"))
    assert changes_picture() == blank
