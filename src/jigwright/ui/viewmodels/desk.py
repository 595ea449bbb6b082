"""What the Desk shows: takes, the current one judged, the selection. No widgets."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.follow.align import Pin
from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.judge.measured import MeasuredNote, analysis_blur_s
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.heard import Heard
from jigwright.core.values import Unmeasured
from jigwright.services.bin_contents import bring_back
from jigwright.services.records import Changed, Mark, OwnedInstrument, Player, TakeRecord
from jigwright.services.references import load_reference, reference_or_equal
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import (
    AS_PLAYED,
    MOST_PAST,
    Measured,
    TakeReader,
    View,
    measuring,
)
from jigwright.ui.painting.rows import HOP_S, LaneRow
from jigwright.ui.viewmodels.reading_ahead import Portions, ReadAhead
from jigwright.ui.viewmodels.shown import TakePrint
from jigwright.ui.viewmodels.traces import lane_rows, traces_abs_cents
from jigwright.wording.catalogue import language_now
from jigwright.wording.notes import NOTE_NAMES, NoteNames, use_note_names, use_tonic

Print = tuple[tuple[float | None, str], ...]
_MOST_AT_ONCE = 150


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
    context_changed
        Player, instrument, A, reference or tolerance changed.
    """

    takes_changed = pyqtSignal()
    take_changed = pyqtSignal()
    judged_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    context_changed = pyqtSignal()

    def __init__(self, studio: StudioPort, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.studio = studio
        self.player: Player | None = None
        self.owned: OwnedInstrument | None = None
        self.jig: Jig | None = None
        self.take: TakeRecord | None = None
        self.heard: Heard | None = None
        self.judged: Judged | None = None
        self.failed = False  # the shown take is there, but judging it failed
        self.rows: tuple[LaneRow, ...] = ()
        self.view = AS_PLAYED
        self.selected: int | None = None
        self.anchor: int | None = None
        self.prints: tuple[TakePrint, ...] = ()
        self.note_names: NoteNames = "letters"
        self._last_a4_hz = 440.0
        self.reader = TakeReader(studio)
        self._ahead = ReadAhead(self.reader, self)
        self._portions = Portions(self._all_measured, self)
        self._prints: dict[str, Print] = {}
        self._key_fifths = 0

    def close_down(self) -> None:
        """The studio is about to close."""
        self._ahead.close_down()
        self._portions.stop()

    # opening ------------------------------------------------------------------------------

    def load(self) -> None:
        """Read the studio and show what was shown last."""
        players = {p.id: p for p in self.studio.players()}
        instruments = {i.id: i for i in self.studio.instruments()}
        jigs = {j.id: j for j in self.studio.jigs()}
        self.player = players.get(self.studio.setting("player"), next(iter(players.values()), None))
        self.owned = instruments.get(
            self.studio.setting("instrument"), next(iter(instruments.values()), None)
        )
        self.jig = jigs.get(self.studio.setting("jig"), next(iter(jigs.values()), None))
        kept = self.studio.setting("note_names")
        usual: NoteNames = "german" if language_now() == "de" else "letters"
        self.note_names = next((n for n in NOTE_NAMES if n == kept), usual)
        use_note_names(self.note_names)
        self.context_changed.emit()
        self.refresh_takes()
        self.show_take(self.prints[-1].take.id if self.prints else None)

    def set_player(self, player: Player) -> None:
        """Choose who plays next and whose takes are shown."""
        self.player = player
        self._remember("player", player.id)
        mine = [t for t in self.studio.takes() if t.player_id == player.id]
        if mine:
            last = mine[-1]
            self.owned = next(
                (i for i in self.studio.instruments() if i.id == last.instrument_id), self.owned
            )
            if last.jig_id and last.jig_revision:
                self.jig = self.studio.jig(last.jig_id, last.jig_revision)
        self.context_changed.emit()
        self._show_newest()

    def set_note_names(self, names: NoteNames) -> None:
        """Call notes another way from now on."""
        self.note_names = names
        use_note_names(names)
        self._remember("note_names", names)
        self.context_changed.emit()
        self.takes_changed.emit()
        self.take_changed.emit()
        self.judged_changed.emit()
        self.selection_changed.emit()

    def set_instrument(self, owned: OwnedInstrument) -> None:
        """Choose the instrument of the next takes."""
        self.owned = owned
        self._remember("instrument", owned.id)
        self.context_changed.emit()

    def set_jig(self, jig: Jig | None) -> None:
        """Choose the jig (``None``: free playing) and show its newest take."""
        self.jig = jig
        self._remember("jig", jig.id if jig else "")
        if jig is not None and (self.owned is None or self.owned.kind != jig.instrument_id):
            fitting = [i for i in self.studio.instruments() if i.kind == jig.instrument_id]
            if fitting:
                self.owned = fitting[0]
        self.context_changed.emit()
        self._show_newest()

    def _show_newest(self) -> None:
        self.refresh_takes()
        self.show_take(self.prints[-1].take.id if self.prints else None)

    def _remember(self, name: str, value: str) -> None:
        if not self.studio.read_only:
            self.studio.set_setting(name, value)

    # takes --------------------------------------------------------------------------------

    def refresh_takes(self) -> None:
        """Read the shelf again."""
        jig_id = self.jig.id if self.jig else None
        takes = [
            t
            for t in self.studio.takes(jig_id=jig_id)
            if t.jig_id == jig_id and (self.player is None or t.player_id == self.player.id)
        ]
        self.prints = tuple(TakePrint(take=t, number=i + 1) for i, t in enumerate(takes))
        self._prints.clear()
        self._ahead.set_shelf([p.take for p in self.prints])
        self.takes_changed.emit()

    def show_take(self, take_id: str | None) -> None:
        """Show a take of the shelf, or none."""
        found = next((p.take for p in self.prints if p.take.id == take_id), None)
        if found is not None:
            self._last_a4_hz = found.a4_hz  # what is new is tuned like what was shown last
        keep_note = self.selected_note_id()
        self.take = found
        jig = self.take_jig() or self.jig
        use_tonic(jig.key.tonic if jig is not None else None)
        self.heard = self.reader.heard(found) if found is not None else None
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
        if len(self.reader.pitches(take).notes) <= _MOST_AT_ONCE:
            return

        def begin() -> None:
            _, self._key_fifths, rest = measuring(
                heard, self.take_jig(), self.kind_of(take), take.a4_hz,
                pins=self.studio.corrections(take.id),
            )  # fmt: skip
            self._portions.begin(rest)

        isolated("measuring a long take", begin, None)

    def _all_measured(self, notes: tuple[MeasuredNote, ...]) -> None:
        """All of a long take is measured: it is judged whole."""
        if self.take is not None:
            whole = Measured(notes=notes, key_fifths=self._key_fifths)
            self.reader.keep_measured(self.take, whole)
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
        return None if self.take is None else self.reader.jig_of(self.take)

    def kind_of(self, take: TakeRecord) -> str:
        """Kind of instrument a take was played on."""
        return self.reader.kind_of(take)

    def take_number(self) -> int | None:
        """Place of the shown take on the shelf, from 1."""
        return next(
            (p.number for p in self.prints if self.take and p.take.id == self.take.id), None
        )

    def set_mark(self, mark: Mark) -> None:
        """Mark the shown take; the same mark again takes it away."""
        if self.take is None:
            return
        new = "" if self.take.mark == mark else mark
        self.studio.change("set_mark", self.take.id, {"mark": new})
        self._after_change(self.take.id)

    def bin_take(self) -> None:
        """Put the shown take into the bin."""
        if self.take is None:
            return
        ids = [p.take.id for p in self.prints]
        at = ids.index(self.take.id)
        self.studio.change("bin_take", self.take.id, {"binned": 1})
        rest = [i for i in ids if i != self.take.id]
        self._after_change(rest[min(at, len(rest) - 1)] if rest else None)

    def restore_take(self, take_id: str) -> None:
        """Bring a take back from the bin."""
        bring_back(self.studio, take_id)
        self._after_change(take_id)

    def follow(self, changed: Changed) -> None:
        """Something was taken back, or done again: show what it is now."""
        if changed.what & {"takes", "corrections"}:
            self._after_change(self.take.id if self.take else None)
        elif "strings" in changed.what:
            self._judge()
            self.judged_changed.emit()
        if changed.what & {"players", "instruments", "jigs"}:
            self.load()
        if "remarks" in changed.what:
            self.selection_changed.emit()

    def _after_change(self, take_id: str | None) -> None:
        self.refresh_takes()
        if take_id is None and self.prints:
            take_id = self.prints[-1].take.id
        self.show_take(take_id)

    # context ------------------------------------------------------------------------------

    def set_view(self, view: View) -> None:
        """Show the figures against another A, reference or tolerance."""
        if view.reference is not None:
            load_reference(view.reference)  # refuse before anything changes
        self.view = view
        self.refresh_takes()
        self._judge()
        self.context_changed.emit()
        self.judged_changed.emit()

    def as_played(self) -> bool:
        """Whether the figures stand against the take's own context."""
        return self.view == AS_PLAYED

    def context(self, take: TakeRecord | None = None) -> Context:
        """The context figures are shown against now."""
        take = take or self.take
        if take is not None:
            return self.reader.context(take, self.view)
        owned, jig = self.owned, self.jig
        kind = owned.kind if owned else "violin"
        return Context(
            instrument_id=kind,
            strings=owned.strings if owned else instrument(kind).strings,
            a4_hz=self.view.a4_hz or self._last_a4_hz,
            reference=reference_or_equal(
                self.view.reference or (jig.reference if jig else "equal")
            ),
            tolerance_cents=self.view.tolerance_cents or (jig.tolerance_cents if jig else 10.0),
        )

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
        if take is None or segment is None or self.studio.read_only:
            return
        others = [
            p for p in self.studio.corrections(take.id) if abs(p.at_s - segment.onset_s) > 0.08
        ]
        pin = Pin(at_s=segment.onset_s, i_event=i_event)
        self._correct((*others, pin), segment.onset_s)

    def heard_anew(self, take_id: str) -> None:
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
        self.studio.set_corrections(self.take.id, pins)
        self.studio.keep_summaries(
            {self.take.id: ("", "")}
        )  # what trends kept of it is out of date
        self.refresh_takes()
        self.show_take(self.take.id)
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
        return self.take is not None and bool(self.studio.corrections(self.take.id))

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
        take, heard = self.take, self.heard
        if take is None or heard is None:
            return
        ids = [p.take.id for p in self.prints]
        at = ids.index(take.id) if take.id in ids else len(ids)
        before = [p.take for p in self.prints[max(0, at - MOST_PAST) : at]]
        if self._portions.running:
            judged = self.reader.first_look(take, self.view, before=before)
        else:
            judged = self.reader.judged(take, self.view, before=before)
        rows: tuple[LaneRow, ...] | None = None
        if not isinstance(judged, Unmeasured):
            notes = judged.notes
            rows = isolated("lanes of a take", lambda: self._lane_rows(notes, heard), None)
        if rows is None or isinstance(judged, Unmeasured):
            self.failed = True
            return
        self.judged, self.rows = judged, rows

    def _lane_rows(self, notes: Sequence[JudgedNote], heard: Heard) -> tuple[LaneRow, ...]:
        kind = self.kind_of(self.take) if self.take else "violin"
        margin_s = analysis_blur_s(heard, kind) + 2.0 * HOP_S  # nearer, it hears the neighbours
        traces = traces_abs_cents([n.measured for n in notes], heard, margin_s)
        return lane_rows(notes, traces, margin_s)

    def judged_of(self, take: TakeRecord) -> Judged | None:
        """Any take judged in its own context; ``None`` if it was not heard or cannot be judged."""
        judged = self.reader.judged(take, before=self.reader.before(take))
        return None if isinstance(judged, Unmeasured) else judged

    def landings(self, take: TakeRecord, *, as_played: bool = False) -> tuple[JudgedNote, ...]:
        """Pitch figures of any take, in the present context or in its own."""
        return self.reader.landings(take, AS_PLAYED if as_played else self.view)

    def print_notes(self, take: TakeRecord) -> Print:
        """Cents (``None`` when not heard) and standing of every note, for a take's print."""
        if take.id not in self._prints:
            self._prints[take.id] = tuple(
                (n.cents if n.standing != "wrong" else None, n.standing)
                for n in self.landings(take)
            )
        return self._prints[take.id]

    def jig_of(self, take: TakeRecord) -> Jig | None:
        """The revision of a jig that a take was played from."""
        return self.reader.jig_of(take)
