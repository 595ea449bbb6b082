"""What the Desk shows: takes, the current one judged, the selection. No widgets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.follow.align import Pin
from jigwright.core.isolation import FAILED, isolated
from jigwright.core.jig.aims import Aim, aims_of
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.judge.measured import MeasuredNote, analysis_blur_s
from jigwright.core.sound.heard import Heard
from jigwright.core.values import Unmeasured
from jigwright.services.practising import PastNote, past_of_note, past_of_stop
from jigwright.services.records import Changed, Mark, TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import (
    AS_PLAYED,
    MOST_PAST,
    MeasuredTake,
    TakeReader,
    View,
    measuring,
)
from jigwright.ui.painting.rows import HOP_S, LaneRow
from jigwright.ui.viewmodels.desk.reading_ahead import Portions, ReadAhead
from jigwright.ui.viewmodels.desk.take_prints import TakePrint
from jigwright.ui.viewmodels.desk.traces import lane_rows, traces_abs_cents
from jigwright.ui.viewmodels.session_model import SessionModel

Print = tuple[tuple[float | None, str], ...]
_MOST_AT_ONCE = 150
_MOST_BEFORE, _MOST_AFTER = 40, 10


class DeskModel(QObject):
    """State of the Desk.

    Signals
    -------
    takes_changed
        The shelf's content.
    take_changed
        Another take is shown (or none).
    judged_changed
        Figures of the shown take changed.
    selection_changed
        Another note is selected.
    """

    takes_changed = pyqtSignal()
    take_changed = pyqtSignal()
    judged_changed = pyqtSignal()
    selection_changed = pyqtSignal()

    def __init__(
        self,
        studio: StudioPort,
        session: SessionModel,
        reader: TakeReader,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._studio, self._session, self._reader = studio, session, reader
        self.take: TakeRecord | None = None
        self.heard: Heard | None = None
        self.judged: Judged | None = None
        self.failed = False  # the shown take is there, but judging it failed
        self.rows: tuple[LaneRow, ...] = ()
        self.selected: int | None = None
        self.anchor: int | None = None
        self.prints: tuple[TakePrint, ...] = ()
        self._ahead = ReadAhead(reader, self)
        self._portions = Portions(self._all_measured, self)
        self._prints: dict[str, Print] = {}
        self._key_fifths = 0
        self._against: Context | None = None  # what the shown figures are held against
        self._asked: tuple[str, tuple[Aim, ...]] | None = None  # of a finished take, anew
        self._then_show: str | None = None  # after the shown take has left the shelf
        session.changed.connect(self._session_changed)

    def close_down(self) -> None:
        """The studio is about to close."""
        self._ahead.close_down()
        self._portions.stop()

    def _session_changed(self, parts: frozenset[str]) -> None:
        """Another player, jig, view or way of naming: show what it means for the shelf."""
        if parts & {"all", "player", "jig"}:
            shown = self.take.id if self.take and not parts & {"all", "player"} else None
            self._after_change(shown)  # another revision of the same exercise: the take stays
        elif "view" in parts:
            self.refresh_takes()
            self._judge()
            self.judged_changed.emit()
        elif "words" in parts:
            self.takes_changed.emit()
            self.take_changed.emit()
            self.judged_changed.emit()
            self.selection_changed.emit()

    def follow(self, changed: Changed) -> None:
        """The studio is another one: show what it is now."""
        shown = self.take.id if self.take is not None else ""
        if shown in changed.take_ids and changed.what & {"takes", "corrections"}:
            self._after_change(self._then_show or shown)
        elif "takes" in changed.what:
            self.refresh_takes()
            if self.take is None and changed.by != "do":
                self._after_change(None)
        elif "corrections" in changed.what:
            self.refresh_takes()
        if "heard" in changed.what:
            for take_id in changed.take_ids:
                self._heard_anew(take_id)
        if changed.what & {"strings", "instruments"} and self._against != self._held_against():
            self._judge()
            self.judged_changed.emit()
        if "remarks" in changed.what:
            self.selection_changed.emit()

    # takes --------------------------------------------------------------------------------

    def refresh_takes(self) -> None:
        """Read the shelf again."""
        jig, player = self._session.now.jig, self._session.now.player
        jig_id = jig.id if jig is not None else None
        takes = [
            t
            for t in self._studio.takes(jig_id=jig_id)
            if t.jig_id == jig_id and (player is None or t.player_id == player.id)
        ]
        self.prints = tuple(TakePrint(take=t, number=i + 1) for i, t in enumerate(takes))
        self._prints.clear()
        self._ahead.set_shelf([p.take for p in self.prints])
        self.takes_changed.emit()

    def show(self, take_id: str) -> Judged | Unmeasured | None:
        """Show a take and say what came of judging it; ``None`` when it is not on the shelf."""
        self.show_take(take_id)
        if self.take is None or self.take.id != take_id:
            return None
        return FAILED if self.failed else self.judged

    def show_take(self, take_id: str | None) -> None:
        """Show a take of the shelf, or none."""
        found = next((p.take for p in self.prints if p.take.id == take_id), None)
        if found is not None:
            self._session.showing(found)
        keep_note = self.selected_note_id()
        if self._asked is not None and self._asked[0] != take_id:
            self._asked = None
        self.take = found
        jig = self.take_jig() or self._session.now.jig
        self._session.name_by(jig.key.tonic if jig is not None else None)
        self.heard = self._reader.heard(found) if found is not None else None
        self._portions.stop()
        if found is not None and self.heard is not None:
            self._begin_measuring(found, self.heard)
        self._judge()
        self.selected = self.anchor = self._row_of(keep_note)
        self.take_changed.emit()
        self.judged_changed.emit()
        self.selection_changed.emit()

    def _begin_measuring(self, take: TakeRecord, heard: Heard) -> None:
        """A long take shows its pitches first; the rest is measured in portions."""
        if len(self._reader.pitches(take).notes) <= _MOST_AT_ONCE:
            return

        def begin() -> None:
            _, self._key_fifths, rest = measuring(
                heard, self.take_jig(), self.kind_of(take), take.a4_hz,
                pins=self._studio.corrections(take.id),
            )  # fmt: skip
            self._portions.begin(rest)

        isolated("measuring a long take", begin, None)

    def _all_measured(self, notes: tuple[MeasuredNote, ...]) -> None:
        """All of a long take is measured: it is judged whole."""
        if self.take is not None:
            whole = MeasuredTake(notes=notes, key_fifths=self._key_fifths)
            self._reader.keep_measured(self.take, whole)
        self._judge()
        self.judged_changed.emit()
        self.selection_changed.emit()

    def step_take(self, by: int) -> None:
        """Show the next or previous take of the shelf."""
        ids = [p.take.id for p in self.prints]
        if not ids:
            return
        at = ids.index(self.take.id) if self.take and self.take.id in ids else len(ids) - 1
        self.show_take(ids[min(max(at + by, 0), len(ids) - 1)])

    def take_jig(self) -> Jig | None:
        """The jig revision the shown take was played from."""
        return None if self.take is None else self._reader.jig_of(self.take)

    def kind_of(self, take: TakeRecord) -> str:
        """Kind of instrument a take was played on."""
        return self._reader.kind_of(take)

    def take_number(self) -> int | None:
        """Place of the shown take on the shelf, from 1."""
        return next(
            (p.number for p in self.prints if self.take and p.take.id == self.take.id), None
        )

    def set_mark(self, mark: Mark) -> None:
        """Mark the shown take; the same mark again takes it away."""
        if self.take is not None:
            new = "" if self.take.mark == mark else mark
            self._studio.change("set_mark", self.take.id, {"mark": new})

    def bin_take(self) -> None:
        """Put the shown take into the bin; its neighbour is shown."""
        if self.take is None:
            return
        ids = [p.take.id for p in self.prints]
        at = ids.index(self.take.id)
        rest = [i for i in ids if i != self.take.id]
        self._then_show = rest[min(at, len(rest) - 1)] if rest else None
        try:
            self._studio.change("bin_take", self.take.id, {"binned": 1})
        finally:
            self._then_show = None

    def _after_change(self, take_id: str | None) -> None:
        self.refresh_takes()
        if not any(p.take.id == take_id for p in self.prints):
            take_id = self.prints[-1].take.id if self.prints else None
        self.show_take(take_id)

    # context ------------------------------------------------------------------------------

    def as_played(self) -> bool:
        """Whether the figures stand against the take's own context."""
        return self._session.now.view == AS_PLAYED

    def context(self) -> Context:
        """What the figures of the shown take are held against; without one, the next take's."""
        if self.take is not None:
            return self._reader.context(self.take, self._session.now.view)
        return self._session.context()

    def ask_for(self, jig: Jig) -> None:
        """Hold the shown take against other aims of its exercise; it counts as what it was."""
        if self.take is None or self.take.jig_id != jig.id:
            return
        self._asked = (self.take.id, aims_of(jig))
        self._judge()
        self.judged_changed.emit()

    def _view(self) -> View:
        view = self._session.now.view
        if self.take is not None and self._asked is not None and self._asked[0] == self.take.id:
            return replace(view, aims=self._asked[1])
        return view

    # selection ----------------------------------------------------------------------------

    def select(self, row: int | None, *, extend: bool = False) -> None:
        """Select a note everywhere; ``extend`` makes a span from the first selected one."""
        if row is not None and not 0 <= row < len(self.rows):
            row = None
        anchor = self.anchor if extend and self.anchor is not None else row
        if (row, anchor) != (self.selected, self.anchor):
            self.selected, self.anchor = row, anchor
            self.selection_changed.emit()

    def step_selection(self, by: int, *, extend: bool = False) -> None:
        """Select the next or previous note."""
        if not self.rows:
            return
        if self.selected is None:
            self.select(0 if by > 0 else len(self.rows) - 1)
        else:
            self.select(min(max(self.selected + by, 0), len(self.rows) - 1), extend=extend)

    def span_rows(self) -> tuple[int, int] | None:
        """First and last selected row."""
        if self.selected is None:
            return None
        anchor = self.selected if self.anchor is None else self.anchor
        return min(anchor, self.selected), max(anchor, self.selected)

    def span_events(self) -> tuple[str, ...]:
        """Ids of the written events that are selected, where more than one is."""
        span, jig = self.span_rows(), self._reader.jig_of(self.take) if self.take else None
        if span is None or jig is None or self.judged is None:
            return ()
        rows = self.judged.notes[span[0] : span[1] + 1]
        found = dict.fromkeys(n.measured.lined.i_event for n in rows)
        ids = tuple(jig.events[i].id for i in found if i is not None)
        return ids if len(ids) > 1 else ()

    def span_s(self) -> tuple[float, float] | None:
        """Time of the selected notes, or ``None`` when nothing sounded there."""
        span = self.span_rows()
        if span is None:
            return None
        heard = [r for r in self.rows[span[0] : span[1] + 1] if r.onset_s is not None]
        if not heard:
            return None
        return heard[0].onset_s or 0.0, max(r.offset_s or 0.0 for r in heard)

    def selected_note(self) -> JudgedNote | None:
        """The selected note with its figures."""
        if self.judged is None or self.selected is None:
            return None
        return self.judged.notes[self.selected]

    def selected_note_id(self) -> str | None:
        """Id of the selected notehead."""
        note = self.selected_note()
        return note.measured.lined.note_id if note else None

    def correct(self, i_event: int | None) -> None:
        """Say which note of the jig the selected one was; ``None``: an extra note."""
        note, take = self.selected_note(), self.take
        segment = note.measured.segment if note is not None else None
        if take is None or segment is None or self._studio.read_only:
            return
        others = [
            p for p in self._studio.corrections(take.id) if abs(p.at_s - segment.onset_s) > 0.08
        ]
        pin = Pin(at_s=segment.onset_s, i_event=i_event)
        self._correct((*others, pin), segment.onset_s)

    def _heard_anew(self, take_id: str) -> None:
        """A take has another analysis: what was kept of the old one goes."""
        self._prints.pop(take_id, None)
        if self.take is not None and self.take.id == take_id:
            self.show_take(take_id)
        elif any(p.take.id == take_id for p in self.prints):
            self.takes_changed.emit()

    def forget_corrections(self) -> None:
        """Line the take up as it was heard."""
        self._correct((), None)

    def _correct(self, pins: tuple[Pin, ...], at_s: float | None) -> None:
        if self.take is None:
            return
        self._studio.set_corrections(self.take.id, pins)
        notes = self.judged.notes if self.judged else ()
        row = next(
            (i for i, n in enumerate(notes)
             if n.measured.segment is not None and at_s is not None
             and abs(n.measured.segment.onset_s - at_s) < 0.05), None,
        )  # fmt: skip
        self.select(row)

    @property
    def corrected(self) -> bool:
        """Whether the shown take was corrected by hand."""
        return self.take is not None and bool(self._studio.corrections(self.take.id))

    # judging ------------------------------------------------------------------------------

    def _row_of(self, note_id: str | None) -> int | None:
        if self.judged is None:
            return None
        if note_id is not None:
            for i, n in enumerate(self.judged.notes):
                if n.measured.lined.note_id == note_id:
                    return i
        if self.judged.findings and self.judged.findings[0].notes:
            return self.judged.findings[0].notes[0]
        return 0 if self.judged.notes else None

    def _judge(self) -> None:
        self.judged, self.rows, self.failed = None, (), False
        self._against = self._held_against()
        take, heard = self.take, self.heard
        if take is None or heard is None:
            return
        ids = [p.take.id for p in self.prints]
        at = ids.index(take.id) if take.id in ids else len(ids)
        before = [p.take for p in self.prints[max(0, at - MOST_PAST) : at]]
        if self._portions.running:
            judged = self._reader.first_look(take, self._view(), before=before)
        else:
            judged = self._reader.judged(take, self._view(), before=before)
        rows: tuple[LaneRow, ...] | None = None
        if not isinstance(judged, Unmeasured):
            notes = judged.notes
            rows = isolated("lanes of a take", lambda: self._lane_rows(notes, heard), None)
        if rows is None or isinstance(judged, Unmeasured):
            self.failed = True
            return
        self.judged, self.rows = judged, rows

    def _held_against(self) -> Context | None:
        return self.context() if self.take is not None else None

    def _lane_rows(self, notes: Sequence[JudgedNote], heard: Heard) -> tuple[LaneRow, ...]:
        kind = self.kind_of(self.take) if self.take else "violin"
        margin_s = analysis_blur_s(heard, kind) + 2.0 * HOP_S  # nearer, it hears the neighbours
        traces = traces_abs_cents([n.measured for n in notes], heard, margin_s)
        return lane_rows(notes, traces, margin_s)

    def past_of_selected(self) -> tuple[PastNote, ...]:
        """The selected note in the takes of the shelf about the shown one, and in that one."""
        note_id = self.selected_note_id()
        if note_id is None:
            return ()
        return past_of_note(note_id, self._about(), self._reader, self._session.now.view)

    def past_stops_of_selected(self) -> tuple[PastNote, ...]:
        """The selected stop in the same takes, from pure."""
        note_id = self.selected_note_id()
        if note_id is None:
            return ()
        return past_of_stop(note_id, self._about(), self._reader, self._session.now.view)

    def _about(self) -> list[tuple[int, TakeRecord]]:
        """The takes of the shelf about the shown one."""
        at = (self.take_number() or len(self.prints)) - 1
        about = self.prints[max(0, at - _MOST_BEFORE) : at + _MOST_AFTER]
        return [(p.number, p.take) for p in about]

    def landings(self, take: TakeRecord) -> tuple[JudgedNote, ...]:
        """Pitch figures of a take against what is shown."""
        return self._reader.landings(take, self._session.now.view)

    def print_notes(self, take: TakeRecord) -> Print:
        """Cents (``None`` when not heard) and standing of every note, for a take's print."""
        if take.id not in self._prints:
            self._prints[take.id] = self._reader.print_of(take, self._session.now.view)
        return self._prints[take.id]
