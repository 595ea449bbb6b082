"""What is kept of people and practice: put, changed, taken away, undone; rubbish is survived."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator
from dataclasses import replace
from itertools import count
from pathlib import Path

import pytest

from jigwright.audio.files import SndFiles
from jigwright.core.errors import StoreError
from jigwright.core.judge.ladder import Ladder, PassRule, Rung
from jigwright.core.judge.work import SetWork
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import DayNote, OwnedInstrument, Player, Remark
from jigwright.store.opening import open_studio
from jigwright.store.people import drop_player_rows, owned_row
from jigwright.store.practice import ladder_text, read_ladder
from jigwright.store.studio import DATABASE
from signals import scale, take_record

DAY = "2026-11-03"


@pytest.fixture
def studio(tmp_path: Path) -> Iterator:  # type: ignore[type-arg]
    made = open_studio(tmp_path / "studio")
    made.add_player(Player(id="p", name="Nell Harbour"))
    made.add_instrument(
        OwnedInstrument(id="i", name="", kind="viola", strings=instrument("viola").strings)
    )
    yield made
    made.close()


def test_a_string_check_replaces_the_earlier_one_of_its_day(studio) -> None:
    d4, g3 = Pitch.parse("D4"), Pitch.parse("G3")
    studio.set_string_check("i", DAY, {d4: 293.0, g3: 195.9})
    studio.set_string_check("i", DAY, {d4: 293.6})
    assert studio.string_check("i", DAY) == {d4: 293.6}
    assert studio.string_check("i", "2026-11-04") == {}
    assert studio.string_check("another", DAY) == {}
    studio.undo()  # the checks of a day are one operation
    assert studio.string_check("i", DAY) == {}
    studio.redo()
    assert studio.string_check("i", DAY) == {d4: 293.6}


def test_strings_that_cannot_be_are_left_out(studio) -> None:
    studio.set_string_check("i", DAY, {Pitch.parse("D4"): 293.0})
    with sqlite3.connect(studio.folder / DATABASE) as raw:
        raw.execute("INSERT INTO string_check VALUES ('i', ?, 'A4', 0.0)", (DAY,))
        raw.execute("INSERT INTO string_check VALUES ('i', ?, 'C3', 'loud')", (DAY,))
    assert studio.string_check("i", DAY) == {Pitch.parse("D4"): 293.0}


def test_the_lane_that_was_liked_and_the_longest_bow(studio) -> None:
    assert studio.contact("i", "D4") is None
    studio.set_contact("i", "D4", 2, DAY)
    studio.set_contact("i", "D4", 1, DAY)
    assert (studio.contact("i", "D4"), studio.contact("i", "G3")) == (1, None)
    assert studio.best_bow_s("i") == 0.0
    studio.set_best_bow("i", 31.5, DAY)
    assert studio.best_bow_s("i") == 31.5
    studio.set_best_bow("i", 95.0, DAY)
    assert studio.best_bow_s("i") == 95.0
    studio.set_best_bow("i", 9e9, DAY)  # nobody bows for an hour
    assert studio.best_bow_s("i") == 0.0


def test_answers_of_the_ear_are_counted_for_each_player(studio) -> None:
    for right in (True, False, True):
        studio.add_ear_answer("p", right=right)
    assert studio.ear_score("p") == (2, 3)
    assert studio.ear_score("nobody") == (0, 0)


@pytest.mark.parametrize(
    ("kind", "strings", "length", "known", "n", "mm"),
    [
        ("cello", "C2 G2 D3 A3", 690.0, "cello", 4, 690.0),
        ("bass", "B0 E1 A1 D2 G2", None, "bass", 5, None),
        ("lute", "", 50.0, "violin", 4, None),
        ("viola", "C3 G3 D4 A4", "long", "viola", 4, None),
        ("viola", "C3 G3 D4 A4", 5000.0, "viola", 4, None),
    ],
)
def test_an_instrument_is_read_whatever_stands_there(kind, strings, length, known, n, mm) -> None:
    owned = owned_row("i", "x", kind, strings, length)
    assert (owned.kind, len(owned.strings), owned.string_length_mm) == (known, n, mm)


@pytest.mark.fails_on_purpose
def test_strings_that_cannot_be_read_are_the_usual_ones() -> None:
    assert owned_row("i", "", "cello", "C2 H#9").strings == instrument("cello").strings


def test_an_empty_note_of_a_day_goes_and_comes_back_by_undo(studio) -> None:
    late, early = DayNote(player_id="p", day=DAY, word="warm"), DayNote(
        player_id="p", day="2026-11-01", liking=4, word="wry"
    )  # fmt: skip
    studio.set_day_note(late)
    studio.set_day_note(early)
    assert studio.day_notes("p") == (early, late)
    studio.set_day_note(replace(late, word=""))
    assert studio.day_notes("p") == (early,)
    studio.undo()
    assert studio.day_notes("p") == (early, late)
    for field in ("word", "notes", "next_time"):
        kept = DayNote(player_id="p", day="2026-11-09", **{field: "x"})
        studio.set_day_note(kept)
        assert kept in studio.day_notes("p")


def test_remarks_stand_in_order_of_time_and_go_without_words(studio, tmp_path: Path) -> None:
    jig = scale()
    studio.add_jig(jig, utc="2026-11-01T10:00:00Z")
    sound = tmp_path / "a.wav"
    SndFiles().write_wav(sound, [0.0] * 4800, 48_000)
    studio.add_take(take_record("t", jig, utc="2026-11-02T10:00:00Z", seconds=0.1), sound, None)
    one = Remark(id="b", take_id="t", note_id=None, at_s=2.0, who="", words="lean", utc="1")
    two = Remark(id="a", take_id="t", note_id="n3", at_s=1.0, who="Ada", words="low", utc="2")
    studio.set_remark(one)
    studio.set_remark(two)
    assert studio.remarks("t") == (two, one)
    studio.set_remark(replace(one, words="lean in"))
    assert studio.remarks("t")[1].words == "lean in"
    studio.set_remark(replace(two, words=""))
    assert [r.id for r in studio.remarks("t")] == ["b"]


def test_work_is_in_order_of_its_day_and_can_be_taken_back(studio) -> None:
    studio.add_jig(scale(), utc="2026-11-01T10:00:00Z")
    work = SetWork(
        id="w", player_id="p", jig_id=scale().id, jig_revision=1, words="slowly",
        due="2026-11-20", good_takes=3, who="Ada", set_utc="2026-11-01T10:00:00Z", closed=False,
    )  # fmt: skip
    sooner = replace(work, id="z", due="2026-11-10", closed=True)
    studio.set_work(work)
    studio.set_work(sooner)
    assert studio.works() == (sooner, work)
    studio.remove_work("w")
    assert studio.works() == (sooner,)
    studio.undo()
    assert studio.works() == (sooner, work)


LADDER = Ladder(
    id="l",
    title="Up",
    heavy=True,
    jig=("j", 2),
    rule=PassRule(),
    rungs=(Rung(maker_id="scale", values={}, tempo_bpm=60.0, tolerance_cents=10.0),),
)


def test_a_ladder_is_read_as_it_was_kept() -> None:
    assert read_ladder(json.loads(ladder_text(LADDER))) == LADDER
    assert read_ladder(json.loads(ladder_text(replace(LADDER, jig=None)))).jig is None
    with pytest.raises((KeyError, TypeError, ValueError)):
        read_ladder({"id": "l"})


@pytest.mark.fails_on_purpose
def test_ladders_keep_their_order_when_changed_and_a_spoiled_one_stops_no_other(studio) -> None:
    minutes = count()
    studio._clock = lambda: f"2026-11-01T10:{next(minutes):02d}:00Z"
    studio.set_ladder(LADDER)
    studio.set_ladder(replace(LADDER, id="m", title="Down"))
    studio.set_ladder(replace(LADDER, title="Higher"))
    assert [x.title for x in studio.ladders()] == ["Higher", "Down"]
    with sqlite3.connect(studio.folder / DATABASE) as raw:
        raw.execute("UPDATE ladder SET body = '{' WHERE id = 'l'")
    assert [x.title for x in studio.ladders()] == ["Down"]
    studio.remove_ladder("m")
    assert studio.ladders() == ()


def test_a_revision_of_a_jig_is_kept_for_good(studio) -> None:
    jig = scale()
    studio.add_jig(jig, utc="2026-11-01T10:00:00Z")
    studio.add_jig(jig, utc="2026-11-02T10:00:00Z")  # the same again: nothing to do
    assert studio.jig(jig.id, jig.revision) == jig
    with pytest.raises(StoreError):
        studio.add_jig(replace(jig, title="Another"), utc="2026-11-02T10:00:00Z")
    newer = replace(jig, revision=jig.revision + 1, title="Newer")
    studio.add_jig(newer, utc="2026-11-03T10:00:00Z")
    assert studio.jigs() == (newer,)
    assert studio.jig(jig.id, jig.revision) == jig
    with pytest.raises(StoreError, match="revision 9"):
        studio.jig(jig.id, 9)


def test_what_belongs_to_nobody_is_left_out(studio) -> None:
    studio.set_contact("i", "D4", 1, DAY)
    studio.add_ear_answer("p", right=True)
    with sqlite3.connect(studio.folder / DATABASE) as raw:
        raw.execute("PRAGMA foreign_keys = OFF")
        raw.execute("INSERT INTO ear_score VALUES ('gone', 1, 1)")
        raw.execute("INSERT INTO best_bow VALUES ('gone', 10.0, ?)", (DAY,))
        assert drop_player_rows(raw) == 2
        assert drop_player_rows(raw) == 0
    assert studio.ear_score("p") == (1, 1)
    assert studio.contact("i", "D4") == 1
