"""The double stops of a take: ladders with their way, a stop over takes, each line alone."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from jigwright.core.gauge.stop_arrival import beats_track_hz
from jigwright.core.gauge.values import Double
from jigwright.core.judge.doubles import OtherAnswer
from jigwright.core.judge.judging import JudgedNote
from jigwright.core.judge.landings import share_between
from jigwright.core.judge.open_answers import open_answer
from jigwright.core.music.references import pure_interval_cents
from jigwright.core.sound.heard import Pair
from jigwright.core.tone import ToneLine, line_tones
from jigwright.services.practising import PURE_ENOUGH_CENTS, PastNote
from jigwright.ui.painting.two_strings import IntervalLadder
from jigwright.ui.viewmodels.desk.desk_model import DeskModel
from jigwright.wording.catalogue import tr
from jigwright.wording.measures import ratio_text
from jigwright.wording.notes import class_name, letter_name, pitch_name
from jigwright.wording.pages import rung_name

Voice = Literal["lower", "upper"]
_SAME_RUNG_CENTS = 1.0


class StopsModel:
    """Reads the stops of the shown take.

    Parameters
    ----------
    desk : DeskModel
    """

    def __init__(self, desk: DeskModel) -> None:
        self._desk = desk

    def ladders(self) -> tuple[IntervalLadder | None, ...]:
        """A ladder for every double stop, ``None`` for single notes."""
        judged = self._desk.judged
        return () if judged is None else tuple(self._ladder(n) for n in judged.notes)

    def history(self) -> tuple[PastNote, ...]:
        """The selected stop over the takes of the shelf, from pure; empty for a single note."""
        note = self._desk.selected_note()
        return () if note is None or note.double is None else self._desk.past_stops_of_selected()

    def way_back(self) -> tuple[str, float] | None:
        """The selected stop and the share of the way back, after a miss on either side of pure.

        A take whose interval may as well have been pure is no miss.
        """
        note, past = self._desk.selected_note(), self.history()
        if note is None or note.measured.lined.lower is None or len(past) < 2:
            return None
        before, last = past[-2:]
        if any(abs(one.cents) <= one.uncertainty_cents for one in (before, last)):
            return None
        share = share_between(before.cents, last.cents, least_cents=PURE_ENOUGH_CENTS)
        if share is None:
            return None
        lower, upper = class_name(note.measured.lined.lower), class_name(note.pitch)
        return f"{lower}–{upper}", share

    def line(self, voice: Voice) -> NDArray[np.float32]:
        """One line alone as it was played: both notes' own pitches, single notes in both lines.

        Returns
        -------
        ndarray of float32
            At the rate of :mod:`jigwright.core.tone`; empty where nothing was played.
        """
        judged = self._desk.judged
        if judged is None:
            return np.zeros(0, dtype=np.float32)
        lines = [self._tone(n, voice) for n in judged.notes]
        return line_tones([one for one in lines if one is not None])

    def _tone(self, note: JudgedNote, voice: Voice) -> ToneLine | None:
        segment = note.measured.segment
        if segment is None or note.standing == "extra":
            return None
        pair = self._pair(note)
        times, track = np.array([segment.onset_s]), np.array([segment.f0_hz])
        if pair is not None and isinstance(note.measured.double, Double):
            track = pair.lower_track_hz if voice == "lower" else pair.upper_track_hz
            times = pair.times_s
        return ToneLine(
            onset_s=segment.onset_s, offset_s=segment.offset_s, times_s=times, track_hz=track
        )

    def _pair(self, note: JudgedNote) -> Pair | None:
        segment, heard = note.measured.segment, self._desk.heard
        if segment is None or heard is None or segment.i_pair < 0:
            return None
        return heard.pairs[segment.i_pair]

    def _ladder(self, note: JudgedNote) -> IntervalLadder | None:
        double, lined, measured = note.double, note.measured.lined, note.measured.double
        if double is None or lined.lower is None or not isinstance(measured, Double):
            return None
        pure = dict(double.against).get("pure", 0.0)
        rungs = [
            (rung_name(name), pure - off)
            for name, off in double.against
            if name != "pure" and abs(pure - off) > _SAME_RUNG_CENTS
        ]
        if double.purer is not None:
            asked = pure - double.interval_error_cents
            rungs = [(n, c) for n, c in rungs if abs(c - asked) > _SAME_RUNG_CENTS]
            answer = double.lower_answer or double.upper_answer
            rungs.append((ratio_text(answer) if answer is not None else tr("asked"), asked))
        rungs += self._other(open_answer(note, self._desk.take_jig(), self._desk.context()), note)
        way: tuple[tuple[float, float], ...] = ()
        beats: tuple[float, ...] = ()
        pair = self._pair(note)
        if pair is not None and len(pair.times_s) > 1:
            size = pure_interval_cents(lined.lower, note.pitch)
            wide = 1200.0 * np.log2(pair.upper_track_hz / pair.lower_track_hz) - size
            way = tuple((float(t - pair.onset_s), float(c)) for t, c in
                        zip(pair.times_s, wide, strict=True))  # fmt: skip
            if measured.beating_partials != (0, 0):
                beats = tuple(float(b) for b in beats_track_hz(pair, measured.beating_partials))
        return IntervalLadder(
            lower=pitch_name(lined.lower), upper=pitch_name(note.pitch),
            interval_cents=pure, uncertainty_cents=measured.uncertainty_cents,
            rungs=tuple(rungs), beats_hz=measured.beats_hz, balance_db=note.balance.db,
            mover=double.mover, way=way, beats=beats,
        )  # fmt: skip

    def _other(self, found: OtherAnswer | None, note: JudgedNote) -> list[tuple[str, float]]:
        """The rung of the open string on the other side: what pure with that one would be here."""
        if found is None or note.measured.lined.lower is None:
            return []
        conflict = found.conflict
        apart = conflict.second_cents - conflict.first_cents
        heads = {note.measured.lined.lower, note.pitch}
        sounding, other = (
            (conflict.first, conflict.second) if conflict.first in heads
            else (conflict.second, conflict.first)
        )  # fmt: skip
        if sounding not in heads:
            return []
        higher = apart if other == conflict.second else -apart
        wide = higher if conflict.pitch == note.pitch else -higher  # the stopped note is the lower
        return [(tr("pure with {string}").format(string=letter_name(other)), wide)]
