"""Ring: which open strings a note could wake, which it did, how loud and how long.

A string rang when a line stands at its own partial after the note, far above what is near it, that
falls as a string falls and lies well above what the room and the stopped string leave of the
note's other partials. What still rang from earlier is not this note's. Compare a note with itself,
not with others: a unison rings more than a twelfth, and a note without help rings not at all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import hypot, isfinite

import numpy as np

from jigwright.core.gauge.ring_place import USUAL, Hold, RingParams, RingPlace
from jigwright.core.gauge.values import Meeting, Ring, StringRing
from jigwright.core.music.pitch import cents_to_ratio, hz_to_cents
from jigwright.core.music.sympathy import (
    MOST_PRODUCT,
    PitchSwing,
    half_width_cents,
    is_unison,
    share_db,
    shared_partials,
)
from jigwright.core.sound.heard import RingLine
from jigwright.core.values import Unmeasured, median

METHOD_VERSION = 2
_SAME_CENTS = 12.0
_SEEN_AT = (0.2, 0.4, 0.6, 0.8)
_MIDDLE_S = 0.2  # of the time a level stands for, from where lines begin
_FAINT_DB = 6.0
_FALL_DB, _SHORTEST_TAIL_S = 20.0, 0.03
_OWN_PERCENT = 90
_LEAST_SEEN = 3
_HALF_HZ = 866.0  # cents of half a hertz, times the frequency
_FAR_CENTS, _NEARER = 10.0, 0.35


def meetings(
    f0_hz: float, open_hz: Sequence[float], t60_s: float, swing: PitchSwing | None = None
) -> tuple[Meeting, ...]:
    """Where a note meets the open strings, the most ring to be had first.

    Parameters
    ----------
    f0_hz : float
    open_hz : sequence of float
        Low to high.
    t60_s : float
        Of an open string at its fundamental.
    swing : PitchSwing or None
        The note's vibrato.
    """
    found = []
    for j, hz in enumerate(open_hz):
        pairs = shared_partials(f0_hz, hz)
        if not pairs:
            continue
        k, m = pairs[0]
        if k * m > MOST_PRODUCT:
            continue  # too high for both to wake anything that is heard
        apart = hz_to_cents(k * f0_hz, m * hz)
        own_t60 = t60_s / m**0.5
        found.append(
            Meeting(
                string=j, note_partial=k, string_partial=m, apart_cents=apart,
                half_width_cents=half_width_cents(m * hz, own_t60),
                share_db=share_db(apart, m * hz, own_t60, swing),
            )
        )  # fmt: skip
    return tuple(sorted(found, key=lambda q: q.note_partial * q.string_partial))


def strings_as_rang(
    lines: Sequence[RingLine], params: RingParams = USUAL
) -> dict[int, tuple[float, float]]:
    """Where each open string sounded when it rang, cents from its tuning, and half the 95 % range.

    A string is taken from its clearest lines; one line alone says nothing of it.
    """
    found = {}
    for j in sorted({q.i_string for q in lines if q.i_string >= 0}):
        mine = [
            q
            for q in lines
            if q.i_string == j and q.above_db >= params.above_db and _falls(q, params)
        ]
        if len(mine) < 2:
            continue
        cents = [q.offset_cents for q in mine]
        middle = median(cents)
        spread = 1.48 * median([abs(c - middle) for c in cents])
        if spread < params.off_cents:
            found[j] = middle, hypot(1.0, 2.0 * spread / len(cents) ** 0.5)
    return found


def room_as_heard(lines: Sequence[RingLine], params: RingParams = USUAL) -> float:
    """In which notes' own partials fall by 60 dB, seconds; NaN where three were not seen to."""
    seen = [
        q.decay_s
        for q in lines
        if q.i_string < 0 and q.above_db >= params.beside_db and isfinite(q.decay_s)
        and isfinite(q.slope_sd) and -q.slope_db_per_s > q.slope_sd
    ]  # fmt: skip
    return median(seen) if len(seen) >= _LEAST_SEEN else float("nan")


