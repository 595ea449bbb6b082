"""``jigwright analyse``: files and folders to JSON, CSV and a printed table."""

from __future__ import annotations

import argparse
import json
import logging
import signal
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from jigwright.audio.files import SUFFIXES, SndFiles
from jigwright.commands.files import STANDARD, load_jig, shown, sound_path, write_whole
from jigwright.commands.interruptions import INTERRUPTIONS
from jigwright.core.errors import JigwrightError
from jigwright.core.isolation import LOGGER, note_failure
from jigwright.core.jig.model import Jig, note_list
from jigwright.core.judge.judging import Context
from jigwright.core.music.instruments import check_a4, instrument, parse_strings
from jigwright.services.analysing import analyse_file
from jigwright.services.plain_files import check_writable
from jigwright.services.references import load_reference
from jigwright.services.result import result_dict, results_csv
from jigwright.wording.catalogue import tr
from jigwright.wording.errors import error_sentence


@dataclass(frozen=True, slots=True, kw_only=True)
class _Request:
    path: Path
    jig: Jig | None
    context: Context


def run_analyse(options: argparse.Namespace) -> int:
    """Run the command; returns the exit status."""
    tell_failures()
    for out in (options.json, options.csv):
        if out and out != STANDARD:
            check_writable(Path(out))
    jig = None
    if options.jig:
        jig = load_jig(Path(options.jig))
    instrument_id = options.instrument or (jig.instrument_id if jig else "violin")
    if options.notes is not None:
        jig = note_list(options.notes, instrument_id=instrument_id)
    strings = (
        parse_strings(options.strings) if options.strings else instrument(instrument_id).strings
    )
    reference = options.reference or (jig.reference if jig and options.jig else "equal")
    context = Context(
        instrument_id=instrument_id,
        strings=strings,
        a4_hz=check_a4(options.a4),
        reference=load_reference(reference),
        tolerance_cents=jig.tolerance_cents if jig else 10.0,
    )
    paths = _files(options.audio)
    if not paths:
        print(
            "jigwright: no sound files there: name files or folders that hold some", file=sys.stderr
        )
        return 1
    requests = [_Request(path=p, jig=jig, context=context) for p in paths]
    outcomes = _run(requests, options.jobs)
    results = [r for r, _ in outcomes if r is not None]
    for path, (_, sentence) in zip(paths, outcomes, strict=True):
        if sentence:
            print(f"jigwright: {shown(path)}: {sentence}", file=sys.stderr)
    _write(options, results, several=len(paths) > 1)
    return 1 if len(results) < len(paths) else 0


def _files(words: list[str]) -> list[Path]:
    paths: list[Path] = []
    for word in words:
        path = Path(word)
        if word != STANDARD and path.is_dir():
            paths.extend(sorted(p for p in path.iterdir() if p.suffix.lower() in SUFFIXES))
        else:
            paths.append(path)
    return paths


def _run(requests: list[_Request], jobs: int) -> list[tuple[dict[str, Any] | None, str]]:
    if jobs <= 1 or len(requests) < 2:
        outcomes = []
        for request in requests:
            outcomes.append(_analyse_one(request))
            if INTERRUPTIONS.seen:
                raise KeyboardInterrupt
        return outcomes
    pool = ProcessPoolExecutor(
        min(jobs, len(requests)), mp_context=get_context("spawn"), initializer=_begin_process
    )
    try:
        with INTERRUPTIONS.held():
            waiting = [pool.submit(_analyse_one, r) for r in requests]
        return [future.result() for future in waiting]
    except KeyboardInterrupt:
        for process in list((pool._processes or {}).values()):
            process.terminate()
        raise
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def _begin_process() -> None:
    """A process of the pool: it is ended by its parent, not by the keyboard."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    tell_failures()


def tell_failures() -> None:
    """Parts that fail are told on standard error, one line each."""
    if not LOGGER.handlers:
        handler = logging.StreamHandler()
        handler.setFormatter(logging.Formatter("jigwright: a part failed: %(message)s"))
        LOGGER.addHandler(handler)
        LOGGER.propagate = False


def _analyse_one(request: _Request) -> tuple[dict[str, Any] | None, str]:
    name = shown(request.path)
    try:
        with sound_path(request.path) as path:
            analysed = analyse_file(SndFiles(), path, jig=request.jig, context=request.context)
        result = result_dict(analysed, file=name, context=request.context, jig=request.jig)
    except (JigwrightError, OSError) as error:
        return None, error_sentence(error)
    except Exception as error:  # one file that cannot be judged never stops the others
        if INTERRUPTIONS.seen:
            raise KeyboardInterrupt from error
        note_failure("analysing", error)
        return None, tr("It could be read, but judging it failed. Please pass the line above on.")
    return result, ""


def _write(options: argparse.Namespace, results: list[dict[str, Any]], *, several: bool) -> None:
    if options.json and results:
        body: Any = results if several else results[0]
        write_whole(Path(options.json), json.dumps(body, indent=1, allow_nan=False) + "\n")
    if options.csv and results:
        write_whole(Path(options.csv), results_csv(results))
    if not options.json and not options.csv:
        for result in results:
            _print_table(result)


def _print_table(result: dict[str, Any]) -> None:
    print(
        f"{result['source']['file']}  A {result['context']['a4_hz']:g}"
        f"  {result['context']['reference']}"
    )
    for start_s, end_s in result["source"]["talks"]:
        print(f"  somebody speaks from {start_s:.1f} to {end_s:.1f} s")
    if not result["notes"]:
        print("  no notes were heard")
    for n in result["notes"]:
        if n["pitch"] is None:
            print(f"  {n['index']:3d}  {n['written']:<4} {n['state']}")
            continue
        vibrato = n["vibrato"] or {}
        wave = (
            f"  vibrato {vibrato['rate_hz']} Hz {vibrato['extent_cents']} c"
            if vibrato.get("present")
            else ""
        )
        kind = (n["arrival"] or {}).get("kind", "")
        print(
            f"  {n['index']:3d}  {n['written']:<4} {n['state']:<7}"
            f" {n['onset_s']:7.3f}–{n['offset_s']:7.3f} s"
            f"  {n['pitch']['cents']:+7.1f} ± {n['pitch']['uncertainty_cents']:.1f} c  {kind}{wave}"
        )
    for f in result["findings"]:
        print(f"  · {f['sentence']}")
