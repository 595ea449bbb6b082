from __future__ import annotations

import logging
import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from jigwright.audio.files import SndFiles
from jigwright.core.isolation import LOGGER
from jigwright.core.music.instruments import instrument
from jigwright.services.records import OwnedInstrument, Player
from jigwright.store.opening import open_studio
from signals import listen, perform, scale, take_record

settings.register_profile(
    "suite", max_examples=40, deadline=None, suppress_health_check=list(HealthCheck)
)
settings.load_profile("suite")


@pytest.fixture(autouse=True)
def no_part_fails(request: pytest.FixtureRequest) -> Iterator[None]:
    """A part that fails is refused, not raised: in tests it fails, unless that is provoked."""
    lines: list[str] = []

    class Collect(logging.Handler):
        def emit(self, record: logging.LogRecord) -> None:
            lines.append(record.getMessage())

    handler = Collect()
    LOGGER.addHandler(handler)
    yield
    LOGGER.removeHandler(handler)
    if request.node.get_closest_marker("fails_on_purpose") is None:
        assert lines == []


@pytest.fixture(scope="session")
def sounds() -> Path:
    default = Path(__file__).parents[2] / "shared" / "sounds"
    folder = Path(os.environ.get("JIGWRIGHT_SOUNDS", default))
    if not folder.is_dir():
        pytest.skip(f"no folder of known sounds at {folder} (set JIGWRIGHT_SOUNDS)")
    return folder


@pytest.fixture(scope="session")
def small_studio(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A studio with one jig and three takes, made once."""
    folder = tmp_path_factory.mktemp("studio") / "studio"
    scratch = tmp_path_factory.mktemp("scratch")
    studio = open_studio(folder)
    jig = scale()
    studio.add_player(Player(id="p", name="Nell Harbour"))
    studio.add_instrument(
        OwnedInstrument(id="i", name="", kind="violin", strings=instrument("violin").strings)
    )
    studio.add_jig(jig, utc="2026-11-01T10:00:00Z")
    for i, cents in enumerate((-18, -16, -20, -17)):
        extra = "; vibrato notes=7 extent_cents=40" if i == 3 else ""
        performance = perform(jig, f"detune finger=2 string=1 cents={cents}{extra}", seed=i)
        path = scratch / f"{i}.wav"
        SndFiles().write_wav(path, performance.sound.samples, performance.sound.rate_hz)
        heard = listen(performance)
        studio.add_take(
            take_record(f"t{i}", jig, utc=f"2026-11-0{i + 2}T10:00:00Z", seconds=heard.duration_s),
            path,
            heard,
        )
    studio.close()
    return folder


@pytest.fixture
def studio_copy(small_studio: Path, tmp_path: Path) -> Path:
    target = tmp_path / "studio"
    shutil.copytree(small_studio, target)
    return target


@pytest.fixture
def write_sound(tmp_path: Path) -> Callable[..., Path]:
    import soundfile

    def write(
        name: str, samples: np.ndarray, rate_hz: int = 48_000, subtype: str = "PCM_16"
    ) -> Path:
        path = tmp_path / name
        soundfile.write(path, samples, rate_hz, subtype=subtype)
        return path

    return write
