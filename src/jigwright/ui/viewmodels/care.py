"""How long somebody worked on what tires: slow bows, octaves, stretches, plucking."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from jigwright.core.judge.plan import is_heavy
from jigwright.ui.viewmodels.desk import DeskModel

ENOUGH_MINUTES = 10.0
_LAST = timedelta(hours=12)


def heavy_minutes(desk: DeskModel, now: datetime | None = None) -> float:
    """Minutes of takes of tiring exercises that the present player made in the last twelve hours.

    Only what sounded is counted, so it is less than what was played.
    """
    if desk.player is None:
        return 0.0
    since = ((now or datetime.now(UTC)) - _LAST).strftime("%Y-%m-%dT%H:%M:%SZ")
    seconds = 0.0
    for take in reversed(desk.studio.takes(player_id=desk.player.id)):
        if take.recorded_utc < since:
            break
        jig = desk.jig_of(take)
        if jig is not None and is_heavy(jig):
            seconds += take.duration_s
    return seconds / 60.0
