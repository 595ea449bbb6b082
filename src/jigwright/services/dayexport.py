"""Days, takes and all else as CSV, JSON and iCalendar (RFC 5545): the record is the player's."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import asdict, fields

from jigwright.core.jig.exchange import jig_to_json
from jigwright.core.jig.model import Jig
from jigwright.core.judge.summary import TakeSummary
from jigwright.core.judge.work import SetWork
from jigwright.services.records import DayNote, OwnedInstrument, Player, Remark, TakeRecord

DayRow = tuple[str, int, float, str, DayNote]
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def days_csv(rows: Sequence[DayRow]) -> str:
    """One line a day; cells that would start a formula are quoted."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["day", "takes", "seconds", "jigs", "word", "liking", "notes", "next_time"])
    for day, n, seconds, jigs, note in rows:
        writer.writerow(
            [day, n, round(seconds, 1), _safe(jigs), _safe(note.word), note.liking or "",
             _safe(note.notes), _safe(note.next_time)]
        )  # fmt: skip
    return out.getvalue()


def _safe(text: str) -> str:
    return "'" + text if text.startswith(_FORMULA) else text


def days_json(rows: Sequence[DayRow]) -> str:
    """Schema ``jigwright.days/1``."""
    body = {
        "schema": "jigwright.days/1",
        "days": [
            {
                "day": day, "takes": n, "seconds": round(seconds, 1),
                "jigs": [j for j in jigs.split(" | ") if j], "word": note.word,
                "liking": note.liking or None, "notes": note.notes, "next_time": note.next_time,
            }
            for day, n, seconds, jigs, note in rows
        ],
    }  # fmt: skip
    return json.dumps(body, indent=1, ensure_ascii=False)


def takes_csv(rows: Sequence[tuple[TakeRecord, str, TakeSummary | None]]) -> str:
    """One line a take: when, what, under which context, and its figures."""
    out = io.StringIO()
    writer = csv.writer(out)
    context = ("recorded_utc", "duration_s", "a4_hz", "reference", "tolerance_cents", "mark")
    figures = [f.name for f in fields(TakeSummary)]
    writer.writerow(["take", "jig", *context, *figures])
    for take, title, summary in rows:
        known = ["" if summary is None else _plain(getattr(summary, f)) for f in figures]
        there = [_safe(str(getattr(take, c))) for c in context]
        writer.writerow([take.id, _safe(title), *there, *known])
    return out.getvalue()


def _plain(value: float | None) -> str:
    return "" if value is None else f"{value:.4g}"


def studio_json(
    players: Sequence[Player],
    instruments: Sequence[OwnedInstrument],
    jigs: Sequence[Jig],
    takes: Sequence[tuple[TakeRecord, TakeSummary | None, Sequence[Remark]]],
    works: Sequence[SetWork],
    notes: Sequence[DayNote],
) -> str:
    """Schema ``jigwright.studio/1``: everything but sound and curves."""
    body = {
        "schema": "jigwright.studio/1",
        "players": [asdict(p) for p in players],
        "instruments": [
            {**asdict(i), "strings": " ".join(str(s) for s in i.strings)} for i in instruments
        ],
        "jigs": [json.loads(jig_to_json(j)) for j in jigs],
        "takes": [
            {
                **asdict(take), "figures": asdict(summary) if summary is not None else None,
                "remarks": [asdict(r) for r in remarks],
            }
            for take, summary, remarks in takes
        ],
        "work": [asdict(w) for w in works],
        "days": [asdict(n) for n in notes],
    }  # fmt: skip
    return json.dumps(body, indent=1, ensure_ascii=False)


def days_ics(rows: Sequence[DayRow], due: Sequence[tuple[SetWork, str]] = ()) -> str:
    """A calendar: an all-day event for every day that was played, a task for all set work."""
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Jigwright//Daybook//EN"]
    for day, n, seconds, jigs, note in rows:
        if not n:
            continue
        stamp = day.replace("-", "")
        summary = f"{round(seconds / 60)} min: {jigs}" if jigs else f"{round(seconds / 60)} min"
        words = "\n".join(w for w in (note.word, note.notes, note.next_time) if w)
        lines += [
            "BEGIN:VEVENT", f"UID:{stamp}@jigwright", f"DTSTAMP:{stamp}T000000Z",
            f"DTSTART;VALUE=DATE:{stamp}", *_folded("SUMMARY:" + _escaped(summary)),
            *_folded("DESCRIPTION:" + _escaped(words)), "END:VEVENT",
        ]  # fmt: skip
    for work, title in due:
        stamp = "".join(c for c in work.set_utc if c.isalnum())
        lines += [
            "BEGIN:VTODO", f"UID:{work.id}@jigwright", f"DTSTAMP:{stamp}",
            f"DUE;VALUE=DATE:{work.due.replace('-', '')}", *_folded("SUMMARY:" + _escaped(title)),
            *_folded("DESCRIPTION:" + _escaped(work.words)),
            "STATUS:" + ("COMPLETED" if work.closed else "NEEDS-ACTION"), "END:VTODO",
        ]  # fmt: skip
    lines.append("END:VCALENDAR")
    return "\r\n".join(lines) + "\r\n"


def _escaped(text: str) -> str:
    for plain, quoted in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\n", "\\n")):
        text = text.replace(plain, quoted)
    return "".join(c for c in text if c.isprintable())


def _folded(line: str) -> list[str]:
    """Lines of at most 75 octets; the rest begins with a space."""
    parts, now = [], ""
    for c in line:
        if len((now + c).encode()) > 73:
            parts.append(now)
            now = " "
        now += c
    return [*parts, now]
