"""Other fingerings or bowings of the same notes, set beside the jig."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from jigwright.core.jig.model import Jig
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label, push_button
from jigwright.ui.widgets.score_view import ScoreView
from jigwright.wording.catalogue import tr

MOST_WAYS = 4
_LEAST_PX = 170


class _Way(QWidget):
    """One way: its name, what can be done with it, its notes."""

    def __init__(
        self,
        jig: Jig,
        name: str,
        score: ScoreView,
        doings: tuple[tuple[str, Callable[[], None]], ...],
    ) -> None:
        super().__init__()
        self.jig, self.name, self.score = jig, name, score
        score.setAccessibleName(name)
        row = QHBoxLayout()
        row.addWidget(label(name, px=15, bold=True), 1)
        for text, run in doings:
            row.addWidget(push_button(text, run))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(row)
        column.addWidget(score, 1)


class OtherWays(QWidget):
    """Shows the other ways one below the other; hidden while there is none.

    Signals
    -------
    taken : object
        The jig that is to be used in place of the first.
    kept : object
        The jig that is to be kept as well.
    closed
        A way was put away.
    """

    taken = pyqtSignal(object)
    kept = pyqtSignal(object)
    closed = pyqtSignal()

    def __init__(self, jobs: JobRunner, palette: Palette) -> None:
        super().__init__()
        self._jobs, self._palette = jobs, palette
        self._ways: list[_Way] = []
        inside = QWidget()
        self._column = QVBoxLayout(inside)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(8)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroll, 1)
        self.setMinimumHeight(_LEAST_PX)
        self.hide()

    @property
    def jigs(self) -> tuple[Jig, ...]:
        """What is set beside the jig."""
        return tuple(way.jig for way in self._ways)

    @property
    def names(self) -> tuple[str, ...]:
        """What the ways are called."""
        return tuple(way.name for way in self._ways)

    @property
    def full(self) -> bool:
        """Whether no further way can be set beside the jig."""
        return len(self._ways) >= MOST_WAYS

    def add(self, jig: Jig, name: str, *, kept: bool = False) -> None:
        """Set one more way beside the jig; one of the same name gives its place up.

        ``kept`` ways are jigs of their own already.
        """
        for way in [w for w in self._ways if w.name == name]:
            self._drop(way)
        doings: list[tuple[str, Callable[[], None]]] = [
            (tr("Play it this way"), partial(self._take, jig))
        ]
        if not kept:
            doings.append((tr("Keep both"), partial(self.kept.emit, jig)))
        doings.append((tr("Put away"), partial(self.put_away, jig)))
        way = _Way(jig, name, ScoreView(self._jobs, self._palette), tuple(doings))
        self._ways.append(way)
        self._column.addWidget(way)
        way.score.show_jig(jig)
        self.show()

    def put_away(self, jig: Jig | None = None) -> None:
        """Show one way less, or none."""
        gone = [w for w in self._ways if jig is None or w.jig is jig]
        for way in gone:
            self._drop(way)
        if gone:
            self.setVisible(bool(self._ways))
            self.closed.emit()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        for way in self._ways:
            way.score.set_palette(palette)

    def close_down(self) -> None:
        """Stop waiting work."""
        for way in self._ways:
            way.score.close_down()

    def _drop(self, way: _Way) -> None:
        self._ways.remove(way)
        way.score.close_down()
        self._column.removeWidget(way)
        way.hide()
        way.deleteLater()

    def _take(self, jig: Jig) -> None:
        self.put_away()
        self.taken.emit(jig)
