"""Whether a note is a habit: out the same way over takes, beyond what chance and the day give.

The offsets of all notes in all takes are one table: take effect + note effect + chance. A take that
was high as a whole (another A, a cold instrument) says nothing of one note, so the take effect is
taken away, shrunk by how much takes differ at all (empirical Bayes; Efron & Morris 1975). The
chance is pooled over notes. A note's mean is claimed when it differs from the player's other notes
at one in a hundred over *all* notes looked at (Bonferroni), also those that are not out today;
looks before the twelfth take share one more hundredth among them.

A finger has its habit at a *place*: the same pitch on the same string, wherever the exercise comes
by. Most of the chance is spent on places, each take's landings there taken together; how much
those together still scatter is measured, since landings of one take are not independent. The rest
is for single notes of such places: too high only on the way down is a habit too.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.student import student_limit

LEAST_TAKES = 4
_FULL_TAKES = 12
_CHANCE = 0.01
_OF_PLACES = 0.8  # of the chance, where there are places with several notes
_EARLY_SHARE = 1.0 / 8.0  # 4 … 11 takes: eight looks
_NEWEST = 20
_LEAST_FREEDOM = 8
_OWN_FREEDOM = 30  # from here on places of so many notes have a scatter of their own
_OF_A_TRIMMED = 1.06  # variance of a trimmed mean re that of a mean
_WRONG_CENTS = 65.0

_Table = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Habit:
    """A place, or one note of it, that is out over takes.

    Parameters
    ----------
    note_ids : tuple of str
        All notes of the place, or the single note.
    cents : float
        Mean over the takes.
    half_range : float
        Half the 95 % range of it.
    n_takes, n_off : int
        Takes looked at; those in which it was out the same way by more than the tolerance.
    """

    note_ids: tuple[str, ...]
    cents: float
    half_range: float
    n_takes: int
    n_off: int


@dataclass(frozen=True, slots=True, kw_only=True)
class _Looked:
    """Columns that are looked at together and what is asked of them.

    Parameters
    ----------
    ids : tuple of tuple of str
        Notes of each column.
    raw, left : ndarray, shape (n_takes, n_columns)
        Cents as played, and without the take's own effect; NaN where nothing was heard.
    error : ndarray, shape (n_columns,)
        Standard error of each column's mean, cents.
    freedom : int
        Degrees of freedom of it.
    chance : float
        Of a false claim, over all of these columns.
    """

    ids: tuple[tuple[str, ...], ...]
    raw: _Table
    left: _Table
    error: _Table
    freedom: int
    chance: float


def find_habits(
    takes: Sequence[Mapping[str, float]],
    *,
    tolerance_cents: float,
    places: Mapping[str, Hashable] | None = None,
) -> tuple[Habit, ...]:
    """Notes that differ from the player's others over takes.

    Parameters
    ----------
    takes : sequence of mapping of str to float
        Cents by note id, oldest first; the newest twenty count.
    tolerance_cents : float
        A mean of less than half of it is no habit worth a word.
    places : mapping of str to hashable, optional
        Where a note id is stopped; those of one place are one finger's. A note without is its own.
    """
    takes = takes[-_NEWEST:]
    ids = sorted({note for take in takes for note in take})
    table = np.array(
        [[take.get(note, np.nan) for note in ids] for take in takes], dtype=np.float64
    ).reshape(len(takes), len(ids))
    table[np.abs(table) > _WRONG_CENTS] = np.nan  # another note
    kept = np.sum(np.isfinite(table), axis=0) >= LEAST_TAKES
    ids, table = [n for n, k in zip(ids, kept, strict=True) if k], table[:, kept]
    if len(ids) < 2:
        return ()
    left = table - _take_effects(table)[:, None]
    scatter, freedom = _scatter(left, n_effects=len(takes))
    if freedom < _LEAST_FREEDOM:
        return ()
    columns = _by_place(ids, places or {})
    several = [i for place in columns if len(place) > 1 for i in place]
    chance = _CHANCE * (1.0 if len(takes) >= _FULL_TAKES else _EARLY_SHARE)
    looks = [
        _Looked(
            ids=tuple(tuple(ids[i] for i in place) for place in columns),
            raw=_together(table, columns), left=_together(left, columns),
            error=_errors(left, columns, scatter), freedom=freedom,
            chance=chance * (_OF_PLACES if several else 1.0),
        ),
        _Looked(
            ids=tuple((ids[i],) for i in several), raw=table[:, several], left=left[:, several],
            error=_errors(left, [[i] for i in several], scatter), freedom=freedom,
            chance=chance * (1.0 - _OF_PLACES),
        ),
    ]  # fmt: skip
    found: list[Habit] = []
    for look in looks:
        told = {note for habit in found for note in habit.note_ids}
        found += [h for h in _claimed(look, tolerance_cents) if not told & set(h.note_ids)]
    return tuple(sorted(found, key=lambda h: -abs(h.cents)))


def _claimed(look: _Looked, tolerance_cents: float) -> list[Habit]:
    """Columns whose mean is out beyond the chance they share."""
    if not look.ids:
        return []
    limit = student_limit(look.chance / len(look.ids), look.freedom)
    usual = student_limit(0.05, look.freedom)
    found = []
    for i in np.flatnonzero(np.abs(np.nanmean(look.left, axis=0)) > limit * look.error).tolist():
        values = look.raw[np.isfinite(look.raw[:, i]), i]
        mean = float(np.mean(values))
        if abs(mean) < 0.5 * tolerance_cents:
            continue
        same_way = values * np.sign(mean)
        found.append(
            Habit(
                note_ids=look.ids[i], cents=mean, half_range=usual * float(look.error[i]),
                n_takes=len(values), n_off=int(np.sum(same_way > tolerance_cents)),
            )
        )  # fmt: skip
    return found


def _by_place(ids: Sequence[str], places: Mapping[str, Hashable]) -> list[list[int]]:
    """Columns of the table that are one place's, in the order of their first notes."""
    found: dict[Hashable, list[int]] = {}
    for i, note in enumerate(ids):
        found.setdefault(("place", places[note]) if note in places else ("note", note), []).append(
            i
        )
    return list(found.values())


