"""Weeks across, jigs down: each cell filled by how far it was met."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from jigwright.core.judge.season import DAYS, SeasonCell, SeasonRow
from jigwright.ui.theme import Palette, sans
from jigwright.wording.daybook import short_day

ROW_PX, HEAD_PX = 24, 22
_NAME_PX, _GAP = 236.0, 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SeasonGrid:
    """Where rows and weeks lie.

    Parameters
    ----------
    rect : QRectF
    n_weeks : int
    """

    rect: QRectF
    n_weeks: int

    def cell(self, row: int, week: int) -> QRectF:
        """A cell."""
        name = min(_NAME_PX, 0.36 * self.rect.width())
        width = (self.rect.width() - name) / max(1, self.n_weeks)
        return QRectF(
            self.rect.left() + name + week * width, self.rect.top() + HEAD_PX + row * ROW_PX,
            width - _GAP, ROW_PX - _GAP,
        )  # fmt: skip

    def name(self, row: int) -> QRectF:
        """Where the title of a row stands."""
        first = self.cell(row, 0)
        return QRectF(
            self.rect.left(), first.top(), first.left() - self.rect.left() - 10, first.height()
        )

    def at(self, place: QPointF, n_rows: int) -> tuple[int, int] | None:
        """Row and week under a point."""
        return next(
            (
                (r, w)
                for r in range(n_rows)
                for w in range(self.n_weeks)
                if self.cell(r, w).contains(place)
            ),
            None,
        )


def paint_season(
    painter: QPainter, grid: SeasonGrid, rows: Sequence[SeasonRow], titles: Mapping[str, str],
    first: date, chosen: tuple[int, int] | None, palette: Palette,
) -> None:  # fmt: skip
    """Draw the weeks.

    Parameters
    ----------
    painter : QPainter
    grid : SeasonGrid
    rows : sequence of SeasonRow
    titles : mapping of str to str
        Of jigs.
    first : date
        The Monday it begins with.
    chosen : (int, int) or None
        Row and week with a frame.
    palette : Palette
    """
    painter.setFont(sans(12))
    painter.setPen(palette.color("ink2"))
    for w in range(grid.n_weeks):
        head = grid.cell(0, w).translated(0, -HEAD_PX)
        text = short_day(first + timedelta(days=DAYS * w))
        painter.drawText(head, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter, text)
    for r, row in enumerate(rows):
        painter.setFont(sans(13))
        painter.setPen(palette.color("ink"))
        where = grid.name(r)
        text = QFontMetricsF(painter.font()).elidedText(
            titles.get(row.jig_id, row.jig_id), Qt.TextElideMode.ElideRight, where.width()
        )
        painter.drawText(where, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        for w, cell in enumerate(row.cells):
            _paint_cell(painter, grid.cell(r, w), cell, palette, chosen=(r, w) == chosen)


def _paint_cell(
    painter: QPainter, rect: QRectF, cell: SeasonCell, palette: Palette, *, chosen: bool
) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.color("band", 255 if cell.take_ids else 110))
    painter.drawRoundedRect(rect, 3, 3)
    if cell.share is not None:
        height = max(2.0, cell.share * rect.height())
        filled = QRectF(rect.left(), rect.bottom() - height, rect.width(), height)
        painter.setBrush(palette.color("accent" if cell.n_met else "ink2", 150))
        painter.drawRoundedRect(filled, 2, 2)
    if cell.take_ids:
        painter.setFont(sans(11))
        painter.setPen(palette.color("ink"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, str(len(cell.take_ids)))
    if cell.kept:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette.color("ink"))
        painter.drawEllipse(QPointF(rect.right() - 6, rect.top() + 6), 3, 3)
    if chosen:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(palette.color("accent"), 2))
        painter.drawRoundedRect(rect.adjusted(-1, -1, 1, 1), 3, 3)
