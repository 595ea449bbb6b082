"""Whatever comes in: the whole chain over thousands of sounds that nobody tuned anything to.

Prints what was tried, how often something raised, and how often one part failed and was refused.
Warnings count as errors. Passages by other makers are looked for in ``$JIGWRIGHT_PASSAGES``, by
default ``../shared/passages``.

    python bench/anything.py [--cases 2000] [--seed 0] [--jobs 2]
"""

from __future__ import annotations

import argparse
import logging
import sys
import time
import traceback
import warnings
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from jigwright.core.isolation import LOGGER
from random_sound import any_case, whole_chain

FAMILIES = ("tones", "pieces of passages", "simulated player", "no music")


class _Collect(logging.Handler):
    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.lines.append(record.getMessage())


def run(seed: int) -> tuple[int, str, list[str], float]:
    """One case: what raised, what was refused, seconds."""
    warnings.simplefilter("error")
    collect = _Collect()
    LOGGER.addHandler(collect)
    LOGGER.propagate = False
    began, raised = time.monotonic(), ""
    try:
        whole_chain(any_case(seed))
    except Exception as error:
        last = traceback.extract_tb(error.__traceback__)[-1]
        raised = f"{type(error).__name__}: {error} ({Path(last.filename).name}:{last.lineno})"
    LOGGER.removeHandler(collect)
    return seed, raised, collect.lines, time.monotonic() - began


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--jobs", type=int, default=2)
    options = parser.parse_args()
    seeds = range(options.seed, options.seed + options.cases)
    with ProcessPoolExecutor(options.jobs, mp_context=get_context("spawn")) as pool:
        results = list(pool.map(run, seeds, chunksize=8))
    print(f"{'family':<20}{'tried':>7}{'raised':>8}{'refused':>9}{'slowest s':>11}")
    for k, name in enumerate(FAMILIES):
        mine = [r for r in results if r[0] % 4 == k]
        raised = sum(bool(r[1]) for r in mine)
        refused = sum(bool(r[2]) for r in mine)
        slowest = max((r[3] for r in mine), default=0.0)
        print(f"{name:<20}{len(mine):>7}{raised:>8}{refused:>9}{slowest:>11.1f}")
    for title, lines in (
        ("raised", Counter(f"{r[1]} seed {r[0]}" for r in results if r[1])),
        ("refused", Counter(line for r in results for line in r[2])),
    ):
        for line, n in lines.most_common(30):
            print(f"{title} {n}: {line[:220]}")
    return 1 if any(r[1] or r[2] for r in results) else 0


if __name__ == "__main__":
    sys.exit(main())
