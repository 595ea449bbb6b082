"""What lies in the bin."""

from __future__ import annotations

from pathlib import Path

import pytest

from jigwright.cli import main
from jigwright.core.errors import StoreError
from jigwright.services.bin_contents import bring_back, in_the_bin
from jigwright.store.opening import open_studio
from jigwright.wording.bin import bin_row, bin_title, really_words
from signals import take_record


def test_the_bin_holds_everybodys_takes_the_newest_first(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    assert in_the_bin(studio) == ()
    for take_id in ("t2", "t0"):
        studio.change("bin_take", take_id, {"binned": 1})
    rows = in_the_bin(studio)
    assert [r.take.id for r in rows] == ["t2", "t0"]
    assert rows[0].title == studio.jigs()[0].title
    assert rows[0].player == studio.players()[0].name
    bring_back(studio, "t0")
    assert [r.take.id for r in in_the_bin(studio)] == ["t2"]
    studio.undo()
    assert len(in_the_bin(studio)) == 2
    with pytest.raises(StoreError, match="no_take"):
        bring_back(studio, "nobody")
    studio.close()


def test_words_of_the_bin() -> None:
    take = take_record("t", None, utc="2026-11-02T23:30:00Z", seconds=12.4)
    assert bin_row(take, "", "Nell") == "Free playing · Nell · Monday, 2 November · 12 s"
    assert bin_row(take, "Quay", "") == "Quay · Monday, 2 November · 12 s"
    assert [bin_title(n) for n in (0, 1, 2)] == [
        "The bin is empty", "One take in the bin", "2 takes in the bin",
    ]  # fmt: skip
    assert "3 takes" in really_words(3)
    assert "takes" not in really_words(1)


def test_the_command(studio_copy: Path, capsys: pytest.CaptureFixture[str]) -> None:
    studio = open_studio(studio_copy)
    for take_id in ("t1", "t2"):
        studio.change("bin_take", take_id, {"binned": 1})
    studio.close()
    folder = str(studio_copy)
    assert main(["studio", "bin", folder]) == 0
    said = capsys.readouterr().out
    assert [line.split()[-1] for line in said.splitlines()] == ["t2", "t1"]
    assert main(["studio", "bin", folder, "--restore", "t1"]) == 0
    assert main(["studio", "bin", folder, "--restore", "t1"]) != 0
    assert "t1" in capsys.readouterr().err
    assert main(["studio", "bin", folder, "--empty"]) == 0
    assert capsys.readouterr().out == "One take was deleted.\n"
    studio = open_studio(studio_copy)
    assert {t.id for t in studio.takes()} == {"t0", "t1", "t3"}
    assert studio.takes(binned=True) == ()
    studio.close()
