"""The keyboard interrupts: once, whatever the program is doing at that moment.

An interruption that falls into the loading of a compiled library comes out as another error, and
processes that are only starting would each speak of it. So it is remembered that it came, and
it can be held back for a moment.
"""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager


class Interruptions:
    """What SIGINT did so far."""

    def __init__(self) -> None:
        self.seen = False
        self._held = False

    def install(self) -> None:
        """Listen to SIGINT, unless who started us wants it ignored."""
        if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
            signal.signal(signal.SIGINT, self._came)

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
