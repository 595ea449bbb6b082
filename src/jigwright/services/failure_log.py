"""The log of parts that failed: a small text file in the studio's own folder.

One line each: when, which version, which part, what it raised and where. It rotates at 200 kB, so
that it never fills a disk, and holds no sound, no names of players and no paths.
"""

from __future__ import annotations

import logging
from datetime import UTC, datetime
from logging.handlers import RotatingFileHandler
from pathlib import Path

from jigwright import __version__
from jigwright.core.isolation import LOGGER

NAME = "failures.log"
_MOST_BYTES = 200_000
_N_LAST = 200


class _Handler(RotatingFileHandler):
    def format(self, record: logging.LogRecord) -> str:
        """One line: UTC, version, message."""
        when = datetime.fromtimestamp(record.created, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        return f"{when} {__version__} {record.getMessage()}"

    def handleError(self, record: logging.LogRecord) -> None:  # noqa: N802
        """Say nothing where a log cannot be written: the disk is full, or it is not ours."""


class FailureLog:
    """Takes the lines of this process while it is open.

    Parameters
    ----------
    folder : Path
        The studio's folder.
    """

    def __init__(self, folder: Path) -> None:
        self.path = folder / NAME
        self._handler = _Handler(
            self.path, maxBytes=_MOST_BYTES, backupCount=1, encoding="utf-8", delay=True
        )
        LOGGER.addHandler(self._handler)

    def close(self) -> None:
        """Take no more lines."""
        LOGGER.removeHandler(self._handler)
        self._handler.close()


def last_failures(folder: Path, most: int = _N_LAST) -> str:
    """Newest lines of a studio's log, oldest first; empty when nothing ever failed."""
    try:
        text = (folder / NAME).read_text(encoding="utf-8", errors="replace")
    except OSError:
        return ""
    return "\n".join(text.splitlines()[-most:])
