"""A wanted note on the drawn strings: asked, chosen by mouse and keys, heard."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from jigwright.audio.output import RecordingOutput
from jigwright.core.jig.harmonic_ways import HarmonicWay
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings
from jigwright.ui.main_window import MainWindow
from jigwright.ui.painting.harmonic_string import Neck, paint_harmonic_strings
from jigwright.ui.theme import DARK, LIGHT
from jigwright.ui.viewmodels.sound import SoundModel
from jigwright.ui.widgets.harmonic_finder import HarmonicFinder
from jigwright.wording.harmonic_ways import way_sentence

VIOLIN = instrument("violin")


@pytest.fixture
def finder(qtbot: QtBot) -> HarmonicFinder:
    made = HarmonicFinder(LIGHT)
    qtbot.addWidget(made)
    made.set_strings(pure_strings(VIOLIN.strings, 440.0), VIOLIN, length_mm=328.0, a4_hz=440.0)
    made.resize(900, 240)
    made.show()
    return made


def test_the_first_way_is_chosen_and_said(finder: HarmonicFinder) -> None:
    assert finder.chosen == 0
    assert finder.said.text().startswith(
        f"{len(finder.ways)} places. A string, partial 2: touch 164 mm from the nut, "
        "where A5 would be."
    )
    assert "hardly folds" in finder.said.text()


def test_what_is_no_note_or_sounds_nowhere_is_said(finder: HarmonicFinder) -> None:
    finder.wanted.setText("X")
    assert "A note with its octave" in finder.said.text()
    assert finder.ways == ()
    finder.wanted.setText("G3")
    assert finder.said.text() == "No string gives that as a harmonic."
    finder.hear()  # nothing to hear
    finder.choose(0)
    assert finder.chosen is None


@pytest.mark.parametrize("name", ["B♭5", "Bb5", "F6", "C7"])
def test_a_note_is_found_by_its_own_name(finder: HarmonicFinder, name: str) -> None:
    finder.wanted.setText(name)
    assert finder.ways
    named = {str(p.pitch_class) for w in finder.ways for p in (w.touched, w.stopped) if p}
    assert not named & {"A#", "E#", "B#"}
    heard: list[tuple[tuple[float, ...], str]] = []
    finder.heard.connect(lambda hz, what: heard.append((hz, what)))
    finder.hear()
    assert heard[0][1] == name
    assert heard[0][0] == (finder.ways[0].f_hz,)


def test_keys_go_round_and_sound(qtbot: QtBot, finder: HarmonicFinder) -> None:
    heard: list[tuple[float, ...]] = []
    finder.heard.connect(lambda hz, _: heard.append(hz))
    n = len(finder.ways)
    qtbot.keyClick(finder.picture, Qt.Key.Key_Left)
    assert finder.chosen == n - 1
    qtbot.keyClick(finder.picture, Qt.Key.Key_Right)
    qtbot.keyClick(finder.picture, Qt.Key.Key_Right)
    assert finder.chosen == 1
    qtbot.keyClick(finder.picture, Qt.Key.Key_Return)
    assert heard == [(finder.ways[1].f_hz,)]
    qtbot.keyClick(finder.picture, Qt.Key.Key_A)
    assert finder.chosen == 1


def test_a_place_is_chosen_where_it_lies(qtbot: QtBot, finder: HarmonicFinder) -> None:
    heard: list[tuple[float, ...]] = []
    finder.heard.connect(lambda hz, _: heard.append(hz))
    neck = finder.picture.neck()
    way = finder.ways[2]
    place = neck.point(way.i_string, way.touched_mm).toPoint()
    qtbot.mouseClick(finder.picture, Qt.MouseButton.LeftButton, pos=place)
    assert finder.chosen == 2
    assert heard == [(way.f_hz,)]
    qtbot.mouseClick(finder.picture, Qt.MouseButton.LeftButton, pos=QPoint(2, 2))
    assert finder.chosen == 2


# sentence and picture ----------------------------------------------------------------------------

WAY = HarmonicWay(
    kind="natural", i_string=1, string=Pitch.parse("D4"), partial=5, stopped=None, stopped_mm=0.0,
    touched=Pitch.parse("F#4"), touched_mm=65.6, f_hz=1466.7, cents=-15.6, margin_mm=16.4,
    folds_to=4,
)  # fmt: skip
STOPPED = replace(
    WAY, kind="artificial", stopped=Pitch.parse("E4"), stopped_mm=36.1, partial=4, cents=0.0,
    touched=Pitch.parse("A4"), touched_mm=109.1, margin_mm=24.3,
)  # fmt: skip


def test_a_place_in_a_sentence() -> None:
    assert way_sentence(WAY) == (
        "D string, partial 5: touch 66 mm from the nut, where F♯4 would be. "
        "It sounds 16 c low. It folds to partial 4 if the finger is 16 mm off."
    )
    assert way_sentence(replace(WAY, cents=-2.9, margin_mm=9.4)) == (
        "D string, partial 5: touch 66 mm from the nut, where F♯4 would be. "
        "It folds easily: partial 4 lies 9 mm away."
    )
    assert "3 c high" in way_sentence(replace(WAY, cents=3.0))
    assert "the plain note" in way_sentence(replace(WAY, folds_to=1))
    assert way_sentence(STOPPED) == (
        "D string: stop E4, touch A4 (109 mm from the nut). It hardly folds."
    )


def picture(*ways: HarmonicWay, chosen: tuple[int, ...] = (), palette=LIGHT) -> QImage:
    image = QImage(600, 190, QImage.Format.Format_RGB32)
    image.fill(palette.color("paper"))
    painter = QPainter(image)
    neck = Neck(rect=QRectF(0, 0, 600, 190), n_strings=4, length_mm=328.0)
    paint_harmonic_strings(painter, neck, VIOLIN.strings, ways, chosen, palette)
    painter.end()
    return image


def test_the_picture_shows_places_stops_folding_and_choice(qapp) -> None:
    plain = picture(WAY)
    assert plain != picture()
    assert plain != picture(WAY, chosen=(0,))
    assert plain != picture(replace(WAY, margin_mm=5.0)), "thin: it folds easily"
    assert picture(STOPPED) != picture(replace(STOPPED, stopped=None))
    assert plain != picture(WAY, palette=DARK)


def test_the_highest_string_is_topmost_and_the_bridge_on_the_right() -> None:
    neck = Neck(rect=QRectF(0, 0, 600, 190), n_strings=4, length_mm=328.0)
    assert neck.point(3, 0).y() < neck.point(0, 0).y()
    assert neck.point(0, 328).x() > neck.point(0, 0).x()
    middle = 0.5 * (neck.point(0, 0).x() + neck.point(0, 328).x())
    assert neck.point(0, 164).x() == pytest.approx(middle)
    assert neck.way_at([WAY, STOPPED], neck.point(1, 108.0)) == 1
    assert neck.way_at([WAY], neck.point(1, 65.6) + QPointF(0, 15)) is None


def test_the_finder_stands_in_the_tables(qtbot: QtBot, window: MainWindow) -> None:
    window.go("tables")
    window.tables.turn(0)
    assert not window.tables.finder.isVisible()
    window.tables.turn(2)
    assert window.tables.finder.isVisible()
    strings = window.tables.finder.strings
    assert strings == window.session.now.strings
    window.tables.set_palette(DARK)
    assert window.tables.finder.palette_now is DARK
    window.tables._kind.setCurrentIndex(window.tables._kind.findData("cello"))
    assert window.tables.finder.strings == instrument("cello").strings


# two at once ------------------------------------------------------------------------------------


def test_two_notes_are_sought_on_neighbouring_strings(finder: HarmonicFinder) -> None:
    finder.wanted.setText("D5 A5")
    assert finder.chosen == 0
    assert finder.n_choices == len(finder.pairs) == 5
    assert finder.said.text() == (
        "5 ways. D string, partial 2, 164 mm from the nut; A string, partial 2, 164 mm from the "
        "nut. One finger touches both. D string: It hardly folds."
    )
    assert [str(finder.ways[k].string) for k in finder.shown] == ["D4", "A4"]
    assert finder.picture.accessibleDescription() == finder.said.text()


def test_their_order_does_not_matter(finder: HarmonicFinder) -> None:
    finder.wanted.setText("D5 A5")
    said = finder.said.text()
    finder.wanted.setText("A5  D5")
    assert finder.said.text() == said


def test_both_are_heard(qtbot: QtBot, finder: HarmonicFinder) -> None:
    heard: list[tuple[tuple[float, ...], str]] = []
    finder.heard.connect(lambda hz, what: heard.append((hz, what)))
    finder.wanted.setText("D5 A5")
    qtbot.keyClick(finder.picture, Qt.Key.Key_Return)
    ((hz, what),) = heard
    assert what == "D5 A5"
    assert hz == pytest.approx((586.67, 880.0), abs=0.01)


def test_keys_go_round_the_pairs(qtbot: QtBot, finder: HarmonicFinder) -> None:
    finder.wanted.setText("D5 A5")
    qtbot.keyClick(finder.picture, Qt.Key.Key_Left)
    assert finder.chosen == 4
    assert "Two fingers" in finder.said.text()
    qtbot.keyClick(finder.picture, Qt.Key.Key_Right)
    assert finder.chosen == 0


def test_a_place_goes_through_the_pairs_it_is_part_of(finder: HarmonicFinder) -> None:
    finder.wanted.setText("A5 D6")
    k = next(i for i, w in enumerate(finder.ways) if w.partial == 2)
    seen = []
    for _ in range(3):
        finder.choose_way(k)
        seen.append(finder.chosen)
    with_it = [i for i, pair in enumerate(finder.pairs) if k in pair]
    assert len(with_it) == 2
    assert set(seen) == set(with_it)
    assert seen[0] == seen[2]


@pytest.mark.parametrize("text", ["D5 A5 E6", "D5 X", ""])
def test_neither_one_nor_two_notes_is_said(finder: HarmonicFinder, text: str) -> None:
    finder.wanted.setText(text)
    assert "A note with its octave" in finder.said.text()
    assert finder.n_choices == 0
    assert finder.shown == ()


def test_what_no_hand_reaches_is_said(finder: HarmonicFinder) -> None:
    finder.wanted.setText("B5 E6")
    assert finder.said.text() == "No hand reaches both as harmonics of neighbouring strings."
    finder.wanted.setText("A5")
    assert finder.n_choices == len(finder.ways) > 0


def test_two_that_are_chosen_are_joined(qapp) -> None:
    other = replace(WAY, i_string=(WAY.i_string + 1) % 4)
    apart = picture(WAY, other, chosen=(0,))
    assert apart != picture(WAY, other, chosen=(0, 1))
    neck = Neck(rect=QRectF(0, 0, 600, 190), n_strings=4, length_mm=328.0)
    ends = [neck.point(w.i_string, w.touched_mm) for w in (WAY, other)]
    middle = (ends[0] + ends[1]) / 2
    x, y = round(middle.x()), round(middle.y())
    assert apart.pixelColor(x, y) != picture(WAY, other, chosen=(0, 1)).pixelColor(x, y)


def test_two_tones_sound_at_once(qtbot: QtBot, tmp_path) -> None:
    output = RecordingOutput()
    model = SoundModel(lambda: output, None, tmp_path)  # type: ignore[arg-type]
    model.play_targets((440.0, 660.0), "A4 E5")
    assert model.what == "no sound device: silent"
    assert model.playing
    samples, rate_hz = output.played[-1][:2]
    strength = np.abs(np.fft.rfft(samples[: 2 * rate_hz]))
    first, other, second = (strength[round(2 * f) - 2 : round(2 * f) + 3].max()
                            for f in (440, 550, 660))  # fmt: skip
    assert min(first, second) > 20 * other
    assert first == pytest.approx(second, rel=0.1)
    assert np.abs(samples).max() <= 1.0
    model.stop()
