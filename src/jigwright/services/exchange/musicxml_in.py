"""Reading MusicXML (.musicxml, .xml, .mxl; an open standard of the W3C music notation group).

One part's first staff becomes a jig, all its voices and marks with it; what is left out is named.
Every bar is read on its own: when one cannot be read, everything before it is kept and the bar is
named.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from fractions import Fraction
from xml.etree.ElementTree import Element

from jigwright.core.errors import ScoreError
from jigwright.core.jig.imported import MAX_BARS, MAX_NOTES, Imported, ImportLoss
from jigwright.core.jig.model import MOST_VOICES, Change, Jig
from jigwright.core.jig.signs import MOST_SIGNS, Sign, in_order
from jigwright.core.music.guessing import guess_instrument
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services.exchange.score_directions import Directions
from jigwright.services.exchange.score_events import GraceRun, ReadNote, ReadSigns, events_of
from jigwright.services.exchange.score_file import parsed, unpacked
from jigwright.services.exchange.score_marks import DRIFT_BEATS, marks_of, printed_length

_SHORTEST_BAR = Fraction(1, 64)


def read_musicxml(
    data: bytes, *, jig_id: str, title: str, instrument_id: str | None = None,
    i_part: int | None = None,
) -> Imported:  # fmt: skip
    """Read a score.

    Parameters
    ----------
    data : bytes
        Plain or compressed.
    jig_id, title : str
        ``title`` is used when the file has none.
    instrument_id : str, optional
        Otherwise guessed from the part's name, else from the notes' range.
    i_part : int, optional
        Otherwise the first part for a bowed string, else the first.

    Raises
    ------
    ScoreError
        If it is not a score that can be read at all.
    """
    root = parsed(unpacked(data))
    if root.tag == "score-timewise":
        raise ScoreError("timewise", "bars before parts")
    if root.tag != "score-partwise":
        raise ScoreError("not_a_score", f"<{root.tag[:40]}>")
    names = {
        p.get("id", ""): " ".join((p.findtext("part-name") or p.get("id") or "").split())[:80]
        for p in root.iterfind("part-list/score-part")
    }
    parts = root.findall("part")
    if not parts:
        raise ScoreError("no_part", "the file lists no part")
    labels = [names.get(p.get("id", ""), "") for p in parts]
    named = [guess_instrument(label) for label in labels]
    if i_part is None:
        i_part = next((i for i, kind in enumerate(named) if kind), 0)
    if not 0 <= i_part < len(parts):
        raise ScoreError("no_part", f"part {i_part + 1} of {len(parts)}")
    kind = instrument_id or named[i_part] or guess_instrument("", _range(parts[i_part])) or "violin"
    work = root.findtext("work/work-title") or root.findtext("movement-title") or title
    reader = _Part(jig_id, kind, others=[p for i, p in enumerate(parts) if i != i_part])
    reader.read(parts[i_part])
    return reader.imported(
        title=" ".join(work.split())[:200] or title,
        parts=tuple(label or f"{i + 1}" for i, label in enumerate(labels)),
        i_part=i_part,
        sure=bool(instrument_id or named[i_part]),
    )


def _range(part: Element) -> tuple[int, int] | None:
    """Lowest and highest sounding note, as MIDI numbers."""
    octaves = part.findtext("measure/attributes/transpose/octave-change") or "0"
    shift = int(octaves) if re.fullmatch(r"-?\d", octaves.strip()) else 0
    found = []
    for pitch in part.iterfind("measure/note/pitch"):
        step, octave = pitch.findtext("step") or "", pitch.findtext("octave") or ""
        if step in tuple("CDEFGAB") and octave.isdigit() and len(octave) == 1:
            found.append(Pitch(step, 0, int(octave) + shift).midi)
    return (min(found), max(found)) if found else None


class _Part:
    """Reads the bars of one part."""

    def __init__(self, jig_id: str, instrument_id: str, *, others: Sequence[Element]) -> None:
        self._jig_id, self._kind = jig_id, instrument_id
        self._others = others
        self._others_bars: list[Fraction] | None = None
        inst = instrument(instrument_id)
        self._strings, self._written_up = inst.strings, inst.written_octaves_up
        self._clef = inst.clef_sign
        self._divisions = Fraction(1)
        self._transpose: int | None = None
        self._notes: list[ReadNote] = []
        self._changes: list[Change] = []
        self._first_key: Key | None = None
        self._first_metre: tuple[int, int] | None = None
        self._metre = (4, 4)
        self._losses: list[ImportLoss] = []
        self._voices: dict[str, int] = {}
        self._at = Fraction(0)
        self._pickup = Fraction(0)
        self._number = 0
        self._beside = ReadSigns()
        self._directions = Directions(self._beside, self._lose)
        self._graces: GraceRun | None = None
        self._closing: list[Element] = []
        self._bar_name = ""
        self._n = 0

    def read(self, part: Element) -> None:
        """Read bar after bar; stop at the first that cannot be read."""
        bars = part.findall("measure")
        if len(bars) > MAX_BARS:
            raise ScoreError("too_large", f"{len(bars)} bars")
        for i, bar in enumerate(bars):
            self._bar_name = (bar.get("number") or str(i + 1))[:12]
            start = self._at
            kept = len(self._notes), len(self._beside.signs), len(self._changes)
            try:
                length = self._bar(bar)
            except (ValueError, KeyError, ZeroDivisionError, TypeError, ArithmeticError):
                del self._notes[kept[0] :], self._beside.signs[kept[1] :], self._changes[kept[2] :]
                self._at, self._closing = start, []
                self._lose("broken")
                break
            self._close_bar(i, start, length)
        self._directions.finish(self._at)
        if self._graces is not None and self._graces.pitches:
            self._lose("graces")

    def _close_bar(self, i: int, start: Fraction, length: Fraction) -> None:
        """Settle how long a bar is, and its number."""
        full = Fraction(self._metre[0] * 4, self._metre[1])
        if length < _SHORTEST_BAR or abs(length - full) <= DRIFT_BEATS:
            length = full
        if length < full:
            length = min(full, max(length, self._elsewhere(i)))
        own: Fraction | None = None
        if i == 0 and length < full:
            self._pickup = length
        elif length != full:
            own = length
        number = re.match(r"\d{1,5}", self._bar_name)
        said = int(number[0]) if number else max(0, self._number - 1)
        counted = self._number if i else (0 if self._pickup else 1)
        if own is not None or said != counted:
            self._changes.append(
                Change(at_beats=start, bar_beats=own, number=said if said != counted else None)
            )
        self._number = said + 1
        self._at = start + length
        for barline in self._closing:
            self._directions.barline(barline, self._at)
        self._closing = []

    def _elsewhere(self, i: int) -> Fraction:
        """How long the other parts are in a bar that is not full here."""
        if self._others_bars is None:
            self._others_bars = []
            for part in self._others:
                for k, length in enumerate(_bar_lengths(part)):
                    if k == len(self._others_bars):
                        self._others_bars.append(length)
                    self._others_bars[k] = max(self._others_bars[k], length)
        return self._others_bars[i] if i < len(self._others_bars) else Fraction(0)

    def _bar(self, bar: Element) -> Fraction:
        start = at = self._at
        longest = Fraction(0)
        before = start
        for element in bar:
            match element.tag:
                case "attributes":
                    self._attributes(element, start, at)
                case "backup":
                    at = self._back_to(at - self._duration(element), start)
                case "forward":
                    at += self._duration(element)
                case "note" if element.find("chord") is not None:
                    self._note(element, before)
                case "note":
                    before, at = at, self._note(element, at)
                case "direction":
                    self._direction(element, at)
                case "sound":
                    self._directions.sound(element, self._with_offset(element, at))
                case "harmony" | "figured-bass":
                    self._directions.keep(element, at)
                case "barline" if element.get("location", "right") == "right":
                    self._closing.append(element)
                case "barline":
                    self._directions.barline(element, at if element.get("location") != "left"
                                             else start)  # fmt: skip
            longest = max(longest, at - start)
        return longest

    def _back_to(self, at: Fraction, start: Fraction) -> Fraction:
        """Where another voice begins: at a note that is there, if it is as good as there."""
        if at < start - DRIFT_BEATS:
            raise ValueError("backup")
        known = [start, *(n.onset for n in self._notes[-64:] if n.onset >= start)]
        near = min(known, key=lambda t: abs(t - at))
        return near if abs(near - at) <= DRIFT_BEATS else at

    def _direction(self, element: Element, at: Fraction) -> None:
        if (element.findtext("staff") or "1") != "1":
            return  # it belongs to the staff that is named as left out
        self._directions.direction(element, self._with_offset(element, at))
        if len(self._beside.signs) > MOST_SIGNS:
            raise ScoreError("too_large", f"more than {MOST_SIGNS} signs")

    def _with_offset(self, element: Element, at: Fraction) -> Fraction:
        offset = element.findtext("offset")
        if offset is None:
            return at
        return max(Fraction(0), at + Fraction(offset.strip()) / self._divisions)

    def _attributes(self, element: Element, start: Fraction, at: Fraction) -> None:
        if (divisions := element.findtext("divisions")) is not None:
            self._divisions = Fraction(divisions)
            if not 0 < self._divisions <= 100_000:
                raise ValueError(divisions)
        key, metre = None, None
        if (fifths := element.findtext("key/fifths")) is not None:
            key = _key(int(fifths), element.findtext("key/mode"))
        elif element.find("key") is not None:
            self._lose("odd_key")
        beats, unit = element.findtext("time/beats"), element.findtext("time/beat-type")
        if beats and unit:
            metre = (sum(int(b) for b in beats.split("+")), int(unit))
            if not 1 <= metre[0] <= 64 or metre[1] not in (1, 2, 4, 8, 16, 32):
                raise ValueError(metre)
            self._metre = metre
        if element.find("transpose") is not None:
            octaves = int(element.findtext("transpose/octave-change") or 0)
            self._transpose = 12 * octaves + int(element.findtext("transpose/chromatic") or 0)
        for clef in element.iterfind("clef"):
            if clef.get("number", "1") == "1":
                self._read_clef(clef, at)
        if start == 0:
            self._first_key = key or self._first_key
            self._first_metre = metre or self._first_metre
        elif key or metre:
            self._changes.append(Change(at_beats=start, key=key, metre=metre))

    def _read_clef(self, clef: Element, at: Fraction) -> None:
        sign = (clef.findtext("sign") or "").strip()[:12]
        text = sign + (clef.findtext("line") or "").strip()[:2]
        octave = (clef.findtext("clef-octave-change") or "0").strip()[:2]
        text += octave if octave not in ("", "0") else ""
        if text != self._clef:
            self._beside.signs.append(Sign(kind="clef", at_beats=at, text=text))
        self._clef = text

    def _duration(self, element: Element) -> Fraction:
        text = element.findtext("duration")
        if text is None:
            raise ValueError("duration")
        beats = Fraction(text.strip()) / self._divisions
        if not 0 <= beats <= 512:
            raise ValueError(text)
        return beats

    def _note(self, element: Element, at: Fraction) -> Fraction:
        """One note or rest; where the next one begins."""
        grace = element.find("grace") is not None
        beats = Fraction(0) if grace else printed_length(element, self._duration(element))
        after = at + beats
        if (element.findtext("staff") or "1") != "1":
            self._lose("other_staff")
            return after
        if element.find("cue") is not None:
            self._lose("cue")
            return after
        if element.find("rest") is not None:
            self._rest(element, at)
            return after
        voice = self._voices.setdefault(element.findtext("voice") or "1", len(self._voices) + 1)
        if voice > MOST_VOICES:
            self._lose("other_voice")
            return after
        pitch = self._pitch(element)
        if pitch is None:
            self._lose("unpitched")
            return after
        self._n += 1
        if self._n > MAX_NOTES:
            raise ScoreError("too_large", f"more than {MAX_NOTES} notes")
        if grace:
            self._grace(element, pitch)
        elif beats:
            chord = element.find("chord") is not None
            self._notes.append(
                ReadNote(
                    onset=at, end=after, pitch=pitch, voice=voice, element=element,
                    bar=self._bar_name, graces=None if chord else self._graces,
                )
            )  # fmt: skip
            self._graces = self._graces if chord else None
        return after

    def _rest(self, element: Element, at: Fraction) -> None:
        marked = marks_of(element)
        for text in marked.kept:
            self._beside.signs.append(Sign(kind="kept", at_beats=at, text=text))
        for name in marked.lost:
            self._lose(name)
        if "fermata" in marked.marks:
            self._beside.signs.append(Sign(kind="fermata", at_beats=at, text="rest"))
        if marked.marks - {"fermata"} or marked.fields:
            self._lose("other_mark")

    def _grace(self, element: Element, pitch: Pitch) -> None:
        run = self._graces or GraceRun()
        if element.find("chord") is not None:
            self._lose("grace_chord")
        mark = element.find("grace")
        long = mark is not None and mark.get("slash") != "yes"
        run.add(pitch, long=long, slurs=tuple(element.iterfind("notations/slur")))
        marked = marks_of(element)
        if marked.kept or marked.marks or marked.fields or marked.bow:
            self._lose("grace_marks")
        self._graces = run

    def _pitch(self, element: Element) -> Pitch | None:
        step, octave = element.findtext("pitch/step"), element.findtext("pitch/octave")
        if step is None or octave is None:
            return None
        alter = round(float(element.findtext("pitch/alter") or 0))
        written = Pitch(step.strip(), alter, int(octave))
        if step.strip() not in "CDEFGAB" or not -2 <= alter <= 2:
            raise ValueError(step)
        down = 12 * self._written_up if self._transpose is None else -self._transpose
        if down % 12:
            return Pitch.from_midi(written.midi - down, fifths=0)
        return Pitch(written.step, written.alter, written.octave - down // 12)

    def _lose(self, what: str) -> None:
        loss = ImportLoss(bar=self._bar_name, what=what)
        if loss not in self._losses:
            self._losses.append(loss)

    def imported(self, *, title: str, parts: tuple[str, ...], i_part: int, sure: bool) -> Imported:
        """Close the part."""
        if not self._notes:
            raise ScoreError("no_notes", self._losses[0].bar if self._losses else "empty part")
        events, losses = events_of(
            self._notes, self._beside, jig_id=self._jig_id, strings=self._strings,
            pickup=self._pickup,
        )  # fmt: skip
        self._losses += [x for x in losses if x not in self._losses]
        lowest = self._strings[0].midi
        if any(h.pitch.midi < lowest for e in events for h in e.heads):
            self._losses.append(ImportLoss(bar="", what="out_of_range"))
        tempo = self._tempo()
        metre = self._first_metre or (4, 4)
        end = max(e.end_beats for e in events)
        jig = Jig(
            id=self._jig_id, title=title, instrument_id=self._kind,
            key=self._first_key or Key(PitchClass("C")),
            beats_per_bar=metre[0], beat_unit=metre[1], tempo_bpm=tempo,
            events=events, pickup_beats=self._pickup,
            changes=tuple(sorted(self._changes, key=lambda c: c.at_beats)),
            signs=in_order(self._beside.signs), silence_beats=max(Fraction(0), self._at - end),
        )  # fmt: skip
        return Imported(jig=jig, losses=tuple(self._losses), parts=parts, i_part=i_part, sure=sure)

    def _tempo(self) -> float:
        """The first tempo; a score without one gets one that is not printed."""
        tempi = [s for s in in_order(self._beside.signs) if s.kind == "tempo" and s.value]
        if tempi and tempi[0].value:
            return min(400.0, max(10.0, tempi[0].value))
        self._beside.signs.append(Sign(kind="tempo", at_beats=Fraction(0), value=80.0))
        return 80.0


def _bar_lengths(part: Element) -> Iterator[Fraction]:
    """Lengths of a part's bars in quarter notes; a bar that cannot be read is as long as none."""
    divisions = Fraction(1)
    for bar in part.iterfind("measure"):
        at = longest = Fraction(0)
        try:
            for element in bar:
                divisions = Fraction(element.findtext("divisions") or divisions)
                step = Fraction((element.findtext("duration") or "0").strip()) / divisions
                if element.tag == "backup":
                    at -= step
                elif element.find("chord") is None and element.find("grace") is None:
                    at += step
                longest = max(longest, at)
        except (ValueError, ZeroDivisionError):
            longest = Fraction(0)
        yield longest


def _key(fifths: int, mode: str | None) -> Key:
    if not -7 <= fifths <= 7:
        raise ValueError(fifths)
    if mode == "minor":
        return Key(PitchClass.from_fifths(fifths + 3), "natural_minor")
    names = {"dorian": 2, "phrygian": 4, "lydian": -1, "mixolydian": 1}
    if mode in names:
        return Key(PitchClass.from_fifths(fifths + names[mode]), mode)  # type: ignore[arg-type]
    return Key(PitchClass.from_fifths(fifths), "major")
