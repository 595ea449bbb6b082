"""Stretches of two notes: found, tracked and measured.

A Hann spectrum every half window is first held against the comb of the single-note contour; only
windows it does not explain are searched for two notes. Equal findings in a row make a stretch.
Octaves and unisons share all their partials, so there a second voice is looked for in the fit
itself: two voices must leave much less unexplained than one, with one steady detuning. The pitches
are robust centres of short-window fits (:mod:`pair_fit`), since players drift.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy import fft, signal

from jigwright.core.gauge_maths import robust_line
from jigwright.core.sound.heard import HOP_S, Contours, Pair, Segment
from jigwright.core.sound.pair_fit import Fit, fit_notes
from jigwright.core.sound.pair_search import find_peaks, search_pair
from jigwright.core.values import Floats, read_only

_Complex = NDArray[np.complexfloating[Any, Any]]
_OUTSIDE_DB = -17.0
_SAME_CENTS = 65.0
_SHORTEST_S = 0.22
_BEATING_LEFT_DB = -30.0
_BEATING_GAIN_DB = 6.0
_CLEAR = 0.985  # one period explains a window so well that no second note is looked for
_LEAST_WAVE_DB = 0.15
_QUICK_GAIN_DB = 1.0  # with ten partials much stays unexplained either way
_FAINTEST_DB = 20.0
_TAIL_DB_PER_S = 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PairParams:
    """Windows for one kind of instrument.

    Parameters
    ----------
    divide : int
        Decimation of the internal rate.
    window_s : float
        Window of the search and of the fits.
    """

    divide: int
    window_s: float


_PARAMS = {
    "violin": PairParams(divide=2, window_s=0.17),
    "viola": PairParams(divide=2, window_s=0.2),
    "cello": PairParams(divide=2, window_s=0.3),
    "bass": PairParams(divide=2, window_s=0.4),
}


def pair_params(instrument_id: str) -> PairParams:
    """Windows of an instrument."""
    return _PARAMS[instrument_id]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Sound:
    x: Floats
    analytic: _Complex
    rate_hz: float
    n: int

    def part(self, at_s: float) -> _Complex:
        i = round(at_s * self.rate_hz)
        return self.analytic[i : i + self.n]


def find_pairs(
    x: Floats,
    rate_hz: int,
    contours: Contours,
    segments: tuple[Segment, ...],
    params: PairParams,
    *,
    lowest_hz: float,
    highest_hz: float,
    floor_db: float,
) -> tuple[Pair, ...]:
    """Find the stretches in which two notes sound.

    Parameters
    ----------
    x : ndarray
        The filtered sound at the internal rate.
    rate_hz : int
    contours, segments
        What was heard as single notes.
    params : PairParams
    lowest_hz, highest_hz : float
        Range of fundamentals.
    floor_db : float
        Level below which nothing is looked for.
    """
    n = round(params.window_s * rate_hz / params.divide)
    if len(x) < 2 * n * params.divide or n < 32:
        return ()
    y = signal.resample_poly(x, 1, params.divide)
    rate = rate_hz / params.divide
    starts, suspects, magnitude = _suspects(y, rate, n, contours, floor_db)
    found: list[tuple[float, tuple[float, float] | None]] = []
    bin_hz = rate / (2 * (magnitude.shape[1] - 1))
    for i, start in enumerate(starts):
        two = None
        if suspects[i]:
            peaks = find_peaks(magnitude[i], bin_hz, 2.0 * rate / n)
            two = search_pair(peaks, lowest_hz, highest_hz)
        found.append((start / rate, two))
    sound = _Sound(x=y, analytic=np.zeros(0, dtype=np.complex128), rate_hz=rate, n=n)
    runs = _joined_runs(_runs(found, params.window_s), sound)
    pairs = []
    for run in runs:
        here = _analytic(sound, run.start_s, run.stop_s)
        pair = _measure(here, run.start_s, run.lower_hz, run.upper_hz, params)
        if pair is not None and _is_two(here, pair, params):
            pair = _placed(pair, run.start_s, run.stop_s, contours, params)
            pairs.append(_with_onset_of(pair, segments))
    for segment in segments:
        if segment.offset_s - segment.onset_s < 3 * params.window_s:
            continue
        if any(_touch(p, segment) for p in pairs) or not _wavers(segment, contours, params):
            continue
        beating = _beating(sound, segment, params, lowest_hz)
        if beating is not None:
            pairs.append(beating)
    return tuple(sorted(pairs, key=lambda p: p.onset_s))


def with_pairs(segments: tuple[Segment, ...], pairs: tuple[Pair, ...]) -> tuple[Segment, ...]:
    """Put a segment in the place of every pair; what was heard there as single notes goes."""
    kept = [
        s
        for s in segments
        if not any(
            min(s.offset_s, p.offset_s) - max(s.onset_s, p.onset_s) > 0.5 * (s.offset_s - s.onset_s)
            for p in pairs
        )
    ]
    for i, p in enumerate(pairs):
        inside = [s for s in segments if s.onset_s < p.offset_s and s.offset_s > p.onset_s]
        track = 1200 * np.log2(p.lower_track_hz / p.lower_hz)
        margin_s = min(0.06, 0.2 * (p.offset_s - p.onset_s))
        kept.append(
            Segment(
                onset_s=p.onset_s, offset_s=p.offset_s, core_start_s=p.onset_s + margin_s,
                core_end_s=p.offset_s - margin_s, f0_hz=p.lower_hz,
                uncertainty_cents=p.lower_uncertainty_cents, spread_cents=float(np.std(track)),
                drift_cents_per_s=0.0, level_dbfs=p.level_dbfs,
                attack_db=inside[0].attack_db if inside else 20.0,
                clarity=max((s.clarity for s in inside), default=0.8), i_pair=i,
                slurred=bool(inside and inside[0].slurred and inside[0].onset_s >= p.onset_s),
            )
        )  # fmt: skip
    return tuple(sorted(kept, key=lambda s: s.onset_s))


def _touch(pair: Pair, segment: Segment) -> bool:
    return pair.onset_s < segment.offset_s - 0.1 and pair.offset_s > segment.onset_s + 0.1


def _with_onset_of(pair: Pair, segments: tuple[Segment, ...]) -> Pair:
    """Take in the beginning in which one of the two was heard alone."""
    for s in segments:
        related = any(
            abs(1200 * np.log2(k * s.f0_hz / f)) < 50 or abs(1200 * np.log2(s.f0_hz / (k * f))) < 50
            for f in (pair.lower_hz, pair.upper_hz)
            for k in (1, 2, 3)
        )
        if related and s.onset_s < pair.onset_s < s.offset_s and pair.onset_s - s.onset_s < 0.6:
            return replace(pair, onset_s=s.onset_s)
    return pair


def _wavers(segment: Segment, contours: Contours, params: PairParams) -> bool:
    """Whether a note's level moves as two beating voices would; a decaying or moving one is out."""
    if segment.spread_cents > 5.0:
        return False
    lo, hi = round(segment.core_start_s / HOP_S), round(segment.core_end_s / HOP_S)
    level = contours.level_db[lo + int(0.4 * (hi - lo)) : hi]  # past what the start leaves behind
    if len(level) < 20:
        return False
    at = np.linspace(-1.0, 1.0, len(level))
    bend = np.polyfit(at, level, 3)
    fall_db = abs(float(level[-1] - level[0])) / (len(level) * HOP_S) * params.window_s
    return fall_db < 3.0 and float(np.std(level - np.polyval(bend, at))) > _LEAST_WAVE_DB


