"""References by name and from scale files, good and bad."""

from __future__ import annotations

from pathlib import Path

import pytest

from jigwright.core.errors import TuningError
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import target_hz
from jigwright.services.references import load_reference


def scale_file(folder: Path, text: str, name: str = "steps.scl") -> Path:
    path = folder / name
    path.write_text(text)
    return path


TWELVE = "! steps.scl\nTwelve steps\n 12\n" + "\n".join(f" {100 * k}.0" for k in range(1, 13))


@pytest.mark.parametrize("tonic", ["", ":C", ":F#", ":Bb"])
def test_twelve_equal_steps_are_equal_temperament_whatever_the_tonic(
    tmp_path: Path, tonic: str
) -> None:
    reference = load_reference(f"{scale_file(tmp_path, TWELVE)}{tonic}")
    equal = load_reference("equal")
    assert reference.name.startswith("steps.scl")
    for name in ("G3", "C4", "F#4", "Bb4", "E5"):
        pitch = Pitch.parse(name)
        hz = target_hz(reference, pitch, a4_hz=440.0)
        assert hz == pytest.approx(target_hz(equal, pitch, a4_hz=440.0), rel=1e-6)


@pytest.mark.parametrize(
    ("text", "said"),
    [("nothing", "steps"), ("! x\nseven\n 7\n 3/2\n", "steps"), ("x\n 1\n -5/0\n", "steps")],
)
def test_a_broken_file_is_refused_by_its_name(tmp_path: Path, text: str, said: str) -> None:
    with pytest.raises(TuningError, match=said):
        load_reference(str(scale_file(tmp_path, text)))


def test_a_missing_a_huge_and_a_wrongly_placed_scale_are_refused(tmp_path: Path) -> None:
    with pytest.raises(TuningError, match="gone"):
        load_reference(str(tmp_path / "gone.scl"))
    with pytest.raises(TuningError, match="too large"):
        load_reference(str(scale_file(tmp_path, "9" * 1_000_001)))
    with pytest.raises(TuningError, match="not a tonic"):
        load_reference(f"{scale_file(tmp_path, TWELVE)}:H7")
    with pytest.raises(TuningError):
        load_reference("well")
