"""Database and file errors as one error with a reason."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from jigwright.core.errors import StoreError


def reason_of(error: sqlite3.Error) -> str:
    """Why the database refused."""
    text = str(error)
    if "locked" in text or "busy" in text:
        return "locked"
    if "readonly" in text or "unable to open" in text:
        return "read_only"
    if "full" in text:
        return "full"
    return "io"


@contextmanager
def store_errors() -> Iterator[None]:
    """Turn database and file errors into a :class:`StoreError` with a reason."""
    try:
        yield
    except sqlite3.Error as error:
        raise StoreError(reason_of(error), str(error)) from error
    except StoreError:
        raise
    except OSError as error:
        reason = {
            errno.ENOSPC: "full", errno.EDQUOT: "full", errno.EROFS: "read_only",
            errno.EACCES: "read_only", errno.EPERM: "read_only",
        }.get(error.errno or 0, "io")  # fmt: skip
        raise StoreError(
            reason, f"{error.filename or ''} {error.strerror or error}".strip()
        ) from error
