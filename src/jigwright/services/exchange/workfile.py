"""Set work to give away: one zip with what is wanted and the jig; read back as if hostile."""

from __future__ import annotations

import json
import zipfile
from dataclasses import asdict, dataclass
from datetime import date
from pathlib import Path

from jigwright.core.errors import ScoreError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.core.judge.work import SetWork
from jigwright.services.exchange.bundle import (
    UNREADABLE,
    checked_entries,
    plain_id,
    plain_words,
    read_entry,
)
from jigwright.services.exchange.musicxml_out import write_musicxml

SCHEMA = "jigwright.work/1"
SUFFIX = ".work.zip"
_MOST_FILE_BYTES = 30_000_000
_MOST_GOOD = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkFile:
    """Work and its jig; ``for_name`` is the pupil's name as the sender knows it."""

    work: SetWork
    jig: Jig
    for_name: str


def write_work(path: Path, work: SetWork, jig: Jig, for_name: str) -> None:
    """Write a file, complete or not at all.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    manifest = {"schema": SCHEMA, "for": for_name, "work": asdict(work)}
    part = path.with_name(f".{path.name}.part")
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("manifest.json", json.dumps(manifest, indent=1, ensure_ascii=False))
            archive.writestr("jig.json", jig_to_json(jig))
            archive.writestr("score.musicxml", write_musicxml(jig))
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def read_work(path: Path) -> WorkFile:
    """Check and read a file.

    Raises
    ------
    ScoreError
        If anything about it is not as it should be.
    """
    if path.stat().st_size > _MOST_FILE_BYTES:
        raise ScoreError("too_large", f"{path.stat().st_size / 1e6:.0f} MB")
    try:
        with zipfile.ZipFile(path) as archive:
            entries = checked_entries(archive)
            manifest = json.loads(read_entry(archive, entries, "manifest.json"))
            if not isinstance(manifest, dict) or manifest.get("schema") != SCHEMA:
                raise ScoreError("not_a_score", "not a file of set work")
            jig = jig_from_json(read_entry(archive, entries, "jig.json").decode("utf-8"))
        row = manifest["work"]
        work = SetWork(
            id=plain_id(row["id"]), player_id=plain_id(row["player_id"]), jig_id=jig.id,
            jig_revision=jig.revision, words=plain_words(row["words"], 500),
            due=date.fromisoformat(str(row["due"])[:10]).isoformat(),
            good_takes=min(_MOST_GOOD, max(1, int(row["good_takes"]))),
            who=plain_words(row["who"], 80), set_utc=plain_words(row["set_utc"], 20),
        )  # fmt: skip
        return WorkFile(work=work, jig=jig, for_name=plain_words(manifest.get("for", ""), 80))
    except ScoreError:
        raise
    except UNREADABLE as error:
        raise ScoreError("damaged", f"{type(error).__name__}: {error}"[:100]) from None
