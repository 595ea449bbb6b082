"""Makers of exercises, by family."""

from __future__ import annotations

from jigwright.core.errors import JigError
from jigwright.core.jig.makers import bow, hand, pitch, ring, tone, tunes, two_strings
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
    *hand.MAKERS,
    *bow.MAKERS,
    *two_strings.MAKERS,
    *sorted(
        (*ring.MAKERS, *tone.MAKERS, *tunes.MAKERS), key=lambda m: FAMILIES.index(m.family)
    ),  # a family stays together
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
