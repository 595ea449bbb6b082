"""Corrections by hand of what was taken for what, kept with the take."""

from __future__ import annotations

import json

from jigwright.core.follow.align import Pin
from jigwright.services.ports import StudioPort
from jigwright.services.remembered import remembered


def pins_of(studio: StudioPort, take_id: str) -> tuple[Pin, ...]:
    """Corrections of a take; none when what is kept cannot be read."""
    nothing: tuple[Pin, ...] = ()
    return remembered(
        studio, f"pins:{take_id}",
        lambda rows: tuple(
            Pin(at_s=float(at_s), i_event=None if i is None else int(i)) for at_s, i in rows
        ),
        nothing,
    )  # fmt: skip


def keep_pins(studio: StudioPort, take_id: str, pins: tuple[Pin, ...]) -> None:
    """Keep the corrections of a take."""
    studio.set_setting(f"pins:{take_id}", json.dumps([[p.at_s, p.i_event] for p in pins]))
