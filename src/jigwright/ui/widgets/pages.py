"""The Desk's close looks: one picture at a time, with its words; copied or saved with a click."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.isolation import isolated
from jigwright.core.judge.ribbons import Ribbon
from jigwright.services.practising import PURE_ENOUGH_CENTS
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.ui.painting.changes import ChangesPicture, paint_changes
from jigwright.ui.painting.compare import paint_compare
from jigwright.ui.painting.landing_map import paint_landing_map
from jigwright.ui.painting.live import fitted_text
from jigwright.ui.painting.ribbons import paint_ribbons
from jigwright.ui.painting.ring_map import paint_ring_map
from jigwright.ui.painting.ring_takes import RingTakesRow, height_px, paint_ring_takes
from jigwright.ui.painting.shape_time import paint_shape_time
from jigwright.ui.painting.slip import paint_past
from jigwright.ui.painting.two_strings import ladder_at, paint_ladders
from jigwright.ui.pictures import picture_image, save_picture
from jigwright.ui.theme import Palette
from jigwright.ui.viewmodels.desk.answers import AnswersModel
from jigwright.ui.viewmodels.desk.comparing import Comparing
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.desk.page_data import PagesModel
from jigwright.ui.viewmodels.desk.stops import StopsModel, Voice
from jigwright.ui.viewmodels.desk.strokes import StrokesModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.labels import label, push_button
from jigwright.wording.bow_plan import bowing_sentence
from jigwright.wording.catalogue import tr
from jigwright.wording.changes import changes_sentence
from jigwright.wording.daybook import day_name
from jigwright.wording.makers import kind_name
from jigwright.wording.notes import letter_name, pitch_name
from jigwright.wording.pages import (
    click_sentence,
    compare_aims_sentence,
    compare_sentence,
    landing_sentence,
    mirror_sentence,
    stop_takes_text,
    strings_sentence,
    way_back_sentence,
)
from jigwright.wording.ringing import answer_text, over_takes_text, ring_sentence

_TAKES_SHARE = 0.42
_STOP_TAKES_SHARE = 0.26
_CHANGES_SHARE = 0.36
PAGES = ("landings", "bow", "two_strings", "ring", "shape", "compare")


class _Picture(QWidget):
    def __init__(self, owner: ClosePage) -> None:
        super().__init__()
        self._owner = owner
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """Draw the page's picture."""
        painter = QPainter(self)
        self._owner.paint(painter, QRectF(self.rect()))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Choose what lies there."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._owner.press(event.position(), QRectF(self.rect()))


