"""Viterbi of segments over the events of a jig.

Following works on segments, not frames: each segment is played by one event or is junk, and the
walk over events may go forward, stay (a note broken in two), repeat, go back one or two, or skip
(after Nakamura et al. 2016, who allow jumps in a score follower; here few and priced). A pitch that
does not fit costs, but never more than calling it both missed and extra, so a wrong note stays a
played note that is wrong.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jigwright.core.follow.in_time import Hidden, had_their_time, without_lingering
from jigwright.core.follow.merged import Merged
from jigwright.core.follow.moves import ALONE_ODDS, FollowParams, Moves
from jigwright.core.follow.ornaments import (
    TAKEN_IN_COST,
    Folded,
    TakesIn,
    find_trills,
    folded,
    goes_on,
    taken_in,
    unfolded,
)
from jigwright.core.follow.parts import name_parts
from jigwright.core.follow.repeats import place_in_runs, share_runs
from jigwright.core.follow.scraps import take_in_scraps
from jigwright.core.follow.spelling import estimate_signature
from jigwright.core.follow.turned import with_graces, with_turns
from jigwright.core.follow.values import LinedNote, LinedUp, NoteState
from jigwright.core.jig.model import Jig
from jigwright.core.jig.pace import WrittenTime, written_seconds
from jigwright.core.music.pitch import A4_MIDI, Pitch, cents_from_a4, hz_to_cents
from jigwright.core.sound.heard import Pair, Segment
from jigwright.core.values import Floats, median

_PIN_S = 0.08
_OTHER_CENTS = 12.0  # a trill is rather its main note than the other one
_FEWEST_PACES = 4
_SAME_OFFSET_CENTS = 1.0
_SAME_PACE = 0.25  # a quarter slower or faster
_SLIP_CENTS = 250.0  # a finger too high or low, a sharp forgotten
_HIDES_NOTHING = 1.0  # cost of a tone for a written note
_PAUSE_S, _PAUSE_GAPS = 0.3, 2.5  # seconds, and usual gaps between notes, from which one stops


@dataclass(frozen=True, slots=True, kw_only=True)
class Pin:
    """What somebody said a note was.

    Parameters
    ----------
    at_s : float
        Onset of the segment, so that it is found again after another analysis.
    i_event : int or None
        Event of the jig; ``None``: an extra note.
    """

    at_s: float
    i_event: int | None


def line_up(
    segments: Sequence[Segment],
    jig: Jig | None,
    *,
    a4_hz: float,
    params: FollowParams,
    pairs: Sequence[Pair] = (),
    pins: Sequence[Pin] = (),
) -> LinedUp:
    """Say which segment is which note.

    Parameters
    ----------
    segments : sequence of Segment
    jig : Jig or None
        ``None`` for a blind take: every segment is a note, spelled from the estimated key.
    a4_hz : float
        Nominal A.
    params : FollowParams
    pairs : sequence of Pair
        Double stops that segments point to.
    pins : sequence of Pin
        Corrections by hand; the walk goes through them.
    """
    said = frozenset(_fixed(segments, pins, len(jig.events) if jig else 0)) if pins else frozenset()
    fold = folded(segments, find_trills(segments, jig, a4_hz=a4_hz, said=said))
    lined = _lined_up(fold, jig, a4_hz, params, pairs, pins)
    back = [
        unfolded(r, fold, jig, a4_hz=a4_hz, offset_cents=lined.offset_cents) for r in lined.notes
    ]
    return replace(lined, notes=tuple(back))


def _lined_up(
    fold: Folded,
    jig: Jig | None,
    a4_hz: float,
    params: FollowParams,
    pairs: Sequence[Pair],
    pins: Sequence[Pin],
) -> LinedUp:
    segments = fold.segments
    if jig is None or not jig.events:
        return _blind(segments, a4_hz, params, pairs)
    fifths = jig.key.fifths
    if not segments:
        return LinedUp(
            notes=_rows([], (), jig, a4_hz, params, taken_in((), np.zeros(0), jig)),
            offset_cents=0.0,
            key_fifths=fifths,
        )
    heard = _Voices(
        upper=np.array([hz_to_cents(_upper_hz(s, pairs), a4_hz) for s in segments]),
        lower=np.array([hz_to_cents(s.f0_hz, a4_hz) for s in segments]),
        double=np.array([s.i_pair >= 0 for s in segments]),
        other=np.array([hz_to_cents(hz, a4_hz) for hz in fold.other_hz]),
    )
    written = _Voices(
        upper=np.array([cents_from_a4(e.heads[-1].pitch) for e in jig.events]),
        lower=np.array([cents_from_a4(e.heads[0].pitch) for e in jig.events]),
        double=np.array([len(e.heads) > 1 for e in jig.events]),
        other=np.full(len(jig.events), np.nan),
    )
    offset = _first_offset(heard.upper, written.upper)
    path: list[int] = []
    fixed = _fixed(segments, pins, len(jig.events))
    usual = _pace(_lengths(segments), np.array(written_seconds(jig)))
    paces: tuple[float, ...] = (usual, 1.0)
    merged = Merged.of(jig, paces, params.hidden, params.skip)
    for _ in range(2):
        path = _walk(segments, heard, offset, written, jig, params, fixed, merged.at(paces))
        tried, paces = paces, (_pace_of(path, segments, jig, usual),)
        known = not merged.gaps or any(abs(np.log(paces[0] / q)) < _SAME_PACE for q in tried)
        near = [
            heard.upper[i] - written.upper[j]
            for i, j in enumerate(path)
            if j >= 0 and abs(heard.upper[i] - offset - written.upper[j]) < 60
        ]
        if len(near) >= 2:
            before, offset = offset, float(np.clip(np.median(near), -90.0, 90.0))
            if abs(offset - before) < _SAME_OFFSET_CENTS and known:
                break  # the walk would go the same way again
    takes = taken_in(segments, heard.upper - offset, jig)
    rows = _rows(path, segments, jig, a4_hz, params, takes)
    said = frozenset(fixed)
    if params.in_room:
        rows = without_lingering(rows, segments, a4_hz=a4_hz, offset_cents=offset, said=said)
    rows = with_turns(rows, segments, a4_hz=a4_hz, offset_cents=offset, said=said)
    rows = with_graces(rows, segments, in_room=params.in_room, said=said)
    return LinedUp(
        notes=name_parts(rows, segments, jig, a4_hz, offset), offset_cents=offset,
        key_fifths=fifths,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Voices:
    """Cents from A4 of upper and lower voice, equal where there is one; a trill's other note."""

    upper: Floats
    lower: Floats
    double: NDArray[np.bool_]
    other: Floats


