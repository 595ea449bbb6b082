"""A take to give away: one zip with sound, jig, context and remarks; and back, as if hostile.

Names are an allow-list; links, folders, absolute and repeated names are refused; sizes and the
ratio of packing are capped before and while unpacking; the sound must have the hash the manifest
names; every text is shortened and stripped of what cannot be printed.
"""

from __future__ import annotations

import errno
import hashlib
import io
import json
import struct
import zipfile
import zlib
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any
from uuid import uuid4

from jigwright.core.checking import field, one_of, read_json, rows_of
from jigwright.core.errors import FieldError, JigError, JigwrightError, ScoreError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.plain_files import check_readable
from jigwright.services.records import OwnedInstrument, Player, Remark, TakeRecord
from jigwright.services.take_fields import (
    instrument_row,
    read_instrument,
    read_player,
    read_remark,
    read_take,
    take_row,
    written_remark,
)

SCHEMA = "jigwright.bundle/1"
SUFFIX = ".take.zip"
_NAMES = ("manifest.json", "jig.json", "score.musicxml")
_AUDIO = ("sound.flac", "sound.wav", "sound.ogg", "sound.aiff", "sound.mp3")
_MOST_BYTES = 600_000_000
_MOST_TEXT = 20_000_000
_MOST_RATIO = 300
_MOST_REMARKS = 500
UNREADABLE = (
    zipfile.BadZipFile, zlib.error, struct.error, KeyError, TypeError, ValueError, RecursionError,
    NotImplementedError, RuntimeError, EOFError, OverflowError, JigwrightError,
)  # fmt: skip
"""What reading somebody's archive may fail with."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bundle:
    """What a bundle holds.

    Parameters
    ----------
    take : TakeRecord
        ``audio`` is empty until it is kept.
    player : Player
    owned : OwnedInstrument
    jig : Jig or None
    remarks : tuple of Remark
    audio : Path
        Unpacked and checked.
    """

    take: TakeRecord
    player: Player
    owned: OwnedInstrument
    jig: Jig | None
    remarks: tuple[Remark, ...]
    audio: Path


def write_bundle(
    path: Path, *, take: TakeRecord, player: Player, owned: OwnedInstrument, jig: Jig | None,
    remarks: tuple[Remark, ...], audio: Path,
) -> None:  # fmt: skip
    """Write a bundle, complete or not at all.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    sound = f"sound{audio.suffix.lower()}"
    manifest = {
        "schema": SCHEMA,
        "take": take_row(take),
        "player": asdict(player),
        "instrument": instrument_row(owned),
        "sound": sound,
        "remarks": [written_remark(r) for r in remarks],
    }  # fmt: skip
    part = path.with_name(f".{path.name}.part")
    try:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("manifest.json", json.dumps(manifest, indent=1, ensure_ascii=False))
            if jig is not None:
                archive.writestr("jig.json", jig_to_json(jig))
                archive.writestr("score.musicxml", write_musicxml(jig))
            archive.write(audio, sound, compress_type=zipfile.ZIP_STORED)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def read_bundle(path: Path, to: Path) -> Bundle:
    """Check a bundle and unpack its sound into a folder.

    Raises
    ------
    ScoreError
        If anything about it is not as it should be; nothing is left behind.
    """
    size = check_readable(path)
    if size > _MOST_BYTES:
        raise ScoreError("too_large", f"{size / 1e6:.0f} MB")
    try:
        with zipfile.ZipFile(path) as archive:
            entries = checked_entries(archive)
            manifest = read_manifest(archive, entries, SCHEMA)
            jig = None
            if "jig.json" in entries:
                jig = jig_from_json(read_entry(archive, entries, "jig.json").decode("utf-8"))
            return _bundle(archive, entries, manifest, jig, to)
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


def read_manifest(
    archive: zipfile.ZipFile, entries: dict[str, zipfile.ZipInfo], schema: str
) -> dict[str, Any]:
    """The manifest of an archive, its values fit to be looked at.

    Raises
    ------
    FieldError, ScoreError
    """
    text = read_entry(archive, entries, "manifest.json").decode("utf-8")
    manifest = read_json(text, what="manifest.json")
    if not isinstance(manifest, dict) or manifest.get("schema") != schema:
        raise ScoreError("refused", f"manifest.json is not {schema}")
    return manifest


