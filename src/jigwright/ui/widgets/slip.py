"""The slip: everything about the selected note."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QMenu, QPushButton, QVBoxLayout

from jigwright.core.gauge.values import Arrival
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.open_answers import open_answer
from jigwright.core.values import Unmeasured
from jigwright.services.practising import PastNote, against_references
from jigwright.services.records import Remark, TakeRecord
from jigwright.ui.painting.slip import paint_past, paint_trace
from jigwright.ui.theme import Palette
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.desk.spoken import SpokenRemarks
from jigwright.ui.widgets.column import ScrollColumn
from jigwright.ui.widgets.labels import clear, label, rule, word_button
from jigwright.ui.widgets.painted import Painted
from jigwright.wording.catalogue import tr, trn, with_comma
from jigwright.wording.changes import change_text
from jigwright.wording.findings import reason_text
from jigwright.wording.measures import (
    answer_text,
    arrival_text,
    double_texts,
    event_text,
    level_text,
    other_answer_text,
    pluck_text,
    start_text,
    stroke_text,
    tone_text,
    trill_text,
    vibrato_text,
)
from jigwright.wording.notes import (
    class_name,
    finger_name,
    low_high,
    ornament_name,
    reference_name,
    string_name,
)
from jigwright.wording.ringing import ring_text

_BEFORE, _AFTER = 3, 4  # events offered on either side when a note was taken for another

TURNING = Unmeasured("ornament")
NOT_ASKED = frozenset({"two_notes", "ornament"})  # nobody expects an arrival there


class Slip(ScrollColumn):
    """Shows the selected note of the Desk.

    Parameters
    ----------
    model : DeskModel
    palette : Palette
    hear_target : callable
        Plays the target of the selected note.

    Signals
    -------
    explain
        What the figures mean is asked for.
    """

    explain = pyqtSignal()

    def __init__(
        self,
        model: DeskModel,
        remarks: Remarks,
        palette: Palette,
        hear_target: Callable[[], None],
        *,
        read_only: bool,
    ) -> None:
        super().__init__(palette, tr("The selected note"), narrowest=238, widest=290)
        self._model, self._left, self._read_only = model, remarks, read_only
        self._hear_target = hear_target
        self._spoken: SpokenRemarks | None = None
        self._hear: Callable[[TakeRecord], None] | None = None
        model.selection_changed.connect(self.refresh)
        model.judged_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Write the slip anew."""
        clear(self._layout)
        note = self._model.selected_note()
        if self._spoken is not None and self._spoken.speaking:
            self._layout.addWidget(self._speak_button(self._spoken))
        if note is None:
            self._layout.addWidget(
                label(tr("Choose a note in the score to see it here."), px=13, second=True)
            )
            if self._model.take is not None:
                self._remarks()
            self._layout.addStretch(1)
            return
        self._head(note)
        if note.cents is not None:
            self._trace(note)
            self._measures(note)
        self._remarks()
        past = self._model.past_of_selected()
        if len(past) > 1:
            self._before(past)
        self._against()
        self._layout.addStretch(1)

    def speak_with(self, spoken: SpokenRemarks, hear: Callable[[TakeRecord], None]) -> None:
        """Let remarks be spoken, and those that were be heard."""
        self._spoken, self._hear = spoken, hear
        spoken.changed.connect(self.refresh)

    def speak(self) -> None:
        """Begin to speak about the selected note, or the take; or end it."""
        spoken, take = self._spoken, self._model.take
        if spoken is None or take is None:
            return
        if spoken.speaking:
            spoken.end()
            return
        note = self._model.selected_note()
        segment = note.measured.segment if note is not None else None
        at_s = segment.onset_s if segment is not None else 0.0
        spoken.begin(take.id, at_s, self._model.selected_note_id())

    def _remarks(self) -> None:
        """Words left on this note, or on the take, and a line to leave more."""
        self._layout.addWidget(rule())
        self._layout.addWidget(label(tr("Remarks"), px=13, second=True, bold=True))
        take, note_id = self._model.take, self._model.selected_note_id()
        for remark in self._left.on(take.id, note_id) if take is not None else ():
            self._layout.addLayout(self._remark(remark))
        if self._read_only:
            return
        if self._model.selected_note() is not None:
            line = QLineEdit()
            line.setPlaceholderText(tr("leave a remark on this note"))
            line.setAccessibleName(tr("Remark"))
            line.returnPressed.connect(lambda: self._leave(line.text()))
            self._layout.addWidget(line)
        spoken = self._spoken
        if spoken is not None and not spoken.speaking and spoken.can_speak:
            self._layout.addWidget(self._speak_button(spoken))

    def _speak_button(self, spoken: SpokenRemarks) -> QPushButton:
        text = tr("Speak a remark (W)")
        if spoken.speaking:
            text = tr("Speaking, {s} s – end it (W)").format(s=int(spoken.seconds))
        return word_button(text, self.speak)

    def _remark(self, remark: Remark) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(label(f"{remark.words} – {remark.who}", px=14), 1)
        sound = self._left.sound_of(remark) if remark.spoken is not None else None
        if sound is not None and self._hear is not None:
            hear = partial(self._hear, sound)
            row.addWidget(word_button("▶", hear, name=tr("Hear the remark")))
        if not self._read_only:
            row.addWidget(
                word_button("×", partial(self._left.remove, remark),
                            name=tr("Take the remark away"))
            )  # fmt: skip
        return row

    def _leave(self, words: str) -> None:
        note, take = self._model.selected_note(), self._model.take
        if note is not None and take is not None:
            self._left.add(take.id, note, words)

    def _head(self, note: JudgedNote) -> None:
        row = QHBoxLayout()
        row.setSpacing(14)
        text = class_name(note.pitch)
        if note.measured.lined.lower is not None:
            text = f"{class_name(note.measured.lined.lower)} {text}"
        name = label(
            text, px=44 if note.measured.lined.lower is None else 32, old_style=True, wrap=False
        )
        name.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addWidget(name)
        where = QVBoxLayout()
        where.setSpacing(3)
        context = self._model.context()
        if note.string is not None and note.finger is not None:
            text = f"{string_name(context.strings[note.string])}, {finger_name(note.finger)}"
            line = label(text, px=14)
            line.setToolTip(
                tr("String and finger are those of the jig's fingering; they cannot be heard.")
            )
            where.addWidget(line)
        where.addWidget(label(self._place_text(note), px=13, second=True))
        where.addStretch(1)
        row.addLayout(where, 1)
        self._layout.addLayout(row)
        figure = QHBoxLayout()
        figure.setSpacing(12)
        big = label(self._figure_text(note), px=30, old_style=True, wrap=False)
        if note.standing in ("low", "high"):
            big.setStyleSheet(f"color: {getattr(self._palette, note.standing)};")
        figure.addWidget(big)
        details = self._detail_text(note)
        if details:
            figure.addWidget(label(details, px=13, second=True), 1)
        else:
            figure.addStretch(1)
        self._layout.addLayout(figure)
        arrival = note.measured.arrival
        if isinstance(arrival, Arrival):
            self._layout.addWidget(label(arrival_text(arrival), px=14))

    def _place_text(self, note: JudgedNote) -> str:
        lined, jig = note.measured.lined, self._model.take_jig()
        parts = []
        if jig is not None and lined.i_event is not None:
            bar, _ = jig.bar_of(jig.events[lined.i_event])
            parts.append(tr("bar {n}").format(n=bar))
        if lined.attempt > 1:
            parts.append(tr("attempt {n}").format(n=lined.attempt))
        if note.standing == "extra":
            parts.append(tr("not in the jig"))
        segment = note.measured.segment
        if segment is not None:
            parts.append(with_comma(f"{segment.onset_s:.1f} s"))
        return ", ".join(parts)

    @staticmethod
    def _figure_text(note: JudgedNote) -> str:
        if note.cents is None:
            return tr("cannot tell") if note.standing == "uncertain" else tr("not heard")
        if note.standing == "wrong":
            steps = round(abs(note.cents) / 100)
            way = tr("below") if note.cents < 0 else tr("above")
            return trn("{n} semitone {way}", "{n} semitones {way}", steps).format(n=steps, way=way)
        return low_high(note.cents)

    @staticmethod
    def _detail_text(note: JudgedNote) -> str:
        if note.cents is None or note.standing == "wrong":
            return ""
        text = tr("cents ± {u}").format(u=f"{max(0.1, note.uncertainty_cents):.1f}")
        if note.off_mm is not None and abs(note.off_mm) >= 0.25 and note.standing != "in":
            towards = tr("towards the bridge") if note.off_mm > 0 else tr("towards the scroll")
            text += "\n" + tr("{mm} mm {towards}").format(
                mm=f"{abs(note.off_mm):.1f}", towards=towards
            )
        return text

    def _trace(self, note: JudgedNote) -> None:
        assert self._model.selected is not None
        row = self._model.rows[self._model.selected]
        segment = note.measured.segment
        assert segment is not None
        length_s = segment.offset_s - segment.onset_s
        tolerance = self._model.context().tolerance_cents

        def paint(painter: QPainter, rect: QRectF) -> None:
            paint_trace(
                painter, rect, row.trace_cents, self._palette, standing=row.standing,
                tolerance=tolerance, length_s=length_s,
            )  # fmt: skip

        picture = Painted(paint, 110)
        picture.setAccessibleName(tr("Pitch of the note over its length"))
        self._layout.addWidget(picture)

    def _measures(self, note: JudgedNote) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        m = note.measured
        tonic = self._model.context().reference.tonic
        rows = double_texts(m.double, note.double, note.balance, tonic=tonic)
        single = not rows
        if single and (which := answer_text(note.answer, tonic)):
            rows.append((tr("Place"), which, True))
        if (
            rows
            and (answer := open_answer(note, self._model.take_jig(), self._model.context()))
            is not None
        ):
            rows.append((tr("Two pure answers"), other_answer_text(answer), True))
        if single and m.vibrato != TURNING:
            rows.append((tr("Vibrato"), *vibrato_text(m.vibrato)))
        rows.append((tr("Loudness"), *level_text(m.level)))
        if not m.lined.lower:
            rows.append((tr("Start"), *start_text(m.start)))
            rows.append((tr("Tone"), *tone_text(m.tone)))
        if m.lined.ornament == "grace":
            rows.append((ornament_name("grace"), tr("leads into it; not written"), True))
        elif m.lined.ornament and (turned := trill_text(m.trill)) is not None:
            rows.append((ornament_name(m.lined.ornament), *turned))
        plucked = pluck_text(m.pluck)
        if plucked is not None:
            rows.append((tr("Plucked"), *plucked))
        rows += self._bow_rows()
        rows.append((tr("Ring"), *ring_text(m.ring, self._model.context().strings, note.cents)))
        if isinstance(m.arrival, Unmeasured) and m.arrival.reason not in NOT_ASKED:
            rows.append(
                (
                    tr("Arrival"),
                    tr("cannot tell: {why}").format(why=reason_text(m.arrival.reason)),
                    False,
                )
            )
        for i, (name, text, known) in enumerate(rows):
            grid.addWidget(
                label(name, px=13, second=True, wrap=False), i, 0, Qt.AlignmentFlag.AlignTop
            )
            grid.addWidget(label(text, px=13, italic=not known, second=not known), i, 1)
        self._layout.addLayout(grid)
        self._layout.addWidget(
            word_button(tr("Hear the target"), self._hear_target), 0, Qt.AlignmentFlag.AlignLeft
        )
        self._layout.addWidget(
            word_button(tr("What do these mean?"), self.explain.emit), 0,
            Qt.AlignmentFlag.AlignLeft,
        )  # fmt: skip
        if self._model.take_jig() is not None and not self._read_only:
            self._which = word_button(tr("Which note was it?"), self._which_menu)
            self._layout.addWidget(self._which, 0, Qt.AlignmentFlag.AlignLeft)

    def _bow_rows(self) -> list[tuple[str, str, bool]]:
        """The change into the note, its stroke, and what happened to the bow in it."""
        judged, row = self._model.judged, self._model.selected
        playing = judged.playing if judged is not None else None
        if playing is None or row is None:
            return []
        rows = [
            (tr("Change into it"), change_text(c), True)
            for c in playing.changes if c.rows[1] == row
        ]  # fmt: skip
        rows += [(tr("Stroke"), *stroke_text(s)) for s in playing.strokes if row in s.rows][:1]
        rows += [(tr("Bow"), *event_text(e)) for e in playing.events if e.row == row]
        return rows

    def which_choices(self) -> tuple[tuple[str, Callable[[], None]], ...]:
        """What the selected note may have been instead."""
        model, note = self._model, self._model.selected_note()
        jig = model.take_jig()
        if note is None or jig is None or note.measured.segment is None:
            return ()
        rows = model.judged.notes if model.judged else ()
        known = [n.measured.lined.i_event for n in rows[: (model.selected or 0) + 1]]
        at = next((i for i in reversed(known) if i is not None), 0)
        choices: list[tuple[str, Callable[[], None]]] = []
        for i in range(max(0, at - _BEFORE), min(len(jig.events), at + _AFTER + 1)):
            bar, beat = jig.bar_of(jig.events[i])
            name = class_name(jig.events[i].heads[-1].pitch)
            words = tr("{note}, bar {bar}, beat {beat}").format(
                note=name, bar=bar, beat=f"{float(beat) + 1:g}"
            )
            if i == note.measured.lined.i_event:
                words += "  ✓"
            choices.append((words, partial(model.correct, i)))
        choices.append((tr("A note that is not written"), partial(model.correct, None)))
        if model.corrected:
            choices.append((tr("As it was heard, for the whole take"), model.forget_corrections))
        return tuple(choices)

    def _which_menu(self) -> None:
        menu = QMenu(self)
        for text, run in self.which_choices():
            action = menu.addAction(text)
            if action is not None:
                action.triggered.connect(lambda _=False, r=run: r())
        menu.exec(self._which.mapToGlobal(self._which.rect().bottomLeft()))

    def _before(self, past: tuple[PastNote, ...]) -> None:
        self._layout.addWidget(rule())
        self._layout.addWidget(label(tr("This note before"), px=13, bold=True, second=True))
        take_id = self._model.take.id if self._model.take else ""
        tolerance = self._model.context().tolerance_cents

        def paint(painter: QPainter, rect: QRectF) -> None:
            paint_past(painter, rect, past, take_id, self._palette, tolerance=tolerance)

        picture = Painted(paint, 78)
        picture.setAccessibleName(tr("The same note in every take of this jig"))
        self._layout.addWidget(picture)
        right = [n for n in past if n.standing != "wrong"]
        if not right:
            return
        nearest = min(right, key=lambda n: abs(n.cents))
        row = QHBoxLayout()
        row.addWidget(label(tr("Take {n} was the nearest.").format(n=nearest.number), px=13), 1)
        if nearest.take_id != take_id:
            row.addWidget(
                word_button(tr("Show it"), lambda: self._model.show_take(nearest.take_id))
            )
        self._layout.addLayout(row)

    def _against(self) -> None:
        note = self._model.selected_note()
        if note is None:
            return
        rows = against_references(note, self._model.take_jig(), self._model.context())
        if not rows:
            return
        self._layout.addWidget(rule())
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(0, 1)
        grid.addWidget(label(tr("Against"), px=13, bold=True, second=True, wrap=False), 0, 0)
        for i, (name, cents) in enumerate(rows, start=1):
            grid.addWidget(label(reference_name(name), px=13, bold=(i == 1)), i, 0)
            figure = label(low_high(cents), px=13, bold=(i == 1), wrap=False)
            figure.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
            grid.addWidget(figure, i, 1)
        self._layout.addLayout(grid)
