"""Open strings as they were checked on a day."""

from __future__ import annotations

import json
from collections.abc import Mapping

from jigwright.core.checking import number
from jigwright.core.music.pitch import Pitch
from jigwright.services.ports import StudioPort
from jigwright.services.remembered import remembered


def keep_strings(
    studio: StudioPort, owned_id: str, day: str, open_hz: Mapping[Pitch, float]
) -> None:
    """Keep what a string check found, for takes of that day (UTC, ``YYYY-MM-DD``)."""
    text = json.dumps({"day": day, "hz": {str(s): hz for s, hz in open_hz.items()}})
    studio.set_setting(f"strings:{owned_id}", text)
    studio.set_setting(f"strings:{owned_id}:{day}", text)


def strings_of_day(studio: StudioPort, owned_id: str, day: str) -> dict[Pitch, float]:
    """Open strings as checked on a day in Hz; empty without a check."""
    nothing: dict[Pitch, float] = {}
    return remembered(
        studio, f"strings:{owned_id}:{day}",
        lambda kept: {
            Pitch.parse(name): number(f, name, 10, 5000) for name, f in kept["hz"].items()
        },
        nothing,
    )  # fmt: skip
