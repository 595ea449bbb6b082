"""What a jig makes of a take's doubts is decided once, and anew when any figure differs."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import jig_of
from builders import segment
from jigwright.core.follow import doubts
from jigwright.core.follow.doubts import decide
from jigwright.core.music.references import EQUAL, target_hz
from pair_builders import pair

JIG = jig_of("D4 E4 F#4 G4")
NOTES = [
    segment(target_hz(EQUAL, e.heads[0].pitch, 440.0), 0.5 + 0.5 * i)
    for i, e in enumerate(JIG.events)
]


@pytest.fixture
def n_decided(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """Counts how often it was really decided."""
    count = [0]
    real = doubts._decide

    def counted(*args, **more):
        count[0] += 1
        return real(*args, **more)

    monkeypatch.setattr(doubts, "_decide", counted)
    doubts._DECIDED.clear()
    return count


def test_the_same_take_is_decided_once_and_alike(n_decided: list[int]) -> None:
    stops = [pair([0.0, 1.0, 2.0])]
    first = decide(NOTES, [], JIG, a4_hz=440.0, pairs=stops)
    again = decide([replace(n) for n in NOTES], [], replace(JIG), a4_hz=440.0, pairs=list(stops))
    assert again == first
    assert n_decided == [1]
    again[1].clear()  # what was handed out may be changed
    assert decide(NOTES, [], JIG, a4_hz=440.0, pairs=stops) == first


@pytest.mark.parametrize("name", ["level_dbfs", "spread_cents", "attack_db", "core_end_s"])
def test_another_figure_of_one_note_is_another_take(n_decided: list[int], name: str) -> None:
    decide(NOTES, [], JIG, a4_hz=440.0)
    other = replace(NOTES[2], **{name: getattr(NOTES[2], name) + 0.01})
    chosen, _ = decide([*NOTES[:2], other, NOTES[3]], [], JIG, a4_hz=440.0)
    assert n_decided == [2]
    assert chosen[2] == other


def test_another_jig_tuning_or_stop_is_decided_anew(n_decided: list[int]) -> None:
    decide(NOTES, [], JIG, a4_hz=440.0)
    decide(NOTES, [], replace(JIG, revision=2), a4_hz=440.0)
    decide(NOTES, [], JIG, a4_hz=441.0)
    decide(NOTES, [], JIG, a4_hz=440.0, pairs=[pair([0.0])])
    assert n_decided == [4]


def test_only_the_last_takes_are_remembered(n_decided: list[int]) -> None:
    for a4_hz in (440.0, 441.0, 442.0, 443.0, 444.0, 440.0):
        decide(NOTES, [], JIG, a4_hz=a4_hz)
    assert n_decided == [6]
