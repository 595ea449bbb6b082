"""Where somebody speaks: speech is told from playing by what its partials and its colour do.

A bowed string holds its partials still, a vibrato and a slide included, so that between 1 and 4 kHz
lines stand out of a spectrum of a tenth of a second. A voice's partials glide and merge there, its
consonants are noise, and its colour changes from syllable to syllable all the time. Rustling and
clapping do that too, but have no voice: no lines below 1 kHz. Persistent
lines are what tells music from speech in the literature (Seyerlehner, Pohle, Schedl & Widmer 2007,
"continuous frequency activation"); movement of the spectrum is as old as the question (Scheirer &
Slaney 1997).

The two weights are a logistic regression over 1.2 s windows of four kinds of synthetic and recorded
voices against bowed strings of several makers, the kind judged always left out (docs/method.md).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cache

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from scipy import fft, signal
from scipy.ndimage import uniform_filter1d

from jigwright.core.sound.curves import runs_of
from jigwright.core.sound.heard import Segment, Speech
from jigwright.core.values import Floats

_RATE_HZ = 16_000
_MOST_RATIO = 1000
_HOP = 320
HOP_S = _HOP / _RATE_HZ
_LINE_WINDOWS = (1024, 2048)  # a vibrato smears the longer one, low strings merge in the shorter
_LINE_BINS = 2048
_LINES_HZ, _AROUND_HZ = (1000.0, 4000.0), 300.0
_VOICE_HZ, _AROUND_VOICE_HZ = (100.0, 1000.0), 150.0
_LEAST_VOICE = 1.15  # lines there; bursts of noise reach 1.11, a creaking voice 1.2
_BLOCK_FRAMES = 1024  # bounds the memory, however long the sound
_FAINT = 1e-7 / 8.0  # of a line as loud as the whole sound, times the squared window
_COLOUR_WINDOW, _COLOUR_BINS, _N_BANDS = 512, 1024, 24
_COLOUR_HZ = (100.0, 7000.0)
_LAG_FRAMES = 3
WINDOW_S, STEP_S = 1.2, 0.2
_LOUD_PERCENT, _QUIET_PERCENT = 95.0, 3.0
_RANGE_DB, _ABOVE_NOISE_DB, _WITHIN_DB, _WORTH_DB = 60.0, 4.0, 30.0, 40.0
_LEAST_SOUNDING = 0.3
_PAD_FRAMES = 15
_LINES_WEIGHT, _COLOUR_WEIGHT, _OFFSET, _SOFTEN = -9.7, 7.5, -3.3, 0.2
MAYBE_SPOKEN, SPOKEN = 0.0, 1.0
_FEWEST = 3  # stretches, a fifth of a second apart
_HELD_S, _HELD_SPREAD, _HELD_DRIFT = 0.22, 12.0, 100.0  # no syllable holds its pitch so long
_LONG_S = 0.5  # or lasts so long, whatever its vibrato
_MOST_HELD, _MOST_COVERED = 0.2, 0.75  # of a stretch: playing fills it with notes
_FULL = 0.92  # no talk is as full
_FEWEST_PITCHES, _ON_GRID = 4, 0.7  # length of the mean vector; of speech 3 in 100 are beyond
_FEWEST_BEATS, _EVEN, _MOST_EVEN = 8, 0.2, 0.75
_IN_A_ROW, _CERTAIN = 8, 3.0
_BESIDE_S = 0.6
_MOST_FOOLED = 0.25  # of the stretches that sound spoken may hold a note
_EDGE_S, _PAUSE_S = 0.3, 0.6
_FINE_S, _FINE_STEP_S, _MOST_GROWN_S = 0.4, 0.1, 0.7
_BELOW_DB = 15.0


def find_talk(x: Floats, rate_hz: float, segments: Sequence[Segment]) -> tuple[Speech, ...]:
    """Stretches in which somebody speaks and nothing is played.

    Parameters
    ----------
    x : ndarray, shape (n,)
        The sound as it was recorded.
    rate_hz : float
    segments : sequence of Segment
        What was taken for notes: where they hold their pitch or fill the time, nobody speaks.

    Returns
    -------
    tuple of Speech
        In time order.
    """
    figures = _figures_of(x, rate_hz)
    times_s, scores = _scores(figures, WINDOW_S, STEP_S)
    sure = _surely_played(segments)
    held, noted, covered = _filled(segments, sure, times_s)
    like = scores > MAYBE_SPOKEN
    if np.count_nonzero(like & (held > _MOST_HELD)) > _MOST_FOOLED * np.count_nonzero(like):
        return ()  # notes of this take sound like speech
    noted = np.where(scores > _CERTAIN, held, noted)  # on one grid by chance
    maybe = like & (noted <= _MOST_HELD) & (covered <= _FULL)
    surely = maybe & (scores > SPOKEN) & (covered <= _MOST_COVERED)
    fine = _scores(figures, _FINE_S, _FINE_STEP_S)
    found: list[Speech] = []
    for a, b in runs_of(maybe):
        if max((d - c for c, d in runs_of(surely[a:b])), default=0) < _FEWEST:
            continue
        talk = Speech(
            start_s=max(0.0, float(times_s[a]) - _EDGE_S),
            end_s=min(len(x) / rate_hz, float(times_s[b - 1]) + _EDGE_S),
        )
        about = replace(talk, start_s=talk.start_s - _BESIDE_S, end_s=talk.end_s + _BESIDE_S)
        if _in_tune([s for s in segments if _is_inside(s, talk)]) or _in_time(
            [s for s in segments if _is_inside(s, about)]
        ):
            continue
        talk = _to_its_edges(talk, *fine)
        if found and talk.start_s - found[-1].end_s < _PAUSE_S:
            found[-1] = replace(found[-1], end_s=talk.end_s)
        else:
            found.append(talk)
    return tuple(found)


def in_talk(segments: Sequence[Segment], talks: Sequence[Speech]) -> tuple[Segment, ...]:
    """The same, those marked whose middle lies where somebody speaks, but for held notes."""
    return tuple(
        replace(s, in_talk=True) if not _is_held(s) and any(_is_inside(s, t) for t in talks) else s
        for s in segments
    )


def sounds_played(segments: Sequence[Segment]) -> bool:
    """Whether notes are held, lie on one grid of semitones or come as evenly as no syllables do."""
    return any(_is_held(s) for s in segments) or _in_tune(segments) or _in_time(segments)


def _to_its_edges(talk: Speech, times_s: Floats, scores: Floats) -> Speech:
    """Grown to where short stretches sound spoken no more."""
    spoken = scores > SPOKEN
    start_s, end_s = talk.start_s, talk.end_s
    for t, yes in zip(times_s[::-1], spoken[::-1], strict=True):
        if talk.start_s - _MOST_GROWN_S <= t < start_s:
            if not yes:
                break
            start_s = float(t)
    for t, yes in zip(times_s, spoken, strict=True):
        if end_s < t <= talk.end_s + _MOST_GROWN_S:
            if not yes:
                break
            end_s = float(t)
    return replace(talk, start_s=max(0.0, start_s), end_s=end_s)


def _is_inside(s: Segment, talk: Speech) -> bool:
    return talk.start_s <= (s.onset_s + s.offset_s) / 2 <= talk.end_s


def _in_tune(segments: Sequence[Segment]) -> bool:
    """Whether pitches lie on one grid of semitones, as no voice's do."""
    if len(segments) < _FEWEST_PITCHES:
        return False
    turns = np.log2([s.f0_hz for s in segments]) * 12.0
    return bool(abs(np.exp(2j * np.pi * turns).mean()) > _ON_GRID)


