"""What rang after the notes of a take, for lane and map."""

from __future__ import annotations

from math import isfinite

from jigwright.core.gauge.ring import meetings
from jigwright.core.gauge.values import Ring
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context, JudgedNote
from jigwright.core.judge.sounding import fits
from jigwright.core.music.references import pure_strings
from jigwright.core.music.sympathy import OPEN_T60_S, USUAL_T60_S
from jigwright.ui.painting.ring_map import RingNote, RingString
from jigwright.wording.notes import class_name


def ring_notes(judged: Judged, context: Context) -> tuple[RingNote, ...]:
    """For every note what it could wake, and what rang."""
    open_hz = tuple(pure_strings(context.strings, context.a4_hz).values())
    t60_s = OPEN_T60_S.get(context.instrument_id, USUAL_T60_S)
    return tuple(_ring_note(n, open_hz, t60_s) for n in judged.notes)


def _ring_note(note: JudgedNote, open_hz: tuple[float, ...], t60_s: float) -> RingNote:
    ring, segment = note.measured.ring, note.measured.segment
    offset_s = segment.offset_s if segment is not None else None
    if isinstance(ring, Ring):
        told = tuple(
            RingString(
                string=s.meeting.string, state=s.state, share_db=s.meeting.share_db,
                level_db=s.level_db if isfinite(s.level_db) else None,
                decay_s=s.decay_s if isfinite(s.decay_s) else None,
                to_be_had=fits(s, note.cents),
            )
            for s in ring.strings
        )  # fmt: skip
    else:  # what it could wake can be said all the same
        told = tuple(
            RingString(string=m.string, state="unknown", share_db=m.share_db)
            for m in meetings(note.target_hz, open_hz, t60_s)
            if m.string != note.string
        )
    return RingNote(name=class_name(note.pitch), strings=told, offset_s=offset_s)
