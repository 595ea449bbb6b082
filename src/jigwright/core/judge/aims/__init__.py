"""Aims of a jig held against a take: one result an aim, in the jig's order."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from jigwright.core.gauge.values import AgainstClicks
from jigwright.core.isolation import isolated
from jigwright.core.jig.aims import SHOWN_ONLY, Aim, aims_of
from jigwright.core.jig.phrases import entries_of
from jigwright.core.judge.aims import bow
from jigwright.core.judge.aims.music import MUSIC
from jigwright.core.judge.aims.outcome import AimResult, AimState, Evidence, cannot_tell
from jigwright.core.judge.aims.ring import ring

__all__ = ["AimResult", "AimState", "Evidence", "all_met", "judge_aims"]

_JUDGES: dict[str, Callable[[Evidence, Aim], AimResult]] = {
    **MUSIC,
    "even_bow": bow.even_bow, "mirror": bow.mirror, "left_over": bow.left_over,
    "bow_change": bow.bow_change, "crossing": bow.crossing, "duration": bow.duration,
    "notes_in_bow": bow.evenness, "off_string": bow.evenness, "even_run": bow.evenness,
    "start": bow.start, "soft": bow.soft, "pluck": bow.pluck, "ring": ring,
}  # fmt: skip
# gauges of the whole take an aim is judged by: what a failed one did not find may be there
_WITHOUT: dict[str, frozenset[str]] = {
    "even_bow": frozenset({"strokes", "events"}), "mirror": frozenset({"strokes"}),
    "left_over": frozenset({"strokes"}), "duration": frozenset({"strokes"}),
    "bow_change": frozenset({"strokes"}),
    "crossing": frozenset({"events"}), "soft": frozenset({"events"}),
    "partial": frozenset({"events"}),
}  # fmt: skip


def judge_aims(evidence: Evidence) -> tuple[AimResult, ...]:
    """Hold every aim of a jig against a take; one that fails inside cannot be told.

    Where nobody chose aims and a metronome sounded, entries after rests are judged by it.
    """
    jig, asked = evidence.jig, aims_of(evidence.jig)
    entries = entries_of(jig)
    if not jig.aims and entries and isinstance(evidence.playing.against, AgainstClicks):
        asked = (*asked, Aim(kind="entry", places=entries))
    return tuple(_judge(evidence, aim) for aim in asked)


def _judge(evidence: Evidence, aim: Aim) -> AimResult:
    if aim.kind in SHOWN_ONLY:
        return AimResult(aim=aim, state="not_asked")
    if not evidence.rows(aim):
        return cannot_tell(aim, "not_heard")
    if evidence.playing.failed & _WITHOUT.get(aim.kind, frozenset()):
        return cannot_tell(aim, "failed")
    return isolated(
        f"aim {aim.kind}",
        partial(_JUDGES[aim.kind], evidence, aim),
        cannot_tell(aim, "failed"),
    )


def met_or_not(results: tuple[AimResult, ...]) -> bool | None:
    """Whether a take met its aims; ``None`` where it cannot be told."""
    if all_met(results):
        return True
    return False if any(r.state == "not_met" for r in results) else None


def all_met(results: tuple[AimResult, ...]) -> bool:
    """Whether a take counts: every aim that is judged was measured and met."""
    judged = [r for r in results if r.state != "not_asked"]
    return bool(judged) and all(r.state == "met" for r in judged)
