"""Ways of doing the same at the Stand: played one after the other, chosen by ear, then figures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jigwright.core.errors import WaysError
from jigwright.core.jig.model import Jig
from jigwright.core.jig.ways import OF_A_JIG, STROKES, Ways, WaysKind, open_ways, ways_of_jig
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.ways_heard import WayFigures, ways_heard
from jigwright.services.moments import today
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.guided import Guided, named_by_content
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import string_name
from jigwright.wording.ways import (
    way_lines,
    way_name,
    ways_choice,
    ways_question,
    ways_title,
    ways_to_do,
)

_SAME = "same"
_LANES = ("lanes", "lanes_all")
_FAULTS = {2: "weak notes=0 db=4", 3: "weak notes=0,1 db=4; tremor notes=4,5 depth_db=3"}


class WaysTrial(Guided):
    """One comparison, what was heard of its ways, and which was liked.

    Parameters
    ----------
    ways_kind : WaysKind
    studio : StudioPort
    session : SessionModel

    Raises
    ------
    WaysError
        If the jig in hand cannot be played in two ways.
    """

    def __init__(self, ways_kind: WaysKind, studio: StudioPort, session: SessionModel) -> None:
        self.ways_kind = ways_kind
        self.ways: Ways | None = None
        self.heard: tuple[WayFigures, ...] = ()
        self.liked: int | None = None
        self._answered = False
        super().__init__(ways_kind, studio, session)

    @property
    def asking(self) -> bool:
        """Whether the player is asked which way he likes."""
        return all(w.n for w in self.heard) and bool(self.heard) and not self._answered

    def simulated(self) -> tuple[Jig, tuple[str, ...]]:
        """What the simulated player plays."""
        assert self.ways is not None
        return self.ways.jig, (_FAULTS[len(self.ways.names)],)

    def taken(self, take: TakeRecord, notes: Sequence[JudgedNote]) -> None:  # noqa: ARG002
        """A take of the comparison was measured; the ear is asked anew."""
        assert self.ways is not None
        self.heard, self.liked, self._answered = ways_heard(notes, self.ways), None, False

    def like(self, place: int) -> None:
        """The player's choice by the left, middle or right pedal; it is kept."""
        if not self.asking or self.ways is None or place not in (0, 1, 2):
            return
        chosen = {0: 0, 1: None, 2: 1}[place] if len(self.ways.names) == 2 else place
        self.liked, self._answered = chosen, True
        owned = self._session.now.instrument
        if owned is None or self._studio.read_only:
            return
        if self.ways_kind in _LANES and chosen is not None:
            for i in self._which:
                string = str(self._strings[i])
                self._studio.set_contact(owned.id, string, chosen, today().isoformat())
        kept = _SAME if chosen is None else str(chosen)
        self._studio.set_setting(self._kept_as(owned.id), kept)

    @property
    def last_choice(self) -> str | None:
        """What was chosen before, in words."""
        owned = self._session.now.instrument
        if owned is None or self.ways is None:
            return None
        if self.ways_kind == "lanes":
            lane = self._studio.contact(owned.id, str(self._strings[self._which[0]]))
            return None if lane is None else way_name("lanes", lane)
        kept = self._studio.setting(self._kept_as(owned.id))
        chosen = {_SAME: None, **{str(k): k for k in range(len(self.ways.names))}}
        return ways_choice(self.ways_kind, chosen[kept]) if kept in chosen else None

    # words --------------------------------------------------------------------------------

    def words(self, *, listening: bool, playing: bool, i_event: int | None) -> tuple[str, str]:
        """The word and the line below it."""
        del listening
        assert self.ways is not None
        kind = self.ways_kind
        if playing:
            at = min(0 if i_event is None else i_event + 1, len(self.ways.jig.events) - 1)
            way = self.ways.way_of(at)
            line = ""
            if kind not in OF_A_JIG:
                string, n = divmod(at - self.ways.spans[way][0], STROKES)
                line = tr("bow {n} of {of}").format(n=n + 1, of=STROKES)
                if len(self._which) > 1:
                    line = f"{string_name(self._strings[self._which[string]])}: {line}"
            return way_name(kind, way).capitalize(), line
        if self.asking:
            return ways_question(kind)
        if self._answered:
            return ways_choice(kind, self.liked).capitalize(), tr("Kept as your choice.")
        if self.heard:
            return tr("cannot tell").capitalize(), tr("One of the ways was not heard. Once more.")
        before = self.last_choice
        said = "" if before is None else tr("Last time you liked: {what}.").format(what=before)
        return ways_title(kind), f"{ways_to_do(kind)} {said}".strip()

    def lines(self) -> list[str]:
        """Figures, once they may be seen."""
        if self.ways is None or not self.heard or self.asking:
            return []
        return way_lines(self.ways, self.heard)

    # the jig ------------------------------------------------------------------------------

    def _make_jig(self) -> Jig:
        kind, base = self.ways_kind, self._before
        if kind not in OF_A_JIG:
            first, title = self._strings[self._which[0]], ways_title(kind)
            made = open_ways(
                kind, self._instrument, self._strings, self._which,
                jig_id=f"guided-{kind}-{self._instrument}-{first.midi}",
                title=title if len(self._which) > 1 else f"{title}: {string_name(first)}",
            )  # fmt: skip
        elif base is None:
            raise WaysError("length")
        else:
            made = ways_of_jig(
                kind, base, self._strings, jig_id=f"guided-{kind}-{base.id}",
                title=f"{base.title}: {ways_title(kind)}",
            )  # fmt: skip
        self.ways = replace(made, jig=named_by_content(made.jig))
        return self.ways.jig

    @property
    def _which(self) -> Sequence[int]:
        """The strings that are bowed; two ways are tried on the lowest, which is slow to speak."""
        if self.ways_kind == "lanes_all":
            return range(len(self._strings))
        return (0,) if self.ways_kind == "two_ways" else (len(self._strings) // 2,)

    def _kept_as(self, instrument_id: str) -> str:
        assert self.ways is not None
        return f"way/{instrument_id}/{self.ways.jig.id}"
