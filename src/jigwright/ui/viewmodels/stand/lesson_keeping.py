"""Keeps what the player or teacher chose of a lesson: phrases, spoken remarks, the whole."""

from __future__ import annotations

from collections.abc import Callable

from jigwright.services.growing import Growing
from jigwright.services.hearing_round import mark_heard
from jigwright.services.recording import EarSays
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.lesson import Cut, Lesson
from jigwright.ui.viewmodels.stand.take_keeper import TakeKeeper
from jigwright.wording.catalogue import tr


class LessonKeeping:
    """Makes takes of stretches of a lesson; does nothing while there is none.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    keeper : TakeKeeper
    record : callable
        Makes the record of a take to be from its source.
    failed : callable
        A take could not be made.
    changed : callable
        Something that is shown has changed.
    """

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        keeper: TakeKeeper,
        *,
        record: Callable[[str], TakeRecord],
        failed: Callable[[Exception], None],
        changed: Callable[[], object],
    ) -> None:
        self._keeper, self._record = keeper, record
        self._failed, self._changed = failed, changed
        self._studio, self._remarks = studio, Remarks(studio, session)
        self.lesson: Lesson | None = None

    def heed(self, says: EarSays, growing: Growing | None) -> bool:
        """Take what the ear says; says whether a phrase has ended."""
        if self.lesson is None:
            return False
        ended, part = self.lesson.hear(says)
        if part is not None and growing is not None:
            self._keep(part, tr("Lesson"), growing)
        return ended

    def phrase(self, growing: Growing, now_s: float) -> None:
        """Keep the last phrase, or the one that is being played."""
        if self.lesson is not None:
            self._keep(self.lesson.keep(now_s), tr("Lesson"), growing)

    def speak(self, growing: Growing, now_s: float) -> None:
        """Begin or end a spoken remark."""
        if self.lesson is not None:
            part = self.lesson.speak(now_s)
            spoken = part is not None and part.spoken
            self._keep(part, tr("Spoken remark") if spoken else tr("Lesson"), growing)

    def whole(self, growing: Growing) -> None:
        """The lesson is over: keep all of it, and the phrase that was still wished for."""
        if self.lesson is not None:
            if (wished := self.lesson.wished(growing.seconds)) is not None:
                self._keep(wished, tr("Lesson"), growing)
            for part in self.lesson.whole(growing.seconds):
                self._keep(part, tr("Whole lesson"), growing)

    def _keep(self, part: Cut | None, source: str, growing: Growing) -> None:
        self._changed()
        lesson = self.lesson
        if part is None or lesson is None:
            return

        def done(kept: TakeRecord) -> None:
            mark_heard(self._studio, kept)  # the teacher was there
            remark = lesson.kept(kept, part)
            if remark is not None:
                self._remarks.hold(remark[0], 0.0, remark[1], spoken=kept.id)
            self._changed()

        self._keeper.cut(
            growing, (part.start_s, part.stop_s), record=self._record(source), done=done,
            failed=self._failed,
        )  # fmt: skip
