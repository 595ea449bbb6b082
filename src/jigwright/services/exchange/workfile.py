"""Set work to give away: one zip with what is wanted and the jig; read back as if hostile."""

from __future__ import annotations

import errno
import json
import zipfile
from dataclasses import asdict, dataclass
from datetime import date
from pathlib import Path
from typing import Any

from jigwright.core.checking import field, whole, words
from jigwright.core.errors import FieldError, JigError, ScoreError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.core.judge.work import SetWork
from jigwright.services.exchange.bundle import (
    UNREADABLE,
    checked_entries,
    read_entry,
    read_manifest,
)
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.plain_files import check_readable
from jigwright.services.take_fields import moment, plain_id

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
    size = check_readable(path)
    if size > _MOST_FILE_BYTES:
        raise ScoreError("too_large", f"{size / 1e6:.0f} MB")
    try:
        with zipfile.ZipFile(path) as archive:
            entries = checked_entries(archive)
            manifest = read_manifest(archive, entries, SCHEMA)
            jig = jig_from_json(read_entry(archive, entries, "jig.json").decode("utf-8"))
        return WorkFile(
            work=_work(field(manifest, "work", "manifest.json"), "manifest.json: work", jig),
            jig=jig, for_name=words(manifest.get("for", ""), "manifest.json: for", 80),
        )  # fmt: skip
    except ScoreError:
        raise
    except (FieldError, JigError) as error:
        raise ScoreError("refused", str(error)[:160]) from None
    except OSError as error:
        if error.errno != errno.EINVAL:  # a place before the file's beginning, named inside it
            raise
        raise ScoreError("damaged", "its table of contents") from None
    except UNREADABLE as error:
        raise ScoreError("damaged", f"{type(error).__name__}: {error}"[:100]) from None


def _work(row: Any, where: str, jig: Jig) -> SetWork:
    due = words(field(row, "due", where), f"{where}.due", 40)
    try:
        day = date.fromisoformat(due[:10])
    except ValueError:
        raise FieldError(f"{where}.due", repr(due), "a day such as 2026-11-02") from None
    if not 2000 <= day.year <= 2200:
        raise FieldError(f"{where}.due", repr(due), "a day of this century or the next")
    return SetWork(
        id=plain_id(field(row, "id", where), f"{where}.id"),
        player_id=plain_id(field(row, "player_id", where), f"{where}.player_id"),
        jig_id=jig.id, jig_revision=jig.revision,
        words=words(field(row, "words", where), f"{where}.words", 500), due=day.isoformat(),
        good_takes=whole(field(row, "good_takes", where), f"{where}.good_takes", 1, _MOST_GOOD),
        who=words(field(row, "who", where), f"{where}.who", 80),
        set_utc=moment(field(row, "set_utc", where), f"{where}.set_utc"),
    )  # fmt: skip
