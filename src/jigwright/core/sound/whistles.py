"""Whistles: the string turns instead of stick and slip, and one high line drowns the tone.

A whistling string vibrates in torsion (Stough 1999, "E string whistles"): a nearly pure tone of a
few kilohertz that has nothing to do with the stopped length, while the partials of the note fall
away. The centre of gravity of the spectrum leaps there, which says where to look; a whistle is then
one steady line that holds most of the energy and is no partial of what sounds around it.

Limits: on the bass the rate of the frames is too low for whistles; a whistle the instrument's own
range reaches is heard as a note; one weaker than the tone is not found.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.sound.heard import HOP_S, Contours, Segment, Whistle
from jigwright.core.values import Floats, median

_LOWEST_HZ = 2500.0
_CENTROID_HZ = 1800.0
_SHORTEST_S = 0.05
_WINDOW_S = 0.04
_LEAST_SHARE = 0.4
_STEADY_CENTS = 40.0
_HIGH_PARTIAL = 8  # no bowed string puts most of its energy into one so high
_OWN_SHARE = 0.02  # what a fundamental with partials holds besides the line
_LINE_BINS = 3
_BESIDE_S = 0.25
_JOINED_S = 0.06
_SAME_CENTS = 60.0


def find_whistles(
    x: Floats, rate_hz: float, contours: Contours, floor_db: float, highest_hz: float
) -> tuple[Whistle, ...]:
    """Whistles of a take.

    Parameters
    ----------
    x : ndarray
        Sound at the rate of the frames.
    rate_hz : float
    contours : Contours
    floor_db : float
        Level below which nothing is looked for.
    highest_hz : float
        Highest note of the instrument.
    """
    bright = np.nan_to_num(contours.centroid_hz) > _CENTROID_HZ
    bright &= contours.level_db > floor_db
    edges = np.flatnonzero(np.diff(np.concatenate([[0], bright.astype(np.int8), [0]])))
    found = []
    for a, b in _bridged(edges.reshape(-1, 2)):
        if (b - a) * HOP_S >= _SHORTEST_S:
            found += _inside(x, rate_hz, contours, (a, b), highest_hz)
    return tuple(found)


def without_whistles(
    segments: Sequence[Segment], whistles: Sequence[Whistle]
) -> tuple[Segment, ...]:
    """Segments as notes: a whistle belongs to the note it interrupts or begins.

    What was heard of the whistle itself goes, the two ends of an interrupted note become one whose
    pitch is that of the longer end, and a note that whistled at first begins with the whistle.
    """
    kept = list(segments)
    for w in whistles:
        kept = [s for s in kept if not _mostly_inside(s, w)]
        after = next((i for i, s in enumerate(kept) if s.onset_s > w.start_s), len(kept))
        before = kept[after - 1] if after else None
        if before is not None and w.start_s - before.offset_s > _JOINED_S:
            before = None
        if after == len(kept) or kept[after].onset_s - w.end_s > _JOINED_S:
            continue
        behind = kept[after]
        if before is not None and abs(1200 * np.log2(behind.f0_hz / before.f0_hz)) < _SAME_CENTS:
            longer = max(before, behind, key=lambda s: s.core_end_s - s.core_start_s)
            kept[after - 1 : after + 1] = [
                replace(
                    longer, onset_s=before.onset_s, offset_s=behind.offset_s,
                    attack_db=before.attack_db, slurred=before.slurred,
                )
            ]  # fmt: skip
        else:
            kept[after] = replace(behind, onset_s=min(w.start_s, behind.onset_s))
    return tuple(kept)


def _mostly_inside(s: Segment, w: Whistle) -> bool:
    common = min(s.offset_s, w.end_s) - max(s.onset_s, w.start_s)
    return common > 0.6 * (s.offset_s - s.onset_s)


def _bridged(runs: np.ndarray) -> list[tuple[int, int]]:
    out: list[tuple[int, int]] = []
    for a, b in runs:
        if out and a - out[-1][1] <= 3:
            out[-1] = (out[-1][0], int(b))
        else:
            out.append((int(a), int(b)))
    return out


def _inside(
    x: Floats, rate_hz: float, contours: Contours, run: tuple[int, int], highest_hz: float
) -> list[Whistle]:
    a, b = run
    n = int(_WINDOW_S * rate_hz)
    centre = np.arange(a, b, 2)
    starts = np.rint(centre * HOP_S * rate_hz).astype(np.intp) - n // 2
    fits = (starts >= 0) & (starts + n <= len(x))
    centre, starts = centre[fits], starts[fits]
    if len(starts) * 2 * HOP_S < _SHORTEST_S:
        return []
    windows = x[starts[:, None] + np.arange(n)] * np.hanning(n)
    power = np.abs(np.fft.rfft(windows, 4 * n, axis=1)) ** 2
    bin_hz = rate_hz / (4 * n)
    low = int(_LOWEST_HZ / bin_hz)
    if low + 8 >= power.shape[1]:
        return []
    peak = low + np.argmax(power[:, low:], axis=1)
    reach = 4 * _LINE_BINS
    total = np.cumsum(np.pad(power, ((0, 0), (reach + 1, reach))), axis=1)
    row = np.arange(len(peak))
    line = total[row, peak + 2 * reach + 1] - total[row, peak]
    share = line / np.maximum(total[:, -1], 1e-30)
    f_hz = peak * bin_hz
    hit = share > _LEAST_SHARE
    for i in np.flatnonzero(hit):
        around = _around(contours, int(centre[i]))
        hit[i] = not _belongs(power[i], bin_hz, f_hz[i], around, highest_hz)
    found = []
    steps = np.flatnonzero(np.diff(np.concatenate([[0], hit.astype(np.int8), [0]])))
    for i, j in steps.reshape(-1, 2):
        middle = median(f_hz[i:j])
        off = np.abs(1200 * np.log2(f_hz[i:j] / middle))
        long_enough = (j - i) * 2 * HOP_S >= _SHORTEST_S
        if long_enough and float(np.percentile(off, 80)) < _STEADY_CENTS:
            part = float(np.clip(median(share[i:j]), 0.0, 0.999))
            found.append(
                Whistle(
                    start_s=float(centre[i] * HOP_S), end_s=float((centre[j - 1] + 1) * HOP_S),
                    f_hz=middle, above_tone_db=10 * float(np.log10(part / (1 - part))),
                )
            )  # fmt: skip
    return found


def _around(contours: Contours, at: int) -> Floats:
    """Pitches heard here and shortly before and after."""
    beside = round(_BESIDE_S / HOP_S)
    f0 = contours.f0_hz[max(0, at - beside) : at + beside + 1]
    heard = f0[np.isfinite(f0)]
    own = contours.f0_hz[at]
    return np.unique(np.append(np.percentile(heard, [10, 50, 90]) if len(heard) else [], own))


def _belongs(power: Floats, bin_hz: float, f_hz: float, f0_hz: Floats, highest_hz: float) -> bool:
    """Whether a line is a partial of one of the pitches."""
    for f0 in f0_hz[np.isfinite(f0_hz)]:
        order = max(1, round(f_hz / f0))
        if order >= _HIGH_PARTIAL or abs(1200 * np.log2(f_hz / f0 / order)) > 45.0:
            continue
        if order == 1:
            if f_hz <= highest_hz:
                return True
            continue
        places = np.rint(np.arange(1, order) * f0 / bin_hz).astype(np.intp)
        reach = 4 * _LINE_BINS
        own = sum(float(power[max(0, p - reach) : p + reach + 1].sum()) for p in places)
        if own > _OWN_SHARE * float(power.sum()):
            return True
    return False
