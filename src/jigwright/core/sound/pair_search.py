"""Which two notes sound in a window? A search over spectral peaks.

Every peak divided by 1 … 6 is a candidate fundamental; a candidate collects the peaks near its
multiples. The best pair is the one whose union explains most (peaks weigh by how far they stand
above the floor), each note having most of its lowest partials. A window counts as two notes only
when the second adds clearly and owns peaks that the first cannot explain.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats, percentiles

_FLOOR_DB = -54.0
_MOST_PEAKS = 48
_TOLERANCE_CENTS = 14.0
_LEAST_GAIN = 0.13
_OWN_DB = -40.0
_WIDEST_CENTS = 1750.0
_CLOSEST_CENTS = 70.0
_ALIKE_CENTS = 18.0  # candidates nearer than this are one
_HEARD_ODD = 1e-3  # power of odd partials re even ones below which the note is an octave higher


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Peaks:
    """Peaks of a magnitude spectrum.

    Parameters
    ----------
    f_hz, db : ndarray, shape (n,)
        Frequency and level re the strongest, strongest first.
    bin_hz : float
        Resolution of the window.
    """

    f_hz: Floats
    db: Floats
    bin_hz: float


def find_peaks(magnitude: Floats, bin_hz: float, resolution_hz: float) -> Peaks:
    """Peaks of one spectrum, with parabolic interpolation of the logarithm."""
    db = 20 * np.log10(magnitude + 1e-12)
    mid = db[1:-1]
    at = np.flatnonzero((mid > db[:-2]) & (mid >= db[2:])) + 1
    floor = percentiles(db, 25)[0] + 8.0
    top = float(db.max())
    at = at[(db[at] > top + _FLOOR_DB) & (db[at] > floor)]
    at = at[np.argsort(-db[at])][:_MOST_PEAKS]
    a, b, c = db[at - 1], db[at], db[at + 1]
    curve = np.minimum(a - 2 * b + c, -1e-9)
    shift = np.clip(0.5 * (a - c) / curve, -0.5, 0.5)
    return Peaks(f_hz=(at + shift) * bin_hz, db=b - top, bin_hz=resolution_hz)


def search_pair(peaks: Peaks, lowest_hz: float, highest_hz: float) -> tuple[float, float] | None:
    """Return lower and upper fundamental, or ``None`` when one note is enough.

    Parameters
    ----------
    peaks : Peaks
    lowest_hz, highest_hz : float
        Range of fundamentals.
    """
    if len(peaks.f_hz) < 4:
        return None
    candidates = _candidates(peaks, lowest_hz, highest_hz)
    if len(candidates) < 2:
        return None
    weight = np.maximum(peaks.db - _FLOOR_DB, 0.0)
    matched = _matched(candidates, peaks)
    low_share, first = _low_partials(candidates, matched, peaks)
    good = (low_share >= 0.8) | ((low_share >= 0.6) & first)
    if np.count_nonzero(good) < 1:
        return None
    candidates, matched = candidates[good], matched[good]
    total = float(weight.sum())
    single = matched @ weight / total
    union = (matched[:, None, :] | matched[None, :, :]) @ weight / total
    cents = 1200 * np.abs(np.log2(candidates[:, None] / candidates[None, :]))
    union[(cents < _CLOSEST_CENTS) | (cents > _WIDEST_CENTS)] = 0.0
    # a lower fundamental matches by chance more easily: prefer the higher of equals
    union -= 0.01 * np.log2(highest_hz / np.minimum(candidates[:, None], candidates[None, :]))
    i, j = np.unravel_index(int(np.argmax(union)), union.shape)
    if union[i, j] <= 0:
        return None
    best_single = float(np.max(single))
    a, b = sorted((int(i), int(j)), key=lambda k: candidates[k])
    gain = float((matched[a] | matched[b]) @ weight / total) - best_single
    if gain < _LEAST_GAIN or not _each_owns(matched[a], matched[b], peaks):
        return None
    low, high = float(candidates[a]), float(candidates[b])
    low = _lifted(low, high, peaks)
    high = _lifted(high, low, peaks)
    if abs(1200 * np.log2(high / low)) < _CLOSEST_CENTS:
        return None
    return min(low, high), max(low, high)


def _lifted(f_hz: float, other_hz: float, peaks: Peaks) -> float:
    """An octave higher where the odd partials have no peaks but those the other note explains."""
    own, others = _matched(np.array([f_hz, other_hz]), peaks)
    mine = own & ~others
    order = np.rint(peaks.f_hz / f_hz)
    power = 10 ** (peaks.db / 10.0)
    odd = float(power[mine & (order % 2 == 1)].sum())
    even = float(power[mine & (order % 2 == 0)].sum())
    return 2.0 * f_hz if odd < _HEARD_ODD * even else f_hz


def _candidates(peaks: Peaks, lowest_hz: float, highest_hz: float) -> Floats:
    strong = peaks.f_hz[: min(14, len(peaks.f_hz))]
    raw = (strong[:, None] / np.arange(1, 7)[None, :]).ravel()
    raw = raw[(raw > lowest_hz) & (raw < highest_hz)]
    weight = np.maximum(peaks.db - _FLOOR_DB, 0.0)
    refined = np.unique(_refined(raw, peaks))
    refined = refined[np.argsort(-(_matched(refined, peaks) @ weight), kind="stable")]
    cents = 1200 * np.log2(refined)
    kept: list[int] = []
    free = np.ones(len(refined), dtype=bool)
    for i in range(len(refined)):
        if free[i]:
            kept.append(i)
            free &= np.abs(cents - cents[i]) > _ALIKE_CENTS
    return np.asarray(np.sort(refined[kept]))


def _refined(f_hz: Floats, peaks: Peaks) -> Floats:
    """Each fundamental moved to the weighted middle of what its peaks say."""
    near = _matched(f_hz, peaks)
    order = np.maximum(np.rint(peaks.f_hz / f_hz[:, None]), 1.0)
    weight = near * order * 10 ** (peaks.db / 40.0)
    total = weight.sum(axis=1)
    middle = (weight * peaks.f_hz / order).sum(axis=1) / np.maximum(total, 1e-300)
    return np.asarray(np.where(near.any(axis=1), middle, f_hz))


def _matched(f_hz: Floats, peaks: Peaks) -> NDArray[np.bool_]:
    """Which peaks belong to which fundamental, shape (fundamentals, peaks)."""
    f_hz = f_hz[:, None]
    order = np.maximum(np.rint(peaks.f_hz / f_hz), 1.0)
    off_hz = np.abs(peaks.f_hz - order * f_hz)
    allowed = np.maximum(peaks.f_hz * (2 ** (_TOLERANCE_CENTS / 1200) - 1), 0.45 * peaks.bin_hz)
    return np.asarray((off_hz < np.minimum(allowed, 0.3 * f_hz)) & (order <= 24))


def _low_partials(
    candidates: Floats, matched: NDArray[np.bool_], peaks: Peaks
) -> tuple[Floats, NDArray[np.bool_]]:
    """Share of the first five partials that are there, and whether the first is."""
    order = np.rint(peaks.f_hz[None, :] / candidates[:, None])
    present = np.stack([(matched & (order == k)).any(axis=1) for k in range(1, 6)], axis=1)
    return np.asarray(present.mean(axis=1)), np.asarray(present[:, 0])


def _each_owns(a: NDArray[np.bool_], b: NDArray[np.bool_], peaks: Peaks) -> bool:
    """Whether either note has peaks of its own that are not faint."""
    loud = peaks.db > _OWN_DB
    return bool(np.count_nonzero(a & ~b & loud) >= 3 and np.count_nonzero(b & ~a & loud) >= 3)
