"""Cut pieces where a note begins under the sound of the one before.

The level hardly falls there, and the period of the mixture glides from one note to the other, so
neither dips nor steps of the contour show it. What is new does (:mod:`novelty`), and of which pitch
it is (:mod:`rise`). A border is made where another pitch begins and takes the lead; within one
pitch only where much is new at once and the string did not go through it in step
(:mod:`polarity`). A second player, whose notes never lead, makes none.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jigwright.core.sound.continuity import fall_together_db
from jigwright.core.sound.heard import HOP_S, Contours
from jigwright.core.sound.novelty import novelty_window_s
from jigwright.core.sound.polarity import goes_on
from jigwright.core.sound.recurring import swing_frames
from jigwright.core.sound.rise import Rise, rise_at
from jigwright.core.sound.segments import Piece
from jigwright.core.values import Floats, median

_LEAST_NEW = 0.02
_PEAK_FRAMES, _APART_FRAMES = 5, 7
_NEAR_FRAMES = 8  # of a border that is there already
_SHORTEST_FRAMES = 9
_OTHER_CENTS = 60.0
_LONGEST_FRAMES = 60
_TOUCHING_FRAMES, _PLACED_FRAMES = 6, 4
_PLACED = 0.6  # windows: so far off a contour or a level is not trusted
_LATE_FRAMES, _EARLY_FRAMES = 30, 8  # a contour goes over late, and seldom early
_PLACING_NEW = 0.03
_MIXED_FRAMES = 70  # longer pieces outlast what rang before them
_OVER_FRAMES = 12  # less than the shortest note
_REPITCH_NEW, _REPITCH, _REPITCH_MARGIN = 0.05, 7.0, 1.8
_RESTLESS_CENTS = 30.0
_STEP_CENTS = 40.0  # the contour itself goes to the pitch that begins
_ATTACK_FRAMES, _ATTACK_SHARE = 24, 0.6
_WINDOW_SHARE = 1.3
_LEADS_DB = -6.0
_SURE_FRAMES, _SURE_CLARITY = 50, 0.93  # a quarter of a second of one clear period


@dataclass(frozen=True, slots=True, kw_only=True)
class BeginningParams:
    """What makes a border, and what only may be one.

    Chosen on 28 passages by three generators. By novelty and salience alone, in one pitch, dry
    passages show 15 true borders and 6 false ones beyond 0.07 and 8; that the partials fall, and
    that an attack is no repetition, was asked for afterwards. What lies between the sure and the
    weak limits is decided by what was to be played, where that is known.

    Parameters
    ----------
    new_same, new_other : float
        Novelty in decades, for the pitch that was there and for another.
    new_alone, least_fall_db : float
        Within one pitch the partials must fall together, unless so much is new.
    clear_same, clear_other : float
        Salience of the pitch that begins.
    margin : float
        By so much another pitch must begin more clearly than the one that was there.
    weak_new, weak_clear : float
        What may be a border.
    """

    new_same: float = 0.07
    clear_same: float = 9.0
    new_alone: float = 0.2
    least_fall_db: float = 3.0
    new_other: float = 0.04
    clear_other: float = 6.0
    margin: float = 1.25
    weak_new: float = 0.02
    weak_clear: float = 4.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Scene:
    """What beginnings are looked for in.

    Parameters
    ----------
    x : ndarray
        Filtered sound.
    rate_hz, hop_samples : int
    contours : Contours
    new : ndarray
        Novelty of each frame.
    lowest_hz, highest_hz : float
        Range of pitches.
    struck_s : tuple of (float, float)
        From when until when something sounds that is not played: a foot, a chair, a tick.
    """

    x: Floats
    rate_hz: int
    hop_samples: int
    contours: Contours
    new: Floats
    lowest_hz: float
    highest_hz: float
    struck_s: tuple[tuple[float, float], ...] = ()


def peaks_of(new: Floats, least: float = _LEAST_NEW) -> list[int]:
    """Frames at which something begins, the stronger of two that lie close together.

    Parameters
    ----------
    new : ndarray
    least : float
        Above the median of the two tenths of a second around.
    """
    if len(new) < 3:
        return []
    reach = np.pad(new, _PEAK_FRAMES, constant_values=-1.0)
    highest = np.lib.stride_tricks.sliding_window_view(reach, 2 * _PEAK_FRAMES + 1).max(axis=1)
    found: list[int] = []
    for i in np.flatnonzero((new > least) & (new >= highest)):
        usual = float(np.median(new[max(0, i - 20) : i + 20]))
        if new[i] < least + usual:
            continue
        if not found or i - found[-1] >= _APART_FRAMES:
            found.append(int(i))
        elif new[i] > new[found[-1]]:
            found[-1] = int(i)
    return found


def with_beginnings(
    pieces: Sequence[Piece],
    scene: Scene,
    waves: Sequence[int] = (),
    params: BeginningParams | None = None,
) -> tuple[list[Piece], list[Piece]]:
    """Cut pieces where something surely begins, and say where something may.

    Parameters
    ----------
    pieces : sequence of Piece
        In time order.
    scene : Scene
    waves : sequence of int
        Frames at which a border was taken for a wave of level; it may be one yet.
    params : BeginningParams, optional

    Returns
    -------
    sure : list of Piece
        All of the sound, cut.
    doubtful : list of Piece
        Later parts of them, each from where it may begin to the end of the piece it lies in.
    """
    p = params or BeginningParams()
    peaks = peaks_of(scene.new)
    moments = sorted({*peaks, *(q.start for q in pieces)})
    sure: list[Piece] = []
    doubtful: list[Piece] = []
    for piece in _placed(pieces, peaks, scene):
        parts, maybe = _cut(piece, peaks, moments, scene, p)
        sure.extend(parts)
        doubtful.extend(maybe)
    doubtful.extend(_between(sure, peaks, moments, scene, p))
    for t in waves:
        inside = next((q for q in sure if q.start + _NEAR_FRAMES < t < q.stop - _NEAR_FRAMES), None)
        if inside is not None and all(abs(t - d.start) > _NEAR_FRAMES for d in doubtful):
            doubtful.append(replace(inside, start=t, broken_before=True, dip_db=0.0))
    return sure, sorted(doubtful, key=lambda q: q.start)


def _placed(pieces: Sequence[Piece], peaks: Sequence[int], scene: Scene) -> list[Piece]:
    """Let pieces begin where their pitch is new, not where it has come to lead.

    In a room the contour goes over to a note, and its level rises above what rings on, a tenth of a
    second late and more.
    """
    far = round(_PLACED * novelty_window_s(scene.lowest_hz) / HOP_S)
    result: list[Piece] = []
    for piece in pieces:
        before = result[-1] if result else None
        touches = before is not None and piece.start - before.stop <= _TOUCHING_FRAMES
        if before is not None and touches and _goes_over_to(before, piece):
            result[-1] = replace(
                piece, start=before.start, begins=before.begins, new=before.new,
                broken_before=before.broken_before, dip_db=before.dip_db, clear=piece.start,
            )  # fmt: skip
            continue
        at, cents = _own_peak(piece, before, peaks, scene)
        if at is None:
            silent = not any(abs(t - piece.start) <= _LATE_FRAMES // 2 for t in peaks)
            if before is not None and touches and silent and before.mixed and _same(before, piece):
                result[-1] = replace(before, stop=piece.stop)
                continue
            result.append(piece)
            continue
        moved = replace(piece, begins=at, new=float(scene.new[at]))
        if cents is not None:
            moved = replace(moved, cents=cents, mixed=True, broken_before=False, dip_db=0.0)
        if before is not None and touches and piece.start - at > far:
            result[-1] = replace(before, stop=at)
            moved = replace(moved, start=at, clear=max(at, piece.start))
        result.append(moved)
    return result


def _goes_over_to(before: Piece, piece: Piece) -> bool:
    """Whether a moment in which a note began under another is the beginning of what follows."""
    return before.mixed and before.stop - before.start < _OVER_FRAMES and _same(before, piece)


def _same(a: Piece, b: Piece) -> bool:
    return abs(a.cents - b.cents) < _OTHER_CENTS


def _own_peak(
    piece: Piece, before: Piece | None, peaks: Sequence[int], scene: Scene
) -> tuple[int | None, float | None]:
    """The clearest peak about a piece's start at which its pitch begins.

    Where a short piece is the common subharmonic of two notes, what begins says which pitch it
    is; that is returned beside the frame.
    """
    first = piece.start - _LATE_FRAMES
    if before is not None:
        first = max(first, before.start + _SHORTEST_FRAMES)
    last = min(piece.start + _EARLY_FRAMES, piece.stop - _SHORTEST_FRAMES)
    near = [t for t in peaks if first <= t <= last and scene.new[t] >= _PLACING_NEW]
    short = piece.stop - piece.start < _MIXED_FRAMES
    for t in sorted(near, key=lambda t: -scene.new[t]):
        if abs(t - piece.start) <= _PLACED_FRAMES and not short:
            return t, None
        rise = risen(scene, t, piece.stop)
        if rise is None:
            continue
        own = rise.near(piece.cents, _OTHER_CENTS)
        if own > 0.9 * rise.best:
            return t, None
        clear = scene.new[t] > _REPITCH_NEW and rise.best > max(_REPITCH, _REPITCH_MARGIN * own)
        if short and clear and _is_common(piece, rise.best_cents, scene):
            return t, rise.best_cents
    return None, None


def _is_common(piece: Piece, cents: float, scene: Scene) -> bool:
    """Whether a piece's pitch may be that of a mixture: a subharmonic, or one that never rests."""
    ratio = 2.0 ** ((cents - piece.cents) / 1200.0)
    if round(ratio) >= 2 and abs(1200.0 * np.log2(ratio / round(ratio))) < _STEP_CENTS:
        return True
    f_hz = scene.contours.f0_hz[piece.start : piece.stop]
    good = f_hz[np.isfinite(f_hz)]
    if len(good) < 0.7 * len(f_hz):
        return True
    return bool(np.std(1200.0 * np.log2(good)) > _RESTLESS_CENTS)


