"""Pupils as rows: who, their latest takes as prints, and what is set until when."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from jigwright.core.judge.work import Progress, SetWork
from jigwright.services.hearing_round import MOST_SHOWN, PupilView
from jigwright.ui.painting.take_card import Print, paint_take_card
from jigwright.ui.theme import Palette, sans, serif
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import due_text, pupil_line, short_day

ROW_PX = 76
_CARD_PX, _WIDEST_PX, _GAP_PX = 92.0, 118.0, 8.0
_NAME_SHARE, _WORK_SHARE = 0.21, 0.27
_MOST_WORKS = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class BoardGrid:
    """Where rows and cards lie.

    Parameters
    ----------
    rect : QRectF
    n_rows : int
    """

    rect: QRectF
    n_rows: int

    def row(self, i: int) -> QRectF:
        """All of a pupil's row."""
        return QRectF(self.rect.left(), self.rect.top() + i * ROW_PX, self.rect.width(), ROW_PX)

    def name(self, i: int) -> QRectF:
        """Where the pupil's name stands."""
        row = self.row(i)
        return QRectF(row.left() + 14, row.top(), _NAME_SHARE * row.width() - 22, row.height())

    def work(self, i: int) -> QRectF:
        """Where set work stands."""
        row = self.row(i)
        width = _WORK_SHARE * row.width()
        return QRectF(row.right() - width, row.top(), width, row.height())

    @property
    def _room(self) -> float:
        return self.rect.width() * (1.0 - _NAME_SHARE - _WORK_SHARE) - _GAP_PX

    @property
    def n_cards(self) -> int:
        """How many takes fit."""
        return max(1, min(MOST_SHOWN, int(self._room // (_CARD_PX + _GAP_PX))))

    def card(self, i: int, k: int) -> QRectF:
        """A take's card; ``k`` counts among those that are shown."""
        row = self.row(i)
        width = min(_WIDEST_PX, self._room / self.n_cards - _GAP_PX)
        left = row.left() + _NAME_SHARE * row.width() + k * (width + _GAP_PX)
        return QRectF(left, row.top() + 7, width, ROW_PX - 14)

    def shown(self, view: PupilView, chosen: int | None = None) -> tuple[int, ...]:
        """Indices of the takes that fit: the last that was heard and what is new after it.

        Where nothing is new the newest; the chosen one is always among them.
        """
        n, most = len(view.takes), self.n_cards
        if n <= most:
            return tuple(range(n))
        first = next((k for k, t in enumerate(view.takes) if t.is_new), n) - 1
        first = max(0, min(first, n - most))
        if chosen is not None:
            first = max(min(first, chosen), chosen - most + 1)
        return tuple(range(first, first + most))

    def at(
        self, place: QPointF, views: Sequence[PupilView], chosen: tuple[int, int | None]
    ) -> tuple[int, int | None] | None:
        """Row under a point, and the index of the take there if it is one."""
        for i, view in enumerate(views):
            if not self.row(i).contains(place):
                continue
            for k, index in enumerate(self.shown(view, chosen[1] if i == chosen[0] else None)):
                if self.card(i, k).contains(place):
                    return i, index
            return i, None
        return None


def paint_pupil_board(
    painter: QPainter,
    grid: BoardGrid,
    views: Sequence[PupilView],
    prints: Mapping[str, Print],
    palette: Palette,
    *,
    at: tuple[int, int | None],
    playing: str | None = None,
    focused: bool = False,
) -> None:
    """Draw all rows.

    Parameters
    ----------
    grid : BoardGrid
    views : sequence of PupilView
    prints : mapping of str to sequence of (cents or None, standing)
        By take.
    palette : Palette
    at : (int, int or None)
        The chosen row and take.
    playing : str or None
        The take that sounds.
    focused : bool
        Whether keys come here.
    """
    for i, view in enumerate(views):
        row = grid.row(i)
        if i == at[0]:
            painter.fillRect(row.adjusted(0, 2, 0, -2), palette.color("paper"))
            painter.fillRect(
                QRectF(row.left(), row.top() + 2, 3 if focused else 2, row.height() - 4),
                palette.color("accent"),
            )
        painter.setPen(QPen(palette.color("line"), 1))
        painter.drawLine(row.bottomLeft(), row.bottomRight())
        _paint_name(painter, grid.name(i), view, palette)
        for k, index in enumerate(grid.shown(view, at[1] if i == at[0] else None)):
            one = view.takes[index]
            sounds = one.take.id == playing
            paint_take_card(
                painter, grid.card(i, k), prints.get(one.take.id, ()), palette,
                foot=short_day(one.take.day),
                mark="sounds" if sounds else "new" if one.is_new else "",
                chosen=(i, index) == at, focused=focused,
            )  # fmt: skip
        if not view.takes:
            painter.setFont(sans(13))
            painter.setPen(palette.color("ink2"))
            where = QRectF(grid.card(i, 0).left(), row.top(), 300, row.height())
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, tr("no take yet"))
        _paint_works(painter, grid.work(i), view.works, palette)


def _paint_name(painter: QPainter, rect: QRectF, view: PupilView, palette: Palette) -> None:
    painter.setFont(serif(20))
    painter.setPen(palette.color("ink"))
    name = painter.fontMetrics().elidedText(
        view.row.player.name, Qt.TextElideMode.ElideRight, round(rect.width())
    )
    painter.drawText(QPointF(rect.left(), rect.top() + 31), name)
    painter.setFont(sans(12.5))
    painter.setPen(palette.color("ink2"))
    lower = QRectF(rect.left(), rect.top() + 37, rect.width(), rect.height() - 39)
    painter.drawText(
        lower, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap,
        pupil_line(view.row.days_ago, view.row.n_takes, view.n_new),
    )  # fmt: skip


def _paint_works(
    painter: QPainter,
    rect: QRectF,
    works: Sequence[tuple[SetWork, Progress, str]],
    palette: Palette,
) -> None:
    """Titles with a bead for each good take asked, filled as far as they were met, and the day."""
    shown = works[:_MOST_WORKS]
    if not shown:
        painter.setFont(sans(13))
        painter.setPen(palette.color("ink2"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, tr("Nothing is set."))
        return
    height = min(rect.height() / len(shown), 36.0)
    top = rect.center().y() - 0.5 * height * len(shown)
    for n, (work, progress, title) in enumerate(shown):
        y = top + n * height
        painter.setFont(sans(13, bold=True))
        painter.setPen(palette.color("ink"))
        text = painter.fontMetrics().elidedText(
            title, Qt.TextElideMode.ElideRight, round(rect.width())
        )
        painter.drawText(QPointF(rect.left(), y + 14), text)
        x = rect.left() + 5
        for bead in range(min(work.good_takes, 12)):
            filled = bead < progress.n_good
            painter.setPen(QPen(palette.color("ink"), 1.2))
            painter.setBrush(palette.color("ink") if filled else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, y + 25), 4.0, 4.0)
            x += 12
        painter.setBrush(Qt.BrushStyle.NoBrush)
        late = progress.state == "overdue"
        painter.setFont(sans(12.5, bold=late))
        painter.setPen(palette.color("accent" if late else "ink2"))
        said = due_text(progress.days_left)
        more = len(works) - len(shown)
        if more and n == len(shown) - 1:
            said += " · " + trn("{n} more", "{n} more", more).format(n=more)
        painter.drawText(QPointF(x + 4, y + 29), said)
