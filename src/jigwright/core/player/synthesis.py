"""Additive synthesis of a bowed string with exact known truth.

A harmonic series whose amplitudes follow the sawtooth of Helmholtz motion (1/n, McIntyre,
Schumacher & Woodhouse 1983), stood on its head by every bow that turns, shaped by the level and by
fixed body resonances; bow noise gated by the stick–slip period; a noisy start whose upper partials
speak later; a small room of exponentially decaying noise; microphone noise. Everything is drawn
from one seeded generator.

Deviations from a real instrument: no bow–string feedback, so no multiple slipping; no string
inharmonicity (a bowed string has none); resonances are invented, four to a body; the wave of a
double stop does not turn over with the bow.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from jigwright.core.player import faults as f
from jigwright.core.player import real as r
from jigwright.core.player.bowing import (
    bow_gain,
    bow_noise,
    drone_sound,
    second_string,
    way_round,
    whistles,
)
from jigwright.core.player.coupled import strings_in_use, sympathetic
from jigwright.core.player.performance import PlayedNote
from jigwright.core.player.places import impulse_response, recorded, surroundings
from jigwright.core.player.wandering import pink, real_cents, real_gain, undertones

RATE_HZ = 48_000
CONTROL_SAMPLES = 48
_KNOTS_AT_ONCE = 256  # so many that a processor's cache holds them
_Array = NDArray[np.float64]
_DRAWN = np.random.default_rng(11)
_RIPPLES = tuple(
    (2 * np.pi * float(_DRAWN.uniform(2.0, 14.0)), float(_DRAWN.uniform(0.0, 6.28)))
    for _ in range(24)
)
"""Turns to the octave, 85 … 600 cents long, and where they begin: the body's dense modes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Voice:
    """How one kind of instrument sounds.

    Parameters
    ----------
    resonances : tuple of (float, float, float)
        Centre in Hz, width in octaves, gain in dB.
    attack_s, release_s : float
        Time to full level; time to silence when the bow leaves.
    noise_db : float
        Bow noise re the note.
    ripple_db : float
        Standard deviation of dense body resonances, drawn once for all instruments.
    """

    resonances: tuple[tuple[float, float, float], ...]
    attack_s: float
    release_s: float
    noise_db: float
    ripple_db: float = 0.0


