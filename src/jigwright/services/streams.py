"""The two processes of the Stand: one records, one hears; a spare pair lets them begin at once."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from jigwright.services.ports import Stream
from jigwright.services.recording import CaptureRequest, CaptureState, EarRequest, EarSays


class Streams:
    """Opens and closes the pair.

    Parameters
    ----------
    capture, ear : callable or None
        Make one process each; ``None`` where nothing can be recorded.
    """

    def __init__(
        self, capture: Callable[[], Stream] | None, ear: Callable[[], Stream] | None
    ) -> None:
        self._make_capture, self._make_ear = capture, ear
        self._spare: tuple[Stream, Stream] | None = None
        self._open: tuple[Stream, Stream] | None = None

    @property
    def possible(self) -> bool:
        """Whether there is anything to record with."""
        return self._make_capture is not None

    @property
    def running(self) -> bool:
        """Whether the input is open."""
        return self._open is not None

    def prepare(self) -> None:
        """Have a spare pair ready, unless one is."""
        if self._spare is None:
            self._spare = self._pair()
            for stream in self._spare:
                stream.prepare()

    def drop_spare(self) -> None:
        """Nobody will record soon."""
        for stream in self._spare or ():
            stream.close()
        self._spare = None

    def open(self, capture: CaptureRequest, ear: EarRequest) -> None:
        """Begin to record and to hear."""
        self._open = self._spare or self._pair()
        self._spare = None
        self._open[0].start(capture)
        self._open[1].start(ear)

    def close(self) -> None:
        """End both."""
        for stream in self._open or ():
            stream.close()
        self._open = None

    def restart_ear(self, ear: EarRequest) -> None:
        """Let another ear take over; the recorder goes on."""
        if self._open is None:
            return
        capture, old = self._open
        old.close(patience_s=0.0)
        fresh = self._spare[1] if self._spare is not None else self._pair()[1]
        if self._spare is not None:
            self._spare[0].close()
            self._spare = None
        self._open = (capture, fresh)
        fresh.start(ear)

    def drop_ear(self) -> None:
        """Nobody listens any more; the recorder goes on."""
        if self._open is not None:
            self._open[1].close(patience_s=0.0)

    def recorded(self) -> tuple[tuple[CaptureState, ...], bool]:
        """What the recorder said since the last look, and whether it has ended."""
        return self._messages(0)

    def heard(self) -> tuple[tuple[EarSays, ...], bool]:
        """What the ear said since the last look, and whether it has ended."""
        return self._messages(1)

    def _messages(self, which: int) -> tuple[tuple[Any, ...], bool]:
        if self._open is None:
            return (), False
        said, ended = self._open[which].messages()
        return tuple(said), ended

    def _pair(self) -> tuple[Stream, Stream]:
        assert self._make_capture is not None
        assert self._make_ear is not None
        return self._make_capture(), self._make_ear()
