"""One call from what was heard to everything that can be said now."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jigwright.core.follow.align import Pin, line_up
from jigwright.core.follow.doubts import decided
from jigwright.core.follow.moves import FollowParams
from jigwright.core.follow.values import LinedUp
from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult, Evidence, judge_aims
from jigwright.core.judge.bow_findings import find_bow
from jigwright.core.judge.findings import Finding, PastLanding, find
from jigwright.core.judge.judging import Context, JudgedNote, judge
from jigwright.core.judge.measured import MeasuredNote, measure_notes
from jigwright.core.judge.own_best import NO_BEST, OwnBest
from jigwright.core.judge.playing import Playing
from jigwright.core.judge.ring_findings import find_rings
from jigwright.core.judge.tuning import NO_TUNING, TuningEstimate, estimate_tuning
from jigwright.core.music.pitch import PitchClass
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.ranges import is_room


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """Everything that can be said of a take under a context.

    Parameters
    ----------
    notes : tuple of JudgedNote
    playing : Playing or None
    tuning : TuningEstimate
    findings : tuple of Finding
    aims : tuple of AimResult
        In the jig's order; empty without a jig, or while its playing is not measured.
    """

    notes: tuple[JudgedNote, ...]
    playing: Playing | None
    tuning: TuningEstimate
    findings: tuple[Finding, ...]
    aims: tuple[AimResult, ...] = ()


def follow_and_measure(
    heard: Heard, jig: Jig | None, *, a4_hz: float, instrument_id: str, pins: Sequence[Pin] = ()
) -> tuple[LinedUp, tuple[MeasuredNote, ...]]:
    """Line a take up with its jig and run the gauges."""
    heard = decided(heard, jig, a4_hz=a4_hz)
    params = FollowParams(in_room=is_room(heard.segments, heard.tail_s))
    lined = line_up(heard.segments, jig, a4_hz=a4_hz, params=params, pairs=heard.pairs, pins=pins)
    return lined, measure_notes(heard, lined, instrument_id, jig)


def judge_take(
    measured: Sequence[MeasuredNote],
    jig: Jig | None,
    context: Context,
    *,
    key_fifths: int = 0,
    past: Sequence[PastLanding] = (),
    playing: Playing | None = None,
    best: OwnBest = NO_BEST,
) -> Judged:
    """Judge measured notes: cheap, so that a change of A or reference is felt at once."""
    notes = judge(measured, jig, context)
    no_findings: tuple[Finding, ...] = ()
    tonic = jig.key.tonic if jig is not None else PitchClass.from_fifths(key_fifths)
    bow = isolated(
        "findings of the bow",
        lambda: find_bow(notes, playing, jig) if playing is not None else [],
        list(no_findings),
    )
    rings = isolated("findings of the ring", lambda: find_rings(notes, jig), list(no_findings))
    return Judged(
        notes=notes,
        playing=playing,
        tuning=isolated(
            "tuning",
            lambda: estimate_tuning(
                notes, a4_hz=context.a4_hz, strings=context.strings, tonic=tonic
            ),
            NO_TUNING,
        ),
        findings=isolated(
            "findings",
            lambda: find(
                notes, tolerance_cents=context.tolerance_cents, past=past,
                further=[*bow, *rings], jig=jig,
                in_room=playing is not None and playing.in_room,
            ),
            no_findings,
        ),
        aims=judge_aims(
            Evidence(
                notes=notes, playing=playing, jig=jig, best=best,
                tolerance_cents=context.tolerance_cents,
            )
        )
        if jig is not None and playing is not None
        else (),
    )  # fmt: skip
