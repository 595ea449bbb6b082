"""The map of a piece: bars as a fabric, one thread for each take that touched them.

A thread is filled from below by the share of the bar's notes that were met; what was not met stays
open above it. The newest thread stands at the right and is darkest. Parallel places have the same
letter under them; a bar of theirs that differs has a gap in its line. A turned corner means that
somebody left words at a note of the bar.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from jigwright.core.jig.parallels import Parallel
from jigwright.core.judge.piece_map import MOST_THREADS, BarCell, Thread
from jigwright.ui.theme import Palette, sans

CELL_PX, ROW_PX = 42.0, 62.0
_TOP_PX, _CLOTH_PX, _GAP_PX = 15.0, 28.0, 4.0
_OLDEST_ALPHA = 90
_MOST_LETTERS = 26


@dataclass(frozen=True, slots=True, kw_only=True)
class MapData:
    """What is drawn.

    Parameters
    ----------
    cells : tuple of BarCell
    pairs : tuple of Parallel
        The longest first.
    chosen : (int, int) or None
        First and last bar.
    """

    cells: tuple[BarCell, ...]
    pairs: tuple[Parallel, ...] = ()
    chosen: tuple[int, int] | None = None


def bars_in_row(width: float) -> int:
    """Bars that fit side by side."""
    return max(1, int(width // CELL_PX))


def map_height(n_bars: int, width: float) -> float:
    """Pixels that the map wants at a width."""
    return ROW_PX * -(-n_bars // bars_in_row(width)) + 4.0


def bar_at(x: float, y: float, n_bars: int, width: float) -> int | None:
    """The bar under a point, counted from 0."""
    per_row = bars_in_row(width)
    column, row = int(x // CELL_PX), int(y // ROW_PX)
    i = row * per_row + column
    inside = 0 <= column < per_row and row >= 0 and 0 <= i < n_bars and x >= 0 and y >= 0
    return i if inside else None


def lettered(pairs: Sequence[Parallel]) -> dict[int, tuple[str, bool]]:
    """Letter under every bar of a parallel place, and whether it differs from its pair there.

    A place that moves like two others has one letter with both.
    """
    letters: dict[int, tuple[str, bool]] = {}
    n = 0
    for pair in pairs:
        ranges = [range(a, a + pair.n_bars) for a in (pair.first, pair.second)]
        known = next((letters[b][0] for r in ranges for b in r if b in letters), None)
        if known is None:
            if n >= _MOST_LETTERS:
                continue
            known = chr(ord("a") + n)
            n += 1
        for bars in ranges:
            for k, bar in enumerate(bars):
                letters.setdefault(bar, (known, k in pair.differ))
    return letters


def paint_piece_map(painter: QPainter, rect: QRectF, data: MapData, palette: Palette) -> None:
    """Draw the whole fabric, as many bars in a row as fit."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    per_row = bars_in_row(rect.width())
    letters = lettered(data.pairs)
    for k, cell in enumerate(data.cells):
        row, column = divmod(k, per_row)
        box = QRectF(rect.left() + column * CELL_PX, rect.top() + row * ROW_PX, CELL_PX, ROW_PX)
        cloth = QRectF(box.left() + 2, box.top() + _TOP_PX, CELL_PX - _GAP_PX, _CLOTH_PX)
        if data.chosen is not None and data.chosen[0] <= k <= data.chosen[1]:
            painter.fillRect(box.adjusted(0, 1, 0, -3), palette.color("band"))
        if column == 0 or cell.number % 4 == 1:
            painter.setFont(sans(11))
            painter.setPen(palette.color("ink2"))
            painter.drawText(
                QRectF(box.left() + 2, box.top(), CELL_PX, _TOP_PX),
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, str(cell.number),
            )  # fmt: skip
        _cloth(painter, cloth, cell, palette)
        if cell.said:
            _corner(painter, cloth, palette)
        if k in letters:
            before = letters.get(k - 1)
            new = before is None or before[0] != letters[k][0] or column == 0
            _letter(painter, cloth, *letters[k], new=new, palette=palette)


def _corner(painter: QPainter, cloth: QRectF, palette: Palette) -> None:
    """A turned corner: somebody left words in this bar."""
    x, y = cloth.right() + 0.5, cloth.top() - 0.5
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("accent"))
    painter.drawPolygon(QPolygonF([QPointF(x - 10, y), QPointF(x, y), QPointF(x, y + 10)]))


def _cloth(painter: QPainter, cloth: QRectF, cell: BarCell, palette: Palette) -> None:
    """One bar: its threads, or the frame of a bar nobody has played."""
    if cell.span is None:  # a bar of rest
        y = cloth.center().y()
        painter.setPen(QPen(palette.color("line"), 3))
        painter.drawLine(QPointF(cloth.left() + 8, y), QPointF(cloth.right() - 8, y))
        return
    if not any(t.share is not None for t in cell.threads):
        painter.setPen(QPen(palette.color("line"), 1.2, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(cloth, 3, 3)
        return
    painter.fillRect(cloth, palette.color("paper"))
    width = cloth.width() / MOST_THREADS
    first = MOST_THREADS - len(cell.threads)
    for k, thread in enumerate(cell.threads):
        place = QRectF(
            cloth.left() + (first + k) * width + 0.6, cloth.top(), width - 1.2, cloth.height()
        )
        age = len(cell.threads) - 1 - k
        alpha = max(_OLDEST_ALPHA, 255 - 33 * age)
        _thread(painter, place, thread, palette, alpha)
    painter.setPen(QPen(palette.color("line"), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(cloth, 3, 3)


def _thread(painter: QPainter, place: QRectF, thread: Thread, palette: Palette, alpha: int) -> None:
    share = thread.share
    if share is None:
        painter.fillRect(
            QRectF(place.left(), place.bottom() - 2, place.width(), 2), palette.color("line")
        )
        return
    height = place.height() * share
    painter.fillRect(
        QRectF(place.left(), place.bottom() - height, place.width(), height),
        palette.color("low", alpha),
    )
    if share < 1.0:
        painter.fillRect(
            QRectF(place.left(), place.top(), place.width(), place.height() - height),
            palette.color("high", alpha // 3),
        )


def _letter(
    painter: QPainter, cloth: QRectF, letter: str, differs: bool, *, new: bool, palette: Palette
) -> None:
    y = cloth.bottom() + 9
    left = cloth.left() + (11 if new else -_GAP_PX)
    painter.setPen(QPen(palette.color("accent"), 2.0))
    if differs:
        middle = cloth.center().x()
        painter.drawLine(QPointF(left, y), QPointF(middle - 5, y))
        painter.drawLine(QPointF(middle + 5, y), QPointF(cloth.right(), y))
    else:
        painter.drawLine(QPointF(left, y), QPointF(cloth.right(), y))
    if new:
        painter.setFont(sans(12, italic=True))
        painter.drawText(
            QRectF(cloth.left(), y - 9, 12, 16),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, letter,
        )  # fmt: skip
