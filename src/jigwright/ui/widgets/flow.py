"""Words side by side that go on in the next line where a column is narrow."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Lays its widgets out as a line of text is: from left to right, then down.

    Parameters
    ----------
    parent : QWidget or None
    across, down : int
        Pixels between widgets of a line, and between lines.
    """

    def __init__(self, parent: QWidget | None = None, *, across: int = 4, down: int = 2) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._across, self._down = across, down
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:  # noqa: N802
        """Take a widget's item in."""
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        """Number of widgets."""
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:  # noqa: N802
        """One of them; ``None`` past the end."""
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:  # noqa: N802
        """Take one out."""
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:  # noqa: N802
        """It asks for no more room than it fills."""
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:  # noqa: N802
        """The narrower, the higher."""
        return True

    def heightForWidth(self, width: int) -> int:  # noqa: N802
        """Height of all lines at a width."""
        return self._lay_out(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:  # noqa: N802
        """Put the widgets in their places."""
        super().setGeometry(rect)
        self._lay_out(rect, move=True)

    def sizeHint(self) -> QSize:  # noqa: N802
        """All in one line."""
        hints = [item.sizeHint() for item in self._items]
        width = sum(h.width() for h in hints) + self._across * max(0, len(hints) - 1)
        return self._with_margins(QSize(width, max((h.height() for h in hints), default=0)))

    def minimumSize(self) -> QSize:  # noqa: N802
        """The widest of them: each may have a line of its own."""
        size = QSize(0, 0)
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return self._with_margins(size)

    def _with_margins(self, size: QSize) -> QSize:
        m = self.contentsMargins()
        return size + QSize(m.left() + m.right(), m.top() + m.bottom())

    def _lay_out(self, rect: QRect, *, move: bool) -> int:
        m = self.contentsMargins()
        inner = rect.adjusted(m.left(), m.top(), -m.right(), -m.bottom())
        x, y, line = inner.x(), inner.y(), 0
        for item in self._items:
            hint = item.sizeHint()
            if line and x + hint.width() > inner.x() + inner.width():
                x, y, line = inner.x(), y + line + self._down, 0
            if move:
                item.setGeometry(QRect(QPoint(x, y), hint))
            x += hint.width() + self._across
            line = max(line, hint.height())
        return y + line - rect.y() + m.bottom()
