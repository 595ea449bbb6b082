"""How likely it is that one pitch begins again at a moment.

A bow change, a new stroke, a repeated note show in many ways, each of them weak in a room:
something is new, the partials fall together, the string is out of step with what it was, the period
is less clear for a moment. Limits one after the other throw away what they say together, so they
are added up: a logistic regression (Cox 1958) over what :mod:`novelty`, :mod:`continuity`,
:mod:`polarity` and :mod:`rise` measure.

Fitted on 13,600 moments inside one pitch (1,300 of them beginnings) of 247 passages by a sampler
with four sets of recorded samples (``bench/sampled.py``) and by our own player, dry, in rooms and
through microphones. Fitted on half of them, the area under the curve on the other half is 0.92
(sampler) and 0.94 (our player); on 28 passages of other generators that had no part in it 0.85. The
clearest single measure has 0.77, 0.89 and 0.76. docs/method.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp, isfinite, log

import numpy as np

from jigwright.core.music.pitch import hz_to_cents
from jigwright.core.sound.beginnings import Scene, peaks_of, risen
from jigwright.core.sound.continuity import fall_together_db
from jigwright.core.sound.heard import HOP_S, Segment
from jigwright.core.sound.polarity import compare_at
from jigwright.core.sound.recurring import SwingParams, beyond_usual, swing_frames
from jigwright.core.sound.segments import Piece

_APART_S, _CLOSE_S = (0.05, 0.1), (0.02, 0.03)
_IN_STEP = 0.1  # periods
_IN_STEP_UNREAD, _FITS_UNREAD = 0.35, 0.85  # where the phases cannot be read
_LEAST_NEW = 0.006
_SHORTEST_FRAMES = 9
_TOUCHING_FRAMES = 6
_SAME_CENTS = 60.0
_NEAR_FRAMES, _CLEAR_FRAMES, _FEWEST_FRAMES = 3, 8, 4
_LEAST_CLARITY = 0.3
_APART_FRAMES = 16
_STRUCK_S = 0.07
_LOOKS_FRAMES = 56  # so much follows before a moment is weighed; less than a live note waits


@dataclass(frozen=True, slots=True, kw_only=True)
class OddsParams:
    """What each measure adds to the logarithm of the odds.

    Parameters
    ----------
    constant : float
    new : float
        For the natural logarithm of the novelty.
    stays : float
        Of the salience with which the old pitch stands out of what rose.
    leads : float
        Share of that salience in the clearest pitch that rose.
    falls : float
        Of the fall of nearly all partials, dB.
    in_step : float
        How far the string goes through it in step and the same way round, 0 … 1.
    fits : float
        How well one side explains the other at all, 0 … 1.
    read : float
        Whether the phases could be read.
    restless : float
        Of the spread of the pitch about it, cents.
    clear : float
        Least clarity about it.
    struck : float
        For a doubt within 70 ms of a blow that is not played: it too is new and stirs the phases.
    likely, unlikely : float
        From here a moment that might be none is a beginning, and below here one that was taken
        for one is only a doubt. On the halves left out 198 of 509 true and 23 of 5,200 false ones
        in doubt stand above; of sure ones 1 of 181 true and 77 of 130 false lie below -3, 4 and 96
        below -2.
    """

    constant: float = 7.43
    new: float = 1.895
    stays: float = -2.975
    leads: float = 4.967
    falls: float = 0.603
    in_step: float = -2.985
    fits: float = 6.015
    read: float = 3.269
    restless: float = -0.603
    clear: float = -8.379
    struck: float = -6.0
    likely: float = 1.0
    unlikely: float = -2.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Signs:
    """What speaks for and against a beginning inside one pitch.

    Parameters
    ----------
    new : float
        Novelty within 15 ms, decades.
    stays : float
        Salience with which the old pitch stands out of what rose, 0 and more.
    leads : float
        Share of that in the clearest pitch that rose.
    fall_db : float
        Of nearly all partials at once.
    in_step, fits : float or None
        How far the string goes through it in step and the same way round, and how well one side
        explains the other at all, 0 … 1; ``None`` where the phases cannot be read.
    spread_cents : float
        Standard deviation of the pitch of the whole stretch.
    clarity : float
        Least within 40 ms.
    """

    new: float
    stays: float
    leads: float
    fall_db: float
    in_step: float | None
    fits: float | None
    spread_cents: float
    clarity: float


def log_odds(signs: Signs, params: OddsParams | None = None) -> float:
    """Natural logarithm of the odds that the pitch begins again."""
    p = params or OddsParams()
    return (
        p.constant
        + p.new * log(signs.new + 1e-3)
        + p.stays * log(signs.stays + 1.0)
        + p.leads * signs.leads
        + p.falls * log(max(0.0, signs.fall_db) + 1.0)
        + p.in_step * (_IN_STEP_UNREAD if signs.in_step is None else signs.in_step)
        + p.fits * (_FITS_UNREAD if signs.fits is None else signs.fits)
        + p.read * (signs.in_step is not None)
        + p.restless * log(signs.spread_cents + 3.0)
        + p.clear * max(_LEAST_CLARITY, signs.clarity)
    )


def signs_at(scene: Scene, at: int, from_: int, to: int, next_: int) -> Signs | None:
    """Measure a moment inside a stretch of one pitch.

    Parameters
    ----------
    scene : Scene
    at : int
        Frame of the moment.
    from_, to : int
        First frame of the stretch, and the one after its last.
    next_ : int
        Frame at which the next thing begins, at most ``to``.

    Returns
    -------
    Signs or None
        ``None`` where too little sounds before or after.
    """
    f0_hz = scene.contours.f0_hz
    before = f0_hz[from_ : at - 2]
    before = before[np.isfinite(before)]
    rise = risen(scene, at, next_)
    if rise is None or len(before) < _FEWEST_FRAMES:
        return None
    was = 1200.0 * float(np.median(np.log2(before[len(before) // 3 :])))
    cents = 1200.0 * np.log2(f0_hz[from_:to])
    cents = cents[np.isfinite(cents)]
    about = scene.contours.clarity[max(0, at - _CLEAR_FRAMES) : at + _CLEAR_FRAMES]
    in_step, fits = _phases(scene, at, from_, to)
    own = rise.near(was)
    return Signs(
        new=float(scene.new[max(0, at - _NEAR_FRAMES) : at + _NEAR_FRAMES + 1].max()),
        stays=max(0.0, own),
        leads=own / max(1.0, rise.best),
        fall_db=fall_together_db(scene.x, scene.rate_hz, scene.hop_samples, f0_hz, at - 2),
        in_step=in_step,
        fits=fits,
        spread_cents=float(np.std(cents)),
        clarity=float(np.nanmin(about)),
    )


def _phases(scene: Scene, at: int, from_: int, to: int) -> tuple[float | None, float | None]:
    """How far the string is in step across a moment, and how well the sides compare at all."""
    steps, fits = [], []
    for apart_s in (_APART_S, _CLOSE_S):
        seen = compare_at(
            scene.x, scene.rate_hz, scene.contours.f0_hz, at * HOP_S, from_ * HOP_S, to * HOP_S,
            apart_s=apart_s,
        )  # fmt: skip
        if isfinite(seen.lean):
            alike = seen.fits - max(0.0, seen.lean)
            steps.append(alike * exp(-((seen.shift / _IN_STEP) ** 2)))
            fits.append(seen.fits)
    return (max(steps), max(fits)) if steps else (None, None)


def by_odds(
    sure: Sequence[Piece],
    doubtful: Sequence[Piece],
    scene: Scene,
    params: OddsParams | None = None,
    *,
    known: dict[int, float] | None = None,
    i_first: int = 0,
) -> tuple[list[Piece], list[Piece]]:
    """Let unlikely borders inside one pitch go, and make likely ones of those in doubt.

    Parameters
    ----------
    sure : sequence of Piece
        All of the sound, cut.
    doubtful : sequence of Piece
        What may begin inside them.
    scene : Scene
    params : OddsParams, optional
    known : dict of int to float, optional
        In a sound that grows: odds that were found before, by frame of the whole; new ones are
        added. What lies too near the end is left for later.
    i_first : int
        Frame of the whole that the scene begins with.

    Returns
    -------
    sure, doubtful : list of Piece
        What was let go may still begin there.
    """
    p = params or OddsParams()
    odds = _Odds(scene, [q.start for q in sure], p, known, i_first, _stretches(sure))
    kept, let_go = _without_unlikely(sure, odds, p.unlikely)
    doubts = [*doubtful, *let_go]
    parted: list[Piece] = []
    for piece in kept:
        for i, d in enumerate(doubts):
            if _may_part(piece, d):
                seen = odds.of_doubt(d.start, piece.start, piece.stop)
                doubts[i] = d if seen is None else replace(d, odds=seen)
        inside = [(d.odds, d) for d in doubts if d.odds is not None and _may_part(piece, d)]
        chosen: list[Piece] = []
        for _, d in sorted(((o, d) for o, d in inside if o > p.likely), key=lambda pair: -pair[0]):
            if all(abs(d.start - other.start) >= _APART_FRAMES for other in chosen):
                chosen.append(d)
        parted += _cut_at(piece, sorted(chosen, key=lambda d: d.start), scene)
    starts = {q.start for q in parted}
    left = [d for d in doubts if all(abs(d.start - s) > _NEAR_FRAMES for s in starts)]
    return parted, sorted(left, key=lambda q: q.start)


class _Odds:
    """Odds of moments of a scene, each weighed once where the sound grows."""

    def __init__(
        self, scene: Scene, starts: Sequence[int], params: OddsParams,
        known: dict[int, float] | None = None, i_first: int = 0,
        stretches: Sequence[tuple[int, int]] = (),
    ) -> None:  # fmt: skip
        self._scene, self._params, self._stretches = scene, params, stretches
        self._moments = sorted({*peaks_of(scene.new, _LEAST_NEW), *starts})
        self._known, self._i_first = known, i_first
        self._weighed: dict[tuple[int, int, int], float | None] = {}

    def at(self, at: int, from_: int, to: int) -> float | None:
        """Of a frame in a stretch; ``None`` where it cannot be weighed, or not yet."""
        if self._known is None:
            return self._fresh(at, from_, to)
        for frame in (at, at - 1, at + 1):  # a moment moves a little as more is heard
            if self._i_first + frame in self._known:
                return self._known[self._i_first + frame]
        if at + _LOOKS_FRAMES >= len(self._scene.new):
            return None
        found = self._fresh(at, from_, to)
        if found is not None:
            self._known[self._i_first + at] = found
        return found

    def of_doubt(self, at: int, from_: int, to: int) -> float | None:
        """The same, and less where a blow may be all that was."""
        seen = self.at(at, from_, to)
        t = at * HOP_S
        struck = any(a - _STRUCK_S < t < b + _STRUCK_S for a, b in self._scene.struck_s)
        return seen + self._params.struck if seen is not None and struck else seen

    def _fresh(self, at: int, from_: int, to: int) -> float | None:
        own = self._alone(at, from_, to)
        swing = SwingParams()
        if own is None or own < self._params.unlikely:
            return own
        first, last = next(((a, b) for a, b in self._stretches if a <= at < b), (from_, to))
        frames = swing_frames(self._scene.contours.f0_hz[first:last], at - first, swing)
        if frames is None:
            return own
        return beyond_usual(
            own, at, self._moments, frames, (first + _SHORTEST_FRAMES, last - _SHORTEST_FRAMES),
            lambda other: self._alone(other, first, last), swing,
        )  # fmt: skip

    def _alone(self, at: int, from_: int, to: int) -> float | None:
        """Of a frame, whatever recurs there."""
        key = (at, from_, to)
        if key not in self._weighed:
            next_ = min([m for m in self._moments if m > at + _SHORTEST_FRAMES] + [to])
            signs = signs_at(self._scene, at, from_, to, next_)
            self._weighed[key] = None if signs is None else log_odds(signs, self._params)
        return self._weighed[key]


def _without_unlikely(
    sure: Sequence[Piece], odds: _Odds, unlikely: float
) -> tuple[list[Piece], list[Piece]]:
    """Pieces with unlikely borders inside one pitch gone, and what began at those."""
    kept: list[Piece] = []
    let_go: list[Piece] = []
    for piece in sure:
        before = kept[-1] if kept else None
        if before is None or not _goes_over(before, piece):
            kept.append(piece)
            continue
        seen = odds.at(piece.start, before.start, piece.stop)
        known = replace(piece, odds=seen)
        if seen is not None and seen < unlikely:
            kept[-1] = replace(before, stop=piece.stop)
            let_go.append(replace(known, broken_before=True))
        else:
            kept.append(known)
    return kept, let_go


def weighed(
    doubtful: Sequence[Segment], segments: Sequence[Segment], scene: Scene
) -> tuple[Segment, ...]:
    """Give doubtful notes that would begin inside a note of their own pitch their odds.

    Parameters
    ----------
    doubtful : sequence of Segment
        Those whose odds are known keep them.
    segments : sequence of Segment
        The sure ones.
    scene : Scene
    """
    odds = _Odds(scene, [round(s.onset_s / HOP_S) for s in segments], OddsParams())
    result: list[Segment] = []
    for d in doubtful:
        around = next((s for s in segments if s.onset_s < d.onset_s < s.offset_s), None)
        if d.odds is not None or d.i_pair >= 0 or around is None or not _one_pitch(around, d):
            result.append(d)
            continue
        at, to = round(d.onset_s / HOP_S), round(around.offset_s / HOP_S)
        seen = odds.of_doubt(at, round(around.onset_s / HOP_S), to)
        result.append(d if seen is None else replace(d, odds=seen))
    return tuple(result)


def _one_pitch(a: Segment, b: Segment) -> bool:
    return a.i_pair < 0 and abs(hz_to_cents(b.f0_hz, a.f0_hz)) < _SAME_CENTS


def _stretches(pieces: Sequence[Piece]) -> list[tuple[int, int]]:
    """First frame and the one after the last of what is one pitch all through, however cut."""
    found: list[tuple[int, int]] = []
    before: Piece | None = None
    for piece in pieces:
        if before is not None and _goes_over(before, piece):
            found[-1] = (found[-1][0], piece.stop)
        else:
            found.append((piece.start, piece.stop))
        before = piece
    return found


def _goes_over(before: Piece, piece: Piece) -> bool:
    """Whether the sound goes over from one to the other within one pitch."""
    touches = piece.start - before.stop <= _TOUCHING_FRAMES
    one = abs(piece.cents - before.cents) < _SAME_CENTS
    return touches and one and not piece.mixed and not before.mixed


def _may_part(piece: Piece, d: Piece) -> bool:
    inside = piece.start + _SHORTEST_FRAMES <= d.start <= piece.stop - _SHORTEST_FRAMES
    return inside and d.broken_before and not d.mixed and abs(d.cents - piece.cents) < _SAME_CENTS


def _cut_at(piece: Piece, at: Sequence[Piece], scene: Scene) -> list[Piece]:
    parts, now = [], piece
    for d in at:
        t = d.start
        parts.append(replace(now, stop=t))
        now = replace(
            now, start=t, broken_before=True, dip_db=0.0, begins=t, new=float(scene.new[t]),
            clear=None, odds=d.odds,
        )  # fmt: skip
    return [*parts, now]
