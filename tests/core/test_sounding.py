"""What a take says of its rings: counts, findings, the aim, figures and sentences."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import pytest

from aim_builders import jig_of, note, playing
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.model import Jig
from jigwright.core.judge.aims import AimResult, Evidence, judge_aims
from jigwright.core.judge.aims.ring import FEWEST
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.ring_findings import find_rings
from jigwright.core.judge.sounding import StringCount, could_ring, count_strings
from jigwright.core.judge.summary import summarise, with_rings
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.wording.findings import finding_advice, finding_sentence, finding_title
from jigwright.wording.ringing import (
    answer_text,
    meeting_text,
    over_takes_text,
    ring_sentence,
    ring_text,
    share_text,
    string_out_text,
)
from ring_builders import meeting, ring, string_ring

STRINGS = instrument("violin").strings
RING = Aim(kind="ring")
WORDS = "D5 E5 D5 E5 D5 E5 D5 E5 D5 E5"


def rows(*rings: Any, jig: Jig | None = None) -> list[JudgedNote]:
    """Notes of a jig after which strings did this."""
    words = jig or jig_of(WORDS)
    return [note(words, i, ring=r) for i, r in enumerate(rings)]


def rang(level_db: float = -31.0, **about: Any) -> Any:
    return ring(string_ring(1, level_db=level_db, **about))


def off(notes: list[JudgedNote], cents: float) -> list[JudgedNote]:
    """The same notes that far from their targets."""
    return [replace(n, cents=cents) for n in notes]


def silent(apart_cents: float = 0.0, share_db: float = 0.0) -> Any:
    return ring(string_ring(1, level_db=None, apart_cents=apart_cents, share_db=share_db))


NOT_TOLD = Unmeasured("covered")


# counts ---------------------------------------------------------------------------------------


def test_every_string_is_counted_where_it_can_be_told() -> None:
    both = ring(string_ring(1, level_db=None), string_ring(0, level_db=-40.0))
    counts = count_strings(rows(rang(), both, NOT_TOLD, ring(string_ring(1, reason="covered"))))
    assert [(c.string, c.n_rang, c.n_told) for c in counts] == [(0, 1, 1), (1, 1, 2)]
    assert counts[1].notes == (0, 1)
    assert count_strings([]) == ()


def test_what_lay_beside_is_told_from_what_was_only_silent() -> None:
    notes = rows(rang(), silent(), silent(-7.0, -10.0), silent(-9.0, -12.0), silent(-2.0, -2.9))
    count = count_strings([*notes[:2], *off(notes[2:4], -8.0), notes[4]])[0]
    assert (count.n_rang, count.n_told, count.n_beside) == (1, 5, 2)
    assert count.apart_cents == pytest.approx(-8.0)
    assert math.isnan(count_strings(rows(rang(), silent()))[0].apart_cents)


def test_a_third_that_meets_no_string_in_tune_is_not_counted() -> None:
    far = rows(silent(21.0, -18.0), rang(), ring(string_ring(1, apart_cents=21.0)))
    assert count_strings(far)[0].n_told == 1
    assert not could_ring(far[0])
    assert could_ring(off(far, 15.0)[0])  # only 6 of it are the tuning's
    assert not could_ring(off(far, 13.5)[0])
    assert could_ring(rows(silent(-6.9))[0])
    assert not could_ring(rows(NOT_TOLD)[0])
    assert ring_text(silent(21.0, -18.0), STRINGS) == (
        "lies 21 cents from a partial of the D string: in tune it does not wake it", True,
    )  # fmt: skip


def with_others(*rings: Any, cents: float = 0.0) -> list[JudgedNote]:
    """The same notes, after which two other strings rang as well, where the A is set."""
    tuned = [string_ring(j, string_cents=cents) for j in (0, 2)]
    return rows(*[ring(*r.strings, *tuned) for r in rings])


def test_a_string_is_out_only_beyond_its_own_range() -> None:
    def at(*cents: float) -> StringCount:
        return count_strings(with_others(*[rang(string_cents=c) for c in cents]))[1]

    assert at(-6.0, -6.0, -6.0).is_out
    assert at(-6.0, -6.0).string_cents == pytest.approx(-6.0)
    assert not at(-6.0).is_out  # one ring says nothing
    assert not at(-3.9, -3.9, -3.9).is_out
    assert at(-4.1, -4.1, -4.1).is_out
    assert not at(-9.0, -5.0, 1.0).is_out


def test_an_a_that_is_set_otherwise_puts_no_string_out() -> None:
    low = [rang(string_cents=8.0)] * 3
    assert not any(c.is_out for c in count_strings(with_others(*low, cents=8.0)))
    assert count_strings(with_others(*low, cents=2.0))[1].string_cents == pytest.approx(6.0)
    assert math.isnan(count_strings(rows(*low))[0].string_cents)  # no others to go by


def test_what_is_to_be_had_does_not_hang_on_how_the_strings_are_tuned() -> None:
    """A note on its target, the string 12 cents low: the note fits, the string is out."""
    met = replace(meeting(1, apart_cents=12.0), string_cents=-12.0)
    one = replace(string_ring(1, level_db=None), meeting=met)
    assert could_ring(rows(ring(one))[0])
    assert not could_ring(rows(ring(replace(one, meeting=replace(met, string_cents=0.0))))[0])


# findings -------------------------------------------------------------------------------------


def found(notes: list[JudgedNote], *aims: Aim) -> list[str]:
    return [f.id for f in find_rings(notes, jig_of(WORDS, *aims))]


LOST = [silent(-7.0, -10.0)] * 3


def test_a_finger_beside_the_string_is_said_where_ring_is_asked_for() -> None:
    notes = rows(rang(), *LOST)
    assert found(notes, RING) == ["ring_beside"]
    assert found(notes) == []
    assert [f.id for f in find_rings(notes, None)] == []
    assert found(rows(rang(), *LOST[:2]), RING) == []  # three notes are too few
    assert found(rows(*LOST, *LOST), RING) == []  # it never rang: it may be mute
    assert found(rows(rang(), rang(), rang(), rang(), *LOST), RING) == []
    assert found(rows(rang(), rang(), rang(), *LOST), RING) == ["ring_beside"]
    assert found(rows(rang(), *[silent()] * 3), RING) == []  # nobody knows why
    assert found(rows(rang(), *[silent(-2.9, -10.0)] * 3), RING) == []
    assert found(rows(rang(), silent(-7.0, -10.0), *[silent()] * 2), RING) == []


def test_a_string_that_is_out_is_said_of_any_take() -> None:
    low = [rang(string_cents=-6.5)] * 3
    assert found(with_others(*low)) == ["string_out"]
    assert found(with_others(*low[:2])) == []
    assert found(with_others(*[rang(string_cents=-4.9)] * 3)) == []
    assert found(rows(*low)) == []


def test_findings_of_the_ring_in_words() -> None:
    beside = find_rings(rows(rang(), *LOST), jig_of(WORDS, RING))[0]
    assert finding_title(beside, STRINGS) == "The D string seldom answers"
    assert finding_sentence(beside) == (
        "It rings in 1 of 4: where it was silent, the finger lay 7 cents low of it."
    )
    out = find_rings(with_others(*[rang(string_cents=6.5)] * 3), None)[0]
    assert finding_title(out, STRINGS) == "The D string is high"
    assert "6 cents high" in finding_sentence(out) or "7 cents high" in finding_sentence(out)
    assert finding_advice(beside)
    assert finding_advice(out)


# the aim --------------------------------------------------------------------------------------


def aim(*rings: Any, limit: float | None = None) -> AimResult:
    asked = Aim(kind="ring", limit=limit)
    jig = jig_of(WORDS, asked)
    return judge_aims(
        Evidence(
            notes=rows(*rings, jig=jig), playing=playing(), jig=jig, tolerance_cents=10.0
        )
    )[0]  # fmt: skip


def test_rings_won_of_those_that_were_to_be_had() -> None:
    met = aim(rang(), rang(), rang(), silent(), silent())
    assert (met.state, met.figure, met.limit) == ("met", pytest.approx(0.6), 0.6)
    lost = aim(rang(), silent(), silent(), rang(), silent())
    assert (lost.state, lost.row) == ("not_met", 1)
    assert aim(rang(), silent(), silent(), rang(), silent(), limit=0.4).state == "met"


def test_notes_without_help_count_for_nothing_and_too_few_cannot_be_told() -> None:
    help_less = [Unmeasured("nothing_shared")] * 5
    assert aim(*[rang()] * FEWEST, *help_less).state == "met"
    assert aim(rang(), rang(), *help_less).reason == "ring_not_told"
    assert aim(rang(), rang(), rang(), *[NOT_TOLD] * 4).state == "met"
    assert aim(rang(), rang(), rang(), *[NOT_TOLD] * 5).reason == "ring_not_told"


def test_the_trend_has_a_share_where_four_can_be_told() -> None:
    def share(*rings: Any) -> float | None:
        notes = rows(*rings)
        return with_rings(summarise(notes), notes).ring_share

    assert share(rang(), silent(), silent(), rang()) == 0.5
    assert share(rang(), silent(), rang()) is None
    assert share(rang(), silent(), silent(), rang(), NOT_TOLD) == 0.5


# words ----------------------------------------------------------------------------------------


def test_what_rang_in_words() -> None:
    assert ring_text(rang(), STRINGS) == (
        "woke the D string: 31 dB under the note, for 1.4 s", True,
    )  # fmt: skip
    both = ring(string_ring(0, level_db=-40.0), string_ring(1), string_ring(2, level_db=-45.0))
    text, _ = ring_text(both, STRINGS)
    assert text.startswith("woke the D string")
    assert "woke the G string: 40 dB" in text
    assert "A string" not in text
    no_decay = ring(string_ring(1, decay_s=float("nan")))
    assert ring_text(no_decay, STRINGS)[0] == "woke the D string: 31 dB under the note"


def test_what_was_to_be_had_in_words() -> None:
    low, known = ring_text(silent(-7.2, -10.0), STRINGS, -7.2)
    assert known
    assert low == "could wake the D string; you were 7 cents low, a tenth of it was there"
    high, _ = ring_text(silent(7.2, -5.0), STRINGS, 7.2)
    assert "7 cents high, a quarter" in high
    for asked in (silent(), silent(-7.0, -2.9), silent(-1.4, -4.0)):
        assert "Is a finger leaning on it" in ring_text(asked, STRINGS)[0]


def test_what_cannot_be_told_says_why() -> None:
    assert ring_text(NOT_TOLD, STRINGS) == (
        "cannot tell: the next note sounds at the same place", False,
    )  # fmt: skip
    unknown = ring(string_ring(1, reason="room"))
    assert ring_text(unknown, STRINGS) == (
        "cannot tell: the room rings as long as the string would", False,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("db", "text"),
    [
        (0.0, "nearly all"), (-1.6, "half"), (-4.4, "half"), (-4.6, "a quarter"),
        (-8.1, "a tenth"), (-11.6, "a twentieth"), (-15.1, "a fiftieth"),
        (-18.6, "less than a fiftieth"),
    ],
)  # fmt: skip
def test_shares_in_words(db: float, text: str) -> None:
    assert share_text(db) == text


def test_meetings_in_the_table_say_how_far_apart_they_lie() -> None:
    string = Pitch.parse("D4")
    assert meeting_text(meeting(1, apart_cents=1.4), string) == "D4 (2:1)"
    third = meeting(1, note_partial=4, string_partial=5, apart_cents=-21.5, share_db=-20.0)
    assert meeting_text(third, string) == "D4 (5:4) 22 c apart: less than a fiftieth"


def test_where_a_string_answers_most_in_words() -> None:
    d5 = Pitch.parse("D5")
    low = answer_text(1, -3.2, 1.4, 6, STRINGS, d5)
    assert low == (
        "The D string answers D5 most 3 cents low of the target, give or take 1 (6 takes)."
    )
    assert "on the target" in answer_text(1, 1.0, 1.4, 1, STRINGS, d5)
    assert over_takes_text(1, 2, 5, 3, STRINGS, d5) == (
        "D5 over 3 takes: the D string rang 2 of 5 times."
    )
    assert "(1 take)" in answer_text(1, 4.0, 1.4, 1, STRINGS, d5)
    assert "4 cents high" in answer_text(1, 4.0, 1.4, 1, STRINGS, d5)


def test_a_take_in_a_sentence() -> None:
    counts = count_strings(rows(rang(), silent(), rang()))
    assert ring_sentence(counts, STRINGS) == "2 rings won, of 3 that were to be had."
    assert ring_sentence((), STRINGS).startswith("Nothing can be told")
    out = count_strings(with_others(*[rang(string_cents=-6.2)] * 3))
    assert ring_sentence(out, STRINGS).endswith("The D string itself sounds 6 cents low.")
    assert string_out_text(counts[0], STRINGS) == ""


def test_a_string_is_named_as_it_is_tuned() -> None:
    tuned = (Pitch.parse("A3"), Pitch.parse("E4"), Pitch.parse("A4"), Pitch.parse("E5"))
    assert "E string" in ring_text(rang(), tuned)[0]
