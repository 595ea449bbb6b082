"""A note that was not found: left out, or nobody can tell. Time and silence decide."""

from __future__ import annotations

from dataclasses import replace

import pytest

from builders import segment
from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.jig.line import jig_from_line
from jigwright.core.sound.heard import Segment

NAMES = "D4 E4 F#4 G4 A4 B4 C#5 D5"
HZ = dict(zip(NAMES.split(), (293.66, 329.63, 369.99, 392.0, 440.0, 493.88, 554.37, 587.33),
              strict=True))  # fmt: skip
JIG = jig_from_line(NAMES, jig_id="j", instrument_id="violin", title="j", tempo_bpm=120)


def a_note(name: str, at_s: float, seconds: float = 0.5, attack_db: float = 3.0) -> Segment:
    return replace(segment(HZ[name], at_s, seconds=seconds), attack_db=attack_db)


def state_of(name: str, *segments: Segment) -> str:
    lined = line_up(segments, JIG, a4_hz=440.0, params=FollowParams())
    (state,) = (n.state for n in lined.notes if str(n.pitch) == name and n.state != "extra")
    return state


def without_g(resumes_s: float, *, attack_db: float = 3.0, f_sharp_s: float = 0.5) -> str:
    """D4 E4 F#4 at half a second each from 0, then A4 … from ``resumes_s``; what of G4?"""
    before = [a_note("D4", 0.0), a_note("E4", 0.5), a_note("F#4", 1.0, f_sharp_s)]
    after = [
        a_note(n, resumes_s + 0.5 * i, attack_db=attack_db if i == 0 else 3.0)
        for i, n in enumerate(("A4", "B4", "C#5", "D5"))
    ]
    return state_of("G4", *before, *after)


@pytest.mark.parametrize(
    ("resumes_s", "state"),
    [(1.5, "missed"), (1.79, "missed"), (1.81, "uncertain"), (2.0, "uncertain")],
)
def test_who_took_the_time_of_a_note_may_have_played_it(resumes_s: float, state: str) -> None:
    assert without_g(resumes_s) == state


@pytest.mark.parametrize(("attack_db", "state"), [(11.9, "uncertain"), (12.1, "missed")])
def test_a_silence_is_no_note(attack_db: float, state: str) -> None:
    assert without_g(2.0, attack_db=attack_db) == state


def test_a_hard_attack_without_a_gap_is_no_silence() -> None:
    assert without_g(2.0, attack_db=20.0, f_sharp_s=0.95) == "uncertain"
    assert without_g(2.0, attack_db=20.0, f_sharp_s=0.9) == "uncertain"  # the gap is left out
    assert without_g(2.0, attack_db=20.0, f_sharp_s=0.7) == "missed"


def test_slow_playing_needs_more_time() -> None:
    """Written half seconds played as 0.8 s: 0.4 s more are no note, 0.6 s are."""

    def g(resumes_s: float) -> str:
        before = [a_note(n, 0.8 * i, 0.8) for i, n in enumerate(("D4", "E4", "F#4"))]
        after = [
            a_note(n, resumes_s + 0.5 * i, 0.5) for i, n in enumerate(("A4", "B4", "C#5", "D5"))
        ]
        return state_of("G4", *before, *after)

    assert g(2.4 + 0.4) == "missed"
    assert g(2.4 + 0.6) == "uncertain"


def test_what_was_something_else_took_its_own_time() -> None:
    before = [a_note("D4", 0.0), a_note("E4", 0.5), a_note("F#4", 1.0)]
    after = [a_note(n, 2.0 + 0.5 * i) for i, n in enumerate(("A4", "B4", "C#5", "D5"))]
    scrap = replace(segment(1200.0, 1.55, seconds=0.3), attack_db=3.0)
    lined = line_up((*before, scrap, *after), JIG, a4_hz=440.0, params=FollowParams())
    states = [n.state for n in lined.notes]
    assert "uncertain" not in states


def test_the_first_note_and_the_last_have_no_time_to_go_by() -> None:
    rest = [a_note(n, 1.0 + 0.5 * i) for i, n in enumerate(NAMES.split()[1:])]
    assert state_of("D4", *rest) == "missed"
    most = [a_note(n, 0.5 * i) for i, n in enumerate(NAMES.split()[:-1])]
    assert state_of("D5", *most) == "missed"
    longer = [*most[:-1], a_note("C#5", 3.0, 0.85)]
    assert state_of("D5", *longer) == "uncertain"
