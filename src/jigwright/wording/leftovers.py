"""Words about sound that an interrupted sitting left behind."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from jigwright.wording.catalogue import tr, trn
from jigwright.wording.daybook import day_name
from jigwright.wording.errors import error_sentence


def length_text(seconds: float) -> str:
    """How long something lasts."""
    whole = round(seconds)
    if whole < 60:
        return tr("{s} s").format(s=whole)
    return tr("{min} min {s} s").format(min=whole // 60, s=f"{whole % 60:02d}")


def moment_text(utc: str, offset_min: int) -> str:
    """A moment in the player's own time: day and time of day; as written when it is no moment."""
    try:
        began = datetime.strptime(utc, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC)
        local = began + timedelta(minutes=offset_min)
    except (ValueError, OverflowError):
        return utc
    return tr("{day}, {time}").format(
        day=day_name(local.date().isoformat()), time=local.strftime("%H:%M")
    )


def offer_title(seconds: float | None, moment: str) -> str:
    """The first line of an offer: what was left behind, and from when."""
    if seconds is None:
        said = tr("A take was interrupted while it was being kept.")
    else:
        said = tr("The program was interrupted: {length} are not kept yet.").format(
            length=length_text(seconds)
        )
    return f"{moment}. {said}" if moment else said


def offer_about(player: str, title: str, a4_hz: float | None) -> str:
    """The second line: who played what."""
    if a4_hz is None:
        return tr("It is not written down who played. It would go to the player shown above.")
    parts = [player, title or tr("without a jig"), tr("A {hz}").format(hz=f"{a4_hz:g}")]
    return " · ".join(p for p in parts if p)


def silent_text() -> str:
    """Nothing like playing was found in a recording that was left behind."""
    return tr("Nothing like playing was found in it. It can be kept whole all the same.")


def done_sentence(n: int, player: str) -> str:
    """What came of a recording that was left behind."""
    if n <= 0:
        return tr("Nothing else was played in it; all the rest was kept before.")
    said = trn("One take was made of it", "{n} takes were made of it", n).format(n=n)
    return f"{said}: {player}." if player else said + "."


def left_sentence(name: str, error: Exception) -> str:
    """A recording could not become takes: why, where it lies, what to do."""
    return tr(
        "No take could be made of it: {why} The sound is kept as recording/{name} in the studio's "
        "folder and is offered again at the next start."
    ).format(why=error_sentence(error), name=name)
