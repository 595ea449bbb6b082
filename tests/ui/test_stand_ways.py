"""Ways of doing the same at the Stand: asked by ear first, chosen by pedal, kept and told again."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from aim_builders import jig_of, note
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.stand_model import StandModel
from jigwright.ui.viewmodels.stand.ways_trial import WaysTrial

_WAIT = 60_000


@pytest.fixture
def stand(window: MainWindow) -> StandModel:
    window.go("stand")
    model = window.stand_model
    model.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    model.speed = 5.0
    return model


@pytest.mark.parametrize(
    ("kind", "key", "liked", "n"),
    [
        ("lanes", Qt.Key.Key_Right, 2, 3), ("two_ways", Qt.Key.Key_Right, 1, 2),
        ("bowing", Qt.Key.Key_Down, None, 2),
    ],
)  # fmt: skip
def test_the_ear_chooses_before_there_are_figures(
    qtbot: QtBot, window, stand, kind, key, liked, n
) -> None:
    window.go("stand")
    before = window.session.now.jig
    stand.set_mode(kind)
    assert isinstance(stand.guided, WaysTrial)
    assert stand.guided.last_choice is None
    stand.toggle()
    qtbot.waitUntil(lambda: stand.guided.asking, timeout=2 * _WAIT)
    assert [w.n_missed for w in stand.guided.heard] == [0] * n
    assert stand.guided.lines() == []
    assert "like" in window.stand.words()[0]
    qtbot.keyClick(window.stand.sheet, key)
    assert stand.guided.liked == liked
    assert stand.guided.asking == (liked is not None)  # why, if one was liked
    if liked is not None:
        assert window.stand.words()[0] == "Why?"
        assert stand.guided.lines() == []
        qtbot.keyClick(window.stand.sheet, Qt.Key.Key_Left)
    assert not stand.guided.asking
    assert len(stand.guided.lines()) == n
    stand.guided.like(1)  # chosen is chosen
    assert (stand.guided.liked, stand.guided.reason) == (liked, None if liked is None else "sound")
    stand.stop()
    stand.set_mode("jig")
    assert window.session.now.jig.id == before.id
    stand.set_mode(kind)  # another day
    said = {
        "lanes": "near the bridge, since it sounds better",
        "two_ways": "the other way, since it sounds better", "bowing": "no difference",
    }  # fmt: skip
    assert stand.guided.last_choice == said[kind]
    assert said[kind] in window.stand.words()[1]


def test_a_jig_that_cannot_be_played_otherwise_is_refused_in_words(window, stand) -> None:
    told: list[str] = []
    stand.message.connect(told.append)
    before = jig_of("G3 A3 B3")
    window.session.set_jig(before)
    stand.set_mode("string")
    assert stand.guided is None
    assert stand.mode == "jig"
    assert window.session.now.jig == before
    assert told == ["A note of it lies on the lowest string already."]


def test_the_word_is_the_way_it_is_time_for(window, stand) -> None:
    stand.set_mode("two_ways")
    trial = stand.guided
    word = [trial.words(listening=True, playing=True, i_event=i) for i in (None, 0, 1, 2, 3)]
    assert [w[0] for w in word] == [
        "One way", "One way", "The other way", "The other way", "The other way"
    ]  # fmt: skip
    assert [w[1] for w in word] == [
        "bow 1 of 2", "bow 2 of 2", "bow 1 of 2", "bow 2 of 2", "bow 2 of 2"
    ]  # fmt: skip


def test_lanes_on_every_string_name_the_string_and_are_kept_for_each(window, stand) -> None:
    stand.set_mode("lanes_all")
    trial = stand.guided
    said = [trial.words(listening=True, playing=True, i_event=i) for i in (None, 1, 6, 7)]
    assert [w[0] for w in said] == [
        "Near the fingerboard", "Near the fingerboard", "Near the fingerboard", "In the middle"
    ]  # fmt: skip
    assert [w[1] for w in said] == [
        "G string: bow 1 of 2", "D string: bow 1 of 2", "E string: bow 2 of 2",
        "G string: bow 1 of 2",
    ]  # fmt: skip
    rows = [note(trial.jig, i) for i in range(24)]
    trial.taken(None, rows)
    trial.like(1)
    owned = window.session.now.instrument
    assert [window.studio.contact(owned.id, s) for s in ("G3", "D4", "A4", "E5")] == [1] * 4
    assert trial.last_choice == "in the middle"


def test_a_way_that_was_not_heard_is_not_asked_about(window, stand) -> None:
    stand.set_mode("two_ways")
    stand.guided.taken(None, ())
    assert not stand.guided.asking
    assert stand.guided.words(listening=False, playing=False, i_event=None)[0] == "Cannot tell"
    stand.guided.like(0)
    assert stand.guided.last_choice is None


@pytest.mark.parametrize(("kept", "said"), [("1", "the other way"), ("2", None), ("{", None)])
def test_what_no_choice_is_is_not_told(window, stand, kept, said) -> None:
    owned = window.session.now.instrument
    stand.set_mode("two_ways")
    window.studio.set_setting(f"way/{owned.id}/{stand.guided.jig.id}", kept)
    assert stand.guided.last_choice == said


def of_several(window, stand) -> WaysTrial:
    window.session.set_jig(jig_of("D4 F#4 A4 B4 C#5 D5 E5 D5"))
    stand.set_mode("bowings")
    trial = stand.guided
    trial.taken(None, [note(trial.jig, i) for i in range(len(trial.jig.events))])
    return trial


def test_of_more_than_three_ways_the_pedals_go_through_them(window, stand) -> None:
    trial = of_several(window, stand)
    assert len(trial.heard) == 4

    def word() -> str:
        return trial.words(listening=False, playing=False, i_event=None)[0]

    seen = [word()]
    for _ in range(5):
        trial.like(2)
        seen.append(word())
    assert seen == [
        "Bowed as it is", "Slurred in twos", "Slurred in fours",
        "One alone, then slurred in twos", "No difference", "Bowed as it is",
    ]  # fmt: skip
    trial.like(0)
    assert word() == "No difference"
    assert trial.lines() == []
    trial.like(0)
    trial.like(1)
    assert trial.liked == 3
    assert trial.lines() == []
    trial.like(2)
    assert len(trial.lines()) == 4
    assert word() == "One alone, then slurred in twos, since it is surer"
    assert trial.last_choice == "one alone, then slurred in twos, since it is surer"


def test_no_difference_between_many_has_no_reason(window, stand) -> None:
    trial = of_several(window, stand)
    trial.like(0)
    trial.like(1)
    assert trial.liked is None
    assert not trial.asking
    assert trial.last_choice == "no difference"


def test_the_next_take_is_asked_anew_and_an_old_reason_is_not_told(window, stand) -> None:
    trial = of_several(window, stand)
    trial.like(1)
    trial.like(1)
    assert trial.last_choice == "bowed as it is, since it lies better"
    trial.taken(None, [note(trial.jig, i) for i in range(len(trial.jig.events))])
    assert trial.asking
    trial.like(2)
    trial.like(1)
    assert trial.last_choice == "slurred in twos"  # not yet asked why
