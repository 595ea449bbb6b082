"""Translation by gettext; English is built in."""

from __future__ import annotations

import gettext
import re
from importlib import resources
from typing import Any

LANGUAGES = (("en", "English"), ("de", "Deutsch"))
_current: gettext.NullTranslations = gettext.NullTranslations()
_language = "en"
_COMMA = ("de",)
_NUMBER = re.compile(r"^[−+-]?\d+\.\d+$")
_POINT = re.compile(r"(?<=\d)\.(?=\d)")


class _Pseudo(gettext.NullTranslations):
    """A made-up language that marks every wrapped text, to find unwrapped ones."""

    def gettext(self, message: str) -> str:
        return f"⟦{message}⟧"

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return f"⟦{msgid1 if n == 1 else msgid2}⟧"


def use_language(language: str) -> None:
    """Choose the language of all following sentences; unknown ones fall back to English."""
    global _current, _language
    _language = language
    if language == "pseudo":
        _current = _Pseudo()
        return
    folder = resources.files("jigwright.wording").joinpath("catalogues")
    _current = gettext.translation(
        "jigwright", localedir=str(folder), languages=[language], fallback=True
    )


def language_now() -> str:
    """Code of the language in use."""
    return _language


class _WithComma(str):
    """A sentence whose numbers get the decimal comma of its language."""

    __slots__ = ()

    def format(self, *values: Any, **fields: Any) -> str:
        """Fill the fields in; what is a number with a point is written with a comma."""
        return str.format(
            self, *(_comma(v) for v in values), **{k: _comma(v) for k, v in fields.items()}
        )


def _comma(value: Any) -> Any:
    return value.replace(".", ",") if isinstance(value, str) and _NUMBER.match(value) else value


def with_comma(text: str) -> str:
    """Figures that stand outside a sentence, with the decimal comma of the language."""
    return _POINT.sub(",", text) if _language in _COMMA else text


def tr(message: str) -> str:
    """Translate a sentence."""
    said = _current.gettext(message)
    return _WithComma(said) if _language in _COMMA else said


def trn(one: str, many: str, n: int) -> str:
    """Translate a sentence with a count."""
    said = _current.ngettext(one, many, n)
    return _WithComma(said) if _language in _COMMA else said
