"""Pitch traces of a take's notes, prepared once and moved when A or reference changes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.sound.heard import Heard, Segment
from jigwright.ui.painting.rows import HOP_S, LaneRow

Trace = NDArray[np.float64]


def traces_abs_cents(
    measured: Sequence[MeasuredNote], heard: Heard, margin_s: float
) -> tuple[Trace, ...]:
    """Contour of every note in cents re 1 Hz; of a double stop the upper voice.

    Parameters
    ----------
    measured : sequence of MeasuredNote
    heard : Heard
    margin_s : float
        Left out at both ends of a note.
    """
    f0 = np.asarray(heard.contours.f0_hz, dtype=float)
    cents = 1200.0 * np.log2(f0)
    parts: list[Trace] = []
    for m in measured:
        if m.segment is None:
            parts.append(np.zeros(0))
            continue
        a, b = trace_frames(m.segment, margin_s)
        if m.segment.i_pair >= 0:
            pair = heard.pairs[m.segment.i_pair]
            at_s = np.arange(a, b + 1) * HOP_S
            upper = np.interp(at_s, pair.times_s, pair.upper_track_hz, left=np.nan, right=np.nan)
            parts.append(1200.0 * np.log2(upper))
            continue
        part = np.array(cents[a : b + 1])
        part[np.abs(part - 1200.0 * np.log2(m.segment.f0_hz)) > 250.0] = np.nan
        parts.append(part)
    return tuple(parts)


def trace_frames(segment: Segment, margin_s: float) -> tuple[int, int]:
    """First and last frame whose window lies inside the note."""
    a = int(np.ceil((segment.onset_s + margin_s) / HOP_S))
    return a, max(a, int((segment.offset_s - margin_s) / HOP_S))


def lane_rows(
    notes: Sequence[JudgedNote], traces: Sequence[Trace], margin_s: float
) -> tuple[LaneRow, ...]:
    """What the lanes draw of every note against its target."""
    attempts: dict[int, int] = {}
    for n in notes:
        i = n.measured.lined.i_event
        if i is not None:
            attempts[i] = max(attempts.get(i, 0), n.measured.lined.attempt)
    rows = []
    for n, cents in zip(notes, traces, strict=True):
        segment, lined = n.measured.segment, n.measured.lined
        last = lined.i_event is None or lined.attempt == attempts[lined.i_event]
        rows.append(
            LaneRow(
                standing=n.standing, state=lined.state, attempt=lined.attempt, last_attempt=last,
                cents=n.cents, uncertainty_cents=n.uncertainty_cents,
                onset_s=segment.onset_s if segment else None,
                offset_s=segment.offset_s if segment else None,
                first_frame=trace_frames(segment, margin_s)[0] if segment else 0,
                trace_cents=cents - 1200.0 * np.log2(n.target_hz),
            )
        )  # fmt: skip
    return tuple(rows)
