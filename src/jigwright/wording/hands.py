"""Sentences for what a hand cannot play."""

from __future__ import annotations

from jigwright.core.jig.hand_check import HandTrouble, TroubleKind
from jigwright.core.jig.model import Jig
from jigwright.wording.catalogue import tr
from jigwright.wording.notes import finger_name, pitch_name


def trouble_text(kind: TroubleKind) -> str:
    """Why a hand cannot play it."""
    return {
        "no_finger": tr("no finger is written"),
        "not_there": tr("the string does not sound this note so"),
        "out_of_reach": tr("higher up the string than exercises go"),
        "not_neighbours": tr("a string lies between the two"),
        "too_wide": tr("these fingers do not lie at once"),
        "harmonic_too_wide": tr("the hand does not reach from the stopped to the touched place"),
        "vibrato_on_open": tr("an open string has no finger to vibrate"),
        "fourth_too_high": tr("past the octave the thumb is up and the fourth finger too short"),
        "first_to_fourth": tr("first and fourth finger for a step: the hand would move away"),
    }[kind]


def trouble_line(trouble: HandTrouble, jig: Jig) -> str:
    """Place, notes with their fingers, and why."""
    event = jig.events[trouble.i_event]
    bar, beat = jig.bar_of(event)
    notes = " + ".join(
        pitch_name(h.pitch) + (f" ({finger_name(h.finger)})" if h.finger is not None else "")
        for h in event.heads
    )
    place = tr("bar {bar}, beat {beat}").format(bar=bar, beat=f"{float(beat) + 1:g}")
    return f"{place}: {notes} – {trouble_text(trouble.kind)}"
