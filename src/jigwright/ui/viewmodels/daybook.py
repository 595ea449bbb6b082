"""The Daybook's state: the plan of today, ladders, trends, the record of days."""

from __future__ import annotations

import contextlib
import json
import uuid
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import UTC, date, datetime, timedelta

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import isolated
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.ladder import (
    READY_MADE,
    Ladder,
    PassRule,
    Standing,
    own_ladder,
    own_rung_jig,
    rung_jig,
    rung_jig_id,
    standing,
)
from jigwright.core.judge.plan import Candidate, PlanItem, School, lay_out, part_of
from jigwright.core.judge.playing import timing_of
from jigwright.core.judge.summary import (
    SUMMARY_VERSION,
    TakeSummary,
    is_good,
    summarise,
    with_playing,
)
from jigwright.core.judge.trend import ChangePoint, find_change, stands_still
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.sound.heard import METHOD_VERSION
from jigwright.services.dayexport import studio_json, takes_csv
from jigwright.services.moments import utc_now
from jigwright.services.records import DayNote, TakeRecord
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.wording.daybook import ladder_name, rung_name
from jigwright.wording.makers import jig_title

_CHUNK = 6
_USUAL_MINUTES = 45
_OFFERED = (
    ("bow", "long_bows"), ("pitch", "drone_scale"), ("two_strings", "over_open"),
    ("stroke", "clean_starts"), ("passage", "echo"),
)  # fmt: skip
FIGURES = (
    "off_cents", "spread_cents", "inside", "bias_cents", "uneven_time", "uneven_level_db",
    "unsteady_down_db", "unsteady_up_db",
)  # fmt: skip
PART_FIGURES = ("off_cents", "spread_cents", "inside", "bias_cents")


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendPoint:
    """One take of a trend.

    Parameters
    ----------
    take_id : str
    day : str
    value : float
    cut_before : bool
        Another input or instrument begins here: nothing is compared across.
    """

    take_id: str
    day: str
    value: float
    cut_before: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """A day in the record.

    Parameters
    ----------
    day : str
    n_takes : int
    seconds : float
        Of sound recorded.
    jigs : tuple of str
        Titles.
    note : DayNote
    """

    day: str
    n_takes: int
    seconds: float
    jigs: tuple[str, ...]
    note: DayNote


