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
import string
import struct
import zipfile
import zlib
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any
from uuid import uuid4

from jigwright.core.checking import (
    field,
    identity,
    number,
    one_of,
    read_json,
    rows_of,
    whole,
    words,
)
from jigwright.core.errors import FieldError, JigError, JigwrightError, ScoreError
from jigwright.core.jig.exchange import jig_from_json, jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.core.music.instruments import (
    HIGHEST_A4_HZ,
    INSTRUMENTS,
    LOWEST_A4_HZ,
    parse_strings,
)
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.moments import is_utc
from jigwright.services.plain_files import check_readable
from jigwright.services.records import OwnedInstrument, Player, Remark, TakeRecord

SCHEMA = "jigwright.bundle/1"
SUFFIX = ".take.zip"
_NAMES = ("manifest.json", "jig.json", "score.musicxml")
_AUDIO = ("sound.flac", "sound.wav", "sound.ogg", "sound.aiff", "sound.mp3")
_MOST_BYTES = 600_000_000
_MOST_TEXT = 20_000_000
_MOST_RATIO = 300
_MOST_REMARKS = 500
_PLAIN = frozenset(string.ascii_letters + string.digits + "._-")
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
    player = _player(field(manifest, "player", m), f"{m}: player")
    owned = _owned(field(manifest, "instrument", m), f"{m}: instrument")
    take = _take(row, f"{m}: take", player, owned, jig)
    remarks = tuple(
        _remark(r, f"{m}: remarks[{i}]", take.id)
        for i, r in enumerate(rows_of(manifest.get("remarks", []), f"{m}: remarks", _MOST_REMARKS))
    )
    sound = one_of(field(manifest, "sound", m), f"{m}: sound", _AUDIO)
    if sound not in entries:
        raise ScoreError("refused", f"{m}: sound: {sound} is not in the bundle")
    return Bundle(
        take=take, player=player, owned=owned, jig=jig, remarks=remarks,
        audio=_unpacked(archive, entries[sound], take, to),
    )  # fmt: skip


def _player(row: Any, where: str) -> Player:
    return Player(
        id=plain_id(field(row, "id", where), f"{where}.id"),
        name=words(field(row, "name", where), f"{where}.name", 80),
    )


def _owned(row: Any, where: str) -> OwnedInstrument:
    kind = one_of(field(row, "kind", where), f"{where}.kind", tuple(INSTRUMENTS))
    text = words(field(row, "strings", where), f"{where}.strings", 60)
    try:
        strings = parse_strings(text)
    except JigwrightError as error:
        raise FieldError(f"{where}.strings", repr(text), str(error)) from None
    return OwnedInstrument(
        id=plain_id(field(row, "id", where), f"{where}.id"),
        name=words(field(row, "name", where), f"{where}.name", 80), kind=kind, strings=strings,
    )  # fmt: skip


def _take(
    row: Any, where: str, player: Player, owned: OwnedInstrument, jig: Jig | None
) -> TakeRecord:
    def text(name: str, most: int) -> str:
        return words(field(row, name, where), f"{where}.{name}", most)

    take_id = plain_id(field(row, "id", where), f"{where}.id")
    if jig is not None and (jig.id, jig.revision) != (row.get("jig_id"), row.get("jig_revision")):
        raise FieldError(f"{where}.jig_id", "another jig", f"the jig of the bundle, {jig.id}")
    reference = text("reference", 60)
    if reference.lower().partition(":")[0].endswith(".scl"):
        reference = "equal"  # the scale file itself is not in the bundle
    return TakeRecord(
        id=take_id, jig_id=jig.id if jig else None,
        jig_revision=jig.revision if jig else None, player_id=player.id, instrument_id=owned.id,
        recorded_utc=moment(field(row, "recorded_utc", where), f"{where}.recorded_utc"),
        utc_offset_min=whole(
            field(row, "utc_offset_min", where), f"{where}.utc_offset_min", -840, 840
        ),
        audio="", sha256=_digest(field(row, "sha256", where), f"{where}.sha256"),
        source_name=text("source_name", 120),
        duration_s=number(field(row, "duration_s", where), f"{where}.duration_s", 0, 86_400),
        a4_hz=number(field(row, "a4_hz", where), f"{where}.a4_hz", LOWEST_A4_HZ, HIGHEST_A4_HZ),
        reference=reference,
        tolerance_cents=number(
            field(row, "tolerance_cents", where), f"{where}.tolerance_cents", 1, 100
        ),
        input_name=text("input_name", 80),
        mark=one_of(row.get("mark", ""), f"{where}.mark", ("", "liked", "kept")),
    )  # fmt: skip


def _digest(value: Any, where: str) -> str:
    text = words(value, where, 64)
    if len(text) != 64 or any(c not in "0123456789abcdef" for c in text):
        raise FieldError(where, repr(text)[:40], "a SHA-256 in small letters")
    return text


def _remark(row: Any, where: str, take_id: str) -> Remark:
    note_id = field(row, "note_id", where)
    return Remark(
        id=plain_id(field(row, "id", where), f"{where}.id"), take_id=take_id,
        note_id=None if note_id is None else identity(note_id, f"{where}.note_id"),
        at_s=number(field(row, "at_s", where), f"{where}.at_s", 0, 86_400),
        who=words(field(row, "who", where), f"{where}.who", 80),
        words=words(field(row, "words", where), f"{where}.words", 500),
        utc=moment(field(row, "utc", where), f"{where}.utc"),
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


def plain_id(value: Any, where: str) -> str:
    """An identity: letters, digits, dot, dash, underscore.

    Raises
    ------
    FieldError
    """
    text = identity(value, where, 80)
    if text.startswith(".") or not all(c in _PLAIN for c in text):
        raise FieldError(where, repr(text)[:40], "letters, digits, dot, dash and underscore")
    return text


def moment(value: Any, where: str) -> str:
    """A moment in UTC, to the second.

    Raises
    ------
    FieldError
    """
    text = words(value, where, 40)
    if not is_utc(text):
        raise FieldError(where, repr(text), "a moment such as 2026-11-02T18:20:00Z")
    return text
