"""From the tables of version 7 to those of version 8: facts that lay as JSON among the settings.

What cannot be read stays where it lies: nothing is dropped for being odd. Done once more it changes
nothing, so that mending an old database can use it, too.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

from jigwright.core.checking import read_json, whole, words
from jigwright.core.errors import JigwrightError, StoreError
from jigwright.core.music.pitch import Pitch
from jigwright.services.moments import EPOCH, is_utc, utc_moment
from jigwright.services.records import OwnedInstrument, Player
from jigwright.store.database import inside
from jigwright.store.people import owned_row
from jigwright.store.practice import ladder_text, read_ladder
from jigwright.store.side_notes import jig_path, note_path, write_jig_note, write_note
from jigwright.store.take_tables import TAKE_COLUMNS, take_from

_LEFT_BEHIND = (
    JigwrightError, ValueError, TypeError, KeyError, IndexError, AttributeError, OverflowError,
    sqlite3.IntegrityError,
)  # fmt: skip


def move_settings(connection: sqlite3.Connection) -> None:
    """Move every fact that can be read out of the settings into its own table."""
    rows = connection.execute("SELECT name, value FROM setting").fetchall()
    for name, value in rows:
        kind, _, rest = str(name).partition(":")
        move = _MOVES.get(kind)
        if move is None or (bool(rest) != (kind not in _WHOLE)):
            continue
        connection.execute("SAVEPOINT one")
        try:
            move(connection, rest, read_json(value, what=name))
            connection.execute("DELETE FROM setting WHERE name = ?", (name,))
        except _LEFT_BEHIND:
            connection.execute("ROLLBACK TO one")
        connection.execute("RELEASE one")


def _correction(db: sqlite3.Connection, take_id: str, kept: Any) -> None:
    for at_s, i_event in kept:
        db.execute(
            "INSERT OR REPLACE INTO correction VALUES (?, ?, ?)",
            (_there(db, "take", take_id), float(at_s), None if i_event is None else int(i_event)),
        )


def _drone(db: sqlite3.Connection, take_id: str, kept: Any) -> None:
    for i, f_hz in enumerate(kept):
        db.execute(
            "INSERT OR REPLACE INTO take_drone VALUES (?, ?, ?)",
            (_there(db, "take", take_id), i, float(f_hz)),
        )


def _click(db: sqlite3.Connection, take_id: str, kept: Any) -> None:
    db.execute(
        "INSERT OR REPLACE INTO take_click VALUES (?, ?, ?)",
        (_there(db, "take", take_id), float(kept["first_s"]), float(kept["bpm"])),
    )


def _choice(db: sqlite3.Connection, take_id: str, kept: Any) -> None:
    liked = kept["liked"]
    db.execute(
        "INSERT OR REPLACE INTO choice VALUES (?, ?, ?, ?)",
        (
            _there(db, "take", take_id), words(kept["against"], "against", 200),
            None if liked is None else words(liked, "liked", 200),
            kept["utc"] if is_utc(kept.get("utc")) else EPOCH,
        ),
    )  # fmt: skip


def _strings(db: sqlite3.Connection, rest: str, kept: Any) -> None:
    """``strings:INSTRUMENT`` repeats the newest day of ``strings:INSTRUMENT:DAY``."""
    day = words(kept["day"], "day", 10)
    utc_moment(f"{day}T00:00:00Z")
    owned_id = rest.removesuffix(f":{day}")
    for name, f_hz in kept["hz"].items():
        db.execute(
            "INSERT OR IGNORE INTO string_check VALUES (?, ?, ?, ?)",
            (_there(db, "instrument", owned_id), day, str(Pitch.parse(name)), float(f_hz)),
        )


def _contact(db: sqlite3.Connection, rest: str, kept: Any) -> None:
    owned_id, _, string = rest.rpartition(":")
    db.execute(
        "INSERT OR REPLACE INTO contact VALUES (?, ?, ?, ?)",
        (_there(db, "instrument", owned_id), string, int(kept["lane"]), str(kept["day"])),
    )


def _best_bow(db: sqlite3.Connection, owned_id: str, kept: Any) -> None:
    db.execute(
        "INSERT OR REPLACE INTO best_bow VALUES (?, ?, ?)",
        (_there(db, "instrument", owned_id), float(kept["seconds"]), str(kept.get("day", ""))),
    )


def _delay(db: sqlite3.Connection, device_id: str, kept: Any) -> None:
    db.execute(
        "INSERT OR REPLACE INTO input_delay VALUES (?, ?, ?)",
        (device_id, float(kept[0]), float(kept[1])),
    )


def _ladders(db: sqlite3.Connection, _: str, kept: Any) -> None:
    for i, row in enumerate(kept):
        ladder = read_ladder(row)
        db.execute(
            "INSERT OR REPLACE INTO ladder VALUES (?, ?, ?)",
            (ladder.id, ladder_text(ladder), f"1970-01-01T00:{i // 60 % 60:02d}:{i % 60:02d}Z"),
        )


def _seen(db: sqlite3.Connection, _: str, kept: Any) -> None:
    for mark in kept:
        db.execute("INSERT OR IGNORE INTO seen_file VALUES (?)", (words(mark, "file", 300),))


def _ear_score(db: sqlite3.Connection, _: str, kept: Any) -> None:
    """It was nobody's: it becomes that of the player who was shown last."""
    shown = db.execute("SELECT value FROM setting WHERE name = 'player'").fetchone()
    one = db.execute("SELECT id FROM player ORDER BY name LIMIT 1").fetchone()
    player_id = shown[0] if shown else one[0] if one else ""
    db.execute(
        "INSERT OR REPLACE INTO ear_score VALUES (?, ?, ?)",
        (_there(db, "player", player_id), int(kept[0]), int(kept[1])),
    )


