"""Jigs are made, written, brought in, derived and exported; Tables answer to the instrument."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication, QComboBox, QSpinBox
from pytestqt.qtbot import QtBot

from jigwright.audio.output import RecordingOutput
from jigwright.core.jig.cue import has_cue
from jigwright.core.jig.exchange import jig_from_json
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import MAKERS
from jigwright.core.jig.model import Jig
from jigwright.services.exchange.scores import score_bytes
from jigwright.services.practising import troubled_events
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.jigs import jig_tools


@pytest.fixture
def jigs(window: MainWindow):
    window.go("jigs")
    return window.jigs


def set_field(jigs, name: str, value) -> None:
    field = jigs.form.fields[name]
    if isinstance(field, QComboBox):
        field.setCurrentIndex(field.findData(value))
    else:
        assert isinstance(field, QSpinBox)
        field.setValue(value)


def test_an_exercise_is_made_seen_heard_and_kept(
    qtbot: QtBot, window: MainWindow, jigs, output: RecordingOutput
) -> None:
    jigs.make("double_scale")
    set_field(jigs, "interval", "sixths")
    assert jigs._title.text() == "Double-stop scale, D major, sixths"
    qtbot.waitUntil(lambda: jigs.score.engraved is not None, timeout=20_000)
    jigs.hear.drone.setChecked(True)
    jigs._play()
    qtbot.waitUntil(lambda: len(output.played) == 1, timeout=30_000)
    with qtbot.waitSignal(jigs.chosen):
        jigs._work_on()
    assert window.session.now.jig is not None
    assert window.session.now.jig.id.startswith("jig-")
    assert len(window.session.now.jig.events[0].heads) == 2


@pytest.mark.parametrize("kind", ["violin", "bass"])
def test_every_exercise_can_be_chosen_by_keyboard(qtbot: QtBot, jigs, kind: str) -> None:
    jigs._turn(1)
    jigs.form.set_instrument(kind)
    seen = set()
    jigs._makers.setFocus()
    jigs._makers.setCurrentRow(0)
    qtbot.keyClick(jigs._makers, Qt.Key.Key_Down)
    for _ in range(jigs._makers.count()):
        seen.add(jigs.form.maker.id)
        assert jigs._title.text()
        assert jigs._error.text() or jigs.jig.instrument_id == kind
        qtbot.keyClick(jigs._makers, Qt.Key.Key_Down)
    assert len(seen) >= len(MAKERS) - 1
    assert {"shifts", "even_run"} <= seen


def test_what_cannot_be_played_is_said_and_not_kept(jigs) -> None:
    jigs.make("scale")
    set_field(jigs, "octaves", 4)
    jigs.form.set_instrument("bass")
    assert "range" in jigs._error.text()
    assert not jigs._use.isEnabled()
    set_field(jigs, "octaves", 1)
    assert jigs._error.text() == ""
    assert jigs._use.isEnabled()


def test_a_line_of_notes_is_a_jig_and_its_mistakes_are_named(qtbot: QtBot, jigs, window) -> None:
    jigs.write_notes()
    jigs.editor.line.setText("(D4 E4) F#4:2 H")
    assert "word 4" in jigs._error.text()
    steps = len(jigs.editor._back)
    jigs.editor.line.setText("(D4 E4) F#4:2 H8")
    assert len(jigs.editor._back) == steps  # what cannot be read is no step
    jigs.editor.line.setText("(D4 E4) F#4:2 r:1 G3+B4")
    assert len(jigs.jig.events) == 4
    with qtbot.waitSignal(jigs.chosen):
        jigs._work_on()
    assert [len(e.heads) for e in window.session.now.jig.events] == [1, 1, 1, 2]


def test_a_chosen_span_becomes_a_spot_that_shares_its_notes(qtbot: QtBot, jigs, window) -> None:
    before = jigs.jig
    qtbot.waitUntil(lambda: jigs.score.engraved is not None, timeout=20_000)
    qtbot.keyClick(jigs.score, Qt.Key.Key_Right)
    qtbot.keyClick(jigs.score, Qt.Key.Key_Right)
    qtbot.keyClick(jigs.score, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert jigs.score.span == (1, 2)
    jigs._derive(jig_tools.spot)
    made = window.session.now.jig
    assert made.derived_from == (before.id, before.revision)
    assert [e.heads[0].id for e in made.events] == [e.heads[0].id for e in before.events[1:3]]


def test_a_click_on_a_notehead_chooses_it(qtbot: QtBot, jigs) -> None:
    qtbot.waitUntil(lambda: jigs.score.engraved is not None, timeout=20_000)
    qtbot.wait(80)
    head = jigs.score.engraved.heads[4]
    scale = jigs.score._factor()
    at = [round(14 + (head.x + 0.5 * head.width) * scale), round(14 + head.y * scale)]
    from PyQt6.QtCore import QPoint

    qtbot.mouseClick(jigs.score._page, Qt.MouseButton.LeftButton, pos=QPoint(*at))
    assert jigs.score.span == (4, 4)
    assert "One note chosen" in jigs._about.text()


def test_derived_exercises_are_kept_in_the_order_of_practice(jigs, window) -> None:
    n = len(window.studio.jigs())
    jigs._derive(jig_tools.displace)
    assert len(window.studio.jigs()) == n + 4
    jigs._list.setCurrentRow(0)
    jigs.score.choose(0, 3)
    jigs._derive(jig_tools.rebuild)
    assert len(window.studio.jigs()) > n + 6


@pytest.mark.parametrize("suffix", [".musicxml", ".mid", ".json"])
def test_scores_go_out_and_come_back(
    qtbot: QtBot, jigs, window, tmp_path: Path, suffix: str
) -> None:
    first = jigs.jig
    path = tmp_path / f"out{suffix}"
    jigs.export_to(path)
    n = len(window.studio.jigs())
    jigs.bring_in(path)
    if suffix == ".json":
        qtbot.waitUntil(lambda: "read" in window.strip.message.text(), timeout=20_000)
    else:
        qtbot.waitUntil(lambda: len(window.studio.jigs()) == n + 1, timeout=20_000)
    pitches = [[h.pitch.midi for h in e.heads] for e in window.session.now.jig.events]
    assert pitches == [[h.pitch.midi for h in e.heads] for e in first.events]


def test_a_score_that_breaks_off_is_shown_but_not_kept_unasked(
    qtbot: QtBot, jigs, window, tmp_path: Path
) -> None:
    path = tmp_path / "broken.musicxml"
    text = score_bytes(jigs.jig, ".musicxml").decode()
    head, _, rest = text.partition('<measure number="2"')
    path.write_text(head + '<measure number="2"' + rest.replace("<step>C", "<step>X"))
    n = len(window.studio.jigs())
    jigs.bring_in(path)
    qtbot.waitUntil(lambda: "could not be read" in jigs._error.text(), timeout=20_000)
    assert len(window.studio.jigs()) == n
    with qtbot.waitSignal(jigs.chosen):
        jigs._work_on()
    assert len(window.studio.jigs()) == n + 1


def test_bad_scores_are_refused_in_words(qtbot: QtBot, jigs, window, tmp_path: Path) -> None:
    path = tmp_path / "page.xml"
    path.write_text("<html/>")
    jigs.bring_in(path)
    qtbot.waitUntil(lambda: "not a score" in window.strip.message.text(), timeout=20_000)


def test_a_jig_is_printed(qtbot: QtBot, jigs, window, tmp_path: Path) -> None:
    from jigwright.ui.printing import print_jig

    path = tmp_path / "page.pdf"
    print_jig(window.jobs, jigs.jig, path, said=window.say)
    qtbot.waitUntil(path.exists, timeout=20_000)
    assert path.read_bytes().startswith(b"%PDF")
    assert not list(tmp_path.glob(".*.part"))
    assert jig_from_json(jigs.text_of_jig()) == jigs.jig


def cell(window: MainWindow, row: int, column: int) -> str:
    item = window.tables.table.item(row, column)
    return item.text() if item is not None else ""


def test_tables_follow_instrument_and_tonic_and_can_be_heard(
    qtbot: QtBot, window: MainWindow, output: RecordingOutput, tmp_path: Path
) -> None:
    window.go("tables")
    tables = window.tables
    rows = {cell(window, r, 0): r for r in range(tables.table.rowCount())}
    assert cell(window, rows["F♯4"], 3) == "−16 c"  # pure third over D, D a pure fifth below A
    assert cell(window, rows["F♯4"], 2) == "+6 c"  # Pythagorean, from A
    for i in range(5):
        tables.turn(i)
        assert tables.table.rowCount() > 3
        tables.hear(0, 0)
        tables.copy()
        assert QApplication.clipboard().text().count("\n") == tables.table.rowCount()
        tables.write_pdf(tmp_path / f"{i}.pdf")
        assert (tmp_path / f"{i}.pdf").stat().st_size > 1000
    assert len(output.played) == 5


def test_millimetres_shrink_and_follow_the_string_length(window: MainWindow) -> None:
    tables = window.tables
    tables.turn(1)
    steps = [float(cell(window, r, 2).split()[0]) for r in range(24)]
    assert steps == sorted(steps, reverse=True)
    octave = float(cell(window, 11, 1).split()[0])
    assert octave == pytest.approx(328 / 2, abs=0.1)
    tables._kind.setCurrentIndex(tables._kind.findData("cello"))
    assert float(cell(window, 11, 1).split()[0]) == pytest.approx(345, abs=0.1)


def test_conflicts_are_only_those_that_are_computed(window: MainWindow) -> None:
    window.tables.turn(4)
    rows = [(cell(window, r, 0), cell(window, r, 1), cell(window, r, 2))
            for r in range(window.tables.table.rowCount())]  # fmt: skip
    between_g_and_d = [r for r in rows if "G3" in r[1] + r[2] and "D4" in r[1] + r[2]]
    assert not any(r[0].startswith("B") for r in between_g_and_d)


def test_notes_are_written_on_the_staff_and_kept_as_the_next_revision(
    qtbot: QtBot, jigs, window
) -> None:
    jigs.refresh()
    before = jigs.jig
    jigs.write_notes()
    qtbot.keyClick(jigs.score, Qt.Key.Key_Right)
    qtbot.keyClicks(jigs.score, "g,")
    assert jigs.score.span == (1, 1)
    assert str(jigs.jig.events[1].heads[0].pitch)[0] == "G"
    assert jigs.jig.events[1].length_beats == before.events[0].length_beats / 2
    assert "G" in jigs.editor.line.text()
    qtbot.keyClick(jigs.score, Qt.Key.Key_Up)
    assert str(jigs.jig.events[1].heads[0].pitch)[0] == "A"
    qtbot.keyClick(jigs.score, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert str(jigs.jig.events[1].heads[0].pitch)[0] == "G"
    jigs._work_on()
    kept = window.session.now.jig
    assert (kept.id, kept.revision) == (before.id, before.revision + 1)
    assert len(kept.events) == len(before.events) + 1
    assert kept.events[0].id == before.events[0].id
    assert window.studio.jig(before.id, before.revision) == before


def test_a_press_on_the_staff_puts_a_note_on_that_line(qtbot: QtBot, jigs) -> None:
    from PyQt6.QtCore import QPoint

    jigs.write_notes()
    qtbot.waitUntil(lambda: jigs.score.engraved is not None, timeout=20_000)
    qtbot.wait(120)
    before = jigs.jig
    drawn, scale = jigs.score.engraved, jigs.score._factor()
    head = drawn.heads[2]
    space = (drawn.staff_bottom - drawn.staff_top) / 4
    gap = 0.5 * (drawn.heads[3].x - head.x)
    at = QPoint(
        round(14 + (head.x + 0.5 * head.width + gap) * scale), round(14 + (head.y - space) * scale)
    )
    qtbot.mouseClick(jigs.score._page, Qt.MouseButton.LeftButton, pos=at)
    written = before.events[2].heads[0].pitch
    assert len(jigs.jig.events) == len(before.events) + 1
    assert jigs.jig.events[3].heads[0].pitch.diatonic == written.diatonic + 2
    jigs.editor.take_back()
    assert jigs.jig == before


def test_another_way_lies_beside_the_jig_and_can_be_played(qtbot: QtBot, jigs, window) -> None:
    before = jigs.jig
    four = next(w for w in jig_tools.ways() if "4" in w.name)
    jigs.compare(four)
    assert jigs.other.isVisibleTo(jigs)
    assert jigs.plan.words.count("\n") == 1
    (bowed,) = jigs.other.jigs
    assert sum(e.bow is not None for e in bowed.events) < len(before.events) / 2
    jigs.compare(jig_tools.ways()[0])
    assert len(jigs.other.jigs) == 2
    assert jigs.plan.words.count("\n") == 2
    jigs.other.kept.emit(bowed)
    (again,) = [w for w in jigs._ways() if w.kept]
    assert "not played" in again.name
    jigs.compare(again)
    assert jigs.other.jigs[-1].derived_from == (before.id, before.revision)
    jigs.other._take(bowed)
    assert window.session.now.jig.revision == before.revision + 1
    assert jigs.other.jigs == ()


def test_a_bow_plan_is_kept_with_the_jig_as_its_next_revision(jigs, window) -> None:
    before = jigs.jig
    jigs.plan.picture.share.emit(1, 0.31)
    assert jigs.jig.revision == before.revision + 1
    assert window.session.now.jig == jigs.jig
    (kept,) = [j for j in window.studio.jigs() if j.id == before.id]
    assert kept.events[1].bow_share == 0.31
    jigs.plan.undo()
    assert jigs.jig.events == before.events
    assert jigs.jig.revision == before.revision + 2


def test_while_notes_are_written_the_plan_is_a_step_that_can_be_taken_back(jigs, window) -> None:
    before = jigs.jig
    jigs.write_notes()
    jigs.plan.picture.share.emit(1, 0.31)
    assert jigs.jig.events[1].bow_share == 0.31
    assert jigs.jig.revision == before.revision
    jigs.editor.take_back()
    assert jigs.jig == before


def test_what_was_written_is_kept_when_another_jig_is_pressed(jigs, window) -> None:
    before, n = jigs.jig, len(window.studio.jigs())
    window.studio.add_jig(
        replace(before, id="other", title="A second tune"), utc="2026-11-01T10:00:00Z"
    )
    jigs.refresh()
    jigs.write_notes()
    jigs.editor.line.setText("D4 E4 F#4")
    said = []
    jigs.message.connect(said.append)
    at = next(k for k in range(jigs._list.count())
              if jigs._list.item(k).data(Qt.ItemDataRole.UserRole).id == "other")  # fmt: skip
    jigs._list.setCurrentRow(at)
    assert jigs.jig.id == "other"
    assert said == [f"What was written is kept: {before.title}."]
    (kept,) = [j for j in window.studio.jigs() if j.id == before.id]
    assert (kept.revision, len(kept.events)) == (before.revision + 1, 3)
    assert len(window.studio.jigs()) == n + 1


def test_a_new_piece_is_kept_when_another_jig_is_pressed(jigs, window) -> None:
    before, n = jigs.jig, len(window.studio.jigs())
    jigs.new_piece()
    jigs._row_chosen(0)
    assert len(window.studio.jigs()) == n  # nothing was written yet
    jigs.new_piece()
    jigs.editor.line.setText("D4 E4 F#4")
    jigs._row_chosen(0)
    assert len(window.studio.jigs()) == n + 1
    assert jigs.jig.id == before.id


def test_looking_at_the_editor_writes_nothing(jigs, window) -> None:
    before = jigs.jig
    jigs.write_notes()
    jigs._row_chosen(0)
    (kept,) = [j for j in window.studio.jigs() if j.id == before.id]
    assert kept.revision == before.revision


def test_ladders_of_tempo_and_places_that_move_alike(jigs, window) -> None:
    tempo = jigs.jig.tempo_bpm
    made = jig_tools.tempo_ladder(jigs.jig, None).jigs
    assert made[0].tempo_bpm < 0.6 * tempo < tempo < made[-1].tempo_bpm
    assert jig_tools.parallel(made[0], None).said


def test_weak_places_and_findings_become_jigs(qtbot: QtBot, jigs, window) -> None:
    n = len(window.studio.jigs())
    said: list[str] = []
    window.desk.message.connect(said.append)
    finding = next(f for f in window.model.judged.findings if f.notes)
    window.desk.make_jig(finding)
    assert said
    made = [j for j in window.studio.jigs() if j.derived_from]
    assert len(window.studio.jigs()) == n + 1
    assert 1 < len(made[0].events) <= len(window.session.now.jig.events)
    trouble, n_takes = troubled_events(
        window.studio.takes(jig_id=window.session.now.jig.id),
        window.reader,
        window.session.now.jig,
    )
    assert n_takes == len(window.studio.takes(jig_id=window.session.now.jig.id))
    result = jig_tools.weak_spots(window.session.now.jig, trouble, n_takes)
    assert result.said
    assert all(j.derived_from for j in result.jigs)


def test_a_long_score_comes_sheet_by_sheet_the_one_in_sight_first(qtbot: QtBot, jigs) -> None:
    def line(last: str) -> Jig:
        text = " | ".join(
            ["D4:1/2 E4 F#4 G4 A4 B4 C#5 D5"] * 24 + [f"D4 E4 F#4 G4 A4 B4 C#5 {last}"]
        )
        return jig_from_line(text, jig_id="long", instrument_id="violin", title="Long")

    view = jigs.score
    jigs._show(line("D5"))
    qtbot.waitUntil(
        lambda: view._sheets.tops() != [] and view._sheets.wanted is None, timeout=20_000
    )
    drawn = view.engraved
    assert len(drawn.heads) == 200
    assert len(view._sheets.tops()) > 2
    assert drawn.height > view._sheets.tops()[-1] > 0
    by_event = sorted(drawn.heads, key=lambda h: view._i_event[h.note_id])
    assert all(b.y > a.y - 60 for a, b in zip(by_event, by_event[1:], strict=False))
    last = by_event[-1]
    scale = view._factor()
    view.press(QPointF(14 + (last.x + 4) * scale, 14 + last.y * scale), extend=False)
    assert view.span == (199, 199)
    view.verticalScrollBar().setValue(view.verticalScrollBar().maximum())
    before = view._sheets.note_ids(len(view._sheets.tops()) - 1)
    jigs._show(line("E5"))
    asked = view._sheets.at(view._scrolled() + 0.5 * view.height())
    qtbot.waitUntil(lambda: view._sheets.note_ids(asked) != (), timeout=20_000)
    qtbot.waitUntil(lambda: view._sheets.wanted is None, timeout=20_000)
    assert view._sheets.note_ids(len(view._sheets.tops()) - 1) == before
    assert len(view.engraved.heads) == 200


def quartet(*names: str, low: int = 0) -> bytes:
    """A score of several parts, each with notes in its own octave."""
    head = "".join(
        f'<score-part id="P{i}"><part-name>{name}</part-name></score-part>'
        for i, name in enumerate(names)
    )
    parts = "".join(
        f'<part id="P{i}"><measure number="1"><attributes><divisions>1</divisions></attributes>'
        f"<note><pitch><step>D</step><octave>{5 - i - low}</octave></pitch><duration>4</duration>"
        "</note></measure></part>"
        for i in range(len(names))
    )
    return (f"<score-partwise><part-list>{head}</part-list>{parts}</score-partwise>").encode()


def test_a_score_of_several_parts_asks_which_and_reads_that_one(
    qtbot: QtBot, jigs, window, tmp_path: Path
) -> None:
    path = tmp_path / "two.musicxml"
    path.write_bytes(quartet("Violin", "Viola"))
    n = len(window.studio.jigs())
    jigs.bring_in(path)
    qtbot.waitUntil(lambda: jigs.files.choice is not None, timeout=20_000)
    choice = jigs.files.choice
    assert choice.question.text() == "For which instrument?"
    assert choice.kinds["violin"].isChecked()
    assert len(window.studio.jigs()) == n
    choice.parts.setCurrentRow(1)
    qtbot.waitUntil(lambda: choice.kinds["viola"].isChecked(), timeout=20_000)
    assert "Part: Viola." in choice.about.text()
    qtbot.mouseClick(choice.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(window.studio.jigs()) == n + 1, timeout=20_000)
    made = window.session.now.jig
    assert (made.instrument_id, str(made.events[0].heads[0].pitch)) == ("viola", "D4")
    assert jigs.files.choice is None


def test_another_part_comes_along_as_accompaniment(
    qtbot: QtBot, jigs, window, tmp_path: Path
) -> None:
    path = tmp_path / "two.musicxml"
    path.write_bytes(quartet("Violin", "Piano"))
    jigs.bring_in(path)
    qtbot.waitUntil(lambda: jigs.files.choice is not None, timeout=20_000)
    choice = jigs.files.choice
    assert [choice.cue.itemText(k) for k in range(choice.cue.count())] == [
        "No accompaniment", "Piano as accompaniment"
    ]  # fmt: skip
    choice.cue.setCurrentIndex(1)
    qtbot.waitUntil(lambda: has_cue(choice._got.jig), timeout=20_000)
    choice.parts.setCurrentRow(1)  # the other way round
    assert choice.cue.itemText(1) == "Violin as accompaniment"
    choice.parts.setCurrentRow(0)
    choice.cue.setCurrentIndex(1)
    qtbot.waitUntil(lambda: choice.take.isEnabled() and has_cue(choice._got.jig), timeout=20_000)
    qtbot.mouseClick(choice.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: jigs.jig is not None and has_cue(jigs.jig), timeout=20_000)
    assert jigs.hear.cue.isVisible()
    said = []
    jigs.files.message.connect(said.append)
    jigs.export_to(tmp_path / "out.musicxml")
    assert said == ["Saved as out.musicxml. Not in it, only in the jig: the accompaniment."]


def test_only_the_chosen_notes_are_heard_slowly_over_and_over(
    qtbot: QtBot, jigs, window, output: RecordingOutput
) -> None:
    jigs.score.choose(2, 3)
    jigs.hear.slowly.setChecked(True)
    jigs.hear.over.setChecked(True)
    jigs._play()
    qtbot.waitUntil(lambda: len(output.played) == 1, timeout=30_000)
    samples, rate_hz, loop = output.played[0]
    assert loop
    written_s = sum(float(e.length_beats) for e in jigs.jig.events[2:4])
    written_s *= jigs.jig.seconds_per_beat / 0.6
    assert written_s < len(samples) / rate_hz < written_s + 4.0
    assert jigs._hear.text() == "Stop"
    jigs._play()
    assert jigs._hear.text() == "Hear it"
    assert len(output.played) == 1


def test_a_part_that_names_no_instrument_asks_for_it(
    qtbot: QtBot, jigs, window, tmp_path: Path
) -> None:
    path = tmp_path / "one.musicxml"
    path.write_bytes(quartet("Bassoon", low=2))
    jigs.bring_in(path)
    qtbot.waitUntil(lambda: jigs.files.choice is not None, timeout=20_000)
    choice = jigs.files.choice
    assert "does not say" in choice.question.text()
    assert not choice.parts.isVisible()
    assert choice.kinds["viola"].isChecked()  # D3 lies in its range
    qtbot.mouseClick(choice.kinds["cello"], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: choice.take.isEnabled(), timeout=20_000)
    assert choice.kinds["cello"].isChecked()
    choice.reject()
    assert jigs.files.choice is None


def test_a_part_without_notes_is_said_and_cannot_be_taken(
    qtbot: QtBot, jigs, window, tmp_path: Path
) -> None:
    path = tmp_path / "two.musicxml"
    text = quartet("Violin", "Viola").decode()
    path.write_text(text.replace("<step>D</step><octave>4", "<step>D</step><octave></octave><x>4"
                                 ).replace("4</octave></pitch>", "</x></pitch>"))  # fmt: skip
    jigs.bring_in(path)
    qtbot.waitUntil(lambda: jigs.files.choice is not None, timeout=20_000)
    choice = jigs.files.choice
    choice.parts.setCurrentRow(1)
    qtbot.waitUntil(lambda: "No notes" in choice.about.text(), timeout=20_000)
    assert not choice.take.isEnabled()
    choice.parts.setCurrentRow(0)
    qtbot.waitUntil(lambda: choice.take.isEnabled(), timeout=20_000)
    choice.reject()


def test_proposals_go_out_only_when_asked(jigs, tmp_path: Path) -> None:
    from dataclasses import replace

    from jigwright.core.jig.edit import as_written, has_proposals

    assert not has_proposals(jigs.jig)
    jig = replace(
        jigs.jig, events=tuple(replace(e, proposed_bow=e.bow is not None) for e in jigs.jig.events)
    )
    assert has_proposals(jig)
    assert not has_proposals(as_written(jig))
    plain, asked = tmp_path / "plain.musicxml", tmp_path / "asked.musicxml"
    jigs.files.export_to(jig, plain)
    jigs.files.export_to(jig, asked, proposed=True)
    assert "-bow" not in plain.read_text()
    assert "-bow" in asked.read_text()


def test_a_form_is_as_high_as_its_rows_or_scrolls(qtbot: QtBot, window: MainWindow) -> None:
    window.go("jigs")
    jigs = window.jigs
    jigs.make("drone_scale")
    few = jigs.form_area.maximumHeight()
    jigs.make("scale")
    qtbot.waitUntil(lambda: jigs.form_area.maximumHeight() > few, timeout=5000)
    rows = list(jigs.form.fields.values())
    qtbot.waitUntil(
        lambda: all(w.height() >= w.minimumSizeHint().height() - 4 for w in rows), timeout=5000
    )
    window.resize(900, 600)
    qtbot.waitUntil(lambda: jigs.form_area.height() < jigs.form.height(), timeout=5000)
    assert jigs.form_area.height() >= 100


def test_a_maker_has_the_choices_of_its_instrument(window: MainWindow) -> None:
    window.go("jigs")
    form = window.jigs.form
    window.jigs.make("hand_pattern")
    assert form.fields["frame"].count() == 4
    form.fields["position"].setValue(3)
    form.set_instrument("cello")
    assert form.fields["frame"].count() == 3
    assert form.fields["position"].value() == 3, "what both have stays chosen"
    assert form.fields["position"].maximum() == 5
    form.set_instrument("bass")
    assert "frame" not in form.fields, "there is nothing to choose"
    window.jigs.make("scale")
    assert form.fields["octaves"].value() == 1, "as it is usual"
