"""The one table of commands: menus, shortcuts, the help list and tests are made from it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Command:
    """Something the user can do.

    Parameters
    ----------
    id : str
    text : str
        Translated.
    shortcut : str
        Qt key text; empty for none.
    run : callable
    enabled_when : callable
        Asked before the command is offered or run.
    """

    id: str
    text: str
    run: Callable[[], object]
    shortcut: str = ""
    enabled_when: Callable[[], bool] = lambda: True
