"""Choices of an exercise as a form that is built from its fields."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QScrollArea,
    QSizePolicy,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.jig.makers import Maker, Setting, SettingChoice
from jigwright.core.jig.model import Jig
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import PitchClass
from jigwright.ui.widgets.labels import clear, label
from jigwright.wording.catalogue import tr
from jigwright.wording.choices import field_name, option_name
from jigwright.wording.makers import jig_title, kind_name, mode_name
from jigwright.wording.notes import letter_name

_TONICS = ("C", "G", "D", "A", "E", "B", "F#", "F", "Bb", "Eb", "Ab", "Db")
_COLUMNS = 4
_LEAST_FORM_PX = 104
_LAID_OUT = QEvent.Type.LayoutRequest


class MakerForm(QWidget):
    """A form for one maker at a time.

    Signals
    -------
    changed
    """

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._maker: Maker | None = None
        self.length_of: Callable[[str], float | None] = lambda _: None
        """Sounding length of the strings in hand, by kind of instrument; else the usual one."""
        self._fields: dict[str, QComboBox | QSpinBox] = {}
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(4)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self._grid)
        self._instrument, self._tonic, self._mode = QComboBox(), QComboBox(), QComboBox()
        self._tempo = QSpinBox()
        for kind in ("violin", "viola", "cello", "bass"):
            self._instrument.addItem(kind_name(kind), kind)
        for tonic in _TONICS:
            self._tonic.addItem(letter_name(PitchClass.parse(tonic)), tonic)
        for mode in MODES:
            self._mode.addItem(mode_name(mode), mode)
        self._tempo.setRange(30, 240)
        self._tempo.setValue(60)
        self._tonic.setCurrentIndex(_TONICS.index("D"))
        for combo in (self._tonic, self._mode):
            combo.currentIndexChanged.connect(self._changed)
        self._instrument.currentIndexChanged.connect(self._other_instrument)
        self._tempo.valueChanged.connect(self._changed)

    @property
    def maker(self) -> Maker | None:
        """The exercise that is being made."""
        return self._maker

    @property
    def fields(self) -> dict[str, QComboBox | QSpinBox]:
        """The maker's own fields by id."""
        return self._fields

    def set_instrument(self, kind: str) -> None:
        """Preset the instrument."""
        self._instrument.setCurrentIndex(max(0, self._instrument.findData(kind)))

    def set_maker(self, maker: Maker) -> None:
        """Show another exercise's choices, all as they are usual."""
        self._maker = maker
        self._lay_out(maker)
        self.changed.emit()

    def _other_instrument(self) -> None:
        """The choices there are on another instrument; what both have stays chosen."""
        if self._maker is None:
            return
        kept = self._values()
        self._lay_out(self._maker)
        for name, value in kept.items():
            widget = self._fields.get(name)
            if isinstance(widget, QComboBox) and (i := widget.findData(value)) >= 0:
                widget.setCurrentIndex(i)
            elif isinstance(widget, QSpinBox):
                widget.setValue(int(value))
        self.changed.emit()

    def _lay_out(self, maker: Maker) -> None:
        shared = (self._instrument, self._tempo, self._tonic, self._mode)
        for own in shared:
            self._grid.removeWidget(own)
            own.setParent(None)
        clear(self._grid)
        self._fields = {}
        cells: list[tuple[str, QComboBox | QSpinBox]] = [
            (tr("Instrument"), self._instrument), (tr("Beats a minute"), self._tempo),
        ]  # fmt: skip
        if maker.uses_key:
            cells += [(tr("Key"), self._tonic), (tr("Kind of scale"), self._mode)]
        for field in maker.fields_on(self._instrument.currentData()):
            widget: QComboBox | QSpinBox
            if isinstance(field, SettingChoice):
                widget = QComboBox()
                for option in field.options:
                    widget.addItem(option_name(field.id, option), option)
                widget.currentIndexChanged.connect(self._changed)
            else:
                widget = QSpinBox()
                widget.setRange(field.low, field.high)
                widget.setValue(field.default)
                widget.valueChanged.connect(self._changed)
            self._fields[field.id] = widget
            cells.append((field_name(field.id), widget))
        for i, (name, widget) in enumerate(cells):
            row, col = divmod(i, _COLUMNS)
            title = label(name, px=13, second=True, wrap=False)
            title.setBuddy(widget)
            widget.setAccessibleName(name)
            widget.setMinimumWidth(150)
            self._grid.addWidget(title, 2 * row, col)
            self._grid.addWidget(widget, 2 * row + 1, col)
            widget.show()
        for col in range(_COLUMNS):
            self._grid.setColumnStretch(col, 1)

    def _changed(self) -> None:
        if self._maker is not None:
            self.changed.emit()

    def make(self, jig_id: str) -> Jig:
        """Make the exercise.

        Raises
        ------
        JigError
            If the instrument cannot play it.
        """
        assert self._maker is not None
        values = self._values()
        kind = self._instrument.currentData()
        setting = Setting(
            instrument_id=kind, string_length_mm=self.length_of(kind),
            key=Key(PitchClass.parse(self._tonic.currentData()), self._mode.currentData()),
            tempo_bpm=float(self._tempo.value()), values=values, jig_id=jig_id,
        )  # fmt: skip
        return self._maker.make(replace(setting, title=jig_title(self._maker, setting)))

    def _values(self) -> dict[str, str | int]:
        return {
            name: widget.currentData() if isinstance(widget, QComboBox) else widget.value()
            for name, widget in self._fields.items()
        }


class FormArea(QScrollArea):
    """The form at its full height where there is room, else scrolled.

    Parameters
    ----------
    form : MakerForm
    """

    def __init__(self, form: MakerForm) -> None:
        super().__init__()
        self._form = form
        self.setWidget(form)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.setMinimumHeight(_LEAST_FORM_PX)
        form.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802
        """The form was laid out anew."""
        if watched is self._form and event is not None and event.type() == _LAID_OUT:
            self._fit()
        return super().eventFilter(watched, event)

    def _fit(self) -> None:
        wanted = self._form.minimumSizeHint().height() + 2
        if wanted != self.maximumHeight():
            self.setMaximumHeight(max(_LEAST_FORM_PX, wanted))
            self.updateGeometry()

    def sizeHint(self) -> QSize:  # noqa: N802
        """As high as the form."""
        return QSize(600, self._form.minimumSizeHint().height() + 2)
