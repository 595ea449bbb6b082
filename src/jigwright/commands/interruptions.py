"""The keyboard interrupts: once, whatever the program is doing at that moment.

An interruption that falls into the loading of a compiled library comes out as another error, and
processes that are only starting would each speak of it. So it is remembered that it came, and
it can be held back for a moment. One that falls into a callback of the interpreter, where nothing
can be raised, comes again a moment later instead of being printed and lost.
"""

from __future__ import annotations

import _thread
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager

_AGAIN_S = 0.01


class Interruptions:
    """What SIGINT did so far."""

    def __init__(self) -> None:
        self.seen = False
        self._held = False

    def install(self) -> None:
        """Listen to SIGINT, unless who started us wants it ignored."""
        if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
            signal.signal(signal.SIGINT, self._came)
            sys.unraisablehook = self.unraisable

    def unraisable(self, what: sys.UnraisableHookArgs, /) -> None:
        """An error where none can be raised: an interruption comes again, others are told."""
        if not isinstance(what.exc_value, KeyboardInterrupt):
            sys.__unraisablehook__(what)
            return
        again = threading.Timer(_AGAIN_S, _thread.interrupt_main)
        again.daemon = True
        again.start()

    def _came(self, _number: int, _frame: object) -> None:
        self.seen = True
        if not self._held:
            raise KeyboardInterrupt

    @contextmanager
    def held(self) -> Iterator[None]:
        """Hold it back; processes started meanwhile never see it."""
        self._held = True
        signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
        try:
            yield
        finally:
            signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT})
            self._held = False
        if self.seen:
            raise KeyboardInterrupt


INTERRUPTIONS = Interruptions()
