"""A session laid out: the right part, minutes that fit, doses, breaks, turns (L1)."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aim_builders import jig_of
from jigwright.core.errors import JigError
from jigwright.core.jig.makers import MAKERS, Setting, maker
from jigwright.core.jig.makers.repertoire import (
    LEVELS,
    REPERTOIRE,
    Offered,
    key_of_day,
    turn_of,
)
from jigwright.core.jig.model import Jig
from jigwright.core.judge.plan import (
    BREAK_AFTER,
    LONGEST_PASSAGE,
    MOST_TIMES,
    WORKED,
    Candidate,
    PlanItem,
    dose_minutes,
    is_heavy,
    lay_out,
    most_minutes,
    once_minutes,
    part_of,
    urgency,
)
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass

TODAY = 739_000


def jig(maker_id: str, **values: str | int) -> Jig:
    name = "-".join([maker_id, *map(str, values.values())])
    return maker(maker_id).make(
        Setting(instrument_id="violin", jig_id=name, title=name, values=values)
    )


def of(maker_id: str, days: int | None = 3, inside: float = 0.9, **more: object) -> Candidate:
    last = None if days is None else TODAY - days
    return Candidate(jig=jig(maker_id), last_day=last, inside=inside, **more)  # type: ignore[arg-type]


IDS = ("long_bows", "scale", "double_scale", "off_string", "even_run", "drone_scale", "echo",
       "slowest_bow", "plucked", "shifts", "arpeggio", "over_open", "dotted", "study",
       "ring_scale")  # fmt: skip
CANDIDATES = [of(m, days=3 * i if i else None) for i, m in enumerate(IDS)]


# parts -------------------------------------------------------------------------------------------

PARTS = {
    "bow": "long_bows foundation_bow speed_series slowest_bow many_notes growing_slur dividing "
           "bow_changes crossings contact_trial soft_bows",
    "pitch": "scale arpeggio chromatic drone_scale hand_pattern frame_across open_stopped shifts "
             "tune_on_strings",
    "two_strings": "double_scale over_open balance octave_hand",
    "stroke": "off_string clean_starts dotted plucked pairs",
    "tone": "ring_scale ring_echo ring_thrice echo long_shapes vibrato harmonics "
            "artificial_harmonics held",
    "passage": "even_run study",
}  # fmt: skip


def test_every_exercise_belongs_to_a_part_by_what_it_is_for() -> None:
    wanted = {name: part for part, names in PARTS.items() for name in names.split()}
    assert {m.id: part_of(jig(m.id)) for m in MAKERS} == wanted


def test_without_aims_the_notes_say_where_a_jig_belongs() -> None:
    assert part_of(jig_of("D4 E4 F#4 G4 A4")) == "pitch"
    assert part_of(jig_of("D4 B4 G4 C5 A3")) == "passage"
    assert part_of(jig_of("D4 E4+B4 D4")) == "two_strings"
    piece = jig_of("D4+B4 " * 32)
    assert part_of(piece) == "passage", "a piece in stops is a piece"
    lifted = jig_of("D4 E4 F#4 G4")
    lifted = replace(lifted, events=tuple(replace(e, lifted=True) for e in lifted.events))
    assert part_of(lifted) == "stroke"
    loud = jig_of("D4 E4 F#4 G4")
    events = (replace(loud.events[0], dynamic="f"), *loud.events[1:])
    assert part_of(replace(loud, events=events)) == "passage"


def test_what_tires() -> None:
    assert is_heavy(jig("plucked"))
    assert is_heavy(jig("slowest_bow", seconds=15))
    assert is_heavy(jig("octave_hand"))
    assert not is_heavy(jig("double_scale"))
    assert not is_heavy(jig("growing_slur", most_notes=4)), "its rests are no bows"
    assert is_heavy(jig("long_bows", beats_in_bow=8)), "eight seconds"
    assert not is_heavy(jig("long_bows", beats_in_bow=7))
    assert not is_heavy(replace(jig("scale"), events=()))


# doses -------------------------------------------------------------------------------------------


def test_doses() -> None:
    assert dose_minutes(jig("slowest_bow")) == 5
    assert dose_minutes(jig("plucked")) == 5
    assert dose_minutes(jig("soft_bows")) == 8
    assert dose_minutes(jig("shifts")) == 10
    assert dose_minutes(jig("scale")) == 12
    assert dose_minutes(jig("octave_hand")) == 8, "it tires"
    assert dose_minutes(jig("study")) == LONGEST_PASSAGE


def test_times_through_fit_the_minutes() -> None:
    short = replace(jig("scale"), tempo_bpm=240.0)  # four seconds
    assert once_minutes(short) == pytest.approx((4 + 20) / 60, abs=0.02)
    assert most_minutes(short) == 4, "ten times, not a quarter of an hour"
    long = replace(jig("scale", octaves=3), tempo_bpm=30.0)
    assert most_minutes(long) == 12, "the dose"
    assert most_minutes(jig_of("D4")) >= 2


@given(
    st.integers(1, 300), st.sampled_from(("foundation", "rotating")),
    st.lists(st.sampled_from(CANDIDATES), unique_by=lambda c: c.jig.id), st.integers(0, 20),
)  # fmt: skip
def test_a_plan_takes_the_minutes_there_are_and_no_dose_is_passed(
    minutes: int, school, candidates: list[Candidate], day: int
) -> None:
    items = lay_out(minutes, candidates, school=school, today=TODAY + day)
    assert sum(i.minutes for i in items) == min(240, max(5, minutes))
    assert [i.part for i in items[:2]] == ["settle", "strings"]
    assert items[-1].part == "close"
    assert all(i.minutes >= 1 for i in items)
    by_id = {c.jig.id: c.jig for c in candidates}
    played = [i for i in items if i.jig_id]
    assert len({i.jig_id for i in played}) == len(played), "nothing twice"
    for item in played:
        it = by_id[item.jig_id or ""]
        assert item.minutes <= dose_minutes(it)
        assert item.part == part_of(it)
        assert item.heavy == is_heavy(it)
        assert 1 <= item.repetitions <= MOST_TIMES
        needed = item.repetitions * once_minutes(it)
        assert needed <= item.minutes + max(1.0, once_minutes(it))
    edges = [i.part for i in items]
    assert "break" not in (edges[2], edges[-2]) or len(played) == 0
    assert not any(a == b == "break" for a, b in zip(edges, edges[1:], strict=False))


def stretches(items: tuple[PlanItem, ...]) -> list[int]:
    """Minutes of work between breaks."""
    found = [0]
    for item in items:
        if item.part == "break":
            found.append(0)
        elif item.part in WORKED:
            found[-1] += item.minutes
    return found


def test_breaks_come_after_about_twenty_minutes() -> None:
    for school in ("foundation", "rotating"):
        for minutes in (45, 60, 90, 120, 180):
            rows = stretches(lay_out(minutes, CANDIDATES, school=school, today=TODAY))
            assert max(rows) <= BREAK_AFTER + 6, (school, minutes, rows)
            assert min(rows) >= 8, (school, minutes, rows)
    short = lay_out(25, CANDIDATES, school="foundation", today=TODAY)
    assert all(i.part != "break" for i in short)
    long = lay_out(120, CANDIDATES, school="foundation", today=TODAY)
    assert {i.minutes for i in long if i.part == "break"} == {5}
    hour = lay_out(60, CANDIDATES, school="foundation", today=TODAY)
    assert {i.minutes for i in hour if i.part == "break"} == {3}


def test_a_short_session_has_bow_pitch_and_a_passage() -> None:
    parts = [i.part for i in lay_out(15, CANDIDATES, school="foundation", today=TODAY)]
    assert parts == ["settle", "strings", "bow", "pitch", "passage", "close"]
    wished = [*CANDIDATES, replace(of("balance"), due=True)]
    parts = [i.part for i in lay_out(15, wished, school="foundation", today=TODAY)]
    assert "two_strings" in parts, "what somebody set is not what waits"
    waits = set()
    for day in (0, 1):
        items = lay_out(30, CANDIDATES, school="foundation", today=TODAY + day)
        waits |= set(WORKED) - {i.part for i in items}
    assert waits == {"stroke", "tone"}, "now this, now that"


def test_foundation_first_and_rotating_differ() -> None:
    plans = {s: lay_out(60, CANDIDATES, school=s, today=TODAY) for s in ("foundation", "rotating")}
    spent = {
        s: sum(i.minutes for i in plan if i.part in ("bow", "pitch")) for s, plan in plans.items()
    }
    assert spent["foundation"] > spent["rotating"]
    order = [i.part for i in plans["rotating"] if i.part in WORKED]
    assert order != sorted(order, key=WORKED.index), "taken up again later"
    order = [i.part for i in plans["foundation"] if i.part in WORKED]
    assert order == sorted(order, key=WORKED.index)


def test_what_nothing_fills_is_left_for_playing() -> None:
    items = lay_out(60, [of("slowest_bow")], school="foundation", today=TODAY)
    bow = next(i for i in items if i.part == "bow")
    assert bow.minutes <= 5, "heavy work stays a short dose"
    assert items[-1].minutes > 30
    nothing = lay_out(30, [], school="foundation", today=TODAY)
    assert [i.part for i in nothing] == ["settle", "strings", "close"]
    assert sum(i.minutes for i in nothing) == 30


# what comes first --------------------------------------------------------------------------------


def first_pitch(*candidates: Candidate) -> PlanItem:
    items = lay_out(20, list(candidates), school="foundation", today=TODAY)
    return next(i for i in items if i.part == "pitch")


def test_what_is_due_weak_or_stale_comes_first_and_says_why() -> None:
    fresh, stale = of("scale", 0, 1.0), of("drone_scale", 30, 1.0)
    assert (first_pitch(fresh, stale).jig_id, first_pitch(fresh, stale).why) == (
        "drone_scale", "stale",
    )  # fmt: skip
    assert first_pitch(of("scale", 0, 0.3)).why == "weak"
    assert first_pitch(of("scale", 0, 0.75)).why == ""
    assert first_pitch(of("scale", 9, 0.9)).why == ""
    assert first_pitch(of("scale", 10, 0.9)).why == "stale"
    assert first_pitch(of("scale", None)).why == "new"
    due = of("arpeggio", 0, 1.0, due=True)
    assert (first_pitch(stale, due).jig_id, first_pitch(stale, due).why) == ("arpeggio", "due")
    theme = of("arpeggio", 0, 1.0, theme=True)
    assert (first_pitch(fresh, theme).jig_id, first_pitch(fresh, theme).why) == (
        "arpeggio", "theme",
    )  # fmt: skip
    assert first_pitch(of("scale", None, offered=True)).why == "turn"


def test_own_jigs_come_before_what_is_offered_until_they_were_played() -> None:
    new = of("scale", None, 1.0)
    offered = of("arpeggio", None, 1.0, offered=True, turn=0.9)
    assert urgency(new, TODAY) > urgency(offered, TODAY)
    assert urgency(of("scale", 1, 1.0), TODAY) < urgency(offered, TODAY)
    later = replace(offered, turn=0.1)
    assert urgency(later, TODAY) < urgency(offered, TODAY)


# turns and keys ----------------------------------------------------------------------------------


def test_turns_go_round() -> None:
    n = 7
    for day in range(20):
        turns = [turn_of(i, n, day) for i in range(n)]
        assert sorted(turns) == [pytest.approx((k + 1) / n) for k in range(n)]
        assert turns[2 * day % n] == 1.0
    firsts = {max(range(n), key=lambda i: turn_of(i, n, day)) for day in range(n)}
    assert firsts == set(range(n)), "everything is first once"


def made(one: Offered, kind: str, key: Key) -> Jig | None:
    try:
        return maker(one.maker_id).make(Setting(instrument_id=kind, key=key, values=one.values))
    except JigError:
        return None


@pytest.mark.parametrize("level", LEVELS)
@pytest.mark.parametrize("kind", ["violin", "viola", "cello", "bass"])
def test_a_level_has_its_keys_and_exercises_for_every_part(level, kind: str) -> None:
    keys = {key_of_day(level, kind, day) for day in range(12)}
    assert len(keys) == {"early": 3, "settled": 8, "advanced": 12}[level]
    assert key_of_day(level, kind, 3) != key_of_day(level, kind, 4)
    for tonic in keys:
        key = Key(PitchClass.parse(tonic))
        wanted = set(WORKED)
        for one in REPERTOIRE[level]:
            if not wanted:
                break
            if (jig := made(one, kind, key)) is not None:
                assert part_of(jig) in WORKED
                wanted.discard(part_of(jig))
        assert not wanted, tonic
    slugs = [o.slug for o in REPERTOIRE[level]]
    assert len(set(slugs)) == len(slugs)


def test_early_exercises_ask_nothing_high() -> None:
    for one in REPERTOIRE["early"]:
        jig = made(one, "violin", Key(PitchClass("D")))
        assert jig is not None
        for event in jig.events:
            for head in event.heads:
                open_string = [55, 62, 69, 76][head.string or 0]
                assert head.pitch.midi - open_string <= 8, one.slug
