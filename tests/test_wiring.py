"""What becomes of a window whose studio cannot be opened: a sentence, and no window."""

from __future__ import annotations

from pathlib import Path

import pytest

from jigwright.store.studio import DATABASE
from jigwright.wiring import run_window


def test_pictures_of_a_studio_that_cannot_be_opened_are_refused_with_one_sentence(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / DATABASE).write_bytes(b"no data base at all" * 100)
    shots = tmp_path / "shots"
    done = run_window(demo=False, studio_dir=tmp_path, shots=shots, theme=None)
    said = capsys.readouterr().err
    assert done == 1
    assert said.startswith("jigwright: ")
    assert len(said.splitlines()) == 1
    assert not shots.exists()
