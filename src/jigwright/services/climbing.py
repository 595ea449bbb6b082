"""Ladders: where a player stands on one, and the jig of the next rung."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Sequence
from typing import Protocol

from jigwright.core.jig.model import Jig
from jigwright.core.judge.ladder import (
    READY_MADE,
    Ladder,
    PassRule,
    Standing,
    own_ladder,
    own_rung_jig,
    rung_jig,
    rung_of,
    standing,
)
from jigwright.core.judge.summary import TakeSummary, is_good
from jigwright.services.planning import tonic_of
from jigwright.services.records import TakeRecord
from jigwright.services.session import Session
from jigwright.services.studio_port import JigStore, PracticeStore
from jigwright.wording.daybook import ladder_name, rung_name


class ClimbStore(JigStore, PracticeStore, Protocol):
    """What ladders need of a studio."""


def ladders_on_offer(studio: PracticeStore) -> tuple[Ladder, ...]:
    """One's own first."""
    return (*studio.ladders(), *READY_MADE)


def make_ladder(
    studio: PracticeStore, jig: Jig, *, from_bpm: float, to_bpm: float, n_rungs: int,
    tolerance_cents: tuple[float, float], rule: PassRule,
) -> Ladder:  # fmt: skip
    """Make a ladder of a jig and keep it.

    Raises
    ------
    JigwrightError
    """
    made = own_ladder(
        f"own-{uuid.uuid4().hex[:8]}", jig, from_bpm=from_bpm, to_bpm=to_bpm, n_rungs=n_rungs,
        tolerance_cents=tolerance_cents, rule=rule,
    )  # fmt: skip
    studio.set_ladder(made)
    return made


def standing_on(
    studio: JigStore,
    session: Session,
    ladder: Ladder,
    takes: Sequence[TakeRecord],
    summary_of: Callable[[TakeRecord], TakeSummary | None],
    jig_of: Callable[[TakeRecord], Jig | None],
) -> Standing:
    """Where the player stands; takes without figures do not count yet."""
    kind = _climbed_with(studio, session, ladder)[0]
    walked = []
    for take in takes:
        rung = rung_of(take.jig_id or "", ladder, kind)
        summary = summary_of(take) if rung is not None else None
        if rung is not None and summary is not None:
            walked.append((rung, is_good(summary, jig_of(take))))
    return standing(ladder, walked)


def rung_to_work_on(studio: JigStore, session: Session, ladder: Ladder, where: Standing) -> Jig:
    """The jig of the rung to be worked on, kept in the studio.

    Raises
    ------
    JigwrightError
        If the instrument cannot play it.
    """
    i = min(where.rung, len(ladder.rungs) - 1)
    kind, tonic = _climbed_with(studio, session, ladder)
    if ladder.jig is not None:
        source = studio.jig(*ladder.jig)
        made = own_rung_jig(ladder, i, source, instrument_id=kind, tonic=tonic)
    else:
        title = f"{ladder_name(ladder.id)}: {rung_name(ladder.rungs[i])}"
        made = rung_jig(ladder, i, instrument_id=kind, tonic=tonic, title=title)
    known = {j.id: j for j in studio.jigs()}
    if made.id not in known:
        studio.add_jig(made, utc=session.clock())
        return made
    return known[made.id]


def _climbed_with(studio: JigStore, session: Session, ladder: Ladder) -> tuple[str, str]:
    """Instrument and tonic of a ladder's rungs; one's own ladders bring theirs along."""
    if ladder.jig is not None:
        source = studio.jig(*ladder.jig)
        return source.instrument_id, str(source.key.tonic)
    return session.kind, tonic_of(session)
