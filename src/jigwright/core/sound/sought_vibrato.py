"""A vibrato that a room hides from the contour, sought in the sound itself.

Where the room is as loud as the player the period of the mixture wanders as the echoes beat, and a
vibrato can be in it without a trace. The direct sound still swings: turned back by the right swing
each of its partials becomes one line, as in :mod:`matched_vibrato`; but here nothing of the contour
is used. In stretches of a quarter of a second, about one swing and a half, swings of every rate,
phase and width are tried, each stretch by itself, since no two swings of a player are alike (Prame
1997). What the best width gathers is held against what a pitch gathers that only drifts; it must do
so in most stretches, and its phase must go on from one to the next at its own rate: a slide and a
step do not.

Simulated playing in rooms and through microphones, four instruments: none found in 224 notes
without vibrato; of 222 with one the contour shows 181, and this 25 of the others. Other makers, in
rooms and noise, by this alone: 104 of 118 vibratos of 8 cents and more, none in 23 notes without
one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jigwright.core.gauge_maths import MAX_RATE_HZ, MIN_RATE_HZ
from jigwright.core.sound.matched_vibrato import highest_between
from jigwright.core.values import Floats

_N_PARTIALS = (8, 24)  # the higher a partial, the wider it swings
_TO_HZ = 3500.0
_RATE_HZ = 1200  # after turning a partial back to zero: room for its widest swing
_MOST_STRETCHES = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class SoughtParams:
    """What is tried, and what is found.

    Parameters
    ----------
    stretch_s, step_s : float
        Length of a stretch, and from one to the next.
    half_cents : tuple of float
        Half widths.
    rates_hz : tuple of float
    n_phases : int
    apart_hz : tuple of float
        How far off the note's pitch a stretch may lie.
    drifts : tuple of float
        Slopes of a pitch that does not swing, cents a second.
    least_gain : float
        What the best width gathers over none where there is a vibrato.
    first_gain : float
        So much a few widths, rates and phases must gather before the others are tried.
    least_stretches : float
        Share of the stretches in each of which it gathers more: a step lies in a few.
    least_onward : float
        How well its phase goes on from stretch to stretch, 0 … 1.
    most_off_hz : float
        How far the rate by that may lie from the rate that gathers most. A slide looks the same in
        every stretch, whatever rate it is taken for.
    """

    stretch_s: float = 0.26
    step_s: float = 0.13
    half_cents: tuple[float, ...] = (4.0, 7.0, 10.0, 14.0, 19.0, 25.0, 33.0)
    rates_hz: tuple[float, ...] = (4.8, 5.6, 6.4, 7.2)
    n_phases: int = 12
    apart_hz: tuple[float, ...] = (-4.0, -2.0, 0.0, 2.0, 4.0)
    drifts: tuple[float, ...] = (-160.0, -80.0, -30.0, 0.0, 30.0, 80.0, 160.0)
    least_gain: float = 1.015
    first_gain: float = 0.95
    least_stretches: float = 0.5
    least_onward: float = 0.4
    most_off_hz: float = 1.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Sought:
    """A vibrato that was found.

    Parameters
    ----------
    rate_hz : float
    half_cents : float
        Half the extent.
    gain : float
        How much more it gathers than no swing does.
    """

    rate_hz: float
    half_cents: float
    gain: float


def sought_swing(
    x: Floats, rate_hz: int, f_hz: float, params: SoughtParams | None = None
) -> Sought | None:
    """Seek a vibrato in a note.

    Parameters
    ----------
    x : ndarray
        The settled part of the note.
    rate_hz : int
    f_hz : float
        Its centre.
    params : SoughtParams, optional

    Returns
    -------
    Sought or None
        ``None`` where there are not two stretches, or where no swing gathers more than none.
    """
    p = params or SoughtParams()
    length, step = round(p.stretch_s * rate_hz), round(p.step_s * rate_hz)
    starts = range(0, len(x) - length + 1, step)
    if len(starts) < 2:
        return None
    first = max(0, (len(starts) - _MOST_STRETCHES) // 2)
    starts = starts[first : first + _MOST_STRETCHES]
    lines = _Lines(x, rate_hz, f_hz, starts, length, p.apart_hz)
    still = lines.still(p.drifts)
    few = lines.gathered(p.half_cents[::2], p.rates_hz[::2], max(4, p.n_phases // 2))
    if few.max(axis=(1, 2)).sum(axis=0).max() < p.first_gain * still.sum():
        return None
    all_ = lines.gathered(p.half_cents, p.rates_hz, p.n_phases)
    each = all_.max(axis=(1, 2))
    total = each.sum(axis=0)
    best = int(np.argmax(total))
    gain = float(total[best] / still.sum())
    if gain < p.least_gain or np.mean(each[:, best] > still) <= p.least_stretches:
        return None
    k = int(np.argmax(all_[..., best].max(axis=2).sum(axis=0)))
    apart_s = float(starts[1] - starts[0]) / rate_hz
    found_hz, onward = _rate_hz(all_[:, k, :, best], p.rates_hz[k], apart_s)
    if onward < p.least_onward or abs(found_hz - p.rates_hz[k]) > p.most_off_hz:
        return None
    if not MIN_RATE_HZ <= found_hz <= MAX_RATE_HZ:
        return None
    half = highest_between(total, np.array(p.half_cents))
    return Sought(rate_hz=found_hz, half_cents=half, gain=gain)


class _Lines:
    """The partials of the stretches of a note, turned back to zero."""

    def __init__(
        self, x: Floats, rate_hz: int, f_hz: float, starts: Sequence[int], length: int,
        apart_hz: tuple[float, ...],
    ) -> None:  # fmt: skip
        block = max(1, rate_hz // _RATE_HZ)
        m = length // block
        t_s = np.arange(m * block) / rate_hz
        self._middle_s = t_s.reshape(m, block).mean(axis=1)
        self._f_hz = f_hz
        wanted = float(np.clip(_TO_HZ / f_hz, *_N_PARTIALS))
        self._count = max(1, min(round(wanted), int(0.42 * rate_hz / f_hz)))
        back = np.exp(-2j * np.pi * f_hz * t_s)
        taper = np.hanning(m + 2)[1:-1]
        apart = np.exp(-2j * np.pi * np.outer(self._middle_s, apart_hz))
        parts = np.stack([x[s : s + m * block] for s in starts])
        self._partials = []  # of each partial its values (stretch, block, offset), and its energy
        turned = np.ones(m * block, dtype=np.complex128)
        for _ in range(self._count):
            turned = turned * back
            z = (parts * turned).reshape(len(starts), m, block).sum(axis=2) * taper
            energy = np.sum(np.abs(z) ** 2, axis=1) * m + 1e-30
            self._partials.append((z[:, :, None] * apart, energy))

    def still(self, drifts: tuple[float, ...]) -> Floats:
        """What a pitch gathers that only drifts, the best of some slopes: (stretch,)."""
        about_s = self._middle_s - self._middle_s.mean()
        slopes_hz = self._f_hz * np.log(2.0) / 1200.0 * np.array(drifts)
        ways = self._added(np.exp(-1j * np.pi * slopes_hz[:, None] * about_s**2))
        return np.asarray(ways.max(axis=1))

    def gathered(
        self, half_cents: tuple[float, ...], rates_hz: tuple[float, ...], n_phases: int
    ) -> Floats:
        """Shares of the energy in lines, added over partials: (stretch, rate, phase, width)."""
        dev_hz = self._f_hz * np.log(2.0) / 1200.0 * np.array(half_cents)
        phases = 2 * np.pi * np.arange(n_phases) / n_phases
        angle = 2 * np.pi * np.array(rates_hz)[:, None] * self._middle_s
        swing = -np.cos(angle[:, None, :] + phases[None, :, None])
        index = dev_hz[None, :] / np.array(rates_hz)[:, None]
        unswing = np.exp(-1j * index[:, None, :, None] * swing[:, :, None, :])
        added = self._added(unswing.reshape(-1, len(self._middle_s)))
        return np.asarray(added.reshape(-1, *unswing.shape[:3]))

    def _added(self, unswing: Floats) -> Floats:
        """Shares of the energy in lines after each way of turning back: (stretch, way)."""
        twist = np.ones_like(unswing)
        found = np.zeros((len(self._partials[0][1]), len(unswing)))
        for z, energy in self._partials:
            twist = twist * unswing
            for i, (each, own) in enumerate(zip(z, energy, strict=True)):
                found[i] += (np.abs(twist @ each) ** 2).max(axis=1) / own
        return found


def _rate_hz(by_phase: Floats, near_hz: float, apart_s: float) -> tuple[float, float]:
    """The rate by how the phase goes on from stretch to stretch, and how well it does.

    Parameters
    ----------
    by_phase : ndarray, shape (stretches, phases)
        What each phase gathers.
    near_hz : float
    apart_s : float
        From one stretch to the next.
    """
    turns = np.exp(2j * np.pi * np.arange(by_phase.shape[1]) / by_phase.shape[1])
    phase = (by_phase - by_phase.min(axis=1, keepdims=True)) @ turns
    onward = phase[1:] * np.conj(phase[:-1]) * np.exp(-2j * np.pi * near_hz * apart_s)
    whole = complex(np.sum(onward))
    share = abs(whole) / (float(np.sum(np.abs(onward))) + 1e-30)
    return near_hz + float(np.angle(whole)) / (2 * np.pi * apart_s), share