def _upper_hz(segment: Segment, pairs: Sequence[Pair]) -> float:
    return pairs[segment.i_pair].upper_hz if segment.i_pair >= 0 else segment.f0_hz


def _distance(heard: _Voices, offset: float, written: _Voices) -> Floats:
    """Cents between every segment and every event.

    Two heard for two written: the mean of both. One heard for two written, or two for one: the
    nearest voice, and a price for the other.
    """
    top = np.abs(heard.upper[:, None] - offset - written.upper[None, :])
    low = np.abs(heard.lower[:, None] - offset - written.lower[None, :])
    cross = np.abs(heard.upper[:, None] - offset - written.lower[None, :])
    both = heard.double[:, None] & written.double[None, :]
    either = heard.double[:, None] | written.double[None, :]
    nearest = np.minimum(np.minimum(top, low), cross) + 25.0
    turned = np.abs(heard.other[:, None] - offset - written.upper[None, :]) + _OTHER_CENTS
    top = np.fmin(top, turned)
    return np.asarray(np.where(both, 0.5 * (top + low), np.where(either, nearest, top)))


def _first_offset(heard: Floats, written: Floats) -> float:
    """Shift that brings most segments near some written pitch; small shifts preferred."""
    offsets = np.arange(-60.0, 61.0, 10.0)
    pitches = np.unique(written)
    between = 0.5 * (pitches[1:] + pitches[:-1])
    cost = np.empty(len(offsets))
    for k, offset in enumerate(offsets):
        nearest = pitches[np.searchsorted(between, heard - offset)]
        far = np.minimum(np.abs(heard - offset - nearest), 60.0)
        cost[k] = far.mean() + 0.08 * abs(offset)
    return float(offsets[int(np.argmin(cost))])


