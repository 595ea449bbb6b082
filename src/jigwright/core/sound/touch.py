"""The touch test: what an open string adds to a note that is held.

While a note is held, a finger damps an open string and lets it go again, at known times. The
partials the two share change by what the string gave; the note's other partials change only by
what the bow did meanwhile. So each partial is demodulated, its phase is taken against the phase the
other partials agree on (a bowed string is periodic, so they are locked; McIntyre, Schumacher &
Woodhouse 1983), and its complex level is compared between free and touched stretches. The change is
seen even where the ring stands a quarter of a turn beside the note and hardly adds to the level.
What the other partials changed in the same way is taken off, and is the measure of what such a
comparison can tell at all.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import log10

import numpy as np
from numpy.typing import NDArray

from jigwright.core.music.sympathy import shared_partials
from jigwright.core.sound.partials import demodulate
from jigwright.core.values import Floats, Unmeasured, median

STRETCH_S = 2.5
N_STRETCHES = 5  # free, touched, free, touched, free
_SETTLE_S = 0.8  # for hand and string, after each word
_BLOCK_S = 0.04
_MOST_PARTIAL = 8
_QUIET_DB = 12.0
_FAINT_DB = 45.0
_TIMES = 3.0
_LEAST = 0.01  # 40 dB below the partial
_RESTLESS = 0.12
_NO_STRING = 0.5  # no string rings within 6 dB of the partial that wakes it


@dataclass(frozen=True, slots=True, kw_only=True)
class TouchRing:
    """What an open string gave to a held note.

    Parameters
    ----------
    rang : bool
        Whether more changed than the note's own waver explains.
    ring_db : float
        What the string gave, re the note; NaN when it was not heard to ring.
    limit_db : float
        A ring weaker than this, re the note, would not have been told from the bow.
    repeats_db : tuple of float
        The same for each of the two touches.
    """

    rang: bool
    ring_db: float
    limit_db: float
    repeats_db: tuple[float, ...]


def measure_touch(
    x: Floats,
    rate_hz: int,
    *,
    f0_hz: float,
    onset_s: float,
    offset_s: float,
    open_hz: float,
    stretch_s: float = STRETCH_S,
) -> TouchRing | Unmeasured:
    """Compare the free and the touched stretches of a held note.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : int
    f0_hz : float
        Pitch of the note over its whole length.
    onset_s, offset_s : float
        Borders of the note; the stretches are counted from the onset.
    open_hz : float
        The string that was touched, as tuned.
    stretch_s : float
        Length of each of the five stretches.

    Returns
    -------
    TouchRing or Unmeasured
        Reasons: ``too_short``, ``nothing_shared``, ``all_shared``, ``restless``.
    """
    if offset_s - onset_s < (N_STRETCHES - 0.4) * stretch_s:
        return Unmeasured("too_short")
    shared = {k for k, _ in shared_partials(f0_hz, open_hz)}
    top = min(_MOST_PARTIAL, int(0.45 * rate_hz / f0_hz))
    if not shared:
        return Unmeasured("nothing_shared")
    stop_s = min(offset_s - 0.1, onset_s + N_STRETCHES * stretch_s)
    part = x[round(onset_s * rate_hz) : round(stop_s * rate_hz)]
    periods = max(1, round(_BLOCK_S * f0_hz))
    block = round(periods * rate_hz / f0_hz)
    orders = np.arange(1, top + 1)
    z = demodulate(part, rate_hz, f0_hz * orders, block).T.astype(np.complex128)
    power = np.mean(np.abs(z) ** 2, axis=1)
    heard = power > power.max() * 10 ** (-_FAINT_DB / 10)
    own = np.array([k not in shared for k in orders]) & heard
    mine = np.array([k in shared for k in orders]) & heard
    if np.count_nonzero(own) < 3:
        return Unmeasured("all_shared")
    if not mine.any():
        return Unmeasured("nothing_shared")
    logs = _locked(z, orders, own, power)
    level_db = 10 * np.log10(np.sum(np.abs(z) ** 2, axis=0) + 1e-20)
    good = level_db > median(level_db) - _QUIET_DB
    at_s = (np.arange(z.shape[1]) + 0.5) * block / rate_hz
    means = _stretches(logs, at_s, good, stretch_s)
    if means is None:
        return Unmeasured("restless")
    a, b, c, d, e = means.T
    first, second = 0.5 * (a + c) - b, 0.5 * (c + e) - d
    first, second = (_beyond(one, orders, own, power) for one in (first, second))
    both = 0.5 * (first + second)
    weight = power / power.sum()
    noise = _size(both[own], weight[own])
    unsure = max(noise, _size(0.5 * (first - second)[mine], weight[mine]))
    if unsure > _RESTLESS:
        return Unmeasured("restless")
    change = _size(both[mine], weight[mine])
    if change > _NO_STRING:
        return Unmeasured("restless")
    share_db = 10.0 * log10(float(weight[mine].sum()))
    limit = max(_LEAST, _TIMES * unsure)
    rang = change > limit
    sizes = [_size(one[mine], weight[mine]) for one in (first, second)]
    return TouchRing(
        rang=bool(rang),
        ring_db=_db(change) + share_db if rang else float("nan"),
        limit_db=_db(limit) + share_db,
        repeats_db=tuple(_db(s) + share_db for s in sizes),
    )


def _locked(
    z: NDArray[np.complex128], orders: NDArray[np.intp], own: NDArray[np.bool_], power: Floats
) -> NDArray[np.complex128]:
    """Log of each partial against level and phase the note's own partials agree on, (k, blocks)."""
    first = int(np.flatnonzero(own)[np.argmax(power[own] / orders[own])])
    turn = np.unwrap(np.angle(z[first])) / orders[first]
    # phases of the others against it, about their means; what they have in common is its error
    for _ in range(2):
        left = z * np.exp(-1j * orders[:, None] * turn)
        off = _off(left)
        pull = (power * own)[:, None]
        turn = turn + np.sum(pull * orders[:, None] * off, axis=0) / np.sum(
            pull * orders[:, None] ** 2
        )
    left = z * np.exp(-1j * orders[:, None] * turn)
    off = _off(left)
    size = np.log(np.abs(z) + 1e-20)
    pull = (own / np.count_nonzero(own))[:, None]
    return np.asarray(size - np.sum(pull * size, axis=0) + 1j * off)