VOICES: dict[str, Voice] = {
    "violin": Voice(
        resonances=((280, 0.25, 6), (460, 0.2, 7), (1050, 0.4, 3), (2500, 0.7, 8)),
        attack_s=0.035, release_s=0.05, noise_db=-36.0,
    ),
    "viola": Voice(
        resonances=((225, 0.25, 6), (370, 0.2, 6), (880, 0.4, 4), (1900, 0.7, 6)),
        attack_s=0.045, release_s=0.06, noise_db=-36.0,
    ),
    "cello": Voice(
        resonances=((100, 0.25, 6), (190, 0.2, 6), (440, 0.5, 4), (1400, 0.8, 5)),
        attack_s=0.06, release_s=0.09, noise_db=-35.0,
    ),
    "bass": Voice(
        resonances=((62, 0.3, 5), (110, 0.25, 6), (270, 0.5, 4), (800, 0.8, 4)),
        attack_s=0.09, release_s=0.12, noise_db=-33.0,
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Rendered:
    """Sound and the curves it was made from.

    Parameters
    ----------
    samples : ndarray of float32, shape (n,)
        Full scale ±1.
    rate_hz : int
    f0_hz, level : ndarray, shape (n,)
        Fundamental and envelope of the direct sound at every sample.
    ring : ndarray, shape (strings, n), or None
        What each open string added.
    """

    samples: NDArray[np.float32]
    rate_hz: int
    f0_hz: _Array
    level: _Array
    ring: _Array | None = None


def render(
    notes: Sequence[PlayedNote],
    *,
    instrument_id: str,
    faults: Sequence[f.Fault] = (),
    rng: np.random.Generator,
    open_hz: Sequence[float] = (),
    tail_s: float = 0.6,
) -> Rendered:
    """Turn played notes into sound.

    Parameters
    ----------
    notes : sequence of PlayedNote
        In time order.
    instrument_id : str
        ``violin``, ``viola``, ``cello`` or ``bass``.
    faults : sequence
        Room, noise and gain are taken from here.
    rng : numpy.random.Generator
    open_hz : sequence of float
        Open strings, for those that ring along.
    tail_s : float
        Silence after the last note.
    """
    voice = VOICES[instrument_id]
    for x in faults:
        if isinstance(x, r.Body):
            voice = replace(voice, ripple_db=x.ripple_db)
    end_s = max((n.offset_s for n in notes), default=0.5) + tail_s
    n_samples = round(end_s * RATE_HZ)
    t_s = np.arange(n_samples) / RATE_HZ
    f0_hz = _f0_track(notes, t_s, rng)
    level, start_noise = _level_track(notes, t_s, voice, rng)
    dry = _partials(f0_hz, level, voice)
    dry = dry + undertones(notes, t_s, f0_hz, level, partial(_partials, voice=voice))
    if any(n.lower is not None for n in notes):
        dry = dry + second_string(notes, t_s, dry, partial(_partials, voice=voice), level)
    dry = dry * way_round(notes, t_s)
    dry = dry + whistles(notes, t_s, dry)
    plucked = _plucked(notes, t_s)
    dry = dry + _bow_noise(f0_hz, level, start_noise, plucked, voice, rng)
    first_s = notes[0].onset_s if notes else 0.0
    uses = strings_in_use(notes, open_hz)
    ring = sympathetic(dry, faults, uses, open_hz, RATE_HZ, first_s=first_s)
    if ring is not None:
        dry = dry + ring.sum(axis=0)
    samples = _room_and_microphone(dry, level, faults, rng)
    return Rendered(
        samples=samples.astype(np.float32), rate_hz=RATE_HZ, f0_hz=f0_hz, level=level, ring=ring
    )


def _f0_track(notes: Sequence[PlayedNote], t_s: _Array, rng: np.random.Generator) -> _Array:
    cents = np.zeros_like(t_s)
    if not notes:
        return np.full_like(t_s, 440.0)
    for i, note in enumerate(notes):
        lo = int(np.searchsorted(t_s, note.onset_s)) if i else 0
        hi = int(np.searchsorted(t_s, notes[i + 1].onset_s)) if i + 1 < len(notes) else len(t_s)
        u = t_s[lo:hi] - note.onset_s
        curve = np.full(hi - lo, 1200.0 * np.log2(note.f0_hz))
        if note.slide_s > 0:
            x = np.clip(u / note.slide_s, 0.0, 1.0)
            curve += note.slide_cents * 0.5 * (1.0 + np.cos(np.pi * x))
        if note.hunt_s > 0:
            x = np.clip(u / note.hunt_s, 0.0, 1.0)
            curve += note.hunt_cents * (1.0 - x) * np.cos(np.pi * note.n_swings * x) * (x < 1)
        if note.fold is not None:
            begins = note.fold.at * (note.offset_s - note.onset_s)
            step = 1200.0 * np.log2(note.fold.to_partial / note.fold.from_partial)
            curve += step * np.clip((u - begins) / 0.01, 0.0, 1.0)
        if note.vibrato is not None:
            curve += _vibrato(note.vibrato, u, note.offset_s - note.onset_s, rng)
        curve += real_cents(note, u, rng)
        cents[lo:hi] = curve
        if note.slurred and i:
            _join(cents, lo, round(0.012 * RATE_HZ))
    return np.asarray(2.0 ** (cents / 1200.0))


def _join(cents: _Array, at: int, half: int) -> None:
    """Smooth the step at sample ``at`` over ``2 * half`` samples."""
    a, b = max(0, at - half), min(len(cents), at + half)
    x = (np.arange(a, b) - at) / half
    mix = 0.5 * (1.0 + np.sin(0.5 * np.pi * x))
    left, right = cents[a - 1] if a else cents[a], cents[b - 1]
    cents[a:b] = (1.0 - mix) * left + mix * right


def _vibrato(v: f.VibratoFault, u_s: _Array, length_s: float, rng: np.random.Generator) -> _Array:
    n_cycles = int((length_s + 1.0) * v.rate_hz * 2) + 2
    periods = (1.0 / v.rate_hz) * (1.0 + v.irregularity * rng.normal(size=n_cycles).clip(-2, 2))
    heights = 0.5 * v.extent_cents * (1.0 + v.irregularity * rng.normal(size=n_cycles).clip(-2, 2))
    edges = np.concatenate([[0.0], np.cumsum(periods)])
    x = u_s - v.start_s
    phase = np.interp(x, edges, np.arange(len(edges)))
    mids = np.arange(n_cycles) + 0.5
    height = np.interp(phase, mids, heights)
    grows_s = max(v.arm_s, 0.1 if v.start_s > 0 else 0.0)
    fade = np.clip(x / grows_s, 0.0, 1.0) if grows_s > 0 else (x >= 0).astype(float)
    if v.wander > 0:
        phase = phase + np.cumsum(0.5 * v.wander * v.rate_hz * pink(len(u_s), rng)) / RATE_HZ
        height = height * np.maximum(0.2, 1.0 + v.wander * pink(len(u_s), rng))
    return np.asarray(height * np.sin(2 * np.pi * phase) * fade)


def _level_track(
    notes: Sequence[PlayedNote], t_s: _Array, voice: Voice, rng: np.random.Generator
) -> tuple[_Array, _Array]:
    """Envelope of the strokes, and of the noise at their starts."""
    level = np.zeros_like(t_s)
    noise = np.zeros_like(t_s)
    for i, note in enumerate(notes):
        before = notes[i - 1] if i else None
        after = notes[i + 1] if i + 1 < len(notes) else None
        joined_after = after is not None and after.onset_s - note.offset_s < 1e-6
        lo = int(np.searchsorted(t_s, note.onset_s))
        release = voice.release_s if not joined_after else 0.0
        hi = min(len(t_s), int(np.searchsorted(t_s, note.offset_s + release)))
        if hi <= lo:
            continue
        if note.pluck is not None:
            _pluck(note, note.pluck, after, t_s, level, noise)
            continue
        u = t_s[lo:hi] - note.onset_s
        length = note.offset_s - note.onset_s
        gain = 10.0 ** ((note.level_db + _shape_db(note, u, length)) / 20.0)
        if not note.slurred:
            touching = before is not None and note.onset_s - before.offset_s < 1e-6
            floor = 10.0 ** (-note.dip_db / 20.0) if touching else 0.0
            attack = min(voice.attack_s, 0.4 * length)
            rise = np.clip(u / attack, 0.0, 1.0)
            gain *= floor + (1.0 - floor) * np.sin(0.5 * np.pi * rise) ** 2
            noise[lo:hi] += np.exp(-u / 0.02) * np.clip(u / 0.004, 0, 1)
        if joined_after and after is not None and not after.slurred:
            fall_s = min(after.gap_ms / 1000.0, 0.3 * length)
            floor = 10.0 ** (-after.dip_db / 20.0)
            fall = np.clip((note.offset_s - note.onset_s - u) / fall_s, 0.0, 1.0)
            gain *= floor + (1.0 - floor) * np.sin(0.5 * np.pi * fall) ** 2
        elif not joined_after:
            fall = np.clip((length + release - u) / release, 0.0, 1.0)
            gain *= fall**2
        gain *= bow_gain(note, u, length) * real_gain(note, u, rng)
        noise[lo:hi] += bow_noise(note, u, length) / 0.05
        level[lo:hi] = gain
    return level, noise


def _pluck(
    note: PlayedNote,
    pluck: f.PluckFault,
    after: PlayedNote | None,
    t_s: _Array,
    level: _Array,
    noise: _Array,
) -> None:
    """A plucked note rings by itself until the next one damps it."""
    end_s = note.onset_s + pluck.t60_s
    if after is not None:
        end_s = min(end_s, after.onset_s)
    lo, hi = np.searchsorted(t_s, [note.onset_s, end_s])
    u = t_s[lo:hi] - note.onset_s
    gain = 10.0 ** (note.level_db / 20.0) * np.exp(-6.91 * u / pluck.t60_s)
    gain *= np.clip(u / 0.003, 0.0, 1.0) * np.clip((end_s - t_s[lo:hi]) / 0.008, 0.0, 1.0)
    level[lo:hi] = gain
    noise[lo:hi] += 20.0 * 10.0 ** (pluck.thud_db / 20.0) * np.exp(-u / 0.012)


def _shape_db(note: PlayedNote, u_s: _Array, length_s: float) -> _Array:
    x = np.clip(u_s / max(length_s, 1e-6), 0.0, 1.0)
    if note.shape is None:
        return np.zeros_like(x)
    db = note.shape.db
    shapes = {
        "grow": db * (x - 0.5),
        "fade": db * (0.5 - x),
        "swell": db * (0.5 - np.abs(2 * x - 1)),
        "dip": db * (np.abs(2 * x - 1) - 0.5),
    }
    return np.asarray(shapes[note.shape.kind])


def _body_db(f_hz: _Array, voice: Voice) -> _Array:
    octave = np.log2(np.maximum(f_hz, 10.0))
    total = np.zeros_like(octave)
    for centre, width, gain in voice.resonances:
        total += gain / (1.0 + ((octave - np.log2(centre)) / width) ** 2)
    if voice.ripple_db > 0:
        for cycles, turn in _RIPPLES:
            total += voice.ripple_db * np.sqrt(2 / len(_RIPPLES)) * np.sin(cycles * octave + turn)
    total -= 9.0 * np.maximum(0.0, octave - np.log2(voice.resonances[-1][0] * 1.5))
    return np.asarray(total)


def _partials(f0_hz: _Array, level: _Array, voice: Voice) -> _Array:
    phase = 2 * np.pi * np.cumsum(f0_hz) / RATE_HZ
    n_samples = len(f0_hz)
    knots = np.arange(0, n_samples + CONTROL_SAMPLES, CONTROL_SAMPLES)
    f_control = f0_hz[np.minimum(knots, n_samples - 1)]
    l_control = level[np.minimum(knots, n_samples - 1)]
    level_db = 20 * np.log10(np.maximum(l_control, 1e-4))
    lowest = float(f0_hz.min())
    gains = []
    for k in range(1, int(min(40, 0.45 * RATE_HZ / lowest)) + 1):
        f_k = k * f_control
        # louder bowing feeds the upper partials more; they speak later in an attack
        tilt_db = (0.12 * level_db) * np.log2(k)
        gain_db = -20 * np.log10(k) + _body_db(f_k, voice) + tilt_db
        gains.append(10 ** (gain_db / 20.0) * (f_k < 0.42 * RATE_HZ) * l_control)
    out = np.zeros(n_samples)
    for first in range(0, len(knots) - 1, _KNOTS_AT_ONCE):
        part = slice(first * CONTROL_SAMPLES, (first + _KNOTS_AT_ONCE) * CONTROL_SAMPLES)
        out[part] = _sum_of(phase[part], [g[first : first + _KNOTS_AT_ONCE + 1] for g in gains])
    return np.asarray(0.06 * out)


def _sum_of(phase: _Array, gains: Sequence[_Array]) -> _Array:
    """Partials one to n with these gains at the knots, linear between.

    Powers of one turning number: a sine for each partial costs ten times that.
    """
    share = np.arange(CONTROL_SAMPLES) / CONTROL_SAMPLES
    turning = np.exp(1j * phase)
    power = np.ones_like(turning)
    out = np.zeros(len(phase))
    for k, gain in enumerate(gains, start=1):
        power *= turning
        curve = (gain[:-1, None] + np.diff(gain)[:, None] * share).reshape(-1)[: len(phase)]
        at = 0.7 * k * k
        out += curve * (power.real * np.sin(at) + power.imag * np.cos(at))
    return out


def _plucked(notes: Sequence[PlayedNote], t_s: _Array) -> _Array:
    """1 where no bow is on the string."""
    mask = np.zeros_like(t_s)
    for i, note in enumerate(notes):
        if note.pluck is not None:
            stop = notes[i + 1].onset_s if i + 1 < len(notes) else t_s[-1]
            mask[np.searchsorted(t_s, note.onset_s) : np.searchsorted(t_s, stop)] = 1.0
    return mask


def _bow_noise(
    f0_hz: _Array,
    level: _Array,
    start: _Array,
    plucked: _Array,
    voice: Voice,
    rng: np.random.Generator,
) -> _Array:
    white = rng.normal(size=len(f0_hz))
    sos = signal.butter(2, [300.0, 6000.0], btype="band", fs=RATE_HZ, output="sos")
    coloured = signal.sosfilt(sos, white)
    phase = np.cumsum(f0_hz) / RATE_HZ
    gate = 0.6 + 0.4 * np.cos(2 * np.pi * phase)
    steady = 10 ** (voice.noise_db / 20.0) * level * gate * (1.0 - plucked)
    return np.asarray(0.25 * coloured * (steady + 0.05 * start * np.maximum(level, 0.05)))


def _room_and_microphone(
    dry: _Array, level: _Array, faults: Sequence[f.Fault], rng: np.random.Generator
) -> _Array:
    room = next((x for x in faults if isinstance(x, f.Room)), f.Room())
    noise = next((x for x in faults if isinstance(x, f.Noise)), f.Noise())
    gain = next((x for x in faults if isinstance(x, f.Gain)), f.Gain())
    wet = signal.oaconvolve(dry, impulse_response(room, RATE_HZ, rng))[: len(dry)]
    out = dry + wet
    sounding = level > 0.1
    rms = float(np.sqrt(np.mean(out[sounding] ** 2))) if sounding.any() else 0.05
    floor = rms * 10 ** (-noise.snr_db / 20.0)
    out = out + rng.normal(size=len(out)) * floor
    if noise.hum_hz > 0:
        out += np.sqrt(2) * floor * np.sin(2 * np.pi * noise.hum_hz * np.arange(len(out)) / RATE_HZ)
    for drone in (x for x in faults if isinstance(x, f.Drone)):
        out = out + drone_sound(drone, len(out), RATE_HZ) * rms * 10 ** (drone.db / 20.0)
    out = out + surroundings(faults, len(out), RATE_HZ, rms, rng)
    for microphone in (x for x in faults if isinstance(x, r.Microphone)):
        out = recorded(microphone, out, RATE_HZ)
    out *= 10 ** (gain.db / 20.0)
    return np.asarray(np.clip(out, -1.0, 1.0))
