"""The folder of growing recordings: notes beside the sound, leftovers, what goes and what stays."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.audio.wav_stream import WavWriter
from jigwright.services.growing import Growing, record_of
from jigwright.services.recording import RATE_HZ
from jigwright.services.recordings import (
    Leftover,
    SpokenOf,
    bring_back,
    cut_name,
    cut_origin,
    discard,
    find_leftovers,
    free_note,
    note_path,
    read_note,
    remove_recording,
    remove_unfinished,
    seconds_of,
    write_note,
)
from signals import NOTE


def _record(folder: Path, name: str = NOTE.id, seconds: float = 3.0) -> Path:
    folder.mkdir(exist_ok=True)
    path = folder / f"{name}.wav"
    writer = WavWriter(path, RATE_HZ)
    writer.write(np.zeros(round(seconds * RATE_HZ), dtype=np.float32))
    writer.close()
    return path


def _look(folder: Path, **known: object) -> tuple[Leftover, ...]:
    usual = {"kept_of": lambda _: (), "is_kept": lambda _: False}
    return find_leftovers(folder, **{**usual, **known})  # type: ignore[arg-type]


def test_a_note_comes_back_as_it_was_written(tmp_path: Path) -> None:
    path = tmp_path / f"{NOTE.id}.wav"
    write_note(path, NOTE)
    assert read_note(path) == NOTE
    assert [p.name for p in tmp_path.iterdir()] == [f"{NOTE.id}.json"]


def test_a_spoken_remark_says_what_it_speaks_about(tmp_path: Path) -> None:
    path = tmp_path / f"{NOTE.id}.wav"
    for note_id in ("n3", None):
        about = SpokenOf(take_id="take-1", at_s=2.5, note_id=note_id)
        write_note(path, replace(NOTE, about=about))
        assert read_note(path) == replace(NOTE, about=about)


def test_notes_of_earlier_versions_are_of_playing(tmp_path: Path) -> None:
    path = tmp_path / f"{NOTE.id}.wav"
    write_note(path, NOTE)
    body = json.loads(note_path(path).read_text())
    del body["about"]
    note_path(path).write_text(json.dumps(body))
    assert read_note(path) == NOTE


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("about", 3), ("about", {"take_id": "t"}),
        ("about", {"take_id": 3, "at_s": 0.0, "note_id": None}),
        ("about", {"take_id": "t", "at_s": float("nan"), "note_id": None}),
        ("about", {"take_id": "t", "at_s": "soon", "note_id": None}),
        ("about", {"take_id": "t", "at_s": 0.0, "note_id": 4}),
        ("id", "another"), ("schema", "other/1"), ("keeps", "some"), ("a4_hz", 299.0),
        ("a4_hz", 501.0), ("a4_hz", "440"), ("tolerance_cents", float("inf")), ("strings", "G3"),
        ("strings", ["H9"]), ("player", 3), ("utc_offset_min", 1.5), ("drone_hz", [None]),
        ("drone_hz", 3), ("more", 1), ("title", ["x"]),
    ],
)  # fmt: skip
def test_a_note_that_cannot_be_true_is_no_note(tmp_path: Path, name: str, value: object) -> None:
    path = tmp_path / f"{NOTE.id}.wav"
    write_note(path, NOTE)
    body = json.loads(note_path(path).read_text())
    body[name] = value
    note_path(path).write_text(json.dumps(body))
    assert read_note(path) is None


@given(st.binary(max_size=200))
def test_no_bytes_beside_a_recording_stop_anything(tmp_path_factory, garbage: bytes) -> None:
    path = tmp_path_factory.mktemp("notes") / "r.wav"
    note_path(path).write_bytes(garbage)
    assert read_note(path) is None


def test_deep_and_long_notes_are_refused(tmp_path: Path) -> None:
    path = tmp_path / "r.wav"
    assert read_note(path) is None
    note_path(path).write_text("[" * 90_000)
    assert read_note(path) is None
    note_path(path).write_text(" " * 200_000)
    assert read_note(path) is None


def test_a_cut_file_says_what_it_was_cut_from() -> None:
    name = cut_name(NOTE.id, (1.5, 61.0004))
    assert cut_origin(name) == (NOTE.id, (1.5, 61.0))
    assert cut_origin("take-1234.flac") is None
    assert cut_origin("cut-a-b-c.flac") is None
    assert cut_origin("cut-a-1-2.wav") is None


def test_leftovers_come_with_who_played_and_what_is_kept(tmp_path: Path) -> None:
    path = _record(tmp_path)
    write_note(path, NOTE)
    (one,) = _look(tmp_path, kept_of=lambda i: ((0.0, 1.0),) if i == NOTE.id else ())
    assert one.note == NOTE
    assert one.seconds == pytest.approx(3.0)
    assert one.left_s == pytest.approx(2.0)
    assert one.growing


def test_one_that_cannot_be_read_does_not_hide_the_others(tmp_path: Path) -> None:
    _record(tmp_path, "a")
    (tmp_path / "b.wav").write_bytes(b"no header at all" * 40_000)
    _record(tmp_path, "c")
    note_path(tmp_path / "c.wav").write_text("{")
    assert [one.path.stem for one in _look(tmp_path)] == ["a", "b", "c"]
    assert all(one.note is None for one in _look(tmp_path))


def test_what_is_kept_wholly_or_holds_nothing_goes_by_itself(tmp_path: Path) -> None:
    kept, short = _record(tmp_path, "kept"), _record(tmp_path, "short", 0.4)
    check = _record(tmp_path, NOTE.id)
    write_note(check, replace(NOTE, keeps="nothing"))
    assert _look(tmp_path, kept_of=lambda i: ((0.0, 3.0),) if i == "kept" else ()) == ()
    assert not kept.exists()
    assert not short.exists()
    assert not check.exists()
    assert not note_path(check).exists()


def test_half_a_second_that_is_no_take_is_offered_and_less_is_not(tmp_path: Path) -> None:
    _record(tmp_path, "a")
    assert len(_look(tmp_path, kept_of=lambda _: ((0.0, 2.4),))) == 1
    assert len(_look(tmp_path, kept_of=lambda _: ((0.0, 2.6),))) == 0


def test_what_is_written_now_is_left_alone(tmp_path: Path) -> None:
    path = _record(tmp_path)
    cut = tmp_path / cut_name(NOTE.id, (0.0, 1.0))
    cut.write_bytes(b"half a take")
    assert _look(tmp_path, but=(path,)) == ()
    assert path.exists()
    assert cut.exists()


def test_what_a_dead_worker_half_wrote_is_offered_to_nobody(tmp_path: Path) -> None:
    path = _record(tmp_path)
    half = tmp_path / ".part-abc.flac"
    half.write_bytes(b"half a take")
    assert _look(tmp_path, but=(path,)) == ()
    assert half.exists()  # somebody may be writing it
    path.unlink()
    assert _look(tmp_path) == ()
    assert not half.exists()
    remove_unfinished(tmp_path / "nowhere")


def test_only_what_is_unfinished_is_taken_away(tmp_path: Path) -> None:
    path = _record(tmp_path)
    write_note(path, NOTE)
    cut = tmp_path / cut_name(NOTE.id, (0.0, 1.0))
    for one in (cut, tmp_path / ".part-1", tmp_path / ".part-2.flac"):
        one.write_bytes(b"sound")
    remove_unfinished(tmp_path)
    assert sorted(tmp_path.iterdir()) == sorted((path, note_path(path), cut))


def test_cut_sound_is_offered_only_when_its_recording_has_gone(tmp_path: Path) -> None:
    path = _record(tmp_path)
    write_note(path, NOTE)
    cut = tmp_path / cut_name(NOTE.id, (0.0, 1.0))
    cut.write_bytes(b"sound")
    assert [one.path for one in _look(tmp_path)] == [path]
    path.unlink()
    (one,) = _look(tmp_path)
    assert (one.path, one.note, one.seconds, one.growing) == (cut, NOTE, None, False)
    assert one.left_s is None
    assert _look(tmp_path, is_kept=lambda _: True) == ()
    assert not cut.exists()


def test_cut_sound_of_earlier_versions_is_offered_too(tmp_path: Path) -> None:
    cache = tmp_path / "cache"
    cache.mkdir()
    old = cache / "take-0a1b2c3d.flac"
    old.write_bytes(b"sound")
    (one,) = _look(tmp_path / "recording", older=[old])
    assert one.path == old
    assert one.note is None


def test_links_are_not_followed(tmp_path: Path) -> None:
    outside = _record(tmp_path / "outside", "a")
    folder = tmp_path / "recording"
    folder.mkdir()
    (folder / "link.wav").symlink_to(outside)
    assert _look(folder) == ()
    assert outside.exists()


def test_removing_takes_note_and_half_made_takes_along(tmp_path: Path) -> None:
    path, other = _record(tmp_path, "a"), _record(tmp_path, "b")
    write_note(path, replace(NOTE, id="a"))
    (tmp_path / cut_name("a", (0.0, 1.0))).write_bytes(b"x")
    (tmp_path / cut_name("b", (0.0, 1.0))).write_bytes(b"x")
    remove_recording(path)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["b.wav", "cut-b-0-1000.flac"]
    remove_recording(path)  # again: nothing happens
    assert other.exists()


def test_discarding_can_be_undone(tmp_path: Path) -> None:
    path = _record(tmp_path)
    write_note(path, NOTE)
    before = path.read_bytes()
    (one,) = _look(tmp_path)
    aside = discard(one)
    assert _look(tmp_path) == ()
    assert aside.parent.name == "discarded"
    assert bring_back(aside) == path
    assert path.read_bytes() == before
    assert read_note(path) == NOTE


def test_discarding_never_covers_another(tmp_path: Path) -> None:
    (one,) = (_look(tmp_path) for _ in [_record(tmp_path)])
    discard(one[0])
    again = _record(tmp_path)
    with pytest.raises(FileExistsError):
        discard(_look(tmp_path)[0])
    assert again.exists()


def test_a_take_of_a_stretch_is_dated_by_its_place() -> None:
    record = record_of(NOTE, (90.0, 100.5), take_id="t")
    assert record.recorded_utc == "2026-11-03T18:21:30Z"
    assert record.duration_s == 10.5
    assert (record.player_id, record.jig_id, record.jig_revision) == ("p", "scale", 2)
    assert (record.a4_hz, record.reference, record.tolerance_cents) == (441.0, "just:D", 8.0)
    assert record.utc_offset_min == 60
    odd = record_of(replace(NOTE, started_utc="some day"), (1.0, 2.0), take_id="t")
    assert odd.recorded_utc == "some day"
    assert free_note(NOTE).jig_id is None
    assert free_note(NOTE).jig_revision is None


def _growing(tmp_path: Path, seconds: float, **note: object) -> Growing:
    return Growing(_record(tmp_path, seconds=seconds), replace(NOTE, **note), ended=True)


def test_what_was_not_heard_is_searched_in_parts_of_ten_minutes(tmp_path: Path) -> None:
    growing = _growing(tmp_path, 2.0)
    assert growing.seconds == pytest.approx(2.0) == seconds_of(growing.path)
    assert growing.next_search() == (0.0, pytest.approx(2.0))
    growing.searched((0.0, 2.0), ((0.4, 1.4),), 2.0)
    assert growing.next_search() is None
    assert growing.owed == [(0.4, 1.4)]
    assert not growing.may_go
    growing.ledger = growing.ledger.is_kept((0.4, 1.4))
    assert growing.may_go
    assert growing.cut_from((0.4, 1.4)).recording == growing.path.stem


def test_a_search_always_gets_on(tmp_path: Path) -> None:
    growing = _growing(tmp_path, 4.0)
    growing.searched((0.0, 2.0), (), 0.0)  # says it has heard nothing: half a second at least
    assert growing.next_search() == (0.5, pytest.approx(4.0))


def test_long_recordings_are_searched_part_by_part(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    growing = _growing(tmp_path, 0.1)
    monkeypatch.setattr("jigwright.services.growing.seconds_of", lambda _: 10_800.0)
    assert growing.next_search() == (0.0, 600.0)
    growing.searched((0.0, 600.0), (), 580.0)
    start, stop = growing.next_search() or (0, 0)
    assert start == 580.0
    assert stop - start <= 600.0


def test_a_silent_leftover_is_a_question_not_an_answer(tmp_path: Path) -> None:
    path = _record(tmp_path)
    one = Leftover(path=path, note=NOTE, seconds=3.0)
    growing = Growing.of_leftover(one, NOTE)
    growing.searched((0.0, 3.0), (), 3.0)
    assert growing.silent
    assert not growing.may_go
    partly = Growing.of_leftover(replace(one, kept=((0.0, 1.0),)), NOTE)
    partly.searched((1.0, 3.0), (), 3.0)
    assert partly.may_go  # a take was made of it before: the rest was silence


def test_a_lesson_left_behind_is_kept_whole_in_parts(tmp_path: Path) -> None:
    note = replace(NOTE, keeps="whole")
    one = Leftover(path=_record(tmp_path), note=note, seconds=3.0, kept=((1.0, 2.0),))
    growing = Growing.of_leftover(one, note)
    assert growing.next_search() is None
    assert growing.whole_parts() == [(0.0, 1.0), (2.0, pytest.approx(3.0))]


def test_a_recording_that_is_gone_has_no_length(tmp_path: Path) -> None:
    growing = Growing(tmp_path / "none.wav", NOTE, ended=True)
    assert growing.seconds == 0.0
    assert growing.may_go


def test_what_is_silent_and_what_is_not(tmp_path: Path) -> None:
    growing = _growing(tmp_path, 4.0)
    assert growing.n_cutting == 0
    assert not growing.silent  # nobody has listened to it
    growing.ledger = growing.ledger.was_heard(4.0)
    assert growing.silent
    assert growing.may_go  # a sitting in which nobody played
    growing.asks = True
    assert not growing.may_go
    growing.ledger = growing.ledger.is_kept((0.0, 1.0))
    assert not growing.silent
    assert growing.may_go
    other = _growing(tmp_path / "b", 4.0)
    other.asks = True
    other.ledger = other.ledger.was_heard(4.0).was_played((1.0, 2.0)).is_kept((1.0, 2.0))
    assert other.may_go
    assert not other.silent


def test_ten_minutes_and_a_bit_are_searched_in_two_parts(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    growing = _growing(tmp_path, 0.1)
    for seconds, first in ((600.0, (0.0, 600.0)), (601.0, (0.0, 300.5))):
        monkeypatch.setattr("jigwright.services.growing.seconds_of", lambda _, s=seconds: s)
        assert growing.next_search() == first
    growing.ledger = growing.ledger.was_heard(100.0)
    monkeypatch.setattr("jigwright.services.growing.seconds_of", lambda _: 700.0)
    assert growing.next_search() == (100.0, 700.0)
