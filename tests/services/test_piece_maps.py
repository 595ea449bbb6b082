"""The map of a piece: bars and the takes that touched them, spots and slower ones included."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from aim_builders import all_in, jig_of
from builders import heard, heard_of, keep_take, new_studio, segment
from jigwright.core.jig.derive import spot
from jigwright.core.jig.model import Jig
from jigwright.core.judge.piece_map import (
    MOST_THREADS,
    BarCell,
    Played,
    Thread,
    event_at,
    map_piece,
    states_of,
    weakest,
)
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import EQUAL, target_hz
from jigwright.core.sound.heard import Heard
from jigwright.services.piece_maps import MOST_TAKES, family_of, played_of, takes_of
from jigwright.services.records import Remark
from jigwright.services.take_reader import TakeReader
from jigwright.ui.viewmodels.jigs import jig_tools

PIECE = jig_of("D4 E4 F#4 G4 A4 B4 C#5 D5")  # two bars of four


def played(take: str, **states: str) -> Played:
    """States by event number, such as e3="met"."""
    ids = {PIECE.events[int(k[1:])].id: v for k, v in states.items()}
    return Played(take_id=take, day="2026-11-30", states=ids)  # type: ignore[arg-type]


def counts(cell: BarCell) -> list[tuple[str, int, int, int]]:
    return [(t.take_id, t.n_met, t.n_not_met, t.n_unknown) for t in cell.threads]


def test_every_bar_has_its_notes_and_the_takes_that_touched_it() -> None:
    cells = map_piece(PIECE, [played("a", e0="met", e1="not_met", e2="unknown"),
                              played("b", e3="met", e4="met")])  # fmt: skip
    assert [(c.number, c.span) for c in cells] == [(1, (0, 3)), (2, (4, 7))]
    assert counts(cells[0]) == [("a", 1, 1, 1), ("b", 1, 0, 0)]
    assert counts(cells[1]) == [("b", 1, 0, 0)]
    assert [t.share for t in cells[0].threads] == [0.5, 1.0]


def test_only_the_last_takes_are_kept_and_strange_notes_count_nowhere() -> None:
    many = [played(str(k), e0="met") for k in range(MOST_THREADS + 2)]
    strange = Played(take_id="x", day="2026-11-30", states={"nowhere": "met"})
    cells = map_piece(PIECE, [*many, strange])
    assert [t.take_id for t in cells[0].threads] == [str(k) for k in range(2, MOST_THREADS + 2)]
    assert cells[1].threads == ()
    assert [t.take_id for t in map_piece(PIECE, many, most=1)[0].threads] == ["7"]


def test_what_cannot_be_told_has_no_share() -> None:
    cell = map_piece(PIECE, [played("a", e0="unknown")])[0]
    assert cell.threads[0].share is None
    assert weakest([cell]) is None


def cell(*shares: float | None, i: int = 0) -> BarCell:
    threads = tuple(
        Thread(take_id=str(k), day="", n_met=0 if s is None else round(4 * s),
               n_not_met=0 if s is None else 4 - round(4 * s), n_unknown=1)
        for k, s in enumerate(shares)
    )  # fmt: skip
    return BarCell(i_bar=i, number=i + 1, span=(0, 0), threads=threads)


@pytest.mark.parametrize(
    ("cells", "number"),
    [
        ([cell(1.0, 1.0)], None),
        ([cell(0.5)], None),  # once is chance
        ([cell(0.5, 0.5)], 1),
        ([cell(0.5, 1.0, 0.5)], 1),
        ([cell(0.5, 1.0, 0.5, 1.0)], None),  # not more often than not
        ([cell(0.75, 0.75), cell(0.25, 0.75, i=1)], 2),
        ([cell(0.5, 0.5), cell(0.5, 0.5, i=1)], 1),
        ([], None),
        ([cell(0.5, None, None)], None),
    ],
)
def test_the_weakest_bar_went_wrong_twice_and_more_often_than_not(cells, number) -> None:
    found = weakest(cells)
    assert (found.number if found else None) == number


# from takes ------------------------------------------------------------------------------------


def take_of(jig: Jig, off: dict[int, float] | None = None) -> Heard:
    """Every note where it is written; some so many cents off."""
    off = off or {}
    rows = []
    for k, event in enumerate(jig.events):
        hz = target_hz(EQUAL, event.heads[0].pitch, 440.0) * 2 ** (off.get(k, 0.0) / 1200)
        rows.append(segment(hz, 0.5 * k + 0.2))
    return heard(rows)


def test_takes_of_the_piece_and_of_what_was_made_of_it_count_alike(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    part = spot(PIECE, 4, 7, jig_id="spot", title="spot")
    smaller = spot(part, 0, 1, jig_id="smaller", title="smaller")
    other = replace(jig_of("A4 B4"), id="other")
    keep_take(studio, "t1", PIECE, take_of(PIECE, {5: 40.0}), utc="2026-11-01T23:30:00Z",
              reference="equal")  # fmt: skip
    keep_take(studio, "t3", smaller, take_of(smaller), utc="2026-11-03T10:00:00Z",
              reference="equal")  # fmt: skip
    keep_take(studio, "t2", part, take_of(part, {1: 40.0, 2: -40.0}), utc="2026-11-02T10:00:00Z",
              reference="equal")  # fmt: skip
    keep_take(studio, "t4", other, take_of(other), utc="2026-11-04T10:00:00Z", reference="equal")
    assert family_of(PIECE, studio.jigs()) == {PIECE.id, "spot", "smaller"}
    assert family_of(part, studio.jigs()) == {"spot", "smaller"}
    takes = takes_of(PIECE, studio, None)
    assert [t.id for t in takes] == ["t1", "t2", "t3"]
    reader = TakeReader(studio)
    rows = [p for p in (played_of(t, reader, studio) for t in takes) if p is not None]
    cells = map_piece(PIECE, rows)
    assert counts(cells[0]) == [("t1", 4, 0, 0)]
    assert counts(cells[1]) == [("t1", 3, 1, 0), ("t2", 2, 2, 0), ("t3", 2, 0, 0)]
    assert takes_of(PIECE, studio, "nobody") == []
    studio.close()


def test_a_take_that_left_notes_out_counts_them_as_not_met(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    short = heard([segment(target_hz(EQUAL, Pitch.parse(p), 440.0), 0.5 * k + 0.2)
                   for k, p in ((0, "D4"), (1, "E4"), (3, "G4"), (4, "A4"), (5, "B4"), (6, "C#5"),
                                (7, "D5"))])  # fmt: skip
    take = keep_take(studio, "t1", PIECE, short, utc="2026-11-01T10:00:00Z", reference="equal")
    row = played_of(take, TakeReader(studio), studio)
    assert row is not None
    assert row.states[PIECE.events[2].id] == "not_met"
    assert sum(s == "met" for s in row.states.values()) == 7
    studio.close()


def test_what_nobody_marks_is_not_counted_against_a_bar() -> None:
    notes = all_in(
        PIECE,
        {
            1: {"cents": 30.0, "standing": "high", "finger": 0},
            2: {"cents": 30.0, "standing": "high"},
            3: {"standing": "missed", "finger": 0},
        },
    )  # fmt: skip
    states = states_of(notes, PIECE)
    assert [states[PIECE.events[i].id] for i in range(4)] == ["met", "met", "not_met", "not_met"]


def left(remark_id: str, at_s: float, note_id: str | None = None) -> Remark:
    return Remark(
        id=remark_id, take_id="t1", note_id=note_id, at_s=at_s, who="Odo Weir",
        words=f"words {remark_id}", utc="2026-11-03T10:00:00Z",
    )  # fmt: skip


def test_remarks_lie_in_the_bars_they_were_left_in(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    take = keep_take(
        studio, "t1", PIECE, heard_of(PIECE, [0.0] * 8), utc="2026-11-01T10:00:00Z",
        reference="equal",
    )  # fmt: skip
    by_note = PIECE.events[6].heads[0].id
    # notes begin every half second from 0.5 s on: the fifth, in bar 2, at 2.5 s
    for remark in (left("a", 2.5), left("b", 2.49), left("c", 0.0), left("d", 0.6, by_note)):
        studio.set_remark(remark)
    row = played_of(take, TakeReader(studio), studio)
    cells = map_piece(PIECE, [row])
    assert {s.words for s in cells[0].said} == {"words b", "words c"}
    assert {s.words for s in cells[1].said} == {"words a", "words d"}
    (one, *_) = cells[1].said
    assert (one.who, one.day) == ("Odo Weir", "2026-11-03")
    studio.close()


def test_a_moment_of_nothing_heard_belongs_nowhere() -> None:
    assert event_at([], PIECE, None, 1.0) is None
    assert event_at([], PIECE, PIECE.events[3].heads[0].id, 1.0) == PIECE.events[3].id
    assert event_at([], PIECE, "of another jig", 1.0) is None


def test_slower_ones_keep_the_names_of_their_notes() -> None:
    slow = jig_tools.tempo_ladder(PIECE, None).jigs[0]
    assert [e.id for e in slow.events] == [e.id for e in PIECE.events]
    assert slow.id != PIECE.id
    assert MOST_TAKES >= 60
