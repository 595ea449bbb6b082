"""What the Desk shows: takes, the current one judged, the selection. No widgets."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from jigwright.core.errors import JigwrightError
from jigwright.core.follow.align import FollowParams, Pin, line_up
from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.analysis import Judged, follow_and_measure, judge_take
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.judge.measured import (
    MeasuredNote,
    analysis_blur_s,
    measure_some,
)
from jigwright.core.judge.playing import Playing, measure_playing
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import Reference, pure_strings
from jigwright.core.sound.heard import Heard
from jigwright.services.ports import StudioPort
from jigwright.services.records import Mark, OwnedInstrument, Player, TakeRecord
from jigwright.services.references import load_reference
from jigwright.ui.painting.rows import HOP_S, LaneRow
from jigwright.ui.viewmodels.lined import LinedTakes, Portions, only_pitches
from jigwright.ui.viewmodels.owners import strings_of_day
from jigwright.ui.viewmodels.pins import keep_pins, pins_of
from jigwright.ui.viewmodels.shown import TakePrint, ViewContext, utc_now
from jigwright.ui.viewmodels.traces import lane_rows, traces_abs_cents
from jigwright.wording.catalogue import language_now
from jigwright.wording.notes import NOTE_NAMES, NoteNames, use_note_names, use_tonic

_MOST_AT_ONCE = 150
_MOST_PAST = 40


def reference_of(name: str) -> Reference:
    """A reference by its name; equal where its scale file has gone since."""
    try:
        return load_reference(name)
    except JigwrightError:
        return load_reference("equal")


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
        self.view = ViewContext()
        self.selected: int | None = None
        self.anchor: int | None = None
        self.prints: tuple[TakePrint, ...] = ()
        self.note_names: NoteNames = "letters"
        self._last_a4_hz = 440.0
        self._measured: tuple[MeasuredNote, ...] = ()
        self._key_fifths = 0
        self._playing: tuple[str, Playing] | None = None
        self.lined = LinedTakes(studio, self.jig_of, self.context, self)
        self._portions = Portions(self._all_measured, self)
        self._revisions: dict[tuple[str, int], Jig] = {}
        self._cents_abs: tuple[np.ndarray, ...] = ()

    def close_down(self) -> None:
        """The studio is about to close."""
        self.lined.close_down()
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
        self.lined.set_shelf([p.take for p in self.prints])
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
        self.heard = isolated(
            "reading what was heard", lambda: self.studio.heard(found.id) if found else None, None
        )
        self._measured, self._key_fifths = (), 0
        self._portions.stop()
        self._cents_abs, self.failed = (), False
        if not isolated("showing a take", lambda: self._hold_up(found), False):
            self.judged, self.rows, self._measured, self.failed = None, (), (), True
        self.selected = self.anchor = self._row_of(keep_note)
        self.take_changed.emit()
        self.judged_changed.emit()
        self.selection_changed.emit()

    def _hold_up(self, take: TakeRecord | None) -> bool:
        """Line the take up, measure and judge it."""
        if take is not None and self.heard is not None:
            self._measure_shown(take, self.heard)
            self._cents_abs = traces_abs_cents(self._measured, self.heard, self._margin_s())
        self._judge()
        return True

    def _measure_shown(self, take: TakeRecord, heard: Heard) -> None:
        """Line the shown take up and measure it; a long one shows its pitches first."""
        jig, kind = self.take_jig(), self.kind_of(take)
        lined = line_up(
            heard.segments, jig, a4_hz=take.a4_hz, params=FollowParams(), pairs=heard.pairs,
            pins=pins_of(self.studio, take.id),
        )  # fmt: skip
        self._key_fifths = lined.key_fifths
        rest = measure_some(heard, lined.notes, kind, jig)
        if len(lined.notes) <= _MOST_AT_ONCE:
            self._measured = tuple(rest)
            return
        self._measured = only_pitches(heard.segments, heard.pairs, lined.notes, "not_yet")
        self._portions.begin(rest)

    def _all_measured(self, notes: tuple[MeasuredNote, ...]) -> None:
        """All of a long take is measured: it is judged whole."""
        self._measured = notes

        self._cents_abs = ()
        if self.heard is not None:
            self._cents_abs = traces_abs_cents(notes, self.heard, self._margin_s())
        self._judge_again()
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
        if self.take is None or self.take.jig_id is None or self.take.jig_revision is None:
            return None
        return self.studio.jig(self.take.jig_id, self.take.jig_revision)

    def kind_of(self, take: TakeRecord) -> str:
        """Kind of instrument a take was played on."""
        owned = next((i for i in self.studio.instruments() if i.id == take.instrument_id), None)
        return owned.kind if owned else "violin"

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
        self.studio.change("set_mark", self.take.id, {"mark": new}, utc=utc_now())
        self._after_change(self.take.id)

    def bin_take(self) -> None:
        """Put the shown take into the bin."""
        if self.take is None:
            return
        ids = [p.take.id for p in self.prints]
        at = ids.index(self.take.id)
        self.studio.change("bin_take", self.take.id, {"binned": 1}, utc=utc_now())
        rest = [i for i in ids if i != self.take.id]
        self._after_change(rest[min(at, len(rest) - 1)] if rest else None)

    def restore_take(self, take_id: str) -> None:
        """Bring a take back from the bin."""
        self.studio.change("restore_take", take_id, {"binned": 0}, utc=utc_now())
        self._after_change(take_id)

    def undo(self) -> str | None:
        """Take the last change back."""
        name = self.studio.undo()
        if name:
            self._after_change(self.take.id if self.take else None)
        return name

    def redo(self) -> str | None:
        """Do the last undone change again."""
        name = self.studio.redo()
        if name:
            self._after_change(self.take.id if self.take else None)
        return name

    def _after_change(self, take_id: str | None) -> None:
        self.refresh_takes()
        if take_id is None and self.prints:
            take_id = self.prints[-1].take.id
        self.show_take(take_id)

    # context ------------------------------------------------------------------------------

    def set_view(self, view: ViewContext) -> None:
        """Show the figures against another A, reference or tolerance."""
        if view.reference is not None:
            load_reference(view.reference)  # refuse before anything changes
        self.view = view
        self.refresh_takes()
        self._judge_again()
        self.context_changed.emit()
        self.judged_changed.emit()

    def as_played(self) -> bool:
        """Whether the figures stand against the take's own context."""
        return self.view == ViewContext()

    def context(self, take: TakeRecord | None = None) -> Context:
        """The context figures are shown against now."""
        take = take or self.take
        owned = self.owned
        if take is not None:
            owned = next(
                (i for i in self.studio.instruments() if i.id == take.instrument_id), owned
            )
        kind = owned.kind if owned else "violin"
        jig = self.jig
        return Context(
            instrument_id=kind,
            strings=owned.strings if owned else instrument(kind).strings,
            a4_hz=self.view.a4_hz or (take.a4_hz if take else self._last_a4_hz),
            reference=reference_of(
                self.view.reference
                or (take.reference if take else jig.reference if jig else "equal")
            ),
            tolerance_cents=self.view.tolerance_cents
            or (take.tolerance_cents if take else jig.tolerance_cents if jig else 10.0),
            checked_hz=strings_of_day(self.studio, owned.id, take.recorded_utc[:10])
            if owned and take
            else {},
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
        others = [p for p in pins_of(self.studio, take.id) if abs(p.at_s - segment.onset_s) > 0.08]
        pin = Pin(at_s=segment.onset_s, i_event=i_event)
        self._correct((*others, pin), segment.onset_s)

    def heard_anew(self, take_id: str) -> None:
        """A take has another analysis: what was kept of the old one goes."""
        self.lined.forget(take_id)
        if self.take is not None and self.take.id == take_id:
            self._playing = None
            self.show_take(take_id)
        elif any(p.take.id == take_id for p in self.prints):
            self.takes_changed.emit()

    def forget_corrections(self) -> None:
        """Line the take up as it was heard."""
        self._correct((), None)

    def _correct(self, pins: tuple[Pin, ...], at_s: float | None) -> None:
        if self.take is None:
            return
        keep_pins(self.studio, self.take.id, pins)
        self.studio.keep_summaries(
            {self.take.id: ("", "")}
        )  # what trends kept of it is out of date
        self.lined.forget(self.take.id)
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
        return self.take is not None and bool(pins_of(self.studio, self.take.id))

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
        if self.take is None or self.heard is None:
            self.judged, self.rows = None, ()
            return
        ids = [p.take.id for p in self.prints]
        at = ids.index(self.take.id) if self.take.id in ids else len(ids)
        past = self.lined.past([p.take for p in self.prints[max(0, at - _MOST_PAST) : at]])
        self.judged = judge_take(
            self._measured, self.take_jig(), self.context(), key_fifths=self._key_fifths,
            past=past, playing=None if self._portions.running else self._playing_of_take(),
        )  # fmt: skip
        self.rows = lane_rows(self.judged.notes, self._cents_abs, self._margin_s())

    def _judge_again(self) -> None:
        def judged() -> bool:
            self._judge()
            return True

        self.failed = not isolated("judging", judged, False)
        if self.failed:
            self.judged, self.rows = None, ()

    def judged_of(self, take: TakeRecord) -> Judged | None:
        """Any take judged in its own context; ``None`` if it was not heard or cannot be judged."""
        return isolated("judging a take", lambda: self._judged_of(take), None)

    def _judged_of(self, take: TakeRecord) -> Judged | None:
        heard, jig = self.studio.heard(take.id), self.jig_of(take)
        if heard is None:
            return None
        lined, measured = follow_and_measure(
            heard, jig, a4_hz=take.a4_hz, instrument_id=self.kind_of(take),
            pins=pins_of(self.studio, take.id),
        )  # fmt: skip
        view, self.view = self.view, ViewContext()
        try:
            context = self.context(take)
            before = [
                t for t in self.studio.takes(jig_id=take.jig_id, player_id=take.player_id)
                if t.recorded_utc < take.recorded_utc
            ]  # fmt: skip
            playing = measure_playing(
                heard, measured, jig, pure_strings(context.strings, take.a4_hz)
            )
            return judge_take(
                measured, jig, context, key_fifths=lined.key_fifths,
                past=self.lined.past(before[-_MOST_PAST:]), playing=playing,
            )  # fmt: skip
        finally:
            self.view = view

    def landings(self, take: TakeRecord, *, as_played: bool = False) -> tuple[JudgedNote, ...]:
        """Pitch figures of any take, in the present context or in its own."""
        if not as_played:
            return self.lined.judged(take)
        view, self.view = self.view, ViewContext()
        try:
            return self.lined.judged(take)
        finally:
            self.view = view

    def jig_of(self, take: TakeRecord) -> Jig | None:
        """The revision of a jig that a take was played from."""
        if take.jig_id is None or take.jig_revision is None:
            return None
        key = (take.jig_id, take.jig_revision)
        if key not in self._revisions:
            self._revisions[key] = self.studio.jig(*key)
        return self._revisions[key]

    def _playing_of_take(self) -> Playing:
        """Strokes, events and time: heard once, whatever the figures are held against."""
        assert self.take is not None
        assert self.heard is not None
        if self._playing is None or self._playing[0] != self.take.id:
            strings = pure_strings(self.context().strings, self.take.a4_hz)
            playing = measure_playing(self.heard, self._measured, self.take_jig(), strings)
            self._playing = (self.take.id, playing)
        return self._playing[1]

    def _margin_s(self) -> float:
        """Nearer to a note's ends the analysis window hears the neighbours."""
        return analysis_blur_s(self.kind_of(self.take) if self.take else "violin") + 2.0 * HOP_S
