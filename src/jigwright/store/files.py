"""Copying files so that they are whole and synced before anybody points to them."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from pathlib import Path

_CHUNK = 1 << 20
_PLAIN = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{0,79}")


def file_name(take_id: str) -> str:
    """A file name made of an id of ours; anything else becomes a name of its own.

    Ids from outside never lead out of a folder, whatever they hold.
    """
    if _PLAIN.fullmatch(take_id):
        return take_id
    return "x" + hashlib.sha256(take_id.encode("utf-8", "surrogatepass")).hexdigest()[:24]


def copy_synced(source: Path, target: Path) -> str:
    """Copy a file through a synced part file; returns its SHA-256."""
    digest = hashlib.sha256()
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=".part-")
    part = Path(name)
    try:
        with source.open("rb") as src, os.fdopen(handle, "wb") as dst:
            while chunk := src.read(_CHUNK):
                digest.update(chunk)
                dst.write(chunk)
            dst.flush()
            os.fsync(dst.fileno())
        part.replace(target)
        directory = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(directory)
        finally:
            os.close(directory)
    finally:
        part.unlink(missing_ok=True)
    return digest.hexdigest()


def digest_of(path: Path) -> str:
    """SHA-256 of a file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def sync_tree(folder: Path) -> None:
    """See that all files below a folder are on the disk."""
    for path in sorted(folder.rglob("*")):
        flags = os.O_RDONLY | (os.O_DIRECTORY if path.is_dir() else 0)
        handle = os.open(path, flags)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
