"""What a take gave for one aim: met, not met, cannot be told, or not asked of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import isfinite
from typing import Literal

from jigwright.core.jig.aims import LIMITS, Aim, Sense, limit_of
from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.own_best import NO_BEST, OwnBest
from jigwright.core.judge.playing import Playing

_SOUNDED = ("played", "retry")
AimState = Literal["met", "not_met", "cannot_tell", "not_asked"]


@dataclass(frozen=True, slots=True, kw_only=True)
class AimResult:
    """One aim held against a take.

    Parameters
    ----------
    aim : Aim
    state : AimState
        A figure whose uncertainty reaches over the limit cannot be told.
    figure : float or None
        In the unit of the aim's kind.
    uncertainty : float
        Half its 95 % range.
    limit : float or None
    row : int or None
        The note that decided it.
    at_s : float or None
        Where inside the take, when it is a moment.
    part : str
        ``beginning``, ``middle`` or ``end`` of the stroke, ``frog``, ``middle_of_bow`` or ``tip``;
        empty where that says nothing.
    direction : str
        ``down`` or ``up`` of the stroke; empty where that says nothing.
    detail : str
        What it was, for kinds with several faults: ``bounce``, ``scratch``, ``swell``, ``early`` …
    reason : str
        Why it cannot be told.
    """

    aim: Aim
    state: AimState
    figure: float | None = None
    uncertainty: float = 0.0
    limit: float | None = None
    row: int | None = None
    at_s: float | None = None
    part: str = ""
    direction: str = ""
    detail: str = ""
    reason: str = ""

    @property
    def unit(self) -> str:
        """Of the figure."""
        return LIMITS[self.aim.kind].unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What aims are judged from.

    Parameters
    ----------
    notes : sequence of JudgedNote
    playing : Playing
    jig : Jig
    tolerance_cents : float
        That the take is judged by; aims with a limit of their own keep theirs.
    best : OwnBest
        Of this player in this exercise so far, for aims that are held against it.
    """

    notes: Sequence[JudgedNote]
    playing: Playing
    jig: Jig
    tolerance_cents: float
    best: OwnBest = NO_BEST

    def limit(self, aim: Aim) -> float:
        """The limit that holds here."""
        if aim.limit is None and aim.kind in ("pitch", "second_arrival"):
            return self.tolerance_cents
        return limit_of(aim, self.jig) or 0.0

    def rows(self, aim: Aim, *, heard: bool = True, again: bool = False) -> list[int]:
        """Rows of written notes that an aim holds for; ``again``: with further attempts."""
        asked = set(aim.places)
        found = []
        for row, n in enumerate(self.notes):
            i = n.measured.lined.i_event
            if i is None or (n.measured.lined.attempt != 1 and not again):
                continue
            if heard and (n.measured.segment is None or n.measured.lined.state not in _SOUNDED):
                continue
            if not asked or self.jig.events[i].id in asked:
                found.append(row)
        return found

    def event(self, row: int) -> int:
        """Event of a row that has one."""
        i = self.notes[row].measured.lined.i_event
        assert i is not None
        return i


def cannot_tell(aim: Aim, reason: str, *, row: int | None = None) -> AimResult:
    """Refuse."""
    return AimResult(aim=aim, state="cannot_tell", reason=reason, row=row)


def held_against(result: AimResult, limit: float, *, sense: Sense | None = None) -> AimResult:
    """Decide by a limit: a figure whose uncertainty reaches over it cannot be told."""
    sense = sense or LIMITS[result.aim.kind].sense
    assert result.figure is not None
    if not isfinite(result.figure):
        return cannot_tell(result.aim, "not_measured", row=result.row)
    over = result.figure - limit if sense == "most" else limit - result.figure
    result = replace(result, limit=limit)
    if over > result.uncertainty:
        return replace(result, state="not_met")
    if over > 0 or (-over < result.uncertainty and over != 0):
        return replace(result, state="cannot_tell", reason="near_limit")
    return replace(result, state="met")


def weightiest(results: Sequence[AimResult], *, least: bool = False) -> AimResult:
    """The one that says most: not met before cannot tell before met, then the largest figure.

    Parameters
    ----------
    results : sequence of AimResult
        At least one.
    least : bool
        The smallest figure instead, for kinds of which much is asked.
    """
    order = {"not_met": 0, "cannot_tell": 1, "met": 2, "not_asked": 3}
    sign = 1.0 if least else -1.0
    return min(results, key=lambda r: (order[r.state], sign * (r.figure or 0.0)))


def third_of(share: float) -> str:
    """Which third of a stroke."""
    return "beginning" if share < 1 / 3 else "middle" if share <= 2 / 3 else "end"
