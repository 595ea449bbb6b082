"""Where the last takes of a jig went wrong."""

from __future__ import annotations

from collections import Counter

from jigwright.core.jig.model import Jig
from jigwright.ui.viewmodels.desk import DeskModel

LAST_TAKES = 5


def troubled_events(model: DeskModel, jig: Jig) -> tuple[dict[int, int], int]:
    """In how many of the last takes each event was out, wrong or missing, and how many those are.

    Events of earlier revisions are found again by their ids.
    """
    at = {e.id: i for i, e in enumerate(jig.events)}
    takes = model.studio.takes(jig_id=jig.id)[-LAST_TAKES:]
    count: Counter[int] = Counter()
    n_heard = 0
    for take in takes:
        notes = model.landings(take, as_played=True)
        was = model.jig_of(take)
        if not notes or was is None:
            continue
        n_heard += 1
        bad = {
            was.events[n.measured.lined.i_event].id
            for n in notes
            if n.measured.lined.i_event is not None
            and n.standing in ("low", "high", "wrong", "missed")
        }
        count.update(at[e] for e in bad if e in at)
    return dict(count), n_heard
