"""Work on a weak place of a piece: its steps in the studio, and where it was left."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import Protocol

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.jig.spot_path import PathStep, WeakPlace, spot_path
from jigwright.services.studio_port import JigStore, SettingStore
from jigwright.wording.spot_path import step_title

_SETTING = "spot-path"


class PathStore(JigStore, SettingStore, Protocol):
    """What it needs of a studio."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotWork:
    """A place that is being worked on.

    Parameters
    ----------
    piece : Jig
    place : WeakPlace
    steps : tuple of PathStep
    at : int
        Step in hand.
    good : int
        Good takes on it so far.
    """

    piece: Jig
    place: WeakPlace
    steps: tuple[PathStep, ...]
    at: int = 0
    good: int = 0

    @property
    def step(self) -> PathStep:
        """The step in hand."""
        return self.steps[self.at]


def work_on(piece: Jig, place: WeakPlace) -> SpotWork:
    """Lay out the steps of a place.

    Raises
    ------
    JigwrightError
    """
    text = f"{piece.id} {piece.revision} {place.first_bar} {place.last_bar} {place.worst}"
    path_id = hashlib.sha256(text.encode()).hexdigest()[:12]
    steps = spot_path(
        piece, place, path_id=path_id, title_of=lambda kind: step_title(piece, place, kind)
    )
    return SpotWork(piece=piece, place=place, steps=steps)


def keep_step(studio: JigStore, step: PathStep, utc: str) -> Jig:
    """The jig of a step, in the studio."""
    known = {j.id: j for j in studio.jigs()}
    if step.kind == "whole":
        return known.get(step.jig.id, step.jig)
    if step.jig.id not in known:
        studio.add_jig(step.jig, utc=utc)
        return step.jig
    return known[step.jig.id]


def remember(studio: SettingStore, player_id: str, work: SpotWork | None) -> None:
    """Keep where a player is, for tomorrow; None: nothing is open."""
    body = None
    if work is not None:
        p = work.place
        body = {
            "piece": work.piece.id, "revision": work.piece.revision, "at": work.at,
            "good": work.good, "place": [p.first_bar, p.last_bar, p.worst, p.n_off, p.n_told],
        }  # fmt: skip
    studio.set_setting(f"{_SETTING}:{player_id}", json.dumps(body))


def left_off(studio: PathStore, player_id: str) -> SpotWork | None:
    """Where a player left off; None when nowhere, or when the piece has changed since."""
    try:
        body = json.loads(studio.setting(f"{_SETTING}:{player_id}") or "null")
        if body is None:
            return None
        piece = next(j for j in studio.jigs() if j.id == body["piece"])
        if piece.revision != body["revision"]:
            return None
        first, last, worst, n_off, n_told = (int(v) for v in body["place"])
        place = WeakPlace(first_bar=first, last_bar=last, worst=worst, n_off=n_off, n_told=n_told)
        work = work_on(piece, place)
        at, good = int(body["at"]), int(body["good"])
    except (ValueError, KeyError, TypeError, StopIteration, JigwrightError):
        return None
    if not 0 <= at < len(work.steps) or good < 0:
        return None
    return SpotWork(piece=piece, place=place, steps=work.steps, at=at, good=good)
