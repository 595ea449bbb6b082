"""What a jig is for and what a take gave for it: one row an aim, its place a press away."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult, AimState
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.verdict import bar_of
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label, word_button
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.aims import (
    aim_line,
    aim_name,
    aim_sentence,
    aim_word,
    figure_words,
    state_name,
    why_untold,
)
from jigwright.wording.catalogue import tr

_MARK_PX = 16


class AimsList(QWidget):
    """The aims of the shown take.

    Parameters
    ----------
    palette : Palette
    select : callable
        Show a row of the take.
    """

    def __init__(self, palette: Palette, select: Callable[[int], object]) -> None:
        super().__init__()
        self._palette, self._select = palette, select
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 8)
        self._column.setSpacing(5)

    def show_results(
        self, results: Sequence[AimResult], notes: Sequence[JudgedNote], jig: Jig
    ) -> None:
        """Write the rows."""
        self._column.addWidget(label(tr("What it is for"), px=13, bold=True, second=True))
        for result in results:
            self._column.addLayout(self._row(result, bar_of(result.row, notes, jig)))

    def _row(self, result: AimResult, bar: int | None) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        mark = Painted(partial(self._mark, result.state), _MARK_PX)
        mark.setFixedWidth(_MARK_PX)
        mark.setAccessibleName(state_name(result.state))
        mark.setToolTip(state_name(result.state))
        row.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        words = QVBoxLayout()
        words.setSpacing(0)
        if result.state == "not_met":
            words.addWidget(label(aim_word(result), px=14, bold=True))
            line = aim_line(result, bar, figures=True)
        else:
            name = aim_name(result.aim.kind)
            words.addWidget(label(name[:1].upper() + name[1:], px=14))
            counted = result.unit == "notes"
            line = figure_words(result) if result.state == "met" and not counted else ""
            if result.state == "cannot_tell":
                line = tr("cannot tell: {reason}").format(reason=why_untold(result.reason))
            if result.state == "not_asked":
                line = tr("shown, not judged")
        if line:
            words.addWidget(label(line, px=13, second=True))
        if result.row is not None and result.state != "met":
            show = QHBoxLayout()
            show.addWidget(
                word_button(
                    tr("Show"), partial(self._select, result.row),
                    name=tr("Show: {title}").format(title=aim_sentence(result, bar)),
                )
            )  # fmt: skip
            show.addStretch(1)
            words.addLayout(show)
        row.addLayout(words, 1)
        return row

    def _mark(self, state: AimState, painter: QPainter, rect: QRectF) -> None:
        """Full: met; a ring: not met; a dash: cannot be told."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(rect.left() + 7, rect.top() + 9)
        painter.setPen(QPen(self._palette.color("accent" if state == "not_met" else "ink2"), 1.8))
        if state == "met":
            painter.setBrush(self._palette.color("ink2"))
        if state in ("met", "not_met"):
            painter.drawEllipse(middle, 4.5, 4.5)
        else:
            painter.drawLine(middle - QPointF(5, 0), middle + QPointF(5, 0))
