"""What the simulated player plays when it stands in for the microphone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from jigwright.core.jig.makers import Setting, maker
from jigwright.core.jig.model import Jig
from jigwright.services.jobs import PreviewRequest, RawSound
from jigwright.ui.tasks import JobRunner

_GAP_S = 3.5
_LEAD_S = 0.8
# try after try: a habit that gets better
BETTER = (
    "detune spread_cents=4; detune finger=2 cents=-19",
    "detune spread_cents=4; detune finger=2 cents=-13",
    "detune spread_cents=3; detune finger=2 cents=-3",
)
FREE = ("detune spread_cents=7",)


def open_strings(kind: str) -> Jig:
    """The open strings one after the other, to be tuned."""
    return maker("long_bows").make(
        Setting(instrument_id=kind, values={"repeats": 1, "beats_in_bow": 3})
    )


def prepare(
    jobs: JobRunner,
    cache: Path,
    jig: Jig | None,
    tries: tuple[str, ...],
    *,
    kind: str,
    a4_hz: float,
    before_s: float,
    done: Callable[[Path], None],
    failed: Callable[[Exception], None],
) -> None:
    """Let the worker play the tries into a raw file.

    Parameters
    ----------
    jobs : JobRunner
    cache : Path
    jig : Jig or None
        Without one a scale of the instrument's kind is played.
    tries : tuple of str
        Faults of one rendition after the other.
    kind : str
    a4_hz : float
    before_s : float
        What goes before each try: the model, or a bar that is counted.
    done, failed : callable
    """
    if jig is None:
        jig = maker("scale").make(Setting(instrument_id=kind))
    cache.mkdir(parents=True, exist_ok=True)
    request = PreviewRequest(
        jig=jig, a4_hz=a4_hz, reference=jig.reference, to=cache / "simulated.f32", tries=tries,
        lead_s=_LEAD_S + before_s, gap_s=_GAP_S + before_s,
    )  # fmt: skip

    def made(sound: RawSound) -> None:
        done(sound.path)

    jobs.run("preview", request, done=made, failed=failed, key="simulated")
