"""Puts the adapters together: the only place that knows them all."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
from functools import partial
from pathlib import Path

from jigwright.core.errors import StoreError
from jigwright.services.ports import Progress


def data_dir() -> Path:
    """Where a user's own studio lies by default."""
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(base) / "jigwright" / "studio"


def cache_dir() -> Path:
    """Where things that can be made again lie."""
    base = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(base) / "jigwright"


def demo_studio() -> Path:
    """The demo studio in the cache: the class and its jigs are there at once, takes come later."""
    from jigwright.services.demo import begin_demo
    from jigwright.services.demo_version import DEMO_VERSION
    from jigwright.store.opening import open_studio
    from jigwright.wording.catalogue import language_now

    language = language_now()
    of_language = "" if language == "en" else f"-{language}"
    folder = cache_dir() / f"demo-{DEMO_VERSION}{of_language}"
    if (folder / "studio.db").exists():
        return folder
    folder.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder.parent, prefix=".demo-") as scratch:
        part = Path(scratch) / "studio"
        studio = open_studio(part)
        try:
            begin_demo(studio)
        finally:
            studio.close()
        shutil.rmtree(folder, ignore_errors=True)
        part.replace(folder)  # whole or not at all
    return folder


def whole_demo_studio(progress: Progress | None = None) -> Path:
    """The demo studio with all its takes; what is missing is made first."""
    from jigwright.audio.files import SndFiles
    from jigwright.services.demo_takes import build_demo
    from jigwright.store.opening import open_studio

    folder = demo_studio()
    studio = open_studio(folder)
    try:
        known = {t.id for t in (*studio.takes(), *studio.takes(binned=True))}
        if not studio.read_only:
            with tempfile.TemporaryDirectory(dir=folder.parent, prefix=".demo-") as scratch:
                build_demo(studio, SndFiles(), Path(scratch), known=known, progress=progress)
    finally:
        studio.close()
    return folder


def run_window(
    *,
    demo: bool,
    studio_dir: Path | None,
    shots: Path | None,
    theme: str | None,
    files: tuple[Path, ...] = (),
    language: str | None = None,
) -> int:
    """Open the window and stay until it closes."""
    if shots is not None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from jigwright.audio.capture import capture
    from jigwright.audio.output import open_output
    from jigwright.audio.portaudio import begin_portaudio
    from jigwright.handlers import make_handlers
    from jigwright.listening import listen
    from jigwright.services.failure_log import FailureLog
    from jigwright.store.opening import open_studio
    from jigwright.ui.app import Outside, run_app, run_refusal
    from jigwright.wording.catalogue import use_language
    from jigwright.wording.errors import error_sentence
    from jigwright.work.process import WorkerProcess
    from jigwright.work.stream import StreamProcess

    if shots is not None and studio_dir is None:
        folder = whole_demo_studio(_print_progress)
    elif demo:
        folder = demo_studio()
    else:
        folder = studio_dir or data_dir()
    try:
        studio = open_studio(folder)
    except StoreError as error:
        print(f"jigwright: {error_sentence(error)}", file=sys.stderr)
        if shots is not None:
            return 1
        mend = None
        if error.reason == "damaged":
            mend = partial(_mend, folder)
        return run_refusal(error_sentence(error), theme=theme, mend=mend, folder=folder)
    log = None if studio.read_only else FailureLog(folder)
    chosen = studio.setting("language")
    if chosen and language is None and shots is None:
        use_language(chosen)
    stand_in = shots is not None or os.environ.get("JIGWRIGHT_OUTPUT") == "stand-in"
    outside = Outside(
        studio=studio,
        worker=WorkerProcess(make_handlers),
        output=lambda: open_output(stand_in=stand_in),
        cache=cache_dir(),
        demo=demo,
        demo_worker=WorkerProcess(make_handlers) if demo and shots is None else None,
        capture=lambda: StreamProcess(capture, begin=begin_portaudio),
        ear=lambda: StreamProcess(listen, modules=("jigwright.services.ear",)),
    )
    try:
        return run_app(outside, shots=shots, theme=theme, files=files)
    finally:
        outside.worker.close()
        if outside.demo_worker is not None:
            outside.demo_worker.close()
        studio.close()
        if log is not None:
            log.close()


def _mend(folder: Path) -> str:
    """Mend a damaged studio; says what came of it."""
    from jigwright.store.repair import repair_studio
    from jigwright.wording.mending import mended_sentence

    return mended_sentence(*repair_studio(folder).figures)


def _print_progress(share: float) -> None:
    print(f"\rmaking the demo studio: {share:4.0%}", end="" if share < 1 else "\n", flush=True)
