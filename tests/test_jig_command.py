"""The command that makes, reads and turns jigs into other files."""

from __future__ import annotations

import argparse
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest

from aim_builders import jig_of
from jigwright.cli import main
from jigwright.commands.jig import add_jig_parser
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.cue import CueNote, cue_of, with_cue
from jigwright.core.jig.exchange import jig_from_json, jig_to_json


@pytest.fixture
def jig_file(tmp_path: Path) -> Path:
    """Four notes, proposed bows, an aim and an accompaniment."""
    jig = jig_of("D4 E4 F#4 G4", Aim(kind="pitch"))
    jig = replace(jig, events=tuple(replace(e, proposed_bow=True) for e in jig.events))
    note = CueNote(onset_beats=Fraction(0), end_beats=Fraction(4), midi=50)
    path = tmp_path / "tune.json"
    path.write_text(jig_to_json(with_cue(jig, [note])))
    return path


def test_what_a_file_cannot_hold_is_said_and_the_rest_is_there(
    jig_file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = jig_file.with_suffix(".mid")
    assert main(["jig", "convert", str(jig_file), "--out", str(out)]) == 0
    said = capsys.readouterr().err
    assert (
        "Saved as tune.mid. Not in it, only in the jig: what it is for, the accompaniment" in said
    )
    back = jig_file.with_name("back.json")
    assert main(["jig", "convert", str(out), "--out", str(back)]) == 0
    assert "Not in it" not in capsys.readouterr().err
    notes = [str(e.heads[0].pitch) for e in jig_from_json(back.read_text()).events]
    assert notes == ["D4", "E4", "F#4", "G4"]


def test_proposals_are_written_only_when_asked(jig_file: Path) -> None:
    for words, there in (([], False), (["--proposed"], True)):
        out = jig_file.with_suffix(".musicxml")
        assert main(["jig", "convert", str(jig_file), "--out", str(out), *words]) == 0
        assert ("down-bow" in out.read_text()) is there


def test_a_part_that_is_not_there_is_one_line_and_nothing_written(
    jig_file: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    score = jig_file.with_suffix(".musicxml")
    main(["jig", "convert", str(jig_file), "--out", str(score)])
    capsys.readouterr()
    out = jig_file.with_name("none.json")
    assert main(["jig", "convert", str(score), "--out", str(out), "--part", "7"]) == 1
    assert capsys.readouterr().err.startswith("jigwright: ")
    assert not out.exists()


def test_another_part_may_come_along_as_accompaniment(tmp_path: Path) -> None:
    note = "<note><pitch><step>D</step><octave>{}</octave></pitch><duration>4</duration></note>"
    parts = "".join(
        f'<part id="P{k}"><measure number="1"><attributes><divisions>1</divisions></attributes>'
        f"{note.format(5 - k)}</measure></part>"
        for k in (1, 2)
    )
    score, out = tmp_path / "two.musicxml", tmp_path / "two.json"
    score.write_text(
        '<score-partwise><part-list><score-part id="P1"><part-name>Violin</part-name></score-part>'
        '<score-part id="P2"><part-name>Cello</part-name></score-part></part-list>'
        f"{parts}</score-partwise>"
    )
    assert main(["jig", "convert", str(score), "--out", str(out), "--cue", "2"]) == 0
    assert [n.midi for n in cue_of(jig_from_json(out.read_text()))] == [50]
    assert main(["jig", "convert", str(score), "--out", str(out), "--cue", "3"]) == 1


def test_its_words_are_a_parser_of_their_own() -> None:
    parser = argparse.ArgumentParser()
    add_jig_parser(parser.add_subparsers(dest="command"))
    options = parser.parse_args(["jig", "convert", "a.mid", "--out", "b.json", "--part", "2"])
    assert (options.command, options.score, options.out, options.part) == (
        "jig", "a.mid", "b.json", 2
    )  # fmt: skip
