"""Student's t: how far a mean may stray by chance when its scatter was only estimated.

Our own since the window counts with it and loads no SciPy.
"""

from __future__ import annotations

from functools import lru_cache
from math import cos, exp, pi, sin, sqrt
from statistics import NormalDist


@lru_cache(maxsize=1024)
def student_limit(chance: float, freedom: int) -> float:
    """Student's t that is passed with this chance on either side together.

    Exact for one and two degrees of freedom, else Hill's expansion (1970, *Algorithm 396*), within
    one in a hundred thousand.

    Parameters
    ----------
    chance : float
        Of both sides, between 0 and 1.
    freedom : int
        Degrees of freedom, from 1 on.

    Raises
    ------
    ValueError
        Outside of these.
    """
    n = float(freedom)
    if not 0.0 < chance < 1.0 or n < 1.0:
        raise ValueError(f"no t for a chance of {chance} and {freedom} degrees of freedom")
    if freedom == 1:
        return cos(0.5 * pi * chance) / sin(0.5 * pi * chance)
    if freedom == 2:
        return sqrt(2.0 / (chance * (2.0 - chance)) - 2.0)
    a = 1.0 / (n - 0.5)
    b = 48.0 / a**2
    c = ((20700.0 * a / b - 98.0) * a - 16.0) * a + 96.36
    d = ((94.5 / (b + c) - 3.0) / b + 1.0) * sqrt(0.5 * a * pi) * n
    x = d * chance
    y = x ** (2.0 / n)
    if y <= 0.05 + a:
        y = ((1.0 / (((n + 6.0) / (n * y) - 0.089 * d - 0.822) * (n + 2.0) * 3.0)
              + 0.5 / (n + 4.0)) * y - 1.0) * (n + 1.0) / (n + 2.0) + 1.0 / y  # fmt: skip
        return sqrt(n * y)
    x = NormalDist().inv_cdf(0.5 * chance)
    y = x * x
    if n < 5.0:
        c += 0.3 * (n - 4.5) * (x + 0.6)
    c += (((0.05 * d * x - 5.0) * x - 7.0) * x - 2.0) * x + b
    y = (((((0.4 * y + 6.3) * y + 36.0) * y + 94.5) / c - y - 3.0) / b + 1.0) * x
    return sqrt(n * (exp(a * y * y) - 1.0))
