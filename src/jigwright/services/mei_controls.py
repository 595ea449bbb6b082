"""What hangs on notes and moments of an MEI bar: fingers, words, hairpins, slurs, signs."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import Protocol
from xml.sax.saxutils import escape, quoteattr

from jigwright.core.jig.model import Event, Jig
from jigwright.core.jig.signs import Sign
from jigwright.services.notation import FAINT

MEI_DURATIONS = {
    Fraction(8): "breve", Fraction(4): "1", Fraction(2): "2", Fraction(1): "4",
    Fraction(1, 2): "8", Fraction(1, 4): "16", Fraction(1, 8): "32", Fraction(1, 16): "64",
    Fraction(1, 32): "128",
}  # fmt: skip
_HAIRPINS = {"grow": ("cres",), "fade": ("dim",), "swell": ("cres", "dim"), "dip": ("dim", "cres")}
_JUMPS = {"dacapo": "daCapo", "dalsegno": "dalSegno", "tocoda": "coda", "fine": "fine",
          "segno": "segno", "coda": "coda"}  # fmt: skip


class MeiScore(Protocol):
    """What the controls must know of the whole score."""

    jig: Jig
    fingerings: bool

    @property
    def strings(self) -> Mapping[str, str]:
        """What is said of strings, by event id."""

    @property
    def says_plucking(self) -> Mapping[str, str]:
        """``pizz.`` and ``arco`` that no words say, by event id."""

    @property
    def slurs(self) -> Mapping[str, Sequence[str]]:
        """Ends of the slurs that begin at an event, by its id."""

    @property
    def onsets(self) -> Sequence[Fraction]:
        """Of all events, in beats."""

    def place(self, beats: Fraction) -> tuple[int, float]:
        """Index of the bar of a moment, and its time stamp there."""

    def end_place(self, beats: Fraction) -> tuple[int, float]:
        """The same for an end."""


def head_element_id(head_id: str) -> str:
    """XML id of a notehead."""
    return "n-" + "".join(c if c.isalnum() or c in "._-" else "_" for c in head_id)


def event_element_id(event: Event) -> str:
    """XML id of what an event's marks hang on: its upper new note."""
    new = [h for h in event.heads if not h.held] or list(event.heads)
    return head_element_id(new[-1].id)


