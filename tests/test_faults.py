"""The short form of ``bench/faults.py``: damaged files for every reader, pages of a database."""

from __future__ import annotations

import shutil
import time
from pathlib import Path

import numpy as np
import pytest

from hostile import REFUSALS, damaged, midi_of_forever, readers
from jigwright.core.errors import JigError, JigwrightError, ScoreError
from jigwright.services.exchange.scores import read_score
from jigwright.store.opening import open_studio
from jigwright.store.repair import repair_studio

_CASES = 40


@pytest.fixture(scope="module")
def known(tmp_path_factory: pytest.TempPathFactory):
    return {r.name: r for r in readers(tmp_path_factory.mktemp("good") / "files")}


@pytest.mark.parametrize(
    "name",
    [
        "jig", "line of notes", "MusicXML", "packed MusicXML", "MIDI", "scale file", "fault list",
        "bundle", "set work", "sound", "growing recording", "recording note",
    ],
)  # fmt: skip
def test_damaged_files_are_read_or_refused_and_stay_inside(
    known, tmp_path: Path, name: str
) -> None:
    reader = known[name]
    (tmp_path / "work").mkdir()
    for k in range(_CASES):
        rng = np.random.default_rng((k, len(name)))
        path, to = tmp_path / "work" / f"c{reader.suffix}", tmp_path / "work" / "to"
        path.write_bytes(damaged(rng, reader.good[k % len(reader.good)]))
        began = time.monotonic()
        said = "read"
        try:
            reader.read(path, to)
        except REFUSALS as error:
            said = str(error)
        assert said
        assert time.monotonic() - began < 10.0
        shutil.rmtree(to, ignore_errors=True)
    assert [p.name for p in tmp_path.iterdir()] == ["work"]


@pytest.mark.parametrize("name", ["jig", "MusicXML", "MIDI", "bundle", "set work", "sound"])
def test_good_files_are_read(known, tmp_path: Path, name: str) -> None:
    reader = known[name]
    for data in reader.good:
        path = tmp_path / f"c{reader.suffix}"
        path.write_bytes(data)
        assert reader.read(path, tmp_path / "to") is not None


def test_midi_that_lasts_for_ever_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "long.mid"
    path.write_bytes(midi_of_forever())
    with pytest.raises((JigError, ScoreError)):
        read_score(path, jig_id="x")


@pytest.mark.parametrize("seed", range(5))
def test_a_page_overwritten_costs_no_take(studio_copy: Path, seed: int) -> None:
    studio = open_studio(studio_copy)
    wanted = {studio.audio_path(t).name for t in studio.takes()}
    studio.close()
    data = bytearray((studio_copy / "studio.db").read_bytes())
    size = int.from_bytes(data[16:18], "big")
    rng = np.random.default_rng(seed)
    page = int(rng.integers(len(data) // size))
    data[page * size : (page + 1) * size] = rng.bytes(size)
    (studio_copy / "studio.db").write_bytes(data)
    try:
        studio = open_studio(studio_copy, create=False)
    except JigwrightError:
        repair_studio(studio_copy)
        studio = open_studio(studio_copy, create=False)
    found = {studio.audio_path(t).name for t in studio.takes()}
    assert wanted <= found
    assert all(studio.audio_path(t).is_file() for t in studio.takes())
    studio.close()