def measure_ring(
    place: RingPlace,
    *,
    i_segment: int,
    f0_hz: float,
    onset_s: float,
    offset_s: float,
    on_strings: Sequence[int] | None,
    swing: PitchSwing | None = None,
) -> Ring | Unmeasured:
    """Measure what rang after a note.

    Parameters
    ----------
    place : RingPlace
    i_segment : int
        Last segment of the note.
    f0_hz, onset_s, offset_s : float
    on_strings : sequence of int or None
        What the note was played on; ``None``: no fingering says.
    swing : PitchSwing or None
        Its vibrato.

    Returns
    -------
    Ring or Unmeasured
        Reasons: ``nothing_shared``, ``too_short``, else why the most likely string cannot be told
        (:class:`StringRing`).
    """
    told = []
    as_they_are = [
        hz * cents_to_ratio(place.string_cents.get(j, 0.0)) for j, hz in enumerate(place.open_hz)
    ]
    for met in meetings(f0_hz, as_they_are, place.t60_s, swing):
        if on_strings is not None and met.string in on_strings:
            continue
        meeting = replace(met, string_cents=place.string_cents.get(met.string, 0.0))
        told.append(
            _string(place, meeting, i_segment, f0_hz, offset_s, on_strings=on_strings)
        )  # fmt: skip
    if not told:
        return Unmeasured("nothing_shared")
    if offset_s - onset_s < place.params.least_note_s:
        return Unmeasured("too_short")
    if all(s.state == "unknown" for s in told):
        return Unmeasured(told[0].reason)
    return Ring(strings=tuple(told))


def _string(
    place: RingPlace,
    meeting: Meeting,
    i_segment: int,
    f0_hz: float,
    offset_s: float,
    *,
    on_strings: Sequence[int] | None,
) -> StringRing:
    p, j = place.params, meeting.string

    def unknown(reason: str, limit_db: float = float("nan")) -> StringRing:
        return StringRing(meeting=meeting, state="unknown", reason=reason, limit_db=limit_db)

    if on_strings is None and is_unison(f0_hz, place.open_hz[j]):
        return unknown("open_string")  # nobody says it was not that string itself
    mine = place.lines_of(i_segment)
    of_string = [q for q in mine if q.i_string == j]
    lines = [q for q in of_string if isfinite(q.note_db)]
    soon = place.holds_from(offset_s - 0.02, offset_s + p.in_use_s)
    if _own_string_rings(place, f0_hz, j, soon, on_strings):
        return unknown("open_string")
    if not lines:
        return unknown("covered")
    if any(j in h.surely for h in soon):
        return unknown("in_use")
    lines = [q for q in lines if not _of_another(place, q, f0_hz, on_strings, soon)]
    if not lines:
        return unknown("other_string")
    limit = min(q.floor_db + p.above_db for q in lines)
    clear = [q for q in lines if _at_string(place, q, f0_hz)]
    falling = [q for q in clear if _falls(q, p) and q.above_db >= p.above_db]
    best = max(falling or clear, key=lambda q: q.above_db, default=None)
    least_db = p.above_db if j in place.string_cents else p.sure_db
    if best is not None and p.above_db <= best.above_db < least_db:
        return unknown("faint", limit)
    if best is None or best.above_db < least_db:
        return _silent(place, meeting, lines, soon, limit)
    room = _room(place, mine, best)
    if room is None:
        return unknown("room", limit)
    if not _falls(best, p) or best.level_db > p.most_db:
        return unknown("steady", limit)
    least_s = p.of_usual * place.t60_s / best.partial**0.5
    if room > -p.above_room_db or best.decay_s < max(least_s, p.over_room * place.room_s):
        return unknown("room", limit)
    if any(_strange(q, best, p) for q in of_string):
        return unknown("played", limit)
    if isfinite(best.left_db) and best.level_db < best.left_db + p.over_left_db:
        return unknown("rang_before", limit)
    return _rang(meeting, [q for q in clear if _falls(q, p)], best, limit, -room, p)


def _at_string(place: RingPlace, line: RingLine, f0_hz: float) -> bool:
    """Whether a clear line lies where the string sounds, and not where the note's partial was."""
    p, j = place.params, line.i_string
    from_string = abs(line.offset_cents - place.string_cents.get(j, 0.0))
    reach = p.off_cents if j in place.string_cents else 2.0 * p.off_cents
    if line.above_db < p.beside_db or from_string > reach + _HALF_HZ / line.f_hz:
        return False
    apart = hz_to_cents(max(1, round(line.f_hz / f0_hz)) * f0_hz, line.f_hz)
    return abs(apart) < _FAR_CENTS or from_string < _NEARER * abs(apart)


def _falls(line: RingLine, p: RingParams) -> bool:
    """Whether a line dies away as a string does."""
    if not isfinite(line.slope_sd) or not isfinite(line.decay_s):
        return False
    return p.shortest_s <= line.decay_s <= p.longest_s and -line.slope_db_per_s > line.slope_sd


def _strange(line: RingLine, best: RingLine, p: RingParams) -> bool:
    """Whether a partial that the note has not got began to sound as well: nobody woke that."""
    if isfinite(line.note_db) or line.above_db < p.beside_db:
        return False
    began = not isfinite(line.left_db) or line.level_db > line.left_db + 2.0 * p.over_left_db
    return began and line.level_db > best.level_db - p.strange_db