class ClosePage(QWidget):
    """Shows one of the pages.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        model: DeskModel,
        sound: SoundModel,
        palette: Palette,
    ) -> None:
        super().__init__()
        self._model, self._palette = model, palette
        self.comparing = Comparing(studio, session, reader, model, sound)
        self.comparing.changed.connect(self._changed)
        self._data = PagesModel(studio, model)
        self.stops = StopsModel(model)
        self._sound = sound
        self.strokes = StrokesModel(studio, reader, lambda: [p.take for p in model.prints], self)
        self.strokes.changed.connect(self._changed)
        self.answers = AnswersModel(
            reader, lambda: [p.take for p in model.prints], lambda: session.now.view, self
        )
        self.answers.changed.connect(self._changed)
        self.page = "landings"
        self._title = label("", px=24, old_style=True)
        self._about = label("", px=13, second=True)
        self._words = label("", px=15, bold=True)
        self._picture = _Picture(self)
        self._picture.setAccessibleName(tr("Picture"))
        buttons = QHBoxLayout()
        buttons.addWidget(self._make_lines())
        buttons.addStretch(1)
        self._picture_buttons = [
            push_button(tr("Copy picture"), self.copy),
            push_button(tr("Save picture …"), self._choose),
        ]
        for button in self._picture_buttons:
            buttons.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 12)
        column.setSpacing(6)
        for part in (self._title, self._about):
            column.addWidget(part)
        column.addWidget(self._picture, 1)
        column.addWidget(self._words)
        column.addWidget(self._make_blind())
        column.addLayout(buttons)
        for signal in (model.judged_changed, model.selection_changed, model.takes_changed):
            signal.connect(self._changed)

    def _make_lines(self) -> QWidget:
        """Each line of double stops alone."""
        self._lines = QWidget()
        row = QHBoxLayout(self._lines)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(push_button(tr("Hear the upper line alone"), lambda: self._hear("upper")))
        row.addWidget(push_button(tr("Hear the lower line alone"), lambda: self._hear("lower")))
        return self._lines

    def _hear(self, voice: Voice) -> None:
        upper, lower = tr("the upper line, as tones"), tr("the lower line, as tones")
        self._sound.play_line(self.stops.line(voice), what=upper if voice == "upper" else lower)

    def press(self, place: QPointF, rect: QRectF) -> None:
        """Choose the stop that lies at a place of the picture."""
        if self.page != "two_strings":
            return
        row = ladder_at(self._stops_rect(rect), self.stops.ladders(), place)
        if row is not None:
            self._model.select(row)

    def _stops_rect(self, rect: QRectF) -> QRectF:
        """Where the ladders are; below them a stop over the takes."""
        below = _STOP_TAKES_SHARE * rect.height() if len(self.stops.history()) > 1 else 0.0
        return rect.adjusted(0, 0, 0, -below)

    def _make_blind(self) -> QWidget:
        """Buttons of the comparison: against which, and listening blind."""
        c = self.comparing
        self._blind = QWidget()
        grid = QGridLayout(self._blind)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setColumnStretch(3, 1)
        self._against = push_button(tr("Another take"), c.step)
        self._begin = push_button(tr("Listen blind"), c.start_blind)
        self._asked = [
            push_button(tr("Hear the first"), lambda: c.hear(0)),
            push_button(tr("Hear the second"), lambda: c.hear(1)),
            push_button(tr("I like the first"), lambda: c.choose(0)),
            push_button(tr("I like the second"), lambda: c.choose(1)),
            push_button(tr("No difference"), lambda: c.choose(None)),
        ]
        places = ((0, 0), (0, 1), (0, 0), (0, 1), (1, 0), (1, 1), (1, 2))
        for button, place in zip((self._against, self._begin, *self._asked), places, strict=True):
            grid.addWidget(button, *place)
        return self._blind

    def _show_blind(self) -> None:
        c = self.comparing
        self._blind.setVisible(self.page == "compare" and c.other is not None)
        self._against.setVisible(not c.hidden and len(c.others()) > 1)
        self._begin.setVisible(not c.hidden)
        for button in self._asked:
            button.setVisible(c.hidden)
        for button in self._picture_buttons:
            button.setVisible(not (self.page == "compare" and c.hidden))

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._picture.update()

    def show_page(self, page: str) -> None:
        """Turn to a page."""
        self.page = page
        self._changed()

    def sizeHint(self) -> QSize:  # noqa: N802
        """Room for a picture."""
        return QSize(700, 480)

    def _changed(self) -> None:
        if not self.isVisible() and self.parent() is not None:
            return
        titles = {
            "landings": tr("Where the fingers land"), "bow": tr("Strokes over each other"),
            "two_strings": tr("Between the strings"), "ring": tr("What rings"),
            "shape": tr("Shape and time"), "compare": tr("Two takes side by side"),
        }  # fmt: skip
        self._show_blind()
        stops = self.page == "two_strings" and any(self.stops.ladders())
        self._lines.setVisible(stops)
        self._title.setText(titles[self.page])
        failed = ("", tr("cannot tell: this page failed; a line about it stands in the log (F1)"))
        about, words = isolated(f"words of page {self.page}", self._text, failed)
        self._about.setText(about)
        self._words.setText(words)
        self._picture.update()

    def showEvent(self, event: object) -> None:  # noqa: N802, ARG002
        """Catch up with what changed while hidden."""
        self._changed()

    def _compare_text(self) -> tuple[str, str]:
        c, take = self.comparing, self._model.take
        if c.other is None or take is None:
            return "", tr("There is no other take of this jig yet.")
        if c.hidden:
            return tr("levels are matched; nobody knows which is which"), tr(
                "Which do you like? The figures come after that."
            )
        about = tr("first: {one} · second: {two}").format(one=c.name(c.other), two=c.name(take))
        if not c.same_place:
            about += " · " + tr("not the same day or microphone: levels are not compared")
        result = c.compared()
        words = compare_sentence(result[1]) if result is not None else ""
        said = compare_aims_sentence(c.aims())
        words = f"{said} {words}".strip()
        if c.answer is not None:
            words = tr("You liked: {what}.").format(what=c.answer) + " " + words
        return about, words

    def _text(self) -> tuple[str, str]:
        d = self._data
        if self.page == "compare":
            return self._compare_text()
        if self.page == "landings":
            picture = d.landing_picture()
            context = self._model.context()
            about = tr(
                "{kind}, string length {mm} mm · {n} takes · dot: a landing, bar: the middle two "
                "thirds · string and finger are those of the fingering"
            ).format(
                kind=kind_name(context.instrument_id), n=len(self._model.prints),
                mm=f"{context.length_mm:g}",
            )  # fmt: skip
            words = landing_sentence(d.worst(picture), len(picture.landings), picture.strings)
            back = d.way_back(picture)
            if back is not None:
                words = way_back_sentence(*back) + " " + words
            return about, words
        if self.page == "bow":
            ribbons = d.ribbons()
            broken = sum(bool(r.breaks) for r in ribbons)
            about = tr(
                "place on the bow is assumed from time · thickness: loudness · rough edge: noise · "
                "bite: contact lost"
            )
            if not ribbons:
                return about, tr("No strokes long enough to draw.")
            words = mirror_sentence(d.mirror(), broken, len(ribbons))
            jig = self._model.take_jig()
            if jig is not None and (by := bowing_sentence(jig)):
                words = f"{words} {by}"
            pairs = [(picture.now, picture.best) for picture in self._changes()]
            return about, f"{words} {changes_sentence(pairs, room=d.fills_holes())}".strip()
        if self.page == "two_strings":
            n = sum(x is not None for x in self.stops.ladders())
            about = tr(
                "height: wide or narrow of pure, from the first moment to the last · ripple: beats "
                "· a thicker rail is the louder string · whisker: uncertainty"
            )
            if len(self.stops.history()) > 1:
                about += " · " + tr("below: the chosen stop over the takes")
            back = self.stops.way_back()
            said = "" if n else tr("No double stops were heard in this take.")
            return about, said if back is None else way_back_sentence(*back)
        if self.page == "ring":
            about = tr(
                "size: what was to be had · filling: what was won · tail: how long it rang · "
                "hatched: cannot tell"
            )
            if self._ring_takes()[0]:
                about += " · " + tr("below: each note over the takes on the shelf")
            said = ring_sentence(d.ring_counts(), self._model.context().strings)
            return about, f"{said} {self._answer()}".strip()
        columns = d.columns()
        weak = [c.name for c in columns if c.weak]
        about = tr("every note of the take in its place; nothing is compared between takes here")
        if not columns:
            return about, tr("No notes were heard in this take.")
        clicks = d.against_clicks()
        if clicks is not None:
            about = click_sentence(clicks)
        said = tr("No note falls out of the line by 6 dB.")
        if weak:
            said = tr("Weaker than the rest by 6 dB or more: {names}.").format(
                names=", ".join(weak[:5])
            )
        strings = strings_sentence(d.string_levels(), self._model.context().strings)
        return about, f"{said} {strings}".strip()

    def _answer(self) -> str:
        """Where a string answers the selected note most, over the takes on the shelf."""
        judged, take, row = self._model.judged, self._model.take, self._model.selected
        if judged is None or take is None or row is None or row >= len(judged.notes):
            return ""
        note, strings = judged.notes[row], self._model.context().strings
        said = [
            over_takes_text(o.string, o.n_rang, o.n_told, o.n_takes, strings, note.pitch)
            for o in self.answers.history(take, note)[:1]
            if o.n_takes > 1
        ]
        found = self.answers.answer(take, note)
        if found is not None:
            cents, unsure = found.place.cents, found.place.uncertainty_cents
            said.append(
                answer_text(found.string, cents, unsure, found.n_takes, strings, note.pitch)
            )
        return " ".join(said)

    def paint(self, painter: QPainter, rect: QRectF) -> None:
        """Draw the picture of the page anywhere: widget, image or SVG."""
        painter.save()
        isolated(f"picture of page {self.page}", lambda: self._paint(painter, rect), None)
        painter.restore()

    def _paint(self, painter: QPainter, rect: QRectF) -> None:
        d, palette, row = self._data, self._palette, self._model.selected
        painter.fillRect(rect, palette.color("panel"))
        if self.page == "compare":
            result = None if self.comparing.hidden else self.comparing.compared()
            if result is not None:
                tolerance = self._model.context().tolerance_cents
                paint_compare(painter, rect, result[0], palette, tolerance)
        elif self.page == "landings":
            paint_landing_map(painter, rect, d.landing_picture(), palette)
        elif self.page == "bow":
            bands, n_takes = self.strokes.bands()
            changes = self._changes()
            if changes:
                wide = _CHANGES_SHARE * rect.width()
                right = QRectF(rect.right() - wide, rect.top() + 8, wide - 8, rect.height() - 16)
                paint_changes(painter, right, changes, palette)
                rect = rect.adjusted(0, 0, -wide - 12, 0)
            paint_ribbons(
                painter, rect, d.ribbons(), palette, selected=d.selected_stroke(),
                best=self._best_bow(), bands=bands, n_takes=n_takes,
            )  # fmt: skip
        elif self.page == "two_strings":
            upper, past = self._stops_rect(rect), self.stops.history()
            paint_ladders(painter, upper, self.stops.ladders(), palette, selected=row)
            if len(past) > 1 and self._model.take is not None:
                beside = QRectF(rect.left(), upper.bottom(), 112, 40)
                text = stop_takes_text(past[0].number, past[-1].number)
                fitted_text(painter, beside, text, palette, px=12, ink="ink2")
                lower = QRectF(rect.left() + 120, upper.bottom(), rect.width() - 130,
                               rect.bottom() - upper.bottom() - 6)  # fmt: skip
                paint_past(painter, lower, past, self._model.take.id, palette,
                           tolerance=PURE_ENOUGH_CENTS)  # fmt: skip
        elif self.page == "ring":
            strings, notes = d.ring_notes()
            rows, takes, shown = self._ring_takes()
            wide, below = rect.width() - 40, 0.0
            if rows:
                whole = height_px(len(rows), len(rows[0].cells), wide)
                below = min(_TAKES_SHARE * rect.height(), whole + 4)
            upper = rect.adjusted(0, 0, 0, -below)
            paint_ring_map(painter, upper, strings, notes, palette, selected=row)
            if rows:
                lower = QRectF(rect.left() + 20, upper.bottom(), wide, below - 4)
                paint_ring_takes(painter, lower, rows, palette, takes=takes, shown=shown)
        else:
            paint_shape_time(painter, rect, d.columns(), palette, selected=row)

    def _ring_takes(self) -> tuple[list[RingTakesRow], list[str], int | None]:
        """Notes that can ring by the takes on the shelf, the selected note first."""
        take, judged, row = self._model.take, self._model.judged, self._model.selected
        if take is None:
            return [], [], None
        table, ids = self.answers.table(take)
        note = judged.notes[row] if judged is not None and row is not None else None
        played = None if note is None else (note.pitch, note.finger, note.string)
        strings = self._model.context().strings
        rows = [
            RingTakesRow(
                note=pitch_name(r.pitch), string=letter_name(strings[r.string]), cells=r.cells,
                counted=tr("{n} of {of}").format(n=r.n_rang, of=r.n_told),
                selected=(r.pitch, r.finger, r.on_string) == played,
            )
            for r in table
        ]  # fmt: skip
        rows.sort(key=lambda r: not r.selected)
        number = {p.take.id: str(p.number) for p in self._model.prints}
        names = [number.get(i, "") for i in ids]
        return rows, names, ids.index(take.id) if take.id in ids else None

    def _changes(self) -> tuple[ChangesPicture, ...]:
        """The changes of the shown take at each place, beside the best of other takes."""
        take, pictures = self._model.take, []
        for now in self._data.changes():
            best = self.strokes.best_changes(take, now.place) if take is not None else None
            pictures.append(
                ChangesPicture(
                    now=now, best=best[1] if best else None,
                    best_day=day_name(best[0].day.isoformat()) if best else "",
                )
            )  # fmt: skip
        return tuple(pictures)

    def _best_bow(self) -> tuple[str, Ribbon] | None:
        """The best long bow above the strokes, where one of them has a fault."""
        judged, take = self._model.judged, self._model.take
        if (
            judged is None
            or take is None
            or not any(f.id.startswith("bow_") for f in judged.findings)
        ):
            return None
        best = self.strokes.best(take)
        if best is None:
            return None
        long = f"{best.ribbon.seconds:.1f}"
        name = tr("your best long bow, {day}, {s} s").format(
            day=day_name(best.take.day.isoformat()), s=long
        )
        return name, best.ribbon

    def image(self, width: int = 1600, height: int = 800) -> QImage:
        """The picture as pixels."""
        return picture_image(self.paint, 800.0, 800.0 * height / width, scale=width / 800.0)

    def copy(self) -> None:
        """Put the picture on the clipboard."""
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setImage(self.image())
            self.message.emit(tr("The picture is on the clipboard."))

    def _choose(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save picture"), f"{self.page}.svg", tr("Pictures") + " (*.svg *.png)"
        )
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Save as SVG or PNG by the suffix, complete or not at all."""
        self.message.emit(save_picture(path, self._title.text(), self.paint, 1000.0, 500.0))
