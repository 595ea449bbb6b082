"""What open strings sound after a note, under the next note as well as in a gap.

A string that a note woke sounds on at *its own* partials. Where the notes that follow have no
partial there, a line stands at that place above everything near it, long after the room is gone.
Each partial of each open string is demodulated through the stretches in which no note covers it;
the line's pitch is that of the string, its level is followed in overlapping windows and a straight
line through them gives level and decay (Karjalainen et al. 2002 fit the same to plucked strings).
Partials of the ended note that no string shares are followed the same way: what is left of those
is the room's and the stopped string's.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import exp, gcd, log, log10

import numpy as np
from scipy import signal

from jigwright.core.music.pitch import cents_to_ratio, hz_to_cents
from jigwright.core.music.sympathy import MOST_PARTIAL, MOST_PRODUCT, SHARED_CENTS
from jigwright.core.sound.heard import Pair, RingLine, Segment
from jigwright.core.sound.lines import BLOCK_S, SEEN_DB, StandingLine, fit_line, turned
from jigwright.core.values import Floats

_COVERS_HZ = 18.0
_OWN_CLEAR_CENTS = 60.0
_MOST_OWN = 2
_LEAST_S, _MOST_S = 0.28, 1.6
_LEAST_NOTE_S = 0.1
_AFTER_S = 0.05  # of the note's end itself
_BEFORE_NEXT_S = 0.03
_STRING_CENTS, _STRING_HZ = 20.0, 9.0  # how far off its peg a string is looked for
_RING_FROM_S, _RING_TO_S = 0.1, 0.4
_NOT_KNOWN_DB = 3.0  # as loud as can be
_SAME_NOTE_CENTS = 60.0
_WAKES_CENTS = 40.0
_SWING_OF_SPREAD, _MOST_SPREAD_CENTS = 1.5, 60.0
CLEAR_DB = 12.0
NOT_ASKED_DB = 0.0
_MOST_STRANGE = 2
_OTHERS = 8
_RATE_HZ = 8_000  # above 3.4 kHz no string is woken that is heard
_STILL = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class _Stretch:
    """A time in which nothing that is played covers a partial: after which note, until when."""

    i_before: int
    from_s: float
    to_s: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Sound:
    """The sound and what was played in it."""

    x: Floats
    rate_hz: int
    segments: Sequence[Segment]
    pairs: Sequence[Pair]
    end_s: float

    def voices_hz(self, i: int) -> tuple[float, ...]:
        """What sounds in a segment: one note, or both of a pair."""
        s = self.segments[i]
        if s.i_pair < 0:
            return (s.f0_hz,)
        return self.pairs[s.i_pair].lower_hz, self.pairs[s.i_pair].upper_hz

    def wakes(self, i: int, f_hz: float) -> bool:
        """Whether a partial of a segment lies so near to a frequency that it would wake it."""
        return any(
            abs(hz_to_cents(max(1, round(f_hz / v)) * v, f_hz)) < _WAKES_CENTS
            for v in self.voices_hz(i)
        )

    def covers(self, i: int, f_hz: float) -> bool:
        """Whether a partial of a segment, its vibrato included, lies on a frequency."""
        swing = _swing(self.segments[i])
        for v in self.voices_hz(i):
            k = max(1, round(f_hz / v))
            if abs(k * v - f_hz) < _COVERS_HZ + swing * f_hz:
                return True
        return False


def measure_lines(
    x: Floats,
    rate_hz: int,
    segments: Sequence[Segment],
    open_hz: Sequence[float],
    *,
    pairs: Sequence[Pair] = (),
) -> tuple[RingLine, ...]:
    """Measure what stands at the open strings' partials after every note that shares them.

    Parameters
    ----------
    x : ndarray, shape (n,)
        Filtered sound at the internal rate.
    rate_hz : int
    segments : sequence of Segment
        In time order.
    open_hz : sequence of float
        Open strings as tuned.
    pairs : sequence of Pair
        Stretches of two notes among the segments.

    Returns
    -------
    tuple of RingLine
        In the order of notes, then strings; ``i_string`` -1 for partials of the note that no
        string shares. A partial that the notes cover too soon is left out. Where a string may
        have rung, ``note_db`` is NaN in two of its partials that the note has not: nothing of the
        note's can stand there, and ``left_db`` is what stood there during it.
    """
    every = max(1, rate_hz // _RATE_HZ)
    if every > 1:
        x, rate_hz = signal.resample_poly(x, 1, every), rate_hz // every
    sound = _Sound(
        x=x, rate_hz=rate_hz, segments=segments, pairs=pairs, end_s=len(x) / rate_hz
    )  # fmt: skip
    found: list[RingLine] = []
    levels: dict[tuple[int, int], float] = {}
    for j, hz in enumerate(open_hz):
        for m in range(1, MOST_PARTIAL + 1):
            if m * hz < 0.42 * rate_hz:
                found += _string_lines(sound, j, m, m * hz, levels)
    clear = {(q.i_segment, q.i_string) for q in found if q.above_db >= CLEAR_DB}
    for i, j in clear:
        found += _strange_lines(sound, i, j, open_hz[j])
    for i in _told_by(len(segments), {i for i, _ in clear}):
        found += _own_lines(sound, i, open_hz, levels)
    return tuple(sorted(found, key=lambda q: (q.i_segment, q.i_string, q.partial)))


def _told_by(n: int, clear: set[int]) -> list[int]:
    """Notes whose own partials say what the room does: those a string may have rung after, more."""
    others = [i for i in range(n) if i not in clear]
    return [*sorted(clear), *others[:: max(1, len(others) // _OTHERS)][:_OTHERS]]


def _string_lines(
    sound: _Sound, j: int, m: int, f_hz: float, levels: dict[tuple[int, int], float]
) -> Iterator[RingLine]:
    """Lines at one partial of one string, one for each note that could wake it there."""
    tolerance = min(_STRING_HZ, f_hz * (cents_to_ratio(_STRING_CENTS) - 1.0))
    stretches = _stretches(sound, f_hz)
    fitted: dict[int, StandingLine | None] = {}

    def fit(n: int) -> StandingLine | None:
        if n not in fitted:
            fitted[n] = _fit(sound, f_hz, stretches[n], tolerance)
        return fitted[n]

    for n, stretch in enumerate(stretches):
        i = stretch.i_before
        k = _waker(sound, i, f_hz, m)
        one = fit(n) if k is not None else None
        if k is None or one is None:
            continue
        note_db = left_db = NOT_ASKED_DB
        if one.above_db >= CLEAR_DB:  # only where a string may have rung
            note_db = _note_level(sound, i, k, levels)
            before = fit(n - 1) if n else None
            earlier = stretches[n - 1] if n and before is not None else None
            left_db = float("nan")
            if before is not None and earlier is not None:
                left_db = _left_over(earlier, before, stretch, sound.segments[i].level_dbfs)
            if _woken_before(sound, i, f_hz, earlier.to_s if earlier is not None else 0.0):
                left_db = _NOT_KNOWN_DB
        yield _ring_line(sound, stretch, one, j, m, f_hz, note_db, left_db)


def _waker(sound: _Sound, i: int, f_hz: float, m: int) -> int | None:
    """The partial of a single note that lies within 30 cents of a string's ``m``-th."""
    if i < 0 or sound.segments[i].i_pair >= 0:
        return None
    s = sound.segments[i]
    k = round(f_hz / s.f0_hz)
    if s.offset_s - s.onset_s < _LEAST_NOTE_S or not 1 <= k <= MOST_PARTIAL:
        return None
    if k * m // gcd(k, m) ** 2 > MOST_PRODUCT:
        return None  # the two meet so high that nothing of it is heard
    return k if abs(hz_to_cents(f_hz, k * s.f0_hz)) <= SHARED_CENTS else None


