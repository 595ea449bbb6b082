"""Aims where a player meets them: the Desk's list, and the command line."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtWidgets import QLabel, QPushButton
from pytestqt.qtbot import QtBot

from aim_builders import all_in, jig_of, results
from jigwright.cli import main
from jigwright.core.jig.aims import Aim, aims
from jigwright.core.jig.exchange import jig_to_json
from jigwright.ui.theme import LIGHT
from jigwright.ui.widgets.aims_list import AimsList


def test_the_desk_lists_every_aim_and_leads_to_its_place(qtbot: QtBot) -> None:
    jig = jig_of("D4 E4 F#4 G4", *aims("every_note", "pitch", "mirror", "lanes"))
    notes = all_in(jig, {2: {"cents": -21.0, "standing": "low"}})
    shown: list[int] = []
    column = AimsList(LIGHT, shown.append)
    qtbot.addWidget(column)
    column.show_results(results(jig, notes), notes, jig)
    texts = [w.text() for w in column.findChildren(QLabel)]
    assert texts == [
        "What it is for", "Every note heard", "Not everything was in tune",
        "bar 1, 21 ± 1 cents (limit 10)", "Down like up",
        "cannot tell: there were too few strokes", "Lanes beside each other",
        "shown, not judged",
    ]  # fmt: skip
    (button,) = column.findChildren(QPushButton)
    button.click()
    assert shown == [2]
    column.grab()  # the marks paint


def test_the_command_line_says_what_a_jig_is_for(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    jig = jig_of("D4 E4", Aim(kind="dotted", way="sharp", limit=4.0), Aim(kind="lanes"))
    file = tmp_path / "j.json"
    file.write_text(jig_to_json(jig))
    assert main(["jig", "aims", str(file)]) == 0
    assert capsys.readouterr().out.splitlines() == [
        "dotted  dotted notes in their character  at least 4 ratio  sharp",
        "lanes  lanes beside each other",
    ]
