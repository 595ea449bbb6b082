"""Jigs: choose an exercise or make a scale, see it and hear it."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QByteArray, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import make_scale
from jigwright.core.music.keys import MODES, Key
from jigwright.core.music.pitch import PitchClass
from jigwright.services.engraving import engrave_request
from jigwright.services.jobs import PreviewRequest, RawSound
from jigwright.services.notation import INK, Engraved
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.desk import DeskModel, utc_now
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.labels import label
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.notes import class_name

_TONICS = ("C", "G", "D", "A", "E", "B", "F#", "F", "Bb", "Eb", "Ab", "Db", "C#", "G#")


class JigsPlace(QWidget):
    """A list of jigs and a maker for scales.

    Signals
    -------
    chosen
        A jig was chosen to be worked on.
    message : str
    """

    chosen = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self, model: DeskModel, sound: SoundModel, jobs: JobRunner, cache: Path, palette: Palette
    ) -> None:
        super().__init__()
        self._model, self._sound, self._jobs = model, sound, jobs
        self._cache, self._palette = cache, palette
        self._jig: Jig | None = None
        self._engraved: Engraved | None = None
        self._list = QListWidget()
        self._list.setFont(sans(14))
        self._list.setAccessibleName(tr("Jigs of this studio"))
        self._list.currentRowChanged.connect(self._row_chosen)
        self._title = label("", px=26, old_style=True)
        self._about = label("", px=14, second=True)
        self._preview = Painted(self._paint_preview, 170)
        self._preview.setAccessibleName(tr("Score of the jig"))
        self._error = label("", px=14)
        self._build()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(120)
        self._soon.timeout.connect(self._engrave)
        self.refresh()

    def _build(self) -> None:
        left = QVBoxLayout()
        left.addWidget(label(tr("Your jigs"), px=21, old_style=True))
        left.addWidget(self._list, 1)
        left.addWidget(self._button(tr("Make a new scale"), self._new, first=False))
        form = QFormLayout()
        form.setHorizontalSpacing(18)
        form.setVerticalSpacing(8)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.FieldsStayAtSizeHint)
        self._tonic, self._mode, self._instrument = QComboBox(), QComboBox(), QComboBox()
        for tonic in _TONICS:
            self._tonic.addItem(class_name(PitchClass.parse(tonic)), tonic)
        names = (tr("major"), tr("natural minor"), tr("harmonic minor"), tr("melodic minor"))
        for mode, name in zip(MODES, names, strict=True):
            self._mode.addItem(name, mode)
        kinds = {"violin": tr("violin"), "viola": tr("viola"), "cello": tr("cello"),
                 "bass": tr("double bass")}  # fmt: skip
        for kind, name in kinds.items():
            self._instrument.addItem(name, kind)
        self._octaves, self._slur, self._tempo = QSpinBox(), QSpinBox(), QSpinBox()
        for spin, low, high, value in ((self._octaves, 1, 3, 1), (self._slur, 1, 16, 1),
                                       (self._tempo, 30, 240, 72)):  # fmt: skip
            spin.setRange(low, high)
            spin.setValue(value)
        rows = (
            (tr("Instrument"), self._instrument), (tr("Scale on"), self._tonic),
            (tr("Kind"), self._mode), (tr("Octaves"), self._octaves),
            (tr("Notes in a bow"), self._slur), (tr("Notes a minute"), self._tempo),
        )  # fmt: skip
        for name, field in rows:
            field.setMinimumWidth(150)
            field.setAccessibleName(name)
            form.addRow(label(name, px=14, second=True, wrap=False), field)
        for combo in (self._tonic, self._mode, self._instrument):
            combo.currentIndexChanged.connect(self._form_changed)
        for spin in (self._octaves, self._slur, self._tempo):
            spin.valueChanged.connect(self._form_changed)
        self._form = QWidget()
        self._form.setLayout(form)
        buttons = QHBoxLayout()
        self._use = self._button(tr("Work on this jig"), self._work_on, first=True)
        self._hear = self._button(tr("Hear it"), self._play, first=False)
        buttons.addWidget(self._use)
        buttons.addWidget(self._hear)
        buttons.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(10)
        for part in (self._title, self._about, self._preview, self._form, self._error):
            right.addWidget(part)
        right.addLayout(buttons)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 18, 24, 18)
        row.setSpacing(28)
        row.addLayout(left, 3)
        row.addLayout(right, 9)

    def _button(self, text: str, run: Callable[[], None], *, first: bool) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "first" if first else "second")
        button.setFont(sans(14, bold=first))
        button.clicked.connect(lambda: run())
        return button

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._preview.update()

    def close_down(self) -> None:
        """Stop waiting work; the studio may close."""
        self._soon.stop()

    def refresh(self) -> None:
        """Read the list anew and show the current jig."""
        self._list.blockSignals(True)
        self._list.clear()
        chosen = 0
        for i, jig in enumerate(self._model.studio.jigs()):
            item = QListWidgetItem(jig.title)
            item.setData(Qt.ItemDataRole.UserRole, jig)
            self._list.addItem(item)
            if self._model.jig is not None and jig.id == self._model.jig.id:
                chosen = i
        self._list.blockSignals(False)
        if self._list.count():
            self._list.setCurrentRow(chosen)
            self._row_chosen(chosen)
        else:
            self._new()

    def _row_chosen(self, row: int) -> None:
        item = self._list.item(row)
        if item is None:
            return
        self._form.hide()
        self._error.setText("")
        self._use.setText(tr("Work on this jig"))
        self._show(item.data(Qt.ItemDataRole.UserRole))

    def _new(self) -> None:
        self._list.clearSelection()
        self._form.show()
        self._use.setText(tr("Keep and work on it"))
        kind = self._model.owned.kind if self._model.owned else "violin"
        self._instrument.setCurrentIndex(max(0, self._instrument.findData(kind)))
        self._form_changed()
        self._tonic.setFocus()

    def _form_changed(self) -> None:
        if not self._form.isVisibleTo(self):
            return
        key = Key(PitchClass.parse(self._tonic.currentData()), self._mode.currentData())
        title = tr("{tonic} {mode}").format(
            tonic=class_name(key.tonic), mode=self._mode.currentText()
        )
        if self._octaves.value() > 1:
            title += ", " + tr("{n} octaves").format(n=self._octaves.value())
        if self._slur.value() > 1:
            title += ", " + tr("{n} in a bow").format(n=self._slur.value())
        try:
            jig = make_scale(
                jig_id="new", instrument_id=self._instrument.currentData(), key=key,
                octaves=self._octaves.value(), slur=self._slur.value(),
                tempo_bpm=float(self._tempo.value()), title=title,
            )  # fmt: skip
        except JigwrightError as error:
            self._error.setText(error_sentence(error))
            self._use.setEnabled(False)
            return
        self._error.setText("")
        self._use.setEnabled(True)
        self._show(jig)

    def _show(self, jig: Jig) -> None:
        self._jig = jig
        self._title.setText(jig.title)
        kinds = {"violin": tr("violin"), "viola": tr("viola"), "cello": tr("cello"),
                 "bass": tr("double bass")}  # fmt: skip
        seconds = float(jig.length_beats) * jig.seconds_per_beat
        self._about.setText(
            tr("{n} notes for {kind}, {bpm} a minute, about {s} seconds").format(
                n=len(jig.events),
                kind=kinds[jig.instrument_id],
                bpm=round(jig.tempo_bpm),
                s=round(seconds),
            )
        )
        self._soon.start()

    def _engrave(self) -> None:
        if self._jig is None:
            return
        request = engrave_request(
            self._jig, scale=50, target_width=float(max(300, self._preview.width() - 20))
        )

        def done(engraved: Engraved) -> None:
            self._engraved = engraved
            self._preview.update()

        self._jobs.run(
            "engrave", request, done=done,
            failed=lambda e: self.message.emit(error_sentence(e)), key="jig-score",
        )  # fmt: skip

    def _paint_preview(self, painter: QPainter, rect: QRectF) -> None:
        painter.fillRect(rect, self._palette.color("paper"))
        if self._engraved is None:
            return
        e = self._engraved
        scale = min(1.0, (rect.width() - 16) / e.width, (rect.height() - 8) / e.height)
        svg = QSvgRenderer(QByteArray(e.svg.replace(INK, self._palette.ink).encode()))
        width, height = e.width * scale, e.height * scale
        top = rect.center().y() - 0.5 * height
        svg.render(painter, QRectF(rect.left() + 8, top, width, height))

    def resizeEvent(self, event: object) -> None:  # noqa: N802, ARG002
        """Engrave anew for the width."""
        self._soon.start()

    def _work_on(self) -> None:
        if self._jig is None:
            return
        jig = self._jig
        if jig.id == "new":
            jig = _with_id(jig, f"jig-{uuid.uuid4().hex[:12]}")
            try:
                self._model.studio.add_jig(jig, utc=utc_now())
            except JigwrightError as error:
                self.message.emit(error_sentence(error))
                return
        self._model.set_jig(jig)
        self.refresh()
        self.chosen.emit()

    def _play(self) -> None:
        if self._jig is None:
            return
        self._cache.mkdir(parents=True, exist_ok=True)
        request = PreviewRequest(
            jig=self._jig, a4_hz=self._model.context().a4_hz, reference=self._jig.reference,
            to=self._cache / "preview.f32",
        )  # fmt: skip

        def done(sound: RawSound) -> None:
            self._sound.play_raw(sound, what=tr("simulated player"))

        self.message.emit(tr("The simulated player gets ready …"))
        self._jobs.run(
            "preview", request, done=done,
            failed=lambda e: self.message.emit(error_sentence(e)), key="preview",
        )  # fmt: skip


def _with_id(jig: Jig, jig_id: str) -> Jig:
    events = tuple(
        replace(
            e, id=f"{jig_id}.e{i}",
            heads=tuple(replace(h, id=f"{jig_id}.n{i}.{k}") for k, h in enumerate(e.heads)),
        )
        for i, e in enumerate(jig.events)
    )  # fmt: skip
    return replace(jig, id=jig_id, events=events)
