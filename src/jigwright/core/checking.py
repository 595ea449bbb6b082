"""Values from outside are checked by value before anything is made of them.

Every refusal says which field it is about, what stood there and what is meant. Nothing here trusts
a type, a size or a number: JSON may hold integers of five thousand digits, ``NaN``, texts that
cannot be stored, and ten thousand nested lists.
"""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from jigwright.core.errors import FieldError

MOST_DEPTH = 40
MOST_DIGITS = 100
_MOST_FRACTION = 40
_MOST_DENOMINATOR = 1_000_000
_SHOWN = 40


def read_json(text: str, *, what: str) -> Any:
    """Parse JSON whose numbers are finite and fit, and whose texts can be stored.

    Parameters
    ----------
    text : str
    what : str
        Name of the file or part, for the refusal.

    Raises
    ------
    FieldError
    """
    try:
        body = json.loads(text, parse_int=_integer, parse_float=_float, parse_constant=_constant)
    except RecursionError:
        raise FieldError(what, "lists within lists", "less depth") from None
    except ValueError as error:
        raise FieldError(what, str(error)[:80], "JSON") from None
    _check_tree(body, what, 0)
    return body


def _integer(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise ValueError(f"a number of {len(digits)} digits")
    return int(digits)


def _float(digits: str) -> float:
    value = float(digits)
    if not math.isfinite(value):
        raise ValueError(f"a number that does not fit: {digits[:20]}")
    return value


def _constant(name: str) -> float:
    raise ValueError(f"{name} is no number")


def _check_tree(value: Any, where: str, depth: int) -> None:
    if depth > MOST_DEPTH:
        raise FieldError(where, "lists within lists", "less depth")
    if isinstance(value, dict):
        for name, inner in value.items():
            _storable(name, where)
            _check_tree(inner, f"{where}: {name}" if depth == 0 else f"{where}.{name}", depth + 1)
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            _check_tree(inner, f"{where}[{i}]", depth + 1)
    elif isinstance(value, str):
        _storable(value, where)


def _storable(text: str, where: str) -> None:
    try:
        text.encode("utf-8")
    except UnicodeEncodeError:
        raise FieldError(where, "half a character", "text that can be stored") from None
    if "\0" in text:
        raise FieldError(where, "a zero byte", "text that can be stored")


def field(row: Any, name: str, where: str) -> Any:
    """A field of a JSON object.

    Raises
    ------
    FieldError
        If it is not there, or there is no object.
    """
    if not isinstance(row, dict):
        raise FieldError(where, _show(row), "an object")
    if name not in row:
        raise FieldError(f"{where}.{name}", "nothing", "a value")
    return row[name]


def rows_of(value: Any, where: str, most: int) -> list[Any]:
    """A list of at most so many.

    Raises
    ------
    FieldError
    """
    if not isinstance(value, list):
        raise FieldError(where, _show(value), "a list")
    if len(value) > most:
        raise FieldError(where, f"{len(value)} entries", f"at most {most}")
    return value


def whole(value: Any, where: str, low: int, high: int) -> int:
    """A whole number in a range.

    Raises
    ------
    FieldError
    """
    if not isinstance(value, int) or isinstance(value, bool) or not low <= value <= high:
        raise FieldError(where, _show(value), f"a whole number from {low} to {high}")
    return value


def number(value: Any, where: str, low: float, high: float) -> float:
    """A finite number in a range.

    Raises
    ------
    FieldError
    """
    fits = isinstance(value, (int, float)) and not isinstance(value, bool)
    if not fits or not math.isfinite(value) or not low <= value <= high:
        raise FieldError(where, _show(value), f"a number from {low:g} to {high:g}")
    return float(value)


def flag(value: Any, where: str) -> bool:
    """True or false.

    Raises
    ------
    FieldError
    """
    if not isinstance(value, bool):
        raise FieldError(where, _show(value), "true or false")
    return value


def words(value: Any, where: str, most: int) -> str:
    """Text that can be stored and printed, shortened; what cannot be printed is left out.

    Raises
    ------
    FieldError
    """
    if not isinstance(value, str):
        raise FieldError(where, _show(value), "text")
    _storable(value, where)
    return "".join(c for c in value if c.isprintable())[:most]


def identity(value: Any, where: str, most: int = 200) -> str:
    """An id: printable text that is not empty, kept as it is.

    Raises
    ------
    FieldError
    """
    if not isinstance(value, str) or not 1 <= len(value) <= most or not value.isprintable():
        raise FieldError(where, _show(value), f"an id of 1 to {most} printable characters")
    _storable(value, where)
    return value


def one_of(value: Any, where: str, known: Sequence[object]) -> Any:
    """One of a few known values.

    Raises
    ------
    FieldError
    """
    if not any(value == k and type(value) is type(k) for k in known):
        meant = ", ".join("nothing" if k is None else str(k) for k in known)
        raise FieldError(where, _show(value), f"one of {meant}")
    return value


def beats(value: Any, where: str, low: int, high: int) -> Fraction:
    """A length in quarter notes as an exact fraction, ``"3/2"``.

    Raises
    ------
    FieldError
    """
    meant = f"beats from {low} to {high}, such as 3/2"
    text = str(value) if isinstance(value, (str, int)) and not isinstance(value, bool) else ""
    if not 1 <= len(text) <= _MOST_FRACTION or "e" in text.lower():
        raise FieldError(where, _show(value), meant)
    try:
        found = Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise FieldError(where, _show(value), meant) from None
    if not low <= found <= high or found.denominator > _MOST_DENOMINATOR:
        raise FieldError(where, _show(value), meant)
    return found


def _show(value: Any) -> str:
    return repr(value)[:_SHOWN] if not isinstance(value, (list, dict)) else type(value).__name__
