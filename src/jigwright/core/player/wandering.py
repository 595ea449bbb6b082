"""What a real arm and bow do to pitch and level of a note, and what sounds beside it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from jigwright.core.player import real as r
from jigwright.core.player.performance import PlayedNote

_Array = NDArray[np.float64]
_RATE_HZ = 48_000
_KNOTS_HZ = 200
_BAND_HZ = (0.2, 8.0)


def pink(n: int, rng: np.random.Generator) -> _Array:
    """Slow noise with a 1/f spectrum between 0.2 and 8 Hz and unit variance.

    Parameters
    ----------
    n : int
        Samples at 48 kHz.
    rng : numpy.random.Generator

    Returns
    -------
    ndarray, shape (n,)
    """
    n_knots = max(4 * _KNOTS_HZ, int(n * _KNOTS_HZ / _RATE_HZ) + 2)
    at_hz = np.fft.rfftfreq(n_knots, 1.0 / _KNOTS_HZ)
    inside = (at_hz >= _BAND_HZ[0]) & (at_hz <= _BAND_HZ[1])
    weight = np.zeros(len(at_hz))
    weight[inside] = at_hz[inside] ** -0.5
    spectrum = weight * (rng.normal(size=len(at_hz)) + 1j * rng.normal(size=len(at_hz)))
    slow = np.fft.irfft(spectrum, n_knots)
    slow /= 2.0 / n_knots * np.sqrt(np.sum(weight**2))
    return np.interp(np.arange(n) * _KNOTS_HZ / _RATE_HZ, np.arange(n_knots), slow)


def real_cents(note: PlayedNote, u_s: _Array, rng: np.random.Generator) -> _Array:
    """Cents that drift, trill and grace add to a note.

    Parameters
    ----------
    note : PlayedNote
    u_s : ndarray
        Seconds since the onset.
    rng : numpy.random.Generator
    """
    cents = np.zeros_like(u_s)
    for x in note.real:
        match x:
            case r.Wander():
                cents += x.cents * pink(len(u_s), rng)
            case r.Trill():
                turn = 2 * np.pi * x.rate_hz * u_s
                up = 0.5 - 0.5 * np.tanh(6.0 * np.cos(turn)) / np.tanh(6.0)
                inside = u_s < note.offset_s - note.onset_s - 0.5 / x.rate_hz
                cents += 100.0 * x.semitones * up * inside
            case r.Grace():
                cents += 100.0 * x.semitones * np.clip(1.0 - (u_s - x.seconds) / 0.01, 0.0, 1.0)
            case _:
                pass
    return cents


def real_gain(note: PlayedNote, u_s: _Array, rng: np.random.Generator) -> _Array:
    """Factor on a note's envelope from uneven pressure and a wolf."""
    db = np.zeros_like(u_s)
    for x in note.real:
        match x:
            case r.Wander():
                db += x.level_db * pink(len(u_s), rng)
            case r.Wolf():
                turn = 2 * np.pi * (x.rate_hz * u_s + 0.15 * pink(len(u_s), rng))
                db -= x.depth_db * (0.5 - 0.5 * np.cos(turn)) ** 2 * np.clip(u_s / 0.1, 0.0, 1.0)
            case _:
                pass
    return np.asarray(10.0 ** (db / 20.0))


def undertones(
    notes: Sequence[PlayedNote],
    t_s: _Array,
    f0_hz: _Array,
    level: _Array,
    partials: Callable[[_Array, _Array], _Array],
) -> _Array:
    """What sounds beside the notes: subharmonics, and the string that was left at a crossing.

    Parameters
    ----------
    notes : sequence of PlayedNote
    t_s, f0_hz, level : ndarray, shape (n,)
    partials : callable
        Makes a tone of a frequency and a level curve.
    """
    out = np.zeros_like(t_s)
    for i, note in enumerate(notes):
        lo = int(np.searchsorted(t_s, note.onset_s))
        for x in note.real:
            match x:
                case r.Subharmonic():
                    hi = int(np.searchsorted(t_s, note.offset_s))
                    if hi - lo > 480:
                        half, whole = 0.5 * f0_hz[lo:hi], level[lo:hi] * 10 ** (x.level_db / 20.0)
                        every = partials(half, whole)
                        out[lo:hi] += every - partials(2.0 * half, whole)
                case r.Overlap() if i:
                    before = notes[i - 1]
                    hi = min(len(t_s), lo + round(x.seconds * _RATE_HZ))
                    if abs(before.pitch.midi - note.pitch.midi) < 1 or hi - lo < 480:
                        continue
                    u_s = t_s[lo:hi] - note.onset_s
                    fade = 10 ** (-3.0 * u_s / x.seconds) * np.clip(u_s / 0.005, 0.0, 1.0)
                    gain = 10 ** ((before.level_db + x.level_db) / 20.0)
                    out[lo:hi] += partials(np.full(hi - lo, before.f0_hz), gain * fade)
                case _:
                    pass
    return out
