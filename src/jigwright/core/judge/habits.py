"""Whether a note is a habit: out the same way over takes, beyond what chance and the day give.

The offsets of all notes in all takes are one table: take effect + note effect + chance. A take that
was high as a whole (another A, a cold instrument) says nothing of one note, so the take effect is
taken away, shrunk by how much takes differ at all (empirical Bayes; Efron & Morris 1975). The
chance is pooled over notes. A note's mean is claimed when it differs from the player's other notes
at one in a hundred over *all* notes looked at (Bonferroni), also those that are not out today;
looks before the twelfth take share one more hundredth among them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

LEAST_TAKES = 4
_FULL_TAKES = 12
_CHANCE = 0.01
_EARLY_SHARE = 1.0 / 8.0  # 4 … 11 takes: eight looks
_NEWEST = 20
_LEAST_FREEDOM = 8
_OF_A_TRIMMED = 1.06  # variance of a trimmed mean re that of a mean
_WRONG_CENTS = 65.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Habit:
    """A note that is out over takes.

    Parameters
    ----------
    note_id : str
    cents : float
        Mean over the takes.
    half_range : float
        Half the 95 % range of it.
    n_takes, n_off : int
        Takes looked at; those in which it was out the same way by more than the tolerance.
    """

    note_id: str
    cents: float
    half_range: float
    n_takes: int
    n_off: int


def find_habits(
    takes: Sequence[Mapping[str, float]], *, tolerance_cents: float
) -> tuple[Habit, ...]:
    """Notes that differ from the player's others over takes.

    Parameters
    ----------
    takes : sequence of mapping of str to float
        Cents by note id, oldest first; the newest twenty count.
    tolerance_cents : float
        A mean of less than half of it is no habit worth a word.
    """
    takes = takes[-_NEWEST:]
    ids = sorted({note for take in takes for note in take})
    table = np.array(
        [[take.get(note, np.nan) for note in ids] for take in takes], dtype=np.float64
    ).reshape(len(takes), len(ids))
    table[np.abs(table) > _WRONG_CENTS] = np.nan  # another note
    counts = np.sum(np.isfinite(table), axis=0)
    kept = counts >= LEAST_TAKES
    ids, table, counts = (
        [n for n, k in zip(ids, kept, strict=True) if k],
        table[:, kept],
        counts[kept],
    )
    if len(ids) < 2:
        return ()
    left = table - _take_effects(table)[:, None]
    means = np.nanmean(left, axis=0)
    chance = left - means
    freedom = int(np.sum(np.isfinite(chance))) - len(ids) - len(takes) + 1
    if freedom < _LEAST_FREEDOM:
        return ()
    spread = float(np.sqrt(np.nansum(chance**2) / freedom))
    error = np.maximum(spread, 1e-6) / np.sqrt(counts)
    level = _CHANCE / len(ids) * (1.0 if len(takes) >= _FULL_TAKES else _EARLY_SHARE)
    limit = student_limit(level, freedom)
    usual = student_limit(0.05, freedom)
    found = []
    for i in np.flatnonzero(np.abs(means) > limit * error):
        values = table[np.isfinite(table[:, i]), i]
        mean = float(np.mean(values))
        if abs(mean) < 0.5 * tolerance_cents:
            continue
        same_way = values * np.sign(mean)
        found.append(
            Habit(
                note_id=ids[i], cents=mean, half_range=usual * float(error[i]),
                n_takes=len(values), n_off=int(np.sum(same_way > tolerance_cents)),
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda h: -abs(h.cents)))


def student_limit(chance: float, freedom: int) -> float:
    """Student's t that is passed with this chance on either side together.

    The normal one and its first two corrections (Abramowitz & Stegun 26.7.5); within 1 % from
    eight degrees of freedom on.
    """
    z = NormalDist().inv_cdf(1.0 - 0.5 * chance)
    first = (z**3 + z) / 4.0
    second = (5 * z**5 + 16 * z**3 + 3 * z) / 96.0
    third = (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384.0
    return z + first / freedom + second / freedom**2 + third / freedom**3


def _trimmed(values: NDArray[np.float64]) -> float:
    """Mean without the outer tenths."""
    cut = len(values) // 10
    return float(np.mean(np.sort(values)[cut : len(values) - cut]))


def _take_effects(table: NDArray[np.float64]) -> NDArray[np.float64]:
    """By how much each take was off as a whole, shrunk towards nothing."""
    n = np.maximum(np.sum(np.isfinite(table), axis=1), 1)
    raw = np.array(
        [_trimmed(row[np.isfinite(row)]) if np.isfinite(row).any() else 0.0 for row in table]
    )
    inside = table - raw[:, None]
    chance = float(np.nanvar(inside - np.nanmean(inside, axis=0), ddof=1)) * _OF_A_TRIMMED / n
    between = max(0.0, float(np.mean(raw**2)) - float(np.mean(chance)))
    return np.asarray(between / np.maximum(between + chance, 1e-9) * raw)