def _cut(
    piece: Piece, peaks: Sequence[int], moments: Sequence[int], scene: Scene, p: BeginningParams
) -> tuple[list[Piece], list[Piece]]:
    parts: list[Piece] = []
    doubts: list[Piece] = []
    now = piece
    for t in peaks:
        if not now.start + _SHORTEST_FRAMES <= t <= piece.stop - _SHORTEST_FRAMES:
            continue
        next_t = min([m for m in moments if m > t + _SHORTEST_FRAMES] + [piece.stop])
        found = _begun(now, piece, t, next_t, scene, p)
        if found is None:
            continue
        begun, is_sure, was_cents = found
        if is_sure:
            parts.append(replace(now, stop=t, cents=was_cents))
            now = begun
        else:
            doubts.append(begun)
    parts.append(now)
    ends = [q.stop for q in parts]
    return parts, [replace(d, stop=min(e for e in ends if e > d.start)) for d in doubts]


def _between(
    pieces: Sequence[Piece],
    peaks: Sequence[int],
    moments: Sequence[int],
    scene: Scene,
    p: BeginningParams,
) -> list[Piece]:
    """What may begin where no piece is, because no one period was heard."""
    found: list[Piece] = []
    for t in peaks:
        if any(q.start - _NEAR_FRAMES <= t < q.stop for q in pieces):
            continue
        stop = min([m for m in moments if m > t + _SHORTEST_FRAMES] + [t + _LONGEST_FRAMES])
        stop = min(stop, len(scene.new))
        rise = risen(scene, t, stop)
        if stop - t < _SHORTEST_FRAMES or rise is None or rise.best < p.clear_other:
            continue
        found.append(
            Piece(start=t, stop=stop, cents=rise.best_cents, broken_before=True, mixed=True)
        )
    return found


