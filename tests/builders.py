"""Takes made of numbers: what was heard, chosen note by note; no sound is needed.

Each note sounds where it is written; how far it is off, and how sure that is, is said.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import instrument
from jigwright.core.music.references import EQUAL, target_hz
from jigwright.core.sound.heard import METHOD_VERSION, Contours, Heard, Segment
from jigwright.services.records import OwnedInstrument, Player, TakeRecord
from jigwright.store.opening import open_studio
from jigwright.store.studio import Studio
from signals import take_record

BEAT_S = 0.5


def segment(
    f0_hz: float,
    onset_s: float,
    *,
    seconds: float = 0.45,
    uncertainty_cents: float = 0.5,
    level_dbfs: float = -20.0,
) -> Segment:
    """A note that was heard."""
    return Segment(
        onset_s=onset_s, offset_s=onset_s + seconds, core_start_s=onset_s + 0.1,
        core_end_s=onset_s + seconds - 0.05, f0_hz=f0_hz, uncertainty_cents=uncertainty_cents,
        spread_cents=1.0, drift_cents_per_s=0.0, level_dbfs=level_dbfs, attack_db=12.0,
        clarity=0.97, slurred=False,
    )  # fmt: skip


def heard(segments: Sequence[Segment], *, method_version: int = METHOD_VERSION) -> Heard:
    """What was heard, from its notes; the curves hold their pitches."""
    end_s = max((s.offset_s for s in segments), default=0.0) + 1.0
    n = round(200 * end_s)
    f0 = np.full(n, np.nan)
    level = np.full(n, -80.0)
    for s in segments:
        span = slice(round(200 * s.onset_s), round(200 * s.offset_s))
        f0[span], level[span] = s.f0_hz, s.level_dbfs
    curve = np.where(np.isnan(f0), 0.0, 0.95)
    return Heard(
        contours=Contours(
            f0_hz=f0, level_db=level, clarity=curve, centroid_hz=3.0 * f0, loudness_db=level
        ),
        segments=tuple(segments), duration_s=end_s, sample_rate_hz=48_000, n_channels=1,
        i_channel=0, noise_dbfs=-75.0, window_s=0.02, method_version=method_version,
    )  # fmt: skip


def heard_of(
    jig: Jig,
    off_cents: Sequence[float | None],
    *,
    uncertainty_cents: float = 0.5,
    a4_hz: float = 440.0,
    level_dbfs: float = -20.0,
    method_version: int = METHOD_VERSION,
) -> Heard:
    """A jig of single notes as it was played: each note so far off, ``None`` where left out."""
    notes = [
        segment(
            target_hz(EQUAL, e.heads[0].pitch, a4_hz) * 2.0 ** (cents / 1200.0), 0.5 + BEAT_S * i,
            uncertainty_cents=uncertainty_cents, level_dbfs=level_dbfs,
        )
        for i, (e, cents) in enumerate(zip(jig.events, off_cents, strict=True))
        if cents is not None
    ]  # fmt: skip
    return heard(notes, method_version=method_version)


def new_studio(folder: Path) -> Studio:
    """A studio with Nell and Odo, a violin and a cello, and nothing played."""
    studio = open_studio(folder)
    studio.add_player(Player(id="p", name="Nell Harbour"))
    studio.add_player(Player(id="q", name="Odo Weir"))
    for one, kind in (("i", "violin"), ("c", "cello")):
        studio.add_instrument(
            OwnedInstrument(id=one, name=kind, kind=kind, strings=instrument(kind).strings)
        )
    studio.settle()
    return studio


def keep_take(
    studio: Studio,
    take_id: str,
    jig: Jig | None,
    what: Heard | None,
    *,
    utc: str = "2026-11-02T10:00:00Z",
    **changes: object,
) -> TakeRecord:
    """Keep a take; its sound is a few bytes nobody listens to."""
    source = studio.folder / f"{take_id}.src"
    source.write_bytes(take_id.encode())
    if jig is not None:
        studio.add_jig(jig, utc=utc)
    record = take_record(take_id, jig, utc=utc, seconds=what.duration_s if what else 1.0)
    kept = studio.add_take(replace(record, **changes), source, what)  # type: ignore[arg-type]
    source.unlink()
    return kept


class KeptSettings:
    """Settings in a dictionary."""

    def __init__(self) -> None:
        self.kept: dict[str, str] = {}

    def setting(self, name: str, default: str = "") -> str:
        return self.kept.get(name, default)

    def set_setting(self, name: str, value: str) -> None:
        self.kept[name] = value
