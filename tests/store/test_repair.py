"""A damaged studio: what other pages, notes and sounds still hold comes back; losses are said."""

from __future__ import annotations

import json
import shutil
import sqlite3
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jigwright.core.errors import StoreError
from jigwright.core.follow.align import Pin
from jigwright.core.judge.work import SetWork
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import DayNote, Remark
from jigwright.store.opening import open_studio
from jigwright.store.pages import PagedFile
from jigwright.store.repair import Loss, Mended, repair_studio
from jigwright.store.salvage import TABLES
from jigwright.store.schema import APPLICATION_ID, VERSION
from jigwright.store.side_notes import note_path, read_jig_notes, read_note
from jigwright.store.studio import Studio
from jigwright.wording.mending import mended_sentence
from signals import scale, take_record

UTC = "2026-11-20T10:00:00Z"
PAGE = 4096


@pytest.fixture
def written(studio_copy: Path) -> Path:
    """A studio with a few words in every table, its log folded in."""
    studio = open_studio(studio_copy)
    for i in range(40):
        studio.set_remark(
            Remark(
                id=f"r{i}", take_id=f"t{i % 4}", note_id=None, at_s=float(i), who="Ines Brandt",
                words=f"Remark number {i}: " + "lean into it " * 12, utc=UTC,
            )
        )  # fmt: skip
    for i in range(30):
        studio.set_day_note(
            DayNote(player_id="p", day=f"2026-10-{i + 1:02d}", word="dry", notes="n" * 150)
        )
    studio.set_work(
        SetWork(
            id="w", player_id="p", jig_id="scale-violin", jig_revision=1, words="Slowly",
            due="2026-12-01", good_takes=3, who="Ines", set_utc=UTC,
        )
    )  # fmt: skip
    studio.change("set_mark", "t1", {"mark": "kept"})
    studio.set_corrections("t0", (Pin(at_s=0.5, i_event=2),))
    studio.set_string_check("i", "2026-11-02", {Pitch.parse("A4"): 441.0})
    studio.close()
    _fold(studio_copy)
    return studio_copy


def _fold(folder: Path) -> Path:
    db = sqlite3.connect(folder / "studio.db")
    db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    db.execute("PRAGMA journal_mode = DELETE")
    db.close()
    return folder / "studio.db"


def _spoil(database: Path, pages: range, seed: int = 0) -> None:
    """Write rubbish over pages of a database, counted from 0."""
    data = bytearray(database.read_bytes())
    rng = np.random.default_rng(seed)
    for page in pages:
        data[page * PAGE : (page + 1) * PAGE] = rng.bytes(PAGE)
    database.write_bytes(data)


def _kinds(mended: Mended) -> set[str]:
    return {loss.kind for loss in mended.losses}


def _rows(studio: Studio) -> dict[str, int]:
    return {
        "takes": len(studio.takes()),
        "with jig": sum(t.jig_id is not None for t in studio.takes()),
        "remarks": sum(len(studio.remarks(f"t{i}")) for i in range(4)),
        "days": len(studio.day_notes("p")), "works": len(studio.works()),
    }  # fmt: skip


@pytest.mark.parametrize("span", [(0.5, 0.6), (0.8, 1.0), (0.3, 0.45), (0.0, 1.0)])
def test_a_damaged_studio_is_mended_as_far_as_it_can_be_read(
    studio_copy: Path, span: tuple[float, float]
) -> None:
    database = _fold(studio_copy)
    n = database.stat().st_size // PAGE
    _spoil(database, range(int(span[0] * n), int(span[1] * n)))
    before = database.read_bytes()
    mended = repair_studio(studio_copy)
    assert (studio_copy / mended.copy).read_bytes() == before
    studio = open_studio(studio_copy)
    takes = studio.takes()
    assert [t.id for t in takes] == ["t0", "t1", "t2", "t3"]
    assert len(takes) == mended.kept["take"]
    assert studio.check() == []
    for take in takes:  # the note beside each sound says who, what, when
        assert (take.player_id, take.jig_id, take.recorded_utc[:8]) == (
            "p", "scale-violin", "2026-11-",
        )  # fmt: skip
    assert studio.jigs() == (scale(),)
    words = mended_sentence(*mended.figures)
    assert str(mended.kept["take"]) in words
    assert mended.copy in words
    studio.close()