def _in_time(segments: Sequence[Segment]) -> bool:
    """Whether notes follow each other as evenly as no syllables do."""
    if len(segments) < _FEWEST_BEATS:
        return False
    apart = np.diff([s.onset_s for s in segments])
    even = np.abs(apart / np.median(apart) - 1.0) < _EVEN
    return bool(even.mean() >= _MOST_EVEN)


def _surely_played(segments: Sequence[Segment]) -> list[bool]:
    """Which sounds are notes whatever else: held, or many in a row on one grid."""
    sure = [_is_held(s) for s in segments]
    for i in range(len(segments) - _IN_A_ROW + 1):
        row = segments[i : i + _IN_A_ROW]
        close = all(b.onset_s - a.offset_s < _PAUSE_S for a, b in zip(row, row[1:], strict=False))
        if close and _in_tune(row):
            sure[i : i + _IN_A_ROW] = [True] * _IN_A_ROW
    return sure


def _filled(
    segments: Sequence[Segment], sure: Sequence[bool], times_s: Floats
) -> tuple[Floats, Floats, Floats]:
    """Shares of each stretch about ``times_s`` that held notes, sure notes and all notes fill."""
    shares = np.zeros((3, len(times_s)))
    for s, is_sure in zip(segments, sure, strict=True):
        inside = np.minimum(s.offset_s, times_s + WINDOW_S / 2) - np.maximum(
            s.onset_s, times_s - WINDOW_S / 2
        )
        shares += np.outer((_is_held(s), is_sure, True), np.clip(inside, 0.0, None) / WINDOW_S)
    return shares[0], shares[1], shares[2]


