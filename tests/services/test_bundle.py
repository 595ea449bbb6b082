"""Takes given away come back whole; what strangers send is refused before it does harm."""

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import ScoreError
from jigwright.services.exchange.bundle import read_bundle, write_bundle
from jigwright.services.records import Remark
from jigwright.store.opening import open_studio


@pytest.fixture
def given_away(studio_copy: Path, tmp_path: Path):
    studio = open_studio(studio_copy)
    take = studio.takes()[0]
    remark = Remark(id="r1", take_id=take.id, note_id=None, at_s=1.0, who="T", words="here", utc="")
    path = tmp_path / "x.take.zip"
    write_bundle(
        path, take=take, player=studio.players()[0], owned=studio.instruments()[0],
        jig=studio.jigs()[0], remarks=(remark,), audio=studio.audio_path(take),
    )  # fmt: skip
    studio.close()
    return path, take


def test_a_take_comes_back_whole(given_away, tmp_path: Path) -> None:
    path, take = given_away
    got = read_bundle(path, tmp_path / "in")
    assert replace(got.take, audio=take.audio) == take
    assert [r.words for r in got.remarks] == ["here"]
    assert got.jig is not None
    assert got.audio.stat().st_size > 1000


def rewritten(path: Path, tmp_path: Path, change) -> Path:
    """The bundle with its manifest and entries changed."""
    out = tmp_path / "changed.take.zip"
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        entries = {i.filename: old.read(i) for i in old.infolist()}
        manifest = json.loads(entries["manifest.json"])
        change(manifest, entries)
        entries["manifest.json"] = json.dumps(manifest).encode()
        for name, content in entries.items():
            new.writestr(name, content)
    return out


def wrong_sound(manifest, entries) -> None:
    name = manifest["sound"]
    entries[name] = entries[name][:-4] + b"oops"


CHANGES = {
    "climbing": lambda _m, e: e.update({"../../evil.txt": b"x"}),
    "absolute": lambda _m, e: e.update({"/etc/evil": b"x"}),
    "stranger": lambda _m, e: e.update({"run.sh": b"x"}),
    "bomb": lambda _m, e: e.update({"score.musicxml": b" " * 15_000_000}),
    "identity": lambda m, _e: m["take"].update(id="../../take"),
    "instrument": lambda m, _e: m["instrument"].update(kind="kazoo"),
    "tuning": lambda m, _e: m["take"].update(a4_hz=1e9),
    "no sound": lambda m, _e: m.update(sound="sound.exe"),
    "other sound": wrong_sound,
    "schema": lambda m, _e: m.update(schema="other/1"),
    "no take": lambda m, _e: m.pop("take"),
    "other jig": lambda m, _e: m["take"].update(jig_revision=7),
}


@pytest.mark.parametrize("name", CHANGES)
def test_a_changed_bundle_is_refused_and_leaves_nothing(given_away, tmp_path, name) -> None:
    path = rewritten(given_away[0], tmp_path, CHANGES[name])
    with pytest.raises(ScoreError):
        read_bundle(path, tmp_path / "in")
    left = list((tmp_path / "in").glob("*")) if (tmp_path / "in").exists() else []
    assert left == []
    assert not (tmp_path.parent / "evil.txt").exists()


@given(st.binary(max_size=300))
def test_any_bytes_are_refused(data) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "b.take.zip"
        path.write_bytes(b"PK\x03\x04" + data)
        with pytest.raises(ScoreError):
            read_bundle(path, Path(folder) / "in")
