"""The folder of growing recordings: sound, and beside it who played what and how.

``recording/ID.wav`` grows while somebody plays; ``recording/ID.json`` is written before its first
sample and says under which player, instrument, jig, A and time it is played.
``recording/cut-….flac`` is a take that is being made. What lies here when a studio is opened was
left behind: it is offered to the player, one after the other, never removed by itself.
"""

from __future__ import annotations

import contextlib
import json
import math
import os
import tempfile
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass, fields, replace
from pathlib import Path
from typing import Any

from jigwright.core.errors import JigwrightError
from jigwright.core.music.pitch import Pitch
from jigwright.services.ledger import Keeps, Span, left_of
from jigwright.services.recording import HEADER_BYTES, RATE_HZ

FOLDER = "recording"
DISCARDED = "discarded"
_SCHEMA = "jigwright.recording/1"
_LEAST_S = 0.5
_MOST_NOTE_BYTES = 100_000
_UNFINISHED = ".part-"  # what is being written; it gets its name when it is whole
_KEEPS: tuple[Keeps, ...] = ("takes", "whole", "nothing")


@dataclass(frozen=True, slots=True, kw_only=True)
class SpokenOf:
    """The moment of a take that a recording speaks about.

    Parameters
    ----------
    take_id : str
    at_s : float
    note_id : str or None
    """

    take_id: str
    at_s: float
    note_id: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingNote:
    """Who plays what, written as a recording begins.

    Parameters
    ----------
    id : str
        Of the recording; its files are named by it.
    started_utc : str
        ISO 8601 in UTC.
    utc_offset_min : int
    player_id, player : str
        ``player`` is the name then.
    instrument_id, kind : str
    strings : tuple of Pitch
    jig_id : str or None
    jig_revision : int or None
    title : str
        Of the jig, for people.
    a4_hz : float
    reference : str
    tolerance_cents : float
    input_name, source : str
    keeps : Keeps
    drone_hz : tuple of float
        Partials of a drone that sounded when it began.
    about : SpokenOf or None
        Where it is a spoken remark: what it speaks about.
    """

    id: str
    started_utc: str
    utc_offset_min: int
    player_id: str
    player: str
    instrument_id: str
    kind: str
    strings: tuple[Pitch, ...]
    jig_id: str | None
    jig_revision: int | None
    title: str
    a4_hz: float
    reference: str
    tolerance_cents: float
    input_name: str
    source: str
    keeps: Keeps
    drone_hz: tuple[float, ...] = ()
    about: SpokenOf | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Leftover:
    """Sound that was left behind and may hold playing.

    Parameters
    ----------
    path : Path
    note : RecordingNote or None
        ``None``: nobody wrote down who played.
    seconds : float or None
        ``None``: not one of our growing recordings; its length is known once it is decoded.
    kept : tuple of (float, float)
        Stretches of it that are takes already.
    """

    path: Path
    note: RecordingNote | None
    seconds: float | None
    kept: tuple[Span, ...] = ()

    @property
    def left_s(self) -> float | None:
        """Seconds that are no take yet."""
        if self.seconds is None:
            return None
        return sum(b - a for a, b in left_of([(0.0, self.seconds)], self.kept))

    @property
    def growing(self) -> bool:
        """Whether it is a growing recording, to be cut into takes."""
        return self.path.suffix == ".wav"


def note_path(recording: Path) -> Path:
    """Where the note beside a recording lies."""
    return recording.with_suffix(".json")


def write_note(recording: Path, note: RecordingNote) -> None:
    """Write the note beside a recording: whole or not at all, and on the disk.

    Raises
    ------
    OSError
    """
    body = {"schema": _SCHEMA, **asdict(note), "strings": [str(s) for s in note.strings]}
    text = json.dumps(body, ensure_ascii=True, indent=1, allow_nan=False)
    handle, name = tempfile.mkstemp(dir=recording.parent, prefix=_UNFINISHED)
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        Path(name).replace(note_path(recording))
    finally:
        Path(name).unlink(missing_ok=True)


def read_note(recording: Path) -> RecordingNote | None:
    """Read the note beside a recording; ``None`` where there is none that can be used."""
    path = note_path(recording)
    try:
        if path.stat().st_size > _MOST_NOTE_BYTES:
            return None
        body = json.loads(path.read_text(encoding="utf-8"))
        if body.pop("schema") != _SCHEMA:
            return None
        return _checked(body, recording.stem)
    except (OSError, ValueError, TypeError, KeyError, AttributeError, RecursionError):
        return None
    except JigwrightError:
        return None


def _checked(body: dict[str, Any], stem: str) -> RecordingNote:
    names = {f.name for f in fields(RecordingNote)}
    body.setdefault("about", None)  # recordings of earlier versions are never remarks
    if set(body) != names or body["id"] != stem or body["keeps"] not in _KEEPS:
        raise ValueError("not a note of this recording")
    strings = tuple(Pitch.parse(str(s)) for s in body["strings"])
    about = body["about"] if body["about"] is None else SpokenOf(**body["about"])
    note = RecordingNote(
        **{**body, "strings": strings, "drone_hz": tuple(body["drone_hz"]), "about": about}
    )
    texts: tuple[str, ...] = (
        note.started_utc, note.player_id, note.player, note.instrument_id, note.kind, note.title,
        note.reference, note.input_name, note.source,
    )  # fmt: skip
    numbers: tuple[float, ...] = (note.a4_hz, note.tolerance_cents, *note.drone_hz)
    if about is not None:
        texts = (*texts, about.take_id, about.note_id or "")
        numbers = (*numbers, about.at_s)
    if not all(isinstance(t, str) for t in texts):
        raise TypeError("a text is meant")
    if not all(isinstance(n, (int, float)) and math.isfinite(n) for n in numbers):
        raise TypeError("a number is meant")
    if not isinstance(note.utc_offset_min, int) or not 300 <= note.a4_hz <= 500:
        raise ValueError("out of range")
    return note