def _together(table: _Table, columns: Sequence[Sequence[int]]) -> _Table:
    """Mean of each place's landings in each take; NaN where it has none."""
    result = np.full((len(table), len(columns)), np.nan)
    for k, place in enumerate(columns):
        part = table[:, place]
        heard = np.isfinite(part).any(axis=1)
        result[heard, k] = np.nanmean(part[heard], axis=1)
    return result


def _scatter(left: _Table, *, n_effects: int) -> tuple[float, int]:
    """Scatter of an entry about its column's mean, and its degrees of freedom."""
    heard = np.isfinite(left).any(axis=0)
    chance = left[:, heard] - np.nanmean(left[:, heard], axis=0)
    freedom = int(np.sum(np.isfinite(chance))) - int(np.sum(heard)) - n_effects + 1
    if freedom < 1:
        return 0.0, 0
    return max(1e-6, float(np.sqrt(np.nansum(chance**2) / freedom))), freedom


def _errors(left: _Table, columns: Sequence[Sequence[int]], scatter: float) -> _Table:
    """Standard error of each place's mean over the takes.

    Takes in which all notes of a place were heard scatter as those of places with as many notes do;
    where that is too little to say, and in takes in which some are missing, as single notes do, as
    if one take's landings were all one.
    """
    together = _together(left, columns)
    variance = np.where(np.isfinite(together), scatter**2, np.nan)
    sizes = np.array([len(place) for place in columns])
    whole = np.array([np.isfinite(left[:, place]).all(axis=1) for place in columns]).T
    for size in set(sizes.tolist()) - {1}:
        alike = sizes == size
        entries = np.where(whole[:, alike], together[:, alike], np.nan)
        own, freedom = _scatter(entries, n_effects=len(left))
        if freedom >= _OWN_FREEDOM:
            variance[whole & alike] = min(own, scatter) ** 2
    counts = np.sum(np.isfinite(together), axis=0)
    return np.asarray(np.sqrt(np.nansum(variance, axis=0)) / counts)


def _trimmed(values: NDArray[np.float64]) -> float:
    """Mean without the outer tenths."""
    cut = len(values) // 10
    return float(np.mean(np.sort(values)[cut : len(values) - cut]))


def _take_effects(table: _Table) -> _Table:
    """By how much each take was off as a whole, shrunk towards nothing."""
    n = np.maximum(np.sum(np.isfinite(table), axis=1), 1)
    raw = np.array(
        [_trimmed(row[np.isfinite(row)]) if np.isfinite(row).any() else 0.0 for row in table]
    )
    inside = table - raw[:, None]
    chance = float(np.nanvar(inside - np.nanmean(inside, axis=0), ddof=1)) * _OF_A_TRIMMED / n
    between = max(0.0, float(np.mean(raw**2)) - float(np.mean(chance)))
    return np.asarray(between / np.maximum(between + chance, 1e-9) * raw)
