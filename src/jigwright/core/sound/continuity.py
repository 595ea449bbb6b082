"""Whether a border inside one pitch is one: whether the partials fall together there.

A vibrato in a room fades each partial at its own moments, so that the level of the whole dips
though nothing ended. Where a note ends, or a bow turns or lets go, all its partials fall at once.
Each partial is demodulated along the contour (30 ms); at the border, the loss of each against its
own peak of the tenth of a second before is taken, the 30 % quantile of them counts, and of that the
largest within 35 ms.

On borders inside one pitch that cutting by level found in passages by three generators, through
rooms and microphones (90 true, 147 false), this tells them apart with an area under the curve of
0.88; depth and width of the dip do with 0.53. Where the pitch lies still there is no vibrato to
blame, and less is asked. Of those it leaves, a border at which nothing begins (:mod:`novelty`) is
one only where nearly everything falls by 14 dB: that keeps 35 of 35 true ones and 24 of 64 false.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jigwright.core.sound.segments import JOIN_CENTS, Piece, joined
from jigwright.core.values import Floats, deviation

N_PARTIALS = 10
_WINDOW_S, _PERIODS = 0.03, 2.5
_AROUND_FRAMES, _BEFORE_FRAMES, _NEAR_FRAMES = 60, 24, 7
_WORTH_DB = 30.0  # below the strongest partial: weaker ones are noise
_QUANTILE = 0.3
_STILL_CENTS = 6.0
LEAST_FALL_DB = 8.0
LEAST_FALL_STILL_DB = 4.5
_NO_GAP_FRAMES = 6
DEEP_FALL_DB = 14.0
LEAST_NEW = 0.03
_NEW_FRAMES = 12


def without_waves(
    pieces: list[Piece],
    x: Floats,
    rate_hz: int,
    hop_samples: int,
    f0_hz: Floats,
    known: dict[int, float] | None = None,
    *,
    i_first: int = 0,
    waves: list[int] | None = None,
    new: Floats | None = None,
) -> list[Piece]:
    """Join pieces whose border is a wave of level and not the end of a note.

    Parameters
    ----------
    pieces : list of Piece
        In time order.
    x : ndarray
        Filtered sound.
    rate_hz, hop_samples : int
    f0_hz : ndarray
        The contour, NaN where there is no pitch.
    known : dict of int to float, optional
        Falls that were looked at before, by frame of the whole take; new ones are added.
    i_first : int
        Frame of the whole take that the contour begins with.
    waves : list of int, optional
        Frames of borders that were taken for waves are added to it.
    new : ndarray, optional
        Novelty of each frame: where nothing is new, only a deep fall is an end.
    """
    known = {} if known is None else known
    result: list[Piece] = []
    cents = 1200.0 * np.log2(f0_hz)
    for piece in pieces:
        before = result[-1] if result else None
        if before is not None and _inside_one_pitch(before, piece):
            fall_db = known.get(i_first + piece.start)
            if fall_db is None:
                fall_db = fall_together_db(x, rate_hz, hop_samples, f0_hz, piece.start)
                if piece.start + _AROUND_FRAMES < len(f0_hz):
                    known[i_first + piece.start] = fall_db
            near = cents[max(before.start, piece.start - 60) : min(piece.stop, piece.start + 60)]
            near = near[np.isfinite(near)]
            still = len(near) > 8 and deviation(near) < _STILL_CENTS
            wave = fall_db < (LEAST_FALL_STILL_DB if still else LEAST_FALL_DB)
            if new is not None and fall_db < DEEP_FALL_DB:
                around = new[max(0, piece.start - _NEW_FRAMES) : piece.start + _NEW_FRAMES + 1]
                wave = wave or float(around.max(initial=0.0)) < LEAST_NEW
            if wave:
                result[-1] = joined(before, piece, cents)
                if waves is not None:
                    waves.append(piece.start)
                continue
        result.append(piece)
    return result


def _inside_one_pitch(before: Piece, piece: Piece) -> bool:
    gap = piece.start - before.stop
    return gap <= _NO_GAP_FRAMES and abs(piece.cents - before.cents) < JOIN_CENTS


def fall_together_db(
    x: Floats, rate_hz: int, hop_samples: int, f0_hz: Floats, i_frame: int
) -> float:
    """How far nearly all partials fall at once, dB below where each stood just before.

    Parameters
    ----------
    x : ndarray
    rate_hz, hop_samples : int
    f0_hz : ndarray
    i_frame : int
        The border.

    Returns
    -------
    float
        0 where there is too little sound to tell.
    """
    lo = max(0, i_frame - _AROUND_FRAMES)
    hi = min(len(f0_hz), i_frame + _AROUND_FRAMES, len(x) // hop_samples)
    at = i_frame - lo
    if hi - i_frame < 3 or at < 4:
        return 0.0
    level = partial_levels_db(x, rate_hz, hop_samples, f0_hz, lo, hi)
    if level is None:
        return 0.0
    stood = level[:, max(0, at - _BEFORE_FRAMES) : at - 2].max(axis=1)
    kept = stood > stood.max() - _WORTH_DB
    near = level[kept, max(0, at - _NEAR_FRAMES) : at + _NEAR_FRAMES + 1]
    loss = stood[kept, None] - near
    return max(0.0, float(np.quantile(loss, _QUANTILE, axis=0).max()))


def partial_levels_db(
    x: Floats, rate_hz: int, hop_samples: int, f0_hz: Floats, lo: int, hi: int
) -> NDArray[np.float64] | None:
    """Levels of the partials along the contour in dB, shape (partials, ``hi - lo``)."""
    good = np.flatnonzero(np.isfinite(f0_hz[lo:hi]))
    if len(good) < 3:
        return None
    middle_hz = float(np.median(f0_hz[lo:hi][good]))
    block = _block(hop_samples)
    half = max(4, round(0.5 * max(_WINDOW_S, _PERIODS / middle_hz) * rate_hz / block))
    first = lo * hop_samples - half * block  # of the first window; before the sound it is silence
    n = (hi - 1 - lo) * hop_samples + (2 * half + 1) * block
    part = np.zeros(n)
    a, b = max(0, first), min(len(x), first + n)
    part[a - first : b - first] = x[a:b]
    at = np.arange(first, first + n) / hop_samples
    carrier_hz = np.interp(at, lo + good, f0_hz[lo:hi][good])
    turn = np.exp(-2j * np.pi * np.cumsum(carrier_hz) / rate_hz)
    count = min(N_PARTIALS, int(0.42 * rate_hz / middle_hz))
    window = np.hanning(2 * half + 2)[1:-1]
    window /= window.sum() * block
    ramp = (np.arange(block) + 0.5) / block
    starts = np.arange(hi - lo) * (hop_samples // block)
    levels = np.empty((count, hi - lo))
    turned = part.astype(np.complex128)
    for k in range(count):
        turned = turned * turn
        rows = turned.reshape(-1, block)
        rising = (rows * ramp).sum(axis=1)  # triangles two blocks wide: what lies far off is gone
        sums = rows.sum(axis=1)[1:] - rising[1:] + rising[:-1]
        levels[k] = np.abs(np.convolve(sums, window, "valid")[starts])
    return np.asarray(20.0 * np.log10(levels + 1e-9))


def _block(hop_samples: int) -> int:
    """Samples that are summed at once: they divide a hop, and are an eighth of it at most."""
    return max(d for d in range(1, max(1, hop_samples // 8) + 1) if hop_samples % d == 0)
