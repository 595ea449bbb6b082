"""Makers of exercises, by family."""

from __future__ import annotations

from jigwright.core.errors import JigError
from jigwright.core.jig.makers import bow, pitch, ring, tone, two_strings
from jigwright.core.jig.makers.spec import (
    FAMILIES,
    Count,
    Family,
    Field,
    Maker,
    Setting,
    SettingChoice,
)

__all__ = [
    "FAMILIES",
    "MAKERS",
    "Count",
    "Family",
    "Field",
    "Maker",
    "Setting",
    "SettingChoice",
    "maker",
]

MAKERS: tuple[Maker, ...] = (
    *pitch.MAKERS,
    *bow.MAKERS,
    *two_strings.MAKERS,
    *ring.MAKERS,  # a family stays together
    *tone.MAKERS,
)


def maker(maker_id: str) -> Maker:
    """Return a maker by id.

    Raises
    ------
    JigError
        If there is none.
    """
    for one in MAKERS:
        if one.id == maker_id:
            return one
    raise JigError(f"unknown exercise {maker_id!r}: one of {', '.join(m.id for m in MAKERS)}")
