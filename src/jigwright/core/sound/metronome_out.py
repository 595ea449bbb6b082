"""Take the ticks of somebody else's metronome out of a recording.

All ticks of one kind are laid over each other: what the machine and the room always do adds up,
the playing does not (synchronous averaging, Braun 1975). At each frequency a tick counts the more
the less is played there, and what does not stand out of the scatter of the average is left in
(a Wiener gain, Ephraim & Malah 1984). The sound got in this way, with the room's answer to it, is
laid on each tick as strongly as it is found there, and subtracted.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from math import ceil, log2, log10

import numpy as np
from numpy.typing import NDArray
from scipy import fft as sp_fft
from scipy import signal

from jigwright.core.sound.heard import METRONOME, Segment
from jigwright.core.sound.metronome import Metronome, find_metronome, later
from jigwright.core.values import Floats

_LEAD_S, _LASTS_S = 0.012, 0.45
_OF_PERIOD = 0.9
_LEAST_TICKS, _BEYOND = 2, 3.0
_STFT_S = 0.0107
_MARGIN = 32  # samples, in which a cut's own edges ring out
_SCATTER = 4.0  # of the average's variance is not trusted
_FADE_S, _MOMENT_S = 0.03, 0.05
_LEAST_GAIN, _MOST_GAIN, _LEAST_CLEAR = 0.3, 2.0, 6.0
_MOST_SHARE = 0.7  # of the sound's energy: more is what is played
_EARLY_S, _LATE_S, _LEFT_S, _GAP_S, _SOFTER_DB = 0.05, 0.08, 0.3, 0.05, 8.0
_A_TONE, _OF_ITS_PITCH = 2.0 ** (1.0 / 6.0), 0.15
_MOST_S = 120.0
_Spectra = NDArray[np.complex128]


@dataclass(frozen=True, slots=True, kw_only=True)
class TickSound:
    """What one tick adds to the recording.

    Parameters
    ----------
    samples : ndarray, shape (n,)
        Begins ``lead`` samples before the tick.
    lead : int
    """

    samples: Floats = field(repr=False)
    lead: int

    def level_dbfs(self, rate_hz: int) -> float:
        """Of its loudest moment, as the mean of a twentieth of a second."""
        n = min(len(self.samples), max(1, round(_MOMENT_S * rate_hz)))
        total = np.cumsum(np.pad(self.samples**2, (1, 0)))
        return 10.0 * log10(float((total[n:] - total[:-n]).max()) / n + 1e-14)


def is_missing(x: Floats, rate_hz: int, at_s: float, sound: TickSound) -> bool:
    """Whether a tick that would stand out is not there."""
    gain, clear = strength(x, rate_hz, at_s, sound)
    return gain < _LEAST_GAIN and clear > 2.0 * _LEAST_CLEAR


def tick_sounds(x: Floats, rate_hz: int, metronome: Metronome) -> tuple[TickSound | None, ...]:
    """Each of the machine's sounds, as it comes through the room; ``None``: too seldom heard.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : int
    metronome : Metronome
    """
    found = []
    beats = every_beat(metronome, metronome.ticks_s[-1] + 0.5 * metronome.period_s)
    for k in sorted(set(metronome.bar)):
        # those that are buried count, too, between the first and the last
        at_s = [t for t, s in beats if s == k and t >= metronome.ticks_s[0]]
        found.append(_sound(x, rate_hz, at_s, metronome.period_s))
    return tuple(found)


def every_beat(metronome: Metronome, until_s: float) -> list[tuple[float, int]]:
    """When every beat up to a time is, and which sound it has; ticks as they were heard."""
    heard = {round((t - metronome.first_s) / metronome.period_s): t for t in metronome.ticks_s}
    n = max(0, int((until_s - metronome.first_s) / metronome.period_s) + 1)
    bar = metronome.bar
    return [
        (heard.get(i, metronome.first_s + i * metronome.period_s), bar[i % len(bar)])
        for i in range(-1, n)  # a tick's beginning may lie before the recording's
    ]


def _sound(x: Floats, rate_hz: int, at_s: Sequence[float], period_s: float) -> TickSound | None:
    if len(at_s) < _LEAST_TICKS:
        return None
    lead = round(_LEAD_S * rate_hz)
    n = lead + round(min(_LASTS_S, _OF_PERIOD * period_s) * rate_hz)
    cuts = np.array([shifted_cut(x, t * rate_hz - lead, n) for t in at_s])
    z = _spectra(cuts, rate_hz)
    weight = 1.0 / (np.mean(np.abs(z) ** 2, axis=2, keepdims=True) + 1e-15)
    weight /= weight.sum(axis=0)
    mean = np.sum(weight * z, axis=0)
    scatter = np.sum((weight * np.abs(z - mean)) ** 2, axis=0)
    mean *= np.clip(1.0 - _SCATTER * scatter / (np.abs(mean) ** 2 + 1e-30), 0.0, 1.0)
    out = signal.istft(mean, rate_hz, nperseg=_n_stft(rate_hz))[1][:n]
    out = np.pad(out, (0, n - len(out)))
    fade = round(_FADE_S * rate_hz)
    out[-fade:] *= np.linspace(1.0, 0.0, fade)
    return TickSound(samples=out, lead=lead)


def _n_stft(rate_hz: int) -> int:
    return int(2 ** round(log2(_STFT_S * rate_hz)))


def _spectra(cuts: Floats, rate_hz: int) -> _Spectra:
    return np.asarray(signal.stft(cuts, rate_hz, nperseg=_n_stft(rate_hz), axis=-1)[2])


def shifted_cut(x: Floats, start: float, n: int) -> Floats:
    """A stretch of sound from a place between two samples; silence beyond the ends."""
    first = int(np.floor(start)) - _MARGIN
    size = n + 2 * _MARGIN
    lo, hi = max(0, first), max(0, min(len(x), first + size))
    out = np.zeros(size)
    if hi > lo:
        out[lo - first : hi - first] = x[lo:hi]
    return shifted(out, first + _MARGIN - start)[_MARGIN : _MARGIN + n]


def shifted(x: Floats, by: float) -> Floats:
    """The same sound later by less than a sample."""
    size = sp_fft.next_fast_len(len(x) + 2 * _MARGIN, real=True)
    turn = np.exp(-2j * np.pi * np.fft.rfftfreq(size) * by)
    return np.asarray(sp_fft.irfft(sp_fft.rfft(x, size) * turn, size)[: len(x)])


def subtract(
    x: Floats,
    rate_hz: int,
    metronome: Metronome,
    sounds: Sequence[TickSound | None],
    *,
    beyond: float = float("inf"),
) -> Floats:
    """The sound without the ticks, wherever one is on a beat.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : int
    metronome : Metronome
    sounds : sequence of TickSound or None
        As :func:`tick_sounds` gives them.
    beyond : float
        How many beats before the first and after the last recognised tick are looked at, too.
    """
    from_s = metronome.ticks_s[0] - (beyond + 0.5) * metronome.period_s
    to_s = metronome.ticks_s[-1] + (beyond + 0.5) * metronome.period_s
    left = np.array(x, dtype=np.float64)
    for at_s, sound in beats_of(metronome, sounds, len(x) / rate_hz):
        found = on_a_beat(left, rate_hz, at_s, sound) if from_s < at_s < to_s else None
        if found is not None:
            first, tick = found
            lo, hi = max(0, first), min(len(left), first + len(tick))
            left[lo:hi] -= tick[lo - first : hi - first]
    return left


def beats_of(
    metronome: Metronome, sounds: Sequence[TickSound | None], until_s: float
) -> list[tuple[float, TickSound]]:
    """Every beat up to a time with what sounds there; a recognised tick where it was heard."""
    return [
        (at_s, sound)
        for at_s, k in every_beat(metronome, until_s)
        if k < len(sounds) and (sound := sounds[k]) is not None
    ]


def on_a_beat(x: Floats, rate_hz: int, at_s: float, sound: TickSound) -> tuple[int, Floats] | None:
    """First sample and what to subtract; ``None`` where the tick is not there."""
    gain, clear = strength(x, rate_hz, at_s, sound)
    if gain < _LEAST_GAIN or gain**2 * clear < _LEAST_CLEAR:
        return None
    start = at_s * rate_hz - sound.lead
    first = int(np.floor(start))
    return first, min(gain, _MOST_GAIN) * shifted(sound.samples, start - first)


def strength(x: Floats, rate_hz: int, at_s: float, sound: TickSound) -> tuple[float, float]:
    """How strong a tick is against what is expected, and how clearly it would stand out.

    Returns
    -------
    (float, float)
        1: as expected; energy of the tick re what is there, summed over the plane of time and
        frequency.
    """
    there = shifted_cut(x, at_s * rate_hz - sound.lead, len(sound.samples))
    z, tick = _spectra(np.array([there, sound.samples]), rate_hz)
    weight = 1.0 / (np.mean(np.abs(z) ** 2, axis=1, keepdims=True) + 1e-15)
    clear = float(np.sum(weight * np.abs(tick) ** 2))
    if clear <= 0.0:
        return 0.0, 0.0
    return float(np.sum(weight * (z * np.conj(tick)).real)) / clear, clear


@dataclass(frozen=True, slots=True, kw_only=True)
class Ticking:
    """A metronome that was taken out of a stretch of a recording.

    Parameters
    ----------
    metronome : Metronome
        In seconds of the recording.
    sounds : tuple of TickSound or None
    start_s, end_s : float
        The stretch.
    level_db : float
        Energy of its ticks re that of all the rest.
    """

    metronome: Metronome
    sounds: tuple[TickSound | None, ...]
    start_s: float
    end_s: float
    level_db: float

    @property
    def code(self) -> str:
        """Identifier that is kept with what was heard: beats a minute, dB, first beat in s."""
        found = self.metronome
        return f"{METRONOME}:{found.bpm:.2f}:{self.level_db:.0f}:{found.first_s:.4f}"


def without_metronome(x: Floats, rate_hz: int) -> tuple[Floats, tuple[Ticking, ...]]:
    """Take out ticks of metronomes that nobody plays.

    Parameters
    ----------
    x : ndarray, shape (n,)
        Looked at in equal stretches of two minutes at most: in a lesson it is set anew.
    rate_hz : int

    Returns
    -------
    (ndarray, tuple of Ticking)
        The same sound where there is none, or where hardly anything else sounds: that is somebody
        who plays.
    """
    n = max(1, ceil(len(x) / (_MOST_S * rate_hz)))
    edges = [round(i * len(x) / n) for i in range(n + 1)]
    left: Floats | None = None
    tickings = []
    for start, stop in pairwise(edges):
        found = _taken_out(np.asarray(x[start:stop], dtype=np.float64), rate_hz, start / rate_hz)
        if found is not None:
            if left is None:
                left = np.array(x, dtype=np.float32)
            left[start:stop], ticking = found
            tickings.append(ticking)
    return (x if left is None else left), tuple(tickings)


def _taken_out(x: Floats, rate_hz: int, start_s: float) -> tuple[Floats, Ticking] | None:
    """One stretch without its ticks, and what they were."""
    found = find_metronome(x, rate_hz)
    if found is None:
        return None
    sounds = tick_sounds(x, rate_hz, found)
    left = subtract(x, rate_hz, found, sounds, beyond=_BEYOND)
    taken, whole = float(np.sum((x - left) ** 2)), float(np.sum(x**2))
    if taken > _MOST_SHARE * whole or taken <= 0.0:
        return None
    return left, Ticking(
        metronome=later(found, start_s), sounds=sounds, start_s=start_s,
        end_s=start_s + len(x) / rate_hz, level_db=10.0 * log10(taken / max(whole - taken, 1e-12)),
    )  # fmt: skip


def codes_of(tickings: Sequence[Ticking]) -> tuple[str, ...]:
    """One identifier for each speed, the first of each."""
    first: dict[int, str] = {}
    for ticking in tickings:
        first.setdefault(round(ticking.metronome.bpm), ticking.code)
    return tuple(first.values())


def parted_from_ticks(
    segments: Sequence[Segment], tickings: Sequence[Ticking], rate_hz: int
) -> tuple[tuple[Segment, ...], tuple[Segment, ...]]:
    """The notes, and apart from them what may be left of a tick.

    That is short, soft, begun on a beat out of nothing, and has the pitch of the tick. A note of
    the player may be so, too: they are doubtful, not gone.
    """
    if not tickings or not segments:
        return tuple(segments), ()
    usual_dbfs = float(np.median([s.level_dbfs for s in segments]))
    kept, doubtful = [], []
    before_s = float("-inf")
    for s in segments:
        may_be = (
            s.offset_s - s.onset_s < _LEFT_S
            and s.level_dbfs < usual_dbfs - _SOFTER_DB
            and s.onset_s - before_s > _GAP_S
            and any(_is_of_a_tick(s, t, rate_hz) for t in tickings)
        )
        before_s = s.offset_s
        if may_be:
            doubtful.append(replace(s, doubtful=True))
        else:
            kept.append(s)
    return tuple(kept), tuple(doubtful)


def _is_of_a_tick(s: Segment, ticking: Ticking, rate_hz: int) -> bool:
    """Whether it begins with a tick of this metronome and sounds as high."""
    found = ticking.metronome
    if not ticking.start_s <= s.onset_s <= ticking.end_s:
        return False
    beat = (s.onset_s - found.first_s) / found.period_s
    off_s = (beat - round(beat)) * found.period_s
    if not -_EARLY_S < off_s < _LATE_S:
        return False
    sound = ticking.sounds[found.bar[round(beat) % len(found.bar)]]
    return sound is not None and _share_near(sound, rate_hz, s.f0_hz) > _OF_ITS_PITCH


def _share_near(sound: TickSound, rate_hz: int, f_hz: float) -> float:
    """Share of a tick's energy within a tone of a frequency."""
    power = np.abs(np.fft.rfft(sound.samples)) ** 2
    at_hz = np.fft.rfftfreq(len(sound.samples), 1.0 / rate_hz)
    near = (at_hz > f_hz / _A_TONE) & (at_hz < f_hz * _A_TONE)
    return float(np.sum(power[near]) / (np.sum(power) + 1e-20))
