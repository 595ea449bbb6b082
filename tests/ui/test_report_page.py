"""The words that stand on the printed page, and the base of what is drawn on strings."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest
from PyQt6.QtPdf import QPdfDocument
from pytestqt.qtbot import QtBot

from jigwright.core.errors import JigwrightError
from jigwright.engraving.score import VerovioEngraver
from jigwright.services.notation import Engraved
from jigwright.ui.main_window import MainWindow
from jigwright.ui.places.tables import TablesPlace
from jigwright.ui.report import notes_request, write_report
from jigwright.ui.theme import DARK
from jigwright.ui.viewmodels.daybook.daybook_model import DaybookModel
from jigwright.ui.widgets.on_strings import OnStrings


def words_of(
    model: DaybookModel, path: Path, last: str = "9999-12-31", engraved: Engraved | None = None
) -> str:
    write_report(model.report("", last), "Nell", path, engraved)
    document = QPdfDocument(None)
    document.load(str(path))
    assert document.pageCount() == 1
    return " ".join(document.getAllText(0).text().split())


def test_the_page_says_what_was_set_and_what_figures_were_held_against(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    window.go("daybook")
    model = window.daybook_model
    qtbot.waitUntil(lambda: not model.busy, timeout=20_000)
    before = words_of(model, tmp_path / "a.pdf")
    assert "What was set" not in before
    assert "A 440, equal ± 10 c" in before
    assert "4 days, 1 minute of recorded playing" in before
    assert "What changed" in before
    window.daybook.pupils_model.set_work(
        window.session.now.player.id, window.session.now.jig, due=date(2030, 1, 2), good_takes=3,
        words="Slowly.", who="Odo",
    )  # fmt: skip
    after = words_of(model, tmp_path / "b.pdf")
    assert "What was set" in after
    assert "Odo set D major scale" in after


def engraved(model: DaybookModel) -> Engraved:
    request = notes_request(model.report("", "9999-12-31"))
    assert request is not None
    return VerovioEngraver().engrave(request)


def test_the_page_has_the_notes_or_else_the_print_of_the_take(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    window.go("daybook")
    model = window.daybook_model
    qtbot.waitUntil(lambda: not model.busy, timeout=20_000)
    legend = "A bar above a note: it was high"
    assert legend not in words_of(model, tmp_path / "a.pdf")
    notes = engraved(model)
    n_events = len(window.session.now.jig.events)
    assert len(notes.heads) == n_events
    assert legend in words_of(model, tmp_path / "b.pdf", engraved=notes)


def test_the_page_is_written_when_its_notes_are_there_and_also_when_they_never_come(
    qtbot: QtBot, window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.go("daybook")
    qtbot.waitUntil(lambda: not window.daybook_model.busy, timeout=20_000)
    said: list[str] = []
    record = window.daybook.record
    record.message.connect(said.append)
    record.report(tmp_path / "one.pdf")
    qtbot.waitUntil(lambda: (tmp_path / "one.pdf").exists(), timeout=20_000)
    assert said == ["Saved as one.pdf."]
    monkeypatch.setattr(
        window.jobs, "run", lambda *_args, failed, **_more: failed(JigwrightError("io", "no"))
    )
    record.report(tmp_path / "two.pdf")
    assert (tmp_path / "two.pdf").exists()
    assert said[1:] == ["Saved as two.pdf."]
    record.report(tmp_path / "away" / "three.pdf")
    assert len(said) == 3
    assert "Saved" not in said[2]


def test_drawn_strings_follow_instrument_and_theme(window: MainWindow) -> None:
    window.go("tables")
    tables = window.tables
    assert isinstance(tables, TablesPlace)
    tables.turn(1)
    for one in (tables.neck, tables.finder):
        assert isinstance(one, OnStrings)
        one.set_palette(DARK)
        assert one.palette_now is DARK
        assert one.picture.height() == 190
    assert [str(s) for s in tables.neck.strings] == ["G3", "D4", "A4", "E5"]
    assert tables.neck.length_mm == 328.0
    assert tables.neck.picture.neck().n_strings == 4
