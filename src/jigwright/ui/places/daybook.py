"""Daybook: what to do today, ladders, trends, and the record of days."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSpinBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.judge.ladder import Ladder
from jigwright.services.dayexport import days_csv, days_ics, days_json
from jigwright.services.records import DayNote
from jigwright.ui.painting.trend import paint_ladder, paint_trend
from jigwright.ui.report import write_report
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.daybook import FIGURES, Day, DaybookModel
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.ui.widgets.labels import clear, label, word_button
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import (
    change_sentence,
    figure_name,
    ladder_name,
    part_name,
    part_text,
    rung_name,
    school_name,
    school_reason,
    standing_text,
)
from jigwright.wording.errors import error_sentence

_PAGES = ("today", "ladders", "trends", "record")


class DaybookPlace(QWidget):
    """Four pages before and after playing.

    Signals
    -------
    play : Jig
        A jig was chosen to be played at the Stand.
    place : str
        Another place was asked for.
    message : str
    """

    play = pyqtSignal(object)
    place = pyqtSignal(str)
    message = pyqtSignal(str)

    def __init__(self, model: DaybookModel, desk: DeskModel, palette: Palette) -> None:
        super().__init__()
        self.model, self._desk, self._palette = model, desk, palette
        self._day: Day | None = None
        self._stack = QStackedWidget()
        self._build()
        model.changed.connect(self.refresh)
        model.message.connect(self.message)

    # building -----------------------------------------------------------------------------

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 14, 24, 16)
        column.setSpacing(10)
        turns = QHBoxLayout()
        self._group = QButtonGroup(self)
        names = (tr("Today"), tr("Ladders"), tr("Trends"), tr("Record"))
        for i, name in enumerate(names):
            button = QPushButton(name)
            button.setProperty("kind", "turn")
            button.setCheckable(True)
            button.setChecked(i == 0)
            button.setFont(sans(16, bold=True))
            button.clicked.connect(lambda _=False, k=i: self.turn(_PAGES[k]))
            self._group.addButton(button, i)
            turns.addWidget(button)
        turns.addStretch(1)
        column.addLayout(turns)
        for page in (
            self._make_today(), self._make_ladders(), self._make_trends(), self._make_record()
        ):  # fmt: skip
            self._stack.addWidget(page)
        column.addWidget(self._stack, 1)

    def _button(self, text: str, run: Callable[[], object], *, first: bool = False) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "first" if first else "second")
        button.setFont(sans(14, bold=first))
        button.clicked.connect(lambda: self._safely(run))
        return button

    def _safely(self, run: Callable[[], object]) -> None:
        try:
            run()
        except (JigwrightError, OSError) as error:
            self.message.emit(error_sentence(error))

    def _scrolled(self, inner: QWidget) -> QScrollArea:
        area = QScrollArea()
        area.setWidget(inner)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return area

    def _make_today(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        line = QHBoxLayout()
        self._minutes, self._school, self._theme = QSpinBox(), QComboBox(), QLineEdit()
        self._minutes.setRange(5, 240)
        self._minutes.setSingleStep(5)
        self._minutes.setSuffix(" " + tr("minutes"))
        for school in ("foundation", "rotating"):
            self._school.addItem(school_name(school), school)
        self._theme.setPlaceholderText(tr("theme of the week"))
        self._theme.setMinimumWidth(190)
        self._theme.setMaximumWidth(260)
        for name, widget in (
            (tr("Time there is"), self._minutes), (tr("Laid out"), self._school),
            (tr("Theme"), self._theme),
        ):  # fmt: skip
            line.addWidget(label(name, px=14, second=True, wrap=False))
            widget.setAccessibleName(name)
            line.addWidget(widget)
            line.addSpacing(12)
        line.addStretch(1)
        self._go = self._button(tr("Start the session"), self._start_next, first=True)
        line.addWidget(self._go)
        column.addLayout(line)
        self._reason = label("", px=14, second=True)
        column.addWidget(self._reason)
        inner = QWidget()
        self._items = QGridLayout(inner)
        self._items.setHorizontalSpacing(14)
        self._items.setVerticalSpacing(12)
        self._items.setColumnStretch(3, 1)
        column.addWidget(self._scrolled(inner), 1)
        self._minutes.valueChanged.connect(lambda v: self.model.set_plan(minutes=v))
        self._school.activated.connect(
            lambda _: self.model.set_plan(school=self._school.currentData())
        )
        self._theme.editingFinished.connect(
            lambda: (
                self.model.set_plan(theme=self._theme.text().strip())
                if self._theme.text().strip() != self.model.theme
                else None
            )
        )
        return page

    def _make_ladders(self) -> QWidget:
        inner = QWidget()
        self._ladders = QGridLayout(inner)
        self._ladders.setHorizontalSpacing(18)
        self._ladders.setVerticalSpacing(10)
        self._ladders.setColumnStretch(1, 1)
        return self._scrolled(inner)

    def _make_trends(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        line = QHBoxLayout()
        self._trend_jig, self._figure = QComboBox(), QComboBox()
        self._trend_jig.setMinimumWidth(280)
        for figure in FIGURES:
            self._figure.addItem(figure_name(figure), figure)
        for name, combo in ((tr("Jig"), self._trend_jig), (tr("Figure"), self._figure)):
            line.addWidget(label(name, px=14, second=True, wrap=False))
            combo.setAccessibleName(name)
            combo.currentIndexChanged.connect(self._show_trend)
            line.addWidget(combo)
            line.addSpacing(12)
        line.addStretch(1)
        column.addLayout(line)
        self._trend = Painted(self._paint_trend, 360)
        self._trend.setMinimumHeight(200)
        self._trend.setMaximumHeight(16_000)
        self._trend.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._trend.setAccessibleName(tr("Trend"))
        column.addWidget(self._trend, 1)
        self._trend_words = label("", px=16, bold=True)
        column.addWidget(self._trend_words)
        column.addWidget(
            label(
                tr(
                    "A dot is a take; the line is the running middle. Each take is judged as it "
                    "was played: its own A, reference and tolerance."
                ),
                px=13,
                second=True,
            )
        )
        return page

    def _make_record(self) -> QWidget:
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(24)
        left = QVBoxLayout()
        self._search = QLineEdit()
        self._search.setPlaceholderText(tr("search in days, jigs and notes"))
        self._search.textChanged.connect(self._show_days)
        left.addWidget(self._search)
        self._days = QListWidget()
        self._days.setFont(sans(14))
        self._days.setAccessibleName(tr("Days"))
        self._days.currentRowChanged.connect(self._day_chosen)
        left.addWidget(self._days, 1)
        row.addLayout(left, 4)
        right = QVBoxLayout()
        self._day_title = label("", px=24, old_style=True)
        self._day_about = label("", px=14, second=True)
        self._word, self._liking = QLineEdit(), QComboBox()
        self._liking.addItem(tr("no liking given"), 0)
        for n, name in enumerate(
            (tr("not today"), tr("so so"), tr("all right"), tr("good"), tr("lovely")), start=1
        ):
            self._liking.addItem(name, n)
        self._notes, self._next = QPlainTextEdit(), QPlainTextEdit()
        right.addWidget(self._day_title)
        right.addWidget(self._day_about)
        for name, widget in (
            (tr("A word for the sound"), self._word), (tr("How it was"), self._liking),
            (tr("Notes"), self._notes), (tr("Next time"), self._next),
        ):  # fmt: skip
            right.addWidget(label(name, px=13, second=True))
            widget.setAccessibleName(name)
            right.addWidget(widget)
        buttons = QHBoxLayout()
        buttons.addWidget(self._button(tr("Keep"), self.keep_note, first=True))
        buttons.addWidget(self._button(tr("Report as PDF …"), self._choose_report))
        buttons.addWidget(self._button(tr("Export all days …"), self._choose_export))
        buttons.addStretch(1)
        right.addLayout(buttons)
        right.addStretch(1)
        row.addLayout(right, 7)
        return page

    # showing ------------------------------------------------------------------------------

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.refresh()

    def turn(self, page: str) -> None:
        """Show one of the pages."""
        i = _PAGES.index(page)
        self._stack.setCurrentIndex(i)
        if (button := self._group.button(i)) is not None:
            button.setChecked(True)
        self.refresh()

    def refresh(self) -> None:
        """Show the page anew."""
        if not self.isVisible():
            return
        (self._show_today, self._show_ladders, self._show_trends, self._show_days)[
            self._stack.currentIndex()
        ]()

    def showEvent(self, event: object) -> None:  # noqa: N802, ARG002
        """Catch up."""
        self.refresh()

    def _show_today(self) -> None:
        m = self.model
        for widget, value in ((self._minutes, m.minutes),):
            widget.blockSignals(True)
            widget.setValue(value)
            widget.blockSignals(False)
        self._school.setCurrentIndex(self._school.findData(m.school))
        if not self._theme.hasFocus():
            self._theme.setText(m.theme)
        self._reason.setText(school_reason(m.school))
        clear(self._items)
        following = m.next_item()
        for i, item in enumerate(m.items):
            done = i in m.done
            name = label(part_name(item.part), px=17, bold=i == following, wrap=False)
            minutes = label(tr("{n} min").format(n=item.minutes), px=15, second=True, wrap=False)
            text = label(part_text(item), px=15, second=done)
            self._items.addWidget(label("✓" if done else "", px=16, wrap=False), i, 0)
            self._items.addWidget(minutes, i, 1)
            self._items.addWidget(name, i, 2)
            self._items.addWidget(text, i, 3)
            tools = QHBoxLayout()
            tools.setSpacing(2)
            if item.part in ("strings", "bow", "pitch", "two_strings", "stroke", "passage"):
                tools.addWidget(word_button(tr("Begin"), partial(self.begin, i)))
            tools.addWidget(word_button("−", partial(m.stretch, i, -1), name=tr("Shorter")))
            tools.addWidget(word_button("+", partial(m.stretch, i, 1), name=tr("Longer")))
            tools.addWidget(word_button("↑", partial(m.move, i, -1), name=tr("Earlier")))
            tools.addWidget(word_button("↓", partial(m.move, i, 1), name=tr("Later")))
            tools.addWidget(word_button("×", partial(m.remove, i), name=tr("Leave out")))
            self._items.addLayout(tools, i, 4)
        self._items.setRowStretch(len(m.items), 1)
        total = sum(i.minutes for i in m.items)
        self._go.setText(
            tr("Start the session") if following in (0, None) else tr("Go on with the session")
        )
        if not any(i.jig_id for i in m.items):
            self._reason.setText(tr("No jigs for this instrument yet: make some in Jigs first."))
        elif total != m.minutes:
            self._reason.setText(
                self._reason.text() + " " + tr("{n} minutes in all.").format(n=total)
            )

    def begin(self, i: int) -> None:
        """Go to the Stand with an item of the plan."""
        item = self.model.items[i]
        self.model.finish(i)
        if item.part == "strings":
            self.place.emit("strings")
            return
        jig = self.model.jig_of(item)
        if jig is not None:
            self.play.emit(jig)

    def _start_next(self) -> None:
        i = self.model.next_item()
        while i is not None and self.model.items[i].part in ("settle", "break", "close"):
            self.model.finish(i)
            i = self.model.next_item()
        if i is None:
            self.model.plan()
            self.message.emit(tr("The session is done. A new plan is laid out."))
            return
        self.begin(i)

    def _show_ladders(self) -> None:
        clear(self._ladders)
        for row, ladder in enumerate(self.model.ladders()):
            where = self.model.standing(ladder)
            picture = Painted(self._ladder_painter(ladder, where.rung), 64)
            picture.setFixedWidth(54)
            self._ladders.addWidget(picture, row, 0)
            words = QVBoxLayout()
            words.setSpacing(0)
            words.addWidget(label(ladder_name(ladder.id), px=17, bold=True))
            if where.rung < len(ladder.rungs):
                words.addWidget(label(rung_name(ladder.rungs[where.rung]), px=14))
            words.addWidget(label(standing_text(ladder, where), px=13, second=True))
            self._ladders.addLayout(words, row, 1)
            self._ladders.addWidget(
                self._button(tr("Work on this rung"), partial(self.climb, ladder)), row, 2
            )
        self._ladders.setRowStretch(len(self.model.ladders()), 1)

    def _ladder_painter(self, ladder: Ladder, at: int) -> Callable[[QPainter, QRectF], None]:
        def paint(painter: QPainter, rect: QRectF) -> None:
            paint_ladder(painter, rect.adjusted(8, 2, -8, -2), len(ladder.rungs), at, self._palette)

        return paint

    def climb(self, ladder: Ladder) -> None:
        """Play the rung a player stands on."""
        self.play.emit(self.model.start_rung(ladder))

    def _show_trends(self) -> None:
        chosen = self._trend_jig.currentData()
        self._trend_jig.blockSignals(True)
        self._trend_jig.clear()
        for jig_id, title in self.model.trend_jigs():
            self._trend_jig.addItem(title, jig_id)
        self._trend_jig.setCurrentIndex(max(0, self._trend_jig.findData(chosen)))
        self._trend_jig.blockSignals(False)
        self._show_trend()

    def _show_trend(self) -> None:
        jig_id, figure = self._trend_jig.currentData(), self._figure.currentData()
        if jig_id is None:
            self._trend_words.setText(tr("No takes yet. A trend begins with the first one."))
            self._trend.update()
            return
        points = self.model.trend(jig_id, figure)
        change = self.model.change(points)
        day = points[change.at].day if change is not None else ""
        words = change_sentence(
            change, figure, _day_name(day) if day else "", len(points),
            cut=any(p.cut_before for p in points),
        )  # fmt: skip
        if self.model.busy:
            words = tr("Older takes are being counted …") + " " + words
        self._trend_words.setText(words)
        self._trend.update()

    def _paint_trend(self, painter: QPainter, rect: QRectF) -> None:
        painter.fillRect(rect, self._palette.color("paper"))
        jig_id = self._trend_jig.currentData()
        if jig_id is None:
            return
        figure = self._figure.currentData()
        points = self.model.trend(jig_id, figure)
        paint_trend(
            painter, rect, [p.value for p in points], [p.day for p in points],
            [p.cut_before for p in points], self.model.change(points), self._palette,
            zero=figure != "bias_cents",
        )  # fmt: skip

    def _show_days(self) -> None:
        wanted = self._search.text().strip().lower()
        chosen = self._day.day if self._day is not None else None
        self._days.blockSignals(True)
        self._days.clear()
        at = 0
        for day in self.model.days():
            text = _day_name(day.day)
            minutes = round(day.seconds / 60)
            about = trn("{n} take", "{n} takes", day.n_takes).format(n=day.n_takes)
            if day.n_takes:
                length = (
                    tr("{n} min").format(n=minutes)
                    if day.seconds >= 60
                    else tr("{n} s").format(n=round(day.seconds))
                )
                about += ", " + tr("{length} of sound").format(length=length)
            body = " ".join((text, *day.jigs, day.note.word, day.note.notes, day.note.next_time))
            if wanted and wanted not in body.lower():
                continue
            mark = f"  “{day.note.word}”" if day.note.word else ""
            item = QListWidgetItem(f"{text}{mark}\n{about}")
            item.setData(Qt.ItemDataRole.UserRole, day)
            self._days.addItem(item)
            if day.day == chosen:
                at = self._days.count() - 1
        self._days.blockSignals(False)
        if self._days.count():
            self._days.setCurrentRow(at)
            self._day_chosen(at)
        else:
            self._day_title.setText(tr("Nothing found"))

    def _day_chosen(self, row: int) -> None:
        item = self._days.item(row)
        if item is None:
            return
        day: Day = item.data(Qt.ItemDataRole.UserRole)
        self._day = day
        self._day_title.setText(_day_name(day.day))
        self._day_about.setText(" · ".join(j for j in day.jigs if j) or tr("Nothing was recorded."))
        self._word.setText(day.note.word)
        self._liking.setCurrentIndex(max(0, self._liking.findData(day.note.liking)))
        self._notes.setPlainText(day.note.notes)
        self._next.setPlainText(day.note.next_time)

    # doing --------------------------------------------------------------------------------

    def keep_note(self) -> None:
        """Keep what is written about the chosen day."""
        if self._day is None:
            return
        note = DayNote(
            player_id=self._day.note.player_id, day=self._day.day,
            word=self._word.text().strip()[:80], liking=int(self._liking.currentData() or 0),
            notes=self._notes.toPlainText().strip()[:4000],
            next_time=self._next.toPlainText().strip()[:4000],
        )  # fmt: skip
        self.model.write_note(note)
        self.message.emit(tr("Kept."))

    def _choose_report(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Report as PDF"), tr("report") + ".pdf", "PDF (*.pdf)"
        )
        if name:
            self.report(Path(name))

    def report(self, path: Path) -> None:
        """Write one page about the last weeks."""
        player = self._desk.player.name if self._desk.player else ""
        write_report(self.model, player, path)
        self.message.emit(tr("Saved as {name}.").format(name=path.name))

    def _choose_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Export all days"), tr("days") + ".csv",
            tr("Tables and calendars") + " (*.csv *.json *.ics)",
        )  # fmt: skip
        if name:
            self.export(Path(name))

    def export(self, path: Path) -> None:
        """Write all days as CSV, JSON or iCalendar by the suffix."""
        make = {".json": days_json, ".ics": days_ics}.get(path.suffix.lower(), days_csv)
        rows = [
            (d.day, d.n_takes, d.seconds, " | ".join(j for j in d.jigs if j), d.note)
            for d in self.model.days()
        ]
        part = path.with_name(f".{path.name}.part")
        part.write_text(make(rows), encoding="utf-8")
        part.replace(path)
        self.message.emit(tr("Saved as {name}.").format(name=path.name))

    def chosen_jig(self) -> Jig | None:
        """The jig a trend is shown of, for tests."""
        jig_id = self._trend_jig.currentData()
        return next((j for j in self._desk.studio.jigs() if j.id == jig_id), None)


def _day_name(day: str) -> str:
    moment = date.fromisoformat(day)
    months = (
        tr("January"), tr("February"), tr("March"), tr("April"), tr("May"), tr("June"), tr("July"),
        tr("August"), tr("September"), tr("October"), tr("November"), tr("December"),
    )  # fmt: skip
    weekdays = (tr("Monday"), tr("Tuesday"), tr("Wednesday"), tr("Thursday"), tr("Friday"),
                tr("Saturday"), tr("Sunday"))  # fmt: skip
    return tr("{weekday}, {day} {month}").format(
        weekday=weekdays[moment.weekday()], day=moment.day, month=months[moment.month - 1]
    )
