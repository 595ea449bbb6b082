"""Moments as they are written: UTC, to the second."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

_FORM = "%Y-%m-%dT%H:%M:%SZ"
_LENGTH = 20
EPOCH = "1970-01-01T00:00:00Z"


def utc_moment(text: str) -> datetime:
    """Read ``2026-11-02T18:20:00Z``.

    Raises
    ------
    ValueError
        If it is written otherwise, is no moment, or lies before 1970.
    """
    if not isinstance(text, str) or len(text) != _LENGTH:
        raise ValueError(f"not a moment: {text!r:.40}")
    moment = datetime.strptime(text, _FORM).replace(tzinfo=UTC)
    if moment.year < 1970:
        raise ValueError(f"too early a moment: {text}")
    return moment


def is_utc(text: object) -> bool:
    """Whether a text is a moment that :func:`utc_moment` reads."""
    try:
        utc_moment(text)  # type: ignore[arg-type]  # that is what is asked
    except ValueError:
        return False
    return True


def utc_now() -> str:
    """Wall time in UTC, to the second."""
    return datetime.now(UTC).strftime(_FORM)


def local_day(utc: str, utc_offset_min: int) -> date:
    """The day a moment belongs to where it was lived: the one meaning of "day" there is.

    Parameters
    ----------
    utc : str
        As :func:`utc_moment` reads it.
    utc_offset_min : int
        What local time was ahead of UTC then.
    """
    return (utc_moment(utc) + timedelta(minutes=utc_offset_min)).date()


def local_offset_min(moment: datetime | None = None) -> int:
    """What local time is ahead of UTC here, now or at a moment, in minutes."""
    offset = (moment or datetime.now(UTC)).astimezone().utcoffset()
    return round(offset.total_seconds() / 60) if offset is not None else 0


def today() -> date:
    """The player's day now."""
    return datetime.now().astimezone().date()


def local_time(utc: str, utc_offset_min: int) -> str:
    """The time of day where it was lived, as ``16:05``; see :func:`local_day`."""
    return (utc_moment(utc) + timedelta(minutes=utc_offset_min)).strftime("%H:%M")
