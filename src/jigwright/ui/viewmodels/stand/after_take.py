"""What follows when a take is kept: it is judged, one thing is said, the ear may be asked."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Literal

from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.values import Unmeasured
from jigwright.services.practising import heavy_minutes
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.ear_first import EarFirst
from jigwright.ui.viewmodels.stand.guided import Guided
from jigwright.ui.viewmodels.stand.string_watch import StringWatch
from jigwright.ui.viewmodels.stand.verdicts_given import Told

Said = Literal["said", "silent", "failed"]


class AfterTake:
    """Judges what was kept and says one thing.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    reader : TakeReader
    show : callable
        Shows a take at the Desk by its id and returns it judged.
    """

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        show: Callable[[str], Judged | Unmeasured | None],
    ) -> None:
        self._studio, self._session, self._reader, self._show = studio, session, reader, show
        self.told = Told()
        self.ear = EarFirst(studio, session)
        self.watch = StringWatch(studio, session)
        self.heavy_minutes = 0.0
        self.last: tuple[Judged, Jig] | None = None

    def kept(self, take: TakeRecord, guided: Guided | None) -> Said:
        """A take is in the studio; whatever fails here, it stays there.

        Returns
        -------
        {"said", "silent", "failed"}
            ``"silent"``: nothing can be said of it; ``"failed"``: something went wrong on the way.
        """
        self.told.kept()
        self.last = None
        return isolated("verdict", lambda: self._say(take, guided), "failed")

    def _say(self, take: TakeRecord, guided: Guided | None) -> Said:
        found = self._show(take.id)
        self.heavy_minutes = heavy_minutes(
            [t for t in self._studio.takes(player_id=take.player_id) if t.is_own],
            self._reader.jig_of,
            datetime.now(UTC),
        )
        if isinstance(found, Unmeasured):
            return "failed"
        jig = self._reader.jig_of(take)
        if found is None:
            return "silent"
        self.watch.heard(found.notes, take.day.isoformat())
        if jig is None:
            return "silent"
        if guided is not None:
            guided.taken(take, found.notes)
            return "said"
        now = self._session.now.jig
        if now is None or (now.id, now.revision) != (jig.id, jig.revision):
            return "silent"  # another jig has been taken up meanwhile
        self.last = found, jig
        self.ear.hear_next_attempt(found.notes)
        self.ear.ask(self.told.judge(found, jig, self._session.context().tolerance_cents))
        return "said"
