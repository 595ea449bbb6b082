"""The upper note of an octave, whose every partial one of the lower note's covers.

The odd partials are the lower note's alone and tell its phase. An even partial turned back by that
phase stands still where one note sounds; where a second one sounds in it, it moves on a circle: the
lower note's share is the centre, the upper's the radius, and the angle is the upper note's phase
against twice the lower's. So a detuning too small for any window, and a vibrato that only one of
the two has, part them; two that move as one and are in tune stay one. A circle through a cloud of
points is found by linear least squares (Kåsa 1976). It counts where the first even partials tell
the same angle, doubled and tripled as their orders are: what a room or a body does to one partial
it does not do to the next.

Limits: unisons have no odd partials of their own; where both shares change much in level the circle
is smeared and refused.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.sound.pair_lines import demodulated
from jigwright.core.values import Floats, median

_HIGHEST = 12
_WIDEST_SHARE, _NARROW_HZ, _WIDE_RATIO = 0.4, 18.0, 0.02
_EDGE_S = 0.08
_LEAST_S = 0.5
_WITNESSES = (2, 4, 6)
_FEWEST_WITNESSES = 2
_MOST_SMEARED = 0.3  # spread of the radius, of itself
_LEAST_TURN = 2.0  # radians between the farthest places on the circle
_LEAST_ODD = 0.015  # of the even partials' power
_SOFTEST_DB = 14.0  # the upper note's share below the lower's in a partial
_SLOPE_OFF = 0.12  # of the ratio of two angles
_AGREE_CENTS, _AGREE_SHARE = 0.8, 0.06
_SURE_CENTS = 0.9
_STEP_S = 0.085
_MOVED_CENTS = 2.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Octave:
    """Both notes of an octave.

    Parameters
    ----------
    lower_hz, upper_hz : float
        Means over the stretch; of a detuning that moved, where it was for most of it.
    uncertainty_cents : float
        Half the 95 % range of the upper note against twice the lower.
    balance_db : float
        Upper minus lower.
    times_s, lower_track_hz, upper_track_hz : ndarray, shape (m,)
        From the start of the stretch.
    """

    lower_hz: float
    upper_hz: float
    uncertainty_cents: float
    balance_db: float
    times_s: Floats
    lower_track_hz: Floats
    upper_track_hz: Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Circle:
    order: int
    centre: float
    radius: float
    smeared: float
    angle: Floats

    @property
    def is_clear(self) -> bool:
        return (
            self.smeared < _MOST_SMEARED
            and float(np.ptp(self.angle)) > _LEAST_TURN
            and self.radius > self.centre * 10 ** (-_SOFTEST_DB / 20)
        )


def part_octave(x: Floats, rate_hz: float, lower_hz: float) -> Octave | None:
    """Both notes of a stretch, or ``None`` where no second one can be made out.

    Parameters
    ----------
    x : ndarray
        One stroke, without what sounds before and after.
    rate_hz : float
    lower_hz : float
        The lower note within about 20 cents.
    """
    if len(x) < _LEAST_S * rate_hz:
        return None
    orders = np.arange(1, _HIGHEST + 1)
    orders = orders[orders * lower_hz < 0.42 * rate_hz]
    if len(orders) < max(_WITNESSES):
        return None
    half_hz = min(_WIDEST_SHARE * lower_hz, _NARROW_HZ + _WIDE_RATIO * lower_hz)
    n = fft.next_fast_len(len(x), real=True)
    z, slow_hz = demodulated(fft.rfft(x, n), rate_hz / n, orders * lower_hz, half_hz)
    z = z[:, : int(len(x) / rate_hz * slow_hz)]
    edge = round(_EDGE_S * slow_hz)
    z = z[:, edge : z.shape[1] - edge]
    if z.shape[1] < _LEAST_S * slow_hz / 2:
        return None
    share = np.mean(np.abs(z) ** 2, axis=1)
    if share[orders % 2 == 1].sum() < _LEAST_ODD * share[orders % 2 == 0].sum():
        return None  # nobody plays that note: what sounds are the two octaves above
    turns = _lower_turns(z[orders % 2 == 1], orders[orders % 2 == 1])
    phase = np.concatenate([[0.0], np.cumsum(turns)])
    even = orders[orders % 2 == 0]
    circles = [_circle(int(k), z[k - 1] * np.exp(-1j * k * phase)) for k in even]
    told = [c for c in circles if c.order in _WITNESSES and c.is_clear]
    if len(told) < _FEWEST_WITNESSES or not _agree(told, slow_hz, lower_hz):
        return None
    return _measured(z, orders, phase, circles, told, (slow_hz, lower_hz, edge))


def _lower_turns(odd: NDArray[np.complexfloating[Any, Any]], orders: NDArray[np.intp]) -> Floats:
    """Radians the lower note's first partial turns from sample to sample, by all odd partials."""
    step = odd[:, 1:] * odd[:, :-1].conj()
    power, number = np.abs(step), orders[:, None].astype(float)
    return np.asarray(
        np.sum(power * number * np.angle(step), axis=0)
        / np.maximum(np.sum(power * number**2, axis=0), 1e-30)
    )


