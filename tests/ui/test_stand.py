"""The Stand with the simulated player through the real processes: takes begin and end alone."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from jigwright.audio.files import SndFiles
from jigwright.audio.output import RecordingOutput
from jigwright.core.judge.verdict import Verdict
from jigwright.core.judge.work import SetWork
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.core.music.references import EQUAL, just, target_hz
from jigwright.services import moments
from jigwright.services.recording import (
    RATE_HZ,
    SIMULATED,
    CaptureRequest,
    CaptureState,
    InputDevice,
)
from jigwright.services.recordings import read_note
from jigwright.services.take_reader import View
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.loop_check import LoopCheck, loop_of
from jigwright.ui.viewmodels.stand.turns import bars_of
from jigwright.wording.verdicts import verdict_line, verdict_word

_WAIT = 60_000


@pytest.fixture
def stand(qtbot: QtBot, window: MainWindow):
    window.go("stand")
    model = window.stand_model
    model.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    model.speed = 5.0
    return model


def test_a_take_starts_ends_and_is_judged_without_a_touch(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    n = len(window.studio.takes())
    said: dict[int, Verdict] = {}

    def note_what_is_said() -> None:
        # the player goes on by itself: by the time we look, a later take may have been judged
        if stand.told.verdict is not None:
            said.setdefault(stand.told.n_takes, stand.told.verdict)

    stand.changed.connect(note_what_is_said)
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: stand.state == "playing", timeout=_WAIT)
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 3 or bool(said), timeout=_WAIT)
    qtbot.waitUntil(lambda: stand.told.n_takes >= 2, timeout=_WAIT)
    takes = window.studio.takes()
    assert len(takes) >= n + 2
    newest = takes[n]
    assert newest.audio.endswith(".flac")
    assert newest.input_name.startswith("simulated player")
    heard = window.studio.heard(newest.id)
    assert heard is not None
    assert len(heard.segments) == 15
    # two takes with the second finger low, a third one that is better
    assert said[1].kind == "listen"
    assert said[2].kind in ("listen", "direction")
    assert all(len(verdict.marks) <= 3 for verdict in said.values())
    file = stand.growing.path
    assert read_note(file).player == "Nell Harbour"
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_Space)
    assert not stand.listening
    qtbot.waitUntil(lambda: stand.state == "off", timeout=_WAIT)
    qtbot.waitUntil(lambda: not file.exists(), timeout=_WAIT)
    assert list(file.parent.iterdir()) == []


def test_putting_the_bow_down_keeps_what_was_played(qtbot: QtBot, window, stand) -> None:
    n = len(window.studio.takes())
    stand.toggle()
    qtbot.waitUntil(lambda: (stand.live.i_event or 0) >= 4, timeout=_WAIT)
    stand.toggle()
    qtbot.waitUntil(lambda: len(window.studio.takes()) == n + 1, timeout=_WAIT)
    assert window.studio.takes()[-1].duration_s > 1.0


def test_strings_are_checked_one_by_one(qtbot: QtBot, window, stand) -> None:
    window.run_command("strings")
    stand.toggle()
    qtbot.waitUntil(lambda: len(stand.check.strings) == 4, timeout=_WAIT)
    assert all(abs(s.cents) < 30 for s in stand.check.strings)
    kept = window.studio.string_check(window.session.now.instrument.id, moments.today().isoformat())
    assert {str(s) for s in kept} == {"G3", "D4", "A4", "E5"}
    now = replace(
        window.model.take, recorded_utc=moments.utc_now(), utc_offset_min=moments.local_offset_min()
    )
    assert window.reader.context(now).checked_hz == kept
    other_day = replace(now, recorded_utc="2001-01-01T10:00:00Z")
    assert not window.reader.context(other_day).checked_hz
    file = stand.growing.path
    stand.stop()
    assert not file.exists()


def test_a_missing_microphone_is_said_and_nothing_is_lost(qtbot: QtBot, window, stand) -> None:
    stand.choose_device(InputDevice(id="nowhere", name="no such input"))
    stand.toggle()
    qtbot.waitUntil(lambda: stand.state == "off" and not stand.listening, timeout=_WAIT)
    assert "input" in window.strip.message.text()


def test_the_ear_judges_before_the_figures(qtbot: QtBot, window, stand) -> None:
    stand.set_ear_first(True)
    # the hurried player would begin again at once: hear no more after the first take
    stand.changed.connect(lambda: stand.told.n_takes and stand._timer.stop())
    stand.toggle()
    qtbot.waitUntil(lambda: stand.told.n_takes == 1, timeout=_WAIT)
    assert stand.ear.asked is not None
    word, line = window.stand.words()
    assert word.startswith("How was the")
    assert "cents" not in word + line
    truth = "low" if stand.ear.asked.cents < 0 else "high"
    key = Qt.Key.Key_Left if truth == "low" else Qt.Key.Key_Right
    before = stand.ear.score
    qtbot.keyClick(window.stand.sheet, key)
    assert stand.ear.was_right is True
    assert stand.ear.score.right == before.right + 1
    assert stand.ear.asked is None


def test_drone_and_click_sound_and_fall_silent(window, stand, output: RecordingOutput) -> None:
    stand.companions.cycle_drone()
    assert stand.companions.drone == "tonic"
    first = output.played[-1][0]
    assert 0.0 < np.max(np.abs(first)) < 0.5
    assert np.max(np.abs(first[:480])) < 0.05  # begins softly
    stand.companions.toggle_click()
    for _ in range(3):
        stand.companions.cycle_drone()
    stand.companions.toggle_click()
    assert stand.companions.drone == "off"
    assert output.position_s is None


@pytest.mark.parametrize("reference", ["equal", "pythagorean", "just:A"])
def test_the_drone_is_where_the_targets_are(
    window, stand, output: RecordingOutput, reference: str
) -> None:
    session = window.session
    session.set_view(View(reference=reference))
    jig, context = session.now.jig, session.context()
    assert jig is not None
    lowest = min(h.pitch.midi for e in jig.events for h in e.heads)
    tonic = Pitch.in_class(jig.key.tonic, lowest - 3)

    def target(semitones: int, fifths: int) -> float:
        c = PitchClass.from_fifths(jig.key.tonic.fifths + fifths)
        return target_hz(
            context.reference, Pitch.in_class(c, tonic.midi + semitones), context.a4_hz,
            open_strings_hz=context.open_hz,
        )  # fmt: skip

    expected = {
        "tonic": [target(0, 0)], "fifth": [target(0, 0), target(7, 1)],
        "fifth_alone": [target(7, 1)], "off": [],
    }  # fmt: skip
    for name in ("tonic", "fifth", "fifth_alone", "off"):
        stand.companions.cycle_drone()
        assert stand.companions.drone == name
        assert list(stand.companions.drone_hz()) == pytest.approx(expected[name])
    assert target(7, 1) > 1.49 * target(0, 0)


def test_pure_targets_go_by_the_note_that_sounds(window, stand, output: RecordingOutput) -> None:
    session = window.session
    jig = session.now.jig
    assert jig is not None
    tonic, fifth = (PitchClass.from_fifths(jig.key.tonic.fifths + k) for k in (0, 1))
    session.set_view(View(reference="just:A"))
    for drone, over in (("tonic", tonic), ("fifth", tonic), ("fifth_alone", fifth)):
        stand.companions.cycle_drone()
        assert stand.companions.drone == drone
        assert session.context().reference == just(over)
        assert len(output.played) == ("tonic", "fifth", "fifth_alone").index(drone) + 1
    stand.companions.cycle_drone()
    assert session.context().reference == just(PitchClass("A"))
    stand.companions.cycle_drone()
    stand.companions.rest()
    assert session.context().reference == just(PitchClass("A"))
    session.set_view(View(reference="equal"))
    stand.companions.cycle_drone()
    assert session.context().reference == EQUAL


def test_another_a_tunes_the_drone_that_sounds(window, stand, output: RecordingOutput) -> None:
    stand.companions.cycle_drone()
    n_begun, before = len(output.played), stand.companions.drone_hz()
    session = window.session
    session.set_view(View(tolerance_cents=17.0))
    assert len(output.played) == n_begun  # it goes on where nothing of it changed
    session.set_view(View(a4_hz=415.0))
    assert len(output.played) == n_begun + 1
    assert stand.companions.drone_hz()[0] < before[0]


def test_the_first_sentence_names_the_place_and_the_direction_comes_on_request(stand) -> None:

    verdict = Verdict(
        kind="listen", row=2, pitch=Pitch.parse("F#4"), coming_from=Pitch.parse("E4"), cents=-14.0
    )
    assert verdict_word(verdict, direction=False) == "Listen to the F♯"
    assert verdict_line(verdict, direction=False) == "coming from E"
    assert verdict_word(verdict, direction=True) == "F♯ a little higher"
    assert "14 cents low" in verdict_line(verdict, direction=True, millimetres=2.5)
    assert "2.5 mm towards the bridge" in verdict_line(verdict, direction=True, millimetres=2.5)


def test_an_empty_studio_begins_with_a_scale(
    qtbot: QtBot, window: MainWindow, tmp_path: Path, open_window
) -> None:
    empty = open_window(tmp_path / "fresh")
    empty.go("stand")
    assert empty.stand.words()[0] == "A first scale"
    stand = empty.stand_model
    stand.choose_device(InputDevice(id=SIMULATED, name="simulated player"))
    stand.speed = 5.0
    stand.toggle()
    assert empty.session.now.jig is not None
    qtbot.waitUntil(lambda: stand.told.n_takes == 1, timeout=_WAIT)
    assert stand.told.verdict is not None
    stand.stop()


@pytest.mark.parametrize("own", [True, False])
def test_the_slowest_bow_has_a_clock_and_says_where_it_wavered(
    qtbot: QtBot, window, stand, *, own: bool
) -> None:
    window.go("stand")
    stand.set_mode("slowest")
    stand.toggle()
    qtbot.waitUntil(lambda: stand.guided.bow.running, timeout=_WAIT)
    if own:  # as if the same sound came through a microphone
        window.session.use_input(InputDevice(id="microphone", name="microphone"))
    assert window.stand.words()[0].endswith("s")
    qtbot.waitUntil(lambda: len(stand.guided.bow.strokes) >= 1, timeout=_WAIT)
    stroke = stand.guided.bow.strokes[0]
    assert stroke.seconds == pytest.approx(6.0, abs=0.7)
    assert len(stroke.wavers_s) == 1
    assert stroke.wavers_s[0] == pytest.approx(3.6, abs=0.4)
    best_s = window.studio.best_bow_s(window.session.now.instrument.id)
    assert best_s == pytest.approx(stroke.seconds if own else 0.0, abs=0.01)
    n = len(window.studio.takes())
    stand.set_mode("jig")
    assert len(window.studio.takes()) == n


def test_the_echo_test_says_which_notes_rang(qtbot: QtBot, window, stand) -> None:
    stand.set_mode("echo")
    stand.toggle()
    qtbot.waitUntil(lambda: stand.guided.echoes != (), timeout=2 * _WAIT)
    assert [str(e.pitch) for e in stand.guided.echoes] == ["G4", "D5", "A5"]
    assert sum(e.n_rang > 0 for e in stand.guided.echoes) >= 2
    stand.stop()


def test_the_touch_test_says_which_strings_rang_along(qtbot: QtBot, window, stand) -> None:
    stand.set_mode("touch")
    said: list[str] = []
    stand.moved.connect(
        lambda: said.append(stand.guided.words(listening=True, playing=True, i_event=0)[0])
    )
    stand.toggle()
    qtbot.waitUntil(lambda: len(stand.guided.found) == 2, timeout=3 * _WAIT)
    # five times as fast as a player: on a busy machine a word may pass between two looks
    words = {"Hold E4", "Touch the E string", "Let it go", "Touch the A string"}
    assert len(words & set(said)) >= 3
    assert [str(what.note) for what, _ in stand.guided.found] == ["E4", "A3"]
    assert all(ring.rang for _, ring in stand.guided.found)
    assert len(stand.guided.lines()) == 2
    stand.stop()
    stand.guided.clock.n_held = 1
    stand.begin()  # the sound's time starts anew, and so do the words
    assert stand.guided.clock.seconds is None
    assert stand.guided.clock.n_held == 0
    stand.stop()


def test_strings_too_near_each_other_leave_no_touch_test(window, stand) -> None:
    owned = window.session.now.instrument
    window.session.set_instrument(replace(owned, strings=owned.strings[:1] * 4))
    told: list[str] = []
    stand.message.connect(told.append)
    stand.set_mode("touch")
    assert stand.guided is None
    assert stand.mode == "jig"
    assert "octave below" in told[0]


def test_the_model_plays_then_the_player_and_both_lie_side_by_side(
    qtbot: QtBot, window, stand, output: RecordingOutput
) -> None:
    window.go("stand")
    n = len(window.studio.takes())
    played = len(output.played)
    states: list[str] = []
    stand.changed.connect(lambda: states.append(stand.state))
    stand.set_turns(True)
    stand.toggle()
    qtbot.waitUntil(lambda: "model" in states, timeout=_WAIT)
    assert len(output.played) == played + 1
    qtbot.waitUntil(lambda: stand.told.n_takes >= 1, timeout=_WAIT)
    at = states.index("model")
    assert "playing" not in states[:at]  # what the model plays is no take
    assert states.index("playing", at) > states.index("waiting", at)
    heard = window.studio.heard(window.studio.takes()[n].id)
    assert len(heard.segments) == 15
    assert len(stand.turns.model_bars()) == 15
    assert len(bars_of(stand.told.notes)) == 15
    qtbot.waitUntil(lambda: states.count("model") >= 2, timeout=_WAIT)
    stand.stop()
    stand.set_turns(False)


def test_a_bar_is_counted_before_each_take(qtbot: QtBot, window, stand) -> None:
    window.go("stand")
    stand.companions.toggle_count_in()
    stand.toggle()
    qtbot.waitUntil(lambda: stand.state == "counting", timeout=_WAIT)
    assert window.stand.words()[0] in ("1", "2", "3", "4")
    qtbot.waitUntil(lambda: stand.told.n_takes == 1, timeout=_WAIT)
    assert len(window.studio.heard(window.studio.takes()[-1].id).segments) == 15
    qtbot.waitUntil(lambda: stand.state == "counting", timeout=_WAIT)
    stand.stop()
    stand.companions.toggle_count_in()


def test_the_metronome_divides_beats_and_falls_silent(window, stand, output) -> None:
    stand.companions.set_pulse(subdivisions=2, silent_bars=1)
    assert stand.companions.click
    pulse = stand.companions._pulse()
    assert [pulse.strength(i) > 0 for i in (0, 1, 7, 8, 15, 16)] == [True] * 3 + [False] * 2 + [
        True
    ]
    stand.companions.toggle_click()


def test_a_lesson_keeps_phrases_remarks_and_the_whole(qtbot: QtBot, window, stand) -> None:
    window.go("stand")
    jig = window.session.now.jig
    stand.set_mode("lesson")
    stand.toggle()
    qtbot.waitUntil(lambda: stand.lesson.phrase is not None, timeout=_WAIT)
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_PageDown)
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_PageDown)  # the same phrase is kept once
    qtbot.waitUntil(lambda: stand.lesson.kept_take_id is not None, timeout=_WAIT)
    phrase = stand.lesson.kept_take_id
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_Left)
    begun = stand.live.level.seconds
    qtbot.waitUntil(lambda: stand.live.level.seconds > begun + 2.0, timeout=_WAIT)
    qtbot.keyClick(window.stand.sheet, Qt.Key.Key_Left)
    free = lambda: [t for t in window.studio.takes() if t.jig_id is None]  # noqa: E731
    qtbot.waitUntil(lambda: len(free()) == 2, timeout=_WAIT)
    assert [r.take_id for r in window.studio.remarks(phrase)] == [phrase]
    file = stand.growing.path
    stand.stop()
    qtbot.waitUntil(lambda: len(free()) == 3, timeout=_WAIT)
    whole = free()[-1]
    assert whole.duration_s > max(t.duration_s for t in free()[:-1])
    qtbot.waitUntil(lambda: not file.exists(), timeout=_WAIT)
    stand.set_mode("jig")
    assert window.session.now.jig == jig
    window.run_command("free")
    assert len(window.model.prints) == 3


class _Loop:
    """A capture stream whose loudspeaker is heard by its microphone a while later."""

    def __init__(self, delay_s: float, output: RecordingOutput) -> None:
        self._delay_s, self._output, self._to = delay_s, output, Path()
        self._begun = 0.0

    def start(self, request: CaptureRequest) -> int:
        self._to, self._begun = request.to, time.monotonic()
        return 0

    def messages(self) -> tuple[list[CaptureState], bool]:
        now = time.monotonic() - self._begun
        zero_s = self._output.zero_s
        x = np.zeros((round((now + 0.1) * RATE_HZ), 1), dtype=np.float32)
        if zero_s is not None and self._output.played:
            sound = self._output.played[-1][0]
            at = round((zero_s - self._begun + self._delay_s) * RATE_HZ)
            part = sound[: max(0, len(x) - at)]
            x[at : at + len(part), 0] = part
        SndFiles().write_wav(self._to, x, RATE_HZ)
        return [CaptureState(running=True, seconds=now, zero_s=self._begun)], False

    def close(self) -> None:
        pass


def test_the_way_from_loudspeaker_to_microphone_is_measured_and_kept(
    qtbot: QtBot, window: MainWindow, tmp_path: Path
) -> None:
    output = window.sound.output
    assert isinstance(output, RecordingOutput)
    check = LoopCheck(
        window.studio, window.sound, window.jobs, tmp_path, lambda: _Loop(0.084, output)
    )
    assert not check.can_begin("simulated")
    with qtbot.waitSignal(check.message, timeout=20_000) as said:
        check.begin("usb")
    assert "84 ms" in said.args[0] or "83 ms" in said.args[0] or "85 ms" in said.args[0]
    kept = loop_of(window.studio, "usb")
    assert kept is not None
    assert abs(kept.seconds - 0.084) < 2e-3
    assert loop_of(window.studio, "other") is None


def test_a_metronome_that_begins_while_somebody_plays_is_not_held_against_him(
    window: MainWindow, output: RecordingOutput
) -> None:
    companions = window.stand_model.companions
    assert companions.clicks(100.0, 0.05, 2.0) is None  # none sounds
    companions.toggle_click()
    output.zero_s = 101.0
    found = companions.clicks(100.0, 0.05, 2.0)
    assert found is not None
    assert found[0] == pytest.approx(1.05)
    output.zero_s = 103.0
    assert companions.clicks(100.0, 0.05, 2.0) is None


def test_what_the_teacher_said_stands_at_the_pupils_stand(window: MainWindow) -> None:
    stand, jig = window.stand_model, window.session.now.jig
    player = window.session.now.player
    window.go("stand")
    assert stand.set_words == ("", "")
    before = window.stand.sheet.grab().toImage()
    window.studio.set_work(
        SetWork(
            id="said", player_id=player.id, jig_id=jig.id, jig_revision=jig.revision,
            words="Slowly; " + "listen " * 30, due="2027-01-01", good_takes=3, who="Ines",
            set_utc="2026-11-30T10:00:00Z",
        )
    )  # fmt: skip
    assert stand.set_words[0] == "Ines"
    assert stand.set_words[1].startswith("Slowly; listen")
    assert window.stand.sheet.grab().toImage() != before


def test_a_key_begins_a_lesson_and_ends_it_with_all_kept(
    qtbot: QtBot, window: MainWindow, stand
) -> None:
    window.go("daybook")
    window.run_command("lesson")
    assert window._places.currentWidget() is window.stand
    assert stand.mode == "lesson"
    qtbot.waitUntil(lambda: stand.live.level.seconds > 6.0, timeout=_WAIT)
    n = len(window.studio.takes())
    window.run_command("lesson")
    assert stand.mode == "jig"
    qtbot.waitUntil(lambda: len(window.studio.takes()) == n + 1, timeout=_WAIT)
    assert window.studio.takes()[-1].jig_id is None
