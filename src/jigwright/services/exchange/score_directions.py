"""Directions, bar lines and sound elements of a MusicXML part as signs of a jig."""

from __future__ import annotations

import re
from collections.abc import Callable
from fractions import Fraction
from xml.etree.ElementTree import Element

from jigwright.core.jig.signs import HAIRPINS, Sign
from jigwright.services.exchange.score_events import ReadSigns
from jigwright.services.exchange.score_marks import (
    above_of,
    barline_signs,
    jumps_of,
    kept_text,
    name_of_dynamic,
    plucking,
    tempo_of,
    words_of,
)

_Open = tuple[Fraction, str, bool | None]


class Directions:
    """Reads what stands beside the notes of one part, bar after bar.

    Parameters
    ----------
    beside : ReadSigns
        Filled with what is found.
    lose : callable
        Told the name of what cannot be kept, in the present bar.
    """

    def __init__(self, beside: ReadSigns, lose: Callable[[str], None]) -> None:
        self._beside, self._lose = beside, lose
        self._wedges: dict[str, _Open] = {}
        self._lines: dict[str, _Open] = {}
        self._ending: _Open | None = None

    def direction(self, element: Element, at: Fraction) -> None:
        """Read one direction at a moment in beats."""
        above = above_of(element)
        sound = element.find("sound")
        jumps = set(jumps_of(sound)) if sound is not None else set()
        printed_tempo = False
        for kind in element.iterfind("direction-type/*"):
            match kind.tag:
                case "dynamics":
                    for mark in kind:
                        self._add("dynamic", at, text=name_of_dynamic(mark)[:40], above=above)
                case "wedge":
                    self._wedge(kind, at, above)
                case "words":
                    self._words(words_of(kind), at, above)
                case "metronome" if (tempo := tempo_of(kind)) is not None:
                    printed_tempo = True
                    self._add("tempo", at, text=tempo[0], value=tempo[1], above=above)
                case "rehearsal":
                    self._add("rehearsal", at, text=words_of(kind), above=above)
                case "segno" | "coda":
                    jumps.add(kind.tag)
                case "octave-shift":
                    self._octave_line(kind, at)
                case _:
                    self._keep(kind, at, "direction-type")
        for name in sorted(jumps):
            self._add("jump", at, text=name)
        if sound is not None:
            self._playing(sound, at, printed_tempo=printed_tempo)

    def sound(self, element: Element, at: Fraction) -> None:
        """Read a sound element that stands on its own."""
        for name in jumps_of(element):
            self._add("jump", at, text=name)
        self._playing(element, at, printed_tempo=False)

    def _playing(self, sound: Element, at: Fraction, *, printed_tempo: bool) -> None:
        if (plucked := sound.get("pizzicato")) is not None:
            self._beside.plucking.append((at, plucked == "yes"))
        tempo = sound.get("tempo", "")
        if re.fullmatch(r"\d{1,4}(\.\d{1,12})?", tempo) and not printed_tempo:
            self._add("tempo", at, value=round(float(tempo), 6))

    def keep(self, element: Element, at: Fraction) -> None:
        """Keep something that nobody here reads."""
        self._keep(element, at)

    def barline(self, element: Element, at: Fraction) -> None:
        """Read a bar line; endings reach from one to another."""
        left = element.get("location") == "left"
        ending = element.find("ending")
        if ending is not None:
            if ending.get("type") == "start":
                self._ending = (at, ending.get("number", "1").strip()[:20] or "1", None)
            elif self._ending is not None:
                begin, text, _ = self._ending
                closed = 1.0 if ending.get("type") == "stop" else None
                self._add("ending", begin, text=text, end=at, value=closed)
                self._ending = None
        self._beside.signs += barline_signs(element, at, left=left)

    def finish(self, end: Fraction) -> None:
        """Close what no bar closed."""
        for at, text, above in self._wedges.values():
            self._add("hairpin", at, text=text, end=max(end, at), above=above)
        for at, text, _ in self._lines.values():
            self._add("octave_line", at, text=text, end=max(end, at))
        if self._ending is not None:
            self._add("ending", self._ending[0], text=self._ending[1], end=end)

    def _wedge(self, kind: Element, at: Fraction, above: bool | None) -> None:
        number, what = kind.get("number", "1"), kind.get("type", "")
        if what in HAIRPINS:
            if number in self._wedges:  # never closed: it ends where the next begins
                self._close_wedge(number, at)
            self._wedges[number] = (at, what, above)
        elif what == "stop" and number in self._wedges:
            self._close_wedge(number, at)

    def _close_wedge(self, number: str, at: Fraction) -> None:
        begin, text, above = self._wedges.pop(number)
        self._add("hairpin", begin, text=text, end=max(at, begin), above=above)

    def _words(self, text: str, at: Fraction, above: bool | None) -> None:
        if not text:
            return
        plucked = plucking(text)
        if plucked is not None:
            self._beside.plucking.append((at, plucked))
        self._add("words", at, text=text[:400], above=above)

    def _octave_line(self, kind: Element, at: Fraction) -> None:
        number, what = kind.get("number", "1"), kind.get("type", "")
        if what in ("up", "down"):
            size = kind.get("size", "8")
            self._lines[number] = (at, f"{what} {size if size in ('8', '15') else '8'}", None)
        elif what == "stop" and number in self._lines:
            begin, text, _ = self._lines.pop(number)
            self._add("octave_line", begin, text=text, end=max(at, begin))

    def _keep(self, element: Element, at: Fraction, *around: str) -> None:
        text = kept_text(element, *around)
        if text is None:
            self._lose("other_mark")
        else:
            self._add("kept", at, text=text)

    def _add(
        self, kind: str, at: Fraction, *, text: str = "", end: Fraction | None = None,
        value: float | None = None, above: bool | None = None,
    ) -> None:  # fmt: skip
        self._beside.signs.append(
            Sign(kind=kind, at_beats=at, text=text, end_beats=end, value=value, above=above)  # type: ignore[arg-type]
        )
