"""The strokes of a double stop that is bowed several times.

The same two notes bowed anew are the same two sounding pitches all along: a search for pairs takes
eight short strokes for one long stop. Where the whole level falls and rises again, as a bow that
changes lets it, the stop is cut; a beating octave or unison waves too, and needs a deeper fall. A
stroke too short for fits of its own has the pitches of the fits that reach into it, else those of
the whole, with a range as much wider as it is shorter.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.signal import find_peaks

from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import HOP_S, Contours, Pair, Segment
from jigwright.core.values import Floats, median, read_only

_SHOULDER_S = 0.15
_BEGUN_DB, _ALONE_DB, _BEATING_DB = 7.0, 10.0, 14.0
_LEAST_DB = 3.5  # of a fall that a jig may make a new stroke of
_BEGUN_S = 0.06
_FUSED_CENTS = 60.0  # near an octave or unison all partials beat together
_EDGE_DB = 6.0  # below its shoulder a stroke is over
_SHORTEST_S = 0.08
_NEW_DB = 20.0  # attack of a stroke that a jig asks for
_SAME_CENTS, _DEEPEST = 65.0, 6
_BOTH, _ODD = 0.15, 0.2  # of the time that both are heard alone, and that neither is


def cut_in_strokes(
    pair: Pair, contours: Contours, begun_s: Sequence[float], *, window_s: float
) -> tuple[Pair, ...]:
    """A stop as the strokes it was bowed in.

    Parameters
    ----------
    pair : Pair
    contours : Contours
    begun_s : sequence of float
        Moments at which a note surely begins.
    window_s : float
        Of the fits.

    Returns
    -------
    tuple of Pair
        In time order; the same where it was bowed once.
    """
    lo, hi = round(pair.onset_s / HOP_S), min(len(contours), round(pair.offset_s / HOP_S))
    level = contours.level_db[lo:hi]
    bounds = _bounds(level, lo, _sure_db(pair, begun_s))
    strokes = [(a, b) for a, b in bounds if (b - a) * HOP_S >= _SHORTEST_S]
    if len(strokes) < 2:
        return (pair,)
    return tuple(_stroke(pair, contours.level_db, a, b, window_s) for a, b in strokes)


def doubtful_strokes(
    segments: Sequence[Segment], pairs: Sequence[Pair], contours: Contours
) -> tuple[Segment, ...]:
    """Strokes that may begin inside stops where the level falls as little as a room lets it.

    Parameters
    ----------
    segments : sequence of Segment
        With one for every pair.
    pairs : sequence of Pair
    contours : Contours

    Returns
    -------
    tuple of Segment
        Doubtful ones, of the pair they lie in; for those who know what was to be played.
    """
    found: list[Segment] = []
    for s in segments:
        if s.i_pair < 0 or _beats_as_one(pairs[s.i_pair]):
            continue
        lo, hi = round(s.onset_s / HOP_S), min(len(contours), round(s.offset_s / HOP_S))
        level = contours.level_db[lo:hi]
        for a, b in _bounds(level, lo, lambda _: _LEAST_DB)[1:]:
            onset_s, offset_s = a * HOP_S, b * HOP_S
            if offset_s - onset_s < _SHORTEST_S:
                continue
            margin_s = min(0.06, 0.2 * (offset_s - onset_s))
            found.append(
                replace(
                    s, onset_s=onset_s, offset_s=offset_s, core_start_s=onset_s + margin_s,
                    core_end_s=offset_s - margin_s, attack_db=_NEW_DB, slurred=False,
                    doubtful=True,
                )
            )  # fmt: skip
    return tuple(found)


def are_of_one_stop(pair: Pair, segments: Sequence[Segment]) -> bool:
    """Whether single notes heard inside a stop are what one ear makes of it, not notes in turn.

    Of two notes that sound together it hears now the one, now their common root, and at times an
    octave below either; it does not hear both alone for long. Notes that take turns are each heard
    alone about as long as the other.

    Parameters
    ----------
    pair : Pair
    segments : sequence of Segment
    """
    total_s = lower_s = upper_s = odd_s = 0.0
    for s in segments:
        length_s = min(s.offset_s, pair.offset_s) - max(s.onset_s, pair.onset_s)
        if length_s <= 0.0:
            continue
        total_s += length_s
        if abs(hz_to_cents(s.f0_hz, pair.lower_hz)) < _SAME_CENTS:
            lower_s += length_s
        elif abs(hz_to_cents(s.f0_hz, pair.upper_hz)) < _SAME_CENTS:
            upper_s += length_s
        elif not (_below(s.f0_hz, pair.lower_hz) or _below(s.f0_hz, pair.upper_hz)):
            odd_s += length_s
    if total_s <= 0.0:
        return True
    return min(lower_s, upper_s) < _BOTH * total_s and odd_s < _ODD * total_s


def _below(f_hz: float, note_hz: float) -> bool:
    ratio = note_hz / f_hz
    whole = round(ratio)
    return 2 <= whole <= _DEEPEST and abs(hz_to_cents(ratio, whole)) < _SAME_CENTS


def _beats_as_one(pair: Pair) -> bool:
    off = hz_to_cents(pair.upper_hz, pair.lower_hz) % 1200.0
    return min(off, 1200.0 - off) < _FUSED_CENTS


def _sure_db(pair: Pair, begun_s: Sequence[float]) -> Callable[[float], float]:
    """How far the level must fall at a moment for a stroke surely to end."""
    beats = _beats_as_one(pair)

    def least_db(at_s: float) -> float:
        if beats:
            return _BEATING_DB
        begun = any(-_BEGUN_S <= t - at_s <= 2 * _BEGUN_S for t in begun_s)
        return _BEGUN_DB if begun else _ALONE_DB

    return least_db


def _bounds(level: Floats, first: int, least_db: Callable[[float], float]) -> list[tuple[int, int]]:
    """Frames from where each stroke begins to where it ends."""
    reach = round(_SHOULDER_S / HOP_S)
    dips, found = find_peaks(-level, prominence=_LEAST_DB, wlen=2 * reach + 1)
    edges: list[tuple[int, int]] = []  # end of one, begin of the next
    for at, depth_db in zip(dips, found["prominences"], strict=True):
        if depth_db < least_db((first + int(at)) * HOP_S):
            continue
        left, right = level[max(0, at - reach) : at], level[at + 1 : at + 1 + reach]
        edge_db = min(_EDGE_DB, 0.6 * depth_db)
        gone = np.flatnonzero(left >= left.max() - edge_db)
        back = np.flatnonzero(right >= right.max() - edge_db)
        end, begin = at - len(left) + int(gone[-1]) + 1, at + 1 + int(back[0])
        if edges and end <= edges[-1][1]:
            continue  # two hollows of one change
        edges.append((int(end), int(begin)))
    starts = [0, *(begin for _, begin in edges)]
    stops = [*(end for end, _ in edges), len(level)]
    return [(first + a, first + b) for a, b in zip(starts, stops, strict=True)]


def _stroke(pair: Pair, level_db: Floats, a: int, b: int, window_s: float) -> Pair:
    """One stroke with the fits that lie in it, or those of the whole."""
    onset_s, offset_s = a * HOP_S, b * HOP_S
    half_s = 0.25 * window_s  # where a window is heaviest
    inside = (pair.times_s >= onset_s + half_s) & (pair.times_s <= offset_s - half_s)
    own = float(10 * np.log10(np.mean(10 ** (level_db[a:b] / 10)) + 1e-14))
    shorter = float(np.sqrt((pair.offset_s - pair.onset_s) / (offset_s - onset_s)))
    stroke = replace(
        pair, onset_s=onset_s, offset_s=offset_s, level_dbfs=own,
        lower_uncertainty_cents=shorter * pair.lower_uncertainty_cents,
        upper_uncertainty_cents=shorter * pair.upper_uncertainty_cents,
        balance_uncertainty_db=shorter * pair.balance_uncertainty_db,
    )  # fmt: skip
    if not inside.any():
        near = int(np.argmin(np.abs(pair.times_s - 0.5 * (onset_s + offset_s))))
        return _with_fits(stroke, np.arange(len(pair.times_s)) == near)
    balance = pair.balance_track_db[inside]
    told = balance[np.isfinite(balance)]
    return replace(
        _with_fits(stroke, inside), lower_hz=median(pair.lower_track_hz[inside]),
        upper_hz=median(pair.upper_track_hz[inside]),
        balance_db=median(told) if len(told) else pair.balance_db,
    )  # fmt: skip


def _with_fits(pair: Pair, inside: NDArray[np.bool_]) -> Pair:
    return replace(
        pair, times_s=read_only(pair.times_s[inside]),
        lower_track_hz=read_only(pair.lower_track_hz[inside]),
        upper_track_hz=read_only(pair.upper_track_hz[inside]),
        balance_track_db=read_only(pair.balance_track_db[inside]),
    )  # fmt: skip
