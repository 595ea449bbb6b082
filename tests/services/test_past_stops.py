"""A double stop over the takes of a shelf, from pure."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from aim_builders import jig_of
from builders import heard, keep_take, new_studio, segment
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Heard
from jigwright.services.practising import PURE_ENOUGH_CENTS, past_of_stop
from jigwright.services.take_reader import AS_PLAYED, TakeReader
from pair_builders import pair

JIG = jig_of("A4 D4+A4")


def played(wide_cents: float | None) -> Heard:
    """The take, its stop so wide; ``None``: one string only."""
    single = segment(440.0, 0.5)
    if wide_cents is None:
        return heard([single, segment(440.0, 1.0)])
    stop = pair([wide_cents] * 12, lower_hz=440.0 / 1.5, onset_s=1.0)
    two = replace(segment(stop.lower_hz, 1.0, seconds=1.0), i_pair=0)
    return replace(heard([single, two]), pairs=(stop,))


def test_a_stop_over_takes_is_told_from_pure(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    ways = (0.0, PURE_ENOUGH_CENTS + 0.4, PURE_ENOUGH_CENTS + 1.4, -12.0, None)
    takes = [
        keep_take(studio, f"t{k}", JIG, played(wide), utc=f"2026-11-0{k + 1}T10:00:00Z",
                  reference="equal")
        for k, wide in enumerate(ways)
    ]  # fmt: skip
    reader = TakeReader(studio)
    numbered = [(k + 1, t) for k, t in enumerate(takes)]
    stop_id = JIG.events[1].heads[-1].id
    past = past_of_stop(stop_id, numbered, reader, AS_PLAYED)
    assert [p.number for p in past] == [1, 2, 3, 4]
    assert [p.cents for p in past] == pytest.approx([0.0, 3.4, 4.4, -12.0], abs=0.05)
    assert [p.standing for p in past] == ["in", "in", "high", "low"]
    assert past_of_stop(JIG.events[0].heads[0].id, numbered, reader, AS_PLAYED) == ()
    assert isinstance(reader.jig_of(takes[0]), Jig)
    studio.close()
