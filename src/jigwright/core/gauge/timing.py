"""Time: tempo, onsets against the pulse, evenness of spacing and level, sounding length.

The tempo is a robust line through onsets over written positions; breaks (a stop, going back) begin
a new line with the same tempo, so a stop is not an uneven note.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.gauge.values import AgainstClicks, Timing
from jigwright.core.gauge_maths import robust_line
from jigwright.core.values import Floats, Unmeasured, median

METHOD_VERSION = 1
_LEAST_NOTES = 4
_BREAK_RATIO = 1.6
_OTHER_TEMPO = 0.04
_QUARTER_BEAT = 0.25


def measure_timing(
    rows: Sequence[int], onsets_s: Floats, beats: Floats, levels_db: Floats
) -> Timing | Unmeasured:
    """Measure the time of notes that were played once, in order.

    Parameters
    ----------
    rows : sequence of int
        Row indices of the notes.
    onsets_s, beats, levels_db : ndarray, shape (n,)
        Heard onsets, written positions in quarter notes, levels.

    Returns
    -------
    Timing or Unmeasured
        Reason: ``too_few``.
    """
    if len(onsets_s) < _LEAST_NOTES or np.ptp(beats) <= 0:
        return Unmeasured("too_few")
    step_s, step_beats = np.diff(onsets_s), np.diff(beats)
    usual = median(step_s / np.maximum(step_beats, 1e-6))
    whole = np.concatenate([[True], step_s < _BREAK_RATIO * usual * step_beats])
    group = np.cumsum(~whole)
    sizes = np.bincount(group)
    main = group == int(np.argmax(sizes))
    spb, _ = robust_line(beats[main], onsets_s[main])
    if spb <= 0:
        return Unmeasured("too_few")
    error = np.zeros(len(onsets_s))
    for g in range(len(sizes)):
        mine = group == g
        late = onsets_s[mine] - spb * beats[mine]
        error[mine] = late - median(late)
    inside = whole[1:]
    relative = step_s[inside] / (spb * step_beats[inside])
    return Timing(
        tempo_bpm=60.0 / spb,
        rows=tuple(rows),
        onset_error_ms=tuple(float(1000.0 * e) for e in error),
        evenness_time=float(100.0 * np.std(relative)) if len(relative) > 2 else float("nan"),
        evenness_level_db=float(1.48 * median(np.abs(levels_db - median(levels_db)))),
    )


def dotted_ratio(long_s: float, short_s: float, onset_uncertainty_s: float) -> tuple[float, float]:
    """Ratio of a long and a short note and half its 95 % range.

    Parameters
    ----------
    long_s, short_s : float
        From onset to onset.
    onset_uncertainty_s : float
        Half the 95 % range of one onset.
    """
    ratio = long_s / short_s
    relative = onset_uncertainty_s * np.sqrt(2.0) * np.hypot(1.0 / long_s, 1.0 / short_s)
    return ratio, float(ratio * relative)


def against_clicks(
    onsets_s: Floats, beats: Floats, first_click_s: float, bpm: float
) -> AgainstClicks | Unmeasured:
    """Hold onsets against the clicks that were heard while they were played.

    The player may begin on any beat: the whole beats between the jig's count and the metronome's
    are those that leave the least.

    Parameters
    ----------
    onsets_s, beats : ndarray, shape (n,)
        Heard onsets and written positions in beats of the click.
    first_click_s : float
        When a click on a beat was in the air at the microphone, in seconds of the take.
    bpm : float
        Clicks on a beat a minute.

    Returns
    -------
    AgainstClicks or Unmeasured
        Reasons: ``too_few``; ``not_with_click`` when the playing does not follow the click (its
        tempo is over 4 % off, or the onsets scatter over a quarter of a beat).
    """
    if len(onsets_s) < _LEAST_NOTES:
        return Unmeasured("too_few")
    heard = (np.asarray(onsets_s) - first_click_s) * bpm / 60.0
    off = heard - np.asarray(beats)
    off = off - np.round(median(off))
    pace, _ = robust_line(np.asarray(beats, dtype=float), heard)
    middle = median(off)
    if abs(pace - 1.0) > _OTHER_TEMPO or median(np.abs(off - middle)) > _QUARTER_BEAT:
        return Unmeasured("not_with_click")
    late_ms = off * 60_000.0 / bpm
    centre = median(late_ms)
    return AgainstClicks(
        late_ms=tuple(float(v) for v in late_ms),
        centre_ms=centre,
        spread_ms=1.48 * median(np.abs(late_ms - centre)),
    )
