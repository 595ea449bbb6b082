"""Jigs: choose an exercise, make one, write a line or bring in a score; see it and hear it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import isolated
from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.cue import has_cue
from jigwright.core.jig.draft import renamed
from jigwright.core.jig.edit import has_proposals, rewritten
from jigwright.core.jig.exchange import jig_to_json
from jigwright.core.jig.fingering import propose_fingering
from jigwright.core.jig.imported import Imported
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import FAMILIES, MAKERS, maker
from jigwright.core.jig.model import Jig, revise
from jigwright.core.jig.order import has_repeats
from jigwright.core.jig.pace import whole_seconds
from jigwright.core.jig.writing import new_piece
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.services.jobs import PreviewRequest, RawSound
from jigwright.services.moments import utc_now
from jigwright.services.piece_maps import played_of, takes_of
from jigwright.services.practising import troubled_events
from jigwright.services.session import keep_revision
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.ui.places.library_actions import LibraryActions
from jigwright.ui.places.score_files import ScoreFiles
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import Palette, sans
from jigwright.ui.viewmodels.jigs import jig_tools
from jigwright.ui.viewmodels.jigs.jig_tools import Derived, fresh_id
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.aims_menu import AimsMenu
from jigwright.ui.widgets.below_notes import BelowNotes
from jigwright.ui.widgets.hear_options import HearOptions
from jigwright.ui.widgets.labels import label, push_button, word_button
from jigwright.ui.widgets.library_list import LibraryList
from jigwright.ui.widgets.maker_form import FormArea, MakerForm
from jigwright.ui.widgets.note_editor import NoteEditor
from jigwright.ui.widgets.other_way import OtherWays
from jigwright.ui.widgets.score_view import ScoreView
from jigwright.wording.aims import listening_for
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.errors import error_sentence
from jigwright.wording.makers import family_name, key_name, kind_name, maker_name, maker_purpose
from jigwright.wording.scores import import_summary

_NEW = "new"


class JigsPlace(QWidget):
    """Lists of jigs and of exercises on the left, the chosen one in notation on the right.

    Signals
    -------
    chosen
        A jig was chosen to be worked on.
    step_by_step : Jig, int, int
        Bars of a piece are to be worked on at the Stand.
    message : str
    """

    chosen = pyqtSignal()
    step_by_step = pyqtSignal(object, int, int)
    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        sound: SoundModel,
        jobs: JobRunner,
        cache: Path,
        palette: Palette,
    ) -> None:
        super().__init__()
        self._studio, self._session, self._reader = studio, session, reader
        self._sound, self._jobs = sound, jobs
        self._cache, self._palette = cache, palette
        self._jig: Jig | None = None
        self._from_line = False
        self._heard = False
        self.library = LibraryList(jobs, palette)
        self._list, self._makers = self.library.list, self._maker_list()
        self._list.currentRowChanged.connect(self._row_chosen)
        self.shelf = LibraryActions(self.library, studio, session, self)
        self.shelf.changed.connect(self.refresh)
        self._makers.currentRowChanged.connect(self._maker_chosen)
        self._title = label("", px=26, old_style=True)
        self._about = label("", px=14, second=True)
        self.score = ScoreView(jobs, palette)
        self.score.message.connect(self.message)
        self.score.chosen.connect(self._span_changed)
        self.form = MakerForm()
        self.form_area = FormArea(self.form)
        self._form_kind = ""
        self.form.length_of = self._length_of
        self.form.changed.connect(self._form_changed)
        self.editor = NoteEditor(self.score)
        self.editor.typed.connect(self._line_changed)
        self.editor.edited.connect(self._show)
        self.editor.failed.connect(lambda text: self._error.setText(text))
        self._error = label("", px=14)
        self.files = ScoreFiles(self, jobs)
        self.files.message.connect(self.message)
        self.files.brought_in.connect(self._brought_in)
        self.below = BelowNotes(
            palette,
            lambda jig: takes_of(jig, studio, getattr(session.now.player, "id", None)),
            lambda take: played_of(take, reader, studio),
        )
        self.plan, self.map = self.below.plan, self.below.map
        self.plan.edited.connect(self._take_change)
        self.map.chosen.connect(lambda first, last: self.score.choose(first, last))
        self.map.wanted.connect(self._bars_wanted)
        self.map.step_by_step.connect(self._steps_wanted)
        self.other = OtherWays(jobs, palette)
        self.other.taken.connect(self._take_other)
        self.other.kept.connect(self._keep_other)
        self.other.closed.connect(self._show_plan)
        self._build()
        sound.state_changed.connect(self._sounds)
        self.refresh()

    # building -----------------------------------------------------------------------------

    def _named_list(self, name: str) -> QListWidget:
        made = QListWidget()
        made.setFont(sans(14))
        made.setAccessibleName(name)
        made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return made

    def _maker_list(self) -> QListWidget:
        made = self._named_list(tr("Exercises that can be made"))
        for family in FAMILIES:
            heading = QListWidgetItem(family_name(family))
            heading.setFlags(Qt.ItemFlag.NoItemFlags)
            heading.setFont(sans(13, bold=True))
            made.addItem(heading)
            for one in MAKERS:
                if one.family == family:
                    item = QListWidgetItem("   " + maker_name(one.id))
                    item.setData(Qt.ItemDataRole.UserRole, one.id)
                    item.setToolTip(maker_purpose(one.id))
                    made.addItem(item)
        return made

    def _build(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(8)
        switch = QHBoxLayout()
        group = QButtonGroup(self)
        self._show_yours = self._word(tr("Your jigs"), lambda: self._turn(0))
        self._show_makers = self._word(tr("Make one"), lambda: self._turn(1))
        for button in (self._show_yours, self._show_makers):
            button.setProperty("kind", "turn")
            button.setCheckable(True)
            group.addButton(button)
            switch.addWidget(button)
        switch.addStretch(1)
        left.addLayout(switch)
        self._lists = QStackedWidget()
        self._lists.addWidget(self.library)
        self._lists.addWidget(self._makers)
        left.addWidget(self._lists, 1)
        left.addWidget(push_button(tr("A new piece"), self.new_piece))
        left.addWidget(push_button(tr("Write notes"), self.write_notes))
        left.addWidget(push_button(tr("Bring in a score …"), self.files.ask_score))
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self._title)
        right.addWidget(self._about)
        right.addLayout(self._make_aims_line())
        right.addWidget(self.form_area, 20)
        right.addWidget(self.editor)
        right.addWidget(self.score, 3)
        right.addWidget(self._error)
        right.addLayout(self._make_buttons())
        right.addWidget(self.other, 3)
        right.addWidget(self.below, 4)
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 16, 24, 16)
        row.setSpacing(26)
        row.addLayout(left, 3)
        row.addLayout(right, 10)

    def _bars_wanted(self, first: int, last: int) -> None:
        """Bars of the map become an exercise of their own, to be worked on at once."""
        if self._jig is None or self._jig.id == _NEW:
            return
        made = jig_tools.bars_spot(self._jig, first, last)
        if made.jigs:
            self.keep(list(made.jigs), made.said)
            self.chosen.emit()

    def _steps_wanted(self, first: int, last: int) -> None:
        """Bars of the map are to be worked on step by step."""
        if self._jig is not None and self._jig.id != _NEW and not self._from_line:
            self.step_by_step.emit(self._jig, first, last)

    def _make_buttons(self) -> QHBoxLayout:
        buttons = QHBoxLayout()
        self._use = push_button(tr("Work on this jig"), self._work_on, first=True)
        self._hear = push_button(tr("Hear it"), self._play)
        self.hear = HearOptions()
        self._more = push_button(tr("More"), self._menu)
        for widget in (self._use, self._hear, self.hear, self._more):
            buttons.addWidget(widget)
            widget.setFont(sans(14, bold=widget is self._use))
        buttons.addStretch(1)
        return buttons

    def _make_aims_line(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(10)
        self._aims = label("", px=14, second=True)
        self._change_aims = word_button(
            tr("Change"), self.choose_aims, name=tr("Change what it is for")
        )
        row.addWidget(self._aims, 1)
        row.addWidget(self._change_aims, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def aims_menu(self) -> AimsMenu | None:
        """What the shown jig is for, to be changed."""
        if self._jig is None or self._studio.read_only:
            return None
        return AimsMenu(self._jig, self._take_change, self._error.setText, self)

    def choose_aims(self) -> None:
        """Open it under its line."""
        menu = self.aims_menu()
        if menu is not None:
            menu.exec(self._change_aims.mapToGlobal(self._change_aims.rect().bottomLeft()))

    def _take_change(self, jig: Jig) -> None:
        """What was changed beside the notes holds at once, as the jig's next revision."""
        if self._from_line:
            self.editor.replace_jig(jig)
        elif jig.id == _NEW:
            self._show(jig)
        else:
            made = self._session.revise_jig(jig)
            item = self._list.currentItem()
            if item is not None:
                item.setData(Qt.ItemDataRole.UserRole, made)
            self._show(made)
            self.message.emit(tr("It holds for takes from now on."))

    def _word(self, text: str, run: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "word")
        button.setFont(sans(16, bold=True))
        button.clicked.connect(lambda: run())
        return button

    # showing ------------------------------------------------------------------------------

    @property
    def jig(self) -> Jig | None:
        """The jig on the right."""
        return self._jig

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.score.set_palette(palette)
        self.below.set_palette(palette)
        self.library.set_palette(palette)
        self.other.set_palette(palette)

    def close_down(self) -> None:
        """Keep what was written, stop waiting work; the studio may close."""
        isolated("keeping what was written", self._keep_written, None)
        self.score.close_down()
        self.below.close_down()
        self.other.close_down()

    def refresh(self) -> None:
        """Read the list anew and show the current jig."""
        now = self._session.now.jig
        chosen = self.shelf.fill(now.id if now is not None else None)
        if chosen >= 0:
            self._turn(0)
            self._row_chosen(chosen)
        elif not self.shelf.searching:
            self.make("scale")

    def _turn(self, side: int) -> None:
        self._lists.setCurrentIndex(side)
        (self._show_makers if side else self._show_yours).setChecked(True)
        if side and self._makers.currentRow() < 0:
            self.make("scale")
        elif side:
            self._maker_chosen(self._makers.currentRow())
        elif self._list.count():
            self._row_chosen(max(0, self._list.currentRow()))

    def make(self, maker_id: str) -> None:
        """Begin to make an exercise."""
        if self._lists.currentIndex() != 1:
            self._lists.setCurrentIndex(1)
            self._show_makers.setChecked(True)
        for row in range(self._makers.count()):
            item = self._makers.item(row)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == maker_id:
                if self._makers.currentRow() == row:
                    self._maker_chosen(row)
                self._makers.setCurrentRow(row)
                return

    def _row_chosen(self, row: int) -> None:
        item = self._list.item(row)
        if item is None or self._lists.currentIndex() != 0:
            return
        self._mode(form=False, line=False)
        self._show(item.data(Qt.ItemDataRole.UserRole))

    def _maker_chosen(self, row: int) -> None:
        item = self._makers.item(row)
        maker_id = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if maker_id is None or self._lists.currentIndex() != 1:
            return
        self._mode(form=True, line=False)
        kind = self._session.now.kind
        if kind != self._form_kind:  # another instrument was taken up meanwhile
            self._form_kind = kind
            self.form.set_instrument(kind)
        self.form.set_maker(maker(maker_id))

    def _keep_written(self) -> None:
        """What was written is kept when somebody turns to something else."""
        jig = self._jig
        written = self._from_line and self.editor.changed and not self._studio.read_only
        if not written or jig is None or not jig.events:
            return
        self._from_line = False
        try:
            made = self._kept(jig) if jig.id == _NEW else self._session.revise_jig(jig)
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
            return
        for row in range(self._list.count()):
            item = self._list.item(row)
            if item is not None and item.data(Qt.ItemDataRole.UserRole).id == made.id:
                item.setData(Qt.ItemDataRole.UserRole, made)
        self.message.emit(tr("What was written is kept: {title}.").format(title=made.title))

    def _mode(self, *, form: bool, line: bool) -> None:
        if not line:
            self._keep_written()
        self.form.setVisible(form)
        self.form_area.setVisible(form)
        self.editor.setVisible(line)
        self._from_line = line
        if not line:
            self.editor.begin(None)
        self._use.setText(tr("Keep and work on it") if form or line else tr("Work on this jig"))

    def write_notes(self) -> None:
        """Begin to write: the jig shown, or one with the middle open string in it."""
        jig = self._jig or self._first_note()
        self._mode(form=False, line=True)
        self.editor.begin(jig)
        self._show(jig)
        self.editor.line.setFocus()

    def new_piece(self) -> None:
        """Begin a piece without a note, for the instrument in hand."""
        self._keep_written()
        jig = new_piece(
            jig_id=_NEW, title=tr("New piece"), instrument_id=self._session.now.kind,
            key=Key(PitchClass("C")),
        )  # fmt: skip
        self._mode(form=False, line=True)
        self.editor.begin(jig)
        self._show(jig)
        self.editor.head.title.setFocus()
        self.editor.head.title.selectAll()

    def _first_note(self) -> Jig:
        kind = self._session.now.kind
        strings = instrument(kind).strings
        return jig_from_line(
            str(strings[len(strings) // 2]), jig_id=_NEW, instrument_id=kind,
            title=tr("Line of notes"),
        )  # fmt: skip

    def _form_changed(self) -> None:
        if self.form.isVisibleTo(self):
            self._try(lambda: self.form.make(_NEW))

    def _line_changed(self) -> None:
        if self._from_line:
            self._try(self._lined)

    def _lined(self) -> Jig:
        base = self._jig
        kind = self._session.now.kind
        made = jig_from_line(
            self.editor.line.text(), jig_id=_NEW,
            instrument_id=base.instrument_id if base else kind,
            title=tr("Line of notes"), key=base.key if base else None,
            tempo_bpm=base.tempo_bpm if base else 60.0,
        )  # fmt: skip
        made = propose_fingering(made, string_length_mm=self._length_of(made.instrument_id))
        self.editor.remember()  # a line that cannot be read is no step to take back
        return made if base is None or base.id == _NEW else rewritten(base, made)

    def _length_of(self, kind: str) -> float | None:
        """Sounding length of the strings in hand, if they are those of this kind."""
        now = self._session.now
        return now.string_length_mm if now.kind == kind else None

    def _fingered(self, jig: Jig, _span: jig_tools.Span) -> Derived:
        return jig_tools.finger(jig, string_length_mm=self._length_of(jig.instrument_id))

    def _try(self, make: Callable[[], Jig]) -> None:
        try:
            jig = make()
        except JigwrightError as error:
            self._error.setText(error_sentence(error))
            self._use.setEnabled(False)
            return
        self._show(jig)

    def _show(self, jig: Jig, span: tuple[int, int] | None = None) -> None:
        self._jig = jig
        if self._from_line:
            self.editor.show_jig(jig)
        self.score.show_jig(jig, span)
        self._error.setText("")
        self._use.setEnabled(True)
        self._title.setText(jig.title)
        seconds = whole_seconds(jig)
        about = tr("{n} notes for {kind}, {bpm} a minute, about {s} seconds").format(
            n=len(jig.events), kind=kind_name(jig.instrument_id), bpm=round(jig.tempo_bpm),
            s=round(seconds),
        )  # fmt: skip
        if self.form.isVisibleTo(self) and self.form.maker is not None:
            about = maker_purpose(self.form.maker.id) + "  " + about
        self._about.setText(about)
        self._aims.setText(listening_for(aims_of(jig)))
        self._span_changed()
        self.hear.drone.setToolTip(tr("Drone on {key}").format(key=key_name(jig.key)))
        self.hear.offer_cue(has_cue(jig))
        self.other.put_away()
        self._show_plan()
        self.below.show_jig(jig)

    def _show_plan(self) -> None:
        if self._jig is not None:
            self.plan.show_jigs(
                self._jig,
                tuple(zip(self.other.names, self.other.jigs, strict=True)),
                editable=not self._studio.read_only,
            )

    def compare(self, way: jig_tools.Way) -> None:
        """Set another fingering or bowing of the jig beside it."""
        if self._jig is not None:
            self.other.add(way.make(self._jig), way.name, kept=way.kept)
            self._show_plan()

    def _ways(self) -> tuple[jig_tools.Way, ...]:
        """What can be thought of, and what was kept of the same notes, with how often played."""
        if self._jig is None:
            return ()
        studio = self._studio
        return jig_tools.ways() + jig_tools.kept_ways(
            self._jig, studio.jigs(), [take.jig_id for take in studio.takes()]
        )

    def _take_other(self, jig: Jig) -> None:
        if self._from_line:
            self.editor.replace_jig(jig)
        elif jig.id == _NEW or self._jig is None or jig.id != self._jig.id:
            self._show(jig)
        else:
            self.keep([revise(jig)], tr("The jig is played this way now."))

    def _keep_other(self, jig: Jig) -> None:
        made = replace(renamed(jig, fresh_id()), derived_from=(jig.id, jig.revision))
        self._studio.add_jig(made, utc=utc_now())
        self.message.emit(tr("Kept as a jig of its own."))

    def _span_changed(self) -> None:
        span = self.score.span
        if span is None or self._jig is None:
            return
        bar = self._jig.bar_of(self._jig.events[span[0]])[0]
        n = span[1] - span[0] + 1
        said = trn("One note chosen, in bar {bar}", "{n} notes chosen, from bar {bar}", n)
        self._about.setText(said.format(n=n, bar=bar))

    # doing --------------------------------------------------------------------------------

    def _menu(self) -> None:
        menu = QMenu(self)
        chosen = self.score.span is not None
        derive, tools = partial(partial, self._derive), jig_tools
        rows: tuple[tuple[str, Callable[[], None], bool], ...] = (
            (
                tr("Make the chosen notes a spot of their own"),
                derive(tools.spot),
                chosen,
            ),
            (
                tr("Take the chosen notes apart and rebuild them"),
                derive(tools.rebuild),
                chosen,
            ),
            (tr("Move the beat through it"), derive(tools.displace), True),
            (
                tr("Sound neighbouring notes together"),
                derive(tools.double),
                True,
            ),
            (tr("From slow to the written tempo"), derive(tools.tempo_ladder), True),
            (tr("Spots where the last takes went wrong"), self._weak_spots, True),
            (tr("Find places that move alike"), derive(tools.parallel), True),
            (
                tr("Write its repeats out"),
                derive(tools.write_out),
                self._jig is not None and has_repeats(self._jig),
            ),
            (tr("Propose fingers anew"), derive(self._fingered), True),
            (tr("Keep as a jig of its own"), self._keep_copy, True),
            (tr("Save as a score file …"), partial(self.files.ask_export, self._jig), True),
            (
                tr("Save with the proposed bows and fingers …"),
                partial(self.files.ask_export, self._jig, proposed=True),
                self._jig is not None and has_proposals(self._jig),
            ),
            (tr("Print or save as PDF …"), partial(self.files.ask_print, self._jig), True),
        )
        for text, run, possible in rows:
            action = menu.addAction(text)
            if action is not None:
                action.setEnabled(possible and self._jig is not None)
                action.triggered.connect(lambda _=False, r=run: self._safely(r))
        beside = menu.addMenu(tr("Set another way beside it"))
        if beside is not None:
            beside.setEnabled(self._jig is not None and not self.other.full)
            for way in self._ways():
                action = beside.addAction(way.name)
                if action is not None:
                    action.triggered.connect(
                        lambda _=False, w=way: self._safely(partial(self.compare, w))
                    )
        menu.exec(self._more.mapToGlobal(self._more.rect().bottomLeft()))

    def _safely(self, run: Callable[[], None]) -> None:
        try:
            run()
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
        except OSError as error:
            self.message.emit(error_sentence(error))

    def keep(self, jigs: list[Jig], said: str) -> None:
        """Keep new jigs, show the first and say so."""
        for jig in jigs:
            self._studio.add_jig(jig, utc=utc_now())
        self._session.set_jig(jigs[0])
        self.refresh()
        self.message.emit(said)

    def _derive(self, make: Callable[[Jig, tuple[int, int] | None], Derived]) -> None:
        if self._jig is None:
            return
        made = make(self._jig, self.score.span)
        if made.jigs and made.jigs[0].id == _NEW:
            self._show(made.jigs[0])
        elif made.jigs:
            self.keep(list(made.jigs), made.said)
        elif made.said:
            self.message.emit(made.said)

    def _weak_spots(self) -> None:
        if self._jig is not None:
            trouble, n_takes = troubled_events(
                self._studio.takes(jig_id=self._jig.id), self._reader, self._jig
            )
            self._derive(lambda jig, _: jig_tools.weak_spots(jig, trouble, n_takes))

    def export_to(self, path: Path) -> None:
        """Write the jig to a file, complete or not at all."""
        assert self._jig is not None
        self.files.export_to(self._jig, path)

    def bring_in(self, path: Path, i_part: int | None = None) -> None:
        """Read a score in the worker; ask before keeping one that broke off."""
        self.files.bring_in(path, i_part)

    def _brought_in(self, got: Imported) -> None:
        jig = renamed(got.jig, fresh_id()) if got.jig.id == _NEW else got.jig
        jig = propose_fingering(jig, string_length_mm=self._length_of(jig.instrument_id))
        said = import_summary(got)
        if got.broken_at is not None:
            self._mode(form=False, line=False)
            self._use.setText(tr("Keep what could be read"))
            self._show(renamed(jig, _NEW))
            self._error.setText(said)
            return
        self.keep([jig], said)

    def _work_on(self) -> None:
        jig = self._jig
        if jig is None:
            return
        if jig.id == _NEW or self._from_line:
            try:
                jig = self._kept(jig)
            except JigwrightError as error:
                self.message.emit(error_sentence(error))
                return
            self._from_line = False  # it is kept
        self._session.set_jig(jig)
        self.refresh()
        self.chosen.emit()

    def _kept(self, jig: Jig) -> Jig:
        """Keep a new jig, or what was changed in one as its next revision."""
        if jig.id == _NEW:
            jig = renamed(jig, fresh_id())
        return keep_revision(jig, self._studio, utc=utc_now())

    def _keep_copy(self) -> None:
        """Keep what is shown as a jig of its own."""
        if self._jig is not None:
            title = tr("{title}: another way").format(title=self._jig.title)
            made = replace(renamed(self._jig, fresh_id()), title=title)
            self._from_line = False  # what was written is in the copy
            self.keep([made], tr("Kept as a jig of its own."))

    def _play(self) -> None:
        """Let the simulated player play the jig, or the chosen notes of it; or stop it."""
        if self._heard and self._sound.playing:
            self._sound.stop()
            return
        if self._jig is None or not self._jig.events:
            return
        hear, over = self.hear, self.hear.over.isChecked()
        jig = jig_tools.heard_part(self._jig, self.score.span, speed=hear.speed)
        self._cache.mkdir(parents=True, exist_ok=True)
        request = PreviewRequest(
            jig=jig, a4_hz=self._session.now.a4_hz, reference=jig.reference,
            to=self._cache / "preview.f32", drone=hear.drone.isChecked(),
            click=hear.metronome.isChecked(), cue=hear.cue.isChecked(),
        )  # fmt: skip

        def done(sound: RawSound) -> None:
            self._heard = True
            self._sound.play_raw(sound, what=tr("simulated player"), loop=over)

        self.message.emit(tr("The simulated player gets ready …"))
        self._jobs.run(
            "preview", request, done=done,
            failed=lambda e: self.message.emit(error_sentence(e)), key="preview",
        )  # fmt: skip

    def _sounds(self) -> None:
        """The button stops what it let sound."""
        self._heard = self._heard and self._sound.playing
        self._hear.setText(tr("Stop") if self._heard else tr("Hear it"))

    def text_of_jig(self) -> str:
        """The jig as its own file format, for tests and the clipboard."""
        return jig_to_json(self._jig) if self._jig is not None else ""
