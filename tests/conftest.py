from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from jigwright.audio.files import SndFiles
from jigwright.core.jig.model import Jig
from jigwright.core.jig.scales import make_scale
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import PitchClass
from jigwright.core.music.references import pure_strings
from jigwright.core.player.faults import parse_faults
from jigwright.core.player.play import Performance, play
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.records import OwnedInstrument, Player, TakeRecord
from jigwright.store.studio import open_studio

settings.register_profile(
    "suite", max_examples=40, deadline=None, suppress_health_check=list(HealthCheck)
)
settings.load_profile("suite")

TONICS = {"violin": "D", "viola": "G", "cello": "C", "bass": "F"}


def scale(kind: str = "violin", *, slur: int = 1, tempo: float = 120.0, octaves: int = 1) -> Jig:
    return make_scale(
        jig_id=f"scale-{kind}",
        instrument_id=kind,
        key=Key(PitchClass.parse(TONICS[kind])),
        slur=slur,
        tempo_bpm=tempo,
        octaves=octaves,
    )


def perform(jig: Jig, faults: str = "", *, seed: int = 1, a4_hz: float = 440.0) -> Performance:
    return play(jig, seed=seed, faults=parse_faults(faults), a4_hz=a4_hz)


def listen(performance: Performance) -> Heard:
    inst = instrument(performance.instrument_id)
    lowest = min(pure_strings(inst.strings, performance.a4_hz).values())
    signal = choose_signal(performance.sound.samples, performance.sound.rate_hz)
    return hear(signal, inst, lowest_open_hz=lowest)


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


def take_record(
    take_id: str, jig: Jig | None, *, utc: str = "2026-11-02T10:00:00Z", seconds: float = 1.0
) -> TakeRecord:
    return TakeRecord(
        id=take_id, jig_id=jig.id if jig else None, jig_revision=jig.revision if jig else None,
        player_id="p", instrument_id="i", recorded_utc=utc, utc_offset_min=0, audio="", sha256="",
        source_name="a.wav", duration_s=seconds, a4_hz=440.0, reference="equal",
        tolerance_cents=10.0, input_name="test",
    )  # fmt: skip


@pytest.fixture
def studio_copy(small_studio: Path, tmp_path: Path) -> Path:
    target = tmp_path / "studio"
    shutil.copytree(small_studio, target)
    return target


@pytest.fixture
def write_sound(tmp_path: Path) -> Iterator[Callable[..., Path]]:
    import soundfile

    def write(
        name: str, samples: np.ndarray, rate_hz: int = 48_000, subtype: str = "PCM_16"
    ) -> Path:
        path = tmp_path / name
        soundfile.write(path, samples, rate_hz, subtype=subtype)
        return path

    yield write
