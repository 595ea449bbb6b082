"""Another fingering or bowing of the same notes, set beside the jig."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from jigwright.core.jig.model import Jig
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label, push_button
from jigwright.ui.widgets.score_view import ScoreView
from jigwright.wording.catalogue import tr


class OtherWay(QWidget):
    """Shows the other way; hidden while there is none.

    Signals
    -------
    taken : object
        The jig that is to be used in place of the first.
    kept : object
        The jig that is to be kept as well.
    closed
        The other way was put away.
    """

    taken = pyqtSignal(object)
    kept = pyqtSignal(object)
    closed = pyqtSignal()

    def __init__(self, jobs: JobRunner, palette: Palette) -> None:
        super().__init__()
        self._jig: Jig | None = None
        self._name = label("", px=15, bold=True)
        self.score = ScoreView(jobs, palette)
        self.score.setAccessibleName(tr("The other way"))
        row = QHBoxLayout()
        row.addWidget(self._name, 1)
        for text, run in (
            (tr("Play it this way"), self._take),
            (tr("Keep both"), self._keep),
            (tr("Put away"), self.put_away),
        ):
            row.addWidget(push_button(text, run))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(row)
        column.addWidget(self.score, 1)
        self.hide()

    @property
    def jig(self) -> Jig | None:
        """What is set beside the jig."""
        return self._jig

    def show_jig(self, jig: Jig, name: str) -> None:
        """Set a way beside the jig."""
        self._jig = jig
        self._name.setText(tr("The other way: {name}").format(name=name))
        self.score.show_jig(jig)
        self.show()

    def put_away(self) -> None:
        """Show one way only."""
        if self._jig is not None:
            self._jig = None
            self.score.show_jig(None)
            self.hide()
            self.closed.emit()

    def _take(self) -> None:
        jig = self._jig
        if jig is not None:
            self.put_away()
            self.taken.emit(jig)

    def _keep(self) -> None:
        if self._jig is not None:
            self.kept.emit(self._jig)
