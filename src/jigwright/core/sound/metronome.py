"""A metronome that is not ours: found by its even beat and because every tick is the same sound.

No player strikes the same waveform twice, nor within two milliseconds of an even beat; a machine
does both. Beats are looked for in what rises and is over at once (:mod:`core.sound.percussive`),
folded at the likeliest periods from 30 to 250 beats a minute. An even player has such a beat, too:
the ticks themselves must be alike, each held against the mean of the others, more than what lies
between the beats. A machine may have two sounds: bars of two to six with one beat of its own are
tried.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft as sp_fft
from scipy import signal, stats

from jigwright.core.sound.percussive import (
    HIGHEST_HZ,
    HIGHEST_SHARE,
    LOWEST_HZ,
    band_levels,
    hop_samples,
    stands_out_db,
)
from jigwright.core.values import Floats

LEAST_TICKS = 8
_SLOWEST_S, _FASTEST_S = 2.0, 0.24
_CANDIDATES, _STANDS = 8, 7.0  # standard deviations: less is not worth a closer look
_FINE, _MOST_FINE = 0.004, 161  # of the period; how many are tried between
_APART_FRAMES = 0.25  # of the last beat from one that is tried to the next
_TICK_S, _BEFORE_S = 0.03, 0.002
_REACH_S = 0.015  # a timer may be off by so much, and the ear by as much
_LEAST_ALIKE, _OVER, _NULL = 0.25, 0.1, 0.95
_ROUNDS = 3
_NO_LESS = 0.3  # of the usual energy: a beat without a tick in silence says little
_CLOSE_S, _SAME_S, _LEAST_EXACT = 0.001, 0.00015, 0.4
_BARS, _LEAST_ACCENTS, _MORE = (2, 3, 4, 5, 6), 2, 0.5
_ENOUGH_HZ = 20_000
_COLOUR_S, _COLOUR_DB, _USUAL = 0.01, 50.0, 0.7
_OVER_S, _LEAST_FALL_DB = 0.12, 6.0
_LEAST_SHARE = 0.6  # of the beats between the first and the last tick
_MOST_JITTER_S, _MOST_DRIFT = 0.002, 0.01
_OFF_BEATS = (0.21, 0.29, 0.43, 0.61, 0.77)  # no simple share of a beat
_SEEDS = 6
_Found = NDArray[np.int64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Metronome:
    """An even beat of equal ticks.

    Parameters
    ----------
    period_s : float
        From tick to tick.
    first_s : float
        The beat at or after the beginning of the sound.
    ticks_s : tuple of float
        When each tick that was recognised begins.
    sounds : tuple of int
        Which of the machine's sounds each of them is, 0 or 1.
    bar : tuple of int
        The sounds of the beats from ``first_s`` on, over and over.
    """

    period_s: float
    first_s: float
    ticks_s: tuple[float, ...]
    sounds: tuple[int, ...]
    bar: tuple[int, ...] = (0,)

    @property
    def bpm(self) -> float:
        """Beats a minute."""
        return 60.0 / self.period_s


def find_metronome(
    x: Floats, rate_hz: int, levels: NDArray[np.float32] | None = None, *, tried: int = 4
) -> Metronome | None:
    """Look for an even beat of equal ticks.

    Parameters
    ----------
    x : ndarray, shape (n,)
        At its native rate; two minutes at most, in which it keeps its speed.
    rate_hz : int
    levels : ndarray, optional
        Its :func:`band_levels` where they are known.
    tried : int
        How many beats are looked at, likeliest first.

    Returns
    -------
    Metronome or None
    """
    x = np.asarray(x, dtype=np.float64)
    if levels is None:
        levels = band_levels(x, rate_hz)
    step_s = hop_samples(rate_hz) / rate_hz
    if len(levels) * step_s < (LEAST_TICKS - 1) * _FASTEST_S:
        return None
    beats = _beats(stands_out_db(levels), step_s)
    if not beats:
        return None
    bright, bright_hz = _flattened(x, rate_hz)
    best: Metronome | None = None
    for period_s, first_s in beats[:tried]:
        found = _ticks(bright, bright_hz, period_s, first_s)
        best = _more(best, found) if best is not None else found
    if best is not None:
        for parts in (3, 2):  # every third or second tick may be louder than the others
            if best.period_s / parts > _FASTEST_S:
                best = _more(best, _ticks(bright, bright_hz, best.period_s / parts, best.first_s))
    return best


def _more(one: Metronome, other: Metronome | None) -> Metronome:
    """The one with more ticks."""
    return other if other is not None and len(other.ticks_s) > len(one.ticks_s) else one


def later(found: Metronome, by_s: float) -> Metronome:
    """The same one seen from an earlier beginning."""
    back = int((found.first_s + by_s) // found.period_s)
    n = len(found.bar)
    return Metronome(
        period_s=found.period_s,
        first_s=found.first_s + by_s - back * found.period_s,
        ticks_s=tuple(t + by_s for t in found.ticks_s),
        sounds=found.sounds,
        bar=tuple(found.bar[(i - back) % n] for i in range(n)),
    )


def _beats(rises: Floats, step_s: float) -> list[tuple[float, float]]:
    """Periods and first beats at which rises come most evenly, best first."""
    centred = rises - rises.mean()
    n = 1 << int(np.ceil(np.log2(2 * len(centred))))
    spectrum = np.abs(np.fft.rfft(centred, n)) ** 2
    alike = np.fft.irfft(spectrum)[: len(centred)]
    lo, hi = round(_FASTEST_S / step_s), min(len(alike) - 2, round(_SLOWEST_S / step_s))
    if hi <= lo:
        return []
    lags = lo + signal.find_peaks(alike[lo:hi])[0]
    best = sorted(lags, key=lambda lag: -alike[lag] / (len(centred) - lag))[:_CANDIDATES]
    wide = np.maximum(centred, np.maximum(np.roll(centred, 1), np.roll(centred, -1)))
    found = sorted((_fine(wide, float(lag)) for lag in best), reverse=True)
    return [(period * step_s, phase * step_s) for over, period, phase in found if over > _STANDS]


def _fine(wide: Floats, lag: float) -> tuple[float, float, float]:
    """By how much the rises on one beat stand above chance, with its period and phase in frames.

    The mean of as many frames as there are beats scatters by their deviation over the root of
    their number; the period is sought near one that was found roughly.
    """
    best = (-np.inf, lag, 0.0)
    tried = int(np.clip(2 * _FINE * len(wide) / _APART_FRAMES, 4, _MOST_FINE)) | 1
    for period in lag * (1.0 + np.linspace(-_FINE, _FINE, tried)):
        n = int(len(wide) / period)
        at = np.round(period * np.arange(n)[:, None] + np.arange(int(period))).astype(int)
        folded = wide[np.minimum(at, len(wide) - 1)].mean(axis=0)
        top = float(folded.max())
        if top > best[0]:
            # a longer tick is there in several frames: it begins with the first
            usual = float(np.median(folded))
            at_top = np.roll(folded > 0.5 * (top + usual), -int(np.argmax(folded)))
            back = int(np.argmin(at_top[::-1]))
            best = (top, float(period), float((int(np.argmax(folded)) - back) % int(period)))
    n_beats = len(wide) / best[1]
    over = (best[0] - float(np.median(wide))) / (float(np.std(wide)) / np.sqrt(n_beats) + 1e-12)
    return over, best[1], best[2]


def _flattened(x: Floats, rate_hz: int) -> tuple[Floats, int]:
    """The sound, at a rate that is enough, with what is usually there equally strong everywhere.

    A filter that lets a known sound stand out best of coloured noise divides by the spectrum of
    the noise first (Turin 1960); here the playing is the noise.
    """
    by = max(1, int(rate_hz // _ENOUGH_HZ))
    if by > 1:
        x = signal.decimate(x, by, ftype="fir", zero_phase=True)
        rate_hz = rate_hz // by
    n = 1 << round(np.log2(_COLOUR_S * rate_hz))
    f_hz, power = signal.stft(x, rate_hz, nperseg=n)[0::2]
    usual = np.quantile(np.abs(power) ** 2, _USUAL, axis=1)
    usual = np.maximum(usual, usual.max() * 10.0 ** (-_COLOUR_DB / 10.0) + 1e-20)
    size = 2 * int(sp_fft.next_fast_len(-(-len(x) // 2), real=True))
    at_hz = np.fft.rfftfreq(size, 1.0 / rate_hz)
    inside = (at_hz > LOWEST_HZ) & (at_hz < min(HIGHEST_HZ, HIGHEST_SHARE * rate_hz))
    gain = np.where(inside, 1.0 / np.sqrt(np.interp(at_hz, f_hz, usual)), 0.0)
    return np.asarray(sp_fft.irfft(sp_fft.rfft(x, size) * gain, size)[: len(x)]), rate_hz


def _ticks(y: Floats, rate_hz: int, period_s: float, first_s: float) -> Metronome | None:
    """The ticks on one beat, where they are alike and nothing between the beats is."""
    n_beats = int((len(y) / rate_hz - first_s - _TICK_S) / period_s) + 1
    if n_beats < LEAST_TICKS:
        return None
    beats_s = first_s + period_s * np.arange(n_beats)
    found, at_s, template = _alike(y, rate_hz, beats_s, period_s)
    if template is None:
        return None
    line_s, is_exact = _line(found, at_s, n_beats)
    at_all = line_s.copy()
    if not is_exact:
        at_all[found] = at_s
    sound, bar = _kinds(_cuts(y, rate_hz, at_all, 0.0))
    times = np.full(n_beats, np.nan)
    for k in range(1 + int(sound.max())):
        mine = np.flatnonzero(sound == k)
        close, close_s = _like_their_mean(y, rate_hz, at_all[mine], period_s)
        times[mine[close]] = close_s
    sound[np.isnan(times)] = -1
    return _even(times, sound, period_s, bar)


def _line(found: _Found, at_s: Floats, n_beats: int) -> tuple[Floats, bool]:
    """When each beat is by those that were found, and whether they keep to a line.

    What is like another sound, or like itself a period later, is found beside it: the line most
    of them keep to is taken.
    """
    step_s, start_s = stats.theilslopes(at_s, found)[:2]
    is_exact = False
    for within_s in (_CLOSE_S, _SAME_S):  # another sound may be found a few samples beside it
        off_s = at_s - start_s - step_s * found
        beside = np.abs(off_s[:, None] - off_s) < within_s
        near = beside[int(np.argmax(beside.sum(axis=1)))]
        if np.count_nonzero(near) < max(LEAST_TICKS // 2, _LEAST_EXACT * len(found)):
            break
        is_exact = True
        step_s, start_s = np.polyfit(found[near], at_s[near], 1)
    return start_s + step_s * np.arange(n_beats), is_exact


def _kinds(cuts: Floats) -> tuple[NDArray[np.int64], tuple[int, ...]]:
    """Which sound each beat has: all one, or every second to sixth its own; and one bar of them.

    Of a kind the mean explains so much of what is there, each cut counted as one; of mere noise it
    explains one, however many there are. The pattern that explains most beyond that is taken.
    """
    weight = _weights(cuts)
    at = np.arange(len(cuts))

    def explained(which: NDArray[np.bool_]) -> float:
        return float(np.sum((weight[which] @ cuts[which]) ** 2) / weight[which].sum()) - 1.0

    best, bar = explained(at >= 0) + _MORE, [0]
    for every in _BARS:
        for first in range(every):
            accent = at % every == first
            if np.count_nonzero(accent) < _LEAST_ACCENTS or accent.all():
                continue
            score = explained(accent) + explained(~accent)
            if score > best:
                best, bar = score, [int(k == first) for k in range(every)]
    return np.resize(bar, len(cuts)), tuple(bar)


def _like_their_mean(
    y: Floats, rate_hz: int, at_s: Floats, period_s: float
) -> tuple[_Found, Floats]:
    """Which of the beats of one kind are recognised, and exactly when."""
    cuts = _cuts(y, rate_hz, at_s, 0.0)
    weight = _weights(cuts)
    template = weight @ cuts / weight.sum()
    # each against all the others: of itself it would always be reminded
    others = (weight @ cuts - weight[:, None] * cuts) / weight.sum()
    like, lag = _matches(_cuts(y, rate_hz, at_s, _CLOSE_S), others)
    limit = _limit(y, rate_hz, at_s, period_s, _CLOSE_S, template)
    close_s = at_s + (lag - round(_CLOSE_S * rate_hz)) / rate_hz
    if not _is_brief(y, rate_hz, close_s, weight):
        return np.zeros(0, dtype=np.int64), np.zeros(0)
    found = np.flatnonzero(like > limit)
    return found, close_s[found]


def _even(
    times: Floats, sound: NDArray[np.int64], period_s: float, bar: tuple[int, ...]
) -> Metronome | None:
    there = np.flatnonzero(sound >= 0)
    if len(there) < LEAST_TICKS:
        return None
    span = there[-1] - there[0] + 1
    if len(there) < _LEAST_SHARE * span:
        return None
    slope, start = stats.theilslopes(times[there], there)[:2]
    line_s = start + slope * there
    jitter_s = float(np.median(np.abs(times[there] - line_s)))
    if jitter_s < _SAME_S:  # one by one they are heard less exactly than they come
        times = times.copy()
        times[there] = line_s
    if jitter_s > _MOST_JITTER_S or abs(slope / period_s - 1.0) > _MOST_DRIFT:
        return None
    back = int(start // slope)
    return Metronome(
        period_s=float(slope), first_s=float(start - back * slope),
        ticks_s=tuple(float(t) for t in times[there]),
        sounds=tuple(int(s) for s in sound[there]),
        bar=tuple(bar[(i - back) % len(bar)] for i in range(len(bar))),
    )  # fmt: skip


def _alike(
    y: Floats, rate_hz: int, beats_s: Floats, period_s: float
) -> tuple[_Found, Floats, Floats | None]:
    """Beats at which one and the same sound begins, when, and that sound."""
    none = np.zeros(0, dtype=np.int64), np.zeros(0), None
    on = _cuts(y, rate_hz, beats_s, _REACH_S)
    n_reach = round(_REACH_S * rate_hz)
    template = _best_seed(on, on[:, n_reach:-n_reach])
    if template is None:
        return none
    for _ in range(_ROUNDS):
        like, lag = _matches(on, template)
        same = np.flatnonzero(like > _limit(y, rate_hz, beats_s, period_s, _REACH_S, template))
        if len(same) < LEAST_TICKS // 2:
            return none
        at_s = beats_s[same] + (lag[same] - n_reach) / rate_hz
        cuts = _cuts(y, rate_hz, at_s, 0.0)
        weight = _weights(cuts)
        template = weight @ cuts / weight.sum()
    return same, at_s, template


def _weights(cuts: Floats) -> Floats:
    """Each cut counts the more the less is played there."""
    energy = np.sum(cuts**2, axis=1)
    return np.asarray(1.0 / (energy + _NO_LESS * float(np.median(energy)) + 1e-18))


def _limit(
    y: Floats, rate_hz: int, beats_s: Floats, period_s: float, reach_s: float, template: Floats
) -> float:
    """Above how much likeness a tick is recognised: beyond what lies between the beats."""
    off = np.concatenate([
        _cuts(y, rate_hz, beats_s + share * period_s, reach_s) for share in _OFF_BEATS
    ])  # fmt: skip
    return max(_LEAST_ALIKE, float(np.quantile(_matches(off, template)[0], _NULL)) + _OVER)


def _best_seed(on: Floats, seeds: Floats) -> Floats | None:
    """The one beat's sound that most of the others resemble."""
    loud = np.argsort(-np.sum(seeds**2, axis=1))
    template, best = None, 0.0
    for i in loud[:: max(1, len(loud) // _SEEDS)][:_SEEDS]:
        like = _matches(np.delete(on, i, axis=0), seeds[i])[0]
        score = float(np.sum(np.maximum(0.0, like - _LEAST_ALIKE)))
        if score > best:
            template, best = seeds[i], score
    return template


def _is_brief(y: Floats, rate_hz: int, at_s: Floats, weight: Floats) -> bool:
    """Whether what is alike begins with the tick and is over soon: a note lasts."""

    def together_db(from_s: float) -> float:
        cuts = _cuts(y, rate_hz, at_s + from_s, 0.0)
        return 10.0 * float(np.log10(np.sum((weight @ cuts / weight.sum()) ** 2) + 1e-18))

    there = together_db(0.0)
    return max(together_db(-_TICK_S - _BEFORE_S), together_db(_OVER_S)) < there - _LEAST_FALL_DB


def _cuts(y: Floats, rate_hz: int, at_s: Floats, reach_s: float) -> Floats:
    """A tick's length of sound at each time, with so much more at both sides.

    Taken between the samples where a time lies there; beyond the ends of the recording there is
    silence.
    """
    n = round((_TICK_S + _BEFORE_S) * rate_hz) + 2 * round(reach_s * rate_hz)
    exact = (at_s - _BEFORE_S) * rate_hz - round(reach_s * rate_hz)
    start = np.round(exact).astype(int)
    index = start[:, None] + np.arange(n)
    inside = (index >= 0) & (index < len(y))
    rows = np.where(inside, y[np.clip(index, 0, len(y) - 1)], 0.0)
    if reach_s > _CLOSE_S:
        return rows  # it is sought there anyway
    turn = np.exp(2j * np.pi * np.outer(exact - start, np.fft.rfftfreq(n)))
    return np.asarray(np.fft.irfft(np.fft.rfft(rows, axis=1) * turn, n, axis=1))


def _matches(wide: Floats, template: Floats) -> tuple[Floats, Floats]:
    """For each row the highest correlation with a template, and at which sample it begins.

    One template for all, or one for each row. Between samples by a parabola through three.
    """
    length = template.shape[-1]
    n = wide.shape[1] - length + 1
    size = sp_fft.next_fast_len(wide.shape[1] + length, real=True)
    product = np.fft.irfft(
        np.fft.rfft(wide, size, axis=1) * np.conj(np.fft.rfft(template, size, axis=-1)), size,
        axis=1,
    )[:, :n]  # fmt: skip
    total = np.cumsum(np.pad(wide**2, ((0, 0), (1, 0))), axis=1)
    power = total[:, length:] - total[:, :n]
    like = product / np.sqrt(
        np.maximum(power, 1e-12) * np.sum(template**2, axis=-1, keepdims=True) + 1e-18
    )
    best = np.argmax(like, axis=1)
    rows = np.arange(len(wide))
    top = like[rows, best]
    before, after = like[rows, np.maximum(best - 1, 0)], like[rows, np.minimum(best + 1, n - 1)]
    bend = 2.0 * top - before - after
    shift = np.where(bend > 1e-9, 0.5 * (after - before) / np.maximum(bend, 1e-9), 0.0)
    return top, best + np.clip(shift, -0.5, 0.5)
