"""The Daybook's state: the plan of today, ladders, trends, the record of days."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.makers.repertoire import Level
from jigwright.core.jig.model import Jig
from jigwright.core.judge.ladder import Ladder, PassRule, Standing
from jigwright.core.judge.plan import PlanItem, School
from jigwright.core.judge.season import SeasonRow
from jigwright.core.judge.session_run import Leg, SessionRun, SessionSum, begin, rearranged
from jigwright.core.judge.summary import TakeSummary
from jigwright.core.judge.trend import ChangePoint
from jigwright.core.judge.work import Progress, SetWork
from jigwright.services.climbing import ladders_on_offer, make_ladder, rung_to_work_on, standing_on
from jigwright.services.day_record import Day, days_of, everything
from jigwright.services.dayexport import takes_csv
from jigwright.services.moments import today
from jigwright.services.planning import (
    PlanWish,
    coming_again,
    keep_wish,
    kept_wish,
    plan_session,
    theme_week,
    tonic_of,
)
from jigwright.services.pupils import progress_on, work_rows
from jigwright.services.records import Changed, DayNote, TakeRecord
from jigwright.services.reporting import FIGURE, PracticeReport, make_report
from jigwright.services.routines import (
    Routine,
    RoutineStep,
    as_one,
    edited,
    keep_routine,
    kept_routine,
    routine_items,
    unfolded,
    usual_warm_up,
    with_warm_up,
)
from jigwright.services.seasons import season_of
from jigwright.services.session_runs import keep_run, kept_run, last_sum
from jigwright.services.studio_port import StudioPort
from jigwright.services.summaries import Summaries
from jigwright.services.take_reader import TakeReader
from jigwright.services.trends import (
    FIGURES,
    PART_FIGURES,
    TrendPoint,
    best_point,
    change_in,
    is_best_of_all,
    is_flat,
    jigs_played,
    of_before,
    parts_of_jig,
    trend,
)
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.wording.daybook import ladder_name
from jigwright.wording.errors import error_sentence
from jigwright.wording.makers import kind_name

_CHUNK = 6


class DaybookModel(QObject):
    """Shows what the use cases say; summaries are made in small portions.

    Parameters
    ----------
    studio : StudioPort
    session : SessionModel
    reader : TakeReader

    Signals
    -------
    changed
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._reader = studio, session, reader
        self.summaries = Summaries(studio, reader)
        self._waiting: list[TakeRecord] = []
        self._ready: dict[str, Jig] = {}
        self._takes: tuple[object, tuple[TakeRecord, ...]] = (None, ())
        self.wish = PlanWish()
        self.items: list[PlanItem] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._portion)

    # summaries ----------------------------------------------------------------------------

    @property
    def busy(self) -> bool:
        """Whether summaries are still being made."""
        return bool(self._waiting)

    def load(self) -> None:
        """Read what is kept; begin to make the summaries that are missing."""
        self.wish = kept_wish(self._studio)
        self.summaries.reread()
        mine = self.takes()
        own = {t.id for t in mine}
        others = [t for t in self._studio.takes() if t.is_own and t.id not in own]
        self._waiting = self.summaries.missing((*mine, *reversed(others)))
        if not self.items:
            self.plan()
        if self._waiting:
            self._timer.start()
        self.changed.emit()

    def follow(self, changed: Changed) -> None:
        """The studio is another one: forget what is no longer so."""
        if changed.what & {"corrections", "heard"}:
            self.summaries.forget(changed.take_ids)
        seen = changed.what & {"takes", "corrections", "works", "ladders", "days", "jigs"}
        if changed.by != "do" and (seen or "players" in changed.what):
            self.load()

    def close_down(self) -> None:
        """Stop waiting work."""
        self._timer.stop()

    def _portion(self) -> None:
        part, self._waiting = self._waiting[:_CHUNK], self._waiting[_CHUNK:]
        self.summaries.make(part)
        if not self._waiting:
            self._timer.stop()
            if self.running() is None:
                self.plan()
            self.changed.emit()

    def takes(self) -> tuple[TakeRecord, ...]:
        """Takes that the present player played, oldest first."""
        player = self._session.now.player
        if player is None:
            return ()
        key = (player.id, self._studio.stamp)
        if self._takes[0] != key:
            mine = self._studio.takes(player_id=player.id)
            self._takes = (key, tuple(t for t in mine if t.is_own))
        return self._takes[1]

    def summary(self, take: TakeRecord) -> TakeSummary | None:
        """Figures of a take, when they are made."""
        return self.summaries.known(take)

    # today --------------------------------------------------------------------------------

    def set_plan(
        self, *, minutes: int | None = None, school: School | None = None,
        theme: str | None = None, level: Level | None = None,
    ) -> None:  # fmt: skip
        """Change what the plan is made from."""
        self.wish = PlanWish(
            minutes=minutes if minutes is not None else self.wish.minutes,
            school=school or self.wish.school,
            theme=theme if theme is not None else self.wish.theme,
            level=level or self.wish.level,
        )
        if not self._studio.read_only:
            keep_wish(self._studio, self.wish)
        self.start_over()

    def plan(self) -> None:
        """Lay the session out anew."""
        routine = self.routine()
        warm_up = as_one(self.warm_up_items()) if routine.planned else None
        plan = plan_session(
            self._studio, self._session.now, self.takes(), self.summary, self.wish, today(),
            warm_up=warm_up,
        )  # fmt: skip
        self.items, self._ready = list(plan.items), {**self._ready, **plan.ready}
        run = self.running()
        if run is not None:  # what was begun today stays as it was laid out
            self.items = [g.item for g in run.legs]
        self.changed.emit()

    def start_over(self) -> None:
        """Lay a session out anew; one that is on its way is left."""
        player = self._session.now.player
        if player is not None and not self._studio.read_only:
            keep_run(self._studio, player.id, today(), None)
        self.plan()

    # warm-up ------------------------------------------------------------------------------

    def routine(self) -> Routine:
        """The player's warm-up on this instrument."""
        player = self._session.now.player
        if player is None:
            return Routine()
        return kept_routine(self._studio, player.id, self._session.now.kind)

    def warm_up_items(self) -> tuple[PlanItem, ...]:
        """Its steps, as they are played."""
        kept = {j.id: j for j in self._studio.jigs()}
        return routine_items(self.routine(), kept.get)

    def set_routine(self, routine: Routine) -> None:
        """Keep a warm-up; a plan that was not begun is laid out anew with it."""
        player = self._session.now.player
        if player is None or self._studio.read_only:
            return
        keep_routine(self._studio, player.id, self._session.now.kind, routine)
        if self.running() is None:
            self.plan()
        else:
            self.changed.emit()

    def usual_routine(self) -> Routine:
        """The warm-up a teacher would begin with, its exercises kept from now on."""
        made = usual_warm_up(self._session.now, self.wish.level, today().toordinal())
        there = {j.id for j in self._studio.jigs()}
        for jig in made:
            if jig.id not in there and not self._studio.read_only:
                self._studio.add_jig(jig, utc=self._session.now.clock())
        return edited(self.routine(), [RoutineStep(jig_id=j.id) for j in made])

    def shelf(self) -> tuple[Jig, ...]:
        """The jigs there are for this instrument."""
        return tuple(j for j in self._studio.jigs() if j.instrument_id == self._session.now.kind)

    def as_played(self) -> tuple[PlanItem, ...]:
        """The plan with its warm-up step by step."""
        return unfolded(self.items, self.warm_up_items())

    def as_played_at(self, i: int) -> int:
        """Where an item of the plan begins in that."""
        return len(unfolded(self.items[:i], self.warm_up_items()))

    def running(self) -> SessionRun | None:
        """Today's session, once it was begun."""
        player = self._session.now.player
        kept = None if player is None else kept_run(self._studio, player.id)
        return kept[1] if kept is not None and kept[0] == today() else None

    def legs(self) -> tuple[Leg, ...]:
        """The session as it is planned, with what was done of it."""
        run = self.running()
        return run.legs if run is not None else begin(self.items).legs

    def remembered(self) -> tuple[date, SessionSum] | None:
        """What the last session before today came to."""
        player = self._session.now.player
        return None if player is None else last_sum(self._studio, player.id, today())

    def theme_week(self) -> tuple[bool | None, ...]:
        """Monday to Sunday: whether the theme was worked on; ``None`` for days to come."""
        titles = {j.id: j.title for j in self._studio.jigs()}
        played = [(t.day, titles.get(t.jig_id or "", "")) for t in self.takes()]
        return theme_week(self.wish.theme, played, today())

    def season(self) -> tuple[date, tuple[SeasonRow, ...]]:
        """The last weeks: their first Monday, and a row for each jig."""
        return season_of(self.takes(), self.summary, today())

    def notes(self, take: TakeRecord) -> tuple[tuple[float | None, str], ...]:
        """Cents and standing of every note, for a take's print."""
        return self._reader.print_of(take)

    def titles(self) -> dict[str, str]:
        """Titles of all jigs, by id."""
        return {j.id: j.title for j in self._studio.jigs()}

    def note_of_today(self) -> DayNote | None:
        """What the player said of today so far."""
        player, day = self._session.now.player, today().isoformat()
        if player is None:
            return None
        notes = {n.day: n for n in self._studio.day_notes(player.id)}
        return notes.get(day, DayNote(player_id=player.id, day=day))

    def move(self, i: int, by: int) -> None:
        """Move an item of the plan."""
        j = i + by
        if 0 <= i < len(self.items) and 0 <= j < len(self.items):
            self.items.insert(j, self.items.pop(i))
            self._edited()

    def remove(self, i: int) -> None:
        """Take an item out of the plan."""
        if 0 <= i < len(self.items):
            del self.items[i]
            self._edited()

    def stretch(self, i: int, by: int) -> None:
        """Give an item more or less time."""
        if 0 <= i < len(self.items):
            item = self.items[i]
            self.items[i] = replace(item, minutes=max(1, item.minutes + by))
            self._edited()

    def _edited(self) -> None:
        """A session that is on its way goes on as it was edited."""
        run, player = self.running(), self._session.now.player
        if run is not None and player is not None:
            keep_run(self._studio, player.id, today(), rearranged(run, self.items))
        self.changed.emit()

    def coming_again(self, run: SessionRun) -> tuple[tuple[PlanItem, date], ...]:
        """When what was played in a session comes again."""
        return coming_again(run, self.takes(), self.summary, today())

    def planned_jig(self, item: PlanItem) -> Jig | None:
        """The jig an item would work on; nothing is kept yet."""
        kept = next((j for j in self._studio.jigs() if j.id == item.jig_id), None)
        return kept or self._ready.get(item.jig_id or "")

    def jig_of(self, item: PlanItem) -> Jig | None:
        """The jig an item works on, kept from now on."""
        kept = next((j for j in self._studio.jigs() if j.id == item.jig_id), None)
        if kept is None and item.jig_id in self._ready and not self._studio.read_only:
            self._studio.add_jig(self._ready[item.jig_id], utc=self._session.now.clock())
            return self._ready[item.jig_id]
        return kept

    # ladders ------------------------------------------------------------------------------

    def tonic(self) -> str:
        """The tonic ladders stand on."""
        return tonic_of(self._session.now)

    def standing(self, ladder: Ladder) -> Standing:
        """Where the player stands on a ladder."""
        return standing_on(
            self._studio, self._session.now, ladder, self.takes(), self.summary,
            self._reader.jig_of,
        )  # fmt: skip

    def ladders(self) -> Sequence[Ladder]:
        """Ladders on offer: one's own first."""
        return ladders_on_offer(self._studio)

    def ladder_title(self, ladder: Ladder) -> str:
        """What a ladder is called."""
        return ladder.title or ladder_name(ladder.id)

    def make_ladder(
        self, jig: Jig, *, from_bpm: float, to_bpm: float, n_rungs: int,
        tolerance_cents: tuple[float, float], rule: PassRule,
    ) -> Ladder:  # fmt: skip
        """Make a ladder of a jig and keep it.

        Raises
        ------
        JigwrightError
        """
        made = make_ladder(
            self._studio, jig, from_bpm=from_bpm, to_bpm=to_bpm, n_rungs=n_rungs,
            tolerance_cents=tolerance_cents, rule=rule,
        )  # fmt: skip
        self.changed.emit()
        return made

    def drop_ladder(self, ladder: Ladder) -> None:
        """Forget a ladder of one's own; its takes stay."""
        self._studio.remove_ladder(ladder.id)
        self.changed.emit()

    def start_rung(self, ladder: Ladder) -> Jig:
        """The jig of the rung to be worked on, kept in the studio.

        Raises
        ------
        JigwrightError
            If the instrument cannot play it.
        """
        return rung_to_work_on(self._studio, self._session.now, ladder, self.standing(ladder))

    # trends -------------------------------------------------------------------------------

    def trend_jigs(self) -> list[tuple[str, str]]:
        """Id and title of jigs with takes, most played first."""
        titles = {j.id: j.title for j in self._studio.jigs()}
        return [(j, titles.get(j, j)) for j in jigs_played(self.takes())]

    def trend_parts(self, jig_id: str) -> list[str]:
        """What a trend can be narrowed to: fingers, strings and notes of a jig."""
        return parts_of_jig(next((j for j in self._studio.jigs() if j.id == jig_id), None))

    def trend(self, jig_id: str, figure: str, part: str = "") -> list[TrendPoint]:
        """Values of a figure over the takes of a jig, of all notes or of one part of them."""
        return trend(self.takes(), self.summaries, jig_id, figure, part)

    def of_before(self, jig_id: str) -> int:
        """How many takes of a jig wait to be heard anew before they count."""
        return of_before(self.takes(), self.summaries, jig_id)

    def best(self, points: Sequence[TrendPoint], figure: str) -> TrendPoint | None:
        """The best take since input or instrument last changed; a bias has none."""
        return best_point(points, figure)

    def is_best_of_all(self, best: TrendPoint, points: Sequence[TrendPoint], figure: str) -> bool:
        """Whether no dot that is shown is better."""
        return is_best_of_all(best, points, figure)

    def flat(self, points: Sequence[TrendPoint]) -> bool:
        """Whether the newest uncut stretch stands still."""
        return is_flat(points)

    def change(self, points: Sequence[TrendPoint], *, n_parts: int = 0) -> ChangePoint | None:
        """The change the newest uncut stretch supports, of all figures and parts on offer."""
        looked_at = len(PART_FIGURES) * n_parts if n_parts else len(FIGURES)
        return change_in(points, looked_at=looked_at)

    # record -------------------------------------------------------------------------------

    def everything(self) -> str:
        """All that the studio knows as JSON, sound and curves left out."""
        return everything(self._studio, self.summary)

    def takes_table(self) -> str:
        """The present player's takes and their figures as CSV."""
        titles = {j.id: j.title for j in self._studio.jigs()}
        return takes_csv(
            [(t, titles.get(t.jig_id or "", ""), self.summary(t)) for t in self.takes()]
        )

    def days(self) -> list[Day]:
        """Days with takes or notes, newest first."""
        player = self._session.now.player
        if player is None:
            return []
        titles = {j.id: j.title for j in self._studio.jigs()}
        found = days_of(player, self.takes(), self._studio.day_notes(player.id), titles, today())
        return with_warm_up(found, self.routine(), self.takes(), titles)

    def report(self, first: str, last: str) -> PracticeReport:
        """What a report about some days says."""
        titles = {j.id: j.title for j in self._studio.jigs()}
        player = self._session.now.player
        work = () if player is None else work_rows(self._studio, player.id, self._progress)
        return make_report(
            self.days(), self.takes(), titles, self._reader,
            lambda jig_id: self.trend(jig_id, FIGURE), first=first, last=last, work=work,
            instruments={i.id: i.name or kind_name(i.kind) for i in self._studio.instruments()},
        )  # fmt: skip

    def _progress(self, work: SetWork) -> Progress:
        return progress_on(self._studio, work, today(), self.summaries.now, self._reader.jig_of)

    def write_note(self, note: DayNote) -> None:
        """Keep what was written about a day."""
        try:
            self._studio.set_day_note(note)
        except JigwrightError as error:
            self.message.emit(error_sentence(error))
            return
        self.changed.emit()
