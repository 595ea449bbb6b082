"""``jigwright studio``: look after a studio folder without a window."""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path

from jigwright.core.errors import StoreError
from jigwright.services.bin_contents import bring_back, in_the_bin
from jigwright.services.exchange.bundle import read_bundle, write_bundle
from jigwright.services.taking_in import is_here, keep_bundle
from jigwright.store.opening import open_studio
from jigwright.store.repair import repair_studio
from jigwright.store.studio import Studio
from jigwright.wording.bin import deleted_sentence
from jigwright.wording.mending import mended_sentence


def run_studio(options: argparse.Namespace) -> int:
    """Run the command; returns the exit status."""
    if options.studio_command == "repair":
        print(mended_sentence(*repair_studio(Path(options.folder)).figures))
        return 0
    studio = open_studio(Path(options.folder), create=False)
    try:
        match options.studio_command:
            case "check":
                problems = studio.check()
                for problem in problems:
                    print(f"jigwright: {problem}", file=sys.stderr)
                if not problems:
                    print("no damage found")
                return 1 if problems else 0
            case "list":
                jigs = {j.id: j.title for j in studio.jigs()}
                for take in studio.takes():
                    title = jigs.get(take.jig_id or "", "no jig")
                    print(f"{take.recorded_utc}  {take.duration_s:6.1f} s  {title}  {take.id}")
            case "bin":
                _bin(studio, options.restore, empty=options.empty)
            case "backup":
                studio.backup(Path(options.to))
            case "export":
                _export(studio, options.take, Path(options.out))
            case "import":
                _import(studio, Path(options.bundle))
    finally:
        studio.close()
    return 0


def _bin(studio: Studio, restore: str | None, *, empty: bool) -> None:
    rows = in_the_bin(studio)
    if restore is not None:
        if restore not in {r.take.id for r in rows}:
            raise StoreError("no_take", f"{restore} in the bin")
        bring_back(studio, restore)
    elif empty:
        print(deleted_sentence(studio.empty_bin()))
    else:
        for r in rows:
            title = r.title or "no jig"
            print(f"{r.take.recorded_utc}  {r.take.duration_s:6.1f} s  {title}  {r.take.id}")


def _export(studio: Studio, take_id: str, to: Path) -> None:
    take = next((t for t in studio.takes() if t.id == take_id), None)
    if take is None:
        raise StoreError("no_take", take_id)
    jig = None
    if take.jig_id is not None and take.jig_revision is not None:
        jig = studio.jig(take.jig_id, take.jig_revision)
    write_bundle(
        to, take=take, jig=jig, remarks=studio.remarks(take.id), audio=studio.audio_path(take),
        player=next(p for p in studio.players() if p.id == take.player_id),
        owned=next(i for i in studio.instruments() if i.id == take.instrument_id),
    )  # fmt: skip


def _import(studio: Studio, path: Path) -> None:
    from jigwright.audio.files import SndFiles
    from jigwright.services.analysing import hear_file

    with tempfile.TemporaryDirectory() as folder:
        bundle = read_bundle(path, Path(folder))
        here = is_here(studio, bundle.take.id)
        if here != "no":
            where = "in its bin" if here == "bin" else "on its shelf"
            raise StoreError("exists", f"{bundle.take.id} {where}")
        heard = hear_file(
            SndFiles(), bundle.audio, instrument_id=bundle.owned.kind,
            strings=bundle.owned.strings, a4_hz=bundle.take.a4_hz, jig=bundle.jig,
        )  # fmt: skip
        keep_bundle(studio, bundle, heard, utc=bundle.take.recorded_utc)
