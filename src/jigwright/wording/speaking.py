"""Sentences as they are spoken: signs become words."""

from __future__ import annotations

import re

from jigwright.wording.catalogue import tr

_FIGURE = re.compile(r"(?<=\d)\s*c\b")


def spoken(*sentences: str) -> str:
    """What is said aloud of some sentences.

    Sharps and flats, plus and minus, cents and dots are said in words; empty ones are left out.
    """
    text = ". ".join(s.strip().rstrip(".") for s in sentences if s.strip())
    for sign, word in (
        ("♯", " " + tr("sharp")), ("♭", " " + tr("flat")), ("♮", ""), (" · ", ", "),
        ("±", tr("plus or minus") + " "), ("−", tr("minus") + " "), ("–", " "),
    ):  # fmt: skip
        text = text.replace(sign, word)
    text = _FIGURE.sub(" " + tr("cents"), text)
    return re.sub(r"\s+", " ", text).strip() + ("." if text else "")


def no_voice_sentence() -> str:
    """Why nothing is spoken."""
    return tr(
        "There is no voice on this computer. Speech Dispatcher with a synthesiser such as eSpeak "
        "gives one."
    )
