"""Where a sitting at the Stand stands: what may follow when the ear speaks or a take ends."""

from __future__ import annotations

import math
from typing import Literal

from jigwright.services.ledger import Span
from jigwright.services.recording import EarSays

FlowState = Literal[
    "off", "preparing", "opening", "model", "counting", "speaking", "waiting", "playing",
    "judging", "asking",
]  # fmt: skip
Before = Literal["model", "counting", "speaking"]
_LEAST_TURN_S = 0.5  # less of a take is no take
_LEAN_BACK_S = 0.1  # a first note may begin with the last sound of the count


class TakeFlow:
    """A state and what leads from one to the next; nothing else is known here.

    Nobody is asked to play before the input records.

    Takes begin and end by themselves: *waiting* → *playing* → *judging* → *waiting*, with the
    model's turn or a counted bar before it where that is wished, and the ear's question after it.
    """

    def __init__(self) -> None:
        self.state: FlowState = "off"

    @property
    def is_open(self) -> bool:
        """Whether a take may begin: the player is waited for, or was asked something."""
        return self.state in ("waiting", "asking")

    @property
    def is_before(self) -> bool:
        """Whether a model, a count or a voice sounds, and nothing of it is the player's."""
        return self.state in ("model", "counting", "speaking")

    def prepare(self) -> None:
        """Something has to be made before the input can be opened."""
        self.state = "preparing"

    def open(self) -> None:
        """The input is being opened: what is played now is not recorded yet."""
        self.state = "opening"

    def ready(self) -> bool:
        """The first sound has been recorded; says whether that was waited for."""
        if self.state != "opening":
            return False
        self.state = "waiting"
        return True

    def refuse(self) -> None:
        """The input could not be opened."""
        self.state = "off"

    def close(self) -> None:
        """The input is closed; a take that is still being judged is said so."""
        if self.state != "judging":
            self.state = "off"

    def begin_before(self, before: Before | None) -> bool:
        """A model plays, a bar is counted, a voice speaks; says whether that changed anything."""
        if before is None or not self.is_open:
            return False
        self.state = before
        return True

    def hand_over(self) -> Before | None:
        """It is the player's turn; what came before it, ``None`` when nothing did."""
        if self.state == "model" or self.state == "counting" or self.state == "speaking":
            was: Before = self.state
            self.state = "waiting"
            return was
        return None

    def hear(self, says: EarSays) -> tuple[bool, Span | None]:
        """Take what the ear says: whether that changed anything, and a take that has ended."""
        if self.is_before:
            return False, None
        began = says.playing and self.is_open
        if began:
            self.state = "playing"
        elif self.state == "playing" and not says.playing and says.take is None:
            self.state = "waiting"  # it was talk
            began = True
        return began, says.take

    def judge(self) -> None:
        """A take has ended and is being made."""
        self.state = "judging"

    def go_on(self, *, listening: bool, asks: bool = False) -> None:
        """The take is made, or could not be; with a question to the ear, that comes next."""
        self.state = "off" if not listening else "asking" if asks else "waiting"

    def answer(self) -> None:
        """The ear has answered."""
        if self.state == "asking":
            self.state = "waiting"


class PlayersTurn:
    """From when to when what sounds is the player's own, in seconds of the recording."""

    def __init__(self) -> None:
        self._from_s, self._until_s = 0.0, math.inf

    def clear(self) -> None:
        """Everything is the player's."""
        self._from_s, self._until_s = 0.0, math.inf

    def wait(self) -> None:
        """Something comes before it; until then no turn is over."""
        self._until_s = math.inf

    def open(self, at_s: float, *, space_s: float | None) -> None:
        """It begins; ``space_s`` is how long it lasts, ``None`` for as long as the player likes."""
        self._from_s = at_s
        self._until_s = math.inf if space_s is None else at_s + space_s

    def is_over(self, at_s: float) -> bool:
        """Whether the player's space has just run out; said once."""
        if at_s < self._until_s:
            return False
        self._until_s = math.inf
        return True

    def own_part(self, span: Span) -> Span | None:
        """What of a take is the player's; ``None`` when it was the model or the count."""
        own_from = self._from_s - _LEAN_BACK_S if self._from_s else 0.0
        start = max(span[0], own_from)
        return None if span[1] - start < _LEAST_TURN_S else (start, span[1])
