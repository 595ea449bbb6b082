"""Lower alone, upper alone, both: the voices of a double stop tried one by one.

Where a written double stop was played together at least once, single notes of its voices next to it
are tries of one voice. Each is held against its own voice; the first time both sound is the note.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jigwright.core.follow.values import LinedNote
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Segment

_NEAR_CENTS = 90.0


def name_parts(
    rows: Sequence[LinedNote], segments: Sequence[Segment], jig: Jig, a4_hz: float, offset: float
) -> tuple[LinedNote, ...]:
    """Name single voices of double stops that were also played together.

    Parameters
    ----------
    rows : sequence of LinedNote
        As followed.
    segments : sequence of Segment
    jig : Jig
    a4_hz, offset : float
        Nominal A, and the player's own against it in cents.
    """
    together = {
        r.i_event
        for r in rows
        if r.i_event is not None and any(segments[i].i_pair >= 0 for i in r.segments)
    }
    result: list[LinedNote] = []
    attempts: dict[int, int] = {}
    for row in rows:
        i = row.i_event
        if i is None or len(jig.events[i].heads) < 2 or i not in together or not row.segments:
            result.append(row)
            continue
        if any(segments[k].i_pair >= 0 for k in row.segments):
            attempts[i] = attempts.get(i, 0) + 1
            state = "played" if attempts[i] == 1 else "retry"
            result.append(replace(row, state=state, attempt=attempts[i]))  # type: ignore[arg-type]
        else:
            result.append(_voice(row, segments[row.segments[0]], jig, a4_hz, offset))
    return tuple(result)


def _voice(row: LinedNote, segment: Segment, jig: Jig, a4_hz: float, offset: float) -> LinedNote:
    assert row.i_event is not None
    heads = jig.events[row.i_event].heads
    cents = hz_to_cents(segment.f0_hz, a4_hz) - offset
    low, high = (abs(cents - cents_from_a4(h.pitch)) for h in (heads[0], heads[-1]))
    if min(low, high) > _NEAR_CENTS:
        return row
    head = heads[0] if low < high else heads[-1]
    return replace(
        row, state="retry", pitch=head.pitch, note_id=head.id, lower=None,
        part="lower" if low < high else "upper",
    )  # fmt: skip
