"""Where notes stand after some of them were left out."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from jigwright.core.sound.heard import Segment

Kept = tuple[tuple[Segment, ...], dict[int, int]]
"""The notes that are left, and where each of them stands now."""


def but_for(segments: Sequence[Segment], left: Collection[int]) -> Kept:
    """Notes but for some.

    Parameters
    ----------
    segments : sequence of Segment
    left : collection of int
        Indices of those that are left out.
    """
    kept = [i for i in range(len(segments)) if i not in left]
    return tuple(segments[i] for i in kept), {i: k for k, i in enumerate(kept)}


def then(first: Mapping[int, int], after: Mapping[int, int]) -> dict[int, int]:
    """Places after two steps; what either of them left out has none."""
    return {i: after[k] for i, k in first.items() if k in after}
