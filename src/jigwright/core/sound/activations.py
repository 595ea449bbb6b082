"""How strongly each of a few known pitches sounds, from moment to moment.

The magnitude spectrum is modelled as a sum of templates, one for every pitch that may sound and a
few for noise, each as strong as it must be in every frame: non-negative factorisation with the
Kullback-Leibler divergence (Lee & Seung 2001), its templates zero wherever the pitch has no
partial, which the multiplicative steps keep (score-informed constraints: Ewert & Müller 2012). The
shape of each template is learnt from the sound itself, so that an octave or a fifth which only
shares partials with what sounds is not taken for a note.

What a bow leaves ringing, and what comes back of the room, is as strong in its template as what is
bowed: this says what sounds, not what is played.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from jigwright.core.values import Floats

ACTIVATION_HOP_S = 0.01
_LOW_HZ, _HIGH_HZ = 80.0, 5000.0
_N_PARTIALS = 40
_ROLL_OFF, _COMPRESSION = 0.7, 0.7  # magnitudes to that power: soft partials count
_OFF_CENTS = 30.0  # a player's distance from what is written that a template spans
_LOBE_BINS = 1.5  # half the main lobe of the window
_NOISE_HZ, _NOISE_OCTAVES, _NOISE_SHARE = (200.0, 500.0, 1200.0, 3000.0), 0.5, 0.1
_N_STEPS, _SHAPED_AFTER = 20, 6
_CHUNK_S, _OVERLAP_S = 30.0, 0.5
_TINY = 1e-9
_Single = NDArray[np.float32]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Activations:
    """How strongly pitches sound.

    Parameters
    ----------
    pitches_hz : tuple of float
    values : ndarray, shape (pitches, frames)
        Compressed magnitude, one frame every `ACTIVATION_HOP_S` from the first sample on; 1 is the
        strongest pitch of the loud parts.
    window_s : float
        Of the spectra.
    """

    pitches_hz: tuple[float, ...]
    values: Floats
    window_s: float


def activations(
    x: Floats, rate_hz: int, pitches_hz: Sequence[float], *, window_s: float
) -> Activations:
    """Find how strongly each pitch sounds.

    Parameters
    ----------
    x : ndarray, shape (samples,)
    rate_hz : int
    pitches_hz : sequence of float
        Those that may sound, each once.
    window_s : float
        Of the spectrum; two partials nearer than two over it are one.
    """
    pitches = tuple(pitches_hz)
    n_frames = len(x) // _hop(rate_hz)
    values = np.zeros((len(pitches), n_frames))
    if not pitches or not n_frames:
        return Activations(pitches_hz=pitches, values=values, window_s=window_s)
    step, over = round(_CHUNK_S / ACTIVATION_HOP_S), round(_OVERLAP_S / ACTIVATION_HOP_S)
    for start in range(0, n_frames, step):
        lo, hi = max(0, start - over), min(n_frames, start + step + over)
        part = _factored(_spectra(x, rate_hz, lo, hi, window_s), rate_hz, pitches, window_s)
        stop = min(n_frames, start + step)
        values[:, start:stop] = part[:, start - lo : stop - lo]
    loud = float(np.percentile(values.max(axis=0), 95))
    return Activations(pitches_hz=pitches, values=values / max(loud, _TINY), window_s=window_s)


def _hop(rate_hz: int) -> int:
    return round(ACTIVATION_HOP_S * rate_hz)


def _spectra(x: Floats, rate_hz: int, lo: int, hi: int, window_s: float) -> _Single:
    """Compressed magnitudes of frames `lo` to `hi`, shape (bins, frames)."""
    n, hop = 2 * round(window_s * rate_hz / 2), _hop(rate_hz)
    first = lo * hop - n // 2
    part = np.zeros((hi - lo - 1) * hop + n, dtype=np.float32)
    a, b = max(0, first), min(len(x), first + len(part))
    part[a - first : b - first] = x[a:b]
    frames = np.lib.stride_tricks.sliding_window_view(part, n)[::hop]
    taper = np.hanning(n).astype(np.float32)
    magnitude = np.abs(fft.rfft(frames * taper, fft.next_fast_len(n, real=True), axis=1)).T
    result: _Single = magnitude ** np.float32(_COMPRESSION) + np.float32(_TINY)
    return result


def _factored(
    spectra: _Single, rate_hz: int, pitches_hz: tuple[float, ...], window_s: float
) -> Floats:
    n = 2 * round(window_s * rate_hz / 2)
    bins_hz = np.arange(len(spectra)) * rate_hz / fft.next_fast_len(n, real=True)
    used = (bins_hz > _LOW_HZ) & (bins_hz < min(_HIGH_HZ, 0.95 * rate_hz / 2))
    v, f = spectra[used], bins_hz[used]
    w = _templates(f, pitches_hz, rate_hz / n)
    count = len(pitches_hz)
    h = np.full((w.shape[1], v.shape[1]), v.mean(), dtype=np.float32)
    for k in range(_N_STEPS):
        ratio = v / (w @ h + np.float32(_TINY))
        h *= w.T @ ratio
        if k >= _SHAPED_AFTER and k % 2 == 0:
            w[:, :count] *= ((ratio @ h.T) / (h.sum(axis=1) + np.float32(_TINY)))[:, :count]
            total = w.sum(axis=0) + np.float32(_TINY)
            w /= total
            h *= total[:, np.newaxis]
    return h[:count].astype(np.float64)


def _templates(f_hz: Floats, pitches_hz: Sequence[float], bin_hz: float) -> _Single:
    """Harmonic combs and broad bands, each of sum 1, shape (bins, pitches + bands)."""
    columns = []
    for pitch_hz in pitches_hz:
        comb = np.zeros(len(f_hz))
        for h in range(1, _N_PARTIALS):
            at = h * pitch_hz
            if at > f_hz[-1]:
                break
            reach = _LOBE_BINS * bin_hz + at * (2 ** (_OFF_CENTS / 1200.0) - 1.0)
            comb = np.maximum(comb, np.clip(1.0 - np.abs(f_hz - at) / reach, 0, 1) * h**-_ROLL_OFF)
        columns.append(comb)
    columns += [
        _NOISE_SHARE * np.exp(-0.5 * (np.log2(f_hz / at) / _NOISE_OCTAVES) ** 2)
        for at in _NOISE_HZ
    ]  # fmt: skip
    w = np.stack(columns, axis=1)
    result: _Single = (w / (w.sum(axis=0) + _TINY)).astype(np.float32)
    return result
