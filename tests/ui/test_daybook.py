"""The Daybook lays a session out, starts it at the Stand, keeps what is written, gives it away."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from jigwright.core.judge.ladder import ladder_by_id
from jigwright.core.sound.heard import METHOD_VERSION
from jigwright.services.dayexport import days_csv, days_ics
from jigwright.services.records import DayNote
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.take_keeper import drone_of, keep_drone


@pytest.fixture
def daybook(qtbot: QtBot, window: MainWindow):
    window.go("daybook")
    qtbot.waitUntil(lambda: not window.daybook_model.busy, timeout=20_000)
    return window.daybook


def test_a_session_is_laid_out_edited_and_started(qtbot: QtBot, window, daybook) -> None:
    model = daybook.model
    assert sum(i.minutes for i in model.items) == model.minutes
    parts = [i.part for i in model.items]
    assert parts[0] == "settle"
    assert {"bow", "pitch", "two_strings"} <= set(parts)
    daybook._minutes.setValue(20)
    assert sum(i.minutes for i in model.items) == 20
    n = len(model.items)
    model.remove(n - 1)
    model.stretch(1, 3)
    model.move(1, 1)
    assert len(model.items) == n - 1
    daybook._start_next()
    assert window._places.currentWidget() is window.stand
    assert json.loads(window.model.studio.setting("plan"))["minutes"] == 20


def test_an_offered_exercise_becomes_a_jig_when_begun(window, daybook) -> None:
    model = daybook.model
    i = next(k for k, item in enumerate(model.items) if item.part == "bow")
    daybook.begin(i)
    assert window.model.jig is not None
    assert window.model.jig.id == model.items[i].jig_id
    assert i in model.done


def test_a_rung_is_made_once_and_played(window, daybook) -> None:
    daybook.turn("ladders")
    before = len(window.model.studio.jigs())
    daybook.climb(ladder_by_id("scale"))
    assert window.model.jig is not None
    assert window.model.jig.tolerance_cents == 20
    daybook.climb(ladder_by_id("scale"))
    assert len(window.model.studio.jigs()) == before + 1


def test_a_trend_shows_every_take_and_claims_nothing_from_four(daybook) -> None:
    daybook.turn("trends")
    jig = daybook.chosen_jig()
    assert jig is not None
    points = daybook.model.trend(jig.id, "off_cents")
    assert len(points) == 4
    assert all(0 < p.value < 30 for p in points)
    assert "From eight on" in daybook._trend_words.text()
    assert not daybook._trend.grab().isNull()


def test_summaries_are_kept_and_found_again(window, daybook) -> None:
    kept = window.model.studio.summaries()
    assert len(kept) == 4
    window.daybook_model._summaries.clear()
    window.daybook_model.load()
    assert not window.daybook_model.busy


def test_a_day_keeps_its_words_and_can_be_searched(window, daybook) -> None:
    daybook.turn("record")
    daybook.record._word.setText("amber")
    daybook.record._next.setPlainText("slower, from the frog")
    daybook.record.keep_note()
    player = window.model.player
    notes = window.model.studio.day_notes(player.id)
    assert [(n.word, n.next_time) for n in notes] == [("amber", "slower, from the frog")]
    daybook.record._search.setText("amber")
    assert daybook.record._days.count() == 1
    daybook.record._search.setText("no such word")
    assert daybook.record._days.count() == 0
    daybook.record._search.setText("")
    daybook.record._word.setText("")
    daybook.record._next.setPlainText("")
    daybook.record.keep_note()
    assert window.model.studio.day_notes(player.id) == ()


@pytest.mark.parametrize("suffix", [".csv", ".json", ".ics"])
def test_days_are_exported(window, daybook, tmp_path: Path, suffix: str) -> None:
    daybook.turn("record")
    path = tmp_path / f"days{suffix}"
    daybook.record.export(path)
    text = path.read_text()
    assert "2026" in text
    if suffix == ".json":
        assert json.loads(text)["schema"] == "jigwright.days/1"


def test_exports_are_safe_to_open_elsewhere() -> None:
    note = DayNote(player_id="p", day="2026-11-02", word="=2+2", notes="a;b,c\nd" + "x" * 200)
    rows = [("2026-11-02", 2, 130.0, "=cmd", note)]
    assert "'=2+2" in days_csv(rows)
    assert "'=cmd" in days_csv(rows)
    calendar = days_ics(rows)
    assert all(len(line.encode()) <= 75 for line in calendar.split("\r\n"))
    assert "a\\;b\\,c\\nd" in calendar.replace("\r\n ", "")


def test_a_report_is_one_page_of_paper(daybook, tmp_path: Path) -> None:
    path = tmp_path / "report.pdf"
    daybook.record.report(path)
    assert path.read_bytes().startswith(b"%PDF")
    assert not list(tmp_path.glob(".*"))


def test_what_an_older_method_heard_is_heard_anew_and_kept_out_of_trends_until_then(
    qtbot: QtBot, window: MainWindow
) -> None:
    studio, daybook = window.model.studio, window.daybook_model
    studio._db.execute("UPDATE heard SET method_version = 1 WHERE take_id IN ('t0', 't2')")
    studio._db.execute("DELETE FROM heard WHERE take_id = 't1'")
    studio._db.execute("DELETE FROM segment WHERE take_id = 't1'")
    daybook.load()
    qtbot.waitUntil(lambda: not daybook.busy, timeout=20_000)
    jig_id = window.model.jig.id
    assert [p.take_id for p in daybook.trend(jig_id, "off_cents")] == ["t3"]
    window.rehearing.start(0)
    qtbot.waitUntil(
        lambda: set(studio.methods().values()) == {METHOD_VERSION} and len(studio.methods()) == 4,
        timeout=60_000,
    )
    daybook.load()
    qtbot.waitUntil(lambda: not daybook.busy, timeout=20_000)
    assert [p.take_id for p in daybook.trend(jig_id, "off_cents")] == ["t0", "t1", "t2", "t3"]
    assert len(studio.heard("t1").segments) == 15


def test_a_drone_beside_a_take_is_remembered(window: MainWindow) -> None:
    studio = window.model.studio
    keep_drone(studio, "t0", (293.66, 587.33))
    assert drone_of(studio, "t0") == (293.66, 587.33)
    assert drone_of(studio, "t1") == ()
    studio.set_setting("drone:t1", "rubbish")
    assert drone_of(studio, "t1") == ()
