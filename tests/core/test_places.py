"""Events by time: the same as looking at all of them, however they overlap."""

from __future__ import annotations

import time
from fractions import Fraction
from xml.etree import ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jigwright.core.jig.model import Event, Jig, Notehead
from jigwright.core.jig.places import EventPlaces
from jigwright.core.music.keys import Key
from jigwright.core.music.pitch import Pitch, PitchClass
from jigwright.services.exchange.musicxml_out import write_musicxml
from jigwright.services.exchange.score_elements import MOST_DIVISIONS

_BEATS = st.fractions(0, 40, max_denominator=12)


def _jig(spans: list[tuple[Fraction, Fraction]]) -> Jig:
    events = tuple(
        Event(
            id=f"e{i}", onset_beats=onset, length_beats=length,
            heads=(Notehead(id=f"n{i}", pitch=Pitch.parse("D4")),),
        )
        for i, (onset, length) in enumerate(sorted(spans))
    )  # fmt: skip
    return Jig(
        id="j", title="t", instrument_id="violin", key=Key(PitchClass("C")), tempo_bpm=400.0,
        events=events,
    )  # fmt: skip


@given(
    st.lists(st.tuples(_BEATS, st.fractions(Fraction(1, 12), 9, max_denominator=12)), max_size=12),
    _BEATS, _BEATS,
)  # fmt: skip
def test_a_bar_finds_what_sounds_in_it(
    spans: list[tuple[Fraction, Fraction]], start: Fraction, end: Fraction
) -> None:
    jig = _jig(spans)
    places = EventPlaces(jig)
    wanted = [e for e in jig.events if e.end_beats > start and e.onset_beats < end]
    assert places.between(start, end) == wanted
    assert [places.index[e.id] for e in jig.events] == list(range(len(jig.events)))


def test_long_jigs_are_written_in_time_that_grows_with_their_length() -> None:
    jig = _jig([(Fraction(i, 2), Fraction(1, 2)) for i in range(8000)])
    began = time.monotonic()
    text = write_musicxml(jig)
    assert time.monotonic() - began < 30.0  # it took minutes
    assert text.count(b"<pitch>") == 8000


@pytest.mark.parametrize("odd", [7919, 999_983])
def test_odd_lengths_are_written_with_divisions_that_fit(odd: int) -> None:
    jig = _jig([(Fraction(i), Fraction(1) - Fraction(1, odd + i)) for i in range(40)])
    root = ET.fromstring(write_musicxml(jig))
    divisions = int(root.findtext(".//divisions") or 0)
    assert 32 <= divisions <= MOST_DIVISIONS
    for measure in root.iter("measure"):
        total = sum(int(d.text or 0) for d in measure.iter("duration"))
        assert total == pytest.approx(4 * divisions, rel=1e-6)
