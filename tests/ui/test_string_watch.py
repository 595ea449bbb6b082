"""An open string that moves while somebody plays: heard, said once, and not over what to mend."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import pytest

from aim_builders import jig_of
from aim_builders import note as judged
from builders import segment
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.open_strings import StringDrift
from jigwright.core.judge.verdict import Verdict
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.ui.main_window import MainWindow
from jigwright.ui.viewmodels.stand.string_watch import StringWatch

DAY = "2026-12-01"
JIG = jig_of("D4 A4 E4 D4")
D4, A4 = Pitch.parse("D4"), Pitch.parse("A4")


def watch_of(checked: dict[Pitch, float] | None = None) -> tuple[StringWatch, SimpleNamespace]:
    owned = SimpleNamespace(id="i", strings=instrument("violin").strings)
    session = SimpleNamespace(now=SimpleNamespace(instrument=owned))
    studio = SimpleNamespace(string_check=lambda _id, _day: checked or {})
    return StringWatch(studio, session), session  # type: ignore[arg-type]


def open_note(i: int, off_cents: float = 0.0, **more) -> JudgedNote:
    """Note ``i`` of the jig as an open string so far from 440 and its fifths."""
    hz = {0: 293.33, 1: 440.0, 3: 293.33}[i] * 2 ** (off_cents / 1200)
    made = judged(JIG, i, **{"finger": 0, "string": {0: 1, 1: 2, 3: 1}[i], **more})
    return replace(made, measured=replace(made.measured, segment=segment(hz, 1.0)))


def three(off_cents: float, **more) -> list[JudgedNote]:
    """As many of the D as it takes to tell."""
    return [open_note(i, off_cents, **more) for i in (0, 3, 0)]


def drifts(watch: StringWatch, *takes: list[JudgedNote]) -> list[tuple[str, bool]]:
    said = []
    for notes in takes:
        watch.heard(notes, DAY)
        said.append((str(watch.drift.string) if watch.drift else "", watch.is_news))
    return said


def test_a_string_that_has_moved_since_the_check_is_news_once() -> None:
    watch, _ = watch_of({D4: 293.33})
    low = three(-8.0)
    assert drifts(watch, low, low, low) == [("D4", True), ("D4", False), ("D4", False)]
    assert "D" in watch.sentence


def test_another_string_is_news_again() -> None:
    watch, _ = watch_of({D4: 293.33, A4: 440.0})
    first = three(-7.0)
    then = [*first, open_note(1, 14.0), open_note(1, 14.0), open_note(1, 14.0)]
    assert drifts(watch, first, then) == [("D4", True), ("A4", True)]  # the farther one


def test_a_string_that_stays_is_no_news() -> None:
    watch, _ = watch_of({D4: 293.33})
    assert drifts(watch, three(0.0)) == [("", False)]
    assert watch.sentence == ""


@pytest.mark.parametrize("more", [{"finger": 1}, {"string": None}, {"cents": None}])
def test_only_what_is_played_open_tells_of_a_string(more: dict) -> None:
    watch, _ = watch_of({D4: 293.33})
    low = three(-8.0, **more)
    assert drifts(watch, low) == [("", False)]


def test_another_instrument_or_a_check_begins_anew() -> None:
    watch, session = watch_of({D4: 293.33})
    low = three(-8.0)
    drifts(watch, low)
    watch.clear()
    assert (watch.drift, watch.is_news, watch.sentence) == (None, False, "")
    drifts(watch, low)
    session.now.instrument = SimpleNamespace(id="other", strings=instrument("violin").strings)
    assert drifts(watch, []) == [("", False)]
    session.now.instrument = None
    watch.heard(low, DAY)
    assert watch.drift is None


# at the Stand ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("kind", "news", "shown"),
    [
        ("clean", True, True),
        ("clean", False, True),
        ("missed", True, True),
        ("missed", False, False),
    ],
)
def test_the_string_is_not_said_over_what_is_to_be_mended(
    window: MainWindow, kind: str, news: bool, shown: bool
) -> None:
    window.go("stand")
    stand = window.stand_model
    stand.told.verdict = Verdict(kind=kind, row=None, pitch=D4)  # type: ignore[arg-type]
    stand.watch.drift = StringDrift(string=A4, cents=-6.0, uncertainty_cents=1.0)
    stand.watch.is_news = news
    _, line = window.stand.words()
    assert (line == stand.watch.sentence) is shown
    assert line or shown
