"""Jigs as JSON text: schema ``jigwright.jig/1`` (docs/formats.md)."""

from __future__ import annotations

import json
from fractions import Fraction
from typing import Any, cast

from jigwright.core.checking import (
    beats,
    field,
    flag,
    identity,
    number,
    one_of,
    read_json,
    rows_of,
    whole,
    words,
)
from jigwright.core.errors import FieldError, JigError, JigwrightError, PitchNameError
from jigwright.core.jig.aims import AIM_KINDS, LIMITS, MOST_AIMS, WAYS, Aim, AimKind
from jigwright.core.jig.cue import is_cue_text
from jigwright.core.jig.model import (
    MARKS,
    MOST_BEATS,
    MOST_EVENTS,
    MOST_LENGTH_BEATS,
    MOST_VOICES,
    ORNAMENTS,
    SHAPES,
    Change,
    Event,
    Jig,
    Notehead,
)
from jigwright.core.jig.signs import (
    DYNAMICS,
    MOST_SIGN_TEXT,
    MOST_SIGNS,
    NOTE_VALUES,
    SIGN_KINDS,
    TEXTS,
    Sign,
)
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import MODES, Key, Mode
from jigwright.core.music.pitch import Pitch, PitchClass

SCHEMA = "jigwright.jig/1"
MAX_TEXT = 16_000_000
MOST_GRACES = 32
LOWEST_MIDI, HIGHEST_MIDI = 12, 127
_FLAGS = ("pluck", "free", "lifted", "proposed_bow")
_HAIR = ("bow_share", "bow_place")


def jig_to_json(jig: Jig) -> str:
    """Write a jig as JSON text."""
    body = {
        "schema": SCHEMA,
        "id": jig.id,
        "revision": jig.revision,
        "title": jig.title,
        "instrument": jig.instrument_id,
        "key": {"tonic": str(jig.key.tonic), "mode": jig.key.mode},
        "metre": [jig.beats_per_bar, jig.beat_unit],
        "tempo_bpm": jig.tempo_bpm,
        "reference": jig.reference,
        "tolerance_cents": jig.tolerance_cents,
        **_bars_to_dict(jig),
        "from": list(jig.derived_from) if jig.derived_from else None,
        **({"aims": [aim_to_dict(a) for a in jig.aims]} if jig.aims else {}),
        **({"signs": [_sign_to_dict(s) for s in jig.signs]} if jig.signs else {}),
        "events": [_event_to_dict(e) for e in jig.events],
    }
    return json.dumps(body, indent=1, ensure_ascii=False)


def jig_from_json(text: str) -> Jig:
    """Read a jig from JSON text; every value is checked before anything is made of it.

    Raises
    ------
    JigError
        If the text is not a jig of a known schema, with the field that is wrong.
    """
    if len(text) > MAX_TEXT:
        raise JigError(f"the jig file is too large: {len(text)} characters")
    try:
        body = read_json(text, what="jig")
        if not isinstance(body, dict) or body.get("schema") != SCHEMA:
            raise JigError(f"not a jig file: the schema must be {SCHEMA!r}")
        return _jig_from_dict(body)
    except JigError:
        raise
    except (KeyError, TypeError, ValueError, ZeroDivisionError, JigwrightError) as error:
        raise JigError(f"malformed jig: {error}") from error


def _bars_to_dict(jig: Jig) -> dict[str, object]:
    body: dict[str, object] = {}
    if jig.pickup_beats:
        body["pickup_beats"] = str(jig.pickup_beats)
    if jig.changes:
        body["changes"] = [
            {
                "at_beats": str(c.at_beats),
                "key": {"tonic": str(c.key.tonic), "mode": c.key.mode} if c.key else None,
                "metre": list(c.metre) if c.metre else None,
                **({"bar_beats": str(c.bar_beats)} if c.bar_beats is not None else {}),
                **({"number": c.number} if c.number is not None else {}),
            }
            for c in jig.changes
        ]
    if jig.silence_beats:
        body["silence_beats"] = str(jig.silence_beats)
    return body


