"""Translation by gettext; English is built in."""

from __future__ import annotations

import gettext
from importlib import resources

LANGUAGES = (("en", "English"), ("de", "Deutsch"))
_current: gettext.NullTranslations = gettext.NullTranslations()
_language = "en"


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


def tr(message: str) -> str:
    """Translate a sentence."""
    return _current.gettext(message)


def trn(one: str, many: str, n: int) -> str:
    """Translate a sentence with a count."""
    return _current.ngettext(one, many, n)
