"""Claims over takes under their own null: players without a habit, series without a change.

Habits, change points and plateaus are asked of made-up players who have none, and of players who
have one, as often as is needed to see one in a hundred.

    python bench/claims.py [--players 300] [--seed 0]
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from jigwright.core.judge.habits import find_habits
from jigwright.core.judge.trend import find_change, stands_still

TOLERANCE_CENTS = 10.0
SPREAD_CENTS = 8.0
N_PLACES, N_TAKES, THE_ONE = 15, 12, 3


def takes_of(
    rng: np.random.Generator, *, twice: bool, alike: float, take_cents: float, habit_cents: float
) -> tuple[list[dict[str, float]], dict[str, int]]:
    """Landings of a scale of two octaves, by take, and the place of each note.

    Parameters
    ----------
    twice : bool
        Up and down, or once.
    alike : float
        Share of the variance that a place's landings of one take have in common.
    take_cents : float
        Standard deviation of what all notes of a take have in common.
    habit_cents : float
        Of one place.
    """
    notes = [
        (place, k)
        for place in range(N_PLACES)
        for k in range(2 if twice and place < N_PLACES - 1 else 1)
    ]
    takes = []
    for _ in range(N_TAKES):
        of_place = rng.normal(0, SPREAD_CENTS * np.sqrt(alike), N_PLACES)
        whole = rng.normal(0, take_cents)
        takes.append(
            {
                f"{p:02}.{k}": float(
                    whole + of_place[p] + rng.normal(0, SPREAD_CENTS * np.sqrt(1 - alike))
                    + habit_cents * (p == THE_ONE)
                )
                for p, k in notes
            }
        )  # fmt: skip
    return takes, {f"{p:02}.{k}": p for p, k in notes}


def habits(n: int, seed: int) -> None:
    """Players with and without a habit of 10 cents."""
    print(f"| exercise | alike | take effect, c | told of none, of {n} | told of a habit |")
    print("|---|---|---|---|---|")
    for twice, alike in ((False, 0.0), (True, 0.0), (True, 0.5), (True, 0.9)):
        for take_cents in (0.0, 5.0, 10.0):
            rng = np.random.default_rng([seed, int(10 * alike), int(take_cents), twice])
            false = found = 0
            for _ in range(n):
                takes, places = takes_of(
                    rng, twice=twice, alike=alike, take_cents=take_cents, habit_cents=0.0
                )
                false += bool(find_habits(takes, tolerance_cents=TOLERANCE_CENTS, places=places))
                takes, places = takes_of(
                    rng, twice=twice, alike=alike, take_cents=take_cents, habit_cents=10.0
                )
                told = find_habits(takes, tolerance_cents=TOLERANCE_CENTS, places=places)
                found += any(places[h.note_ids[0]] == THE_ONE for h in told)
            name = "up and down" if twice else "once"
            print(f"| {name} | {alike:g} | {take_cents:g} | {false} | {100 * found / n:.0f} % |")
            sys.stdout.flush()


def series(
    rng: np.random.Generator, *, n_days: int, per_day: int, day_effect: float, along: float
) -> tuple[NDArray[np.float64], list[str]]:
    """A figure of takes with a common part of each day, and each take like the one before."""
    n = n_days * per_day
    own = np.zeros(n)
    for i in range(n):
        own[i] = along * own[i - 1] + rng.normal(0, np.sqrt(1 - along**2)) if i else rng.normal()
    values = own + np.repeat(rng.normal(0, 1, n_days) * day_effect, per_day)
    return values, [f"d{d:03}" for d in range(n_days) for _ in range(per_day)]


def changes(n: int, seed: int) -> None:
    """Series without a change and with one of 2.5 deviations in the middle."""
    print(
        f"| days | day effect | AR | claimed of {n} without | of {n} with |\n|---|---|---|---|---|"
    )
    for n_days in (12, 20):
        for day_effect in (0.0, 1.0):
            for along in (0.0, 0.3):
                rng = np.random.default_rng([seed, n_days, int(day_effect), int(10 * along)])
                false = found = 0
                for _ in range(n):
                    y, days = series(
                        rng, n_days=n_days, per_day=4, day_effect=day_effect, along=along
                    )
                    false += find_change(list(y), days) is not None
                    y[len(y) // 2 :] += 2.5
                    found += find_change(list(y), days) is not None
                print(f"| {n_days} | {day_effect:g} | {along:g} | {false} | {found} |", flush=True)


def plateaus(n: int, seed: int) -> None:
    """Players who gain a quarter in sixteen days, and players who stand still."""
    print(f"| day effect | told to stand still, of {n} who gain | of {n} who do |\n|---|---|---|")
    for day_effect in (0.0, 1.0):
        rng = np.random.default_rng([seed, int(day_effect)])
        told = []
        for gain in (0.25, 0.0):
            count = 0
            for _ in range(n):
                y, days = series(rng, n_days=16, per_day=4, day_effect=day_effect, along=0.0)
                figure = 10.0 * (1.0 - gain * np.linspace(0, 1, len(y)))
                count += stands_still(list(figure + 0.6 * y), days)
            told.append(count)
        print(f"| {day_effect:g} | {told[0]} | {told[1]} |", flush=True)


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the bench."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--players", type=int, default=300)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args(arguments)
    looks: tuple[Callable[[int, int], None], ...] = (habits, changes, plateaus)
    for look in looks:
        look(options.players, options.seed)
        print()
    return 0


if __name__ == "__main__":
    sys.exit(main())
