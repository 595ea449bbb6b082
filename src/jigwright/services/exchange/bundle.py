"""A take to give away: one zip with sound, jig, context and remarks; and back, as if hostile.

Names are an allow-list; links, folders, absolute and repeated names are refused; sizes and the
ratio of packing are capped before and while unpacking; the sound must have the hash the manifest
names; every text is shortened and stripped of what cannot be printed.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from jigwright.core.errors import JigwrightError, ScoreError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import check_a4, instrument, parse_strings
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.records import OwnedInstrument, Player, Remark, TakeRecord

SCHEMA = "jigwright.bundle/1"
SUFFIX = ".take.zip"
_NAMES = ("manifest.json", "jig.json", "score.musicxml")
_AUDIO = ("sound.flac", "sound.wav", "sound.ogg", "sound.aiff", "sound.mp3")
_MOST_BYTES = 600_000_000
_MOST_TEXT = 20_000_000
_MOST_RATIO = 300
_MOST_REMARKS = 500
UNREADABLE = (
    zipfile.BadZipFile, KeyError, TypeError, ValueError, RecursionError, NotImplementedError,
    RuntimeError, EOFError, OverflowError, JigwrightError,
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
        "take": {k: v for k, v in asdict(take).items() if k not in ("audio", "binned")},
        "player": asdict(player),
        "instrument": {
            "id": owned.id, "name": owned.name, "kind": owned.kind,
            "strings": " ".join(str(s) for s in owned.strings),
        },
        "sound": sound,
        "remarks": [asdict(r) for r in remarks],
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
    if path.stat().st_size > _MOST_BYTES:
        raise ScoreError("too_large", f"{path.stat().st_size / 1e6:.0f} MB")
    try:
        with zipfile.ZipFile(path) as archive:
            entries = checked_entries(archive)
            manifest = json.loads(read_entry(archive, entries, "manifest.json"))
            if not isinstance(manifest, dict) or manifest.get("schema") != SCHEMA:
                raise ScoreError("not_a_score", "not a bundle of takes")
            jig = None
            if "jig.json" in entries:
                jig = jig_from_json(read_entry(archive, entries, "jig.json").decode("utf-8"))
            return _bundle(archive, entries, manifest, jig, to)
    except ScoreError:
        raise
    except UNREADABLE as error:
        raise ScoreError("damaged", f"{type(error).__name__}: {error}"[:100]) from None


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
    row, person, own = manifest["take"], manifest["player"], manifest["instrument"]
    player = Player(id=plain_id(person["id"]), name=plain_words(person["name"], 80))
    owned = OwnedInstrument(
        id=plain_id(own["id"]), name=plain_words(own["name"], 80), kind=instrument(own["kind"]).id,
        strings=parse_strings(own["strings"]),
    )  # fmt: skip
    if jig is not None and (jig.id, jig.revision) != (row["jig_id"], row["jig_revision"]):
        raise ScoreError("damaged", "the jig is not the take's")
    take = TakeRecord(
        id=plain_id(row["id"]), jig_id=jig.id if jig else None,
        jig_revision=jig.revision if jig else None, player_id=player.id, instrument_id=owned.id,
        recorded_utc=plain_words(row["recorded_utc"], 20),
        utc_offset_min=int(row["utc_offset_min"]),
        audio="", sha256=str(row["sha256"]), source_name=plain_words(row["source_name"], 120),
        duration_s=float(row["duration_s"]), a4_hz=check_a4(float(row["a4_hz"])),
        reference=plain_words(row["reference"], 60),
        tolerance_cents=min(100.0, max(1.0, float(row["tolerance_cents"]))),
        input_name=plain_words(row["input_name"], 80),
    )  # fmt: skip
    remarks = tuple(
        Remark(
            id=plain_id(r["id"]), take_id=take.id,
            note_id=None if r["note_id"] is None else plain_words(r["note_id"], 120),
            at_s=float(r["at_s"]), who=plain_words(r["who"], 80),
            words=plain_words(r["words"], 500),
            utc=plain_words(r["utc"], 20),
        )
        for r in manifest["remarks"][:_MOST_REMARKS]
    )  # fmt: skip
    sound = str(manifest["sound"])
    if sound not in _AUDIO or sound not in entries:
        raise ScoreError("damaged", "the sound is missing")
    return Bundle(
        take=take, player=player, owned=owned, jig=jig, remarks=remarks,
        audio=_unpacked(archive, entries[sound], take, to),
    )  # fmt: skip


def _unpacked(archive: zipfile.ZipFile, info: zipfile.ZipInfo, take: TakeRecord, to: Path) -> Path:
    to.mkdir(parents=True, exist_ok=True)
    target = to / f"{take.id}{Path(info.filename).suffix}"
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


def plain_id(value: object) -> str:
    """An identity: letters, digits, dot, dash, underscore."""
    text = str(value)
    if not 1 <= len(text) <= 80 or not all(c.isalnum() or c in "._-" for c in text):
        raise ScoreError("hostile", "an identity is not plain")
    if text.startswith("."):
        raise ScoreError("hostile", "an identity is not plain")
    return text


def plain_words(value: object, most: int) -> str:
    """Words without what cannot be printed, shortened."""
    return "".join(c for c in str(value) if c.isprintable())[:most]