def _begun(
    now: Piece, piece: Piece, t: int, next_t: int, scene: Scene, p: BeginningParams
) -> tuple[Piece, bool, float] | None:
    """The piece that begins at a frame, whether it surely does, and the pitch before it."""
    was = _settled(scene.contours.f0_hz[now.start : t - 2]) if not now.mixed else now.cents
    rise = risen(scene, t, next_t)
    if rise is None or was is None:
        return None
    heard = _settled(scene.contours.f0_hz[t + 3 : next_t])
    steps = heard is not None and abs(heard - rise.best_cents) < _STEP_CENTS
    margin = 1.0 if steps else p.margin
    other = abs(rise.best_cents - was) > _OTHER_CENTS and rise.best > margin * rise.near(was)
    salience = rise.best if other else rise.near(was)
    new = float(scene.new[t])
    if new < p.weak_new or salience < p.weak_clear:
        return None
    if other and not _leads(scene, t, next_t, rise.best_cents, was):
        return None
    cents = rise.best_cents if other else was
    if other and heard is not None and _is_partial(cents, heard, scene, t, next_t):
        cents, steps = heard, True
    mixed = other and (heard is None or abs(heard - cents) > _OTHER_CENTS)
    begun = replace(
        piece, start=t, cents=cents if mixed or heard is None or not other else heard,
        broken_before=not other, dip_db=0.0, mixed=mixed, begins=t, new=new,
    )  # fmt: skip
    if other:
        sure = (new > p.new_other and salience > p.clear_other) or steps
        sure = sure and not _swings_on(piece, t, scene)
    else:
        sure = new > p.new_same and salience > p.clear_same
        sure = sure and not _is_attack(now, t, new, scene)
        if sure and _goes_on(now, t, piece.stop, scene):
            if new <= p.new_alone:
                return None
            sure = False  # one new start of seven is in step: who knows what was written may say
        sure = sure and _falls(scene, t, new, p)
    return begun, sure, was