class MeiControls:
    """Collects the control events of one bar.

    Parameters
    ----------
    score : MeiScore
    end : Fraction
        Where the bar ends.
    """

    def __init__(self, score: MeiScore, end: Fraction) -> None:
        self._score, self._end = score, end
        self.rows: list[str] = []

    def hold(self, element_id: str) -> None:
        """A hold over a note or a rest."""
        self.rows.append(f'<fermata startid="#{element_id}" place="above" vo="2"/>')

    def mark(self, event: Event) -> None:
        """Everything that hangs on an event's first note."""
        here = event_element_id(event)
        at = f'startid="#{here}"'
        if self._score.fingerings:
            self.rows += [
                f'<fing startid="#{head_element_id(h.id)}" place="above"{faint_colour(h.proposed)}>'
                f"{'+' if h.finger == 5 else h.finger}</fing>"
                for h in event.heads
                if h.finger is not None and not h.held
            ]
        if (said := self._score.strings.get(event.id)) is not None:
            self.rows.append(f'<dir {at} place="above">{said}</dir>')
        for head in event.heads:
            if head.stopped is not None and not head.held:  # its note that sounds stands nowhere
                sign = {2: "𝄪", 1: "♯", 0: "", -1: "♭", -2: "♭♭"}.get(head.pitch.alter, "")
                text = f"{head.pitch.step}{sign}{head.pitch.octave}"
                self.rows.append(f'<dir {at} place="above">{_small("→ " + text)}</dir>')
        self._ornament(event, at)
        if event.dynamic:
            self.rows.append(f'<dynam {at} place="below">{event.dynamic}</dynam>')
        if (word := self._score.says_plucking.get(event.id)) is not None:
            self.rows.append(f'<dir {at} place="above">{_italic(word)}</dir>')
        for mark, element in (("breath", "breath"), ("pause", "caesura"), ("rolled", "arpeg")):
            if mark in event.marks:
                self.rows.append(f"<{element} {at}/>")
        if event.shape in _HAIRPINS:
            self._shape(event)
        for end in self._score.slurs.get(event.id, ()):
            self.rows.append(f'<slur {at} endid="#{end}"/>')
        self._glide(event, here)

    def _ornament(self, event: Event, at: str) -> None:
        if event.ornament == "trill":
            self.rows.append(f'<trill {at} place="above"/>')
        elif event.ornament in ("mordent", "turn"):
            form = ""
            if event.ornament == "mordent":
                form = f' form="{"upper" if "inverted" in event.marks else "lower"}"'
            elif "inverted" in event.marks:
                form = ' form="lower"'
            delayed = ' delayed="true"' if "delayed" in event.marks else ""
            self.rows.append(f'<{event.ornament} {at}{form}{delayed} place="above"/>')

    def _glide(self, event: Event, here: str) -> None:
        if not event.glide:
            return
        i = bisect_left(self._score.onsets, event.onset_beats)
        if i:
            before = event_element_id(self._score.jig.events[i - 1])
            self.rows.append(f'<gliss startid="#{before}" endid="#{here}" lform="solid"/>')

    def _shape(self, event: Event) -> None:
        begin = event.onset_beats
        end = min(event.end_beats, self._end)
        forms = _HAIRPINS[event.shape or "grow"]
        step = (end - begin) / len(forms)
        for k, form in enumerate(forms):
            self._hairpin(form, begin + k * step, begin + (k + 1) * step, above=None)

    def _hairpin(self, form: str, begin: Fraction, end: Fraction, *, above: bool | None) -> None:
        i, a = self._score.place(begin)
        j, b = self._score.end_place(end)
        place = "above" if above else "below"
        self.rows.append(
            f'<hairpin form="{form}" staff="1" tstamp="{a:g}" '
            f'tstamp2="{max(0, j - i)}m+{b:g}" place="{place}"/>'
        )

    def sign(self, sign: Sign) -> None:
        """Something beside the notes, at its moment."""
        _, stamp = self._score.place(sign.at_beats)
        at = f'staff="1" tstamp="{stamp:g}"'
        text = escape(sign.text)
        match sign.kind:
            case "hairpin" if sign.end_beats is not None and sign.end_beats > sign.at_beats:
                form = "cres" if sign.text == "crescendo" else "dim"
                self._hairpin(form, sign.at_beats, sign.end_beats, above=sign.above)
            case "dynamic":
                place = "above" if sign.above else "below"
                self.rows.append(f'<dynam {at} place="{place}">{text}</dynam>')
            case "words":
                place = "below" if sign.above is False else "above"
                self.rows.append(f'<dir {at} place="{place}">{_italic(text)}</dir>')
            case "tempo" if sign.text and sign.value:
                self.rows.append(_tempo(at, sign, self._score.jig.tempo_bpm))
            case "rehearsal":
                self.rows.append(f'<reh {at} place="above">{text}</reh>')
            case "jump" if sign.text in _JUMPS:
                self.rows.append(f'<repeatMark {at} func="{_JUMPS[sign.text]}" place="above"/>')
            case "octave_line" if sign.end_beats is not None:
                self._octave(sign, stamp)

    def _octave(self, sign: Sign, stamp: float) -> None:
        way, _, size = sign.text.partition(" ")
        i, _ = self._score.place(sign.at_beats)
        j, end = self._score.end_place(sign.end_beats or sign.at_beats)
        place = "above" if way == "down" else "below"
        self.rows.append(
            f'<octave staff="1" tstamp="{stamp:g}" tstamp2="{max(0, j - i)}m+{end:g}" '
            f'dis={quoteattr(size or "8")} dis.place="{place}"/>'
        )


def faint_colour(proposed: bool) -> str:
    """What is proposed is drawn lighter than what is written."""
    return f' color="{FAINT}"' if proposed else ""


def _italic(text: str) -> str:
    return f'<rend fontstyle="italic">{text}</rend>'


def _small(text: str) -> str:
    return f'<rend fontstyle="italic" fontsize="70%">{text}</rend>'


def _tempo(at: str, sign: Sign, first_bpm: float) -> str:
    unit = Fraction(sign.text)
    bpm = first_bpm if sign.at_beats == 0 else sign.value or first_bpm
    base = next((v for v in MEI_DURATIONS if unit in (v, v * Fraction(3, 2))), Fraction(1))
    dots = ' mm.dots="1"' if base != unit else ""
    name = {"1": "ECA2", "2": "ECA3", "4": "ECA5", "8": "ECA7", "16": "ECA9"}.get(
        MEI_DURATIONS[base], "ECA5"
    )
    dot = "." if dots else ""
    per = round(bpm / float(unit), 2)
    return (
        f'<tempo {at} place="above" mm="{per:g}" mm.unit="{MEI_DURATIONS[base]}"{dots}>'
        f'<rend fontfam="smufl">&#x{name};</rend>{dot} = {per:g}</tempo>'
    )