class DaybookModel(QObject):
    """Reads the studio; summaries are made in small portions and kept.

    Signals
    -------
    changed
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(self, desk: DeskModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._desk = desk
        self._summaries: dict[str, TakeSummary] = {}
        self._waiting: list[TakeRecord] = []
        self._jigs: dict[tuple[str, int], Jig] = {}
        self._ready: dict[str, Jig] = {}
        self._methods: dict[str, int] = {}
        self._takes: tuple[object, tuple[TakeRecord, ...]] = (None, ())
        self._parts: dict[tuple[str, str], TakeSummary] = {}
        self._stored: dict[str, tuple[str, str]] | None = None
        self.minutes = _USUAL_MINUTES
        self.school: School = "foundation"
        self.theme = ""
        self.items: list[PlanItem] = []
        self.done: set[int] = set()
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._portion)

    # summaries ----------------------------------------------------------------------------

    @property
    def busy(self) -> bool:
        """Whether summaries are still being made."""
        return bool(self._waiting)

    def load(self) -> None:
        """Read settings and stored summaries; begin to make those that are missing."""
        studio = self._desk.studio
        minutes = studio.setting("plan_minutes")
        known = minutes.isdecimal() and 1 <= int(minutes) <= 24 * 60
        self.minutes = int(minutes) if known else _USUAL_MINUTES
        rotating = studio.setting("plan_school") == "rotating"
        self.school = "rotating" if rotating else "foundation"
        self.theme = studio.setting("plan_theme")[:200]
        self._stored = stored = studio.summaries()
        methods = studio.methods()
        if methods != self._methods:
            changed = {t for t, m in methods.items() if self._methods.get(t) != m}
            self._summaries = {t: s for t, s in self._summaries.items() if t not in changed}
            self._methods = methods
            self._parts.clear()
        self._waiting = []
        for take in self.takes():
            inputs, body = stored.get(take.id, ("", ""))
            if take.id in self._summaries:
                continue
            if inputs == self._inputs(take):
                try:
                    self._summaries[take.id] = TakeSummary(**json.loads(body))
                    continue
                except (ValueError, TypeError):
                    pass
            self._waiting.append(take)
        if not self.items:
            self.plan()
        if self._waiting:
            self._timer.start()
        self.changed.emit()

    def close_down(self) -> None:
        """Stop waiting work."""
        self._timer.stop()

    def _portion(self) -> None:
        part, self._waiting = self._waiting[:_CHUNK], self._waiting[_CHUNK:]
        rows: dict[str, tuple[str, str]] = {}
        for take in part:
            summary = self._summarise(take)
            self._summaries[take.id] = summary
            rows[take.id] = (self._inputs(take), json.dumps(asdict(summary)))
        if rows and not self._desk.studio.read_only:
            self._desk.studio.keep_summaries(rows)
        if not self._waiting:
            self._timer.stop()
            if not self.done:
                self.plan()
            self.changed.emit()

    def _inputs(self, take: TakeRecord) -> str:
        """What a summary depends on."""
        return f"{_inputs(take)}|{self._methods.get(take.id, 0)}"

    def _summarise(self, take: TakeRecord) -> TakeSummary:
        return isolated("summary", lambda: self._made_summary(take), summarise(()))

    def _made_summary(self, take: TakeRecord) -> TakeSummary:
        reader = self._desk.reader
        notes, strokes = reader.landings(take), reader.strokes(take)
        timing = timing_of([n.measured for n in notes], reader.jig_of(take))
        return with_playing(summarise(notes), timing, strokes)

    def trend_parts(self, jig_id: str) -> list[str]:
        """What a trend can be narrowed to: fingers, strings and notes of a jig."""
        jig = next((j for j in self._desk.studio.jigs() if j.id == jig_id), None)
        heads = [h for e in jig.events for h in e.heads] if jig is not None else []
        fingers = sorted({h.finger for h in heads if h.finger is not None})
        strings = sorted({h.string for h in heads if h.string is not None})
        pitches = sorted({h.pitch for h in heads}, key=lambda p: p.midi)
        return [
            *(f"finger:{f}" for f in fingers), *(f"string:{s}" for s in strings),
            *(f"note:{p}" for p in pitches),
        ]  # fmt: skip

    def _part_summary(self, take: TakeRecord, part: str) -> TakeSummary:
        key = (take.id, part)
        if key not in self._parts:
            kind, _, which = part.partition(":")
            notes = [
                n for n in self._desk.landings(take, as_played=True)
                if (kind == "finger" and str(n.finger) == which)
                or (kind == "string" and str(n.string) == which)
                or (kind == "note" and str(n.pitch) == which)
            ]  # fmt: skip
            self._parts[key] = summarise(notes)
        return self._parts[key]

    def takes(self) -> tuple[TakeRecord, ...]:
        """Takes of the present player, oldest first."""
        player = self._desk.player
        if player is None:
            return ()
        key = (player.id, self._desk.studio.stamp)
        if self._takes[0] != key:
            self._takes = (key, self._desk.studio.takes(player_id=player.id))
        return self._takes[1]

    def summary(self, take_id: str) -> TakeSummary | None:
        """Figures of a take, when they are made."""
        return self._summaries.get(take_id)

    def summary_now(self, take: TakeRecord) -> TakeSummary | None:
        """Figures of any player's take, made when they are not there."""
        found = self._known_summary(take)
        if found is None:
            found = self._summaries[take.id] = self._summarise(take)
        return found

    def _known_summary(self, take: TakeRecord) -> TakeSummary | None:
        """Figures of any player's take as far as they were ever made."""
        if take.id not in self._summaries:
            if not self._methods:
                self._methods = self._desk.studio.methods()
            if self._stored is None:
                self._stored = self._desk.studio.summaries()
            inputs, body = self._stored.get(take.id, ("", ""))
            if inputs == self._inputs(take):
                with contextlib.suppress(ValueError, TypeError):
                    self._summaries[take.id] = TakeSummary(**json.loads(body))
        return self._summaries.get(take.id)

    # today --------------------------------------------------------------------------------

    def set_plan(
        self, *, minutes: int | None = None, school: School | None = None, theme: str | None = None
    ) -> None:
        """Change what the plan is made from."""
        self.minutes = minutes if minutes is not None else self.minutes
        self.school = school or self.school
        self.theme = theme if theme is not None else self.theme
        if not self._desk.studio.read_only:
            studio = self._desk.studio
            studio.set_setting("plan_minutes", str(self.minutes))
            studio.set_setting("plan_school", self.school)
            studio.set_setting("plan_theme", self.theme)
        self.plan()

    def plan(self) -> None:
        """Lay the session out anew."""
        last: dict[str, TakeRecord] = {}
        for take in self.takes():
            if take.jig_id is not None:
                last[take.jig_id] = take
        words = [w for w in self.theme.lower().split() if len(w) > 2]
        kind = self._desk.owned.kind if self._desk.owned else "violin"
        me = self._desk.player.id if self._desk.player is not None else ""
        works = self._desk.studio.works()
        wanted = {w.jig_id for w in works if w.player_id == me and not w.closed}
        candidates = []
        for jig in self._desk.studio.jigs():
            if jig.instrument_id != kind:
                continue
            played = last.get(jig.id)
            summary = self._summaries.get(played.id) if played is not None else None
            candidates.append(
                Candidate(
                    jig=jig, last_day=_day(played).toordinal() if played is not None else None,
                    inside=summary.inside if summary is not None else None,
                    theme=any(w in jig.title.lower() for w in words), due=jig.id in wanted,
                )
            )  # fmt: skip
        candidates += self._offered(candidates, kind)
        self.items = list(
            lay_out(self.minutes, candidates, school=self.school, today=_today().toordinal())
        )
        self.done = set()
        self.changed.emit()

    def _offered(self, candidates: Sequence[Candidate], kind: str) -> list[Candidate]:
        """Ready exercises for parts of a session that no jig of the studio fills."""
        there = {part_of(c.jig) for c in candidates}
        found = []
        for part, maker_id in _OFFERED:
            if part in there:
                continue
            one = maker(maker_id)
            tonic = self.tonic()
            setting = Setting(
                instrument_id=kind, key=Key(PitchClass.parse(tonic)),
                jig_id=f"plan-{maker_id}-{kind}-{tonic}",
            )  # fmt: skip
            try:
                made = one.make(replace(setting, title=jig_title(one, setting)))
            except JigwrightError:
                continue
            self._ready[made.id] = made
            found.append(Candidate(jig=made, last_day=None, inside=None))
        return found

    def move(self, i: int, by: int) -> None:
        """Move an item of the plan."""
        j = i + by
        if 0 <= i < len(self.items) and 0 <= j < len(self.items):
            self.items[i], self.items[j] = self.items[j], self.items[i]
            self.changed.emit()

    def remove(self, i: int) -> None:
        """Take an item out of the plan."""
        if 0 <= i < len(self.items):
            del self.items[i]
            self.changed.emit()

    def stretch(self, i: int, by: int) -> None:
        """Give an item more or less time."""
        if 0 <= i < len(self.items):
            item = self.items[i]
            self.items[i] = replace(item, minutes=max(1, item.minutes + by))
            self.changed.emit()

    def next_item(self) -> int | None:
        """The first item that is not done."""
        return next((i for i in range(len(self.items)) if i not in self.done), None)

    def finish(self, i: int) -> None:
        """Mark an item as done."""
        self.done.add(i)
        self.changed.emit()

    def planned_jig(self, item: PlanItem) -> Jig | None:
        """The jig an item would work on; nothing is kept yet."""
        kept = next((j for j in self._desk.studio.jigs() if j.id == item.jig_id), None)
        return kept or self._ready.get(item.jig_id or "")

    def jig_of(self, item: PlanItem) -> Jig | None:
        """The jig an item works on, kept from now on."""
        kept = next((j for j in self._desk.studio.jigs() if j.id == item.jig_id), None)
        if kept is None and item.jig_id in self._ready and not self._desk.studio.read_only:
            self._desk.studio.add_jig(self._ready[item.jig_id], utc=utc_now())
            return self._ready[item.jig_id]
        return kept

    # ladders ------------------------------------------------------------------------------

    def tonic(self) -> str:
        """The tonic ladders stand on: that of the present jig."""
        return str(self._desk.jig.key.tonic) if self._desk.jig else "D"

    def standing(self, ladder: Ladder) -> Standing:
        """Where the player stands on a ladder."""
        kind, tonic = self._climbed_with(ladder)
        ids = {rung_jig_id(ladder, i, kind, tonic): i for i in range(len(ladder.rungs))}
        walked = []
        for take in self.takes():
            rung = ids.get(take.jig_id or "")
            summary = self._summaries.get(take.id)
            if rung is None or summary is None:
                continue
            walked.append((rung, is_good(summary, self._jig(take))))
        return standing(ladder, walked)

    def ladders(self) -> Sequence[Ladder]:
        """Ladders on offer: one's own first."""
        return (*self._desk.studio.ladders(), *READY_MADE)

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
        made = own_ladder(
            f"own-{uuid.uuid4().hex[:8]}", jig, from_bpm=from_bpm, to_bpm=to_bpm, n_rungs=n_rungs,
            tolerance_cents=tolerance_cents, rule=rule,
        )  # fmt: skip
        self._desk.studio.set_ladder(made)
        self.changed.emit()
        return made

    def drop_ladder(self, ladder: Ladder) -> None:
        """Forget a ladder of one's own; its takes stay."""
        self._desk.studio.remove_ladder(ladder.id)
        self.changed.emit()

    def start_rung(self, ladder: Ladder) -> Jig:
        """The jig of the rung to be worked on, kept in the studio.

        Raises
        ------
        JigwrightError
            If the instrument cannot play it.
        """
        where = self.standing(ladder)
        i = min(where.rung, len(ladder.rungs) - 1)
        kind, tonic = self._climbed_with(ladder)
        if ladder.jig is not None:
            source = self._desk.studio.jig(*ladder.jig)
            return self._kept_jig(own_rung_jig(ladder, i, source, instrument_id=kind, tonic=tonic))
        title = f"{ladder_name(ladder.id)}: {rung_name(ladder.rungs[i])}"
        jig = rung_jig(ladder, i, instrument_id=kind, tonic=tonic, title=title)
        return self._kept_jig(jig)

    def _climbed_with(self, ladder: Ladder) -> tuple[str, str]:
        """Instrument and tonic of a ladder's rungs; one's own ladders bring theirs along."""
        if ladder.jig is not None:
            source = self._desk.studio.jig(*ladder.jig)
            return source.instrument_id, str(source.key.tonic)
        return self._desk.owned.kind if self._desk.owned else "violin", self.tonic()

    def _kept_jig(self, jig: Jig) -> Jig:
        known = {j.id for j in self._desk.studio.jigs()}
        if jig.id not in known:
            self._desk.studio.add_jig(jig, utc=utc_now())
        return next(j for j in self._desk.studio.jigs() if j.id == jig.id)

    def judged_of(self, take: TakeRecord) -> Judged | None:
        """A take judged whole, for the report."""
        return self._desk.judged_of(take)

    def strings_of(self, take: TakeRecord) -> tuple[Pitch, ...]:
        """Strings of the instrument a take was played on."""
        return self._desk.context(take).strings

    # trends -------------------------------------------------------------------------------

    def trend_jigs(self) -> list[tuple[str, str]]:
        """Id and title of jigs with takes, most played first."""
        count: dict[str, int] = {}
        for take in self.takes():
            if take.jig_id is not None:
                count[take.jig_id] = count.get(take.jig_id, 0) + 1
        titles = {j.id: j.title for j in self._desk.studio.jigs()}
        return [
            (jig_id, titles.get(jig_id, jig_id))
            for jig_id in sorted(count, key=lambda j: -count[j])
        ]

    def trend(self, jig_id: str, figure: str, part: str = "") -> list[TrendPoint]:
        """Values of a figure over the takes of a jig, of all notes or of one part of them."""
        points: list[TrendPoint] = []
        before: TakeRecord | None = None
        for take in self.takes():
            if take.jig_id != jig_id:
                continue
            summary = self._summaries.get(take.id)
            if part and summary is not None:
                summary = self._part_summary(take, part)
            value = getattr(summary, figure) if summary is not None else None
            if value is None or self._methods.get(take.id) != METHOD_VERSION:
                continue  # what an older method heard is not compared with what this one hears
            other = before is not None and (
                before.input_name != take.input_name or before.instrument_id != take.instrument_id
            )
            points.append(
                TrendPoint(
                    take_id=take.id, day=_day(take).isoformat(),
                    value=100.0 * value if figure == "inside" else float(value), cut_before=other,
                )
            )  # fmt: skip
            before = take
        return points

    @staticmethod
    def best(points: Sequence[TrendPoint], figure: str) -> TrendPoint | None:
        """The best take since input or instrument last changed; a bias has none."""
        if not points or figure == "bias_cents":
            return None
        first = max((i for i, p in enumerate(points) if p.cut_before), default=0)
        return (max if figure == "inside" else min)(points[first:], key=lambda p: p.value)

    @staticmethod
    def flat(points: Sequence[TrendPoint]) -> bool:
        """Whether the newest uncut stretch stands still."""
        first = max((i for i, p in enumerate(points) if p.cut_before), default=0)
        return stands_still([p.value for p in points[first:]])

    def change(self, points: Sequence[TrendPoint]) -> ChangePoint | None:
        """The change the newest uncut stretch supports."""
        first = max((i for i, p in enumerate(points) if p.cut_before), default=0)
        found = find_change([p.value for p in points[first:]])
        return None if found is None else replace(found, at=found.at + first)

    # record -------------------------------------------------------------------------------

    def everything(self) -> str:
        """All that the studio knows as JSON, sound and curves left out."""
        studio = self._desk.studio
        takes = [*studio.takes(), *studio.takes(binned=True)]
        rows = [(t, self._known_summary(t), studio.remarks(t.id)) for t in takes]
        players = studio.players()
        return studio_json(
            players, studio.instruments(), studio.jigs(), rows, studio.works(),
            [note for p in players for note in studio.day_notes(p.id)],
        )  # fmt: skip

    def takes_table(self) -> str:
        """The present player's takes and their figures as CSV."""
        titles = {j.id: j.title for j in self._desk.studio.jigs()}
        return takes_csv(
            [(t, titles.get(t.jig_id or "", ""), self._summaries.get(t.id)) for t in self.takes()]
        )

    def days(self) -> list[Day]:
        """Days with takes or notes, newest first."""
        player = self._desk.player
        if player is None:
            return []
        notes = {n.day: n for n in self._desk.studio.day_notes(player.id)}
        takes: dict[str, list[TakeRecord]] = {}
        for take in self.takes():
            takes.setdefault(_day(take).isoformat(), []).append(take)
        titles = {j.id: j.title for j in self._desk.studio.jigs()}
        today = _today().isoformat()
        return [
            Day(
                day=day, n_takes=len(takes.get(day, ())),
                seconds=sum(t.duration_s for t in takes.get(day, ())),
                jigs=tuple(
                    dict.fromkeys(titles.get(t.jig_id or "", "") for t in takes.get(day, ()))
                ),
                note=notes.get(day, DayNote(player_id=player.id, day=day)),
            )
            for day in sorted({*notes, *takes, today}, reverse=True)
        ]  # fmt: skip

    def write_note(self, note: DayNote) -> None:
        """Keep what was written about a day."""
        try:
            self._desk.studio.set_day_note(note)
        except JigwrightError as error:
            from jigwright.wording.errors import error_sentence

            self.message.emit(error_sentence(error))
            return
        self.changed.emit()

    def _jig(self, take: TakeRecord) -> Jig | None:
        if take.jig_id is None or take.jig_revision is None:
            return None
        key = (take.jig_id, take.jig_revision)
        if key not in self._jigs:
            self._jigs[key] = self._desk.studio.jig(*key)
        return self._jigs[key]


def _today() -> date:
    return datetime.now(UTC).astimezone().date()


def _day(take: TakeRecord) -> date:
    moment = datetime.fromisoformat(take.recorded_utc).astimezone(UTC)
    return (moment + timedelta(minutes=take.utc_offset_min)).date()


def _inputs(take: TakeRecord) -> str:
    """What a summary depends on."""
    return (
        f"{SUMMARY_VERSION}|{take.sha256[:16]}|{take.a4_hz:g}|{take.reference}|"
        f"{take.tolerance_cents:g}"
    )
