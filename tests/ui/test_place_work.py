"""A weak place at the Stand, without a window: offered, worked on, left, and compared."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from aim_builders import all_in, jig_of
from builders import new_studio
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.model import Jig, revise
from jigwright.core.jig.spot_path import is_step
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.tuning import NO_TUNING
from jigwright.services.library import on_the_shelf, read_marks, shelf
from jigwright.services.spot_paths import left_off, remember
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.place_work import PlaceWork
from jigwright.wording.spot_path import bars_name, step_name

PIECE = jig_of("D4:1 E4:1 F#4:1 G4:1 " * 6, title="Pier tune", id="piece")
STEPS = ["beat", "next_beat", "both", "landing", "slow", "written", "context", "whole"]


class World:
    """A studio with a piece, and what is judged of it."""

    def __init__(self, folder: Path) -> None:
        self.studio = new_studio(folder)
        self.studio.add_jig(PIECE, utc="2026-11-01T10:00:00Z")
        self.session = SessionModel(self.studio)
        self.session.load()
        self.session.set_player(self.studio.players()[0])
        self.session.set_jig(PIECE)
        self.playing = False
        self.said: list[str] = []
        self.work = PlaceWork(self.studio, self.session, lambda: self.playing)
        self.work.message.connect(self.said.append)
        self.work.set_speed(250.0)  # ten milliseconds to read

    def play(self, *off: int, met: bool | None = None, jig: Jig | None = None) -> None:
        """A take of what is in hand; the aims are met where nothing is off."""
        jig = jig or self.session.now.jig
        notes = all_in(jig, {i: {"cents": 30.0, "standing": "high"} for i in off})
        state = "met" if (not off if met is None else met) else "not_met"
        aims = (AimResult(aim=Aim(kind="pitch"), state=state),)
        self.work.heard(
            Judged(notes=tuple(notes), playing=None, tuning=NO_TUNING, findings=(), aims=aims), jig
        )

    @property
    def kind(self) -> str:
        return self.work.work.step.kind if self.work.work else ""


@pytest.fixture
def world(tmp_path: Path, qapp) -> Iterator[World]:
    made = World(tmp_path)
    yield made
    made.work.close_down()
    made.studio.close()


def begun(world: World) -> World:
    world.play(9, 10)
    world.work.go()
    return world


# offered --------------------------------------------------------------------------------------


def test_after_a_run_through_its_weak_place_is_offered(world: World) -> None:
    assert world.work.line == ""
    assert not world.work.can_go
    assert not world.work.go()
    world.play(9, 10)
    assert world.work.line == "2 notes went wrong in bar 3. Down arrow: work on it."
    assert world.work.can_go
    world.play()
    assert world.work.line == ""


def test_an_exercise_of_few_bars_has_no_place(world: World) -> None:
    short = jig_of("D4:1 E4:1 F#4:1 G4:1 " * 3, id="short")
    world.studio.add_jig(short, utc="2026-11-01T10:00:00Z")
    world.session.set_jig(short)
    world.play(5, 6)
    assert world.work.line == ""


def test_an_offer_goes_with_the_piece(world: World) -> None:
    world.play(9, 10)
    other = jig_of("A4:1 B4:1 " * 8, id="other")
    world.studio.add_jig(other, utc="2026-11-01T10:00:00Z")
    world.session.set_jig(other)
    assert not world.work.can_go


# worked on ------------------------------------------------------------------------------------


def test_the_first_step_is_taken_up_and_named(world: World) -> None:
    begun(world)
    assert world.work.progress == (0, 8)
    assert world.work.where == "step 1 of 8"
    jig = world.session.now.jig
    assert is_step(jig.id)
    assert jig.title == "Pier tune, bar 3: a beat alone"
    assert jig in world.studio.jigs()


def test_steps_are_not_on_the_shelf_but_count_for_their_piece(world: World) -> None:
    begun(world)
    assert [j.id for j in on_the_shelf(world.studio)] == ["piece"]
    rows = shelf(world.studio.jigs(), {}, read_marks(world.studio))
    assert [r.jig.id for r in rows] == ["piece"]
    assert world.session.now.jig.derived_from == ("piece", 1)


def test_a_good_take_says_what_comes_and_goes_on_by_itself(world: World, qtbot: QtBot) -> None:
    begun(world)
    world.play()
    assert world.work.line == "Good. Next: the next beat alone."
    assert world.kind == "beat"
    qtbot.waitUntil(lambda: world.kind == "next_beat", timeout=2000)
    assert world.session.now.jig.title.endswith("the next beat alone")
    assert world.work.line == ""


def test_who_plays_on_is_not_interrupted(world: World, qtbot: QtBot) -> None:
    begun(world)
    world.playing = True
    world.play()
    qtbot.wait(60)
    assert world.kind == "beat"
    world.playing = False
    world.play(0)  # and that take was not good
    qtbot.wait(60)
    assert world.kind == "beat"
    world.play()
    qtbot.waitUntil(lambda: world.kind == "next_beat", timeout=2000)


def test_a_take_that_is_not_good_stays_and_one_can_go_on_all_the_same(world: World) -> None:
    begun(world)
    world.play(0)
    assert (world.kind, world.work.line) == ("beat", "")
    assert world.work.go()
    assert world.kind == "next_beat"
    assert world.work.back()
    assert world.kind == "beat"
    assert not world.work.back()


def test_slowly_takes_two_good_takes(world: World) -> None:
    begun(world)
    while world.kind != "slow":
        world.work.go()
    assert world.work.where == "step 5 of 8 · 0 good takes of 2"
    world.play()
    assert world.work.where == "step 5 of 8 · 1 good take of 2"
    assert world.work.line == ""
    world.play()
    assert world.work.line == "Good. Next: as it is written."


def test_at_the_end_the_place_is_counted_again_in_the_piece(world: World) -> None:
    begun(world)
    for _ in STEPS[1:]:
        world.work.go()
    assert world.kind == "whole"
    assert world.session.now.jig.id == "piece"
    assert not world.work.go()
    world.play(10, met=False)
    assert world.work.line == "Bar 3: 2 of 4 notes off before, 1 of 4 now."
    assert world.work.work is None
    assert left_off(world.studio, "p") is None


def test_what_cannot_be_told_is_not_counted_as_better(world: World) -> None:
    begun(world)
    for _ in STEPS[1:]:
        world.work.go()
    world.work.heard(
        Judged(notes=(), playing=None, tuning=NO_TUNING, findings=(), aims=()), PIECE
    )  # fmt: skip
    assert world.work.line == "The place could not be told this time."


def test_any_bars_can_be_taken_on(world: World) -> None:
    assert world.work.take_on(PIECE, 1, 2)
    assert world.work.work.place.worst == 4
    for _ in STEPS[1:]:
        world.work.go()
    world.play(5, 6, met=False)
    assert world.work.line == "Bars 2 to 3: 2 of 8 notes off."  # nobody counted before


def test_bars_without_notes_are_not_taken_on(world: World) -> None:
    assert not world.work.take_on(PIECE, 9, 9)
    assert world.said
    assert world.work.work is None


# left -------------------------------------------------------------------------------------------


def test_leaving_gives_the_piece_back_and_remembers_where(world: World) -> None:
    begun(world)
    world.work.go()
    assert world.work.leave()
    assert world.session.now.jig.id == "piece"
    assert world.work.line == "You left off in bar 3: the next beat alone. Down arrow goes on."
    assert not world.work.leave()
    assert world.work.go()
    assert world.kind == "next_beat"


def test_tomorrow_it_is_remembered(world: World) -> None:
    begun(world)
    world.work.go()
    again = PlaceWork(world.studio, world.session, lambda: False)
    world.session.set_jig(PIECE)
    assert again.line.startswith("You left off in bar 3")
    assert again.go()
    assert again.work.place.n_off == 2


def test_something_else_taken_up_leaves_the_work_where_it_is(world: World) -> None:
    begun(world)
    other = jig_of("A4:1 B4:1 " * 8, id="other")
    world.studio.add_jig(other, utc="2026-11-01T10:00:00Z")
    world.session.set_jig(other)
    assert world.work.work is None
    assert world.work.line == ""
    world.session.set_jig(PIECE)
    assert world.work.line.startswith("You left off")


def test_another_player_has_other_work(world: World) -> None:
    begun(world)
    world.work.leave()
    world.session.set_player(world.studio.players()[1])
    world.session.set_jig(PIECE)
    assert world.work.line == ""


def test_a_piece_that_was_changed_begins_anew(world: World) -> None:
    begun(world)
    world.work.leave()
    world.studio.add_jig(revise(PIECE, tempo_bpm=90.0), utc="2026-11-02T10:00:00Z")
    assert left_off(world.studio, "p") is None


@pytest.mark.parametrize(
    "body",
    ["no json", "[]", "{}", '"text"', json.dumps({"piece": "piece", "revision": 1, "at": 99,
     "good": 0, "place": [2, 2, 9, 2, 4]}), json.dumps({"piece": "piece", "revision": 1, "at": 0,
     "good": 0, "place": [9, 9, 9, 2, 4]}), json.dumps({"piece": "gone", "revision": 1, "at": 0,
     "good": 0, "place": [2, 2, 9, 2, 4]})],
)  # fmt: skip
def test_nonsense_that_was_kept_is_nowhere(world: World, body: str) -> None:
    world.studio.set_setting("spot-path:p", body)
    assert left_off(world.studio, "p") is None


def test_nothing_open_is_remembered_as_nothing(world: World) -> None:
    begun(world)
    assert left_off(world.studio, "p") is not None
    remember(world.studio, "p", None)
    assert left_off(world.studio, "p") is None


def test_every_step_has_a_name_of_its_own() -> None:
    assert len({step_name(k) for k in [*STEPS, "shape", "stopped"]}) == 10


def test_bars_are_named_by_their_printed_numbers(world: World) -> None:
    world.play(6, 9, 10)
    work = world.work
    assert work.go()
    assert bars_name(PIECE, work.work.place) == "bars 2 to 3"