def seconds_of(recording: Path) -> float:
    """Length of a growing recording by its size."""
    return max(0, recording.stat().st_size - HEADER_BYTES) / 4 / RATE_HZ


def cut_name(recording_id: str, span: Span) -> str:
    """Name of the file that a take is made in: says what it was cut from."""
    return f"cut-{recording_id}-{round(1000 * span[0])}-{round(1000 * span[1])}.flac"


def cut_origin(name: str) -> tuple[str, Span] | None:
    """Recording and stretch that a cut file was made of; ``None`` for other names."""
    stem, dot, suffix = name.rpartition(".")
    words = stem.split("-")
    if not dot or suffix != "flac" or len(words) < 4 or words[0] != "cut":
        return None
    try:
        start, stop = int(words[-2]) / 1000, int(words[-1]) / 1000
    except ValueError:
        return None
    return "-".join(words[1:-2]), (start, stop)


def find_leftovers(
    folder: Path,
    *,
    kept_of: Callable[[str], Iterable[Span]],
    is_kept: Callable[[Path], bool],
    but: Iterable[Path] = (),
    older: Iterable[Path] = (),
) -> tuple[Leftover, ...]:
    """What an interrupted sitting left behind, the oldest first; what can go is taken away.

    Parameters
    ----------
    folder : Path
        The studio's folder of recordings.
    kept_of : callable
        Stretches of a recording that are takes, by its id: the studio knows.
    is_kept : callable
        Whether the studio holds a file byte for byte.
    but : iterable of Path
        Recordings that are being written or cut now.
    older : iterable of Path
        Cut sound that earlier versions left elsewhere.
    """
    busy = set(but)
    if not busy:
        remove_unfinished(folder)
    found: list[Leftover] = []
    recordings = sorted(p for p in _listed(folder) if p.suffix == ".wav" and p not in busy)
    for path in recordings:
        note, seconds = read_note(path), _size_s(path)
        kept = tuple(kept_of(path.stem))
        told = note is not None and note.keeps == "nothing"
        if told or not left_of([(0.0, seconds)], kept, least_s=_LEAST_S):
            remove_recording(path)
            continue
        found.append(Leftover(path=path, note=note, seconds=seconds, kept=kept))
    stems = {p.stem for p in (*recordings, *busy)}
    for path in [*_listed(folder), *older]:
        origin = cut_origin(path.name)
        ours = origin is not None and origin[0] in stems
        if path.suffix != ".flac" or ours or path in busy or _is_unfinished(path):
            continue  # its recording is here: it can be cut again
        if is_kept(path):
            with contextlib.suppress(OSError):
                path.unlink()
            continue
        note = None
        if origin is not None:
            note = read_note(path.with_name(origin[0] + ".wav"))
        found.append(Leftover(path=path, note=note, seconds=None))
    return tuple(found)


def remove_recording(path: Path) -> None:
    """Take a recording away that is no longer needed, with what lies beside it."""
    with contextlib.suppress(OSError):
        path.unlink(missing_ok=True)
    with contextlib.suppress(OSError):
        note_path(path).unlink(missing_ok=True)
    for other in _listed(path.parent):
        origin = cut_origin(other.name)
        if origin is not None and origin[0] == path.stem:
            with contextlib.suppress(OSError):
                other.unlink(missing_ok=True)


def remove_unfinished(folder: Path) -> None:
    """Take away what a worker that died has half written: copies of what is still there.

    Only to be called while nobody writes there.
    """
    for path in _listed(folder):
        if _is_unfinished(path):
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)


def _is_unfinished(path: Path) -> bool:
    return path.name.startswith(_UNFINISHED)


def discard(leftover: Leftover) -> Path:
    """Put a leftover aside, as the player said; it can be brought back from there.

    Raises
    ------
    OSError
    """
    return _move(leftover.path, leftover.path.parent / DISCARDED)


def bring_back(discarded: Path) -> Path:
    """Undo :func:`discard`; returns where it lies now.

    Raises
    ------
    OSError
    """
    return _move(discarded, discarded.parent.parent)


def _move(path: Path, folder: Path) -> Path:
    folder.mkdir(exist_ok=True)
    target = folder / path.name
    if target.exists():
        raise FileExistsError(f"{target.name} lies there already")
    if note_path(path).exists():
        note_path(path).replace(note_path(target))
    return path.replace(target)


def free_note(note: RecordingNote) -> RecordingNote:
    """The same sitting without a jig: for stretches that no jig belongs to."""
    return replace(note, jig_id=None, jig_revision=None)


def _listed(folder: Path) -> list[Path]:
    try:
        return sorted(p for p in folder.iterdir() if p.is_file() and not p.is_symlink())
    except OSError:
        return []


def _size_s(path: Path) -> float:
    try:
        return seconds_of(path)
    except OSError:
        return 0.0
