"""What the Desk's close looks show, computed when a page is looked at."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.gauge.values import AgainstClicks, Level, Vibrato
from jigwright.core.judge.asked import loudness_marks
from jigwright.core.judge.changes import ROOM_TAIL_S, Gathered, courses_of, gather
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.landings import Spot, landings_of, share_back, spots_of, worst_spot
from jigwright.core.judge.mirror import Mirror, measure_mirror
from jigwright.core.judge.phrasing import StringLevel, measure_strings
from jigwright.core.judge.playing import Playing
from jigwright.core.judge.ribbons import Ribbon, ribbons_of
from jigwright.core.judge.sounding import StringCount, count_strings
from jigwright.core.music.references import pure_strings
from jigwright.core.values import Unmeasured, median
from jigwright.services.studio_port import TakeStore
from jigwright.ui.painting.landing_map import LandingPicture
from jigwright.ui.painting.ring_map import RingNote
from jigwright.ui.painting.shape_time import NoteColumn
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.ui.viewmodels.desk.ringing import ring_notes
from jigwright.wording.notes import class_name, letter_name

_WEAK_DB = -6.0


def _usual_levels(notes: Sequence[JudgedNote], marks: Sequence[str]) -> dict[str, float]:
    """Median level of the notes of each mark of loudness."""
    groups: dict[str, list[float]] = {}
    for n, mark in zip(notes, marks, strict=True):
        if isinstance(n.measured.level, Level):
            groups.setdefault(mark, []).append(n.measured.level.mean_dbfs)
    return {mark: median(levels) for mark, levels in groups.items()}


class PagesModel:
    """Reads the Desk's model; holds nothing."""

    def __init__(self, studio: TakeStore, desk: DeskModel) -> None:
        self._studio, self._desk = studio, desk

    def playing(self) -> Playing | None:
        """Strokes, events and time of the shown take."""
        judged = self._desk.judged
        return judged.playing if judged is not None else None

    def landing_picture(self) -> LandingPicture:
        """Landings of all takes on the shelf."""
        d = self._desk
        context = d.context()
        strings = context.strings
        open_hz = list(pure_strings(strings, context.a4_hz).values())
        length = context.length_mm
        landings = [
            one
            for p in d.prints
            for one in landings_of(
                d.landings(p.take), take=p.number, open_hz=open_hz, string_length_mm=length
            )
        ]
        note = d.selected_note()
        return LandingPicture(
            strings=strings, landings=tuple(landings), spots=spots_of(landings),
            selected=note.pitch.midi if note is not None else None,
        )  # fmt: skip

    def way_back(self, picture: LandingPicture) -> tuple[str, float] | None:
        """The selected note and the share of the way back, after a miss on either side."""
        note = self._desk.selected_note()
        if note is None:
            return None
        mine = [
            one for one in picture.landings
            if one.pitch == note.pitch and (one.string, one.finger) == (note.string, note.finger)
        ]  # fmt: skip
        share = share_back(sorted(mine, key=lambda one: one.take))
        return None if share is None else (class_name(note.pitch), share)

    @staticmethod
    def worst(picture: LandingPicture) -> Spot | None:
        """The bias to speak of."""
        return worst_spot(picture.spots)

    def ribbons(self) -> tuple[Ribbon, ...]:
        """Strokes of the shown take."""
        playing = self.playing()
        if playing is None or self._desk.heard is None:
            return ()
        heard = self._desk.heard
        return ribbons_of(heard.contours, playing.strokes, playing.events, pairs=heard.pairs)

    def changes(self) -> tuple[Gathered, ...]:
        """Changes of the shown take, gathered at frog and tip."""
        playing, heard = self.playing(), self._desk.heard
        if playing is None or heard is None:
            return ()
        return gather(courses_of(heard.contours, playing.changes))

    def fills_holes(self) -> bool:
        """Whether the room rings on through the changes."""
        playing = self.playing()
        return playing is not None and playing.tail_s > ROOM_TAIL_S

    def mirror(self) -> Mirror | Unmeasured:
        """Down against up."""
        playing = self.playing()
        return Unmeasured("too_few") if playing is None else measure_mirror(playing.strokes)

    def selected_stroke(self) -> int | None:
        """The stroke the selected note belongs to."""
        playing, row = self.playing(), self._desk.selected
        if playing is None or row is None:
            return None
        return next((i for i, s in enumerate(playing.strokes) if row in s.rows), None)

    def against_clicks(self) -> AgainstClicks | Unmeasured | None:
        """Onsets against the metronome that sounded; ``None`` where none did."""
        playing = self.playing()
        return None if playing is None else playing.against

    def columns(self) -> tuple[NoteColumn, ...]:
        """Loudness, lateness, length and vibrato of every note."""
        d, playing = self._desk, self.playing()
        if d.judged is None or playing is None:
            return ()
        levels = [
            n.measured.level.mean_dbfs
            for n in d.judged.notes
            if isinstance(n.measured.level, Level)
        ]
        middle = float(np.median(levels)) if levels else 0.0
        late: dict[int, float] = {}
        if not isinstance(playing.timing, Unmeasured):
            late = dict(zip(playing.timing.rows, playing.timing.onset_error_ms, strict=True))
        clicks = self.against_clicks()
        if isinstance(clicks, AgainstClicks) and not isinstance(playing.timing, Unmeasured):
            late = dict(zip(playing.timing.rows, clicks.late_ms, strict=True))
        jig = d.take_jig()
        marks = loudness_marks(d.judged.notes, jig)
        usual = _usual_levels(d.judged.notes, marks)
        columns = []
        for row, note in enumerate(d.judged.notes):
            m = note.measured
            level = m.level.mean_dbfs - middle if isinstance(m.level, Level) else None
            vibrato = m.vibrato if isinstance(m.vibrato, Vibrato) and m.vibrato.present else None
            i = m.lined.i_event
            columns.append(
                NoteColumn(
                    name=class_name(note.pitch), level_db=level, late_ms=late.get(row),
                    held=playing.sounding_ratio[row],
                    vibrato_cents=vibrato.extent_cents if vibrato else None,
                    vibrato_hz=vibrato.rate_hz if vibrato else None,
                    weak=level is not None and marks[row] != "shape"
                    and level + middle - usual[marks[row]] < _WEAK_DB,
                    lifted=jig is not None and i is not None and jig.events[i].lifted,
                )
            )  # fmt: skip
        return tuple(columns)

    def string_levels(self) -> tuple[StringLevel, ...]:
        """How each string speaks; strings with three notes or more."""
        d, jig = self._desk, self._desk.take_jig()
        if d.judged is None or jig is None:
            return ()
        return measure_strings([n.measured for n in d.judged.notes], jig)

    def ring_notes(self) -> tuple[tuple[str, ...], tuple[RingNote, ...]]:
        """Strings, and for every note what it could wake and what rang."""
        d = self._desk
        if d.judged is None:
            return (), ()
        context = d.context()
        names = tuple(letter_name(s) for s in context.strings)
        return names, ring_notes(d.judged, context)

    def ring_counts(self) -> tuple[StringCount, ...]:
        """What every string did in the take."""
        d = self._desk
        return () if d.judged is None else count_strings(d.judged.notes)
