"""Daybook: what to do today, ladders, trends, and the record of days."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.judge.ladder import Ladder
from jigwright.core.judge.trend import ChangePoint
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.services.trends import FIGURES, PART_FIGURES, TrendPoint
from jigwright.ui.painting.trend import paint_ladder, paint_trend
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.viewmodels.daybook.pupils_model import PupilsModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.widgets.labels import clear, label, push_button, word_button
from jigwright.ui.widgets.own_ladder import OwnLadder
from jigwright.ui.widgets.painted import Painted
from jigwright.ui.widgets.pupils_page import PupilsPage
from jigwright.ui.widgets.record_page import RecordPage
from jigwright.ui.widgets.today_page import TodayPage
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import (
    best_sentence,
    change_sentence,
    day_name,
    figure_name,
    rung_name,
    standing_text,
    trend_part_name,
)
from jigwright.wording.errors import error_sentence

_PAGES = ("today", "ladders", "trends", "record", "pupils")


class DaybookPlace(QWidget):
    """Five pages before and after playing.

    Signals
    -------
    play : Jig
        A jig was chosen to be played at the Stand.
    shown : str
        A take is to be shown at the Desk.
    begun : int
        The session is to begin with this item of the plan.
    place : str
        Another place was asked for.
    message : str
    fetched : Path
        A take of the exchange folder is to be brought in.
    """

    play = pyqtSignal(object)
    begun = pyqtSignal(int)
    shown = pyqtSignal(str)
    place = pyqtSignal(str)
    message = pyqtSignal(str)
    fetched = pyqtSignal(object)

    def __init__(
        self,
        model: DaybookModel,
        pupils: PupilsModel,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        palette: Palette,
        jobs: JobRunner,
    ) -> None:
        super().__init__()
        self.model, self._palette = model, palette
        self._studio, self._session, self._reader = studio, session, reader
        self.record = RecordPage(model, studio, session, jobs)
        self.record.message.connect(self.message)
        self.pupils_model = pupils
        self.pupils = PupilsPage(pupils, studio, session)
        self.pupils.message.connect(self.message)
        self.pupils.shown.connect(self.shown)
        self.record.season.chosen.connect(self.shown)
        self.record.takes.opened.connect(self.shown)
        self.pupils.play.connect(self.play)
        self.pupils.fetched.connect(self.fetched)
        self.today = TodayPage(model, pupils, reader, palette)
        self.today.begun.connect(self.begun)
        self.today.message.connect(self.message)
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
        names = (tr("Today"), tr("Ladders"), tr("Trends"), tr("Record"), tr("Pupils and set work"))
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
            self.today, self._make_ladders(), self._make_trends(), self.record,
            self.pupils,
        ):  # fmt: skip
            self._stack.addWidget(page)
        column.addWidget(self._stack, 1)

    def _button(self, text: str, run: Callable[[], object], *, first: bool = False) -> QPushButton:
        return push_button(text, lambda: self._safely(run), first=first)

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

    def _make_ladders(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        self.own = OwnLadder(self.model, self._studio, self._session)
        self.own.message.connect(self.message)
        column.addWidget(self.own)
        inner = QWidget()
        self._ladders = QGridLayout(inner)
        self._ladders.setHorizontalSpacing(18)
        self._ladders.setVerticalSpacing(10)
        self._ladders.setColumnStretch(1, 1)
        column.addWidget(self._scrolled(inner), 1)
        return page

    def _make_trends(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        line = QHBoxLayout()
        self._trend_jig, self._figure, self._part = QComboBox(), QComboBox(), QComboBox()
        self._trend_jig.setMinimumWidth(280)
        for figure in FIGURES:
            self._figure.addItem(figure_name(figure), figure)
        for name, combo in (
            (tr("Jig"), self._trend_jig), (tr("Figure"), self._figure), (tr("of"), self._part),
        ):  # fmt: skip
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

    # showing ------------------------------------------------------------------------------

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.today.set_palette(palette)
        self.record.season.set_palette(palette)
        self.record.takes.set_palette(palette)
        self.pupils.season.set_palette(palette)
        self.pupils.board.set_palette(palette)
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
        (
            self.today.refresh,
            self._show_ladders,
            self._show_trends,
            self.record.refresh,
            self.pupils.refresh,
        )[self._stack.currentIndex()]()

    def showEvent(self, event: object) -> None:  # noqa: N802, ARG002
        """Catch up."""
        self.refresh()

    def start_next(self) -> None:
        """Begin the session, or go on with it."""
        self.today.start_next()

    def _show_ladders(self) -> None:
        self.own.refresh()
        clear(self._ladders)
        for row, ladder in enumerate(self.model.ladders()):
            where = self.model.standing(ladder)
            picture = Painted(self._ladder_painter(ladder, where.rung), 64)
            picture.setFixedWidth(54)
            self._ladders.addWidget(picture, row, 0)
            words = QVBoxLayout()
            words.setSpacing(0)
            words.addWidget(label(self.model.ladder_title(ladder), px=17, bold=True))
            if where.rung < len(ladder.rungs):
                words.addWidget(label(rung_name(ladder.rungs[where.rung]), px=14))
            words.addWidget(label(standing_text(ladder, where), px=13, second=True))
            self._ladders.addLayout(words, row, 1)
            self._ladders.addWidget(
                self._button(tr("Work on this rung"), partial(self.climb, ladder)), row, 2
            )
            if ladder.jig is not None:
                self._ladders.addWidget(
                    word_button(tr("Remove"), partial(self.model.drop_ladder, ladder)), row, 3
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
        self._fill_parts(jig_id, figure)
        points = self.model.trend(jig_id, figure, self._part.currentData() or "")
        change = self._change(points)
        day = points[change.at].day if change is not None else ""
        words = change_sentence(
            change, figure, day_name(day) if day else "", len(points),
            cut=any(p.cut_before for p in points),
        )  # fmt: skip
        best = self.model.best(points, figure)
        if best is not None:
            flat = self.model.flat(points)
            cut = not self.model.is_best_of_all(best, points, figure)
            day = day_name(best.day)
            words += " " + best_sentence(figure, best.value, day, flat=flat, cut=cut)
        if self.model.busy:
            words = tr("Older takes are being counted …") + " " + words
        elif n := self.model.of_before(jig_id):
            older = trn(
                "One take is still to be heard anew.", "{n} takes are still to be heard anew.", n
            )
            words = older.format(n=n) + " " + words
        self._trend_words.setText(words)
        self._trend.update()

    def _change(self, points: Sequence[TrendPoint]) -> ChangePoint | None:
        n_parts = self._part.count() - 1 if self._part.currentData() else 0
        return self.model.change(points, n_parts=n_parts)

    def _fill_parts(self, jig_id: str, figure: str) -> None:
        """Fingers, strings and notes, for figures of pitch."""
        chosen = self._part.currentData()
        parts = ["", *self.model.trend_parts(jig_id)] if figure in PART_FIGURES else [""]
        self._part.blockSignals(True)
        self._part.clear()
        owned = self._session.now.instrument
        for part in parts:
            self._part.addItem(trend_part_name(part, owned.strings if owned else ()), part)
        self._part.setCurrentIndex(max(0, self._part.findData(chosen)))
        self._part.blockSignals(False)

    def _paint_trend(self, painter: QPainter, rect: QRectF) -> None:
        painter.fillRect(rect, self._palette.color("paper"))
        jig_id = self._trend_jig.currentData()
        if jig_id is None:
            return
        figure = self._figure.currentData()
        points = self.model.trend(jig_id, figure, self._part.currentData() or "")
        paint_trend(
            painter, rect, [p.value for p in points], [p.day for p in points],
            [p.cut_before for p in points], self._change(points), self._palette,
            zero=figure != "bias_cents",
        )  # fmt: skip

    # doing --------------------------------------------------------------------------------

    def chosen_jig(self) -> Jig | None:
        """The jig a trend is shown of, for tests."""
        jig_id = self._trend_jig.currentData()
        return next((j for j in self._studio.jigs() if j.id == jig_id), None)