def _walk(
    segments: Sequence[Segment],
    heard: _Voices,
    offset: float,
    written: _Voices,
    jig: Jig,
    p: FollowParams,
    fixed: Mapping[int, int],
    merged: Merged,
) -> list[int]:
    """Event of each segment, -1 for junk."""
    n, m = len(segments), len(written.upper)
    takes = taken_in(segments, heard.upper - offset, jig)
    moves = Moves.of(m, p, np.flatnonzero(takes.events))
    emit = _emission_costs(segments, _distance(heard, offset, written), jig, p)
    if takes.events.any():
        emit = np.where(takes.mask, np.minimum(emit, TAKEN_IN_COST), emit)
    junk = p.junk * _junk_share(segments, jig)
    for i, j in fixed.items():
        emit[i], junk[i] = np.inf, np.inf
        if j < 0:
            junk[i] = 0.0
        else:
            emit[i, j] = 0.0
    start = p.skip_more * np.arange(m) + np.where(np.arange(m) > 0, p.skip - p.skip_more, 0.0)
    paused = _paused(segments)
    # total[j]: best cost with event j the last one played; index m: nothing played yet
    total = np.full(m + 1, np.inf)
    total[m] = 0.0
    back = np.zeros((n, m + 1), dtype=np.int32)
    is_junk = np.zeros((n, m + 1), dtype=bool)
    for i in range(n):
        hides: Sequence[tuple[int, Floats]] = ()
        if i:  # what was another note's pitch hides no repeats of the written one
            own = (emit[i - 1] < _HIDES_NOTHING) & ~is_junk[i - 1, :m]
            hides = merged.offers(segments[i].onset_s - segments[i - 1].onset_s, own)
        best, via = moves.best(total[:m], hides, paused=bool(paused[i]))
        fresh = total[m] + start
        via = np.where(fresh < best, m, via)
        played = np.minimum(best, fresh) + emit[i]
        stay_junk = total + junk[i]
        now = np.concatenate([played, [np.inf]])
        take_junk = stay_junk < now
        back[i] = np.where(take_junk, np.arange(m + 1), np.concatenate([via, [m]]))
        is_junk[i] = take_junk
        total = np.where(take_junk, stay_junk, now)
    last_cost = total.copy()
    last_cost[:m] += (
        np.where(np.arange(m) < m - 1, p.skip + p.skip_more * (m - 2 - np.arange(m)), 0.0) * 0.6
    )
    last_cost[m] += p.skip_more * m
    state = int(np.argmin(last_cost))
    path = [-1] * n
    for i in range(n - 1, -1, -1):
        path[i] = -1 if is_junk[i, state] else state
        state = int(back[i, state])
    return path


def _paused(segments: Sequence[Segment]) -> NDArray[np.bool_]:
    """Whether nothing sounded before a segment for longer than between notes of this take."""
    ends = np.maximum.accumulate([s.offset_s for s in segments])
    gaps = np.concatenate([[0.0], [s.onset_s for s in segments[1:]] - ends[:-1]])
    usual = median(np.maximum(gaps[1:], 0.0)) if len(gaps) > 1 else 0.0
    return np.asarray(gaps > max(_PAUSE_S, _PAUSE_GAPS * usual))


def _fixed(segments: Sequence[Segment], pins: Sequence[Pin], n_events: int) -> dict[int, int]:
    """Event (-1 for none) of each segment that is pinned."""
    onsets = np.array([s.onset_s for s in segments])
    fixed: dict[int, int] = {}
    for pin in pins:
        i = int(np.argmin(np.abs(onsets - pin.at_s)))
        if abs(onsets[i] - pin.at_s) < _PIN_S and (pin.i_event is None or pin.i_event < n_events):
            fixed[i] = -1 if pin.i_event is None else pin.i_event
    return fixed


def _emission_costs(
    segments: Sequence[Segment], distance: Floats, jig: Jig, p: FollowParams
) -> Floats:
    pitch = np.minimum((distance / 75.0) ** 2, 1.0) * 0.8 + np.clip((distance - 60) / 90, 0, 1) * (
        p.mismatch - 0.8
    )
    pitch += np.clip((distance - _SLIP_CENTS) / 100.0, 0, 1) * (p.far_off - p.mismatch)
    length = _lengths(segments)
    wanted = np.array(written_seconds(jig))
    pace = _pace(length, wanted)
    ratio = length[:, None] / (wanted[None, :] * pace)
    short = np.clip(0.5 - ratio, 0.0, 0.5) * 1.2
    return np.asarray(pitch + short)


def _lengths(segments: Sequence[Segment]) -> Floats:
    return np.array([s.offset_s - s.onset_s for s in segments])


