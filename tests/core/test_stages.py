"""The stages of the foundation bow, what is allowed at each, and bows held apart by direction."""

from __future__ import annotations

from dataclasses import replace

import pytest

from aim_builders import all_in, event, jig_of, only, stroke
from jigwright.core.jig.aims import Aim
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.makers.bow import FOUNDATION_STAGES
from jigwright.core.jig.model import Jig
from jigwright.core.judge.asked import is_wanted
from jigwright.core.judge.ladder import ladder_by_id, rung_jig, rung_jig_id
from jigwright.core.judge.summary import TakeSummary, with_lengths
from jigwright.core.judge.trend import ChangePoint
from jigwright.services.trends import TrendPoint, best_point
from jigwright.wording.daybook import (
    change_sentence,
    figure_name,
    figure_unit,
    stage_of,
    stage_text,
    weeks_text,
)

LADDER = ladder_by_id("foundation")
EARLY = FOUNDATION_STAGES[:4]


def stage(name: str, **values: str | int) -> Jig:
    return maker("foundation_bow").make(
        Setting(instrument_id="violin", values={"start": name, **values})
    )


def test_the_ladder_has_the_stages_in_their_order() -> None:
    assert tuple(r.values["start"] for r in LADDER.rungs) == FOUNDATION_STAGES
    assert len(set(map(stage_text, LADDER.rungs))) == len(FOUNDATION_STAGES)
    assert weeks_text(LADDER.rungs[0]) == "About 2 weeks."
    assert all(map(weeks_text, LADDER.rungs))
    scale = ladder_by_id("scale").rungs[0]
    assert (stage_text(scale), weeks_text(scale)) == ("", "")


@pytest.mark.parametrize("name", FOUNDATION_STAGES)
def test_early_stages_draw_down_bows_from_one_place(name: str) -> None:
    jig = stage(name, string="lowest", repeats=2)
    ways = [e.bow for e in jig.events]
    assert len(ways) == 4
    if name in EARLY:
        assert set(ways) == {"down"}
        gaps = [
            b.onset_beats - a.end_beats for a, b in zip(jig.events, jig.events[1:], strict=False)
        ]
        assert all(g == 2 for g in gaps), "the bow is lifted back"
        assert [(a.kind, a.way) for a in jig.aims] == [("even_bow", "scratch_allowed")]
    else:
        assert ways == ["down", "up"] * 2
        assert [a.kind for a in jig.aims] == ["even_bow", "mirror", "left_over"]
    assert all(e.heads[0].finger == 0 for e in jig.events)


def test_weight_is_written_as_loud() -> None:
    assert {e.dynamic for e in stage("weight").events} == {"f"}
    assert {e.dynamic for e in stage("both_ways").events} == {None}


def test_a_stage_says_what_it_asks_before_a_take_in_any_key() -> None:
    for i, rung in enumerate(LADDER.rungs):
        for tonic in ("D", "Bb"):
            jig_id = rung_jig_id(LADDER, i, "cello", tonic)
            assert stage_of(jig_id, "cello") == stage_text(rung)
            assert stage_of(jig_id, "violin") == ""
    assert stage_of("demo-scale", "violin") == ""
    made = rung_jig(LADDER, 3, instrument_id="violin", tonic="D", title="t")
    assert "lifting is not" in stage_of(made.id, "violin")


def bowed(way: str, *kinds: str) -> str:
    jig = jig_of("D4:4 E4:4", Aim(kind="even_bow", way=way))
    notes = all_in(jig)
    events = tuple(event(k, 0, share=0.1) for k in kinds)
    result = only(jig, notes, strokes=(stroke(0), stroke(1)), events=events)
    return f"{result.state} {result.detail}".strip()


@pytest.mark.parametrize(
    ("way", "kinds", "said"),
    [
        ("", ("scratch",), "not_met scratch"),
        ("scratch_allowed", ("scratch",), "met wavers"),
        ("scratch_allowed", ("scratch", "bounce"), "not_met bounce"),
        ("scratch_allowed", ("whistle",), "not_met whistle"),
        ("scratch_allowed", ("shake",), "not_met shake"),
        ("scratch_allowed", (), "met wavers"),
    ],
)
def test_scratch_is_allowed_at_its_stage_and_lifting_never(
    way: str, kinds: tuple[str, ...], said: str
) -> None:
    assert bowed(way, *kinds) == said


def test_what_is_allowed_is_silent_in_the_findings() -> None:
    early = stage("start_frog")
    assert is_wanted("bow_scratch", early)
    assert not is_wanted("bow_bounce", early)
    assert not is_wanted("bow_scratch", stage("both_ways"))


# bow speeds ----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("series", "beats"), [("8-4-3-2-1", [8, 4, 3, 2, 1]), ("4-3-2", [4, 3, 2])]
)
def test_bow_speeds_come_in_two_series(series: str, beats: list[int]) -> None:
    jig = maker("speed_series").make(
        Setting(instrument_id="violin", values={"series": series, "string": "second"})
    )
    assert [e.length_beats for e in jig.events] == [b for b in beats for _ in range(2)]


# the slowest bow -----------------------------------------------------------------------------


def lasting(down_s: tuple[float, ...], up_s: tuple[float, ...]) -> tuple[str, float | None, str]:
    jig = jig_of("D4:4 E4:4 F#4:4 G4:4", Aim(kind="duration", limit=4.0))
    spans = [("down", s) for s in down_s] + [("up", s) for s in up_s]
    strokes = tuple(
        replace(stroke(i, way), start_s=10.0 * i, end_s=10.0 * i + s)
        for i, (way, s) in enumerate(spans)
    )
    result = only(jig, all_in(jig), strokes=strokes)
    return result.state, result.figure, result.direction


def test_the_longest_of_each_way_counts_and_the_shorter_of_them_decides() -> None:
    assert lasting((5.0, 3.0), (4.5,)) == ("met", 4.5, "up")
    assert lasting((5.0, 3.0), (3.5, 2.0)) == ("not_met", 3.5, "up")
    assert lasting((3.5,), (5.0,)) == ("not_met", 3.5, "down")
    assert lasting((5.0,), ()) == ("met", 5.0, "down")
    assert lasting((5.0,), (4.02,))[0] == "cannot_tell"


EMPTY = TakeSummary(
    n_notes=0, n_missed=0, inside=0.0, off_cents=None, bias_cents=None, spread_cents=None
)


def test_a_summary_keeps_down_and_up_apart() -> None:
    strokes = [
        replace(stroke(i, way), start_s=0.0, end_s=s)
        for i, (way, s) in enumerate(
            [("down", 9.0), ("down", 12.0), ("up", 7.0), ("unknown", 20.0)]
        )
    ]
    made = with_lengths(EMPTY, strokes)
    assert (made.longest_down_s, made.longest_up_s) == (12.0, 7.0)
    assert with_lengths(EMPTY, strokes[:2]).longest_up_s is None


def test_a_longer_bow_is_the_better_one() -> None:
    points = [
        TrendPoint(take_id=str(i), day=f"2026-11-0{i + 1}", value=v, cut_before=False)
        for i, v in enumerate((9.0, 14.0, 11.0))
    ]
    best = best_point(points, "longest_down_s")
    assert best is not None
    assert best.value == 14.0
    assert (figure_name("longest_up_s"), figure_unit("longest_up_s")) == ("Longest up bow (s)", "s")
    change = ChangePoint(at=4, before=9.0, after=12.5, by=3.5, uncertainty=1.0)
    said = change_sentence(change, "longest_down_s", "1 Nov", 12, cut=False)
    assert said.startswith("Better since 1 Nov: from 9.0 to 12.5 s")
