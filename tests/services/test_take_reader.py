"""One way from a take to a judgement: the same inputs give the same answer, others another."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from aim_builders import change, stroke
from jigwright.core.follow.align import Pin
from jigwright.core.isolation import FAILED
from jigwright.core.jig.aims import OWN_BEST, Aim
from jigwright.core.judge.analysis import Judged
from jigwright.core.music.pitch import Pitch
from jigwright.core.values import Unmeasured
from jigwright.services import take_reader
from jigwright.services.take_reader import AS_PLAYED, NOT_HEARD, TakeReader, View, judge_heard
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio


@pytest.fixture
def studio(studio_copy: Path) -> Iterator[Studio]:
    studio = open_studio(studio_copy)
    yield studio
    studio.close()


@pytest.fixture
def reader(studio: Studio) -> TakeReader:
    return TakeReader(studio)


def _whole(judged: Judged | Unmeasured) -> Judged:
    assert isinstance(judged, Judged)
    return judged


def _take(studio: Studio, take_id: str = "t3"):
    return next(t for t in studio.takes() if t.id == take_id)


def _cents(judged: Judged | Unmeasured) -> list[float]:
    return [round(n.cents or 0.0, 6) for n in _whole(judged).notes]


def test_another_a_moves_every_figure_and_only_while_it_is_asked_for(
    studio: Studio, reader: TakeReader
) -> None:
    take = _take(studio)
    as_played = _cents(reader.judged(take))
    higher = _cents(reader.judged(take, View(a4_hz=445.0)))
    assert all(
        h - p == pytest.approx(-19.56, abs=0.02) for h, p in zip(higher, as_played, strict=True)
    )
    assert _cents(reader.judged(take)) == as_played
    for depth in ("pitches", "notes", "whole"):
        assert _cents(reader.judged(take, View(a4_hz=445.0), depth)) == pytest.approx(higher)


def test_two_takes_are_held_against_the_same(studio: Studio, reader: TakeReader) -> None:
    """Compared after A was changed, both move: 0.00 and -19.57 cents was said of equal takes."""
    one, two = _take(studio, "t0"), _take(studio, "t0")
    before = [_cents(reader.judged(t, AS_PLAYED, "notes"))[0] for t in (one, two)]
    after = [_cents(reader.judged(t, View(a4_hz=445.0), "notes"))[0] for t in (one, two)]
    assert before[0] == before[1]
    assert after[0] == after[1] != before[0]


@pytest.mark.parametrize(
    ("view", "same"),
    [(View(), True), (View(a4_hz=440.0), True), (View(a4_hz=441.0), False),
     (View(reference="pythagorean"), False), (View(tolerance_cents=60.0), False),
     (View(tolerance_cents=10.0), True), (View(reference="equal"), True)],
)  # fmt: skip
def test_every_part_of_a_view_counts(
    studio: Studio, reader: TakeReader, view: View, same: bool
) -> None:
    take = _take(studio)
    first, second = _whole(reader.judged(take)), _whole(reader.judged(take, view))
    told = [(n.cents, n.standing) for n in first.notes]
    assert ([(n.cents, n.standing) for n in second.notes] == told) is same
    assert (first is second) is same  # nothing is judged twice


def test_depths(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio)
    pitches, notes, whole = (
        _whole(reader.judged(take, AS_PLAYED, d)) for d in ("pitches", "notes", "whole")
    )
    assert [n.standing for n in pitches.notes] == [n.standing for n in whole.notes]
    assert pitches.notes[0].measured.level == Unmeasured("not_needed")
    assert notes.notes[0].measured.level == whole.notes[0].measured.level
    assert (pitches.playing, notes.playing) == (None, None)
    assert whole.playing is not None
    assert whole.findings
    assert notes.findings == pitches.findings == ()
    first = _whole(reader.first_look(take))
    assert first.notes[0].measured.level == Unmeasured("not_yet")
    assert [n.cents for n in first.notes] == [n.cents for n in whole.notes]
    assert first.playing is None


def test_corrections_by_hand_count_at_once(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio)
    note = _whole(reader.judged(take)).notes[3]
    assert note.measured.lined.i_event == 3
    studio.set_corrections(take.id, (Pin(at_s=note.measured.segment.onset_s, i_event=None),))
    for depth in ("pitches", "notes", "whole"):
        states = [
            n.measured.lined.state for n in _whole(reader.judged(take, AS_PLAYED, depth)).notes
        ]
        assert "extra" in states
    assert len(studio.corrections(take.id)) == 1
    studio.set_corrections(take.id, ())
    assert "extra" not in [n.measured.lined.state for n in _whole(reader.judged(take)).notes]


def test_strings_checked_that_day_count_at_once(studio: Studio, reader: TakeReader) -> None:
    take = replace(_take(studio), reference="ring")
    before = _cents(reader.judged(take))
    studio.set_string_check("i", take.day.isoformat(), {Pitch.parse("D4"): 300.0})
    assert studio.string_check("i", take.day.isoformat()) == {Pitch.parse("D4"): 300.0}
    assert reader.context(take).checked_hz == {Pitch.parse("D4"): 300.0}
    assert _cents(reader.judged(take)) != before
    other_day = replace(take, recorded_utc="2026-10-01T10:00:00Z")
    assert reader.context(other_day).checked_hz == {}


def test_what_is_heard_anew_is_judged_anew(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio)
    assert len(reader.landings(take)) == 15
    heard = studio.heard(take.id)
    shorter = replace(heard, segments=heard.segments[:5], duration_s=heard.duration_s - 1.0)
    studio.set_heard(take.id, shorter)
    assert sum(n.cents is not None for n in reader.landings(take)) == 5
    assert sum(n.cents is not None for n in _whole(reader.judged(take)).notes) == 5
    assert len(reader.heard(take).segments) == 5


def test_earlier_takes_make_habits(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio)
    before = reader.before(take)
    assert [t.id for t in before] == ["t0", "t1", "t2"]
    assert reader.before(_take(studio, "t0")) == ()
    alone = {f.id for f in _whole(reader.judged(take)).findings}
    together = {f.id for f in _whole(reader.judged(take, before=before)).findings}
    assert "note_habit" in together - alone
    past = reader.past(before)
    assert {p.take_id for p in past} == {"t0", "t1", "t2"}
    assert len(past) == 45
    moved = reader.past(before, View(a4_hz=445.0))
    assert moved[0].cents - past[0].cents == pytest.approx(-19.56, abs=0.02)


def test_a_take_that_was_not_heard_says_so(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio)
    studio._db.execute("DELETE FROM segment WHERE take_id = 't3'")
    studio._db.execute("DELETE FROM heard WHERE take_id = 't3'")
    assert reader.judged(take) == NOT_HEARD
    assert reader.judged(take, AS_PLAYED, "notes") == NOT_HEARD
    assert reader.landings(take) == ()
    assert reader.strokes(take) == ()
    assert reader.heard(take) is None
    assert reader.playing(take) == NOT_HEARD


@pytest.mark.fails_on_purpose
def test_what_raises_is_a_refusal_and_never_an_error(
    studio: Studio, reader: TakeReader, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError

    take = _take(studio)
    for name in ("judge_take", "line_up", "measure_playing", "judge"):
        monkeypatch.setattr(take_reader, name, broken)
    fresh = TakeReader(studio)
    assert fresh.judged(take) == FAILED
    assert fresh.first_look(take) == FAILED
    assert fresh.landings(take) == ()
    assert fresh.pitches(take).notes == ()
    monkeypatch.undo()
    assert len(_whole(reader.judged(take)).notes) == 15


def test_a_jig_or_instrument_that_has_gone_is_no_error(studio: Studio, reader: TakeReader) -> None:
    take = replace(_take(studio), jig_id="gone", jig_revision=3, instrument_id="gone")
    assert reader.jig_of(take) is None
    assert reader.kind_of(take) == "violin"
    assert isinstance(reader.judged(take), Judged)
    assert reader.jig_of(replace(take, jig_id=None)) is None


def test_the_same_recipe_for_a_sound_that_was_just_heard(
    studio: Studio, reader: TakeReader
) -> None:
    take = _take(studio)
    heard, jig = reader.heard(take), reader.jig_of(take)
    judged, _ = judge_heard(heard, jig, reader.context(take))
    stored = _whole(reader.judged(take))
    assert [n.cents for n in judged.notes] == [n.cents for n in stored.notes]
    assert repr(judged.findings) == repr(stored.findings)
    assert repr(judged.playing) == repr(stored.playing)


def test_what_is_remembered_is_bounded(studio: Studio, reader: TakeReader) -> None:
    take = _take(studio)
    for k in range(60):
        reader.judged(take, View(a4_hz=420.0 + 0.5 * k))
    assert len(reader._deep) <= 24
    assert _cents(reader.judged(take)) == _cents(TakeReader(studio).judged(take))


# what is asked --------------------------------------------------------------------------------


def _aims(judged: Judged | Unmeasured) -> list[tuple[str, float | None]]:
    return [(r.aim.kind, r.limit) for r in _whole(judged).aims]


def test_a_finished_take_is_held_against_other_aims_only_while_it_is_asked(
    studio: Studio, reader: TakeReader
) -> None:
    take = _take(studio)
    as_played = _aims(reader.judged(take))
    asked = View(aims=(Aim(kind="every_note"),))
    assert [kind for kind, _ in _aims(reader.judged(take, asked))] == ["every_note"]
    assert _aims(reader.judged(take)) == as_played != [("every_note", 0.0)]
    gone = View(aims=(Aim(kind="pitch", places=("nowhere",)),))
    assert _aims(reader.judged(take, gone)) == as_played, "it is asked for what is marked"
    assert _cents(reader.judged(take, asked)) == _cents(reader.judged(take))


def test_the_own_best_is_that_of_earlier_takes_of_this_exercise(
    studio: Studio, reader: TakeReader, monkeypatch: pytest.MonkeyPatch
) -> None:
    seconds = {"t0": 5.0, "t1": 9.0, "t2": 4.0, "t3": 30.0}

    def bow(take):
        strokes = [stroke(0, way, seconds=seconds[take.id]) for way in ("down", "up")]
        return tuple(strokes), ()

    monkeypatch.setattr(reader, "bow", bow)
    asked = View(aims=(Aim(kind="duration", way=OWN_BEST), Aim(kind="duration")))

    def limits(take_id: str) -> list[float | None]:
        return [limit for _, limit in _aims(reader.judged(_take(studio, take_id), asked))]

    own, written = limits("t0")
    assert own == written, "nothing was played before"
    own, written = limits("t3")
    assert own == pytest.approx(0.9 * 9.0)
    assert written == limits("t0")[1]
    studio.change("bin_take", "t1", {"binned": 1})
    assert limits("t3")[0] == pytest.approx(0.9 * 5.0)


@pytest.mark.parametrize(("tail_s", "counts"), [(0.02, True), (0.2, False), (float("nan"), False)])
def test_a_room_of_an_earlier_take_makes_no_best_of_the_holes(
    studio: Studio, reader: TakeReader, monkeypatch: pytest.MonkeyPatch,
    tail_s: float, counts: bool,
) -> None:  # fmt: skip
    filled = tuple(change(i, way, gap_ms=1.0) for way in ("down", "up") for i in range(1, 5))
    monkeypatch.setattr(reader, "bow", lambda _: ((), filled))
    monkeypatch.setattr(take_reader, "room_tail_s", lambda _: tail_s)
    aims = (Aim(kind="bow_change", way=OWN_BEST),)
    (found,) = _whole(reader.judged(_take(studio), View(aims=aims))).aims
    assert found.limit == pytest.approx(6.0 if counts else 60.0)