def _pace(length: Floats, wanted: Floats) -> float:
    return float(np.clip(np.median(length) / np.median(wanted), 0.2, 5.0))


def _pace_of(path: Sequence[int], segments: Sequence[Segment], jig: Jig, usual: float) -> float:
    """Pace by the distances of notes that follow each other; broken notes and trills hide it."""
    found: list[float] = []
    before: tuple[int, float] | None = None
    time = WrittenTime(jig)
    for j, s in zip(path, segments, strict=True):
        if j < 0 or (before is not None and j == before[0]):
            continue
        if before is not None and j == before[0] + 1:
            now, last = jig.events[j].onset_beats, jig.events[j - 1].onset_beats
            written_s = time.at(now) - time.at(last)
            if written_s > 0.0:
                found.append((s.onset_s - before[1]) / written_s)
        before = (j, s.onset_s)
    return float(np.clip(np.median(found), 0.2, 5.0)) if len(found) >= _FEWEST_PACES else usual


def _junk_share(segments: Sequence[Segment], jig: Jig) -> Floats:
    """A long clear note is dear to throw away; a scrap is cheap."""
    typical = median(written_seconds(jig))
    length = _lengths(segments)
    return np.asarray(np.clip(0.25 + 0.9 * length / min(typical, 0.6), 0.25, 1.0))


def _rows(
    path: list[int],
    segments: Sequence[Segment],
    jig: Jig,
    a4_hz: float,
    p: FollowParams,
    takes: TakesIn,
) -> tuple[LinedNote, ...]:
    groups: list[tuple[int, list[int]]] = []
    length = _lengths(segments)
    wanted = np.array(written_seconds(jig))
    pace = _pace_of(path, segments, jig, _pace(length, wanted)) if path else 1.0
    expected, written = wanted * pace, WrittenTime(jig)
    starts = pace * np.array([written.at(e.onset_beats) for e in jig.events])
    path = place_in_runs(path, segments, jig, expected, starts)
    path = _share_repeats(path, segments, jig, expected)
    path, parts = share_runs(path, segments, jig, expected)
    path, scraps = take_in_scraps(path, segments)
    parts |= scraps
    for i, j in enumerate(path):
        if (
            j >= 0
            and groups
            and groups[-1][0] == j
            and (
                i in parts
                or _same_note(segments, groups[-1][1][-1], i, p)
                or _broken_note(segments, groups[-1][1], i, float(expected[j]))
                or goes_on(takes, segments, j, groups[-1][1][-1], i)
            )
        ):
            groups[-1][1].append(i)
        else:
            groups.append((j, [i]))
    hidden = Hidden(segments, expected)
    rows: list[LinedNote] = []
    attempts = [0] * len(jig.events)
    reached = -1
    for j, members in groups:
        if j < 0:
            rows.append(_extra(segments, members, jig.key.fifths, a4_hz))
            hidden.besides(members)
            continue
        hidden.reach(j, members)
        rows.extend(_row(hidden.state(k), jig, k, 1, ()) for k in range(reached + 1, j))
        hidden.after(j, members)
        reached = max(reached, j)
        attempts[j] += 1
        state: NoteState = "played" if attempts[j] == 1 else "retry"
        rows.append(_row(state, jig, j, attempts[j], tuple(members)))
    hidden.end()
    rows.extend(_row(hidden.state(j), jig, j, 1, ()) for j in range(reached + 1, len(jig.events)))
    return had_their_time(rows, segments, jig, expected) if p.in_room else tuple(rows)


def _share_repeats(
    path: list[int], segments: Sequence[Segment], jig: Jig, expected_s: Floats
) -> list[int]:
    """Give a piece of a broken note to the repeat it fits, where one pitch is written twice.

    The walk cannot tell which of two equal notes a piece belongs to; the lengths can.
    """
    pitch = [e.heads[-1].pitch for e in jig.events]
    path = list(path)
    for i in range(1, len(path) - 1):
        before, here, after = path[i - 1 : i + 2]
        if min(before, here, after) < 0 or after != before + 1 or pitch[after] != pitch[before]:
            continue
        with_before = _broken_note(segments, [i - 1], i, float(expected_s[before]))
        with_after = _broken_note(segments, [i], i + 1, float(expected_s[after]))
        if here == before and with_after and not with_before:
            path[i] = after
        elif here == after and with_before and not with_after:
            path[i] = before
    return path


