"""Reading and writing small files for the command line."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from jigwright.core.errors import AudioError, JigError
from jigwright.core.jig.exchange import MAX_TEXT, jig_from_json
from jigwright.core.jig.model import Jig
from jigwright.services.plain_files import check_readable, check_writable

STANDARD = "-"
MOST_STANDARD_BYTES = 1_000_000_000
_CHUNK = 1 << 20


def shown(path: Path) -> str:
    """A file's name as text that can be written anywhere, whatever bytes it is made of."""
    return os.fsencode(path).decode("utf-8", "replace")


@contextmanager
def sound_path(path: Path) -> Iterator[Path]:
    """Where a sound lies: the path itself, or for ``-`` what standard input holds.

    Raises
    ------
    AudioError
        ``too_large``
    """
    if str(path) != STANDARD:
        yield path
        return
    with tempfile.NamedTemporaryFile(prefix="jigwright-", suffix=".sound") as file:
        n = 0
        while chunk := sys.stdin.buffer.read(_CHUNK):
            n += len(chunk)
            if n > MOST_STANDARD_BYTES:
                raise AudioError("too_large", f"more than {MOST_STANDARD_BYTES / 1e9:.0f} GB")
            file.write(chunk)
        file.flush()
        yield Path(file.name)


def read_text(path: Path, what: str) -> str:
    """Read UTF-8 text, ``-`` from standard input; ``what`` names it in the error."""
    if str(path) == STANDARD:
        try:
            return sys.stdin.buffer.read(MAX_TEXT + 1).decode("utf-8")
        except UnicodeDecodeError:
            raise JigError(f"standard input: not a {what} (not UTF-8 text)") from None
    if check_readable(path) > MAX_TEXT:
        raise JigError(f"{path.name}: too large for a {what}")
    try:
        return path.read_text(encoding="utf-8")
    except UnicodeDecodeError:
        raise JigError(f"{path.name}: not a {what} (not UTF-8 text)") from None


def load_jig(path: Path) -> Jig:
    """Read a jig file, or a score as a jig."""
    if path.suffix.lower() in (".musicxml", ".mxl", ".xml", ".mid", ".midi"):
        from jigwright.services.exchange.scores import read_score

        return read_score(path, jig_id=path.stem).jig
    try:
        return jig_from_json(read_text(path, "jig file"))
    except JigError as error:
        raise JigError(f"{path.name}: {error}") from error


def write_whole(path: Path, text: str) -> None:
    """Write a text file complete or not at all."""
    write_bytes(path, text.encode("utf-8"))


def write_bytes(path: Path, content: bytes) -> None:
    """Write a file complete or not at all; ``-`` is standard output.

    Raises
    ------
    FileKindError
        If a pipe, a device or a folder is there.
    """
    if str(path) == STANDARD:
        sys.stdout.flush()
        sys.stdout.buffer.write(content)
        sys.stdout.buffer.flush()
        return
    check_writable(path)
    handle, name = tempfile.mkstemp(dir=path.parent or Path(), prefix=".part-")
    part = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        part.chmod(0o644)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