def _sign_to_dict(sign: Sign) -> dict[str, object]:
    return {
        "kind": sign.kind,
        "at_beats": str(sign.at_beats),
        **({"end_beats": str(sign.end_beats)} if sign.end_beats is not None else {}),
        **({"text": sign.text} if sign.text else {}),
        **({"value": sign.value} if sign.value is not None else {}),
        **({"above": sign.above} if sign.above is not None else {}),
    }


def _sign_from_dict(row: Any, where: str) -> Sign:
    end, value, above = row.get("end_beats"), row.get("value"), row.get("above")
    at = beats(field(row, "at_beats", where), f"{where}.at_beats", 0, MOST_BEATS)
    kind = one_of(field(row, "kind", where), f"{where}.kind", SIGN_KINDS)
    text = words(row["text"], f"{where}.text", MOST_SIGN_TEXT) if row.get("text") else ""
    if kind == "cue" and (end is None or not is_cue_text(text)):
        raise FieldError(f"{where}.text", text[:40], "MIDI numbers and an end")
    known = ("", *NOTE_VALUES) if kind == "tempo" else TEXTS.get(kind)
    return Sign(
        kind=kind,
        at_beats=at,
        end_beats=None if end is None else max(at, beats(end, f"{where}.end_beats", 0, MOST_BEATS)),
        text=text if known is None else one_of(text, f"{where}.text", known),
        value=None if value is None else number(value, f"{where}.value", 0, 10_000),
        above=None if above is None else flag(above, f"{where}.above"),
    )


def aim_to_dict(aim: Aim) -> dict[str, object]:
    """An aim as plain data; what it begins with is left out."""
    return {
        "kind": aim.kind,
        **({"places": list(aim.places)} if aim.places else {}),
        **({"limit": aim.limit} if aim.limit is not None else {}),
        **({"way": aim.way} if aim.way else {}),
    }


def _aim_from_dict(row: Any, where: str) -> Aim:
    kind = cast("AimKind", one_of(field(row, "kind", where), f"{where}.kind", AIM_KINDS))
    start = LIMITS[kind]
    limit = row.get("limit")
    ways = ("", *WAYS.get(kind, ()))
    return Aim(
        kind=kind,
        places=tuple(
            identity(p, f"{where}.places")
            for p in rows_of(row.get("places", []), f"{where}.places", MOST_EVENTS)
        ),
        limit=None if limit is None else number(limit, f"{where}.limit", start.low, start.high),
        way=cast("str", one_of(row.get("way", ""), f"{where}.way", ways)),
    )


def _change_from_dict(row: Any, where: str) -> Change:
    return Change(
        at_beats=beats(field(row, "at_beats", where), f"{where}.at_beats", 0, MOST_BEATS),
        key=_key(row["key"], f"{where}.key") if row.get("key") else None,
        metre=_metre(row["metre"], f"{where}.metre") if row.get("metre") else None,
        bar_beats=beats(row["bar_beats"], f"{where}.bar_beats", 0, MOST_LENGTH_BEATS) or None
        if row.get("bar_beats") is not None
        else None,
        number=None
        if row.get("number") is None
        else whole(row["number"], f"{where}.number", 0, 100_000),
    )


def _key(row: Any, where: str) -> Key:
    mode = one_of(field(row, "mode", where), f"{where}.mode", MODES)
    tonic = words(field(row, "tonic", where), f"{where}.tonic", 8)
    return Key(PitchClass.parse(tonic), cast("Mode", mode))


def _metre(row: Any, where: str) -> tuple[int, int]:
    pair = rows_of(row, where, 2)
    if len(pair) != 2:
        raise FieldError(where, str(pair), "beats in a bar and beat unit")
    beats_per_bar = whole(pair[0], where, 1, 64)
    return beats_per_bar, cast("int", one_of(pair[1], where, (1, 2, 4, 8, 16, 32)))


