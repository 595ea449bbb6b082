"""The window: assembly only."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.services.bin_contents import Binned
from jigwright.services.failure_log import last_failures
from jigwright.services.recording import InputDevice
from jigwright.services.records import Changed
from jigwright.services.take_reader import TakeReader
from jigwright.ui.actions import Command
from jigwright.ui.context_menus import ContextMenus
from jigwright.ui.outside import Outside
from jigwright.ui.places.daybook import DaybookPlace
from jigwright.ui.places.desk import DeskPlace
from jigwright.ui.places.jigs import JigsPlace
from jigwright.ui.places.stand import StandPlace
from jigwright.ui.places.tables import TablesPlace
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import DARK, LIGHT, Palette, qt_palette, style_sheet
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.viewmodels.daybook.pupils_model import PupilsModel
from jigwright.ui.viewmodels.demo_making import DemoMaking
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.desk.rehearing import Rehearing
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.desk.spoken import SpokenRemarks
from jigwright.ui.viewmodels.importing import ImportModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.viewmodels.stand.leftovers import Leftovers
from jigwright.ui.viewmodels.stand.stand_model import StandModel
from jigwright.ui.viewmodels.stand.welcome import Welcome
from jigwright.ui.viewmodels.studio_news import StudioNews
from jigwright.ui.widgets.bin_page import BinPage
from jigwright.ui.widgets.empty import EmptyPlace
from jigwright.ui.widgets.header import Header
from jigwright.ui.widgets.help_list import HelpList
from jigwright.ui.widgets.help_page import HelpPage
from jigwright.ui.widgets.labels import tint
from jigwright.ui.widgets.leftover_bar import LeftoverBar
from jigwright.ui.widgets.pages import PAGES
from jigwright.ui.widgets.question_bar import QuestionBar
from jigwright.ui.widgets.strip import Strip
from jigwright.ui.widgets.welcome import WelcomePlace
from jigwright.ui.window_files import WindowFiles
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.undoing import replayed_sentence


class MainWindow(QMainWindow):
    """Header, places, and the strip for messages.

    Parameters
    ----------
    outside : Outside
        What the window is given from outside.
    palette : Palette
    """

    def __init__(self, outside: Outside, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._closed = False
        self.jobs = JobRunner(outside.worker, self)
        studio = self.studio = outside.studio
        self.news = StudioNews(studio, self)
        self.reader = TakeReader(studio)
        self.session = SessionModel(studio, self)
        self.model = DeskModel(studio, self.session, self.reader, self)
        self.sound = SoundModel(outside.output, self.jobs, outside.cache, self)
        self._cache = outside.cache
        self.imports = ImportModel(studio, self.session, self.jobs, outside.cache, self)
        self.commands = self._make_commands()
        self.header = Header(
            (
                ("stand", tr("Stand")), ("desk", tr("Desk")), ("jigs", tr("Jigs")),
                ("daybook", tr("Daybook")), ("tables", tr("Tables")),
            ),
            palette,
        )  # fmt: skip
        self.desk = DeskPlace(
            studio, self.session, self.reader, self.model, self.sound, self.jobs, palette
        )
        self.jigs = JigsPlace(
            studio, self.session, self.reader, self.sound, self.jobs, outside.cache, palette
        )
        self.tables = TablesPlace(self.session, self.sound, palette)
        self.stand_model = StandModel(
            studio, self.session, self.reader, self.sound, self.jobs, outside.cache,
            capture=outside.capture, ear=outside.ear, show=self.model.show, parent=self,
        )  # fmt: skip
        self.spoken = SpokenRemarks(
            studio, self.session, Remarks(studio, self.session), self.stand_model.keeper,
            outside.capture, is_taken=lambda: self.stand_model.listening, parent=self,
        )  # fmt: skip
        self.desk.speak_with(self.spoken)
        self.leftovers = Leftovers(
            studio,
            self.session,
            self.jobs,
            self.stand_model.keeper,
            outside.cache,
            self,
            spoken=self.spoken.hold,
        )
        self.leftovers.message.connect(self.say)
        self.stand = StandPlace(self.stand_model, self.session, self.jobs, palette)
        self.daybook_model = DaybookModel(studio, self.session, self.reader, self)
        pupils = PupilsModel(
            studio, self.session, self.reader, self.daybook_model.summaries, self.jobs, self
        )
        self.rehearing = Rehearing(
            studio, self.jobs, lambda: self.stand_model.listening or self.sound.playing, self
        )
        self.rehearing.message.connect(self.say)
        self.daybook = DaybookPlace(
            self.daybook_model, pupils, studio, self.session, self.reader, palette, self.jobs
        )
        self.files = WindowFiles(
            self, studio.folder, self.imports, outside.cache, go=self.go, say=self.say,
            take_score=self.jigs.bring_in, take_work=self.daybook.pupils_model.take_in,
        )  # fmt: skip
        self._places = QStackedWidget()
        self._by_name: dict[str, QWidget] = {
            "stand": self.stand, "desk": self.desk, "jigs": self.jigs,
            "daybook": self.daybook, "tables": self.tables,
        }  # fmt: skip
        for place in self._by_name.values():
            self._places.addWidget(place)
        self.strip = Strip(self.imports)
        self._context = ContextMenus(
            self, self.header, studio, self.session, self.model, run_command=self.run_command,
            say=self.say, stand=self.stand_model, jobs=self.jobs,
        )  # fmt: skip
        self.welcome = Welcome(studio, self.session, self.stand_model, self)
        self.welcome.message.connect(self.say)
        self.welcome.begun.connect(lambda: self.go("stand"))
        self.figures: HelpPage | None = None
        self.bin: BinPage | None = None
        self.making: DemoMaking | None = None
        if outside.demo_worker is not None:
            self.making = DemoMaking(
                studio, JobRunner(outside.demo_worker, self), outside.cache / "demo-takes", self
            )
        self._assemble()
        self._connect()
        self.setWindowTitle(tr("Jigwright"))
        self.setAcceptDrops(True)
        self.setMinimumSize(900, 600)
        self.resize(1280, 800)
        self.set_palette(palette)
        self.go("desk")

    # building -----------------------------------------------------------------------------

    def _assemble(self) -> None:
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        self._header_line = QWidget()
        self._header_line.setFixedHeight(1)
        column.addWidget(self._header_line)
        self.leftover_bar = LeftoverBar(self.leftovers)
        column.addWidget(self.leftover_bar)
        self.question_bar = QuestionBar()
        column.addWidget(self.question_bar)
        column.addWidget(self._places, 1)
        column.addWidget(self.strip)
        self.setCentralWidget(whole)
        self.help = HelpList(self, lambda: last_failures(self.studio.folder))

    def _connect(self) -> None:
        self.header.place_chosen.connect(self.go)
        self.jigs.chosen.connect(lambda: self.go("desk"))
        self.jigs.step_by_step.connect(self._step_by_step)
        self.jigs.message.connect(self.say)
        self.tables.message.connect(self.say)
        self.desk.close_look.message.connect(self.say)
        self.desk.message.connect(self.say)
        self.desk.slip.explain.connect(self.explain)
        self.stand_model.message.connect(self.say)
        self.daybook.message.connect(self.say)
        self.daybook.fetched.connect(lambda path: self.files.take([path]))
        self.daybook.play.connect(self._play_planned)
        self.daybook.begun.connect(self._begin_session)
        self.daybook.pupils.hear_with(self.sound)
        self.daybook.shown.connect(self._show_at_desk)
        self.daybook.today.warm_up.connect(self._begin_warm_up)
        self.stand_model.walk.ended.connect(self._session_over)
        self.daybook.place.connect(self._go_planned)
        self.sound.failed.connect(self.say)
        if self.making is not None:
            self.making.changed.connect(self._show_making)
            self.making.first.connect(self.model.show_take)
            self.making.message.connect(self.say)
        self.imports.finished.connect(self.say)
        self.imports.question.connect(self.question_bar.ask)
        self.desk.shelf.menu_requested.connect(self._take_menu)
        self.news.changed.connect(self._follow)
        self.imports.kept.connect(self.model.show_take)
        self.session.changed.connect(self._context.refresh)
        self.model.judged_changed.connect(self._context.refresh)
        self.model.take_changed.connect(self._context.refresh)
        self.model.takes_changed.connect(self._show_desk_empty)
        for command in self.commands.values():
            if command.shortcut:
                action = QAction(command.text, self)
                action.setShortcut(QKeySequence(command.shortcut))
                action.triggered.connect(lambda _=False, i=command.id: self._by_key(i))
                self.addAction(action)

    def _make_commands(self) -> dict[str, Command]:
        def has_take() -> bool:
            return self.model.take is not None and self._places.currentWidget() is self.desk

        def at_stand() -> bool:
            return self._places.currentWidget() is self.stand

        def at_today() -> bool:
            here = self._places.currentWidget() is self.daybook
            return here and self.daybook.today.isVisible()

        def asked() -> bool:
            return at_stand() and self.stand_model.ear.asked is not None

        def writable() -> bool:
            return has_take() and not self.studio.read_only

        rows = (
            Command(id="import", text=tr("Bring in a recording …"), shortcut="Ctrl+O",
                    run=lambda: self.files.choose()),
            Command(id="play", text=tr("Play or stop the take; at the Stand be ready"),
                    shortcut="Space", run=self._space,
                    enabled_when=lambda: has_take() or at_stand()),
            Command(id="ready", text=tr("Be ready, or put the bow down"), shortcut="F5",
                    run=lambda: self.stand_model.toggle(), enabled_when=at_stand),
            Command(id="leave", text=tr("Leave a mode of the Stand (Esc, or the left pedal held)"),
                    run=lambda: self.stand_model.leave(), enabled_when=at_stand),
            Command(id="aims", text=tr("What is listened for …"), shortcut="A",
                    run=self._choose_aims,
                    enabled_when=lambda: self._aims_place() is not None),
            Command(id="direction", text=tr("Which way was it?"), shortcut="D",
                    run=lambda: self.stand_model.tell_direction(), enabled_when=at_stand),
            Command(id="ear_first", text=tr("Ear first: figures after judging"), shortcut="E",
                    run=lambda: self.stand_model.set_ear_first(not self.stand_model.ear.on),
                    enabled_when=at_stand),
            Command(id="free", text=tr("Takes without a jig"), run=self._show_free),
            Command(id="strings", text=tr("Check the strings"), shortcut="S",
                    run=self._strings, enabled_when=at_stand),
            Command(id="drone", text=tr("Drone: off, tonic, with fifth"), shortcut="G",
                    run=lambda: self.stand_model.companions.cycle_drone(), enabled_when=at_stand),
            Command(id="click", text=tr("Metronome on or off"), shortcut="M",
                    run=lambda: self.stand_model.companions.toggle_click(), enabled_when=at_stand),
            Command(id="was_low", text=tr("The ear says: low"),
                    run=lambda: self.stand_model.answer("low"), enabled_when=asked),
            Command(id="was_in", text=tr("The ear says: in tune"),
                    run=lambda: self.stand_model.answer("in"), enabled_when=asked),
            Command(id="was_high", text=tr("The ear says: high"),
                    run=lambda: self.stand_model.answer("high"), enabled_when=asked),
            Command(id="play_note", text=tr("Play the selected notes"), shortcut="Return",
                    run=lambda: self.desk.play_selected(loop=False), enabled_when=has_take),
            Command(id="loop", text=tr("Loop the selected notes"), shortcut="L",
                    run=lambda: self.desk.play_selected(loop=True), enabled_when=has_take),
            Command(id="slower", text=tr("Play slower at the same pitch"), shortcut="V",
                    run=self._slower, enabled_when=has_take),
            Command(id="target", text=tr("Hear the target note"), shortcut="T",
                    run=lambda: self.desk.hear_target(), enabled_when=has_take),
            Command(id="remark", text=tr("Speak a remark on the note, or end it"), shortcut="W",
                    run=lambda: self.desk.slip.speak(), enabled_when=has_take),
            Command(id="next_note", text=tr("Next note"), shortcut="N",
                    run=lambda: self.model.step_selection(1), enabled_when=has_take),
            Command(id="previous_note", text=tr("Previous note"), shortcut="P",
                    run=lambda: self.model.step_selection(-1), enabled_when=has_take),
            Command(id="next_take", text=tr("Next take"), shortcut="PgDown",
                    run=lambda: self._page(1),
                    enabled_when=lambda: has_take() or at_stand() or at_today()),
            Command(id="previous_take", text=tr("Previous take"), shortcut="PgUp",
                    run=lambda: self._page(-1),
                    enabled_when=lambda: has_take() or at_stand() or at_today()),
            Command(id="like", text=tr("Like this take"), shortcut="K",
                    run=lambda: self.model.set_mark("liked"), enabled_when=writable),
            Command(id="keep", text=tr("Make it the reference take"), shortcut="R",
                    run=lambda: self.model.set_mark("kept"), enabled_when=writable),
            Command(id="give", text=tr("Give this take away …"), shortcut="Ctrl+E",
                    run=self._give, enabled_when=has_take),
            Command(id="copy_figures", text=tr("Copy the figures of this take"),
                    shortcut="Ctrl+Shift+C", run=lambda: self.desk.copy_figures(),
                    enabled_when=has_take),
            Command(id="save_figures", text=tr("Save the figures of this take …"),
                    run=lambda: self.desk.ask_figures(), enabled_when=has_take),
            Command(id="session", text=tr("Start the planned session, or go on with it"),
                    shortcut="F7", run=self._go_on_session),
            Command(id="warm_up", text=tr("Begin the warm-up"), shortcut="F6",
                    run=self._begin_warm_up),
            Command(id="lesson", text=tr("Begin a lesson, or end it: everything is recorded"),
                    shortcut="F8", run=self._lesson),
            Command(id="backup", text=tr("Back this studio up …"),
                    run=lambda: self.files.ask_backup()),
            Command(id="copy_picture", text=tr("Copy the picture of this page"),
                    run=lambda: self.desk.copy_picture(), enabled_when=has_take),
            Command(id="save_picture", text=tr("Save the picture of this page …"),
                    run=lambda: self.desk.ask_picture(), enabled_when=has_take),
            Command(id="bin", text=tr("Put the take into the bin"), shortcut="Delete",
                    run=self._bin, enabled_when=writable),
            Command(id="look_into_bin", text=tr("Look into the bin …"), shortcut="Shift+Delete",
                    run=self.show_bin),
            Command(id="undo", text=tr("Undo"), shortcut="Ctrl+Z", run=self._undo),
            Command(id="redo", text=tr("Redo"), shortcut="Ctrl+Shift+Z", run=self._redo),
            Command(id="form", text=tr("Page by notes or by seconds"), shortcut="B",
                    run=lambda: self.desk.view.set_by_time(not self.desk.view.by_time),
                    enabled_when=has_take),
            Command(id="next_page", text=tr("Next close look"), shortcut="C",
                    run=lambda: self._turn_page(1), enabled_when=has_take),
            Command(id="previous_page", text=tr("Previous close look"), shortcut="Shift+C",
                    run=lambda: self._turn_page(-1), enabled_when=has_take),
            Command(id="zoom_in", text=tr("Zoom in"), shortcut="Ctrl++",
                    run=lambda: self.desk.view.zoom_by(1.25)),
            Command(id="zoom_out", text=tr("Zoom out"), shortcut="Ctrl+-",
                    run=lambda: self.desk.view.zoom_by(0.8)),
            Command(id="studio", text=tr("Open another studio folder …"), shortcut="Ctrl+Shift+O",
                    run=lambda: self.files.choose_studio()),
            Command(id="theme", text=tr("Light or dark"), shortcut="Ctrl+D", run=self._swap_theme),
            Command(id="place_stand", text=tr("Go to Stand"), shortcut="Alt+1",
                    run=lambda: self.go("stand")),
            Command(id="place_desk", text=tr("Go to Desk"), shortcut="Alt+2",
                    run=lambda: self.go("desk")),
            Command(id="place_jigs", text=tr("Go to Jigs"), shortcut="Alt+3",
                    run=lambda: self.go("jigs")),
            Command(id="place_daybook", text=tr("Go to Daybook"), shortcut="Alt+4",
                    run=lambda: self.go("daybook")),
            Command(id="place_tables", text=tr("Go to Tables"), shortcut="Alt+5",
                    run=lambda: self.go("tables")),
            Command(id="help", text=tr("All keys"), shortcut="F1",
                    run=lambda: self.help.toggle(self.commands)),
            Command(id="figures", text=tr("What the figures mean"), shortcut="Shift+F1",
                    run=lambda: self.explain()),
        )  # fmt: skip
        return {c.id: c for c in rows}

    def _aims_place(self) -> StandPlace | DeskPlace | JigsPlace | None:
        """The place that can change what its jig is for."""
        place = self._places.currentWidget()
        if self.studio.read_only or not isinstance(place, StandPlace | DeskPlace | JigsPlace):
            return None
        return place

    def _choose_aims(self) -> None:
        place = self._aims_place()
        if place is not None:
            place.choose_aims()

    def _go_on_session(self) -> None:
        if not self.daybook_model.items:
            self.daybook_model.load()
        walk = self.stand_model.walk
        if walk.run is not None and not walk.run.is_over:
            self.go("stand")
            walk.go()
        else:
            self.daybook.start_next()

    def _show_desk_empty(self) -> None:
        if self.model.prints:
            return
        title = tr("No takes of this jig yet") if self.session.now.jig else tr("Nothing played yet")
        self.desk.set_empty(
            EmptyPlace(
                title,
                tr(
                    "Play the jig, record it with any device, and drop the file here. "
                    "WAV, FLAC, OGG, AIFF and MP3 can be read."
                ),
                (
                    (tr("Bring in a recording"), lambda: self.files.choose()),
                    (tr("Choose or make a jig"), lambda: self.go("jigs")),
                ),
            )
        )

    # doing --------------------------------------------------------------------------------

    def run_command(self, command_id: str) -> None:
        """Run a command if it is possible now; its errors become a message."""
        command = self.commands[command_id]
        if not command.enabled_when():
            return
        try:
            command.run()
        except JigwrightError as error:
            self.say(error_sentence(error))

    def _space(self) -> None:
        if self._places.currentWidget() is self.stand:
            self.stand_model.toggle()
        else:
            self.desk.toggle_play()

    def _slower(self) -> None:
        speed = self.sound.cycle_speed()
        self.say(tr("Playing at {percent} % of the speed.").format(percent=round(100 * speed)))

    def _turn_page(self, by: int) -> None:
        pages = ("take", *PAGES)
        self.desk.turn(pages[(pages.index(self.desk.page) + by) % len(pages)])

    def _page(self, by: int) -> None:
        """Page keys and pedals: the next take; at the Stand left is low, right is high.

        At the page of today the right one begins the session: hands are full before it, too.
        """
        here = self._places.currentWidget()
        if here is self.stand:
            self.stand.key(Qt.Key.Key_PageDown if by > 0 else Qt.Key.Key_PageUp)
        elif here is not self.daybook:
            self.model.step_take(by)
        elif by > 0 and self.daybook.today.isVisible():
            self.daybook.start_next()

    def _strings(self) -> None:
        strings = self.stand_model.mode == "strings"
        self.stand_model.set_mode("jig" if strings else "strings")

    def _lesson(self) -> None:
        """To the Stand, and listening at once; or out of it, with all of it kept."""
        if self.stand_model.mode == "lesson":
            self.stand_model.leave()
            return
        self.go("stand")
        self.stand_model.set_mode("lesson")
        if not self.stand_model.listening:
            self.stand_model.begin()

    def _by_key(self, command_id: str) -> None:
        """Run a command by its key; Space and Return press the button that has the focus."""
        focused = QApplication.focusWidget()
        if command_id in ("play", "play_note") and isinstance(focused, QAbstractButton):
            focused.click()
            return
        self.run_command(command_id)

    def go(self, place: str) -> None:
        """Show a place."""
        if place == "jigs":
            self.jigs.refresh()
        if place == "daybook":
            self.daybook_model.load()
        self._places.setCurrentWidget(self._by_name[place])
        self.header.show_place(place)
        self.stand_model.stay(place == "stand")
        self._context.watch_inputs(place == "stand")
        if place != "desk" and self.spoken.speaking:
            self.spoken.end()  # what was said is kept; the microphone is free
        if place != "stand" and self.stand_model.listening:
            self.stand_model.stop()
        if place == "desk":
            self.desk.view.setFocus()
        elif place == "stand":
            self.stand_model.load_device()
            self.stand.sheet.setFocus()
            self._context.look_for_inputs()
        self.stand_model.changed.emit()

    def greet(self) -> None:
        """Somebody is here for the first time: ask who and what, then lead to the first scale."""
        if not self.welcome.needed:
            return
        page = WelcomePlace(self.welcome)
        self._places.addWidget(page)
        self._by_name["welcome"] = page
        self.go("welcome")
        page.name.setFocus()

        def listed(found: tuple[InputDevice, ...]) -> None:
            page.show_inputs(found)

        self.jobs.run("list_inputs", None, done=listed, failed=lambda _: None, key="welcome")

    def explain(self, topic_id: str = "") -> None:
        """Show what the figures mean."""
        if self.figures is None:
            self.figures = HelpPage(self.sound, self.jobs, self._cache, self._palette, self)
        self.figures.set_palette(self._palette)
        self.figures.show_topic(topic_id)
        self.figures.show()
        self.figures.raise_()

    def _play_planned(self, jig: Jig) -> None:
        self.session.set_jig(jig)
        self.stand_model.set_mode("jig")
        self.go("stand")

    def _begin_session(self, i: int) -> None:
        """At the Stand from an item of the plan on, or where a session of today was left."""
        model, walk = self.daybook_model, self.stand_model.walk
        self.go("stand")
        kept = walk.resumable()
        if kept is None:
            walk.start(model.as_played(), model.jig_of, model.as_played_at(i))
        else:
            walk.resume(replace(kept, at=i), model.jig_of)

    def _begin_warm_up(self) -> None:
        """The warm-up alone, by one key."""
        items = self.daybook_model.warm_up_items()
        if not items:
            self.go("daybook")
            self.daybook.turn("today")
            self.daybook.today.edit_warm_up()
            return
        self.go("stand")
        self.stand_model.walk.start(items, self.daybook_model.jig_of)

    def _show_making(self) -> None:
        if self.making is not None:
            self.strip.show_making(self.making.made, self.making.total)

    def _session_over(self) -> None:
        self.go("daybook")
        self.daybook.turn("today")

    def _show_at_desk(self, take_id: str) -> None:
        self.model.show_take(take_id)
        self.go("desk")

    def _go_planned(self, what: str) -> None:
        self.go("desk" if what == "desk" else "stand")
        if what == "strings":
            self.stand_model.set_mode("strings")

    def _step_by_step(self, piece: Jig, first_bar: int, last_bar: int) -> None:
        """Bars of a piece are worked on at the Stand."""
        if self.stand_model.place.take_on(piece, first_bar, last_bar):
            self.go("stand")

    def say(self, sentence: str) -> None:
        """Show a message for a while."""
        self.strip.say(sentence)

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        QApplication.setPalette(qt_palette(palette))
        self.setStyleSheet(style_sheet(palette) + tint(palette))
        self._header_line.setStyleSheet(f"background: {palette.line};")
        self.strip.setStyleSheet(f"Strip {{ background: {palette.band}; }}")
        self.question_bar.setStyleSheet(f"QuestionBar {{ background: {palette.band}; }}")
        self.leftover_bar.setStyleSheet(f"LeftoverBar {{ background: {palette.band}; }}")
        for part in (self.header, self.desk, self.jigs, self.tables, self.stand, self.daybook):
            part.set_palette(palette)

    def _follow(self, changed: Changed) -> None:
        """The studio is another one: whoever shows what differs shows what it is now."""
        self.session.follow(changed)
        self.model.follow(changed)
        self.daybook_model.follow(changed)
        if self.bin is not None and "takes" in changed.what:
            self.bin.refresh()
        if changed.by != "do" and "jigs" in changed.what:
            self.jigs.refresh()

    def _swap_theme(self) -> None:
        self.set_palette(LIGHT if self._palette.name == "dark" else DARK)
        if not self.studio.read_only:
            self.studio.set_setting("theme", self._palette.name)

    def _bin(self) -> None:
        number = self.model.take_number()
        self.model.bin_take()
        self.say(tr("Take {n} is in the bin. Ctrl+Z brings it back.").format(n=number))

    def show_bin(self) -> BinPage:
        """Show what lies in the bin, beside the window."""
        if self.bin is None:
            self.bin = BinPage(self.studio, self._hear_binned, self)
            self.bin.message.connect(self.say)
            self.bin.brought_back.connect(self._brought_back)
        self.bin.refresh()
        self.bin.show()
        self.bin.raise_()
        return self.bin

    def _hear_binned(self, one: Binned) -> None:
        path = self.studio.audio_path(one.take)
        heard = self.reader.heard(one.take)
        self.sound.play_span(
            one.take.id, path, heard.i_channel if heard is not None else 0, None, loop=False,
            what=one.title,
        )  # fmt: skip

    def _brought_back(self, take_id: str) -> None:
        if any(p.take.id == take_id for p in self.model.prints):
            self.model.show_take(take_id)
        self.say(tr("It is back on its shelf."))

    def _give(self) -> None:
        take, number = self.model.take, self.model.take_number()
        if take is not None and number is not None:
            self.files.give(take, self.model.take_jig(), number)

    def _show_free(self) -> None:
        """Show free playing and lessons at the Desk."""
        self.session.set_jig(None)
        self.go("desk")

    def _undo(self) -> None:
        changed = self.studio.undo()
        self.say(replayed_sentence(changed.name if changed else None, redo=False))

    def _redo(self) -> None:
        changed = self.studio.redo()
        self.say(replayed_sentence(changed.name if changed else None, redo=True))

    def _take_menu(self, where: QPoint) -> None:
        menu = QMenu(self)
        for name in (
            "play", "like", "keep", "give", "copy_figures", "save_figures", "copy_picture",
            "save_picture", "bin", "look_into_bin",
        ):  # fmt: skip
            command = self.commands[name]
            action = menu.addAction(command.text)
            if action is not None:
                action.setEnabled(command.enabled_when())
                action.triggered.connect(lambda _=False, i=name: self.run_command(i))
        menu.exec(where)

    # events -------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:  # noqa: N802
        """Take sound files."""
        mime = event.mimeData() if event is not None else None
        if event is not None and mime is not None and mime.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:  # noqa: N802
        """Bring dropped files in."""
        mime = event.mimeData() if event is not None else None
        if mime is None:
            return
        paths = [Path(u.toLocalFile()) for u in mime.urls() if u.isLocalFile()]
        self.files.take(paths)

    def closeEvent(self, event: QCloseEvent | None) -> None:  # noqa: N802
        """Fall silent and stop the worker."""
        if not self._closed:
            self._closed = True
            self.sound.stop()
            self._context.watch_inputs(False)
            self.stand_model.close_down()  # first: it may show another jig
            self.spoken.let_be()
            self.desk.close_down()
            self.jigs.close_down()
            self.stand.close_down()
            self.daybook_model.close_down()
            self.rehearing.close_down()
            if self.making is not None:
                self.making.close_down()
            self.welcome.close_down()
            self.strip.close_down()
            self.news.close_down()
            self.jobs.close()
        super().closeEvent(event)
