"""Weeks at a glance: which takes a cell holds, how far it was met, what comes first."""

from __future__ import annotations

from datetime import date
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.judge.season import (
    DAYS,
    MOST_ROWS,
    WEEKS,
    SeasonCell,
    SeasonTake,
    first_day,
    season,
)
from jigwright.services.seasons import season_of
from jigwright.wording.daybook import season_sentence, short_day

MONDAY = date(2026, 11, 30).toordinal()


def take(
    day: int, jig_id: str = "a", met: bool | None = None, inside: float | None = None,
    kept: bool = False,
) -> SeasonTake:  # fmt: skip
    """A take so many days from the last Monday."""
    return SeasonTake(
        take_id=f"{jig_id}{day}", jig_id=jig_id, day=MONDAY + day, met=met, inside=inside, kept=kept
    )


def only(*takes: SeasonTake) -> list[tuple[int, SeasonCell]]:
    """Weeks with takes of the only row."""
    (row,) = season(takes, MONDAY)
    return [(w, c) for w, c in enumerate(row.cells) if c.take_ids]


def test_a_take_lies_in_its_week() -> None:
    last = WEEKS - 1
    assert [w for w, _ in only(take(0))] == [last]
    assert [w for w, _ in only(take(6))] == [last]
    assert [w for w, _ in only(take(-1))] == [last - 1]
    assert [w for w, _ in only(take(-7))] == [last - 1]
    assert [w for w, _ in only(take(-8))] == [last - 2]
    assert [w for w, _ in only(take(-DAYS * last))] == [0]
    assert season([take(-DAYS * last - 1)], MONDAY) == ()
    assert season([take(7)], MONDAY) == ()
    assert first_day(MONDAY) == MONDAY - DAYS * last


def test_how_far_a_week_was_met() -> None:
    ((_, cell),) = only(take(0, met=True), take(1, met=False, inside=0.5), take(2))
    assert cell.share == pytest.approx(0.75), "what cannot be told counts for nothing"
    assert (cell.n_met, len(cell.take_ids)) == (1, 3)
    ((_, cell),) = only(take(0), take(1))
    assert cell.share is None
    ((_, cell),) = only(take(0, inside=0.0))
    assert cell.share == 0.0
    assert not cell.kept
    ((_, cell),) = only(take(0), take(0, kept=True))
    assert cell.kept
    assert take(0, met=None, inside=0.4).share == 0.4


def test_what_was_played_last_comes_first_and_rows_are_few() -> None:
    rows = season([take(-20, "old"), take(-3, "new"), take(-2, "newest"), take(-2, "b")], MONDAY)
    assert [r.jig_id for r in rows][2:] == ["new", "old"]
    assert {r.jig_id for r in rows[:2]} == {"newest", "b"}
    many = [take(-k, f"j{k}") for k in range(20, 0, -1)]
    found = season(many, MONDAY)
    assert len(found) == MOST_ROWS
    assert found[0].jig_id == "j1"
    assert found[0].n_takes == 1


@given(st.lists(st.tuples(st.integers(-100, 10), st.sampled_from("abc")), max_size=40))
def test_every_take_of_the_weeks_is_in_one_cell(rows: list[tuple[int, str]]) -> None:
    takes = [take(day, jig) for day, jig in sorted(rows)]
    found = [i for r in season(takes, MONDAY) for c in r.cells for i in c.take_ids]
    inside = [t.take_id for t in takes if -DAYS * (WEEKS - 1) <= t.day - MONDAY < DAYS]
    assert sorted(found) == sorted(inside)


def test_the_weeks_of_a_studio() -> None:
    def kept(take_id: str, day: date, mark: str = "", jig_id: str | None = "a") -> SimpleNamespace:
        return SimpleNamespace(id=take_id, jig_id=jig_id, day=day, mark=mark)

    takes = [
        kept("1", date(2026, 11, 24)), kept("2", date(2026, 12, 2), "kept"),
        kept("3", date(2026, 12, 2), jig_id=None), kept("4", date(2026, 12, 3)),
    ]  # fmt: skip
    figures = {
        "1": SimpleNamespace(aims_met=None, inside=0.5),
        "2": SimpleNamespace(aims_met=True, inside=0.9),
    }
    first, rows = season_of(takes, lambda t: figures.get(t.id), date(2026, 12, 4))  # type: ignore[arg-type, return-value]
    assert first == date(2026, 9, 14)
    assert first.weekday() == 0
    (row,) = rows
    assert row.cells[-1].take_ids == ("2", "4")
    assert (row.cells[-1].share, row.cells[-1].kept) == (1.0, True)
    assert row.cells[-2].share == 0.5


def test_a_cell_in_words() -> None:
    monday = date(2026, 11, 2)
    assert short_day(monday) == "2 Nov"
    assert season_sentence("Scale", SeasonCell(), monday) == "Scale, week of 2 Nov: not played."
    cell = SeasonCell(take_ids=("a", "b"), share=0.75, n_met=1, kept=True)
    assert season_sentence("Scale", cell, monday) == (
        "Scale, week of 2 Nov: 2 takes, 1 of 2 met it, a reference take among them."
    )
    part = SeasonCell(take_ids=("a",), share=0.754)
    assert "1 take, 75 % of the notes inside." in season_sentence("Scale", part, monday)
    untold = SeasonCell(take_ids=("a",))
    assert "cannot tell how far" in season_sentence("Scale", untold, monday)
