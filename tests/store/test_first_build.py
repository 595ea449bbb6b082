"""Studios made by the first build open, lose nothing, and can be taken back and done again."""

from __future__ import annotations

import gzip
import json
import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from jigwright.core.follow.align import Pin
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import Beside, Liking
from jigwright.store.moving import move_settings
from jigwright.store.opening import open_studio
from jigwright.store.schema import VERSION
from jigwright.store.side_notes import jig_path, read_note
from jigwright.store.studio import Studio

FIRST = Path(__file__).with_name("first_build")
ADDED = {
    "segment": (0.0, 0.0, 0.0, 0, 0, 0, 0, None, 0.0),
    "remark": (None,),
}  # columns that came later, and what they hold of old takes
MOVED = (
    "pins:t0", "pins:t1", "blind:t2", "blind:t3", "strings:i", "strings:i:2026-11-12",
    "strings:i:2026-11-13", "drone:t0", "clicks:t2", "loop:pulse:0", "contact:i:D4", "slowest:i",
    "ear_score", "plan", "input:i", "exchange_seen", "ladders",
)  # fmt: skip
STAY = {"drone:t3": "rubbish", "pins:gone": "[[0.1, 1]]"}


def _rows(folder: Path) -> dict[str, list[tuple[Any, ...]]]:
    db = sqlite3.connect(f"{(folder / 'studio.db').as_uri()}?mode=ro", uri=True)
    tables = [r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    found = {}
    for table in tables:
        columns = [r[1] for r in db.execute(f"PRAGMA table_info({table})")]
        if table == "instrument":
            columns = [c for c in columns if c != "string_length_mm"]
        rows = db.execute(f"SELECT {', '.join(columns)} FROM {table}")
        found[table] = sorted(rows.fetchall(), key=repr)
    db.close()
    return found


@pytest.fixture
def made(tmp_path: Path) -> Callable[[str], Path]:
    def make(name: str) -> Path:
        folder = tmp_path / name
        folder.mkdir()
        db = sqlite3.connect(folder / "studio.db")
        db.executescript(gzip.decompress((FIRST / f"{name}.sql.gz").read_bytes()).decode())
        for take_id, audio in db.execute("SELECT id, audio FROM take").fetchall():
            (folder / audio).parent.mkdir(parents=True, exist_ok=True)
            (folder / audio).write_bytes(f"the sound of {take_id}".encode())
        db.close()
        return folder

    return make


@pytest.mark.parametrize("name", ["demo", "worn"])
def test_row_by_row_nothing_is_lost(made: Callable[[str], Path], name: str) -> None:
    folder = made(name)
    before = _rows(folder)
    open_studio(folder).close()
    after = _rows(folder)
    for table, rows in before.items():
        if table in ("setting", "sqlite_sequence"):
            continue
        added = ADDED.get(table, ())
        assert after[table] == sorted((row + added for row in rows), key=repr), table
    was, now = dict(before["setting"]), dict(after["setting"])
    for key, value in was.items():
        if key not in MOVED:
            assert now[key] == value
    assert _rows_of_copy(folder) == before
    open_studio(folder).close()
    assert _rows(folder) == after  # once more changes nothing


def _rows_of_copy(folder: Path) -> dict[str, list[tuple[Any, ...]]]:
    copy = folder / f"studio-before-v{VERSION}.db"
    other = folder / "copy"
    other.mkdir()
    copy.rename(other / "studio.db")
    return _rows(other)


def test_facts_have_tables_of_their_own(made: Callable[[str], Path]) -> None:
    folder = made("worn")
    studio = open_studio(folder)
    left = dict(studio._db.execute("SELECT name, value FROM setting").fetchall())
    assert not set(MOVED) & set(left)
    assert {k: left[k] for k in STAY} == STAY
    assert studio.corrections("t0") == (Pin(at_s=0.5, i_event=1), Pin(at_s=1.25, i_event=None))
    assert studio.corrections("t1") == (Pin(at_s=0.75, i_event=0),)
    assert studio.choice("t2") == Liking(
        take_id="t2", against_id="t0", liked_id="t2", utc="2026-11-20T10:09:00Z"
    )
    assert studio.choice("t3") == Liking(
        take_id="t3", against_id="t0", liked_id=None, utc="2026-11-20T10:10:00Z"
    )
    strings = {"G3": 195.8, "D4": 293.4, "A4": 440.1, "E5": 659.9}
    assert studio.string_check("i", "2026-11-12") == {Pitch.parse(s): f for s, f in strings.items()}
    assert studio.string_check("i", "2026-11-13") == {Pitch.parse("A4"): 439.2}
    assert studio.beside("t0") == Beside(drone_hz=(220.0, 330.0))
    assert studio.beside("t2").clicks == (0.25, 72.0)
    assert studio.beside("t3") == Beside()
    assert studio.input_delay("pulse:0") == (0.043, 0.002)
    assert studio.contact("i", "D4") == 2
    assert studio.best_bow_s("i") == 21.5
    assert studio.ear_score("p") == (7, 9)
    assert studio.seen_files() == {"a.take.zip:120", "b.work.zip:77"}
    assert [(one.id, len(one.rungs)) for one in studio.ladders()] == [("own-1", 3)]
    assert (left["plan_minutes"], left["plan_school"], left["plan_theme"]) == (
        "25", "rotating", "second finger",
    )  # fmt: skip
    assert (left["input_id:i"], left["input_name:i"]) == ("pulse:0", "Reef")
    assert {t.id for t in studio.takes(binned=True)} == {"t1"}
    assert [r.words for r in studio.remarks("t0")] == ["Lean into this one."]
    assert [w.closed for w in studio.works()] == [True, False]
    assert studio.day_notes("p")[0].next_time == "Warm up."
    studio.close()


def test_what_the_first_build_did_is_taken_back_and_done_again(
    made: Callable[[str], Path],
) -> None:
    folder = made("worn")

    def marks(studio: Studio) -> list[tuple[str, str, bool]]:
        both = (*studio.takes(), *studio.takes(binned=True))
        return sorted((t.id, t.mark, t.binned) for t in both)

    studio = open_studio(folder)
    now = marks(studio)
    names = []
    for redo in (False, True):
        while True:
            studio.close()
            studio = open_studio(folder)
            changed = studio.redo() if redo else studio.undo()
            if changed is None:
                break
            names.append((changed.by, changed.name))
        if not redo:
            assert all(mark == "" and not binned for _, mark, binned in marks(studio))
    undone = [n for by, n in names if by == "undo"]
    redone = [n for by, n in names if by == "redo"]
    assert undone == ["restore_take", "bin_take", "bin_take", "set_mark"]
    # the mark that had been taken back before comes last
    assert redone == [*undone[::-1], "set_mark"]
    assert [m for m in marks(studio) if m not in now] == [("t3", "kept", False)]
    studio.close()


def test_every_sound_gets_its_note(made: Callable[[str], Path]) -> None:
    folder = made("worn")
    studio = open_studio(folder)
    for take in (*studio.takes(), *studio.takes(binned=True)):
        note = read_note(studio.audio_path(take))
        assert note is not None
        assert (note.take.id, note.take.jig_id, note.take.a4_hz) == (
            take.id, take.jig_id, take.a4_hz,
        )  # fmt: skip
        assert note.player.name == {"p": "Wenna Larch", "q": "Tomas Quill"}[take.player_id]
        assert note.owned.name == "“Gull”"
    jig = studio.jigs()[0]
    assert jig_path(folder, jig.id, jig.revision).is_file()
    studio.close()


@pytest.mark.parametrize(
    ("key", "value"),
    [("pins:t0", '[[0.5, "x"]]'), ("pins:t0", "[0.5]"), ("pins:nobody", "[[0.5, 1]]"),
     ("strings:i:2026-11-12", '{"day": "2026-11-12", "hz": {"H9": 1}}'),
     ("strings:i", '{"day": "x", "hz": {}}'), ("blind:t0", '{"against": 3, "liked": null}'),
     ("clicks:t0", '{"first_s": 1}'), ("loop:a", "[1]"), ("ladders", "[{}]"),
     ("plan", '{"minutes": 0}'), ("input:i", '["a"]'), ("exchange_seen", "[3]"),
     ("contact:i:D4", '{"lane": "x", "day": ""}'), ("slowest:nobody", '{"seconds": 3}'),
     ("ear_score", '["a", 1]'), ("drone:t0", "[NaN]"), ("mended", "{}"), ("theme", "dark")],
)  # fmt: skip
def test_what_cannot_be_read_stays_where_it_lies(
    made: Callable[[str], Path], key: str, value: str
) -> None:
    folder = made("worn")
    db = sqlite3.connect(folder / "studio.db")
    db.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (key, value))
    db.commit()
    db.close()
    studio = open_studio(folder)
    left = dict(studio._db.execute("SELECT name, value FROM setting").fetchall())
    assert left[key] == value
    assert studio.corrections("t1") == (Pin(at_s=0.75, i_event=0),)  # the others move all the same
    studio.close()


def test_a_half_moved_fact_is_not_half_there(made: Callable[[str], Path]) -> None:
    folder = made("worn")
    db = sqlite3.connect(folder / "studio.db")
    bad = json.dumps([[0.5, 1], [0.75, "x"]])
    db.execute("INSERT OR REPLACE INTO setting VALUES ('pins:t0', ?)", (bad,))
    db.commit()
    db.close()
    studio = open_studio(folder)
    assert studio.corrections("t0") == ()
    move_settings(studio._db)
    assert studio.corrections("t0") == ()
    assert studio.setting("pins:t0") == bad
    studio.close()
