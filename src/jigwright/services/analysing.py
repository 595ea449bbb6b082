"""Analyse one sound: the use case behind the command line and the worker."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from jigwright.core.isolation import isolated
from jigwright.core.jig.model import Jig
from jigwright.core.jig.stops import written_pitches_hz, written_stops_hz
from jigwright.core.judge.analysis import Judged
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch
from jigwright.core.music.references import pure_strings
from jigwright.core.sound.drone import remove_drone
from jigwright.core.sound.heard import Heard
from jigwright.core.sound.intake import choose_signal
from jigwright.core.sound.listen import hear
from jigwright.services.ports import Progress, SoundFiles
from jigwright.services.take_reader import judge_heard


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysed:
    """A take heard and judged.

    Parameters
    ----------
    heard : Heard
    judged : Judged
    key_fifths : int
    """

    heard: Heard
    judged: Judged
    key_fifths: int


def hear_file(
    files: SoundFiles,
    path: Path,
    *,
    instrument_id: str,
    strings: tuple[Pitch, ...],
    a4_hz: float,
    drone_hz: tuple[float, ...] = (),
    jig: Jig | None = None,
    progress: Progress | None = None,
) -> Heard:
    """Read a file and analyse its best channel, a drone that sounded beside it taken out.

    Raises
    ------
    AudioError
        If it cannot be read or analysed.
    """
    samples, rate_hz = files.read(path)
    if drone_hz:
        loud = samples
        samples = isolated("drone", lambda: _without_drone(loud, rate_hz, drone_hz), loud)
        del loud
    signal = choose_signal(samples, rate_hz)
    del samples
    open_hz = tuple(pure_strings(strings, a4_hz).values())
    return hear(
        signal, instrument(instrument_id), lowest_open_hz=min(open_hz), open_hz=open_hz,
        stops_hz=written_stops_hz(jig, a4_hz),
        written_hz=written_pitches_hz(jig, a4_hz), progress=progress,
    )  # fmt: skip


def _without_drone(
    samples: NDArray[np.float32], rate_hz: int, drone_hz: tuple[float, ...]
) -> NDArray[np.float32]:
    clear = [remove_drone(channel, rate_hz, drone_hz) for channel in samples.T]
    return np.stack(clear, axis=1).astype(np.float32)


def analyse_file(files: SoundFiles, path: Path, *, jig: Jig | None, context: Context) -> Analysed:
    """Hear, line up and judge a file.

    Raises
    ------
    AudioError
        If it cannot be read or analysed.
    """
    heard = hear_file(
        files, path, instrument_id=context.instrument_id, strings=context.strings,
        a4_hz=context.a4_hz, jig=jig,
    )  # fmt: skip
    judged, key_fifths = judge_heard(heard, jig, context)
    return Analysed(heard=heard, judged=judged, key_fifths=key_fifths)
