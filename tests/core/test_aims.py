"""What an exercise is for: the aims of jigs, makers and marks, their limits, their files."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aim_builders import jig_of
from jigwright.core.errors import JigError
from jigwright.core.jig.aims import (
    AIM_KINDS,
    LIMITS,
    MOST_AIMS,
    SHOWN_ONLY,
    WAYS,
    Aim,
    aims,
    aims_of,
    implied_aims,
    limit_of,
)
from jigwright.core.jig.derive import as_double_stops, displaced, spot
from jigwright.core.jig.draft import renamed
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.makers import MAKERS, Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.core.jig.phrases import statements
from jigwright.core.judge.ladder import READY_MADE, rung_jig
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.wording.aims import aim_name

FIRST = {
    "long_bows": "even_bow", "foundation_bow": "even_bow", "speed_series": "left_over",
    "slowest_bow": "duration",
    "many_notes": "every_note", "growing_slur": "every_note", "dividing": "every_note",
    "bow_changes": "bow_change", "crossings": "crossing", "contact_trial": "lanes",
    "soft_bows": "soft", "off_string": "off_string", "clean_starts": "start", "scale": "pitch",
    "arpeggio": "pitch", "chromatic": "pitch", "drone_scale": "pitch",
    "hand_pattern": "hand_frame", "shifts": "shift", "long_shapes": "direction",
    "echo": "contrast", "pairs": "pairs", "vibrato": "vibrato", "harmonics": "partial",
    "artificial_harmonics": "partial", "plucked": "pluck",
    "ring_scale": "ring", "ring_echo": "ring", "ring_thrice": "ring",
    "held": "held", "dotted": "dotted",
    "frame_across": "hand_frame", "open_stopped": "pitch", "balance": "balance",
    "octave_hand": "interval", "tune_on_strings": "pitch", "study": "even_run",
    "even_run": "even_run", "double_scale": "interval", "over_open": "interval",
}  # fmt: skip


def kinds(jig: Jig) -> list[str]:
    return [a.kind for a in aims_of(jig)]


@pytest.mark.parametrize("one", MAKERS, ids=lambda m: m.id)
@pytest.mark.parametrize("kind", ["violin", "bass"])
def test_every_maker_says_what_its_exercise_is_for(one, kind: str) -> None:
    key = Key(PitchClass("D" if kind == "violin" else "A"))
    if kind not in one.kinds:
        pytest.skip("not on this instrument")
    jig = one.make(Setting(instrument_id=kind, key=key))
    assert jig.aims, "what it is for was left to the marks"
    assert jig.aims[0].kind == FIRST[one.id]
    assert len({(a.kind, a.places) for a in jig.aims}) == len(jig.aims)
    assert jig_from_json(jig_to_json(jig)) == jig


def test_a_character_chosen_in_the_form_is_that_of_the_aim() -> None:
    def way(maker_id: str, **values: str) -> str:
        return maker(maker_id).make(Setting(instrument_id="violin", values=values)).aims[0].way

    assert way("dotted", character="sharp") == "sharp"
    assert way("dotted", character="on_a_line") == "singing"
    assert way("shifts", glide="hidden") == "hidden"


def test_a_level_note_asks_for_an_even_bow() -> None:
    for shape, kind in (("level", "even_bow"), ("grow", "direction")):
        jig = maker("long_shapes").make(Setting(instrument_id="violin", values={"shape": shape}))
        assert jig.aims[0].kind == kind


def test_rungs_and_copies_keep_what_they_are_for() -> None:
    foundation = next(one for one in READY_MADE if one.id == "foundation")
    rung = rung_jig(foundation, 1, instrument_id="cello", tonic="D", title="r")
    stage = {"start": "start_nearer"}
    made = maker("foundation_bow").make(Setting(instrument_id="cello", values=stage))
    assert rung.aims == made.aims
    jig = jig_of("D4 E4 F#4")
    jig = replace(jig, aims=(Aim(kind="held", places=(jig.events[1].id,)),))
    again = renamed(jig, "other")
    assert again.aims[0].places == (again.events[1].id,)
    assert again.events[1].id != jig.events[1].id


def test_derived_exercises_inherit_what_fits_them() -> None:
    jig = jig_of("D4 E4 F#4 D4 E4 F#4", *aims("contrast", "pitch"))
    here = Aim(kind="held", places=(jig.events[1].id, jig.events[5].id))
    jig = replace(jig, aims=(*jig.aims, here))
    part = spot(jig, 0, 2, jig_id="s", title="s")
    assert part.aims == (Aim(kind="pitch"), Aim(kind="held", places=(jig.events[1].id,)))
    assert spot(jig, 2, 4, jig_id="s", title="s").aims == (Aim(kind="pitch"),)
    assert spot(jig, 0, 5, jig_id="s", title="s").aims == jig.aims
    moved = displaced(jig, 1, jig_id="m", title="m")
    assert moved.aims == (Aim(kind="even_run"), *jig.aims)
    assert displaced(moved, 2, jig_id="n", title="n").aims == moved.aims
    plain = displaced(jig_of("D4 E4 F#4"), 1, jig_id="m", title="m")
    assert kinds(plain) == ["even_run", "every_note", "pitch"]
    stops = as_double_stops(jig_of("D4 B4 D4 B4"), jig_id="d", title="d")
    assert kinds(stops) == ["interval", "both_sound", "every_note"]


# what marks ask for -------------------------------------------------------------------------


def test_a_piece_is_for_every_note_and_its_pitch_and_its_marks() -> None:
    assert kinds(jig_of("D4 E4 F#4")) == ["every_note", "pitch"]
    stops = implied_aims(jig_of("D4 G4+B4 F#4"))
    assert [a.kind for a in stops] == ["every_note", "pitch", "interval"]
    assert len(stops[2].places) == 1
    jig = jig_of("D4 E4 F#4")

    def marked(**marks: object) -> list[Aim]:
        events = (jig.events[0], replace(jig.events[1], **marks), jig.events[2])
        found = implied_aims(replace(jig, events=events))
        assert [a.kind for a in found[:2]] == ["every_note", "pitch"]
        return list(found[2:])

    assert marked(shape="grow") == [Aim(kind="direction", places=(jig.events[1].id,))]
    assert marked(shape="level") == []
    assert marked(vibrato=False) == [Aim(kind="vibrato", places=(jig.events[1].id,))]
    harmonic = replace(jig.events[1].heads[0], partial=2)
    assert marked(heads=(harmonic,)) == [Aim(kind="partial", places=(jig.events[1].id,))]


def test_open_strings_are_as_they_were_tuned() -> None:
    jig = jig_of("D4 A4")
    heads = [replace(e, heads=(replace(e.heads[0], finger=0),)) for e in jig.events]
    assert kinds(replace(jig, events=tuple(heads))) == ["every_note", "even_bow"]
    assert kinds(replace(jig, events=(heads[0], jig.events[1]))) == ["every_note", "pitch"]


def test_two_loudnesses_on_the_same_words_ask_for_contrast() -> None:
    jig = jig_of("D4 E4 F#4 D4 E4 F#4")

    def with_dynamics(first: str | None, second: str | None) -> list[str]:
        e = list(jig.events)
        e[0], e[3] = replace(e[0], dynamic=first), replace(e[3], dynamic=second)  # type: ignore[arg-type]
        return kinds(replace(jig, events=tuple(e)))

    assert with_dynamics("f", "p")[-1] == "contrast"
    assert "contrast" not in with_dynamics("f", None)
    assert "contrast" not in with_dynamics("f", "f")
    other = jig_of("D4 E4 F#4 D4 E4 G4")
    assert statements(other) is None
    assert statements(jig) == ((0, 1, 2), (3, 4, 5))
    assert statements(jig_of("D4 E4 D4 E4")) is None  # too few words for a statement
    assert statements(jig_of("D4 E4 F#4 D4 E4 F#4 G4")) is None


# limits -------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", AIM_KINDS)
def test_every_kind_has_a_limit_a_reason_and_a_name(kind) -> None:
    limit = LIMITS[kind]
    assert limit.reason
    assert aim_name(kind)
    if limit.value is not None:
        assert limit.low <= limit.value <= limit.high
        assert Aim(kind=kind, limit=limit.value).limit == limit.value
    if kind not in SHOWN_ONLY:
        assert limit.unit
        with pytest.raises(JigError, match="lies between"):
            Aim(kind=kind, limit=limit.high + 1)
        with pytest.raises(JigError, match="lies between"):
            Aim(kind=kind, limit=limit.low - 0.01)


def test_a_limit_is_the_aims_own_or_the_jigs_or_what_the_kind_begins_with() -> None:
    jig = jig_of("D4:2 E4", tolerance_cents=7.0)
    assert limit_of(Aim(kind="mirror", limit=5.0), jig) == 5.0
    assert limit_of(Aim(kind="mirror"), jig) == 3.0
    assert limit_of(Aim(kind="pitch"), jig) == 7.0
    assert limit_of(Aim(kind="second_arrival"), jig) == 7.0
    assert limit_of(Aim(kind="duration"), jig) == pytest.approx(0.95)  # of the longest, one second
    starts = [
        limit_of(Aim(kind="start"), jig_of("A2", instrument_id=k))
        for k in ("violin", "viola", "cello", "bass")
    ]
    assert starts == [40.0, 50.0, 60.0, 80.0]


def test_what_is_not_known_is_refused() -> None:
    with pytest.raises(JigError, match="unknown aim"):
        Aim(kind="speed")  # type: ignore[arg-type]
    with pytest.raises(JigError, match="no way"):
        Aim(kind="dotted", way="square")
    with pytest.raises(JigError, match="no way"):
        Aim(kind="pitch", way="sharp")
    with pytest.raises(JigError, match="at most"):
        jig_of("D4", *aims(*AIM_KINDS[: MOST_AIMS + 1]))
    assert len(jig_of("D4", *aims(*AIM_KINDS[:MOST_AIMS])).aims) == MOST_AIMS


# files --------------------------------------------------------------------------------------


@st.composite
def some_aim(draw) -> Aim:
    kind = draw(st.sampled_from(AIM_KINDS))
    start = LIMITS[kind]
    own = st.floats(start.low, start.high, allow_nan=False)
    return Aim(
        kind=kind,
        limit=draw(st.none() | own),
        way=draw(st.sampled_from(("", *WAYS.get(kind, ())))),
        places=tuple(draw(st.lists(st.sampled_from(["j.e0", "j.e1"]), max_size=2))),
    )


@given(st.lists(some_aim(), max_size=MOST_AIMS))
def test_aims_come_back_from_their_file(chosen: list[Aim]) -> None:
    jig = jig_of("D4 E4", *chosen)
    assert jig_from_json(jig_to_json(jig)).aims == tuple(chosen)


def test_an_old_file_has_none_and_a_wrong_one_is_named() -> None:
    body = json.loads(jig_to_json(jig_of("D4 E4", Aim(kind="dotted", way="sharp", limit=4.0))))
    assert body["aims"] == [{"kind": "dotted", "way": "sharp", "limit": 4.0}]
    assert "aims" not in json.loads(jig_to_json(jig_of("D4 E4")))
    for wrong, field in (
        ({"kind": "speed"}, "kind"), ({"kind": "pitch", "limit": 500}, "limit"),
        ({"kind": "dotted", "way": "odd"}, "way"), ({"kind": "pitch", "places": [3]}, "places"),
        ({}, "kind"),
    ):  # fmt: skip
        with pytest.raises(JigError, match=field):
            jig_from_json(json.dumps(body | {"aims": [wrong]}))
