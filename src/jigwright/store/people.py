"""Players, their instruments, and what was found out about those."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from functools import partial

from jigwright.core.isolation import isolated
from jigwright.core.music.instruments import INSTRUMENTS, LONGEST_MM, SHORTEST_MM, instrument
from jigwright.core.music.pitch import Pitch
from jigwright.services.records import OwnedInstrument, Player
from jigwright.store.database import StudioDatabase

_OPEN_HZ = (10.0, 5000.0)


class PeopleTables(StudioDatabase):
    """Tables of players and instruments, string checks, contact lanes, bows and the ear."""

    def players(self) -> tuple[Player, ...]:
        """All players by name."""
        rows = self._db.execute("SELECT id, name FROM player ORDER BY name")
        return tuple(Player(id=i, name=n) for i, n in rows)

    def instruments(self) -> tuple[OwnedInstrument, ...]:
        """All instruments by name."""
        return tuple(
            owned_row(*row)
            for row in self._db.execute(
                "SELECT id, name, kind, strings, string_length_mm FROM instrument ORDER BY name"
            )
        )

    def add_player(self, player: Player) -> None:
        """Add or rename a player."""
        with self._step("player") as step:
            step.put("player", {"id": player.id, "name": player.name})

    def add_instrument(self, owned: OwnedInstrument) -> None:
        """Add or change an instrument."""
        with self._step("instrument") as step:
            step.put(
                "instrument",
                {
                    "id": owned.id, "name": owned.name, "kind": owned.kind,
                    "strings": " ".join(str(s) for s in owned.strings),
                    "string_length_mm": owned.string_length_mm,
                },
            )  # fmt: skip

    def string_check(self, instrument_id: str, day: str) -> dict[Pitch, float]:
        """Open strings as checked on a day (local, ``YYYY-MM-DD``) in Hz; empty without a check."""
        rows = self._db.execute(
            "SELECT string, f_hz FROM string_check WHERE instrument_id = ? AND day = ?",
            (instrument_id, day),
        ).fetchall()
        found = {}
        for name, f_hz in rows:
            pitch = isolated("a checked string", partial(Pitch.parse, str(name)), None)
            if pitch is not None and _within(f_hz, _OPEN_HZ):
                found[pitch] = float(f_hz)
        return found

    def set_string_check(
        self, instrument_id: str, day: str, open_hz: Mapping[Pitch, float]
    ) -> None:
        """Keep what a string check found for takes of that day, in place of an earlier one."""
        before = self._db.execute(
            "SELECT string FROM string_check WHERE instrument_id = ? AND day = ?",
            (instrument_id, day),
        ).fetchall()
        new = {str(s): f_hz for s, f_hz in open_hz.items()}
        with self._step("strings", f"{instrument_id} {day}") as step:
            for (name,) in before:
                if name not in new:
                    step.remove(
                        "string_check",
                        {"instrument_id": instrument_id, "day": day, "string": name},
                    )
            for name, f_hz in new.items():
                step.put(
                    "string_check",
                    {"instrument_id": instrument_id, "day": day, "string": name, "f_hz": f_hz},
                )

    def set_contact(self, instrument_id: str, string: str, lane: int, day: str) -> None:
        """Keep which lane between bridge and fingerboard sounded best on a string."""
        with self._step("contact") as step:
            step.put(
                "contact",
                {"instrument_id": instrument_id, "string": string, "lane": lane, "day": day},
            )

    def contact(self, instrument_id: str, string: str) -> int | None:
        """The lane that was liked on a string; ``None`` when nobody chose."""
        row = self._db.execute(
            "SELECT lane FROM contact WHERE instrument_id = ? AND string = ?",
            (instrument_id, string),
        ).fetchone()
        return int(row[0]) if row else None

    def best_bow_s(self, instrument_id: str) -> float:
        """The longest good bow there was, in seconds; 0 when there was none."""
        row = self._db.execute(
            "SELECT seconds FROM best_bow WHERE instrument_id = ?", (instrument_id,)
        ).fetchone()
        return float(row[0]) if row and _within(row[0], (0.0, 3600.0)) else 0.0

    def set_best_bow(self, instrument_id: str, seconds: float, day: str) -> None:
        """Keep a longest bow: a record of what was measured, not a choice."""
        with self._change("instruments"):
            self._db.execute(
                "INSERT OR REPLACE INTO best_bow VALUES (?, ?, ?)", (instrument_id, seconds, day)
            )

    def ear_score(self, player_id: str) -> tuple[int, int]:
        """How often a player's ear was right, and how often it was asked."""
        row = self._db.execute(
            "SELECT n_right, n_asked FROM ear_score WHERE player_id = ?", (player_id,)
        ).fetchone()
        return (int(row[0]), int(row[1])) if row else (0, 0)

    def add_ear_answer(self, player_id: str, *, right: bool) -> None:
        """Count an answer of a player's ear."""
        n_right, n_asked = self.ear_score(player_id)
        with self._change("players"):
            self._db.execute(
                "INSERT OR REPLACE INTO ear_score VALUES (?, ?, ?)",
                (player_id, n_right + int(right), n_asked + 1),
            )


def owned_row(
    instrument_id: str, name: str, kind: str, strings: str, string_length_mm: object = None
) -> OwnedInstrument:
    """An instrument; one whose kind or strings cannot be read has those of a violin."""
    known = kind if kind in INSTRUMENTS else "violin"
    usual = instrument(known).strings
    parsed = isolated(
        "strings of an instrument", lambda: tuple(Pitch.parse(s) for s in strings.split()), usual
    )
    length = None
    if isinstance(string_length_mm, (int, float)) and _within(
        string_length_mm, (SHORTEST_MM, LONGEST_MM)
    ):
        length = float(string_length_mm)
    return OwnedInstrument(
        id=instrument_id, name=name, kind=known, strings=parsed or usual,
        string_length_mm=length,
    )  # fmt: skip


def _within(value: object, bounds: tuple[float, float]) -> bool:
    return isinstance(value, (int, float)) and bounds[0] <= value <= bounds[1]


def drop_player_rows(connection: sqlite3.Connection) -> int:
    """Leave out what belongs to players and instruments that are not there."""
    n = 0
    for table, column, owner in (
        ("day_note", "player_id", "player"), ("work", "player_id", "player"),
        ("ear_score", "player_id", "player"), ("string_check", "instrument_id", "instrument"),
        ("contact", "instrument_id", "instrument"), ("best_bow", "instrument_id", "instrument"),
    ):  # fmt: skip
        cursor = connection.execute(
            f"DELETE FROM {table} WHERE {column} NOT IN (SELECT id FROM {owner})"
        )
        n += cursor.rowcount
    return n
