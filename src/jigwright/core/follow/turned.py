"""Extras and retries that are an ornament of a note beside them.

Where a room or a microphone leaves a trill half heard it is no row of notes that turn, and a grace
note that is not written is an extra. Both are part of a note: what is left over between two written
notes, short and joined, turns about one of them or leads into it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from jigwright.core.follow.values import LinedNote
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Segment
from jigwright.core.values import median

_SHORT_S, _CLOSE_S, _JOINED_S = 0.3, 0.5, 0.2
_FEWEST_LEFT_OVER, _FEWEST_TURNS = 3, 2
_MOST_SPAN, _LEAST_SPAN, _SAME_CENTS = 390.0, 60.0, 60.0
_MOST_SHARE = 0.75  # of the pieces: one of four may be heard an octave away
_GRACE_S, _TOUCHES_S = 0.12, 0.03
_MOST_LEAP = 500.0
_BEGUN_DB = 12.0  # where the level fell so far, a note of its own began


def with_turns(
    rows: Sequence[LinedNote],
    segments: Sequence[Segment],
    *,
    a4_hz: float,
    offset_cents: float,
    said: frozenset[int] = frozenset(),
) -> tuple[LinedNote, ...]:
    """Rows in which what turns about a written note is part of it.

    Parameters
    ----------
    rows : sequence of LinedNote
    segments : sequence of Segment
    a4_hz : float
    offset_cents : float
        The player's own A against the nominal one.
    said : frozenset of int
        Segments of which somebody said what they are: they stay it.
    """

    def cents(i: int) -> float:
        return hz_to_cents(segments[i].f0_hz, a4_hz) - offset_cents

    result: list[LinedNote] = []
    k = 0
    while k < len(rows):
        stop = _run(rows, segments, k, said)
        run = rows[k:stop]
        merged = _merged(run, cents) if stop > k else None
        if merged is None:
            result.append(rows[k])
            k += 1
            continue
        result += merged
        k = stop
    return tuple(result)


def _run(
    rows: Sequence[LinedNote], segments: Sequence[Segment], k: int, said: frozenset[int]
) -> int:
    """Where the short joined pieces that begin with a row end; notes not found are passed over.

    At most one of them is a written note that was played.
    """
    at, before, n_played = k, -1, 0
    while at < len(rows):
        row = rows[at]
        n_played += row.state == "played"
        if n_played > 1 or said.intersection(row.segments):
            break
        if row.segments:
            first, last = segments[row.segments[0]], segments[row.segments[-1]]
            short = last.offset_s - first.onset_s <= _SHORT_S and first.i_pair < 0
            if not short or row.lower is not None or row.ornament is not None:
                break
            if before >= 0 and first.onset_s - segments[before].offset_s > _JOINED_S:
                break
            before = row.segments[-1]
        elif before < 0:
            break  # a run begins with what was heard
        at += 1
    if (
        at < len(rows)
        and not said.intersection(rows[at].segments)
        and n_played <= 1
        and _closes(rows[at], segments, before)
    ):
        return at + 1
    while at > k and not rows[at - 1].segments and at < len(rows) and rows[at].segments:
        at -= 1  # a note missing before a long one is not in the run
    return at


def _closes(row: LinedNote, segments: Sequence[Segment], before: int) -> bool:
    """Whether a longer note ends what turned: the main note, held."""
    if before < 0 or not row.segments or row.lower is not None or row.ornament is not None:
        return False
    first, last = segments[row.segments[0]], segments[row.segments[-1]]
    joined = first.onset_s - segments[before].offset_s <= _JOINED_S and first.i_pair < 0
    return joined and (row.state == "played" or last.offset_s - first.onset_s <= _CLOSE_S)


def _merged(run: Sequence[LinedNote], cents: Callable[[int], float]) -> list[LinedNote] | None:
    """The rows with everything that was heard as one, if it turns about one written note."""
    heard = [r for r in run if r.segments]
    left_over = sum(r.state in ("extra", "retry") for r in heard)
    played = [r for r in heard if r.state == "played"]
    if left_over < _FEWEST_LEFT_OVER or len(played) > 1:
        return None
    members = tuple(i for r in heard for i in r.segments)
    usual = median(np.array([cents(i) for i in members]))
    pitch = [p for p in map(cents, members) if abs(p - usual) <= _MOST_SPAN]
    if len(pitch) < _MOST_SHARE * len(members):
        return None
    if not _LEAST_SPAN <= max(pitch) - min(pitch) <= _MOST_SPAN:
        return None
    steps = [b - a for a, b in zip(pitch, pitch[1:], strict=False) if abs(b - a) > _LEAST_SPAN / 2]
    if sum(a * b < 0 for a, b in zip(steps, steps[1:], strict=False)) < _FEWEST_TURNS:
        return None
    silent = [r for r in run if not r.segments]
    retried = [r for r in heard if r.state == "retry"]
    for row in (*played, *silent, *retried):
        own = tuple(i for i in members if abs(cents(i) - cents_from_a4(row.pitch)) < _SAME_CENTS)
        if own and len(own) < len(members):
            state = row.state if row.segments else "played"
            whole = replace(row, state=state, segments=members, main=own, ornament="trill")
            others = [r for r in silent if r is not row]
            before = [r for r in others if (r.i_event or 0) < (row.i_event or 0)]
            return [*before, whole, *(r for r in others if r not in before)]
    return None


def with_graces(
    rows: Sequence[LinedNote],
    segments: Sequence[Segment],
    *,
    in_room: bool,
    said: frozenset[int] = frozenset(),
) -> tuple[LinedNote, ...]:
    """Rows in which a short note that leads into the next one without a break is part of it.

    Parameters
    ----------
    rows : sequence of LinedNote
    segments : sequence of Segment
    in_room : bool
        There the piece may be what lingers or mixes: it is part of the note, and not called one.
    said : frozenset of int
        Segments of which somebody said what they are: they stay it.
    """
    result: list[LinedNote] = []
    for row in rows:
        before = result[-1] if result else None
        free = before is not None and not said.intersection(before.segments)
        if before is not None and free and _leads_into(before, row, segments):
            result.pop()
            row = replace(
                row, segments=before.segments + row.segments, main=row.segments,
                ornament=None if in_room else "grace",
            )  # fmt: skip
        result.append(row)
    return tuple(result)


def _leads_into(grace: LinedNote, note: LinedNote, segments: Sequence[Segment]) -> bool:
    if grace.state != "extra" or note.state not in ("played", "retry") or not note.segments:
        return False
    if note.lower is not None or note.ornament is not None:
        return False
    first, last = segments[grace.segments[0]], segments[grace.segments[-1]]
    after = segments[note.segments[0]]
    if first.i_pair >= 0 or after.i_pair >= 0:
        return False
    by = abs(hz_to_cents(last.f0_hz, after.f0_hz))
    return (
        last.offset_s - first.onset_s <= _GRACE_S
        and after.onset_s - last.offset_s <= _TOUCHES_S
        and after.attack_db < _BEGUN_DB
        and _LEAST_SPAN <= by <= _MOST_LEAP
    )
