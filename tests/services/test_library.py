"""The shelf of jigs: order, families, search, stars, bin."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from aim_builders import jig_of
from builders import heard, keep_take, new_studio, segment
from jigwright.core.jig.model import Jig
from jigwright.services.library import (
    LibraryMarks,
    keep_marks,
    on_the_shelf,
    played_when,
    read_marks,
    shelf,
)


def jig(name: str, *, of: str | None = None, title: str | None = None) -> Jig:
    return replace(jig_of("D4 E4"), id=name, title=title or name,
                   derived_from=(of, 1) if of else None)  # fmt: skip


def ids(rows) -> list[str]:
    return [("  " * r.depth) + r.jig.id for r in rows]


JIGS = (jig("a"), jig("b"), jig("piece"), jig("spot", of="piece"), jig("slow", of="spot"))


def test_never_played_ones_stand_by_title_with_their_spots_under_them() -> None:
    assert ids(shelf(JIGS, {}, LibraryMarks())) == ["a", "b", "piece", "  slow", "  spot"]


def test_what_was_played_last_comes_first_and_a_spot_brings_its_piece_up() -> None:
    played = {"a": (1, "2026-11-01"), "slow": (2, "2026-11-03"), "b": (3, "2026-11-02")}
    rows = shelf(JIGS, played, LibraryMarks())
    assert ids(rows) == ["piece", "  slow", "  spot", "b", "a"]
    assert [(r.n_takes, r.last_utc) for r in rows][:2] == [(0, ""), (2, "2026-11-03")]


def test_stars_come_before_everything_in_their_family_too() -> None:
    played = {"a": (1, "2026-11-09")}
    rows = shelf(JIGS, played, LibraryMarks(starred=frozenset({"spot"})))
    assert ids(rows) == ["piece", "  spot", "  slow", "a", "b"]
    assert [r.starred for r in rows] == [False, True, False, False, False]


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        ("spot", ["piece", "  spot"]), ("SPOT", ["piece", "  spot"]), ("piece", ["piece"]),
        ("zebra", []), ("", ["a", "b", "piece", "  slow", "  spot"]),
        ("s o", ["piece", "  slow", "  spot"]),
    ],
)  # fmt: skip
def test_all_words_must_stand_in_it(words, expected) -> None:
    assert ids(shelf(JIGS, {}, LibraryMarks(), words=words)) == expected


def test_what_is_told_is_searched() -> None:
    told = {"a": "violin 96", "b": "viola 60", "piece": "", "spot": "", "slow": ""}
    rows = shelf(JIGS, {}, LibraryMarks(), words="viol 6", told=lambda j: told[j.id])
    assert ids(rows) == ["a", "b"]
    assert ids(shelf(JIGS, {}, LibraryMarks(), words="96", told=lambda j: told[j.id])) == ["a"]


def test_the_bin_holds_what_is_not_on_the_shelf() -> None:
    marks = LibraryMarks().with_binned({"piece", "b"})
    assert ids(shelf(JIGS, {}, marks)) == ["a", "spot", "  slow"]
    assert ids(shelf(JIGS, {}, marks, of_the_bin=True)) == ["b", "piece"]
    assert ids(shelf(JIGS, {}, marks.without_binned({"piece"}))) == [
        "a",
        "piece",
        "  slow",
        "  spot",
    ]


def test_a_star_is_set_and_taken_away() -> None:
    marks = LibraryMarks().with_star("a")
    assert marks.starred == {"a"}
    assert marks.with_star("a").starred == frozenset()


def test_jigs_that_were_made_of_each_other_go_round_once() -> None:
    loop = (jig("x", of="y"), jig("y", of="x"))
    assert len(shelf(loop, {}, LibraryMarks())) >= 2


def test_marks_are_kept_and_nonsense_is_none(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    assert read_marks(studio) == LibraryMarks()
    marks = LibraryMarks(starred=frozenset({"a"}), binned=frozenset({"b", "c"}))
    keep_marks(studio, marks)
    assert read_marks(studio) == marks
    for text in ("{", "[]", '{"starred": 3, "binned": ["b", 4]}'):
        studio.set_setting("library", text)
        assert read_marks(studio).starred == frozenset()
    assert read_marks(studio).binned == {"b"}
    studio.close()


def test_what_lies_in_the_bin_is_offered_nowhere(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    for one in JIGS[:2]:
        studio.add_jig(one, utc="2026-11-01T10:00:00Z")
    keep_marks(studio, LibraryMarks(binned=frozenset({"a"})))
    assert [j.id for j in on_the_shelf(studio)] == ["b"]
    studio.close()


def test_takes_are_counted_with_the_last_moment(tmp_path: Path) -> None:
    studio = new_studio(tmp_path / "studio")
    one = jig_of("A4")
    for k, utc in enumerate(("2026-11-03T10:00:00Z", "2026-11-01T10:00:00Z")):
        keep_take(studio, f"t{k}", one, heard([segment(440.0, 0.2)]), utc=utc, reference="equal")
    assert played_when(studio) == {one.id: (2, "2026-11-03T10:00:00Z")}
    studio.close()
