"""Words left on notes and at moments of takes."""

from __future__ import annotations

import uuid
from dataclasses import replace

from jigwright.services.moments import utc_now
from jigwright.services.records import Remark
from jigwright.ui.viewmodels.desk import DeskModel


class Remarks:
    """Reads and leaves remarks in the present player's name.

    Parameters
    ----------
    desk : DeskModel
    """

    def __init__(self, desk: DeskModel) -> None:
        self._desk = desk

    def of_selected(self) -> tuple[Remark, ...]:
        """Words left on the selected note of the shown take."""
        note_id, take = self._desk.selected_note_id(), self._desk.take
        if take is None:
            return ()
        return tuple(r for r in self._desk.studio.remarks(take.id) if r.note_id == note_id)

    def add(self, words: str) -> None:
        """Leave words on the selected note, in the present player's name."""
        note, take = self._desk.selected_note(), self._desk.take
        words = " ".join(words.split())[:500]
        if note is None or take is None or not words:
            return
        segment = note.measured.segment
        at_s = segment.onset_s if segment is not None else 0.0
        self.hold(take.id, at_s, words, note_id=note.measured.lined.note_id)

    def hold(self, take_id: str, at_s: float, words: str, *, note_id: str | None = None) -> None:
        """Leave words at a moment of any take."""
        self._desk.studio.set_remark(
            Remark(
                id=f"remark-{uuid.uuid4().hex[:12]}", take_id=take_id, note_id=note_id, at_s=at_s,
                who=self._desk.player.name if self._desk.player else "", words=words, utc=utc_now(),
            )
        )  # fmt: skip
        self._desk.selection_changed.emit()

    def remove(self, remark: Remark) -> None:
        """Take a remark away."""
        self._desk.studio.set_remark(replace(remark, words=""))
        self._desk.selection_changed.emit()
