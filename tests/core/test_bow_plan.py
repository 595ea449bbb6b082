"""A bow plan lies as a player would lay it, keeps what was set, and advises as a teacher does."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.jig import bow_edit
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.bow_advice import LONGEST_S, MOST_PLACES, advise
from jigwright.core.jig.bow_places import FROG, LOWER, MIDDLE, TIP, UPPER, part_of_bow
from jigwright.core.jig.bow_plan import plan_bow
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import MAKERS, Setting, maker
from jigwright.core.jig.model import Jig, JigError
from jigwright.core.jig.signs import Sign
from jigwright.services.exchange.musicxml_in import read_musicxml
from jigwright.services.exchange.musicxml_out import write_musicxml

GRID = 1 / 64


def line(text: str, *, loud: str | None = None, aims: tuple[Aim, ...] = (), **more) -> Jig:
    jig = jig_from_line(text, jig_id="l", instrument_id="violin", title="line", **more)
    first = replace(jig.events[0], dynamic=loud)
    return replace(jig, events=(first, *jig.events[1:]), aims=aims)


def ways(jig: Jig) -> list[str]:
    return [s.direction for s in plan_bow(jig)]


def middles(jig: Jig) -> list[float]:
    return [(s.notes[0].start + s.notes[-1].end) / 2 for s in plan_bow(jig)]


def kinds(jig: Jig) -> list[tuple[str, int]]:
    return [(a.kind, a.i_event) for a in advise(jig, plan_bow(jig))]


# laid out ---------------------------------------------------------------------------------------


def test_equal_long_bows_go_from_end_to_end_and_back() -> None:
    plan = plan_bow(line("D4:2 E4:2 D4:2 E4:2"))
    assert [(s.notes[0].start, s.notes[-1].end) for s in plan] == [(0, 1), (1, 0), (0, 1), (1, 0)]
    assert [s.begins for s in plan] == ["first", "turned", "turned", "turned"]
    assert all(s.haste == pytest.approx(1.0) for s in plan)


def test_a_stroke_takes_bow_by_its_length_and_loudness() -> None:
    def spent(loud: str, beats: str) -> float:
        return plan_bow(line(f"D4:{beats} E4:{beats}", loud=loud))[0].spent

    assert spent("mf", "1") == pytest.approx(0.5, abs=GRID)
    assert spent("p", "1") == pytest.approx(0.25, abs=GRID)
    assert spent("f", "1") == pytest.approx(0.75, abs=2 * GRID)
    assert spent("mf", "1/2") == pytest.approx(0.25, abs=GRID)


def test_a_shorter_bow_is_spent_sooner_and_every_instrument_has_its_own() -> None:
    jig = line("D4:1 E4:1")
    long, short = plan_bow(jig)[0].spent, plan_bow(jig, usable_mm=400.0)[0].spent
    assert short == pytest.approx(1.5 * long, abs=2 * GRID)
    bass = replace(jig, instrument_id="bass")
    assert plan_bow(bass)[0].wanted == pytest.approx(plan_bow(jig)[0].wanted * 600 / 520)


def test_soft_lives_from_middle_to_tip_loud_nearer_the_frog_fast_between() -> None:
    soft = middles(line("D4 E4 " * 4, loud="p"))
    loud = middles(line("D4:1/2 E4:1/2 " * 4, loud="f"))
    fast = middles(line("D4:1/4 E4:1/4 " * 8, tempo_bpm=100))
    assert all(0.6 < m < 0.8 for m in soft)
    assert all(0.3 < m < 0.48 for m in loud)
    assert all(0.54 < m < 0.66 for m in fast)


def test_springing_strokes_lie_at_the_balance_by_mark_or_by_aim() -> None:
    jig = line("D4:1/4 E4:1/4 " * 8, tempo_bpm=100)
    marked = replace(jig, events=tuple(replace(e, marks=("spiccato",)) for e in jig.events))
    meant = replace(jig, aims=(Aim(kind="off_string"),))
    for one in (marked, meant):
        assert all(0.28 < m < 0.4 for m in middles(one))


def test_slurs_share_their_bow_by_length_and_go_one_way() -> None:
    plan = plan_bow(line("(D4:2 E4:1 F#4:1) G4:4"))
    notes = plan[0].notes
    assert [n.i_event for n in notes] == [0, 1, 2]
    sizes = [n.end - n.start for n in notes]
    assert sizes[0] == pytest.approx(2 * sizes[1])
    assert sizes[1] == pytest.approx(sizes[2])
    assert plan[1].notes[0].start == notes[-1].end
    assert plan[0].seconds == pytest.approx(4.0)


def test_a_rest_or_a_lift_lets_the_bow_be_put_down_anew_a_short_one_does_not() -> None:
    assert plan_bow(line("D4:1 r:1/2 E4:1"))[1].begins == "lifted"
    assert plan_bow(line("D4:1 r:1/4 E4:1"))[1].begins == "turned"  # 0.25 s
    assert plan_bow(line("D4:1. E4:1"))[1].begins == "lifted"
    three = plan_bow(line("D4:1 r E4:1 r F#4:1 r G4:1"))
    assert {s.direction: round(s.notes[0].start, 1) for s in three[1:]} == {"down": 0.0, "up": 1.0}


def test_strokes_without_a_sign_turn_from_the_one_before() -> None:
    jig = line("D4 r E4 r F#4 r G4")
    bare = replace(jig, events=tuple(replace(e, bow=None) for e in jig.events))
    assert ways(bare) == ["down", "up", "down", "up"]


def hooked(text: str, at: int, **more) -> Jig:
    jig = line(text, **more)
    return bow_edit.toggle_hook(jig, at)


def test_a_hook_goes_on_in_the_same_direction_and_a_full_bow_is_taken_back() -> None:
    short = plan_bow(hooked("D4:3/4 E4:1/4 F#4:3/4 G4:1/4", 1))
    assert [s.direction for s in short] == ["down", "down", "up", "down"]
    assert short[1].begins == "hooked"
    assert short[1].notes[0].start == short[0].notes[-1].end
    full = plan_bow(hooked("D4:2 E4:2", 1))
    assert full[1].begins == "again"
    assert full[1].notes[0].start < 0.2


def test_words_of_the_score_say_the_part_until_others_take_their_place() -> None:
    jig = line("D4:1/2 E4:1/2 " * 8)
    tip = Sign(kind="words", at_beats=Fraction(2), text="a la punta d'arco")
    ord_ = Sign(kind="words", at_beats=Fraction(4), text="ord.")
    at = middles(replace(jig, signs=(tip, ord_)))
    assert all(m > 0.75 for m in at[4:8])
    assert at[4:] == sorted(at[4:6]) + sorted(at[6:], reverse=True)  # and wanders back
    assert at[-1] < 0.7


@pytest.mark.parametrize(
    ("words", "place"),
    [
        ("au talon", FROG), ("am Frosch", FROG), ("near the heel", FROG), ("at the tip", TIP),
        ("Spitze", TIP), ("at the point", TIP), ("upper half", UPPER),
        ("obere Hälfte", UPPER), ("lower half", LOWER), ("middle of the bow", MIDDLE),
        ("milieu de l'archet", MIDDLE), ("ordinario", None), ("whole bow", None),
    ],
)  # fmt: skip
def test_words_for_parts_of_the_bow(words: str, place: float | None) -> None:
    assert part_of_bow(words) == (True, place)


@pytest.mark.parametrize("words", ["dolce", "a tempo", "sul G", "Tippett", "frogs' chorus", "ort"])
def test_other_words_say_nothing(words: str) -> None:
    assert part_of_bow(words) == (False, None)


def test_plucked_jigs_have_no_bow_plan_and_plucked_notes_no_row() -> None:
    assert plan_bow(maker("plucked").make(Setting(instrument_id="violin"))) == ()
    jig = line("D4 E4 F#4 G4")
    events = tuple(replace(e, pluck=i == 1, bow=None if i == 1 else e.bow)
                   for i, e in enumerate(jig.events))  # fmt: skip
    plan = plan_bow(replace(jig, events=events))
    assert [n.i_event for s in plan for n in s.notes] == [0, 2, 3]


NOTES = st.lists(
    st.tuples(
        st.sampled_from(("D4", "F#4", "Bb3", "G3+B4")),
        st.sampled_from((":1/4", ":1", ":3/2", ":6")),
        st.sampled_from(("", ".")), st.sampled_from(("", " r:1/2")), st.booleans(),
    ),
    min_size=1, max_size=14,
)  # fmt: skip


@settings(max_examples=60)
@given(NOTES, st.sampled_from(("ppp", "p", "mf", "ff")))
def test_a_plan_stays_on_the_bow_and_goes_its_way(rows, loud: str) -> None:
    text = " ".join(n + length + lift + rest for n, length, lift, rest, _ in rows)
    jig = line(text, loud=loud)
    for i, (*_, hook) in enumerate(rows):
        jig = bow_edit.toggle_hook(jig, i) if hook else jig
    end = None
    for stroke in plan_bow(jig):
        sign = 1 if stroke.direction == "down" else -1
        assert all(0.0 <= n.start <= 1.0 and 0.0 <= n.end <= 1.0 for n in stroke.notes)
        assert all((n.end - n.start) * sign > 0 for n in stroke.notes)
        if stroke.begins in ("turned", "hooked"):
            assert stroke.notes[0].start == pytest.approx(end)
        end = stroke.notes[-1].end


# set by hand ------------------------------------------------------------------------------------


def test_a_share_that_was_set_holds_and_the_others_make_room() -> None:
    jig = line("D4:1 E4:1 D4:1 E4:1")
    plan = plan_bow(bow_edit.set_share(jig, 1, 0.9))
    assert plan[1].spent == pytest.approx(0.9, abs=GRID)
    assert plan[1].notes[0].is_set
    assert not plan[0].notes[0].is_set
    assert plan[0].spent > plan_bow(jig)[0].spent
    back = bow_edit.set_share(bow_edit.set_share(jig, 1, 0.9), 1, None)
    assert back == jig


def test_shares_inside_a_slur_are_kept_and_the_rest_is_for_the_others() -> None:
    jig = bow_edit.set_share(line("(D4:1 E4:1 F#4:1)"), 0, 0.1)
    notes = plan_bow(jig)[0].notes
    sizes = [n.end - n.start for n in notes]
    assert sizes[0] == pytest.approx(0.1, abs=0.01)
    assert sizes[1] == pytest.approx(sizes[2])
    assert sizes[1] > 0.3


@pytest.mark.parametrize(("asked", "kept"), [(1.7, 1.0), (-3.0, 0.02), (0.5, 0.5)])
def test_shares_and_places_stay_on_the_bow(asked: float, kept: float) -> None:
    jig = line("D4 E4")
    assert bow_edit.set_share(jig, 0, asked).events[0].bow_share == kept
    assert bow_edit.set_place(jig, 0, asked).events[0].bow_place == min(1.0, max(0.0, asked))


def test_a_place_that_was_set_begins_the_stroke_there() -> None:
    jig = bow_edit.set_place(line("D4:1 (E4:1 F#4:1) G4"), 2, 0.75)
    assert [e.bow_place for e in jig.events] == [None, 0.75, None, None]
    plan = plan_bow(jig)
    assert plan[1].notes[0].start == pytest.approx(0.75)
    assert plan[1].is_set
    assert plan[1].begins == "lifted"
    assert not plan[0].is_set


def test_lifts_come_and_go_and_the_first_stroke_has_none() -> None:
    jig = line("D4 (E4 F#4) G4")
    lifted = bow_edit.toggle_lift(jig, 2)
    assert [e.lifted for e in lifted.events] == [True, False, False, False]
    placed = bow_edit.set_place(lifted, 1, 0.3)
    assert bow_edit.toggle_lift(placed, 1) == jig  # with the lift goes the place
    assert bow_edit.toggle_lift(jig, 0) == jig


def test_a_hook_turns_what_follows_and_is_written_by_somebody() -> None:
    jig = line("D4 E4 F#4 G4")
    jig = replace(jig, events=tuple(replace(e, proposed_bow=True) for e in jig.events))
    done = bow_edit.toggle_hook(jig, 1)
    assert ways(done) == ["down", "down", "up", "down"]
    assert not done.events[1].proposed_bow
    assert ways(bow_edit.toggle_hook(done, 1)) == ways(jig)
    assert bow_edit.toggle_hook(jig, 0) == jig


def test_a_change_inside_a_slur_begins_a_stroke_there_only() -> None:
    jig = line("(D4 E4 F#4 G4) A4")
    done = bow_edit.change_at(jig, 2)
    assert [[n.i_event for n in s.notes] for s in plan_bow(done)] == [[0, 1], [2, 3], [4]]
    assert ways(done) == ["down", "up", "down"]
    assert bow_edit.change_at(jig, 0) == jig


def test_everything_is_left_to_the_plan_again() -> None:
    jig = line("D4 E4")
    some = bow_edit.set_place(bow_edit.set_share(jig, 0, 0.4), 1, 0.9)
    assert bow_edit.is_set(some)
    assert not bow_edit.is_set(jig)
    assert bow_edit.leave_to_the_plan(some) == jig
    assert bow_edit.with_plan_of(some, jig) == jig


def test_the_plan_is_kept_in_the_jig_file_and_in_a_score() -> None:
    jig = bow_edit.set_place(bow_edit.set_share(line("D4 E4 F#4"), 0, 0.35), 2, 0.125)
    again = jig_from_json(jig_to_json(jig))
    assert [(e.bow_share, e.bow_place) for e in again.events] == [
        (0.35, None), (None, None), (None, 0.125)
    ]  # fmt: skip
    score = read_musicxml(write_musicxml(jig), jig_id="s", title="s").jig
    assert [(e.bow_share, e.bow_place) for e in score.events] == [
        (0.35, None), (None, None), (None, 0.125)
    ]  # fmt: skip


@pytest.mark.parametrize("bad", ["2.0", "-0.1", '"much"', "true", "NaN"])
def test_nonsense_in_a_file_is_refused(bad: str) -> None:
    text = jig_to_json(bow_edit.set_share(line("D4 E4"), 0, 0.4)).replace("0.4,", f"{bad},", 1)
    assert bad in text
    with pytest.raises(JigError, match=r"bow_share|malformed"):
        jig_from_json(text)


# advice -----------------------------------------------------------------------------------------


def test_even_bows_need_no_advice() -> None:
    for text in ("D4:2 E4:2 D4:2 E4:2", "D4 E4 F#4 G4", "(D4 E4) (F#4 G4)", "D4:2 r E4:2 r F#4:3"):
        assert kinds(line(text)) == []


def test_a_short_note_after_a_long_one_gives_its_bow_back_quick_and_light() -> None:
    assert kinds(line("D4:2 E4:1 F#4:2 G4:1 A4:2 B4:1")) == [("quick_and_light", 1)]
    assert kinds(line("(D4 E4 F#4) G4 (A4 B4 C#5) D5")) == [("quick_and_light", 3)]
    assert kinds(hooked("D4:2 E4:1", 1)) == []
    assert kinds(line("D4:2. E4:1 F#4:2. G4:1 A4:2. B4:1")) == []  # lifted: nothing to give back
    assert kinds(line("D4:3/2 E4:1 " * 6)) == []  # hardly shorter


def test_a_share_that_somebody_chose_is_meant() -> None:
    jig = line("D4:2 E4:1 F#4:2 G4:1 A4:2 B4:1")
    chosen = bow_edit.set_share(jig, 1, 0.7)
    assert ("quick_and_light", 1) not in kinds(chosen)
    assert kinds(bow_edit.set_share(line("D4 E4:2 F#4:2"), 1, 0.1)) == []


def test_the_more_uneven_of_two_patterns_weighs_more() -> None:
    jig = line("D4:2 E4:1 " * 4 + "F#4:3 G4:1/2 " * 4)
    one, two = (a for a in advise(jig, plan_bow(jig)) if a.kind == "quick_and_light")
    assert jig.events[one.i_event].length_beats > jig.events[two.i_event].length_beats
    assert one.weight < two.weight


def test_one_long_loud_note_is_changed_in_and_a_long_slur_on_a_note_of_it() -> None:
    loud = line("D4:16", loud="ff")
    (advice,) = advise(loud, plan_bow(loud))
    assert (advice.kind, advice.i_event, advice.inside) == ("change_here", 0, True)
    slur = line("(D4:4 E4:4 F#4:4 G4:4)")
    (advice,) = advise(slur, plan_bow(slur))
    assert (advice.kind, advice.i_event, advice.inside) == ("change_here", 2, False)
    in_the_bar = line("(D4:3 E4:2 F#4:4 G4:3)", loud="f")
    assert kinds(in_the_bar) == [("change_here", 2)]  # a beat before the middle of twelve
    to_the_line = line("(D4:3 E4:2 F#4:3 G4:2 A4:2)", loud="f")
    assert kinds(to_the_line) == [("change_here", 3)]  # two beats after it, but on a bar line


@pytest.mark.parametrize("loud", ["pp", "mf", "ff"])
def test_the_longest_bow_is_told_from_both_sides(loud: str) -> None:
    longest = LONGEST_S[loud]
    assert kinds(line(f"D4:{Fraction(longest) - Fraction(1, 8)}", loud=loud)) == []
    assert kinds(line(f"D4:{Fraction(longest) + Fraction(1, 8)}", loud=loud)) == [
        ("change_here", 0)
    ]


def test_the_loudest_note_of_a_slur_counts() -> None:
    jig = line("(D4:4 E4:4)", loud="pp")
    louder = replace(jig.events[1], dynamic="ff")
    assert kinds(jig) == []
    assert kinds(replace(jig, events=(jig.events[0], louder))) == [("change_here", 1)]


def test_shares_that_the_bow_has_not_got_are_said_first() -> None:
    jig = line("D4:2 E4:2")
    for i, share in ((0, 0.9), (1, 0.9)):
        jig = bow_edit.set_share(jig, i, share)
    assert kinds(jig) == []
    slur = line("(D4:1 E4:1)")
    for i in (0, 1):
        slur = bow_edit.set_share(slur, i, 0.8)
    assert kinds(slur) == [("too_much_set", 1)]


def test_at_most_three_places_the_weightiest_in_order() -> None:
    text = "D4:16 E4:1 F#4:20 G4:1/2 A4:24 B4:1 C#5:30 D5:1/2"
    advice = advise(line(text, loud="ff"), plan_bow(line(text, loud="ff")))
    assert len(advice) == MOST_PLACES
    assert [a.stroke for a in advice] == sorted(a.stroke for a in advice)
    assert {a.kind for a in advice} == {"change_here"}
    assert advice[-1].i_event == 6


def test_a_pattern_that_comes_again_is_said_once() -> None:
    assert kinds(line("D4:2 E4:1 " * 12)) == [("quick_and_light", 1)]


@pytest.mark.parametrize("kind", ["even_bow", "duration", "notes_in_bow", "left_over"])
def test_advice_never_goes_against_what_the_jig_is_for(kind: str) -> None:
    long = line("D4:16 E4:16", loud="ff")
    assert kinds(long)
    assert kinds(replace(long, aims=(Aim(kind="pitch"), Aim(kind=kind)))) == []
    uneven = line("D4:2 E4:1 F#4:2 G4:1")
    assert kinds(replace(uneven, aims=(Aim(kind=kind),))) == []


def test_makers_of_the_bow_are_not_told_to_bow_otherwise() -> None:
    for one in MAKERS:
        jig = one.make(Setting(instrument_id="violin"))
        said = {a.kind for a in advise(jig, plan_bow(jig))}
        assert said <= {"quick_and_light"}, one.id
        if one.family == "bow":
            assert not said, one.id


def test_start_places_and_shares_of_makers_are_drawn_so() -> None:
    for stage, place in (("start_middle", 0.5), ("start_nearer", 0.25), ("start_frog", 0.0)):
        jig = maker("foundation_bow").make(Setting(instrument_id="cello", values={"start": stage}))
        plan = plan_bow(jig)
        assert {s.notes[0].start for s in plan} == {place}
        assert {s.direction for s in plan} == {"down"}
    jig = maker("dividing").make(Setting(instrument_id="violin", values={"shares": "little_much"}))
    first = plan_bow(jig)[0].notes
    assert [round(n.end - n.start, 2) for n in first] == [0.25, 0.75]
