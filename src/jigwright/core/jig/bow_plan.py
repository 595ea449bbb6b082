"""How much bow each note takes and where in the bow it lies (B6).

A plan, not a measurement. What is set in the jig holds; everything else is laid out as a player
would: at one contact point twice the speed is about 6 dB louder, so length and marked loudness say
how much hair a stroke wants; fast and springing strokes have their place in the bow, soft ones
live from middle to tip, loud ones nearer the frog; a stroke goes on from where the last one ended
unless the bow leaves the string. Of all ways to lay the strokes out, the one with the least
deviation from all of this is taken (dynamic programming over the place in the bow). Shares are of
the usable hair, which leaves out the last inch at the frog.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from math import log2
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from jigwright.core.jig.aims import aims_of
from jigwright.core.jig.bow_places import places_written
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, written_seconds
from jigwright.core.jig.phrases import written_loudness
from jigwright.core.jig.signs import Dynamic
from jigwright.core.jig.voices import strokes as spans_of

Begin = Literal["first", "turned", "hooked", "again", "lifted"]
# share of the usable bow in a second at each marking; a whole bow lasts 2 s in mezzoforte
SPEED: dict[Dynamic, float] = {
    "ppp": 0.1, "pp": 0.15, "p": 0.25, "mp": 0.38, "mf": 0.5, "f": 0.75, "ff": 1.0, "fff": 1.25,
}  # fmt: skip
USABLE_MM = {"violin": 600.0, "viola": 600.0, "cello": 560.0, "bass": 520.0}
"""Hair of usual bows less the last inch at the frog."""
_USUAL_MM = 600.0
_STEPS = 64
_NO_WAY = 1e4  # of a stroke that would go the other way
_FAST_S = 0.3  # a stroke that is shorter lies where fast strokes lie
_TO_PLACE_S = 0.3  # rests from here on leave time to bring the bow somewhere else
_HELD_TO = 40.0  # weight of a share that was set against one that was only proposed
_AGAIN_COST = 1.5  # of taking the bow back where nothing says so
_END_COST = 0.4  # of not beginning at the end the stroke comes from


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedNote:
    """One note's share of the bow.

    Parameters
    ----------
    i_event : int
    start, end : float
        Place in the usable bow, 0 = frog, 1 = tip.
    dynamic : Dynamic
    is_set : bool
        Its share was set by somebody, not proposed.
    """

    i_event: int
    start: float
    end: float
    dynamic: Dynamic
    is_set: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedStroke:
    """One stroke.

    Parameters
    ----------
    direction : str
    begins : Begin
        ``turned`` goes on from where the last stroke ended, ``hooked`` does so in the same
        direction; ``again`` takes the bow back, ``lifted`` puts it down anew after a lift or rest.
    notes : tuple of PlannedNote
    seconds : float
        Written duration.
    wanted : float
        Hair its notes would like at the speed of their loudness, in usable bows.
    is_set : bool
        The place where it begins was set by somebody.
    """

    direction: str
    begins: Begin
    notes: tuple[PlannedNote, ...]
    seconds: float
    wanted: float
    is_set: bool = False

    @property
    def spent(self) -> float:
        """Hair that it gets, in usable bows."""
        return abs(self.notes[-1].end - self.notes[0].start)

    @property
    def haste(self) -> float:
        """How much faster the bow goes than loudness and length ask; 1 = as they ask."""
        return self.spent / min(1.0, max(self.wanted, 1.0 / _STEPS))


@dataclass(frozen=True, slots=True)
class _Wish:
    """What one stroke asks for: hair, place, and how strongly."""

    sign: int
    begins: Begin
    hair: float
    hair_weight: float
    home: float
    home_weight: float
    start: float | None
    long: bool


def plan_bow(jig: Jig, *, usable_mm: float | None = None) -> tuple[PlannedStroke, ...]:
    """Lay the strokes of a jig into the bow.

    Parameters
    ----------
    jig : Jig
    usable_mm : float, optional
        Hair that is used; a shorter bow is spent sooner. Usual for the instrument otherwise.

    Returns
    -------
    tuple of PlannedStroke
        Without plucked notes; empty where all are plucked.
    """
    return _planned(jig, usable_mm or USABLE_MM.get(jig.instrument_id, _USUAL_MM))


@lru_cache(maxsize=16)
def _planned(jig: Jig, usable_mm: float) -> tuple[PlannedStroke, ...]:
    spans = [(a, b) for a, b in spans_of(jig.events) if not jig.events[a].pluck]
    if not spans:
        return ()
    time = WrittenTime(jig)
    lengths = written_seconds(jig)
    loud = _loudness(jig)
    per_s = _USUAL_MM / usable_mm
    wants = [SPEED[loud[i]] * per_s * lengths[i] for i in range(len(jig.events))]
    ways = _directions(jig, spans)
    begins = _begins(jig, spans, ways, time)
    places = places_written(jig)
    springing = any(a.kind == "off_string" for a in aims_of(jig))
    seconds = [sum(lengths[a : b + 1]) for a, b in spans]
    wishes = [
        _wish(jig, span, ways[k], begins[k], places[k], wants, loud, seconds[k],
              springing=springing)
        for k, span in enumerate(spans)
    ]  # fmt: skip
    laid = _laid_out(wishes)
    return tuple(
        PlannedStroke(
            direction=ways[k], begins=_as_laid(wishes[k].begins, laid, k),
            notes=_notes(jig, span, laid[k], wants, loud), seconds=seconds[k],
            wanted=sum(wants[span[0] : span[1] + 1]), is_set=wishes[k].start is not None,
        )
        for k, span in enumerate(spans)
    )  # fmt: skip


def _loudness(jig: Jig) -> list[Dynamic]:
    found: list[Dynamic] = []
    loud: Dynamic = "mf"
    for mark in written_loudness(jig):
        loud = mark or loud
        found.append(loud)
    return found


def _directions(jig: Jig, spans: Sequence[tuple[int, int]]) -> list[str]:
    """Of every stroke; one that gives none turns from the one before."""
    found: list[str] = []
    for a, _ in spans:
        turned = "up" if found and found[-1] == "down" else "down"
        found.append(jig.events[a].bow or turned)
    return found


def _begins(
    jig: Jig, spans: Sequence[tuple[int, int]], ways: Sequence[str], time: WrittenTime
) -> list[Begin]:
    found: list[Begin] = ["first"]
    for k in range(1, len(spans)):
        before, event = jig.events[spans[k - 1][1]], jig.events[spans[k][0]]
        rest_s = time.at(event.onset_beats) - time.at(before.end_beats)
        if before.lifted or rest_s >= _TO_PLACE_S:
            found.append("lifted")
        else:
            found.append("hooked" if ways[k] == ways[k - 1] else "turned")
    return found


def _wish(
    jig: Jig, span: tuple[int, int], way: str, begins: Begin, written: float | None,
    wants: Sequence[float], loud: Sequence[Dynamic], seconds: float, *, springing: bool,
) -> _Wish:  # fmt: skip
    events = jig.events[span[0] : span[1] + 1]
    shares = [e.bow_share for e in events]
    hair = sum(w if s is None else s for s, w in zip(shares, wants[span[0] :], strict=False))
    n_set = sum(s is not None for s in shares)
    weight = 1.0 + (_HELD_TO if n_set == len(shares) else 4.0 * n_set)
    off = springing or any(m in ("spiccato", "staccatissimo") for e in events for m in e.marks)
    start = events[0].bow_place
    if start is not None and begins in ("turned", "hooked"):
        begins = "lifted"
    home, home_weight = _home(loud[span[0]], seconds, off=off)
    if written is not None:
        home, home_weight = written, 12.0
    return _Wish(
        sign=1 if way == "down" else -1, begins=begins, hair=min(1.0, max(hair, 1.0 / _STEPS)),
        hair_weight=weight, home=home, home_weight=home_weight, start=start,
        long=seconds >= 1.0 and written is None,
    )  # fmt: skip


def _home(loud: Dynamic, seconds: float, *, off: bool) -> tuple[float, float]:
    """Where in the bow such a stroke lies, and how much that matters."""
    if off:
        return 0.33, 10.0  # around the balance
    if seconds < _FAST_S:
        return {"f": 0.5, "ff": 0.45, "fff": 0.45}.get(loud, 0.6), 4.0
    if loud in ("ppp", "pp", "p"):
        return 0.7, 2.0
    if loud in ("f", "ff", "fff"):
        return 0.4, 1.5
    return 0.5, 0.8


def _laid_out(wishes: Sequence[_Wish]) -> list[tuple[float, float]]:
    """Start and end of every stroke, 0 … 1, at the least cost over all of them."""
    grid = np.linspace(0.0, 1.0, _STEPS + 1)
    best = np.zeros(_STEPS + 1)
    from_start: list[NDArray[np.intp]] = []
    from_place: list[NDArray[np.intp]] = []
    for wish in wishes:
        entry, came = _entered(best, grid, wish)
        from_place.append(came)
        cost = entry[:, None] + _stroke_cost(wish)
        from_start.append(np.argmin(cost, axis=0))
        best = cost[from_start[-1], np.arange(_STEPS + 1)]
    at = int(np.argmin(best))
    laid = []
    for starts, places in zip(reversed(from_start), reversed(from_place), strict=True):
        start = int(starts[at])
        laid.append((float(grid[start]), float(grid[at])))
        at = int(places[start])
    return laid[::-1]


def _entered(
    best: NDArray[np.float64], grid: NDArray[np.float64], wish: _Wish
) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """Cost of beginning a stroke at each place, and where the one before ended for it."""
    here = np.arange(len(grid))
    freely = np.full(len(grid), float(best.min()))
    if wish.long:
        freely = freely + _END_COST * (grid if wish.sign > 0 else 1.0 - grid)
    came_freely = np.full(len(grid), int(np.argmin(best)))
    if wish.start is not None:
        freely = freely + 1e3 * np.abs(grid - wish.start)
    if wish.begins in ("first", "lifted"):
        return freely, came_freely
    if wish.begins == "turned":
        return best, here
    again = freely + _AGAIN_COST
    keeps = best <= again
    return np.where(keeps, best, again), np.where(keeps, here, came_freely)


def _stroke_cost(wish: _Wish) -> NDArray[np.float64]:
    """Cost of a stroke from each place (rows) to each other (columns)."""
    log_hair, middle = _ways(wish.sign)
    off = middle - wish.home
    ratio = log_hair - log2(wish.hair)
    return wish.hair_weight * ratio * ratio + wish.home_weight * off * off


@cache
def _ways(sign: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Logarithm of the hair, and the middle, of every stroke that goes one way on the grid."""
    grid = np.linspace(0.0, 1.0, _STEPS + 1)
    hair = sign * (grid[None, :] - grid[:, None])
    with np.errstate(divide="ignore", invalid="ignore"):
        log_hair = np.where(hair > 0, np.log2(np.where(hair > 0, hair, 1.0)), _NO_WAY)
    return log_hair, 0.5 * (grid[None, :] + grid[:, None])