def _same_note(segments: Sequence[Segment], a: int, b: int, p: FollowParams) -> bool:
    """Whether two neighbouring segments of one event are one note broken in two."""
    if b != a + 1:
        return False
    first, second = segments[a], segments[b]
    if (first.i_pair >= 0) != (second.i_pair >= 0):
        return False
    near = abs(hz_to_cents(second.f0_hz, first.f0_hz)) < 45
    gap_s = second.onset_s - first.offset_s
    anew = second.odds is not None and second.odds > p.anew
    shallow = second.attack_db < p.merge_dip_db and not anew
    scrap = min(first.offset_s - first.onset_s, second.offset_s - second.onset_s) < 0.08
    return gap_s < 0.08 and near and (shallow or scrap)


def _broken_note(
    segments: Sequence[Segment], members: list[int], i: int, expected_s: float
) -> bool:
    """Whether a segment goes on with a note that the bow spoiled for a moment.

    Together they last about as long as the note should, the first alone does not; the level hardly
    fell between them, or only for a moment.
    """
    first, second = segments[members[-1]], segments[i]
    if i != members[-1] + 1 or abs(hz_to_cents(second.f0_hz, first.f0_hz)) > 45:
        return False
    gap_s = second.onset_s - first.offset_s
    spoiled = gap_s < 0.06 or (gap_s < 0.35 and second.attack_db < 7.0)
    so_far_s = first.offset_s - segments[members[0]].onset_s
    together_s = second.offset_s - segments[members[0]].onset_s
    return spoiled and so_far_s < 0.8 * expected_s and together_s < 1.3 * expected_s


def _row(state: NoteState, jig: Jig, j: int, attempt: int, members: tuple[int, ...]) -> LinedNote:
    heads = jig.events[j].heads
    return LinedNote(
        state=state, pitch=heads[-1].pitch, i_event=j, note_id=heads[-1].id, attempt=attempt,
        segments=members, lower=heads[0].pitch if len(heads) > 1 else None,
        ornament=jig.events[j].ornament,
    )  # fmt: skip


def _extra(segments: Sequence[Segment], members: list[int], fifths: int, a4_hz: float) -> LinedNote:
    longest = max(members, key=lambda i: segments[i].offset_s - segments[i].onset_s)
    return LinedNote(
        state="extra", pitch=_nearest(segments[longest], fifths, a4_hz, 0.0), i_event=None,
        note_id=None, attempt=1, segments=tuple(members),
    )  # fmt: skip


def _nearest(segment: Segment, fifths: int, a4_hz: float, offset_cents: float) -> Pitch:
    cents = hz_to_cents(segment.f0_hz, a4_hz) - offset_cents
    return Pitch.from_midi(round(A4_MIDI + cents / 100.0), fifths=fifths)


def _blind(
    segments: Sequence[Segment], a4_hz: float, p: FollowParams, pairs: Sequence[Pair]
) -> LinedUp:
    groups: list[list[int]] = []
    p = replace(p, anew=ALONE_ODDS)
    for i in range(len(segments)):
        if groups and _same_note(segments, groups[-1][-1], i, p):
            groups[-1].append(i)
        else:
            groups.append([i])
    longest = [max(g, key=lambda i: segments[i].offset_s - segments[i].onset_s) for g in groups]
    cents = np.array([hz_to_cents(_upper_hz(segments[i], pairs), a4_hz) for i in longest])
    below = [
        round(A4_MIDI + hz_to_cents(segments[i].f0_hz, a4_hz) / 100.0)
        if segments[i].i_pair >= 0
        else None
        for i in longest
    ]
    lengths = np.array([segments[g[-1]].offset_s - segments[g[0]].onset_s for g in groups])
    midi = [round(A4_MIDI + c / 100.0) for c in cents]
    fifths = estimate_signature(midi, lengths)
    notes = tuple(
        LinedNote(
            state="played",
            pitch=Pitch.from_midi(k, fifths=fifths),
            i_event=None,
            note_id=None,
            attempt=1,
            segments=tuple(g),
            lower=None if low is None else Pitch.from_midi(low, fifths=fifths),
        )
        for g, k, low in zip(groups, midi, below, strict=True)
    )
    offset = float(np.median(cents - 100.0 * np.round(cents / 100.0))) if len(cents) else 0.0
    return LinedUp(notes=notes, offset_cents=offset, key_fifths=fifths)