def _off(z: NDArray[np.complex128]) -> Floats:
    """Phase about the mean, whichever way the bow goes: the other way turns the wave over."""
    twice = z * z
    return np.asarray(0.5 * np.angle(twice * twice.sum(axis=1, keepdims=True).conj()))


def _stretches(
    logs: NDArray[np.complex128], at_s: Floats, good: NDArray[np.bool_], stretch_s: float
) -> NDArray[np.complex128] | None:
    """Mean of each partial in each stretch, past what hand and string need, (k, stretches)."""
    settle_s = min(_SETTLE_S, 0.4 * stretch_s)
    means = []
    for i in range(N_STRETCHES):
        inside = good & (at_s > i * stretch_s + settle_s) & (at_s < (i + 1) * stretch_s - 0.05)
        if np.count_nonzero(inside) < 8:
            return None
        part = logs[:, inside]
        means.append(np.median(part.real, axis=1) + 1j * np.median(part.imag, axis=1))
    return np.stack(means, axis=1)


def _beyond(
    change: NDArray[np.complex128],
    orders: NDArray[np.intp],
    own: NDArray[np.bool_],
    power: Floats,
) -> NDArray[np.complex128]:
    """What is left when a smooth change of colour over the own partials is taken off."""
    octave = np.log2(orders)
    pull = np.sqrt(power[own])
    basis = np.stack([np.ones(len(orders)), octave], axis=1)
    real = np.linalg.lstsq(basis[own] * pull[:, None], change.real[own] * pull, rcond=None)[0]
    turn = np.stack([np.ones(len(orders)), orders.astype(float)], axis=1)
    imag = np.linalg.lstsq(turn[own] * pull[:, None], change.imag[own] * pull, rcond=None)[0]
    return np.asarray(change - basis @ real - 1j * (turn @ imag))


def _size(change: NDArray[np.complex128], weight: Floats) -> float:
    """Root mean square, partials weighted by their power."""
    return float(np.sqrt(np.sum(weight * np.abs(change) ** 2) / max(weight.sum(), 1e-30)))


def _db(ratio: float) -> float:
    return 20.0 * log10(max(ratio, 1e-6))
