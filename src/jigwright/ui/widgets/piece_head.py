"""What stands at the head of a piece: title, key, metre, tempo, pick-up."""

from __future__ import annotations

from fractions import Fraction

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QSpinBox, QWidget

from jigwright.core.jig.model import Jig
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import PitchClass
from jigwright.ui.theme import sans
from jigwright.ui.widgets.labels import label
from jigwright.wording.catalogue import tr
from jigwright.wording.makers import mode_name
from jigwright.wording.notes import letter_name
from jigwright.wording.writing import pickup_name

TONICS = ("C", "G", "D", "A", "E", "B", "F#", "C#", "F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb")
METRES = ((4, 4), (3, 4), (2, 4), (2, 2), (6, 8), (3, 8), (9, 8), (12, 8), (5, 4), (6, 4), (5, 8),
          (7, 8), (3, 2), (1, 4), (4, 8))  # fmt: skip
PICKUPS = (*(Fraction(n, 2) for n in range(8)), Fraction(1, 4), Fraction(3, 4))


class PieceHead(QWidget):
    """Shows the head of a jig and says what is changed in it.

    Signals
    -------
    changed : dict
        Fields as :func:`jigwright.core.jig.writing.with_head` takes them.
    """

    changed = pyqtSignal(dict)

    def __init__(self) -> None:
        super().__init__()
        self.title = QLineEdit()
        self.title.setFont(sans(15))
        self.tonic, self.mode, self.metre, self.pickup = (QComboBox() for _ in range(4))
        self.tempo = QSpinBox()
        self.tempo.setRange(10, 400)
        for tonic in TONICS:
            self.tonic.addItem(letter_name(PitchClass.parse(tonic)), tonic)
        for mode in MODES:
            self.mode.addItem(mode_name(mode), mode)
        for beats, unit in METRES:
            self.metre.addItem(f"{beats}/{unit}", (beats, unit))
        for length in PICKUPS:
            self.pickup.addItem(pickup_name(length), str(length))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(2)
        cells: tuple[tuple[str, QWidget, int], ...] = (
            (tr("Title"), self.title, 4), (tr("Key"), self.tonic, 1),
            (tr("Kind of scale"), self.mode, 2), (tr("Metre"), self.metre, 1),
            (tr("Pick-up"), self.pickup, 2), (tr("Beats a minute"), self.tempo, 1),
        )  # fmt: skip
        for col, (name, widget, stretch) in enumerate(cells):
            words = label(name, px=13, second=True, wrap=False)
            words.setBuddy(widget)
            widget.setAccessibleName(name)
            grid.addWidget(words, 0, col)
            grid.addWidget(widget, 1, col)
            grid.setColumnStretch(col, stretch)
        self.title.textEdited.connect(lambda _: self._titled())
        for combo in (self.tonic, self.mode):
            combo.activated.connect(lambda _: self._keyed())
        self.metre.activated.connect(lambda _: self.changed.emit(self._metre()))
        self.pickup.activated.connect(
            lambda _: self.changed.emit({"pickup_beats": Fraction(self.pickup.currentData())})
        )
        self.tempo.valueChanged.connect(lambda bpm: self.changed.emit({"tempo_bpm": float(bpm)}))

    def show_jig(self, jig: Jig) -> None:
        """Fill in what a jig has; nothing is said to be changed."""
        self.blockSignals(True)
        if " ".join(self.title.text().split()) != jig.title:
            self.title.setText(jig.title)
        self.tonic.setCurrentIndex(_at(self.tonic, str(jig.key.tonic)))
        self.mode.setCurrentIndex(_at(self.mode, jig.key.mode))
        metre = (jig.beats_per_bar, jig.beat_unit)
        self.metre.setCurrentIndex(METRES.index(metre) if metre in METRES else -1)
        self.pickup.setCurrentIndex(_at(self.pickup, str(jig.pickup_beats)))
        self.tempo.setValue(round(jig.tempo_bpm))
        self.blockSignals(False)

    def _titled(self) -> None:
        title = " ".join(self.title.text().split())
        if title:
            self.changed.emit({"title": title[:200]})

    def _keyed(self) -> None:
        tonic, mode = self.tonic.currentData(), self.mode.currentData()
        if tonic and mode:
            self.changed.emit({"key": Key(PitchClass.parse(tonic), mode)})

    def _metre(self) -> dict[str, object]:
        beats, unit = self.metre.currentData()
        return {"metre": (beats, unit)}


def _at(combo: QComboBox, data: str) -> int:
    return next((i for i in range(combo.count()) if combo.itemData(i) == data), -1)
