"""From the bytes of a score file to its XML tree: taken as hostile.

Sizes are checked before and while unpacking; entities and external resources are refused.
"""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from pathlib import PurePosixPath
from xml.etree.ElementTree import Element, ParseError

from defusedxml import ElementTree as SafeET
from defusedxml.common import DefusedXmlException

from jigwright.core.errors import ScoreError
from jigwright.core.jig.imported import MAX_BYTES

_MAX_RATIO = 200
_MAX_ENTRIES = 200


def unpacked(data: bytes) -> bytes:
    """The score inside a compressed file, or the file itself.

    Raises
    ------
    ScoreError
    """
    if len(data) > MAX_BYTES:
        raise ScoreError("too_large", f"{len(data) / 1e6:.0f} MB")
    if not data.startswith(b"PK"):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            if len(entries) > _MAX_ENTRIES:
                raise ScoreError("hostile", f"{len(entries)} files in one archive")
            if sum(e.file_size for e in entries) > MAX_BYTES:
                raise ScoreError("too_large", "once unpacked")
            name = _root_file(archive, entries)
            entry = archive.getinfo(name)
            if entry.file_size > _MAX_RATIO * max(entry.compress_size, 1) + 10_000:
                raise ScoreError("hostile", "it unpacks to far more than it holds")
            with archive.open(entry) as file:
                content = file.read(MAX_BYTES + 1)
    except (
        zipfile.BadZipFile, zlib.error, struct.error, KeyError, NotImplementedError, RuntimeError,
        EOFError, OSError, ValueError,
    ) as error:  # fmt: skip
        if isinstance(error, ScoreError):
            raise
        raise ScoreError("damaged", str(error)[:80]) from None
    if len(content) > MAX_BYTES:
        raise ScoreError("too_large", "once unpacked")
    return content


def _root_file(archive: zipfile.ZipFile, entries: list[zipfile.ZipInfo]) -> str:
    names = [e.filename for e in entries]
    if "META-INF/container.xml" in names:
        if archive.getinfo("META-INF/container.xml").file_size > 100_000:
            raise ScoreError("hostile", "its table of contents is too long")
        container = parsed(archive.read("META-INF/container.xml"))
        for element in container.iter():
            path = element.get("full-path")
            if path in names:
                return str(path)
    for name in names:
        if PurePosixPath(name).suffix in (".xml", ".musicxml") and "META-INF" not in name:
            return name
    raise ScoreError("not_a_score", "there is no score in the archive")


def parsed(content: bytes) -> Element:
    """The tree of an XML text.

    Raises
    ------
    ScoreError
    """
    try:
        root: Element = SafeET.fromstring(content)
    except DefusedXmlException:
        raise ScoreError("hostile", "it defines entities") from None
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise ScoreError("damaged", str(error)[:80]) from None
    return root
