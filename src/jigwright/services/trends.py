"""How a figure went over the takes of a jig; nothing is compared across inputs or methods."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from jigwright.core.jig.model import Jig
from jigwright.core.judge.trend import (
    MORE_IS_BETTER,
    ChangePoint,
    find_change,
    stands_still,
)
from jigwright.services.records import TakeRecord
from jigwright.services.summaries import Summaries

FIGURES = (
    "off_cents", "spread_cents", "inside", "bias_cents", "uneven_time", "uneven_level_db",
    "unsteady_down_db", "unsteady_up_db", "longest_down_s", "longest_up_s", "gap_frog_ms",
    "gap_tip_ms", "ring_share",
)  # fmt: skip
SHARES = ("inside", "ring_share")  # shown per cent
PART_FIGURES = (
    "off_cents", "spread_cents", "inside", "bias_cents", "longest_down_s", "longest_up_s",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendPoint:
    """One take of a trend.

    Parameters
    ----------
    take_id : str
    day : str
    value : float
    cut_before : bool
        Another input or instrument begins here: nothing is compared across.
    """

    take_id: str
    day: str
    value: float
    cut_before: bool


def trend(
    takes: Sequence[TakeRecord], summaries: Summaries, jig_id: str, figure: str, part: str = ""
) -> list[TrendPoint]:
    """Values of a figure over the takes of a jig, of all notes or of one part of them."""
    points: list[TrendPoint] = []
    before: TakeRecord | None = None
    for take in takes:
        if take.jig_id != jig_id:
            continue
        summary = summaries.known(take)
        if part and summary is not None:
            summary = summaries.of_part(take, part)
        value = getattr(summary, figure) if summary is not None else None
        if value is None or not summaries.is_of_now(take):
            continue  # what an older method heard is not compared with what this one hears
        other = before is not None and (
            before.input_name != take.input_name or before.instrument_id != take.instrument_id
        )
        points.append(
            TrendPoint(
                take_id=take.id, day=take.day.isoformat(),
                value=100.0 * value if figure in SHARES else float(value), cut_before=other,
            )
        )  # fmt: skip
        before = take
    return points


def of_before(takes: Sequence[TakeRecord], summaries: Summaries, jig_id: str) -> int:
    """How many takes of a jig an older method heard: they come into the trend when heard anew."""
    return sum(t.jig_id == jig_id and not summaries.is_of_now(t) for t in takes)


def newest_stretch(points: Sequence[TrendPoint]) -> int:
    """Where the newest stretch begins that may be compared with itself."""
    return max((i for i, p in enumerate(points) if p.cut_before), default=0)


def best_point(points: Sequence[TrendPoint], figure: str) -> TrendPoint | None:
    """The best take since input or instrument last changed; a bias has none."""
    if not points or figure == "bias_cents":
        return None
    best = max if figure in MORE_IS_BETTER else min
    return best(points[newest_stretch(points) :], key=lambda p: p.value)


def is_best_of_all(best: TrendPoint, points: Sequence[TrendPoint], figure: str) -> bool:
    """Whether no dot that is shown is better, through whatever input."""
    if figure in MORE_IS_BETTER:
        return best.value >= max(p.value for p in points)
    return best.value <= min(p.value for p in points)


def is_flat(points: Sequence[TrendPoint]) -> bool:
    """Whether the newest uncut stretch stands still."""
    part = points[newest_stretch(points) :]
    return stands_still([p.value for p in part], [p.day for p in part])


def change_in(points: Sequence[TrendPoint], *, looked_at: int) -> ChangePoint | None:
    """The change the newest uncut stretch supports, of so many figures and parts on offer."""
    first = newest_stretch(points)
    part = points[first:]
    found = find_change([p.value for p in part], [p.day for p in part], looked_at=looked_at)
    return None if found is None else replace(found, at=found.at + first)


def parts_of_jig(jig: Jig | None) -> list[str]:
    """What a trend can be narrowed to: fingers, strings and notes of a jig."""
    heads = [h for e in jig.events for h in e.heads] if jig is not None else []
    fingers = sorted({h.finger for h in heads if h.finger is not None})
    strings = sorted({h.string for h in heads if h.string is not None})
    pitches = sorted({h.pitch for h in heads}, key=lambda p: p.midi)
    return [
        *(f"finger:{f}" for f in fingers), *(f"string:{s}" for s in strings),
        *(f"note:{p}" for p in pitches),
    ]  # fmt: skip


def jigs_played(takes: Sequence[TakeRecord]) -> list[str]:
    """Ids of jigs with takes, most played first."""
    count: dict[str, int] = {}
    for take in takes:
        if take.jig_id is not None:
            count[take.jig_id] = count.get(take.jig_id, 0) + 1
    return sorted(count, key=lambda j: -count[j])
