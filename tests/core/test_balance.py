"""Which string leads, held against each string alone."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import jig_of, level, note, only
from jigwright.core.gauge.values import Double
from jigwright.core.jig.aims import Aim
from jigwright.core.judge.balance import NO_BALANCE, alone_levels, balance_of, plain_balance
from jigwright.core.judge.judging import Context, judge
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import parse_reference
from jigwright.core.values import Unmeasured
from jigwright.wording.measures import balance_text, double_texts

JIG = jig_of("D4 A4 D4+A4 D4+A4", Aim(kind="balance"))
STOP = Double(
    lower_hz=293.7, upper_hz=440.0, lower_uncertainty_cents=0.5, upper_uncertainty_cents=0.5,
    interval_cents=702.0, uncertainty_cents=0.5, beats_hz=0.0, beating_partials=(3, 2),
    balance_db=-5.0, balance_uncertainty_db=1.0, both_ratio=1.0,
)  # fmt: skip


def taken(lower_db: float | None, upper_db: float | None, *, stop: Double = STOP):
    """Lower alone, upper alone, twice both."""
    still = Unmeasured("too_short")
    rows = [
        note(JIG, 0, level=still if lower_db is None else level(lower_db)),
        note(JIG, 1, level=still if upper_db is None else level(upper_db)),
        note(JIG, 2), note(JIG, 3),
    ]  # fmt: skip
    measured = [n.measured for n in rows]
    return [*measured[:2], *(replace(m, double=stop) for m in measured[2:])]


def test_what_the_strings_do_by_themselves_is_taken_off() -> None:
    notes = taken(-20.0, -24.0)
    found = balance_of(notes[2], alone_levels(notes))
    assert found.db == pytest.approx(-1.0), "the lower string is 4 dB louder by itself"
    assert found.against_alone
    assert found.uncertainty_db == pytest.approx((1.0 + 2 * 1.5**2) ** 0.5)
    assert not found.is_sure


def test_more_times_alone_say_more() -> None:
    notes = taken(-20.0, -24.0, stop=replace(STOP, balance_uncertainty_db=2.0))
    more = [*notes, *notes[:2], *notes[:2], *notes[:2]]
    assert alone_levels(more)[62].n == 4
    sharper = balance_of(notes[2], alone_levels(more)).uncertainty_db
    assert sharper == pytest.approx((4.0 + 2 * 1.5**2 / 4) ** 0.5)


@pytest.mark.parametrize("levels", [(None, -24.0), (-20.0, None)])
def test_one_string_alone_is_not_enough(levels: tuple[float | None, float | None]) -> None:
    notes = taken(*levels)
    found = balance_of(notes[2], alone_levels(notes))
    assert found == plain_balance(STOP)
    assert (found.db, found.uncertainty_db, found.against_alone) == (-5.0, 1.0, False)
    assert found.is_sure


def test_a_note_nobody_wrote_says_nothing_of_the_string() -> None:
    notes = taken(-20.0, -24.0)
    extra = replace(notes[0], lined=replace(notes[0].lined, state="extra"))
    assert set(alone_levels([extra, *notes[1:]])) == {69}


def test_where_the_balance_cannot_be_told() -> None:
    untold = replace(STOP, balance_db=float("nan"))
    notes = taken(-20.0, -24.0, stop=untold)
    assert balance_of(notes[2], alone_levels(notes)) == NO_BALANCE
    assert balance_of(notes[0], {}) == NO_BALANCE, "a single note"
    assert not NO_BALANCE.is_sure


def test_the_aim_and_the_words_go_by_it() -> None:
    context = Context(
        instrument_id="violin", strings=instrument("violin").strings, a4_hz=440.0,
        reference=parse_reference("equal"), tolerance_cents=10.0,
    )  # fmt: skip
    uneven = judge(taken(-20.0, -20.0), JIG, context)
    assert only(JIG, uneven).state == "not_met"
    even = judge(taken(-20.0, -25.0), JIG, context)
    assert only(JIG, even).state == "met"
    assert only(JIG, even).figure == pytest.approx(0.0)
    words = {name: text for name, text, _ in double_texts(STOP, None, even[2].balance)}
    assert words["Balance"] == "neither is surely louder, ± 2 dB, held against each string alone"
    led = balance_text(uneven[2].balance)[0]
    assert led == "lower louder, 5 ± 2 dB, held against each string alone: lean to the upper string"
    assert "alone" not in balance_text(plain_balance(STOP))[0]
