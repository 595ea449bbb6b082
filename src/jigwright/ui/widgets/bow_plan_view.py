"""The bow plan of a jig, or of several ways of playing it side by side."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from jigwright.core.jig.bow_plan import PlannedStroke, plan_bow
from jigwright.core.jig.model import Jig
from jigwright.ui.painting.bow_plan import paint_bow_plan, plan_height
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.bow_plan import bowing_sentence, plan_sentence
from jigwright.wording.catalogue import tr

_LEAST_PX = 150
_LEAST_BESIDE_PX = 80


class BowPlanView(QWidget):
    """Words and picture; the picture scrolls when it is long."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._plans: tuple[tuple[PlannedStroke, ...], ...] = ()
        self._words = label("", px=14, second=True)
        self._picture = Painted(self._paint, 80)
        self._picture.setAccessibleName(tr("Bow plan"))
        self._sheet = QScrollArea()
        self._sheet.setWidget(self._picture)
        self._sheet.setWidgetResizable(True)
        self._sheet.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self._words)
        column.addWidget(self._sheet, 100)
        column.addStretch(1)

    @property
    def words(self) -> str:
        """What is said of the plan or plans."""
        return self._words.text()

    def show_jigs(self, jig: Jig, others: tuple[tuple[str, Jig], ...] = ()) -> None:
        """Plan a jig, and other ways of playing it, each with its name, beside it."""
        self._plans = tuple(plan_bow(j) for j in (jig, *(other for _, other in others)))
        ways = (jig, *(other for _, other in others))
        sentences = [
            " ".join(filter(None, (plan_sentence(plan), bowing_sentence(way))))
            for plan, way in zip(self._plans, ways, strict=True)
        ]
        if others:
            names = [tr("As it is"), *(name for name, _ in others)]
            sentences = [f"{n}: {said}" for n, said in zip(names, sentences, strict=True)]
        self._words.setText("\n".join(sentences))
        height = max((round(plan_height(plan)) for plan in self._plans if plan), default=0)
        self._picture.setFixedHeight(height)
        self._sheet.setMaximumHeight(height)
        least = _LEAST_PX if not others else _LEAST_BESIDE_PX
        self._sheet.setMinimumHeight(min(least, height))
        self._sheet.setVisible(height > 0)
        self._picture.update()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._picture.update()

    def _paint(self, painter: QPainter, rect: QRectF) -> None:
        width = rect.width() / max(1, len(self._plans))
        for k, plan in enumerate(self._plans):
            if plan:
                part = QRectF(rect.left() + k * width, rect.top(), width, rect.height())
                paint_bow_plan(painter, part, plan, self._palette)
