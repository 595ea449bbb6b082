"""A passage as one plain line of text, and back.

``D4 E4:1/2 F#4:1/2 (G4 A4) r:2 G3+B4!4 | A4`` – a name is a sounding note, ``+`` joins notes that
sound together, ``:`` gives its length in beats and holds until changed, round brackets tie notes
into one bow, ``r`` rests, ``!`` gives the finger (for the lowest note first, one digit each), ``.``
after a note lifts the bow, ``@trill``, ``@mordent``, ``@turn`` or ``@tremolo`` writes an ornament
over it and ``@free`` leaves its ornaments free, ``^`` before a name makes it a grace note of the
next, ``|`` may stand anywhere and means nothing.
"""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Any

from jigwright.core.errors import JigError, PitchNameError
from jigwright.core.jig.draft import Draft
from jigwright.core.jig.model import ORNAMENTS, Jig
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass

_WORD = re.compile(
    r"^(?P<names>[^:!.@^]+)(?:!(?P<fingers>\d{1,4}))?(?::(?P<beats>[\d/]+))?(?P<lift>\.)?"
    r"(?:@(?P<mark>[a-z]+))?$"
)
MAX_WORDS = 4000


def jig_from_line(
    text: str,
    *,
    jig_id: str,
    instrument_id: str,
    title: str,
    key: Key | None = None,
    tempo_bpm: float = 60.0,
    beats_per_bar: int = 4,
) -> Jig:
    """Read a line.

    Raises
    ------
    JigError
        If a word cannot be read; the message names its number.
    """
    draft = Draft(jig_id)
    beats = Fraction(1)
    slurred = inside = False
    words = text.replace("(", " ( ").replace(")", " ) ").split()
    if len(words) > MAX_WORDS:
        raise JigError(f"too many words: {len(words)} (at most {MAX_WORDS})")
    n = 0
    graces: list[Pitch] = []
    for word in words:
        if word == "|":
            continue
        n += word not in ("(", ")")
        if word == "(":
            if inside:
                raise JigError(f"word {n}: a bow is already open; close it with )")
            inside, slurred = True, False
            continue
        if word == ")":
            if not inside:
                raise JigError(f"word {n}: ) without (")
            inside = slurred = False
            continue
        if word.startswith("^"):
            graces.append(_grace(word, n))
            continue
        match = _WORD.match(word)
        if match is None:
            raise JigError(f"word {n}, {word!r}: write for instance F#4, F#4:1/2 or G3+B4")
        if match["beats"]:
            beats = _beats(match["beats"], n)
        if match["names"] == "r":
            draft.rest(beats)
            continue
        pitches = _pitches(match["names"], word, n)
        fingers = tuple(int(c) for c in match["fingers"] or "")
        draft.note(
            pitches, beats, slurred=slurred, fingers=fingers, lifted=match["lift"] is not None,
            graces=tuple(graces), **_mark(match["mark"], n),
        )  # fmt: skip
        graces = []
        slurred = inside
    if graces:
        raise JigError(f"word {n}: a grace note with ^ needs a note after it")
    if inside:
        raise JigError("a bow is open to the end: close it with )")
    return draft.finish(
        title=title, instrument_id=instrument_id, key=key or Key(PitchClass("C")),
        tempo_bpm=tempo_bpm, beats_per_bar=beats_per_bar,
    )  # fmt: skip


def _pitches(names: str, word: str, n: int) -> list[Pitch]:
    try:
        return sorted((Pitch.parse(p) for p in names.split("+")), key=lambda p: p.midi)
    except PitchNameError:
        raise JigError(
            f"word {n}, {word!r}: that is no note name; write for instance F#4"
        ) from None


def _grace(word: str, n: int) -> Pitch:
    if "+" in word:
        raise JigError(f"word {n}, {word!r}: a grace note is one note")
    return _pitches(word[1:], word, n)[0]


def _mark(name: str | None, n: int) -> dict[str, Any]:
    """Fields of the event that a mark after ``@`` sets."""
    if name is None:
        return {}
    if name == "free":
        return {"free": True}
    if name not in ORNAMENTS:
        raise JigError(f"word {n}: after @ stands {', '.join(ORNAMENTS)} or free, not {name!r}")
    return {"ornament": name}


def _beats(text: str, n: int) -> Fraction:
    try:
        beats = Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise JigError(f"word {n}: {text!r} is no length; write for instance 1/2") from None
    if not 0 < beats <= 64:
        raise JigError(f"word {n}: a length lies between 0 and 64 beats, got {text}")
    return beats


def jig_to_line(jig: Jig) -> str:
    """Write a jig's notes as a line; marks that a line cannot hold are left out."""
    words: list[str] = []
    at = Fraction(0)
    beats = Fraction(1)
    open_bow = False
    events = jig.events
    for i, event in enumerate(events):
        if event.onset_beats > at:
            gap = event.onset_beats - at
            if open_bow:
                words[-1] += ")"
                open_bow = False
            words.append("r" if gap == beats else f"r:{gap}")
            beats = gap
        begins = event.bow is not None or i == 0
        goes_on = i + 1 < len(events) and events[i + 1].bow is None and not events[i + 1].pluck
        goes_on &= i + 1 < len(events) and events[i + 1].onset_beats == event.end_beats
        if begins and open_bow:
            words[-1] += ")"
            open_bow = False
        word = "+".join(str(h.pitch) for h in event.heads)
        fingers = [h.finger for h in event.heads]
        if None not in fingers:
            word += "!" + "".join(str(f) for f in fingers)
        if event.length_beats != beats:
            word += f":{event.length_beats}"
            beats = event.length_beats
        if event.lifted:
            word += "."
        if event.ornament or event.free:
            word += f"@{event.ornament or 'free'}"
        word = "".join(f"^{p} " for p in event.graces) + word
        if begins and goes_on and not open_bow:
            word = "(" + word
            open_bow = True
        words.append(word)
        at = event.end_beats
    if open_bow:
        words[-1] += ")"
    return " ".join(words)
