"""Files that are files: a pipe, a device or a folder is refused before anything waits for it."""

from __future__ import annotations

import stat
from pathlib import Path

from jigwright.core.errors import FileKindError


def check_readable(path: Path) -> int:
    """Return the size of a plain file that is to be read.

    Raises
    ------
    FileKindError
        If it is a pipe, a device, a socket or a folder.
    OSError
        If it is not there.
    """
    found = path.stat()
    _check(path, found.st_mode)
    return found.st_size


def check_writable(path: Path) -> None:
    """See that a file may be put here: nothing is here, or a plain file.

    Raises
    ------
    FileKindError
        If something else is here.
    """
    try:
        mode = path.stat().st_mode
    except FileNotFoundError:
        return
    _check(path, mode)


def _check(path: Path, mode: int) -> None:
    if stat.S_ISREG(mode):
        return
    kinds = (
        (stat.S_ISDIR, "folder"), (stat.S_ISFIFO, "pipe"), (stat.S_ISSOCK, "socket"),
        (stat.S_ISCHR, "device"), (stat.S_ISBLK, "device"),
    )  # fmt: skip
    kind = next((name for is_kind, name in kinds if is_kind(mode)), "device")
    raise FileKindError(path.name or str(path), kind)