def checked_entries(archive: zipfile.ZipFile) -> dict[str, zipfile.ZipInfo]:
    """Entries of an archive, each allowed and of a sane size.

    Raises
    ------
    ScoreError
    """
    entries: dict[str, zipfile.ZipInfo] = {}
    for info in archive.infolist():
        name = info.filename
        kind = info.external_attr >> 28
        if name in entries or name not in (*_NAMES, *_AUDIO) or kind not in (0, 8):
            raise ScoreError("hostile", f"it holds {name[:40]!r}")
        if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
            raise ScoreError("hostile", f"{name!r} is packed in an unusual way")
        if info.file_size > (_MOST_BYTES if name in _AUDIO else _MOST_TEXT):
            raise ScoreError("too_large", "once unpacked")
        if info.file_size > _MOST_RATIO * max(info.compress_size, 1) + 10_000:
            raise ScoreError("hostile", "it unpacks to far more than it holds")
        entries[name] = info
    if "manifest.json" not in entries:
        raise ScoreError("not_a_score", "not a bundle of takes")
    return entries


def read_entry(archive: zipfile.ZipFile, entries: dict[str, zipfile.ZipInfo], name: str) -> bytes:
    """One entry, unpacked as far as is sane."""
    with archive.open(entries[name]) as file:
        content = file.read(_MOST_TEXT + 1)
    if len(content) > _MOST_TEXT:
        raise ScoreError("too_large", "once unpacked")
    return content


def _bundle(
    archive: zipfile.ZipFile,
    entries: dict[str, zipfile.ZipInfo],
    manifest: dict[str, Any],
    jig: Jig | None,
    to: Path,
) -> Bundle:
    m = "manifest.json"
    row = field(manifest, "take", m)
    player = read_player(field(manifest, "player", m), f"{m}: player")
    owned = read_instrument(field(manifest, "instrument", m), f"{m}: instrument")
    take = read_take(row, f"{m}: take", player, owned)
    if jig is not None and (jig.id, jig.revision) != (take.jig_id, take.jig_revision):
        raise FieldError(f"{m}: take.jig_id", "another jig", f"the jig of the bundle, {jig.id}")
    if jig is None:
        take = replace(take, jig_id=None, jig_revision=None)
    if take.reference.lower().partition(":")[0].endswith(".scl"):
        take = replace(take, reference="equal")  # the scale file itself is not in the bundle
    remarks = tuple(
        read_remark(r, f"{m}: remarks[{i}]", take.id)
        for i, r in enumerate(rows_of(manifest.get("remarks", []), f"{m}: remarks", _MOST_REMARKS))
    )
    sound = one_of(field(manifest, "sound", m), f"{m}: sound", _AUDIO)
    if sound not in entries:
        raise ScoreError("refused", f"{m}: sound: {sound} is not in the bundle")
    return Bundle(
        take=take, player=player, owned=owned, jig=jig, remarks=remarks,
        audio=_unpacked(archive, entries[sound], take, to),
    )  # fmt: skip


def _unpacked(archive: zipfile.ZipFile, info: zipfile.ZipInfo, take: TakeRecord, to: Path) -> Path:
    to.mkdir(parents=True, exist_ok=True)
    target = to / f"{uuid4().hex}{Path(info.filename).suffix}"  # never a name from outside
    digest, left = hashlib.sha256(), _MOST_BYTES
    try:
        with archive.open(info) as source, target.open("wb") as file:
            while chunk := source.read(io.DEFAULT_BUFFER_SIZE * 16):
                left -= len(chunk)
                if left < 0:
                    raise ScoreError("too_large", "once unpacked")
                digest.update(chunk)
                file.write(chunk)
        if digest.hexdigest() != take.sha256:
            raise ScoreError("damaged", "the sound is not the one that was sent")
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    return target
