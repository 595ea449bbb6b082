"""What is said after a take: the first aim that was not met, its place first, in true counts."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import all_in, event, jig_of, note, results, stroke
from jigwright.core.jig.aims import AIM_KINDS, LIMITS, Aim, aims
from jigwright.core.judge.aims import AimResult
from jigwright.core.judge.verdict import Verdict, judge_at_once
from jigwright.wording.aims import (
    aim_line,
    aim_sentence,
    aim_word,
    figure_words,
    listening_for,
    untold_line,
    why_untold,
)
from jigwright.wording.verdicts import verdict_line, verdict_word

EIGHT = "D4 E4 F#4 G4 A4 B4 C#5 D5"
GONE = {"cents": None, "standing": "missed", "state": "missed"}
LOW = {"cents": -20.0, "standing": "low"}
HIDDEN = {"cents": None, "standing": "uncertain", "state": "uncertain"}


def verdict(jig, notes, *, before=(), **parts) -> Verdict:
    return judge_at_once(notes, jig, before=before, aims=results(jig, notes, **parts))


def said(one: Verdict, *, direction: bool = False) -> str:
    return f"{verdict_word(one, direction=direction)} | {verdict_line(one, direction=direction)}"


def bow_jig(*more):
    return jig_of(EIGHT, Aim(kind="even_bow"), *aims(*more))


def strokes():
    return tuple(stroke(i, "down" if i % 2 == 0 else "up") for i in range(8))


def test_the_first_aim_not_met_is_spoken_of() -> None:
    bounce = (event("bounce", 5, share=0.9),)
    jig = bow_jig("every_note")
    notes = all_in(jig, {2: GONE})
    first = verdict(jig, notes, strokes=strokes(), events=bounce)
    assert (first.kind, first.row, first.bar, first.marks) == ("aim", 5, 2, (5,))
    assert said(first) == "The bow let go | bar 2, in the last third of the up stroke"
    assert said(first, direction=True).endswith("of the up stroke, 12.0 dB")
    other = replace(jig, aims=jig.aims[::-1])
    second = verdict(other, notes, strokes=strokes(), events=bounce)
    assert (second.kind, second.row) == ("missed", 2)


def test_what_was_not_asked_is_never_a_fault() -> None:
    jig = bow_jig()
    off = all_in(jig, {1: LOW, 3: GONE, 4: {"cents": 80.0, "standing": "wrong"}})
    assert verdict(jig, off, strokes=strokes()).kind == "clean"
    pitch = jig_of(EIGHT, *aims("pitch"))
    bounce = (event("bounce", 5),)
    assert verdict(pitch, all_in(pitch), strokes=strokes(), events=bounce).kind == "clean"


def test_nothing_to_mend_needs_everything_measured_and_met() -> None:
    jig = bow_jig("mirror")
    clean = replace(jig, aims=jig.aims[:1])
    good = verdict(clean, all_in(clean), strokes=strokes())
    assert said(good) == "Nothing to mend | an even bow, contact kept"
    unsure = verdict(jig, all_in(jig), strokes=strokes())
    assert unsure.kind == "untold"
    assert said(unsure) == (
        "Not everything could be told | Down like up could not be told: "
        "there were too few strokes"
    )  # fmt: skip
    pitch = jig_of(EIGHT, *aims("pitch", "every_note"))
    assert said(verdict(pitch, all_in(pitch))) == "Nothing to mend | 8 notes, all inside."


def test_what_was_not_met_comes_before_what_cannot_be_told() -> None:
    jig = jig_of(EIGHT, *aims("mirror", "every_note"))
    assert verdict(jig, all_in(jig, {2: GONE})).kind == "missed"
    assert verdict(jig, all_in(jig)).kind == "untold"
    hidden = jig_of(EIGHT, *aims("every_note"))
    one = verdict(hidden, all_in(hidden, {2: HIDDEN}))
    assert (one.kind, one.row, one.marks) == ("unsure", 2, (2,))


def test_counts_are_true() -> None:
    jig = jig_of(EIGHT, *aims("every_note"))
    seven = verdict(jig, all_in(jig, dict.fromkeys(range(1, 8), GONE)))
    assert (seven.n_missed, seven.marks) == (7, (1, 2, 3))
    assert verdict_line(seven, direction=False) == "7 notes were left out."


def test_a_note_out_again_comes_first_with_its_direction() -> None:
    jig = jig_of(EIGHT, *aims("pitch"))
    notes = all_in(jig, {1: LOW, 2: {"cents": 30.0, "standing": "high"}})
    first = verdict(jig, notes)
    assert (first.kind, first.row, first.marks) == ("listen", 2, (2, 1))
    before = [{notes[1].measured.lined.note_id: -19.0}]
    again = verdict(jig, notes, before=before)
    assert (again.kind, again.row, again.again) == ("direction", 1, 1)
    other_way = [{notes[1].measured.lined.note_id: 19.0}]
    assert verdict(jig, notes, before=other_way).kind == "listen"
    small = [{notes[1].measured.lined.note_id: -11.9}]
    assert verdict(jig, notes, before=small).kind == "listen"
    enough = [{notes[1].measured.lined.note_id: -12.0}]
    assert verdict(jig, notes, before=enough).kind == "direction"


def test_a_note_that_was_gone_back_to_is_spoken_of_by_its_second_arrival() -> None:
    jig = jig_of(EIGHT, *aims("pitch", "second_arrival"))
    again = note(jig, 1, cents=-18.0, state="retry", attempt=2)
    one = verdict(jig, [*all_in(jig, {1: LOW}), again])
    assert (one.kind, one.aim and one.aim.aim.kind, one.row) == ("aim", "second_arrival", 8)
    assert verdict(jig, [*all_in(jig, {1: LOW}), replace(again, cents=1.0)]).kind == "clean"
    both = verdict(jig, [*all_in(jig, {1: LOW, 2: LOW}), replace(again, cents=1.0)])
    assert (both.kind, both.row, both.marks) == ("listen", 2, (2,))


def test_without_aims_wrong_notes_come_first_then_missed_then_out() -> None:
    jig = jig_of(EIGHT)
    wrong = {"cents": 90.0, "standing": "wrong"}

    def of(**changes) -> str:
        return judge_at_once(all_in(jig, {int(k[1:]): v for k, v in changes.items()}), jig).kind

    assert of(n1=LOW, n2=GONE, n3=wrong) == "wrong"
    assert of(n1=LOW, n2=GONE) == "missed"
    assert of(n1=LOW, n2=HIDDEN) == "listen"
    assert of(n2=HIDDEN) == "unsure"
    assert of() == "clean"
    assert judge_at_once([note(jig, i, **GONE) for i in range(8)], jig).kind == "nothing"


def test_lanes_are_for_the_player_to_choose() -> None:
    jig = jig_of(EIGHT, *aims("lanes"))
    assert said(verdict(jig, all_in(jig))) == (
        "Which do you like? | Nothing is judged here: compare them at the Desk."
    )  # fmt: skip


# words ----------------------------------------------------------------------------------------

DETAILS = {
    "even_bow": ("bounce", "scratch", "whistle", "shake", "wavers"),
    "crossing": ("neighbour_string", "level"), "direction": ("grow", "fade", "swell", "dip"),
    "dotted": ("lazy", "snapped"), "vibrato": ("missing", "unasked"), "entry": ("late", "early"),
    "balance": ("upper", "lower", ""),
}  # fmt: skip
PARTS = {"mirror": ("frog", "tip", "middle_of_bow"), "bow_change": ("frog", "tip", "")}


@pytest.mark.parametrize("kind", AIM_KINDS)
def test_every_fault_has_words_of_its_own(kind) -> None:
    words = [
        aim_word(AimResult(aim=Aim(kind=kind), state="not_met", detail=d, part=p))
        for d in DETAILS.get(kind, ("",))
        for p in PARTS.get(kind, ("",))
    ]
    assert all(words)
    assert len(set(words)) == len(words)


def test_figures_have_unit_uncertainty_and_limit() -> None:
    def words(kind, figure, uncertainty=0.0, limit=None, **more) -> str:
        return figure_words(
            AimResult(aim=Aim(kind=kind), state="not_met", figure=figure, limit=limit,
                      uncertainty=uncertainty, **more)
        )  # fmt: skip

    assert words("mirror", 5.04, 0.3, 3.0) == "5.0 ± 0.3 dB (limit 3)"
    assert words("held", 0.72, 0.031, 0.9) == "72 ± 3 % (limit 90)"
    assert words("pitch", 20.4, 0.02, 10.0) == "20 ± 1 cents (limit 10)"
    assert words("dotted", 2.41, 0.12, 3.3) == "2.4 ± 0.1 : 1"
    assert words("every_note", 2.0, 0.0, 0.0) == "2"
    assert words("duration", 12.0, 0.05, 14.2) == "12.0 ± 0.1 s (limit 14.2)"
    assert words("even_bow", 12.0, 0.0, 2.0, detail="bounce") == "12.0 dB"
    assert figure_words(AimResult(aim=Aim(kind="lanes"), state="not_asked")) == ""


def test_lines_name_the_place() -> None:
    left = AimResult(aim=Aim(kind="left_over"), state="not_met", part="end", direction="up")
    assert aim_line(left, 3, figures=False) == "bar 3, at the end of the up strokes"
    mirror = AimResult(aim=Aim(kind="mirror"), state="not_met", part="frog", direction="down")
    assert aim_line(mirror, None, figures=False) == "the down strokes are louder there"
    plain = AimResult(aim=Aim(kind="pairs"), state="not_met")
    assert aim_line(plain, None, figures=True) == "the second of two lighter"
    places = {
        aim_line(
            AimResult(aim=Aim(kind="even_bow"), state="not_met", part=p, direction=d), 1,
            figures=False,
        )
        for p in ("beginning", "middle", "end", "")
        for d in ("down", "up")
    }  # fmt: skip
    assert len(places) == 8


def test_sentences_and_what_is_listened_for() -> None:
    met = AimResult(aim=Aim(kind="held"), state="met")
    assert aim_sentence(met, None) == "Notes held to their end: met."
    assert aim_sentence(replace(met, state="not_asked"), None).endswith("shown, not judged.")
    room = replace(met, state="cannot_tell", reason="room_rings")
    assert aim_sentence(room, None) == (
        "Notes held to their end could not be told: the room rings on."
    )  # fmt: skip
    short = replace(met, state="not_met", figure=0.7, uncertainty=0.02, limit=0.9)
    assert aim_sentence(short, 4) == "Notes were let go early (bar 4, 70 ± 2 % (limit 90))."
    assert untold_line(room) + "." == aim_sentence(room, None)
    four = aims("even_bow", "mirror", "left_over", "pitch")
    assert listening_for(four) == (
        "Listening for: an even bow, contact kept · down like up · bow used up at the end"
    )  # fmt: skip
    assert why_untold("anything else") == "it was not measured"
    assert len(LIMITS) == len(AIM_KINDS)
