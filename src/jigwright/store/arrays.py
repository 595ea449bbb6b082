"""Curves of what was heard as plain arrays: one ``.npz`` a take, never pickled."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from jigwright.core.sound.heard import (
    BowTurn,
    Burst,
    Contours,
    Fall,
    Heard,
    LevelSwing,
    Pair,
    RingLine,
    Speech,
    Whistle,
)
from jigwright.core.values import Floats, read_only

_CURVES = ("f0_hz", "level_db", "clarity", "centroid_hz", "loudness_db")
_PAIR_NUMBERS = (
    "onset_s", "offset_s", "lower_hz", "upper_hz", "lower_uncertainty_cents",
    "upper_uncertainty_cents", "balance_db", "balance_uncertainty_db", "level_dbfs",
)  # fmt: skip
_RING_WHOLE = ("i_segment", "i_string", "partial")
_RING_NUMBERS = (
    *_RING_WHOLE, "f_hz", "level_db", "note_db", "decay_s", "slope_db_per_s", "slope_sd",
    "above_db", "floor_db", "offset_cents", "left_db", "from_s", "to_s",
)  # fmt: skip
_WHISTLE_NUMBERS = ("start_s", "end_s", "f_hz", "above_tone_db")
_PAIR_TRACKS = ("times_s", "lower_track_hz", "upper_track_hz", "balance_track_db")


def heard_arrays(heard: Heard) -> dict[str, Floats]:
    """Arrays to be kept."""
    arrays = {name: getattr(heard.contours, name) for name in _CURVES}
    pairs = heard.pairs
    arrays["pairs"] = np.array(
        [[getattr(p, n) for n in _PAIR_NUMBERS] for p in pairs], dtype=np.float64
    ).reshape(len(pairs), len(_PAIR_NUMBERS))
    arrays["pair_sizes"] = np.array([len(p.times_s) for p in pairs], dtype=np.float64)
    arrays["pair_parted"] = np.array([float(p.parted) for p in pairs], dtype=np.float64)
    for name in _PAIR_TRACKS:
        arrays[name] = np.concatenate([np.zeros(0), *[getattr(p, name) for p in pairs]])
    if heard.ring_lines is not None:
        arrays["ring_lines"] = np.array(
            [[getattr(q, n) for n in _RING_NUMBERS] for q in heard.ring_lines], dtype=np.float64
        ).reshape(len(heard.ring_lines), len(_RING_NUMBERS))
    arrays["open_hz"] = np.array(heard.open_hz, dtype=np.float64)
    arrays["whistles"] = np.array(
        [[getattr(w, n) for n in _WHISTLE_NUMBERS] for w in heard.whistles], dtype=np.float64
    ).reshape(len(heard.whistles), len(_WHISTLE_NUMBERS))
    arrays["window_s"] = np.array([heard.window_s])
    arrays["tail_s"] = np.array([heard.tail_s])
    if heard.falls is not None:
        arrays["falls"] = np.array(
            [[f.time_s, f.together_db] for f in heard.falls], dtype=np.float64
        ).reshape(len(heard.falls), 2)
    if heard.bursts is not None:
        arrays["bursts"] = _rows([(b.start_s, b.end_s, b.between_db) for b in heard.bursts])
    if heard.swings is not None:
        arrays["swings"] = _rows([(s.start_s, s.end_s, s.together_db) for s in heard.swings])
    if heard.turns is not None:
        arrays["turns"] = _rows([(t.time_s, t.lean, t.fits) for t in heard.turns])
    if heard.talks is not None:
        arrays["talks"] = np.array(
            [[t.start_s, t.end_s] for t in heard.talks], dtype=np.float64
        ).reshape(len(heard.talks), 2)
    return arrays


def _rows(values: list[tuple[float, float, float]]) -> Floats:
    return np.array(values, dtype=np.float64).reshape(len(values), 3)


def read_window_s(arrays: Mapping[str, Floats]) -> float:
    """Length of the analysis window; 0 where an earlier version did not keep it."""
    kept = arrays.get("window_s", np.zeros(1))
    return float(kept[0]) if len(kept) and 0.0 <= float(kept[0]) < 1.0 else 0.0


def read_falls(arrays: Mapping[str, Floats]) -> tuple[Fall, ...] | None:
    """Dips of the level inside notes; ``None`` where an earlier version did not look.

    Raises
    ------
    ValueError
        If they do not fit.
    """
    kept = arrays.get("falls")
    if kept is None:
        return None
    return tuple(Fall(time_s=float(t), together_db=float(db)) for t, db in kept)


def read_bursts(arrays: Mapping[str, Floats]) -> tuple[Burst, ...] | None:
    """Rough stretches inside notes; ``None`` where an earlier version did not look.

    Raises
    ------
    ValueError
        If they do not fit.
    """
    kept = arrays.get("bursts")
    if kept is None:
        return None
    return tuple(Burst(start_s=float(a), end_s=float(b), between_db=float(db)) for a, b, db in kept)


def read_turns(arrays: Mapping[str, Floats]) -> tuple[BowTurn, ...] | None:
    """Where one pitch begins again; ``None`` where an earlier version did not look.

    Raises
    ------
    ValueError
        If it does not fit.
    """
    kept = arrays.get("turns")
    if kept is None:
        return None
    return tuple(BowTurn(time_s=float(a), lean=float(b), fits=float(c)) for a, b, c in kept)


def read_talks(arrays: Mapping[str, Floats]) -> tuple[Speech, ...] | None:
    """Where somebody speaks; ``None`` where an earlier version did not look.

    Raises
    ------
    ValueError
        If it does not fit.
    """
    kept = arrays.get("talks")
    if kept is None:
        return None
    return tuple(Speech(start_s=float(a), end_s=float(b)) for a, b in kept)


def read_swings(arrays: Mapping[str, Floats]) -> tuple[LevelSwing, ...] | None:
    """Waves of level along notes; ``None`` where an earlier version did not look.

    Raises
    ------
    ValueError
        If they do not fit.
    """
    kept = arrays.get("swings")
    if kept is None:
        return None
    return tuple(
        LevelSwing(start_s=float(a), end_s=float(b), together_db=float(db)) for a, b, db in kept
    )


def read_tail_s(arrays: Mapping[str, Floats]) -> float:
    """How long notes linger under the next; NaN where an earlier version did not look."""
    kept = arrays.get("tail_s", np.zeros(0))
    return float(kept[0]) if len(kept) and 0.0 <= float(kept[0]) < 10.0 else float("nan")


def read_ring_lines(arrays: Mapping[str, Floats]) -> tuple[RingLine, ...] | None:
    """What stands at open strings' partials; ``None`` where an earlier version did not look.

    Raises
    ------
    ValueError
        If the table does not fit.
    """
    kept = arrays.get("ring_lines")
    if kept is None:
        return None
    if kept.ndim != 2 or kept.shape[1] != len(_RING_NUMBERS):
        raise ValueError("lines of what rang do not fit")
    lines = []
    for row in kept:
        values = dict(zip(_RING_NUMBERS, (float(v) for v in row), strict=True))
        whole = {n: int(values.pop(n)) for n in _RING_WHOLE}
        lines.append(RingLine(**whole, **values))  # type: ignore[arg-type]
    return tuple(lines)


def read_open_hz(arrays: Mapping[str, Floats]) -> tuple[float, ...]:
    """How the strings were taken to be tuned; empty where an earlier version did not keep it."""
    return tuple(float(v) for v in arrays.get("open_hz", np.zeros(0)))


def read_heard_arrays(
    arrays: Mapping[str, Floats],
) -> tuple[Contours, tuple[Pair, ...], tuple[Whistle, ...]]:
    """Curves, pairs and whistles (none in what earlier methods kept).

    Raises
    ------
    KeyError, ValueError
        If something is missing or does not fit.
    """
    contours = Contours(**{name: read_only(arrays[name]) for name in _CURVES})
    kept = arrays.get("whistles", np.zeros((0, len(_WHISTLE_NUMBERS))))
    whistles = tuple(
        Whistle(start_s=float(r[0]), end_s=float(r[1]), f_hz=float(r[2]), above_tone_db=float(r[3]))
        for r in kept
    )
    return contours, read_pairs(arrays), whistles


def read_pairs(arrays: Mapping[str, Floats]) -> tuple[Pair, ...]:
    """Only the pairs.

    Raises
    ------
    KeyError, ValueError
        If something is missing or does not fit.
    """
    sizes = arrays["pair_sizes"].astype(np.intp)
    starts = np.concatenate([[0], np.cumsum(sizes)])
    parted = arrays.get("pair_parted", np.zeros(len(sizes)))
    pairs = []
    for i, row in enumerate(arrays["pairs"]):
        part = slice(int(starts[i]), int(starts[i + 1]))
        numbers = dict(zip(_PAIR_NUMBERS, (float(v) for v in row), strict=True))
        tracks = {name: read_only(arrays[name][part]) for name in _PAIR_TRACKS}
        values: dict[str, Any] = {**numbers, **tracks, "parted": bool(parted[i])}
        pairs.append(Pair(**values))
    return tuple(pairs)
