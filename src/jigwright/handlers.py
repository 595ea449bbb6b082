"""What the worker process can do: built inside the process."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jigwright.services.jobs import DecodeRequest, HearRequest, PreviewRequest, RawSound
from jigwright.services.notation import Engraved, EngraveRequest
from jigwright.services.ports import Progress


def make_handlers() -> Mapping[str, Callable[[Any, Progress], Any]]:
    """Build the job table; heavy libraries are imported here, after the window has painted."""
    from jigwright.audio.files import SndFiles
    from jigwright.engraving.score import VerovioEngraver

    files = SndFiles()
    engraver = VerovioEngraver()

    def hear(request: HearRequest, progress: Progress) -> Any:
        from jigwright.services.analysing import hear_file

        return hear_file(
            files, request.path, instrument_id=request.instrument_id, strings=request.strings,
            a4_hz=request.a4_hz, progress=progress,
        )  # fmt: skip

    def engrave(request: EngraveRequest, _progress: Progress) -> Engraved:
        return engraver.engrave(request)

    def decode(request: DecodeRequest, _progress: Progress) -> RawSound:
        samples, rate_hz = files.read(request.path)
        mono = np.nan_to_num(samples[:, min(request.i_channel, samples.shape[1] - 1)])
        return _raw(mono.astype(np.float32), rate_hz, request.to)

    def preview(request: PreviewRequest, _progress: Progress) -> RawSound:
        from jigwright.core.player.play import play
        from jigwright.services.references import load_reference

        performance = play(
            request.jig, seed=1, a4_hz=request.a4_hz, reference=load_reference(request.reference)
        )
        return _raw(performance.sound.samples, performance.sound.rate_hz, request.to)

    def warm(_request: None, _progress: Progress) -> None:
        import jigwright.services.analysing  # noqa: F401 - the import is the work

    return {"hear": hear, "engrave": engrave, "decode": decode, "preview": preview, "warm": warm}


def _raw(samples: NDArray[np.float32], rate_hz: int, to: Path) -> RawSound:
    part = to.with_suffix(".part")
    samples.tofile(part)
    part.replace(to)
    return RawSound(path=to, rate_hz=rate_hz, n_samples=len(samples))
