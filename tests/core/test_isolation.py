"""A part that raises is refused and written down; everything else goes on."""

from __future__ import annotations

import logging

import pytest

from jigwright.core.follow.align import line_up
from jigwright.core.follow.moves import FollowParams
from jigwright.core.isolation import FAILED, LOGGER, failure_line, isolated, note_failure
from jigwright.core.judge import measured as measured_module
from jigwright.core.judge import playing as playing_module
from jigwright.core.judge.analysis import follow_and_measure
from jigwright.core.judge.measured import measure_notes
from jigwright.core.judge.playing import measure_playing
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import pure_strings
from jigwright.core.values import Unmeasured
from signals import listen, perform, scale

pytestmark = pytest.mark.fails_on_purpose


def _broken(*_: object, **__: object) -> object:
    raise ZeroDivisionError("a gauge broke")


def test_what_works_is_handed_on_and_nothing_is_written(caplog: pytest.LogCaptureFixture) -> None:
    assert isolated("sum", lambda: 3, FAILED) == 3
    assert not caplog.records


def test_what_raises_becomes_what_is_true_without_it(caplog: pytest.LogCaptureFixture) -> None:
    assert isolated("quotient", _broken, FAILED) is FAILED
    assert Unmeasured("failed") == FAILED
    assert len(caplog.records) == 1
    assert caplog.records[0].name == LOGGER.name == "jigwright.failed"
    assert caplog.records[0].levelno == logging.ERROR
    text = caplog.records[0].getMessage()
    assert text.startswith("quotient · ZeroDivisionError: a gauge broke · test_isolation.py:")


def test_leaving_the_program_is_not_a_failure() -> None:
    def leave() -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        isolated("anything", leave, None)


def test_a_line_is_one_line_without_paths_and_of_bounded_length() -> None:
    try:
        _broken()
    except ZeroDivisionError as error:
        error.args = ("first\nsecond " + "x" * 2000,)
        line = failure_line("gauge", error)
    assert "\n" not in line
    assert "/" not in line.partition("·")[2].partition(" · ")[0]
    assert len(line) == 600
    assert "first second" in line


def test_the_newest_call_stands_first(caplog: pytest.LogCaptureFixture) -> None:
    def outer() -> None:
        _broken()

    try:
        outer()
    except ZeroDivisionError as error:
        note_failure("calls", error)
    text = caplog.records[-1].getMessage()
    assert text.index("_broken") < text.index("outer")


def test_one_broken_gauge_leaves_the_others_and_all_notes(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    performance = perform(scale(), "vibrato notes=7 extent_cents=40")
    heard = listen(performance)
    lined = line_up(heard.segments, scale(), a4_hz=440.0, params=FollowParams(), pairs=heard.pairs)
    whole = measure_notes(heard, lined, "violin", scale())
    monkeypatch.setattr(measured_module, "measure_level", _broken)
    broken = measure_notes(heard, lined, "violin", scale())
    assert [n.level for n in broken] == [FAILED] * len(whole)
    assert repr([n.vibrato for n in broken]) == repr([n.vibrato for n in whole])
    assert repr([n.arrival for n in broken]) == repr([n.arrival for n in whole])
    assert [n.segment for n in broken] == [n.segment for n in whole]
    assert len(caplog.records) == len(whole)


@pytest.mark.parametrize(("gauge", "part"), [("find_events", "events"), ("measure_bow", "strokes")])
def test_a_gauge_of_the_whole_take_that_broke_found_not_nothing(
    monkeypatch: pytest.MonkeyPatch, gauge: str, part: str
) -> None:
    jig = scale()
    heard = listen(perform(jig, "noise snr_db=50"))
    _, notes = follow_and_measure(heard, jig, a4_hz=440.0, instrument_id="violin")
    strings = pure_strings(instrument("violin").strings, 440.0)
    whole = measure_playing(heard, notes, jig, strings)
    assert not whole.failed
    assert whole.strokes
    monkeypatch.setattr(playing_module, gauge, _broken)
    broken = measure_playing(heard, notes, jig, strings)
    assert broken.failed == {part}
    left = ((), ()) if part == "strokes" else (whole.strokes, whole.changes)
    assert repr((broken.strokes, broken.changes)) == repr(left)
    assert broken.events == (() if part == "events" else whole.events)
    assert broken.timing == whole.timing
