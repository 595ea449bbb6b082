"""A take in a few figures: what trends, ladders and the day's record are made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import isfinite

import numpy as np

from jigwright.core.gauge.values import BowChange, Ring, Stroke, Timing
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult, all_met
from jigwright.core.judge.changes import FEWEST, ROOM_TAIL_S, place_of
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.sounding import could_ring
from jigwright.core.values import Unmeasured, median

SUMMARY_VERSION = 10
_FEWEST_RINGS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeSummary:
    """Figures of one take.

    Parameters
    ----------
    n_notes, n_missed : int
        Notes that could be judged; notes left out, or of which it cannot be told: no take that
        holds one is known to be good.
    inside : float
        Share of the notes within the tolerance.
    off_cents : float or None
        Median distance from the targets.
    bias_cents : float or None
        Median with its sign.
    spread_cents : float or None
        Middle two thirds, half.
    uneven_time : float or None
        Scatter of the spacing, per cent of a step.
    uneven_level_db : float or None
        Robust scatter of the notes' loudness.
    unsteady_down_db, unsteady_up_db : float or None
        How much the level wavers inside a stroke, median of the strokes of a direction; strokes
        without a written direction count as down.
    longest_down_s, longest_up_s : float or None
        The longest stroke of each written direction.
    gap_frog_ms, gap_tip_ms : float or None
        Median hole at the changes of bow, by the written bowing; ``None`` where there were fewer
        than two, or a room fills them.
    ring_share : float or None
        Notes that woke a string, of those that could and of which it can be told; ``None`` where
        there were fewer than four.
    aims_met : bool or None
        Whether every aim of the jig was measured and met; ``None``: there were none to meet.
    """

    n_notes: int
    n_missed: int
    inside: float
    off_cents: float | None
    bias_cents: float | None
    spread_cents: float | None
    uneven_time: float | None = None
    uneven_level_db: float | None = None
    unsteady_down_db: float | None = None
    unsteady_up_db: float | None = None
    longest_down_s: float | None = None
    longest_up_s: float | None = None
    gap_frog_ms: float | None = None
    gap_tip_ms: float | None = None
    ring_share: float | None = None
    aims_met: bool | None = None


def with_playing(
    summary: TakeSummary, timing: Timing | Unmeasured, strokes: Sequence[Stroke]
) -> TakeSummary:
    """Add what the time and the strokes of a take show."""
    down = _steadiness(strokes, ("down", "unknown"))
    up = _steadiness(strokes, ("up",))
    summary = replace(with_lengths(summary, strokes), unsteady_down_db=down, unsteady_up_db=up)
    if isinstance(timing, Unmeasured):
        return summary
    even = timing.evenness_time
    return replace(
        summary, uneven_time=even if isfinite(even) else None,
        uneven_level_db=timing.evenness_level_db,
    )  # fmt: skip


def with_lengths(summary: TakeSummary, strokes: Sequence[Stroke]) -> TakeSummary:
    """Add the longest stroke of each written direction."""
    longest = {
        way: max((s.end_s - s.start_s for s in strokes if s.direction == way), default=None)
        for way in ("down", "up")
    }
    return replace(summary, longest_down_s=longest["down"], longest_up_s=longest["up"])


def with_changes(
    summary: TakeSummary, changes: Sequence[BowChange], *, tail_s: float
) -> TakeSummary:
    """Add the holes at the changes of bow.

    Parameters
    ----------
    summary : TakeSummary
    changes : sequence of BowChange
    tail_s : float
        How long notes linger in the take: a room fills holes.
    """
    if tail_s > ROOM_TAIL_S:
        return summary
    gaps = {place: [c.gap_ms for c in changes if place_of(c) == place] for place in ("frog", "tip")}
    usual = {
        place: median(found) if len(found) >= FEWEST else None for place, found in gaps.items()
    }
    return replace(summary, gap_frog_ms=usual["frog"], gap_tip_ms=usual["tip"])


def with_rings(summary: TakeSummary, notes: Sequence[JudgedNote]) -> TakeSummary:
    """Add how many of the rings that were to be had were won."""
    told = [n.measured.ring for n in notes if could_ring(n)]
    if len(told) < _FEWEST_RINGS:
        return summary
    return replace(
        summary, ring_share=sum(isinstance(r, Ring) and bool(r.rang) for r in told) / len(told)
    )


def with_aims(summary: TakeSummary, aims: tuple[AimResult, ...]) -> TakeSummary:
    """Add whether the aims were met."""
    asked = any(a.state != "not_asked" for a in aims)
    return replace(summary, aims_met=all_met(aims) if asked else None)


def _steadiness(strokes: Sequence[Stroke], directions: tuple[str, ...]) -> float | None:
    values = [
        s.steadiness_db for s in strokes if s.direction in directions and isfinite(s.steadiness_db)
    ]
    return median(values) if values else None


def summarise(notes: Sequence[JudgedNote]) -> TakeSummary:
    """Summarise a judged take; retries and extra notes are left out."""
    played = [n for n in notes if n.measured.lined.state == "played" and n.cents is not None]
    missed = sum(n.standing in ("missed", "uncertain") for n in notes)
    cents = np.array([n.cents for n in played if abs(n.cents or 0.0) < 90.0], dtype=float)
    if not len(cents):
        return TakeSummary(
            n_notes=0, n_missed=missed, inside=0.0, off_cents=None, bias_cents=None,
            spread_cents=None,
        )  # fmt: skip
    low, high = np.percentile(cents, [100 / 6, 500 / 6])
    return TakeSummary(
        n_notes=len(played), n_missed=missed,
        inside=sum(n.standing == "in" for n in played) / len(played),
        off_cents=float(np.median(np.abs(cents))), bias_cents=float(np.median(cents)),
        spread_cents=float(0.5 * (high - low)),
    )  # fmt: skip


def is_good(summary: TakeSummary, jig: Jig | None, *, share: float = 0.9) -> bool:
    """Whether a take counts for a ladder: its aims met, whatever else it was like.

    Where there are no aims, nearly all notes inside and none left out.
    """
    if summary.aims_met is not None:
        return summary.aims_met
    wanted = len(jig.events) if jig is not None else 1
    return (
        summary.inside >= share
        and summary.n_missed == 0
        and summary.n_notes >= max(1, round(0.9 * wanted))
    )
