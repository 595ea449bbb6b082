"""What players and teachers write down: days, remarks, set work, ladders; and stored summaries."""

from __future__ import annotations

import json
from dataclasses import asdict, fields
from functools import partial
from typing import Any

from jigwright.core.checking import read_json
from jigwright.core.isolation import isolated
from jigwright.core.judge.ladder import Ladder, PassRule, Rung
from jigwright.core.judge.work import SetWork
from jigwright.services.records import DayNote, Remark
from jigwright.store.database import StudioDatabase

_WORK_FIELDS = tuple(f.name for f in fields(SetWork))
_REMARK_FIELDS = tuple(f.name for f in fields(Remark))
_DAY_FIELDS = tuple(f.name for f in fields(DayNote))


class PracticeTables(StudioDatabase):
    """Tables ``day_note``, ``remark``, ``work``, ``ladder``, ``summary``."""

    def day_notes(self, player_id: str) -> tuple[DayNote, ...]:
        """What was written about a player's days, oldest first."""
        rows = self._db.execute(
            f"SELECT {', '.join(_DAY_FIELDS)} FROM day_note WHERE player_id = ? ORDER BY day",
            (player_id,),
        )
        return tuple(DayNote(**dict(zip(_DAY_FIELDS, r, strict=True))) for r in rows)

    def set_day_note(self, note: DayNote) -> None:
        """Write about a day; an empty note is taken away."""
        with self._step("day") as step:
            if note.word or note.liking or note.notes or note.next_time:
                step.put("day_note", asdict(note))
            else:
                step.remove("day_note", {"player_id": note.player_id, "day": note.day})

    def spoken_takes(self) -> frozenset[str]:
        """Takes that are the sound of a remark."""
        rows = self._db.execute("SELECT spoken FROM remark WHERE spoken IS NOT NULL")
        return frozenset(spoken for (spoken,) in rows)

    def remarks(self, take_id: str) -> tuple[Remark, ...]:
        """Words left in a take, in order of time."""
        rows = self._db.execute(
            f"SELECT {', '.join(_REMARK_FIELDS)} FROM remark WHERE take_id = ? ORDER BY at_s, utc",
            (take_id,),
        )
        return tuple(Remark(**dict(zip(_REMARK_FIELDS, r, strict=True))) for r in rows)

    def set_remark(self, remark: Remark) -> None:
        """Leave or change a remark; one without words goes."""
        with self._step("remark") as step:
            if remark.words:
                step.put("remark", asdict(remark))
            else:
                step.remove("remark", {"id": remark.id})

    def works(self) -> tuple[SetWork, ...]:
        """Work that was set, the earliest due first."""
        rows = self._db.execute(
            f"SELECT {', '.join(_WORK_FIELDS)} FROM work ORDER BY due, set_utc"
        ).fetchall()
        return tuple(
            SetWork(**{**dict(zip(_WORK_FIELDS, r, strict=True)), "closed": bool(r[-1])})
            for r in rows
        )

    def set_work(self, work: SetWork) -> None:
        """Set work, or change it."""
        with self._step("work") as step:
            step.put("work", {**asdict(work), "closed": int(work.closed)})

    def remove_work(self, work_id: str) -> None:
        """Take work back."""
        with self._step("work") as step:
            step.remove("work", {"id": work_id})

    def ladders(self) -> tuple[Ladder, ...]:
        """Ladders somebody made, in the order they were made."""
        rows = self._db.execute("SELECT id, body FROM ladder ORDER BY made_utc, id").fetchall()
        found = (isolated("a ladder", partial(_ladder, i, body), None) for i, body in rows)
        return tuple(one for one in found if one is not None)

    def set_ladder(self, ladder: Ladder) -> None:
        """Keep a ladder, or change it."""
        made = self._db.execute("SELECT made_utc FROM ladder WHERE id = ?", (ladder.id,)).fetchone()
        with self._step("ladder") as step:
            step.put(
                "ladder",
                {
                    "id": ladder.id, "body": ladder_text(ladder),
                    "made_utc": made[0] if made else self._clock(),
                },
            )  # fmt: skip

    def remove_ladder(self, ladder_id: str) -> None:
        """Forget a ladder; its takes stay."""
        with self._step("ladder") as step:
            step.remove("ladder", {"id": ladder_id})

    def summaries(self) -> dict[str, tuple[str, str]]:
        """Stored summaries: what each was made from, and its body, by take."""
        rows = self._db.execute("SELECT take_id, inputs, body FROM summary")
        return {r[0]: (r[1], r[2]) for r in rows}

    def keep_summaries(self, rows: dict[str, tuple[str, str]]) -> None:
        """Store summaries; they can be made again at any time."""
        with self._change():
            self._db.executemany(
                "INSERT OR REPLACE INTO summary VALUES (?, ?, ?)",
                [(take_id, inputs, body) for take_id, (inputs, body) in rows.items()],
            )


def ladder_text(ladder: Ladder) -> str:
    """A ladder as it is kept."""
    return json.dumps(asdict(ladder))


def read_ladder(row: Any) -> Ladder:
    """A ladder from the values it is kept as.

    Raises
    ------
    KeyError, TypeError, ValueError
        On anything that is none.
    """
    jig = row.get("jig")
    return Ladder(
        id=str(row["id"]), title=str(row["title"]), heavy=bool(row.get("heavy", False)),
        jig=None if jig is None else (str(jig[0]), int(jig[1])),
        rule=PassRule(**row["rule"]), rungs=tuple(Rung(**rung) for rung in row["rungs"]),
    )  # fmt: skip


def _ladder(ladder_id: str, body: str) -> Ladder:
    return read_ladder(read_json(body, what=f"ladder {ladder_id}"))