def _circle(order: int, w: NDArray[np.complexfloating[Any, Any]]) -> _Circle:
    columns = np.column_stack([w.real, w.imag, np.ones(len(w))])
    fit = np.linalg.lstsq(columns, np.abs(w) ** 2, rcond=None)[0]
    centre = complex(0.5 * fit[0], 0.5 * fit[1])
    radius = float(np.sqrt(max(float(fit[2]) + abs(centre) ** 2, 1e-30)))
    return _Circle(
        order=order, centre=abs(centre), radius=radius,
        smeared=float(np.std(np.abs(w - centre))) / radius,
        angle=np.unwrap(np.angle(w - centre)),
    )  # fmt: skip


def _slope_cents(c: _Circle, slow_hz: float, lower_hz: float) -> float:
    """Mean detuning that a circle's angle tells."""
    per_sample = float(np.polyfit(np.arange(len(c.angle)), c.angle, 1)[0]) / (c.order / 2)
    return float(1200 * np.log2(1 + per_sample * slow_hz / (2 * np.pi) / (2 * lower_hz)))


def _agree(told: list[_Circle], slow_hz: float, lower_hz: float) -> bool:
    """Whether the partials tell one and the same second note."""
    first, *others = told
    cents = [_slope_cents(c, slow_hz, lower_hz) for c in told]
    allowed = _AGREE_CENTS + _AGREE_SHARE * abs(cents[0])
    if max(cents) - min(cents) > allowed:
        return False
    base = first.angle - np.mean(first.angle)
    for c in others:
        ratio = float(np.dot(base, c.angle - np.mean(c.angle)) / np.dot(base, base))
        if abs(ratio / (c.order / first.order) - 1.0) > _SLOPE_OFF:
            return False
    return True


def _measured(
    z: NDArray[np.complexfloating[Any, Any]],
    orders: NDArray[np.intp],
    phase: Floats,
    circles: list[_Circle],
    told: list[_Circle],
    place: tuple[float, float, int],
) -> Octave:
    slow_hz, lower_hz, edge = place
    angle = np.average(
        [c.angle / (c.order / 2) for c in told], axis=0, weights=[c.order for c in told]
    )
    size = round(_STEP_S * slow_hz)
    starts = np.arange(0, len(angle) - 2 * size, size)
    at = starts + size
    lower = lower_hz + (phase[starts + 2 * size] - phase[starts]) * slow_hz / (4 * np.pi * size)
    off = (angle[starts + 2 * size] - angle[starts]) * slow_hz / (4 * np.pi * size)
    upper = 2 * lower + off
    whole = slow_hz / (2 * np.pi * (len(angle) - 1))
    low_hz = float(lower_hz + phase[-1] * whole)
    cents = [_slope_cents(c, slow_hz, lower_hz) for c in told]
    mine = sum(float(np.mean(np.abs(z[k - 1]) ** 2)) for k in orders if k % 2)
    mine += sum(c.centre**2 for c in circles)
    theirs = sum(c.radius**2 for c in circles)
    off_cents = float(np.mean(cents))
    settled = median(1200 * np.log2(upper / (2 * lower)))
    if abs(settled - off_cents) > _MOVED_CENTS:  # it came from elsewhere: the mean is no place
        off_cents = settled
    return Octave(
        lower_hz=low_hz, upper_hz=2 * low_hz * 2 ** (off_cents / 1200),
        uncertainty_cents=_SURE_CENTS + float(np.ptp(cents)),
        balance_db=float(10 * np.log10(theirs / mine)), times_s=(at + edge) / slow_hz,
        lower_track_hz=lower, upper_track_hz=upper,
    )  # fmt: skip
