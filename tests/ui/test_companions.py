"""What sounds under the playing: counted bars, clicks, and an accompaniment; no device."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest

from aim_builders import jig_of
from builders import new_studio
from jigwright.core.companion import CLICKS_HZ, RATE_HZ, click_block
from jigwright.core.jig.cue import CueNote, with_cue
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.companions import Companions
from jigwright.ui.widgets.hear_options import SLOWLY, HearOptions

PLAIN = jig_of("D4:1 E4:1 F#4:1 G4:1 " * 2, id="plain")  # 120 a minute: a bar is two seconds
CUED = with_cue(
    jig_of("D4:1 E4:1 F#4:1 G4:1 " * 2, id="cued"),
    [CueNote(onset_beats=Fraction(0), end_beats=Fraction(4), midi=57)],
)


class Out:
    """Takes what is to sound, and makes any second of it."""

    def __init__(self) -> None:
        self.make: Callable[[int, int], np.ndarray] | None = None
        self.zero_s: float | None = 10.0

    def play_blocks(self, make: Callable[[int, int], np.ndarray], rate_hz: int) -> None:
        assert rate_hz == RATE_HZ
        self.make = make

    def stop(self) -> None:
        self.make = None

    def second(self, k: int) -> np.ndarray:
        return self.make(k * RATE_HZ, RATE_HZ)


class World:
    def __init__(self, folder: Path) -> None:
        self.studio = new_studio(folder)
        for jig in (PLAIN, CUED):
            self.studio.add_jig(jig, utc="2026-11-01T10:00:00Z")
        self.session = SessionModel(self.studio)
        self.session.load()
        self.session.set_jig(CUED)
        self.out = Out()
        self.companions = Companions(self.session, SimpleNamespace(output=self.out))


@pytest.fixture
def world(tmp_path: Path, qapp) -> Iterator[World]:
    made = World(tmp_path)
    yield made
    made.studio.close()


def pitch_hz(x: np.ndarray) -> int:
    return int(np.argmax(np.abs(np.fft.rfft(x))))


def test_an_accompaniment_waits_for_its_counted_bar_and_then_goes_along(world: World) -> None:
    c = world.companions
    c.toggle_cue()
    assert (c.plays_cue, c.counts, c.count_in, c.sounding) == (True, True, False, True)
    assert c.count() == (2.0, 4)
    assert pitch_hz(world.out.second(0)) in range(1300, 1800)  # clicks
    assert pitch_hz(world.out.second(2)) == 220  # A3, without a click
    assert pitch_hz(world.out.second(3)) == 220
    assert not np.any(world.out.second(5))  # it is over after a bar


def test_it_sounds_at_the_a_in_force_and_with_the_click(world: World) -> None:
    c = world.companions
    c.toggle_cue()
    c.toggle_click()
    c.count()
    pulse = c._pulse()
    only_clicks = click_block(pulse, 0, RATE_HZ)
    assert np.any(only_clicks)
    rest = world.out.second(2) - only_clicks
    assert pitch_hz(rest) == 220


def test_a_jig_without_one_counts_no_bar_for_it(world: World) -> None:
    c = world.companions
    c.toggle_cue()
    world.session.set_jig(PLAIN)
    assert (c.has_cue, c.plays_cue, c.counts, c.sounding) == (False, False, False, False)
    world.session.set_jig(CUED)
    assert c.plays_cue


def test_switched_off_it_falls_silent(world: World) -> None:
    c = world.companions
    c.toggle_cue()
    c.count()
    c.toggle_cue()
    assert world.out.make is None
    assert not c.counts
    c.toggle_cue()
    c.rest()
    assert not c.cue


def test_entries_are_held_against_it_where_it_sounded_from_the_beginning(world: World) -> None:
    c = world.companions
    assert c.clicks(0.0, 0.1, 100.0) is None
    c.toggle_cue()
    c.count()
    assert c.clicks(4.0, 0.1, 20.0) == (pytest.approx(10.0 + 2.0 + 0.1 - 4.0), 120.0)
    assert c.clicks(4.0, 0.1, 1.0) is None  # begun while somebody played


def test_the_ear_knows_of_the_clicks_that_are_counted(world: World) -> None:
    c = world.companions
    assert c.beside().clicks_hz == ()
    c.toggle_cue()
    assert c.beside().clicks_hz == CLICKS_HZ


# how a jig is heard -------------------------------------------------------------------------------


def test_the_button_says_what_is_on(qapp) -> None:
    hear = HearOptions()
    assert (hear.text(), hear.speed) == ("plainly", 1.0)
    hear.slowly.setChecked(True)
    assert (hear.text(), hear.speed) == ("slowly", SLOWLY)
    hear.over.setChecked(True)
    assert hear.text() == "2 options"


def test_an_accompaniment_is_offered_where_there_is_one(qapp) -> None:
    hear = HearOptions()
    hear.offer_cue(True)
    hear.cue.setChecked(True)
    assert hear.cue.isVisible()
    hear.offer_cue(False)
    assert not hear.cue.isVisible()
    assert not hear.cue.isChecked()
