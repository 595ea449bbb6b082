"""The bar below the header that offers what an interrupted sitting left behind."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from jigwright.services.recordings import Leftover
from jigwright.ui.viewmodels.stand.leftovers import Leftovers
from jigwright.ui.widgets.labels import label, push_button
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.leftovers import moment_text, offer_about, offer_title, silent_text


class LeftoverBar(QWidget):
    """One offer at a time, and no dialog: it can wait while somebody plays.

    Parameters
    ----------
    model : Leftovers
    """

    def __init__(self, model: Leftovers) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._model = model
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 8, 20, 8)
        row.setSpacing(10)
        words = QVBoxLayout()
        words.setSpacing(2)
        self.title = label("", px=15, bold=True)
        self.about = label("", px=13, second=True)
        words.addWidget(self.title)
        words.addWidget(self.about)
        row.addLayout(words, 1)
        self.keep = push_button(tr("Make takes of it"), self._keep, first=True)
        self.later = push_button(tr("Later"), model.later)
        self.drop = push_button(tr("Discard"), model.discard)
        self.back = push_button(tr("Bring it back"), model.bring_back)
        for button in (self.keep, self.later, self.drop, self.back):
            row.addWidget(button)
        self.setAccessibleName(tr("Left behind"))
        model.changed.connect(self._show)
        self._show()

    def _keep(self) -> None:
        if self._model.found_silent:
            self._model.keep_whole()
        else:
            self._model.keep()

    def _show(self) -> None:
        m = self._model
        one = m.busy or m.offered
        self.setVisible(one is not None or m.discarded is not None)
        for button in (self.keep, self.later, self.drop):
            button.setVisible(one is not None and m.busy is None)
        self.back.setVisible(m.discarded is not None and m.busy is None)
        if one is None:
            self.title.setText(tr("It was put aside."))
            self.about.setText(tr("It lies in recording/discarded in the studio's folder."))
            return
        self.title.setText(self._title(one))
        self.about.setText(self._about(one))
        self.keep.setText(tr("Keep it whole") if m.found_silent else tr("Make takes of it"))

    @staticmethod
    def _title(one: Leftover) -> str:
        note = one.note
        moment = moment_text(note.started_utc, note.utc_offset_min) if note is not None else ""
        return offer_title(one.left_s, moment)

    def _about(self, one: Leftover) -> str:
        m, note = self._model, one.note
        if m.busy is not None:
            return tr("It is being listened to and cut into takes …")
        if m.found_silent:
            return silent_text()
        about = offer_about(
            note.player if note else "", note.title if note else "", note.a4_hz if note else None
        )
        more = len(m.waiting) - 1
        if more > 0:
            about += " · " + trn("{n} more after this", "{n} more after this", more).format(n=more)
        return about
