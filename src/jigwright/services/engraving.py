"""From a jig to a request for the engraver."""

from __future__ import annotations

from jigwright.core.jig.model import Jig
from jigwright.services.mei import head_element_id, jig_to_mei
from jigwright.services.notation import EngraveRequest


def engrave_request(
    jig: Jig, *, scale: int, target_width: float, wrap: bool = False
) -> EngraveRequest:
    """Build the request for a jig at a staff size and a wished width in pixels."""
    return EngraveRequest(
        mei=jig_to_mei(jig),
        head_ids=tuple((h.id, head_element_id(h.id)) for e in jig.events for h in e.heads),
        scale=scale,
        target_width=target_width,
        wrap=wrap,
    )
