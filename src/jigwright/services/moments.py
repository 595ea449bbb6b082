"""Moments as they are written: UTC, to the second."""

from __future__ import annotations

from datetime import UTC, datetime

_FORM = "%Y-%m-%dT%H:%M:%SZ"
_LENGTH = 20


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
