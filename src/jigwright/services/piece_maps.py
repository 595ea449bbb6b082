"""Takes for the map of a piece: its own, and those of what was made out of it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from jigwright.core.jig.model import Jig
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.piece_map import Played, Said, event_at, states_of
from jigwright.core.values import Unmeasured
from jigwright.services.moments import local_day
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort
from jigwright.services.take_reader import TakeReader

MOST_TAKES = 120


def family_of(piece: Jig, jigs: Sequence[Jig]) -> set[str]:
    """Ids of a piece and of every jig that was made out of it, step by step."""
    family = {piece.id}
    grown = True
    while grown:
        more = {
            j.id
            for j in jigs
            if j.derived_from is not None and j.derived_from[0] in family and j.id not in family
        }
        family |= more
        grown = bool(more)
    return family


def takes_of(piece: Jig, studio: StudioPort, player_id: str | None) -> list[TakeRecord]:
    """Takes that may say something of a piece, in order of time; the last of many."""
    family = family_of(piece, studio.jigs())
    found = [
        take
        for jig_id in sorted(family)
        for take in studio.takes(jig_id=jig_id, player_id=player_id)
        if not take.binned
    ]
    return sorted(found, key=lambda t: t.recorded_utc)[-MOST_TAKES:]


def played_of(take: TakeRecord, reader: TakeReader, studio: StudioPort) -> Played | None:
    """What a take says of its events, and what was said of it; None when it cannot be judged."""
    jig = reader.jig_of(take)
    judged = reader.judged(take)
    if jig is None or isinstance(judged, Unmeasured):
        return None
    return Played(
        take_id=take.id,
        day=local_day(take.recorded_utc, take.utc_offset_min).isoformat(),
        states=states_of(judged.notes, jig, judged.aims),
        said=tuple(_said(take, jig, judged.notes, studio)),
    )


def _said(
    take: TakeRecord, jig: Jig, notes: Sequence[JudgedNote], studio: StudioPort
) -> Iterator[tuple[str, Said]]:
    for remark in studio.remarks(take.id):
        event_id = event_at(notes, jig, remark.note_id, remark.at_s)
        if event_id is not None:
            day = local_day(remark.utc, take.utc_offset_min).isoformat()
            yield event_id, Said(day=day, who=remark.who, words=remark.words)
