"""Many players in one studio: who played when, what is set, and the exchange by folder (L5)."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.judge.summary import is_good
from jigwright.core.judge.work import Progress, SetWork, progress_of
from jigwright.services.exchange.workfile import WorkFile, write_work
from jigwright.services.moments import today as today_here
from jigwright.services.moments import utc_now
from jigwright.services.records import Player
from jigwright.ui.tasks import JobRunner
from jigwright.ui.viewmodels.daybook import DaybookModel
from jigwright.ui.viewmodels.desk import DeskModel
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence

WEEK_DAYS = 7


@dataclass(frozen=True, slots=True, kw_only=True)
class PupilRow:
    """One player at a glance.

    Parameters
    ----------
    player : Player
    days_ago : int or None
        Since the last take.
    minutes : float
        Sound of the last seven days.
    n_takes : int
        In the last seven days.
    n_open : int
        Work that is not done.
    next_days_left : int or None
        To the nearest day something is due.
    """

    player: Player
    days_ago: int | None
    minutes: float
    n_takes: int
    n_open: int
    next_days_left: int | None


class PupilsModel(QObject):
    """Reads takes once for all players; keeps set work.

    Signals
    -------
    changed
    message : str
    """

    changed = pyqtSignal()
    message = pyqtSignal(str)

    def __init__(
        self, desk: DeskModel, daybook: DaybookModel, jobs: JobRunner, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._desk, self._daybook, self._jobs = desk, daybook, jobs

    def rows(self, today: date | None = None) -> tuple[PupilRow, ...]:
        """All players, those with something due first."""
        today = today or today_here()
        since = (today - timedelta(days=WEEK_DAYS - 1)).isoformat()
        activity = self._desk.studio.activity(since)
        works: dict[str, list[SetWork]] = {}
        for work in self._desk.studio.works():
            if not work.closed:
                works.setdefault(work.player_id, []).append(work)
        rows = []
        for player in self._desk.studio.players():
            last_day, n_takes, seconds = activity.get(player.id, ("", 0, 0.0))
            still = [
                p for w in works.get(player.id, [])
                if (p := self._progress(w, today)).state != "done"
            ]  # fmt: skip
            last = date.fromisoformat(last_day) if last_day else None
            rows.append(
                PupilRow(
                    player=player, days_ago=None if last is None else max(0, (today - last).days),
                    minutes=seconds / 60.0, n_takes=n_takes,
                    n_open=len(still),
                    next_days_left=min((p.days_left for p in still), default=None),
                )
            )  # fmt: skip
        far = 10_000
        return tuple(
            sorted(rows, key=lambda r: far if r.next_days_left is None else r.next_days_left)
        )

    def work_of(
        self, player_id: str, today: date | None = None
    ) -> tuple[tuple[SetWork, Progress, str], ...]:
        """Set work of a player with its progress and the jig's title."""
        today = today or today_here()
        titles = {j.id: j.title for j in self._desk.studio.jigs()}
        return tuple(
            (w, self._progress(w, today), titles.get(w.jig_id, w.jig_id))
            for w in self._desk.studio.works()
            if w.player_id == player_id
        )

    def open_work_of_player(self) -> tuple[tuple[SetWork, Progress, str], ...]:
        """What the present player still has to do."""
        player = self._desk.player
        if player is None:
            return ()
        return tuple(row for row in self.work_of(player.id) if row[1].state != "done")

    def set_work(
        self, player_id: str, jig: Jig, *, due: date, good_takes: int, words: str, who: str
    ) -> SetWork:
        """Set a jig until a day.

        Raises
        ------
        JigwrightError
            If it cannot be kept.
        """
        work = SetWork(
            id=f"work-{uuid.uuid4().hex[:12]}", player_id=player_id, jig_id=jig.id,
            jig_revision=jig.revision, words=words.strip()[:500], due=due.isoformat(),
            good_takes=good_takes, who=who.strip()[:80], set_utc=utc_now(),
        )  # fmt: skip
        self._desk.studio.set_work(work)
        self.changed.emit()
        return work

    def close(self, work: SetWork) -> None:
        """Put work away, or take it out again."""
        self._desk.studio.set_work(replace(work, closed=not work.closed))
        self.changed.emit()

    def remove(self, work: SetWork) -> None:
        """Take work back."""
        self._desk.studio.remove_work(work.id)
        self.changed.emit()

    def give(self, work: SetWork, path: Path) -> None:
        """Write work as a file for the pupil.

        Raises
        ------
        JigwrightError, OSError
        """
        jig = self._desk.studio.jig(work.jig_id, work.jig_revision)
        name = next((p.name for p in self._desk.studio.players() if p.id == work.player_id), "")
        write_work(path, work, jig, name)

    def take_in(self, path: Path) -> None:
        """Bring in work that a teacher gave."""

        def done(found: WorkFile) -> None:
            try:
                self.message.emit(self._keep(found))
            except JigwrightError as error:
                self.message.emit(error_sentence(error))
            self.changed.emit()

        def failed(error: Exception) -> None:
            why = error_sentence(error)
            self.message.emit(
                tr("{name} could not be brought in. {why}").format(name=path.name, why=why)
            )

        self._jobs.run("read_work", path, done=done, failed=failed)

    def _keep(self, found: WorkFile) -> str:
        studio = self._desk.studio
        if any(w.id == found.work.id for w in studio.works()):
            return tr("This work is here already.")
        players = {p.id: p for p in studio.players()}
        player = players.get(found.work.player_id) or self._desk.player
        if player is None:
            return tr("There is no player yet to set it for.")
        there = [j for j in studio.jigs() if j.id == found.jig.id]
        if not any(j.revision >= found.jig.revision for j in there):
            studio.add_jig(found.jig, utc=utc_now())
        studio.set_work(replace(found.work, player_id=player.id))
        return tr("{title} is set for {name} until {due}. It is part of today's plan.").format(
            title=found.jig.title, name=player.name, due=found.work.due
        )

    # exchange folder ----------------------------------------------------------------------

    @property
    def folder(self) -> Path | None:
        """The folder through which files are exchanged; any folder that both sides see."""
        text = self._desk.studio.setting("exchange_folder")
        return Path(text) if text else None

    def choose_folder(self, folder: Path) -> None:
        """Exchange through another folder."""
        self._desk.studio.set_setting("exchange_folder", str(folder))
        self.changed.emit()

    def new_files(self) -> tuple[Path, ...]:
        """Files in the folder that were not brought in or written by this studio.

        Raises
        ------
        OSError
            If the folder cannot be read.
        """
        if self.folder is None:
            return ()
        seen = self._desk.studio.seen_files()
        return tuple(
            p for p in sorted(self.folder.iterdir())
            if p.name.endswith((".take.zip", ".work.zip")) and _mark(p) not in seen
        )  # fmt: skip

    def fetch(self, bring_in: Callable[[Path], None]) -> int:
        """Bring in what is new in the folder; takes go to ``bring_in``. Returns how many.

        Raises
        ------
        OSError
        """
        found = self.new_files()
        for path in found:
            self.mark_seen(path)
            if path.name.endswith(".work.zip"):
                self.take_in(path)
            else:
                bring_in(path)
        return len(found)

    def mark_seen(self, path: Path) -> None:
        """Remember a file of the folder."""
        self._desk.studio.add_seen_file(_mark(path))

    def _progress(self, work: SetWork, today: date) -> Progress:
        jig = None
        takes = []
        for take in self._desk.studio.takes(jig_id=work.jig_id, player_id=work.player_id):
            if take.recorded_utc < work.set_utc:
                continue
            jig = jig or self._desk.jig_of(take)
            summary = self._daybook.summary_now(take)
            takes.append((take.recorded_utc, summary is not None and is_good(summary, jig)))
        return progress_of(work, takes, (date.fromisoformat(work.due) - today).days)


def _mark(path: Path) -> str:
    """Name and size: a file that was still being copied is another one when it is whole."""
    return f"{path.name}:{path.stat().st_size}"