def _rang(
    meeting: Meeting,
    lines: Sequence[RingLine],
    best: RingLine,
    limit_db: float,
    above_room_db: float,
    p: RingParams,
) -> StringRing:
    power = 0.0
    for q in lines:
        left = 10 ** (q.left_db / 10.0) if isfinite(q.left_db) else 0.0
        power += max(0.0, 10 ** (q.level_db / 10.0) - left)
    level = 10 * float(np.log10(max(power, 1e-12)))
    if level < p.least_db:
        return StringRing(meeting=meeting, state="unknown", reason="faint", limit_db=limit_db)
    return StringRing(
        meeting=meeting, state="rang", level_db=level,
        level_uncertainty_db=hypot(2.0, 0.5 * best.slope_sd), decay_s=best.decay_s,
        decay_uncertainty_s=2.0 * best.decay_s * best.slope_sd / -best.slope_db_per_s,
        limit_db=limit_db, string_cents=best.offset_cents, above_room_db=above_room_db,
    )  # fmt: skip


def _silent(
    place: RingPlace,
    meeting: Meeting,
    lines: Sequence[RingLine],
    soon: Sequence[Hold],
    limit_db: float,
) -> StringRing:
    """No line: the string was silent, unless it may have been in use or nothing could be seen."""
    low = min(q.f_hz for q in lines) > 1.5 * meeting.string_partial * place.open_hz[meeting.string]
    reason = ""
    if any(h.perhaps and meeting.string in h.perhaps[:2] for h in soon):
        reason = "in_use"
    elif limit_db > place.params.silent_db or low:
        reason = "faint"
    if reason:
        return StringRing(meeting=meeting, state="unknown", reason=reason, limit_db=limit_db)
    return StringRing(meeting=meeting, state="silent", limit_db=limit_db)


def _own_string_rings(
    place: RingPlace,
    f0_hz: float,
    string: int,
    soon: Sequence[Hold],
    on_strings: Sequence[int] | None,
) -> bool:
    """Whether the note was an open string that nobody stopped since: what is left is its own."""
    for s, hz in enumerate(place.open_hz):
        if s == string or not is_unison(f0_hz, hz):
            continue
        if on_strings is not None and s not in on_strings:
            continue
        if not any(s in h.surely or h.perhaps[:1] == (s,) for h in soon):
            return True
    return False


def _of_another(
    place: RingPlace,
    line: RingLine,
    f0_hz: float,
    on_strings: Sequence[int] | None,
    soon: Sequence[Hold],
) -> bool:
    """Whether a lower partial of another string that the note can wake lies at the same place."""
    for s, hz in enumerate(place.open_hz):
        if s == line.i_string or (on_strings is not None and s in on_strings):
            continue
        if any(s in h.surely for h in soon):
            continue
        m = round(line.f_hz / hz)
        lower = 1 <= m < line.partial and abs(hz_to_cents(line.f_hz, m * hz)) < _SAME_CENTS
        if lower and shared_partials(f0_hz, hz):
            return True
    return False


def _room(place: RingPlace, mine: Sequence[RingLine], best: RingLine) -> float | None:
    """What room and stopped string leave of the note's other partials, where the line is clearest.

    In dB re the line, both re the note's own partial there; ``None`` where nothing says.
    """
    own = [q for q in mine if q.i_string < 0 and _tells(q, place.params)]
    if len(own) < _LEAST_SEEN:
        own += [q for q in place.lines if q.i_string < 0 and _tells(q, place.params)]
    if not own and not isfinite(place.tail_s):
        return None
    return min(_room_at(place, own, best, share) for share in _SEEN_AT)


def _tells(own: RingLine, p: RingParams) -> bool:
    """Whether a partial was strong enough to say what is left of it."""
    return own.above_db >= p.beside_db or own.floor_db - own.note_db < -p.below_db


def _room_at(place: RingPlace, own: Sequence[RingLine], best: RingLine, share: float) -> float:
    at_s = share * (best.to_s - best.from_s)
    line = best.level_db + best.slope_db_per_s * (at_s - _MIDDLE_S) - best.note_db
    if not own:  # every partial is some string's: the level itself says how notes end
        return -_FALL_DB * at_s / max(place.tail_s, _SHORTEST_TAIL_S) - line
    left = []
    for q in own:
        seen_s = min(at_s, share * (q.to_s - q.from_s))
        slope = min(q.slope_db_per_s, 0.0) if isfinite(q.slope_sd) else 0.0
        stands = q.level_db + slope * (seen_s - _MIDDLE_S)
        if q.above_db < place.params.beside_db:
            stands = min(stands, q.floor_db + _FAINT_DB)
        left.append(max(stands, q.floor_db) - q.note_db)
    return float(np.percentile(left, _OWN_PERCENT)) - line
