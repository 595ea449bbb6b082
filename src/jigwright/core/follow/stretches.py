"""A recording cut into what was played, what was tuned and what was said.

A lesson is played in turns with talk between. Playing ends where somebody speaks, or after a
silence as long as a take at the Stand waits. Strings are tuned where nothing but open strings
sounds and two of them sound together.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from jigwright.core.sound.heard import Heard, Segment, Speech
from jigwright.core.values import Floats

StretchKind = Literal["played", "tuned", "said"]
_SILENCE_S = 3.0
_OVERLAP_S = 0.5  # a last note may ring into what is said
_LEAST_S = 0.5
_NOTE_S = 0.3
_LEAD_S, _TAIL_S = 0.45, 0.9
_NEAR_CENTS = 70.0  # a peg may be far out


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Part of a recording.

    Parameters
    ----------
    kind : {"played", "tuned", "said"}
    start_s, end_s : float
    """

    kind: StretchKind
    start_s: float
    end_s: float


def stretches(heard: Heard) -> tuple[Stretch, ...]:
    """Cut what was heard.

    Parameters
    ----------
    heard : Heard
        Sounds heard in talk count as talk.

    Returns
    -------
    tuple of Stretch
        In time order; sounds too short for a note stand in none.
    """
    talks = heard.talks or ()
    said = [Stretch(kind="said", start_s=t.start_s, end_s=t.end_s) for t in talks]
    found = [
        Stretch(
            kind="tuned" if _is_tuning(group, heard) else "played",
            start_s=group[0].onset_s, end_s=group[-1].offset_s,
        )
        for group in _groups([s for s in heard.segments if not s.in_talk], talks)
        if group[-1].offset_s - group[0].onset_s >= _LEAST_S
        and (len(group) > 2 or any(s.offset_s - s.onset_s >= _NOTE_S for s in group))
    ]  # fmt: skip
    return tuple(sorted((*said, *found), key=lambda s: s.start_s))


def to_cut(heard: Heard) -> tuple[tuple[float, float], ...]:
    """From when to when each stretch that was played is cut out, with a little around it.

    Nothing of what was said or of another stretch is taken along.
    """
    found = stretches(heard)
    spans = []
    for k, s in enumerate(found):
        if s.kind != "played":
            continue
        before_s = found[k - 1].end_s if k else 0.0
        after_s = found[k + 1].start_s if k + 1 < len(found) else heard.duration_s
        start_s = max(s.start_s - _LEAD_S, min(before_s, s.start_s))
        spans.append((start_s, min(s.end_s + _TAIL_S, max(after_s, s.end_s))))
    return tuple(spans)


def _groups(segments: Sequence[Segment], talks: Sequence[Speech]) -> list[list[Segment]]:
    groups: list[list[Segment]] = []
    for s in segments:
        before = groups[-1][-1] if groups else None
        if before is None or _is_apart(before, s, talks):
            groups.append([s])
        else:
            groups[-1].append(s)
    return groups


def _is_apart(before: Segment, after: Segment, talks: Sequence[Speech]) -> bool:
    if after.onset_s - before.offset_s > _SILENCE_S:
        return True
    return any(
        t.start_s > before.offset_s - _OVERLAP_S and t.end_s < after.onset_s + _OVERLAP_S
        for t in talks
    )


def _is_tuning(group: Sequence[Segment], heard: Heard) -> bool:
    open_hz = np.array(heard.open_hz)
    if not len(open_hz):
        return False
    two = False
    for s in group:
        if s.i_pair >= 0:
            pair = heard.pairs[s.i_pair]
            if not (_is_open(pair.lower_hz, open_hz) and _is_open(pair.upper_hz, open_hz)):
                return False
            two = True
        elif s.offset_s - s.onset_s >= _NOTE_S and not _is_open(s.f0_hz, open_hz):
            return False
    return two


def _is_open(f_hz: float, open_hz: Floats) -> bool:
    return bool(np.abs(1200.0 * np.log2(f_hz / open_hz)).min() < _NEAR_CENTS)
