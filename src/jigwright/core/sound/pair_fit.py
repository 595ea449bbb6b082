"""One or two harmonic series fitted to many windows at once.

A sine-weighted window of a steady partial has a spectrum in closed form, real when time is counted
from the window's middle. The bins around the partials are modelled as the sum of all partials of
both notes, their mutual leakage included; both fundamentals follow by Gauss-Newton steps with the
amplitudes projected out (variable projection, Golub & Pereyra 1973; harmonic models of several
sources, Christensen & Jakobsson 2009). By Parseval's theorem a fit over all bins is the fit of the
Hann-weighted waveform; leaving out bins far from every partial costs little and saves much.

Limits: a partial is taken as steady within its window; negative frequencies are left out, so the
lowest partial must lie several bins above zero.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.values import Floats

_Complex = NDArray[np.complexfloating[Any, Any]]
_RIDGE = 2e-3
_LARGEST_STEP_CENTS = 12.0
_FARTHEST_CENTS = 90.0
_REACH_BINS = 3
_FEW_PARTIALS = 6  # the first steps: high partials attract from nearby only
_ALL_ENERGY = 2.0 * np.pi**2  # of one partial of amplitude 1 over all bins
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


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Windows:
    """Spectra of sine-weighted windows, their phase counted from the middle.

    Parameters
    ----------
    spectra : ndarray of complex, shape (w, n // 2 + 1)
    n : int
        Samples of a window.
    rate_hz : float
    """

    spectra: _Complex
    n: int
    rate_hz: float


def take_windows(x: Floats, rate_hz: float, n: int, starts_s: Sequence[float] | Floats) -> Windows:
    """Windows of ``n`` samples that begin at the given times; beyond the sound is silence."""
    starts = np.rint(np.asarray(starts_s, dtype=float) * rate_hz).astype(int)
    rows = np.zeros((len(starts), n))
    for row, at in zip(rows, starts, strict=True):
        part = x[max(0, at) : at + n]
        row[max(0, -at) : max(0, -at) + len(part)] = part
    rows *= np.sin(np.pi * (np.arange(n) + 0.5) / n)
    spectra = fft.rfft(rows, axis=1)
    spectra *= np.exp(-1j * np.pi * np.arange(spectra.shape[1]) / n)
    return Windows(spectra=spectra, n=n, rate_hz=rate_hz)


def fit_notes(
    windows: Windows,
    start_hz: Sequence[float] | Floats,
    *,
    n_steps: int = 4,
    n_partials: int = N_PARTIALS,
    whole: bool = False,
) -> tuple[Fit | None, ...]:
    """Fit one or two harmonic series to every window.

    Parameters
    ----------
    windows : Windows
    start_hz : sequence of float, shape (k,) or (w, k)
        Fundamentals to begin from, within about 40 cents.
    n_steps : int
        Steps; the first half of them with the lowest partials only.
    n_partials : int
        Most partials of a note.
    whole : bool
        Fit all bins up to beyond the highest partial, for what stays unexplained to the last.

    Returns
    -------
    tuple of Fit or None
        ``None`` where the window is silent or the fit runs away.
    """
    n_windows = len(windows.spectra)
    bin_hz = windows.rate_hz / windows.n
    first = np.broadcast_to(np.asarray(start_hz, dtype=float), (n_windows, np.shape(start_hz)[-1]))
    f = first / bin_hz
    energy = np.sum(np.abs(windows.spectra[:, 1:]) ** 2, axis=1)
    unit = 1.0 / np.sqrt(np.maximum(energy, 1e-30))
    windows = replace(windows, spectra=(windows.spectra * unit[:, None]))
    for step in range(n_steps):
        few = step < n_steps // 2
        model = _Model.at(f, windows, min(_FEW_PARTIALS, n_partials) if few else n_partials)
        change = model.step()
        limit = f * (2 ** (_LARGEST_STEP_CENTS / 1200) - 1)
        f = f + np.clip(change, -limit, limit)
        if not few and np.all(np.abs(change) < 1e-5 * f):
            break
    model = _Model.at(f, windows, n_partials, whole=whole, moving=False)
    explained = model.explained()
    power = np.sum(model.amplitude**2, axis=2)
    fits: list[Fit | None] = []
    for i in range(n_windows):
        ran = np.abs(1200 * np.log2(np.maximum(f[i], 1e-9) * bin_hz / first[i])) > _FARTHEST_CENTS
        if energy[i] <= 1e-16 or not np.isfinite(f[i]).all() or ran.any():
            fits.append(None)
            continue
        left = float(max(1.0 - explained[i], 0.0))
        fits.append(
            Fit(
                f_hz=tuple(float(v) * bin_hz for v in f[i]),
                power=tuple(energy[i] * power[i, model.owner == k] for k in range(f.shape[1])),
                left_ratio=left,
            )
        )
    return tuple(fits)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Model:
    """The linear model of all windows at given fundamentals.

    Parameters
    ----------
    owner, number : ndarray of int, shape (p,)
        Note and order of every partial.
    columns, slopes : ndarray, shape (w, r, p)
        What a partial of amplitude 1 puts into the rows, and its derivative by its place in bins.
    rows : ndarray, shape (w, r, 2)
        Measured real and imaginary parts.
    inverse : ndarray, shape (w, p, p)
    amplitude : ndarray, shape (w, p, 2)
    """

    owner: NDArray[np.intp]
    number: NDArray[np.intp]
    columns: Floats
    slopes: Floats
    rows: Floats
    inverse: Floats
    amplitude: Floats

    @staticmethod
    def at(
        f_bins: Floats,
        windows: Windows,
        n_partials: int,
        *,
        whole: bool = False,
        moving: bool = True,
    ) -> _Model:
        top = 0.9 * (windows.n // 2)
        counts = [max(1, min(n_partials, int(top / max(v, 1.0)))) for v in f_bins.max(axis=0)]
        owner = np.repeat(np.arange(len(counts)), counts)
        number = np.concatenate([np.arange(1, c + 1) for c in counts])
        place = f_bins[:, owner] * number
        last = windows.spectra.shape[1] - 1
        if whole:
            high = min(last, int(place.max()) + 12)
            bins = np.broadcast_to(np.arange(1, high + 1), (len(place), high))
            used = np.ones(bins.shape, dtype=bool)
        else:
            bins, used = _rows_around(place, last)
        y = np.take_along_axis(windows.spectra, bins, axis=1)
        y = np.where(used, y, 0.0)
        columns, slopes = _kernel(place, bins, used, moving=moving)
        turned = columns.swapaxes(1, 2)
        gram = turned @ columns
        gram += _RIDGE * _ALL_ENERGY * np.eye(len(number))
        rows = np.stack([y.real, y.imag], axis=2)
        inverse = np.linalg.inv(gram)
        amplitude = inverse @ (turned @ rows)
        return _Model(
            owner=owner, number=number, columns=columns, slopes=slopes, rows=rows,
            inverse=inverse, amplitude=amplitude,
        )  # fmt: skip

    def step(self) -> Floats:
        """Gauss-Newton change of the fundamentals in bins, shape (w, k)."""
        rest = self.rows - self.columns @ self.amplitude
        moved = self.amplitude * self.number[:, None]
        n_notes = int(self.owner.max()) + 1
        bends = np.concatenate(
            [
                self.slopes[:, :, self.owner == i] @ moved[:, self.owner == i]
                for i in range(n_notes)
            ],
            axis=2,
        )
        bends = bends - self.columns @ (self.inverse @ (self.columns.swapaxes(1, 2) @ bends))
        flat = bends.reshape(len(bends), -1, n_notes, 2).swapaxes(1, 2)
        flat = flat.reshape(len(bends), n_notes, -1)
        normal = flat @ flat.swapaxes(1, 2)
        side = (flat @ rest.reshape(len(rest), -1, 1))[..., 0]
        floor = 1e-6 * np.trace(normal, axis1=1, axis2=2)[:, None, None] + 1e-300
        return np.asarray(
            np.linalg.solve(normal + floor * np.eye(n_notes), side[..., None])[..., 0]
        )

    def explained(self) -> Floats:
        """Energy the model takes from each window; what its partials have beyond the rows too."""
        before = np.sum(self.rows**2, axis=(1, 2))
        rest = np.sum((self.rows - self.columns @ self.amplitude) ** 2, axis=(1, 2))
        power = np.sum(self.amplitude**2, axis=2)
        beyond = np.maximum(_ALL_ENERGY - np.sum(self.columns**2, axis=1), 0.0)
        return np.asarray(before - rest + np.sum(power * beyond, axis=1))


def _rows_around(place: Floats, last: int) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
    """Bins near any partial, each once; windows with fewer have unused ones at the end."""
    near = np.rint(place).astype(int)[:, :, None] + np.arange(-_REACH_BINS, _REACH_BINS + 1)
    near = np.clip(near, 1, last).reshape(len(place), -1)
    wanted = np.zeros((len(place), last + 1), dtype=bool)
    np.put_along_axis(wanted, near, True, axis=1)
    counts = wanted.sum(axis=1)
    bins = np.argsort(~wanted, axis=1, kind="stable")[:, : int(counts.max())]
    return bins, np.arange(bins.shape[1])[None, :] < counts[:, None]


def _kernel(
    place: Floats, bins: NDArray[np.intp], used: NDArray[np.bool_], *, moving: bool
) -> tuple[Floats, Floats]:
    """Spectrum of the sine window around ``place`` (in bins), and its derivative.

    ``cos(pi v) / (1/4 - (v - k)^2)``, times the alternating sign that the phase brings.
    """
    off_half = place - np.floor(place) - 0.5
    place = np.where(np.abs(off_half) < 1e-6, place + 2e-6, place)
    apart = place[:, None, :] - bins[:, :, None]
    under = apart * apart
    np.subtract(0.25, under, out=under)
    np.divide(used[:, :, None], under, out=under)
    cosine = np.cos(np.pi * place)[:, None, :]
    if not moving:
        under *= cosine
        return under, under[:0]
    columns = cosine * under
    apart *= 2.0
    apart *= columns
    apart -= np.pi * np.sin(np.pi * place)[:, None, :]
    apart *= under
    return columns, apart