def _is_held(s: Segment) -> bool:
    core_s = s.core_end_s - s.core_start_s
    steady = s.spread_cents < _HELD_SPREAD and abs(s.drift_cents_per_s) < _HELD_DRIFT
    return core_s >= _LONG_S or (core_s >= _HELD_S and steady)


def talk_scores(
    x: Floats, rate_hz: float, *, window_s: float = WINDOW_S, step_s: float = STEP_S
) -> tuple[Floats, Floats]:
    """How much like speech every stretch of a sound is.

    Parameters
    ----------
    x : ndarray, shape (n,)
    rate_hz : float
    window_s, step_s : float
        Length of the stretches, for which the weights were found at 1.2 s, and their distance.

    Returns
    -------
    times_s, scores : ndarray, shape (m,)
        Middles of the stretches, and log odds: below 0 playing, above 0 speech; NaN where nothing
        sounds, or too softly to matter, or where it is noise without a voice.
    """
    return _scores(_figures_of(x, rate_hz), window_s, step_s)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Figures:
    """What a sound is judged by, one row every 20 ms, with a quarter of a second around it."""

    lines: Floats
    voice: Floats
    colour_db: Floats
    level_db: Floats


def _figures_of(x: Floats, rate_hz: float) -> _Figures:
    y = np.pad(_resampled(np.asarray(x, float), rate_hz), _PAD_FRAMES * _HOP)
    y = y / max(float(np.std(y)), 1e-12)  # what is compared with fixed limits below
    n = len(y) // _HOP
    bands, lines, voice = (
        np.concatenate(parts)
        for parts in zip(
            *(_of_block(y, i, min(_BLOCK_FRAMES, n - i)) for i in range(0, n, _BLOCK_FRAMES)),
            strict=True,
        )
    )
    level = 10.0 * np.log10(bands.sum(axis=1))
    least = float(np.percentile(level, _LOUD_PERCENT)) - _RANGE_DB - _BELOW_DB
    colour = np.maximum(10.0 * np.log10(bands), least) - level[:, None]
    return _Figures(lines=lines, voice=voice, colour_db=colour, level_db=level)


def _scores(figures: _Figures, window_s: float, step_s: float) -> tuple[Floats, Floats]:
    level, n = figures.level_db, len(figures.level_db)
    per_window, step = round(window_s / HOP_S), round(step_s / HOP_S)
    loud = float(np.percentile(level, _LOUD_PERCENT))
    noise = float(np.percentile(level, _QUIET_PERCENT))
    floor = max(loud - _RANGE_DB, noise + _ABOVE_NOISE_DB)
    starts = np.arange(0, n - per_window + 1, step)
    scores = np.full(len(starts), np.nan)
    for k, start in enumerate(starts):
        part = slice(start, start + per_window)
        top = float(level[part].max())
        sounding = level[part] > max(floor, top - _WITHIN_DB)
        if sounding.mean() < _LEAST_SOUNDING or top < loud - _WORTH_DB:
            continue
        if float(figures.voice[part][sounding].mean()) < _LEAST_VOICE:
            continue
        moves = _movement(figures.colour_db[part], level[part], sounding)
        scores[k] = (
            _LINES_WEIGHT * np.log(float(figures.lines[part][sounding].mean()) + _SOFTEN)
            + _COLOUR_WEIGHT * np.log(moves + _SOFTEN)
            + _OFFSET
        )
    return (starts + per_window / 2 - _PAD_FRAMES) * HOP_S, scores


