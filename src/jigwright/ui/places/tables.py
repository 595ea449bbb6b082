"""Tables: for when one wonders. Every value can be heard; a table can be copied or printed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QMarginsF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPageSize, QPdfWriter, QTextDocument
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.gauge.ring import meetings
from jigwright.core.judge.doubles import conflicts
from jigwright.core.music.harmonics import all_harmonics
from jigwright.core.music.instruments import Instrument, instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import RING, pure_strings, target_hz
from jigwright.core.music.sympathy import OPEN_T60_S
from jigwright.core.music.tables import (
    chromatic_range,
    distance_table,
    references_of,
    tuning_table,
)
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.harmonic_finder import HarmonicFinder
from jigwright.ui.widgets.labels import label, push_button
from jigwright.ui.widgets.neck_finder import NeckFinder
from jigwright.wording.catalogue import tr, with_comma
from jigwright.wording.instruments import usual_length_words
from jigwright.wording.makers import kind_name
from jigwright.wording.notes import letter_name, pitch_name, reference_name
from jigwright.wording.ringing import meeting_text

_MILLIMETRES = 1
_HARMONICS = 2  # which sheet they are
_TONICS = ("C", "G", "D", "A", "E", "B", "F#", "F", "Bb", "Eb", "Ab", "Db")


@dataclass(frozen=True, slots=True, kw_only=True)
class TableSheet:
    """One table as values.

    Parameters
    ----------
    says : str
        How to read it.
    head : tuple of str
    rows : tuple of tuple of str
    heard_hz : tuple of tuple of (float or None)
        What each cell sounds like.
    """

    says: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    heard_hz: tuple[tuple[float | None, ...], ...]


class TablesPlace(QWidget):
    """Five tables for an instrument, a tonic and an A.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(self, session: SessionModel, sound: SoundModel, palette: Palette) -> None:
        super().__init__()
        self._session, self._sound, self._palette = session, sound, palette
        self._sheets: tuple[tuple[str, Callable[[], TableSheet]], ...] = (
            (tr("Tunings"), self._tunings), (tr("Millimetres"), self._millimetres),
            (tr("Harmonics"), self._harmonics), (tr("What rings"), self._ringing),
            (tr("Two pure answers"), self._conflicts),
        )  # fmt: skip
        self._i_sheet = 0
        self._sheet: TableSheet | None = None
        self._tonic, self._kind, self._string = QComboBox(), QComboBox(), QComboBox()
        self._says = label("", px=14, second=True)
        self.table = QTableWidget()
        self.finder = HarmonicFinder(palette)
        self.finder.heard.connect(sound.play_targets)
        self.neck = NeckFinder(palette)
        self.neck.heard.connect(sound.play_target)
        self.neck.asked.connect(self._string_asked)
        self._build()
        session.changed.connect(self.refresh)

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 14, 24, 16)
        column.setSpacing(10)
        turns = QHBoxLayout()
        self._group = QButtonGroup(self)
        for i, (name, _) in enumerate(self._sheets):
            button = QPushButton(name)
            button.setProperty("kind", "turn")
            button.setCheckable(True)
            button.setChecked(i == 0)
            button.setFont(sans(16, bold=True))
            button.clicked.connect(lambda _=False, k=i: self.turn(k))
            self._group.addButton(button, i)
            turns.addWidget(button)
        turns.addStretch(1)
        column.addLayout(turns)
        choices = QHBoxLayout()
        for kind in ("violin", "viola", "cello", "bass"):
            self._kind.addItem(kind_name(kind), kind)
        for tonic in _TONICS:
            self._tonic.addItem(letter_name(PitchClass.parse(tonic)), tonic)
        self._tonic.setCurrentIndex(_TONICS.index("D"))
        for name, combo in (
            (tr("Instrument"), self._kind), (tr("Tonic"), self._tonic), (tr("String"), self._string)
        ):  # fmt: skip
            choices.addWidget(label(name, px=14, second=True, wrap=False))
            combo.setAccessibleName(name)
            combo.setMinimumWidth(120)
            choices.addWidget(combo)
            choices.addSpacing(14)
        choices.addStretch(1)
        for text, run in ((tr("Copy"), self.copy), (tr("Save as PDF …"), self._choose_pdf)):
            choices.addWidget(push_button(text, run))
        column.addLayout(choices)
        column.addWidget(self._says)
        column.addWidget(self.finder)
        column.addWidget(self.neck)
        self.table.setFont(sans(14))
        self.table.setAccessibleName(tr("Table"))
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        if (side := self.table.verticalHeader()) is not None:
            side.hide()
        self.table.cellDoubleClicked.connect(self.hear)
        column.addWidget(self.table, 1)
        column.addWidget(
            label(tr("Double click or press Return on a value to hear it."), px=13, second=True)
        )
        kind = self._session.now.kind
        self._kind.setCurrentIndex(max(0, self._kind.findData(kind)))
        self._kind.currentIndexChanged.connect(self._kind_changed)
        self._tonic.currentIndexChanged.connect(self.refresh)
        self._string.currentIndexChanged.connect(self.refresh)
        self._kind_changed()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.finder.set_palette(palette)
        self.neck.set_palette(palette)

    def _string_asked(self, string: int) -> None:
        """The table is of the string that was pointed at."""
        self._string.setCurrentIndex(self._string.count() - 1 - string)

    def turn(self, i: int) -> None:
        """Show another table."""
        self._i_sheet = i
        if (button := self._group.button(i)) is not None:
            button.setChecked(True)
        self.refresh()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Return sounds the current cell."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.hear(self.table.currentRow(), self.table.currentColumn())
            return
        super().keyPressEvent(event)

    # values -------------------------------------------------------------------------------

    @property
    def _inst(self) -> Instrument:
        return instrument(self._kind.currentData())

    def _strings(self) -> dict[Pitch, float]:
        owned = self._session.now.instrument
        strings = self._inst.strings
        if owned is not None and owned.kind == self._inst.id:
            strings = owned.strings
        return pure_strings(strings, self._a4())

    def _own(self) -> bool:
        """Whether the tables speak of the player's own instrument, and its length is known."""
        owned = self._session.now.instrument
        return owned is not None and owned.kind == self._inst.id and bool(owned.string_length_mm)

    def _length_mm(self) -> float:
        if self._own():
            return self._session.now.string_length_mm
        return self._inst.string_length_mm

    def _a4(self) -> float:
        return self._session.now.a4_hz

    def _key(self) -> Key:
        return Key(PitchClass.parse(self._tonic.currentData()))

    def _kind_changed(self) -> None:
        self._string.blockSignals(True)
        self._string.clear()
        for string in reversed(self._strings()):
            self._string.addItem(pitch_name(string), str(string))
        self._string.blockSignals(False)
        self.refresh()

    def refresh(self) -> None:
        """Compute the table anew."""
        if not self._string.count():
            return
        for i, string in enumerate(reversed(self._strings())):
            self._string.setItemText(i, pitch_name(string))  # notes may be called otherwise now
        self._sheet = sheet = self._sheets[self._i_sheet][1]()
        self._string.setEnabled(self._i_sheet == _MILLIMETRES)
        self._tonic.setEnabled(self._i_sheet in (0, 3))
        self._says.setText(sheet.says)
        self.finder.setVisible(self._i_sheet == _HARMONICS)
        if self._i_sheet == _HARMONICS:
            self.finder.set_strings(
                self._strings(), self._inst, length_mm=self._length_mm(), a4_hz=self._a4()
            )
        self.neck.setVisible(self._i_sheet == _MILLIMETRES)
        if self._i_sheet == _MILLIMETRES:
            strings = self._strings()
            chosen = [str(s) for s in strings].index(self._string.currentData())
            self.neck.set_strings(
                strings, length_mm=self._length_mm(), fifths=self._key().fifths, string=chosen
            )
        self.table.clear()
        self.table.setColumnCount(len(sheet.head))
        self.table.setRowCount(len(sheet.rows))
        self.table.setHorizontalHeaderLabels(list(sheet.head))
        last_is_words = self._i_sheet in (2, 3)
        for c in range(len(sheet.head)):
            words = c == 0 or (last_is_words and c == len(sheet.head) - 1)
            side = Qt.AlignmentFlag.AlignLeft if words else Qt.AlignmentFlag.AlignRight
            if (top := self.table.horizontalHeaderItem(c)) is not None:
                top.setTextAlignment(int(side | Qt.AlignmentFlag.AlignVCenter))
            for r, row in enumerate(sheet.rows):
                item = QTableWidgetItem(with_comma(row[c]))
                item.setTextAlignment(int(side | Qt.AlignmentFlag.AlignVCenter))
                self.table.setItem(r, c, item)
        head = self.table.horizontalHeader()
        if head is not None:
            head.setFont(sans(13, bold=True))
            head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            head.setMinimumSectionSize(120)
            head.setStretchLastSection(last_is_words)

    def hear(self, row: int, column: int) -> None:
        """Sound a value."""
        if self._sheet is None or not 0 <= row < len(self._sheet.rows):
            return
        hz = self._sheet.heard_hz[row][min(column, len(self._sheet.heard_hz[row]) - 1)]
        if hz is not None:
            self._sound.play_target(hz, self._sheet.rows[row][0])

    def _tunings(self) -> TableSheet:
        key = self._key()
        octave = 3 if self._inst.id == "cello" else 2 if self._inst.id == "bass" else 4
        names = [reference_name(r.name) for r in references_of(key)]
        rows, heard = [], []
        for row in tuning_table(key, octave=octave, a4_hz=self._a4(), open_hz=self._strings()):
            hz = row.equal_hz
            rows.append((pitch_name(row.pitch), f"{hz:.2f} Hz", *(_signed(c) for c in row.cents)))
            heard.append((hz, hz, *(hz * 2.0 ** (c / 1200.0) for c in row.cents)))
        return TableSheet(
            says=tr(
                "Each column says how many cents its tuning lies above or below equal temperament "
                "at A {a4}. Just stands on the tonic; ring follows the open strings."
            ).format(a4=f"{self._a4():g}"),
            head=(tr("Note"), tr("equal"), *names), rows=tuple(rows), heard_hz=tuple(heard),
        )  # fmt: skip

    def _millimetres(self) -> TableSheet:
        string = Pitch.parse(self._string.currentData())
        length = self._length_mm()
        hz = self._strings()[string]
        rows, heard = [], []
        for row in distance_table(string, string_length_mm=length, fifths=self._key().fifths):
            sounding = hz * 2.0 ** (row.semitones / 12.0)
            rows.append(
                (
                    pitch_name(row.pitch), f"{row.from_nut_mm:.1f} mm", f"{row.step_mm:.1f} mm",
                    f"{row.ten_cents_mm:.2f} mm", f"{10 / row.ten_cents_mm:.1f} c",
                )
            )  # fmt: skip
            heard.append((sounding,) * 5)
        return TableSheet(
            says=tr(
                "On a string {mm} mm long from nut to bridge. Steps shrink towards the bridge: "
                "the same slip of a finger costs more cents higher up."
            ).format(mm=f"{length:g}")
            + ("" if self._own() else " " + usual_length_words()),
            head=(
                tr("Note"), tr("from the nut"), tr("from the half step below"),
                tr("10 cents are"), tr("1 mm is"),
            ),
            rows=tuple(rows), heard_hz=tuple(heard),
        )  # fmt: skip

    def _harmonics(self) -> TableSheet:
        found = all_harmonics(
            self._strings(), string_length_mm=self._length_mm(), a4_hz=self._a4(),
            highest=8,
        )  # fmt: skip
        rows, heard = [], []
        for h in found:
            places = " · ".join(
                tr("{mm} mm (as {note} {cents})").format(
                    mm=round(p.from_nut_mm), note=pitch_name(p.touched),
                    cents=_signed(p.touched_cents),
                )
                for p in h.places[:4]
            )  # fmt: skip
            rows.append(
                (pitch_name(h.string), str(h.partial), pitch_name(h.sounding), _signed(h.cents),
                 f"{h.f_hz:.1f} Hz", places)
            )  # fmt: skip
            heard.append((h.f_hz / h.partial, *(h.f_hz,) * 5))
        return TableSheet(
            says=tr(
                "Every natural harmonic up to partial 8, with its places from the nut: the note "
                "that would be stopped there, and how far the place lies from it."
            ),
            head=(tr("String"), tr("Partial"), tr("Sounds"), tr("from equal"), tr("Pitch"),
                  tr("Touch at")),
            rows=tuple(rows), heard_hz=tuple(heard),
        )  # fmt: skip

    def _ringing(self) -> TableSheet:
        strings = self._strings()
        pitches = chromatic_range(
            next(iter(strings)), max(s.midi for s in strings) + 12, fifths=self._key().fifths
        )
        rows, heard = [], []
        t60_s = OPEN_T60_S[str(self._kind.currentData())]
        names = list(strings)
        for pitch in pitches:
            hz = target_hz(RING, pitch, self._a4(), open_strings_hz=strings)
            met = meetings(hz, tuple(strings.values()), t60_s)
            words = ", ".join(meeting_text(m, names[m.string]) for m in met)
            width = f"± {met[0].half_width_cents:.1f} c" if met else ""
            rows.append((pitch_name(pitch), width, words or "–"))
            heard.append((hz, hz, hz))
        return TableSheet(
            says=tr(
                "Which open strings a note can wake, with the partials that meet, strongest first. "
                "Within the width the ring keeps half its strength; where the two lie apart, "
                "what that leaves is said. A unison rings only where a finger stops it on another "
                "string. "
                "A note that wakes nothing needs bow and vibrato instead: that is no fault."
            ),
            head=(tr("Note"), tr("Width"), tr("Wakes")), rows=tuple(rows), heard_hz=tuple(heard),
        )  # fmt: skip

    def _conflicts(self) -> TableSheet:
        rows, heard = [], []
        for found in conflicts(self._strings(), fifths=self._key().fifths, a4_hz=self._a4()):
            equal = self._a4() * 2.0 ** ((found.pitch.midi - 69) / 12.0)
            first = equal * 2.0 ** (found.first_cents / 1200.0)
            second = equal * 2.0 ** (found.second_cents / 1200.0)
            middle = 0.5 * (found.first_cents + found.second_cents)
            rows.append(
                (
                    pitch_name(found.pitch),
                    f"{pitch_name(found.first)}: {_signed(found.first_cents)}",
                    f"{pitch_name(found.second)}: {_signed(found.second_cents)}",
                    f"{found.apart_cents:.0f} c", _signed(middle),
                )
            )  # fmt: skip
            heard.append((equal, first, second, None, equal * 2.0 ** (middle / 1200.0)))
        return TableSheet(
            says=tr(
                "Stopped notes that are pure with the open string on one side and out with the one "
                "on the other: both answers in cents from equal temperament, how far they lie "
                "apart, the middle way. "
                "Notes that are not listed have one pure answer for both."
            ),
            head=(tr("Note"), tr("pure with"), tr("or pure with"), tr("apart"), tr("middle way")),
            rows=tuple(rows), heard_hz=tuple(heard),
        )  # fmt: skip

    # taking away ----------------------------------------------------------------------------

    def as_text(self) -> str:
        """The table with tabs between the cells."""
        assert self._sheet is not None
        lines = [self._sheet.head, *self._sheet.rows]
        return "\n".join("\t".join(row) for row in lines)

    def copy(self) -> None:
        """Put the table on the clipboard."""
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.as_text())
            self.message.emit(tr("The table is on the clipboard."))

    def _choose_pdf(self) -> None:
        title = self._sheets[self._i_sheet][0]
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save as PDF"), f"{title}.pdf", "PDF (*.pdf)"
        )
        if name:
            self.write_pdf(Path(name))

    def write_pdf(self, path: Path) -> None:
        """Write the table as PDF pages."""
        from html import escape

        assert self._sheet is not None
        cells = "".join(
            "<tr>" + "".join(f"<td>{escape(c)}&nbsp;&nbsp;</td>" for c in row) + "</tr>"
            for row in self._sheet.rows
        )
        head = "".join(f"<th align='left'>{escape(h)}</th>" for h in self._sheet.head)
        title = self._sheets[self._i_sheet][0]
        part = path.with_name(f".{path.name}.part")
        writer = QPdfWriter(str(part))
        writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        writer.setPageMargins(QMarginsF(15, 15, 15, 15))
        document = QTextDocument()
        document.setDefaultFont(sans(11))
        if (layout := document.documentLayout()) is not None:
            layout.setPaintDevice(writer)
        document.setHtml(
            f"<h2>{escape(title)}</h2><p>{escape(self._sheet.says)}</p>"
            f"<table cellpadding='3'><tr>{head}</tr>{cells}</table>"
        )
        document.print(writer)
        del writer
        try:
            part.replace(path)
        except OSError as error:
            self.message.emit(tr("{what}. Nothing was changed.").format(what=error.strerror))
            return
        self.message.emit(tr("Saved as {name}.").format(name=path.name))


def _signed(cents: float) -> str:
    whole = round(cents)
    return f"{'+' if whole > 0 else '−' if whole < 0 else ''}{abs(whole)} c"
