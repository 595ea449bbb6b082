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
from jigwright.services.hearing_round import LatestTake
from jigwright.services.library import on_the_shelf
from jigwright.services.records import Player
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.daybook.pupils_model import PupilsModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.labels import clear, label, push_button, rule, word_button
from jigwright.ui.widgets.pupil_board import PupilBoard
from jigwright.ui.widgets.season_view import SeasonView
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import work_progress
from jigwright.wording.errors import error_sentence

_DAYS = 7


class PupilsPage(QWidget):
    """A row for each player with the latest takes; below, what is set for the chosen one.

    Signals
    -------
    shown : str
        A take of the chosen player is to be shown at the Desk.
    play : Jig
        Set work is to be played at the Stand.
    message : str
    fetched : Path
        A take of the exchange folder is to be brought in.
    """

    shown = pyqtSignal(str)
    play = pyqtSignal(object)
    message = pyqtSignal(str)
    fetched = pyqtSignal(object)

    def __init__(self, model: PupilsModel, studio: StudioPort, session: SessionModel) -> None:
        super().__init__()
        self.model, self._studio, self._session = model, studio, session
        self.chosen: Player | None = None
        self._sound: SoundModel | None = None
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 12, 0)
        self.board = PupilBoard(model.notes)
        self.board.chosen.connect(self.choose)
        self.board.hear.connect(self._hear)
        self.board.opened.connect(self._open)
        self.board.nothing_new.connect(
            lambda: self.message.emit(tr("You have heard everything there is."))
        )
        column.addWidget(self.board)
        self._taken = label("", px=13, second=True)
        self.board.moved.connect(self._say_taken)
        self._say_taken("")
        column.addWidget(self._taken)
        column.addSpacing(10)
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
        chosen = self.chosen.id if self.chosen is not None else None
        self.board.show_pupils(self.model.views(), chosen)
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

    def _say_taken(self, said: str) -> None:
        keys = tr("Space hears what is new, one take after the other · Return opens it at the Desk")
        self._taken.setText(f"{said}. {keys}" if said else keys)

    def hear_with(self, sound: SoundModel) -> None:
        """Let takes be heard."""
        self._sound = sound
        sound.state_changed.connect(lambda: self.board.set_playing(sound.take_id or None))

    def _hear(self, one: LatestTake) -> None:
        if self._sound is None:
            return
        self._sound.play_span(
            one.take.id, self._studio.audio_path(one.take), self.model.channel_of(one.take), None,
            loop=False, what=one.title or tr("a take without a jig"),
        )  # fmt: skip
        self.model.heard(one.take)

    def _open(self, one: LatestTake) -> None:
        self._session.set_player(self.board.views[self.board.at[0]].row.player)
        self.shown.emit(one.take.id)

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