def test_page_by_page_almost_everything_comes_back(written: Path, tmp_path: Path) -> None:
    """Each page of the database in turn: sounds, takes and jigs always, words of other pages."""
    n_pages = (written / "studio.db").stat().st_size // PAGE
    studio = open_studio(written)
    whole = _rows(studio)
    studio.close()
    assert whole == {"takes": 4, "with jig": 4, "remarks": 40, "days": 30, "works": 1}
    _fold(written)
    least_remarks = least_days = 99
    for page in range(n_pages):
        folder = tmp_path / f"page{page}"
        shutil.copytree(written, folder)
        _spoil(folder / "studio.db", range(page, page + 1), page)
        mended = repair_studio(folder)
        studio = open_studio(folder)
        now = _rows(studio)
        assert (now["takes"], now["with jig"]) == (4, 4), page
        assert studio.check() == []
        if now != whole:
            assert mended.losses, page
        if page:  # the first holds where every table begins
            least_remarks = min(least_remarks, now["remarks"])
            least_days = min(least_days, now["days"])
        else:
            assert now["remarks"] == 40
        studio.close()
        shutil.rmtree(folder)
    assert least_remarks >= 20  # a leaf holds so many
    assert least_days >= 5


def test_leaves_whose_tree_is_lost_are_read(written: Path) -> None:
    database = written / "studio.db"
    db = sqlite3.connect(database)
    root = db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'remark'").fetchone()[0]
    db.close()
    _spoil(database, range(root - 1, root))
    mended = repair_studio(written)
    assert mended.kept["remark"] == 40
    assert "unreadable" in _kinds(mended)
    studio = open_studio(written)
    assert studio.remarks("t1")[0].words.startswith("Remark number 1:")
    assert studio.undo() is None  # a history that may have a hole takes nothing back
    studio.close()
    assert "no_undo" in _kinds(mended)


def test_what_was_deleted_is_not_dug_up(written: Path) -> None:
    studio = open_studio(written)
    for i in range(40):
        studio.set_remark(
            Remark(id=f"r{i}", take_id="t0", note_id=None, at_s=0.0, who="", words="", utc=UTC)
        )
    studio.settle()
    studio.close()
    database = _fold(written)
    assert PagedFile(database).free_pages()
    db = sqlite3.connect(database)
    root = db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'remark'").fetchone()[0]
    db.close()
    _spoil(database, range(root - 1, root))
    assert repair_studio(written).kept["remark"] == 0


def test_pages_are_read_as_the_engine_reads_them(written: Path) -> None:
    database = written / "studio.db"
    db = sqlite3.connect(database)
    file = PagedFile(database)
    assert file.page_size == PAGE
    assert file.n_pages * PAGE == database.stat().st_size
    for table in ("remark", "jig", "take", "segment", "setting", "day_note"):
        root = db.execute("SELECT rootpage FROM sqlite_master WHERE name = ?", (table,)).fetchone()[
            0
        ]
        found = dict(r for leaf in file.leaves_below(root) for r in file.rows(leaf))
        rows = db.execute(f"SELECT rowid, * FROM {table}").fetchall()
        assert {r[0]: tuple(r[1:]) for r in rows} == found
        assert rows or table == "setting"
    db.close()


def test_any_value_survives_the_page(tmp_path: Path) -> None:
    db = sqlite3.connect(tmp_path / "a.db")
    db.execute("CREATE TABLE a (one, two, three)")
    numbers = [
        s * (1 << n) - d for n in (0, 7, 15, 23, 31, 47, 62) for s in (1, -1) for d in (0, 1)
    ]
    rows = [(n, n / 3.0, "ö" * (abs(n) % 9)) for n in numbers]
    rows += [(None, b"\x00\xff", "x" * 5000), (0, 1, "y" * 20_000), (1, -1, "")]
    db.executemany("INSERT INTO a VALUES (?, ?, ?)", rows)
    db.commit()
    root = db.execute("SELECT rootpage FROM sqlite_master").fetchone()[0]
    db.close()
    file = PagedFile(tmp_path / "a.db")
    found = dict(r for leaf in file.leaves_below(root) for r in file.rows(leaf))
    assert [found[i + 1] for i in range(len(rows))] == rows


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=3 * PAGE), st.booleans())
def test_any_bytes_are_read_without_trouble(
    tmp_path_factory: pytest.TempPathFactory, data: bytes, header: bool
) -> None:
    path = tmp_path_factory.mktemp("p") / "a.db"
    path.write_bytes((b"SQLite format 3\x00" if header else b"") + data)
    file = PagedFile(path)
    file.free_pages()
    file.leaves_below(1)
    for number in range(1, file.n_pages + 1):
        list(file.rows(number))


