"""One part that fails never stops the rest: what raised is written down and refused.

A gauge, a finding or a page is a small part of a take. When one of them raises, what it would have
said becomes "cannot tell" (:data:`FAILED`), a line goes to the logger :data:`LOGGER`, and
everything else goes on. Who composes the program decides where those lines lie; tests fail on any
line they did not provoke.
"""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable
from typing import TypeVar

from jigwright.core.values import Unmeasured

T = TypeVar("T")
U = TypeVar("U")
LOGGER = logging.getLogger("jigwright.failed")
FAILED = Unmeasured("failed")
_MOST_CALLS = 4
_MOST_CHARACTERS = 600


def isolated(part: str, run: Callable[[], T], otherwise: U) -> T | U:
    """Return what ``run`` returns, or ``otherwise`` when it raises.

    Parameters
    ----------
    part : str
        What was being done, for the log: ``vibrato``, ``finding slides`` …
    run : callable
    otherwise
        What is true without the part: :data:`FAILED`, nothing found, an empty tuple.
    """
    try:
        return run()
    except Exception as error:  # the one place below the window that catches everything
        note_failure(part, error)
        return otherwise


def note_failure(part: str, error: BaseException) -> None:
    """Write down that a part failed: one line, newest call first."""
    LOGGER.error("%s", failure_line(part, error))


def failure_line(part: str, error: BaseException) -> str:
    """Describe an error in one line without paths of this machine.

    Parameters
    ----------
    part : str
    error : BaseException

    Returns
    -------
    str
        ``part · kind: text · file:line function < …``, at most 600 characters.
    """
    calls = traceback.extract_tb(error.__traceback__)[-_MOST_CALLS:]
    where = " < ".join(
        f"{call.filename.rpartition('/')[2]}:{call.lineno} {call.name}" for call in reversed(calls)
    )
    text = " ".join(f"{part} · {type(error).__name__}: {error} · {where}".split())
    return text[:_MOST_CHARACTERS]
