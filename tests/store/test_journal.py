"""Every change a player can make is taken back and done again, across restarts."""

from __future__ import annotations

import itertools
import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.errors import StoreError
from jigwright.core.follow.align import Pin
from jigwright.core.jig.model import revise
from jigwright.core.judge.ladder import Ladder, PassRule, own_ladder
from jigwright.core.judge.work import SetWork
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import (
    Changed,
    DayNote,
    Liking,
    OwnedInstrument,
    Player,
    Remark,
)
from jigwright.store.journal import read_step, without_take
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio
from jigwright.wording.undoing import operation_name, replayed_sentence
from signals import scale, take_record

UTC = "2026-11-20T10:00:00Z"
REMARK = Remark(id="r", take_id="t0", note_id=None, at_s=1.0, who="Ines", words="Lean.", utc=UTC)
WORK = SetWork(
    id="w", player_id="p", jig_id="scale-violin", jig_revision=1, words="Slowly", due="2026-12-01",
    good_takes=3, who="Ines", set_utc=UTC,
)  # fmt: skip
DAY = DayNote(player_id="p", day="2026-11-20", word="dry", liking=2)
A, D = Pitch.parse("A4"), Pitch.parse("D4")


def _ladder(name: str = "own", *, bpm: float = 60.0) -> Ladder:
    return own_ladder(
        name, scale(), from_bpm=bpm, to_bpm=90.0, n_rungs=3, tolerance_cents=(12.0, 8.0),
        rule=PassRule(),
    )  # fmt: skip


def _seen(studio: Studio) -> tuple[object, ...]:
    """Everything a player can see of a studio."""
    takes = sorted((*studio.takes(), *studio.takes(binned=True)), key=lambda t: t.id)
    return (
        takes, studio.players(), studio.instruments(), studio.jigs(), studio.works(),
        studio.ladders(), studio.day_notes("p"),
        [(studio.remarks(t.id), studio.corrections(t.id), studio.choice(t.id)) for t in takes],
        studio.string_check("i", "2026-11-20"), studio.contact("i", "D4"),
    )  # fmt: skip


CHANGES: dict[str, tuple[str, Callable[[Studio], object]]] = {
    "mark": ("set_mark", lambda s: s.change("set_mark", "t1", {"mark": "kept"})),
    "bin": ("bin_take", lambda s: s.change("bin_take", "t2", {"binned": 1})),
    "correct": (
        "correct",
        lambda s: s.set_corrections(
            "t0", (Pin(at_s=0.5, i_event=2), Pin(at_s=1.5, i_event=None))
        ),
    ),
    "correct less": ("correct", lambda s: s.set_corrections("t0", (Pin(at_s=0.5, i_event=3),))),
    "no corrections": ("correct", lambda s: s.set_corrections("t0", ())),
    "choose": (
        "choose",
        lambda s: s.set_choice(Liking(take_id="t1", against_id="t0", liked_id="t1", utc=UTC)),
    ),
    "choose none": (
        "choose",
        lambda s: s.set_choice(Liking(take_id="t1", against_id="t0", liked_id=None, utc=UTC)),
    ),
    "remark": ("remark", lambda s: s.set_remark(REMARK)),
    "other words": ("remark", lambda s: s.set_remark(replace(REMARK, words="Less."))),
    "no words": ("remark", lambda s: s.set_remark(replace(REMARK, words=""))),
    "work": ("work", lambda s: s.set_work(WORK)),
    "work closed": ("work", lambda s: s.set_work(replace(WORK, closed=True))),
    "work back": ("work", lambda s: s.remove_work("w")),
    "day": ("day", lambda s: s.set_day_note(DAY)),
    "day empty": ("day", lambda s: s.set_day_note(replace(DAY, word="", liking=0))),
    "player": ("player", lambda s: s.add_player(Player(id="n", name="Nell"))),
    "rename": ("player", lambda s: s.add_player(Player(id="p", name="Somebody else"))),
    "instrument": (
        "instrument",
        lambda s: s.add_instrument(
            OwnedInstrument(
                id="i", name="“Gull”", kind="violin", strings=instrument("violin").strings,
                string_length_mm=327.5,
            )
        ),
    ),
    "jig": ("jig", lambda s: s.add_jig(revise(scale(), tempo_bpm=90.0), utc=UTC)),
    "strings": ("strings", lambda s: s.set_string_check("i", "2026-11-20", {A: 441.0, D: 294.0})),
    "fewer strings": ("strings", lambda s: s.set_string_check("i", "2026-11-20", {A: 440.5})),
    "ladder": ("ladder", lambda s: s.set_ladder(_ladder())),
    "ladder changed": ("ladder", lambda s: s.set_ladder(_ladder(bpm=50.0))),
    "ladder gone": ("ladder", lambda s: s.remove_ladder("own")),
    "contact": ("contact", lambda s: s.set_contact("i", "D4", 3, "2026-11-20")),
}  # fmt: skip