def _resampled(x: Floats, rate_hz: float) -> Floats:
    ratio = Fraction(_RATE_HZ, round(rate_hz)).limit_denominator(_MOST_RATIO)
    if ratio == 1:
        return x
    return np.asarray(signal.resample_poly(x, ratio.numerator, ratio.denominator))


def _of_block(x: Floats, i_first: int, n: int) -> tuple[Floats, Floats, Floats]:
    """Bands, lines and voice of ``n`` frames."""
    power = _spectra(x, i_first, n, _COLOUR_WINDOW, _COLOUR_BINS)
    lines, voice = np.zeros(n), np.zeros(n)
    for window in _LINE_WINDOWS:
        fine = _spectra(x, i_first, n, window, _LINE_BINS)
        least = _FAINT * window**2
        lines = np.maximum(lines, _lines(fine, _LINES_HZ, _AROUND_HZ, least))
        voice = np.maximum(voice, _lines(fine, _VOICE_HZ, _AROUND_VOICE_HZ, least))
    return power @ _band_weights() + 1e-9, lines, voice


def _spectra(x: Floats, i_first: int, n: int, window: int, bins: int) -> Floats:
    """Power spectra of ``n`` frames, each about the beginning of its hop."""
    start = i_first * _HOP - window // 2
    part = x[max(0, start) : start + (n - 1) * _HOP + window]
    padded = np.pad(part, (max(0, -start), window))
    taper = np.hanning(window).astype(np.float32)  # single precision: half the time
    frames = sliding_window_view(padded.astype(np.float32), window)[::_HOP][:n] * taper
    return np.asarray(np.abs(fft.rfft(frames, bins, axis=1)) ** 2, dtype=np.float64)


@cache
def _band_weights() -> Floats:
    """From the bins of a spectrum to bands of a quarter octave."""
    hz = np.maximum(fft.rfftfreq(_COLOUR_BINS, 1 / _RATE_HZ), 1.0)
    edges = np.geomspace(*_COLOUR_HZ, _N_BANDS + 1)
    middles = np.sqrt(edges[1:] * edges[:-1])
    wide = np.log(1.13 * edges[1:] / middles)
    return np.clip(1.0 - np.abs(np.log(hz[:, None] / middles)) / wide, 0.0, None)


def _lines(power: Floats, range_hz: tuple[float, float], around_hz: float, least: float) -> Floats:
    """How far lines stand out of each spectrum in a range, in nepers."""
    per_bin = _RATE_HZ / _LINE_BINS
    lo, hi = (round(f / per_bin) for f in range_hz)
    power = power[:, lo:hi]
    logs = np.log(power + least)
    above = logs - uniform_filter1d(logs, round(around_hz / per_bin) | 1, axis=1, mode="constant")
    size = np.sqrt(power)
    heard = (size * np.maximum(above, 0.0)).sum(axis=1) / (size.sum(axis=1) + 1e-12)
    return np.asarray(heard)


def _movement(colour: Floats, level: Floats, sounding: NDArray[np.bool_]) -> float:
    """Change of the bands against the whole within 60 ms, dB; strong bands count most."""
    change = np.abs(colour[_LAG_FRAMES:] - colour[:-_LAG_FRAMES])[sounding[_LAG_FRAMES:]]
    if not len(change):
        return 0.0
    weight = 10 ** ((colour + level[:, None])[sounding].mean(axis=0) / 20)
    return float((change.mean(axis=0) * weight).sum() / weight.sum())
