"""How much bow each note takes and where in the bow it lies (B6).

A plan, not a measurement: the bow goes just slowly enough for the middling stroke of the jig to
fit; inside that its speed follows the marked loudness (twice the speed is about 6 dB louder at one
contact point), the way it goes follows the strokes, and what is spent is
taken from the usable hair, which leaves out the last inch at the frog. Where a stroke would need
more than there is it runs out; where the strokes of one direction spend more than the others give
back, the bow ends at the wrong end.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jigwright.core.jig.model import Event, Jig
from jigwright.core.jig.pace import written_seconds
from jigwright.core.jig.phrases import written_loudness
from jigwright.core.jig.signs import Dynamic

Trouble = Literal["runs_out", "wrong_end"]
Remedy = Literal["less_bow", "retake", "new_slur"]
# share of the usable bow in a second at each marking; a whole bow lasts 2 s in mezzoforte
_SPEED: dict[Dynamic, float] = {
    "ppp": 0.1, "pp": 0.15, "p": 0.25, "mp": 0.38, "mf": 0.5, "f": 0.75, "ff": 1.0, "fff": 1.25,
}  # fmt: skip
_EDGE = 0.12
_SLOWEST = 5.0  # a bow of ten seconds is as slow as a plan takes for granted


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedNote:
    """One note's share of the bow.

    Parameters
    ----------
    i_event : int
    start, end : float
        Place in the usable bow, 0 = frog, 1 = tip.
    dynamic : Dynamic
    trouble : Trouble or None
    """

    i_event: int
    start: float
    end: float
    dynamic: Dynamic
    trouble: Trouble | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedStroke:
    """One stroke.

    Parameters
    ----------
    direction : str
    notes : tuple of PlannedNote
    wanted : float
        Bow its notes would like, in whole bows.
    spent : float
        Bow they get.
    trouble : Trouble or None
    remedy : Remedy or None
    """

    direction: str
    notes: tuple[PlannedNote, ...]
    wanted: float
    spent: float
    trouble: Trouble | None
    remedy: Remedy | None


def plan_bow(
    jig: Jig, *, usable_mm: float = 600.0, start: float | None = None
) -> tuple[PlannedStroke, ...]:
    """Lay the strokes of a jig into the bow.

    Parameters
    ----------
    jig : Jig
    usable_mm : float
        Hair that is used; a shorter bow runs out sooner. 600 mm is usual for a violin.
    start : float, optional
        Where the first stroke begins, 0 = frog; a down bow begins at the frog otherwise.

    Returns
    -------
    tuple of PlannedStroke
        Empty for plucked jigs.
    """
    strokes = _strokes(jig)
    if not strokes:
        return ()
    per_s = 600.0 / usable_mm / _slowing(jig, strokes)
    at = (0.0 if strokes[0][0] == "down" else 1.0) if start is None else start
    loud: Dynamic = "mf"
    loudness, lengths = written_loudness(jig), written_seconds(jig)
    planned = []
    for k, (direction, members) in enumerate(strokes):
        sign = 1.0 if direction == "down" else -1.0
        wants = []
        for i in members:
            loud = loudness[i] or loud
            seconds = lengths[i]
            wants.append((i, _SPEED[loud] * per_s * seconds, loud))
        wanted = sum(w for _, w, _ in wants)
        room = 1.0 - at if sign > 0 else at
        trouble: Trouble | None = None
        if wanted > 1.05:
            trouble = "runs_out"
        elif wanted > room + 1e-9 and wanted - room > _EDGE:
            trouble = "wrong_end"
        scale = min(1.0, max(room, 0.05) / wanted) if wanted > 0 else 1.0
        notes = []
        for i, want, dynamic in wants:
            end = min(1.0, max(0.0, at + sign * want * scale))
            notes.append(
                PlannedNote(i_event=i, start=at, end=end, dynamic=dynamic, trouble=trouble)
            )
            at = end
        planned.append(
            PlannedStroke(
                direction=direction, notes=tuple(notes), wanted=wanted,
                spent=abs(notes[-1].end - notes[0].start), trouble=trouble,
                remedy=_remedy(trouble, wanted, strokes, k, jig.events),
            )
        )  # fmt: skip
    return tuple(planned)


def _slowing(jig: Jig, strokes: Sequence[tuple[str, list[int]]]) -> float:
    """How much slower than usual the bow goes so that the middling stroke fits into 600 mm."""
    loud: Dynamic = "mf"
    loudness, lengths = written_loudness(jig), written_seconds(jig)
    wanted = []
    for _, members in strokes:
        total = 0.0
        for i in members:
            loud = loudness[i] or loud
            total += _SPEED[loud] * lengths[i]
        wanted.append(total)
    return min(_SLOWEST, max(1.0, sorted(wanted)[(len(wanted) - 1) // 2]))


def _strokes(jig: Jig) -> list[tuple[str, list[int]]]:
    strokes: list[tuple[str, list[int]]] = []
    for i, event in enumerate(jig.events):
        if event.pluck:
            continue
        if event.bow is not None or not strokes:
            strokes.append((event.bow or "down", [i]))
        else:
            strokes[-1][1].append(i)
    return strokes


def _remedy(
    trouble: Trouble | None,
    wanted: float,
    strokes: Sequence[tuple[str, list[int]]],
    k: int,
    events: Sequence[Event],
) -> Remedy | None:
    if trouble is None:
        return None
    if trouble == "runs_out":
        return "new_slur" if len(strokes[k][1]) > 1 and wanted > 1.4 else "less_bow"
    before = events[strokes[k][1][0] - 1] if strokes[k][1][0] else None
    gap = before is not None and events[strokes[k][1][0]].onset_beats > before.end_beats
    return "retake" if gap else "less_bow"
