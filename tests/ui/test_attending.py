"""What a session asks of the Stand: take up a jig, check the strings, rest."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import jig_of
from jigwright.core.judge.open_strings import PegAdvice, StringFound
from jigwright.services.recording import SIMULATED, InputDevice
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.attending import StandAttends
from jigwright.ui.viewmodels.stand.stand_model import StandModel


@pytest.fixture
def stand(window: MainWindow) -> StandModel:
    window.go("stand")
    model = window.stand_model
    model.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    return model


@pytest.fixture
def attends(window: MainWindow, stand: StandModel) -> StandAttends:
    return StandAttends(stand, window.session)


def test_a_jig_is_taken_up_from_any_mode_and_listened_for(window, stand, attends) -> None:
    stand.set_mode("strings")
    jig = replace(jig_of("D4 E4 F#4"), id="next")
    attends.take_up(jig)
    assert (stand.mode, window.session.now.jig) == ("jig", jig)
    assert stand.state == "preparing"  # the simulated player takes up the instrument
    stand.stop()


def test_the_input_is_opened_once_for_what_comes_next(
    window, stand, attends, monkeypatch: pytest.MonkeyPatch
) -> None:
    attends.check_strings()
    window.session.set_jig(None)
    before = {j.id for j in window.studio.jigs()}
    opened: list[str | None] = []
    begin = StandModel.begin

    def counted(model: StandModel) -> None:
        now = window.session.now.jig
        opened.append(now.id if now is not None else None)
        begin(model)

    monkeypatch.setattr(StandModel, "begin", counted)
    jig = replace(jig_of("D4 E4 F#4"), id="next")
    attends.take_up(jig)
    assert opened == ["next"]
    assert {j.id for j in window.studio.jigs()} <= before | {"next"}
    stand.stop()


def test_strings_are_listened_for_and_a_rest_is_quiet(stand, attends) -> None:
    attends.check_strings()
    assert (stand.mode, stand.state) == ("strings", "preparing")
    attends.rest()
    assert (stand.mode, stand.state) == ("jig", "off")
    assert stand.told.verdict is None


@pytest.mark.parametrize(
    ("state", "busy"),
    [("off", False), ("waiting", False), ("playing", True), ("judging", True)],
)
def test_nobody_is_led_on_while_playing_or_waiting_for_a_word(
    stand, attends, monkeypatch, state, busy
) -> None:
    monkeypatch.setattr(StandModel, "state", state)
    assert attends.is_playing() == busy


def test_a_session_waits_while_another_place_is_looked_at(window, attends) -> None:
    assert attends.is_here()
    window.go("tables")
    assert not attends.is_here()


def test_strings_agree_when_all_were_heard_and_none_is_to_be_turned(window, stand, attends) -> None:
    found = [
        StringFound(string=s, f0_hz=440.0, cents=0.0, uncertainty_cents=0.2, n_heard=1)
        for s in window.session.now.strings
    ]
    stand.check.strings = tuple(found[:-1])
    assert not attends.strings_agree()
    stand.check.strings = tuple(found)
    assert attends.strings_agree()
    stand.check.peg = PegAdvice(string=found[0].string, cents=4.0)
    assert not attends.strings_agree()


def test_while_a_session_asks_to_go_on_the_next_input_gets_ready(
    window: MainWindow, stand: StandModel, monkeypatch: pytest.MonkeyPatch
) -> None:
    ready: list[bool] = []
    monkeypatch.setattr(stand._streams, "prepare", lambda: ready.append(True))
    asks = {"now": False}
    monkeypatch.setattr(type(stand.walk), "asks", property(lambda _: asks["now"]))
    stand.walk.changed.emit()
    assert not ready
    asks["now"] = True
    stand.walk.changed.emit()
    assert ready
    ready.clear()
    stand.stay(False)
    stand.walk.changed.emit()
    assert not ready
