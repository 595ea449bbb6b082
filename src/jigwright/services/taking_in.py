"""Keeping what somebody sent: a bundle becomes a take, and covers nothing that is here."""

from __future__ import annotations

import uuid
from dataclasses import replace
from typing import Literal

from jigwright.core.errors import JigwrightError
from jigwright.core.jig.model import Jig
from jigwright.core.sound.heard import Heard
from jigwright.services.exchange.bundle import Bundle
from jigwright.services.records import TakeRecord
from jigwright.services.studio_port import StudioPort

Here = Literal["no", "shelf", "bin"]


def is_here(studio: StudioPort, take_id: str) -> Here:
    """Whether a take is in the studio: on its shelf, in its bin, or not."""
    if any(t.id == take_id for t in studio.takes()):
        return "shelf"
    return "bin" if any(t.id == take_id for t in studio.takes(binned=True)) else "no"


def keep_bundle(
    studio: StudioPort, bundle: Bundle, heard: Heard | None, *, utc: str, as_copy: bool = False
) -> TakeRecord:
    """Keep a bundle's take with its player, instrument, jig and remarks.

    Parameters
    ----------
    studio : StudioPort
    bundle : Bundle
    heard : Heard or None
    utc : str
        Now.
    as_copy : bool
        Under an id of its own, beside the one that is here.

    Raises
    ------
    StoreError
        ``exists`` when the take is here already.
    """
    if not any(p.id == bundle.player.id for p in studio.players()):
        studio.add_player(bundle.player)
    if not any(i.id == bundle.owned.id for i in studio.instruments()):
        studio.add_instrument(bundle.owned)
    take = bundle.take
    if bundle.jig is not None:
        jig = _keep_jig(studio, bundle.jig, utc)
        take = replace(take, jig_id=jig.id, jig_revision=jig.revision)
    if as_copy:
        take = replace(take, id=f"take-{uuid.uuid4().hex[:16]}")
    remarks = tuple(  # ids of others could cover remarks of ours
        replace(r, id=f"remark-{uuid.uuid4().hex[:16]}", take_id=take.id) for r in bundle.remarks
    )
    return studio.add_take(take, bundle.audio, heard, remarks=remarks)


def _keep_jig(studio: StudioPort, jig: Jig, utc: str) -> Jig:
    """Keep the jig; one that differs from ours of the same name gets a name of its own."""
    try:
        studio.add_jig(jig, utc=utc)
    except JigwrightError:
        jig = replace(jig, id=f"{jig.id[:60]}-{uuid.uuid4().hex[:6]}", revision=1)
        studio.add_jig(jig, utc=utc)
    return jig
