"""The shelf of jigs in the window: cards, search, stars, names, bin and back."""

from __future__ import annotations

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from aim_builders import jig_of
from jigwright.core.jig.model import Jig
from jigwright.services.library import LibraryMarks, read_marks
from jigwright.ui.widgets.library_list import ROW
from jigwright.wording.library import card_line, in_the_bin, searched_text


@pytest.fixture
def place(qtbot: QtBot, window):
    window.go("jigs")
    tune = replace(jig_of("D4 E4 F#4 G4 " * 4), id="tune", title="Harbour tune")
    spot = replace(jig_of("A4 B4"), id="spot", title="Bar three", derived_from=("tune", 1))
    window.jigs.keep([tune, spot], "")
    return window.jigs


def titles(place) -> list[str]:
    rows = [place._list.item(i).data(ROW) for i in range(place._list.count())]
    return [("  " * r.depth) + r.jig.title for r in rows]


def choose(place, title: str) -> Jig:
    i = [t.strip() for t in titles(place)].index(title)
    place._list.setCurrentRow(i)
    return place.library.jig_now()


def test_spots_lie_under_their_piece_and_the_one_in_hand_is_chosen(place) -> None:
    shown = titles(place)
    assert shown.index("  Bar three") == shown.index("Harbour tune") + 1
    assert place.library.jig_now().title == "Harbour tune"
    assert place.jig.title == "Harbour tune"


def test_what_is_searched_is_found_by_title_tempo_and_aim(qtbot: QtBot, place) -> None:
    qtbot.keyClicks(place.library.search, "three")
    assert titles(place) == ["Harbour tune", "  Bar three"]
    place.library.search.setText("nothing of the kind")
    assert titles(place) == []
    assert not place.form.isVisible()  # an empty search is no empty shelf
    place.library.search.clear()
    assert len(titles(place)) == 3


def test_a_star_comes_first_and_stays_for_the_next_start(qtbot: QtBot, place, window) -> None:
    choose(place, "D major scale")
    qtbot.keyClicks(place._list, "*")
    assert titles(place)[0] == "D major scale"
    assert read_marks(window.studio).starred == {choose(place, "D major scale").id}
    choose(place, "D major scale")
    qtbot.keyClicks(place._list, "*")
    assert read_marks(window.studio) == LibraryMarks()


def test_a_jig_goes_into_the_bin_and_comes_back_by_undo_and_from_the_bin(
    qtbot: QtBot, place, window
) -> None:
    choose(place, "Bar three")
    qtbot.keyClick(place._list, Qt.Key.Key_Delete)
    assert "  Bar three" not in titles(place)
    assert place.library.said.text() == "“Bar three” is in the bin."
    qtbot.mouseClick(place.library.undo, Qt.MouseButton.LeftButton)
    assert "  Bar three" in titles(place)
    assert not place.library.undo.isVisible()
    choose(place, "Bar three")
    qtbot.keyClick(place._list, Qt.Key.Key_Delete)
    assert place.library.bin.text() == "In the bin: 1"
    place.library.bin.click()
    assert titles(place) == ["Bar three"]
    choose(place, "Bar three")
    qtbot.keyClick(place._list, Qt.Key.Key_Delete)
    assert titles(place) == ["Bar three"]  # nothing is deleted
    qtbot.keyClick(place._list, Qt.Key.Key_Return)
    place.library.bin.click()
    assert "  Bar three" in titles(place)
    assert any(j.id == "spot" for j in window.studio.jigs())


def test_a_new_name_is_a_new_revision_and_an_empty_one_is_none(
    qtbot: QtBot, place, window, monkeypatch
) -> None:
    choose(place, "Harbour tune")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("  Quay   tune ", True))
    qtbot.keyClick(place._list, Qt.Key.Key_F2)
    assert "Quay tune" in titles(place)
    assert window.session.now.jig.title == "Quay tune"
    assert window.session.now.jig.revision == 2
    assert window.studio.jig("tune", 1).title == "Harbour tune"
    for said in (("   ", True), ("other", False)):
        monkeypatch.setattr(QInputDialog, "getText", lambda *_, s=said, **__: s)
        choose(place, "Quay tune")
        qtbot.keyClick(place._list, Qt.Key.Key_F2)
        assert "Quay tune" in titles(place)


def test_the_menu_offers_what_can_be_done_here(place) -> None:
    choose(place, "Harbour tune")
    on_the_shelf = [a.text() for a in place.library.menu().actions()]
    assert [t.split("   ")[0] for t in on_the_shelf] == ["Rename …", "Star", "Put it into the bin"]
    place.library.of_the_bin = True
    assert [a.text() for a in place.library.menu().actions()] == ["Bring it back"]


def test_cards_get_their_first_bars_while_somebody_looks(qtbot: QtBot, place) -> None:
    jigs = [place._list.item(i).data(ROW).jig for i in range(place._list.count())]
    incipits = place.library._incipits
    qtbot.waitUntil(lambda: all(incipits.picture(j) is not None for j in jigs), timeout=30_000)
    assert incipits.picture(jigs[0]).width() > 40
    before = incipits.picture(jigs[0])
    assert incipits.picture(jigs[0]) is before
    tall = place._list.sizeHintForRow(0)
    assert tall > 60
    place.library.grab()


def test_words_of_a_card() -> None:
    jig = jig_of("D4 E4")
    assert card_line(jig, 0, None) == "violin · not played yet"
    assert card_line(jig, 1, 0) == "violin · one take · today"
    assert card_line(jig, 2, 1) == "violin · 2 takes · yesterday"
    assert card_line(jig, 3, 2, depth=1) == "3 takes · 2 days ago"
    text = searched_text(jig)
    assert jig.title in text
    assert "in tune" in text
    assert f"{jig.tempo_bpm:.0f}" in text
    assert in_the_bin("x") == "“x” is in the bin."
