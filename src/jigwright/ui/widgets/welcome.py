"""The first page of a new studio: who plays, on what, heard through which microphone."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.ui.theme import sans
from jigwright.ui.viewmodels.stand.welcome import Welcome
from jigwright.ui.widgets.labels import label, push_button
from jigwright.wording.catalogue import tr
from jigwright.wording.makers import kind_name
from jigwright.wording.verdicts import input_name

_KINDS = ("violin", "viola", "cello", "bass")
_WIDE = 520


class WelcomePlace(QWidget):
    """A name, an instrument, a microphone; then the strings."""

    def __init__(self, model: Welcome) -> None:
        super().__init__()
        self.model = model
        self._devices: tuple[InputDevice, ...] = ()
        self.name, self.called, self.input = QLineEdit(), QLineEdit(), QComboBox()
        self.name.setPlaceholderText(tr("your name"))
        self.called.setPlaceholderText(tr("a name for the instrument, if it has one"))
        self.name.setAccessibleName(tr("your name"))
        self.called.setAccessibleName(tr("a name for the instrument, if it has one"))
        self.input.setAccessibleName(tr("Input"))
        self.name.returnPressed.connect(self.go_on)
        column = QVBoxLayout()
        column.setSpacing(12)
        title = label(tr("Good that you are here"), px=40, old_style=True)
        column.addWidget(title)
        column.addWidget(
            label(
                tr(
                    "Three questions, then your strings, then one scale: in two minutes you will "
                    "have heard something about your own playing. Everything stays on this "
                    "computer."
                ),
                px=16, second=True,
            )
        )  # fmt: skip
        column.addSpacing(8)
        column.addWidget(label(tr("Who are you?"), px=17, bold=True))
        column.addWidget(self.name)
        column.addWidget(label(tr("What do you play?"), px=17, bold=True))
        column.addLayout(self._make_kinds())
        column.addWidget(self.called)
        column.addWidget(label(tr("Where do I listen?"), px=17, bold=True))
        column.addWidget(self.input)
        row = QHBoxLayout()
        row.addWidget(push_button(tr("Now the strings"), self.go_on, first=True))
        row.addWidget(push_button(tr("Only look around"), self.skip))
        row.addStretch(1)
        column.addSpacing(8)
        column.addLayout(row)
        column.insertStretch(0, 2)
        column.addStretch(3)
        inner = QWidget()
        inner.setLayout(column)
        inner.setFixedWidth(_WIDE)
        whole = QHBoxLayout(self)
        whole.addStretch(1)
        whole.addWidget(inner)
        whole.addStretch(1)
        self.show_inputs(())

    def _make_kinds(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.kinds = QButtonGroup(self)
        for i, kind in enumerate(_KINDS):
            button = QPushButton(kind_name(kind))
            button.setProperty("kind", "turn")
            button.setCheckable(True)
            button.setChecked(i == 0)
            button.setFont(sans(15))
            button.setMinimumHeight(36)
            self.kinds.addButton(button, i)
            row.addWidget(button)
        return row

    @property
    def kind(self) -> str:
        """The chosen instrument."""
        return _KINDS[max(0, self.kinds.checkedId())]

    def show_inputs(self, found: tuple[InputDevice, ...]) -> None:
        """Offer what can be recorded from, a microphone before the simulated player."""
        simulated = InputDevice(id=SIMULATED, name=input_name(SIMULATED))
        self._devices = (*found, simulated)
        self.input.clear()
        for device in self._devices:
            self.input.addItem(device.name)
        if not found:
            self.input.setItemText(
                0, tr("no microphone was found: the simulated player plays for you")
            )

    def go_on(self) -> None:
        """Take the answers."""
        device = self._devices[max(0, self.input.currentIndex())]
        self.model.begin(self.name.text(), self.kind, self.called.text(), device)

    def skip(self) -> None:
        """Look around first."""
        self.model.skip()
        self.model.begun.emit()
