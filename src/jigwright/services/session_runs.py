"""A session that runs, kept from hour to hour: resumed on the same day, remembered the next."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict
from datetime import date
from typing import Any, cast

from jigwright.core.judge.plan import PlanItem
from jigwright.core.judge.session_run import Leg, SessionRun, SessionSum, summed_up
from jigwright.services.studio_port import SettingStore

_SETTING = "session-run"


def keep_run(studio: SettingStore, player_id: str, day: date, run: SessionRun | None) -> None:
    """Remember a session of a player; None: none is on its way and none was."""
    body = None
    if run is not None:
        legs = [
            {**asdict(g.item), "spent_s": round(g.spent_s, 1), "takes": g.takes, "met": g.met,
             "told": g.told, "stays": g.stays}
            for g in run.legs
        ]  # fmt: skip
        body = {"day": day.isoformat(), "at": run.at, "legs": legs}
    studio.set_setting(f"{_SETTING}:{player_id}", json.dumps(body))


def kept_run(studio: SettingStore, player_id: str) -> tuple[date, SessionRun] | None:
    """The last session of a player and its day; None if there was none, or it is not readable."""
    try:
        body = json.loads(studio.setting(f"{_SETTING}:{player_id}") or "null")
        if body is None:
            return None
        legs = tuple(_leg(row) for row in body["legs"])
        day, at = date.fromisoformat(body["day"]), int(body["at"])
    except (ValueError, KeyError, TypeError):
        return None
    if not legs or not 0 <= at <= len(legs):
        return None
    return day, SessionRun(legs=legs, at=at)


def _leg(row: Mapping[str, Any]) -> Leg:
    item = PlanItem(
        part=cast("Any", str(row["part"])), minutes=int(row["minutes"]), jig_id=row["jig_id"],
        title=str(row["title"]), why=cast("Any", str(row["why"])),
        repetitions=int(row["repetitions"]), heavy=bool(row["heavy"]), aim=row["aim"],
        by_times=bool(row.get("by_times", False)),
    )  # fmt: skip
    return Leg(
        item=item, spent_s=float(row["spent_s"]), takes=int(row["takes"]), met=int(row["met"]),
        told=int(row["told"]), stays=int(row["stays"]),
    )  # fmt: skip


def to_resume(studio: SettingStore, player_id: str, today: date) -> SessionRun | None:
    """A session that was begun today and is not over."""
    kept = kept_run(studio, player_id)
    if kept is None or kept[0] != today or kept[1].is_over:
        return None
    return kept[1]


def last_sum(studio: SettingStore, player_id: str, today: date) -> tuple[date, SessionSum] | None:
    """What the last session before today came to."""
    kept = kept_run(studio, player_id)
    if kept is None or kept[0] >= today:
        return None
    return kept[0], summed_up(kept[1])
