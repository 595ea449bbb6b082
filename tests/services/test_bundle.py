"""Takes given away come back whole; what strangers send is refused before it does harm."""

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.errors import ScoreError, StoreError
from jigwright.services.exchange.bundle import read_bundle, write_bundle
from jigwright.services.records import Remark
from jigwright.services.taking_in import is_here, keep_bundle
from jigwright.store.opening import open_studio


@pytest.fixture
def given_away(studio_copy: Path, tmp_path: Path):
    studio = open_studio(studio_copy)
    take = studio.takes()[0]
    remark = Remark(
        id="r1", take_id=take.id, note_id=None, at_s=1.0, who="T", words="here",
        utc="2026-11-02T10:00:00Z",
    )  # fmt: skip
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
FIELDS = [
    ("take", "recorded_utc", "garbage"), ("take", "recorded_utc", "../../../../tmp/x"),
    ("take", "recorded_utc", "1969-12-31T23:59:59Z"), ("take", "utc_offset_min", 10**18),
    ("take", "utc_offset_min", 841), ("take", "utc_offset_min", 1.5), ("take", "duration_s", 1e308),
    ("take", "duration_s", -0.1), ("take", "duration_s", 86_401), ("take", "a4_hz", 379.9),
    ("take", "a4_hz", 470.1), ("take", "tolerance_cents", 0.9), ("take", "tolerance_cents", 101),
    ("take", "id", "a/b"), ("take", "id", ".hidden"), ("take", "id", "é"), ("take", "id", "x" * 81),
    ("take", "sha256", "A" * 64), ("take", "sha256", "0" * 63), ("take", "mark", "loved"),
    ("take", "source_name", None), ("take", "reference", 3), ("player", "id", ""),
    ("player", "name", None), ("instrument", "strings", "G3"), ("instrument", "strings", "A-9 B-8"),
    ("instrument", "kind", ["violin"]),
]  # fmt: skip


@pytest.mark.parametrize(("part", "name", "lie"), FIELDS)
def test_a_value_that_cannot_be_true_is_refused_by_its_name(
    given_away, tmp_path: Path, part: str, name: str, lie: object
) -> None:
    path = rewritten(given_away[0], tmp_path, lambda m, _e: m[part].update({name: lie}))
    with pytest.raises(ScoreError, match=rf"manifest.json: {part}\.{name}"):
        read_bundle(path, tmp_path / "in")
    assert not list((tmp_path / "in").glob("*"))


@pytest.mark.parametrize("lie", [3, None, "x", [], [1], True])
@pytest.mark.parametrize("part", ["take", "player", "instrument", "remarks", "sound"])
def test_a_part_that_is_something_else_is_refused(
    given_away, tmp_path: Path, part: str, lie: object
) -> None:
    if part == "remarks" and lie == []:
        return
    path = rewritten(given_away[0], tmp_path, lambda m, _e: m.update({part: lie}))
    with pytest.raises(ScoreError, match=rf"manifest.json: {part}"):
        read_bundle(path, tmp_path / "in")


EDGES = [
    ("take", "utc_offset_min", 840), ("take", "utc_offset_min", -840), ("take", "a4_hz", 380.0),
    ("take", "a4_hz", 470.0), ("take", "tolerance_cents", 1), ("take", "tolerance_cents", 100),
    ("take", "duration_s", 0), ("take", "duration_s", 86_400), ("take", "mark", "kept"),
    ("take", "recorded_utc", "1970-01-01T00:00:00Z"), ("take", "id", "x" * 80),
]  # fmt: skip


@pytest.mark.parametrize(("part", "name", "value"), EDGES)
def test_values_at_the_edge_are_taken(
    given_away, tmp_path: Path, part: str, name: str, value: object
) -> None:
    path = rewritten(given_away[0], tmp_path, lambda m, _e: m[part].update({name: value}))
    assert getattr(read_bundle(path, tmp_path / "in").take, name) == value


