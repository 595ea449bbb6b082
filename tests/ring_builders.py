"""Rings made of numbers: lines, meetings, strings that rang, with what was chosen of them."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.gauge.ring_place import Hold, RingPlace
from jigwright.core.gauge.values import Meeting, Ring, StringRing
from jigwright.core.sound.heard import RingLine

VIOLIN_HZ = (195.5556, 293.3333, 440.0, 660.0)
NAN = float("nan")


def line(
    string: int,
    partial: int,
    *,
    i_segment: int = 0,
    level_db: float = -32.0,
    above_db: float = 30.0,
    decay_s: float = 1.5,
    slope_sd: float = 3.0,
    floor_db: float = -75.0,
    offset_cents: float = 0.0,
    left_db: float = NAN,
    note_db: float = -6.0,
    f_hz: float | None = None,
    from_s: float = 1.05,
    to_s: float = 2.05,
) -> RingLine:
    """A line at a string's partial on a violin; string -1 is the note's own."""
    at_hz = f_hz if f_hz is not None else partial * VIOLIN_HZ[string]
    return RingLine(
        i_segment=i_segment, i_string=string, partial=partial, f_hz=at_hz, level_db=level_db,
        note_db=note_db, decay_s=decay_s, slope_db_per_s=-60.0 / decay_s, slope_sd=slope_sd,
        above_db=above_db, floor_db=floor_db, offset_cents=offset_cents, left_db=left_db,
        from_s=from_s, to_s=to_s,
    )  # fmt: skip


def room(*, falls_db: float = 70.0, n: int = 3, i_segment: int = 0) -> tuple[RingLine, ...]:
    """Partials no string has, of which nothing is left ``falls_db`` down already."""
    return tuple(
        line(-1, 3 + k, f_hz=1500.0 + 400.0 * k, above_db=3.0, floor_db=-6.0 - falls_db,
             level_db=-6.0 - falls_db, slope_sd=float("inf"), i_segment=i_segment)
        for k in range(n)
    )  # fmt: skip


def place(
    lines: Sequence[RingLine],
    *,
    holds: Sequence[Hold] = (),
    string_cents: dict[int, float] | None = None,
    room_s: float = NAN,
    t60_s: float = 1.5,
    tail_s: float = NAN,
) -> RingPlace:
    """A violin in which these lines were seen."""
    return RingPlace(
        open_hz=VIOLIN_HZ, t60_s=t60_s, lines=tuple(lines), holds=tuple(holds),
        string_cents={1: 0.0} if string_cents is None else string_cents, room_s=room_s,
        tail_s=tail_s,
    )  # fmt: skip


def meeting(
    string: int = 1,
    *,
    note_partial: int = 1,
    string_partial: int = 2,
    apart_cents: float = 0.0,
    share_db: float = 0.0,
) -> Meeting:
    """Where a note meets a string; an octave above it unless said otherwise."""
    return Meeting(
        string=string, note_partial=note_partial, string_partial=string_partial,
        apart_cents=apart_cents, half_width_cents=3.0, share_db=share_db,
    )  # fmt: skip


def string_ring(
    string: int = 1,
    *,
    level_db: float | None = -31.0,
    decay_s: float = 1.4,
    reason: str = "",
    apart_cents: float = 0.0,
    share_db: float = 0.0,
    string_cents: float = 0.0,
    limit_db: float = -55.0,
    string_partial: int = 2,
) -> StringRing:
    """A string that rang at a level, was silent (``None``) or cannot be told (a reason)."""
    met = meeting(
        string, apart_cents=apart_cents, share_db=share_db, string_partial=string_partial
    )  # fmt: skip
    if reason:
        return StringRing(meeting=met, state="unknown", reason=reason)
    if level_db is None:
        return StringRing(meeting=met, state="silent", limit_db=limit_db)
    return StringRing(
        meeting=met, state="rang", level_db=level_db, level_uncertainty_db=2.0, decay_s=decay_s,
        decay_uncertainty_s=0.2, limit_db=limit_db, string_cents=string_cents, above_room_db=18.0,
    )  # fmt: skip


def ring(*strings: StringRing) -> Ring:
    """What strings did after a note."""
    return Ring(strings=strings or (string_ring(),))
