"""Open strings that ring along: resonators at their partials, driven by what is played.

A string that is stopped or bowed cannot ring in sympathy, one under a finger neither: it starts
anew from rest when it is left alone. One that was bowed open goes on sounding by itself when the
bow leaves it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from jigwright.core.player import faults as f
from jigwright.core.player.performance import PlayedNote

_Array = NDArray[np.float64]
_N_RINGING = 6
_FINGER_S = 0.03  # a touched string is silent after so long
_OPEN_CENTS = 45.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """A string is held or bowed for some time.

    Parameters
    ----------
    string : int
        0 = lowest.
    from_s, to_s : float
    is_open : bool
        Bowed open: it rings on by itself afterwards.
    """

    string: int
    from_s: float
    to_s: float
    is_open: bool = False


def strings_in_use(notes: Sequence[PlayedNote], open_hz: Sequence[float]) -> tuple[Use, ...]:
    """Which string each note keeps from ringing: its own, else the highest it can be played on."""
    found = []
    for note in notes:
        taken: set[int] = set()
        for hz, written in ((note.f0_hz, note.string), (note.lower_hz, note.lower_string)):
            if hz <= 0.0:
                continue
            could = [
                j
                for j, low in enumerate(open_hz)
                if j not in taken and 1200.0 * log2(hz / low) > -_OPEN_CENTS
            ]
            string = written if written is not None else max(could, default=None)
            if string is None or string >= len(open_hz):
                continue
            taken.add(string)
            off = abs(1200.0 * log2(hz / open_hz[string]))
            found.append(
                Use(
                    string=string, from_s=note.onset_s, to_s=note.offset_s,
                    is_open=off < _OPEN_CENTS,
                )
            )  # fmt: skip
    return tuple(found)


def sympathetic(
    dry: _Array,
    faults: Sequence[f.Fault],
    uses: Sequence[Use],
    open_hz: Sequence[float],
    rate_hz: int,
    *,
    first_s: float = 0.0,
) -> _Array | None:
    """What the open strings add, shape (strings, n); ``None`` when they do not ring along.

    Parameters
    ----------
    dry : ndarray, shape (n,)
    faults : sequence
        The sympathy and the touches are taken from here; a touch is counted from ``first_s``.
    uses : sequence of Use
    open_hz : sequence of float
    rate_hz : int
    first_s : float
        The first onset.
    """
    ringing = next((x for x in faults if isinstance(x, f.Sympathy)), None)
    if ringing is None:
        return None
    rings = np.zeros((len(open_hz), len(dry)))
    touches = [x for x in faults if isinstance(x, f.Touch)]
    for i, hz in enumerate(open_hz):
        if i in ringing.muted:
            continue
        cents = ringing.out_cents if i == ringing.out_string else 0.0
        held = [u for u in uses if u.string == i]
        stopped = [(u.from_s, u.to_s) for u in held if not u.is_open]
        stopped += [(first_s + x.from_s, first_s + x.to_s) for x in touches if x.string == i]
        spans = _free_spans(stopped, len(dry), rate_hz, round(_FINGER_S * rate_hz))
        gain, open_parts = _drive([u for u in held if u.is_open], ringing, len(dry), rate_hz)
        driven = dry * gain
        fade = round(_FINGER_S * rate_hz)
        for k in range(1, _N_RINGING + 1):
            f_hz = k * hz * 2.0 ** (cents / 1200.0)
            if f_hz > 0.4 * rate_hz:
                break
            weaker_db = i * ringing.step_db + ringing.slope_db * log2(k)
            t60_s = ringing.t60_s / np.sqrt(k)
            for lo, hi in spans:
                rang = _resonate(driven[lo:hi], f_hz, t60_s, rate_hz)
                if hi < len(dry):
                    rang[-fade:] *= np.linspace(1.0, 0.0, fade)[: len(rang)]
                rings[i, lo:hi] += rang * 10 ** (-weaker_db / 20.0)
        for lo, hi in open_parts:  # while the bow is on it, it is the note itself
            rings[i, lo:hi] = 0.0
    return np.asarray(rings * 10 ** (ringing.coupling_db / 20.0))


def _drive(
    opened: Sequence[Use], ringing: f.Sympathy, n: int, rate_hz: int
) -> tuple[_Array, list[tuple[int, int]]]:
    """How much of the sound drives a string: much more while it is bowed itself."""
    gain = np.ones(n)
    parts = []
    for u in opened:
        lo, hi = (min(n, max(0, round(s * rate_hz))) for s in (u.from_s, u.to_s))
        gain[lo:hi] = 10 ** ((ringing.own_db - ringing.coupling_db) / 20.0)
        parts.append((lo, hi))
    return gain, parts


def _resonate(x: _Array, f_hz: float, t60_s: float, rate_hz: int) -> _Array:
    """Drive a resonator of unit gain: a tone held long enough rings at its own level."""
    r = 10.0 ** (-3.0 / (t60_s * rate_hz))
    angle = 2 * np.pi * f_hz / rate_hz
    gain = (1 - r) * np.sqrt(1 - 2 * r * np.cos(2 * angle) + r * r)
    rang = signal.lfilter([gain], [1.0, -2 * r * np.cos(angle), r * r], x)
    return np.asarray(rang, dtype=np.float64)


def _free_spans(
    held_s: Sequence[tuple[float, float]], n: int, rate_hz: int, fade: int
) -> list[tuple[int, int]]:
    """Sample ranges in which a string may ring, its dying under the finger included."""
    spans, start = [], 0
    for a_s, b_s in sorted(held_s):
        a, b = (min(n, max(0, round(s * rate_hz))) for s in (a_s, b_s))
        if min(n, a + fade) > start:
            spans.append((start, min(n, a + fade)))
        start = max(start, b)
    return [(lo, hi) for lo, hi in [*spans, (start, n)] if hi > lo]
