"""The Daybook lays a session out, starts it at the Stand, keeps what is written, gives it away."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from jigwright.core.errors import ScoreError
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.judge.ladder import ladder_by_id
from jigwright.core.judge.plan import is_heavy
from jigwright.core.judge.work import SetWork
from jigwright.core.sound.heard import METHOD_VERSION
from jigwright.services.dayexport import days_csv, days_ics
from jigwright.services.exchange.workfile import SUFFIX as WORK_SUFFIX
from jigwright.services.exchange.workfile import read_work, write_work
from jigwright.services.practising import heavy_minutes
from jigwright.services.records import DayNote
from jigwright.services.trends import FIGURES, TrendPoint
from jigwright.ui.main_window import MainWindow
from jigwright.wording.daybook import conditions_text
from signals import scale


@pytest.fixture
def daybook(qtbot: QtBot, window: MainWindow):
    window.go("daybook")
    qtbot.waitUntil(lambda: not window.daybook_model.busy, timeout=20_000)
    return window.daybook


def test_a_session_is_laid_out_edited_and_started(qtbot: QtBot, window, daybook) -> None:
    model = daybook.model
    assert sum(i.minutes for i in model.items) == model.wish.minutes
    parts = [i.part for i in model.items]
    assert parts[0] == "settle"
    assert {"bow", "pitch", "two_strings"} <= set(parts)
    daybook.today.minutes.setValue(20)
    assert sum(i.minutes for i in model.items) == 20
    n = len(model.items)
    model.remove(n - 1)
    model.stretch(1, 3)
    model.move(1, 1)
    assert len(model.items) == n - 1
    daybook.start_next()
    assert window._places.currentWidget() is window.stand
    assert window.studio.setting("plan_minutes") == "20"


def test_an_offered_exercise_becomes_a_jig_when_begun(window, daybook) -> None:
    model = daybook.model
    i = next(k for k, item in enumerate(model.items) if item.part == "bow")
    daybook.today.begun.emit(i)
    assert window.session.now.jig is not None
    assert window.session.now.jig.id == model.items[i].jig_id
    run = model.running()
    assert run is not None
    assert run.at == i
    window.stand_model.stop()


def test_a_rung_is_made_once_and_played(window, daybook) -> None:
    daybook.turn("ladders")
    before = len(window.studio.jigs())
    daybook.climb(ladder_by_id("scale"))
    assert window.session.now.jig is not None
    assert window.session.now.jig.tolerance_cents == 20
    daybook.climb(ladder_by_id("scale"))
    assert len(window.studio.jigs()) == before + 1


def test_a_trend_shows_every_take_and_claims_nothing_from_four(daybook) -> None:
    daybook.turn("trends")
    jig = daybook.chosen_jig()
    assert jig is not None
    points = daybook.model.trend(jig.id, "off_cents")
    assert len(points) == 4
    assert all(0 < p.value < 30 for p in points)
    assert daybook._trend_words.text().startswith("4 takes. From eight on")
    daybook.model.of_before = lambda _: 2
    daybook._show_trend()
    assert daybook._trend_words.text().startswith("2 takes are still to be heard anew. 4 takes.")
    assert not daybook._trend.grab().isNull()


def test_summaries_are_kept_and_found_again(window, daybook) -> None:
    kept = window.studio.summaries()
    assert len(kept) == 4
    window.daybook_model.summaries.forget()
    window.daybook_model.load()
    assert not window.daybook_model.busy


def test_a_day_keeps_its_words_and_can_be_searched(window, daybook) -> None:
    daybook.turn("record")
    daybook.record._word.setText("amber")
    daybook.record._next.setPlainText("slower, from the frog")
    daybook.record.keep_note()
    player = window.session.now.player
    notes = window.studio.day_notes(player.id)
    assert [(n.word, n.next_time) for n in notes] == [("amber", "slower, from the frog")]
    daybook.record._search.setText("amber")
    assert daybook.record._days.count() == 1
    daybook.record._search.setText("no such word")
    assert daybook.record._days.count() == 0
    daybook.record._search.setText("")
    daybook.record._word.setText("")
    daybook.record._next.setPlainText("")
    daybook.record.keep_note()
    assert window.studio.day_notes(player.id) == ()


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


def test_a_report_is_one_page_of_paper(qtbot: QtBot, daybook, tmp_path: Path) -> None:
    path = tmp_path / "report.pdf"
    daybook.record.report(path)
    qtbot.waitUntil(path.exists, timeout=20_000)
    assert path.read_bytes().startswith(b"%PDF")
    assert not list(tmp_path.glob(".*"))


def test_what_an_older_method_heard_is_heard_anew_and_kept_out_of_trends_until_then(
    qtbot: QtBot, window: MainWindow
) -> None:
    studio, daybook = window.studio, window.daybook_model
    studio._db.execute("UPDATE heard SET method_version = 1 WHERE take_id IN ('t0', 't2')")
    studio._db.execute("DELETE FROM heard WHERE take_id = 't1'")
    studio._db.execute("DELETE FROM segment WHERE take_id = 't1'")
    daybook.load()
    qtbot.waitUntil(lambda: not daybook.busy, timeout=20_000)
    jig_id = window.session.now.jig.id
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


def test_work_is_set_given_away_taken_in_and_counted(
    qtbot: QtBot, window: MainWindow, open_window, tmp_path: Path
) -> None:
    window.go("daybook")
    window.daybook.turn("pupils")
    page, model = window.daybook.pupils, window.daybook.pupils_model
    jig, player = window.session.now.jig, window.session.now.player
    assert [r.player.name for r in model.rows(date(2026, 11, 6))] == ["Nell Harbour"]
    assert model.rows(date(2026, 11, 6))[0].n_takes == 4
    work = model.set_work(
        player.id, jig, due=date(2026, 11, 20), good_takes=2, words="Slowly.", who="Ines Brandt"
    )
    earlier = replace(work, set_utc="2026-11-03T00:00:00Z")
    window.studio.set_work(earlier)
    ((_, progress, title),) = model.work_of(player.id, date(2026, 11, 18))
    assert (title, progress.n_takes, progress.days_left) == (jig.title, 3, 2)
    assert progress.state == "open"
    assert model.work_of(player.id, date(2026, 11, 25))[0][1].state == "overdue"
    page.refresh()
    texts = [w.text() for w in page.findChildren(QLabel)]
    assert any("Slowly." in t and "0 of 2 good takes" in t for t in texts)
    file = tmp_path / f"homework{WORK_SUFFIX}"
    page.give(earlier, file)
    # the other side: a folder that both see
    pupil = open_window(tmp_path / "pupil")
    other = pupil.daybook.pupils_model
    other.choose_folder(tmp_path)
    assert other.new_files() == (file,)
    with qtbot.waitSignal(other.message, timeout=20_000) as said:
        assert other.fetch(lambda _: None) == 1
    assert jig.title in said.args[0]
    assert other.new_files() == ()
    whole = file.read_bytes()
    file.write_bytes(whole[:-1])
    assert other.new_files() == (file,)  # still being copied when it was first seen
    file.write_bytes(whole)
    assert [w.words for w, _, _ in other.open_work_of_player()] == ["Slowly."]
    assert jig.id in {j.id for j in pupil.studio.jigs()}
    model.close(earlier)
    assert model.work_of(player.id)[0][1].state == "done"
    model.remove(earlier)
    assert model.work_of(player.id) == ()


@pytest.mark.parametrize("spoil", ["name", "schema", "due", "id", "cut", "jig"])
def test_hostile_files_of_work_are_refused(tmp_path: Path, spoil: str) -> None:
    path = tmp_path / f"a{WORK_SUFFIX}"
    jig = scale()
    work = SetWork(
        id="work-1", player_id="p", jig_id=jig.id, jig_revision=1, words="x" * 9000,
        due="2026-11-20", good_takes=50, who="W", set_utc="2026-11-01T00:00:00Z",
    )  # fmt: skip
    write_work(path, work, jig, "N")
    read = read_work(path).work
    assert (len(read.words), read.good_takes) == (500, 50)
    with zipfile.ZipFile(path) as archive:
        parts = {n: archive.read(n) for n in archive.namelist()}
    manifest = json.loads(parts["manifest.json"])
    if spoil == "name":
        parts["../../evil"] = b"x"
    elif spoil == "schema":
        manifest["schema"] = "other"
    elif spoil == "due":
        manifest["work"]["due"] = "soon"
    elif spoil == "id":
        manifest["work"]["id"] = "../x"
    elif spoil == "jig":
        parts["jig.json"] = b"{}"
    parts["manifest.json"] = json.dumps(manifest).encode()
    with zipfile.ZipFile(path, "w") as archive:
        for name, content in parts.items():
            archive.writestr(name, content)
    if spoil == "cut":
        path.write_bytes(path.read_bytes()[:200])
    with pytest.raises(ScoreError):
        read_work(path)


def test_from_an_empty_studio_to_the_first_sentence(
    qtbot: QtBot, open_window, tmp_path: Path
) -> None:
    window = open_window(tmp_path / "new")
    assert window.welcome.needed
    window.greet()
    page = window._by_name["welcome"]
    page.name.setText("Nell Harbour")
    page.kinds.button(1).setChecked(True)
    stand = window.stand_model
    stand.speed = 5.0
    page.show_inputs(())
    page.go_on()
    assert (window.session.now.player.name, window.session.now.instrument.kind) == (
        "Nell Harbour",
        "viola",
    )
    assert (stand.mode, stand.device.id) == ("strings", "simulated")
    stand.begin()
    qtbot.waitUntil(lambda: window.welcome.stage == "scale", timeout=60_000)
    assert stand.mode == "jig"
    qtbot.waitUntil(lambda: window.welcome.stage == "done", timeout=60_000)
    assert stand.told.verdict is not None
    assert not window.welcome.needed


def test_somebody_may_only_look_around(qtbot: QtBot, open_window, tmp_path: Path) -> None:
    window = open_window(tmp_path / "new")
    window.greet()
    window._by_name["welcome"].skip()
    assert not window.welcome.needed
    again = open_window(tmp_path / "new2")
    again.studio.set_setting("welcome", "rubbish")
    assert again.welcome.stage == ""


def test_every_figure_is_explained_with_picture_and_both_sounds(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.explain("ring")
    page = window.figures
    assert page.topic.id == "ring"
    pictures = []
    for topic in page.topics:
        page.show_topic(topic.id)
        assert topic.means
        assert topic.cannot
        image = QImage(400, 190, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        page._paint(painter, QRectF(0, 0, 400, 190))
        painter.end()
        pictures.append(bytes(image.constBits().asarray(image.sizeInBytes())))
    assert len(set(pictures)) == len(pictures)
    page.show_topic("bounce")
    sounds = []
    for good in (True, False):
        before = len(window.sound.output.played)
        page.hear(good=good)
        qtbot.waitUntil(lambda n=before: len(window.sound.output.played) > n, timeout=30_000)
        sounds.append(window.sound.output.played[-1][0])
    assert not np.array_equal(*sounds)


def test_trends_of_a_finger_and_of_strokes_and_the_best_take(
    qtbot: QtBot, window: MainWindow
) -> None:
    window.go("daybook")
    daybook, jig_id = window.daybook_model, window.session.now.jig.id
    qtbot.waitUntil(lambda: not daybook.busy, timeout=20_000)
    parts = daybook.trend_parts(jig_id)
    assert {"finger:2", "string:1", "note:F#4"} <= set(parts)
    second = [p.value for p in daybook.trend(jig_id, "bias_cents", "note:F#4")]
    assert [round(v) for v in second] == pytest.approx([-18, -16, -20, -17], abs=1)
    assert all(abs(p.value) < 3 for p in daybook.trend(jig_id, "bias_cents", "note:A4"))
    for figure in ("uneven_time", "uneven_level_db", "unsteady_down_db", "unsteady_up_db"):
        assert len(daybook.trend(jig_id, figure)) == 4
    best = daybook.best(daybook.trend(jig_id, "off_cents", "finger:2"), "off_cents")
    assert best is not None
    assert daybook.best([], "off_cents") is None
    point = TrendPoint(take_id="", day="2026-11-01", value=1.0, cut_before=False)
    later = replace(point, value=5.0, cut_before=True)
    assert daybook.best([point, later], "off_cents") == later  # another microphone since
    window.daybook.turn("trends")
    window.daybook._figure.setCurrentIndex(FIGURES.index("off_cents"))
    assert window.daybook._part.count() == len(parts) + 1
    assert "Best so far" in window.daybook._trend_words.text()
    window.daybook._figure.setCurrentIndex(FIGURES.index("uneven_time"))
    assert window.daybook._part.count() == 1


def test_tiring_work_is_counted(window: MainWindow) -> None:
    pizz = maker("plucked").make(Setting(instrument_id="violin", jig_id="pizz"))
    assert is_heavy(pizz)
    assert is_heavy(maker("slowest_bow").make(Setting(instrument_id="violin")))
    assert not is_heavy(window.session.now.jig)
    studio = window.studio
    studio.add_jig(pizz, utc="2026-11-20T08:00:00Z")
    studio._db.execute(
        "UPDATE take SET jig_id = 'pizz', jig_revision = 1, duration_s = 400,"
        " recorded_utc = '2026-11-20T10:00:00Z' WHERE id IN ('t1', 't2')"
    )
    now = datetime(2026, 11, 20, 12, tzinfo=UTC)
    takes, jig_of = studio.takes(player_id="p"), window.reader.jig_of
    assert heavy_minutes(takes, jig_of, now) == pytest.approx(800 / 60)
    assert heavy_minutes(takes, jig_of, now + timedelta(days=1)) == 0.0


def test_a_studio_is_backed_up_from_the_window(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    window.files.back_up(tmp_path / "copy")
    qtbot.waitUntil(lambda: "copy" in window.strip.message.text(), timeout=30_000)
    assert (tmp_path / "copy" / "studio.db").exists()
    window.files.back_up(tmp_path / "copy")
    qtbot.waitUntil(lambda: "Saved" not in window.strip.message.text(), timeout=30_000)


def test_a_week_leads_to_its_last_day(window: MainWindow) -> None:
    window.go("daybook")
    window.daybook.turn("record")
    record = window.daybook.record
    record._week_pressed(date(2026, 11, 2))
    assert "2026-11-02" <= record._day.day <= "2026-11-08"
    record._week_pressed(date(2020, 1, 6))
    assert "Nothing" in window.strip.message.text()


def choose_day(record, day: str) -> None:
    for row in range(record._days.count()):
        if record._days.item(row).data(Qt.ItemDataRole.UserRole).day == day:
            record._days.setCurrentRow(row)


def test_a_ladder_of_ones_own_is_made_climbed_and_removed(qtbot: QtBot, window: MainWindow) -> None:
    window.go("daybook")
    window.daybook.turn("ladders")
    own, model = window.daybook.own, window.daybook_model
    own.good.setValue(6)
    own.make()
    assert "cannot be" in window.strip.message.text()
    own.good.setValue(2)
    own.of.setValue(3)
    own.make()
    ladder = model.ladders()[0]
    assert ladder.jig == (window.session.now.jig.id, 1)
    assert [r.tempo_bpm for r in ladder.rungs][::4] == [60, 100]
    assert [r.tolerance_cents for r in ladder.rungs][::4] == [15, 8]
    jig = model.start_rung(ladder)
    assert (jig.tempo_bpm, jig.tolerance_cents) == (60, 15)
    assert model.standing(ladder).rung == 0
    window.studio._db.execute("UPDATE take SET jig_id = ?, jig_revision = 1", (jig.id,))
    window.studio._db.execute("UPDATE take SET tolerance_cents = 30")
    model.summaries.forget()
    model.load()
    qtbot.waitUntil(lambda: not model.busy, timeout=20_000)
    assert model.standing(ladder).rung == 1
    model.drop_ladder(ladder)
    assert all(one.jig is None for one in model.ladders())


def test_everything_can_be_taken_along(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    window.go("daybook")
    daybook, record = window.daybook_model, window.daybook.record
    qtbot.waitUntil(lambda: not daybook.busy, timeout=20_000)
    window.daybook.turn("record")
    work = window.daybook.pupils_model.set_work(
        window.session.now.player.id, window.session.now.jig, due=date(2026, 12, 1), good_takes=2,
        words="a;b,c", who="W",
    )  # fmt: skip
    record.export_everything(tmp_path / "all.json")
    body = json.loads((tmp_path / "all.json").read_text())
    assert body["schema"] == "jigwright.studio/1"
    assert [len(body[k]) for k in ("players", "instruments", "jigs", "takes", "work")] == [
        1, 1, 1, 4, 1,
    ]  # fmt: skip
    assert body["takes"][0]["figures"]["n_notes"] == 15
    record.export_everything(tmp_path / "takes.csv")
    rows = list(csv.DictReader(io.StringIO((tmp_path / "takes.csv").read_text())))
    assert len(rows) == 4
    assert float(rows[0]["off_cents"]) > 0
    record.export(tmp_path / "days.ics")
    text = (tmp_path / "days.ics").read_text()
    assert text.count("BEGIN:VEVENT") == 4
    assert "DUE;VALUE=DATE:20261201" in text
    assert f"UID:{work.id}@jigwright" in text
    assert "a\\;b\\,c" in text


def test_a_report_is_about_a_day_or_a_span(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    window.go("daybook")
    window.daybook.turn("record")
    record = window.daybook.record
    choose_day(record, "2026-11-03")
    assert record._day.day == "2026-11-03"
    sizes = {}
    for n_days in (1, 7, 0):
        record.report(tmp_path / f"{n_days}.pdf", n_days=n_days)
        qtbot.waitUntil((tmp_path / f"{n_days}.pdf").exists, timeout=20_000)
        sizes[n_days] = (tmp_path / f"{n_days}.pdf").stat().st_size
    assert min(sizes.values()) > 5_000
    days = [d.day for d in window.daybook_model.report("2026-11-03", "2026-11-03").days]
    assert days == ["2026-11-03"]


def test_the_session_goes_on_by_one_key(qtbot: QtBot, window: MainWindow) -> None:
    window.run_command("session")
    assert window._places.currentWidget() is window.stand
    assert window.stand_model.walk.rests, "settling first"
    window.run_command("session")
    assert window.stand_model.mode == "strings"
    window.run_command("session")
    assert window.stand_model.mode == "jig"
    window.stand_model.stop()
    window.go("daybook")
    window.daybook.turn("today")
    texts = " ".join(w.text() for w in window.daybook.findChildren(QLabel))
    assert "a minute, ±" in texts


def test_a_report_says_what_was_set_and_on_what_it_was_played(window: MainWindow) -> None:
    model, jig = window.daybook_model, window.session.now.jig
    player = window.session.now.player
    window.daybook.pupils_model.set_work(
        player.id, jig, due=date(2030, 1, 2), good_takes=3, words="slowly", who="Odo"
    )
    report = model.report("", "9999-12-31")
    ((work, progress, title),) = report.set_work
    assert (work.words, progress.state, title) == ("slowly", "open", jig.title)
    owned = window.session.now.instrument
    assert report.newest.instrument == (owned.name or "violin")


def test_what_figures_were_held_against_is_said() -> None:
    said = conditions_text("Tern", 442.0, "just:D", 7.5, "2026-11-03")
    assert said == "Tern · A 442, pure over D ± 7.5 c · 2026-11-03"
    assert conditions_text("", 440.0, "equal", 10.0, "") == "A 440, equal ± 10 c"
