"""Writing notes: as a line of text, and on the staff by mouse and keys."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.core.jig import edit, writing
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.line import jig_from_line, jig_to_line
from jigwright.core.jig.model import MARKS, ORNAMENTS, Jig
from jigwright.core.jig.signs import DYNAMICS, HAIRPINS
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import STEPS, Pitch
from jigwright.ui.theme import sans
from jigwright.ui.widgets.labels import label, word_button
from jigwright.ui.widgets.piece_head import PieceHead
from jigwright.ui.widgets.score_view import ScoreView
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence
from jigwright.wording.notes import ornament_name
from jigwright.wording.writing import mark_name, tuplet_name

_Change = Callable[[Jig, int, int], Jig]
_Row = tuple[str, _Change]
_MOST_BACK = 200
_HALF, _TWICE = Fraction(1, 2), Fraction(2)


class NoteEditor(QWidget):
    """Edits one jig; every change can be taken back.

    Signals
    -------
    typed
        The text of the line changed by typing.
    edited : object, object
        A changed jig and the span to be chosen.
    failed : str
        A change was not possible, and why.
    """

    typed = pyqtSignal()
    edited = pyqtSignal(object, object)
    failed = pyqtSignal(str)

    def __init__(self, score: ScoreView) -> None:
        super().__init__()
        self._score = score
        self._jig: Jig | None = None
        self._back: list[tuple[Jig, tuple[int, int] | None]] = []
        self._heading: tuple[str, ...] | None = None  # of the head, changed last
        self.line = QLineEdit()
        self.line.setFont(sans(16))
        self.line.setAccessibleName(tr("Notes of the line"))
        self.line.setPlaceholderText("(D4 E4) F#4 G4:2 r:1 G3+B4 A4!2")
        self.line.textChanged.connect(self.typed)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.head = PieceHead()
        self.head.changed.connect(self._headed)
        column.addWidget(self.head)
        column.addWidget(self.line)
        line_help = tr(
            "Names are sounding notes. :1/2 sets the length in beats, ( ) is one bow, "
            "+ sounds together, r rests, !2 is a finger, a dot after a note lifts the bow."
        )
        staff_help = tr(
            "On the staff: press where a note should stand. A … G add one after the chosen note, "
            "arrows move it, comma and full stop change its length, 0 … 5 write a finger, "
            "Ctrl+C and Ctrl+V take notes elsewhere."
        )
        for text in (line_help, staff_help):
            column.addWidget(label(text, px=13, second=True))
        column.addLayout(self._buttons())

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        for text, tip, run in (
            (tr("Add"), tr("Another note like the chosen one"), self.add_same),
            (tr("Remove"), "Del", lambda: self.change(self._remove)),
            (tr("Higher"), "↑", lambda: self._pitch(steps=1)),
            (tr("Lower"), "↓", lambda: self._pitch(steps=-1)),
            (tr("Longer"), ".", lambda: self._length(_TWICE)),
            (tr("Shorter"), ",", lambda: self._length(_HALF)),
            (tr("One bow"), "(", lambda: self.change(edit.one_bow)),
            (tr("Apart"), ")", lambda: self.change(edit.apart)),
        ):
            button = word_button(text, run)
            button.setToolTip(tip)
            row.addWidget(button)
        self._marks = word_button(tr("Marks"), self._mark_menu)
        self.take_back_button: QPushButton = word_button(tr("Take back"), self.take_back)
        self.take_back_button.setToolTip("Ctrl+Z")
        row.addWidget(self._marks)
        row.addStretch(1)
        row.addWidget(self.take_back_button)
        return row

    # what is edited -----------------------------------------------------------------------

    def begin(self, jig: Jig | None) -> None:
        """Edit a jig from now on; ``None`` ends editing."""
        self._back = []
        self.show_jig(jig)
        if jig is None:
            self._score.let_edit(None)
        else:
            self._score.let_edit(self.key, self.place)
            self._write_line()

    @property
    def changed(self) -> bool:
        """Whether something was written that could be taken back."""
        return bool(self._back)

    def show_jig(self, jig: Jig | None) -> None:
        """The jig as it is now, when it was changed from outside (the line)."""
        self._jig = jig
        if jig is not None:
            self.head.show_jig(jig)
        self.take_back_button.setEnabled(bool(self._back))

    def remember(self) -> None:
        """Keep the present state for taking back."""
        if self._jig is not None:
            self._back = [*self._back[-_MOST_BACK:], (self._jig, self._score.span)]

    def change(self, make: _Change) -> None:
        """Change the chosen notes, or the last one when none is chosen."""
        if self._jig is None or not self._jig.events:
            return
        first, last = self._score.span or (len(self._jig.events) - 1,) * 2
        try:
            made = make(self._jig, first, last)
        except JigwrightError as error:
            self.failed.emit(error_sentence(error))
            return
        if made is self._jig or made == self._jig:
            return
        grown = len(made.events) - len(self._jig.events)
        at = min(max(first, 0), len(made.events) - 1)
        span = (at, at) if grown < 0 else (first, last)
        self._put(made, span)

    def place(self, after: int, diatonic: int) -> None:
        """Put a note on a line or space of the staff, after an event."""
        if self._jig is None:
            return
        at = self._jig.events[max(after, 0)].onset_beats if self._jig.events else Fraction(0)
        self._insert(after, edit.in_key(diatonic, edit.key_at(self._jig, at)))

    def add_same(self) -> None:
        """Repeat the chosen note after itself."""
        if self._jig is not None:
            after = self._at()
            self._insert(after, self._near())

    def take_back(self) -> None:
        """Undo the last change."""
        if not self._back:
            return
        self._heading = None
        self._jig, span = self._back.pop()
        self.head.show_jig(self._jig)
        self._write_line()
        self.edited.emit(self._jig, span)
        self.take_back_button.setEnabled(bool(self._back))

    def replace_jig(self, jig: Jig) -> None:
        """Put another version in the place of what is edited; it can be taken back."""
        self._put(jig, None)

    def _put(self, made: Jig, span: tuple[int, int] | None, *, step: bool = True) -> None:
        if step:
            self.remember()
        self._heading = None
        self._jig = made
        self.head.show_jig(made)
        self._write_line()
        self.take_back_button.setEnabled(True)
        self.edited.emit(made, span)

    def _write_line(self) -> None:
        if self._jig is not None:
            self.line.blockSignals(True)
            self.line.setText(jig_to_line(self._jig))
            self.line.blockSignals(False)

    def _at(self) -> int:
        assert self._jig is not None
        span = self._score.span
        return span[1] if span is not None else len(self._jig.events) - 1

    def _near(self) -> Pitch:
        """The pitch of the chosen note; of a middle string where there is none yet."""
        assert self._jig is not None
        if self._jig.events:
            return self._jig.events[self._at()].heads[-1].pitch
        strings = instrument(self._jig.instrument_id).strings
        return strings[len(strings) // 2]

    def _headed(self, head: dict[str, object]) -> None:
        """Another title, key, metre, tempo or pick-up."""
        if self._jig is None:
            return
        try:
            made = writing.with_head(self._jig, **head)
        except JigwrightError as error:
            self.failed.emit(error_sentence(error))
            self.head.show_jig(self._jig)
            return
        if made == self._jig:
            return
        again = self._heading == tuple(head)  # letter by letter is one step
        self._put(made, self._score.span, step=not again)
        self._heading = tuple(head)

    # taken elsewhere ----------------------------------------------------------------------

    def copy(self) -> None:
        """Take the chosen notes to the clipboard; an own jig file in words."""
        clipboard = QGuiApplication.clipboard()
        if self._jig is None or not self._jig.events or clipboard is None:
            return
        first, last = self._score.span or (len(self._jig.events) - 1,) * 2
        clipboard.setText(jig_to_json(writing.copied(self._jig, first, last)))

    def paste(self) -> None:
        """Put in what the clipboard holds: copied notes, or notes as a line of text."""
        clipboard = QGuiApplication.clipboard()
        text = clipboard.text() if clipboard is not None else ""
        if self._jig is None or not text.strip():
            return
        after = self._at()
        try:
            piece = self._piece_of(text)
            made = writing.pasted(self._jig, after, piece)
        except JigwrightError as error:
            self.failed.emit(error_sentence(error))
            return
        self._put(made, (after + 1, after + len(piece.events)))

    def _piece_of(self, text: str) -> Jig:
        assert self._jig is not None
        if text.lstrip().startswith("{"):
            return jig_from_json(text)
        return jig_from_line(
            text, jig_id="copied", instrument_id=self._jig.instrument_id, title="copied"
        )

    def _insert(self, after: int, pitch: Pitch) -> None:
        assert self._jig is not None
        try:
            made = edit.insert_note(self._jig, after, pitch)
        except JigwrightError as error:
            self.failed.emit(error_sentence(error))
            return
        self._put(made, (after + 1, after + 1))

    # keys ---------------------------------------------------------------------------------

    def key(self, event: QKeyEvent) -> bool:
        """Take a key that edits; says whether it was one."""
        if self._jig is None:
            return False
        for keys, act in (
            (QKeySequence.StandardKey.Undo, self.take_back),
            (QKeySequence.StandardKey.Copy, self.copy),
            (QKeySequence.StandardKey.Paste, self.paste),
        ):
            if event.matches(keys):
                act()
                return True
        code, text = Qt.Key(event.key()), event.text()
        octave = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        far = 7 if octave else 1
        direct: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Up: lambda: self._pitch(steps=far),
            Qt.Key.Key_Down: lambda: self._pitch(steps=-far),
            Qt.Key.Key_Delete: lambda: self.change(self._remove),
            Qt.Key.Key_Backspace: lambda: self.change(self._remove),
        }
        by_text: dict[str, Callable[[], None]] = {
            ".": lambda: self._length(_TWICE), ",": lambda: self._length(_HALF),
            "(": lambda: self.change(edit.one_bow), ")": lambda: self.change(edit.apart),
            "+": lambda: self._pitch(semitones=1), "-": lambda: self._pitch(semitones=-1),
            "r": lambda: self._rest(1), "R": lambda: self._rest(-1),
            "t": lambda: self.change(lambda j, a, _: edit.turn_bow(j, a)),
            "s": lambda: self.change(edit.next_string),
        }  # fmt: skip
        run = direct.get(code) or by_text.get(text)
        if run is not None:
            run()
        elif text.upper() in STEPS and text:
            self._letter(text.upper(), together=text.isupper())
        elif text in tuple("012345"):
            self.change(lambda j, a, b: edit.set_finger(j, a, b, int(text)))
        else:
            return False
        return True

    def _letter(self, letter: str, *, together: bool) -> None:
        """A note of this letter, as near as possible to the chosen one."""
        assert self._jig is not None
        i = self._at()
        at = self._jig.events[i].onset_beats if self._jig.events else Fraction(0)
        near = self._near().diatonic
        steps = (STEPS.index(letter) - near + 3) % 7 - 3
        pitch = edit.in_key(near + steps, edit.key_at(self._jig, at))
        if together and self._jig.events:
            self.change(lambda j, _, last: edit.add_head(j, last, pitch))
        else:
            self._insert(i, pitch)

    def _pitch(self, *, steps: int = 0, semitones: int = 0) -> None:
        self.change(lambda j, a, b: edit.move_pitch(j, a, b, steps=steps, semitones=semitones))

    def _length(self, factor: Fraction) -> None:
        self.change(lambda j, a, b: edit.lengthen(j, a, b, factor))

    def _rest(self, sign: int) -> None:
        self.change(lambda j, _, b: edit.rest_after(j, b, sign * j.events[b].length_beats))

    @staticmethod
    def _remove(jig: Jig, first: int, last: int) -> Jig:
        return edit.remove(jig, first, last)

    # marks --------------------------------------------------------------------------------

    def marks(self) -> tuple[_Row, ...]:
        """Every mark that can be set, by name."""
        return tuple(row for _, rows in self.mark_groups() for row in rows)

    def mark_groups(self) -> tuple[tuple[str, tuple[_Row, ...]], ...]:
        """What can be written, in the groups of the menu; those without a name stand first."""

        def toggle(name: str) -> _Change:
            def run(jig: Jig, a: int, b: int) -> Jig:
                return edit.mark(jig, a, b, **{name: not getattr(jig.events[a], name)})

            return run

        def ornament(name: str) -> _Change:
            def run(jig: Jig, a: int, b: int) -> Jig:
                there = jig.events[a].ornament == name
                return edit.mark(jig, a, b, ornament=None if there else name)

            return run

        def dynamic(level: str | None) -> _Change:
            return lambda j, a, _: edit.mark(j, a, a, dynamic=level)

        plain: tuple[_Row, ...] = (
            (tr("Semitone higher") + "   +", lambda j, a, b: edit.move_pitch(j, a, b, semitones=1)),
            (tr("Semitone lower") + "   -", lambda j, a, b: edit.move_pitch(j, a, b, semitones=-1)),
            (tr("Rest after it") + "   r",
             lambda j, _, b: edit.rest_after(j, b, j.events[b].length_beats)),
            (tr("No rest after it"), lambda j, _, b: edit.rest_after(j, b, Fraction(-64))),
            (tr("Dotted length"), lambda j, a, b: edit.lengthen(j, a, b, Fraction(3, 2))),
            (tr("Tied into one note"), writing.tied),
            *((tuplet_name(n), partial(writing.as_tuplet, size=n)) for n in writing.TUPLETS),
        )  # fmt: skip
        hand: tuple[_Row, ...] = (
            (tr("The other bow") + "   t", lambda j, a, _: edit.turn_bow(j, a)),
            (tr("On the next string") + "   s", edit.next_string),
            (tr("No finger written"), lambda j, a, b: edit.set_finger(j, a, b, None)),
            (tr("Lift the bow after it"), toggle("lifted")),
            (tr("Plucked"), toggle("pluck")),
            (tr("Slide into it"), toggle("glide")),
        )
        over: tuple[_Row, ...] = (
            (tr("Growing"), partial(writing.hairpin, way=HAIRPINS[0])),
            (tr("Fading"), partial(writing.hairpin, way=HAIRPINS[1])),
            (tr("Bars played twice"), writing.repeated),
        )
        ornaments = (
            (tr("Free place"), toggle("free")),
            *((ornament_name(o), ornament(o)) for o in ORNAMENTS),
        )
        loud = (
            *((d, dynamic(d)) for d in DYNAMICS), (tr("No loudness written"), dynamic(None)),
        )  # fmt: skip
        signs: tuple[_Row, ...] = tuple(
            (mark_name(m), partial(writing.toggle_mark, mark=m)) for m in MARKS
        )
        return (
            ("", plain), (tr("Bow and hand"), hand), (tr("Loudness"), (*loud, *over)),
            (tr("Signs"), signs), (tr("Ornaments"), ornaments),
        )  # fmt: skip

    def write_words(self, text: str) -> None:
        """Write words at the chosen note; none takes them away."""
        self.change(lambda j, a, _: writing.write_words(j, a, text))

    def _ask_words(self) -> None:
        if self._jig is None or not self._jig.events:
            return
        first = self._score.span[0] if self._score.span else len(self._jig.events) - 1
        text, said = QInputDialog.getText(
            self, tr("Words"), tr("Words at this note"), text=writing.words_at(self._jig, first)
        )
        if said:
            self.write_words(text)

    def _mark_menu(self) -> None:
        menu = QMenu(self)
        for name, rows in self.mark_groups():
            under = menu if not name else menu.addMenu(name)
            for text, run in rows:
                action = under.addAction(text) if under is not None else None
                if action is not None:
                    action.triggered.connect(lambda _=False, r=run: self.change(r))
        words = menu.addAction(tr("Words …"))
        if words is not None:
            words.triggered.connect(lambda _=False: self._ask_words())
        menu.exec(self._marks.mapToGlobal(self._marks.rect().bottomLeft()))