def test_a_row_is_put_where_it_can_only_belong(written: Path) -> None:
    """Two tables of the same shape, both damaged: nothing is guessed."""
    database = written / "studio.db"
    data = database.read_bytes()
    db = sqlite3.connect(database)
    roots = dict(db.execute("SELECT name, rootpage FROM sqlite_master WHERE type = 'table'"))
    db.close()
    leaf = PagedFile(database).page(roots["player"])
    orphan = bytearray(data) + bytearray(leaf)  # a leaf of players that no tree leads to
    orphan[28:32] = (len(orphan) // PAGE).to_bytes(4, "big")
    database.write_bytes(orphan)
    _spoil(database, range(roots["player"] - 1, roots["player"]))
    one = written.parent / "one"
    shutil.copytree(written, one)
    assert repair_studio(one).kept["player"] == 1
    studio = open_studio(one)
    assert [p.name for p in studio.players()] != ["?"]
    studio.close()
    _spoil(database, range(roots["setting"] - 1, roots["setting"]))
    repair_studio(written)
    studio = open_studio(written)
    assert len(studio.players()) == 1
    studio.close()


# what lies beside -----------------------------------------------------------------------------


def test_a_take_comes_back_from_its_sound_and_its_note(written: Path) -> None:
    studio = open_studio(written)
    was = {t.id: t for t in studio.takes()}
    studio.close()
    db = sqlite3.connect(written / "studio.db")
    for table in ("take", "player", "instrument", "heard", "segment", "jig", "remark"):
        db.execute(f"DELETE FROM {table}")
    db.commit()
    db.close()
    mended = repair_studio(written)
    assert mended.n_of("from_note") == 4
    assert mended.n_of("to_hear_again") == 4
    assert mended.n_of("from_sound", "no_sound", "no_jig", "stand_in") == 0
    studio = open_studio(written)
    for take in studio.takes():
        assert take == replace(was[take.id], mark="")
        assert studio.jig(take.jig_id or "", take.jig_revision or 0) == scale()
    assert [p.name for p in studio.players()] == [p.name for p in studio.players() if p.name != "?"]
    studio.close()


def test_a_take_without_a_note_comes_back_from_its_sound(written: Path) -> None:
    studio = open_studio(written)
    sounds = [studio.audio_path(t) for t in studio.takes()]
    studio.close()
    note_path(sounds[0]).unlink()
    note_path(sounds[1]).write_text("{")
    db = sqlite3.connect(written / "studio.db")
    for table in ("remark", "correction", "segment", "heard", "take"):
        db.execute(f"DELETE FROM {table}")
    db.commit()
    db.close()
    mended = repair_studio(written)
    assert (mended.n_of("from_sound"), mended.n_of("from_note")) == (2, 2)
    studio = open_studio(written)
    alone = next(t for t in studio.takes() if t.id == "t0")
    assert (alone.jig_id, alone.player_id, alone.source_name) == (None, "p", sounds[0].name)
    assert studio.check() == []
    studio.close()


def test_each_loss_is_said(written: Path) -> None:
    studio = open_studio(written)
    sound = studio.audio_path(studio.takes()[0])
    studio.close()
    sound.unlink()
    db = sqlite3.connect(written / "studio.db")
    db.execute("UPDATE take SET jig_id = 'gone' WHERE id = 't1'")
    db.execute("UPDATE take SET player_id = 'stranger' WHERE id = 't2'")
    db.execute("UPDATE remark SET take_id = 'nowhere' WHERE id IN ('r0', 'r1')")
    db.execute("INSERT INTO jig VALUES ('bad', 1, 'bad', '{', '')")
    db.execute("DELETE FROM segment WHERE take_id = 't3' AND i = 2")
    db.commit()
    db.close()
    mended = repair_studio(written)
    assert set(mended.losses) == {
        Loss(kind="no_sound", subject="t0"), Loss(kind="no_jig", subject="t1"),
        Loss(kind="stand_in", subject="player stranger"), Loss(kind="orphans", subject="", n=2),
        Loss(kind="bad_jig", subject="bad 1"), Loss(kind="to_hear_again", subject="", n=1),
        Loss(kind="no_undo", subject="journal"),
    }  # fmt: skip
    lines = mended_sentence(*mended.figures).split("\n")
    assert len(lines) == 2 + 7
    for word in ("t0", "t1", "player stranger", "2 entries", "bad 1", "One take is heard anew"):
        assert any(word in line for line in lines), word


def test_mending_a_sound_studio_loses_nothing(written: Path) -> None:
    studio = open_studio(written)
    before = (studio.takes(), studio.jigs(), studio.players(), studio.heard("t1").segments)
    with pytest.raises(StoreError, match="locked"):
        repair_studio(written)  # it is open
    studio.close()
    mended = repair_studio(written)
    assert mended.losses == ()
    studio = open_studio(written)
    after = (studio.takes(), studio.jigs(), studio.players(), studio.heard("t1").segments)
    assert after == before
    assert studio.undo() is not None  # its history is whole
    studio.close()
    with pytest.raises(StoreError, match="missing"):
        repair_studio(written / "nothing")


def test_a_silent_take_and_one_not_heard_yet_are_no_damage(written: Path, tmp_path: Path) -> None:
    from builders import heard

    source = tmp_path / "a.wav"
    source.write_bytes(b"x")
    studio = open_studio(written)
    studio.add_take(take_record("silent", scale(), seconds=9.0), source, heard([]))
    studio.add_take(take_record("waits", scale(), seconds=9.0), source, None)
    studio.close()
    mended = repair_studio(written)
    assert mended.losses == (Loss(kind="to_hear_again", subject="", n=1),)
    studio = open_studio(written)
    silent = studio.heard("silent")
    assert silent is not None
    assert silent.segments == ()
    assert studio.undo() is not None  # nothing is lost: its history is whole
    studio.close()


def test_an_older_studio_is_mended_to_the_present(tmp_path: Path) -> None:
    import gzip

    folder = tmp_path / "old"
    folder.mkdir()
    dump = Path(__file__).with_name("first_build") / "worn.sql.gz"
    db = sqlite3.connect(folder / "studio.db")
    db.executescript(gzip.decompress(dump.read_bytes()).decode())
    for take_id, audio in db.execute("SELECT id, audio FROM take").fetchall():
        (folder / audio).parent.mkdir(parents=True, exist_ok=True)
        (folder / audio).write_bytes(f"the sound of {take_id}".encode())
    db.close()
    mended = repair_studio(folder)
    assert not _kinds(mended) - {"to_hear_again", "no_undo"}
    studio = open_studio(folder)
    assert studio.corrections("t1") == (Pin(at_s=0.75, i_event=0),)
    assert studio.string_check("i", "2026-11-13") == {Pitch.parse("A4"): 439.2}
    assert len(studio.works()) == 2
    studio.close()


@pytest.mark.parametrize(
    ("version", "owner", "refused"),
    [(VERSION + 1, APPLICATION_ID, True), (VERSION, APPLICATION_ID, False),
     (VERSION + 1, 7, False), (VERSION + 5000, APPLICATION_ID, False)],
)  # fmt: skip
def test_a_newer_studio_is_not_mended(
    written: Path, version: int, owner: int, refused: bool
) -> None:
    db = sqlite3.connect(written / "studio.db")
    db.execute(f"PRAGMA user_version = {version}")
    db.execute(f"PRAGMA application_id = {owner}")
    db.close()
    before = (written / "studio.db").read_bytes()
    if refused:
        with pytest.raises(StoreError, match="newer"):
            repair_studio(written)
        assert (written / "studio.db").read_bytes() == before
        assert not list(written.glob("studio-damaged-*"))
    else:
        assert repair_studio(written).kept["take"] == 4


def test_a_second_refusal_makes_no_second_copy(written: Path) -> None:
    database = written / "studio.db"
    _spoil(database, range(1, 9))
    for _ in range(3):
        with pytest.raises(StoreError, match="damaged"):
            open_studio(written)
    assert [p.name for p in written.glob("studio-damaged-*")] == ["studio-damaged-1.db"]
    _spoil(database, range(1, 10), seed=9)
    with pytest.raises(StoreError, match="damaged"):
        open_studio(written)
    assert len(list(written.glob("studio-damaged-*"))) == 2
    assert repair_studio(written).copy == "studio-damaged-2.db"


def test_mending_reaches_nothing_outside(written: Path, tmp_path: Path) -> None:
    other = tmp_path / "precious.wav"
    other.write_bytes(b"not ours")
    db = sqlite3.connect(written / "studio.db")
    db.execute("UPDATE take SET audio = ? WHERE id = 't0'", (f"../{other.name}",))
    db.commit()
    db.close()
    (written / "audio" / "2026" / "linked.wav").symlink_to(other)
    mended = repair_studio(written)
    assert Loss(kind="no_sound", subject="t0") in mended.losses
    studio = open_studio(written)
    assert all("linked" not in t.audio for t in studio.takes())
    assert len(studio.takes()) == 5  # the sound of t0 came back under another name
    studio.close()
    assert other.read_bytes() == b"not ours"


def test_every_table_is_poured(written: Path) -> None:
    db = sqlite3.connect(written / "studio.db")
    there = {r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    db.close()
    assert there - {"sqlite_sequence"} == set(TABLES)


# notes beside sounds ----------------------------------------------------------------------------


def test_a_note_says_who_played_what(written: Path) -> None:
    studio = open_studio(written)
    take = studio.takes()[1]
    note = read_note(studio.audio_path(take))
    assert note is not None
    assert note.take == replace(take, audio="", mark="", sha256=take.sha256)
    assert (note.player, note.owned) == (studio.players()[0], studio.instruments()[0])
    assert read_jig_notes(written)[0][:2] == ("scale-violin", 1)
    studio.close()


@pytest.mark.parametrize(
    "spoil",
    [lambda b: {**b, "schema": "x"}, lambda b: {**b, "take": 3}, lambda b: {**b, "player": {}},
     lambda b: [b], lambda b: {**b, "instrument": {**b["instrument"], "kind": "kazoo"}},
     lambda b: {**b, "take": {**b["take"], "id": "../x"}},
     lambda b: {**b, "take": {**b["take"], "jig_revision": None}},
     lambda b: {**b, "take": {**b["take"], "a4_hz": 1e9}},
     lambda b: {**b, "instrument": {**b["instrument"], "string_length_mm": 5.0}}],
)  # fmt: skip
def test_a_note_that_is_none_says_nothing(written: Path, spoil) -> None:
    studio = open_studio(written)
    sound = studio.audio_path(studio.takes()[0])
    studio.close()
    body = json.loads(note_path(sound).read_text())
    assert read_note(sound) is not None
    note_path(sound).write_text(json.dumps(spoil(body)))
    assert read_note(sound) is None


def test_a_note_is_not_written_over(studio_copy: Path, tmp_path: Path) -> None:
    """Somebody's file of that name beside the sounds is not ours to cover."""
    studio = open_studio(studio_copy)
    mine = studio_copy / "audio" / "2026" / "new.json"
    mine.write_text("mine")
    source = tmp_path / "a.wav"
    source.write_bytes(b"x")
    kept = studio.add_take(take_record("new", scale()), source, None)
    assert mine.read_text() == "mine"
    assert read_note(studio.audio_path(kept)) is not None
    studio.close()


def test_links_are_not_backed_up(studio_copy: Path, tmp_path: Path) -> None:
    secret = tmp_path / "secret"
    secret.mkdir()
    (secret / "a.txt").write_text("private")
    (studio_copy / "audio" / "out").symlink_to(secret)
    (studio_copy / "recording").symlink_to(secret)
    studio = open_studio(studio_copy)
    studio.backup(tmp_path / "copy")
    studio.close()
    assert not list((tmp_path / "copy").rglob("a.txt"))
    assert (tmp_path / "copy" / "jigs").is_dir()
