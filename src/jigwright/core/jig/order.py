"""The order in which bars are played: repeats, endings, and jumps; and a jig written out so."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from jigwright.core.errors import JigError
from jigwright.core.jig.model import MOST_EVENTS, Bar, Change, Event, Jig
from jigwright.core.jig.signs import Sign, in_order

MOST_PLAYED_BARS = 20_000
_TWICE = 2
_OF_THE_WAY = ("repeat", "ending", "jump")


@dataclass(frozen=True, slots=True)
class _Ending:
    first: int
    stop: int  # one past the last bar
    passes: frozenset[int]


class _Way:
    """Signs of the way by bar."""

    def __init__(self, jig: Jig, bars: Sequence[Bar]) -> None:
        self._starts = [b.start_beats for b in bars]
        self._n = len(bars)
        self.forward: set[int] = set()
        self.backward: dict[int, int] = {}
        self.after: dict[int, set[str]] = {}
        self.at: dict[str, int] = {}
        self.endings: dict[int, _Ending] = {}
        for sign in jig.signs:
            if sign.kind == "repeat" and sign.text == "forward":
                self.forward.add(self._bar(sign.at_beats))
            elif sign.kind == "repeat":
                self.backward[self._bar_before(sign.at_beats)] = max(1, int(sign.value or _TWICE))
            elif sign.kind == "ending":
                self._ending(sign)
            elif sign.kind == "jump" and sign.text in ("segno", "coda"):
                self.at[sign.text] = self._bar(sign.at_beats)
            elif sign.kind == "jump":
                self.after.setdefault(self._bar_before(sign.at_beats), set()).add(sign.text)

    def _bar(self, beats: Fraction) -> int:
        return max(0, bisect_right(self._starts, beats) - 1)

    def _bar_before(self, beats: Fraction) -> int:
        """The bar that a sign at a moment closes; inside a bar it is that one."""
        return max(0, bisect_left(self._starts, beats) - 1) if beats > 0 else 0

    def _ending(self, sign: Sign) -> None:
        first = self._bar(sign.at_beats)
        end = sign.end_beats if sign.end_beats is not None else sign.at_beats
        stop = self._bar_before(end) + 1 if end > sign.at_beats else first + 1
        numbers = frozenset(int(w) for w in sign.text.replace(",", " ").split() if w.isdigit())
        self.endings[first] = _Ending(first, stop, numbers or frozenset({1}))

    def is_last_ending(self, ending: _Ending) -> bool:
        """No other ending follows at once."""
        return ending.stop not in self.endings


def playing_order(jig: Jig) -> tuple[int, ...]:
    """Indices into :meth:`~jigwright.core.jig.model.Jig.bars` as they are played.

    A section is played twice, or as often as its repeat says, each ending in its own passes; after
    a jump back repeats are left out and the last endings taken, up to *fine* or by way of the coda.
    """
    bars = jig.bars()
    way = _Way(jig, bars)
    order: list[int] = []
    i, section, run, jumped = 0, 0, 1, False
    while i < len(bars) and len(order) < MOST_PLAYED_BARS:
        if i in way.forward and i != section:
            section, run = i, 1
        ending = way.endings.get(i)
        if ending is not None:
            meant = way.is_last_ending(ending) if jumped else run in ending.passes
            if not meant and ending.stop > i:
                i = ending.stop
                continue
        order.append(i)
        after = way.after.get(i, set())
        if jumped and "fine" in after:
            break
        if jumped and "tocoda" in after and way.at.get("coda", -1) > i:
            i = way.at["coda"]
            continue
        if i in way.backward and not jumped and run < way.backward[i]:
            i, run = section, run + 1
            continue
        if i in way.backward:
            section, run = i + 1, 1
        if not jumped and after & {"dacapo", "dalsegno"}:
            jumped = True
            i = way.at.get("segno", 0) if "dalsegno" in after else 0
            continue
        i += 1
    return tuple(order)


def has_repeats(jig: Jig) -> bool:
    """Whether it is played in another order than it is written."""
    return any(s.kind in ("repeat", "jump") for s in jig.signs) and playing_order(jig) != tuple(
        range(len(jig.bars()))
    )


def written_out(jig: Jig, *, jig_id: str, title: str) -> Jig:
    """A jig with every bar written as often as it is played; bars keep their numbers.

    The first time through notes keep their ids.

    Raises
    ------
    JigError
        If it would be too long.
    """
    bars, order = jig.bars(), playing_order(jig)
    onsets = [e.onset_beats for e in jig.events]
    times = [s.at_beats for s in jig.signs]
    events: list[Event] = []
    signs: list[Sign] = []
    changes: list[Change] = []
    at = Fraction(0)
    passes: dict[int, int] = {}
    before: Bar | None = None
    for k in order:
        bar = bars[k]
        end = bar.start_beats + bar.length_beats
        passes[k] = passes.get(k, 0) + 1
        by = at - bar.start_beats
        first, stop = bisect_left(onsets, bar.start_beats), bisect_left(onsets, end)
        events += [_again(e, by, passes[k]) for e in jig.events[first:stop]]
        first, stop = bisect_left(times, bar.start_beats), bisect_left(times, end)
        signs += [_later(s, by) for s in jig.signs[first:stop] if s.kind not in _OF_THE_WAY]
        changes.append(_change(before, bar, at))
        before = bar
        at += bar.length_beats
    if len(events) > MOST_EVENTS:
        raise JigError(f"too many notes: {len(events)} (at most {MOST_EVENTS})")
    length = max((e.end_beats for e in events), default=Fraction(0))
    return replace(
        jig, id=jig_id, revision=1, title=title, events=_untangled(events), aims=(),
        derived_from=(jig.id, jig.revision), signs=in_order(signs),
        changes=tuple(c for c in changes if c is not None), pickup_beats=Fraction(0),
        silence_beats=max(Fraction(0), at - length),
    )  # fmt: skip


def _later(sign: Sign, by: Fraction) -> Sign:
    end = None if sign.end_beats is None else sign.end_beats + by
    return replace(sign, at_beats=sign.at_beats + by, end_beats=end)


def _again(event: Event, by: Fraction, time: int) -> Event:
    if time == 1:
        return replace(event, onset_beats=event.onset_beats + by)
    return replace(
        event, id=f"{event.id}.r{time}", onset_beats=event.onset_beats + by,
        heads=tuple(replace(h, id=f"{h.id}.r{time}", replaces=h.id) for h in event.heads),
    )  # fmt: skip


def _change(before: Bar | None, bar: Bar, at: Fraction) -> Change:
    """Everything a bar is, said where it begins."""
    full = Fraction(bar.metre[0] * 4, bar.metre[1])
    return Change(
        at_beats=at, number=bar.number,
        key=bar.key if before is None or before.key != bar.key else None,
        metre=bar.metre if before is None or before.metre != bar.metre else None,
        bar_beats=bar.length_beats if bar.length_beats != full else None,
    )  # fmt: skip


def _untangled(events: Sequence[Event]) -> tuple[Event, ...]:
    """Notes that reached over a bar line which is now another end there."""
    made = []
    for event, after in zip(events, [*events[1:], None], strict=True):
        if after is not None and event.end_beats > after.onset_beats:
            event = replace(event, length_beats=after.onset_beats - event.onset_beats)
        made.append(event)
    return tuple(e for e in made if e.length_beats > 0)