def _event_to_dict(event: Event) -> dict[str, object]:
    return {
        "id": event.id,
        "onset_beats": str(event.onset_beats),
        "length_beats": str(event.length_beats),
        "bow": event.bow,
        "vibrato": event.vibrato,
        "glide": event.glide,
        **{name: True for name in _FLAGS if getattr(event, name)},
        **({"dynamic": event.dynamic} if event.dynamic else {}),
        **({"shape": event.shape} if event.shape else {}),
        **({"ornament": event.ornament} if event.ornament else {}),
        **({"graces": [str(p) for p in event.graces]} if event.graces else {}),
        **({"marks": list(event.marks)} if event.marks else {}),
        **{n: v for n in _HAIR if (v := getattr(event, n)) is not None},
        "notes": [
            {
                "id": h.id, "pitch": str(h.pitch), "string": h.string, "finger": h.finger,
                "replaces": h.replaces, **({"partial": h.partial} if h.partial > 1 else {}),
                **({"stopped": str(h.stopped)} if h.stopped is not None else {}),
                **({"held": True} if h.held else {}),
                **({"length_beats": str(h.length_beats)} if h.length_beats is not None else {}),
                **({"voice": h.voice} if h.voice > 1 else {}),
                **({"proposed": True} if h.proposed else {}),
            }
            for h in event.heads
        ],
    }  # fmt: skip


def _jig_from_dict(body: dict[str, Any]) -> Jig:
    where = "jig"
    rows = rows_of(field(body, "events", where), "jig.events", MOST_EVENTS)
    beats_per_bar, beat_unit = _metre(field(body, "metre", where), "jig.metre")
    changes = rows_of(body.get("changes", []), "jig.changes", MOST_EVENTS)
    return Jig(
        id=identity(field(body, "id", where), "jig.id"),
        revision=whole(field(body, "revision", where), "jig.revision", 1, 2**31 - 1),
        title=words(field(body, "title", where), "jig.title", 200),
        instrument_id=instrument(words(field(body, "instrument", where), "jig.instrument", 40)).id,
        key=_key(field(body, "key", where), "jig.key"),
        beats_per_bar=beats_per_bar,
        beat_unit=beat_unit,
        tempo_bpm=number(field(body, "tempo_bpm", where), "jig.tempo_bpm", 10, 400),
        reference=words(field(body, "reference", where), "jig.reference", 200),
        tolerance_cents=number(
            field(body, "tolerance_cents", where), "jig.tolerance_cents", 1, 100
        ),
        pickup_beats=beats(body.get("pickup_beats", 0), "jig.pickup_beats", 0, 64),
        changes=tuple(_change_from_dict(r, f"jig.changes[{i}]") for i, r in enumerate(changes)),
        silence_beats=beats(body.get("silence_beats", 0), "jig.silence_beats", 0, MOST_BEATS),
        derived_from=_derived(body.get("from")),
        events=tuple(_event_from_dict(r, f"jig.events[{i}]") for i, r in enumerate(rows)),
        aims=tuple(
            _aim_from_dict(r, f"jig.aims[{i}]")
            for i, r in enumerate(rows_of(body.get("aims", []), "jig.aims", MOST_AIMS))
        ),
        signs=tuple(
            _sign_from_dict(r, f"jig.signs[{i}]")
            for i, r in enumerate(rows_of(body.get("signs", []), "jig.signs", MOST_SIGNS))
        ),
    )


def _derived(pair: Any) -> tuple[str, int] | None:
    if not pair:
        return None
    parts = rows_of(pair, "jig.from", 2)
    if len(parts) != 2:
        raise FieldError("jig.from", str(parts)[:40], "jig and revision")
    return identity(parts[0], "jig.from"), whole(parts[1], "jig.from", 1, 2**31 - 1)


