"""Days as CSV, JSON and iCalendar (RFC 5545): the record belongs to the player."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence

from jigwright.services.records import DayNote

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


def days_ics(rows: Sequence[DayRow]) -> str:
    """A calendar with an all-day event for every day on which something was played."""
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