@pytest.mark.parametrize(
    ("name", "lie"),
    [("at_s", -0.1), ("at_s", 86_401), ("utc", "now"), ("id", "../x"), ("words", 3), ("who", None),
     ("note_id", "")],
)  # fmt: skip
def test_a_remark_that_cannot_be_true_is_refused(
    given_away, tmp_path: Path, name: str, lie: object
) -> None:
    path = rewritten(given_away[0], tmp_path, lambda m, _e: m["remarks"][0].update({name: lie}))
    with pytest.raises(ScoreError, match=rf"remarks\[0\]\.{name}"):
        read_bundle(path, tmp_path / "in")


@pytest.mark.parametrize(("n", "fits"), [(500, True), (501, False)])
def test_so_many_remarks_and_no_more(given_away, tmp_path: Path, n: int, fits: bool) -> None:
    path = rewritten(given_away[0], tmp_path, lambda m, _e: m.update(remarks=m["remarks"] * n))
    if fits:
        assert len(read_bundle(path, tmp_path / "in").remarks) == n
        return
    with pytest.raises(ScoreError, match="at most 500"):
        read_bundle(path, tmp_path / "in")


def test_every_flipped_byte_is_read_or_refused(given_away, tmp_path: Path) -> None:
    data = given_away[0].read_bytes()
    path = tmp_path / "flipped.take.zip"
    n_refused = 0
    for i in [
        *range(0, len(data), max(1, len(data) // 200)),
        *range(len(data) - 300, len(data), 2),
    ]:
        flipped = bytearray(data)
        flipped[i] ^= 0x10
        path.write_bytes(flipped)
        try:
            read_bundle(path, tmp_path / "in")
        except ScoreError:
            n_refused += 1
    assert n_refused > 150


@pytest.mark.parametrize("kind", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_unusual_packing_is_refused(given_away, tmp_path: Path, kind: int) -> None:
    out = tmp_path / "odd.take.zip"
    with zipfile.ZipFile(given_away[0]) as old, zipfile.ZipFile(out, "w") as new:
        for info in old.infolist():
            new.writestr(info.filename, old.read(info), kind)
    with pytest.raises(ScoreError, match="unusual"):
        read_bundle(out, tmp_path / "in")


def test_a_scale_file_that_was_not_sent_is_not_asked_for(given_away, tmp_path: Path) -> None:
    path = rewritten(
        given_away[0], tmp_path, lambda m, _e: m["take"].update(reference="/dev/zero.scl:C")
    )
    assert read_bundle(path, tmp_path / "in").take.reference == "equal"


# keeping it -----------------------------------------------------------------------------------


def test_a_take_in_the_bin_is_covered_by_nothing(
    given_away, studio_copy: Path, tmp_path: Path
) -> None:
    path, take = given_away
    studio = open_studio(studio_copy)
    studio.change("bin_take", take.id, {"binned": 1})
    sound = studio.audio_path(take)
    before = sound.read_bytes()
    bundle = read_bundle(path, tmp_path / "in")
    assert is_here(studio, take.id) == "bin"
    with pytest.raises(StoreError, match="exists"):
        keep_bundle(studio, bundle, None, utc="2026-11-03T10:00:00Z")
    assert sound.read_bytes() == before
    assert studio.heard(take.id) is not None
    kept = keep_bundle(studio, bundle, None, utc="2026-11-03T10:00:00Z", as_copy=True)
    assert kept.id != take.id
    assert is_here(studio, kept.id) == "shelf"
    assert is_here(studio, "nobody") == "no"
    assert studio.audio_path(kept).read_bytes() == before
    assert [r.words for r in studio.remarks(kept.id)] == ["here"]
    studio.undo()
    assert is_here(studio, take.id) == "shelf"
    assert sound.read_bytes() == before
    studio.close()


def test_remarks_of_others_never_cover_ours(given_away, studio_copy: Path, tmp_path: Path) -> None:
    path = given_away[0]
    studio = open_studio(studio_copy)
    mine = Remark(
        id="r1", take_id="t2", note_id=None, at_s=0.0, who="me", words="mine",
        utc="2026-11-03T10:00:00Z",
    )  # fmt: skip
    studio.set_remark(mine)
    bundle = read_bundle(path, tmp_path / "in")
    keep_bundle(studio, bundle, None, utc="2026-11-03T10:00:00Z", as_copy=True)
    assert studio.remarks("t2") == (mine,)
    studio.close()


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
