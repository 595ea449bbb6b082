"""Reading and writing small files for the command line."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from jigwright.core.errors import JigError
from jigwright.core.jig.exchange import jig_from_json
from jigwright.core.jig.model import Jig


def read_text(path: Path, what: str) -> str:
    """Read UTF-8 text; ``what`` names it in the error."""
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
    """Write a file complete or not at all."""
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