def _swings_on(piece: Piece, t: int, scene: Scene) -> bool:
    """Whether one wide vibrato goes through a moment: what seems new there is its swing."""
    before, after = t - piece.start, piece.stop - t
    if min(before, after) < _SURE_FRAMES // 2:
        return False
    f0_hz = scene.contours.f0_hz[piece.start : piece.stop]
    return swing_frames(f0_hz, before) is not None


def _is_partial(cents: float, heard: float, scene: Scene, t: int, next_t: int) -> bool:
    """Whether what rose most is a partial of the pitch that is then clearly heard."""
    if next_t - t < _SURE_FRAMES:
        return False
    ratio = 2.0 ** ((cents - heard) / 1200.0)
    if round(ratio) < 2 or abs(1200.0 * np.log2(ratio / round(ratio))) > _STEP_CENTS:
        return False
    later = slice(t + (next_t - t) // 3, next_t)
    near = np.abs(1200.0 * np.log2(scene.contours.f0_hz[later]) - heard) < _OTHER_CENTS
    return bool(np.mean(near) > 0.9) and median(scene.contours.clarity[later]) > _SURE_CLARITY


def _falls(scene: Scene, t: int, new: float, p: BeginningParams) -> bool:
    """Whether what sounded before lets go, or so much is new that it must have."""
    if new > p.new_alone:
        return True
    fall_db = fall_together_db(
        scene.x, scene.rate_hz, scene.hop_samples, scene.contours.f0_hz, t - 2
    )
    return fall_db > p.least_fall_db


def _goes_on(now: Piece, t: int, stop: int, scene: Scene) -> bool:
    """Whether the string went through it in step: a vibrato in a body's resonances, a click."""
    return goes_on(
        scene.x, scene.rate_hz, scene.contours.f0_hz, t * HOP_S, now.start * HOP_S, stop * HOP_S
    )


def _is_attack(now: Piece, t: int, new: float, scene: Scene) -> bool:
    """Whether what is new belongs to the beginning just before: a string that takes two goes."""
    since = now.start if now.begins is None else now.begins
    if t - since > _ATTACK_FRAMES:
        return False
    before = scene.new[max(0, since - _NEAR_FRAMES) : min(t - 4, since + _NEAR_FRAMES)]
    return new < _ATTACK_SHARE * float(before.max(initial=0.0))


def _settled(f0_hz: Floats) -> float | None:
    """Median pitch in cents of the later part of a stretch; ``None`` without enough of it."""
    good = f0_hz[np.isfinite(f0_hz)]
    if len(good) < 4:
        return None
    return median(1200.0 * np.log2(good[len(good) // 3 :]))


def risen(scene: Scene, t: int, next_t: int) -> Rise | None:
    """What begins at a frame, until the next thing does; see :func:`rise.rise_at`."""
    return rise_at(
        scene.x, scene.rate_hz, (t - 1) * scene.hop_samples, (next_t - 1) * scene.hop_samples,
        lowest_hz=scene.lowest_hz, highest_hz=scene.highest_hz,
        window_s=_WINDOW_SHARE * novelty_window_s(scene.lowest_hz),
    )  # fmt: skip


def _leads(scene: Scene, t: int, next_t: int, new_cents: float, old_cents: float) -> bool:
    """Whether the new pitch's own partials are about as strong as the old one's."""
    part = scene.x[(t + 1) * scene.hop_samples : min(next_t, t + 24) * scene.hop_samples]
    if len(part) < 64:
        return False
    size = 1 << int(np.ceil(np.log2(0.25 * scene.rate_hz)))
    power = np.abs(np.fft.rfft(part * np.hanning(len(part) + 2)[1:-1], size)) ** 2
    per_bin, highest = scene.rate_hz / size, 0.42 * scene.rate_hz
    own, other = 2.0 ** (new_cents / 1200.0), 2.0 ** (old_cents / 1200.0)

    def energy(f_hz: float, apart_hz: float) -> float:
        total = 0.0
        for h in range(1, 9):
            at_hz = h * f_hz
            away_hz = abs(at_hz / apart_hz - round(at_hz / apart_hz)) * apart_hz
            if at_hz < highest and away_hz > 0.03 * at_hz:
                k = round(at_hz / per_bin)
                total += float(power[max(0, k - 1) : k + 2].max())
        return total

    ratio = (energy(own, other) + 1e-20) / (energy(other, own) + 1e-20)
    return bool(10.0 * np.log10(ratio) > _LEADS_DB)
