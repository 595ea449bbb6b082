"""Where a part must say which string is meant: Roman numerals, the highest string is I."""

from __future__ import annotations

from jigwright.core.jig.model import Jig, Notehead
from jigwright.core.music.instruments import instrument
from jigwright.core.music.pitch import Pitch

ROMAN = ("I", "II", "III", "IV", "V", "VI", "VII")
_FIRST_HAND = 7  # semitones above an open string that lie under the hand without going up


def strings_said(jig: Jig) -> dict[str, str]:
    """Numerals by event id, where a string begins that nobody would take unasked.

    Unasked is the highest string on which a note lies; the numeral is not repeated while the
    playing stays on that string, and harmonics on a string always say theirs.
    """
    strings = instrument(jig.instrument_id).strings
    said: dict[str, str] = {}
    before: int | None = None
    for event in jig.events:
        if len(event.heads) != 1:
            before = None
            continue
        head = event.heads[0]
        if head.string is None or head.string >= len(strings):
            before = None
            continue
        if head.proposed:
            before = None
            continue
        if head.string != before and (
            head.string != _unasked(head, strings) or _is_natural_harmonic(head)
        ):
            said[event.id] = ROMAN[len(strings) - 1 - head.string]
        before = head.string
    return said


def _is_natural_harmonic(head: Notehead) -> bool:
    return head.partial > 1 and head.stopped is None


def _unasked(head: Notehead, strings: tuple[Pitch, ...]) -> int:
    """The string that a player takes when nothing is said; one below under a fourth finger."""
    pitch = head.stopped or head.pitch
    i = max((k for k, s in enumerate(strings) if s.midi <= pitch.midi), default=0)
    closes = head.finger not in (None, 0) and i > 0
    if closes and head.string == i - 1 and pitch.midi - strings[i - 1].midi <= _FIRST_HAND:
        return i - 1
    return i
