"""Two harmonic series fitted to one window: frequencies, amplitudes, what stays unexplained.

The analytic signal of a Hann-weighted window is modelled as the partials of both notes at once,
their mutual leakage included through the Gram matrix; both fundamentals follow by Gauss-Newton
steps with the amplitudes projected out (variable projection, Golub & Pereyra 1973; harmonic models
of several sources, Christensen & Jakobsson 2009).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jigwright.core.values import Floats

_Complex = NDArray[np.complexfloating[Any, Any]]
_RIDGE = 2e-3
_LARGEST_STEP_CENTS = 12.0
N_PARTIALS = 14


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Fit:
    """Outcome of one window.

    Parameters
    ----------
    f_hz : tuple of float
        Fundamentals, in the order given.
    power : tuple of ndarray
        Power of each partial of each note.
    left_ratio : float
        Share of the window's energy that stays unexplained, 0 … 1.
    """

    f_hz: tuple[float, ...]
    power: tuple[Floats, ...]
    left_ratio: float


def fit_notes(
    x: _Complex,
    rate_hz: float,
    start_hz: tuple[float, ...],
    *,
    n_steps: int = 4,
    n_partials: int = N_PARTIALS,
) -> Fit | None:
    """Fit one or two harmonic series to an analytic signal.

    Parameters
    ----------
    x : ndarray of complex, shape (n,)
        Analytic signal of the window.
    rate_hz : float
    start_hz : tuple of float
        Fundamentals to begin from, within about 40 cents.
    n_steps : int
    n_partials : int
        Most partials of a note.

    Returns
    -------
    Fit or None
        ``None`` when the window is silent or the fit runs away.
    """
    n = len(x)
    t_s = (np.arange(n) - 0.5 * (n - 1)) / rate_hz
    root = np.sin(np.pi * (np.arange(n) + 0.5) / n)  # square root of the Hann weight
    y = x * root
    energy = float(np.vdot(y, y).real)
    if energy <= 1e-16:
        return None
    f = np.array(start_hz, dtype=float)
    counts = [max(1, min(n_partials, int(0.45 * rate_hz / v))) for v in f]
    owner = np.repeat(np.arange(len(f)), counts)
    number = np.concatenate([np.arange(1, c + 1) for c in counts])
    window = _Window(t_s=t_s, root=root, y=y, rate_hz=rate_hz)
    columns, gram, c, rest = _solve(f, counts, window)
    for _ in range(n_steps):
        weight = 2j * np.pi * number * c
        slopes = np.stack([(weight[owner == i] @ columns[owner == i]) * t_s for i in range(len(f))])
        slopes = slopes - np.linalg.solve(gram, columns.conj() @ slopes.T).T @ columns
        normal = (slopes.conj() @ slopes.T).real
        step = np.linalg.lstsq(normal, (slopes.conj() @ rest).real, rcond=1e-6)[0]
        limit = f * (2 ** (_LARGEST_STEP_CENTS / 1200) - 1)
        step = np.clip(step, -limit, limit)
        f = f + step
        columns, gram, c, rest = _solve(f, counts, window)
        if np.all(np.abs(step) < 1e-5 * f):
            break
    if not np.isfinite(f).all() or np.any(np.abs(1200 * np.log2(f / start_hz)) > 90.0):
        return None
    power = np.abs(c) ** 2
    return Fit(
        f_hz=tuple(float(v) for v in f),
        power=tuple(power[owner == i] for i in range(len(f))),
        left_ratio=float(np.vdot(rest, rest).real) / energy,
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Window:
    t_s: Floats
    root: Floats
    y: _Complex
    rate_hz: float


def _solve(
    f: Floats, counts: list[int], window: _Window
) -> tuple[_Complex, Floats, _Complex, _Complex]:
    """Weighted partials, their Gram matrix, amplitudes, and what is left."""
    columns = np.empty((sum(counts), len(window.t_s)), dtype=np.complex128)
    at = 0
    partials = []
    for f_hz, count in zip(f, counts, strict=True):
        turn = np.exp(2j * np.pi * f_hz * window.t_s)
        columns[at] = window.root * turn
        for k in range(1, count):
            np.multiply(columns[at + k - 1], turn, out=columns[at + k])
        partials.append(f_hz * np.arange(1, count + 1))
        at += count
    gram = _gram(np.concatenate(partials), len(window.t_s), window.rate_hz)
    c = np.linalg.solve(gram, columns.conj() @ window.y)
    return columns, gram, c, window.y - c @ columns


def _gram(partials_hz: Floats, n: int, rate_hz: float) -> Floats:
    """Inner products of Hann-weighted partials: the transform of the window, in closed form."""
    apart = partials_hz[None, :] - partials_hz[:, None]
    bin_hz = rate_hz / n
    gram = 0.5 * _dirichlet(apart, n, rate_hz) + 0.25 * (
        _dirichlet(apart - bin_hz, n, rate_hz) + _dirichlet(apart + bin_hz, n, rate_hz)
    )
    return np.asarray(gram + _RIDGE * 0.5 * n * np.eye(len(gram)))


def _dirichlet(f_hz: Floats, n: int, rate_hz: float) -> Floats:
    """Sum of ``exp(2 pi i f t)`` over ``n`` samples centred on zero."""
    angle = np.pi * f_hz / rate_hz
    below = np.sin(angle)
    small = np.abs(below) < 1e-9
    return np.where(small, float(n), np.sin(n * angle) / np.where(small, 1.0, below))
