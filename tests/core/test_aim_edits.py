"""Changing what a jig is for."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import jig_of
from jigwright.core.errors import JigError
from jigwright.core.jig.aim_edits import (
    as_marked,
    bars_of,
    events_in_bars,
    fitting_kinds,
    limit_choices,
    put_first,
    ways_of,
    with_kind,
    with_limit,
    with_places,
    with_way,
    without,
)
from jigwright.core.jig.aims import AIM_KINDS, LIMITS, MOST_AIMS, Aim, AimKind, aims_of, limit_of
from jigwright.core.jig.line import jig_from_line
from jigwright.core.jig.makers import MAKERS, Setting
from jigwright.wording.aims import bars_words, limit_words, way_name

PLAIN = jig_of("D4 E4 F#4 G4")
BOWED = jig_of("(D4 E4) (F#4 G4)", Aim(kind="even_bow"), Aim(kind="mirror"), Aim(kind="pitch"))


def kinds(jig) -> list[str]:
    return [a.kind for a in aims_of(jig)]


def test_what_is_added_comes_after_what_its_marks_ask_for() -> None:
    made = with_kind(PLAIN, "even_bow")
    assert kinds(PLAIN) == ["every_note", "pitch"]
    assert kinds(made) == ["every_note", "pitch", "even_bow"]
    assert made.revision == PLAIN.revision
    assert kinds(as_marked(made)) == ["every_note", "pitch"]


def test_nothing_is_asked_twice_and_there_is_an_end() -> None:
    with pytest.raises(JigError, match="already"):
        with_kind(PLAIN, "pitch")
    placed = replace(PLAIN, aims=(Aim(kind="pitch", places=(PLAIN.events[0].id,)),))
    assert kinds(with_kind(placed, "pitch")) == ["pitch", "pitch"]
    full = replace(PLAIN, aims=tuple(Aim(kind=k) for k in AIM_KINDS[:MOST_AIMS]))
    with pytest.raises(JigError, match="at most"):
        with_kind(full, AIM_KINDS[MOST_AIMS])
    nearly = replace(full, aims=full.aims[:-1])
    assert len(aims_of(with_kind(nearly, AIM_KINDS[MOST_AIMS]))) == MOST_AIMS


def test_aims_are_taken_away_and_put_first_but_one_stays() -> None:
    assert kinds(without(BOWED, 1)) == ["even_bow", "pitch"]
    assert kinds(put_first(BOWED, 2)) == ["pitch", "even_bow", "mirror"]
    assert put_first(BOWED, 0) == BOWED
    one = without(without(BOWED, 0), 0)
    assert kinds(one) == ["pitch"]
    with pytest.raises(JigError, match="for something"):
        without(one, 0)


def test_a_limit_is_changed_in_its_bounds_and_given_back() -> None:
    made = with_limit(BOWED, 1, 5.0)
    assert [a.limit for a in made.aims] == [None, 5.0, None]
    assert limit_of(made.aims[1], made) == 5.0
    assert with_limit(made, 1, None) == BOWED
    with pytest.raises(JigError, match="between"):
        with_limit(BOWED, 1, LIMITS["mirror"].high + 1)


def test_another_character_has_a_limit_of_its_own() -> None:
    jig = jig_of("D4 E4", Aim(kind="dotted", limit=3.0, way="sharp"))
    made = with_way(jig, 0, "singing")
    assert (made.aims[0].way, made.aims[0].limit) == ("singing", None)
    assert ways_of(made.aims[0]) == ("sharp", "singing")
    assert ways_of(Aim(kind="pitch")) == ()


@pytest.mark.parametrize("kind", AIM_KINDS)
def test_every_choice_of_a_limit_can_be_made_and_holds_what_holds_now(kind: AimKind) -> None:
    jig = replace(jig_of("D4:8 E4"), aims=(Aim(kind=kind),))
    choices = limit_choices(jig.aims[0], jig)
    for limit in choices:
        changed = with_limit(jig, 0, limit)
        assert limit_of(changed.aims[0], changed) == limit
        assert limit_words(changed.aims[0], limit)
    now = limit_of(jig.aims[0], jig)
    if choices:
        assert now is not None
        assert any(abs(c - now) < 0.006 for c in choices)
        assert list(choices) == sorted(set(choices))
    else:
        assert not now or LIMITS[kind].unit in ("notes", "")


def test_choices_stop_at_the_bounds() -> None:
    jig = replace(PLAIN, aims=(Aim(kind="both_sound"),))
    assert limit_choices(jig.aims[0], jig) == (0.85, 0.9, 0.95, 1.0)
    narrow = replace(PLAIN, aims=(Aim(kind="pitch", limit=1.5),))
    assert limit_choices(narrow.aims[0], narrow) == (1.0, 1.12, 1.5, 2.25, 3.0)


def test_only_what_could_be_judged_is_offered() -> None:
    assert "even_bow" in fitting_kinds(PLAIN)
    assert "pitch" not in fitting_kinds(PLAIN), "it is there"
    assert not {"interval", "both_sound", "balance"} & set(fitting_kinds(PLAIN))
    stops = jig_of("D4+A4 E4+B4")
    assert {"both_sound", "balance"} <= set(fitting_kinds(stops))
    assert "notes_in_bow" not in fitting_kinds(PLAIN)
    slurred = jig_from_line("(D4 E4) (F#4 G4)", jig_id="j", instrument_id="violin", title="j")
    assert {"notes_in_bow", "pairs", "shift"} <= set(fitting_kinds(slurred))
    plucked = replace(PLAIN, events=tuple(replace(e, pluck=True) for e in PLAIN.events))
    assert not {"even_bow", "start", "bow_change"} & set(fitting_kinds(plucked))


@pytest.mark.parametrize("one", MAKERS, ids=lambda m: m.id)
def test_what_is_offered_for_an_exercise_can_be_added(one) -> None:
    jig = one.make(Setting(instrument_id="cello", values={}))
    offered = fitting_kinds(jig)
    assert not set(offered) & {a.kind for a in aims_of(jig)}
    if len(aims_of(jig)) < MOST_AIMS:
        for kind in offered:
            assert kinds(with_kind(jig, kind))[-1] == kind


def test_limits_in_words_say_their_sense() -> None:
    assert limit_words(Aim(kind="even_bow"), 2.0) == "at most 2 dB"
    assert limit_words(Aim(kind="held"), 0.9) == "at least 90 %"
    assert limit_words(Aim(kind="pitch"), 10.0) == "at most 10 cents"
    assert limit_words(Aim(kind="dotted", way="sharp"), 3.3) == "from 3.3 : 1"
    assert limit_words(Aim(kind="balance", way="upper"), 3) == "upper string leads, at most 3 dB"
    assert limit_words(Aim(kind="every_note"), 0) == ""
    assert limit_words(Aim(kind="shift", way="none"), None) == "no slide"
    assert way_name("another") == "another"


# places ---------------------------------------------------------------------------------------

BARS = jig_of("D4 E4 F#4 G4 A4 B4 C#5 D5 E5:4", Aim(kind="pitch"), Aim(kind="even_bow"))
IDS = [e.id for e in BARS.events]


@pytest.mark.parametrize(
    ("text", "events"),
    [("1", IDS[:4]), ("2-3", IDS[4:]), ("2–3", IDS[4:]), (" 1 , 3 ", [*IDS[:4], IDS[8]]),
     ("3-9", IDS[8:])],
)  # fmt: skip
def test_bars_are_written_as_one_or_from_to(text: str, events: list[str]) -> None:
    assert list(events_in_bars(BARS, text)) == events


@pytest.mark.parametrize("text", ["", "a", "1-", "-2", "3-2", "1,,2", "4", "1-20002", "1.5"])
def test_what_says_no_bars_is_refused(text: str) -> None:
    with pytest.raises(JigError):
        events_in_bars(BARS, text)


def test_an_aim_is_for_a_place_and_for_everything_again() -> None:
    placed = with_places(BARS, 1, IDS[4:8])
    assert [a.places for a in placed.aims] == [(), tuple(IDS[4:8])]
    assert bars_of(placed.aims[1], placed) == (2, 2)
    assert bars_of(placed.aims[0], placed) is None
    assert with_places(placed, 1, ()) == BARS
    with pytest.raises(JigError, match="there"):
        with_places(BARS, 0, ["nowhere"])


@pytest.mark.parametrize(("bars", "words"), [(None, ""), ((3, 3), "bar 3"), ((3, 6), "bars 3–6")])
def test_bars_in_words(bars: tuple[int, int] | None, words: str) -> None:
    assert bars_words(bars) == words
