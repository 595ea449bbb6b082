"""The play button and where the sound is."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QVBoxLayout, QWidget

from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label
from jigwright.wording.catalogue import tr, with_comma


class RoundButton(QAbstractButton):
    """Plays or stops."""

    def __init__(self, palette: Palette, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._palette = palette
        self.playing = False
        self.setFixedSize(50, 50)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.set_playing(False)

    def set_playing(self, playing: bool) -> None:
        """Change the sign."""
        self.playing = playing
        self.setAccessibleName(tr("Stop") if playing else tr("Play the take"))
        self.update()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def sizeHint(self) -> QSize:  # noqa: N802
        """A round button."""
        return QSize(50, 50)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the disc and the sign."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        p = self._palette
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.color("accent" if self.isEnabled() else "line"))
        painter.drawEllipse(QRectF(3, 3, 44, 44))
        painter.setBrush(p.color("on_accent"))
        if self.playing:
            painter.drawRect(QRectF(18, 18, 14, 14))
        else:
            painter.drawPolygon(QPolygonF([QPointF(20, 15), QPointF(20, 35), QPointF(36, 25)]))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(p.color("ink"), 2))
            painter.drawEllipse(QRectF(1, 1, 48, 48))
        painter.end()


class Transport(QWidget):
    """Play button, time and what plays."""

    def __init__(self, palette: Palette, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.button = RoundButton(palette)
        self._time = label("0:00.0", px=18, bold=True, wrap=False)
        self._what = label("", px=13, second=True, wrap=False)
        texts = QVBoxLayout()
        texts.setSpacing(0)
        texts.addStretch(1)
        texts.addWidget(self._time)
        texts.addWidget(self._what)
        texts.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 8, 0)
        row.setSpacing(12)
        row.addWidget(self.button)
        row.addLayout(texts, 1)
        self.setFixedWidth(208)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self.button.set_palette(palette)

    def show_state(self, at_s: float, what: str, *, playing: bool) -> None:
        """Write the time and what plays."""
        self._time.setText(with_comma(f"{int(at_s // 60)}:{at_s % 60:04.1f}"))
        self._what.setText(what)
        if playing != self.button.playing:
            self.button.set_playing(playing)
