"""What rings, for a whole take: which strings are in use when, and where they sound themselves."""

from __future__ import annotations

from collections.abc import Sequence

from jigwright.core.follow.values import LinedNote
from jigwright.core.gauge.ring import measure_ring, room_as_heard, strings_as_rang
from jigwright.core.gauge.ring_place import Hold, RingPlace, holds_of
from jigwright.core.gauge.values import Ring, Vibrato
from jigwright.core.jig.model import Jig
from jigwright.core.music.pitch import cents_from_a4, hz_to_cents
from jigwright.core.music.sympathy import OPEN_T60_S, USUAL_T60_S, PitchSwing
from jigwright.core.sound.heard import Heard, Segment
from jigwright.core.values import Unmeasured

_A4_HZ, _OTHER_NOTE_CENTS = 440.0, 150.0
_NEAR_S = 0.15


def ring_place(
    heard: Heard,
    notes: Sequence[LinedNote],
    jig: Jig | None,
    instrument_id: str,
    *,
    tail_s: float = float("nan"),
) -> RingPlace | Unmeasured:
    """What is the same for the ring of all notes of a take.

    Parameters
    ----------
    heard : Heard
    notes : sequence of LinedNote
    jig : Jig or None
    instrument_id : str
    tail_s : float
        In which notes that end fall by 20 dB; NaN where it was not seen.

    Returns
    -------
    RingPlace or Unmeasured
        Reason ``not_looked_for``: the sound was analysed without knowing its strings, or before
        this was measured.
    """
    if heard.ring_lines is None or not heard.open_hz:
        return Unmeasured("not_looked_for")
    two = [s for s in heard.segments if s.i_pair >= 0]
    return RingPlace(
        open_hz=heard.open_hz,
        t60_s=OPEN_T60_S.get(instrument_id, USUAL_T60_S),
        lines=heard.ring_lines,
        holds=tuple(
            _hold(heard, n, jig, heard.open_hz) for n in notes if n.segments
        ),
        string_cents={j: c for j, (c, _) in strings_as_rang(heard.ring_lines).items()},
        room_s=room_as_heard(heard.ring_lines),
        tail_s=tail_s,
        two_s=tuple((s.onset_s, s.offset_s) for s in two),
    )  # fmt: skip


def strings_of(note: LinedNote, jig: Jig | None, f0_hz: float) -> tuple[int, ...] | None:
    """What a row was played on by its fingering; ``None`` where nothing says.

    Another note than the written one was played anywhere.
    """
    if jig is None or note.i_event is None:
        return None
    written = note.lower if note.lower is not None else note.pitch
    if abs(hz_to_cents(f0_hz, _A4_HZ) - cents_from_a4(written)) > _OTHER_NOTE_CENTS:
        return None
    strings = [h.string for h in jig.events[note.i_event].heads]
    known = tuple(s for s in strings if s is not None)
    return known if known and len(known) == len(strings) else None


def ring_of(
    place: RingPlace | Unmeasured,
    note: LinedNote,
    segment: Segment,
    jig: Jig | None,
    vibrato: Vibrato | Unmeasured,
) -> Ring | Unmeasured:
    """What rang after a row of a take."""
    if isinstance(place, Unmeasured):
        return place
    near = any(
        a_s < segment.offset_s + _NEAR_S and b_s > segment.onset_s - _NEAR_S
        for a_s, b_s in place.two_s
    )
    if segment.i_pair >= 0 or near:
        return Unmeasured("two_notes")  # what lingers may be the other string as it was bowed
    swing = None
    if isinstance(vibrato, Vibrato) and vibrato.present:
        swing = PitchSwing(rate_hz=vibrato.rate_hz, half_extent_cents=0.5 * vibrato.extent_cents)
    return measure_ring(
        place, i_segment=note.segments[-1], f0_hz=segment.f0_hz,
        onset_s=segment.onset_s, offset_s=segment.offset_s,
        on_strings=strings_of(note, jig, segment.f0_hz), swing=swing,
    )  # fmt: skip


def _hold(heard: Heard, note: LinedNote, jig: Jig | None, open_hz: Sequence[float]) -> Hold:
    first, last = heard.segments[note.segments[0]], heard.segments[note.segments[-1]]
    surely = strings_of(note, jig, first.f0_hz)
    if surely is not None:
        return Hold(from_s=first.onset_s, to_s=last.offset_s, surely=surely)
    voices = [first.f0_hz]
    if first.i_pair >= 0:
        pair = heard.pairs[first.i_pair]
        voices = [pair.lower_hz, pair.upper_hz]
    return Hold(
        from_s=first.onset_s, to_s=last.offset_s, perhaps=holds_of(voices, open_hz)
    )  # fmt: skip
