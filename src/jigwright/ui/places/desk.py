"""The Desk: the take under its score, findings at left, the slip at right, the shelf below."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.judge.findings import Finding
from jigwright.services.engraving import engrave_request
from jigwright.services.moments import utc_now
from jigwright.services.notation import Engraved, EngraveRequest
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.services.takecsv import take_csv
from jigwright.ui.pictures import picture_image, save_picture
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.desk.spoken import SpokenRemarks
from jigwright.ui.viewmodels.jigs import jig_tools
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.aims_menu import AimsMenu
from jigwright.ui.widgets.empty import EmptyPlace
from jigwright.ui.widgets.findings import FindingsColumn
from jigwright.ui.widgets.flow import FlowLayout
from jigwright.ui.widgets.pages import PAGES, ClosePage
from jigwright.ui.widgets.shelf import Shelf
from jigwright.ui.widgets.slip import Slip
from jigwright.ui.widgets.take_view import TakeView
from jigwright.ui.widgets.transport import Transport
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.notes import class_name

SCORE_SCALE = 50
_AROUND = 2  # events taken along on either side of a place
_LONGEST_SPOT = 12


class DeskPlace(QWidget):
    """Assembles the Desk; figures come from the model.

    Parameters
    ----------
    model : DeskModel
    sound : SoundModel
    jobs : JobRunner
    palette : Palette

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
        jobs: JobRunner,
        palette: Palette,
    ) -> None:
        super().__init__()
        self._studio, self._session = studio, session
        self._model, self._sound, self._jobs = model, sound, jobs
        self._engraved: dict[EngraveRequest, Engraved] = {}
        self._page = "take"
        self.view = TakeView(model, palette)
        self.slip = Slip(
            model, Remarks(studio, session), palette, self.hear_target, read_only=studio.read_only
        )
        self.findings = FindingsColumn(
            model, palette, listen=lambda: self.play_selected(loop=False),
            loop=lambda: self.play_selected(loop=True), make_jig=self.make_jig,
            best_bow=self.hear_best, jig=lambda: session.now.jig,
            change_aims=None if studio.read_only else self.choose_aims,
        )  # fmt: skip
        self.shelf = Shelf(model, palette)
        self.transport = Transport(palette)
        self.transport.button.clicked.connect(self.toggle_play)
        self.close_look = ClosePage(studio, session, reader, model, sound, palette)
        self._stack = QStackedWidget()
        self._empty: EmptyPlace | None = None
        self._lines: list[QFrame] = []
        middle = QWidget()
        row = QHBoxLayout(middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.findings, 22)
        row.addWidget(self._line(vertical=True))
        row.addLayout(self._make_middle(), 64)
        row.addWidget(self._line(vertical=True))
        row.addWidget(self.slip, 24)
        self._stack.addWidget(self.view)
        self._stack.addWidget(self.close_look)
        foot = QWidget()
        below = QHBoxLayout(foot)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(0)
        below.addWidget(self.transport)
        below.addWidget(self.shelf, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(middle, 1)
        column.addWidget(self._line(vertical=False))
        column.addWidget(foot)
        self.set_palette(palette)
        self._engrave_soon = QTimer(self)
        self._engrave_soon.setSingleShot(True)
        self._engrave_soon.setInterval(60)
        self._engrave_soon.timeout.connect(self._engrave)
        self.view.zoom_changed.connect(self._engrave_soon.start)
        self.view.play_requested.connect(lambda: self.play_selected(loop=False))
        model.take_changed.connect(self._take_changed)
        model.takes_changed.connect(self._show_empty_or_take)
        sound.state_changed.connect(self._sound_moved)

    def aims_menu(self) -> AimsMenu | None:
        """What the chosen jig is for, to be changed."""
        jig = self._session.now.jig
        if jig is None or self._studio.read_only:
            return None
        there = {e.id for e in jig.events}
        chosen = [i for i in self._model.span_events() if i in there]
        return AimsMenu(jig, self._with_aims, self.message.emit, self, chosen)

    def choose_aims(self) -> None:
        """Open it where the pointer is."""
        menu = self.aims_menu()
        if menu is not None:
            menu.exec(QCursor.pos())

    def _with_aims(self, jig: Jig) -> None:
        self._session.revise_jig(jig)
        self._model.ask_for(jig)
        self.message.emit(
            tr("It holds for takes from now on. This take is held against it too.")
            if self._model.take is not None
            else tr("It holds for takes from now on.")
        )

    def _make_middle(self) -> QVBoxLayout:
        """The pages' names over the take or the close look."""
        middle = QVBoxLayout()
        middle.setSpacing(0)
        turns = FlowLayout(across=6, down=0)
        turns.setContentsMargins(20, 6, 20, 0)
        self._turns = QButtonGroup(self)
        names = {
            "take": tr("Take"), "landings": tr("Landings"), "bow": tr("Bow"),
            "two_strings": tr("Two strings"), "ring": tr("Ring"), "shape": tr("Shape and time"),
            "compare": tr("Compare"),
        }  # fmt: skip
        for i, (page, name) in enumerate(names.items()):
            button = QPushButton(name)
            button.setProperty("kind", "turn")
            button.setCheckable(True)
            button.setChecked(page == "take")
            button.setFont(sans(14, bold=True))
            button.clicked.connect(lambda _=False, p=page: self.turn(p))
            self._turns.addButton(button, i)
            turns.addWidget(button)
        middle.addLayout(turns)
        middle.addWidget(self._stack, 1)
        return middle

    def turn(self, page: str) -> None:
        """Show the take or one of the close looks."""
        self._page = page
        button = self._turns.button(("take", *PAGES).index(page))
        if button is not None:
            button.setChecked(True)
        if page != "take":
            self.close_look.show_page(page)
        self._show_empty_or_take()

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self._page

    def _line(self, *, vertical: bool) -> QFrame:
        line = QFrame()
        if vertical:
            line.setFixedWidth(1)
        else:
            line.setFixedHeight(1)
        self._lines.append(line)
        return line

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        for part in (
            self.view, self.close_look, self.slip, self.findings, self.shelf, self.transport,
        ):  # fmt: skip
            part.set_palette(palette)
        for line in self._lines:
            line.setStyleSheet(f"background: {palette.line};")

    def set_empty(self, empty: EmptyPlace) -> None:
        """Say what to show when there is no take."""
        if self._empty is not None:
            self._stack.removeWidget(self._empty)
            self._empty.deleteLater()
        self._empty = empty
        self._stack.addWidget(empty)
        self._show_empty_or_take()

    def _show_empty_or_take(self) -> None:
        shown: QWidget = self.view if self._page == "take" else self.close_look
        if self._empty is not None and not self._model.prints:
            shown = self._empty
        self._stack.setCurrentWidget(shown)
        self.transport.setEnabled(bool(self._model.prints))

    def close_down(self) -> None:
        """Stop waiting work; the studio may close."""
        self._engrave_soon.stop()
        self._model.close_down()
        self.close_look.strokes.close_down()
        self.close_look.answers.close_down()
        self.view.zoom_changed.disconnect(self._engrave_soon.start)

    # score --------------------------------------------------------------------------------

    def _take_changed(self) -> None:
        self._sound.forget()
        self._show_empty_or_take()
        self._sound_moved()
        self.view.set_engraved(self._known())
        self._engrave_soon.start()

    def _request(self) -> EngraveRequest | None:
        jig: Jig | None = self._model.take_jig()
        if jig is None:
            return None
        return engrave_request(
            jig, scale=SCORE_SCALE, target_width=float(round(self.view.wanted_width()))
        )

    def _known(self) -> Engraved | None:
        request = self._request()
        return self._engraved.get(request) if request else None

    def _engrave(self) -> None:
        request = self._request()
        if request is None:
            self.view.set_engraved(None)
            return
        if request in self._engraved:
            self.view.set_engraved(self._engraved[request])
            return

        def done(engraved: Engraved) -> None:
            if len(self._engraved) > 40:
                self._engraved.clear()
            self._engraved[request] = engraved
            if request == self._request():
                self.view.set_engraved(engraved)

        self._jobs.run(
            "engrave", request, done=done, failed=lambda _: self.view.set_engraved(None),
            key="score",
        )  # fmt: skip

    # sound --------------------------------------------------------------------------------

    def toggle_play(self) -> None:
        """Play the whole take, or stop."""
        if self._sound.playing:
            self._sound.stop()
        else:
            self._play(None, loop=False, what=tr("whole take"))

    def play_selected(self, *, loop: bool) -> None:
        """Play the selected notes, once or over and over."""
        span, rows = self._model.span_s(), self._model.span_rows()
        note = self._model.selected_note()
        if span is None or note is None or rows is None:
            return
        if rows[0] == rows[1]:
            what = class_name(note.pitch)
        else:
            what = tr("{n} notes").format(n=rows[1] - rows[0] + 1)
        self._play(span, loop=loop, what=tr("{what}, looped").format(what=what) if loop else what)

    def make_jig(self, finding: Finding) -> None:
        """Keep the place a finding speaks of as an exercise of its own."""
        jig = self._model.take_jig()
        notes = self._model.judged.notes if self._model.judged else ()
        at = [notes[i].measured.lined.i_event for i in finding.notes if i < len(notes)]
        events = [i for i in at if i is not None]
        if jig is None or not events:
            return
        near = [i for i in events if i - events[0] <= _LONGEST_SPOT]
        span = (max(0, min(near) - _AROUND), min(len(jig.events) - 1, max(near) + _AROUND))
        made = jig_tools.spot(jig, span)
        try:
            for one in made.jigs:
                self._studio.add_jig(one, utc=utc_now())
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
            return
        self.message.emit(made.said + " " + tr("It lies under Jigs."))

    def copy_figures(self) -> None:
        """Put the take's figures on the clipboard, ready for a spreadsheet."""
        clipboard, judged = QApplication.clipboard(), self._model.judged
        if clipboard is not None and judged is not None:
            clipboard.setText(
                take_csv(judged.notes, self._model.take_jig(), judged.playing, delimiter="\t")
            )
            self.message.emit(tr("The figures are on the clipboard."))

    def ask_figures(self) -> None:
        """Ask for a name and save the figures there."""
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save the figures"), tr("take") + ".csv", tr("Tables") + " (*.csv)"
        )
        if name:
            self.save_figures(Path(name))

    def save_figures(self, path: Path) -> None:
        """Save the take's figures as CSV, complete or not at all."""
        judged = self._model.judged
        if judged is None:
            return
        part = path.with_name(f".{path.name}.part")
        try:
            part.write_text(
                take_csv(judged.notes, self._model.take_jig(), judged.playing), encoding="utf-8"
            )
            part.replace(path)
        except OSError as error:
            part.unlink(missing_ok=True)
            self.message.emit(error_sentence(error))
            return
        self.message.emit(tr("Saved as {name}.").format(name=path.name))

    def copy_picture(self) -> None:
        """Put the picture of the page that is open on the clipboard."""
        if self._page != "take":
            self.close_look.copy()
            return
        clipboard, size = QApplication.clipboard(), self.view.page.size()
        if clipboard is not None:
            paint = partial(self.view.paint, drawn=True)
            clipboard.setImage(picture_image(paint, size.width(), size.height()))
            self.message.emit(tr("The picture is on the clipboard."))

    def ask_picture(self) -> None:
        """Ask for a name and save the picture of the page that is open."""
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Save picture"), f"{self._page}.svg", tr("Pictures") + " (*.svg *.png)"
        )
        if name:
            self.save_picture(Path(name))

    def save_picture(self, path: Path) -> None:
        """Save the picture of the page that is open, SVG or PNG by the suffix."""
        if self._page != "take":
            self.close_look.save(path)
            return
        jig, size = self._session.now.jig, self.view.page.size()
        title = jig.title if jig is not None else tr("Free playing")
        paint = partial(self.view.paint, drawn=True)
        self.message.emit(save_picture(path, title, paint, size.width(), size.height()))

    def hear_best(self, finding: Finding) -> None:
        """Play the same part of the player's own best long bow."""
        take, judged = self._model.take, self._model.judged
        if take is None or judged is None:
            return
        found = self.close_look.strokes.part_for(take, judged, finding)
        if found is None:
            self.message.emit(tr("There is no long bow of yours on this instrument yet."))
            return
        best, span = found
        self._sound.play_span(
            best.take.id, self._studio.audio_path(best.take), best.i_channel, span,
            loop=False, what=tr("your best long bow"),
        )  # fmt: skip

    def speak_with(self, spoken: SpokenRemarks) -> None:
        """Let remarks be spoken at a note."""
        spoken.message.connect(self.message)
        self.slip.speak_with(spoken, self.hear_remark)

    def hear_remark(self, spoken: TakeRecord) -> None:
        """Play a remark."""
        self._sound.play_span(
            spoken.id, self._studio.audio_path(spoken), 0, None, loop=False,
            what=tr("the spoken remark"),
        )  # fmt: skip

    def hear_target(self) -> None:
        """Sound the selected note's target."""
        note = self._model.selected_note()
        if note is not None:
            self._sound.play_target(
                note.target_hz, tr("target {hz} Hz").format(hz=f"{note.target_hz:.1f}")
            )

    def _play(self, span: tuple[float, float] | None, *, loop: bool, what: str) -> None:
        model = self._model
        if model.take is None:
            return
        self._sound.play_span(
            model.take.id, self._studio.audio_path(model.take),
            model.heard.i_channel if model.heard else 0, span, loop=loop, what=what,
        )  # fmt: skip

    def _sound_moved(self) -> None:
        sound, take = self._sound, self._model.take
        total = take.duration_s if take else 0.0
        if sound.playing:
            what = sound.what
        else:
            what = tr("of {m}:{s}").format(m=int(total // 60), s=f"{total % 60:04.1f}")
        self.transport.show_state(sound.at_s or 0.0, what, playing=sound.playing)
        self.view.set_playhead(sound.at_s if sound.playing else None)
