"""Reading MusicXML (.musicxml, .xml, .mxl; an open standard of the W3C music notation group).

One part, one staff and its first voice become a jig; what is left out is named. Every bar is read
on its own: when one cannot be read, everything before it is kept and the bar is named. Files are
taken as hostile: sizes are checked before and while unpacking, entities and external resources
refused.
"""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any
from xml.etree.ElementTree import Element, ParseError

from defusedxml import ElementTree as SafeET
from defusedxml.common import DefusedXmlException

from jigwright.core.errors import ScoreError
from jigwright.core.jig.imported import (
    MAX_BARS,
    MAX_BYTES,
    MAX_NOTES,
    Imported,
    ImportLoss,
)
from jigwright.core.jig.model import (
    DYNAMICS,
    SHAPES,
    BowDirection,
    Change,
    Dynamic,
    Event,
    Jig,
    Notehead,
)
from jigwright.core.music.harmonics import artificial, sounding_pitch
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services.exchange.score_marks import (
    ORNAMENT_OF,
    lost_of_barline,
    lost_of_direction,
    lost_of_note,
)

_MAX_RATIO = 200
_USUAL_PARTIAL = 4  # of artificial harmonics: touched a fourth above
_MAX_ENTRIES = 200
OWN_MARK = "jigwright:"
_STRING_WORDS = {
    "violin": ("violin", "violine", "violon", "violino", "vln", "vl.", "vl "),
    "viola": ("viola", "bratsche", "alto", "vla"),
    "cello": ("cello", "violoncell", "vc"),
    "bass": ("contrabass", "double bass", "kontrabass", "string bass", "bass"),
}


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
        Otherwise guessed from the part's name.
    i_part : int, optional
        Otherwise the first part for a bowed string, else the first.

    Raises
    ------
    ScoreError
        If it is not a score that can be read at all.
    """
    root = _parse(_unpacked(data))
    if root.tag == "score-timewise":
        raise ScoreError("timewise", "bars before parts")
    if root.tag != "score-partwise":
        raise ScoreError("not_a_score", f"<{root.tag[:40]}>")
    names = {
        p.get("id", ""): (p.findtext("part-name") or p.get("id") or "").strip()
        for p in root.iterfind("part-list/score-part")
    }
    parts = root.findall("part")
    if not parts:
        raise ScoreError("no_part", "the file lists no part")
    labels = [names.get(p.get("id", ""), "") for p in parts]
    kinds = [_guess(label) for label in labels]
    if i_part is None:
        i_part = next((i for i, kind in enumerate(kinds) if kind), 0)
    if not 0 <= i_part < len(parts):
        raise ScoreError("no_part", f"part {i_part + 1} of {len(parts)}")
    kind = instrument_id or kinds[i_part] or "violin"
    work = root.findtext("work/work-title") or root.findtext("movement-title") or title
    reader = _Part(jig_id, kind)
    reader.read(parts[i_part])
    return reader.imported(
        title=" ".join(work.split())[:200] or title,
        parts=tuple(label or f"{i + 1}" for i, label in enumerate(labels)),
        i_part=i_part,
    )


def _guess(label: str) -> str | None:
    word = label.lower() + " "
    if "clarinet" in word or "guitar" in word or "drum" in word:
        return None
    for kind in ("cello", "violin", "viola", "bass"):
        if any(w in word for w in _STRING_WORDS[kind]):
            return kind
    return None


def _unpacked(data: bytes) -> bytes:
    if len(data) > MAX_BYTES:
        raise ScoreError("too_large", f"{len(data) / 1e6:.0f} MB")
    if not data.startswith(b"PK"):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            if len(entries) > _MAX_ENTRIES:
                raise ScoreError("hostile", f"{len(entries)} files in one archive")
            if sum(e.file_size for e in entries) > MAX_BYTES:
                raise ScoreError("too_large", "once unpacked")
            name = _root_file(archive, entries)
            entry = archive.getinfo(name)
            if entry.file_size > _MAX_RATIO * max(entry.compress_size, 1) + 10_000:
                raise ScoreError("hostile", "it unpacks to far more than it holds")
            with archive.open(entry) as file:
                content = file.read(MAX_BYTES + 1)
    except (
        zipfile.BadZipFile, zlib.error, struct.error, KeyError, NotImplementedError, RuntimeError,
        EOFError, OSError, ValueError,
    ) as error:  # fmt: skip
        if isinstance(error, ScoreError):
            raise
        raise ScoreError("damaged", str(error)[:80]) from None
    if len(content) > MAX_BYTES:
        raise ScoreError("too_large", "once unpacked")
    return content


def _root_file(archive: zipfile.ZipFile, entries: list[zipfile.ZipInfo]) -> str:
    names = [e.filename for e in entries]
    if "META-INF/container.xml" in names:
        if archive.getinfo("META-INF/container.xml").file_size > 100_000:
            raise ScoreError("hostile", "its table of contents is too long")
        container = _parse(archive.read("META-INF/container.xml"))
        for element in container.iter():
            path = element.get("full-path")
            if path in names:
                return str(path)
    for name in names:
        if PurePosixPath(name).suffix in (".xml", ".musicxml") and "META-INF" not in name:
            return name
    raise ScoreError("not_a_score", "there is no score in the archive")


def _parse(content: bytes) -> Element:
    try:
        root: Element = SafeET.fromstring(content)
    except DefusedXmlException:
        raise ScoreError("hostile", "it defines entities") from None
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise ScoreError("damaged", str(error)[:80]) from None
    return root


@dataclass(slots=True)
class _Sound:
    """A note or chord being read."""

    onset: Fraction
    beats: Fraction
    heads: list[Notehead]
    ties_on: bool
    marks: dict[str, Any] = field(default_factory=dict)
    up_or_down: BowDirection | None = None
    slurred: bool = False


class _Part:
    """Reads the bars of one part."""

    def __init__(self, jig_id: str, instrument_id: str) -> None:
        self._jig_id, self._kind = jig_id, instrument_id
        self._strings = instrument(instrument_id).strings
        self._written_up = instrument(instrument_id).written_octaves_up
        self._divisions = Fraction(1)
        self._transpose: int | None = None
        self._sounds: list[_Sound] = []
        self._changes: list[Change] = []
        self._first_key: Key | None = None
        self._first_metre: tuple[int, int] | None = None
        self._metre = (4, 4)
        self._tempo: float | None = None
        self._losses: list[ImportLoss] = []
        self._voice: str | None = None
        self._at = Fraction(0)
        self._pickup = Fraction(0)
        self._slurs: set[str] = set()
        self._pluck = False
        self._dynamic: Dynamic | None = None
        self._graces: list[Pitch] = []
        self._last_dynamic: Dynamic | None = None
        self._n = 0

    def read(self, part: Element) -> None:
        """Read bar after bar; stop at the first that cannot be read."""
        bars = part.findall("measure")
        if len(bars) > MAX_BARS:
            raise ScoreError("too_large", f"{len(bars)} bars")
        for i, bar in enumerate(bars):
            number = (bar.get("number") or str(i + 1))[:12]
            start = self._at
            kept = len(self._sounds)
            try:
                length = self._bar(bar, number)
            except (ValueError, KeyError, ZeroDivisionError, TypeError, ArithmeticError):
                del self._sounds[kept:]
                self._at = start
                self._losses.append(ImportLoss(bar=number, what="broken"))
                return
            full = Fraction(self._metre[0] * 4, self._metre[1])
            if i == 0 and length and length < full:
                self._pickup = length
            short = bar.get("implicit") == "yes" or i == len(bars) - 1 or i == 0
            self._at = start + (length if short or length > full or not length else full)
            if not length:
                self._at = start + full

    def _bar(self, bar: Element, number: str) -> Fraction:
        start = at = self._at
        longest = Fraction(0)
        for element in bar:
            match element.tag:
                case "attributes":
                    self._attributes(element, start)
                case "backup":
                    at -= self._duration(element)
                case "forward":
                    at += self._duration(element)
                case "note":
                    at = self._note(element, at, number)
                case "direction":
                    self._direction(element, number)
                case "barline":
                    for what in lost_of_barline(element):
                        self._lose(number, what)
            longest = max(longest, at - start)
        return longest

    def _attributes(self, element: Element, start: Fraction) -> None:
        if (divisions := element.findtext("divisions")) is not None:
            self._divisions = Fraction(divisions)
            if not 0 < self._divisions <= 100_000:
                raise ValueError(divisions)
        key, metre = None, None
        if (fifths := element.findtext("key/fifths")) is not None:
            key = _key(int(fifths), element.findtext("key/mode"))
        beats, unit = element.findtext("time/beats"), element.findtext("time/beat-type")
        if beats and unit:
            metre = (sum(int(b) for b in beats.split("+")), int(unit))
            if not 1 <= metre[0] <= 64 or metre[1] not in (1, 2, 4, 8, 16, 32):
                raise ValueError(metre)
            self._metre = metre
        if element.find("transpose") is not None:
            octaves = int(element.findtext("transpose/octave-change") or 0)
            self._transpose = 12 * octaves + int(element.findtext("transpose/chromatic") or 0)
        if not self._sounds and start == 0:
            self._first_key = key or self._first_key
            self._first_metre = metre or self._first_metre
        elif key or metre:
            self._changes.append(Change(at_beats=start, key=key, metre=metre))

    def _duration(self, element: Element) -> Fraction:
        text = element.findtext("duration")
        if text is None:
            raise ValueError("duration")
        beats = Fraction(text.strip()) / self._divisions
        if not 0 <= beats <= 512:
            raise ValueError(text)
        return beats

    def _note(self, element: Element, at: Fraction, number: str) -> Fraction:
        grace = element.find("grace") is not None
        beats = Fraction(0) if grace else self._duration(element)
        voice, staff = element.findtext("voice") or "1", element.findtext("staff") or "1"
        chord = element.find("chord") is not None
        after = at if chord else at + beats
        self._voice = self._voice or voice
        if element.find("cue") is not None:
            return after
        if staff != "1" or voice != self._voice:
            self._lose(number, "other_staff" if staff != "1" else "other_voice")
            return after
        for what in lost_of_note(element):
            self._lose(number, what)
        if element.find("rest") is not None:
            return after
        pitch = self._pitch(element)
        if pitch is None:
            self._lose(number, "unpitched")
            return after
        self._n += 1
        if self._n > MAX_NOTES:
            raise ScoreError("too_large", f"more than {MAX_NOTES} notes")
        if grace:
            self._graces.append(pitch)
        elif chord and self._sounds:
            self._add_to_chord(element, pitch, number)
        elif beats:
            self._add(element, pitch, at, beats)
        return after

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
        return replace(written, octave=written.octave - down // 12)

    def _add(self, element: Element, pitch: Pitch, at: Fraction, beats: Fraction) -> None:
        ties = {t.get("type") for t in element.iterfind("tie")}
        before = self._sounds[-1] if self._sounds else None
        if "stop" in ties and before is not None and before.ties_on:
            same = any((h.stopped or h.pitch) == pitch for h in before.heads)
            if same and before.onset + before.beats == at:
                before.beats += beats
                before.ties_on = "start" in ties
                self._slur(element, before)
                return
        sound = _Sound(
            onset=at, beats=beats, heads=[self._head(element, pitch, 0)], ties_on="start" in ties
        )
        sound.slurred = bool(self._slurs)
        self._slur(element, sound)
        self._marks(element, sound)
        if self._graces:
            sound.marks["graces"] = tuple(self._graces)
            self._graces = []
        if self._dynamic is not None:
            sound.marks["dynamic"] = self._dynamic
            self._dynamic = None
        if self._pluck:
            sound.marks["pluck"] = True
        self._sounds.append(sound)

    def _add_to_chord(self, element: Element, pitch: Pitch, number: str) -> None:
        sound = self._sounds[-1]
        how = element.find("notations/technical/harmonic/artificial/..")
        if how is not None and sound.heads[-1].stopped is not None:
            if how.find("touching-pitch") is not None:
                self._touch(sound, pitch)
                return
            if how.find("sounding-pitch") is not None:
                return  # known from the two others
        if any(h.pitch == pitch for h in sound.heads) and sound.onset + sound.beats > self._at:
            return
        if len(sound.heads) >= 4:
            self._lose(number, "five_notes")
            return
        sound.heads.append(self._head(element, pitch, len(sound.heads)))
        self._slur(element, sound)
        self._marks(element, sound)

    @staticmethod
    def _touch(sound: _Sound, touched: Pitch) -> None:
        """Settle which partial of a stopped note is meant."""
        head = sound.heads[-1]
        if head.stopped is None:
            return
        partial = artificial(touched.midi - head.stopped.midi)
        if partial is not None:
            sound.heads[-1] = replace(
                head, partial=partial, pitch=sounding_pitch(head.stopped, partial)
            )

    def _head(self, element: Element, pitch: Pitch, k: int) -> Notehead:
        technical = "notations/technical/"
        string = _whole(element.findtext(technical + "string"))
        finger = _whole(element.findtext(technical + "fingering"))
        if element.find(technical + "thumb-position") is not None:
            finger = 5
        n = len(self._strings)
        i_string = n - string if string is not None and 1 <= string <= n else None
        partial = 1
        if element.find(technical + "harmonic/natural") is not None and i_string is not None:
            above = pitch.midi - self._strings[i_string].midi
            partial = max(1, round(2 ** (above / 12)))
        stopped = None
        if element.find(technical + "harmonic/base-pitch") is not None:
            stopped, partial = pitch, _USUAL_PARTIAL
            pitch = sounding_pitch(stopped, partial)
        if finger == 0 and i_string is None:
            i_string = next((i for i, s in enumerate(self._strings) if s == pitch), None)
        return Notehead(
            id=f"{self._jig_id}.n{len(self._sounds)}.{k}", pitch=pitch, string=i_string,
            finger=finger if finger is not None and finger <= 5 else None, partial=partial,
            stopped=stopped,
        )  # fmt: skip

    def _slur(self, element: Element, sound: _Sound) -> None:
        for slur in element.iterfind("notations/slur"):
            number = slur.get("number", "1")
            if slur.get("type") == "start":
                self._slurs.add(number)
            elif slur.get("type") == "stop":
                self._slurs.discard(number)
        del sound

    def _marks(self, element: Element, sound: _Sound) -> None:
        for technical in element.iterfind("notations/technical/*"):
            if technical.tag in ("up-bow", "down-bow"):
                sound.up_or_down = "up" if technical.tag == "up-bow" else "down"
            elif technical.tag == "other-technical":
                self._own(technical.text or "", sound)
        articulations = "notations/articulations/"
        if any(element.find(articulations + w) is not None for w in ("staccato", "staccatissimo")):
            sound.marks["lifted"] = True
        if any(
            e.get("type") == "stop"
            for w in ("slide", "glissando")
            for e in element.iterfind(f"notations/{w}")
        ):
            sound.marks["glide"] = True
        for ornament in element.iterfind("notations/ornaments/*"):
            if ornament.tag in ORNAMENT_OF:
                sound.marks["ornament"] = ORNAMENT_OF[ornament.tag]

    @staticmethod
    def _own(text: str, sound: _Sound) -> None:
        name, _, value = text.removeprefix(OWN_MARK).partition("=")
        if not text.startswith(OWN_MARK):
            return
        if name == "free":
            sound.marks["free"] = True
        elif name == "vibrato":
            sound.marks["vibrato"] = value == "yes"
        elif name == "shape" and value in SHAPES:
            sound.marks["shape"] = value

    def _direction(self, element: Element, number: str) -> None:
        for what in lost_of_direction(element, has_tempo=self._tempo is not None):
            self._lose(number, what)
        for words in element.iterfind("direction-type/words"):
            text = (words.text or "").lower()
            if "pizz" in text:
                self._pluck = True
            elif "arco" in text:
                self._pluck = False
        for mark in element.iterfind("direction-type/dynamics/*"):
            if mark.tag in DYNAMICS:
                self._dynamic = mark.tag
        sound = element.find("sound")
        if sound is not None:
            if (plucked := sound.get("pizzicato")) is not None:
                self._pluck = plucked == "yes"
            if (tempo := sound.get("tempo")) is not None and self._tempo is None:
                self._tempo = float(tempo)
        per_minute = element.findtext("direction-type/metronome/per-minute")
        if per_minute and self._tempo is None and per_minute.strip().isdigit():
            unit = element.findtext("direction-type/metronome/beat-unit") or "quarter"
            dotted = element.find("direction-type/metronome/beat-unit-dot") is not None
            quarters = {"half": 2.0, "quarter": 1.0, "eighth": 0.5}.get(unit, 1.0)
            self._tempo = float(per_minute) * quarters * (1.5 if dotted else 1.0)

    def _lose(self, bar: str, what: str) -> None:
        loss = ImportLoss(bar=bar, what=what)
        if loss not in self._losses:
            self._losses.append(loss)

    def imported(self, *, title: str, parts: tuple[str, ...], i_part: int) -> Imported:
        """Close the part."""
        lowest = self._strings[0].midi
        for sound in self._sounds:
            if any(h.pitch.midi < lowest for h in sound.heads):
                self._lose("", "out_of_range")
        if not self._sounds:
            raise ScoreError("no_notes", self._losses[0].bar if self._losses else "empty part")
        jig = Jig(
            id=self._jig_id, title=title, instrument_id=self._kind,
            key=self._first_key or Key(PitchClass("C")),
            beats_per_bar=(self._first_metre or (4, 4))[0],
            beat_unit=(self._first_metre or (4, 4))[1],
            tempo_bpm=min(400.0, max(10.0, self._tempo or 80.0)),
            events=tuple(self._events()), pickup_beats=self._pickup,
            changes=tuple(self._changes),
        )  # fmt: skip
        return Imported(jig=jig, losses=tuple(self._losses), parts=parts, i_part=i_part)

    def _events(self) -> Iterator[Event]:
        bow: BowDirection = "up"
        end = Fraction(0)
        for i, sound in enumerate(self._sounds):
            heads = tuple(sorted(sound.heads, key=lambda h: h.pitch.midi))
            direction: BowDirection | None = None
            begins = not sound.slurred or sound.up_or_down is not None or sound.onset > end
            if begins and not sound.marks.get("pluck"):
                direction = sound.up_or_down or ("down" if bow == "up" else "up")
                bow = direction
            onset = max(sound.onset, end) if sound.onset < end else sound.onset
            end = onset + sound.beats
            yield Event(
                id=f"{self._jig_id}.e{i}", onset_beats=onset, length_beats=sound.beats,
                heads=heads, bow=direction, **sound.marks,
            )  # fmt: skip


def _key(fifths: int, mode: str | None) -> Key:
    if not -7 <= fifths <= 7:
        raise ValueError(fifths)
    if mode == "minor":
        return Key(PitchClass.from_fifths(fifths + 3), "natural_minor")
    names = {"dorian": 2, "phrygian": 4, "lydian": -1, "mixolydian": 1}
    if mode in names:
        return Key(PitchClass.from_fifths(fifths + names[mode]), mode)  # type: ignore[arg-type]
    return Key(PitchClass.from_fifths(fifths), "major")


def _whole(text: str | None) -> int | None:
    text = (text or "").strip()
    return int(text) if text.isdigit() else None
