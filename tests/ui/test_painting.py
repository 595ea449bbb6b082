from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from jigwright.ui.painting.lanes import PitchScale, tick_steps
from jigwright.ui.painting.two_strings import IntervalLadder, paint_ladders
from jigwright.ui.painting.xmap import by_note, by_time
from jigwright.ui.theme import DARK, LIGHT, Palette

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
