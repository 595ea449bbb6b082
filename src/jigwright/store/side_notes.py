"""A small file beside every sound and every jig, enough to make their rows again.

``audio/YEAR/ID.json`` says who played what on which instrument, when, against which A;
``jigs/ID.REVISION.json`` is the jig itself. They are written before the row appears, and read only
by mending: a studio whose database is lost comes back from its sounds.
"""

from __future__ import annotations

import json
import os
import tempfile
from dataclasses import asdict, dataclass
from pathlib import Path

from jigwright.core.checking import field, one_of, read_json
from jigwright.core.errors import JigwrightError
from jigwright.core.jig.exchange import jig_from_json
from jigwright.services.records import OwnedInstrument, Player, TakeRecord
from jigwright.services.take_fields import (
    instrument_row,
    read_instrument,
    read_player,
    read_take,
    take_row,
)
from jigwright.store.files import file_name
from jigwright.store.trouble import store_errors

SCHEMA = "jigwright.sound/1"
_MOST_BYTES = 100_000
_MOST_JIG_BYTES = 20_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class SideNote:
    """What is known of a sound without the database.

    Parameters
    ----------
    take : TakeRecord
        Without ``audio``.
    player : Player
    owned : OwnedInstrument
    """

    take: TakeRecord
    player: Player
    owned: OwnedInstrument


def note_path(sound: Path) -> Path:
    """Where the note beside a sound lies."""
    return sound.with_suffix(".json")


def write_note(
    sound: Path, take: TakeRecord, player: Player, owned: OwnedInstrument, *, synced: bool = True
) -> None:
    """Write the note beside a sound: whole or not at all; ``synced``: on the disk, too.

    Raises
    ------
    StoreError
    """
    _write(
        note_path(sound),
        json.dumps(
            {
                "schema": SCHEMA, "take": take_row(take), "binned": take.binned,
                "player": asdict(player), "instrument": instrument_row(owned),
            },
            indent=1,
        ),
        synced=synced,
    )  # fmt: skip


def read_note(sound: Path) -> SideNote | None:
    """What the note beside a sound says; ``None`` where there is none that can be used."""
    try:
        path = note_path(sound)
        if path.is_symlink() or path.stat().st_size > _MOST_BYTES:
            return None
        body = read_json(path.read_text(encoding="utf-8"), what=path.name)
        one_of(field(body, "schema", path.name), "schema", (SCHEMA,))
        player = read_player(field(body, "player", path.name), "player")
        owned = read_instrument(field(body, "instrument", path.name), "instrument")
        take = read_take(field(body, "take", path.name), "take", player, owned)
        return SideNote(take=take, player=player, owned=owned)
    except (OSError, ValueError, TypeError, AttributeError, JigwrightError):
        return None


def jig_path(folder: Path, jig_id: str, revision: int) -> Path:
    """Where a jig lies beside the database."""
    return folder / "jigs" / f"{file_name(jig_id)}.{revision}.json"


def write_jig_note(
    folder: Path, jig_id: str, revision: int, body: str, *, synced: bool = True
) -> None:
    """Write a jig beside the database.

    Raises
    ------
    StoreError
    """
    with store_errors():
        (folder / "jigs").mkdir(exist_ok=True)
    _write(jig_path(folder, jig_id, revision), body, synced=synced)


def read_jig_notes(folder: Path) -> tuple[tuple[str, int, str, str], ...]:
    """Id, revision, title and body of every jig that lies beside the database and can be read."""
    found = []
    for path in sorted((folder / "jigs").glob("*.json")):
        try:
            if path.is_symlink() or path.stat().st_size > _MOST_JIG_BYTES:
                continue
            body = path.read_text(encoding="utf-8")
            jig = jig_from_json(body)
        except (OSError, ValueError, TypeError, KeyError, JigwrightError):
            continue
        found.append((jig.id, jig.revision, jig.title, body))
    return tuple(found)


def _write(path: Path, text: str, *, synced: bool) -> None:
    with store_errors():
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=".part-")
        part = Path(name)
        try:
            with os.fdopen(handle, "w", encoding="utf-8") as file:
                file.write(text)
                if synced:
                    file.flush()
                    os.fsync(file.fileno())
            part.replace(path)
        finally:
            part.unlink(missing_ok=True)
