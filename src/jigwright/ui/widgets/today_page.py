"""Today: the session as a strip of time, what each part is for, and how it went."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from functools import partial

from PyQt6.QtCore import QRectF, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.jig.makers.repertoire import LEVELS
from jigwright.core.judge.plan import WORKED
from jigwright.core.judge.session_run import summed_up
from jigwright.services.practising import ENOUGH_MINUTES, heavy_minutes
from jigwright.services.records import DayNote
from jigwright.services.take_reader import TakeReader
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.viewmodels.daybook.pupils_model import PupilsModel
from jigwright.ui.widgets.labels import clear, label, push_button, word_button
from jigwright.ui.widgets.session_strip import SessionStrip
from jigwright.ui.widgets.warm_up import WarmUpDialog
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import (
    day_name,
    level_name,
    liking_name,
    pace_text,
    part_name,
    part_text,
    school_name,
    school_reason,
    weekday_letters,
    work_sentence,
)
from jigwright.wording.session_run import (
    again_sentence,
    due_sentence,
    item_name,
    remembered_sentence,
    sum_sentences,
)
from jigwright.wording.verdicts import heavy_sentence

LIKINGS = (1, 2, 3, 4, 5)
_DAY_PX = 24


class TodayPage(QWidget):
    """What is planned, begun and done today.

    Signals
    -------
    begun : int
        The session is to begin with this item of the plan; the one in hand of a session that is
        on its way.
    warm_up
        The warm-up alone is to begin.
    message : str
    """

    begun = pyqtSignal(int)
    warm_up = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self, model: DaybookModel, pupils: PupilsModel, reader: TakeReader, palette: Palette
    ) -> None:
        super().__init__()
        self.model, self._pupils, self._reader = model, pupils, reader
        self.palette_now, self._was_at = palette, -1
        self.dialog: WarmUpDialog | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        column.addLayout(self._make_wishes())
        self.said = label("", px=15, second=True)
        self.set_for_me = label("", px=15, bold=True)
        self.strip = SessionStrip(palette)
        self.week = ThemeWeek(palette)
        self.theme.setAccessibleName(tr("Theme"))
        second = QHBoxLayout()
        second.addWidget(self.said, 1)
        for widget in (self.week, label(tr("Theme"), px=14, second=True, wrap=False), self.theme):
            second.addWidget(widget, 0, Qt.AlignmentFlag.AlignTop)
        column.addLayout(second)
        column.addWidget(self.set_for_me)
        column.addWidget(self.strip)
        column.addLayout(self._make_tools())
        self.end = SessionEnd(model)
        self.end.message.connect(self.message)
        column.addWidget(self.end)
        inner = QWidget()
        self._rows = QGridLayout(inner)
        self._rows.setHorizontalSpacing(16)
        self._rows.setVerticalSpacing(9)
        self._rows.setColumnStretch(2, 1)
        area = QScrollArea()
        area.setWidget(inner)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(area, 1)
        self.strip.chosen.connect(lambda _: self.refresh())
        self.strip.begun.connect(self.begun)
        self.strip.stretched.connect(model.stretch)
        self.strip.moved.connect(model.move)
        self.strip.removed.connect(model.remove)

    def _make_wishes(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.minutes, self.school, self.theme = QSpinBox(), QComboBox(), QLineEdit()
        self.level = QComboBox()
        self.minutes.setRange(5, 240)
        self.minutes.setSingleStep(5)
        self.minutes.setSuffix(" " + tr("minutes"))
        for level in LEVELS:
            self.level.addItem(level_name(level), level)
        for school in ("foundation", "rotating"):
            self.school.addItem(school_name(school), school)
        self.theme.setPlaceholderText(tr("theme of the week"))
        self.theme.setMinimumWidth(150)
        self.theme.setMaximumWidth(230)
        for name, widget in (
            (tr("Time there is"), self.minutes), (tr("Level"), self.level),
            (tr("Laid out"), self.school),
        ):  # fmt: skip
            line.addWidget(label(name, px=14, second=True, wrap=False))
            widget.setAccessibleName(name)
            line.addWidget(widget)
            line.addSpacing(8)
        line.addStretch(1)
        self.go = push_button(tr("Start the session"), self.start_next, first=True)
        line.addWidget(self.go)
        m = self.model
        self.minutes.valueChanged.connect(lambda v: m.set_plan(minutes=v))
        self.school.activated.connect(lambda _: m.set_plan(school=self.school.currentData()))
        self.level.activated.connect(lambda _: m.set_plan(level=self.level.currentData()))
        self.theme.editingFinished.connect(self._theme_written)
        return line

    def _make_tools(self) -> QHBoxLayout:
        """What can be done with the chosen item."""
        line = QHBoxLayout()
        line.setSpacing(4)
        self.tools: list[QPushButton] = []
        rows: tuple[tuple[str, Callable[[int], object]], ...] = (
            (tr("Begin here"), self.begun.emit),
            (tr("Shorter"), partial(self._stretch, -1)), (tr("Longer"), partial(self._stretch, 1)),
            (tr("Earlier"), partial(self._move, -1)), (tr("Later"), partial(self._move, 1)),
            (tr("Leave out"), self.model.remove),
        )  # fmt: skip
        for text, run in rows:
            button = word_button(text, partial(self._with_chosen, run))
            self.tools.append(button)
            line.addWidget(button)
        line.addStretch(1)
        self.row = word_button(tr("Warm-up …"), self.edit_warm_up)
        line.addWidget(self.row)
        self.anew = word_button(tr("Lay it out anew"), self.model.start_over)
        line.addWidget(self.anew)
        return line

    def edit_warm_up(self) -> None:
        """Open the row of exercises every session begins with."""
        dialog = WarmUpDialog(self.model, self)
        dialog.begun.connect(self.warm_up)
        dialog.open()
        self.dialog = dialog

    def _with_chosen(self, run: Callable[[int], object]) -> None:
        run(self.strip.current)

    def _stretch(self, by: int, i: int) -> None:
        self.model.stretch(i, by)

    def _move(self, by: int, i: int) -> None:
        self.model.move(i, by)
        self.strip.choose(i + by)

    def _theme_written(self) -> None:
        text = self.theme.text().strip()
        if text != self.model.wish.theme:
            self.model.set_plan(theme=text)

    # showing ------------------------------------------------------------------------------

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self.palette_now = palette
        self.strip.set_palette(palette)
        self.week.set_palette(palette)

    def start_next(self) -> None:
        """Begin the session, or go on with it where it was left."""
        run = self.model.running()
        if run is not None and run.is_over:
            self.model.start_over()
            run = None
        self.begun.emit(run.at if run is not None else 0)

    def refresh(self) -> None:
        """Show it anew."""
        m = self.model
        with QSignalBlocker(self.minutes):
            self.minutes.setValue(m.wish.minutes)
        self.school.setCurrentIndex(self.school.findData(m.wish.school))
        self.level.setCurrentIndex(self.level.findData(m.wish.level))
        if not self.theme.hasFocus():
            self.theme.setText(m.wish.theme)
        run = m.running()
        if run is not None and run.at != self._was_at:
            self._was_at = run.at
            self.strip.choose(run.at)
        self.strip.show_session(m.legs(), run.at if run is not None else None)
        self.week.show_week(m.theme_week(), m.wish.theme)
        self.said.setText(self._sentence())
        self.said.setVisible(run is None or not run.is_over)
        mine = self._pupils.open_work_of_player()
        self.set_for_me.setText(" ".join(work_sentence(w, p, t) for w, p, t in mine[:3]))
        self.set_for_me.setVisible(bool(mine))
        over = run is not None and run.is_over
        self.end.setVisible(over)
        if over and run is not None:
            due = [(t, day_name(w.due)) for w, _, t in mine]
            again = [(item_name(i), day_name(d.isoformat())) for i, d in m.coming_again(run)]
            self.end.show_sum(
                [*sum_sentences(summed_up(run)), again_sentence(again), due_sentence(due)]
            )
        self.go.setText(
            tr("Start the session") if run is None
            else tr("Another session") if over
            else tr("Go on with the session")
        )  # fmt: skip
        self.anew.setVisible(run is not None)
        for button in self.tools:
            button.setEnabled(bool(m.items) and not over)
        self._show_rows()

    def _sentence(self) -> str:
        m = self.model
        heavy = heavy_minutes(m.takes(), self._reader.jig_of, datetime.now(UTC))
        if heavy >= ENOUGH_MINUTES:
            return heavy_sentence(heavy)
        if not any(i.jig_id for i in m.items):
            return tr("No jigs for this instrument yet: make some in Jigs first.")
        total = sum(i.minutes for i in m.items)
        parts = [school_reason(m.wish.school)]
        remembered = m.remembered()
        if remembered is not None:
            parts.append(remembered_sentence(day_name(remembered[0].isoformat()), remembered[1]))
        if total != m.wish.minutes:
            parts.append(tr("{n} minutes in all.").format(n=total))
        return " ".join(parts)

    def _show_rows(self) -> None:
        m = self.model
        clear(self._rows)
        legs = m.legs()
        for i, leg in enumerate(legs):
            item = leg.item
            chosen = i == self.strip.current
            words = part_text(item)
            jig = m.planned_jig(item)
            if jig is not None and item.part in WORKED:
                words += f" · {pace_text(jig.tempo_bpm, jig.tolerance_cents)}"
            if leg.takes:
                met = tr("{met} of {takes} met it").format(met=leg.met, takes=leg.takes)
                words += f" · {met}"
            minutes = tr("{n} min").format(n=item.minutes)
            done = leg.counts and leg.is_played
            for k, cell in enumerate((
                label(minutes, px=15, second=True, wrap=False),
                label(part_name(item.part), px=16, bold=chosen, wrap=False),
                label(words, px=15, second=not chosen),
                label("✓" if done else "", px=16, wrap=False),
            )):  # fmt: skip
                self._rows.addWidget(cell, i, k, Qt.AlignmentFlag.AlignTop)
        self._rows.setRowStretch(len(legs), 1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Return begins, wherever the page has the focus."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.start_next()
            return
        super().keyPressEvent(event)


class ThemeWeek(QWidget):
    """The theme of the week as seven days that fill."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._days: tuple[bool | None, ...] = ()
        self.setFixedSize(7 * _DAY_PX, 40)
        self.hide()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def show_week(self, days: Sequence[bool | None], theme: str) -> None:
        """Monday to Sunday: worked on, not, not yet come; hidden without a theme."""
        self._days = tuple(days)
        self.setVisible(bool(theme) and bool(days))
        n = sum(d is True for d in days)
        said = trn("{theme}: on {n} day this week", "{theme}: on {n} days this week", n)
        self.setAccessibleName(said.format(theme=theme, n=n))
        self.setToolTip(self.accessibleName())
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802, ARG002
        """A box for each day, its letter under it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(sans(11))
        for k, (done, letter) in enumerate(zip(self._days, weekday_letters(), strict=False)):
            box = QRectF(k * _DAY_PX + 4.0, 4.0, 16.0, 16.0)
            painter.setPen(QPen(self._palette.color("ink2" if done is not None else "line"), 1.4))
            painter.setBrush(self._palette.color("accent") if done else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 3, 3)
            painter.setPen(self._palette.color("ink2"))
            below = QRectF(k * _DAY_PX, 22.0, _DAY_PX, 16.0)
            painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, letter)
        painter.end()


class SessionEnd(QWidget):
    """How a session went, and three things to say about it.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(self, model: DaybookModel) -> None:
        super().__init__()
        self.model = model
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.words = label("", px=17)
        column.addWidget(self.words)
        line = QHBoxLayout()
        self.word, self.next_time = QLineEdit(), QLineEdit()
        self.word.setFont(sans(16))
        self.next_time.setFont(sans(16))
        for name, widget, width in (
            (tr("A word for the sound"), self.word, 180), (tr("Next time"), self.next_time, 320),
        ):  # fmt: skip
            line.addWidget(label(name, px=14, second=True, wrap=False))
            widget.setAccessibleName(name)
            widget.setMaximumWidth(width)
            widget.editingFinished.connect(self._keep)
            line.addWidget(widget)
            line.addSpacing(10)
        line.addWidget(label(tr("How it was"), px=14, second=True, wrap=False))
        self.likings: dict[int, QPushButton] = {}
        for n in LIKINGS:
            button = QPushButton(liking_name(n))
            button.setProperty("kind", "turn")
            button.setCheckable(True)
            button.setFont(sans(15))
            button.clicked.connect(partial(self._like, n))
            self.likings[n] = button
            line.addWidget(button)
        line.addStretch(1)
        column.addLayout(line)

    def show_sum(self, sentences: list[str]) -> None:
        """Show what it came to, and what was said of it."""
        self.words.setText(" ".join(s for s in sentences if s))
        note = self.model.note_of_today()
        if note is None:
            return
        if not self.word.hasFocus():
            self.word.setText(note.word)
        if not self.next_time.hasFocus():
            self.next_time.setText(note.next_time)
        for n, button in self.likings.items():
            button.setChecked(n == note.liking)

    def _like(self, n: int) -> None:
        self._keep(liking=n)

    def _keep(self, *, liking: int | None = None) -> None:
        note = self.model.note_of_today()
        if note is None:
            return
        made = DayNote(
            player_id=note.player_id, day=note.day, word=self.word.text().strip()[:80],
            liking=note.liking if liking is None else liking, notes=note.notes,
            next_time=self.next_time.text().strip()[:4000],
        )  # fmt: skip
        if made != note:
            self.model.write_note(made)
