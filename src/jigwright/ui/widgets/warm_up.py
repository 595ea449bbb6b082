"""The warm-up: a row of exercises put together once, from the shelf or as a teacher would."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jigwright.services.routines import MOST_STEPS, MOST_TIMES, Routine, RoutineStep
from jigwright.ui.theme import sans
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.widgets.labels import label, push_button, word_button
from jigwright.wording.catalogue import tr, trn

_ROLE = Qt.ItemDataRole.UserRole


class WarmUpDialog(QDialog):
    """Edits the player's warm-up; every change is kept at once.

    Signals
    -------
    begun
        It is to begin now.
    """

    begun = pyqtSignal()

    def __init__(self, model: DaybookModel, parent: QWidget) -> None:
        super().__init__(parent)
        self.model = model
        self._titles = {j.id: j.title for j in model.shelf()}
        self.setWindowTitle(tr("Warm-up"))
        self.resize(780, 480)
        self.steps = _StepList(self._remove)
        self.steps.currentRowChanged.connect(self._chosen)
        rows = self.steps.model()
        assert rows is not None
        rows.rowsMoved.connect(lambda *_: self._keep())
        self.times = QSpinBox()
        self.times.setRange(1, MOST_TIMES)
        self.times.setAccessibleName(tr("Times"))
        self.times.valueChanged.connect(self._times_changed)
        self.planned = QCheckBox(tr("in every plan"))
        self.planned.setFont(sans(14))
        self.planned.toggled.connect(lambda _: self._keep())
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("search the shelf"))
        self.search.textChanged.connect(lambda _: self._show_shelf())
        self.found = QListWidget()
        self.found.setFont(sans(14))
        self.found.setAccessibleName(tr("Jigs that can be added"))
        self.found.itemActivated.connect(self._add)
        self.about = label("", px=14, second=True)
        self._build()
        self._show(model.routine())
        self._show_shelf()

    def _build(self) -> None:
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(label(tr("One after the other"), px=16, bold=True))
        left.addWidget(self.steps, 1)
        tools = QHBoxLayout()
        tools.addWidget(label(tr("Times"), px=14, second=True, wrap=False))
        tools.addWidget(self.times)
        for text, by in ((tr("Earlier"), -1), (tr("Later"), 1)):
            tools.addWidget(word_button(text, partial(self._move, by)))
        tools.addWidget(word_button(tr("Leave out"), self._remove))
        tools.addStretch(1)
        left.addLayout(tools)
        left.addWidget(self.about)
        right.addWidget(label(tr("From the shelf"), px=16, bold=True))
        right.addWidget(self.search)
        right.addWidget(self.found, 1)
        right.addWidget(word_button(tr("Add it"), lambda: self._add(self.found.currentItem())))
        both = QHBoxLayout()
        both.setSpacing(22)
        both.addLayout(left, 1)
        both.addLayout(right, 1)
        foot = QHBoxLayout()
        foot.addWidget(push_button(tr("Begin it now (F6)"), self._begin, first=True))
        foot.addWidget(push_button(tr("The usual one"), self._usual))
        foot.addWidget(self.planned)
        foot.addStretch(1)
        foot.addWidget(push_button(tr("Close"), self.accept))
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(12)
        column.addLayout(both, 1)
        column.addLayout(foot)

    # showing ------------------------------------------------------------------------------

    def _show(self, routine: Routine, row: int = 0) -> None:
        self.steps.blockSignals(True)
        self.steps.clear()
        for step in routine.steps:
            self.steps.addItem(self._item(step))
        self.steps.blockSignals(False)
        self.planned.blockSignals(True)
        self.planned.setChecked(routine.planned)
        self.planned.blockSignals(False)
        self.steps.setCurrentRow(min(row, self.steps.count() - 1))
        self._chosen(self.steps.currentRow())
        minutes = sum(i.minutes for i in self.model.warm_up_items())
        n = self.steps.count()
        said = trn("{n} exercise, {minutes} min", "{n} exercises, {minutes} min", n)
        self.about.setText(
            said.format(n=n, minutes=minutes) if n
            else tr("Nothing in it yet: add jigs from the shelf, or take the usual one.")
        )  # fmt: skip

    def _item(self, step: RoutineStep) -> QListWidgetItem:
        title = self._titles.get(step.jig_id, tr("(no longer there)"))
        times = f" × {step.times}" if step.times > 1 else ""
        item = QListWidgetItem(title + times)
        item.setData(_ROLE, (step.jig_id, step.times))
        return item

    def _show_shelf(self) -> None:
        wanted = self.search.text().strip().lower()
        self.found.clear()
        for jig_id, title in self._titles.items():
            if wanted in title.lower():
                item = QListWidgetItem(title)
                item.setData(_ROLE, jig_id)
                self.found.addItem(item)
        self.found.setCurrentRow(0)

    def _chosen(self, row: int) -> None:
        item = self.steps.item(row)
        self.times.setEnabled(item is not None)
        if item is not None:
            self.times.blockSignals(True)
            self.times.setValue(item.data(_ROLE)[1])
            self.times.blockSignals(False)

    # changing -----------------------------------------------------------------------------

    def _rows(self) -> list[RoutineStep]:
        found = []
        for k in range(self.steps.count()):
            item = self.steps.item(k)
            if item is not None:
                jig_id, times = item.data(_ROLE)
                found.append(RoutineStep(jig_id=jig_id, times=times))
        return found

    def _keep(self, steps: list[RoutineStep] | None = None, row: int | None = None) -> None:
        made = self._rows() if steps is None else steps
        at = self.steps.currentRow() if row is None else row
        routine = Routine(steps=tuple(made[:MOST_STEPS]), planned=self.planned.isChecked())
        self.model.set_routine(routine)
        self._show(routine, max(0, at))

    def _times_changed(self, times: int) -> None:
        rows, at = self._rows(), self.steps.currentRow()
        if 0 <= at < len(rows):
            rows[at] = RoutineStep(jig_id=rows[at].jig_id, times=times)
            self._keep(rows)

    def _move(self, by: int) -> None:
        rows, at = self._rows(), self.steps.currentRow()
        if 0 <= at < len(rows) and 0 <= at + by < len(rows):
            rows.insert(at + by, rows.pop(at))
            self._keep(rows, at + by)

    def _remove(self) -> None:
        rows, at = self._rows(), self.steps.currentRow()
        if 0 <= at < len(rows):
            del rows[at]
            self._keep(rows, min(at, len(rows) - 1))

    def _add(self, item: QListWidgetItem | None) -> None:
        if item is not None and self.steps.count() < MOST_STEPS:
            rows = [*self._rows(), RoutineStep(jig_id=str(item.data(_ROLE)))]
            self._keep(rows, len(rows) - 1)

    def _usual(self) -> None:
        routine = self.model.usual_routine()
        self._titles = {j.id: j.title for j in self.model.shelf()}
        self._keep(list(routine.steps), 0)
        self._show_shelf()

    def _begin(self) -> None:
        if self.steps.count():
            self.accept()
            self.begun.emit()


class _StepList(QListWidget):
    """The steps: dragged into another order, taken out by Delete."""

    def __init__(self, remove: Callable[[], None]) -> None:
        super().__init__()
        self._remove = remove
        self.setFont(sans(14))
        self.setAccessibleName(tr("Steps of the warm-up"))
        self.setDragDropMode(QListWidget.DragDropMode.InternalMove)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Delete takes a step out."""
        if event is not None and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._remove()
            return
        super().keyPressEvent(event)