def _plan(db: sqlite3.Connection, _: str, kept: Any) -> None:
    values = {
        "plan_minutes": str(whole(kept["minutes"], "minutes", 1, 24 * 60)),
        "plan_school": words(kept.get("school", ""), "school", 40),
        "plan_theme": words(kept.get("theme", ""), "theme", 200),
    }
    db.executemany("INSERT OR REPLACE INTO setting VALUES (?, ?)", list(values.items()))


def _input(db: sqlite3.Connection, kind: str, kept: Any) -> None:
    values = {
        f"input_id:{kind}": words(kept[0], "input", 200),
        f"input_name:{kind}": words(kept[1], "input", 200),
    }
    db.executemany("INSERT OR REPLACE INTO setting VALUES (?, ?)", list(values.items()))


_MOVES: dict[str, Callable[[sqlite3.Connection, str, Any], None]] = {
    "pins": _correction, "drone": _drone, "clicks": _click, "blind": _choice,
    "strings": _strings, "contact": _contact, "slowest": _best_bow, "loop": _delay,
    "ladders": _ladders, "exchange_seen": _seen, "ear_score": _ear_score, "plan": _plan,
    "input": _input,
}  # fmt: skip
_WHOLE = ("ladders", "exchange_seen", "ear_score", "plan")


def _there(db: sqlite3.Connection, table: str, one: str) -> str:
    """An id that is in a table; mending has foreign keys off."""
    if db.execute(f"SELECT 1 FROM {table} WHERE id = ?", (one,)).fetchone() is None:
        raise KeyError(one)
    return one


def write_missing_notes(folder: Path, connection: sqlite3.Connection) -> None:
    """Side notes for what an earlier version kept without; not synced: they are a second copy.

    Raises
    ------
    StoreError
    """
    for jig_id, revision, body in connection.execute("SELECT id, revision, body FROM jig"):
        if not jig_path(folder, jig_id, revision).exists():
            write_jig_note(folder, jig_id, revision, body, synced=False)
    people = {i: Player(id=i, name=n) for i, n in connection.execute("SELECT id, name FROM player")}
    owned: dict[str, OwnedInstrument] = {
        row[0]: owned_row(*row)
        for row in connection.execute("SELECT id, name, kind, strings FROM instrument")
    }
    for row in connection.execute(f"SELECT {TAKE_COLUMNS} FROM take").fetchall():
        take = take_from(row)
        try:
            sound = inside(folder, take.audio)
        except StoreError:
            continue
        if sound.is_file() and not note_path(sound).exists():
            write_note(sound, take, people[take.player_id], owned[take.instrument_id], synced=False)
