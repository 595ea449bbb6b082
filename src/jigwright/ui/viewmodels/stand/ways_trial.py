"""Ways of doing the same at the Stand: played one after the other, chosen by ear, then figures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jigwright.core.errors import WaysError
from jigwright.core.jig.model import Jig
from jigwright.core.jig.ways import (
    OF_A_JIG,
    STROKES,
    WAYS,
    Ways,
    WaysKind,
    open_ways,
    ways_of_jig,
)
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
    REASONS,
    choice_for,
    reason_question,
    way_lines,
    way_name,
    ways_choice,
    ways_question,
    ways_title,
    ways_to_do,
)

_SAME, _WHY = "same", "/why"
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
        self.reason: str | None = None
        self._answered = self._reasoned = False
        self._shown = 0
        super().__init__(ways_kind, studio, session)

    @property
    def asking(self) -> bool:
        """Whether the player is asked which way he likes, or why."""
        return self._asks_which or self._asks_why

    @property
    def _asks_which(self) -> bool:
        return all(w.n for w in self.heard) and bool(self.heard) and not self._answered

    @property
    def _asks_why(self) -> bool:
        return self._answered and self.liked is not None and not self._reasoned

    def simulated(self) -> tuple[Jig, tuple[str, ...]]:
        """What the simulated player plays."""
        assert self.ways is not None
        return self.ways.jig, (_FAULTS.get(len(self.ways.names), _FAULTS[2]),)

    def taken(self, take: TakeRecord, notes: Sequence[JudgedNote]) -> None:  # noqa: ARG002
        """A take of the comparison was measured; the ear is asked anew."""
        assert self.ways is not None
        self.heard, self.liked, self.reason = ways_heard(notes, self.ways), None, None
        self._answered, self._reasoned, self._shown = False, False, 0

    def like(self, place: int) -> None:
        """The player's choice, then his reason, by the left, middle or right pedal; kept."""
        if self.ways is None or place not in (0, 1, 2):
            return
        if self._asks_why:
            self.reason, self._reasoned = REASONS[place], True
            self._keep(_WHY, self.reason)
        elif self._asks_which and (n := len(self.ways.names)) > 3 and place != 1:
            self._shown = (self._shown + place - 1) % (n + 1)  # past the last: no difference
        elif self._asks_which:
            self._choose(place)

    def _choose(self, place: int) -> None:
        assert self.ways is not None
        n = len(self.ways.names)
        if n > 3:
            chosen = None if self._shown == n else self._shown
        else:
            chosen = {0: 0, 1: None, 2: 1}[place] if n == 2 else place
        self.liked, self._answered = chosen, True
        if self.ways_kind in _LANES and chosen is not None:
            self._keep_lane(chosen)
        self._keep("", _SAME if chosen is None else str(chosen))
        self._keep(_WHY, "")

    def _keep_lane(self, lane: int) -> None:
        owned = self._session.now.instrument
        if owned is None or self._studio.read_only:
            return
        for i in self._which:
            self._studio.set_contact(owned.id, str(self._strings[i]), lane, today().isoformat())

    def _keep(self, what: str, value: str) -> None:
        owned = self._session.now.instrument
        if owned is not None and not self._studio.read_only:
            self._studio.set_setting(self._kept_as(owned.id) + what, value)

    @property
    def last_choice(self) -> str | None:
        """What was chosen before, and why, in words."""
        owned = self._session.now.instrument
        if owned is None or self.ways is None:
            return None
        why = self._studio.setting(self._kept_as(owned.id) + _WHY)
        if self.ways_kind == "lanes":
            lane = self._studio.contact(owned.id, str(self._strings[self._which[0]]))
            return None if lane is None else choice_for(way_name("lanes", WAYS["lanes"][lane]), why)
        kept = self._studio.setting(self._kept_as(owned.id))
        names = self.ways.names
        chosen: dict[str, str | None] = {_SAME: None, **{str(k): n for k, n in enumerate(names)}}
        if kept not in chosen:
            return None
        return choice_for(ways_choice(self.ways_kind, chosen[kept]), why)

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
            return way_name(kind, self.ways.names[way]).capitalize(), line
        if self._asks_which:
            return ways_question(self.ways, self._shown)
        if self._asks_why:
            return reason_question()
        if self._answered:
            name = None if self.liked is None else self.ways.names[self.liked]
            said = choice_for(ways_choice(kind, name), self.reason or "")
            return said[:1].upper() + said[1:], tr("Kept as your choice.")
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