def _suspects(
    y: Floats, rate: float, n: int, contours: Contours, floor_db: float
) -> tuple[NDArray[np.intp], NDArray[np.bool_], Floats]:
    """Window starts, which windows one comb does not explain, and their spectra."""
    hop = n // 2
    starts = np.arange(0, len(y) - n, hop)
    frames = sliding_window_view(y, n)[starts] * np.hanning(n)
    n_fft = 1 << int(np.ceil(np.log2(2 * n)))
    magnitude = np.abs(fft.rfft(frames, n_fft, axis=1)).astype(np.float64)
    power = magnitude**2
    bins_hz = np.arange(power.shape[1]) * rate / n_fft
    suspects = np.zeros(len(starts), dtype=bool)
    f0 = contours.f0_hz
    for i, start in enumerate(starts):
        a, b = int(start / rate / HOP_S), int((start + n) / rate / HOP_S)
        if b > len(f0) or float(contours.level_db[a:b].mean()) < floor_db:
            continue
        part = np.sort(f0[a:b])  # NaN last
        heard = int(np.count_nonzero(np.isfinite(part)))
        if heard < 0.5 * (b - a):
            suspects[i] = True
            continue
        f = float(part[heard // 2])
        wobble = max(part[int(0.95 * (heard - 1))] / f - 1.0, 1.0 - part[heard // 20] / f, 0.004)
        if _gaps(power[i], f, wobble, bins_hz[1], 2.2 * rate / n) >= 2:
            suspects[i] = True
        elif float(contours.clarity[a:b].mean()) < _CLEAR:
            order = np.maximum(np.rint(bins_hz / f), 1.0)
            outside = np.abs(bins_hz - order * f) > 2.2 * rate / n + bins_hz * wobble
            share = float(power[i][outside].sum()) / (float(power[i].sum()) + 1e-20)
            suspects[i] = 10 * np.log10(share + 1e-9) > _OUTSIDE_DB
    return starts, suspects, magnitude


def _gaps(power: Floats, f_hz: float, wobble: float, bin_hz: float, wide_hz: float) -> int:
    """How many of the first five partials are missing: two notes share a lower fundamental."""
    total = float(power.sum()) + 1e-20
    missing = 0
    for k in range(1, 6):
        reach = min(wide_hz + k * f_hz * wobble, 0.5 * f_hz)
        lo, hi = int((k * f_hz - reach) / bin_hz), int((k * f_hz + reach) / bin_hz) + 1
        missing += float(power[max(0, lo) : hi].sum()) < 3e-5 * total
    return missing


@dataclass(frozen=True, slots=True, kw_only=True)
class _Run:
    start_s: float
    stop_s: float
    lower_hz: float
    upper_hz: float


def _runs(found: list[tuple[float, tuple[float, float] | None]], window_s: float) -> list[_Run]:
    """Stretches of equal pairs."""
    runs: list[list[tuple[float, tuple[float, float]]]] = []
    missed = 0
    for at_s, pair in found:
        if pair is None:
            missed += 1
            continue
        if runs and missed <= 3 and _alike(runs[-1], pair):
            runs[-1].append((at_s, pair))
        else:
            runs.append([(at_s, pair)])
        missed = 0
    result = []
    for run in runs:
        n_windows = round((run[-1][0] - run[0][0]) / (0.5 * window_s)) + 1
        if len(run) < 0.5 * n_windows:
            continue
        lower = float(np.median([p[0] for _, p in run]))
        upper = float(np.median([p[1] for _, p in run]))
        stop_s = run[-1][0] + window_s
        result.append(_Run(start_s=run[0][0], stop_s=stop_s, lower_hz=lower, upper_hz=upper))
    return result


def _joined_runs(runs: list[_Run], sound: _Sound) -> list[_Run]:
    """Join neighbours that are one double stop; leave out what is too short.

    While a low note speaks slowly one of its partials may be taken for it; and a note may be taken
    for one an octave or twelfth below.
    """
    window_s = sound.n / sound.rate_hz
    joined: list[_Run] = []
    for run in runs:
        before = joined[-1] if joined else None
        if before is not None and run.start_s - before.stop_s < window_s:
            true = _same_stop(before, run, sound)
            if true is not None:
                joined[-1] = _Run(
                    start_s=before.start_s, stop_s=max(before.stop_s, run.stop_s),
                    lower_hz=true.lower_hz, upper_hz=true.upper_hz,
                )  # fmt: skip
                continue
        joined.append(run)
    shortest = max(_SHORTEST_S, 1.9 * window_s)
    return [r for r in joined if r.stop_s - r.start_s >= shortest]


def _same_stop(a: _Run, b: _Run, sound: _Sound) -> _Run | None:
    """The true one of two runs that share a note and whose other notes lie in one series."""
    deep, high = (a, b) if a.lower_hz + a.upper_hz < b.lower_hz + b.upper_hz else (b, a)
    mine, theirs = (deep.lower_hz, deep.upper_hz), (high.lower_hz, high.upper_hz)
    explained = [
        any(abs(1200 * np.log2(f / (k * m))) < 40 for m in mine for k in (1, 2, 3, 4, 5))
        for f in theirs
    ]
    shared = any(abs(1200 * np.log2(f / m)) < 40 for f in theirs for m in mine)
    if not (all(explained) and shared):
        return None
    window_s = sound.n / sound.rate_hz
    shorter, longer = sorted((a, b), key=lambda r: r.stop_s - r.start_s)
    lengths_s = shorter.stop_s - shorter.start_s, longer.stop_s - longer.start_s
    if lengths_s[0] < 1.7 * window_s and lengths_s[1] > 3.0 * lengths_s[0]:
        return longer  # one window across two notes proves nothing
    here = _analytic(sound, deep.start_s, deep.stop_s)
    middle_s = 0.5 * (deep.start_s + deep.stop_s - sound.n / sound.rate_hz)
    fit = fit_notes(here.part(middle_s), sound.rate_hz, mine)
    if fit is None:
        return high
    total = sum(float(p.sum()) for p in fit.power)
    for own, f in zip(fit.power, fit.f_hz, strict=True):
        number = np.arange(1, len(own) + 1) * f
        apart = np.ones(len(own), dtype=bool)
        for g in theirs:
            apart &= np.abs(number / g - np.rint(number / g)) * g > 10.0
        if np.any(apart) and float(own[apart].sum()) > 1e-3 * total:
            return deep
    return high


def _alike(run: list[tuple[float, tuple[float, float]]], pair: tuple[float, float]) -> bool:
    lower = np.median([p[0] for _, p in run])
    upper = np.median([p[1] for _, p in run])
    off = (1200 * abs(np.log2(pair[0] / lower)), 1200 * abs(np.log2(pair[1] / upper)))
    return bool(max(off) < _SAME_CENTS)


def _analytic(sound: _Sound, start_s: float, stop_s: float) -> _Sound:
    """The stretch as an analytic signal, with some margin."""
    margin = sound.n
    a = max(0, round(start_s * sound.rate_hz) - margin)
    b = min(len(sound.x), round(stop_s * sound.rate_hz) + margin)
    whole = np.zeros(b, dtype=np.complex128)
    part = sound.x[a:b]
    whole[a:b] = signal.hilbert(part, fft.next_fast_len(len(part)))[: len(part)]
    return _Sound(x=sound.x, analytic=whole, rate_hz=sound.rate_hz, n=sound.n)


def _measure(
    sound: _Sound, start_s: float, lower: float, upper: float, params: PairParams
) -> Pair | None:
    """Fit every window of a stretch and take robust centres."""
    stop_s = len(sound.analytic) / sound.rate_hz
    hop_s = 0.5 * params.window_s
    times = np.arange(start_s, stop_s - 1.4 * params.window_s, hop_s)
    if len(times) > 60:  # a long stretch is sampled, not fitted throughout
        times = times[:: int(np.ceil(len(times) / 60))]
    fits: list[tuple[float, Fit]] = []
    guess = (lower, upper)
    for at_s in times:
        fit = fit_notes(sound.part(at_s), sound.rate_hz, guess)
        if fit is not None and fit.left_ratio < 0.6:
            fits.append((at_s + hop_s, fit))
    if len(fits) < 2:
        return None
    wide = [
        fit_notes(sound.part(at_s - hop_s), sound.rate_hz, f.f_hz, n_steps=0, n_partials=36)
        for at_s, f in fits[:: max(1, len(fits) // 5)]
    ]
    return _pair_of(fits, np.array([balance_db(f) for f in wide if f is not None]))


def _pair_of(fits: list[tuple[float, Fit]], wide_db: Floats) -> Pair:
    t = np.array([at for at, _ in fits])
    lo = np.array([f.f_hz[0] for _, f in fits])
    up = np.array([f.f_hz[1] for _, f in fits])
    balance = np.array([balance_db(f) for _, f in fits])
    weight = np.array([1.0 / (f.left_ratio + 0.003) for _, f in fits])
    lower, lower_u = _centre(lo, weight)
    upper, upper_u = _centre(up, weight)
    good = wide_db[np.isfinite(wide_db)]
    enough = len(good) >= 0.5 * len(wide_db) and len(good) > 0
    return Pair(
        onset_s=float(t[0]), offset_s=float(t[-1]), lower_hz=lower, upper_hz=upper,
        lower_uncertainty_cents=lower_u, upper_uncertainty_cents=upper_u,
        balance_db=float(np.median(good)) if enough else float("nan"),
        balance_uncertainty_db=float(1.5 + 1.96 * np.std(good) / np.sqrt(len(good)))
        if enough else float("nan"),
        level_dbfs=-140.0, times_s=read_only(t), lower_track_hz=read_only(lo),
        upper_track_hz=read_only(up), balance_track_db=read_only(balance),
    )  # fmt: skip


def _centre(f_hz: Floats, weight: Floats) -> tuple[float, float]:
    """Weighted centre without outliers, and half its 95 % range in cents."""
    cents = 1200 * np.log2(f_hz)
    middle = float(np.median(cents))
    off = np.abs(cents - middle)
    if float(np.median(off)) > 3.0:  # vibrato or drift: every window counts alike
        weight = np.ones_like(weight)
    keep = off <= max(3.0, 3.0 * 1.48 * float(np.median(off)))
    mean = float(np.average(cents[keep], weights=weight[keep]))
    spread = float(np.std(cents[keep]))
    independent = max(1.0, 0.5 * np.count_nonzero(keep))
    return float(2 ** (mean / 1200)), float(0.25 + 1.96 * spread / np.sqrt(independent))


def balance_db(fit: Fit) -> float:
    """Level of the upper over the lower note in dB; NaN when too few partials stand apart.

    Partials that coincide cannot be shared out by the fit: they are filled from their neighbours.
    """
    levels = []
    for own, other in ((0, 1), (1, 0)):
        power = fit.power[own]
        number = np.arange(1, len(power) + 1)
        ratio = number * fit.f_hz[own] / fit.f_hz[other]
        apart = np.abs(ratio - np.rint(ratio)) * fit.f_hz[other] > 8.0
        apart |= np.rint(ratio) > len(fit.power[other])
        if np.count_nonzero(apart) < 2:
            return float("nan")
        db = 10 * np.log10(power + 1e-20)
        filled = np.where(apart, db, np.interp(number, number[apart], db[apart]))
        levels.append(10 * np.log10(np.sum(10 ** (filled / 10))))
    return float(levels[1] - levels[0])


def _placed(
    pair: Pair, start_s: float, stop_s: float, contours: Contours, params: PairParams
) -> Pair:
    """Borders of the stretch: outwards while the level holds, up to one window."""
    level = contours.level_db
    a, b = round(start_s / HOP_S), min(len(level) - 1, round(stop_s / HOP_S))
    own = float(10 * np.log10(np.mean(10 ** (level[a:b] / 10)) + 1e-14))
    lo, hi = _turn(level, a, own, params, 1), _turn(level, b, own, params, -1)
    lo, hi = min(lo, hi - 10), max(hi, lo + 10)
    # windows that reach beyond the borders have heard the neighbours
    margin_s = 0.42 * params.window_s
    inside = (pair.times_s > lo * HOP_S + margin_s) & (pair.times_s < hi * HOP_S - margin_s)
    if np.count_nonzero(inside) >= 2:
        pair = replace(
            pair, times_s=read_only(pair.times_s[inside]),
            lower_track_hz=read_only(pair.lower_track_hz[inside]),
            upper_track_hz=read_only(pair.upper_track_hz[inside]),
            balance_track_db=read_only(pair.balance_track_db[inside]),
        )  # fmt: skip
    return replace(pair, onset_s=lo * HOP_S, offset_s=hi * HOP_S, level_dbfs=own)


def _is_two(here: _Sound, pair: Pair, params: PairParams) -> bool:
    """Whether both voices are driven: neither very faint nor dying away like a tail.

    Near an octave or unison the second voice must show in the fit.
    """
    balance = pair.balance_track_db[np.isfinite(pair.balance_track_db)]
    if len(balance) and abs(float(np.median(balance))) > _FAINTEST_DB:
        return False
    if len(balance) >= 3:
        span_s = float(pair.times_s[-1] - pair.times_s[0])
        at_s = np.linspace(0.0, span_s, len(balance))
        slope, start = robust_line(at_s, balance)
        straight = float(np.std(balance - start - slope * at_s)) < 3.0
        dying = abs(slope) > _TAIL_DB_PER_S and abs(slope) * span_s > 6.0
        if dying and straight and span_s < 2.0:
            return False
    cents = 1200 * np.log2(pair.upper_hz / pair.lower_hz)
    if abs(cents - 1200 * round(cents / 1200)) > 60.0:
        return True
    probes = list(pair.times_s[:: max(1, len(pair.times_s) // 4)] - 0.5 * params.window_s)
    alone = _left(here, probes, (pair.lower_hz,))
    return _decibels(alone / _left(here, probes, (pair.lower_hz, pair.upper_hz))) > _BEATING_GAIN_DB


def _left(here: _Sound, probes: list[float], start_hz: tuple[float, ...]) -> float:
    """Typical share that a fit leaves unexplained."""
    fits = [fit_notes(here.part(t), here.rate_hz, start_hz, n_partials=24) for t in probes]
    return float(np.median([f.left_ratio if f else 1.0 for f in fits])) + 1e-6


def _decibels(ratio: float) -> float:
    return float(10 * np.log10(max(ratio, 1e-12)))


def _turn(level: Floats, at: int, own_db: float, params: PairParams, inwards: int) -> int:
    """Frame at which a stretch begins (``inwards`` 1) or ends (-1), near frame ``at``.

    The windows say where it is to within half their length; a dip of the level says it better.
    """
    width = params.window_s / HOP_S
    first, last = sorted((at - round(0.35 * width) * inwards, at + round(0.6 * width) * inwards))
    first, last = max(0, first), min(len(level) - 1, last)
    lowest = first + int(np.argmin(level[first : last + 1]))
    if level[lowest] > own_db - 3.0:
        return at + round(0.5 * width) * inwards
    threshold = own_db - (20.0 if inwards > 0 else 12.0)
    while first < lowest + inwards < last and level[lowest] < threshold:
        lowest += inwards
    return lowest


def _beating(sound: _Sound, segment: Segment, params: PairParams, lowest_hz: float) -> Pair | None:
    """An octave or unison a little out: its second voice shows only in the fit."""
    if segment.spread_cents > 14.0:
        return None
    start_s, stop_s = segment.core_start_s, segment.core_end_s
    here = _analytic(sound, start_s, stop_s)
    middle_s = 0.5 * (start_s + stop_s - params.window_s)
    probes = [middle_s + k * 0.31 * params.window_s for k in (-3, -1, 1, 3)]
    f = segment.f0_hz
    first = fit_notes(here.part(probes[1]), sound.rate_hz, (f,), n_partials=10)
    rough = first.left_ratio if first else 1.0
    if _decibels(rough) < _BEATING_LEFT_DB:
        return None
    best: tuple[float, tuple[float, float]] | None = None
    for ratio, detune in ((1.0, 12.0), (2.0, -16.0), (2.0, 16.0), (0.5, -16.0), (0.5, 16.0)):
        if f * ratio < lowest_hz:
            continue
        spread = 2 ** (0.5 * detune / 1200)
        low, high = sorted((f / spread, f * ratio * spread))
        if not _promising(here, probes, (low, high), rough):
            continue
        fits = [fit_notes(here.part(t), sound.rate_hz, (low, high), n_partials=24) for t in probes]
        good = [x for x in fits if x is not None]
        if len(good) < 3:
            continue
        rest = float(np.median([x.left_ratio for x in good])) + 1e-6
        steady = _steady(good)
        quieter = min(_voice_db(x) for x in good)
        if steady and quieter > -_FAINTEST_DB and (best is None or rest < best[0]):
            low, high = (float(np.median([x.f_hz[i] for x in good])) for i in (0, 1))
            best = (rest, (low, high))
    if best is None or _decibels(_left(here, probes, (f,)) / best[0]) < _BEATING_GAIN_DB:
        return None
    pair = _measure(here, start_s, *best[1], params)
    if pair is None:
        return None
    return replace(
        pair, onset_s=segment.onset_s, offset_s=segment.offset_s, level_dbfs=segment.level_dbfs
    )


def _promising(
    here: _Sound, probes: list[float], pair_hz: tuple[float, float], alone: float
) -> bool:
    """Whether a fit with few partials already sees a second voice in every probe."""
    fits = []
    for t in probes:
        fit = fit_notes(here.part(t), here.rate_hz, pair_hz, n_partials=10)
        if fit is None or _decibels(alone / (fit.left_ratio + 1e-6)) < _QUICK_GAIN_DB:
            return False
        fits.append(fit)
    return _steady(fits)


def _steady(fits: list[Fit]) -> bool:
    """Whether the detuning is the same in all fits, that of an octave or unison a little out."""
    apart = 1200 * np.log2([x.f_hz[1] / x.f_hz[0] for x in fits])
    off = apart - 1200 * round(float(np.median(apart)) / 1200)
    return float(np.std(off)) < 3.0 and 4.0 < abs(float(np.median(off))) < 50.0


def _voice_db(fit: Fit) -> float:
    """Level of the weaker voice re the stronger."""
    power = [float(p.sum()) + 1e-20 for p in fit.power]
    return float(-abs(10 * np.log10(power[1] / power[0])))
