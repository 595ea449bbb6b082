"""Where it is played, and what it is recorded with: room, talk, clicks, other players."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from jigwright.core.player import faults as f
from jigwright.core.player import real as r
from jigwright.core.player.voice import speech

_Array = NDArray[np.float64]
_EARLY_S = (0.004, 0.045)
_BANDS_HZ = {"studio": (20.0, 20_000.0), "laptop": (120.0, 12_000.0), "phone": (180.0, 7_000.0)}
_GAIN_S = {"studio": 0.0, "laptop": 1.2, "phone": 0.5}


def impulse_response(room: f.Room, rate_hz: int, rng: np.random.Generator) -> _Array:
    """What a room adds to the direct sound: reflections, then exponentially decaying noise.

    Parameters
    ----------
    room : faults.Room
    rate_hz : int
    rng : numpy.random.Generator

    Returns
    -------
    ndarray, shape (n,)
        Without the direct sound. The energy of the tail re direct is ``wet_db``, that of the early
        reflections ``early_db``.
    """
    n_tail = max(1, round(room.rt60_s * rate_hz))
    t_s = np.arange(n_tail) / rate_hz
    noise = rng.normal(size=n_tail)
    if room.high >= 1.0:
        tail = noise * 10 ** (-3 * t_s / room.rt60_s)
    else:  # treble dies first: three bands, each with its own decay
        tail = np.zeros(n_tail)
        edges = (0.0, 1000.0, 4000.0, 0.5 * rate_hz)
        spectrum, at_hz = np.fft.rfft(noise), np.fft.rfftfreq(n_tail, 1.0 / rate_hz)
        for k, share in enumerate((1.0, 0.5 * (1.0 + room.high), room.high)):
            inside = (at_hz >= edges[k]) & (at_hz < edges[k + 1])
            tail += np.fft.irfft(spectrum * inside, n_tail) * 10 ** (
                -3 * t_s / (share * room.rt60_s)
            )
    tail[: round(0.004 * rate_hz)] = 0.0
    tail *= 10 ** (room.wet_db / 20.0) / np.sqrt(np.sum(tail**2) + 1e-12)
    if room.n_early:
        early = np.zeros(n_tail)
        at = rng.uniform(*_EARLY_S, size=room.n_early)
        gain = rng.choice([-1.0, 1.0], size=room.n_early) * (_EARLY_S[0] / at) ** 0.5
        for when, g in zip(at, gain, strict=True):
            early[min(n_tail - 1, round(when * rate_hz))] += g
        tail = tail + early * 10 ** (room.early_db / 20.0) / np.sqrt(np.sum(early**2) + 1e-12)
    return np.asarray(tail)


def surroundings(
    faults: Sequence[f.Fault], n: int, rate_hz: int, rms: float, rng: np.random.Generator
) -> _Array:
    """What else sounds there: talk, clicks, another player.

    Parameters
    ----------
    faults : sequence
    n : int
        Samples.
    rate_hz : int
    rms : float
        Of the playing, to which levels refer.
    rng : numpy.random.Generator
    """
    out = np.zeros(n)
    for x in faults:
        match x:
            case r.Talk():
                lo, hi = (min(n, round(t * rate_hz)) for t in (x.from_s, x.to_s))
                if hi - lo > rate_hz // 10:
                    out[lo:hi] += rms * 10 ** (x.level_db / 20.0) * speech(hi - lo, rate_hz, rng)
            case r.Clicks():
                out += rms * 10 ** (x.level_db / 20.0) * _clicks(x.per_min, n, rate_hz, rng)
            case r.Ticks():
                out += rms * 10 ** (x.level_db / 20.0) * _ticks(x, n, rate_hz)
            case r.OtherPlayer():
                out += rms * 10 ** (x.level_db / 20.0) * _neighbour(n, rate_hz, rng)
            case _:
                pass
    return out


def _clicks(per_min: float, n: int, rate_hz: int, rng: np.random.Generator) -> _Array:
    out = np.zeros(n)
    for _ in range(int(rng.poisson(per_min * n / rate_hz / 60.0))):
        at = int(rng.integers(n))
        low = rng.random() < 0.5  # a foot or a chair; else something small and hard
        length_s, centre = (0.08, 90.0) if low else (0.008, 2500.0)
        u = np.arange(min(n - at, round(6 * length_s * rate_hz))) / rate_hz
        burst = rng.normal(size=len(u)) * 0.3 + np.sin(2 * np.pi * centre * u)
        out[at : at + len(u)] += 4.0 * burst * np.exp(-u / length_s)
    return out


def _ticks(x: r.Ticks, n: int, rate_hz: int) -> _Array:
    """Damped tones with a hard beginning, each kind the same every time."""
    out = np.zeros(n)
    u = np.arange(round(0.08 * rate_hz)) / rate_hz
    hard = np.random.default_rng(1).normal(size=len(u)) * np.exp(-u / 0.003)
    period_s = 60.0 / x.bpm
    for i in range(max(0, int((n / rate_hz - x.from_s) / period_s) + 1)):
        pitch_hz = 2400.0 if x.every and i % x.every == 0 else 1600.0
        at = round((x.from_s + i * period_s) * rate_hz)
        tick = 4.0 * (np.sin(2 * np.pi * pitch_hz * u) * np.exp(-u / 0.012) + 0.5 * hard)
        out[at : at + len(u)] += tick[: max(0, n - at)]
    return out


def _neighbour(n: int, rate_hz: int, rng: np.random.Generator) -> _Array:
    """Slow notes by somebody else, through a wall: few partials."""
    out = np.zeros(n)
    at, midi = 0, int(rng.integers(50, 72))
    while at < n:
        length = int(rate_hz * rng.uniform(0.4, 1.5))
        u = np.arange(min(length, n - at)) / rate_hz
        f0 = 440.0 * 2 ** ((midi - 69 + rng.normal(0, 0.1)) / 12)
        phase = 2 * np.pi * f0 * u + 0.25 * np.sin(2 * np.pi * 5.5 * u)
        tone = np.asarray(sum(np.sin(k * phase) / k**1.5 for k in range(1, 7)))
        edge = np.clip(np.minimum(u, u[-1] - u) / 0.05, 0.0, 1.0) if len(u) > 1 else 1.0
        out[at : at + len(u)] += tone * edge
        at += length
        midi = int(np.clip(midi + rng.choice([-4, -2, -1, 1, 2, 3]), 45, 80))
    return out / (float(np.sqrt(np.mean(out**2))) + 1e-12)


def recorded(x: r.Microphone, samples: _Array, rate_hz: int) -> _Array:
    """The sound as a microphone hands it on.

    Parameters
    ----------
    x : real.Microphone
        ``clip_db``: how far the loudest sample would stand above full scale.
    samples : ndarray
    rate_hz : int
    """
    low, high = _BANDS_HZ[x.kind]
    sos = signal.butter(2, [low, min(high, 0.45 * rate_hz)], "band", fs=rate_hz, output="sos")
    out = np.asarray(signal.sosfilt(sos, samples))
    if _GAIN_S[x.kind] > 0:
        hop = rate_hz // 100
        power = signal.lfilter(
            [1.0], [1.0, -np.exp(-0.01 / _GAIN_S[x.kind])],
            np.add.reduceat(out**2, np.arange(0, len(out), hop)),
        )  # fmt: skip
        usual = float(np.percentile(power, 75)) + 1e-12
        gain = (np.maximum(power, 0.01 * usual) / usual) ** -0.25  # half of it, in dB
        out = out * np.interp(np.arange(len(out)), hop * np.arange(len(gain)), gain)
    if x.clip_db > 0:
        peak = float(np.abs(out).max()) * 10 ** (-x.clip_db / 20.0) + 1e-12
        out = np.clip(out, -peak, peak)
    return np.asarray(out)
