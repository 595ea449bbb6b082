"""The Desk's close looks answer to the selection, say only what the numbers support, and export."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from jigwright.audio.files import SndFiles
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.judge.landings import Landing, share_back, spots_of, worst_spot
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import TakeRecord
from jigwright.services.resonating import WokenRow
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.desk import answers
from jigwright.ui.viewmodels.desk.remarks import Remarks
from jigwright.ui.widgets.pages import PAGES
from jigwright.wording.pages import way_back_sentence
from ring_builders import meeting, string_ring
from signals import listen, perform, take_record


@pytest.fixture
def desk(qtbot: QtBot, window: MainWindow):
    qtbot.waitUntil(lambda: not window.desk.view.by_time, timeout=20_000)
    return window.desk


@pytest.mark.parametrize("page", PAGES)
def test_every_page_paints_copies_and_saves(
    qtbot: QtBot, window: MainWindow, desk, page: str, tmp_path: Path
) -> None:
    desk.turn(page)
    assert desk.page == page
    assert desk.close_look.isVisible()
    assert desk.close_look._words.text()
    plain = desk.close_look.image(400, 200)
    window.model.select(3)
    assert not plain.isNull()
    for name in ("p.svg", "p.png"):
        desk.close_look.save(tmp_path / name)
        assert (tmp_path / name).stat().st_size > 400
    assert "<svg" in (tmp_path / "p.svg").read_text()
    desk.close_look.copy()
    assert "clipboard" in window.strip.message.text()


def test_the_page_of_the_take_is_copied_and_saved_too(
    window: MainWindow, desk, tmp_path: Path
) -> None:
    desk.turn("take")
    desk.save_picture(tmp_path / "take.svg")
    text = (tmp_path / "take.svg").read_text()
    assert text.count("<path") > 40  # notes are drawn, not pasted
    desk.save_picture(tmp_path / "take.png")
    assert (tmp_path / "take.png").stat().st_size > 4000
    desk.save_picture(tmp_path / "nowhere" / "take.svg")
    assert "Nothing was changed" in window.strip.message.text()
    desk.copy_picture()
    assert "clipboard" in window.strip.message.text()


def test_strokes_of_all_takes_come_in_and_a_bow_fault_has_the_best_long_bow_beside_it(
    qtbot: QtBot, window: MainWindow, desk, tmp_path: Path
) -> None:
    desk.turn("bow")
    strokes = desk.close_look.strokes
    qtbot.waitUntil(lambda: bool(strokes.bands()[0]), timeout=20_000)
    bands, n_takes = strokes.bands()
    assert n_takes == len(window.model.prints)
    assert {b.direction for b in bands} == {"down", "up"}
    values = {"repeats": 1, "beats_in_bow": 4}
    long = maker("long_bows").make(Setting(instrument_id="violin", jig_id="long", values=values))
    window.studio.add_jig(long, utc="2026-11-08T10:00:00Z")
    for i, fault in enumerate(("bounce notes=1 at=0.4", "")):
        performance = perform(long, fault, seed=i)
        path = tmp_path / f"{i}.wav"
        SndFiles().write_wav(path, performance.sound.samples, performance.sound.rate_hz)
        record = take_record(f"long{i}", long, utc=f"2026-11-0{8 + i}T10:00:00Z")
        window.studio.add_take(record, path, listen(performance))
    window.session.set_jig(long)
    window.model.show_take(window.model.prints[0].take.id)
    faults = [f for f in window.model.judged.findings if f.id.startswith("bow_")]
    assert faults
    found = strokes.part_for(window.model.take, window.model.judged, faults[0])
    assert found is not None
    best, (first, last) = found
    assert best.stroke.end_s - best.stroke.start_s > 2.5
    assert best.stroke.start_s <= first < last <= best.stroke.end_s
    desk.hear_best(faults[0])
    qtbot.waitUntil(lambda: bool(window.sound.output.played), timeout=20_000)


def test_the_selection_is_the_same_on_every_page(window: MainWindow, desk) -> None:
    desk.turn("shape")
    before = desk.close_look.image(600, 300)
    window.model.select(5)
    after = desk.close_look.image(600, 300)
    assert before != after
    desk.turn("bow")
    assert desk.close_look._data.selected_stroke() == 5
    desk.turn("take")
    assert window.model.selected == 5


def test_pages_can_be_turned_by_keys(window: MainWindow, desk) -> None:
    window.run_command("next_page")
    assert desk.page == "landings"
    window.run_command("previous_page")
    window.run_command("previous_page")
    assert desk.page == "compare"


def test_strokes_and_landings_are_those_of_the_take(window: MainWindow, desk) -> None:
    data = desk.close_look._data
    assert len(data.ribbons()) == 15
    picture = data.landing_picture()
    assert len({one.take for one in picture.landings}) == 4
    low = [s for s in picture.spots if s.string == 1 and s.finger == 2]
    assert low[0].bias_cents == pytest.approx(-17.5, abs=2.5)
    assert low[0].bias_mm < 0
    assert data.worst(picture) is None  # four takes with two landings each do not support a claim


def landing(off_mm: float, take: int, finger: int = 2) -> Landing:
    return Landing(
        take=take, string=1, finger=finger, pitch=Pitch.parse("F#4"), target_mm=66.0,
        off_mm=off_mm, cents=8 * off_mm, rising=True, new_string=False,
    )  # fmt: skip


def test_a_bias_needs_ten_landings_and_more_than_chance() -> None:
    rng = np.random.default_rng(2)
    nine = [landing(-2.5 + 0.3 * v, i) for i, v in enumerate(rng.normal(size=9))]
    assert worst_spot(spots_of(nine)) is None
    claimed = worst_spot(
        spots_of([landing(-2.5 + 0.6 * v, i) for i, v in enumerate(rng.normal(size=14))])
    )
    assert claimed is not None
    assert claimed.bias_mm == pytest.approx(-2.5, abs=0.5)
    false = 0
    for _ in range(300):
        landings = [
            landing(float(rng.normal()), i, finger=f) for f in (1, 2, 3, 4) for i in range(14)
        ]
        false += worst_spot(spots_of(landings)) is not None
    assert false <= 8  # about one map in a hundred, with room for chance


def test_a_span_is_played_slower_at_its_pitch(qtbot: QtBot, window, desk, output) -> None:
    window.model.select(4)
    window.run_command("play_note")
    qtbot.waitUntil(lambda: len(output.played) == 1, timeout=20_000)
    window.run_command("slower")
    window.run_command("slower")
    assert "50 %" in window.strip.message.text()
    window.run_command("play_note")
    qtbot.waitUntil(lambda: len(output.played) == 2, timeout=20_000)
    plain, slow = (p[0] for p in output.played)
    assert len(slow) == pytest.approx(2 * len(plain), rel=0.02)


def test_a_remark_stays_with_its_note_and_take(window, desk) -> None:
    model = window.model
    model.select(3)
    remarks, take_id = Remarks(window.studio, window.session), model.take.id
    note_id = model.selected_note_id()
    remarks.add(take_id, model.selected_note(), "  listen \n here ")
    assert [r.words for r in remarks.on(take_id, note_id)] == ["listen here"]
    shown = " ".join(w.text() for w in desk.slip.findChildren(QLabel))
    assert "listen here" in shown
    model.select(4)
    assert remarks.on(take_id, model.selected_note_id()) == ()
    model.select(3)
    remarks.remove(remarks.on(take_id, note_id)[0])
    assert window.studio.remarks(take_id) == ()


def test_a_take_is_given_away_and_taken_in_by_another_studio(
    qtbot: QtBot, window, desk, open_window, tmp_path: Path
) -> None:
    window.model.select(2)
    model = window.model
    Remarks(window.studio, window.session).add(model.take.id, model.selected_note(), "lovely")
    path = tmp_path / "gift.take.zip"
    window.imports.give_away(model.take, model.take_jig(), path)
    qtbot.waitUntil(path.exists, timeout=20_000)
    other = open_window(tmp_path / "teacher")
    other.files.take([path])
    qtbot.waitUntil(lambda: len(other.studio.takes()) == 1, timeout=30_000)
    got = other.studio.takes()[0]
    assert got.sha256 == window.model.take.sha256
    assert [r.words for r in other.studio.remarks(got.id)] == ["lovely"]
    assert window.session.now.player.name in {p.name for p in other.studio.players()}
    other.files.take([path])
    qtbot.waitUntil(lambda: "already" in other.question_bar.words.text(), timeout=20_000)


def test_two_takes_are_heard_blind_before_the_figures_are_seen(qtbot, window, output) -> None:
    window.desk.turn("compare")
    page, c = window.desk.close_look, window.desk.close_look.comparing
    assert c.other is not None
    assert c.other.id != window.model.take.id
    assert page._words.text()
    c.start_blind()
    assert c.hidden
    assert "like" in page._words.text()
    n = len(output.played)
    c.hear(0)
    qtbot.waitUntil(lambda: len(output.played) == n + 1, timeout=20_000)
    c.hear(1)
    qtbot.waitUntil(lambda: len(output.played) == n + 2, timeout=20_000)
    loud = [float(np.sqrt(np.mean(np.square(p[0])))) for p in output.played[-2:]]
    assert abs(20 * np.log10(loud[0] / loud[1])) < 2.0
    c.choose(0)
    assert not c.hidden
    assert "You liked" in page._words.text()
    kept = window.studio.choice(window.model.take.id)
    assert kept.against_id == c.other.id
    assert kept.liked_id in (c.other.id, window.model.take.id)


def test_after_a_miss_on_either_side_the_place_lies_between() -> None:
    assert share_back([landing(-2.0, 1), landing(1.0, 2)]) == pytest.approx(1 / 3)
    assert share_back([landing(1.0, 1), landing(-1.0, 2)]) == pytest.approx(0.5)
    assert share_back([landing(-2.0, 1), landing(-1.0, 2)]) is None
    assert share_back([landing(-2.0, 1), landing(0.2, 2)]) is None
    assert share_back([landing(-2.0, 1)]) is None
    assert "a third of the way" in way_back_sentence("F#", 0.31)


def test_the_ring_page_says_where_a_string_answers_over_the_takes(
    qtbot: QtBot, window: MainWindow, desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What the takes woke is read a few at a time; then the selected note has its place."""
    note = window.model.judged.notes[1]  # stopped: an open string has its peg
    one = replace(string_ring(1), meeting=meeting(1))
    rows = tuple(
        WokenRow(
            pitch=note.pitch, finger=note.finger, on_string=note.string, cents=c,
            one=replace(one, level_db=-28.0 - ((c - 2.0) / 3.0) ** 2),
        )
        for c in (-6.0, -2.0, 0.0, 4.0, 8.0)
    )  # fmt: skip
    read: list[str] = []

    def woken(_reader: object, take: TakeRecord, _view: object) -> tuple[WokenRow, ...]:
        read.append(take.id)
        return rows

    monkeypatch.setattr(answers, "woken", woken)
    window.model.select(1)
    desk.turn("ring")
    words = desk.close_look._words
    qtbot.waitUntil(lambda: "answers" in words.text(), timeout=20_000)
    assert "cents high of the target" in words.text()
    n = len(window.model.prints)
    assert f"over {n} takes: the D string rang {5 * n} of {5 * n} times." in words.text()
    assert f"({len(window.model.prints)} takes)" in words.text()
    assert sorted(read) == sorted(p.take.id for p in window.model.prints)
    monkeypatch.setattr(answers, "TUNED_BY", ("viola",))
    window.model.select(2)
    window.model.select(1)
    assert "answers" not in words.text()