def _woken_before(sound: _Sound, i: int, f_hz: float, since_s: float) -> bool:
    """Whether another note that has the partial came just before, so that it may have woken it."""
    note = sound.segments[i]
    since_s = max(since_s, note.onset_s - _MOST_S)
    for n in range(i - 1, -1, -1):
        s = sound.segments[n]
        if s.offset_s < since_s:
            return False
        other = abs(hz_to_cents(s.f0_hz, note.f0_hz)) > _SAME_NOTE_CENTS
        if (other or s.i_pair >= 0) and sound.wakes(n, f_hz):
            return True
    return False


def _stretches(sound: _Sound, f_hz: float) -> list[_Stretch]:
    """Where nothing that is played covers a frequency, long enough to be looked at."""
    found = []
    start, before = 0.0, -1
    for i, s in enumerate(sound.segments):
        if not sound.covers(i, f_hz):
            continue
        end = s.onset_s - _BEFORE_NEXT_S
        if end - start >= _LEAST_S:
            found.append(_Stretch(i_before=before, from_s=start, to_s=end))
        start, before = s.offset_s + _AFTER_S, i
    if sound.end_s - start >= _LEAST_S:
        found.append(_Stretch(i_before=before, from_s=start, to_s=sound.end_s))
    return found


def _fit(sound: _Sound, f_hz: float, stretch: _Stretch, tolerance_hz: float) -> StandingLine | None:
    """The strongest line near a frequency: its pitch, level and decay."""
    first = stretch.i_before < 0  # the end of it lies nearest to what comes
    from_s, to_s = stretch.from_s, stretch.to_s
    if to_s - from_s > _MOST_S:
        from_s, to_s = (to_s - _MOST_S, to_s) if first else (from_s, from_s + _MOST_S)
    z = turned(sound.x, sound.rate_hz, f_hz, from_s, to_s)
    line = fit_line(z, tolerance_hz, at_end=first)
    return None if line is None else line.earlier(from_s - stretch.from_s + 0.5 * BLOCK_S)


