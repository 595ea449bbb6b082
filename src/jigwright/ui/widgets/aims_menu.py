"""What a jig is for, to be changed: two actions from anywhere it stands."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from jigwright.core.errors import JigError
from jigwright.core.jig.aim_edits import (
    as_marked,
    bars_of,
    events_in_bars,
    fitting_kinds,
    limit_choices,
    put_first,
    ways_of,
    with_kind,
    with_limit,
    with_places,
    with_way,
    without,
)
from jigwright.core.jig.aims import LISTENED_FOR, Aim, aims_of, limit_of
from jigwright.core.jig.model import Jig
from jigwright.wording.aims import aim_name, bars_words, limit_words, way_name
from jigwright.wording.catalogue import tr


def ask_line(parent: QWidget, question: str) -> str | None:
    """Ask for a line of text in a box of its own."""
    text, answered = QInputDialog.getText(parent, tr("What it is for"), question)
    return text if answered else None


class AimsMenu(QMenu):
    """Aims of a jig, the listened-for ones first, and what could be added.

    Parameters
    ----------
    jig : Jig
    change : callable
        Takes the jig as it becomes.
    refused : callable
        Takes a sentence where a change cannot be made.
    parent : QWidget
    chosen : sequence of str
        Events that are selected in the picture.
    ask : callable
        Asks for a line of text; ``None`` when nobody answers.
    """

    def __init__(
        self,
        jig: Jig,
        change: Callable[[Jig], object],
        refused: Callable[[str], object],
        parent: QWidget,
        chosen: Sequence[str] = (),
        ask: Callable[[QWidget, str], str | None] = ask_line,
    ) -> None:
        super().__init__(parent)
        self._chosen, self._ask = tuple(chosen), ask
        self._jig, self._change, self._refused = jig, change, refused
        self.setAccessibleName(tr("What it is for"))
        now = aims_of(jig)
        for i, aim in enumerate(now):
            if i == LISTENED_FOR:
                self.addSeparator()
                self._heading(tr("measured too"))
            self._add_aim(i, aim, only=len(now) == 1)
        kinds = fitting_kinds(jig)
        if kinds:
            self.addSeparator()
            more = self.addMenu(tr("Listen for something else"))
            assert more is not None
            for kind in kinds:
                self._put(more, aim_name(kind), partial(with_kind, jig, kind))
        if jig.aims:
            self.addSeparator()
            self._put(self, tr("Only what is marked in the notes"), partial(as_marked, jig))

    def _heading(self, text: str) -> None:
        action = self.addAction(text)
        if action is not None:
            action.setEnabled(False)

    def _add_aim(self, i: int, aim: Aim, *, only: bool) -> None:
        jig = self._jig
        words = limit_words(aim, limit_of(aim, jig))
        name = " · ".join(w for w in (aim_name(aim.kind), bars_words(bars_of(aim, jig))) if w)
        menu = self.addMenu(f"{name} – {words}" if words else name)
        assert menu is not None
        if i > 0:
            self._put(menu, tr("Listen for it first"), partial(put_first, jig, i))
        for limit in limit_choices(aim, jig):
            chosen = self._put(menu, limit_words(aim, limit), partial(with_limit, jig, i, limit))
            chosen.setCheckable(True)
            chosen.setChecked(limit == limit_of(aim, jig))
        for way in ways_of(aim):
            then = "" if way == aim.way else way  # chosen again it is none of them
            chosen = self._put(menu, way_name(way), partial(with_way, jig, i, then))
            chosen.setCheckable(True)
            chosen.setChecked(way == aim.way)
        self._add_places(menu, i, aim)
        if not only:
            menu.addSeparator()
            self._put(menu, tr("Do not ask for it"), partial(without, jig, i))

    def _add_places(self, menu: QMenu, i: int, aim: Aim) -> None:
        """Where it is asked for: the whole jig, what is selected, some bars."""
        menu.addSeparator()
        whole = self._put(menu, tr("Everywhere"), partial(with_places, self._jig, i, ()))
        whole.setCheckable(True)
        whole.setChecked(not aim.places)
        if self._chosen:
            self._put(
                menu, tr("Only in the selected notes"),
                partial(with_places, self._jig, i, self._chosen),
            )  # fmt: skip
        bars = menu.addAction(tr("Only in some bars…"))
        if bars is not None:
            bars.triggered.connect(lambda: self._in_bars(i))

    def _in_bars(self, i: int) -> None:
        text = self._ask(self, tr("In which bars? (3 or 3-6)"))
        if text is not None:
            self._run(lambda: with_places(self._jig, i, events_in_bars(self._jig, text)))

    def _put(self, menu: QMenu, text: str, make: Callable[[], Jig]) -> QAction:
        action = menu.addAction(text)
        assert action is not None
        action.triggered.connect(lambda: self._run(make))
        return action

    def _run(self, make: Callable[[], Jig]) -> None:
        try:
            made = make()
        except JigError as error:
            self._refused(str(error))
            return
        self._change(made)
