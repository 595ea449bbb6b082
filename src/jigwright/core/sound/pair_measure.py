"""A stretch of two notes measured: pitches, balance, borders, and whether it is two at all.

The pitches are robust centres of short-window fits (:mod:`pair_fit`), since players drift. Octaves
and unisons share all their partials: a second voice counts there only when it leaves much less
unexplained than one alone, with one steady detuning.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.gauge_maths import robust_line
from jigwright.core.music.instruments import instrument
from jigwright.core.sound.heard import HOP_S, Contours, Pair, Segment
from jigwright.core.sound.pair_fit import Fit, Windows, fit_notes, take_windows
from jigwright.core.sound.pair_lines import follow_lines
from jigwright.core.values import Floats, median, read_only

_BEATING_LEFT_DB = -30.0
_BEATING_GAIN_DB = 6.0
_QUICK_GAIN_DB = 1.0  # with ten partials much stays unexplained either way
_LEAST_GAIN_DB = 0.6  # below, one note explains what was taken for two
_FAINTEST_DB = 20.0
_TAIL_DB_PER_S = 14.0
_MOST_FITS = 60
_WAVERS_CENTS = 3.0
_APART_HZ = 8.0  # partials of wavering notes that do not meet
_APART_BINS = 0.4  # of steady ones
_FEWEST_OCTAVE = 4
_SAME_CENTS = 65.0
_NO_ODD_DB = -12.0  # re the even partials; strings' own spectra keep them within 10
_OCTAVE_UNSURE_CENTS = 5.0


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


_DIVIDE = 2


def pair_params(instrument_id: str) -> PairParams:
    """Windows of an instrument."""
    return PairParams(divide=_DIVIDE, window_s=instrument(instrument_id).pair_window_s)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Sound:
    """Sound at the rate of the fits.

    Parameters
    ----------
    x : ndarray
    rate_hz : float
    n : int
        Samples of a window.
    """

    x: Floats
    rate_hz: float
    n: int

    def windows(self, starts_s: Sequence[float] | Floats) -> Windows:
        """Windows that begin at the given times."""
        return take_windows(self.x, self.rate_hz, self.n, starts_s)


def measure_pair(
    sound: Sound, start_s: float, stop_s: float, pair_hz: tuple[float, float], params: PairParams
) -> Pair | None:
    """Fit every window of a stretch and take robust centres."""
    hop_s = 0.5 * params.window_s
    times = np.arange(start_s, stop_s - 0.4 * params.window_s, hop_s)
    if len(times) > _MOST_FITS:  # a long stretch is sampled, not fitted throughout
        times = times[:: int(np.ceil(len(times) / _MOST_FITS))]
    if len(times) < 2:
        return None
    tried = zip(times, fit_notes(sound.windows(times), pair_hz), strict=True)
    fits = [(at_s + hop_s, fit) for at_s, fit in tried if fit is not None and fit.left_ratio < 0.6]
    if len(fits) < 2:
        return None
    some = fits[:: max(1, len(fits) // 5)]
    windows = sound.windows([at_s - hop_s for at_s, _ in some])
    wide = fit_notes(windows, np.array([f.f_hz for _, f in some]), n_steps=0, n_partials=36)
    pair = _pair_of(fits, [f for f in wide if f is not None], params)
    return _followed(pair, sound)


def measure_stretch(
    sound: Sound, start_s: float, stop_s: float, pair_hz: tuple[float, float], params: PairParams
) -> Pair | None:
    """As :func:`measure_pair`, the stretch being the whole stop: its borders and its level."""
    pair = measure_pair(sound, start_s, stop_s, pair_hz, params)
    if pair is None:
        return None
    part = sound.x[round(start_s * sound.rate_hz) : round(stop_s * sound.rate_hz)]
    level = 10.0 * np.log10(np.mean(part.astype(float) ** 2) + 1e-14)
    return replace(pair, onset_s=start_s, offset_s=stop_s, level_dbfs=float(level))


def is_stop(pair_hz: tuple[float, ...], stop_hz: tuple[float, float]) -> bool:
    """Whether two notes are a stop, each within two thirds of a semitone."""
    off = [abs(1200.0 * np.log2(a / b)) for a, b in zip(sorted(pair_hz), stop_hz, strict=True)]
    return bool(max(off) < _SAME_CENTS)


def all_meet(stop_hz: tuple[float, float]) -> bool:
    """Whether all partials of two notes meet, as those of an octave or unison do."""
    cents = 1200.0 * np.log2(stop_hz[1] / stop_hz[0])
    return bool(abs(cents - 1200.0 * round(cents / 1200.0)) < _SAME_CENTS)


def _followed(pair: Pair, sound: Sound) -> Pair:
    """Both notes followed by their own partials where the fits waver, as with vibrato."""
    tracks = np.stack([pair.lower_track_hz / pair.lower_hz, pair.upper_track_hz / pair.upper_hz])
    off_cents = np.abs(1200 * np.log2(tracks))
    if float(np.median(off_cents, axis=1).max()) < _WAVERS_CENTS:
        return pair
    begin_s, end_s = float(pair.times_s[0]), float(pair.times_s[-1])
    a, b = round(begin_s * sound.rate_hz), round(end_s * sound.rate_hz)
    lines = follow_lines(sound.x[a:b], sound.rate_hz, (pair.lower_hz, pair.upper_hz))
    if lines is None:
        return pair
    low, up = lines
    at_s = pair.times_s - begin_s
    return replace(
        pair, lower_hz=low.centre_hz, upper_hz=up.centre_hz,
        lower_uncertainty_cents=low.uncertainty_cents, upper_uncertainty_cents=up.uncertainty_cents,
        lower_track_hz=read_only(np.interp(at_s, low.times_s, low.track_hz)),
        upper_track_hz=read_only(np.interp(at_s, up.times_s, up.track_hz)),
    )  # fmt: skip


def _pair_of(fits: list[tuple[float, Fit]], wide: list[Fit], params: PairParams) -> Pair:
    t = np.array([at for at, _ in fits])
    lo = np.array([f.f_hz[0] for _, f in fits])
    up = np.array([f.f_hz[1] for _, f in fits])
    weight = np.array([1.0 / (f.left_ratio + 0.003) for _, f in fits])
    lower, lower_u = _centre(lo, weight)
    upper, upper_u = _centre(up, weight)
    steady = max(float(median(np.abs(1200 * np.log2(v / median(v))))) for v in (lo, up))
    apart_hz = _APART_BINS / params.window_s if steady < _WAVERS_CENTS else _APART_HZ
    found = [b for b in (balance_of(f, apart_hz) for f in wide) if b is not None]
    enough = len(found) >= 0.5 * len(wide) and len(found) > 0
    good = np.array([b.db for b in found]) if enough else np.array([np.nan])
    spread = 1.96 * np.std(good) / np.sqrt(len(good))
    unclear = median([b.open_db for b in found]) if enough else 0.0
    return Pair(
        onset_s=float(t[0]), offset_s=float(t[-1]), lower_hz=lower, upper_hz=upper,
        lower_uncertainty_cents=lower_u, upper_uncertainty_cents=upper_u,
        balance_db=median(good), balance_uncertainty_db=float(1.5 + spread + unclear),
        level_dbfs=-140.0, times_s=read_only(t), lower_track_hz=read_only(lo),
        upper_track_hz=read_only(up),
        balance_track_db=read_only(_balance_track([f for _, f in fits], apart_hz)),
    )  # fmt: skip


def _centre(f_hz: Floats, weight: Floats) -> tuple[float, float]:
    """Weighted centre without outliers, and half its 95 % range in cents."""
    cents = 1200 * np.log2(f_hz)
    middle = median(cents)
    off = np.abs(cents - middle)
    if median(off) > 3.0:  # vibrato or drift: every window counts alike
        weight = np.ones_like(weight)
    keep = off <= max(3.0, 3.0 * 1.48 * median(off))
    mean = float(np.average(cents[keep], weights=weight[keep]))
    spread = float(np.std(cents[keep]))
    independent = max(1.0, 0.5 * np.count_nonzero(keep))
    return float(2 ** (mean / 1200)), float(0.25 + 1.96 * spread / np.sqrt(independent))


@dataclass(frozen=True, slots=True, kw_only=True)
class Balance:
    """Level of the upper over the lower note in one window.

    Parameters
    ----------
    db : float
    open_db : float
        Half the range between giving nearly all coincident energy to the one or the other note.
    """

    db: float
    open_db: float


def balance_of(fit: Fit, apart_hz: float) -> Balance | None:
    """Balance of a window; ``None`` when too few partials stand ``apart_hz`` or more apart.

    Nothing in a steady sound says whose the energy of coincident partials is: it is shared out as
    the neighbouring partials suggest, and what another sharing would give is told as uncertainty.
    """
    filled, sure, met = [], [], []
    for own, other in ((0, 1), (1, 0)):
        power = fit.power[own]
        number = np.arange(1, len(power) + 1)
        ratio = number * fit.f_hz[own] / fit.f_hz[other]
        apart = np.abs(ratio - np.rint(ratio)) * fit.f_hz[other] > apart_hz
        apart |= np.rint(ratio) > len(fit.power[other])
        if np.count_nonzero(apart) < 2:
            return None
        db = 10 * np.log10(power + 1e-20)
        likely = np.where(apart, db, np.interp(number, number[apart], db[apart]))
        filled.append(float(np.sum(10 ** (likely / 10))))
        sure.append(float(np.sum(power[apart])) + 1e-20)
        met.append(float(np.sum(power[~apart])))
    shared = 2.0 * sum(met)  # in phase at the most
    least = 10 * np.log10((sure[1] + 0.1 * shared) / (sure[0] + 0.9 * shared))
    most = 10 * np.log10((sure[1] + 0.9 * shared) / (sure[0] + 0.1 * shared))
    likely_db = 10 * np.log10(filled[1] / filled[0])
    return Balance(db=float(np.clip(likely_db, least, most)), open_db=float(0.5 * (most - least)))


def _balance_track(fits: Sequence[Fit], apart_hz: float) -> Floats:
    found = [balance_of(f, apart_hz) for f in fits]
    return np.array([b.db if b else np.nan for b in found])


def place_pair(
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


def is_two(sound: Sound, pair: Pair, params: PairParams) -> bool:
    """Whether both voices are driven: neither very faint nor dying away like a tail.

    Near an octave or unison the second voice must show in the fit.
    """
    balance = pair.balance_track_db[np.isfinite(pair.balance_track_db)]
    if len(balance) and abs(median(balance)) > _FAINTEST_DB:
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
        return _gain_db(sound, pair, params) > _LEAST_GAIN_DB
    unsure = max(pair.lower_uncertainty_cents, pair.upper_uncertainty_cents)
    if len(pair.times_s) < _FEWEST_OCTAVE or unsure > _OCTAVE_UNSURE_CENTS:
        return False
    probes = sound.windows(pair.times_s[:: max(1, len(pair.times_s) // 4)] - 0.5 * params.window_s)
    alone = _left(probes, (pair.lower_hz,))
    return _decibels(alone / _left(probes, (pair.lower_hz, pair.upper_hz))) > _BEATING_GAIN_DB


def _gain_db(sound: Sound, pair: Pair, params: PairParams) -> float:
    """By how much two notes explain a typical window better than the better one of them."""
    probes = sound.windows(pair.times_s[:: -(-len(pair.times_s) // 8)] - 0.5 * params.window_s)
    left = [
        np.array(
            [
                f.left_ratio if f else 1.0
                for f in fit_notes(probes, start, n_steps=n_steps, n_partials=24, whole=True)
            ]
        )
        for start, n_steps in (
            ((pair.lower_hz,), 4),
            ((pair.upper_hz,), 4),
            ((pair.lower_hz, pair.upper_hz), 2),  # both have been fitted
        )
    ]
    better = np.minimum(left[0], left[1]) / np.maximum(left[2], 1e-9)
    return _decibels(median(better))


def _left(probes: Windows, start_hz: tuple[float, ...]) -> float:
    """Typical share that a fit leaves unexplained."""
    fits = fit_notes(probes, start_hz, n_partials=24, whole=True)
    return median([f.left_ratio if f else 1.0 for f in fits]) + 1e-6


def _decibels(ratio: float) -> float:
    return float(10 * np.log10(max(ratio, 1e-12)))


def find_beating(
    sound: Sound, segment: Segment, params: PairParams, lowest_hz: float
) -> Pair | None:
    """An octave or unison a little out: its second voice shows only in the fit."""
    if segment.spread_cents > 14.0:
        return None
    start_s, stop_s = segment.core_start_s, segment.core_end_s
    middle_s = 0.5 * (start_s + stop_s - params.window_s)
    probes = sound.windows([middle_s + k * 0.31 * params.window_s for k in (-3, -1, 1, 3)])
    f = segment.f0_hz
    first = fit_notes(probes, (f,), n_partials=10, whole=True)[1]
    rough = first.left_ratio if first else 1.0
    if _decibels(rough) < _BEATING_LEFT_DB:
        return None
    best: tuple[float, tuple[float, float]] | None = None
    for ratio, detune in ((1.0, 12.0), (2.0, -16.0), (2.0, 16.0), (0.5, -16.0), (0.5, 16.0)):
        if f * ratio < lowest_hz:
            continue
        spread = 2 ** (0.5 * detune / 1200)
        low, high = sorted((f / spread, f * ratio * spread))
        if not _promising(probes, (low, high), rough):
            continue
        fits = fit_notes(probes, (low, high), n_partials=24, whole=True)
        good = [x for x in fits if x is not None]
        if len(good) < 3:
            continue
        if _is_an_octave_off(good, both=ratio == 1.0):
            continue
        rest = median([x.left_ratio for x in good]) + 1e-6
        steady = _steady(good)
        quieter = min(_voice_db(x) for x in good)
        if steady and quieter > -_FAINTEST_DB and (best is None or rest < best[0]):
            low, high = (median([x.f_hz[i] for x in good]) for i in (0, 1))
            best = (rest, (low, high))
    if best is None or _decibels(_left(probes, (f,)) / best[0]) < _BEATING_GAIN_DB:
        return None
    pair = measure_pair(sound, start_s, stop_s, best[1], params)
    if pair is None:
        return None
    return replace(
        pair, onset_s=segment.onset_s, offset_s=segment.offset_s, level_dbfs=segment.level_dbfs
    )


def _promising(probes: Windows, pair_hz: tuple[float, float], alone: float) -> bool:
    """Whether a fit with few partials already sees a second voice in every probe."""
    fits: list[Fit] = []
    n = len(probes.spectra)
    for part in (slice(0, 1), slice(1, n)):  # most are refused at the first probe
        some = replace(probes, spectra=probes.spectra[part])
        for fit in fit_notes(some, pair_hz, n_partials=10, whole=True):
            if fit is None or _decibels(alone / (fit.left_ratio + 1e-6)) < _QUICK_GAIN_DB:
                return False
            fits.append(fit)
    return _steady(fits)


def _steady(fits: list[Fit]) -> bool:
    """Whether the detuning is the same in all fits, that of an octave or unison a little out."""
    apart = 1200 * np.log2([x.f_hz[1] / x.f_hz[0] for x in fits])
    off = apart - 1200 * round(median(apart) / 1200)
    return float(np.std(off)) < 3.0 and 4.0 < abs(median(off)) < 50.0


def _is_an_octave_off(fits: list[Fit], *, both: bool) -> bool:
    """Whether the lower voice, or either, has next to no odd partials: it is the octave above."""
    odd = np.array([[np.sum(p[0::2]) for p in f.power] for f in fits])
    even = np.array([[np.sum(p[1::2]) for p in f.power] for f in fits])
    odd_db = np.median(10 * np.log10((odd + 1e-20) / (even + 1e-20)), axis=0)
    return bool((odd_db.min() if both else odd_db[0]) < _NO_ODD_DB)


def _voice_db(fit: Fit) -> float:
    """Level of the weaker voice re the stronger."""
    power = [float(p.sum()) + 1e-20 for p in fit.power]
    return float(-abs(10 * np.log10(power[1] / power[0])))