def _as_laid(begins: Begin, laid: Sequence[tuple[float, float]], k: int) -> Begin:
    """A stroke in the direction of the last that does not go on from there is taken back."""
    if begins == "hooked" and abs(laid[k][0] - laid[k - 1][1]) > 0.5 / _STEPS:
        return "again"
    return begins


def _notes(
    jig: Jig, span: tuple[int, int], place: tuple[float, float], wants: Sequence[float],
    loud: Sequence[Dynamic],
) -> tuple[PlannedNote, ...]:  # fmt: skip
    """The notes of a stroke: shares that were set, the others by their wishes."""
    start, end = place
    spent = end - start
    rows = range(span[0], span[1] + 1)
    shares = [jig.events[i].bow_share for i in rows]
    fixed = sum(s for s in shares if s is not None)
    open_wants = sum(wants[i] for i, s in zip(rows, shares, strict=True) if s is None)
    left = max(abs(spent) - fixed, 0.02 * sum(s is None for s in shares))
    sizes = [
        s if s is not None else left * (wants[i] / open_wants if open_wants else 1.0)
        for i, s in zip(rows, shares, strict=True)
    ]
    total = sum(sizes)
    notes = []
    done = 0.0
    for i, share, size in zip(rows, shares, sizes, strict=True):
        a, done = done, done + size
        notes.append(
            PlannedNote(
                i_event=i, start=start + spent * a / total, end=start + spent * done / total,
                dynamic=loud[i], is_set=share is not None,
            )
        )  # fmt: skip
    return tuple(notes)