@pytest.mark.parametrize("change", CHANGES)
def test_each_change_is_taken_back_and_done_again_after_a_restart(
    studio_copy: Path, change: str
) -> None:
    name, make = CHANGES[change]
    studio = open_studio(studio_copy)
    if change.split()[-1] in ("gone", "back", "closed", "empty", "words", "changed", "corrections"):
        for before in ("correct", "remark", "work", "day", "ladder"):
            CHANGES[before][1](studio)
        studio.settle()
    was = _seen(studio)
    make(studio)
    now = _seen(studio)
    assert now != was
    for by, expected in (("undo", was), ("redo", now), ("undo", was)):
        studio.close()
        studio = open_studio(studio_copy)
        changed = studio.undo() if by == "undo" else studio.redo()
        assert changed is not None
        assert (changed.name, changed.by) == (name, by)
        assert _seen(studio) == expected
    assert studio.undo() is None
    assert operation_name(name) in replayed_sentence(changed.name, redo=False)
    assert operation_name(name) != operation_name("unheard of")
    studio.close()


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(sorted(CHANGES)), min_size=1, max_size=12))
def test_any_row_of_changes_is_taken_back_step_by_step(
    tmp_path_factory: pytest.TempPathFactory, row: list[str]
) -> None:
    folder = tmp_path_factory.mktemp("j")
    studio = open_studio(folder)
    studio.add_player(Player(id="p", name="Wenna"))
    studio.add_instrument(
        OwnedInstrument(id="i", name="a", kind="violin", strings=instrument("violin").strings)
    )
    studio.add_jig(scale(), utc=UTC)
    source = folder / "a.wav"
    source.write_bytes(b"x")
    for i in range(3):
        studio.add_take(take_record(f"t{i}", scale()), source, None)
    studio.settle()
    states = [_seen(studio)]
    for change in row:
        CHANGES[change][1](studio)
        if _seen(studio) != states[-1]:
            if _joins(studio, states):
                states[-1] = _seen(studio)
            else:
                states.append(_seen(studio))
    for state in states[-2::-1]:
        assert studio.undo() is not None
        assert _seen(studio) == state
    assert studio.undo() is None
    for state in states[1:]:
        assert studio.redo() is not None
        assert _seen(studio) == state
    assert studio.redo() is None
    studio.close()


def _joins(studio: Studio, states: list[tuple[object, ...]]) -> bool:
    """Whether the last change became part of the step before it: a check that goes on."""
    n = studio._db.execute("SELECT COUNT(*) FROM journal").fetchone()[0]
    return bool(n < len(states))


