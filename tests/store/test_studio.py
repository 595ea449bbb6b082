from __future__ import annotations

import errno
import os
import re
import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from jigwright.core.errors import StoreError
from jigwright.core.jig.model import revise
from jigwright.core.sound.heard import METHOD_VERSION, BowTurn, Segment, Speech
from jigwright.services.records import Changed, CutFrom
from jigwright.store import files as store
from jigwright.store.files import file_name
from jigwright.store.heard_tables import HeardTables
from jigwright.store.opening import open_studio
from jigwright.store.schema import MIGRATIONS, VERSION
from signals import scale, take_record

UTC = "2026-11-20T10:00:00Z"


def test_what_was_kept_comes_back(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    takes = studio.takes(jig_id="scale-violin")
    assert [t.id for t in takes] == ["t0", "t1", "t2", "t3"]
    heard = studio.heard("t0")
    assert heard is not None
    assert len(heard.segments) == 15
    assert len(heard.contours) > 1000
    assert not heard.contours.f0_hz.flags.writeable
    assert studio.jig("scale-violin", 1) == scale()
    assert studio.check() == []
    studio.close()


def test_sound_is_kept_byte_for_byte(studio_copy: Path, tmp_path: Path) -> None:
    source = tmp_path / "odd name.WAV"
    source.write_bytes(os.urandom(100_000))
    studio = open_studio(studio_copy)
    kept = studio.add_take(take_record("new", None), source, None)
    assert studio.audio_path(kept).read_bytes() == source.read_bytes()
    assert studio.heard("new") is None
    studio.audio_path(kept).write_bytes(b"other")
    assert studio.check() == [f"sound changed: {kept.audio}"]
    studio.close()


def _name(changed: Changed | None) -> str | None:
    return changed.name if changed is not None else None


def test_undo_and_redo_survive_a_restart(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    studio.change("bin_take", "t1", {"binned": 1})
    studio.change("set_mark", "t2", {"mark": "kept"})
    studio.close()
    studio = open_studio(studio_copy)
    assert [t.id for t in studio.takes()] == ["t0", "t2", "t3"]
    assert _name(studio.undo()) == "set_mark"
    assert _name(studio.undo()) == "bin_take"
    assert studio.undo() is None
    assert len(studio.takes()) == 4
    assert _name(studio.redo()) == "bin_take"
    assert studio.empty_bin() == 1
    assert not list((studio_copy / "audio").rglob("t1*"))
    assert studio.undo() is None
    assert studio.check() == []
    studio.close()


def test_only_known_operations(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    with pytest.raises(ValueError, match="unknown operation"):
        studio.change("drop", "t1", {"binned": 1})
    with pytest.raises(ValueError, match="unknown operation"):
        studio.change("set_take", "t1", {"id = 'x' --": 1})
    with pytest.raises(StoreError, match="no_take"):
        studio.change("set_mark", "nobody", {"mark": ""})
    studio.close()


def test_a_second_window_only_reads(studio_copy: Path) -> None:
    first = open_studio(studio_copy)
    second = open_studio(studio_copy)
    assert not first.read_only
    assert second.read_only
    assert len(second.takes()) == 4
    with pytest.raises(StoreError, match="locked"):
        second.set_setting("a", "b")
    second.close()
    first.close()
    third = open_studio(studio_copy)
    assert not third.read_only
    third.close()


def test_a_damaged_database_is_refused_and_copied_aside(studio_copy: Path) -> None:
    database = studio_copy / "studio.db"
    damaged = bytearray(database.read_bytes())
    damaged[4096 : 4096 * 6] = os.urandom(4096 * 5)
    database.write_bytes(damaged)
    with pytest.raises(StoreError) as caught:
        open_studio(studio_copy)
    assert caught.value.reason == "damaged"
    assert database.read_bytes() == bytes(damaged)
    assert (studio_copy / "studio-damaged-1.db").read_bytes() == bytes(damaged)
    database.write_bytes(b"this is no database at all, but long enough" * 100)
    with pytest.raises(StoreError, match="damaged"):
        open_studio(studio_copy)


def test_other_folders_and_newer_versions_are_left_alone(tmp_path: Path, studio_copy: Path) -> None:
    other = tmp_path / "music"
    other.mkdir()
    (other / "song.txt").write_text("la")
    with pytest.raises(StoreError, match="not_a_studio"):
        open_studio(other)
    with pytest.raises(StoreError, match="missing"):
        open_studio(tmp_path / "nowhere", create=False)
    foreign = sqlite3.connect(other / "studio.db")
    foreign.execute("CREATE TABLE a (b)")
    foreign.commit()
    foreign.close()
    with pytest.raises(StoreError, match="not_a_studio"):
        open_studio(other)
    newer = sqlite3.connect(studio_copy / "studio.db")
    newer.execute(f"PRAGMA user_version = {VERSION + 1}")
    newer.close()
    with pytest.raises(StoreError, match="newer"):
        open_studio(studio_copy)


def test_old_versions_migrate_with_a_copy_kept(tmp_path: Path) -> None:
    folder = tmp_path / "old"
    folder.mkdir()
    old = sqlite3.connect(folder / "studio.db")
    old.executescript(
        f"{MIGRATIONS[0]} PRAGMA user_version = 1; PRAGMA application_id = 0x4A494757;"
        "INSERT INTO player VALUES ('p', 'Nell');"
    )
    old.close()
    studio = open_studio(folder)
    assert studio.players()[0].name == "Nell"
    studio.set_setting("a", "b")
    assert studio.setting("a") == "b"
    studio.close()
    assert (folder / f"studio-before-v{VERSION}.db").exists()


@pytest.mark.parametrize(
    ("number", "reason"),
    [(errno.ENOSPC, "full"), (errno.EROFS, "read_only"), (errno.EIO, "io")],
)
def test_disk_trouble_is_named_and_nothing_is_half_kept(
    studio_copy: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: int, reason: str
) -> None:
    source = tmp_path / "a.wav"
    source.write_bytes(b"x" * 1000)
    studio = open_studio(studio_copy)

    def fail(_: int) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(store.os, "fsync", fail)
    with pytest.raises(StoreError) as caught:
        studio.add_take(take_record("new", None), source, None)
    monkeypatch.undo()
    assert caught.value.reason == reason
    assert len(studio.takes()) == 4
    assert not list(studio_copy.rglob("*new*"))
    assert not list(studio_copy.rglob(".part-*"))
    assert source.exists()
    studio.close()


def test_a_failing_row_takes_its_file_with_it(studio_copy: Path, tmp_path: Path) -> None:
    source = tmp_path / "a.wav"
    source.write_bytes(b"x")
    studio = open_studio(studio_copy)
    with pytest.raises(StoreError):  # the id exists already
        studio.add_take(take_record("other", revise(scale())), source, None)
    assert not list(studio_copy.rglob("other*"))
    studio.close()


def test_a_jig_revision_is_never_overwritten(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    studio.add_jig(scale(), utc=UTC)  # the same again is nothing new
    with pytest.raises(StoreError, match="already kept"):
        studio.add_jig(scale(tempo=90.0), utc=UTC)
    studio.add_jig(revise(scale(), tempo_bpm=90.0), utc=UTC)
    assert [j.revision for j in studio.jigs()] == [2]
    assert studio.jig("scale-violin", 1).tempo_bpm == 120.0
    studio.close()


def test_paths_stay_inside(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    studio._db.execute("UPDATE take SET audio = '../../secret' WHERE id = 't0'")
    with pytest.raises(StoreError, match="leaves the studio"):
        studio.audio_path(studio.takes()[0])
    studio.close()


def test_lost_contours_mean_not_heard_yet(studio_copy: Path) -> None:
    np.savez(studio_copy / "heard" / f"t0.{METHOD_VERSION}.npz", other=np.zeros(3))
    (studio_copy / "heard" / f"t1.{METHOD_VERSION}.npz").write_bytes(b"broken")
    studio = open_studio(studio_copy)
    assert studio.heard("t0") is None
    assert studio.heard("t1") is None
    assert studio.heard("t2") is not None
    studio.close()


def test_what_was_heard_comes_back_turns_and_all(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    assert isinstance(studio, HeardTables)
    kept = studio.heard("t0")
    assert kept is not None
    for turns in ((BowTurn(time_s=1.5, lean=0.5, fits=0.9),), (), None):
        studio.set_heard("t0", replace(kept, turns=turns))
        again = studio.heard("t0")
        assert again is not None
        assert again.turns == turns
        assert again.segments == kept.segments
    spoken = replace(kept, segments=(_marked(kept.segments[0]), *kept.segments[1:]))
    for talks in ((Speech(start_s=0.5, end_s=2.5),), (), None):
        studio.set_heard("t0", replace(spoken, talks=talks))
        again = studio.heard("t0")
        assert again is not None
        assert again.talks == talks
        assert again.segments == spoken.segments
    studio.close()


def _marked(segment: Segment) -> Segment:
    return replace(segment, in_talk=True, faint=True, outsounded=True, odds=-1.5, swing_hz=5.5)


@pytest.mark.parametrize(
    ("version", "columns"),
    [
        (9, ("in_talk", "faint", "outsounded", "odds", "swing_hz")),
        (10, ("faint", "outsounded", "odds", "swing_hz")),
        (11, ("odds", "swing_hz")),
        (12, ("swing_hz",)),
    ],
)
def test_a_studio_that_knew_no_talk_and_no_ghosts_keeps_its_notes(
    studio_copy: Path, version: int, columns: tuple[str, ...]
) -> None:
    studio = open_studio(studio_copy)
    kept = studio.heard("t0")
    studio.close()
    with closing(sqlite3.connect(studio_copy / "studio.db")) as db:
        for column in columns:
            db.execute(f"ALTER TABLE segment DROP COLUMN {column}")
        db.execute("ALTER TABLE remark DROP COLUMN spoken")
        db.execute(f"PRAGMA user_version = {version}")
        db.commit()
    studio = open_studio(studio_copy)
    again = studio.heard("t0")
    assert kept is not None
    assert again is not None
    assert again.segments == kept.segments
    studio.close()


def test_backup_is_a_studio(studio_copy: Path, tmp_path: Path) -> None:
    studio = open_studio(studio_copy)
    studio.backup(tmp_path / "copy")
    with pytest.raises(StoreError):
        studio.backup(tmp_path / "copy")
    studio.close()
    copy = open_studio(tmp_path / "copy")
    assert copy.check() == []
    assert len(copy.takes()) == 4
    copy.close()


def test_a_backup_appears_complete_or_not_at_all(
    studio_copy: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    studio = open_studio(studio_copy)
    (studio_copy / "recording").mkdir()
    (studio_copy / "recording" / "left.wav").write_bytes(b"left behind")
    to = tmp_path / "deep" / "backup"
    studio.backup(to)
    assert (to / "recording" / "left.wav").read_bytes() == b"left behind"
    copy = open_studio(to, create=False)
    assert copy.check() == []
    assert [t.id for t in copy.takes()] == [t.id for t in studio.takes()]
    copy.close()
    with pytest.raises(StoreError, match="exists_folder"):
        studio.backup(to)

    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "no space")

    monkeypatch.setattr("jigwright.store.studio.shutil.copytree", full)
    with pytest.raises(StoreError, match="full"):
        studio.backup(tmp_path / "deep" / "second")
    assert [p.name for p in (tmp_path / "deep").iterdir()] == ["backup"]
    studio.close()


def test_takes_say_what_they_were_cut_from(studio_copy: Path, tmp_path: Path) -> None:
    studio = open_studio(studio_copy)
    jig, sound = studio.jigs()[0], studio.audio_path(studio.takes()[0])
    assert studio.cut_spans("r") == ()
    for i, (a, b) in enumerate(((5.0, 9.0), (1.0, 4.0))):
        record = take_record(f"cut{i}", jig)
        studio.add_take(record, sound, None, cut=CutFrom(recording="r", start_s=a, stop_s=b))
    studio.add_take(take_record("whole", jig), sound, None)
    assert studio.cut_spans("r") == ((1.0, 4.0), (5.0, 9.0))
    assert studio.cut_spans("other") == ()
    assert studio.holds_sound(sound)
    other = tmp_path / "other.wav"
    other.write_bytes(sound.read_bytes() + b"x")
    assert not studio.holds_sound(other)
    studio.close()


def test_nothing_is_ever_covered(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    jig, take = studio.jigs()[0], studio.takes()[0]
    sound, before = studio.audio_path(take), studio.audio_path(take).read_bytes()
    other = studio_copy / "other.wav"
    other.write_bytes(b"another sound")
    for binned in (0, 1):
        studio.change("set_take", take.id, {"binned": binned})
        with pytest.raises(StoreError, match="exists"):
            studio.add_take(take_record(take.id, jig), other, None)
        assert sound.read_bytes() == before
    orphan = studio_copy / "audio" / "2026" / "lonely.wav"
    orphan.write_bytes(b"no row speaks of it")
    kept = studio.add_take(take_record("lonely", jig), other, None)
    assert orphan.read_bytes() == b"no row speaks of it"
    assert studio.audio_path(kept).read_bytes() == b"another sound"
    studio.close()


def test_a_transaction_that_fails_leaves_no_file(
    studio_copy: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    studio = open_studio(studio_copy)
    jig, take = studio.jigs()[0], studio.takes()[0]
    heard, sound = studio.heard(take.id), studio.audio_path(take)
    before = sorted(p for p in studio_copy.rglob("*") if p.is_file())

    def broken(*_: object) -> None:
        raise ValueError("not a store error")

    monkeypatch.setattr(studio, "_insert_heard", broken)
    with pytest.raises(ValueError, match="not a store error"):
        studio.add_take(take_record("new", jig), sound, heard)
    assert sorted(p for p in studio_copy.rglob("*") if p.is_file()) == before
    assert "new" not in {t.id for t in studio.takes()}
    studio.close()


@pytest.mark.parametrize(
    ("take_id", "kept"),
    [("take-0a1b", True), ("A_b-9", True), ("a" * 80, True), ("a" * 81, False), ("../x", False),
     ("a.b", False), ("", False), ("-x", False), ("é", False), ("a/b", False), ("\ud800", False)],
)  # fmt: skip
def test_file_names_are_made_of_our_own_ids_only(take_id: str, kept: bool) -> None:
    name = file_name(take_id)
    assert (name == take_id) is kept
    assert re.fullmatch(r"[A-Za-z0-9][A-Za-z0-9_-]{0,79}", name)
    assert file_name(take_id) == name
    assert file_name(take_id + "x") != name


@pytest.mark.parametrize(
    ("column", "value", "read"),
    [
        ("recorded_utc", "garbage", "1970-01-01T00:00:00Z"),
        ("recorded_utc", "2026-11-02T10:00:00Z", "2026-11-02T10:00:00Z"),
        ("utc_offset_min", 10**18, 0), ("utc_offset_min", 841, 0), ("utc_offset_min", -840, -840),
        ("duration_s", float("inf"), 0.0), ("duration_s", -5.0, 0.0), ("duration_s", 9.5, 9.5),
        ("a4_hz", 1e9, 440.0), ("a4_hz", 300.0, 300.0), ("a4_hz", 299.0, 440.0),
        ("tolerance_cents", 0.0, 10.0), ("tolerance_cents", 200.0, 200.0), ("duration_s", "x", 0.0),
    ],
)  # fmt: skip
def test_what_an_older_version_let_in_reads_as_a_usual_value(
    studio_copy: Path, column: str, value: object, read: object
) -> None:
    studio = open_studio(studio_copy)
    studio._db.execute(f"UPDATE take SET {column} = ? WHERE id = 't1'", (value,))
    take = next(t for t in studio.takes() if t.id == "t1")
    assert getattr(take, column) == read
    studio.close()


@pytest.mark.fails_on_purpose
def test_one_unreadable_jig_or_instrument_does_not_hide_the_others(studio_copy: Path) -> None:
    studio = open_studio(studio_copy)
    studio._db.execute("INSERT INTO jig VALUES ('bad', 1, 'bad', '{', '')")
    studio._db.execute("INSERT INTO instrument VALUES ('odd', 'a', 'kazoo', 'Z9', -3)")
    assert [j.id for j in studio.jigs()] == ["scale-violin"]
    odd = next(i for i in studio.instruments() if i.id == "odd")
    assert (odd.kind, [str(s) for s in odd.strings]) == ("violin", ["G3", "D4", "A4", "E5"])
    studio.close()
