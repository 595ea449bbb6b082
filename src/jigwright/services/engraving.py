"""From a jig to a request for the engraver."""

from __future__ import annotations

from bisect import bisect_right

from jigwright.core.jig.model import Jig
from jigwright.services.mei import jig_to_mei
from jigwright.services.mei_controls import head_element_id
from jigwright.services.notation import EngraveRequest

_MANY_EVENTS = 60
_FIRST_EVENTS = 80


def bars_in_sight(jig: Jig, seen: tuple[int, int] | None) -> tuple[int, int] | None:
    """Bars that are engraved ahead of the rest, first and one past the last.

    Parameters
    ----------
    jig : Jig
    seen : (int, int) or None
        First and last event of the sheet in sight; ``None`` when nothing is shown yet.

    Returns
    -------
    (int, int) or None
        ``None`` when the jig is short enough to be engraved at once.
    """
    if len(jig.events) <= _MANY_EVENTS:
        return None
    last = len(jig.events) - 1
    first, stop = seen or (0, _FIRST_EVENTS)
    starts = [bar.start_beats for bar in jig.bars()]
    from_bar = bisect_right(starts, jig.events[min(first, last)].onset_beats) - 1
    to_bar = bisect_right(starts, jig.events[min(stop, last)].onset_beats)
    return from_bar, min(len(starts), to_bar + 2)


def engrave_request(
    jig: Jig,
    *,
    scale: int,
    target_width: float,
    wrap: bool = False,
    bars: tuple[int, int] | None = None,
    fingerings: bool = True,
) -> EngraveRequest:
    """Build the request for a jig at a staff size and a wished width in pixels.

    With ``bars``, first and one past the last, only a part is engraved; fingers can be left out.
    """
    return EngraveRequest(
        mei=jig_to_mei(jig, bars=bars, fingerings=fingerings),
        head_ids=tuple((h.id, head_element_id(h.id)) for e in jig.events for h in e.heads),
        scale=scale,
        target_width=target_width,
        wrap=wrap,
    )