def _note_level(sound: _Sound, i: int, k: int, levels: dict[tuple[int, int], float]) -> float:
    """Level of a note's partial in the last of its settled part, dB re full scale."""
    if (i, k) not in levels:
        s = sound.segments[i]
        stop = min(s.core_end_s, s.offset_s)
        start = max(s.core_start_s, stop - 0.3)
        if stop - start < 2 * BLOCK_S:
            start, stop = s.onset_s, s.offset_s
        z = turned(sound.x, sound.rate_hz, k * s.f0_hz, start, stop)
        level = 20 * np.log10(np.median(np.abs(z)) + 1e-10) if len(z) else float("nan")
        levels[i, k] = float(level)
    return levels[i, k]


def _left_over(earlier: _Stretch, line: StandingLine, stretch: _Stretch, note_dbfs: float) -> float:
    """What the string still had from earlier when the ring is measured, dB re the note."""
    if line.above_db < SEEN_DB:
        return line.floor_db + SEEN_DB - note_dbfs
    slope = min(line.slope_db_per_s, 0.0) if np.isfinite(line.slope_sd) else 0.0
    middle = stretch.from_s + 0.5 * (_RING_FROM_S + _RING_TO_S) - _AFTER_S
    seen_s = min(earlier.to_s, earlier.from_s + _MOST_S) - earlier.from_s
    return line.at(seen_s) + slope * (middle - earlier.from_s - seen_s) - note_dbfs


def _ring_line(
    sound: _Sound,
    stretch: _Stretch,
    line: StandingLine,
    j: int,
    partial: int,
    f_hz: float,
    note_db: float,
    left_db: float,
) -> RingLine:
    note = sound.segments[stretch.i_before]
    slope = line.slope_db_per_s
    end_s = note.offset_s - stretch.from_s
    level = line.level_db + slope * (end_s + _RING_FROM_S) + _mean_db(slope)
    # a sine of amplitude 1 is as loud as a level of -3 dB re a full-scale square wave
    rms_db = note.level_dbfs + 3.01
    length_s = min(stretch.to_s - stretch.from_s, _MOST_S)
    decay_s = -60.0 / slope if slope < -1.0 and np.isfinite(line.slope_sd) else float("nan")
    return RingLine(
        i_segment=stretch.i_before, i_string=j, partial=partial, f_hz=f_hz,
        level_db=level - rms_db, note_db=note_db - rms_db, decay_s=decay_s,
        slope_db_per_s=slope, slope_sd=line.slope_sd, above_db=line.above_db,
        floor_db=line.floor_db - rms_db,
        offset_cents=hz_to_cents(f_hz + line.offset_hz, f_hz),
        left_db=left_db - 3.01, from_s=stretch.from_s, to_s=stretch.from_s + length_s,
    )  # fmt: skip


