"""The record of days: what was played, a word for the sound, notes, what is next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, timedelta
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from jigwright.core.errors import JigwrightError
from jigwright.services.day_record import Day
from jigwright.services.dayexport import DayRow, days_csv, days_ics, days_json
from jigwright.services.notation import Engraved
from jigwright.services.records import DayNote
from jigwright.services.studio_port import StudioPort
from jigwright.ui.report import notes_request, write_report
from jigwright.ui.tasks import JobRunner
from jigwright.ui.theme import sans
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.widgets.day_takes import DayTake, DayTakes
from jigwright.ui.widgets.labels import label, push_button
from jigwright.ui.widgets.season_view import SeasonView
from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import day_name, liking_name
from jigwright.wording.errors import error_sentence


class RecordPage(QWidget):
    """Days on the left, what was written about one on the right.

    Signals
    -------
    message : str
    """

    message = pyqtSignal(str)

    def __init__(
        self, model: DaybookModel, studio: StudioPort, session: SessionModel, jobs: JobRunner
    ) -> None:
        super().__init__()
        self._jobs = jobs
        self.model, self._studio, self._session = model, studio, session
        self._day: Day | None = None
        self._build()

    def _button(self, text: str, run: Callable[[], object], *, first: bool = False) -> QPushButton:
        return push_button(text, lambda: self._safely(run), first=first)

    def _safely(self, run: Callable[[], object]) -> None:
        try:
            run()
        except (JigwrightError, OSError) as error:
            self.message.emit(error_sentence(error))

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(14)
        self.season = SeasonView()
        self.season.week.connect(self._week_pressed)
        column.addWidget(self.season)
        row = QHBoxLayout()
        row.setSpacing(24)
        column.addLayout(row, 1)
        left = QVBoxLayout()
        self._search = QLineEdit()
        self._search.setPlaceholderText(tr("search in days, jigs and notes"))
        self._search.textChanged.connect(self.refresh)
        left.addWidget(self._search)
        self._days = QListWidget()
        self._days.setFont(sans(14))
        self._days.setAccessibleName(tr("Days"))
        self._days.currentRowChanged.connect(self._day_chosen)
        left.addWidget(self._days, 1)
        row.addLayout(left, 4)
        right = QVBoxLayout()
        right.setSpacing(5)
        self._day_title = label("", px=24, old_style=True)
        self._day_about = label("", px=14, second=True)
        self._word, self._liking = QLineEdit(), QComboBox()
        self._liking.addItem(tr("no liking given"), 0)
        for n in range(1, 6):
            self._liking.addItem(liking_name(n), n)
        self._notes, self._next = QPlainTextEdit(), QPlainTextEdit()
        right.addWidget(self._day_title)
        right.addWidget(self._day_about)
        self.takes = DayTakes()
        right.addWidget(self.takes)
        line = QHBoxLayout()
        for name, widget in (
            (tr("A word for the sound"), self._word), (tr("How it was"), self._liking)
        ):  # fmt: skip
            line.addWidget(label(name, px=13, second=True, wrap=False))
            widget.setAccessibleName(name)
            line.addWidget(widget, 1)
        right.addLayout(line)
        for name, text in ((tr("Notes of the day"), self._notes), (tr("Next time"), self._next)):
            right.addWidget(label(name, px=13, second=True, wrap=False))
            text.setAccessibleName(name)
            text.setMinimumHeight(52)
            right.addWidget(text, 1)
        buttons = QHBoxLayout()
        buttons.addWidget(self._button(tr("Keep"), self.keep_note, first=True))
        buttons.addWidget(self._button(tr("Report as PDF …"), self._choose_report))
        buttons.addWidget(self._button(tr("Export all days …"), self._choose_export))
        buttons.addWidget(self._button(tr("Export everything …"), self._choose_everything))
        buttons.addStretch(1)
        right.addLayout(buttons)
        row.addLayout(right, 7)

    def refresh(self) -> None:
        """Show the days anew."""
        first, rows = self.model.season()
        self.season.show_season(rows, self.model.titles(), first)
        wanted = self._search.text().strip().lower()
        chosen = self._day.day if self._day is not None else None
        self._days.blockSignals(True)
        self._days.clear()
        at = 0
        for day in self.model.days():
            text = day_name(day.day)
            minutes = round(day.seconds / 60)
            about = trn("{n} take", "{n} takes", day.n_takes).format(n=day.n_takes)
            if day.n_takes:
                length = (
                    tr("{n} min").format(n=minutes)
                    if day.seconds >= 60
                    else tr("{n} s").format(n=round(day.seconds))
                )
                about += ", " + tr("{length} of sound").format(length=length)
            body = " ".join((text, *day.jigs, day.note.word, day.note.notes, day.note.next_time))
            if wanted and wanted not in body.lower():
                continue
            mark = f"  “{day.note.word}”" if day.note.word else ""
            item = QListWidgetItem(f"{text}{mark}\n{about}")
            item.setData(Qt.ItemDataRole.UserRole, day)
            self._days.addItem(item)
            if day.day == chosen:
                at = self._days.count() - 1
        self._days.blockSignals(False)
        if self._days.count():
            self._days.setCurrentRow(at)
            self._day_chosen(at)
        else:
            self._day_title.setText(tr("Nothing found"))

    def _week_pressed(self, monday: date) -> None:
        """Go to the last day of a week about which there is something."""
        for row in range(self._days.count()):
            item = self._days.item(row)
            day = "" if item is None else item.data(Qt.ItemDataRole.UserRole).day
            if monday.isoformat() <= day < (monday + timedelta(days=7)).isoformat():
                self._days.setCurrentRow(row)
                return
        self.message.emit(tr("Nothing was recorded in that week."))

    def _calendar(self, rows: Sequence[DayRow]) -> str:
        """Days, and what is set for the player."""
        me = self._session.now.player.id if self._session.now.player else ""
        titles = {j.id: j.title for j in self._studio.jigs()}
        due = [
            (w, titles.get(w.jig_id, w.jig_id)) for w in self._studio.works() if w.player_id == me
        ]
        return days_ics(rows, due)

    def _day_chosen(self, row: int) -> None:
        item = self._days.item(row)
        if item is None:
            return
        day: Day = item.data(Qt.ItemDataRole.UserRole)
        self._day = day
        self._day_title.setText(day_name(day.day))
        self._day_about.setText(" · ".join(j for j in day.jigs if j) or tr("Nothing was recorded."))
        self._show_takes(day.day)
        self._word.setText(day.note.word)
        self._liking.setCurrentIndex(max(0, self._liking.findData(day.note.liking)))
        self._notes.setPlainText(day.note.notes)
        self._next.setPlainText(day.note.next_time)

    def _show_takes(self, day: str) -> None:
        """What was played on it, each with its print."""
        player, titles = self._session.now.player, self.model.titles()
        takes = () if player is None else self._studio.takes(player_id=player.id)
        self.takes.show_takes(
            [
                DayTake(
                    take_id=t.id, title=titles.get(t.jig_id or "", tr("Free playing")),
                    when=t.time_of_day, notes=self.model.notes(t),
                )
                for t in takes
                if t.is_own and t.day.isoformat() == day
            ]
        )  # fmt: skip

    def keep_note(self) -> None:
        """Keep what is written about the chosen day."""
        if self._day is None:
            return
        note = DayNote(
            player_id=self._day.note.player_id, day=self._day.day,
            word=self._word.text().strip()[:80], liking=int(self._liking.currentData() or 0),
            notes=self._notes.toPlainText().strip()[:4000],
            next_time=self._next.toPlainText().strip()[:4000],
        )  # fmt: skip
        self.model.write_note(note)
        self.message.emit(tr("Kept."))

    def _choose_report(self) -> None:
        spans = {
            tr("the chosen day"): 1, tr("the week up to it"): 7, tr("four weeks up to it"): 28,
            tr("everything up to it"): 0,
        }  # fmt: skip
        span, ok = QInputDialog.getItem(
            self, tr("Report as PDF"), tr("What is it about?"), list(spans), 1, editable=False
        )
        if not ok:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Report as PDF"), tr("report") + ".pdf", "PDF (*.pdf)"
        )
        if name:
            self.report(Path(name), n_days=spans[span])

    def report(self, path: Path, *, n_days: int = 0) -> None:
        """Write one page about a lesson or a span of days; 0 days: all of them."""
        player = self._session.now.player.name if self._session.now.player else ""
        last = self._day.day if self._day is not None else "9999-12-31"
        first = ""
        if n_days and self._day is not None:
            begin = date.fromisoformat(last) - timedelta(days=n_days - 1)
            first = begin.isoformat()
        report = self.model.report(first, last)

        def write(engraved: Engraved | None) -> None:
            def run() -> None:
                write_report(report, player, path, engraved)
                self.message.emit(tr("Saved as {name}.").format(name=path.name))

            self._safely(run)

        request = notes_request(report)
        if request is None:
            write(None)
            return
        self._jobs.run("engrave", request, done=write, failed=lambda _: write(None))

    def _choose_everything(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Export everything"), tr("studio") + ".json", tr("Tables") + " (*.json *.csv)"
        )
        if name:
            self.export_everything(Path(name))

    def export_everything(self, path: Path) -> None:
        """Write all that is known as JSON, or this player's takes with their figures as CSV."""
        table = path.suffix.lower() == ".csv"
        text = self.model.takes_table() if table else self.model.everything()
        part = path.with_name(f".{path.name}.part")
        part.write_text(text, encoding="utf-8")
        part.replace(path)
        self.message.emit(tr("Saved as {name}.").format(name=path.name))

    def _choose_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, tr("Export all days"), tr("days") + ".csv",
            tr("Tables and calendars") + " (*.csv *.json *.ics)",
        )  # fmt: skip
        if name:
            self.export(Path(name))

    def export(self, path: Path) -> None:
        """Write all days as CSV, JSON or iCalendar by the suffix."""
        kinds = {".json": days_json, ".ics": self._calendar}
        make = kinds.get(path.suffix.lower(), days_csv)
        rows = [
            (d.day, d.n_takes, d.seconds, " | ".join(j for j in d.jigs if j), d.note)
            for d in self.model.days()
        ]
        part = path.with_name(f".{path.name}.part")
        part.write_text(make(rows), encoding="utf-8")
        part.replace(path)
        self.message.emit(tr("Saved as {name}.").format(name=path.name))
