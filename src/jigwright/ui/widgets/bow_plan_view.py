"""The bow plan of a jig, or of several ways of playing it side by side."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from jigwright.core.jig import bow_edit
from jigwright.core.jig.bow_advice import Advice, advise
from jigwright.core.jig.bow_plan import PlannedStroke, plan_bow
from jigwright.core.jig.model import Jig
from jigwright.ui.painting.bow_plan import PlanRow, paint_ends
from jigwright.ui.theme import Palette
from jigwright.ui.widgets.labels import label, word_button
from jigwright.ui.widgets.painted import Painted
from jigwright.ui.widgets.plan_picture import PlanPicture
from jigwright.wording.bow_plan import (
    advice_sentence,
    bowing_sentence,
    note_sentence,
    plan_sentence,
    stroke_notes,
)
from jigwright.wording.catalogue import tr

_LEAST_PX = 120
_LEAST_BESIDE_PX = 80


class BowPlanView(QWidget):
    """Words, advice that can be followed, and the picture, which is worked on.

    Signals
    -------
    edited : Jig
        The jig with another plan.
    """

    edited = pyqtSignal(object)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._jig: Jig | None = None
        self._plan: tuple[PlannedStroke, ...] = ()
        self._before: list[Jig] = []
        self._words = label("", px=14, second=True)
        self._advice = QVBoxLayout()
        self._advice.setSpacing(2)
        self.picture = PlanPicture(palette)
        self.picture.setAccessibleName(tr("Bow plan"))
        self._ends = Painted(self._paint_ends, 18)
        self._palette = palette
        self._sheet = QScrollArea()
        self._sheet.setWidget(self.picture)
        self._sheet.setWidgetResizable(True)
        self._sheet.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._sheet.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self._words)
        column.addLayout(self._advice)
        column.addLayout(self._make_tools())
        column.addWidget(self._ends)
        column.addWidget(self._sheet, 100)
        column.addStretch(1)
        self.picture.chosen.connect(self._chosen)
        self.picture.share.connect(
            lambda i, x: self._edit(partial(bow_edit.set_share, i=i, share=x))
        )
        self.picture.place.connect(
            lambda i, x: self._edit(partial(bow_edit.set_place, i=i, place=x))
        )
        self.picture.hook.connect(self.hook)
        self.picture.lift.connect(self.lift)
        self.picture.leave.connect(self.leave)

    def _make_tools(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self._of_note = label("", px=13)
        at = self._on_chosen
        self.tools = {
            "hook": word_button(tr("Hook it"), at(self.hook)),
            "lift": word_button(tr("Lift before it"), at(self.lift)),
            "change": word_button(tr("Change on it"), at(self.change)),
            "leave": word_button(tr("Leave it to the plan"), at(self.leave)),
            "leave_all": word_button(tr("Leave all to the plan"), self.leave_all),
            "back": word_button(tr("Back"), self.undo, name=tr("Take the last change back")),
        }
        row.addWidget(self._of_note, 1)
        for button in self.tools.values():
            row.addWidget(button)
        return row

    def _on_chosen(self, run: Callable[[int], None]) -> Callable[[], None]:
        def press() -> None:
            event = self.picture.event_chosen
            if event is not None:
                run(event)

        return press

    @property
    def words(self) -> str:
        """What is said of the plan or plans, with the advice."""
        rows = [self._words.text(), *(text for text, _ in self.advice_rows())]
        return "\n".join(r for r in rows if r)

    def advice_rows(self) -> list[tuple[str, QPushButton | None]]:
        """What is advised, and the button that does it."""
        found: list[tuple[str, QPushButton | None]] = []
        for k in range(self._advice.count()):
            row = self._advice.itemAt(k)
            holder = row.widget() if row is not None else None
            if holder is not None and not holder.isHidden():
                button = holder.findChild(QPushButton)
                found.append((str(holder.property("said")), button))
        return found

    def show_jigs(
        self, jig: Jig, others: tuple[tuple[str, Jig], ...] = (), *, editable: bool = True
    ) -> None:
        """Plan a jig, and other ways of playing it, each with its name, beside it."""
        if self._jig is None or self._jig.id != jig.id:
            self._before = []
        self._jig = jig
        ways = (jig, *(other for _, other in others))
        plans = [plan_bow(way) for way in ways]
        advice = [advise(way, plan) for way, plan in zip(ways, plans, strict=True)]
        self._plan = plans[0]
        sentences = [
            " ".join(filter(None, (plan_sentence(plan, said), bowing_sentence(way))))
            for way, plan, said in zip(ways, plans, advice, strict=True)
        ]
        if others:
            names = [tr("As it is"), *(name for name, _ in others)]
            sentences = [f"{n}: {said}" for n, said in zip(names, sentences, strict=True)]
        self._words.setText("\n".join(sentences))
        self.picture.editable = editable and not others
        self.picture.show_plans(
            [_rows(w, p, a) for w, p, a in zip(ways, plans, advice, strict=True)]
        )
        self._show_advice(() if others else advice[0])
        self._chosen()
        height = self.picture.height()
        self._sheet.setMaximumHeight(height)
        least = _LEAST_PX if not others else _LEAST_BESIDE_PX
        self._sheet.setMinimumHeight(min(least, height))
        self._sheet.setVisible(any(plans))
        self._ends.setVisible(any(plans))
        self._ends.update()

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self._ends.update()
        self.picture.set_palette(palette)

    def _paint_ends(self, painter: QPainter, _rect: QRectF) -> None:
        n = max(1, self.picture.n_plans)
        width = self.picture.width() / n
        for k in range(n):
            paint_ends(painter, QRectF(k * width, 0, width, 18), self._palette)

    # what was chosen ------------------------------------------------------------------------

    def _chosen(self, _event: int = -1) -> None:
        event = self.picture.event_chosen
        found = next(
            ((s, n) for s in self._plan for n in s.notes if n.i_event == event), None
        )  # fmt: skip
        self._of_note.setText("")
        if found is not None and self._jig is not None:
            stroke, note = found
            self._of_note.setText(note_sentence(self._jig, stroke, note))
            first = stroke.notes[0].i_event == event
            is_first = self._plan[0].notes[0].i_event == event
            self.tools["hook"].setText(
                tr("Turn the bow") if stroke.begins in ("hooked", "again") else tr("Hook it")
            )
            self.tools["hook"].setVisible(self.picture.editable and first and not is_first)
            self.tools["lift"].setText(
                tr("Do not lift") if stroke.begins == "lifted" else tr("Lift before it")
            )
            self.tools["lift"].setVisible(self.picture.editable and first and not is_first)
            self.tools["change"].setVisible(self.picture.editable and not first)
            self.tools["leave"].setVisible(self.picture.editable and (note.is_set or stroke.is_set))
            rect = self.picture.row_rect()
            if rect is not None:
                middle = rect.center().toPoint()
                self._sheet.ensureVisible(middle.x(), middle.y(), 0, 30)
        else:
            for name in ("hook", "lift", "change", "leave"):
                self.tools[name].hide()
        some_set = self._jig is not None and bow_edit.is_set(self._jig)
        self.tools["leave_all"].setVisible(found is None and self.picture.editable and some_set)
        self.tools["back"].setVisible(bool(self._before))

    # doing ----------------------------------------------------------------------------------

    def hook(self, i: int) -> None:
        """The stroke of a note goes the way of the one before it, or turns again."""
        self._edit(partial(bow_edit.toggle_hook, i=i))

    def lift(self, i: int) -> None:
        """Lift the bow before the stroke of a note, or do not."""
        self._edit(partial(bow_edit.toggle_lift, i=i))

    def change(self, i: int) -> None:
        """Change the bow on a note of a slur."""
        self._edit(partial(bow_edit.change_at, i=i))

    def leave(self, i: int) -> None:
        """Leave share and start place of a note to the plan."""
        self._edit(lambda jig: bow_edit.set_place(bow_edit.set_share(jig, i, None), i, None))

    def leave_all(self) -> None:
        """Leave every share and start place to the plan."""
        self._edit(bow_edit.leave_to_the_plan)

    def undo(self) -> None:
        """Take the last change back."""
        if self._before:
            jig, now = self._before.pop(), self._jig
            if now is not None and [e.id for e in jig.events] == [e.id for e in now.events]:
                self.edited.emit(bow_edit.with_plan_of(now, jig))

    def _edit(self, change: Callable[[Jig], Jig]) -> None:
        jig = self._jig
        if jig is None or not self.picture.editable:
            return
        made = change(jig)
        if made != jig:
            self._before.append(jig)
            self.edited.emit(made)

    # advice ---------------------------------------------------------------------------------

    def _show_advice(self, advice: Sequence[Advice]) -> None:
        while self._advice.count():
            item = self._advice.takeAt(0)
            old = item.widget() if item is not None else None
            if old is not None:
                old.hide()
                old.deleteLater()
        for one in advice:
            self._advice.addWidget(self._advice_row(one))

    def _advice_row(self, advice: Advice) -> QWidget:
        assert self._jig is not None
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        said = advice_sentence(self._jig, self._plan[advice.stroke], advice)
        holder.setProperty("said", said)
        row.addWidget(label(said, px=14), 1)
        show = partial(self._show_place, advice.i_event)
        row.addWidget(word_button(tr("Show"), show, name=tr("Show this place")))
        doing = {
            "change_here": (tr("Change there"), self.change),
            "quick_and_light": (tr("Hook it"), self.hook),
        }.get(advice.kind)
        if doing is not None and not advice.inside and self.picture.editable:
            text, run = doing
            row.addWidget(word_button(text, partial(run, advice.i_event)))
        return holder

    def _show_place(self, i_event: int) -> None:
        self.picture.choose(i_event)
        self.picture.setFocus()


def _rows(jig: Jig, plan: Sequence[PlannedStroke], advice: Sequence[Advice]) -> tuple[PlanRow, ...]:
    """What the picture shows of a plan."""
    marked = {a.stroke for a in advice}
    rows = []
    bar_before = None
    bars = jig.bars()
    starts = [bar.start_beats for bar in bars]
    for k, stroke in enumerate(plan):
        at = jig.events[stroke.notes[0].i_event].onset_beats
        bar = bars[bisect_right(starts, at) - 1].number
        rows.append(
            PlanRow(
                stroke=stroke, bar="" if bar == bar_before else str(bar),
                names=stroke_notes(jig, stroke), marked=k in marked,
            )
        )  # fmt: skip
        bar_before = bar
    return tuple(rows)
