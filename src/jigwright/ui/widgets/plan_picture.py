"""The picture of a bow plan, worked on with mouse and keys."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from jigwright.ui.painting.bow_plan import (
    Grip,
    PlanGeometry,
    PlanRow,
    paint_bow_plan,
    plan_height,
)
from jigwright.ui.theme import Palette

_STEP = 0.05
_ARROWS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
_OWN_KEYS = (*_ARROWS, Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_H, Qt.Key.Key_L)


class PlanPicture(QWidget):
    """One or more plans side by side; of a single one the ends of its ribbons can be dragged.

    Keys: up and down choose a note, left and right change its share, with Shift the place where
    its stroke begins; H hooks it, L lifts before it, Delete leaves it to the plan again.

    Signals
    -------
    chosen : int
        Event under the choice; -1 for none.
    share, place : int, float
        A note is to get a share; a stroke is to begin at a place.
    hook, lift, leave : int
        What is to be done at an event.
    """

    chosen = pyqtSignal(int)
    share = pyqtSignal(int, float)
    place = pyqtSignal(int, float)
    hook = pyqtSignal(int)
    lift = pyqtSignal(int)
    leave = pyqtSignal(int)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._plans: tuple[tuple[PlanRow, ...], ...] = ()
        self._at: tuple[int, int] | None = None
        self._held: Grip | None = None
        self._dragged: float | None = None
        self.editable = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def event_chosen(self) -> int | None:
        """The event under the choice."""
        if self._at is None or not self._plans:
            return None
        return self._plans[0][self._at[0]].stroke.notes[self._at[1]].i_event

    @property
    def n_plans(self) -> int:
        """How many lie side by side."""
        return len(self._plans)

    def show_plans(self, plans: Sequence[Sequence[PlanRow]]) -> None:
        """Other plans; the choice stays on its event where it is still there."""
        event = self.event_chosen
        self._plans = tuple(tuple(p) for p in plans if p)
        self._at = None
        if event is not None and self._plans:
            self.choose(event, quietly=True)
        self._held = self._dragged = None
        self.setFixedHeight(round(plan_height(max(map(len, self._plans), default=0))))
        self.update()

    def choose(self, i_event: int, *, quietly: bool = False) -> None:
        """Choose a note by its event."""
        for k, row in enumerate(self._plans[0] if self._plans else ()):
            for i, note in enumerate(row.stroke.notes):
                if note.i_event == i_event:
                    self._choose((k, i), quietly=quietly)
                    return

    def set_palette(self, palette: Palette) -> None:
        """Change the theme."""
        self._palette = palette
        self.update()

    def row_rect(self) -> QRectF | None:
        """Where the chosen row lies, to be brought into view."""
        if self._at is None:
            return None
        y = self._geometry().y(self._at[0])
        return QRectF(0, y - 24, self.width(), 48)

    def point_of(self, i_event: int, *, start: bool = False) -> tuple[float, float] | None:
        """Where the end of a note lies, or the start of its stroke."""
        geometry = self._geometry()
        for k, row in enumerate(self._plans[0] if self._plans else ()):
            for note in row.stroke.notes:
                if note.i_event == i_event:
                    place = row.stroke.notes[0].start if start else note.end
                    return geometry.x(place), geometry.y(k)
        return None

    def _geometry(self) -> PlanGeometry:
        width = self.width() / max(1, len(self._plans))
        return PlanGeometry.within(QRectF(0, 0, width, self.height()))

    def _choose(self, at: tuple[int, int] | None, *, quietly: bool = False) -> None:
        self._at = at
        self.update()
        if not quietly:
            event = self.event_chosen
            self.chosen.emit(-1 if event is None else event)

    # mouse --------------------------------------------------------------------------------

    def _grip(self, event: QMouseEvent) -> Grip | None:
        if not self.editable or len(self._plans) != 1:
            return None
        where = event.position()
        return self._geometry().grip(self._plans[0], where.x(), where.y())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Choose a note; hold an end of a ribbon."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        grip = self._grip(event)
        self._choose((grip.row, grip.note) if grip is not None else None)
        self._held = grip if grip is not None and grip.part != "note" else None
        self._dragged = None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Drag what is held; show what could be."""
        if event is None:
            return
        if self._held is None:
            grip = self._grip(event)
            at_an_end = grip is not None and grip.part != "note"
            self.setCursor(Qt.CursorShape.SplitHCursor if at_an_end else Qt.CursorShape.ArrowCursor)
            return
        self._dragged = self._geometry().place(event.position().x())
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802, ARG002
        """Set what was dragged."""
        held, to = self._held, self._dragged
        self._held = self._dragged = None
        self.update()
        if held is None or to is None:
            return
        note = self._plans[0][held.row].stroke.notes[held.note]
        if held.part == "start":
            self.place.emit(note.i_event, to)
        else:
            self.share.emit(note.i_event, abs(to - note.start))

    # keys ---------------------------------------------------------------------------------

    def event(self, event: QEvent | None) -> bool:
        """Keys of the plan are not the window's while it has the focus and a choice."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and self.editable
            and event.key() in _OWN_KEYS
            and not event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """As the class says."""
        if event is None:
            return
        if not self.editable or not self._plans or event.key() not in _OWN_KEYS:
            super().keyPressEvent(event)
            return
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._step(1 if key == Qt.Key.Key_Down else -1)
        elif self._at is None:
            self._choose((0, 0))
        else:
            shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._do(Qt.Key(key), shifted=shifted)

    def _do(self, key: Qt.Key, *, shifted: bool) -> None:
        assert self._at is not None
        stroke = self._plans[0][self._at[0]].stroke
        note = stroke.notes[self._at[1]]
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = _STEP if key == Qt.Key.Key_Right else -_STEP
            if shifted:
                self.place.emit(note.i_event, min(1.0, max(0.0, stroke.notes[0].start + by)))
            else:
                sign = 1.0 if stroke.direction == "down" else -1.0
                share = round((abs(note.end - note.start) + sign * by) / _STEP) * _STEP
                self.share.emit(note.i_event, max(_STEP, share))
        elif key == Qt.Key.Key_H:
            self.hook.emit(note.i_event)
        elif key == Qt.Key.Key_L:
            self.lift.emit(note.i_event)
        else:
            self.leave.emit(note.i_event)

    def _step(self, by: int) -> None:
        every = [
            (k, i) for k, row in enumerate(self._plans[0]) for i in range(len(row.stroke.notes))
        ]
        at = every.index(self._at) + by if self._at in every else 0
        self._choose(every[min(len(every) - 1, max(0, at))])

    # painting -----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802
        """Draw what is seen."""
        painter = QPainter(self)
        seen = QRectF(event.rect()) if event is not None else None
        width = self.width() / max(1, len(self._plans))
        for k, rows in enumerate(self._plans):
            part = QRectF(0, 0, width, self.height())
            painter.save()
            painter.translate(k * width, 0)
            paint_bow_plan(
                painter, part, rows, self._palette, self._at if len(self._plans) == 1 else None,
                seen,
            )  # fmt: skip
            painter.restore()
        if self._held is not None and self._dragged is not None:
            geometry = self._geometry()
            x, y = geometry.x(self._dragged), geometry.y(self._held.row)
            painter.setPen(self._palette.color("accent"))
            painter.drawLine(round(x), round(y - 10), round(x), round(y + 10))
        painter.end()
