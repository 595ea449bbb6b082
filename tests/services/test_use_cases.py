"""Practising, planning, climbing, comparing, trends, pupils and the record: without a window."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, date, datetime
from pathlib import Path

import pytest

from builders import heard_of, keep_take, new_studio
from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig, revise
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.ladder import READY_MADE, PassRule
from jigwright.core.judge.work import Progress, SetWork
from jigwright.core.sound.heard import METHOD_VERSION
from jigwright.core.values import Unmeasured
from jigwright.services.climbing import (
    ladders_on_offer,
    make_ladder,
    rung_to_work_on,
    standing_on,
)
from jigwright.services.comparing import (
    compare,
    level_dbfs,
    matching_gain,
    same_place,
    to_compare_with,
)
from jigwright.services.day_record import days_of, everything
from jigwright.services.exchange.workfile import WorkFile
from jigwright.services.planning import (
    PlanWish,
    keep_wish,
    kept_wish,
    plan_session,
    tonic_of,
)
from jigwright.services.practising import (
    against_references,
    heavy_minutes,
    past_of_note,
    troubled_events,
)
from jigwright.services.pupils import (
    progress_on,
    pupil_rows,
    said_of,
    set_work,
    still_open,
    take_work_in,
    work_rows,
)
from jigwright.services.records import DayNote
from jigwright.services.reporting import make_report
from jigwright.services.session import Session
from jigwright.services.summaries import Summaries
from jigwright.services.take_reader import AS_PLAYED, TakeReader, View
from jigwright.services.trends import (
    TrendPoint,
    best_point,
    change_in,
    is_best_of_all,
    is_flat,
    jigs_played,
    newest_stretch,
    of_before,
    parts_of_jig,
    trend,
)
from jigwright.store.studio import Studio
from jigwright.wording.daybook import best_sentence
from signals import scale

N = len(scale().events)
TODAY = date(2026, 11, 20)


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    made = new_studio(tmp_path / "studio")
    yield made
    made.close()


@pytest.fixture
def reader(studio: Studio) -> TakeReader:
    return TakeReader(studio)


@pytest.fixture
def session(studio: Studio) -> Session:
    violin = next(i for i in studio.instruments() if i.id == "i")
    return Session(player=studio.players()[0], instrument=violin, jig=scale())


def _day(n: int) -> str:
    return f"2026-11-{n:02d}T10:00:00Z"


def _take(studio: Studio, n: int, cents: float | list[float | None], **changes: object):
    row = [cents] * N if isinstance(cents, (int, float)) else cents
    jig = changes.pop("jig", scale())
    assert isinstance(jig, Jig)
    return keep_take(studio, f"t{n}", jig, heard_of(jig, row), utc=_day(n), **changes)


# summaries -----------------------------------------------------------------------------------


def test_a_summary_is_made_once_and_kept(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio, 1, 7.0)
    first = Summaries(studio, reader)
    assert first.known(take) is None
    assert first.missing([take]) == [take]
    made = first.now(take)
    assert made.bias_cents == pytest.approx(7.0, abs=0.01)
    assert studio.summaries() == {}
    first.make([take])
    second = Summaries(studio, reader)
    assert second.known(take) == made
    assert second.missing([take]) == []


@pytest.mark.parametrize("what", ["heard", "correction", "A", "version"])
def test_a_summary_goes_with_what_it_was_made_from(
    studio: Studio, reader: TakeReader, what: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    take = _take(studio, 1, 7.0)
    Summaries(studio, reader).make([take])
    if what == "heard":
        studio.set_heard("t1", heard_of(scale(), [1.0] * N, method_version=METHOD_VERSION + 1))
    elif what == "correction":
        from jigwright.core.follow.align import Pin

        studio.set_corrections("t1", (Pin(at_s=1.0, i_event=None),))
    elif what == "A":
        studio.change("set_take", "t1", {"a4_hz": 442.0})
        take = studio.takes()[0]
    else:
        monkeypatch.setattr("jigwright.services.summaries.SUMMARY_VERSION", -1)
    fresh = Summaries(studio, reader)
    assert fresh.known(take) is None
    again = fresh.now(take)
    assert again.n_notes >= N - 1
    fresh.make([take])
    assert Summaries(studio, reader).known(take) == again


def test_what_changed_is_forgotten_and_nothing_else(studio: Studio, reader: TakeReader) -> None:
    takes = [_take(studio, n, 5.0) for n in (1, 2)]
    summaries = Summaries(studio, reader)
    before = [summaries.now(t) for t in takes]
    summaries.forget(["t2"])
    assert summaries.known(takes[0]) is before[0]
    assert summaries.known(takes[1]) is None
    summaries.forget()
    assert summaries.known(takes[0]) is None


def test_a_part_of_a_take_is_summed_up_alone(studio: Studio, reader: TakeReader) -> None:
    jig = scale()
    cents = [20.0 if e.heads[0].finger == 2 else 0.0 for e in jig.events]
    take = _take(studio, 1, list(cents))
    summaries = Summaries(studio, reader)
    second = summaries.of_part(take, "finger:2")
    assert second.bias_cents == pytest.approx(20.0, abs=0.01)
    assert second.n_notes == cents.count(20.0)
    assert summaries.of_part(take, "finger:1").bias_cents == pytest.approx(0.0, abs=0.01)
    assert summaries.of_part(take, "finger:9").n_notes == 0
    one = jig.events[0].heads[0]
    assert summaries.of_part(take, f"note:{one.pitch}").n_notes >= 1
    assert summaries.of_part(take, f"string:{one.string}").n_notes >= 1


def test_a_summary_that_cannot_be_read_is_made_anew(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio, 1, 3.0)
    inputs = Summaries(studio, reader)
    inputs.reread()
    for body in ("{", "[]", '{"n_notes": 1}', '{"other": 1}'):
        studio.keep_summaries({"t1": (inputs.inputs(take), body)})
        assert Summaries(studio, reader).known(take) is None


# trends --------------------------------------------------------------------------------------


def _points(values: list[float], cuts: tuple[int, ...] = ()) -> list[TrendPoint]:
    return [
        TrendPoint(take_id=f"t{i}", day=f"2026-11-{i + 1:02d}", value=v, cut_before=i in cuts)
        for i, v in enumerate(values)
    ]


def test_a_trend_is_cut_where_the_input_or_the_instrument_changes(
    studio: Studio, reader: TakeReader
) -> None:
    takes = [
        _take(studio, 1, 9.0), _take(studio, 2, 8.0, input_name="other"),
        _take(studio, 3, 7.0, input_name="other"),
        _take(studio, 4, 6.0, input_name="other", instrument_id="c"),
        _take(studio, 5, 5.0, jig=revise(scale(), tempo_bpm=60.0), input_name="other"),
    ]  # fmt: skip
    summaries = Summaries(studio, reader)
    assert trend(takes, summaries, scale().id, "off_cents") == []  # none is made yet
    summaries.make(takes)
    points = trend(takes, summaries, scale().id, "off_cents")
    assert [p.cut_before for p in points] == [False, True, False, True, True]
    assert [round(p.value) for p in points] == [9, 8, 7, 6, 5]
    assert points[0].day == "2026-11-01"
    assert [p.value for p in trend(takes, summaries, scale().id, "inside")] == [100.0] * 5
    assert trend(takes, summaries, "other", "off_cents") == []
    narrow = trend(takes, summaries, scale().id, "off_cents", "finger:1")
    assert len(narrow) == 5


def test_what_an_older_method_heard_is_left_out(studio: Studio, reader: TakeReader) -> None:
    old = heard_of(scale(), [9.0] * N, method_version=METHOD_VERSION - 1)
    takes = [
        keep_take(studio, "old", scale(), old, utc=_day(1)),
        _take(studio, 2, 4.0),
    ]
    summaries = Summaries(studio, reader)
    summaries.make(takes)
    assert not summaries.is_of_now(takes[0])
    points = trend(takes, summaries, scale().id, "off_cents")
    assert [p.take_id for p in points] == ["t2"]
    assert of_before(takes, summaries, scale().id) == 1  # and how many are, is known
    assert of_before(takes, summaries, "other") == 0
    assert of_before(takes[1:], summaries, scale().id) == 0


def test_only_the_newest_stretch_is_compared_with_itself() -> None:
    assert newest_stretch(_points([1.0, 2.0])) == 0
    assert newest_stretch(_points([1.0] * 6, (2, 4))) == 4
    points = _points([1.0, 9.0, 8.0, 7.0], (1,))
    best = best_point(points, "off_cents")
    assert best is not None
    assert best.value == 7.0
    most = best_point(points, "inside")
    assert most is not None
    assert most.value == 9.0
    assert best_point(points, "bias_cents") is None
    assert best_point([], "off_cents") is None
    far = [20.0, 21.0, 19.5, 20.5, 20.2, 19.8, 5.0, 5.2, 4.9, 5.1, 5.0, 4.8]
    change = change_in(_points([3.0, *far], (1,)), looked_at=1)
    assert change is not None
    assert change.at == 7
    assert change_in(_points([3.0, *far], (1,)), looked_at=100) is None
    assert change_in(_points(far[:6]), looked_at=1) is None
    assert is_flat(_points([20.0, 20.1, 19.9, 20.0] * 3))
    assert not is_flat(_points(far))
    assert is_best_of_all(best, points, "off_cents") is (best.value == min(p.value for p in points))
    apart = _points([4.0, 9.0, 7.0], (1,))
    newest = best_point(apart, "off_cents")
    assert newest is not None
    assert newest.value == 7.0
    assert not is_best_of_all(newest, apart, "off_cents")
    assert "since the dashed line" in best_sentence("off_cents", 7.0, "x", flat=False, cut=True)
    longer = best_point(apart, "longest_up_s")
    assert longer is not None
    assert is_best_of_all(longer, apart, "longest_up_s")


def test_what_a_trend_can_be_narrowed_to(studio: Studio) -> None:
    parts = parts_of_jig(scale())
    assert {p.partition(":")[0] for p in parts} == {"finger", "string", "note"}
    assert len(parts) == len(set(parts))
    assert parts_of_jig(None) == []
    takes = [_take(studio, 1, 0.0), _take(studio, 2, 0.0)]
    other = replace(scale(), id="other")
    takes.append(_take(studio, 3, 0.0, jig=other))
    takes.append(keep_take(studio, "free", None, None, utc=_day(4)))
    assert jigs_played(takes) == [scale().id, "other"]


# planning ------------------------------------------------------------------------------------


def test_a_wish_is_kept_and_rubbish_is_the_usual(studio: Studio) -> None:
    assert kept_wish(studio) == PlanWish()
    wish = PlanWish(minutes=25, school="rotating", theme="second finger")
    keep_wish(studio, wish)
    assert kept_wish(studio) == wish
    for minutes in ("0", "1441", "x", "-5", "1e3", ""):
        studio.set_setting("plan_minutes", minutes)
        assert kept_wish(studio).minutes == 45
    studio.set_setting("plan_minutes", "1440")
    studio.set_setting("plan_school", "none")
    assert kept_wish(studio) == PlanWish(minutes=1440, school="foundation", theme="second finger")


def test_what_is_set_or_named_comes_into_the_plan(studio: Studio, session: Session) -> None:
    jigs = [replace(scale(), id=f"j{i}", title=f"Quay {'abcdefg'[i] * 3}") for i in range(6)]
    for jig in jigs:
        studio.add_jig(jig, utc=_day(1))
    takes = [_take(studio, n, 0.0, jig=jig) for n, jig in enumerate(jigs, start=1)]

    def planned(wish: PlanWish) -> list[str | None]:
        plan = plan_session(studio, session, takes, lambda _: None, wish, TODAY)
        return [i.jig_id for i in plan.items if i.part == "pitch"]

    wish = PlanWish(minutes=20)
    assert planned(wish) == ["j0"]  # played longest ago
    assert planned(replace(wish, theme="of EEE")) == ["j4"]
    studio.set_work(
        SetWork(
            id="w", player_id="p", jig_id="j5", jig_revision=1, words="", due="2026-12-01",
            good_takes=3, who="", set_utc=_day(1),
        )
    )  # fmt: skip
    assert planned(wish) == ["j5"]
    other = replace(session, player=studio.players()[1])
    plan = plan_session(studio, other, takes, lambda _: None, wish, TODAY)
    assert "j5" not in [i.jig_id for i in plan.items if i.part == "pitch"]


def test_empty_parts_get_an_exercise_that_is_not_kept_yet(studio: Studio, session: Session) -> None:
    plan = plan_session(studio, session, [], lambda _: None, PlanWish(), TODAY)
    offered = [i.jig_id for i in plan.items if i.jig_id in plan.ready]
    assert offered
    assert studio.jigs() == ()
    assert all(j.instrument_id == "violin" for j in plan.ready.values())
    cello = replace(session, instrument=next(i for i in studio.instruments() if i.id == "c"))
    other = plan_session(studio, cello, [], lambda _: None, PlanWish(), TODAY)
    assert {j.instrument_id for j in other.ready.values()} == {"cello"}
    assert (tonic_of(session), tonic_of(Session())) == (str(scale().key.tonic), "D")


# ladders -------------------------------------------------------------------------------------


def test_a_ladder_is_climbed_by_good_takes(
    studio: Studio, session: Session, reader: TakeReader
) -> None:
    studio.add_jig(scale(), utc=_day(1))
    ladder = make_ladder(
        studio, scale(), from_bpm=60, to_bpm=100, n_rungs=3, tolerance_cents=(15.0, 8.0),
        rule=PassRule(),
    )  # fmt: skip
    assert ladders_on_offer(studio) == (ladder, *READY_MADE)
    summaries = Summaries(studio, reader)

    def where(takes):
        return standing_on(studio, session, ladder, takes, summaries.now, reader.jig_of)

    assert where([]).rung == 0
    jig = rung_to_work_on(studio, session, ladder, where([]))
    assert jig.id in {j.id for j in studio.jigs()}
    assert rung_to_work_on(studio, session, ladder, where([])) == jig  # and not kept twice
    assert jig.tempo_bpm == 60.0
    takes = [_take(studio, n, 40.0, jig=jig) for n in (1, 2, 3, 4)]
    assert where(takes).rung == 0
    takes += [_take(studio, n, 1.0, jig=jig) for n in range(5, 7)]
    assert where(takes).rung == 0
    takes.append(_take(studio, 7, 1.0, jig=jig))
    assert where(takes).rung == 1
    assert rung_to_work_on(studio, session, ladder, where(takes)).tempo_bpm == 77.0
    unseen = standing_on(studio, session, ladder, takes, lambda _: None, reader.jig_of)
    assert unseen.rung == 0  # takes without figures do not count yet


def test_a_ready_ladder_stands_on_the_tonic_of_the_present_jig(
    studio: Studio, session: Session, reader: TakeReader
) -> None:
    ladder = READY_MADE[0]
    where = standing_on(studio, session, ladder, [], lambda _: None, reader.jig_of)
    jig = rung_to_work_on(studio, session, ladder, where)
    assert jig.instrument_id == "violin"
    assert jig.title
    cello = replace(session, instrument=next(i for i in studio.instruments() if i.id == "c"))
    assert rung_to_work_on(studio, cello, ladder, where).instrument_id == "cello"


# comparing -----------------------------------------------------------------------------------


def test_the_other_take_is_the_chosen_the_kept_or_the_newest(studio: Studio) -> None:
    takes = [_take(studio, n, 0.0) for n in (1, 2, 3)]
    assert to_compare_with([], "t1") is None
    assert to_compare_with(takes, None) == takes[2]
    kept = [replace(takes[0], mark="kept"), *takes[1:]]
    assert to_compare_with(kept, None) == kept[0]
    assert to_compare_with(kept, "t2") == takes[1]
    assert to_compare_with(kept, "gone") == kept[0]


def test_levels_are_compared_on_one_day_with_one_input_only(studio: Studio) -> None:
    take = _take(studio, 1, 0.0)
    assert same_place(take, replace(take, recorded_utc="2026-11-01T22:00:00Z"))
    assert not same_place(take, replace(take, recorded_utc="2026-11-02T10:00:00Z"))
    assert not same_place(take, replace(take, input_name="other"))
    late = replace(take, recorded_utc="2026-11-01T23:30:00Z", utc_offset_min=60)
    assert not same_place(take, late)  # it is tomorrow there
    assert same_place(replace(take, recorded_utc="2026-11-02T01:00:00Z", utc_offset_min=0), late)


def test_both_takes_stand_against_the_same_a(studio: Studio, reader: TakeReader) -> None:
    """The same playing, one take kept under A 445: against one A both are equally low."""
    one = _take(studio, 1, 0.0)
    two = _take(studio, 2, 0.0, a4_hz=445.0)
    view = View(a4_hz=445.0, reference="equal")
    judged = reader.judged(two, view, "notes")
    assert isinstance(judged, Judged)
    found = compare(reader, one, two, judged, view)
    assert not isinstance(found, Unmeasured)
    for pair in found[0]:
        assert pair.one_cents == pytest.approx(pair.two_cents, abs=1e-6)
        assert pair.one_cents == pytest.approx(-19.562, abs=0.01)


def test_a_take_that_was_not_heard_is_not_compared(studio: Studio, reader: TakeReader) -> None:
    two = _take(studio, 2, 0.0)
    judged = reader.judged(two, AS_PLAYED, "notes")
    assert isinstance(judged, Judged)
    deaf = keep_take(studio, "deaf", scale(), None)
    assert compare(reader, deaf, two, judged, AS_PLAYED) == Unmeasured("not_analysed")


def test_blind_takes_are_equally_loud(studio: Studio, reader: TakeReader) -> None:
    loud = keep_take(studio, "loud", scale(), heard_of(scale(), [0.0] * N, level_dbfs=-12.0))
    soft = keep_take(studio, "soft", scale(), heard_of(scale(), [0.0] * N, level_dbfs=-18.0))
    levels = (level_dbfs(reader, loud), level_dbfs(reader, soft))
    assert levels == (-12.0, -18.0)
    assert matching_gain(levels, 0) == pytest.approx(10 ** (-6 / 20))
    assert matching_gain(levels, 1) == 1.0
    assert matching_gain((-12.0, -90.0), 0) == 0.05
    assert level_dbfs(reader, keep_take(studio, "deaf", scale(), None)) == 0.0


# practising ----------------------------------------------------------------------------------


def test_tiring_work_of_the_last_twelve_hours_is_counted(
    studio: Studio, reader: TakeReader
) -> None:
    heavy = maker("plucked").make(Setting(instrument_id="violin", jig_id="pizz"))
    takes = [
        keep_take(studio, "a", heavy, None, utc="2026-11-20T07:00:00Z", duration_s=300.0),
        keep_take(studio, "b", scale(), None, utc="2026-11-20T11:00:00Z", duration_s=500.0),
        keep_take(studio, "c", heavy, None, utc="2026-11-20T12:00:00Z", duration_s=120.0),
    ]
    for hour, minutes in ((12, 7.0), (19, 7.0), (20, 2.0), (23, 2.0)):
        now = datetime(2026, 11, 20, hour, tzinfo=UTC)
        assert heavy_minutes(takes, reader.jig_of, now) == pytest.approx(minutes)
    assert heavy_minutes(takes, reader.jig_of, datetime(2026, 11, 21, 12, 1, tzinfo=UTC)) == 0.0
    assert heavy_minutes([], reader.jig_of, datetime(2026, 11, 20, tzinfo=UTC)) == 0.0


def test_where_the_last_five_takes_went_wrong(studio: Studio, reader: TakeReader) -> None:
    jig = scale()
    rows: list[list[float | None]] = [[0.0] * N for _ in range(7)]
    rows[0][2] = 40.0  # too long ago
    for k in (2, 3, 4):
        rows[k][3] = 30.0
    rows[6][5] = None
    takes = [_take(studio, n, row) for n, row in enumerate(rows, start=1)]
    trouble, n_heard = troubled_events(takes, reader, jig)
    assert n_heard == 5
    assert (trouble[3], trouble[5]) == (3, 1)
    assert 2 not in trouble
    takes.append(keep_take(studio, "deaf", jig, None, utc=_day(9)))
    assert troubled_events(takes, reader, jig)[1] == 4


def test_a_note_in_other_takes_its_first_attempt(studio: Studio, reader: TakeReader) -> None:
    takes = [_take(studio, n, float(n)) for n in (1, 2)]
    note_id = scale().events[3].heads[0].id
    past = past_of_note(note_id, list(enumerate(takes, start=7)), reader, AS_PLAYED)
    assert [(p.number, p.take_id, round(p.cents, 3)) for p in past] == [
        (7, "t1", 1.0), (8, "t2", 2.0),
    ]  # fmt: skip
    assert past_of_note("nowhere", [(1, takes[0])], reader, AS_PLAYED) == ()
    low = past_of_note(note_id, [(1, takes[0])], reader, View(a4_hz=445.0))
    assert low[0].cents == pytest.approx(1.0 - 19.562, abs=0.01)


def test_a_note_against_several_references(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio, 1, 0.0)
    judged = reader.judged(take)
    assert isinstance(judged, Judged)
    context = reader.context(take)
    third = next(n for n in judged.notes if str(n.pitch).startswith("F#"))
    rows = dict(against_references(third, scale(), context))
    assert next(iter(rows)) == "equal"
    assert rows["equal"] == pytest.approx(0.0, abs=0.01)
    assert rows["just:D"] == pytest.approx(15.64, abs=0.02)  # 13.69, and D itself 1.96
    assert rows["pythagorean"] < 0 < rows["just:D"]
    missing = replace(third, cents=None)
    assert against_references(missing, scale(), context) == ()
    free = dict(against_references(third, None, context))
    assert not any(n.startswith("just") for n in free)


# pupils --------------------------------------------------------------------------------------


def test_set_work_is_done_by_good_takes_since_it_was_set(
    studio: Studio, reader: TakeReader
) -> None:
    studio.add_jig(scale(), utc=_day(1))
    work = set_work(
        studio, "p", scale(), due=date(2026, 11, 25), good_takes=2, words="  slowly ", who="Ines ",
        utc=_day(3),
    )  # fmt: skip
    assert (work.words, work.who, work.due) == ("slowly", "Ines", "2026-11-25")
    assert studio.works() == (work,)
    summaries = Summaries(studio, reader)

    def progress(one: SetWork, today: date = TODAY):
        return progress_on(studio, one, today, summaries.now, reader.jig_of)

    for n, cents in ((1, 0.0), (2, 0.0), (4, 60.0), (5, 0.0)):
        _take(studio, n, cents)
    assert (progress(work).state, progress(work).days_left) != ("done", 5)
    assert progress(work).days_left == 5
    rows = work_rows(studio, "p", progress)
    assert [(r[0], r[2]) for r in rows] == [(work, scale().title)]
    assert still_open(rows) == rows
    _take(studio, 6, 0.0)
    assert progress(work).state == "done"
    assert still_open(work_rows(studio, "p", progress)) == ()
    assert work_rows(studio, "q", progress) == ()
    assert progress(work, date(2026, 11, 26)).days_left == -1


def test_what_was_said_of_a_jig_stands_with_it_and_with_its_spots() -> None:
    def work(n: int, jig_id: str, words: str, **changes: object) -> SetWork:
        made = SetWork(
            id=f"w{n}", player_id="p", jig_id=jig_id, jig_revision=1, words=words,
            due="2026-12-01", good_takes=3, who="Ines", set_utc=_day(n),
        )  # fmt: skip
        return replace(made, **changes)  # type: ignore[arg-type]

    jig = scale()
    works = (work(1, jig.id, "first"), work(3, jig.id, "newest"), work(2, jig.id, "second"))
    found = said_of(works, "p", jig)
    assert found is not None
    assert found.words == "newest"
    assert said_of(works, "q", jig) is None
    assert said_of(works, None, jig) is None
    assert said_of(works, "p", None) is None
    assert said_of((work(1, jig.id, "x", closed=True), work(2, jig.id, "  ")), "p", jig) is None
    spot = replace(jig, id="spot", derived_from=(jig.id, 1))
    assert said_of(works, "p", spot) == found
    assert said_of(works, "p", replace(jig, id="other")) is None


def test_pupils_with_something_due_come_first(studio: Studio, reader: TakeReader) -> None:
    studio.add_jig(scale(), utc=_day(1))
    _take(studio, 18, 0.0)
    _take(studio, 13, 0.0)
    summaries = Summaries(studio, reader)

    def rows():
        return pupil_rows(
            studio, TODAY,
            lambda w: progress_on(studio, w, TODAY, summaries.now, reader.jig_of),
        )  # fmt: skip

    first = rows()
    assert [r.player.id for r in first] == ["p", "q"]
    assert (first[0].days_ago, first[0].n_takes, first[0].n_open) == (2, 1, 0)
    assert (first[1].days_ago, first[1].n_takes, first[1].minutes) == (None, 0, 0.0)
    set_work(
        studio, "q", scale(), due=date(2026, 11, 22), good_takes=2, words="", who="", utc=_day(3)
    )
    now = rows()
    assert [r.player.id for r in now] == ["q", "p"]
    assert (now[0].n_open, now[0].next_days_left) == (1, 2)
    studio.set_work(replace(studio.works()[0], closed=True))
    assert rows()[0].player.id == "p"


def test_work_that_was_given_is_taken_in_once(studio: Studio, session: Session) -> None:
    jig = replace(scale(), id="given")
    work = SetWork(
        id="w", player_id="q", jig_id="given", jig_revision=1, words="", due="2026-12-01",
        good_takes=3, who="Ines", set_utc=_day(1),
    )  # fmt: skip
    assert (
        take_work_in(studio, WorkFile(work=work, jig=jig, for_name="Odo"), session).player
        == "Odo Weir"
    )
    assert [j.id for j in studio.jigs()] == ["given"]
    assert (
        take_work_in(studio, WorkFile(work=work, jig=jig, for_name="Odo"), session).outcome
        == "here"
    )
    strange = replace(work, id="w2", player_id="somebody")
    assert (
        take_work_in(studio, WorkFile(work=strange, jig=jig, for_name=""), session).player
        == "Nell Harbour"
    )
    nobody = replace(work, id="w3", player_id="somebody")
    found = take_work_in(
        studio, WorkFile(work=nobody, jig=jig, for_name=""), replace(session, player=None)
    )
    assert found.outcome == "nobody"
    assert {w.id: w.player_id for w in studio.works()} == {"w": "q", "w2": "p"}


# the record ----------------------------------------------------------------------------------


def test_the_record_counts_the_players_days(studio: Studio) -> None:
    takes = [
        keep_take(studio, "a", scale(), None, utc="2026-11-02T23:30:00Z", utc_offset_min=60,
                  duration_s=30.0),
        keep_take(studio, "b", scale(), None, utc="2026-11-03T09:00:00Z", utc_offset_min=60,
                  duration_s=40.0),
        keep_take(studio, "c", None, None, utc="2026-11-04T09:00:00Z", duration_s=5.0),
    ]  # fmt: skip
    note = DayNote(player_id="p", day="2026-11-01", word="dry")
    player = studio.players()[0]
    days = days_of(player, takes, [note], {scale().id: "Quay scale"}, TODAY)
    assert [d.day for d in days] == ["2026-11-20", "2026-11-04", "2026-11-03", "2026-11-01"]
    assert [(d.n_takes, d.seconds) for d in days] == [(0, 0.0), (1, 5.0), (2, 70.0), (0, 0.0)]
    assert days[2].jigs == ("Quay scale",)
    assert days[3].note == note
    assert days[0].note == DayNote(player_id="p", day="2026-11-20")


def test_everything_is_taken_along_the_bin_too(studio: Studio, reader: TakeReader) -> None:
    _take(studio, 1, 4.0)
    _take(studio, 2, 4.0)
    studio.change("bin_take", "t2", {"binned": 1})
    studio.set_day_note(DayNote(player_id="q", day="2026-11-01", word="dry"))
    summaries = Summaries(studio, reader)
    body = json.loads(everything(studio, summaries.now))
    text = json.dumps(body)
    assert '"t1"' in text
    assert '"t2"' in text
    assert "Odo Weir" in text
    assert '"dry"' in text


# the report ----------------------------------------------------------------------------------


def test_a_report_says_what_was_played_in_its_days(studio: Studio, reader: TakeReader) -> None:
    takes = [_take(studio, n, 40.0 if n < 4 else 2.0, duration_s=90.0) for n in range(1, 7)]
    other = replace(scale(), id="other", title="Quay")
    takes.append(_take(studio, 8, 0.0, jig=other, duration_s=30.0))
    takes.append(keep_take(studio, "free", None, None, utc=_day(9), duration_s=60.0))
    notes = [
        DayNote(player_id="p", day=f"2026-11-{n:02d}", next_time=f"words {n}") for n in range(1, 6)
    ]
    summaries = Summaries(studio, reader)
    summaries.make(takes)
    titles = {scale().id: "Scale", "other": "Quay"}
    days = days_of(studio.players()[0], takes, notes, titles, TODAY)

    def report(first: str = "", last: str = "9999-12-31"):
        return make_report(
            days, takes, titles, reader,
            lambda jig_id: trend(takes, summaries, jig_id, "off_cents"), first=first, last=last,
        )  # fmt: skip

    whole = report()
    assert [d.day for d in whole.days][:2] == ["2026-11-09", "2026-11-08"]
    assert whole.minutes == round((6 * 90 + 30 + 60) / 60)
    assert whole.newest is not None
    assert (whole.newest.take.id, whole.newest.title) == ("t8", "Quay")  # free playing has no jig
    assert whole.newest.strings == studio.instruments()[1].strings
    assert whole.next_words == ("words 5", "words 4", "words 3")
    assert [(t.title, len(t.points)) for t in whole.trends] == [("Scale", 6)]  # one point is none
    assert whole.newest.instrument == ""  # nobody said what it is called
    assert whole.set_work == ()
    part = report("2026-11-02", "2026-11-03")
    assert [d.day for d in part.days] == ["2026-11-03", "2026-11-02"]
    assert part.newest is not None
    assert part.newest.take.id == "t3"
    assert part.next_words == ("words 3", "words 2")
    nothing = report("2027-01-01", "2027-01-02")
    assert (nothing.days, nothing.minutes, nothing.newest, nothing.next_words) == ((), 0, None, ())


def test_a_report_has_ten_days_and_says_nothing_of_a_take_that_was_not_heard(
    studio: Studio, reader: TakeReader
) -> None:
    takes = [keep_take(studio, f"d{n}", scale(), None, utc=_day(n)) for n in range(1, 14)]
    days = days_of(studio.players()[0], takes, [], {}, TODAY)
    made = make_report(days, takes, {}, reader, lambda _: [])
    assert len(made.days) == 10
    assert made.days[0].day == "2026-11-13"
    assert (made.newest, made.trends) == (None, ())


def test_a_report_names_the_instrument_and_what_was_set(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio, 1, 4.0)
    works = [
        SetWork(
            id=f"w{k}", player_id="p", jig_id=scale().id, jig_revision=1, words="slowly",
            due="2026-11-20", good_takes=3, who="Odo", set_utc="2026-11-01T00:00:00Z",
        )
        for k in range(6)
    ]  # fmt: skip
    progress = [
        Progress(n_good=0, n_takes=1, days_left=9, state="done" if k == 0 else "open")
        for k in range(6)
    ]
    rows = [(w, p, f"title {k}") for k, (w, p) in enumerate(zip(works, progress, strict=True))]
    made = make_report(
        [], [take], {}, reader, lambda _: [], work=rows,
        instruments={take.instrument_id: "Tern", "other": "Gull"},
    )  # fmt: skip
    assert made.newest is not None
    assert made.newest.instrument == "Tern"
    assert [title for _, _, title in made.set_work] == ["title 1", "title 2", "title 3"]
