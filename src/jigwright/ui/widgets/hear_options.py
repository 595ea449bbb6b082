"""How a jig is to be heard: what sounds beside it, how fast, and whether over and over."""

from __future__ import annotations

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QPushButton

from jigwright.ui.theme import sans
from jigwright.wording.catalogue import tr, trn

SLOWLY = 0.6


class HearOptions(QPushButton):
    """A button that says how many of its options are on, and opens them."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("kind", "second")
        self.setFont(sans(14))
        menu = QMenu(self)
        self.drone = self._option(menu, tr("with drone"))
        self.metronome = self._option(menu, tr("with click"))
        self.cue = self._option(menu, tr("with accompaniment"))
        menu.addSeparator()
        self.slowly = self._option(menu, tr("slowly"))
        self.over = self._option(menu, tr("over and over"))
        self.setMenu(menu)
        self.setAccessibleName(tr("How it is heard"))
        self._show()

    def _option(self, menu: QMenu, text: str) -> QAction:
        action = QAction(text, menu)
        action.setCheckable(True)
        action.toggled.connect(lambda _: self._show())
        menu.addAction(action)
        return action

    def offer_cue(self, there: bool) -> None:
        """Whether the jig has an accompaniment."""
        self.cue.setVisible(there)
        if not there:
            self.cue.setChecked(False)

    @property
    def speed(self) -> float:
        """Of the written tempo."""
        return SLOWLY if self.slowly.isChecked() else 1.0

    def _show(self) -> None:
        every = (self.drone, self.metronome, self.cue, self.slowly, self.over)
        on = [a for a in every if a.isChecked()]
        if not on:
            self.setText(tr("plainly"))
        elif len(on) == 1:
            self.setText(on[0].text())
        else:
            self.setText(trn("{n} option", "{n} options", len(on)).format(n=len(on)))
