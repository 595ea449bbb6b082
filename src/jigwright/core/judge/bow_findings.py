"""What the bow did, when it is worth saying.

Only events that the event gauge found; a single rough moment may be the room or a page, so scratch
and neighbour strings need two, or one that is very strong; in a room, whose waves look alike, so do
shaking and bouncing. Gaps that are wanted (lifted notes),
plucked notes and free places are left out.
"""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.gauge.values import BowEvent, Level, Pluck
from jigwright.core.jig.model import Jig
from jigwright.core.judge.findings import Finding
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.playing import Playing

_STRONG_DB = 10.0
_LEAST = {"bounce": 1, "shake": 1, "scratch": 2, "neighbour_string": 2, "fold": 1, "whistle": 1}
_LEAST_IN_ROOM = {**_LEAST, "bounce": 2, "shake": 2}  # single waves of level are the room's
_WHISTLE_IN_ROOM_DB = 6.0  # above the tone: a room that lacks a tone leaves its high partials
_WEIGHT = {
    "bounce": 0.9,
    "shake": 0.85,
    "scratch": 0.8,
    "neighbour_string": 0.8,
    "fold": 1.1,
    "whistle": 0.85,
}


def find_bow(notes: Sequence[JudgedNote], playing: Playing, jig: Jig | None) -> list[Finding]:
    """Findings about the bow, one for each kind of event.

    Parameters
    ----------
    notes : sequence of JudgedNote
    playing : Playing
    jig : Jig or None
    """
    by_kind: dict[str, list[BowEvent]] = {}
    for event in playing.events:
        if event.row < len(notes) and not _excused(notes[event.row], event, jig):
            by_kind.setdefault(event.kind, []).append(event)
    found = []
    for kind, events in by_kind.items():
        strongest = max(e.strength for e in events)
        loud = kind == "scratch" and strongest >= _STRONG_DB and not playing.in_room
        if kind == "whistle" and playing.in_room and strongest < _WHISTLE_IN_ROOM_DB:
            continue
        least = (_LEAST_IN_ROOM if playing.in_room else _LEAST).get(kind)
        if least is None or (len(events) < least and not loud):
            continue
        rows = tuple(dict.fromkeys(e.row for e in events))
        values = {"n": float(len(rows)), "strength": strongest}
        level = notes[rows[0]].measured.level
        if kind == "shake" and isinstance(level, Level):
            values["rate_hz"] = level.tremor_hz
        found.append(
            Finding(
                id=f"bow_{kind}", severity=_WEIGHT[kind] + 0.1 * min(5, len(rows)), notes=rows,
                pitch=notes[rows[0]].pitch, values=values,
            )
        )  # fmt: skip
    return found


def _excused(note: JudgedNote, event: BowEvent, jig: Jig | None) -> bool:
    i = note.measured.lined.i_event
    if isinstance(note.measured.pluck, Pluck):
        return True
    if jig is None or i is None:
        return False
    written = jig.events[i]
    return written.free or (written.lifted and event.kind == "bounce")
