"""Whether the bow turned where one pitch goes on: the string's wave stands on its head then.

In Helmholtz motion a bow that turns turns the sawtooth at the bridge over (McIntyre, Schumacher &
Woodhouse 1983): every partial by half a turn. For the odd ones that is what half a period later
would be too; the even ones tell. A wave of level, a dip, a string that crosses, a new start the
same way round leave the partials' phases to each other as they were, whatever the body and the
place of the microphone made of them.

The sound on either side of the moment is read in steps of its own contour, so many a period, and
each period's Fourier series is taken: its neighbours fall on the zeros whatever the vibrato does.
Series are turned to each other in time and added, which leaves one phase a partial. The two sides
are compared with the time shift that suits best, as they are and with one turned over:
``max_θ Σ w cos(Δφ_k - kθ)`` against ``max_θ Σ w cos(Δφ_k - kθ - π)``; their difference is the lean.

Measured on a waveguide string that is not ours, bowed both ways through random bodies, dry and in
rooms of 0.4 … 1.2 s down to -6 dB: docs/method.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import isfinite

import numpy as np
from numpy.typing import NDArray

from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.heard import HOP_S, BowTurn, BowWay, Segment
from jigwright.core.sound.measure_segment import Take
from jigwright.core.sound.segments import Piece
from jigwright.core.values import Floats

SURE_LEAN = 0.4  # what a border inside one note wants: 0 … 2 of 1,000 dips of notes that went on
TURNED_LEAN = 0.25  # what the sentence "the bow turned" wants; its mirror "the same way"
GOES_ON_LEAN, GOES_ON_ALIKE, IN_STEP = -0.3, 0.85, 0.07
ALIKE = 0.6  # how far the better of the two must fit at all
_N_PARTIALS, _PER_PERIOD = 10, 64
_BLOCK_S = 0.03
_PARTED_DB = 1.0  # of a border that no fall of the level made
_LONGEST_S = 0.5
_APART_S, _CLOSE_S = (0.05, 0.1), (0.02, 0.03)  # a click or a dip between; short pieces
_MOST_FADE_DB = 4.0  # within a quarter of a second: a tail of 3 s falls by 5
_SHORTEST_S, _SHORTEST_CLOSE_S = 0.12, 0.08
_SIDE_BLOCKS, _LEAST_STEP = 4, 0.3  # of leans: 0.5 and more apart where nothing disturbs
_NEAR_FRAMES, _APART_FRAMES = 24, 40
_LATE_FRAMES, _EARLY_FRAMES, _LEAST_NEW = 50, 6, 0.01
_ONE_PITCH_CENTS = 40.0
_TOUCHING_S = 0.25
_WORTH = 10 ** (-40 / 20)  # re the strongest partial: weaker ones are noise
_STRAY_CENTS = 150.0
_ROUNDS, _NEAREST = 3, 3
_SHIFTS = 2 * np.pi * np.fft.fftfreq(256)  # -π … π, in the order of a Fourier transform
_Complex = NDArray[np.complex128]


@dataclass(frozen=True, slots=True, kw_only=True)
class SidesCompared:
    """What follows a moment against what was before it.

    Parameters
    ----------
    lean : float
        From -1 (the same way round) to 1 (turned over); NaN where too little sounds.
    fits : float
        How well the better of both explains it, 0 … 1.
    shift : float
        Periods by which what follows is out of step with what was before, -0.5 … 0.5, as it is
        (not turned): near 0 where the string went on.
    fades_db : float
        By how much the second half of what follows is softer than its first: a room's tail fades.
    """

    lean: float
    fits: float
    shift: float
    fades_db: float = 0.0


NOTHING = SidesCompared(lean=float("nan"), fits=float("nan"), shift=float("nan"))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Phases:
    """The partials of a stretch with one course of time shifts taken out.

    Parameters
    ----------
    partials : ndarray of complex, shape (k,)
        Sum over the stretch.
    steady : ndarray, shape (k,)
        How far each stayed in phase, 0 … 1.
    course : ndarray, shape (blocks,)
        The time shifts, radians of the fundamental.
    """

    partials: _Complex
    steady: Floats
    course: Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PeriodSeries:
    """Fourier series along a contour.

    Parameters
    ----------
    series : ndarray of complex, shape (blocks, partials)
        Means over some 30 ms.
    at_s : ndarray, shape (blocks,)
        Middle of each block, from the contour's beginning.
    """

    series: _Complex
    at_s: Floats


def surely_turned(seen: BowTurn | SidesCompared) -> bool:
    """Whether it turned so clearly that nothing else need speak for it: no dip, no writing."""
    return seen.lean > SURE_LEAN and seen.fits > ALIKE


def way_of(turn: BowTurn) -> BowWay:
    """Whether the bow turned at a change, as far as it can be told."""
    if not turn.fits > ALIKE or not abs(turn.lean) > TURNED_LEAN:
        return "unknown"
    return "turned" if turn.lean > 0 else "same"


def find_turns(take: Take, segments: Sequence[Segment]) -> tuple[BowTurn, ...]:
    """Look at every place where one pitch begins again.

    Parameters
    ----------
    take : Take
    segments : sequence of Segment
        In time order; double stops are passed by.

    Returns
    -------
    tuple of BowTurn
        In time order, of those that lasted long enough on both sides and are no tail.
    """
    found = []
    for a, b in zip(segments, segments[1:], strict=False):
        if a.i_pair >= 0 or b.i_pair >= 0 or b.onset_s - a.offset_s > _TOUCHING_S:
            continue
        if abs(hz_to_cents(b.f0_hz, a.f0_hz)) > _ONE_PITCH_CENTS:
            continue
        seen = compare_at(
            take.x, take.rate_hz, take.contours.f0_hz, b.onset_s, a.onset_s, b.offset_s
        )
        if isfinite(seen.lean) and seen.fades_db < _MOST_FADE_DB:
            found.append(BowTurn(time_s=b.onset_s, lean=seen.lean, fits=seen.fits))
    return tuple(found)


def parted_where_turned(
    pieces: Sequence[Piece],
    x: Floats,
    rate_hz: int,
    f0_hz: Floats,
    waves: Sequence[int],
    new: Floats | None = None,
) -> list[Piece]:
    """Part pieces of one pitch where the bow turned, however little of it a room leaves.

    Parameters
    ----------
    pieces : sequence of Piece
        In time order.
    x : ndarray
        Filtered sound.
    rate_hz : int
    f0_hz : ndarray
        The contour.
    waves : sequence of int
        Frames of dips that were no borders by their level.
    new : ndarray, optional
        Novelty of each frame: in a room the turned wave comes to lead a while after it began.

    Returns
    -------
    list of Piece
    """
    result: list[Piece] = []
    for piece in pieces:
        seen_at = turning_frames(x, rate_hz, f0_hz, piece)
        dips = [w for w in waves if piece.start < w < piece.stop]
        # where the level dips too, that is the moment
        alone = [_begun_at(t, piece, new) for t in seen_at
                 if all(abs(t - d) > _NEAR_FRAMES for d in dips)]  # fmt: skip
        inside = sorted({*dips, *alone})
        cuts, first = [], piece.start
        for at, stop in zip(inside, [*inside, piece.stop][1:], strict=True):
            seen = compare_at(x, rate_hz, f0_hz, at * HOP_S, first * HOP_S, stop * HOP_S)
            if surely_turned(seen) and seen.fades_db < _MOST_FADE_DB:
                cuts.append(at)
                first = at
        result.append(replace(piece, stop=cuts[0] if cuts else piece.stop))
        result += [
            Piece(start=a, stop=b, cents=piece.cents, broken_before=True, dip_db=_PARTED_DB)
            for a, b in zip(cuts, [*cuts[1:], piece.stop], strict=False)
        ]
    return result


def _begun_at(at: int, piece: Piece, new: Floats | None) -> int:
    """Where most is new shortly before a wave is seen turned over."""
    first, last = max(piece.start + 1, at - _LATE_FRAMES), min(piece.stop - 1, at + _EARLY_FRAMES)
    if new is None or last <= first or float(new[first:last].max()) < _LEAST_NEW:
        return at
    return first + int(np.argmax(new[first:last]))


def turning_frames(x: Floats, rate_hz: int, f0_hz: Floats, piece: Piece) -> list[int]:
    """Frames of a piece about which its wave seems to turn over: where to look.

    Each thirtieth of a second is held against the whole, as it is and turned over; where the mean
    of four goes from one to the other something turned.
    """
    if (piece.stop - piece.start) * HOP_S < 2 * _SIDE_BLOCKS * _BLOCK_S:
        return []
    read = period_series(x, rate_hz, f0_hz[piece.start : piece.stop], piece.start)
    if read is None or len(read.series) < 2 * _SIDE_BLOCKS:
        return []
    leans = _leans_along(read.series)
    sums = np.concatenate([[0.0], np.cumsum(leans)]) / _SIDE_BLOCKS
    means = sums[_SIDE_BLOCKS:] - sums[:-_SIDE_BLOCKS]
    steps = np.abs(means[_SIDE_BLOCKS:] - means[:-_SIDE_BLOCKS])
    found: list[int] = []
    for i in np.argsort(-steps):
        if steps[i] < _LEAST_STEP:
            break
        at = piece.start + round(float(read.at_s[i + _SIDE_BLOCKS]) / HOP_S)
        if all(abs(at - other) > _APART_FRAMES for other in found):
            found.append(at)
    return sorted(found)


def _leans_along(series: _Complex) -> Floats:
    """How far each block is the whole turned over; whichever is more is called as it is."""
    unit = series / np.maximum(np.abs(series), 1e-12)
    weight = np.sqrt(np.abs(series).mean(axis=0))
    weight = weight / max(float(weight.sum()), 1e-12)
    likeness = unit[len(unit) // 2]
    leans = np.zeros(len(series))
    for _ in range(_ROUNDS):
        fits = _over_shifts(weight * unit * likeness.conj())
        as_it_is, turned = fits.max(axis=1), -fits.min(axis=1)
        leans = turned - as_it_is
        best = np.where(leans > 0, fits.argmin(axis=1), fits.argmax(axis=1))
        way = np.where(leans > 0, -1.0, 1.0)[:, None]
        total = (way * _shifted(series, _SHIFTS[best])).sum(axis=0)
        likeness = total / np.maximum(np.abs(total), 1e-12)
    return np.asarray(leans)


def goes_on(
    x: Floats, rate_hz: int, f0_hz: Floats, time_s: float, from_s: float, to_s: float
) -> bool:
    """Whether the string went on through a moment: the same way round and in step.

    A new start draws a new moment of its period, and one of seven falls into step by chance: it
    can unmake a border for which little else speaks, no clear one. Arguments as :func:`compare_at`.
    """
    for apart_s in (_APART_S, _CLOSE_S):
        seen = compare_at(x, rate_hz, f0_hz, time_s, from_s, to_s, apart_s=apart_s)
        alike = seen.lean < GOES_ON_LEAN and seen.fits > GOES_ON_ALIKE
        if alike and abs(seen.shift) < IN_STEP:
            return True
    return False


def compare_at(
    x: Floats,
    rate_hz: int,
    f0_hz: Floats,
    time_s: float,
    from_s: float,
    to_s: float,
    *,
    apart_s: tuple[float, float] = _APART_S,
) -> SidesCompared:
    """Hold what follows a moment against what was before it.

    Parameters
    ----------
    x : ndarray
        Filtered sound.
    rate_hz : int
    f0_hz : ndarray
        The contour, NaN where there is no pitch.
    time_s : float
        When the second sound begins, or where the level is lowest.
    from_s, to_s : float
        Begin of the first, end of the second; at most half a second of each is looked at.
    apart_s : (float, float)
        What is left out before and after the moment: the change itself.
    """
    lo = max(0, round(max(from_s, time_s - apart_s[0] - _LONGEST_S) / HOP_S))
    hi = min(len(f0_hz), round(min(to_s, time_s + apart_s[1] + _LONGEST_S) / HOP_S))
    read = period_series(x, rate_hz, f0_hz[lo:hi], lo)
    if read is None:
        return NOTHING
    at_s = lo * HOP_S + read.at_s
    least_s = _SHORTEST_S if apart_s == _APART_S else _SHORTEST_CLOSE_S
    a = phases(read.series[at_s < time_s - apart_s[0]], least_s=least_s)
    after = read.series[at_s > time_s + apart_s[1]]
    b = phases(after, least_s=least_s)
    if a is None or b is None:
        return NOTHING
    return replace(compared(a, b), fades_db=_fades_db(after))


def _fades_db(series: _Complex) -> float:
    power = (np.abs(series) ** 2).sum(axis=1) + 1e-20
    half = len(power) // 2
    return float(10.0 * np.log10(power[:half].mean() / power[half:].mean()))


def compared(a: Phases, b: Phases) -> SidesCompared:
    """The two sides of a moment, of one pitch, read along one contour."""
    size = np.minimum(_share(a.partials), _share(b.partials))
    weight = np.sqrt(np.sqrt(np.abs(a.partials) * np.abs(b.partials))) * a.steady * b.steady
    weight = np.where(size < _WORTH, 0.0, weight)
    if np.count_nonzero(weight) < 2:
        return NOTHING
    between = a.partials.conj() * b.partials
    between = weight / weight.sum() * between / np.maximum(np.abs(between), 1e-12)
    fits = _over_shifts(between)
    same, turned = float(fits.max()), float(-fits.min())
    shift = _SHIFTS[int(fits.argmax())] + np.median(b.course[:_NEAREST])
    shift = float(shift - np.median(a.course[-_NEAREST:])) / (2 * np.pi)
    return SidesCompared(lean=turned - same, fits=max(turned, same), shift=shift - round(shift))


def _over_shifts(between: _Complex) -> Floats:
    """``Re Σ between_k exp(-ikθ)`` at every time shift of the grid; partials are the last axis."""
    padded = np.concatenate([np.zeros_like(between[..., :1]), between], axis=-1)
    return np.asarray(np.fft.fft(padded, len(_SHIFTS), axis=-1).real)


def _shifted(series: _Complex, shift: Floats) -> _Complex:
    """Every block of a series with its time shift taken out."""
    k = np.arange(1, series.shape[1] + 1)
    return np.asarray(series * np.exp(-1j * shift[:, None] * k))


def _share(partials: _Complex) -> Floats:
    size = np.abs(partials)
    return np.asarray(size / max(float(size.max()), 1e-12))


def phases(series: _Complex, *, least_s: float = _SHORTEST_S) -> Phases | None:
    """The partials of a stretch, its own course of time shifts taken out.

    Parameters
    ----------
    series : ndarray of complex, shape (blocks, partials)
    least_s : float
        What it must last.

    Returns
    -------
    Phases or None
        ``None`` where it is shorter.
    """
    if len(series) * _BLOCK_S < least_s:
        return None
    size = np.abs(series)
    unit = series / np.maximum(size, 1e-12)
    weight = np.sqrt(size.mean(axis=0))
    likeness, total, best = unit[len(unit) // 2], series.sum(axis=0), np.zeros(len(series), int)
    for _ in range(_ROUNDS):
        best = _over_shifts(weight * unit * likeness.conj()).argmax(axis=1)
        total = _shifted(series, _SHIFTS[best]).sum(axis=0)
        likeness = total / np.maximum(np.abs(total), 1e-12)
    steady = np.abs(total) / np.maximum(size.sum(axis=0), 1e-12)
    return Phases(partials=total, steady=steady, course=np.unwrap(_SHIFTS[best]))


def period_series(x: Floats, rate_hz: int, f0_hz: Floats, i_first: int) -> PeriodSeries | None:
    """Fourier series along a contour, period by period.

    Parameters
    ----------
    x : ndarray
    rate_hz : int
    f0_hz : ndarray
        Every 5 ms; frames without pitch, or far from the others, are bridged.
    i_first : int
        Frame of the take that the contour begins with.

    Returns
    -------
    PeriodSeries or None
        ``None`` where half of it has no pitch.
    """
    good = np.isfinite(f0_hz)
    if len(good) < 2 or good.mean() < 0.5:
        return None
    middle_hz = float(np.median(f0_hz[good]))
    good[good] = np.abs(1200.0 * np.log2(f0_hz[good] / middle_hz)) < _STRAY_CENTS
    if good.mean() < 0.5:
        return None
    first = round(i_first * HOP_S * rate_hz)
    part = x[first : first + round(len(f0_hz) * HOP_S * rate_hz)]
    at = np.arange(len(part)) / (rate_hz * HOP_S)
    turns = np.cumsum(np.interp(at, np.flatnonzero(good), f0_hz[good])) / rate_hz
    together = max(1, round(_BLOCK_S * middle_hz))
    blocks = int(turns[-1]) // together if len(turns) else 0
    count = min(_N_PARTIALS, int(0.42 * rate_hz / middle_hz))
    if blocks < 1 or count < 2:
        return None
    grid = np.arange(blocks * together * _PER_PERIOD) / _PER_PERIOD
    where = np.interp(grid, turns, np.arange(len(part)))
    read = np.interp(where, np.arange(len(part)), part).reshape(-1, _PER_PERIOD)
    rows = np.fft.rfft(read, axis=1)[:, 1 : count + 1]
    middles = where.reshape(blocks, -1).mean(axis=1) / rate_hz
    series = rows.reshape(blocks, together, count).mean(axis=1)
    return PeriodSeries(series=series, at_s=np.asarray(middles))
