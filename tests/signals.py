"""Jigs, simulated takes and records that many tests use."""

from __future__ import annotations

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
from jigwright.services.recordings import RecordingNote
from jigwright.services.records import TakeRecord

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


def take_record(
    take_id: str, jig: Jig | None, *, utc: str = "2026-11-02T10:00:00Z", seconds: float = 1.0
) -> TakeRecord:
    return TakeRecord(
        id=take_id, jig_id=jig.id if jig else None, jig_revision=jig.revision if jig else None,
        player_id="p", instrument_id="i", recorded_utc=utc, utc_offset_min=0, audio="", sha256="",
        source_name="a.wav", duration_s=seconds, a4_hz=440.0, reference="equal",
        tolerance_cents=10.0, input_name="test",
    )  # fmt: skip


NOTE = RecordingNote(
    id="20261103T182000Z-abc123", started_utc="2026-11-03T18:20:00Z", utc_offset_min=60,
    player_id="p", player="Nell Harbour", instrument_id="i", kind="violin",
    strings=instrument("violin").strings, jig_id="scale", jig_revision=2, title="Harbour scale",
    a4_hz=441.0, reference="just:D", tolerance_cents=8.0, input_name="microphone", source="Stand",
    keeps="takes", drone_hz=(146.8, 293.6),
)  # fmt: skip
