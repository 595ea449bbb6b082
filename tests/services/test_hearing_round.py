"""Which takes of a pupil a teacher has not heard, and which comes next."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from builders import keep_take, new_studio
from jigwright.core.judge.work import Progress, SetWork
from jigwright.core.music.instruments import instrument
from jigwright.services.hearing_round import (
    MOST_SHOWN,
    LatestTake,
    PupilView,
    latest_takes,
    mark_heard,
    next_to_hear,
    pupil_view,
)
from jigwright.services.pupils import PupilRow
from jigwright.services.records import SIMULATED, OwnedInstrument, Player, Remark, TakeRecord
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio
from signals import take_record


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    made = new_studio(tmp_path / "s")
    yield made
    made.close()


def one(take_id: str, day: str, **more: str) -> TakeRecord:
    return replace(take_record(take_id, None), recorded_utc=f"{day}T16:00:00Z", **more)  # type: ignore[arg-type]


def keep(studio: Studio, *takes: TakeRecord) -> None:
    for take in takes:
        keep_take(
            studio, take.id, None, None, utc=take.recorded_utc, player_id=take.player_id,
            source_name=take.source_name,
        )  # fmt: skip


def ids(found: tuple[LatestTake, ...]) -> list[str]:
    return [t.take.id for t in found]


def new(found: tuple[LatestTake, ...]) -> list[str]:
    return [t.take.id for t in found if t.is_new]


def test_at_first_the_last_week_of_a_pupil_is_new(studio: Studio) -> None:
    keep(studio, one("a", "2026-11-13"), one("b", "2026-11-14"), one("c", "2026-11-20"))
    found, n_new = latest_takes(studio, "p")
    assert ids(found) == ["a", "b", "c"]
    assert new(found) == ["b", "c"]
    assert n_new == 2


def test_what_was_heard_is_new_no_longer_and_nothing_before_it(studio: Studio) -> None:
    takes = [one(k, f"2026-11-{14 + i}") for i, k in enumerate("abc")]
    keep(studio, *takes)
    assert mark_heard(studio, takes[0])
    assert mark_heard(studio, takes[1])
    assert not mark_heard(studio, takes[0])
    assert not mark_heard(studio, takes[1])
    assert new(latest_takes(studio, "p")[0]) == ["c"]
    assert mark_heard(studio, takes[2])
    assert latest_takes(studio, "p")[1] == 0
    keep(studio, one("d", "2027-03-01"), one("e", "2027-04-01"))
    assert new(latest_takes(studio, "p")[0]) == ["d", "e"]  # however long ago it was


def test_takes_of_one_moment_are_told_apart(studio: Studio) -> None:
    keep(studio, one("b", "2026-11-20"), one("a", "2026-11-20"))
    found, _ = latest_takes(studio, "p")
    assert ids(found) == ["a", "b"]
    mark_heard(studio, found[0].take)
    assert new(latest_takes(studio, "p")[0]) == ["b"]


def test_every_pupil_is_heard_for_himself(studio: Studio) -> None:
    mine, other = one("a", "2026-11-19"), one("b", "2026-11-20", player_id="q")
    keep(studio, mine, other)
    mark_heard(studio, other)
    assert new(latest_takes(studio, "p")[0]) == ["a"]
    assert new(latest_takes(studio, "q")[0]) == []


def test_what_the_simulated_player_tried_is_not_heard(studio: Studio) -> None:
    keep(studio, one("a", "2026-11-20", source_name=SIMULATED), one("b", "2026-11-20"))
    assert ids(latest_takes(studio, "p")[0]) == ["b"]


def test_who_is_alone_has_nothing_to_hear(tmp_path: Path) -> None:
    alone = open_studio(tmp_path / "alone")
    alone.add_player(Player(id="p", name="Nell Harbour"))
    kind = instrument("violin")
    alone.add_instrument(OwnedInstrument(id="i", name="", kind="violin", strings=kind.strings))
    keep(alone, one("a", "2026-11-20"))
    found, n_new = latest_takes(alone, "p")
    assert (new(found), n_new) == ([], 0)
    alone.close()


@pytest.mark.parametrize(
    ("n_heard", "first"), [(0, 0), (1, 0), (2, 1), (4, 3), (5, 4), (6, 4), (10, 4)]
)
def test_shown_is_the_last_heard_and_what_is_new_after_it(
    studio: Studio, n_heard: int, first: int
) -> None:
    takes = [one(f"t{i}", f"2026-11-{14 + i // 2}") for i in range(10)]
    keep(studio, *takes)
    for take in takes[:n_heard]:
        mark_heard(studio, take)
    found, n_new = latest_takes(studio, "p")
    assert n_new == 10 - n_heard
    assert ids(found) == [t.id for t in takes[first : first + MOST_SHOWN]]


# which comes next -------------------------------------------------------------------------------


def row(player_id: str) -> PupilRow:
    return PupilRow(
        player=Player(id=player_id, name=player_id), days_ago=1, minutes=1.0, n_takes=1, n_open=0,
        next_days_left=None,
    )  # fmt: skip


def view(player_id: str, *marks: bool) -> PupilView:
    takes = tuple(
        LatestTake(take=one(f"{player_id}{k}", "2026-11-20"), title="", is_new=mark)
        for k, mark in enumerate(marks)
    )
    return PupilView(row=row(player_id), takes=takes, n_new=sum(marks), works=())


PUPILS = (view("x", False, True, True), view("y"), view("z", True, False, True))


@pytest.mark.parametrize(
    ("i", "take_id", "following"),
    [
        (0, None, (0, 1)), (0, "x0", (0, 1)), (0, "x1", (0, 2)), (0, "x2", (2, 0)),
        (1, None, (2, 0)), (2, None, (2, 0)), (2, "z0", (2, 2)), (2, "z2", (0, 1)),
        (0, "z0", (0, 1)),  # another's take says nothing of this pupil's
    ],
)  # fmt: skip
def test_one_take_after_the_other_and_then_the_next_pupil(
    i: int, take_id: str | None, following: tuple[int, int]
) -> None:
    assert next_to_hear(PUPILS, i, take_id) == following


def test_when_all_is_heard_nothing_comes() -> None:
    assert next_to_hear((), 0, None) is None
    assert next_to_hear((view("x", False), view("y")), 0, None) is None
    assert next_to_hear((view("x", True),), 0, "x0") is None
    assert next_to_hear((view("x", True, False, True), view("y")), 0, "x2") == (0, 0)


def test_work_lies_by_its_day(studio: Studio) -> None:
    def work(name: str, days: int) -> tuple[SetWork, Progress, str]:
        return (
            SetWork(id=name, player_id="p", jig_id="j", jig_revision=1, words="",
                    due="2026-12-01", good_takes=3, who="", set_utc="2026-11-01T00:00:00Z"),
            Progress(state="open", n_takes=0, n_good=0, days_left=days), name,
        )  # fmt: skip

    found = pupil_view(studio, row("p"), [work("late", 9), work("soon", -2), work("mid", 3)])
    assert [title for _, _, title in found.works] == ["soon", "mid", "late"]
    assert (found.takes, found.n_new) == ((), 0)


def test_a_spoken_remark_is_no_take_to_hear(studio: Studio) -> None:
    keep(studio, one("a", "2026-11-20"), one("said", "2026-11-21"))
    studio.set_remark(
        Remark(id="r", take_id="a", note_id=None, at_s=0.0, who="", words="Slower.",
               utc="2026-11-21T16:00:00Z", spoken="said")
    )  # fmt: skip
    found, n_new = latest_takes(studio, "p")
    assert ids(found) == ["a"]
    assert n_new == 1


def test_what_is_heard_before_its_turn_passes_nothing_over(studio: Studio) -> None:
    takes = [one(f"t{i}", f"2026-11-{14 + i // 2}") for i in range(10)]
    keep(studio, *takes)
    assert not mark_heard(studio, takes[9])
    assert latest_takes(studio, "p")[1] == 10
    assert all(mark_heard(studio, t) for t in takes)  # in their order, however many wait
    assert latest_takes(studio, "p")[1] == 0


@pytest.mark.parametrize(("n_heard", "marked"), [(2, True), (1, False), (0, False)])
def test_what_was_played_to_the_teacher_is_heard_unless_older_takes_wait(
    studio: Studio, n_heard: int, marked: bool
) -> None:
    before = [one("a", "2026-11-18"), one("b", "2026-11-19")]
    keep(studio, *before)
    for take in before[:n_heard]:
        mark_heard(studio, take)
    phrase, whole = one("y", "2026-11-20"), one("x", "2026-11-20")
    keep(studio, phrase)
    assert mark_heard(studio, phrase) is marked
    keep(studio, whole)  # it began earlier
    assert not mark_heard(studio, whole)
    assert new(latest_takes(studio, "p")[0]) == ([] if marked else ["a", "b", "x", "y"][n_heard:])