def test_a_check_of_the_strings_is_one_step_while_it_goes_on(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    studio.set_string_check("i", "2026-11-19", {A: 439.0})
    studio.set_string_check("i", "2026-11-20", {A: 441.0})
    studio.set_string_check("i", "2026-11-20", {A: 440.6, D: 294.0})
    studio.set_string_check("i", "2026-11-20", {A: 440.1})
    assert studio.string_check("i", "2026-11-20") == {A: 440.1}
    assert studio.undo() is not None
    assert studio.string_check("i", "2026-11-20") == {}
    assert studio.string_check("i", "2026-11-19") == {A: 439.0}
    assert studio.redo() is not None
    assert studio.string_check("i", "2026-11-20") == {A: 440.1}
    assert studio.undo() is not None
    assert studio.undo() is not None
    assert studio.string_check("i", "2026-11-19") == {}
    studio.close()


def test_nothing_different_is_no_step(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    told: list[Changed] = []
    studio.watch(told.append)
    studio.change("set_mark", "t0", {"mark": ""})
    studio.remove_work("nobody's")
    studio.set_corrections("t0", ())
    assert told == []
    assert studio.undo() is None
    studio.close()


def test_a_new_change_ends_what_could_be_done_again(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    studio.set_remark(REMARK)
    studio.undo()
    studio.set_work(WORK)
    assert studio.redo() is None
    assert studio.remarks("t0") == ()
    studio.close()


def test_whoever_watches_is_told_what_became_different(studio_copy: Path, tmp_path: Path) -> None:
    studio = open_studio(studio_copy)
    told: list[Changed] = []
    stop = studio.watch(told.append)
    studio.set_remark(REMARK)
    assert told[-1] == Changed(
        what=frozenset({"remarks"}), take_ids=frozenset({"t0"}), name="remark"
    )
    studio.undo()
    assert told[-1].by == "undo"
    assert told[-1].take_ids == {"t0"}  # though nothing is left of it
    studio.redo()
    assert told[-1].by == "redo"
    studio.set_work(WORK)
    assert (told[-1].what, told[-1].take_ids) == ({"works"}, frozenset())
    source = tmp_path / "a.wav"
    source.write_bytes(b"x")
    studio.add_take(take_record("new", scale()), source, None)
    assert (told[-1].what, told[-1].take_ids) == ({"takes"}, {"new"})
    heard = studio.heard("t0")
    assert heard is not None
    studio.set_heard("t0", heard)
    assert (told[-1].what, told[-1].take_ids) == ({"heard"}, {"t0"})
    n = len(told)
    stop()
    studio.set_setting("a", "b")
    assert len(told) == n
    studio.close()


def test_what_takes_were_built_on_stays(studio_copy: Path, tmp_path: Path) -> None:
    """Undo never breaks a take: who played it cannot be taken back any more."""
    studio = open_studio(studio_copy)
    studio.add_player(Player(id="n", name="Nell"))
    studio.add_player(Player(id="unused", name="Nobody"))
    source = tmp_path / "a.wav"
    source.write_bytes(b"x")
    studio.add_take(replace(take_record("new", scale()), player_id="n"), source, None)
    assert studio.undo() is not None
    assert {p.id for p in studio.players()} >= {"n"}
    assert "unused" not in {p.id for p in studio.players()}
    assert studio.undo() is None
    studio.close()


def test_a_second_window_takes_nothing_back(studio_copy: Path) -> None:
    first = open_studio(studio_copy)
    first.set_remark(REMARK)
    second = open_studio(studio_copy)
    with pytest.raises(StoreError, match="locked"):
        second.undo()
    assert len(second.remarks("t0")) == 1
    second.close()
    first.close()


def _plant(studio: Studio, text: str) -> None:
    """Put a step into the journal as if somebody had written it."""
    studio._db.execute(
        "INSERT INTO journal (utc, operation, inverse) VALUES ('', ?, ?)", (text, text)
    )


@pytest.mark.parametrize(
    "text",
    ["", "{", "[]", "{}", '{"name": "a"}', '{"name": "a", "rows": [["take"]]}',
     '{"name": "a", "rows": [["nothing", {"id": 1}, {}]]}',
     '{"name": "a", "rows": [["take", {"mark": 1}, {}]]}', '{"name": "a", "take": 3}'],
)  # fmt: skip
def test_a_step_that_cannot_be_read_is_refused(studio_copy: Path, text: str) -> None:
    with pytest.raises(StoreError, match="journal"):
        read_step(text)
    studio = open_studio(studio_copy)
    studio._db.execute(
        "INSERT INTO journal (utc, operation, inverse) VALUES ('', ?, ?)", (text,) * 2
    )
    was = _seen(studio)
    with pytest.raises(StoreError, match="damaged"):
        studio.undo()
    assert _seen(studio) == was
    studio.close()


def test_a_step_writes_only_columns_there_are(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    text = json.dumps({"name": "a", "rows": [["take", {"id": "t0"}, {"mark = 'x' --": 1}]]})
    studio._db.execute(
        "INSERT INTO journal (utc, operation, inverse) VALUES ('', ?, ?)", (text,) * 2
    )
    with pytest.raises(StoreError, match="no such columns"):
        studio.undo()
    studio.close()


def test_steps_of_the_first_build_are_read() -> None:
    old = json.dumps({"name": "set_mark", "take": "t1", "values": {"mark": "kept"}})
    assert read_step(old) == ("set_mark", [("take", {"id": "t1"}, {"mark": "kept"})])


def test_a_step_loses_only_what_is_gone_for_good() -> None:
    rows = [["remark", {"id": "r"}, {"take_id": "t1"}], ["work", {"id": "w"}, None]]
    text = json.dumps({"name": "a", "rows": rows})
    left = without_take(text, "t1")
    assert left is not None
    assert json.loads(left)["rows"] == rows[1:]
    assert without_take(text, "t") == without_take(text, "other")
    assert without_take(json.dumps({"name": "a", "rows": rows[:1]}), "t1") is None


# the bin ----------------------------------------------------------------------------------


def test_the_bin_is_emptied_of_everything_of_its_takes(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    for change in ("correct", "remark", "choose", "work"):
        CHANGES[change][1](studio)
    studio.keep_summaries({t.id: ("a", "{}") for t in studio.takes()})
    kept = studio.takes()[2:]
    for take_id in ("t0", "t1"):
        studio.change("bin_take", take_id, {"binned": 1})
    sounds = [studio.audio_path(t) for t in studio.takes(binned=True)]
    notes = [s.with_suffix(".json") for s in sounds]
    curves = list((studio_copy / "heard").glob("t[01].*"))
    assert len(curves) == 2
    assert all(p.is_file() for p in (*sounds, *notes))
    assert [t.id for t in studio.takes(binned=True)] == ["t0", "t1"]
    assert studio.empty_bin() == 2
    assert studio.takes(binned=True) == ()
    assert not any(p.exists() for p in (*sounds, *notes, *curves))
    assert studio.takes() == kept
    assert studio.check() == []
    assert [c.name for c in iter(studio.undo, None)] == ["work"]
    assert studio.empty_bin() == 0
    studio.close()


def test_what_was_cut_is_not_offered_again_after_the_bin(studio_copy: Path) -> None:
    from jigwright.services.records import CutFrom

    studio = open_studio(studio_copy)
    sound = studio.audio_path(studio.takes()[0])
    cut = CutFrom(recording="r", start_s=1.0, stop_s=4.0)
    studio.add_take(take_record("cut", scale()), sound, None, cut=cut)
    studio.change("bin_take", "cut", {"binned": 1})
    studio.empty_bin()
    assert studio.cut_spans("r") == ((1.0, 4.0),)
    studio.close()


def test_an_emptied_bin_reaches_nothing_outside(studio_copy: Path, tmp_path: Path) -> None:
    other = tmp_path / "precious.wav"
    other.write_bytes(b"not ours")
    studio = open_studio(studio_copy)
    studio._db.execute("UPDATE take SET audio = ? WHERE id = 't0'", (str(other),))
    studio._db.execute("UPDATE heard SET contours = ? WHERE take_id = 't0'", (str(other),))
    studio.change("bin_take", "t0", {"binned": 1})
    assert studio.heard("t0") is None
    assert studio.empty_bin() == 1
    assert other.read_bytes() == b"not ours"
    studio.close()


def test_newer_curves_take_the_place_of_older_ones(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    heard = studio.heard("t0")
    assert heard is not None
    for version, n in itertools.product((900, 901), (1, 1)):
        studio.set_heard("t0", replace(heard, method_version=version))
        assert len(list((studio_copy / "heard").glob("t0.*"))) == n
    again = studio.heard("t0")
    assert again is not None
    assert (again.method_version, again.segments) == (901, heard.segments)
    assert len(list((studio_copy / "heard").glob("t1.*"))) == 1
    studio.close()
