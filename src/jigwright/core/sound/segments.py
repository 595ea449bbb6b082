"""Cut a take into stretches that hold one pitch, and place their borders.

Cuts come from three places: loss of pitch, steps of the pitch contour (penalised least squares,
:mod:`changepoint`) and dips of the level between strokes. A piece without a plateau is a glide and
is given to the note it leads into.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge_maths import fit_sinusoid
from jigwright.core.sound.changepoint import mean_steps
from jigwright.core.sound.heard import HOP_S, Contours
from jigwright.core.values import Floats, deviation, median

_STEP_PRICE = 28_000.0  # cents² × frames: keeps 80 c vibrato whole, cuts a 35 ms semitone
_STILL_CENTS = 6.0  # less movement in 50 ms holds no step
_MIN_NOTE_FRAMES = 7
JOIN_CENTS = 42.0
_DIP_DB = 5.0
_SHALLOW_DB = 3.0  # what may be a change of bow, where two notes of one pitch are written
_DEEPEST_WAVE_DB = 13.0
_WAVE_FRAMES = 60  # three tenths of a second to either side
_LEAST_WAVE_CENTS = 5.0
_CLEAR_WAVE = 0.9
_REGULAR = 0.8  # share of the level's variance that one sinusoid explains


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """A stretch of frames ``start`` … ``stop - 1`` holding about one pitch.

    Parameters
    ----------
    start, stop : int
        Frame indices.
    cents : float
        Median pitch in cents re 1 Hz.
    broken_before, dip_db : bool, float
        Whether the sound stopped or dipped before it, and by how much.
    mixed : bool
        Another note still sounds in it: its pitch is not the contour's.
    begins : int or None
        Frame at which its pitch is new, where that was seen.
    clear : int or None
        Frame from which the contour is its own, where that is later.
    new : float
        Novelty there, in decades.
    odds : float or None
        That one pitch begins again with it (:mod:`same_pitch`), logarithm; ``None``: not weighed.
    """

    start: int
    stop: int
    cents: float
    broken_before: bool
    dip_db: float = 0.0
    mixed: bool = False
    begins: int | None = None
    clear: int | None = None
    new: float = 0.0
    odds: float | None = None


def find_pieces(
    contours: Contours,
    *,
    floor_db: float,
    blur_frames: int,
    shallow: list[int] | None = None,
) -> list[Piece]:
    """Cut the contours into pieces.

    Parameters
    ----------
    contours : Contours
    floor_db : float
        Level below which nothing is looked for.
    blur_frames : int
        Half the length of the analysis window in frames: how far a step is smeared.
    shallow : list of int, optional
        Frames of dips too shallow for a border are added to it.
    """
    cents = 1200.0 * np.log2(contours.f0_hz)
    voiced = np.isfinite(contours.f0_hz) & (contours.level_db > floor_db)
    pieces: list[Piece] = []
    for start, stop in _runs(voiced, bridge=3):
        if stop - start < _MIN_NOTE_FRAMES:
            continue
        filled = _fill(cents[start:stop], voiced[start:stop])
        cuts = [0, *_steps(filled), stop - start]
        steps = [
            Piece(
                start=start + a, stop=start + b, cents=median(filled[a:b]),
                broken_before=(a == 0),
            )
            for a, b in zip(cuts, cuts[1:], strict=False)
        ]  # fmt: skip
        steps = _merge_glides(steps, cents, contours.level_db, blur_frames)
        for piece in steps:
            pieces.extend(
                _split_at_dips(piece, cents, contours.level_db, contours.clarity, shallow)
            )
    return [p for p in pieces if p.stop - p.start >= _MIN_NOTE_FRAMES]


def _steps(cents: Floats) -> list[int]:
    """Cut positions, found on pairs of frames (the borders are placed finely later)."""
    n = len(cents) // 2
    pairs = cents[: 2 * n].reshape(n, 2).mean(axis=1)
    return [2 * c for c in mean_steps(pairs, 0.5 * _STEP_PRICE, still=_STILL_CENTS)]


def _runs(mask: NDArray[np.bool_], *, bridge: int) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    runs: list[tuple[int, int]] = []
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if runs and a - runs[-1][1] <= bridge:
            runs[-1] = (runs[-1][0], int(b))
        else:
            runs.append((int(a), int(b)))
    return runs


def _fill(cents: Floats, voiced: NDArray[np.bool_]) -> Floats:
    """Bridge unvoiced frames and take out single-frame outliers (running median of five)."""
    at = np.flatnonzero(voiced)
    filled = np.interp(np.arange(len(cents)), at, cents[at])
    padded = np.pad(filled, 2, mode="edge")
    return np.asarray(np.median(np.lib.stride_tricks.sliding_window_view(padded, 5), axis=1))


def _merge_glides(
    steps: list[Piece], cents: Floats, level_db: Floats, blur_frames: int
) -> list[Piece]:
    """Join pieces of one pitch and give glides to the note they lead into."""
    merged: list[Piece] = []
    for piece in steps:
        if merged and abs(piece.cents - merged[-1].cents) < JOIN_CENTS:
            merged[-1] = joined(merged[-1], piece, cents)
        else:
            merged.append(piece)
    result: list[Piece] = []
    for i, piece in enumerate(merged):
        short = piece.stop - piece.start < max(_MIN_NOTE_FRAMES, blur_frames)
        after = merged[i + 1] if i + 1 < len(merged) else None
        before = result[-1] if result else None
        if short and after is not None:
            merged[i + 1] = Piece(
                start=piece.start, stop=after.stop, cents=after.cents,
                broken_before=piece.broken_before,
            )  # fmt: skip
        elif (short or _is_glide(piece, cents)) and before is not None and after is None:
            result[-1] = Piece(
                start=before.start, stop=piece.stop, cents=before.cents,
                broken_before=before.broken_before,
            )  # fmt: skip
        elif after is not None and (
            _is_glide(piece, cents) or _slides_in(piece, after, cents, level_db, blur_frames)
        ):
            merged[i + 1] = Piece(
                start=piece.start, stop=after.stop, cents=after.cents,
                broken_before=piece.broken_before,
            )  # fmt: skip
        else:
            result.append(piece)
    final: list[Piece] = []
    for piece in result:
        if final and abs(piece.cents - final[-1].cents) < JOIN_CENTS:
            final[-1] = joined(final[-1], piece, cents)
        else:
            final.append(piece)
    return final


def joined(a: Piece, b: Piece, cents: Floats) -> Piece:
    """Two pieces as one."""
    middle = _heard_median(cents[a.start : b.stop])
    return Piece(start=a.start, stop=b.stop, cents=middle, broken_before=a.broken_before)


def _heard_median(cents: Floats) -> float:
    return median(cents[np.isfinite(cents)])


def _is_glide(piece: Piece, cents: Floats) -> bool:
    """Whether the pitch runs through without resting: steep, straight, no plateau."""
    part = cents[piece.start : piece.stop]
    if len(part) > 40 or len(part) < 4:
        return False
    slope = np.diff(part)
    same_way = max(np.count_nonzero(slope > 0), np.count_nonzero(slope < 0)) / len(slope)
    return bool(same_way > 0.8 and np.ptp(part) > 60.0 and median(np.abs(slope)) > 3.0)


def _slides_in(
    piece: Piece, after: Piece, cents: Floats, level_db: Floats, blur_frames: int
) -> bool:
    """Whether a short piece is the beginning of a slow slide into the next.

    A slur steps within the analysis window and a few hundredths of a second; a slide takes longer
    between a fifth and four fifths of the way.
    """
    if after.start - piece.stop > 3 or piece.stop - piece.start > 60 or after.broken_before:
        return False
    third = max(3, (piece.stop - piece.start) // 3)
    begins = _heard_median(cents[piece.start + 2 : piece.start + 2 + third])
    distance = after.cents - begins
    if not 30.0 < abs(distance) < 260.0:
        return False
    before, behind = level_db[piece.start : piece.stop], level_db[after.start : after.start + 20]
    lowest = level_db[piece.stop - 8 : piece.stop + 8].min()
    if min(median(before), median(behind)) - lowest > 3.5:
        return False
    if abs(median(before) - median(behind)) > 7.0:
        return False
    at = piece.start + 2 + third // 2  # past what the window still hears of the note before
    way = (cents[at : min(after.stop, piece.stop + 60)] - begins) / distance
    done = np.flatnonzero(way > 0.8)
    begun = np.flatnonzero(way[: done[0]] < 0.2) if len(done) else done
    return bool(len(begun) and done[0] - begun[-1] > 7 + blur_frames)


def _split_at_dips(
    piece: Piece,
    cents: Floats,
    level_db: Floats,
    clarity: Floats,
    shallow: list[int] | None = None,
) -> list[Piece]:
    """Split where the bow let go: a dip below both shoulders with a rougher sound."""
    level = level_db[piece.start : piece.stop]
    pitch, clear = cents[piece.start : piece.stop], clarity[piece.start : piece.stop]
    n = len(level)
    reach = 40
    cuts: list[tuple[int, float]] = []
    if n > 2 * _MIN_NOTE_FRAMES:
        inner = level[1:-1]
        turns = (inner <= level[:-2]) & (inner <= level[2:])  # only there can a dip be lowest
        t = _MIN_NOTE_FRAMES
        while t < n - _MIN_NOTE_FRAMES:
            if not turns[t - 1]:
                t += 1
                continue
            lo, hi = max(0, t - reach), min(n, t + reach + 1)
            if level[t] <= level[lo:hi].min() + 1e-9:
                fall = level[lo:t].max() - level[t]
                depth = min(fall, level[t:hi].max() - level[t])
                rough = 1.0 - float(clarity[piece.start + t - 3 : piece.start + t + 4].min())
                usual = 1.0 - median(clarity[piece.start : piece.stop])
                width = _dip_width(level, t, 0.5 * depth)
                jolt = rough > 3.0 * usual + 0.01
                deep = depth >= 8.0 and width <= 60
                slow = fall >= 7.0 and depth >= 3.5 and width <= 60
                dip = deep or slow or (depth >= _DIP_DB and jolt and width <= 30)
                if dip and not _is_wave(pitch, level, clear, t, float(depth)):
                    cuts.append((t, float(depth)))
                    t += _MIN_NOTE_FRAMES
                    continue
                if shallow is not None and depth >= _SHALLOW_DB and width <= 60:
                    shallow.append(piece.start + t)
            t += 1
    borders = [0, *[c for c, _ in cuts], n]
    depths = [0.0, *[d for _, d in cuts]]
    return [
        Piece(
            start=piece.start + a, stop=piece.start + b, cents=piece.cents,
            broken_before=piece.broken_before if i == 0 else True, dip_db=depths[i],
        )
        for i, (a, b) in enumerate(zip(borders, borders[1:], strict=False))
    ]  # fmt: skip


def _is_wave(cents: Floats, level: Floats, clarity: Floats, at: int, depth: float) -> bool:
    """Whether a shallow dip belongs to a vibrato's wave of level.

    Such a wave is as regular as the pitch is moved, and the tone stays clear in its troughs; bows
    that change leave the level flat between their dips.
    """
    lo, hi = max(0, at - _WAVE_FRAMES), min(len(level), at + _WAVE_FRAMES)
    pitch, loud = cents[lo:hi], level[lo:hi]
    pitch = pitch[np.isfinite(pitch)]
    if depth > _DEEPEST_WAVE_DB or len(pitch) < 1.5 * _WAVE_FRAMES:
        return False
    if deviation(pitch) < _LEAST_WAVE_CENTS or clarity[at - 2 : at + 3].min() < _CLEAR_WAVE:
        return False
    return fit_sinusoid(np.arange(len(loud)) * HOP_S, loud)[3] > _REGULAR


def _dip_width(level: Floats, at: int, half_depth: float) -> int:
    a = at
    while a > 0 and level[a] < level[at] + half_depth:
        a -= 1
    b = at
    while b < len(level) - 1 and level[b] < level[at] + half_depth:
        b += 1
    return b - a


def frame_time_s(i_frame: float) -> float:
    """Time of a frame."""
    return i_frame * HOP_S
