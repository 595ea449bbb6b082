"""Jigs as JSON text: schema ``jigwright.jig/1`` (docs/formats.md)."""

from __future__ import annotations

import json
from fractions import Fraction
from typing import Any, cast

from jigwright.core.errors import JigError, JigwrightError
from jigwright.core.jig.model import DYNAMICS, SHAPES, Change, Event, Jig, Notehead
from jigwright.core.music.instruments import instrument
from jigwright.core.music.keys import MODES, Key, Mode
from jigwright.core.music.pitch import Pitch, PitchClass

SCHEMA = "jigwright.jig/1"
MAX_EVENTS = 20_000
MAX_TEXT = 16_000_000
_FLAGS = ("pluck", "free", "lifted")


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
        "events": [_event_to_dict(e) for e in jig.events],
    }
    return json.dumps(body, indent=1, ensure_ascii=False)


def jig_from_json(text: str) -> Jig:
    """Read a jig from JSON text.

    Raises
    ------
    JigError
        If the text is not a jig of a known schema, with what is wrong.
    """
    if len(text) > MAX_TEXT:
        raise JigError(f"the jig file is too large: {len(text)} characters")
    try:
        body = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        raise JigError(f"not JSON: {error}") from None
    if not isinstance(body, dict) or body.get("schema") != SCHEMA:
        raise JigError(f"not a jig file: the schema must be {SCHEMA!r}")
    try:
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
            }
            for c in jig.changes
        ]
    return body


def _change_from_dict(row: dict[str, Any]) -> Change:
    return Change(
        at_beats=Fraction(str(row["at_beats"])),
        key=_key(row["key"]) if row.get("key") else None,
        metre=_metre(row["metre"]) if row.get("metre") else None,
    )


def _key(row: dict[str, Any]) -> Key:
    mode = row["mode"]
    if mode not in MODES:
        raise JigError(f"unknown mode {mode!r}")
    return Key(PitchClass.parse(row["tonic"]), cast("Mode", mode))


def _metre(row: list[Any]) -> tuple[int, int]:
    beats_per_bar, beat_unit = (int(v) for v in row)
    if not 1 <= beats_per_bar <= 64 or beat_unit not in (1, 2, 4, 8, 16, 32):
        raise JigError(f"unknown metre {row!r}")
    return beats_per_bar, beat_unit


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
        **({"graces": [str(p) for p in event.graces]} if event.graces else {}),
        "notes": [
            {
                "id": h.id, "pitch": str(h.pitch), "string": h.string, "finger": h.finger,
                "replaces": h.replaces, **({"partial": h.partial} if h.partial > 1 else {}),
                **({"stopped": str(h.stopped)} if h.stopped is not None else {}),
            }
            for h in event.heads
        ],
    }  # fmt: skip


def _jig_from_dict(body: dict[str, Any]) -> Jig:
    rows = body["events"]
    if len(rows) > MAX_EVENTS:
        raise JigError(f"too many events: {len(rows)} (at most {MAX_EVENTS})")
    beats_per_bar, beat_unit = _metre(body["metre"])
    derived = body.get("from")
    return Jig(
        id=str(body["id"]),
        revision=int(body["revision"]),
        title=str(body["title"])[:200],
        instrument_id=instrument(body["instrument"]).id,
        key=_key(body["key"]),
        beats_per_bar=beats_per_bar,
        beat_unit=beat_unit,
        tempo_bpm=float(body["tempo_bpm"]),
        reference=str(body["reference"]),
        tolerance_cents=float(body["tolerance_cents"]),
        pickup_beats=Fraction(str(body.get("pickup_beats", 0))),
        changes=tuple(_change_from_dict(r) for r in body.get("changes", ())),
        derived_from=(str(derived[0]), int(derived[1])) if derived else None,
        events=tuple(_event_from_dict(r) for r in rows),
    )


def _event_from_dict(row: dict[str, Any]) -> Event:
    bow = row.get("bow")
    if bow not in (None, "down", "up"):
        raise JigError(f"unknown bow direction {bow!r}")
    dynamic = row.get("dynamic")
    if dynamic not in (None, *DYNAMICS):
        raise JigError(f"unknown dynamic {dynamic!r}")
    shape = row.get("shape")
    if shape not in (None, *SHAPES):
        raise JigError(f"unknown shape {shape!r}")
    return Event(
        id=str(row["id"]),
        onset_beats=Fraction(str(row["onset_beats"])),
        length_beats=Fraction(str(row["length_beats"])),
        bow=bow,
        vibrato=row.get("vibrato"),
        glide=bool(row.get("glide", False)),
        dynamic=dynamic,
        shape=shape,
        graces=tuple(Pitch.parse(str(p)) for p in row.get("graces", ())),
        **{name: bool(row.get(name, False)) for name in _FLAGS},
        heads=tuple(
            Notehead(
                id=str(h["id"]),
                pitch=Pitch.parse(str(h["pitch"])),
                string=_small(h.get("string")),
                finger=_small(h.get("finger")),
                replaces=h.get("replaces"),
                partial=_partial(h.get("partial", 1)),
                stopped=Pitch.parse(str(h["stopped"])) if h.get("stopped") else None,
            )
            for h in row["notes"]
        ),
    )


def _partial(value: object) -> int:
    if not isinstance(value, int) or not 1 <= value <= 32:
        raise JigError(f"a partial is a whole number from 1 to 32, got {value!r}")
    return value


def _small(value: object) -> int | None:
    if value is None:
        return None
    if not isinstance(value, int) or not 0 <= value <= 9:
        raise JigError(f"a string or finger must be a small whole number, got {value!r}")
    return value
