"""Making a ladder of one's own: one jig, faster and narrower from rung to rung."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSpinBox, QVBoxLayout, QWidget

from jigwright.core.errors import JigwrightError
from jigwright.core.judge.ladder import MOST_RUNGS, PassRule
from jigwright.services.library import on_the_shelf
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.widgets.labels import label, push_button
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence


class OwnLadder(QWidget):
    """One line of choices.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(self, model: DaybookModel, studio: StudioPort, session: SessionModel) -> None:
        super().__init__()
        self._model, self._studio, self._session = model, studio, session
        self.jig = QComboBox()
        self.jig.setMinimumWidth(200)
        self.jig.setMaximumWidth(260)
        self.slow, self.fast = self._spin(20, 300, 60), self._spin(20, 300, 100)
        self.rungs = self._spin(2, MOST_RUNGS, 5)
        self.wide, self.narrow = self._spin(3, 50, 15), self._spin(3, 50, 8)
        self.good, self.of = self._spin(1, 20, 3), self._spin(1, 20, 5)
        first, second = QHBoxLayout(), QHBoxLayout()
        parts = (
            (first, tr("Your own ladder"), self.jig), (first, tr("from"), self.slow),
            (first, tr("to"), self.fast), (first, tr("rungs"), self.rungs),
            (second, "±", self.wide), (second, tr("to ±"), self.narrow),
            (second, tr("pass with"), self.good), (second, tr("of"), self.of),
        )  # fmt: skip
        for row, name, widget in parts:
            row.addWidget(label(name, px=14, second=True, wrap=False))
            widget.setAccessibleName(name)
            row.addWidget(widget)
        second.addSpacing(12)
        second.addWidget(push_button(tr("Make it"), self.make))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 6)
        for row in (first, second):
            row.addStretch(1)
            column.addLayout(row)

    @staticmethod
    def _spin(low: int, high: int, value: int) -> QSpinBox:
        made = QSpinBox()
        made.setRange(low, high)
        made.setValue(value)
        return made

    def refresh(self) -> None:
        """Offer the jigs of the present instrument."""
        chosen = self.jig.currentData()
        kind = self._session.now.kind
        self.jig.clear()
        for jig in on_the_shelf(self._studio):
            if jig.instrument_id == kind and not jig.id.startswith("ladder-"):
                self.jig.addItem(jig.title, jig.id)
        self.jig.setCurrentIndex(max(0, self.jig.findData(chosen)))
        self.setEnabled(self.jig.count() > 0 and not self._studio.read_only)

    def make(self) -> None:
        """Make the ladder."""
        jig = next((j for j in self._studio.jigs() if j.id == self.jig.currentData()), None)
        if jig is None:
            return
        try:
            self._model.make_ladder(
                jig, from_bpm=self.slow.value(), to_bpm=self.fast.value(),
                n_rungs=self.rungs.value(),
                tolerance_cents=(float(self.wide.value()), float(self.narrow.value())),
                rule=PassRule(good=self.good.value(), of=self.of.value()),
            )  # fmt: skip
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
            return
        self.message.emit(tr("{title} is a ladder now.").format(title=jig.title))