def _event_from_dict(row: Any, where: str) -> Event:
    heads = rows_of(field(row, "notes", where), f"{where}.notes", 4)
    graces = rows_of(row.get("graces", []), f"{where}.graces", MOST_GRACES)
    return Event(
        id=identity(field(row, "id", where), f"{where}.id"),
        onset_beats=beats(field(row, "onset_beats", where), f"{where}.onset_beats", 0, MOST_BEATS),
        length_beats=beats(
            field(row, "length_beats", where), f"{where}.length_beats", 0, MOST_LENGTH_BEATS
        ),
        bow=one_of(row.get("bow"), f"{where}.bow", (None, "down", "up")),
        vibrato=one_of(row.get("vibrato"), f"{where}.vibrato", (None, True, False)),
        glide=flag(row.get("glide", False), f"{where}.glide"),
        dynamic=one_of(row.get("dynamic"), f"{where}.dynamic", (None, *DYNAMICS)),
        shape=one_of(row.get("shape"), f"{where}.shape", (None, *SHAPES)),
        graces=tuple(_pitch(p, f"{where}.graces") for p in graces),
        ornament=one_of(row.get("ornament"), f"{where}.ornament", (None, *ORNAMENTS)),
        marks=tuple(
            one_of(m, f"{where}.marks", MARKS)
            for m in rows_of(row.get("marks", []), f"{where}.marks", len(MARKS))
        ),
        bow_share=_share(row.get("bow_share"), f"{where}.bow_share"),
        bow_place=_share(row.get("bow_place"), f"{where}.bow_place"),
        proposed_bow=flag(row.get("proposed_bow", False), f"{where}.proposed_bow"),
        pluck=flag(row.get("pluck", False), f"{where}.pluck"),
        free=flag(row.get("free", False), f"{where}.free"),
        lifted=flag(row.get("lifted", False), f"{where}.lifted"),
        heads=tuple(_head(h, f"{where}.notes[{i}]") for i, h in enumerate(heads)),
    )


def _head(row: Any, where: str) -> Notehead:
    replaces, stopped = row.get("replaces") if isinstance(row, dict) else None, None
    if isinstance(row, dict) and row.get("stopped"):
        stopped = _pitch(row["stopped"], f"{where}.stopped")
    return Notehead(
        id=identity(field(row, "id", where), f"{where}.id"),
        pitch=_pitch(field(row, "pitch", where), f"{where}.pitch"),
        string=_small(row.get("string"), f"{where}.string"),
        finger=_small(row.get("finger"), f"{where}.finger"),
        replaces=None if replaces is None else identity(replaces, f"{where}.replaces"),
        partial=whole(row.get("partial", 1), f"{where}.partial", 1, 32),
        stopped=stopped,
        held=flag(row.get("held", False), f"{where}.held"),
        length_beats=_head_beats(row.get("length_beats"), f"{where}.length_beats"),
        voice=whole(row.get("voice", 1), f"{where}.voice", 1, MOST_VOICES),
        proposed=flag(row.get("proposed", False), f"{where}.proposed"),
    )


def _share(value: Any, where: str) -> float | None:
    return None if value is None else number(value, where, 0, 1)


def _head_beats(value: Any, where: str) -> Fraction | None:
    if value is None:
        return None
    length = beats(value, where, 0, MOST_LENGTH_BEATS)
    if not length:
        raise FieldError(where, str(value), "a length above 0")
    return length


def _pitch(value: Any, where: str) -> Pitch:
    text = words(value, where, 12)
    try:
        pitch = Pitch.parse(text)
    except PitchNameError:
        raise FieldError(where, repr(text), "a pitch such as F#4") from None
    if not LOWEST_MIDI <= pitch.midi <= HIGHEST_MIDI:
        raise FieldError(where, repr(text), "a pitch that a bowed string can sound")
    return pitch


def _small(value: Any, where: str) -> int | None:
    return None if value is None else whole(value, where, 0, 9)
