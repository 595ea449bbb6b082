"""All players at a glance, the work set for one of them, and the exchange by folder."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QDate, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDateEdit,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.judge.season import SeasonRow
from jigwright.core.judge.work import Progress, SetWork
from jigwright.services.exchange.workfile import SUFFIX
from jigwright.services.library import on_the_shelf
from jigwright.services.pupils import PupilRow
from jigwright.services.records import Player
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.daybook.pupils_model import PupilsModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.widgets.labels import clear, label, push_button, rule, word_button
from jigwright.ui.widgets.season_view import SeasonView
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import due_text, last_played_text, work_progress
from jigwright.wording.errors import error_sentence

_DAYS = 7


class PupilsPage(QWidget):
    """A row for each player; below, what is set for the chosen one.

    Signals
    -------
    look
        The Desk was asked for, with a player's takes.
    shown : str
        A take of the chosen player is to be shown at the Desk.
    play : Jig
        Set work is to be played at the Stand.
    message : str
    fetched : Path
        A take of the exchange folder is to be brought in.
    """

    look = pyqtSignal()
    shown = pyqtSignal(str)
    play = pyqtSignal(object)
    message = pyqtSignal(str)
    fetched = pyqtSignal(object)

    def __init__(self, model: PupilsModel, studio: StudioPort, session: SessionModel) -> None:
        super().__init__()
        self.model, self._studio, self._session = model, studio, session
        self.chosen: Player | None = None
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 12, 0)
        self._players = QGridLayout()
        self._players.setHorizontalSpacing(22)
        self._players.setVerticalSpacing(4)
        self._players.setColumnStretch(4, 1)
        column.addLayout(self._players)
        column.addSpacing(10)
        column.addWidget(rule())
        self._for = label("", px=21, old_style=True)
        column.addWidget(self._for)
        self._works = QGridLayout()
        self._works.setHorizontalSpacing(18)
        self._works.setVerticalSpacing(6)
        self._works.setColumnStretch(1, 1)
        column.addLayout(self._works)
        column.addLayout(self._make_form())
        column.addSpacing(16)
        self._weeks = label("", px=18, old_style=True)
        column.addWidget(self._weeks)
        self.season = SeasonView()
        self.season.chosen.connect(self._look_at_take)
        column.addWidget(self.season)
        column.addStretch(1)
        column.addWidget(rule())
        column.addLayout(self._make_exchange())
        area = QScrollArea()
        area.setWidget(inner)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area)
        model.changed.connect(self.refresh)
        model.message.connect(self.message)

    # building -----------------------------------------------------------------------------

    def _make_form(self) -> QVBoxLayout:
        first, second = QHBoxLayout(), QHBoxLayout()
        self._jig, self._due, self._good = QComboBox(), QDateEdit(), QSpinBox()
        self._words, self._who = QLineEdit(), QLineEdit()
        self._due.setCalendarPopup(True)
        self._due.setDisplayFormat("yyyy-MM-dd")
        self._due.setDate(QDate.currentDate().addDays(_DAYS))
        self._good.setRange(1, 50)
        self._good.setValue(3)
        self._words.setPlaceholderText(tr("what to mind"))
        self._jig.setMinimumWidth(260)
        self._jig.setMaximumWidth(340)
        self._who.setPlaceholderText(tr("your name"))
        self._who.setMaximumWidth(180)
        fields = (
            (tr("Jig"), self._jig), (tr("until"), self._due), (tr("good takes"), self._good),
            (tr("from"), self._who),
        )  # fmt: skip
        for name, widget in fields:
            first.addWidget(label(name, px=14, second=True, wrap=False))
            widget.setAccessibleName(name)
            first.addWidget(widget)
            first.addSpacing(10)
        first.addStretch(1)
        self._words.setAccessibleName(tr("what to mind"))
        self._words.setMaximumWidth(620)
        second.addWidget(self._words, 1)
        second.addWidget(push_button(tr("Set this work"), self._set))
        second.addStretch(1)
        form = QVBoxLayout()
        form.addSpacing(8)
        form.addLayout(first)
        form.addLayout(second)
        return form

    def _make_exchange(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self._folder = label("", px=13, second=True)
        row.addWidget(self._folder, 1)
        row.addWidget(push_button(tr("Exchange folder …"), self._choose_folder))
        self._fetch = push_button(tr("Bring in what is new"), self._fetch_new)
        row.addWidget(self._fetch)
        return row

    # showing ------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show everything anew."""
        if not self.isVisible():
            return
        players = self._studio.players()
        if self.chosen not in players:
            self.chosen = self._session.now.player
        self._show_players(self.model.rows())
        self._show_works()
        self._show_season()
        folder = self.model.folder
        try:
            n = len(self.model.new_files())
        except OSError as error:
            n = 0
            self._folder.setText(error_sentence(error))
        else:
            text = tr("No exchange folder yet: any folder that both sides can see will do.")
            if folder is not None:
                new = trn("one new file", "{n} new files", n).format(n=n)
                text = f"{folder} · {new if n else tr('nothing new')}"
            self._folder.setText(text)
        self._fetch.setEnabled(n > 0 and not self._studio.read_only)

    def _show_players(self, rows: tuple[PupilRow, ...]) -> None:
        clear(self._players)
        for i, row in enumerate(rows):
            mine = self.chosen is not None and row.player.id == self.chosen.id
            self._players.addWidget(label("›" if mine else "", px=17, bold=True, wrap=False), i, 0)
            self._players.addWidget(label(row.player.name, px=16, bold=mine, wrap=False), i, 1)
            played = label(last_played_text(row.days_ago), px=14, second=True, wrap=False)
            self._players.addWidget(played, i, 2)
            week = tr("{n} takes, {m} min in seven days").format(
                n=row.n_takes, m=f"{row.minutes:.1f}"
            )
            text = week if row.n_takes else ""
            self._players.addWidget(label(text, px=14, second=True, wrap=False), i, 3)
            work = ""
            if row.n_open and row.next_days_left is not None:
                some = trn(
                    "one piece of work, {due}", "{n} pieces of work, the next {due}", row.n_open
                )
                work = some.format(n=row.n_open, due=due_text(row.next_days_left))
            self._players.addWidget(label(work, px=14, wrap=False), i, 4)
            tools = QHBoxLayout()
            tools.addWidget(
                word_button(tr("Choose"), partial(self.choose, row.player),
                            name=tr("Choose {name}").format(name=row.player.name))
            )  # fmt: skip
            tools.addWidget(
                word_button(tr("Hear takes"), partial(self._look_at, row.player),
                            name=tr("Hear takes of {name}").format(name=row.player.name))
            )  # fmt: skip
            self._players.addLayout(tools, i, 5)

    def _show_works(self) -> None:
        clear(self._works)
        name = self.chosen.name if self.chosen is not None else ""
        self._for.setText(tr("Set for {name}").format(name=name))
        works = self.model.work_of(self.chosen.id) if self.chosen is not None else ()
        if not works:
            self._works.addWidget(label(tr("Nothing is set."), px=14, second=True), 0, 0, 1, 3)
        for i, (work, progress, title) in enumerate(works):
            self._works.addWidget(label(title, px=15, bold=True, wrap=False), i, 0)
            how = work_progress(progress, work.good_takes)
            if work.words:
                how += f" · {work.words}"
            late = progress.state == "overdue"
            self._works.addWidget(label(how, px=14, bold=late, second=not late), i, 1)
            self._works.addLayout(self._tools(work, progress), i, 2)
        jigs = on_the_shelf(self._studio)
        kept = self._jig.currentData()
        self._jig.clear()
        for jig in jigs:
            self._jig.addItem(jig.title, jig.id)
        self._jig.setCurrentIndex(max(0, self._jig.findData(kept)))

    def _show_season(self) -> None:
        """What the chosen one worked on in the last weeks."""
        rows: tuple[SeasonRow, ...] = ()
        first = date.min
        if self.chosen is not None:
            first, rows = self.model.season_of(self.chosen.id)
            self._weeks.setText(tr("{name}: the last weeks").format(name=self.chosen.name))
        self._weeks.setVisible(bool(rows))
        titles = {j.id: j.title for j in self._studio.jigs()}
        self.season.show_season(rows, titles, first)

    def _look_at_take(self, take_id: str) -> None:
        if self.chosen is not None:
            self._session.set_player(self.chosen)
            self.shown.emit(take_id)

    def _tools(self, work: SetWork, progress: Progress) -> QHBoxLayout:
        tools = QHBoxLayout()
        rows: tuple[tuple[str, Callable[[], object]], ...] = (
            (tr("Play it"), partial(self._play, work)),
            (tr("Give away …"), partial(self._ask_give, work)),
            (tr("Take it up again") if work.closed else tr("Put away"),
             partial(self.model.close, work)),
            (tr("Take back"), partial(self.model.remove, work)),
        )  # fmt: skip
        for text, run in rows:
            if text == tr("Play it") and progress.state == "done":
                continue
            tools.addWidget(word_button(text, partial(self._safely, run)))
        return tools

    # doing --------------------------------------------------------------------------------

    def choose(self, player: Player) -> None:
        """Show and set work for another player."""
        self.chosen = player
        self.refresh()

    def _look_at(self, player: Player) -> None:
        self._session.set_player(player)
        self.look.emit()

    def _play(self, work: SetWork) -> None:
        self.play.emit(self._studio.jig(work.jig_id, work.jig_revision))

    def _set(self) -> None:
        jig_id = self._jig.currentData()
        jig = next((j for j in self._studio.jigs() if j.id == jig_id), None)
        if jig is None or self.chosen is None:
            self.message.emit(tr("There is no jig to set yet: make one in Jigs first."))
            return
        self._safely(
            partial(
                self.model.set_work, self.chosen.id, jig, due=self._due.date().toPyDate(),
                good_takes=self._good.value(), words=self._words.text(), who=self._who.text(),
            )
        )  # fmt: skip
        self._words.clear()

    def _ask_give(self, work: SetWork) -> None:
        start = str((self.model.folder or Path.home()) / f"{work.jig_id}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Give this work away"), start, tr("Set work") + f" (*{SUFFIX})"
        )
        if name:
            self.give(work, Path(name))

    def give(self, work: SetWork, path: Path) -> None:
        """Write work as a file."""

        def write() -> None:
            self.model.give(work, path)
            self.model.mark_seen(path)
            self.message.emit(tr("Saved as {name}.").format(name=path.name))

        self._safely(write)

    def _choose_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, tr("Exchange folder"))
        if name:
            self._safely(partial(self.model.choose_folder, Path(name)))

    def _fetch_new(self) -> None:
        self._safely(lambda: self.model.fetch(self.fetched.emit))
        self.refresh()

    def _safely(self, run: Callable[[], object]) -> None:
        try:
            run()
        except (JigwrightError, OSError) as error:
            self.message.emit(error_sentence(error))
