"""A player is followed through a long piece: on and on, going back, beginning elsewhere."""

from __future__ import annotations

import random

import pytest

from aim_builders import jig_of
from builders import segment
from jigwright.core.follow.live_follower import WHOLE_EVENTS, LiveFollower
from jigwright.core.jig.model import Jig
from jigwright.core.music.references import EQUAL, target_hz
from jigwright.core.sound.heard import Segment

_TUNE = ("D4", "E4", "F#4", "G4", "A4", "B4", "C#5", "D5")


def piece(n: int) -> Jig:
    """So many notes that never come again in the same order: steps and thirds by lot."""
    lot = random.Random(7)
    at, names = 3, []
    for _ in range(n):
        names.append(_TUNE[at])
        at = min(7, max(0, at + lot.choice((-2, -1, 1, 2))))
        at = lot.randrange(8) if names[-1] == _TUNE[at] else at
    return jig_of(" ".join(names))


LONG = piece(420)


class Player:
    """Plays events of a jig, one after the other, two a second."""

    def __init__(self, jig: Jig) -> None:
        self.jig = jig
        self.follower = LiveFollower(jig, 440.0)
        self.notes: list[Segment] = []

    def play(self, events: range, *, every: int = 1) -> list[int | None]:
        """Where the follower says he is, after each note (or after every so many)."""
        said = []
        for k, i in enumerate(events):
            f_hz = target_hz(EQUAL, self.jig.events[i].heads[0].pitch, 440.0)
            at_s = 0.5 + 0.5 * len(self.notes)
            self.notes.append(segment(1.003 * f_hz, at_s, seconds=0.45))
            if k % every == every - 1:
                said.append(self.follower.follow(self.notes).i_event)
        return said


def test_a_long_piece_is_followed_to_its_end_with_a_small_window() -> None:
    player = Player(LONG)
    assert player.play(range(420), every=4) == list(range(3, 420, 4))
    first, n = player.follower.window
    assert n <= 200
    assert first > 300


def test_a_short_piece_is_lined_up_whole() -> None:
    player = Player(piece(WHOLE_EVENTS))
    assert player.play(range(WHOLE_EVENTS), every=20)[-1] == WHOLE_EVENTS - 1
    assert player.follower.window == (0, WHOLE_EVENTS)
    assert LiveFollower(piece(WHOLE_EVENTS + 1), 440.0).window == (0, WHOLE_EVENTS + 1)
    assert LiveFollower(piece(WHOLE_EVENTS + 41), 440.0).window == (0, 200)


@pytest.mark.parametrize("back_to", [190, 170])
def test_going_back_a_little_is_found(back_to: int) -> None:
    player = Player(LONG)
    player.play(range(200), every=8)
    said = player.play(range(back_to, back_to + 24))
    assert said[14:] == list(range(back_to + 14, back_to + 24))


@pytest.mark.parametrize("begins", [0, 350])
def test_who_begins_elsewhere_is_found_before_long(begins: int) -> None:
    player = Player(LONG)
    player.play(range(200), every=8)
    said = player.play(range(begins, begins + 40))
    assert said[30:] == list(range(begins + 30, begins + 40))


def test_a_take_may_begin_anywhere() -> None:
    said = Player(LONG).play(range(300, 332))
    assert said[26:] == list(range(326, 332))


def test_onsets_are_told_of_first_attempts_in_the_window() -> None:
    player = Player(LONG)
    player.play(range(30), every=10)
    followed = player.follower.follow(player.notes)
    assert followed.onsets == tuple((i, 0.5 + 0.5 * i) for i in range(30))
    player.play(range(30, 200), every=8)
    later = player.follower.follow(player.notes).onsets
    assert later[-1] == (199, 0.5 + 0.5 * 199)
    assert len(later) < 120


def test_nothing_heard_is_nowhere() -> None:
    followed = LiveFollower(LONG, 440.0).follow([])
    assert followed.i_event is None
    assert followed.onsets == ()
