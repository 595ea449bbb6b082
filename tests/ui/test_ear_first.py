"""The ear judges before the figures: asked once, scored against the tolerance, kept."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from aim_builders import jig_of, note
from jigwright.services.records import OwnedInstrument
from jigwright.store.opening import open_studio
from jigwright.ui.viewmodels.session_model import SessionModel
from jigwright.ui.viewmodels.stand.ear_first import EarFirst, EarScore
from jigwright.wording.instruments import length_words

JIG = jig_of("D4 E4")


@pytest.fixture
def ear(qapp, studio_copy: Path) -> Iterator[EarFirst]:
    studio = open_studio(studio_copy)
    session = SessionModel(studio)
    session.load()
    assert session.context().tolerance_cents == 10.0
    made = EarFirst(studio, session)
    made.on = True
    yield made
    studio.close()


@pytest.mark.parametrize(
    ("cents", "truth"), [(-10.1, "low"), (-9.9, "in"), (0.0, "in"), (10.0, "in"), (10.1, "high")]
)
def test_the_tolerance_decides_what_was_right(ear: EarFirst, cents: float, truth: str) -> None:
    for k, word in enumerate(("low", "in", "high")):
        ear.ask(note(JIG, 0, cents=cents))
        assert ear.answer(word)
        assert ear.was_right is (word == truth)
        assert ear.score == EarScore(
            right=int(k >= ("low", "in", "high").index(truth)), asked=k + 1
        )


def test_it_is_asked_once_and_only_when_it_is_on(ear: EarFirst) -> None:
    ear.ask(note(JIG, 0, cents=20.0))
    assert ear.asked is not None
    assert ear.answer("high")
    assert ear.asked is None
    assert not ear.answer("low")
    assert ear.score == EarScore(right=1, asked=1)
    ear.on = False
    ear.ask(note(JIG, 0, cents=20.0))
    assert ear.asked is None
    assert not ear.answer("high")


def test_of_a_note_that_was_not_heard_nothing_is_asked(ear: EarFirst) -> None:
    ear.ask(note(JIG, 0, cents=None))
    assert not ear.answer("in")
    ear.hear_next_attempt([note(JIG, 0, cents=0.0)])
    assert ear.score == EarScore()


@pytest.mark.parametrize(
    ("moved", "right"), [(5.1, True), (4.9, False), (-4.9, False), (-5.1, False)]
)
def test_going_higher_says_that_it_was_low(ear: EarFirst, moved: float, right: bool) -> None:
    ear.ask(note(JIG, 0, cents=-20.0))
    ear.hear_next_attempt([note(JIG, 1, cents=50.0), note(JIG, 0, cents=-20.0 + moved)])
    assert ear.was_right is right


def test_another_note_is_no_answer(ear: EarFirst) -> None:
    ear.ask(note(JIG, 0, cents=-20.0))
    ear.hear_next_attempt([note(JIG, 1, cents=0.0)])
    assert ear.was_right is None
    ear.hear_next_attempt([note(JIG, 0, cents=-20.0)])  # left where it was: "in"
    assert ear.was_right is False


def test_a_string_length_is_said_as_measured_or_as_usual() -> None:
    owned = OwnedInstrument(id="i", name="", kind="violin", strings=())
    assert "as usual" in length_words(owned)
    assert "328" in length_words(owned)
    mine = replace(owned, string_length_mm=310.5)
    assert "310.5 mm" in length_words(mine)
    assert "usual" not in length_words(mine)
