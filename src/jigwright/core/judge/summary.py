"""A take in a few figures: what trends, ladders and the day's record are made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote

SUMMARY_VERSION = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeSummary:
    """Figures of one take.

    Parameters
    ----------
    n_notes, n_missed : int
        Notes that could be judged; notes left out.
    inside : float
        Share of the notes within the tolerance.
    off_cents : float or None
        Median distance from the targets.
    bias_cents : float or None
        Median with its sign.
    spread_cents : float or None
        Middle two thirds, half.
    """

    n_notes: int
    n_missed: int
    inside: float
    off_cents: float | None
    bias_cents: float | None
    spread_cents: float | None


def summarise(notes: Sequence[JudgedNote]) -> TakeSummary:
    """Summarise a judged take; retries and extra notes are left out."""
    played = [n for n in notes if n.measured.lined.state == "played" and n.cents is not None]
    missed = sum(n.standing == "missed" for n in notes)
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
    """Whether a take counts for a ladder: nearly all notes inside and none left out."""
    wanted = len(jig.events) if jig is not None else 1
    return (
        summary.inside >= share
        and summary.n_missed == 0
        and summary.n_notes >= max(1, round(0.9 * wanted))
    )
