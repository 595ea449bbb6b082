"""What of a growing recording is still owed to the player.

One rule: recorded sound is removed only when every stretch that somebody played in it is a take in
the studio, or when the player has said *discard*. A ledger is the pure arithmetic of that rule:
stretches that were played, stretches that are kept, and how far the ear has come. What the ear has
not heard counts as played until somebody has looked.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

Span = tuple[float, float]
"""Start and end in seconds from the first sample."""
Keeps = Literal["takes", "whole", "nothing"]
_LEAST_S = 0.25  # borders of takes are rounded and trimmed: less than this is no playing
_UNHEARD_S = 1.0  # the ear is never nearer to the end than its own delay
_LEAST_WHOLE_S = 1.0
PART_S = 600.0


def left_of(spans: Iterable[Span], taken: Iterable[Span], *, least_s: float = 0.0) -> list[Span]:
    """Return what is left of stretches when others are taken out, in order of time.

    Parameters
    ----------
    spans, taken : iterable of (float, float)
        In any order, overlapping or not.
    least_s : float
        Shorter rests are dropped.
    """
    rest = joined(spans)
    for a, b in joined(taken):
        rest = [
            part
            for start, stop in rest
            for part in ((start, min(stop, a)), (max(start, b), stop))
            if part[1] > part[0]
        ]
    return [(a, b) for a, b in rest if b - a >= least_s]


def joined(spans: Iterable[Span]) -> list[Span]:
    """Stretches in order, those that touch or overlap as one; empty ones are dropped."""
    result: list[Span] = []
    for start, stop in sorted(s for s in spans if s[1] > s[0]):
        if result and start <= result[-1][1]:
            result[-1] = (result[-1][0], max(result[-1][1], stop))
        else:
            result.append((start, stop))
    return result


def parts_of(span: Span, most_s: float = PART_S) -> list[Span]:
    """Equal parts of a stretch, none longer than ``most_s`` seconds."""
    start, stop = span
    n = max(1, -int(-(stop - start) // most_s))
    edges = [start + (stop - start) * k / n for k in range(n + 1)]
    return list(zip(edges, edges[1:], strict=False))


@dataclass(frozen=True, slots=True, kw_only=True)
class Ledger:
    """Stretches of one recording.

    Parameters
    ----------
    keeps : Keeps
        ``takes``: what was played becomes takes; ``whole``: all of it (a lesson); ``nothing``: the
        player was told that nothing is kept (checking strings).
    played, kept : tuple of (float, float)
    heard_s : float
        How far the ear has come.
    playing_s : float or None
        Where the take that is being played began.
    """

    keeps: Keeps = "takes"
    played: tuple[Span, ...] = ()
    kept: tuple[Span, ...] = ()
    heard_s: float = 0.0
    playing_s: float | None = None

    def was_played(self, span: Span) -> Ledger:
        """Somebody played here."""
        return replace(self, played=(*self.played, span))

    def is_kept(self, span: Span) -> Ledger:
        """A stretch is a take now: decoded again, its row committed."""
        return replace(self, kept=(*self.kept, span))

    def was_heard(self, until_s: float, *, playing_s: float | None = None) -> Ledger:
        """The ear has come so far; somebody plays since ``playing_s``, or nobody."""
        return replace(self, heard_s=max(self.heard_s, until_s), playing_s=playing_s)

    def unheard(self, seconds: float) -> list[Span]:
        """What nobody has listened to yet and nobody has kept."""
        if self.keeps != "takes" or seconds - self.heard_s <= _UNHEARD_S:
            return []
        return left_of([(self.heard_s, seconds)], self.kept, least_s=_LEAST_S)

    def owed(self, seconds: float) -> list[Span]:
        """Stretches that are neither kept nor known to be without playing.

        Parameters
        ----------
        seconds : float
            Length of the recording.
        """
        if self.keeps == "nothing":
            return []
        if self.keeps == "whole":
            wanted = [(0.0, seconds)] if seconds >= _LEAST_WHOLE_S else []
        else:
            now = [] if self.playing_s is None else [(self.playing_s, seconds)]
            wanted = [*((a, min(b, seconds)) for a, b in self.played), *now]
        return left_of([*wanted, *self.unheard(seconds)], self.kept, least_s=_LEAST_S)

    def may_go(self, seconds: float) -> bool:
        """Whether the recording itself is no longer needed."""
        return not self.owed(seconds)
