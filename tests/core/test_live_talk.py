"""Which it is, playing or speaking, a second after it began."""

import numpy as np
import pytest

from builders import segment
from jigwright.core.player.voice import speech
from jigwright.core.sound import live_talk
from jigwright.core.sound.live_talk import TalkWatch

RATE = 1000
BLOCK = 50


@pytest.fixture
def watched(monkeypatch):
    """A watch whose newest score is chosen; blocks of 50 ms are pushed by hand."""
    now = {"score": 3.0, "asked": 0}

    def scores(x, _rate):
        now["asked"] += 1
        assert len(x) <= 1.2 * RATE
        return np.zeros(3), np.array([np.nan, now["score"], np.nan])

    monkeypatch.setattr(live_talk, "talk_scores", scores)
    watch = TalkWatch(RATE)

    def go(seconds, score=3.0, *, notes=(), since=0.0):
        now["score"] = score
        told = []
        for _ in range(round(seconds * RATE / BLOCK)):
            watch.push(np.zeros(BLOCK), notes)
            told.append(watch.goes_on() if since is None else watch.is_talk(since))
            notes = ()
        return told

    return watch, go, now


def test_three_spoken_stretches_from_nine_tenths_on_are_talk(watched) -> None:
    watch, go, now = watched
    watch.begins()
    assert not any(go(0.85))
    assert now["asked"] == 0
    told = go(0.5)
    assert told.index(True) == pytest.approx(8, abs=1)
    assert now["asked"] == 3
    assert watch.talking


@pytest.mark.parametrize(("score", "is_talk"), [(1.01, True), (1.0, False), (float("nan"), False)])
def test_how_sure_it_must_be(watched, score, is_talk) -> None:
    watch, go, _ = watched
    watch.begins()
    go(3.0, score)
    assert watch.talking is is_talk


def test_one_stretch_that_is_played_decides_for_good(watched) -> None:
    watch, go, now = watched
    watch.begins()
    go(1.1)
    assert watch.was_a_word
    go(0.2, -1.0)
    asked = now["asked"]
    assert not any(go(3.0))
    assert now["asked"] == asked
    assert not watch.was_a_word
    watch.begins()
    assert any(go(1.0))


def test_silence_decides_nothing(watched) -> None:
    watch, go, _ = watched
    watch.begins()
    assert not any(go(2.0, float("nan")))
    assert not watch.was_a_word
    assert any(go(1.0))


def test_a_held_note_is_playing_however_it_scores(watched) -> None:
    watch, go, _ = watched
    watch.begins()
    go(0.9)
    assert not any(go(2.0, notes=[segment(220.0, 0.1, seconds=0.5)]))
    assert not watch.was_a_word


def test_a_note_before_it_began_is_forgotten(watched) -> None:
    watch, go, _ = watched
    go(0.9, notes=[segment(220.0, 0.1, seconds=0.5)])
    watch.begins()
    assert any(go(2.0, since=0.9))


@pytest.mark.parametrize(("score", "goes_on"), [(0.01, True), (-0.01, False), (np.nan, False)])
def test_talk_goes_on_while_it_is_likelier_than_not(watched, score, goes_on) -> None:
    watch, go, _ = watched
    watch.begins()
    go(1.6)
    assert watch.talking
    assert go(0.4, score, since=None)[-1] is goes_on
    assert watch.talking is goes_on


def test_talk_ends_with_a_held_note(watched) -> None:
    watch, go, _ = watched
    watch.begins()
    go(1.6)
    assert go(0.4, notes=[segment(220.0, 0.1, seconds=0.5)], since=None)[-1] is False


def test_real_sound_is_told_apart() -> None:
    rate = 48_000
    t_s = np.arange(3 * rate) / rate
    tone = np.asarray(sum(np.sin(2 * np.pi * 220.0 * k * t_s) / k for k in range(1, 20)))
    said = speech(3 * rate, rate, np.random.default_rng(4))
    told = {}
    for name, x in (("tone", tone), ("talk", said)):
        watch = TalkWatch(rate)
        watch.begins()
        told[name] = []
        for i in range(0, len(x), rate // 20):
            watch.push(x[i : i + rate // 20], ())
            told[name].append(watch.is_talk(0.0))
    assert not any(told["tone"])
    assert any(told["talk"])
