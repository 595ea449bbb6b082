"""What the bow does inside a note, the second string, a leaking drone."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from jigwright.core.player import faults as f
from jigwright.core.player.performance import PlayedNote

_Array = NDArray[np.float64]
_TURNING_S = 0.003


def bow_gain(note: PlayedNote, u_s: _Array, length_s: float) -> _Array:
    """Factor on a note's envelope from bounces, tremor and hurry.

    Parameters
    ----------
    note : PlayedNote
    u_s : ndarray
        Seconds since the onset.
    length_s : float
    """
    db = np.zeros_like(u_s)
    for x in note.bow_faults:
        match x:
            case f.Bounce():
                for at_s in bounce_times(x, length_s):
                    half = x.width_ms / 2000.0
                    shape = np.clip(1.0 - np.abs(u_s - at_s) / (2 * half), 0.0, 1.0)
                    db -= x.depth_db * np.minimum(1.0, 2.0 * shape) ** 2
            case f.WhistleFault():
                db -= x.loss_db * whistle_shape(x, u_s, length_s)
            case f.Tremor():
                db += 0.5 * x.depth_db * np.sin(2 * np.pi * x.rate_hz * u_s)
            case f.Hurry():
                db += x.db * np.clip((u_s - 0.85 * length_s) / (0.06 * length_s), 0.0, 1.0)
            case _:
                pass
    return np.asarray(10.0 ** (db / 20.0))


def way_round(notes: Sequence[PlayedNote], t_s: _Array) -> _Array:
    """1 under bows like the first, -1 under others: the string's wave stands on its head.

    Parameters
    ----------
    notes : sequence of PlayedNote
        In time order.
    t_s : ndarray
        Time of every sample.

    Returns
    -------
    ndarray, shape of ``t_s``
        It goes through nought at each stroke's beginning, as the bow does. Double stops keep the
        way of the note before them.
    """
    if not notes:
        return np.ones_like(t_s)
    way, now, first = np.ones_like(t_s), notes[0].bow, notes[0].bow
    for note in notes[1:]:
        if note.bow != now and note.lower is None:
            now = note.bow
            lo, hi = np.searchsorted(t_s, note.onset_s + _TURNING_S * np.array([-0.5, 0.5]))
            x = (t_s[lo:hi] - note.onset_s) / _TURNING_S
            way[lo:hi] = now * first * np.sin(np.pi * x)
            way[hi:] = now * first
    return way


def whistle_shape(x: f.WhistleFault, u_s: _Array, length_s: float) -> _Array:
    """How far the string whistles, 0 … 1: it takes a few hundredths to turn over and back."""
    begin, end = x.at * length_s, min(x.at * length_s + x.seconds, length_s)
    return np.clip(np.minimum(u_s - begin, end - u_s) / 0.02, 0.0, 1.0)


def whistles(notes: Sequence[PlayedNote], t_s: _Array, dry: _Array) -> _Array:
    """The whistling of all notes, re the loudest fiftieth of a second of each."""
    out = np.zeros_like(t_s)
    for note in notes:
        for x in note.bow_faults:
            if not isinstance(x, f.WhistleFault):
                continue
            lo, hi = (int(np.searchsorted(t_s, s)) for s in (note.onset_s, note.offset_s))
            u_s = t_s[lo:hi] - note.onset_s
            piece = dry[lo:hi]
            n = max(1, len(piece) // 960)
            loud = max(float(np.sqrt(np.mean(p**2))) for p in np.array_split(piece, n))
            shape = whistle_shape(x, u_s, note.offset_s - note.onset_s)
            gain = np.sqrt(2.0) * loud * 10 ** (x.db / 20.0)
            out[lo:hi] += gain * shape * np.sin(2 * np.pi * x.f_hz * u_s)
    return out


def bounce_times(x: f.Bounce, length_s: float) -> list[float]:
    """Seconds after the onset at which the bow loses the string."""
    return [x.at * length_s + k * 0.09 for k in range(x.times)]


def bow_noise(note: PlayedNote, u_s: _Array, length_s: float) -> _Array:
    """Level of extra bow noise re the tone."""
    noise = np.zeros_like(u_s)
    for x in note.bow_faults:
        match x:
            case f.Bounce():
                for at_s in bounce_times(x, length_s):
                    width = x.width_ms / 1000.0
                    noise += 0.12 * np.exp(-(((u_s - at_s) / (0.5 * width)) ** 2))
            case f.Scratch():
                begin = x.at * length_s
                inside = (u_s > begin) & (u_s < begin + x.seconds)
                noise += 10 ** (x.db / 20.0) * inside
            case _:
                pass
    return noise


def second_string(
    notes: Sequence[PlayedNote],
    t_s: _Array,
    upper: _Array,
    partials: Callable[[_Array, _Array], _Array],
    level: _Array,
) -> _Array:
    """Sound of the lower strings, each set to its balance against the upper."""
    out = np.zeros_like(t_s)
    for i, note in enumerate(notes):
        if note.lower is None:
            continue
        lo = int(np.searchsorted(t_s, note.onset_s))
        after = notes[i + 1].onset_s if i + 1 < len(notes) else note.offset_s + 0.3
        hi = int(np.searchsorted(t_s, min(note.offset_s + 0.3, after)))
        if hi - lo < 16:
            continue
        part = partials(np.full(hi - lo, note.lower_hz), level[lo:hi])
        own = float(np.sqrt(np.mean(part**2))) + 1e-12
        wanted = float(np.sqrt(np.mean(upper[lo:hi] ** 2))) * 10 ** (-note.balance_db / 20.0)
        fade = np.clip(np.minimum(np.arange(hi - lo), np.arange(hi - lo)[::-1]) / 240.0, 0, 1)
        out[lo:hi] += part * (wanted / own) * fade
    return out


def drone_sound(drone: f.Drone, n: int, rate_hz: int) -> _Array:
    """A harmonic drone of unit level."""
    t_s = np.arange(n) / rate_hz
    tone = sum(
        np.sin(2 * np.pi * k * drone.f_hz * t_s) / k
        for k in range(1, 7)
        if k * drone.f_hz < 0.45 * rate_hz
    )
    out = np.asarray(tone, dtype=np.float64)
    return out / float(np.sqrt(np.mean(out**2)))
