"""Takes, players, instruments and remarks as rows of JSON, and back, checked field by field.

What a bundle carries and what lies beside every sound of a studio are the same rows.
"""

from __future__ import annotations

import string
from dataclasses import asdict
from typing import Any

from jigwright.core.checking import field, identity, number, one_of, whole, words
from jigwright.core.errors import FieldError, JigwrightError
from jigwright.core.music.instruments import (
    HIGHEST_A4_HZ,
    INSTRUMENTS,
    LONGEST_MM,
    LOWEST_A4_HZ,
    SHORTEST_MM,
    parse_strings,
)
from jigwright.services.moments import is_utc
from jigwright.services.records import OwnedInstrument, Player, Remark, TakeRecord

_PLAIN = frozenset(string.ascii_letters + string.digits + "._-")


def take_row(take: TakeRecord) -> dict[str, Any]:
    """A take as a row, without what only its studio knows."""
    return {k: v for k, v in asdict(take).items() if k not in ("audio", "binned")}


def instrument_row(owned: OwnedInstrument) -> dict[str, Any]:
    """An instrument as a row."""
    return {
        "id": owned.id, "name": owned.name, "kind": owned.kind,
        "strings": " ".join(str(s) for s in owned.strings),
        "string_length_mm": owned.string_length_mm,
    }  # fmt: skip


def read_player(row: Any, where: str) -> Player:
    """A player.

    Raises
    ------
    FieldError
    """
    return Player(
        id=plain_id(field(row, "id", where), f"{where}.id"),
        name=words(field(row, "name", where), f"{where}.name", 80),
    )


def read_instrument(row: Any, where: str) -> OwnedInstrument:
    """An instrument with its strings.

    Raises
    ------
    FieldError
    """
    kind = one_of(field(row, "kind", where), f"{where}.kind", tuple(INSTRUMENTS))
    text = words(field(row, "strings", where), f"{where}.strings", 60)
    try:
        strings = parse_strings(text)
    except JigwrightError as error:
        raise FieldError(f"{where}.strings", repr(text), str(error)) from None
    length = row.get("string_length_mm")
    return OwnedInstrument(
        id=plain_id(field(row, "id", where), f"{where}.id"),
        name=words(field(row, "name", where), f"{where}.name", 80), kind=kind, strings=strings,
        string_length_mm=(
            None if length is None
            else number(length, f"{where}.string_length_mm", SHORTEST_MM, LONGEST_MM)
        ),
    )  # fmt: skip


def read_take(row: Any, where: str, player: Player, owned: OwnedInstrument) -> TakeRecord:
    """A take; ``audio`` stays empty: where its sound lies is not for others to say.

    Raises
    ------
    FieldError
    """

    def text(name: str, most: int) -> str:
        return words(field(row, name, where), f"{where}.{name}", most)

    take_id = plain_id(field(row, "id", where), f"{where}.id")
    jig_id, revision = row.get("jig_id"), row.get("jig_revision")
    if (jig_id is None) != (revision is None):
        raise FieldError(f"{where}.jig_revision", repr(revision), "a jig with its revision")
    return TakeRecord(
        id=take_id,
        jig_id=None if jig_id is None else identity(jig_id, f"{where}.jig_id"),
        jig_revision=(
            None if revision is None else whole(revision, f"{where}.jig_revision", 0, 1_000_000)
        ),
        player_id=player.id, instrument_id=owned.id,
        recorded_utc=moment(field(row, "recorded_utc", where), f"{where}.recorded_utc"),
        utc_offset_min=whole(
            field(row, "utc_offset_min", where), f"{where}.utc_offset_min", -840, 840
        ),
        audio="", sha256=_digest(field(row, "sha256", where), f"{where}.sha256"),
        source_name=text("source_name", 120),
        duration_s=number(field(row, "duration_s", where), f"{where}.duration_s", 0, 86_400),
        a4_hz=number(field(row, "a4_hz", where), f"{where}.a4_hz", LOWEST_A4_HZ, HIGHEST_A4_HZ),
        reference=text("reference", 60),
        tolerance_cents=number(
            field(row, "tolerance_cents", where), f"{where}.tolerance_cents", 1, 100
        ),
        input_name=text("input_name", 80),
        mark=one_of(row.get("mark", ""), f"{where}.mark", ("", "liked", "kept")),
    )  # fmt: skip


def _digest(value: Any, where: str) -> str:
    text = words(value, where, 64)
    if len(text) != 64 or any(c not in "0123456789abcdef" for c in text):
        raise FieldError(where, repr(text)[:40], "a SHA-256 in small letters")
    return text


def written_remark(remark: Remark) -> dict[str, Any]:
    """A remark as a row; the sound of a spoken one stays here."""
    row = asdict(remark)
    del row["spoken"]
    return row


def read_remark(row: Any, where: str, take_id: str) -> Remark:
    """Words left in a take.

    Raises
    ------
    FieldError
    """
    note_id = field(row, "note_id", where)
    return Remark(
        id=plain_id(field(row, "id", where), f"{where}.id"), take_id=take_id,
        note_id=None if note_id is None else identity(note_id, f"{where}.note_id"),
        at_s=number(field(row, "at_s", where), f"{where}.at_s", 0, 86_400),
        who=words(field(row, "who", where), f"{where}.who", 80),
        words=words(field(row, "words", where), f"{where}.words", 500),
        utc=moment(field(row, "utc", where), f"{where}.utc"),
    )  # fmt: skip


def plain_id(value: Any, where: str) -> str:
    """An identity: letters, digits, dot, dash, underscore.

    Raises
    ------
    FieldError
    """
    text = identity(value, where, 80)
    if text.startswith(".") or not all(c in _PLAIN for c in text):
        raise FieldError(where, repr(text)[:40], "letters, digits, dot, dash and underscore")
    return text


def moment(value: Any, where: str) -> str:
    """A moment in UTC, to the second.

    Raises
    ------
    FieldError
    """
    text = words(value, where, 40)
    if not is_utc(text):
        raise FieldError(where, repr(text), "a moment such as 2026-11-02T18:20:00Z")
    return text
