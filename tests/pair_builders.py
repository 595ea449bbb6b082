"""Stops with chosen tracks; no sound is needed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jigwright.core.sound.heard import Pair

STEP_S = 0.085


def pair(
    wide_cents: Sequence[float],
    *,
    lower_cents: Sequence[float] | float = 0.0,
    lower_hz: float = 294.0,
    ratio: float = 1.5,
    onset_s: float = 1.0,
    **changes: float,
) -> Pair:
    """A stop followed from window to window: how wide its interval was, and where its lower note.

    Parameters
    ----------
    wide_cents : sequence of float
        Of the interval, from the pure one; one value a window.
    lower_cents : sequence of float or float
        Of the lower note, from ``lower_hz``.
    lower_hz, ratio, onset_s : float
    """
    wide = np.asarray(wide_cents, dtype=float)
    low = np.broadcast_to(np.asarray(lower_cents, dtype=float), wide.shape)
    lower_track = lower_hz * 2 ** (low / 1200.0)
    upper_track = lower_track * ratio * 2 ** (wide / 1200.0)
    times = onset_s + STEP_S * (1.0 + np.arange(len(wide)))
    usual = {
        "offset_s": float(times[-1]) + STEP_S, "lower_uncertainty_cents": 0.4,
        "upper_uncertainty_cents": 0.4, "balance_db": 0.0, "balance_uncertainty_db": 2.0,
        "level_dbfs": -20.0,
    }  # fmt: skip
    return Pair(
        onset_s=onset_s, lower_hz=float(np.median(lower_track)),
        upper_hz=float(np.median(upper_track)), times_s=times, lower_track_hz=lower_track,
        upper_track_hz=upper_track, balance_track_db=np.zeros(len(wide)), **(usual | changes),
    )  # fmt: skip
