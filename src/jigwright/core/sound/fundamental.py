"""Is the fundamental lower than the period found, or higher? The subharmonic test of a piece.

A bowed string may sound almost only at every second or third partial; the shortest period is then
2 or 3 times too short. A lower fundamental ``f/k`` is taken when nearly all of its partials that
are not multiples of ``k`` stand as lines well above the floor between partials, and do not die
away like the tail of a note before. A string excited in sympathy cannot feign this: it is driven
only at the partials it shares.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy import fft

from jigwright.core.sound.segments import Piece
from jigwright.core.values import Floats, median

_ABOVE_FLOOR_DB = 14.0
_WEAKEST_DB = -56.0
_N_TESTED = 6
_NO_LINE_DB, _NONE_DB = 11.0, -25.0  # above the floor between partials; re the strongest one
_MOST_FAINT = 0.75  # of the partials that should not be there
_LEAST_PERIODS = 6
_LONGEST_S = 1.2
_NEAR_FRAMES = 20
_LONG_FRAMES = 30
_MOST_IN_A_ROW = 2
_STEP_CENTS = 450.0


def true_divisor(x: Floats, rate_hz: int, f_hz: float, lowest_hz: float) -> int:
    """Return 1, 2, 3, 4 or 5: by how much ``f_hz`` is above the fundamental.

    Parameters
    ----------
    x : ndarray
        Steady sound of the piece, at least 0.1 s for a decision.
    rate_hz : int
    f_hz : float
        Frequency of the period found.
    lowest_hz : float
        No fundamental lies below.
    """
    n = _two_halves(len(x), rate_hz)
    if n < 0.1 * rate_hz:
        return 1
    lo = (len(x) - n) // 2
    part = x[lo : lo + n]
    first, second = _spectrum(part[: n // 2]), None
    found = 1
    for k in (2, 3, 4, 5):
        if f_hz / k < lowest_hz or f_hz / k < 5.0 * rate_hz / n:
            break
        if not _lines(first, n // 2, rate_hz, f_hz / k, k):
            continue
        if second is None:
            second = _spectrum(part[n // 2 :])
        if _lines(second, n // 2, rate_hz, f_hz / k, k):
            found = k
    return found


def _two_halves(samples: int, rate_hz: int) -> int:
    """An even number of samples whose half is transformed fast where there are enough."""
    n = min(samples, round(_LONGEST_S * rate_hz)) // 2 * 2
    fast = 2 * fft.next_fast_len(n // 2)
    return fast if fast <= samples else n


def true_multiple(x: Floats, rate_hz: int, f_hz: float) -> int:
    """Return 1, 2 or 3: by how much ``f_hz`` is below the fundamental.

    Twice a period fits a sound as well as the period does, and noise may make it fit better; but a
    note has partials of its own. Where those of ``f_hz`` that are no multiples of 2 (or 3) do not
    stand as lines, and those that are do, ``f_hz`` is an octave (or a twelfth) below any note. No
    bowed string is without its odd partials: a bow at a half of it takes away the even ones.

    Parameters
    ----------
    x : ndarray
        Steady sound of the piece, at least 0.1 s for a decision.
    rate_hz : int
    f_hz : float
        Frequency of the period found.
    """
    n = _two_halves(len(x), rate_hz)
    if n < max(0.1 * rate_hz, 2 * _LEAST_PERIODS * rate_hz / f_hz):
        return 1
    lo = (len(x) - n) // 2
    halves = [_spectrum(x[lo : lo + n // 2]), _spectrum(x[lo + n // 2 : lo + n])]
    for k in (2, 3):
        if all(_only_multiples(half, n // 2, rate_hz, f_hz, k) for half in halves):
            return k
    return 1


def _only_multiples(power: Floats, n: int, rate_hz: int, f_hz: float, k: int) -> bool:
    """Whether lines stand at the multiples of ``k`` and at no other partial."""
    per_hz = 2 * n / rate_hz
    highest = int(0.45 * rate_hz / f_hz) - 1
    orders = range(1, min(highest, 2 * _N_TESTED * k) + 1)
    peaks = {h: _peak(power, h * f_hz * per_hz, 3) for h in orders}
    multiples = [h for h in orders if h % k == 0][:_N_TESTED]
    # the lowest may be hum, which lies as low
    others = [h for h in orders if h % k and 1 < h < multiples[-1]] if multiples else []
    if len(multiples) < 4 or len(others) < 3:
        return False
    strongest = max(peaks[h] for h in multiples)

    def above_floor_db(h: int) -> float:
        sides = [_around(power, (h + side) * f_hz * per_hz, 3) for side in (-0.5, 0.5)]
        floor = float(median(np.concatenate(sides)))
        return float(10 * np.log10((peaks[h] + 1e-30) / (floor + 1e-30)))

    stand = sum(above_floor_db(h) > _ABOVE_FLOOR_DB for h in multiples)
    quiet_db = 10 * np.log10((max(peaks[h] for h in others) + 1e-30) / (strongest + 1e-30))
    faint = sum(above_floor_db(h) < _NO_LINE_DB for h in others)
    return bool(stand >= 4 and quiet_db < _NONE_DB and faint >= _MOST_FAINT * len(others))


def _spectrum(x: Floats) -> Floats:
    taper = np.hanning(len(x)).astype(np.float32)
    return np.asarray(np.abs(fft.rfft(x.astype(np.float32) * taper, 2 * len(x))) ** 2)


def _lines(power: Floats, n: int, rate_hz: int, f_hz: float, k: int) -> bool:
    per_hz = 2 * n / rate_hz
    wide = 3
    wanted = [h for h in range(1, 4 * _N_TESTED) if h % k][:_N_TESTED]
    wanted = [h for h in wanted if (h + 1) * f_hz < 0.45 * rate_hz]
    if len(wanted) < 4:
        return False
    strongest = max(_peak(power, h * k * f_hz * per_hz, wide) for h in (1, 2, 3))
    n_good = 0
    for h in wanted:
        peak = _peak(power, h * f_hz * per_hz, wide)
        floor = float(
            median(
                np.concatenate(
                    [_around(power, (h + side) * f_hz * per_hz, wide) for side in (-0.5, 0.5)]
                )
            )
        )
        high = 10 * np.log10((peak + 1e-30) / (floor + 1e-30)) > _ABOVE_FLOOR_DB
        n_good += high and 10 * np.log10((peak + 1e-30) / (strongest + 1e-30)) > _WEAKEST_DB
    return n_good >= len(wanted) - 1


def _around(power: Floats, at: float, wide: int) -> Floats:
    i = round(at)
    return power[max(0, i - wide) : i + wide + 1]


def _peak(power: Floats, at: float, wide: int) -> float:
    part = _around(power, at, wide)
    return float(part.max()) if len(part) else 0.0


def lower_pieces(
    pieces: list[Piece], f0_hz: Floats, x: Floats, rate_hz: int, hop: int, lowest_hz: float
) -> tuple[list[Piece], Floats]:
    """Correct pieces whose fundamental is lower, and join what then is one note.

    Returns
    -------
    (list of Piece, ndarray)
        The pieces and the corrected contour.
    """
    f0 = np.array(f0_hz)
    result: list[Piece] = []
    divisors = [_divisor(p, x, rate_hz, hop, lowest_hz) for p in pieces]
    for i, piece in enumerate(pieces):
        a, b = piece.start, piece.stop
        k = divisors[i] if not _leaps(pieces, divisors, i) else 1
        if k > 1:
            f0[a:b] /= k
            piece = replace(piece, cents=piece.cents - 1200.0 * float(np.log2(k)))
        elif divisors[i] == 1 and (m := _multiple(piece, x, rate_hz, hop)) > 1:
            f0[a:b] *= m
            piece = replace(piece, cents=piece.cents + 1200.0 * float(np.log2(m)))
        before = result[-1] if result else None
        if (
            before is not None
            and not piece.broken_before
            and a - before.stop <= 3
            and abs(piece.cents - before.cents) < 40
        ):
            result[-1] = replace(before, stop=b)
        else:
            result.append(piece)
    return result, f0


def _divisor(piece: Piece, x: Floats, rate_hz: int, hop: int, lowest_hz: float) -> int:
    a, b = piece.start, piece.stop
    margin = min(6, (b - a) // 5)
    f_hz = float(2.0 ** (piece.cents / 1200.0))
    return true_divisor(x[(a + margin) * hop : (b - margin) * hop], rate_hz, f_hz, lowest_hz)


def _multiple(piece: Piece, x: Floats, rate_hz: int, hop: int) -> int:
    a, b = piece.start, piece.stop
    margin = min(6, (b - a) // 5)
    f_hz = float(2.0 ** (piece.cents / 1200.0))
    return true_multiple(x[(a + margin) * hop : (b - margin) * hop], rate_hz, f_hz)


def _leaps(pieces: list[Piece], divisors: list[int], i: int) -> bool:
    """Whether only the lower fundamental would make a leap of what moves by small steps.

    Faint lines between the partials may also be a string that repeats only every second time: one
    or two notes of a slurred line that would drop far away and come back are heard at their period.
    """
    if divisors[i] == 1:
        return False
    first = last = i
    while first > 0 and divisors[first - 1] == divisors[i]:
        first -= 1
    while last + 1 < len(pieces) and divisors[last + 1] == divisors[i]:
        last += 1
    if first == 0 or last + 1 == len(pieces) or last - first >= _MOST_IN_A_ROW:
        return False
    for inner, outer in ((first, first - 1), (last, last + 1)):
        piece, other = pieces[inner], pieces[outer]
        gap = max(other.start - piece.stop, piece.start - other.stop)
        long = other.stop - other.start >= _LONG_FRAMES
        if gap > _NEAR_FRAMES or not long or divisors[outer] != 1:
            return False
        if abs(piece.cents - other.cents) > _STEP_CENTS:
            return False
    return True
