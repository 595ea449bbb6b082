"""What is done with jigs on their shelf: searched, starred, renamed, put into the bin and back."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QWidget

from jigwright.core.jig.model import Jig, revise
from jigwright.services.library import LibraryMarks, keep_marks, played_when, read_marks, shelf
from jigwright.services.moments import local_day, local_offset_min, today, utc_moment, utc_now
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.widgets.library_list import LibraryList
from jigwright.wording.catalogue import tr
from jigwright.wording.library import card_line, in_the_bin, searched_text


class LibraryActions(QObject):
    """Fills the shelf and does what is asked there.

    Signals
    -------
    changed
        The shelf is to be read anew.
    """

    changed = pyqtSignal()

    def __init__(
        self, library: LibraryList, studio: StudioPort, session: SessionModel, owner: QWidget
    ) -> None:
        super().__init__(owner)
        self._library, self._studio, self._session, self._owner = library, studio, session, owner
        self._marks = read_marks(studio)
        library.searched.connect(self.changed)
        library.star.connect(self.star)
        library.rename.connect(self.ask_name)
        library.put_away.connect(self.put_away)
        library.bring_back.connect(lambda jig: self.bring_back({jig.id}))

    @property
    def searching(self) -> bool:
        """Whether an empty list means that nothing was found."""
        return bool(self._library.search.text().strip()) or self._library.of_the_bin

    def fill(self, chosen: str | None) -> int:
        """Show the jigs; returns the row that is chosen, -1 when there is none."""
        jigs = self._studio.jigs()
        self._marks = read_marks(self._studio)
        rows = shelf(
            jigs, played_when(self._studio), self._marks, words=self._library.search.text(),
            told=searched_text, of_the_bin=self._library.of_the_bin,
        )  # fmt: skip
        n_binned = sum(j.id in self._marks.binned for j in jigs)
        lines = [card_line(r.jig, r.n_takes, _days_since(r.last_utc), depth=r.depth) for r in rows]
        return self._library.show_rows(rows, lines, chosen, n_binned)

    def star(self, jig: Jig) -> None:
        """Set a star, or take it away."""
        self._keep(self._marks.with_star(jig.id))

    def put_away(self, jig: Jig) -> None:
        """Put a jig into the bin; its takes stay, and it can be brought back."""
        if self._studio.read_only:
            return
        self._keep(self._marks.with_binned({jig.id}))
        self._library.say(in_the_bin(jig.title), lambda: self.bring_back({jig.id}))

    def bring_back(self, jig_ids: set[str]) -> None:
        """Out of the bin again."""
        self._library.say("", None)
        self._keep(self._marks.without_binned(jig_ids))

    def ask_name(self, jig: Jig) -> None:
        """Ask for another title."""
        title, said = QInputDialog.getText(self._owner, tr("Rename"), tr("Title"), text=jig.title)
        if said:
            self.rename(jig, title)

    def rename(self, jig: Jig, title: str) -> None:
        """Give a jig another title; takes keep the one they were played under."""
        title = " ".join(title.split())[:200]
        if not title or title == jig.title or self._studio.read_only:
            return
        made = revise(jig, title=title)
        self._studio.add_jig(made, utc=utc_now())
        now = self._session.now.jig
        if now is not None and now.id == jig.id:
            self._session.set_jig(made)
        self.changed.emit()

    def _keep(self, marks: LibraryMarks) -> None:
        if not self._studio.read_only:
            keep_marks(self._studio, marks)
            self.changed.emit()


def _days_since(utc: str) -> int | None:
    """Days from a moment to today, as they are counted here."""
    if not utc:
        return None
    return (today() - local_day(utc, local_offset_min(utc_moment(utc)))).days
