"""The shelf of jigs: what lies under what, what was played last, what is searched for.

Stars and the bin are marks beside the jigs; nothing is deleted, takes keep their jig.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

from jigwright.core.jig.model import Jig
from jigwright.core.jig.spot_path import is_step
from jigwright.services.studio_port import JigStore, SettingStore, StudioPort

SETTING = "library"


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryMarks:
    """What the players did with their jigs.

    Parameters
    ----------
    starred, binned : frozenset of str
        Ids.
    """

    starred: frozenset[str] = frozenset()
    binned: frozenset[str] = frozenset()

    def with_star(self, jig_id: str) -> LibraryMarks:
        """Set a star, or take it away again."""
        return replace(self, starred=self.starred ^ {jig_id})

    def with_binned(self, jig_ids: set[str]) -> LibraryMarks:
        """Put jigs into the bin."""
        return replace(self, binned=self.binned | jig_ids)

    def without_binned(self, jig_ids: set[str]) -> LibraryMarks:
        """Bring jigs back."""
        return replace(self, binned=self.binned - jig_ids)


class ShelfStore(JigStore, SettingStore, Protocol):
    """What the shelf needs of a studio."""


def read_marks(studio: ShelfStore) -> LibraryMarks:
    """Marks as they were kept; what cannot be read is no mark."""
    try:
        body = json.loads(studio.setting(SETTING) or "{}")
        return LibraryMarks(starred=_ids(body, "starred"), binned=_ids(body, "binned"))
    except (ValueError, AttributeError):
        return LibraryMarks()


def _ids(body: dict[str, object], name: str) -> frozenset[str]:
    rows = body.get(name)
    if not isinstance(rows, list):
        return frozenset()
    return frozenset(r for r in rows if isinstance(r, str))


def keep_marks(studio: StudioPort, marks: LibraryMarks) -> None:
    """Keep them for the next start."""
    body = {"starred": sorted(marks.starred), "binned": sorted(marks.binned)}
    studio.set_setting(SETTING, json.dumps(body))


def on_the_shelf(studio: ShelfStore) -> tuple[Jig, ...]:
    """Newest revisions of the jigs that are not in the bin: what is offered and planned."""
    binned = read_marks(studio).binned
    return tuple(j for j in studio.jigs() if j.id not in binned and not is_step(j.id))


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryRow:
    """One jig on the shelf.

    Parameters
    ----------
    jig : Jig
    depth : int
        0, or 1 under the piece it was made out of.
    n_takes : int
    last_utc : str
        Of the last take; empty if there is none.
    starred : bool
    """

    jig: Jig
    depth: int
    n_takes: int
    last_utc: str
    starred: bool


def played_when(studio: StudioPort) -> dict[str, tuple[int, str]]:
    """Number of takes of every jig and when the last one was recorded."""
    found: dict[str, tuple[int, str]] = {}
    for take in studio.takes():
        if take.jig_id is not None:
            n, last = found.get(take.jig_id, (0, ""))
            found[take.jig_id] = n + 1, max(last, take.recorded_utc)
    return found


def shelf(
    jigs: Sequence[Jig], played: Mapping[str, tuple[int, str]], marks: LibraryMarks, *,
    words: str = "", told: Callable[[Jig], str] | None = None, of_the_bin: bool = False,
) -> tuple[LibraryRow, ...]:  # fmt: skip
    """Jigs in the order in which they lie on the shelf.

    What was made out of another lies under it. Starred ones come first, then what was played last;
    what was never played comes after, by title.

    Parameters
    ----------
    jigs : sequence of Jig
        Newest revisions.
    played : mapping
        As :func:`played_when` gives it.
    marks : LibraryMarks
    words : str
        All of them must stand in what is told of a jig; spots that do bring their piece along.
    told : callable, optional
        What can be searched of a jig; its title otherwise.
    of_the_bin : bool
        Show what lies in the bin, not what stands on the shelf.
    """
    there = {j.id: j for j in jigs if (j.id in marks.binned) == of_the_bin and not is_step(j.id)}
    wanted = words.casefold().split()

    def fits(jig: Jig) -> bool:
        text = (told(jig) if told is not None else jig.title).casefold()
        return all(w in text for w in wanted)

    families: dict[str, list[Jig]] = {}
    for jig in there.values():
        families.setdefault(_root(jig, there), []).append(jig)

    def last(jig: Jig) -> str:
        return played.get(jig.id, (0, ""))[1]

    def order(jig: Jig) -> tuple[bool, str]:
        return jig.id in marks.starred, last(jig)

    rows: list[LibraryRow] = []
    by_family = sorted(families.items(), key=lambda f: there[f[0]].title.casefold())
    by_family.sort(
        key=lambda f: (
            any(j.id in marks.starred for j in f[1]), max(last(j) for j in f[1]),
        ),
        reverse=True,
    )  # fmt: skip
    for root, members in by_family:
        found = [j for j in members if fits(j)]
        if not found:
            continue
        below = sorted((j for j in found if j.id != root), key=lambda j: j.title.casefold())
        below.sort(key=order, reverse=True)
        for depth, jig in ((0, there[root]), *((1, j) for j in below)):
            n, when = played.get(jig.id, (0, ""))
            rows.append(
                LibraryRow(
                    jig=jig, depth=depth, n_takes=n, last_utc=when,
                    starred=jig.id in marks.starred,
                )
            )  # fmt: skip
    return tuple(rows)


def _root(jig: Jig, there: Mapping[str, Jig]) -> str:
    """The piece that a jig was made out of in the end, as far as that is there."""
    seen = {jig.id}
    while jig.derived_from is not None and jig.derived_from[0] in there:
        jig = there[jig.derived_from[0]]
        if jig.id in seen:
            break
        seen.add(jig.id)
    return jig.id
