"""Judged notes, strokes and takes with chosen figures, for aims."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from builders import segment
from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.values import BowChange, BowEvent, Level, Stroke, Timing, Vibrato
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult, Evidence, judge_aims
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.measured import MeasuredNote
from jigwright.core.judge.playing import Playing
from jigwright.core.values import Unmeasured

NO = Unmeasured("not_needed")
BEAT_S = 0.5


def jig_of(line: str, *aims: Aim, instrument_id: str = "violin", **changes: Any) -> Jig:
    """A jig from a line of text with its aims."""
    made = jig_from_line(line, jig_id="j", instrument_id=instrument_id, title="j", tempo_bpm=120)
    return replace(made, aims=aims, **changes)


def note(
    jig: Jig,
    i: int,
    *,
    cents: float | None = 0.0,
    uncertainty: float = 0.5,
    standing: str = "in",
    state: str = "played",
    attempt: int = 1,
    string: int | None = 2,
    finger: int | None = 1,
    onset_s: float | None = None,
    **gauges: Any,
) -> JudgedNote:
    """One row of a take; a note that was not heard has no cents."""
    event = jig.events[i]
    heads = event.heads
    at_s = 0.5 + BEAT_S * float(event.onset_beats) if onset_s is None else onset_s
    lined = LinedNote(
        state=state, pitch=heads[-1].pitch, i_event=i, note_id=heads[-1].id,  # type: ignore[arg-type]
        attempt=attempt, segments=(i,), lower=heads[0].pitch if len(heads) > 1 else None,
    )  # fmt: skip
    filled = {
        name: gauges.pop(name, NO)
        for name in (
            "arrival", "vibrato", "level", "tone", "start", "double", "ring", "pluck",
        )
    }  # fmt: skip
    filled["trill"] = gauges.pop("trill", Unmeasured("no_ornament"))
    seconds = gauges.pop("seconds", 0.45)
    measured = MeasuredNote(
        lined=lined, **filled,
        segment=None if cents is None else segment(440.0, at_s, seconds=seconds),
    )  # fmt: skip
    return JudgedNote(
        measured=measured, target_hz=440.0, cents=cents, uncertainty_cents=uncertainty,
        standing=standing, string=string, finger=finger, off_mm=None, **gauges,  # type: ignore[arg-type]
    )  # fmt: skip


def all_in(jig: Jig, changes: Mapping[int, Mapping[str, Any]] | None = None) -> list[JudgedNote]:
    """All notes of a jig in tune, but for some."""
    return [note(jig, i, **(changes or {}).get(i, {})) for i in range(len(jig.events))]


def stroke(row: int, direction: str = "down", *, seconds: float = 3.0, **figures: Any) -> Stroke:
    """One stroke a row, four seconds apart."""
    start_s = 4.0 * row
    usual = {
        "steadiness_db": 0.5, "end_hurry_db": 0.0, "slope_db_per_s": 0.0, "mean_dbfs": -20.0
    }  # fmt: skip
    return Stroke(
        start_s=start_s, end_s=start_s + seconds, direction=direction, rows=(row,),
        **(usual | figures),
    )  # fmt: skip


def change(row: int, came: str, *, gap_ms: float = 20.0) -> BowChange:
    """A change into a row."""
    return BowChange(
        time_s=4.0 * row, from_direction=came, to_direction="up" if came == "down" else "down",
        rows=(row - 1, row), dip_db=8.0, gap_ms=gap_ms, bump_db=0.0, noise_db=0.0,
        pitch_jolt_cents=0.0,
    )  # fmt: skip


def event(kind: str, row: int, *, share: float = 0.5, strength: float = 12.0) -> BowEvent:
    """Something inside a stroke of three seconds."""
    at_s = 4.0 * row + 3.0 * share
    return BowEvent(kind=kind, start_s=at_s - 0.02, end_s=at_s + 0.02, row=row, strength=strength)  # type: ignore[arg-type]


def vibrato_of(extent_cents: float = 40.0, *, present: bool = True) -> Vibrato:
    """A vibrato, or a note known to have none."""
    nan = float("nan")
    if not present:
        return Vibrato(
            present=False, rate_hz=nan, extent_cents=nan, extent_uncertainty_cents=nan,
            regularity=0.4, start_s=nan,
        )  # fmt: skip
    return Vibrato(
        present=True, rate_hz=5.5, extent_cents=extent_cents, extent_uncertainty_cents=2.0,
        regularity=0.9, start_s=0.1,
    )  # fmt: skip


def level(db: float = -20.0, **figures: Any) -> Level:
    """A level without a shape."""
    usual = {
        "range_db": 1.0, "slope_db_per_s": 0.0, "shape": "level", "tremor_hz": float("nan"),
        "tremor_db": float("nan"),
    }  # fmt: skip
    return Level(mean_dbfs=db, **(usual | figures))


def timing(errors_ms: Sequence[float], *, uneven: float = 2.0, rows: Sequence[int] = ()) -> Timing:
    """Onset errors of the rows."""
    return Timing(
        tempo_bpm=120.0, rows=tuple(rows) or tuple(range(len(errors_ms))),
        onset_error_ms=tuple(errors_ms), evenness_time=uneven, evenness_level_db=1.0,
    )  # fmt: skip


def playing(**parts: Any) -> Playing:
    """What was measured over notes; the rest is empty."""
    usual: dict[str, Any] = {
        "strokes": (), "changes": (), "events": (), "timing": NO, "sounding_ratio": ()
    }  # fmt: skip
    return Playing(**(usual | parts))


def results(
    jig: Jig, notes: Sequence[JudgedNote], tolerance_cents: float = 10.0, **parts: Any
) -> tuple[AimResult, ...]:
    """The aims of a jig held against a take."""
    return judge_aims(
        Evidence(
            notes=notes, playing=playing(**parts), jig=jig, tolerance_cents=tolerance_cents
        )
    )  # fmt: skip


def only(jig: Jig, notes: Sequence[JudgedNote], **parts: Any) -> AimResult:
    """The one aim of a jig held against a take."""
    (result,) = results(jig, notes, **parts)
    return result