def _strange_lines(sound: _Sound, i: int, j: int, string_hz: float) -> Iterator[RingLine]:
    """What stands at partials of a string that the note before has not got, after and during it."""
    s = sound.segments[i]
    n_found = 0
    for m in range(1, MOST_PARTIAL + 1):
        f_hz = m * string_hz
        if n_found == _MOST_STRANGE or f_hz > 0.42 * sound.rate_hz or sound.covers(i, f_hz):
            continue
        to_s = _until_covered(sound, i, f_hz)
        stretch = _Stretch(i_before=i, from_s=s.offset_s + _AFTER_S, to_s=to_s)
        if to_s - stretch.from_s < _LEAST_S:
            continue
        tolerance = min(_STRING_HZ, f_hz * (cents_to_ratio(_STRING_CENTS) - 1.0))
        line = _fit(sound, f_hz, stretch, tolerance)
        during = turned(sound.x, sound.rate_hz, f_hz, max(s.onset_s, s.offset_s - 0.5), s.offset_s)
        stood = fit_line(during, tolerance)
        if line is not None:
            n_found += 1
            left_db = _during_db(stood) - s.level_dbfs
            yield _ring_line(sound, stretch, line, j, m, f_hz, float("nan"), left_db)


def _during_db(line: StandingLine | None) -> float:
    """Level of a line in the middle of what was seen; NaN where too little was."""
    if line is None:
        return float("nan")
    return line.middle_db


def _mean_db(slope_db_per_s: float) -> float:
    """Mean power over the time a level stands for, re its beginning, of what falls so fast."""
    x = slope_db_per_s * (_RING_TO_S - _RING_FROM_S) * log(10.0) / 10.0
    return 10 * log10((exp(x) - 1.0) / x) if abs(x) > _STILL else 0.0


def _own_lines(
    sound: _Sound, i: int, open_hz: Sequence[float], levels: dict[tuple[int, int], float]
) -> Iterator[RingLine]:
    """What is left of a few of the note's partials that no open string has."""
    s = sound.segments[i]
    if s.i_pair >= 0 or s.offset_s - s.onset_s < _LEAST_NOTE_S:
        return
    n_found = 0
    for k in range(1, MOST_PARTIAL + 1):
        f_hz = k * s.f0_hz
        if n_found == _MOST_OWN or f_hz > 0.42 * sound.rate_hz or _of_a_string(f_hz, open_hz):
            continue
        to_s = _until_covered(sound, i, f_hz)
        stretch = _Stretch(i_before=i, from_s=s.offset_s + _AFTER_S, to_s=to_s)
        if stretch.to_s - stretch.from_s < _LEAST_S:
            continue
        swing = _swing(s)
        line = _fit(sound, f_hz, stretch, min(_STRING_HZ, 2.0 + swing * f_hz))
        if line is not None:
            n_found += 1
            note_db = _note_level(sound, i, k, levels)
            yield _ring_line(sound, stretch, line, -1, k, f_hz, note_db, float("nan"))


def _swing(s: Segment) -> float:
    """How far a vibrato carries the note's partials, as a share of their frequency."""
    return cents_to_ratio(_SWING_OF_SPREAD * min(s.spread_cents, _MOST_SPREAD_CENTS)) - 1.0


def _of_a_string(f_hz: float, open_hz: Sequence[float]) -> bool:
    for hz in open_hz:
        m = max(1, round(f_hz / hz))
        off = abs(hz_to_cents(f_hz, m * hz))
        if m <= 2 * MOST_PARTIAL and (off < _OWN_CLEAR_CENTS or abs(f_hz - m * hz) < _STRING_HZ):
            return True
    return False


def _until_covered(sound: _Sound, i: int, f_hz: float) -> float:
    for n in range(i + 1, len(sound.segments)):
        if sound.covers(n, f_hz):
            return sound.segments[n].onset_s - _BEFORE_NEXT_S
        if sound.segments[n].onset_s > sound.segments[i].offset_s + _MOST_S:
            break
    return sound.end_s
