"""A stop of one stopped note and one open string: what the open string on the other side says."""

from __future__ import annotations

from jigwright.core.gauge.values import Double
from jigwright.core.jig.model import Jig
from jigwright.core.judge.doubles import OtherAnswer, other_answer
from jigwright.core.judge.judging import Context, JudgedNote


def open_answer(note: JudgedNote, jig: Jig | None, context: Context) -> OtherAnswer | None:
    """The two pure answers of a stopped note that sounded with an open string, if they differ.

    Parameters
    ----------
    note : JudgedNote
    jig : Jig or None
    context : Context
    """
    i, double = note.measured.lined.i_event, note.measured.double
    if jig is None or i is None or not isinstance(double, Double):
        return None
    heads = jig.events[i].heads
    stopped = [(h.pitch, h.string) for h in heads if h.finger and h.string is not None]
    opens = [h.string for h in heads if h.finger == 0 and h.string is not None]
    if len(heads) != 2 or len(stopped) != 1 or len(opens) != 1:
        return None
    return other_answer(double, stopped[0], opens[0], context.open_hz, a4_hz=context.a4_hz)
